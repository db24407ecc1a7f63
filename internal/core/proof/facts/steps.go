package facts

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// LastStep is the place of the last step, none on an empty page.
func (c *Facts) LastStep() []int {
	if n := len(c.Page.Steps); n > 0 {
		return []int{n - 1}
	}
	return nil
}

// OutWith reports whether a fastener is held to a part that is off in a standing.
func (c *Facts) OutWith(id engine.FastenerID, s virtual.Standing) bool {
	return slices.ContainsFunc(s.Off, func(p engine.PartID) bool {
		part := c.Index.Part(p)
		return part != nil && slices.Contains(part.Held, id)
	})
}

// Start is the place of the first start, or the number of steps.
func (c *Facts) Start() int {
	for i := range c.Page.Steps {
		if c.Does(i).Runs {
			return i
		}
	}
	return len(c.Page.Steps)
}

// Does is what the verb of step i does.
func (c *Facts) Does(i int) *step.Spec { return step.SpecOf(c.Page.Steps[i].Action.Verb()) }

// Starts is how many positions an engine may be found in, counted in turns of the
// crank: every turn of the cycle after which all driven shafts are home.
func (c *Facts) Starts() int64 {
	n := c.Index.CycleHome()
	if c.Index.Sheet.Cycle == engine.FourStroke && n%2 != 0 {
		n *= 2
	}
	return n
}

// LooksAtPosition reports whether anything on the page depends on where the
// engine is found.
func (c *Facts) LooksAtPosition() bool {
	for i := range c.Run.Steps {
		for _, e := range c.Run.Steps[i].Events {
			switch e.(type) {
			case virtual.WentIn, virtual.WouldNotGoIn, virtual.MarkStood, virtual.MarkAway:
				return true
			}
		}
	}
	return false
}

// TriedIn reports whether the steps for when step k fails try the same again.
func (c *Facts) TriedIn(k int) bool {
	return slices.ContainsFunc(c.Page.Branch(k), func(i int) bool {
		return step.SameAction(c.Page.Steps[i].Action, c.Page.Steps[k].Action)
	})
}
