package drill

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/resolution"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// size is an angle of a shaft with what it is of the crank.
func (g *gen) size(id engine.ShaftID, deg float64) string {
	i := g.x.ShaftAt(id)
	if i < 0 || id == engine.CrankID || !g.x.Drive(i).Driven {
		return degrees(deg) + "°"
	}
	return fmt.Sprintf("%s°, %s° crank", degrees(deg), degrees(deg/math.Abs(g.x.Drive(i).Ratio.Float())))
}

// signed are shafts that stand off, early or late.
func signed(off map[engine.ShaftID]float64, way float64) map[engine.ShaftID]unit.Angle {
	out := make(map[engine.ShaftID]unit.Angle, len(off))
	for id, by := range off {
		if id != engine.CrankID {
			out[id] = unit.Angle(way * by)
		}
	}
	return out
}

func earlyOrLate(way float64) message.Text {
	if way < 0 {
		return message.F("late")
	}
	return message.F("early")
}

// laid calls f for every toothed wheel of every loop that is laid, but for those that turn on
// nothing and those whose part is off.
func (g *gen) laid(f func(k int, l *engine.Loop, w int)) {
	each(g, func(k int, a *step.Fit) {
		l := g.x.Loop(a.Loop)
		if l == nil || !g.after(k).Loops[g.x.LoopAt(a.Loop)].On {
			return
		}
		for _, stop := range l.Route {
			w := g.x.WheelAt(stop.Wheel)
			if w < 0 {
				continue
			}
			if v := &g.x.Sheet.Wheels[w]; v.Teeth > 0 && v.Shaft != "" && v.Mount != engine.Idle && v.Mount != engine.Rail && g.before(k).Missing(g.x, w) == "" {
				f(k, l, w)
			}
		}
	})
}

// teeth are the toothed wheels of every loop that is laid, one and two teeth out either way.
// What hangs on a sprocket that is loose on its shaft finds its place when that is clamped.
func teeth(g *gen) {
	g.laid(func(k int, l *engine.Loop, w int) {
		v := &g.x.Sheet.Wheels[w]
		for _, n := range g.teeth() {
			deg := float64(n) * 360 / float64(v.Teeth)
			off := resolution.Moved(g.x, w, unit.Angle(math.Abs(deg)))
			if len(off) == 0 {
				continue
			}
			var why []message.Text
			for id := range off {
				if g.finds(k, id) {
					delete(off, id)
				}
			}
			if len(off) == 0 {
				why = append(why, message.F("a sprocket is loose on its shaft when it is laid, and finds its place"))
			}
			way := math.Copysign(1, deg)
			g.put(k, fmt.Sprintf("%s%+d", v.ID, n), g.size(v.Shaft, math.Abs(deg)),
				message.F("%s on the %s, %s %s", g.named(engine.KindLoop, string(l.ID)), g.named(engine.KindWheel, string(v.ID)), toothCount(n), earlyOrLate(way)),
				moved{off: signed(off, way), out: v.ID, teeth: n}, why...)
		}
	})
}

// slacks are loops laid with their slack before a driven wheel, on the run that pulls: what is
// drawn over that wheel when tension comes on leaves its shaft late, by less than a tooth.
func slacks(g *gen) {
	g.laid(func(k int, l *engine.Loop, w int) {
		v := &g.x.Sheet.Wheels[w]
		if v.Shaft == engine.CrankID || len(l.Tensioners()) == 0 {
			return
		}
		for _, part := range g.family.Sizes {
			deg := part * 360 / float64(v.Teeth)
			off := resolution.Moved(g.x, w, unit.Angle(deg))
			var why []message.Text
			for id := range off {
				if g.finds(k, id) {
					delete(off, id)
				}
			}
			if len(off) == 0 {
				why = append(why, message.F("a sprocket is loose on its shaft when it is laid, and finds its place"))
			}
			g.put(k, fmt.Sprintf("%s-%g", v.ID, part), g.size(v.Shaft, deg),
				message.F("the slack of the %s is left before the %s, which comes late", g.named(engine.KindLoop, string(l.ID)), g.named(engine.KindWheel, string(v.ID))),
				moved{off: signed(off, -1)}, why...)
		}
	})
}

