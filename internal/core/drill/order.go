package drill

import (
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// skipped leaves a step out.
type skipped struct{}

func (skipped) do(*bench, int) {}

// over leaves a step out and those after it, before step to of the way.
type over struct{ to int }

func (c over) do(b *bench, k int) {
	for i := k + 1; i < c.to; i++ {
		b.leave(i)
	}
}

// leave lets step k of the way be passed over when it is come to.
func (b *bench) leave(k int) {
	if b.skips == nil {
		b.skips = map[int]bool{}
	}
	b.skips[k] = true
}

// swapped does the next step first, and this one in its place.
type swapped struct{}

func (swapped) do(b *bench, k int) {
	b.of, b.late = k+1, k
	b.does(k + 1)
}

// early does a later step before this one, and not again when it is come to.
type early struct{ id step.ID }

func (c early) do(b *bench, k int) {
	if at := b.next(c.id, k); at > 0 {
		b.of = at
		b.does(at)
		b.weigh(at, k)
		b.events, b.of = nil, k
		b.leave(at)
	}
	b.does(k)
}

// next is where the way comes to a step next after place k of it, −1 for never.
func (g *gen) next(id step.ID, k int) int {
	for i := k + 1; i < len(g.way.Steps); i++ {
		if g.way.Steps[i].ID == id {
			return i
		}
	}
	return -1
}

// again is a mistake of a report as it is made on this page, which may have more steps; nil where
// it cannot be made there. What the family made before is forgotten.
func (g *gen) again(m *Mistake) *Mistake {
	if g.family != m.Family {
		g.family, g.out, g.ids = m.Family, nil, map[string]bool{}
		m.Family.makes(g)
	}
	if i := slices.IndexFunc(g.out, func(o Mistake) bool { return o.ID == m.ID }); i >= 0 {
		return &g.out[i]
	}
	if c, ok := m.change.(early); ok { // it is as early as it was, by more steps
		if at := g.next(m.MadeAt, -1); at >= 0 && g.next(c.id, at) > 0 {
			o := *m
			o.at, o.Place = at, g.way.Place(at)
			return &o
		}
	}
	return nil
}

// plain are the verbs whose steps are left out by families of their own, or whose steps do
// nothing to the engine.
var plain = []step.Verb{"lock", "unlock", "release", "refit", "tighten", "fit", "start", "do", "reset"}

func leftOut(g *gen) {
	for k := range g.way.Steps {
		a := g.way.Steps[k].Action
		if slices.Contains(plain, a.Verb()) || step.SpecOf(a.Verb()).Looks() {
			continue
		}
		g.put(k, "step", "", message.F("left out: %s", g.quoted(k)), skipped{})
	}
}

// quoted is step k of the way as it is written, within a sentence.
func (g *gen) quoted(k int) message.Text {
	return message.As(strings.TrimSuffix(g.sentence(k), "."))
}

func exchanged(g *gen) {
	for k := range len(g.way.Steps) - 1 {
		a, b := &g.way.Steps[k], &g.way.Steps[k+1]
		if a.Action.Verb() == "do" || b.Action.Verb() == "do" || a.IfNot || b.IfNot {
			continue
		}
		g.put(k, "next", "", message.F("the next step first: %s", g.quoted(k+1)), swapped{})
	}
}

// hasty reports whether step k is one that is done before its time: a lock or pin that seems to be
// in the way comes out, a bolt that clamps a wheel is tightened while the wrench is at hand, what
// seems done is closed.
func (g *gen) hasty(k int) bool {
	switch a := g.way.Steps[k].Action.(type) {
	case *step.Unlock, *step.Release:
		return true
	case *step.Refit:
		return slices.ContainsFunc(a.Parts, func(id engine.PartID) bool {
			p := g.x.Part(id)
			return p != nil && p.Kind == engine.Cover
		})
	case *step.Tighten:
		return a.To == step.ToFinal && slices.ContainsFunc(a.Fasteners, func(id engine.FastenerID) bool {
			i := g.x.FastenerAt(id)
			return i >= 0 && (g.x.Sheet.Fasteners[i].OnShaft != "" || len(g.x.ClampedBy(i)) > 0)
		})
	}
	return false
}

// canBeDone reports whether step k can be done in place of step at: nothing stops it there.
func (g *gen) canBeDone(k, at int) bool {
	b := g.bench(virtual.Resume(g.x, *g.before(at)))
	b.of = k
	b.does(k)
	return !slices.ContainsFunc(b.events, func(e virtual.Event) bool { return b.noticed(k, e).how == stop })
}

// tooEarly are such steps done before those that they come after.
func tooEarly(g *gen) {
	for k := range g.way.Steps {
		s := &g.way.Steps[k]
		if s.IfNot || !g.hasty(k) {
			continue
		}
		for _, n := range g.family.Sizes {
			at := k - int(n)
			if at < 0 || slices.ContainsFunc(g.way.Steps[at:k], func(o step.Step) bool { return o.IfNot }) || !g.canBeDone(k, at) {
				continue
			}
			g.put(at, string(s.ID)+"-"+strconv.Itoa(int(n)), strconv.Itoa(int(n))+" steps", message.F("done here already: %s", g.quoted(k)), early{s.ID})
		}
	}
}

// passedOver are the steps for when a look fails that are not done though it does: the work goes
// on behind them.
func passedOver(g *gen) {
	for k := 1; k < len(g.way.Steps); k++ {
		if !g.way.Steps[k].IfNot || g.way.Steps[k-1].IfNot {
			continue
		}
		last := g.way.Place(k)
		for i := last; i < len(g.whole.Steps) && g.whole.Steps[i].IfNot; i++ {
			last = i
		}
		to := k + 1
		for to < len(g.way.Steps) && g.way.Place(to) <= last {
			to++
		}
		g.put(k, "if-not", "", message.F("passed over, though the look fails: %s", g.quoted(k)), over{to})
	}
}
