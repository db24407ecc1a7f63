package drill

import (
	"context"
	"encoding/json"
	"math/bits"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/finding"
)

// Settled are mends for all that a page needs to catch and does not.
type Settled struct {
	Mends []Mend
	// AtLeast is how many of the mends that were tried are needed at the least: as many as
	// there are where no smaller set settles as much.
	AtLeast int
	// Left are the mistakes that no mend was found for.
	Left []Mistake
}

// mostWeighed bounds the mistakes that are weighed against one another, and mostCandidates the
// mends; what is beyond is settled one by one.
const (
	mostWeighed    = 60
	mostCandidates = 90
)

// Settle looks for the smallest set of mends with which a page catches all that it needs to:
// each mend that catches one of the mistakes alone is held against all of them, and the least
// set that covers them is taken and tried together. Where those mends stand in one another's way,
// or the mistakes are very many, they are settled one by one.
func Settle(ctx context.Context, x *engine.Index, p *procedure.Procedure, house finding.House, families House) Settled {
	missed := missedOf(Run(ctx, x, p, Options{House: families}))
	if len(missed) == 0 {
		return Settled{}
	}
	can, atLeast := least(ctx, x, p, missed[:min(len(missed), mostWeighed)], house)
	out := Settled{AtLeast: atLeast}
	found, q := subjects(x, p, house), p
	for _, m := range can {
		if n, ok := with(q, m.Edits); ok && !raises(x, n, house, found) {
			q, out.Mends = n, append(out.Mends, m)
		}
	}
	for i := range missed { // what stands in the way of another, and what was not weighed
		m := &missed[i]
		if len(out.Mends) > 0 && catches(ctx, x, q, m) {
			continue
		}
		mends := Mends(ctx, x, q, m, house)
		if len(mends) == 0 {
			out.Left = append(out.Left, *m)
			continue
		}
		if n, ok := with(q, mends[0].Edits); ok {
			q, out.Mends = n, append(out.Mends, mends[0])
		}
	}
	return out
}

func missedOf(r *Report) []Mistake {
	var out []Mistake
	for i := range r.Mistakes {
		if r.Mistakes[i].Missed() {
			out = append(out, r.Mistakes[i])
		}
	}
	return out
}

// with is a page with edits whose new steps have ids that it does not have.
func with(p *procedure.Procedure, edits []procedure.Edit) (*procedure.Procedure, bool) {
	q, _, err := procedure.Apply(p, edits)
	return q, err == nil
}

// least is the smallest set of mends of mistakes that covers all that any of their mends catch,
// and how many are needed at the least.
func least(ctx context.Context, x *engine.Index, p *procedure.Procedure, missed []Mistake, house finding.House) ([]Mend, int) {
	var mends []Mend
	had := map[string]bool{}
	for i := range missed {
		for _, m := range Mends(ctx, x, p, &missed[i], house) {
			key := sameEdits(m.Edits)
			if !had[key] && len(mends) < mostCandidates {
				had[key] = true
				mends = append(mends, own(m, len(mends)))
			}
		}
	}
	sets := make([]set, len(mends))
	for k := range mends {
		q, ok := with(p, mends[k].Edits)
		if !ok || ctx.Err() != nil {
			continue
		}
		for _, i := range caughtOf(ctx, x, q, missed) {
			sets[k] |= 1 << i
		}
	}
	took, atLeast := cover(len(missed), sets)
	out := make([]Mend, 0, len(took))
	for _, k := range took {
		out = append(out, mends[k])
	}
	return out, atLeast
}

// sameEdits is what two mends with the same edits have in common, whatever the ids of their new
// steps.
func sameEdits(edits []procedure.Edit) string {
	b, err := json.Marshal(own(Mend{Edits: edits}, 0).Edits)
	if err != nil {
		return ""
	}
	return string(b)
}

// own is a mend whose new steps have ids of their own, for it stands beside others.
func own(m Mend, n int) Mend {
	m.Edits = slices.Clone(m.Edits)
	for i := range m.Edits {
		if m.Edits[i].Step != nil && m.Edits[i].Op == procedure.Insert {
			s := *m.Edits[i].Step
			s.ID = settledID(n, i)
			m.Edits[i].Step = &s
		}
	}
	return m
}

// caughtOf are those of some mistakes that a page comes to no harm by, by their places: every
// engine that one of them was missed on is gone through once.
func caughtOf(ctx context.Context, x *engine.Index, p *procedure.Procedure, missed []Mistake) []int {
	on := map[string]*gen{}
	drilled := func(w world, m *Mistake) (Outcome, bool) {
		g := on[w.key()]
		if g == nil {
			g = made(x, p, w)
			on[w.key()] = g
		}
		o := g.again(m)
		if o == nil {
			return "", false
		}
		g.drill(o)
		return o.Outcome, true
	}
	var out []int
	for i := range missed {
		m := &missed[i]
		worlds := []world{m.world}
		if m.On.ID != "" {
			worlds = append(worlds, world{car: p.First(x.Sheet)})
		}
		tried, good := 0, true
		for _, w := range worlds {
			if o, made := drilled(w, m); made {
				tried++
				good = good && o.Good()
			}
		}
		if good && tried > 0 && ctx.Err() == nil {
			out = append(out, i)
		}
	}
	return out
}

// set is a set of numbers below 64, a bit each.
type set uint64

func (s set) has(i int) bool { return s&(1<<i) != 0 }
func (s set) size() int      { return bits.OnesCount64(uint64(s)) }

// mostBranches bounds the search for the least cover.
const mostBranches = 200_000

// cover is the least cover of what sets of n things, at most 64, hold together, found by branch and bound:
// the thing that fewest sets hold is covered by each of them in turn, and a branch is left where
// what is still open cannot be covered by few enough. atLeast is how many sets are needed: as
// many as are taken, unless the search was bounded.
func cover(n int, sets []set) (took []int, atLeast int) {
	var open set
	for _, s := range sets {
		open |= s
	}
	if open.size() == 0 {
		return nil, 0
	}
	best := greedy(open, sets)
	first := bound(open, sets)
	branches := 0
	var down func(open set, so []int)
	down = func(open set, so []int) {
		if branches++; branches > mostBranches {
			return
		}
		if open.size() == 0 {
			if len(so) < len(best) {
				best = slices.Clone(so)
			}
			return
		}
		if len(so)+bound(open, sets) >= len(best) {
			return
		}
		rare, by := -1, 0
		for e := range n {
			if !open.has(e) {
				continue
			}
			if k := holders(sets, e); rare < 0 || k < by {
				rare, by = e, k
			}
		}
		for k := range sets {
			if sets[k].has(rare) {
				down(open&^sets[k], append(so, k))
			}
		}
	}
	down(open, nil)
	slices.Sort(best)
	if branches > mostBranches {
		return best, first
	}
	return best, len(best)
}

// holders is how many sets hold a thing.
func holders(sets []set, e int) (n int) {
	for _, s := range sets {
		if s.has(e) {
			n++
		}
	}
	return n
}

// bound is how many sets are needed at the least for what is open: what the largest of them
// covers of it, again and again.
func bound(open set, sets []set) int {
	most := 0
	for _, s := range sets {
		most = max(most, (open & s).size())
	}
	if most == 0 {
		return 0
	}
	return (open.size() + most - 1) / most
}

// greedy takes the set that covers most of what is open, again and again.
func greedy(open set, sets []set) (took []int) {
	for open.size() > 0 {
		at, most := -1, 0
		for k, s := range sets {
			if n := (open & s).size(); n > most {
				at, most = k, n
			}
		}
		took = append(took, at)
		open &^= sets[at]
	}
	return took
}