// phasers are phasers off their home stop as their loop is laid over them: the cam stands right in
// its lock, and goes with the phaser once that finds its stop.
func phasers(g *gen) {
	g.laid(func(k int, l *engine.Loop, w int) {
		v := &g.x.Sheet.Wheels[w]
		if v.Mount != engine.Phaser || g.before(k).Away[w] {
			return
		}
		for _, deg := range g.family.Sizes {
			if v.Range > 0 && deg > float64(v.Range) {
				continue
			}
			way := -1.0 // home is late: it stood early
			if v.Home == engine.Advanced {
				way = 1
			}
			off := resolution.Moved(g.x, w, unit.Angle(deg))
			if len(off) == 0 {
				continue
			}
			g.put(k, fmt.Sprintf("%s-%g", v.ID, deg), g.size(v.Shaft, deg),
				message.F("the phaser of the %s is off its stop as the %s is laid", g.named(engine.KindWheel, string(v.ID)), g.named(engine.KindLoop, string(l.ID))), moved{off: signed(off, way)})
		}
	})
}

// teeth are the sizes of the family in whole teeth, either way.
func (g *gen) teeth() []int {
	var out []int
	for _, n := range g.family.Sizes {
		out = append(out, int(n), -int(n))
	}
	return out
}

// toothCount is so many teeth, in words.
func toothCount(n int) message.Text {
	switch max(n, -n) {
	case 1:
		return message.F("a tooth")
	case 2:
		return message.F("two teeth")
	}
	return message.F("%d teeth", max(n, -n))
}

// finds reports whether a shaft finds its place whatever tooth its loop lies on: a wheel
// between it and the crank is loose when the loop is laid.
func (g *gen) finds(k int, id engine.ShaftID) bool {
	i := g.x.ShaftAt(id)
	for _, w := range g.x.Drive(i).Wheels {
		if g.after(k).Free[w] {
			return true
		}
	}
	return false
}

// slips are floating wheels that move on their shaft while they are clamped.
func slips(g *gen) {
	for k := range g.way.Steps {
		for w, free := range g.before(k).Free {
			if !free || g.after(k).Free[w] {
				continue
			}
			v := &g.x.Sheet.Wheels[w]
			sizes := g.family.Sizes
			if play := g.play(k, v.Shaft); play > 0 && (len(sizes) == 0 || play < slices.Min(sizes)) {
				sizes = append([]float64{play}, sizes...)
			}
			for _, deg := range sizes {
				for _, way := range []float64{1, -1} {
					off := resolution.Moved(g.x, w, unit.Angle(deg))
					if len(off) == 0 {
						continue
					}
					g.put(k, fmt.Sprintf("%s%+g", v.ID, way*deg), g.size(v.Shaft, deg),
						message.F("the %s slips as it is clamped, %s", g.named(engine.KindWheel, string(v.ID)), earlyOrLate(way)), moved{off: signed(off, way)})
				}
			}
		}
	}
}

// play is how far a shaft may stand off in the lock that holds it, degrees of it; 0 for none.
func (g *gen) play(k int, id engine.ShaftID) float64 {
	for i := range g.x.Sheet.Locks {
		l := &g.x.Sheet.Locks[i]
		if !l.Kind.ForPosition() || !g.before(k).Locks[i].Holds(l.Kind) {
			continue
		}
		for _, h := range l.Holds {
			if h == id {
				return float64(l.Freedom())
			}
		}
	}
	return 0
}

// aims are the steps that turn the crank to a place.
func (g *gen) aims(f func(k int, a *step.Turn)) {
	each(g, func(k int, a *step.Turn) {
		if a.Crank() && (a.To != "" || a.Onto != "" || a.Into != "" || a.Painted || a.Until != "") {
			f(k, a)
		}
	})
}

