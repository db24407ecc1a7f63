package pageproof_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
)

// A page that one school doubts and another does not: found is where the rule finds it, other
// is where it is silent.
var schools = map[string]struct {
	rule         string
	found, other func(*finding.House)
	make         func(*bench)
}{
	"a few degrees backwards": {"backwards", func(h *finding.House) { h.Backwards = finding.NeverBackwards }, ours,
		func(b *bench) { b.before("Fit new idler roller", "turn crank 4° counterclockwise") }},
	"passed, fitted, and back onto it": {"backwards", ours, func(h *finding.House) { h.Meeting = finding.PassAndBack }, passedBy},
	"passed by more than that":         {"backwards", func(h *finding.House) { h.Meeting, h.PassBy = finding.PassAndBack, 10 }, func(h *finding.House) { h.Meeting, h.PassBy = finding.PassAndBack, 20 }, passedBy},
	"clamped while it is laid": {"sprockets-otherwise", func(h *finding.House) { h.Sprockets = finding.Floated }, ours,
		func(b *bench) { b.drop("Slacken inlet") }},
	"free while it is laid": {"sprockets-otherwise", func(h *finding.House) { h.Sprockets = finding.Clamped }, func(h *finding.House) { h.Sprockets = finding.Floated },
		func(*bench) {}},
	"six, and then two": {"then-turns", func(h *finding.House) { h.MinTurns, h.ThenTurns = 2, 2 }, ours, func(*bench) {}},
	"six, and then two, done": {"then-turns", func(h *finding.House) { h.MinTurns, h.ThenTurns = 2, 3 }, func(h *finding.House) { h.MinTurns, h.ThenTurns = 2, 2 }, func(b *bench) {
		b.before("Check that every tool", "turn crank 2 turns clockwise")
		b.before("Check that every tool", "check that inlet cam mark stands")
	}},
	"by eye where there is a tool": {"lock-not-tried", ours, func(h *finding.House) { h.Evidence = finding.ByMarks },
		func(b *bench) { b.become("Check that cam bar", "check that inlet cam mark and exhaust cam mark stand") }},
	"held at the flywheel": {"hold-otherwise", func(h *finding.House) { h.CrankHold = finding.HolderOnly }, ours, func(b *bench) {
		b.sheet(func(s *engine.Sheet) {
			s.Locks[b.x.LockAt("sprocket-holder")].Holds = []engine.ShaftID{"crank", "inlet", "exhaust"}
		})
	}},
	"held at the pulley": {"hold-otherwise", func(h *finding.House) { h.CrankHold = finding.LockOnly }, ours, func(b *bench) {
		b.sheet(func(s *engine.Sheet) {
			s.Locks[b.x.LockAt("sprocket-holder")].Holds = []engine.ShaftID{"crank", "inlet", "exhaust"}
		})
		for i := range b.p.Steps {
			if a, ok := b.p.Steps[i].Action.(*step.Tighten); ok && a.Hold == "flywheel-lock" {
				n := *a
				n.Hold = "sprocket-holder"
				b.p.Steps[i].Action = &n
			}
		}
	}},
	"slackened by a gun": {"sprocket-unheld", ours, func(h *finding.House) { h.CrankHold = finding.GunToSlacken }, func(b *bench) {
		b.drop("Fit flywheel lock")
		b.drop("Fit crank pin")
		for i := range b.p.Steps {
			if a, ok := b.p.Steps[i].Action.(*step.Slacken); ok && a.Hold == "flywheel-lock" {
				n := *a
				n.Hold = ""
				b.p.Steps[i].Action = &n
			}
		}
	}},
	"a pump under a new belt": {"rollers-stay", func(h *finding.House) { h.Rollers = finding.AlwaysRenewed }, func(h *finding.House) { h.Rollers = finding.IfWorn },
		func(*bench) {}},
	"always new, and looked at": {"always-new-stays", ours, func(h *finding.House) { h.Rollers = finding.IfWorn }, func(b *bench) {
		b.sheet(func(s *engine.Sheet) {
			s.Parts = slices.Clone(s.Parts)
			s.Parts[b.x.PartAt("water-pump")].Policy = engine.AlwaysNew
		})
	}},
	"renewed if found so": {"renew-contradicts", ours, func(h *finding.House) { h.Rollers = finding.IfWorn }, func(b *bench) {
		b.sheet(func(s *engine.Sheet) {
			s.Parts = slices.Clone(s.Parts)
			s.Parts[b.x.PartAt("water-pump")].Policy = engine.AlwaysNew
		})
	}},
	"painted and not moved": {"loop-off-unfixed", ours, func(h *finding.House) { h.TakingOff = finding.WithPaint }, func(b *bench) {
		b.open("renew-cam-chain-r1.latch.json")
		b.sheet(func(s *engine.Sheet) { s.Limits.Rest = 0 })
		b.before("Take off cam chain", "paint a mark on cam")
		b.before("Take off cam chain", "paint a mark on crank sprocket")
	}},
	"a brief start with the cover off": {"started-open", ours, func(h *finding.House) { h.FirstLook = finding.BriefStart }, func(b *bench) {
		coverLast(b)
		b.p.Steps[b.at("Start engine")].Cautions = []step.Caution{{Text: "Keep hands, hair and sleeves away from the belt."}}
	}},
	"a brief start that warns of nothing": {"started-open", func(h *finding.House) { h.FirstLook = finding.BriefStart }, nil, func(b *bench) {
		coverLast(b)
		b.p.Steps[b.at("Start engine")].Cautions = nil
	}},
	"an old belt back": {"used-belt", func(h *finding.House) { h.UsedBelt = finding.NeverBack }, ours, func(b *bench) {
		b.sheet(func(s *engine.Sheet) {
			s.Parts = slices.Clone(s.Parts)
			s.Parts[b.x.PartAt("timing-belt")].Policy = engine.Reuse
		})
		for i := range b.p.Steps {
			if a, ok := b.p.Steps[i].Action.(*step.Fit); ok {
				n := *a
				n.New = false
				b.p.Steps[i].Action = &n
			}
		}
	}},
	"a vague word": {"vague-word", func(h *finding.House) { h.Vague = []string{"as required"} }, func(h *finding.House) { h.Vague = []string{"quired"} },
		func(b *bench) { b.p.Steps[0].Note = "Turn it on as  Required." }},
	"a part of a word": {"vague-word", func(h *finding.House) { h.Vague = []string{"Fast"} }, func(h *finding.House) { h.Vague = []string{"fas", "ten", "setting"} },
		func(b *bench) { b.p.Steps[0].Note = "Fasten it fast-setting; not fast." }},
}

