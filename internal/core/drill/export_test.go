package drill

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/virtual"
)

// FromStepOne makes every mistake of a page on an engine that is taken through it from its
// first step to its last, and gives what came of each by its id.
func FromStepOne(x *engine.Index, p *procedure.Procedure) map[string]*Mistake {
	g := made(x, p)
	for i := range Families {
		g.family = &Families[i]
		Families[i].makes(g)
	}
	out := map[string]*Mistake{}
	for i := range g.out {
		m := &g.out[i]
		started, _ := virtual.Stood(g.x, 0, p.Begins)
		b := &bench{gen: g, m: started, force: -1}
		for k := range g.way.Steps {
			b.events = nil
			switch {
			case k == m.at:
				m.change.do(b, k)
				b.m = virtual.Resume(g.x, *b.m.State())
			default:
				b.does(k)
			}
			if k >= m.at {
				b.weigh(k)
				b.letGo()
			}
		}
		b.judge(m, false)
		out[m.ID] = m
	}
	return out
}
