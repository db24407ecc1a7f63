package drill

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/virtual"
)

// FromStepOne makes every mistake of a page on an engine that is taken through it from its
// first step to its last, and gives what came of each by its id.
func FromStepOne(x *engine.Index, p *procedure.Procedure) map[string]*Mistake {
	out := map[string]*Mistake{}
	for _, g := range worlds(x, p) {
		g.make(Families, nil)
		for i := range g.out {
			m := &g.out[i]
			started, _ := virtual.Stood(g.x, g.world.start, p.Begins)
			b := g.bench(started)
			for k := range g.way.Steps {
				b.goes(m, k)
			}
			b.judge(m, false)
			if o := out[m.ID]; o == nil || m.Outcome.rank() > o.Outcome.rank() {
				out[m.ID] = m
			}
		}
	}
	return out
}

// Ends is how the engine stands at the end of a page with each mistake of a family made on it,
// by the step it is made at.
func Ends(x *engine.Index, p *procedure.Procedure, family string) map[int]*virtual.State {
	g := made(x, p, world{car: p.First(x.Sheet)})
	g.family = FamilyOf(family)
	g.family.makes(g)
	out := map[int]*virtual.State{}
	for i := range g.out {
		m := &g.out[i]
		b := g.bench(virtual.Resume(g.x, *g.before(m.at)))
		for k := m.at; k < len(g.way.Steps); k++ {
			b.goes(m, k)
		}
		out[m.at] = b.m.State()
	}
	return out
}

// Cover is the least cover of n things by sets of them: which sets it takes, and how many are
// needed at the least.
func Cover(n int, sets [][]int) (took []int, atLeast int) {
	of := make([]set, len(sets))
	for i, s := range sets {
		for _, e := range s {
			of[i] |= 1 << e
		}
	}
	return cover(n, of)
}
