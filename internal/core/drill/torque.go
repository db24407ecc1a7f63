package drill

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// ends calls f for every bolt that a step takes to its end, with the stages it gives.
func (g *gen) ends(f func(k int, a *step.Tighten, id engine.FastenerID)) {
	each(g, func(k int, a *step.Tighten) {
		if a.To != step.ToFinal || a.Some > 0 {
			return
		}
		for _, id := range a.Fasteners {
			if g.x.Fastener(id) != nil {
				f(k, a, id)
			}
		}
	})
}

// but is a tightening without one of its bolts, and that one done otherwise after it; nil for
// not at all.
func but(a *step.Tighten, id engine.FastenerID, other step.Action) []step.Action {
	var out []step.Action
	if rest := without(a.Fasteners, id); len(rest) > 0 {
		v := *a
		v.Fasteners = rest
		out = append(out, &v)
	}
	if other != nil {
		out = append(out, other)
	}
	return out
}

func bolts(g *gen) {
	g.ends(func(k int, a *step.Tighten, id engine.FastenerID) {
		name := g.named(engine.KindFastener, string(id))
		g.put(k, string(id), "", message.F("the %s is forgotten", name), instead{actions: but(a, id, nil)})
		if g.before(k).Fasteners[g.x.FastenerAt(id)].Stage == virtual.Finger {
			return // forgotten, it is finger tight
		}
		g.put(k, string(id)+"-finger", "", message.F("the %s is left finger tight", name), instead{actions: but(a, id, &step.Tighten{Fasteners: []engine.FastenerID{id}, To: step.ToFinger})})
	})
}

// wrongly is a bolt taken to its end with other stages than the step gives: on the bench it is
// tight, and nothing there shows it.
type wrongly struct {
	id    engine.FastenerID
	spec  []engine.Stage
	bad   int
	comes message.Text
}

func (c wrongly) do(b *bench, k int) {
	b.does(k)
	b.value, b.wrong = c.id, c
}

func values(g *gen) {
	g.ends(func(k int, a *step.Tighten, id engine.FastenerID) {
		name := g.named(engine.KindFastener, string(id))
		f := g.x.Fastener(id)
		put := func(how string, what message.Text, spec []engine.Stage) {
			bad, says := judged(f, spec)
			c := wrongly{id: id, spec: spec, bad: bad, comes: message.F("the %s holds otherwise than it should", name)}
			if says != "" {
				c.comes = message.F("the %s: %s", name, message.As(says))
			}
			g.put(k, string(id)+"-"+how, engine.StagesText(spec), what, c)
		}
		last := len(a.Stages) - 1
		if last > 0 && !a.Stages[last].Angle.IsZero() {
			put("angle", message.F("the angle of the %s is left out", name), a.Stages[:last])
			put("twice", message.F("the angle of the %s is gone through twice", name), append(slices.Clone(a.Stages), a.Stages[last]))
		}
		if last < 0 || a.Stages[0].Torque.IsZero() {
			return
		}
		if q := a.Stages[0].Torque; q.Unit == unit.NewtonMetre || q.Unit == unit.PoundForceFoot {
			to := unit.PoundForceFoot
			if q.Unit == to {
				to = unit.NewtonMetre
			}
			put("unit", message.F("the %s in the other unit", name), first(a.Stages, unit.Of(q.Nominal(), to)))
		}
		for _, by := range []int{-1, 1} {
			if o := g.neighbour(k, by); o != nil && o.Stages[0].Torque.Nominal() != a.Stages[0].Torque.Nominal() {
				put("neighbour", message.F("the %s to the value of the step beside it", name), o.Stages)
				return
			}
		}
	})
}

// first is stages with another torque to begin with.
func first(spec []engine.Stage, q unit.Quantity) []engine.Stage {
	out := slices.Clone(spec)
	out[0].Torque = q
	return out
}

// neighbour is the nearest tightening to its end before or after a step that gives a torque,
// no further than three steps away; nil for none.
func (g *gen) neighbour(k, by int) *step.Tighten {
	for i := k + by; i >= 0 && i < len(g.way.Steps) && i >= k-3 && i <= k+3; i += by {
		if a, ok := g.way.Steps[i].Action.(*step.Tighten); ok && a.To == step.ToFinal && len(a.Stages) > 0 && !a.Stages[0].Torque.IsZero() {
			return a
		}
	}
	return nil
}

func holds(g *gen) {
	each(g, func(k int, a *step.Tighten) {
		if a.Hold != "" {
			v := *a
			v.Hold = ""
			g.put(k, string(a.Hold), "", message.F("the %s is not used", g.named(engine.KindLock, string(a.Hold))), instead{actions: []step.Action{&v}})
		}
	})
	each(g, func(k int, a *step.Slacken) {
		if a.Hold != "" {
			v := *a
			v.Hold = ""
			g.put(k, string(a.Hold), "", message.F("the %s is not used", g.named(engine.KindLock, string(a.Hold))), instead{actions: []step.Action{&v}})
		}
	})
}
