package step_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

var pages = []string{
	"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
	"renew-cam-chain-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-timing-chain-r1.latch.json",
	"check-valve-timing-r1.latch.json", "open-timing-drive-r1.latch.json", "close-timing-drive-r1.latch.json",
}

// eachStep calls f for every step of the demo's pages.
func eachStep(f func(x *engine.Index, s *step.Step)) {
	for _, name := range pages {
		d := fixture.Document(name)
		x := engine.NewIndex(&d.Engine)
		for i := range d.Procedure.Steps {
			f(x, &d.Procedure.Steps[i])
		}
	}
}

func written(t *testing.T, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

// Renamed to what they are called, things stay; renamed there and back, too; and
// renamed away, a step names none. A clone leaves the step it is of alone.
func TestRenaming(t *testing.T) {
	verbs := map[step.Verb]bool{}
	eachStep(func(x *engine.Index, s *step.Step) {
		verbs[s.Action.Verb()] = true
		before := written(t, s.Action)
		a := step.Clone(s.Action)
		step.Rename(a, func(_, id string) string { return id })
		require.Equal(t, before, written(t, a))
		refs := step.Refs(a)
		seen := 0
		step.Rename(a, func(list, id string) string {
			seen++
			assert.True(t, x.Sheet.Has(list, id), "%s/%s", list, id)
			return "x-" + id
		})
		require.Equal(t, len(refs), seen, "every thing a step names is renamed")
		for k, r := range step.Refs(a) {
			require.Equal(t, "x-"+refs[k].ID, r.ID)
		}
		step.Rename(a, func(_, id string) string { return id[2:] })
		require.Equal(t, before, written(t, a))
		step.Rename(a, func(string, string) string { return "" })
		require.Empty(t, step.Refs(a))
		require.Equal(t, before, written(t, s.Action), "what was cloned stays as it was")
	})
	assert.Greater(t, len(verbs), 20)
}

// What a step works at is some of what it names, and never what only holds or turns.
func TestWhatAStepWorksAt(t *testing.T) {
	x := engine.NewIndex(&fixture.Document(pages[0]).Engine)
	lex := quickline.NewLexicon(x)
	for line, want := range map[string][]engine.Ref{
		"tighten exhaust sprocket bolt 60 Nm + 90 deg hold with sprocket holder":  {{Kind: engine.KindFastener, ID: "exhaust-sprocket-bolt"}},
		"slacken crank bolt hold with flywheel lock":                              {{Kind: engine.KindFastener, ID: "crank-bolt"}},
		"turn crank 2 turns on crank bolt":                                        nil,
		"fit new timing belt, crank → idler → exhaust → inlet → pump → tensioner": {{Kind: engine.KindLoop, ID: "timing-belt"}},
		"fit crank pin and cam bar":                                               {{Kind: engine.KindLock, ID: "crank-pin"}, {Kind: engine.KindLock, ID: "cam-bar"}},
		"check inlet cam mark and exhaust cam mark stand":                         {{Kind: engine.KindMark, ID: "inlet-mark"}, {Kind: engine.KindMark, ID: "exhaust-mark"}},
		"set tensioner counterclockwise to pointer in notch at 20 °C":             {{Kind: engine.KindTensioner, ID: "tensioner"}},
		"wait 15 min": nil,
	} {
		r := quickline.Read(lex, line)
		require.Empty(t, r.Problem, line)
		got := step.Worked(r.Action)
		for k := range got {
			if got[k].Kind == engine.KindShaft {
				got = slices.Delete(got, k, k+1) // the crank, as it stands or by default
				break
			}
		}
		assert.Equal(t, want, slices.Clip(got), line)
	}
	eachStep(func(_ *engine.Index, s *step.Step) {
		all := step.Refs(s.Action)
		for _, w := range step.Worked(s.Action) {
			assert.Contains(t, all, w)
		}
	})
}

// Every text that an author types freely is given, and no other: nothing that a field
// chooses, and no identifier.
func TestFreeTexts(t *testing.T) {
	eachStep(func(_ *engine.Index, s *step.Step) {
		var raw map[string]any
		require.NoError(t, json.Unmarshal([]byte(written(t, s.Action)), &raw))
		var want []string
		for _, f := range step.SpecOf(s.Action.Verb()).Fields {
			if v, ok := raw[f.Key].(string); ok && f.Kind == step.TextIn && v != "" {
				want = append(want, v)
			}
		}
		assert.ElementsMatch(t, want, step.FreeTexts(s.Action), "%s", s.ID)
		a := step.Clone(s.Action)
		step.EachText(a, func(v string) string { return v + "!" })
		for _, v := range step.FreeTexts(a) {
			assert.Contains(t, v, "!")
		}
		n := 0
		step.EachTurns(a, func(v float64) float64 { n++; return v + 1 })
		turns, has := raw["turns"].(float64)
		require.Equal(t, has, n == 1)
		if has {
			require.NoError(t, json.Unmarshal([]byte(written(t, a)), &raw))
			assert.InDelta(t, turns+1, raw["turns"], 0)
		}
	})
	assert.Equal(t, []string{"tl-101", "and", "42", "n", "m"}, step.WordsOf("TL-101, and 42 N·m."))
}
