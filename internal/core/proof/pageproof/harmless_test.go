package pageproof_test

import (
	"fmt"
	"math"
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
	"inklatch/internal/core/virtual"
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
		for k := max(i-1, 0); k < min(i+1, len(q.Steps)); k++ { // done on the engines of the step it belongs to
			if slices.ContainsFunc(step.Refs(q.Steps[k].Action), func(r engine.Ref) bool { return slices.Contains(step.Refs(a), r) || holds(x, r, a) }) {
				s.When = q.Steps[k].When
			}
		}
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
					if !p.Steps[i].When.All() || !p.Steps[i+1].When.All() {
						break // not done on the same engines
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
			if l := x.Loop(a.Loop); l != nil && l.Starts != "" {
				break // there the sheet has both owed
			}
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
		usual(x, p, i, at, add, insert)
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

// usual are other orders and habits of the bench at a step, each common practice.
func usual(x *engine.Index, p *procedure.Procedure, i int, at string, add func(kind, says string, change func(q *procedure.Procedure)), insert func(q *procedure.Procedure, i int, a step.Action)) {
	t := p.Trace(x, 0, p.First(x.Sheet))
	inView := func(after int) []engine.MarkID {
		var out []engine.MarkID
		for k := range x.Sheet.Marks {
			m := &x.Sheet.Marks[k]
			st := &t.Steps[after].After
			sh := x.ShaftAt(x.MarkShaft(m))
			behind, on := x.PartAt(m.Behind), x.PartAt(m.On)
			hidden := slices.ContainsFunc(x.Sheet.Parts, func(q engine.Part) bool { return slices.Contains(q.Hides, m.Wheel) && !st.Parts[x.PartAt(q.ID)].Off })
			if m.Kind == engine.TimingMark && sh >= 0 && (behind < 0 || st.Parts[behind].Off) && (on < 0 || !st.Parts[on].Off) && !hidden && math.Abs(engine.Wrap(st.Shafts[sh]-m.At, 360)) < 0.01 && st.Found && (x.WheelAt(m.Wheel) < 0 || st.Missing(x, x.WheelAt(m.Wheel)) == "") {
				out = append(out, m.ID)
			}
		}
		return out
	}
	switch a := p.Steps[i].Action.(type) {
	case *step.Tighten:
		if a.To != step.ToFinal || len(a.By) > 0 {
			break
		}
		if len(a.Stages) > 1 && len(a.Fasteners) == 1 {
			add("stages in two steps", at, func(q *procedure.Procedure) {
				one, rest := *a, *a
				one.Stages, rest.Stages = a.Stages[:1], a.Stages[1:]
				q.Steps[i].Action = &rest
				insert(q, i, &one)
			})
		}
		if len(a.Stages) > 0 && a.Stages[0].Torque.Tol > 0 {
			add("a tighter tolerance", at, func(q *procedure.Procedure) {
				n := *a
				n.Stages = slices.Clone(a.Stages)
				n.Stages[0].Torque.Tol /= 2
				n.Stages[0].Torque.AlsoTol /= 2
				q.Steps[i].Action = &n
			})
		}
		add("nipped up first", at, func(q *procedure.Procedure) {
			insert(q, i, &step.Tighten{Fasteners: a.Fasteners, To: step.ToSnug, Hold: a.Hold})
		})
	case *step.Refit:
		if a.New && len(a.Parts) == 1 {
			add("renewed on the bench", at, func(q *procedure.Procedure) {
				n := *a
				n.New = false
				q.Steps[i].Action = &n
				insert(q, i, &step.Renew{Parts: a.Parts})
			})
		}
	case *step.Fit:
		if a.New && a.Loop != "" {
			add("renewed on the bench", at, func(q *procedure.Procedure) {
				n := *a
				n.New = false
				q.Steps[i].Action = &n
				insert(q, i, &step.Renew{Parts: []engine.PartID{x.Loop(a.Loop).Part}})
			})
		}
		if marks := inView(i); len(marks) > 0 {
			add("marks looked at once it lies", at, func(q *procedure.Procedure) { insert(q, i+1, &step.Check{Marks: marks}) })
		}
		for k := range x.Sheet.Shafts {
			s := &x.Sheet.Shafts[k]
			on := x.WheelOn(x.LoopAt(a.Loop), s.ID) >= 0
			others := slices.ContainsFunc(x.Sheet.Shafts, func(o engine.Shaft) bool {
				return o.ID != s.ID && x.WheelOn(x.LoopAt(a.Loop), o.ID) >= 0 && t.Fixed(&t.Steps[i].After, o.ID)
			})
			held := slices.ContainsFunc(x.Sheet.Locks, func(l engine.Lock) bool {
				return t.Steps[i].After.Locks[x.LockAt(l.ID)].In && slices.Contains(l.Holds, s.ID)
			})
			if on && others && !held && t.Steps[i].After.SlackOn(x, x.LoopAt(a.Loop)) {
				turn := &step.Turn{Shaft: s.ID, Degrees: unit.Of(3, unit.Degree), Way: x.Running(s.ID).Opposite()}
				if s.ID == engine.CrankID {
					turn.Shaft = ""
				}
				add("slack taken up", at, func(q *procedure.Procedure) { insert(q, i+1, turn) })
			}
		}
	case *step.Turn:
		if f := crankBolt(x); f != "" && a.Crank() && a.On == "" && t.Before(i).Fasteners[x.FastenerAt(f)].Stage == virtual.Final {
			add("turned by the crank bolt", at, func(q *procedure.Procedure) {
				n := *a
				n.On = f
				q.Steps[i].Action = &n
			})
		}
		undone := slices.Contains(t.Before(i).Free, true) || slices.ContainsFunc(t.Before(i).Loops, func(l virtual.LoopState) bool { return !l.On || l.Refitted })
		if a.To != "" && a.Turns == 0 && !undone {
			add("once more round to the mark", at, func(q *procedure.Procedure) {
				n := *a
				n.Turns = float64(x.CycleHome())
				q.Steps[i].Action = &n
				if !q.Steps[i].Warns(engine.HazardHands) {
					q.Steps[i].Cautions = append(q.Steps[i].Cautions, step.CautionFor(engine.HazardHands))
				}
			})
		}
	case *step.Lock:
		if len(a.All()) == 1 && x.Lock(a.Lock).Kind != engine.StopLock && len(p.Branch(i)) == 0 && len(x.Lock(a.Lock).Screws) == 0 {
			add("tried before it is fitted", at, func(q *procedure.Procedure) {
				if x.Lock(a.Lock).Kind.ForPosition() {
					insert(q, i, &step.Check{Locks: []engine.LockID{a.Lock}})
				}
			})
		}
	case *step.TakeOff:
		if i+1 < len(p.Steps) {
			if r, ok := p.Steps[i+1].Action.(*step.Remove); ok && len(r.Parts) == 1 && len(a.Also) == 0 && !slices.ContainsFunc(x.Sheet.Tensioners, func(t engine.Tensioner) bool { return t.Part == r.Parts[0] }) {
				add("a roller out before the loop is off", at, func(q *procedure.Procedure) { q.Steps[i], q.Steps[i+1] = q.Steps[i+1], q.Steps[i] })
			}
		}
	case *step.Measure:
		add("measured twice", at, func(q *procedure.Procedure) { c := *a; insert(q, i, &c) })
	}
	if st := p.Steps[i]; !st.IfNot && (i+1 >= len(p.Steps) || !p.Steps[i+1].IfNot) && !step.SpecOf(st.Action.Verb()).Runs && i%4 == 0 {
		add("a temperature is measured", at, func(q *procedure.Procedure) {
			insert(q, i+1, &step.Measure{What: "coolant temperature", Value: unit.Of(20, unit.Celsius)})
		})
		add("a wait", at, func(q *procedure.Procedure) {
			if !slices.ContainsFunc(t.Steps[i].After.Sealants, func(virtual.Sealant) bool { return true }) {
				insert(q, i+1, &step.Wait{For: unit.Of(2, unit.Minute)})
			}
		})
	}
}

// crankBolt is a bolt that turns the crank, empty for none.
func crankBolt(x *engine.Index) engine.FastenerID {
	for i := range x.Sheet.Fasteners {
		if f := &x.Sheet.Fasteners[i]; f.OnShaft == engine.CrankID && f.Count == 1 {
			return f.ID
		}
	}
	return ""
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

// holds reports whether an action names a bolt of a part.
func holds(x *engine.Index, part engine.Ref, a step.Action) bool {
	p := x.Part(engine.PartID(part.ID))
	return part.Kind == engine.KindPart && p != nil && slices.ContainsFunc(step.Refs(a), func(r engine.Ref) bool {
		return r.Kind == engine.KindFastener && slices.Contains(p.Held, engine.FastenerID(r.ID))
	})
}
