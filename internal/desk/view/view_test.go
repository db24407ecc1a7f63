package view_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/desk/view"
)

func of(name string) (*engine.Index, *view.View) {
	d := demo.Document(name)
	x := engine.NewIndex(&d.Engine)
	return x, view.Of(x, &d.Procedure, 7, finding.DefaultHouse())
}

func TestAViewHasAStateForEveryStepAndOneBefore(t *testing.T) {
	_, v := of("renew-timing-belt-r3.latch.json")
	assert.EqualValues(t, 7, v.Version)
	require.Len(t, v.States, len(v.Rows)+1)
	assert.Zero(t, v.Blocking)
	for _, s := range v.States[0].Shafts {
		assert.False(t, s.Fixed, "nothing is locked before the first step")
	}
	locked := v.States[11] // after the cam bar of step 11
	assert.ElementsMatch(t, []string{"crank-pin", "cam-bar"}, locked.Locks)
	for _, s := range locked.Shafts {
		assert.True(t, s.Fixed, s.ID)
		assert.InDelta(t, 0, s.Angle, 1e-9, s.ID)
	}
	assert.Equal(t, []string{"timing-belt"}, locked.On)
	assert.Empty(t, v.States[21].On, "step 21 takes the belt off")
	assert.ElementsMatch(t, []string{"inlet-wheel", "exhaust-wheel"}, v.States[21].Free)
	assert.Equal(t, []string{"pinned"}, v.States[21].Tension)
}

func TestClashesStandInTheirRow(t *testing.T) {
	_, v := of("renew-timing-belt-r4.latch.json")
	r := v.Rows[32]
	assert.True(t, r.Crosses)
	assert.Equal(t, []string{"crank-pin", "cam-bar"}, r.Clashes)
	assert.Equal(t, finding.Blocks, r.Severity)
	assert.Empty(t, v.Rows[0].Clashes)
	own := v.Rows[54]
	assert.Equal(t, "Tighten the three engine mount bolts to 44 N·m.", own.Sentence, "an author's own wording is shown as it is")
}

func TestTheDrawingClosesAndKnowsItsNames(t *testing.T) {
	x, _ := of("renew-timing-belt-r3.latch.json")
	d := view.DrawingOf(x)
	require.Len(t, d.Loops, 1)
	l := d.Loops[0]
	assert.Empty(t, l.Impossible)
	assert.True(t, l.Pieces[0].Slack && l.Pieces[len(l.Pieces)-1].Pulls, "slack leaves the crank, the pulling run enters it")
	for _, p := range l.Pieces {
		assert.True(t, strings.HasPrefix(p.Arc, "M"), p.Arc)
		assert.Less(t, p.Wrap, 220.0, "%s is wrapped the long way round", p.Wheel)
	}
	labels := map[string]string{}
	for _, w := range d.Wheels {
		labels[w.ID] = w.Label
	}
	assert.Equal(t, "inlet cam", labels["inlet-wheel"])
	assert.Equal(t, "water pump", labels["pump-wheel"])

	dv := view.DerivedOf(x)
	assert.Equal(t, "1/2", dv.Shafts[1].Ratio)
	assert.Equal(t, "8.6° (17.1° crank)", dv.Shafts[1].Tooth)
	assert.Contains(t, dv.Loops[0].Says, "closes with the tensioner −0.2 mm")
	homes := map[string]int64{}
	for _, h := range dv.Homes {
		homes[h.Name] = h.Every
	}
	assert.EqualValues(t, 1, homes["crank pin"])
	assert.EqualValues(t, 2, homes["cam bar"])
	assert.EqualValues(t, 109, homes["belt lines"])
	assert.NotContains(t, homes, "balance drilling", "a look-alike is no mark")
}

