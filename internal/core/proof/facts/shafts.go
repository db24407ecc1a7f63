package facts

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// RefittedLoops are the loops that the page laid on, or hung on a sprocket, anew, with the
// step of the last time.
func (c *Facts) RefittedLoops() map[int]int {
	out := map[int]int{}
	for l := range c.Run.First.Loops {
		if c.Run.First.Loops[l].Refitted { // the page before laid it, and its debts go on
			out[l] = 0
		}
	}
	Each(c, func(i int, e virtual.Laid) { out[c.Index.LoopAt(e.Loop)] = i })
	return out
}

// Undone are the shafts whose tie to the crank the page undid or clamped again.
func (c *Facts) Undone() map[int]bool {
	out := map[int]bool{}
	loops := c.RefittedLoops()
	for k := range c.Index.Sheet.Shafts {
		d := c.Index.Drive(k)
		for l := range loops {
			if slices.Contains(d.Loops, l) {
				out[k] = true
			}
		}
		for _, w := range d.Wheels {
			for i := range c.Run.Steps {
				if c.Run.Steps[i].After.Free[w] {
					out[k] = true
				}
			}
		}
		for _, g := range d.Gears {
			if c.Run.Last().Meshes[g].Relaid {
				out[k] = true
			}
		}
	}
	if len(out) > 0 {
		out[c.Index.ShaftAt(engine.CrankID)] = true
	}
	delete(out, -1)
	return out
}

// ToothOf is the angle of one tooth at a shaft, degrees of it: the largest of
// its toothed wheels; 0 for none.
func (c *Facts) ToothOf(k int) unit.Angle {
	best := 0.0
	for i := range c.Index.Sheet.Wheels {
		if w := &c.Index.Sheet.Wheels[i]; w.Teeth > 0 && c.Index.ShaftAt(w.Shaft) == k {
			best = math.Max(best, 360/float64(w.Teeth))
		}
	}
	return unit.Angle(best)
}

// Sees reports whether a mark shows less than half a tooth of its shaft.
func (c *Facts) Sees(id engine.MarkID) bool {
	m := c.Index.Mark(id)
	return m != nil && c.Shows(c.Index.ShaftAt(c.Index.MarkShaft(m)), unit.Angle(m.Shows))
}

// Shows reports whether so many degrees of a shaft are less than half a tooth of it.
func (c *Facts) Shows(shaft int, degrees unit.Angle) bool {
	if shaft < 0 {
		return false
	}
	tooth := float64(c.ToothOf(shaft))
	return tooth == 0 || float64(degrees) < tooth/2
}

// Looks is who was looked at after step t: by a lock, and by anything that
// shows less than half a tooth.
func (c *Facts) Looks(t int) (byLock, by map[int]bool, any bool) {
	byLock, by = map[int]bool{}, map[int]bool{}
	for i := t + 1; i < len(c.Run.Steps); i++ {
		for _, e := range c.Run.Steps[i].Events {
			switch e := e.(type) {
			case virtual.Looked:
				any = true
				k := c.Index.ShaftAt(e.Shaft)
				if e.Lock != "" {
					byLock[k], by[k] = true, true
				} else if c.Sees(e.Mark) || e.Mark == "" && c.Shows(k, e.Degrees) {
					by[k] = true
				}
			case virtual.MetStop:
				for _, id := range c.Index.Lock(e.Lock).Holds {
					byLock[c.Index.ShaftAt(id)], by[c.Index.ShaftAt(id)] = true, true
				}
			}
		}
	}
	return byLock, by, any
}

// Geared reports whether a shaft, or one that gears alone tie to it, is in a set.
// Gears that were apart, or loose on their shaft, prove nothing of one another.
func (c *Facts) Geared(k int, set map[int]bool) bool {
	for o := range set {
		if c.Index.GearedBut(k, o, c.WheelUndone) {
			return true
		}
	}
	return false
}

// WheelUndone reports whether a wheel was out, or loose on its shaft, at any step.
func (c *Facts) WheelUndone(w int) bool {
	if c.undone == nil {
		c.undone = make([]bool, len(c.Index.Sheet.Wheels))
		for k := range c.undone {
			c.undone[k] = slices.ContainsFunc(c.Run.Steps, func(s virtual.StepTrace) bool {
				return s.After.Free[k] || s.After.Missing(c.Index, k) != ""
			})
		}
	}
	return c.undone[w]
}

// Relaid are the pairs of gears that the page took apart and brought together again,
// with the step of the last time.
func (c *Facts) Relaid() map[int]int {
	out := map[int]int{}
	Each(c, func(i int, e virtual.Meshed) { out[c.Index.GearAt(e.Gear)] = i })
	return out
}

