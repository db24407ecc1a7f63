package pageproof

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
)

// Shafts whose tie to the crank was undone are turned, and looked at afterwards.

func shaftNotLooked(c *proving) {
	said := map[int]bool{}
	c.Proved(func(k, t int, _, by map[int]bool) {
		lock, mark := c.ProofOf(k)
		if c.Geared(k, by) || c.Geared(k, said) || lock == "" && mark == "" {
			return
		}
		said[k] = true
		a := &step.Check{}
		if lock != "" && c.Index.Lock(lock).Kind != engine.StopLock {
			a.Locks = []engine.LockID{lock}
		} else if mark != "" {
			a.Marks = []engine.MarkID{mark}
		}
		var mends []Mend
		if len(a.Locks)+len(a.Marks) > 0 {
			mends = append(mends, c.after(c.HomeAgain(t), a))
		}
		c.find(message.F("Nobody looks at the %s after the turns of step %d", c.Index.Sheet.Shafts[k].Name, c.no(t)), message.F("Its tie to the crank was undone; a tooth out, it would go unnoticed."), []int{t}, mends...)
	})
}

// clampedAfterTurns finds floating wheels that are clamped after the engine was
// turned for the last time: what the turns showed was another clamping.
func clampedAfterTurns(c *proving) {
	end := c.Start()
	t := c.LastTurn(end)
	if t < 0 {
		return // another rule says that nothing was turned
	}
	for w := range c.Index.Sheet.Wheels {
		k := c.Index.ShaftAt(c.Index.Sheet.Wheels[w].Shaft)
		for i := t + 1; i < end && k >= 0; i++ {
			if c.Run.Before(i).Free[w] && !c.Run.Steps[i].After.Free[w] {
				c.find(message.F("%s clamps the %s after the last turns", c.num(i), c.Index.Sheet.Wheels[w].Name), message.F("Step %d turned the engine with another clamping. The %s may stand a little off, and only turns show it.", c.no(t), c.Index.Sheet.Shafts[k].Name), []int{i, t})
				break
			}
		}
	}
}

func lockNotTried(c *proving) {
	if c.house.Evidence == finding.ByMarks {
		return
	}
	said := map[engine.LockID]bool{}
	c.Proved(func(k, t int, byLock, by map[int]bool) {
		lock, _ := c.ProofOf(k)
		if lock == "" || said[lock] || c.Geared(k, byLock) || !c.Geared(k, by) || c.Index.Lock(lock).Kind == engine.StopLock {
			return
		}
		said[lock] = true
		c.find(message.F("The %s is proved by eye alone after step %d", c.Index.Sheet.Shafts[k].Name, c.no(t)), message.F("The code has the %s for it; a mark is the second look.", c.lock(lock)), []int{t},
			c.after(c.HomeAgain(t), &step.Check{Locks: []engine.LockID{lock}}))
	})
}