func TestAnImpossibleRouteIsSaidNotDrawn(t *testing.T) {
	d := demo.Document("renew-timing-belt-r3.latch.json")
	d.Engine.Wheels[1].X, d.Engine.Wheels[1].Y = 1, 1
	x := engine.NewIndex(&d.Engine)
	assert.Contains(t, view.DrawingOf(x).Loops[0].Impossible, "overlap")
	assert.Contains(t, view.DerivedOf(x).Loops[0].Says, "overlap")
	d.Engine.Wheels[1].X, d.Engine.Wheels[1].Y = -60, 56
	assert.Contains(t, view.DerivedOf(engine.NewIndex(&d.Engine)).Loops[0].Says, "does not close")
}

// Everything that follows from the sheet of the V6: ratios, homes, route, errors
// and what sees them.
func BenchmarkDeriveV6(b *testing.B) {
	s := &demo.Document("renew-belt-both-banks-r1.latch.json").Engine
	for b.Loop() {
		view.DerivedOf(engine.NewIndex(s))
	}
}

func TestDerivedFiguresOfEveryDemoSheet(t *testing.T) {
	for _, f := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-cam-chain-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-chain-two-actuators-r1.latch.json"} {
		x := engine.NewIndex(&demo.Document(f).Engine)
		d := view.DerivedOf(x)
		for _, s := range d.Shafts {
			assert.NotEqual(t, "not driven", s.Ratio, "%s %s", f, s.Name)
			assert.NotEmpty(t, s.Way)
		}
		for _, l := range d.Loops {
			assert.True(t, l.Closes, "%s %s", f, l.Name)
			assert.Len(t, l.Runs, len(l.Wheels))
			assert.InDelta(t, l.Length, l.Path, 2.5, "%s %s", f, l.Name)
		}
		assert.NotEmpty(t, d.Errors.Rows, f)
		for _, r := range d.Errors.Rows {
			assert.Len(t, r.Seen, len(d.Errors.Sights), f)
		}
		assert.NotEmpty(t, d.Piston, f)
		drawing := view.DrawingOf(x)
		assert.Len(t, drawing.Loops, len(d.Loops))
		for _, l := range drawing.Loops {
			assert.Empty(t, l.Impossible)
		}
	}
	x := engine.NewIndex(&demo.Document("renew-both-belts-r1.latch.json").Engine)
	assert.Contains(t, view.DerivedOf(x).Loops[0].Note, "116 ±8 Hz on the run left fixed roller–left cam of 123.4 mm stands for 75 N")
	assert.EqualValues(t, 6, view.DerivedOf(engine.NewIndex(&demo.Document("renew-belt-both-banks-r1.latch.json").Engine)).Cycle)
}

// A sheet in the making, with any of its things missing, can still be sent: no
// figure of it is not a number.
func TestSheetsInTheMakingCanBeSent(t *testing.T) {
	for _, f := range []string{"renew-belt-in-oil-r1.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json"} {
		whole := &demo.Document(f).Engine
		var paths []string
		for _, v := range whole.Loops {
			paths = append(paths, "loops/"+string(v.ID))
		}
		for _, v := range whole.Wheels {
			paths = append(paths, "wheels/"+string(v.ID), "wheels/"+string(v.ID)+"/teeth", "wheels/"+string(v.ID)+"/diameter", "wheels/"+string(v.ID)+"/shaft")
		}
		for _, v := range whole.Shafts {
			paths = append(paths, "shafts/"+string(v.ID))
		}
		for _, v := range whole.Tensioners {
			paths = append(paths, "tensioners/"+string(v.ID), "tensioners/"+string(v.ID)+"/travel")
		}
		for _, v := range whole.Gears {
			paths = append(paths, "gears/"+string(v.ID))
		}
		paths = append(paths, "bore", "stroke", "rod", "limits", "locks", "marks", "loops/"+string(whole.Loops[0].ID)+"/pitch", "loops/"+string(whole.Loops[0].ID)+"/teeth")
		for _, p := range paths {
			s, err := engine.Apply(whole, []engine.Edit{{Path: p}})
			if err != nil {
				t.Fatalf("%s without %s: %v", f, p, err)
			}
			x := engine.NewIndex(s)
			for _, v := range []any{view.DerivedOf(x), view.DrawingOf(x), sheetproof.Prove(x, finding.DefaultHouse())} {
				_, err := json.Marshal(v)
				assert.NoError(t, err, "%s without %s", f, p)
			}
		}
	}
}

