package adapt

import (
	"reflect"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// values gives a step the values of the other sheet where the sheet has them, and asks
// about those that stay.
func (c *copying) values(i int, s, was *step.Step) {
	switch a := s.Action.(type) {
	case *step.Tighten:
		c.torques(i, a, was.Action.(*step.Tighten))
	case *step.Turn:
		a.Way = c.way(i, a.Way)
	case *step.Set:
		c.settings(i, a)
	case *step.Fill:
		if f := c.from.Fluid(was.Action.(*step.Fill).Fluid); f != nil && !a.Amount.IsZero() && a.Amount.SameValue(f.Amount) {
			if to := c.to.Fluid(a.Fluid); to != nil && !to.Amount.IsZero() {
				c.took(i, "amount", a.Amount.String(), to.Amount.String())
				a.Amount = to.Amount
				return
			}
		}
	case *step.Fit:
		c.order(i, a)
	}
	for _, v := range figures(s.Action) {
		c.ask(i, "It was %s on %s. Is it so on %s?", v, c.from.Sheet.Code, c.to.Sheet.Code)
	}
}

// torques are those of the other sheet where the step says what the first sheet says.
func (c *copying) torques(i int, a, was *step.Tighten) {
	if len(was.Stages)+len(was.By) == 0 || len(a.Fasteners) == 0 {
		return // only so far as it says: finger tight, nipped up
	}
	if f := c.to.Fastener(a.Fasteners[0]); f != nil && f.Pattern != a.Pattern {
		c.took(i, "pattern", a.Pattern, f.Pattern)
		a.Pattern = f.Pattern
	}
	text := func(t *step.Tighten) string {
		if len(t.By) > 0 {
			return step.ByText(t.By)
		}
		return engine.StagesText(t.Stages)
	}
	there := text(was)
	own := slices.ContainsFunc(was.Fasteners, func(id engine.FastenerID) bool {
		spec, by := step.SpecFor(c.from, id)
		return text(&step.Tighten{Stages: spec, By: by}) != there
	})
	if own || was.To != step.ToFinal {
		a.Stages, a.By = nil, nil
		c.ask(i, "It was %s, which is not what the sheet of %s says of it. What is it on %s?", there, c.from.Sheet.Code, c.to.Sheet.Code)
		return
	}
	spec, by := step.SpecFor(c.to, a.Fasteners[0])
	here := text(&step.Tighten{Stages: spec, By: by})
	if here == "" || slices.ContainsFunc(a.Fasteners, func(id engine.FastenerID) bool {
		s, b := step.SpecFor(c.to, id)
		return text(&step.Tighten{Stages: s, By: b}) != here
	}) {
		a.Stages, a.By = nil, nil
		c.ask(i, "It was %s. The sheet of %s gives no torque, or not one for all of them.", there, c.to.Sheet.Code)
		return
	}
	a.Stages, a.By = spec, by
	c.took(i, "torque", there, here)
}

// way is a sense of rotation on the other engine: one that runs the other way round is
// turned the other way.
func (c *copying) way(i int, w engine.Way) engine.Way {
	if w == "" || c.from.Sheet.Running == c.to.Sheet.Running {
		return w
	}
	c.took(i, "turned", string(w), string(w.Opposite()))
	return w.Opposite()
}

// settings are how a tensioner is set on the other engine.
func (c *copying) settings(i int, a *step.Set) {
	if t := c.to.Tensioner(a.Tensioner); t != nil && a.Way != "" {
		if t.Turn == "" {
			c.ask(i, "It was turned %s on %s. Which way is it on %s?", a.Way, c.from.Sheet.Code, c.to.Sheet.Code)
			a.Way = ""
			return
		}
		c.took(i, "turned", string(a.Way), string(t.Turn))
		a.Way = t.Turn
	}
	if a.To != "" {
		c.ask(i, "It was set to %s on %s. Is it so on %s?", a.To, c.from.Sheet.Code, c.to.Sheet.Code)
	}
}

// order asks where a belt or chain is laid over other wheels than it has.
func (c *copying) order(i int, a *step.Fit) {
	l := c.to.Loop(a.Loop)
	if l == nil || len(a.Order) == 0 {
		return
	}
	for _, s := range l.Route {
		if w := c.to.Wheel(s.Wheel); w != nil && w.Mount != engine.Rail && !slices.Contains(a.Order, s.Wheel) {
			c.ask(i, "It is laid over the %s as well on %s. In what order?", w.Name, c.to.Sheet.Code)
		}
	}
}

// figures are the values of an action as they are written, but for torques.
func figures(a step.Action) []string {
	var out []string
	v := reflect.ValueOf(a).Elem()
	for i := range v.NumField() {
		if !v.Type().Field(i).IsExported() {
			continue
		}
		switch f := v.Field(i).Interface().(type) {
		case unit.Quantity:
			if !f.IsZero() {
				out = append(out, f.String())
			}
		case float64:
			if f != 0 {
				out = append(out, turns(f))
			}
		case int:
			if f > 1 {
				out = append(out, unit.Number(float64(f))+" readings")
			}
		}
	}
	return out
}

func turns(n float64) string {
	if n == 1 {
		return "1 turn"
	}
	return unit.Number(n) + " turns"
}
