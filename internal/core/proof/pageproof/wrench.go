package pageproof

import (
	"errors"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
)

func wrenchRange(c *proving) {
	c.Tightenings(func(i int, a *step.Tighten) {
		w := c.Index.WrenchingWith(c.Page.Steps[i].Tools)
		if w.Wrench == nil {
			return
		}
		// With several wrenches each stage has the one that reaches it.
		var all []engine.Wrenching
		for _, id := range c.Page.Steps[i].Tools {
			if t := c.Index.Tool(id); t != nil && t.IsWrench() {
				all = append(all, engine.Wrenching{Wrench: t, Adapter: w.Adapter, Multiplier: w.Multiplier})
			}
		}
		for _, s := range a.Stages {
			if s.Torque.IsZero() {
				continue
			}
			set, err := w.Setting(s.Torque)
			if err != nil || slices.ContainsFunc(all, func(o engine.Wrenching) bool { return o.Reaches(s.Torque) == nil }) {
				continue
			}
			c.find(message.F("%s takes %s with %s, which shows %s to %s", c.num(i), set, w.Wrench.Number, w.Wrench.Least, w.Wrench.Most), message.F("Outside its range a torque wrench clicks anywhere."), []int{i})
			return
		}
	})
}

// settingUnknown holds that it is known what a wrench is set to behind an adapter or a
// multiplier.
func settingUnknown(c *proving) {
	c.Tightenings(func(i int, a *step.Tighten) {
		w := c.Index.WrenchingWith(c.Page.Steps[i].Tools)
		if !w.Changes() || !slices.ContainsFunc(a.Stages, func(s engine.Stage) bool { return !s.Torque.IsZero() }) {
			return
		}
		with := w.Adapter
		if with == nil {
			with = w.Multiplier
		}
		for _, s := range a.Stages {
			if s.Torque.IsZero() {
				continue
			}
			switch _, err := w.Setting(s.Torque); {
			case err == nil:
			case errors.Is(err, engine.ErrNoLever):
				c.find(message.F("%s uses the %s, and the length of the %s is not known", c.num(i), with.Number, w.Wrench.Number), message.F("Without it nobody knows what the wrench is set to: put it on the sheet, with the tool."), []int{i})
				return
			case !errors.Is(err, engine.ErrNoWrench):
				c.find(message.F("%s uses the %s, with which no torque is set on a wrench", c.num(i), with.Number), message.F("As the sheet has it, it turns the bolt back, or multiplies by nothing."), []int{i})
				return
			default:
				c.find(message.F("%s uses the %s, and names no torque wrench", c.num(i), with.Number), message.F("What the wrench is set to rests on which it is."), []int{i}, c.withWrench(i)...)
				return
			}
		}
	})
}

// withWrench offers each torque wrench of the sheet that reaches what a step tightens to.
func (c *proving) withWrench(i int) (out []Mend) {
	a := c.Page.Steps[i].Action.(*step.Tighten)
	for k := range c.Index.Sheet.Tools {
		t := &c.Index.Sheet.Tools[k]
		w := c.Index.WrenchingWith(append(slices.Clone(c.Page.Steps[i].Tools), t.ID))
		if !t.IsWrench() || slices.ContainsFunc(a.Stages, func(s engine.Stage) bool { return !s.Torque.IsZero() && w.Reaches(s.Torque) != nil }) {
			continue
		}
		s := c.Page.Steps[i]
		s.Tools = append(slices.Clone(s.Tools), t.ID)
		out = append(out, c.put(message.F("With the %s", t.Number), s))
	}
	return out
}

// multiplierUnheld holds that what a multiplier turns against is held.
func multiplierUnheld(c *proving) {
	c.Tightenings(func(i int, a *step.Tighten) {
		w := c.Index.WrenchingWith(c.Page.Steps[i].Tools)
		if w.Multiplier == nil || a.Hold != "" {
			return
		}
		for _, id := range a.Fasteners {
			if f := c.Index.Fastener(id); f != nil && f.OnShaft != "" {
				c.find(message.F("%s multiplies the torque with the %s, and nothing holds the shaft", c.num(i), w.Multiplier.Number), message.F("It turns what it stands on with all of the torque."), []int{i})
				return
			}
		}
	})
}
