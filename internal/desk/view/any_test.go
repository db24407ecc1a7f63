package view_test

import (
	"testing"

	"pgregory.net/rapid"

	virtual "inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/step"
	"inklatch/internal/core/turns"
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
			switch rapid.IntRange(0, 6).Draw(t, "kind") {
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
		v := view.From(x, p, 1, proof.DefaultHouse(), view.Place{Turns: int64(rapid.IntRange(0, 3).Draw(t, "found")), Car: rapid.IntRange(-1, 9).Draw(t, "car")})
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
		page.Of(x, p)
		turns.Of(x, p, proof.DefaultHouse())
	})
}
