package view_test

import (
	"testing"

	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/proof/turns"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
	"inklatch/internal/desk/view"
)

// one draws an identifier: one of the sheet's, one that is nowhere, or none.
func one[T any, ID ~string](t *rapid.T, list []T, id func(*T) ID) ID {
	switch n := rapid.IntRange(-2, len(list)-1).Draw(t, "which"); n {
	case -2:
		return ""
	case -1:
		return "nowhere"
	default:
		return id(&list[n])
	}
}

func some[T any, ID ~string](t *rapid.T, list []T, id func(*T) ID) []ID {
	var out []ID
	for range rapid.IntRange(0, 3).Draw(t, "how many") {
		out = append(out, one(t, list, id))
	}
	return out
}

func standing(t *rapid.T, s *engine.Sheet) virtual.Standing {
	lock := func(l *engine.Lock) engine.LockID { return l.ID }
	tensioner := func(v *engine.Tensioner) engine.TensionerID { return v.ID }
	return virtual.Standing{
		Off: some(t, s.Parts, func(p *engine.Part) engine.PartID { return p.ID }), LoopsOff: some(t, s.Loops, func(l *engine.Loop) engine.LoopID { return l.ID }),
		In: some(t, s.Locks, lock), Onto: some(t, s.Locks, lock), Slack: some(t, s.Fasteners, func(f *engine.Fastener) engine.FastenerID { return f.ID }),
		Pinned: some(t, s.Tensioners, tensioner), Relieved: some(t, s.Tensioners, tensioner), Marks: some(t, s.Marks, func(m *engine.Mark) engine.MarkID { return m.ID }),
	}
}

func when(t *rapid.T) engine.When {
	return rapid.SampledFrom([]engine.When{
		{}, {Years: engine.Years{From: 2020}}, {Years: engine.Years{To: 2021}}, {Years: engine.Years{From: 2025, To: 2019}}, {Builds: engine.Builds{From: 7}},
		{With: []string{"cold pack"}}, {With: []string{"wings"}, Without: []string{"wings"}},
	}).Draw(t, "when")
}

// oddSheet writes values into a sheet that the door lets in and that fit to nothing.
func oddSheet(t *rapid.T, s *engine.Sheet) {
	fastener := func(f *engine.Fastener) engine.FastenerID { return f.ID }
	part := func(q *engine.Part) engine.PartID { return q.ID }
	wheel := func(w *engine.Wheel) engine.WheelID { return w.ID }
	figure := func() float64 { return float64(rapid.IntRange(-400, 400).Draw(t, "figure")) }
	l, f, q, m := &s.Loops[0], &s.Fasteners[0], &s.Parts[rapid.IntRange(0, len(s.Parts)-1).Draw(t, "part")], &s.Marks[rapid.IntRange(0, len(s.Marks)-1).Draw(t, "mark")]
	l.Then = some(t, s.Tensioners, func(v *engine.Tensioner) engine.TensionerID { return v.ID })
	l.Tensioner = one(t, s.Tensioners, func(v *engine.Tensioner) engine.TensionerID { return v.ID })
	if len(s.Locks) > 0 { // TP4-20M has none
		k := &s.Locks[0]
		k.Wheel, k.Also, k.Meets = one(t, s.Wheels, wheel), some(t, s.Parts, part), rapid.SampledFrom([]engine.Meets{"", engine.MeetsRunning, engine.MeetsAgainst}).Draw(t, "meets")
	}
	f.After, f.Lubricant, f.Places = some(t, s.Fasteners, fastener), rapid.SampledFrom([]string{"", "oiled", "soaped"}).Draw(t, "thread"), []engine.Place{{X: figure(), Y: figure()}}
	q.Hides, q.Spills, q.Reset = some(t, s.Wheels, wheel), one(t, s.Fluids, func(v *engine.Fluid) engine.FluidID { return v.ID }), "counter"
	m.Wheel, m.Shaft, m.On = one(t, s.Wheels, wheel), one(t, s.Shafts, func(v *engine.Shaft) engine.ShaftID { return v.ID }), one(t, s.Parts, part)
	for i := range s.Shafts {
		s.Shafts[i].Contact, s.Shafts[i].Rests = figure(), []float64{figure()}
		s.Shafts[i].Valves = &engine.Valves{Opens: figure(), Closes: figure(), Lift: unit.Of(figure(), unit.Millimetre), Clear: unit.Of(figure(), unit.Millimetre)}
	}
	for i := range s.Wheels {
		if rapid.IntRange(0, 4).Draw(t, "mount?") == 0 {
			s.Wheels[i].Mount = rapid.SampledFrom([]engine.Mount{engine.Dowelled, engine.Slotted, engine.Friction, engine.Phaser, engine.Idle}).Draw(t, "mount")
		}
	}
}

