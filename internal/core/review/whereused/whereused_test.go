package whereused_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/whereused"
	"inklatch/internal/core/unit"
)

func has(us []whereused.Use, k whereused.Kind, term string, id step.ID) bool {
	return slices.ContainsFunc(us, func(u whereused.Use) bool { return u.Kind == k && u.Term == term && u.Step == id })
}

func TestWhatAPageUses(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	us := whereused.OfPage(engine.NewIndex(&d.Engine), &d.Procedure)
	for _, c := range []struct {
		kind whereused.Kind
		term string
		step step.ID
	}{
		{whereused.Lock, "crank pin", "s08"}, {whereused.Tool, "TL-101", "s08"}, {whereused.Tool, "crank pin", "s08"}, {whereused.Fastener, "idler bolt", "s26"},
		{whereused.Value, "39 N·m", "s26"}, {whereused.Part, "idler roller", "s25"}, {whereused.Words, "step", "s08"}, {whereused.Words, "title", ""}, {whereused.Words, "condition", ""},
	} {
		assert.True(t, has(us, c.kind, c.term, c.step), "%s %s at %q", c.kind, c.term, c.step)
	}
}

// Every step says what it says, every thing that its row names is found by its name,
// and no place is listed twice.
func TestEveryThingARowNamesIsFound(t *testing.T) {
	for _, f := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-chain-two-actuators-r1.latch.json", "renew-cam-chain-r1.latch.json"} {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		for i := range d.Procedure.Steps {
			s := &d.Procedure.Steps[i]
			us := whereused.OfStep(x, s)
			assert.True(t, slices.ContainsFunc(us, func(u whereused.Use) bool { return u.Kind == whereused.Words && u.Said == en.Full(x, s) }))
			for _, span := range en.Row(x, s.Action).Spans {
				if span.Ref == "" {
					continue
				}
				name := strings.TrimSuffix(strings.TrimPrefix(strings.TrimSpace(span.Text), "new "), ",")
				found := slices.ContainsFunc(us, func(u whereused.Use) bool {
					return u.Kind != whereused.Words && strings.Contains(strings.ToLower(u.Term), strings.ToLower(strings.TrimSuffix(name, "s")))
				})
				assert.True(t, found, "%s %s: %q of %q", f, s.ID, span.Text, span.Ref)
			}
			for k, u := range us {
				assert.NotEmpty(t, u.Term)
				assert.NotEmpty(t, u.Said)
				assert.False(t, slices.Contains(us[:k], u), "%s %s: %+v is listed twice", f, s.ID, u)
			}
		}
	}
}

func TestWhatASheetUses(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	us := whereused.OfSheet(&d.Engine)
	for i := range d.Engine.Tools {
		require.True(t, has(us, whereused.Tool, d.Engine.Tools[i].Number, ""))
	}
	for i := range d.Engine.Fasteners {
		require.True(t, has(us, whereused.Fastener, d.Engine.Fasteners[i].Name, ""))
	}
	assert.Equal(t, "idler bolt", whereused.Key("  Idler   bolt "))
}

// Every value and every text of a sheet is found, whatever thing it is of: it is written
// as JSON, and all that reads as a value or is no name of a kind is looked for.
func TestEveryValueAndTextOfASheetIsFound(t *testing.T) {
	values, texts := 0, 0
	for _, f := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-chain-two-actuators-r1.latch.json", "renew-cam-chain-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-timing-chain-r1.latch.json"} {
		s := fixture.Document(f).Engine
		us := whereused.OfSheet(&s)
		value := func(q unit.Quantity) {
			t.Helper()
			if q.IsZero() {
				return
			}
			values++
			assert.True(t, has(us, whereused.Value, q.String(), ""), "%s: %s", s.Code, q)
		}
		text := func(said string) {
			t.Helper()
			if said == "" {
				return
			}
			texts++
			assert.True(t, slices.ContainsFunc(us, func(u whereused.Use) bool { return strings.Contains(u.Said, said) || u.Term == said }), "%s: %s", s.Code, said)
		}
		text(s.Use)
		text(s.View)
		for _, v := range s.Shafts {
			if v.Valves != nil {
				value(v.Valves.Lift)
				value(v.Valves.Clear)
			}
		}
		for _, v := range s.Tensioners {
			for _, q := range []unit.Quantity{v.Wait, v.Length, v.Hold, v.Gap} {
				value(q)
			}
			for _, p := range v.Pointer {
				value(p.From)
				text(p.Place)
			}
			if v.Frequency != nil {
				value(v.Frequency.Note)
				value(v.Frequency.First)
			}
		}
		for _, v := range s.Fasteners {
			text(v.Thread)
			for _, st := range v.Spec {
				value(st.Torque)
				value(st.Angle)
			}
		}
		for _, v := range s.Parts {
			value(v.Sealant)
			text(v.If)
			text(v.Number)
			text(v.Every)
		}
		for _, v := range s.Fluids {
			value(v.Amount)
			text(v.Grade)
		}
		for _, v := range s.Marks {
			text(v.Look)
			text(v.Pointer)
		}
		for _, v := range s.Locks {
			text(v.Note)
		}
		for _, v := range s.Tools {
			text(v.Kit)
		}
		for k := range us {
			assert.False(t, slices.Contains(us[:k], us[k]), "%s: %+v twice", s.Code, us[k])
		}
	}
	assert.Greater(t, values, 90)
	assert.Greater(t, texts, 200)
}

