package pageproof_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/unit"
)

// Near misses: what looks like a mistake to a rule and is none.
func TestNearMisses(t *testing.T) {
	for name, c := range map[string]struct {
		rule string
		make func(*bench)
	}{
		"a fluid let out by its own plug": {"fluid-spilled", func(b *bench) {
			b.open("renew-belt-in-oil-r1.latch.json")
			b.fluids(func(f *engine.Fluid) { f.Drain = "timing-cover" })
			b.drop("Drain engine oil")
		}},
		"an amount in another unit": {"fluid-amount", func(b *bench) {
			b.open("renew-belt-in-oil-r1.latch.json")
			b.become("Fill in engine oil", "fill in 3800 mL of engine oil")
		}},
		"no amount where the sheet has none": {"fluid-amount", func(b *bench) {
			b.open("renew-belt-in-oil-r1.latch.json")
			b.fluids(func(f *engine.Fluid) { f.Amount = unit.Quantity{} })
			b.become("Fill in engine oil", "fill in engine oil")
		}},
		"a part without a counter": {"reset-owed", func(b *bench) {}},
		"a pointer on a part that is on": {"pointer-off", func(b *bench) {
			b.sheet(func(s *engine.Sheet) { s.Marks[b.x.MarkAt("crank-mark")].On = "water-pump" })
			b.before("Fit new idler roller", "check that crank mark stands")
		}},
		"to the stop first": {"stop-skipped", func(b *bench) {
			b.sheet(func(s *engine.Sheet) { s.Tensioners[0].Method = engine.OverTension })
			b.before("Set tensioner", "set tensioner counterclockwise to its stop")
		}},
		"the second tensioner after the first": {"tension-order", func(b *bench) {
			b.sheet(func(s *engine.Sheet) {
				s.Tensioners = append(s.Tensioners, engine.Tensioner{ID: "plunger", Name: "plunger", Method: engine.Hydraulic, Pin: "tl-101"})
				s.Loops[0].Then = []engine.TensionerID{"plunger"}
			})
			b.before("Take off timing belt", "pin plunger")
			b.before("Tighten tensioner bolt", "release plunger")
		}},
		"bolts in the order of the sheet": {"bolt-order", func(b *bench) {
			b.sheet(func(s *engine.Sheet) {
				s.Fasteners[b.x.FastenerAt("upper-cover-bolt")].After = []engine.FastenerID{"lower-cover-bolt"}
			})
		}},
		"first finger tight, in any order": {"bolt-order", func(b *bench) {
			b.sheet(func(s *engine.Sheet) {
				s.Fasteners[b.x.FastenerAt("lower-cover-bolt")].After = []engine.FastenerID{"upper-cover-bolt"}
			})
			b.become("Tighten lower cover bolts", "tighten lower cover bolts finger tight")
		}},
		"a tool within the limit": {"beyond-limit", func(b *bench) {
			b.sheet(func(s *engine.Sheet) { s.Limits.CamError = float64(s.Locks[b.x.LockAt("cam-bar")].Freedom()) })
		}},
		"own marks on a wheel, read home": {"paint-missing", func(b *bench) {
			b.before("Take off timing belt", "paint a mark on inlet")
			b.before("Check that cam bar", "check that the paint marks stand")
		}},
		"marks across the belt that goes back": {"paint-missing", func(b *bench) {
			b.open("renew-belts-at-rest-r1.latch.json")
			b.drop("Copy the paint marks")
			b.become("Fit new balance belt", "fit balance belt")
		}},
		"oil on an oiled thread": {"thread-condition", func(b *bench) { b.before("Tighten crank bolt", "apply engine oil to crank bolt") }},
		"grease on a bolt that is finger tight": {"thread-condition", func(b *bench) {
			b.before("Tighten idler bolt", "apply grease to idler bolt")
		}},
		"readings while the crank is turned on": {"reading-place", func(b *bench) {
			b.open("renew-both-belts-r1.latch.json")
			b.sheet(func(s *engine.Sheet) {
				f := *s.Tensioners[0].Frequency
				f.At = 90
				s.Tensioners[0].Frequency = &f
			})
		}},
		"what the page is for, done":   {"task-not-done", func(b *bench) {}},
		"a check that turns and looks": {"check-undoes", func(b *bench) { b.open("check-valve-timing-r1.latch.json") }},
		"cams held by hand at their own rest": {"loop-off-unfixed", func(b *bench) {
			b.open("renew-belts-at-rest-r1.latch.json")
			b.sheet(func(s *engine.Sheet) {
				s.Limits.Rest = 0
				s.Shafts = append([]engine.Shaft{}, s.Shafts...)
				for i := range s.Shafts {
					s.Shafts[i].Rests = []float64{0, 45, 90, 135, 180, 225, 270, 315}
				}
				for _, m := range s.Marks {
					if m.ID == "cam-mark" {
						for i := range s.Shafts {
							s.Shafts[i].Rests = append(s.Shafts[i].Rests, m.At)
						}
					}
				}
			})
		}},
	} {
		b := clean(t)
		c.make(b)
		f := has(b.prove(), c.rule)
		if f != nil {
			assert.Fail(t, name, "%s: %s", c.rule, f.What)
		}
	}
}

// fluids changes the first fluid of the sheet.
func (b *bench) fluids(change func(*engine.Fluid)) {
	b.sheet(func(s *engine.Sheet) {
		s.Fluids = append([]engine.Fluid{}, s.Fluids...)
		change(&s.Fluids[0])
	})
}

// A mend never takes away what the page is for: a belt that is laid on one that was
// forgotten on is told of, and taking it off is offered, not leaving the new one away.
func TestAMendKeepsThePurpose(t *testing.T) {
	b := clean(t)
	b.drop("Take off timing belt")
	fs := b.prove()
	first := has(fs, "already-off")
	require.NotNil(t, first)
	require.NotEmpty(t, first.Mends)
	assert.Contains(t, first.Mends[0].Label, "take off timing belt")
	for _, f := range fs {
		for _, m := range f.Mends {
			q, _, err := procedure.Apply(b.p, m.Edits)
			require.NoError(t, err)
			laid := false
			for i := range q.Steps {
				if a, ok := q.Steps[i].Action.(*step.Fit); ok && a.Loop == "timing-belt" && a.New {
					laid = true
				}
			}
			assert.True(t, laid, "%s: “%s” leaves the new belt away", f.Rule, m.Label)
		}
	}
	b.settle("already-off")
}

// A look whether tools are out may name one more than were in: that is care.
func TestOneToolMoreIsCare(t *testing.T) {
	d := fixture.Copy(fixture.Document("renew-belt-both-banks-r1.latch.json"))
	looks := 0
	for i := range d.Procedure.Steps {
		if a, ok := d.Procedure.Steps[i].Action.(*step.Check); ok && a.Found == step.FoundOut && len(a.Locks) > 0 {
			a.Locks = append(a.Locks, "flywheel-lock")
			looks++
		}
	}
	require.Positive(t, looks)
	for _, f := range pageproof.Prove(engine.NewIndex(&d.Engine), &d.Procedure, finding.DefaultHouse()) {
		assert.NotContains(t, []string{"out-never-in", "out-look-partial"}, f.Rule, f.What)
	}
}