func ours(*finding.House) {}

// coverLast puts the upper cover on after the start.
func coverLast(b *bench) {
	i := b.at("Refit upper timing cover")
	cover := slices.Clone(b.p.Steps[i : i+2])
	b.p.Steps = append(slices.Delete(b.p.Steps, i, i+2), cover...)
}

// passedBy passes the crank pin by 15°, fits it and turns back onto it.
func passedBy(b *bench) {
	b.become("Turn crank clockwise to inlet", "turn crank clockwise to inlet cam mark")
	b.before("Turn crank clockwise onto crank pin", "turn crank 15° clockwise")
	b.become("Turn crank clockwise onto crank pin", "turn crank counterclockwise onto crank pin")
}

func TestSchools(t *testing.T) {
	for name, c := range schools {
		t.Run(name, func(t *testing.T) {
			b := clean(t)
			b.t = t
			c.make(b)
			under := func(choose func(*finding.House)) *pageproof.Finding {
				h := finding.DefaultHouse()
				choose(&h)
				return has(pageproof.Prove(b.x, b.p, h), c.rule)
			}
			assert.NotNil(t, under(c.found), "%s finds nothing", c.rule)
			if c.other != nil {
				if f := under(c.other); f != nil {
					assert.Fail(t, f.What, c.rule)
				}
			}
		})
	}
}

// Whatever a house chooses, its findings are settled by their own mends.
func TestMendsOfSchools(t *testing.T) {
	h := finding.DefaultHouse()
	h.CrankHold, h.Rollers = finding.HolderOnly, finding.AlwaysRenewed
	b := clean(t)
	b.sheet(func(s *engine.Sheet) {
		s.Locks[b.x.LockAt("sprocket-holder")].Holds = []engine.ShaftID{"crank", "inlet", "exhaust"}
	})
	for _, rule := range []string{"hold-otherwise"} {
		f := has(pageproof.Prove(b.x, b.p, h), rule)
		if assert.NotNil(t, f, rule) {
			assert.NotEmpty(t, f.Mends, rule)
		}
	}
}