// BehindGear are the shafts that hang on the crank through a pair of gears.
func (c *Facts) BehindGear(g int) []int {
	var out []int
	for k := range c.Index.Sheet.Shafts {
		if slices.Contains(c.Index.Drive(k).Gears, g) {
			out = append(out, k)
		}
	}
	return out
}

// ProofOf are what the sheet has to look at a shaft by: a lock, or a mark that
// shows less than half a tooth.
func (c *Facts) ProofOf(k int) (lock engine.LockID, mark engine.MarkID) {
	for i := range c.Index.Sheet.Locks {
		l := &c.Index.Sheet.Locks[i]
		if !l.Kind.ForPosition() || lock != "" {
			continue
		}
		for _, id := range l.Holds {
			if at := c.Index.ShaftAt(id); at >= 0 && c.Index.GearedBut(at, k, c.WheelUndone) {
				lock = l.ID
			}
		}
	}
	for i := range c.Index.Sheet.Marks {
		m := &c.Index.Sheet.Marks[i]
		if m.Kind == engine.TimingMark && mark == "" && c.Sees(m.ID) {
			if at := c.Index.ShaftAt(c.Index.MarkShaft(m)); at >= 0 && c.Index.GearedBut(at, k, c.WheelUndone) {
				mark = m.ID
			}
		}
	}
	return lock, mark
}

// Proved calls f for every shaft that was undone, with the last step of the
// turns after which it is to be looked at.
func (c *Facts) Proved(f func(k, t int, byLock, by map[int]bool)) {
	fit := -1
	for _, i := range c.RefittedLoops() {
		fit = max(fit, i)
	}
	for _, i := range c.Relaid() {
		fit = max(fit, i)
	}
	t := c.LastTurn(c.Start())
	if t < 0 || t < fit {
		return // another rule says that nothing was turned
	}
	byLock, by, any := c.Looks(t)
	if !any {
		return // and another that nothing was looked at
	}
	undone := c.Undone()
	for k := range c.Index.Sheet.Shafts {
		if undone[k] && c.Index.IsRead(k) {
			f(k, t, byLock, by)
		}
	}
}

// Fits is the last step that lays a loop, or brings gears together behind which
// something is read; −1 for none.
func (c *Facts) Fits() int {
	at := -1
	if len(c.Page.Steps) == 0 {
		return at
	}
	for i := range c.Page.Steps {
		if f, ok := c.Page.Steps[i].Action.(*step.Fit); ok && c.Index.LoopAt(f.Loop) >= 0 {
			at = i
		}
	}
	for _, i := range c.RefittedLoops() {
		at = max(at, i)
	}
	for g, i := range c.Relaid() {
		if slices.ContainsFunc(c.BehindGear(g), c.Index.IsRead) {
			at = max(at, i)
		}
	}
	return at
}

// Turned is how far the crank is turned, either way, from after a step to before another.
func (c *Facts) Turned(from, to int) unit.Angle {
	sum := 0.0
	for i := from + 1; i < min(to, len(c.Run.Steps)); i++ {
		sum += math.Abs(c.Run.Steps[i].After.Crank - c.Run.Before(i).Crank)
	}
	return unit.Angle(sum)
}

// HasStop reports whether the code has a stop that the crank is turned up to.
func (c *Facts) HasStop() bool {
	return slices.ContainsFunc(c.Index.Sheet.Locks, func(l engine.Lock) bool { return l.Kind == engine.StopLock })
}

// LockEvery adds the turns of the crank after which a lock meets its hole again.
func (c *Facts) LockEvery(id engine.LockID, add func(int64)) {
	if l := c.Index.Lock(id); l != nil {
		add(c.Index.LockHomeEvery(l))
	}
}

// LastTurn is the last step before i that turns the crank a turn or more, −1
// for none.
func (c *Facts) LastTurn(i int) int {
	for k := min(i, len(c.Page.Steps)) - 1; k >= 0; k-- {
		switch a := c.Page.Steps[k].Action.(type) {
		case *step.Turn:
			if a.Turns >= 1 && a.Crank() {
				return k
			}
		case *step.Settle:
			if a.Turns >= 1 {
				return k
			}
		}
	}
	return -1
}

// HomeAgain is the first step from t on after which the crank stands home.
func (c *Facts) HomeAgain(t int) int {
	for i := max(t, 0); i < len(c.Run.Steps) && i <= t+3; i++ {
		if d := engine.Wrap(c.Run.Steps[i].After.Crank, 360); d < 0.5 && d > -0.5 {
			return i
		}
	}
	return t
}

// InView reports whether nothing is before a mark at step i.
func (c *Facts) InView(i int, m *engine.Mark) bool {
	k := c.Index.PartAt(m.Behind)
	return k < 0 || c.Run.Before(i).Parts[k].Off
}
