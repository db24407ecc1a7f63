package step_test

import (
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// Every verb with each of its fields filled in, one thing and several, belt and
// chain, as a row shows it and as a sentence: read testdata/sentences.golden with
// an editor's eye when a line of it changes (UPDATE=1 go test writes it). The
// fields come from the verbs' own catalogue, so that a new one is in it.
func TestSentencesOfEveryField(t *testing.T) {
	var out strings.Builder
	for _, file := range []string{"renew-timing-belt-r3.latch.json", "renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-cam-chain-r1.latch.json"} {
		d := fixture.Document(file)
		x := engine.NewIndex(&d.Engine)
		lex := quickline.NewLexicon(x)
		fmt.Fprintf(&out, "# %s\n", d.Engine.Code)
		for _, spec := range step.Specs {
			for _, a := range fieldByField(t, x, spec) {
				assert.Empty(t, en.English.Lacks(a.Clause(x)), "%s: words are owed in page/lang/en", spec.Verb)
				s, row := en.Sentence(x, a), en.Row(x, a).Text()
				fmt.Fprintf(&out, "%-9s %-58s %s\n", spec.Verb, strings.TrimSpace(row), s)
				assert.NotContains(t, s, "  ")
				assert.NotRegexp(t, ` [,;:.]`, s, "a stop stands at its word")
				if r := quickline.Read(lex, s); r.Read() {
					assert.Equal(t, s, en.Sentence(x, r.Action), "a sentence that reads says the same")
				}
			}
		}
	}
	const golden = "testdata/sentences.golden"
	if os.Getenv("UPDATE") != "" {
		require.NoError(t, os.WriteFile(golden, []byte(out.String()), 0o644))
	}
	want, err := os.ReadFile(golden)
	require.NoError(t, err)
	assert.Equal(t, string(want), out.String())
}

// fieldByField makes the verb's plainest step and from it one with each field.
func fieldByField(t *testing.T, x *engine.Index, spec *step.Spec) []step.Action {
	base := map[string]any{}
	for _, f := range spec.Fields {
		ids := thingsOf(x, f.Of)
		if len(spec.Takes) == 0 || len(ids) == 0 || len(base) > 0 {
			continue
		}
		if f.Kind == step.Things {
			base[f.Key] = ids[:1]
		} else {
			base[f.Key] = ids[0]
		}
	}
	if len(spec.Takes) > 0 && len(base) == 0 {
		return nil // this engine has nothing of the kind
	}
	plain := map[step.Verb]map[string]any{
		"turn": {"turns": 2}, "wait": {"for": "15 min"}, "settle": {"turns": 6}, "measure": {"what": "coolant temperature"},
		"set": {"to": "its stop"}, "apply": {"what": "sealant"}, "do": {"text": "open the door"}, "inspect": {"lookFor": "wear"},
	}[spec.Verb]
	maps.Copy(base, plain)
	var out []step.Action
	add := func(fields map[string]any) {
		o := map[string]any{"id": "s", "phase": "fit", "verb": spec.Verb}
		maps.Copy(o, fields)
		b, err := json.Marshal(o)
		require.NoError(t, err)
		var s step.Step
		require.NoError(t, json.Unmarshal(b, &s), string(b))
		if !slices.ContainsFunc(out, func(a step.Action) bool { return step.SameAction(a, s.Action) }) {
			out = append(out, s.Action)
		}
	}
	var looks []map[string]any
	first, _ := base[spec.Fields[0].Key].(string)
	add(base)
	for _, f := range spec.Fields {
		with := func(v any) {
			o := maps.Clone(base)
			o[f.Key] = v
			add(o)
		}
		ids := thingsOf(x, f.Of)
		switch f.Kind {
		case step.OneThing:
			if n := len(ids); n > 0 && ids[n-1] != first {
				with(ids[n-1])
			}
		case step.Things:
			for _, n := range []int{1, 2, 3} {
				if n <= len(ids) && !slices.Contains(ids[len(ids)-n:], first) {
					with(ids[len(ids)-n:])
				}
			}
		case step.Tick:
			with(true)
		case step.ChoiceIn:
			for _, c := range f.Choices {
				switch {
				case f.Key == "found":
					for kind, key := range map[engine.Kind]string{engine.KindLock: "locks", engine.KindMark: "marks", engine.KindPart: "parts", engine.KindLoop: "loops"} {
						some := thingsOf(x, []engine.Kind{kind})
						if c == "" || len(some) == 0 || (c == string(step.FoundHidden)) != (kind == engine.KindMark) && (kind == engine.KindMark) == (c != string(step.FoundOut)) {
							continue
						}
						looks = append(looks, map[string]any{"found": c, key: some[:1]}, map[string]any{"found": c, key: some[max(0, len(some)-2):]})
					}
				case c != "":
					with(c)
				}
			}
		case step.NumberIn:
			with(1)
			with(3)
		case step.QuantityIn:
			u := string(f.Unit)
			if u == "" {
				u = "Hz"
			}
			with("20 " + u)
			with("20 ±2 " + u)
			with("18–22 " + u)
		case step.StagesIn:
			with([]map[string]string{{"torque": "60 N·m"}, {"angle": "90 ±5°"}})
			with([]map[string]string{{"torque": "22 N·m (16.2 lbf·ft)"}})
			with([]map[string]string{{"torque": "18–22 N·m"}})
		case step.TextIn:
			with(map[string]string{"what": "length of the plunger", "then": "listen", "lookFor": "play", "to": "the line"}[f.Key] + map[bool]string{true: "the engine is cold"}[slices.Contains([]string{"until", "that", "text"}, f.Key)])
		}
	}
	slices.SortFunc(looks, func(a, b map[string]any) int { return strings.Compare(fmt.Sprint(a), fmt.Sprint(b)) })
	for _, l := range looks {
		add(l)
	}
	return out
}

// thingsOf are the ids of the things of some kinds, in the sheet's order.
func thingsOf(x *engine.Index, kinds []engine.Kind) []string {
	m := maker{s: x.Sheet, x: x}
	var out []string
	for _, k := range kinds {
		switch k {
		case engine.KindLock:
			out = append(out, plainIDs(m.locks(nil))...)
		case engine.KindPart:
			out = append(out, plainIDs(m.parts())...)
		case engine.KindFastener:
			out = append(out, plainIDs(m.fasteners())...)
		case engine.KindLoop:
			out = append(out, plainIDs(m.loops())...)
		case engine.KindWheel:
			out = append(out, plainIDs(m.wheels(nil))...)
		case engine.KindMark:
			out = append(out, plainIDs(m.marks())...)
		case engine.KindFluid:
			for _, f := range x.Sheet.Fluids {
				out = append(out, string(f.ID))
			}
		case engine.KindShaft:
			for _, f := range x.Sheet.Shafts {
				out = append(out, string(f.ID))
			}
		case engine.KindTensioner:
			out = append(out, plainIDs(m.tensioners())...)
		}
	}
	return out
}

func plainIDs[T ~string](ids []T) []string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = string(id)
	}
	return out
}
