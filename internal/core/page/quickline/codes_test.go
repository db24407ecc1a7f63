package quickline_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

var procedures = []string{
	"renew-timing-belt-r3.latch.json", "check-valve-timing-r1.latch.json", "renew-belt-in-oil-r1.latch.json",
	"renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-cam-chain-r1.latch.json",
	"renew-belts-at-rest-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
	"renew-chain-unkeyed-r1.latch.json", "renew-belt-spring-set-r1.latch.json", "set-pump-by-lift-r1.latch.json",
	"strip-head-r1.latch.json", "lay-in-camshaft-r1.latch.json", "tension-cam-chain-r1.latch.json",
}

// Whatever a row says, typed again as a quick line, is the same step: for every
// step of every procedure of the demo but those whose rows leave something out
// that only the editor shows.
func TestARowTypedAgainIsTheSameStep(t *testing.T) {
	read, all := 0, 0
	for _, f := range procedures {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		lex := quickline.NewLexicon(x)
		for i := range d.Procedure.Steps {
			a := d.Procedure.Steps[i].Action
			switch a.Verb() {
			case "do", "measure", "start", "inspect", "fit", "remove", "refit", "settle", "slacken":
				continue // free words, or figures the row adds (bolts that come out along)
			}
			all++
			line := en.Row(x, a).Text()
			r := quickline.Read(lex, line)
			if r.Problem == "" && step.SameAction(a, r.Action) {
				read++
				continue
			}
			t.Logf("%s: %q reads as %q (%s)", f, line, en.Sentence(x, r.Action), r.Problem)
		}
	}
	assert.Greater(t, float64(read)/float64(all), 0.93, "%d of %d", read, all)
}

func TestStepsOfEveryCodeSurviveJSON(t *testing.T) {
	seen := map[step.Verb]bool{}
	for _, f := range procedures {
		d := fixture.Document(f)
		for i := range d.Procedure.Steps {
			s := &d.Procedure.Steps[i]
			seen[s.Action.Verb()] = true
			b, err := json.Marshal(s)
			require.NoError(t, err)
			var back step.Step
			require.NoError(t, json.Unmarshal(b, &back))
			assert.Equal(t, *s, back, "%s %s", f, s.ID)
		}
	}
	for _, v := range step.Specs {
		if v.Verb == "settle" {
			continue // no demo page needs them
		}
		assert.True(t, seen[v.Verb], "no demo page uses %s", v.Verb)
	}
}

// A sentence is one instruction: it begins with a capital, ends with a stop, and
// names nothing by its identifier.
func TestSentencesOfEveryCode(t *testing.T) {
	for _, f := range procedures {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		for i := range d.Procedure.Steps {
			s := en.Sentence(x, d.Procedure.Steps[i].Action)
			assert.Regexp(t, `^[A-Z].*\.$`, s, f)
			assert.NotContains(t, s, "  ", f)
			assert.NotContains(t, s, "“", "an unknown thing is put in quotes: %s %s", f, s)
		}
	}
}

// The lines an author types on the other codes.
func TestQuickLinesOfTheOtherCodes(t *testing.T) {
	for file, lines := range map[string]map[string]string{
		"renew-belt-in-oil-r1.latch.json": {
			"set inlet phaser to its retarded stop": "Set the inlet phaser to its retarded stop.",
			"fit cam yoke":                          "Fit the cam yoke by hand (TL-202).",
			"pin tensioner":                         "Retract the tensioner and hold it with its pin (TL-205).",
		},
		"renew-belt-both-banks-r1.latch.json": {
			"take out left cam plate and right cam plate":                 "Take out the left cam plate and the right cam plate.",
			"slacken left and right sprocket bolts with sprocket holder":  "Slacken the left sprocket bolts and the right sprocket bolts, held with the sprocket holder.",
			"refit left rear cam cap with new seal":                       "Refit the left rear cam cap with a new seal.",
			"measure plunger length 72 ±1 mm":                             "Measure the plunger length; it passes at 72 ±1 mm.",
			"check that left cam plate and right cam plate go in by hand": "Check that the left cam plate and the right cam plate go in by hand.",
		},
		"renew-timing-chain-r1.latch.json": {
			"take off timing chain":                                            "Take off the timing chain.",
			"check that crank link and inlet link stand":                       "Check that the crank link and the inlet link stand.",
			"apply sealant to chain cover, open time 10 min":                   "Apply sealant to the chain cover and close within 10 min.",
			"tighten crank bolt 140 ±5 Nm + 90 ±5 deg hold with pulley holder": "Tighten the crank bolt to 140 ±5 N·m (103 ±4 lbf·ft) + 90 ±5°, held with the pulley holder.",
		},
		"renew-both-belts-r1.latch.json": {
			"set left adjuster at 110 ±8 Hz": "Set the left adjuster at 110 ±8 Hz.",
			"take off right belt":            "Take off the right belt.",
			"turn crank 2 turns ccw":         "Turn the crank 2 turns counterclockwise.",
		},
		"renew-cam-chain-r1.latch.json": {
			"turn crank counterclockwise to firing line": "Turn the crank counterclockwise to the firing line.",
			"check that TDC line and cam line stand":     "Check that the TDC line and the cam line stand.",
		},
	} {
		d := fixture.Document(file)
		x := engine.NewIndex(&d.Engine)
		lex := quickline.NewLexicon(x)
		for line, want := range lines {
			r := quickline.Read(lex, line)
			assert.Empty(t, r.Problem, line)
			assert.Equal(t, want, en.Sentence(x, r.Action), line)
		}
	}
}

// Seals are never taken for the part they belong to.
func TestWithNewSealNamesNoPart(t *testing.T) {
	d := fixture.Document("renew-belt-both-banks-r1.latch.json")
	x := engine.NewIndex(&d.Engine)
	r := quickline.Read(quickline.NewLexicon(x), "refit right rear cam cap with new seal")
	a, ok := r.Action.(*step.Refit)
	require.True(t, ok)
	assert.Equal(t, []engine.PartID{"right-cam-cap"}, a.Parts)
	assert.True(t, a.NewSeal)
}

// Whatever half a line is typed, completions are whole lines that begin with
// what was typed or a verb that begins so, and taking one never makes a line
// that was understood unreadable.
func TestCompletionsOfHalfLines(t *testing.T) {
	type code struct {
		x   *engine.Index
		lex *quickline.Lexicon
	}
	var codes []code
	for _, f := range procedures {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		codes = append(codes, code{x, quickline.NewLexicon(x)})
	}
	rapid.Check(t, func(t *rapid.T) {
		c := codes[rapid.IntRange(0, len(codes)-1).Draw(t, "code")]
		s := step.Specs[rapid.IntRange(0, len(step.Specs)-1).Draw(t, "verb")]
		whole := s.Phrases[0] + " " + rapid.SampledFrom([]string{"crank", "left", "inlet", "timing", "t", "new ", "cam b", ""}).Draw(t, "rest")
		typed := whole[:rapid.IntRange(0, len(whole)).Draw(t, "cut")]
		out := quickline.Complete(c.lex, typed)
		assert.LessOrEqual(t, len(out), 40)
		for _, k := range out {
			assert.NotEmpty(t, k.Label)
			if !strings.HasPrefix(strings.ToLower(k.Line), strings.ToLower(strings.TrimSpace(typed))) {
				first, _, _ := strings.Cut(typed, " ")
				assert.Contains(t, strings.ToLower(k.Line), strings.ToLower(strings.TrimSpace(first)), fmt.Sprintf("%q offers %q", typed, k.Line))
			}
		}
	})
}
