package pageproof

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// Shafts whose tie to the crank was undone are turned, and looked at afterwards.

// refitted are the loops that the page took off and laid on again, with the step
// of the last time.
func (c *proving) refittedLoops() map[int]int {
	out := map[int]int{}
	for i := range c.t.Steps {
		for l := range c.x.Sheet.Loops {
			if !c.t.Before(i).Loops[l].On && c.t.Steps[i].After.Loops[l].On {
				out[l] = i
			}
		}
	}
	return out
}

// undone are the shafts whose tie to the crank the page undid or clamped again.
func (c *proving) undone() map[int]bool {
	out := map[int]bool{}
	loops := c.refittedLoops()
	for k := range c.x.Sheet.Shafts {
		d := c.x.Drive(k)
		for l := range loops {
			if slices.Contains(d.Loops, l) {
				out[k] = true
			}
		}
		for _, w := range d.Wheels {
			for i := range c.t.Steps {
				if c.t.Steps[i].After.Free[w] {
					out[k] = true
				}
			}
		}
	}
	if len(out) > 0 {
		out[c.x.ShaftAt(engine.CrankID)] = true
	}
	delete(out, -1)
	return out
}

// toothOf is the angle of one tooth at a shaft, degrees of it: the largest of
// its toothed wheels; 0 for none.
func (c *proving) toothOf(k int) float64 {
	best := 0.0
	for i := range c.x.Sheet.Wheels {
		if w := &c.x.Sheet.Wheels[i]; w.Teeth > 0 && c.x.ShaftAt(w.Shaft) == k {
			best = math.Max(best, 360/float64(w.Teeth))
		}
	}
	return best
}

// sees reports whether a mark shows less than half a tooth of its shaft.
func (c *proving) sees(id engine.MarkID) bool {
	m := c.x.Mark(id)
	return m != nil && c.shows(c.x.ShaftAt(c.x.MarkShaft(m)), m.Shows)
}

// shows reports whether so many degrees of a shaft are less than half a tooth of it.
func (c *proving) shows(shaft int, degrees float64) bool {
	if shaft < 0 {
		return false
	}
	tooth := c.toothOf(shaft)
	return tooth == 0 || degrees < tooth/2
}

// looks is who was looked at after step t: by a lock, and by anything that
// shows less than half a tooth.
func (c *proving) looks(t int) (byLock, by map[int]bool, any bool) {
	byLock, by = map[int]bool{}, map[int]bool{}
	for i := t + 1; i < len(c.t.Steps); i++ {
		for _, e := range c.t.Steps[i].Events {
			switch e := e.(type) {
			case virtual.Looked:
				any = true
				k := c.x.ShaftAt(e.Shaft)
				if e.Lock != "" {
					byLock[k], by[k] = true, true
				} else if c.sees(e.Mark) || e.Mark == "" && c.shows(k, e.Degrees) {
					by[k] = true
				}
			case virtual.MetStop:
				for _, id := range c.x.Lock(e.Lock).Holds {
					byLock[c.x.ShaftAt(id)], by[c.x.ShaftAt(id)] = true, true
				}
			}
		}
	}
	return byLock, by, any
}

// geared reports whether a shaft, or one that gears alone tie to it, is in a set.
func (c *proving) geared(k int, set map[int]bool) bool {
	for o := range set {
		if c.x.Geared(k, o) {
			return true
		}
	}
	return false
}

// proofOf are what the sheet has to look at a shaft by: a lock, or a mark that
// shows less than half a tooth.
func (c *proving) proofOf(k int) (lock engine.LockID, mark engine.MarkID) {
	for i := range c.x.Sheet.Locks {
		l := &c.x.Sheet.Locks[i]
		if !l.Kind.ForPosition() || lock != "" {
			continue
		}
		for _, id := range l.Holds {
			if at := c.x.ShaftAt(id); at >= 0 && c.x.Geared(at, k) {
				lock = l.ID
			}
		}
	}
	for i := range c.x.Sheet.Marks {
		m := &c.x.Sheet.Marks[i]
		if m.Kind == engine.TimingMark && mark == "" && c.sees(m.ID) {
			if at := c.x.ShaftAt(c.x.MarkShaft(m)); at >= 0 && c.x.Geared(at, k) {
				mark = m.ID
			}
		}
	}
	return lock, mark
}

// proved calls f for every shaft that was undone, with the last step of the
// turns after which it is to be looked at.
func (c *proving) proved(f func(k, t int, byLock, by map[int]bool)) {
	fit := -1
	for _, i := range c.refittedLoops() {
		fit = max(fit, i)
	}
	t := c.lastTurn(c.start())
	if t < 0 || t < fit {
		return // another rule says that nothing was turned
	}
	byLock, by, any := c.looks(t)
	if !any {
		return // and another that nothing was looked at
	}
	undone := c.undone()
	for k := range c.x.Sheet.Shafts {
		if undone[k] {
			f(k, t, byLock, by)
		}
	}
}

func shaftNotLooked(c *proving) {
	said := map[int]bool{}
	c.proved(func(k, t int, _, by map[int]bool) {
		lock, mark := c.proofOf(k)
		if c.geared(k, by) || c.geared(k, said) || lock == "" && mark == "" {
			return
		}
		said[k] = true
		a := &step.Check{}
		if lock != "" && c.x.Lock(lock).Kind != engine.StopLock {
			a.Locks = []engine.LockID{lock}
		} else if mark != "" {
			a.Marks = []engine.MarkID{mark}
		}
		var mends []Mend
		if len(a.Locks)+len(a.Marks) > 0 {
			mends = append(mends, c.after(c.homeAgain(t), a))
		}
		c.find(message.F("Nobody looks at the %s after the turns of step %d", c.x.Sheet.Shafts[k].Name, c.no(t)), message.F("Its tie to the crank was undone; a tooth out, it would go unnoticed."), []int{t}, mends...)
	})
}

// clampedAfterTurns finds floating wheels that are clamped after the engine was
// turned for the last time: what the turns showed was another clamping.
func clampedAfterTurns(c *proving) {
	end := c.start()
	t := c.lastTurn(end)
	if t < 0 {
		return // another rule says that nothing was turned
	}
	for w := range c.x.Sheet.Wheels {
		k := c.x.ShaftAt(c.x.Sheet.Wheels[w].Shaft)
		for i := t + 1; i < end && k >= 0; i++ {
			if c.t.Before(i).Free[w] && !c.t.Steps[i].After.Free[w] {
				c.find(message.F("%s clamps the %s after the last turns", c.num(i), c.x.Sheet.Wheels[w].Name), message.F("Step %d turned the engine with another clamping. The %s may stand a little off, and only turns show it.", c.no(t), c.x.Sheet.Shafts[k].Name), []int{i, t})
				break
			}
		}
	}
}

func lockNotTried(c *proving) {
	said := map[engine.LockID]bool{}
	c.proved(func(k, t int, byLock, by map[int]bool) {
		lock, _ := c.proofOf(k)
		if lock == "" || said[lock] || c.geared(k, byLock) || !c.geared(k, by) || c.x.Lock(lock).Kind == engine.StopLock {
			return
		}
		said[lock] = true
		c.find(message.F("The %s is proved by eye alone after step %d", c.x.Sheet.Shafts[k].Name, c.no(t)), message.F("The code has the %s for it; a mark is the second look.", c.lock(lock)), []int{t},
			c.after(c.homeAgain(t), &step.Check{Locks: []engine.LockID{lock}}))
	})
}
