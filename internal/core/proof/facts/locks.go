package facts

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// WentIn is the step before i at which a lock last went in, −1 for one that was in
// before the first.
func (c *Facts) WentIn(i int, id engine.LockID) int {
	l := c.Index.LockAt(id)
	for k := i - 1; k >= 0; k-- {
		if c.Run.Steps[k].After.Locks[l].In && !c.Run.Before(k).Locks[l].In {
			return k
		}
	}
	return -1
}

// TurnedSince reports whether the crank was turned against a lock after step i.
func (c *Facts) TurnedSince(i int, id engine.LockID) bool {
	for k := i + 1; k < len(c.Run.Steps); k++ {
		for _, e := range c.Run.Steps[k].Events {
			switch e := e.(type) {
			case virtual.CameOut:
				if e.Lock == id {
					return false
				}
			case virtual.TurnedAgainst:
				if e.Lock == id {
					return true
				}
			}
		}
	}
	return false
}

// StopIn is a stop that is fitted before step i.
func (c *Facts) StopIn(i int) engine.LockID {
	st := c.Run.Before(i)
	for k := range c.Index.Sheet.Locks {
		if c.Index.Sheet.Locks[k].Kind == engine.StopLock && st.Locks[k].In {
			return c.Index.Sheet.Locks[k].ID
		}
	}
	return ""
}

// Refitted reports whether a loop has been laid on and turned before step i.
func (c *Facts) Refitted(i int) bool {
	return slices.ContainsFunc(c.Run.Before(i).Loops, func(l virtual.LoopState) bool { return l.Refitted && l.Turned > 0 })
}
