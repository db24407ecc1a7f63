package pageproof_test

import (
	"fmt"
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

// The stages of a bolt may stand in several steps, a slackening and a wait between them too.
func TestStagesOverSeveralSteps(t *testing.T) {
	stages := func(s string) []engine.Stage {
		out, err := engine.ParseStages(s)
		require.NoError(t, err)
		return out
	}
	found := func(sheet string, middle step.Action, steps ...string) (rules []string) {
		d := fixture.Copy(fixture.Document("renew-timing-belt-r3.latch.json"))
		for i := range d.Engine.Fasteners {
			if d.Engine.Fasteners[i].ID == "idler-bolt" {
				d.Engine.Fasteners[i].Spec = stages(sheet)
			}
		}
		at := slices.IndexFunc(d.Procedure.Steps, func(s step.Step) bool {
			a, ok := s.Action.(*step.Tighten)
			return ok && a.To == step.ToFinal && len(a.Fasteners) == 1 && a.Fasteners[0] == "idler-bolt"
		})
		require.Positive(t, at)
		was := d.Procedure.Steps[at]
		put := []step.Step{}
		for k, v := range steps {
			a := *was.Action.(*step.Tighten)
			a.Stages = stages(v)
			one := was
			one.ID, one.Action = step.ID(fmt.Sprintf("stage-%d", k)), &a
			if k > 0 && middle != nil {
				put = append(put, step.Step{ID: step.ID(fmt.Sprintf("between-%d", k)), Phase: was.Phase, Action: middle})
			}
			put = append(put, one)
		}
		d.Procedure.Steps = slices.Concat(d.Procedure.Steps[:at], put, d.Procedure.Steps[at+1:])
		for _, g := range pageproof.Prove(engine.NewIndex(&d.Engine), &d.Procedure, finding.DefaultHouse()) {
			if g.Severity != finding.Look && g.Accepted == "" {
				rules = append(rules, g.Rule)
			}
		}
		return rules
	}
	loose := &step.Slacken{Fasteners: []engine.FastenerID{"idler-bolt"}}
	wait := &step.Wait{For: unit.Of(10, unit.Minute)}
	clean := found("30 N·m", nil, "30 N·m")
	assert.Equal(t, clean, found("60 N·m + slacken + 40 N·m + 90°", loose, "60 N·m", "40 N·m + 90°"))
	assert.Equal(t, clean, found("60 N·m + wait 10 min + 90°", wait, "60 N·m", "90°"))
	assert.Equal(t, clean, found("60 N·m + 90°", nil, "60 N·m", "90°"))
	assert.Contains(t, found("60 N·m + slacken + 40 N·m", nil, "60 N·m", "40 N·m"), "differs-from-sheet")
	assert.Contains(t, found("60 N·m + wait 20 min + 90°", wait, "60 N·m", "90°"), "differs-from-sheet")
	assert.Contains(t, found("60 N·m + slacken + 40 N·m", loose, "60 N·m"), "not-final")
}
