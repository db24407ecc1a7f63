package drill

import (
	"math"
	"slices"
	"strconv"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// missed is a tensioner that stands otherwise than it should, though the virtual engine takes
// it for set: beside its place, or before it has settled. Instead is what is done in place of
// the step, nil for the step itself.
type missed struct {
	id      engine.TensionerID
	instead step.Action
	// shows is what a look at it sees, Sure whether it is bound to; empty where it sees nothing.
	shows message.Text
	sure  bool
	comes message.Text
	bad   int
}

func (c missed) do(b *bench, k int) {
	if c.instead != nil {
		b.acts(c.instead)
	} else {
		b.does(k)
	}
	b.missed = &c
}

// setAgain forgets that a tensioner stands otherwise once it is set anew, or let go.
func (b *bench) setAgain(k int) {
	c := b.missed
	if c == nil {
		return
	}
	i := b.x.TensionerAt(c.id)
	if a, ok := b.way.Steps[k].Action.(*step.Set); i < 0 || b.m.State().Tensioners[i].Slack() || ok && slices.Contains(a.All(), c.id) {
		b.missed = nil
	}
}

// tensions are tensioners that are set to another place than they belong to, wound back to it
// after it was passed, or dragged out of it as their bolt is tightened.
func tensions(g *gen) {
	each(g, func(k int, a *step.Set) {
		goal, _ := a.Reaches()
		for _, id := range a.All() {
			t := g.x.Tensioner(id)
			if t == nil || goal != step.GoalPlace {
				continue
			}
			name := g.named(engine.KindTensioner, string(id))
			for _, p := range t.Pointer {
				if len(t.Pointer) > 1 && p.Place != a.To && a.To != "" {
					g.put(k, string(id)+"-"+p.Place, p.Place, message.F("the %s is set by the wrong temperature", name), missed{
						id: id, shows: message.F("the pointer of the %s stands elsewhere", name),
						comes: message.F("the %s is set as for another temperature", name), bad: 6,
					})
				}
			}
			if a.Way != "" {
				g.put(k, string(id)+"-back", "", message.F("the %s is turned past its place and wound back to it", name), missed{
					id: id, shows: message.F("the pointer of the %s has moved in the turns", name),
					comes: message.F("the %s gives way: its slack is on the wrong side of the place", name), bad: 6,
				})
			}
		}
	})
	each(g, func(k int, a *step.Tighten) {
		if t := g.x.Tensioner(a.Holding); t != nil && t.Drags {
			name := g.named(engine.KindTensioner, string(t.ID))
			v := *a
			v.Holding, v.At = "", unit.Quantity{}
			g.put(k, string(t.ID)+"-held", "", message.F("the %s is not held while its bolt is tightened", name), missed{
				id: t.ID, instead: &v, shows: message.F("the %s was dragged out of its place", name), sure: true,
				comes: message.F("the %s is not where it was set", name), bad: 7,
			})
		}
	})
}

// waits are times that are cut short: a tensioner that is looked at before it has settled, and
// sealant that is left too long.
func waits(g *gen) {
	each(g, func(k int, a *step.Wait) {
		full, ok := a.For.Minutes()
		if !ok || full <= 0 {
			return
		}
		for i := range g.x.Sheet.Tensioners {
			t := &g.x.Sheet.Tensioners[i]
			needs, _ := t.Wait.Minutes()
			if needs <= full/2 || g.after(k).Tensioners[i].Slack() {
				continue
			}
			name := g.named(engine.KindTensioner, string(t.ID))
			half := *a
			half.For = unit.Of(a.For.Nominal()/2, a.For.Unit)
			short := missed{id: t.ID, comes: message.F("the %s is judged before it has settled", name), bad: 6}
			for _, c := range []struct {
				how, size string
				what      message.Text
				a         step.Action
			}{{"half", half.For.String(), message.F("half the wait for the %s", name), &half}, {"none", "", message.F("no wait for the %s", name), &step.Wait{}}} {
				short.instead = c.a
				g.put(k, string(t.ID)+"-"+c.how, c.size, c.what, short)
			}
		}
	})
	each(g, func(k int, a *step.Apply) {
		open, ok := a.Open.Minutes()
		p := g.x.Part(a.Part)
		if p == nil || a.What != step.Sealant {
			return
		}
		if !ok || open <= 0 {
			if open, ok = p.Sealant.Minutes(); !ok || open <= 0 {
				return
			}
		}
		late := unit.Of(math.Ceil(float64(open)*1.5), unit.Minute)
		g.put(k, string(a.Part)+"-late", late.String(), message.F("the sealant of the %s is left open too long", g.named(engine.KindPart, string(a.Part))), instead{actions: []step.Action{a, &step.Wait{For: late}}})
	})
}

// halves are shafts that are no cams and lie half a turn out where their loop is laid: their
// marks and holes may look the same there.
func halves(g *gen) {
	g.laid(func(k int, l *engine.Loop, w int) {
		v := &g.x.Sheet.Wheels[w]
		s := g.x.ShaftAt(v.Shaft)
		if s < 0 || v.Teeth%2 != 0 || g.finds(k, v.Shaft) {
			return
		}
		if kind := g.x.Sheet.Shafts[s].Kind; kind != engine.Pump && kind != engine.Balance {
			return
		}
		g.put(k, string(v.ID), "180°", message.F("the %s stands half a turn out as the %s is laid", g.named(engine.KindShaft, string(v.Shaft)), g.named(engine.KindLoop, string(l.ID))),
			moved{off: map[engine.ShaftID]unit.Angle{v.Shaft: 180}, out: v.ID, teeth: v.Teeth / 2})
	})
}

// twins are things that are taken for one another: locks and bolts of one kind on shafts of one
// kind, as they are on two cams.
func twins(g *gen) {
	fasteners := map[engine.FastenerID][]engine.FastenerID{}
	for i := range g.x.Sheet.Fasteners {
		for j := range g.x.Sheet.Fasteners {
			if f, o := &g.x.Sheet.Fasteners[i], &g.x.Sheet.Fasteners[j]; f.Thread == o.Thread && g.alikeShafts(f.OnShaft, o.OnShaft) {
				fasteners[f.ID] = append(fasteners[f.ID], o.ID)
			}
		}
	}
	locks := map[engine.LockID][]engine.LockID{}
	for i := range g.x.Sheet.Locks {
		for j := range g.x.Sheet.Locks {
			if l, o := &g.x.Sheet.Locks[i], &g.x.Sheet.Locks[j]; l.Kind == o.Kind && len(l.Holds) == 1 && len(o.Holds) == 1 && g.alikeShafts(l.Holds[0], o.Holds[0]) {
				locks[l.ID] = append(locks[l.ID], o.ID)
			}
		}
	}
	if len(fasteners)+len(locks) == 0 {
		return
	}
	for k := range g.way.Steps {
		a := g.way.Steps[k].Action
		if step.SpecOf(a.Verb()).Looks() {
			continue
		}
		all := step.Refs(a)
		for _, r := range all {
			var others []string
			switch r.Kind {
			case engine.KindFastener:
				for _, o := range fasteners[engine.FastenerID(r.ID)] {
					others = append(others, string(o))
				}
			case engine.KindLock:
				for _, o := range locks[engine.LockID(r.ID)] {
					others = append(others, string(o))
				}
			}
			for _, o := range others {
				if !slices.Contains(all, engine.Ref{Kind: r.Kind, ID: o}) {
					g.take(k, r, o)
				}
			}
		}
	}
}

// alikeShafts reports whether two shafts are different ones of a kind, all cams being one.
func (g *gen) alikeShafts(a, b engine.ShaftID) bool {
	i, j := g.x.ShaftAt(a), g.x.ShaftAt(b)
	if i < 0 || j < 0 || i == j {
		return false
	}
	k, o := g.x.Sheet.Shafts[i].Kind, g.x.Sheet.Shafts[j].Kind
	return k == o || k.IsCam() && o.IsCam()
}

// take does step k with another thing in place of one.
func (g *gen) take(k int, r engine.Ref, other string) {
	a := step.Clone(g.way.Steps[k].Action)
	step.Rename(a, func(list, id string) string {
		if list == r.Kind.List() && id == r.ID {
			return other
		}
		return id
	})
	g.put(k, r.ID+"-"+other, "", message.F("the %s in place of the %s", g.named(r.Kind, other), g.named(r.Kind, r.ID)), instead{actions: []step.Action{a}})
}

// paintedOff puts an own mark a tooth beside where it belongs.
type paintedOff struct {
	wheel engine.WheelID
	by    float64
}

func (c paintedOff) do(b *bench, k int) {
	b.does(k)
	st := b.m.State()
	st.Paints = slices.Clone(st.Paints)
	for i := range st.Paints {
		if st.Paints[i].Wheel == c.wheel {
			st.Paints[i].Angle += c.by
		}
	}
}

// paints are own marks that are painted a tooth beside their place.
func paints(g *gen) {
	each(g, func(k int, a *step.Paint) {
		if a.Copy {
			return
		}
		for _, id := range a.Wheels {
			v := g.x.Wheel(id)
			if v == nil || v.Teeth == 0 || !slices.ContainsFunc(g.after(k).Paints, func(p virtual.Paint) bool { return p.Wheel == id }) {
				continue
			}
			for _, n := range g.teeth() {
				deg := float64(n) * 360 / float64(v.Teeth)
				way := "late"
				if n > 0 {
					way = "early"
				}
				if n = max(n, -n); n > 1 {
					way += strconv.Itoa(n)
				}
				g.put(k, string(id)+"-"+way, g.size(v.Shaft, math.Abs(deg)), message.F("the mark on the %s is painted %s beside its place", g.named(engine.KindWheel, string(id)), toothCount(n)), paintedOff{id, deg})
			}
		}
	})
}

// otherYears are bolts taken to the value that they have on another engine of the code.
func otherYears(g *gen) {
	each(g, func(k int, a *step.Tighten) {
		written, ok := g.whole.Steps[g.way.Place(k)].Action.(*step.Tighten)
		if !ok || len(written.By) < 2 || a.To != step.ToFinal {
			return
		}
		for n := range written.By {
			by := &written.By[n]
			if engine.StagesText(by.Stages) == engine.StagesText(a.Stages) {
				continue
			}
			for _, id := range a.Fasteners {
				f := g.x.Fastener(id)
				if f == nil {
					continue
				}
				name := g.named(engine.KindFastener, string(id))
				bad, says := judged(f, by.Stages)
				c := wrongly{id: id, spec: by.Stages, bad: bad, comes: message.F("the %s holds otherwise than it should", name)}
				if says != "" {
					c.comes = message.F("the %s: %s", name, message.As(says))
				}
				g.put(k, string(id)+"-"+by.When.Said(), engine.StagesText(by.Stages), message.F("the %s to the value %s", name, message.As(by.When.Said())), c)
			}
		}
	})
}