// Whatever stands in a page that the door lets in, it is proved, laid out and
// shown: nothing of it is trusted to fit together.
func TestAnyPageCanBeShown(t *testing.T) {
	files := []string{"renew-timing-belt-r3.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-belt-both-banks-r1.latch.json"}
	rapid.Check(t, func(t *rapid.T) {
		d := fixture.Document(rapid.SampledFrom(files).Draw(t, "file"))
		s, p := &d.Engine, &d.Procedure
		x := engine.NewIndex(s)
		ids := []step.ID{"", "nowhere"}
		for i := range p.Steps {
			ids = append(ids, p.Steps[i].ID)
		}
		for range rapid.IntRange(1, 12).Draw(t, "changes") {
			i := rapid.IntRange(0, len(p.Steps)-1).Draw(t, "step")
			st := &p.Steps[i]
			wheel := func(w *engine.Wheel) engine.WheelID { return w.ID }
			loop := func(l *engine.Loop) engine.LoopID { return l.ID }
			fluid := func(f *engine.Fluid) engine.FluidID { return f.ID }
			part := func(q *engine.Part) engine.PartID { return q.ID }
			switch rapid.IntRange(0, 13).Draw(t, "kind") {
			case 7:
				st.Action = &step.Paint{Wheels: some(t, s.Wheels, wheel), Loop: one(t, s.Loops, loop), Copy: rapid.Bool().Draw(t, "copy")}
			case 8:
				st.Action = &step.Check{Painted: true, Marks: some(t, s.Marks, func(m *engine.Mark) engine.MarkID { return m.ID })}
			case 9:
				st.Action = &step.Turn{Painted: true, Turns: float64(rapid.IntRange(0, 3).Draw(t, "turns")), Shaft: one(t, s.Shafts, func(v *engine.Shaft) engine.ShaftID { return v.ID })}
			case 10:
				st.Action = &step.Swing{Shaft: one(t, s.Shafts, func(v *engine.Shaft) engine.ShaftID { return v.ID }), By: unit.Of(float64(rapid.IntRange(0, 400).Draw(t, "by")), unit.Degree)}
			case 11:
				st.Action = rapid.SampledFrom([]step.Action{
					&step.Drain{Fluids: some(t, s.Fluids, fluid)}, &step.Fill{Fluid: one(t, s.Fluids, fluid)}, &step.Reset{Part: one(t, s.Parts, part)},
					&step.Measure{What: "note", Loop: one(t, s.Loops, loop), Value: unit.Of(110, unit.Hertz)}, &step.Set{Tensioner: one(t, s.Tensioners, func(v *engine.Tensioner) engine.TensionerID { return v.ID }), Goal: step.GoalStop},
				}).Draw(t, "new verb")
			case 12:
				p.Task = procedure.Task{Renews: some(t, s.Parts, part), Sets: some(t, s.Tensioners, func(v *engine.Tensioner) engine.TensionerID { return v.ID }), Homes: some(t, s.Wheels, wheel), Checks: rapid.Bool().Draw(t, "checks")}
			case 13:
				oddSheet(t, s)
				x = engine.NewIndex(s)
				sheetproof.Prove(x, finding.DefaultHouse())
				view.DerivedOf(x)
				view.DrawingOf(x)
			case 0:
				st.IfNot = !st.IfNot
			case 1:
				st.Again = &step.Again{From: rapid.SampledFrom(ids).Draw(t, "from"), Times: rapid.IntRange(-2, 12).Draw(t, "times")}
			case 2:
				st.When = when(t)
			case 3:
				st.Action = &step.Turn{
					Shaft: one(t, s.Shafts, func(v *engine.Shaft) engine.ShaftID { return v.ID }), Into: one(t, s.Locks, func(l *engine.Lock) engine.LockID { return l.ID }),
					To: one(t, s.Marks, func(m *engine.Mark) engine.MarkID { return m.ID }), Turns: float64(rapid.IntRange(0, 3).Draw(t, "turns")),
				}
			case 4:
				st.Action = &step.Tighten{Fasteners: some(t, s.Fasteners, func(f *engine.Fastener) engine.FastenerID { return f.ID }), By: []step.StagesFor{{When: when(t)}, {When: when(t), Stages: []engine.Stage{{}}}}}
			case 5:
				st.Action = &step.Check{Pins: some(t, s.Tensioners, func(v *engine.Tensioner) engine.TensionerID { return v.ID })}
			case 6:
				p.Begins, p.Ends, p.After, p.Before = standing(t, s), standing(t, s), "before", ""
			}
		}
		v := view.From(x, p, 1, finding.DefaultHouse(), view.Place{Turns: int64(rapid.IntRange(0, 3).Draw(t, "found")), Car: rapid.IntRange(-1, 9).Draw(t, "car")})
		if len(v.Rows) != len(p.Steps) || len(v.States) != len(p.Steps)+1 {
			t.Fatalf("%d steps, %d rows and %d states", len(p.Steps), len(v.Rows), len(v.States))
		}
		for _, f := range v.Findings {
			for _, m := range f.Mends {
				if _, _, err := procedure.Apply(p, m.Edits); err != nil {
					t.Fatalf("%s: %s: %v", f.What, m.Label, err)
				}
			}
		}
		document.Of(x, p)
		turns.Of(x, p, finding.DefaultHouse())
	})
}
