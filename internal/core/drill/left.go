package drill

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
)

// without is a list without one of its things.
func without[T comparable](all []T, one T) []T {
	return slices.DeleteFunc(slices.Clone(all), func(v T) bool { return v == one })
}

// less is a step done without one of its things: left out where there was but one.
func less(left int, a step.Action) change {
	if left == 0 {
		return skipped{}
	}
	return instead{actions: []step.Action{a}}
}

func locksOut(g *gen) {
	each(g, func(k int, a *step.Lock) {
		for _, id := range a.All() {
			rest := without(a.All(), id)
			v := &step.Lock{}
			if len(rest) > 0 {
				v.Lock, v.Also = rest[0], rest[1:]
			}
			g.put(k, string(id), "", message.F("the %s is not fitted", g.named(engine.KindLock, string(id))), less(len(rest), v))
		}
	})
}

func leftIn(g *gen) {
	each(g, func(k int, a *step.Unlock) {
		for _, id := range a.Locks {
			rest := without(a.Locks, id)
			g.put(k, string(id), "", message.F("the %s is left in", g.named(engine.KindLock, string(id))), less(len(rest), &step.Unlock{Locks: rest}))
		}
	})
	each(g, func(k int, a *step.Release) {
		for _, id := range a.All() {
			if t := g.x.Tensioner(id); t == nil || t.Pin == "" {
				continue
			}
			rest := without(a.All(), id)
			v := &step.Release{}
			if len(rest) > 0 {
				v.Tensioner, v.Also = rest[0], rest[1:]
			}
			g.put(k, string(id), "", message.F("the pin of the %s is left in", g.named(engine.KindTensioner, string(id))), less(len(rest), v))
		}
	})
}

func leftOff(g *gen) {
	each(g, func(k int, a *step.Refit) {
		for _, id := range a.Parts {
			v := *a
			v.Parts = without(a.Parts, id)
			g.put(k, string(id), "", message.F("the %s is left off", g.named(engine.KindPart, string(id))), less(len(v.Parts), &v))
		}
	})
}

func oldParts(g *gen) {
	each(g, func(k int, a *step.Refit) {
		if a.New {
			v := *a
			v.New = false
			g.put(k, "part", "", message.F("the old part goes back: %s", g.list(engine.KindPart, a.Parts)), instead{actions: []step.Action{&v}})
		}
		if a.NewSeal {
			v := *a
			v.NewSeal = false
			g.put(k, "seal", "", message.F("on the old seal: %s", g.list(engine.KindPart, a.Parts)), instead{actions: []step.Action{&v}})
		}
	})
	each(g, func(k int, a *step.Fit) {
		if a.New {
			v := *a
			v.New = false
			g.put(k, string(a.Loop), "", message.F("the old %s goes back on", g.named(engine.KindLoop, string(a.Loop))), instead{actions: []step.Action{&v}})
		}
	})
}

// list names things, the last with an and.
func (g *gen) list(kind engine.Kind, ids []engine.PartID) message.Text {
	if len(ids) == 0 {
		return message.F("nothing")
	}
	out := message.F("%s", g.named(kind, string(ids[0])))
	for _, id := range ids[1:] {
		out = out.And(message.F(", %s", g.named(kind, string(id))))
	}
	return out
}

// otherWay is a used loop that runs the other way round than it did, until it comes off.
type otherWay struct{ id engine.LoopID }

func (c otherWay) do(b *bench, k int) {
	b.does(k)
	b.reversed = c.id
}

// turnedOver are used belts and chains that go back on the other way round.
func turnedOver(g *gen) {
	each(g, func(k int, a *step.Fit) {
		if i := g.x.LoopAt(a.Loop); i >= 0 && !a.New && !g.after(k).Loops[i].New && g.after(k).Loops[i].Refitted {
			g.put(k, string(a.Loop), "", message.F("the used %s goes back the other way round", g.named(engine.KindLoop, string(a.Loop))), otherWay{a.Loop})
		}
	})
}
