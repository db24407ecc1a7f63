package facts

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// AtRest reports whether loose shafts stand where nothing throws them: every cam among
// them, one at least, where its own springs leave it; or, for shafts that the code has no
// lock for, the crank at the rest position of its sheet. A crank alone is not at rest for
// being the crank.
func (c *Facts) AtRest(i int, loose []engine.ShaftID) bool {
	own, cam := true, false
	for _, id := range loose {
		if id != engine.CrankID {
			cam, own = true, own && c.Run.Before(i).CamAtRest(c.Index, id)
		}
	}
	return own && cam || len(loose) > 0 && !c.Lockable(loose) && c.Run.Before(i).AtRest(c.Index)
}

// Thrown reports whether springs turn a shaft at step i, where its loop comes off.
func (c *Facts) Thrown(i int, id engine.ShaftID) bool {
	return slices.ContainsFunc(c.Run.Steps[i].Events, func(e virtual.Event) bool {
		t, ok := e.(virtual.CamThrown)
		return ok && t.Shaft == id
	})
}

// BroughtBack reports whether a shaft stands at its place, nearer than a tooth, when its
// loop is laid after step i.
func (c *Facts) BroughtBack(i int, loop engine.LoopID, id engine.ShaftID) bool {
	l, k := c.Index.LoopAt(loop), c.Index.ShaftAt(id)
	w := c.Index.WheelOn(l, id)
	if w < 0 || !c.Index.Drive(k).Driven {
		return false
	}
	for n := i + 1; n < len(c.Run.Steps); n++ {
		if st := &c.Run.Steps[n].After; st.Loops[l].On {
			off := engine.Wrap(st.Shafts[k]-c.Index.Drive(k).Ratio.Float()*st.Crank, 360)
			return math.Abs(off) < 180/float64(c.Index.Sheet.Wheels[w].Teeth)
		}
	}
	return false
}

// UnfixedBefore reports whether a loop was taken off with its shafts free before step i.
func (c *Facts) UnfixedBefore(i int, loop engine.LoopID) bool {
	for k := range i {
		for _, e := range c.Run.Steps[k].Events {
			if off, ok := e.(virtual.LoopOffUnlocked); ok && off.Loop == loop {
				return true
			}
		}
	}
	return false
}

// ReleasedAfter reports whether a step from i on lets a tensioner go.
func (c *Facts) ReleasedAfter(i int, id engine.TensionerID) bool {
	for k := max(i, 0); k < len(c.Page.Steps); k++ {
		if a, ok := c.Page.Steps[k].Action.(*step.Release); ok && slices.Contains(a.All(), id) {
			return true
		}
	}
	return false
}

// SameLoopOff reports whether a loop is off after every step from a to b; true for no
// loop.
func (c *Facts) SameLoopOff(a, b int, loop engine.LoopID) bool {
	l := c.Index.LoopAt(loop)
	if l < 0 {
		return true
	}
	for i := a; i <= b; i++ {
		if c.Run.Steps[i].After.Loops[l].On {
			return false
		}
	}
	return true
}

// LayAt is the step after which a loop can be laid: the last that puts back a
// part it runs over.
func (c *Facts) LayAt(loop, off int) int {
	at := off
	for _, s := range c.Index.Sheet.Loops[loop].Route {
		w := c.Index.Wheel(s.Wheel)
		if w == nil || w.Part == "" {
			continue
		}
		if k := c.RefitAfter(off, w.Part); k > at {
			at = k
		}
	}
	return at
}

// FitOf is the step that fits the loop of a tensioner, at or after step i.
func (c *Facts) FitOf(id engine.TensionerID, i int) int {
	for k := max(i, 0); k < len(c.Page.Steps); k++ {
		if f, ok := c.Page.Steps[k].Action.(*step.Fit); ok && c.Index.Loop(f.Loop) != nil && c.Index.Loop(f.Loop).Tensions(id) {
			return k
		}
	}
	return i
}

// FitStep is the last step that lays a loop, −1 for none.
func (c *Facts) FitStep(id engine.LoopID) int {
	for i := range slices.Backward(c.Page.Steps) {
		if f, ok := c.Page.Steps[i].Action.(*step.Fit); ok && f.Loop == id {
			return i
		}
	}
	return -1
}

// RouteParts are the parts of the wheels that refitted loops run over.
func (c *Facts) RouteParts(f func(k, loop, fit int)) {
	loops := c.RefittedLoops()
	said := map[int]bool{}
	for l := range c.Index.Sheet.Loops {
		fit, ok := loops[l]
		if !ok {
			continue
		}
		loop := &c.Index.Sheet.Loops[l]
		var ids []engine.PartID
		for _, s := range loop.Route {
			if w := c.Index.Wheel(s.Wheel); w != nil {
				ids = append(ids, w.Part)
			}
		}
		if t := c.Index.Tensioner(loop.Tensioner); t != nil {
			ids = append(ids, t.Part)
		}
		for _, id := range ids {
			if k := c.Index.PartAt(id); k >= 0 && !said[k] {
				said[k] = true
				f(k, l, fit)
			}
		}
	}
}

// FirstUndone is the first step that takes a loop off, lets a wheel loose on its shaft or
// takes gears apart, −1 for none.
func (c *Facts) FirstUndone() int {
	return slices.IndexFunc(c.Run.Steps, func(s virtual.StepTrace) bool {
		return slices.ContainsFunc(s.After.Loops, func(l virtual.LoopState) bool { return !l.On }) || slices.Contains(s.After.Free, true) ||
			slices.ContainsFunc(s.After.Meshes, func(m virtual.MeshState) bool { return m.Apart })
	})
}

// OffBefore is the step before fit at which a loop comes off.
func (c *Facts) OffBefore(loop, fit int) int {
	for i := fit; i >= 0; i-- {
		if c.Run.Before(i).Loops[loop].On && !c.Run.Steps[i].After.Loops[loop].On {
			return i
		}
	}
	return fit
}

// SetSomewhere reports whether any step sets a tensioner.
func (c *Facts) SetSomewhere(id engine.TensionerID) bool {
	return slices.ContainsFunc(c.Page.Steps, func(s step.Step) bool { a, ok := s.Action.(*step.Set); return ok && slices.Contains(a.All(), id) })
}

// RenewsLoop reports whether a new loop is laid on.
func (c *Facts) RenewsLoop(l int) bool {
	part := c.Index.PartAt(c.Index.Sheet.Loops[l].Part)
	for i := range c.Run.Steps {
		if c.Run.Before(i).Loops[l].On || !c.Run.Steps[i].After.Loops[l].On {
			continue
		}
		if f, ok := c.Page.Steps[i].Action.(*step.Fit); ok && f.New || part >= 0 && c.Run.Steps[i].After.Parts[part].Fresh {
			return true
		}
	}
	return false
}

// Lockable reports whether the code has a lock for position on any of the shafts.
func (c *Facts) Lockable(shafts []engine.ShaftID) bool {
	return slices.ContainsFunc(c.Index.Sheet.Locks, func(l engine.Lock) bool {
		return l.Kind.ForPosition() && slices.ContainsFunc(l.Holds, func(s engine.ShaftID) bool { return slices.Contains(shafts, s) })
	})
}
