package drill

import (
	"context"
	"fmt"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
)

// Mend is edits with which a mistake is caught, and that raise no finding.
type Mend = finding.Mend[procedure.Edit]

// trial is an edit that may let a page catch a mistake.
type trial struct {
	says  message.Text
	edits []procedure.Edit
}

// mostTrials bounds what is tried for one mistake, and mostMends what is offered.
const (
	mostTrials = 24
	mostMends  = 3
)

// Mends finds edits with which the page catches a mistake of a report of it, the least first:
// looks that are added where nothing else changes. Each was tried: the mistake was made on the
// changed page and came to no harm, and the proof finds nothing there that it did not find
// before.
func Mends(ctx context.Context, x *engine.Index, p *procedure.Procedure, m *Mistake, house finding.House) []Mend {
	g := made(x, p, m.world)
	var out []Mend
	found := subjects(x, p, house)
	for _, t := range g.trials(m, p) {
		if ctx.Err() != nil || len(out) == mostMends {
			break
		}
		q, _, err := procedure.Apply(p, t.edits)
		if err != nil || !catches(ctx, x, q, m) || raises(x, q, house, found) {
			continue
		}
		out = append(out, finding.MendOf(t.says, t.edits))
	}
	return out
}

// catches reports whether a page comes to no harm by a mistake, on the engine where it did and
// on the first.
func catches(ctx context.Context, x *engine.Index, p *procedure.Procedure, m *Mistake) bool {
	on := []world{m.world}
	if first := p.First(x.Sheet); m.On.ID != "" {
		on = append(on, world{car: first})
	}
	tried := 0
	for _, w := range on {
		g := made(x, p, w)
		o := g.again(m)
		if o == nil {
			continue // not made on this engine
		}
		tried++
		if g.drill(o); ctx.Err() != nil || !o.Outcome.Good() {
			return false
		}
	}
	return tried > 0
}

func subjects(x *engine.Index, p *procedure.Procedure, house finding.House) map[finding.Subject]int {
	out := map[finding.Subject]int{}
	fs := pageproof.Found(x, p, nil, house)
	for i := range fs {
		out[fs[i].Subject()]++
	}
	return out
}

// raises reports whether a page has a finding more than was found before.
func raises(x *engine.Index, p *procedure.Procedure, house finding.House, before map[finding.Subject]int) bool {
	for s, n := range subjects(x, p, house) {
		if n > before[s] {
			return true
		}
	}
	return false
}

// trials are what may let a page catch a mistake, the nearest to it first.
func (g *gen) trials(m *Mistake, p *procedure.Procedure) []trial {
	var out []trial
	add := func(k int, says message.Text, a step.Action) {
		if k < 0 || k >= len(g.way.Steps) || len(out) >= mostTrials {
			return
		}
		out = append(out, g.insert(p, k, says, a))
	}
	number := g.number
	at := slices.IndexFunc(g.way.Steps, func(s step.Step) bool { return s.ID == m.MadeAt })
	if at < 0 {
		return nil
	}
	if c, ok := m.change.(early); ok {
		return g.inTime(c, at, p)
	}
	if m.Outcome == Late {
		out = append(out, g.sooner(m, at)...)
	}
	switch a := g.way.Steps[at].Action.(type) {
	case *step.Unlock:
		if k, all := g.outTogether(at); len(all) > len(a.Locks) {
			add(k-1, message.F("Look whether all of them are out, before %s", number(k)), &step.Check{Locks: all, Found: step.FoundOut})
		}
		what := message.F("Look whether all of them are out, after %s", number(at))
		if len(a.Locks) == 1 {
			what = message.F("Look whether it is out, after %s", number(at))
		}
		add(at, what, &step.Check{Locks: a.Locks, Found: step.FoundOut})
		return out // what else would show it has to be turned to first
	case *step.Lock:
		add(at, message.F("Look whether it is in, after %s", number(at)), &step.Check{Locks: a.All(), Found: step.FoundIn})
	case *step.Release:
		for _, id := range a.All() {
			add(at, message.F("Look at the %s after %s", g.named(engine.KindTensioner, string(id)), number(at)), &step.Check{Tensioner: id})
		}
	case *step.Refit:
		add(at, message.F("Look whether it is on, after %s", number(at)), &step.Check{Parts: a.Parts, Found: step.FoundIn})
	case *step.Remove:
		add(at, message.F("Look whether it is off, after %s", number(at)), &step.Check{Parts: a.Parts, Found: step.FoundOut})
	}
	g.timed(at, func(k int, locks []engine.LockID, marks []engine.MarkID) {
		for _, id := range locks {
			add(k, message.F("Try the %s after %s", g.named(engine.KindLock, string(id)), number(k)), &step.Check{Locks: []engine.LockID{id}})
		}
		for _, id := range marks {
			add(k, message.F("Look at the %s after %s", g.named(engine.KindMark, string(id)), number(k)), &step.Check{Marks: []engine.MarkID{id}})
		}
	})
	for k := at; k < len(g.way.Steps); k++ {
		if a, ok := g.way.Steps[k].Action.(*step.Check); ok && a.Tools {
			return out
		}
	}
	each(g, func(k int, _ *step.Start) {
		if k > at {
			add(k-1, message.F("Count the tools before %s", number(k)), &step.Check{Tools: true})
		}
	})
	return out
}

// number says a step of the way by its number on the page.
func (g *gen) number(k int) message.Arg {
	return message.StepAt(string(g.way.Steps[k].ID), fmt.Sprintf("step %d", g.way.Place(k)+1))
}

