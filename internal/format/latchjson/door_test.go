package latchjson_test

import (
	"errors"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/format/latchjson"
)

// Every demo page goes through the door, and each of these does not, with its
// place.
func TestTheDoorForProcedures(t *testing.T) {
	page := func() *procedure.Procedure { return &demo.Document("renew-timing-belt-r3.latch.json").Procedure }
	require.NoError(t, latchjson.CheckProcedure(page()))
	for _, c := range []struct {
		name, place string
		spoil       func(*procedure.Procedure)
	}{
		{"no title", "title", func(p *procedure.Procedure) { p.Title = "" }},
		{"a title of blanks", "title", func(p *procedure.Procedure) { p.Title = "  " }},
		{"a title too long", "title", func(p *procedure.Procedure) { p.Title = strings.Repeat("x", 301) }},
		{"a NUL in the purpose", "purpose", func(p *procedure.Procedure) { p.Purpose = "a\x00" }},
		{"a bell in a condition", "prelims.conditions[1]", func(p *procedure.Procedure) { p.Prelims.Conditions = []string{"fine", "a\a"} }},
		{"no UTF-8 in a note", "steps[2].note", func(p *procedure.Procedure) { p.Steps[2].Note = "a\xff" }},
		{"a wording too long", "steps[3].wording", func(p *procedure.Procedure) { p.Steps[3].Wording = strings.Repeat("x", 4001) }},
		{"a caution too long", "steps[0].cautions[0].text", func(p *procedure.Procedure) {
			p.Steps[0].Cautions = []step.Caution{{Text: strings.Repeat("x", 4001)}}
		}},
		{"turns without end", "steps[1].turns", func(p *procedure.Procedure) { p.Steps[1].Action = &step.Turn{Turns: 1e308} }},
		{"turns that are no number", "steps[1].turns", func(p *procedure.Procedure) { p.Steps[1].Action = &step.Turn{Turns: math.NaN()} }},
		{"turns backwards without end", "steps[1].turns", func(p *procedure.Procedure) { p.Steps[1].Action = &step.Turn{Turns: math.Inf(-1)} }},
		{"a torque beyond all", "steps[1].stages[0].torque", func(p *procedure.Procedure) {
			p.Steps[1].Action = &step.Tighten{Stages: []engine.Stage{{Torque: unit.Of(1e9, unit.NewtonMetre)}}}
		}},
		{"an id of nothing", "steps[4].id", func(p *procedure.Procedure) { p.Steps[4].ID = "" }},
		{"an id with a slash", "steps[4].id", func(p *procedure.Procedure) { p.Steps[4].ID = "a/b" }},
		{"an id too long", "steps[4].id", func(p *procedure.Procedure) { p.Steps[4].ID = step.ID(strings.Repeat("x", 65)) }},
		{"an id twice", "steps[5].id", func(p *procedure.Procedure) { p.Steps[5].ID = p.Steps[4].ID }},
		{"a NUL in an option", "steps[4].when.with[0]", func(p *procedure.Procedure) { p.Steps[4].When.With = []string{"a\x00"} }},
		{"a bell in the way back", "steps[4].again.from", func(p *procedure.Procedure) { p.Steps[4].Again = &step.Again{From: "a\a"} }},
		{"a NUL in a value by case", "steps[1].by[0].when.without[0]", func(p *procedure.Procedure) {
			p.Steps[1].Action = &step.Tighten{By: []step.StagesFor{{When: engine.When{Without: []string{"a\x00"}}}}}
		}},
		{"a NUL in what a page begins with", "begins.off[0]", func(p *procedure.Procedure) { p.Begins.Off = []engine.PartID{"a\x00"} }},
		{"a page beside it too long", "after", func(p *procedure.Procedure) { p.After = strings.Repeat("x", 4001) }},
		{"too many steps", "steps", func(p *procedure.Procedure) { p.Steps = make([]step.Step, latchjson.MaxSteps+1) }},
	} {
		p := page()
		c.spoil(p)
		var bad *latchjson.Error
		require.ErrorAs(t, latchjson.CheckProcedure(p), &bad, c.name)
		assert.Equal(t, c.place, bad.Place, c.name)
		assert.NotEmpty(t, bad.Why)
	}
}

func TestTheDoorForSheets(t *testing.T) {
	sheet := func() *engine.Sheet { return &demo.Document("renew-timing-belt-r3.latch.json").Engine }
	require.NoError(t, latchjson.CheckSheet(sheet()))
	for _, c := range []struct {
		name, place string
		spoil       func(*engine.Sheet)
	}{
		{"a code in small letters", "code", func(s *engine.Sheet) { s.Code = "tq4" }},
		{"a code that is a path", "code", func(s *engine.Sheet) { s.Code = "A/B" }},
		{"a code too long", "code", func(s *engine.Sheet) { s.Code = strings.Repeat("A", 21) }},
		{"a name with a NUL", "wheels[1].name", func(s *engine.Sheet) { s.Wheels[1].Name = "a\x00" }},
		{"a place that is no number", "wheels[0].x", func(s *engine.Sheet) { s.Wheels[0].X = math.NaN() }},
		{"an id with a blank", "shafts[1].id", func(s *engine.Sheet) { s.Shafts[1].ID = "a b" }},
		{"a back-off beyond all", "limits.backOff", func(s *engine.Sheet) { s.Limits.BackOff = 1e300 }},
		{"cylinders beyond all", "cylinders", func(s *engine.Sheet) { s.Cylinders = math.MaxInt64 }},
		{"a source too long", "evidence.crank-pin.source", func(s *engine.Sheet) {
			s.Evidence = map[string]engine.Proof{"crank-pin": {Source: strings.Repeat("x", 5000)}}
		}},
	} {
		s := sheet()
		c.spoil(s)
		err := latchjson.CheckSheet(s)
		var bad *latchjson.Error
		require.True(t, errors.As(err, &bad), c.name)
		assert.Equal(t, c.place, bad.Place, c.name)
	}
}