// What holds for some engines only is found with the engines it holds for.
func TestCasesOfASheetAreFound(t *testing.T) {
	s := fixture.Document("renew-timing-belt-r3.latch.json").Engine
	s.Varies = []engine.Variation{{ID: "v", Of: "fasteners/idler-bolt", Cases: []engine.Case{
		{When: engine.When{Years: engine.Years{To: 2021}}, Set: map[string]json.RawMessage{"spec": json.RawMessage(`[{"torque":"43 N·m"},{"angle":"91°"}]`), "name": json.RawMessage(`"old idler bolt"`)}},
		{When: engine.When{Years: engine.Years{From: 2022}}, Set: map[string]json.RawMessage{"across": json.RawMessage("15")}},
	}}}
	us := whereused.OfSheet(&s)
	assert.True(t, has(us, whereused.Value, "43 N·m", ""))
	assert.True(t, has(us, whereused.Value, "91°", ""))
	for _, said := range []string{"fasteners idler-bolt, spec, up to 2021 43 N·m", "old idler bolt"} {
		assert.True(t, slices.ContainsFunc(us, func(u whereused.Use) bool { return u.Said == said }), said)
	}
}

// A value is found however it is typed, and in the units that others type it in; a value
// of another amount is not. NIST SP 811 (2008), appendix B.9, for the factors, from
// memory.
func TestAValueIsFoundInEveryNotation(t *testing.T) {
	for stands, typed := range map[string][]string{
		"42 N·m":      {"42 N·m", "42Nm", "42 Nm", "42 N*m", "42 N m", "42 newton metres", "31 lbf·ft", "31 lb-ft", "31 lb ft", "31.0 ft lbs", "42 n·m"},
		"10 N·m":      {"10 Nm", "88.5 lbf·in", "88.5 in-lb", "7.38 lbf·ft"},
		"42 ±2 N·m":   {"42 Nm", "42 ± 2 Nm", "42±2 N·m", "31 lb-ft"},
		"90°":         {"90°", "90 deg", "90 degrees"},
		"15 min":      {"15 min", "15 minutes"},
		"0.2 mm":      {"0.2 mm", "0.20 mm"},
		"timing belt": {"Timing  belt", "TIMING BELT"},
	} {
		kind := whereused.Value
		if strings.Contains(stands, "belt") {
			kind = whereused.Kind("")
		}
		keys := whereused.KeysOf(kind, stands)
		assert.Contains(t, keys, whereused.Key(stands), "as it stands")
		for _, v := range typed {
			assert.True(t, slices.Contains(keys, whereused.Key(v)), "%q is looked for as %q; it is kept as %q", v, whereused.Key(v), keys)
		}
		for _, other := range []string{"43 N·m", "42 °", "91°", "16 min", "0.3 mm", "drive belt", "420 Nm", "4.2 Nm"} {
			assert.NotContains(t, keys, whereused.Key(other), "%s is not %s", stands, other)
		}
	}
	assert.Equal(t, whereused.Key("42 N·m and then"), "42 n·m and then", "words beside a value are words")
	assert.Empty(t, whereused.Key("  "))
}
