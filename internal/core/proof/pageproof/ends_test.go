package pageproof_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/virtual"
)

// halves parts a page before step cut, with both ends stated.
func halves(x *engine.Index, p *procedure.Procedure, cut int) (strip, build *procedure.Procedure) {
	a, b := *p, *p
	a.Steps, b.Steps = slices.Clone(p.Steps[:cut]), slices.Clone(p.Steps[cut:])
	a.Title, b.Title = "Open the drive", "Close the drive"
	mid := virtual.StandingOf(x, p.Trace(x, 0, p.First(x.Sheet)).Before(cut))
	a.Ends, b.Begins, a.Before, b.After = mid, mid, b.Title, a.Title
	return &a, &b
}

// A clean page that is parted while its loop is off is two pages on which nothing
// blocks; the steps that its verbs need are found where the debt is.
func TestAPageInTwoHalves(t *testing.T) {
	for _, name := range procedures {
		whole := fixture.Document(name)
		x := engine.NewIndex(&whole.Engine)
		p := &whole.Procedure
		off := slices.IndexFunc(p.Steps, func(s step.Step) bool { return s.Action.Verb() == "take-off" })
		for cut := off + 1; off >= 0 && cut < len(p.Steps) && p.Steps[cut-1].Action.Verb() != "fit"; cut++ {
			strip, build := halves(x, p, cut)
			for _, half := range []*procedure.Procedure{strip, build} {
				half.Task = procedure.Task{} // what the whole page is for, no half of it does alone
				for _, f := range pageproof.Found(x, half, nil, finding.DefaultHouse()) {
					if f.Rule == "phaser-not-home" || f.Rule == "single-use" || name == "renew-cam-chain-r1.latch.json" && f.Rule == "loop-off-unfixed" {
						continue // what is home or new is said by the page that needs it; the small one has no locks, and keeps that with a reason
					}
					assert.NotEqual(t, finding.Blocks, f.Severity, "%s cut before step %d: %s", name, cut+1, f.What)
				}
			}
		}
	}
}

// The beginning and the end are what counts, not what an author would like: an end
// that is not so, or says less than is open, blocks; so does whatever the second
// half forgets.
func TestAnEndIsHeldAgainstTheEngine(t *testing.T) {
	b := clean(t)
	p := b.p
	cut := b.at("Inspect water pump")
	strip, build := halves(b.x, p, cut)
	for _, tc := range []struct {
		name string
		rule string
		make func(strip, build *procedure.Procedure) *procedure.Procedure
	}{
		{"a lock that is in and not said", "lock-left-in", func(s, _ *procedure.Procedure) *procedure.Procedure {
			s.Ends.In = s.Ends.In[:1]
			return s
		}},
		{"a part that is off and not said", "part-left-off", func(s, _ *procedure.Procedure) *procedure.Procedure {
			s.Ends.Off = slices.DeleteFunc(slices.Clone(s.Ends.Off), func(id engine.PartID) bool { return id == "lower-cover" })
			return s
		}},
		{"a belt that is off and not said", "loop-left-off", func(s, _ *procedure.Procedure) *procedure.Procedure {
			s.Ends.LoopsOff = nil
			return s
		}},
		{"a bolt that is slack and not said", "not-final", func(s, _ *procedure.Procedure) *procedure.Procedure {
			s.Ends.Slack = s.Ends.Slack[:1]
			return s
		}},
		{"said and not so", "ends-otherwise", func(s, _ *procedure.Procedure) *procedure.Procedure {
			s.Ends.In = append(slices.Clone(s.Ends.In), "flywheel-lock")
			return s
		}},
		{"no page after it", "goes-on-from-nothing", func(s, _ *procedure.Procedure) *procedure.Procedure {
			s.Before = ""
			return s
		}},
		{"the cam bar stays in", "turned-against-lock", func(_, p *procedure.Procedure) *procedure.Procedure {
			i := slices.IndexFunc(p.Steps, func(s step.Step) bool { return s.Action.Verb() == "unlock" })
			p.Steps = slices.Delete(slices.Clone(p.Steps), i, i+1)
			return p
		}},
		{"a sprocket bolt never tightened", "not-final", func(_, p *procedure.Procedure) *procedure.Procedure {
			i := slices.IndexFunc(p.Steps, func(s step.Step) bool {
				a, ok := s.Action.(*step.Tighten)
				return ok && slices.Contains(a.Fasteners, "inlet-sprocket-bolt")
			})
			p.Steps = slices.Delete(slices.Clone(p.Steps), i, i+1)
			return p
		}},
		{"locks that go in nowhere together", "begins-impossible", func(_, p *procedure.Procedure) *procedure.Procedure {
			p.Begins.LoopsOff = nil
			b.x.Sheet.Locks[b.x.LockAt("cam-bar")].At = 77
			b.x = engine.NewIndex(b.x.Sheet)
			return p
		}},
	} {
		s, o := *strip, *build
		q := tc.make(&s, &o)
		assert.NotNil(t, has(pageproof.Prove(b.x, q, finding.DefaultHouse()), tc.rule), tc.name)
	}
}

// An engine stands in the middle of a job as the page before it left it: resumed
// there, the rest of the page runs as it does in one piece.
func TestAStandingIsTheStateThePageLeft(t *testing.T) {
	for _, name := range procedures {
		whole := fixture.Document(name)
		x := engine.NewIndex(&whole.Engine)
		p := &whole.Procedure
		run := p.Trace(x, 0, nil)
		for cut := range p.Steps {
			mid := virtual.StandingOf(x, run.Before(cut))
			m, err := virtual.Stood(x, 0, mid)
			require.NoError(t, err, "%s before step %d", name, cut+1)
			assert.Equal(t, mid, virtual.StandingOf(x, m.State()), "%s before step %d", name, cut+1)
			// Nothing is found that panics, wherever a page is cut.
			strip, build := halves(x, p, cut)
			pageproof.Found(x, strip, nil, finding.DefaultHouse())
			pageproof.Found(x, build, nil, finding.DefaultHouse())
		}
	}
}
