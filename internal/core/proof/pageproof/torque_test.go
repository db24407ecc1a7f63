package pageproof_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/unit"
)

// A value other than the sheet's blocks beyond its tolerance, and beyond ten per cent
// where it gives none; a step that turns a whole turn back blocks, one that goes back too
// far to be slack does not.
func TestHowFarOffAValueBlocks(t *testing.T) {
	try := func(f func(p *fixture.File), rules ...string) finding.Severity {
		d := fixture.Copy(fixture.Document("renew-timing-belt-r3.latch.json"))
		f(d)
		for _, g := range pageproof.Prove(engine.NewIndex(&d.Engine), &d.Procedure, finding.DefaultHouse()) {
			if slices.Contains(rules, g.Rule) {
				return g.Severity
			}
		}
		return ""
	}
	value := func(sheet, page string) finding.Severity {
		return try(func(d *fixture.File) {
			said, err := engine.ParseStages(sheet)
			require.NoError(t, err)
			written, err := engine.ParseStages(page)
			require.NoError(t, err)
			for i := range d.Engine.Fasteners {
				if d.Engine.Fasteners[i].ID == "idler-bolt" {
					d.Engine.Fasteners[i].Spec = said
				}
			}
			n := 0
			for i := range d.Procedure.Steps {
				if a, ok := d.Procedure.Steps[i].Action.(*step.Tighten); ok && a.To == step.ToFinal && len(a.Fasteners) == 1 && a.Fasteners[0] == "idler-bolt" {
					a.Stages, n = written, n+1
				}
			}
			require.Positive(t, n)
		}, "differs-from-sheet", "not-final") // stages that are missing may follow in a step of their own
	}
	for _, c := range []struct {
		sheet, page string
		want        finding.Severity
	}{
		{"42 N·m", "42 N·m", ""},
		{"42 N·m", "44 N·m", finding.ShouldFix}, {"42 N·m", "46.2 N·m", finding.ShouldFix}, {"42 N·m", "46.3 N·m", finding.Blocks}, {"42 N·m", "420 N·m", finding.Blocks}, {"42 N·m", "4.2 N·m", finding.Blocks},
		{"42 ±2 N·m", "44 N·m", finding.ShouldFix}, {"42 ±2 N·m", "44.1 N·m", finding.Blocks}, {"42 ±2 N·m", "39.9 N·m", finding.Blocks},
		{"30 N·m + 90°", "30 N·m + 95°", finding.ShouldFix}, {"30 N·m + 90°", "30 N·m + 180°", finding.Blocks}, {"30 N·m + 90°", "30 N·m", finding.Blocks}, {"30 N·m + 90 ±5°", "30 N·m + 96°", finding.Blocks},
		{"60 N·m + slacken + 40 N·m + 90°", "60 N·m + slacken + 40 N·m + 90°", ""}, {"60 N·m + slacken + 40 N·m", "60 N·m + 40 N·m", finding.Blocks}, {"60 N·m + 30°", "60 N·m + slacken + 30°", finding.Blocks},
		{"60 N·m + wait 10 min + 90°", "60 N·m + wait 10 min + 90°", ""}, {"60 N·m + wait 10 min + 90°", "60 N·m + 90°", finding.Blocks}, {"60 N·m + wait 10 min + 90°", "60 N·m + wait 600 s + 90°", ""}, {"60 N·m + 90°", "60 N·m + wait 10 min + 90°", ""},
		{"40–44 N·m", "43 N·m", finding.ShouldFix}, {"40–44 N·m", "45 N·m", finding.Blocks},
	} {
		assert.Equal(t, c.want, value(c.sheet, c.page), "%s on the sheet, %s on the page", c.sheet, c.page)
	}

	turned := func(by unit.Quantity, turns float64) finding.Severity {
		return try(func(d *fixture.File) {
			back := &step.Turn{Degrees: by, Turns: turns, Way: engine.Counterclockwise}
			d.Procedure.Steps = append([]step.Step{{ID: "back", Phase: "prepare", Action: back}}, d.Procedure.Steps...)
		}, "backwards")
	}
	assert.Empty(t, turned(unit.Of(4, unit.Degree), 0))
	assert.Equal(t, finding.ShouldFix, turned(unit.Of(40, unit.Degree), 0))
	assert.Equal(t, finding.Blocks, turned(unit.Quantity{}, 1))
	assert.Equal(t, finding.Blocks, turned(unit.Of(20, unit.Degree), 2))
}
