package pageproof_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/unit"
)

// rewrites are other ways to write the same page: nothing on the engine becomes
// different by them, or only what does no harm.
func rewrites(x *engine.Index, p *procedure.Procedure) []damage {
	var out []damage
	add := func(kind, says string, change func(q *procedure.Procedure)) {
		q := *fixture.Copy(&fixture.File{Procedure: *p})
		change(&q.Procedure)
		for i := range q.Procedure.Steps { // what is kept with a reason stays kept
			id := step.ID(fmt.Sprintf("r%d", i))
			for k := range q.Procedure.Steps {
				if a := q.Procedure.Steps[k].Again; a != nil && a.From != "" && a.From == q.Procedure.Steps[i].ID {
					a.From = id
				}
			}
			q.Procedure.Steps[i].ID = id
		}
		out = append(out, damage{kind, says, q.Procedure})
	}
	insert := func(q *procedure.Procedure, i int, a step.Action) {
		phase := q.Steps[min(i, len(q.Steps)-1)].Phase
		// What comes among the steps for when one fails is one of them.
		s := step.Step{Phase: phase, Action: a, IfNot: i < len(q.Steps) && q.Steps[i].IfNot || i > 0 && q.Steps[i-1].IfNot}
		for _, h := range s.Hazards(x) {
			s.Cautions = append(s.Cautions, step.CautionFor(h))
		}
		q.Steps = slices.Insert(q.Steps, i, s)
	}
	after := func(a, b engine.PartID) bool { return slices.Contains(x.Part(a).After, b) }
	battery := func(id engine.PartID) bool { return x.Part(id).Hazard == engine.HazardBattery }
	lastTurn := -1
	for i := range p.Steps {
		at := fmt.Sprintf("%d %s", i+1, en.Sentence(x, p.Steps[i].Action))
		switch a := p.Steps[i].Action.(type) {
		case *step.Remove:
			if i+1 < len(p.Steps) {
				if b, ok := p.Steps[i+1].Action.(*step.Remove); ok && len(a.Parts) == 1 && len(b.Parts) == 1 && !after(b.Parts[0], a.Parts[0]) {
					if !battery(a.Parts[0]) {
						add("removals swapped", at, func(q *procedure.Procedure) { q.Steps[i], q.Steps[i+1] = q.Steps[i+1], q.Steps[i] })
					}
					add("removals in one step", at, func(q *procedure.Procedure) {
						q.Steps[i].Action = &step.Remove{Parts: []engine.PartID{a.Parts[0], b.Parts[0]}}
						q.Steps[i].Cautions = append(q.Steps[i].Cautions, q.Steps[i+1].Cautions...)
						q.Steps[i].Accept = append(q.Steps[i].Accept, q.Steps[i+1].Accept...)
						q.Steps[i].Tools = append(q.Steps[i].Tools, q.Steps[i+1].Tools...)
						q.Steps = slices.Delete(q.Steps, i+1, i+2)
					})
				}
			}
			for _, f := range x.Part(a.Parts[0]).Held {
				if x.Fastener(f).OnShaft == "" && !slackened(p, i, f) {
					add("slackened first", at, func(q *procedure.Procedure) { insert(q, i, &step.Slacken{Fasteners: []engine.FastenerID{f}}) })
				}
			}
		case *step.Unlock:
			for k := range a.Locks {
				if len(a.Locks) > 1 {
					add("taken out one by one", at, func(q *procedure.Procedure) {
						n := *a
						n.Locks = []engine.LockID{a.Locks[k]}
						q.Steps[i].Action = &step.Unlock{Locks: slices.Delete(slices.Clone(a.Locks), k, k+1)}
						insert(q, i, &n)
					})
				}
			}
		case *step.Tighten:
			if a.To != step.ToFinal || len(a.Stages) == 0 {
				continue
			}
			for _, u := range []unit.Unit{"lbf·ft", "kgf·m"} {
				add("in "+string(u), at, func(q *procedure.Procedure) {
					n := *a
					n.Stages = slices.Clone(a.Stages)
					for k := range n.Stages {
						if t := n.Stages[k].Torque; !t.IsZero() {
							v, err := t.First().In(u)
							if err == nil {
								n.Stages[k].Torque = v
							}
						}
					}
					q.Steps[i].Action = &n
				})
			}
			add("finger tight first", at, func(q *procedure.Procedure) {
				insert(q, i, &step.Tighten{Fasteners: a.Fasteners, To: "finger tight"})
			})
			for k := range a.Fasteners {
				if len(a.Fasteners) > 1 {
					add("tightened one by one", at, func(q *procedure.Procedure) {
						one, rest := *a, *a
						one.Fasteners, rest.Fasteners = []engine.FastenerID{a.Fasteners[k]}, slices.Delete(slices.Clone(a.Fasteners), k, k+1)
						q.Steps[i].Action = &rest
						insert(q, i, &one)
						q.Steps[i].Cautions = q.Steps[i+1].Cautions
					})
				}
			}
		case *step.Turn:
			if a.Turns >= 1 {
				lastTurn = i
				n := float64(x.CycleHome())
				add("more turns", at, func(q *procedure.Procedure) {
					t := *a
					t.Turns += n
					q.Steps[i].Action = &t
				})
				add("turned in two", at, func(q *procedure.Procedure) {
					one, two := *a, *a
					one.Turns, one.Short, one.Onto, one.To = n, false, "", ""
					q.Steps[i].Action = &two
					insert(q, i, &one)
				})
			}
			if a.Way != "" {
				add("way left out", at, func(q *procedure.Procedure) {
					t := *a
					t.Way = ""
					q.Steps[i].Action = &t
				})
			}
		case *step.Fit:
			add("order left out", at, func(q *procedure.Procedure) {
				f := *a
				f.Order = nil
				q.Steps[i].Action = &f
			})
			add("slack left out", at, func(q *procedure.Procedure) {
				f := *a
				f.Slack = ""
				q.Steps[i].Action = &f
			})
		case *step.Refit:
			for _, id := range a.Parts {
				if s := x.Part(id).Seal; s != "" && a.NewSeal {
					if i > 0 {
						if r, ok := p.Steps[i-1].Action.(*step.Renew); ok && slices.Contains(r.Parts, s) {
							continue
						}
					}
					add("seal renewed in a step of its own", at, func(q *procedure.Procedure) {
						r := *a
						r.NewSeal = false
						q.Steps[i].Action = &r
						insert(q, i, &step.Renew{Parts: []engine.PartID{s}})
					})
				}
			}
		case *step.Check:
			if len(p.Branch(i)) > 0 {
				break // without what is done when it fails, a second look is not the same
			}
			add("checked twice", at, func(q *procedure.Procedure) {
				c := *a
				insert(q, i, &c)
			})
		case *step.Wait:
			add("waited longer", at, func(q *procedure.Procedure) {
				w := *a
				w.For.Value += 5
				q.Steps[i].Action = &w
			})
		}
		add("a line of free text", at, func(q *procedure.Procedure) { insert(q, i, &step.Do{Text: "Wipe the mating face clean"}) })
		add("a note", at, func(q *procedure.Procedure) { q.Steps[i].Note = "Seen from the front." })
	}
	if lastTurn > 0 {
		for i := lastTurn + 1; i < len(p.Steps); i++ {
			c, ok := p.Steps[i].Action.(*step.Check)
			if !ok || len(c.Locks)+len(c.Marks) == 0 {
				continue
			}
			for k := range x.Sheet.Marks {
				if m := &x.Sheet.Marks[k]; m.Kind == engine.TimingMark && m.At == 0 && m.Behind == "" && m.On == "" {
					add("one more mark checked", m.Name, func(q *procedure.Procedure) { insert(q, i+1, &step.Check{Marks: []engine.MarkID{m.ID}}) })
				}
			}
			break
		}
	}
	return out
}

// slackened reports whether a step before i slackens a fastener.
func slackened(p *procedure.Procedure, i int, id engine.FastenerID) bool {
	for k := range i {
		if a, ok := p.Steps[k].Action.(*step.Slacken); ok && slices.Contains(a.Fasteners, id) {
			return true
		}
		if a, ok := p.Steps[k].Action.(*step.Remove); ok && id == "ratchet-bolt" && slices.Contains(a.Parts, "ratchet") {
			return true
		}
	}
	return false
}

// What does no harm is no finding: an author who is told off for nothing stops
// reading.
func TestHarmlessRewritesStayClean(t *testing.T) {
	n := map[string]int{}
	for _, name := range procedures {
		f := fixture.Document(name)
		x := engine.NewIndex(&f.Engine)
		for _, d := range rewrites(x, &f.Procedure) {
			n[d.kind]++
			for _, g := range pageproof.Found(x, &d.p, nil, finding.DefaultHouse()) {
				assert.NotEmpty(t, g.Accepted, "%s, %s at %s: [%s] %s", f.Engine.Code, d.kind, d.says, g.Rule, g.What)
			}
		}
	}
	require.Greater(t, len(n), 15)
	t.Log(n)
}