// A page that is not the same for every engine is shown for one at a time, and its
// ways hang on the step that fails.
func TestAViewOfWaysAndKinds(t *testing.T) {
	_, v := of("renew-belt-both-banks-r1.latch.json")
	assert.Empty(t, v.Cars)
	assert.Contains(t, v.Tried, "6 positions")
	assert.Contains(t, v.Tried, "when a step fails")
	check, way := v.Rows[12], v.Rows[13]
	assert.Equal(t, -1, check.Fails)
	assert.Equal(t, 12, way.Fails)
	assert.Equal(t, 12, way.BackTo)
	assert.Equal(t, "If not:", way.Lead)
	assert.NotEqual(t, v.States[13].Crank, v.States[14].Crank, "the way is shown as if the look had failed")
	assert.Equal(t, v.States[13].Crank, v.States[15].Crank, "and changes nothing for what comes after it")
	assert.Equal(t, 12, v.Rows[14].Under, "the next step could be for it too")
	assert.Equal(t, -1, v.Rows[12].Under, "a step that has a way of its own is for none")

	d := demo.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	d.Procedure.Steps[1].When = engine.When{Years: engine.Years{From: 2022}}
	for car, want := range map[int]bool{0: true, 1: false, 7: false, -1: true} {
		v := view.From(x, &d.Procedure, 1, finding.DefaultHouse(), view.Place{Car: car})
		assert.Equal(t, []string{"2019–2021", "2022–2024"}, v.Cars)
		assert.Equal(t, want, v.Rows[1].Aside, car)
		assert.Equal(t, "from 2022", v.Rows[1].When)
	}
	_, v = of("renew-belt-in-oil-r1.latch.json")
	assert.Len(t, v.Cars, 2)
	assert.Equal(t, "40 N·m 2021–2022; 45 N·m from 2023", v.Rows[21].By)
	_, v = of("close-timing-drive-r1.latch.json")
	assert.Contains(t, v.Begins, "timing belt")
	assert.Empty(t, v.Ends)
	assert.True(t, v.Last.Whole(), "the last step leaves everything on and tight")
}

// What a step does to valves and teeth is with the state it leads to, and what is
// covered, slack or in doubt with every state it is so in.
func TestMishapsInAView(t *testing.T) {
	d := demo.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	p := &procedure.Procedure{Header: d.Procedure.Header, Steps: []step.Step{
		{ID: "a", Phase: "prepare", Action: &step.Remove{Parts: []engine.PartID{"upper-cover"}}},
		{ID: "b", Phase: "relieve", Action: &step.Pin{Tensioner: "tensioner"}},
		{ID: "c", Phase: "prove", Action: &step.Turn{Turns: 1}},
		{ID: "d", Phase: "take-off", Action: &step.TakeOff{Loop: "timing-belt"}},
		{ID: "e", Phase: "prove", Action: &step.Turn{Turns: 1}},
	}}
	s := view.Of(x, p, 1, finding.DefaultHouse()).States
	assert.Equal(t, map[string]string{"inlet-wheel": "upper timing cover", "exhaust-wheel": "upper timing cover", "crank-wheel": "lower timing cover"}, s[0].Covered)
	assert.Equal(t, map[string]string{"crank-wheel": "lower timing cover"}, s[1].Covered)
	assert.Empty(t, s[1].Slack)
	assert.Equal(t, []string{"timing-belt"}, s[2].Slack)
	assert.Empty(t, s[2].Jumped)
	assert.Equal(t, []string{"timing-belt"}, s[3].Jumped)
	assert.Empty(t, s[4].Jumped, "it is said of the step that did it")
	for _, v := range s[4].Shafts {
		assert.Equal(t, v.ID != "crank", v.Teeth == 1, v.ID)
	}
	assert.Empty(t, s[4].Met)
	assert.ElementsMatch(t, []string{"inlet", "exhaust"}, s[5].Met)
	assert.Equal(t, []string{"inlet-wheel", "exhaust-wheel"}, view.DrawingOf(x).Behind["upper-cover"])
}