// insert is a trial that adds a step after step k of the way.
func (g *gen) insert(p *procedure.Procedure, k int, says message.Text, a step.Action) trial {
	s := step.Step{ID: freshID(p), Phase: g.way.Steps[k].Phase, Action: a}
	return trial{says, []procedure.Edit{{Op: procedure.Insert, After: g.way.Steps[k].ID, Step: &s}}}
}

// sooner moves the look that shows a mistake too late to where nothing has been closed yet: before
// the first cover that goes on after the mistake.
func (g *gen) sooner(m *Mistake, at int) []trial {
	first := slices.IndexFunc(m.Seen, func(l Look) bool { return l.Sure })
	if first < 0 {
		return nil
	}
	look := slices.IndexFunc(g.way.Steps, func(s step.Step) bool { return s.ID == m.Seen[first].Step })
	if look < 0 || !step.SpecOf(g.way.Steps[look].Action.Verb()).Looks() {
		return nil
	}
	for k := at + 1; k < look; k++ {
		a, ok := g.way.Steps[k].Action.(*step.Refit)
		if !ok || !slices.ContainsFunc(a.Parts, func(id engine.PartID) bool {
			p := g.x.Part(id)
			return p != nil && p.Kind == engine.Cover
		}) {
			continue
		}
		return []trial{{message.F("Move %s before %s", g.number(look), g.number(k)), []procedure.Edit{{Op: procedure.Move, ID: g.way.Steps[look].ID, After: g.way.Steps[k-1].ID}}}}
	}
	return nil
}

// inTime are looks whether what came out too early is still in, before each step that relies on
// it: a wheel that is clamped, a loop that is laid, a tensioner that is let go.
func (g *gen) inTime(c early, at int, p *procedure.Procedure) []trial {
	var look *step.Check
	to := g.next(c.id, at)
	if to < 0 {
		return nil
	}
	switch a := g.way.Steps[to].Action.(type) {
	case *step.Unlock:
		look = &step.Check{Locks: a.Locks, Found: step.FoundIn}
	case *step.Refit:
		look = &step.Check{Parts: a.Parts, Found: step.FoundOut}
	default:
		return nil
	}
	var out []trial
	for k := at; k < to; k++ {
		switch g.way.Steps[k].Action.(type) {
		case *step.Tighten, *step.Fit, *step.Release, *step.Set:
			if k > 0 {
				says := message.F("Look whether it is in, before %s", g.number(k))
				switch {
				case look.Found == step.FoundOut:
					says = message.F("Look whether it is off, before %s", g.number(k))
				case len(look.Locks) > 1:
					says = message.F("Look whether all of them are in, before %s", g.number(k))
				}
				v := *look
				out = append(out, g.insert(p, k-1, says, &v))
			}
		}
	}
	return out
}

// outTogether is the first step behind an unlocking at which the engine is turned or started,
// and the locks that came out for it, those of the unlocking among them; none where one goes in
// before.
func (g *gen) outTogether(at int) (to int, locks []engine.LockID) {
	over := func(k int) bool {
		switch g.way.Steps[k].Action.(type) {
		case *step.Turn, *step.Start:
			return true
		}
		return false
	}
	from := at
	for from > 0 && !over(from-1) {
		from--
	}
	for to = from; to < len(g.way.Steps) && (to <= at || !over(to)); to++ {
		switch a := g.way.Steps[to].Action.(type) {
		case *step.Unlock:
			locks = append(locks, a.Locks...)
		case *step.Lock:
			if to > at {
				return 0, nil
			}
			locks = nil
		}
	}
	if to == len(g.way.Steps) {
		return 0, nil
	}
	return to, locks
}

// timed calls f for the steps from at on behind which locks go in that are out, and marks stand.
func (g *gen) timed(at int, f func(k int, locks []engine.LockID, marks []engine.MarkID)) {
	for k := at; k < len(g.way.Steps); k++ {
		if _, turns := g.way.Steps[k].Action.(*step.Turn); !turns && k != at {
			continue
		}
		st := g.after(k)
		if st.Adrift {
			continue
		}
		var locks []engine.LockID
		for i := range g.x.Sheet.Locks {
			l := &g.x.Sheet.Locks[i]
			if l.Kind.ForPosition() && l.Kind != engine.StopLock && !st.Locks[i].In && g.stands(k, l.Holds, l.At, float64(l.Period()), float64(l.Freedom())) {
				locks = append(locks, l.ID)
			}
		}
		var marks []engine.MarkID
		for i := range g.x.Sheet.Marks {
			v := &g.x.Sheet.Marks[i]
			if v.Kind == engine.TimingMark && g.stands(k, []engine.ShaftID{g.x.MarkShaft(v)}, v.At, 360, max(v.Shows, 0.5)) {
				marks = append(marks, v.ID)
			}
		}
		f(k, locks, marks)
	}
}

// stands reports whether shafts stand at an angle after step k, degrees.
func (g *gen) stands(k int, ids []engine.ShaftID, at, period, within float64) bool {
	for _, id := range ids {
		i := g.x.ShaftAt(id)
		if i < 0 {
			return false
		}
		if d := engine.Wrap(g.after(k).Shafts[i]-at, period); d > within+hair || d < -within-hair {
			return false
		}
	}
	return len(ids) > 0
}

// freshID is an id that no step of a page has.
func freshID(p *procedure.Procedure) step.ID {
	for n := len(p.Steps) + 1; ; n++ {
		if id := step.ID(fmt.Sprintf("drill-%d", n)); p.At(id) < 0 {
			return id
		}
	}
}

// settledID is the id of a step of the nth mend that stands beside others.
func settledID(n, i int) step.ID {
	return step.ID(fmt.Sprintf("drill-%d-%d", n+1, i+1))
}
