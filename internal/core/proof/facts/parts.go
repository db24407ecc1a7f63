package facts

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// BackAt is where a part belongs back: before the parts that had to be off for
// it, at the latest before the first start.
func (c *Facts) BackAt(p *engine.Part) int {
	at := c.Start()
	for i := range c.Page.Steps {
		r, ok := c.Page.Steps[i].Action.(*step.Refit)
		if !ok || i >= at {
			continue
		}
		for _, id := range r.Parts {
			for _, first := range p.After {
				if id == first {
					return i
				}
			}
		}
	}
	return at
}

// Fastens reports whether the sheet says what a fastener holds.
func (c *Facts) Fastens(f *engine.Fastener) bool {
	if f == nil {
		return false
	}
	s := c.Index.Sheet
	has := func(ids []engine.FastenerID) bool {
		for _, id := range ids {
			if id == f.ID {
				return true
			}
		}
		return false
	}
	for i := range s.Parts {
		if has(s.Parts[i].Held) {
			return true
		}
	}
	for i := range s.Wheels {
		if has(s.Wheels[i].Clamps) {
			return true
		}
	}
	for i := range s.Tensioners {
		if has(s.Tensioners[i].Bolts) {
			return true
		}
	}
	return false
}

// RefitAfter is the step after i that puts a part back, −1 for none.
func (c *Facts) RefitAfter(i int, id engine.PartID) int {
	k := c.Index.PartAt(id)
	for n := i + 1; n < len(c.Run.Steps) && k >= 0; n++ {
		if c.Run.Before(n).Parts[k].Off && !c.Run.Steps[n].After.Parts[k].Off {
			return n
		}
	}
	return -1
}

// TakenOffAfter is the next step after i that takes a loop off, −1 for none.
func (c *Facts) TakenOffAfter(i int, id engine.LoopID) int {
	k := c.Index.LoopAt(id)
	for n := i + 1; n < len(c.Run.Steps) && k >= 0; n++ {
		if c.Run.Before(n).Loops[k].On && !c.Run.Steps[n].After.Loops[k].On {
			return n
		}
	}
	return -1
}

// LastCovered is the last step that works through a cover.
func (c *Facts) LastCovered(id engine.PartID) int {
	last := 0
	Each(c, func(i int, e virtual.Covered) {
		if e.Part == id {
			last = i
		}
	})
	return last
}

// OnSince reports whether a part stays on from one step to another.
func (c *Facts) OnSince(from, to int, id engine.PartID) bool {
	k := c.Index.PartAt(id)
	for n := from; n <= to; n++ {
		if c.Run.Steps[n].After.Parts[k].Off {
			return false
		}
	}
	return true
}

// ActedOn are the fasteners and tensioners a step works at.
func (c *Facts) ActedOn(s *step.Step) ([]*engine.Fastener, []*engine.Tensioner) {
	var fs []*engine.Fastener
	var ts []*engine.Tensioner
	for _, r := range step.Refs(s.Action) {
		switch r.Kind {
		case engine.KindFastener:
			if f := c.Index.Fastener(engine.FastenerID(r.ID)); f != nil {
				fs = append(fs, f)
			}
		case engine.KindTensioner:
			if t := c.Index.Tensioner(engine.TensionerID(r.ID)); t != nil {
				ts = append(ts, t)
			}
		}
	}
	return fs, ts
}

// Tightenings calls f for every tightening step.
func (c *Facts) Tightenings(f func(i int, t *step.Tighten)) {
	for i := range c.Page.Steps {
		if t, ok := c.Page.Steps[i].Action.(*step.Tighten); ok {
			f(i, t)
		}
	}
}