// strokes are the crank one turn too far where it is first brought to its place: the last aim
// before the first lock for position is fitted, or the first one of a page without.
func strokes(g *gen) {
	if g.x.Sheet.Cycle != engine.FourStroke {
		return
	}
	locked := len(g.way.Steps)
	each(g, func(k int, a *step.Lock) {
		for _, id := range a.All() {
			if l := g.x.Lock(id); l != nil && l.Kind.ForPosition() && l.Kind != engine.StopLock {
				locked = min(locked, k)
			}
		}
	})
	at := -1
	g.aims(func(k int, a *step.Turn) {
		if k > locked || anyIn(g.x, g.before(k)) {
			return
		}
		if at < 0 || locked < len(g.way.Steps) {
			at = k
		}
	})
	if at >= 0 {
		g.put(at, "crank", "360°", message.F("the crank is brought to its place one turn too far: the other stroke"), turned{360})
	}
}

// anyIn reports whether a lock for position is in.
func anyIn(x *engine.Index, st *virtual.State) bool {
	for i := range st.Locks {
		if st.Locks[i].In && x.Sheet.Locks[i].Kind.ForPosition() {
			return true
		}
	}
	return false
}

// stops are the crank short of a stop that it comes up to.
func stops(g *gen) {
	g.aims(func(k int, a *step.Turn) {
		l := g.x.Lock(a.Onto)
		if l == nil || a.Short || g.x.LockAt(a.Onto) < 0 || !g.after(k).Locks[g.x.LockAt(a.Onto)].Met {
			return
		}
		for _, by := range g.family.Sizes {
			g.put(k, fmt.Sprintf("%s-%g", a.Onto, by), g.size(engine.CrankID, by), message.F("the crank stays short of the %s", g.named(engine.KindLock, string(l.ID))), short{unit.Angle(by)})
		}
	})
}

// lookAlikes are what is taken for a mark that the crank is turned to.
func lookAlikes(g *gen) {
	g.aims(func(k int, a *step.Turn) {
		m := g.x.Mark(a.To)
		if m == nil {
			return
		}
		shaft := g.x.ShaftAt(g.x.MarkShaft(m))
		if shaft < 0 || !g.x.Drive(shaft).Driven {
			return
		}
		for i := range g.x.Sheet.Marks {
			o := &g.x.Sheet.Marks[i]
			if o.Kind != engine.LookAlike || g.x.MarkShaft(o) != g.x.MarkShaft(m) {
				continue
			}
			by := engine.Wrap(o.At-m.At, 360) / g.x.Drive(shaft).Ratio.Float()
			if math.Abs(by) < hair || anyIn(g.x, g.before(k)) {
				continue
			}
			g.put(k, string(m.ID)+"-"+string(o.ID), g.size(engine.CrankID, math.Abs(by)), message.F("the %s is taken for the %s", g.named(engine.KindMark, string(o.ID)), g.named(engine.KindMark, string(m.ID))), turned{unit.Angle(by)})
		}
	})
}

// turns are steps that turn the engine by whole turns: one less, one more, the wrong way.
func turns(g *gen) {
	each(g, func(k int, a *step.Turn) {
		if !a.Crank() || a.Turns < 1 {
			return
		}
		for _, n := range []float64{-1, 1} {
			v := *a
			v.Turns += n
			what := message.F("one turn too few")
			if n > 0 {
				what = message.F("one turn too many")
			}
			g.put(k, fmt.Sprintf("turns%+g", n), unit.Number(v.Turns), what, instead{actions: []step.Action{&v}})
		}
		v := *a
		v.Way = g.x.Running("").Opposite()
		if a.Way == v.Way {
			v.Way = g.x.Running("")
		}
		g.put(k, "way", "", message.F("turned the wrong way round"), instead{actions: []step.Action{&v}})
	})
}
