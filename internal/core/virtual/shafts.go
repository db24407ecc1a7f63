package virtual

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// turnShaft turns a shaft that is not the crank. Tied to it, it turns the whole
// engine; otherwise what is tied to the shaft alone.
func (m *Machine) turnShaft(t Turning) {
	x := m.Index
	k := x.ShaftAt(t.Shaft)
	if k < 0 {
		m.Unknown(string(t.Shaft))
		return
	}
	m.turnedBy(t.On)
	delta, way := t.Turns*360+float64(t.Degrees), 1.0
	if t.Backwards {
		delta, way = -delta, -1
	}
	if mark := x.Mark(t.To); mark != nil {
		m.readable(mark)
		if x.MarkShaft(mark) == t.Shaft {
			delta += toward(mark.At-m.cur.Shafts[k]-delta, 360, way)
		} else {
			m.note(ElsewhereMark{Mark: t.To, Shaft: t.Shaft})
		}
	} else if t.To != "" {
		m.Unknown(string(t.To))
	}
	for _, id := range t.Also {
		m.note(ElsewhereMark{Mark: id, Shaft: t.Shaft})
	}
	if r := x.Reading(t.Until); r != nil && r.Shaft == t.Shaft {
		m.reachable(r)
		delta += m.nearer(toward(r.At-m.cur.Shafts[k]-delta, 360, way), way, k, t)
	} else if t.Until != "" {
		m.note(ElsewhereMark{Reading: t.Until, Shaft: t.Shaft})
	}
	if t.Painted { // paint is read on the crank’s way round
		m.note(PaintMissing{})
	}
	if t.Onto != "" { // stops are met by the crank
		m.note(ElsewhereMark{Lock: t.Onto, Shaft: t.Shaft})
	}
	if l := x.Lock(t.Into); l != nil && slices.Contains(l.Holds, t.Shaft) {
		delta += toward(l.At-m.cur.Shafts[k]-delta, float64(l.Period()), way)
	} else if l != nil {
		m.note(ElsewhereMark{Lock: t.Into, Shaft: t.Shaft})
	} else if t.Into != "" {
		m.Unknown(string(t.Into))
	}
	if t.Short {
		delta -= way * ShortBy
	}
	if t.To == "" && t.Into == "" && t.Onto == "" && t.Until == "" && m.takesUp(t.Shaft, delta) {
		return
	}
	moved := m.group(k)
	if by, tied := moved[x.ShaftAt(engine.CrankID)]; tied {
		m.rotate(delta * by)
	} else {
		m.rotateGroup(k, delta, moved)
	}
	if x.LockAt(t.Into) >= 0 {
		m.FitLock(t.Into)
	}
	if r := x.Reading(t.Until); r != nil && r.Shaft == t.Shaft {
		m.Gauge(t.Until)
	}
}

// nearer is the travel of a shaft whose wheel is loose in its slots to where a reading is
// met, the nearer way where the page does not say which: its slots let it go no further.
func (m *Machine) nearer(ahead, way float64, k int, t Turning) float64 {
	if t.Stated || m.tiedNow(m.Index.Sheet.Shafts[k].ID) || math.Abs(ahead) <= 180 {
		return ahead
	}
	return ahead - way*360
}

// Slip puts a shaft, and what gears alone tie to it, out of step with all else by some
// degrees of it: an engine on which something has gone wrong.
func (m *Machine) Slip(id engine.ShaftID, by unit.Angle) {
	m.own = 0
	k := m.Index.ShaftAt(id)
	if k < 0 || id == engine.CrankID {
		return
	}
	for i := range m.Index.Sheet.Shafts {
		if a, b := m.Index.Drive(k), m.Index.Drive(i); i == k || m.Index.Geared(i, k) && m.Index.Sheet.Shafts[i].ID != engine.CrankID && a.Driven && b.Driven {
			r := 1.0
			if i != k {
				r = b.Ratio.Float() / a.Ratio.Float()
			}
			m.shafts()[i] += r * float64(by)
		}
	}
}

// group are the shafts that move with shaft k just now, and how far each does for
// one degree of it: over gears, and over loops that are on, by wheels that are not
// loose on their shafts.
func (m *Machine) group(k int) map[int]float64 {
	x := m.Index
	out := map[int]float64{k: 1}
	queue := []int{k}
	carry := func(from, to engine.WheelID, way float64) {
		a, b := x.WheelAt(from), x.WheelAt(to)
		if a < 0 || b < 0 || m.cur.Free[a] || m.cur.Free[b] || m.cur.Missing(x, a) != "" || m.cur.Missing(x, b) != "" {
			return
		}
		wa, wb := &x.Sheet.Wheels[a], &x.Sheet.Wheels[b]
		i, o := x.ShaftAt(wa.Shaft), x.ShaftAt(wb.Shaft)
		if i < 0 || o < 0 || i != queue[0] || wa.Teeth == 0 || wb.Teeth == 0 {
			return
		}
		if _, already := out[o]; !already {
			out[o] = way * out[i] * float64(wa.Teeth) / float64(wb.Teeth)
			queue = append(queue, o)
		}
	}
	for ; len(queue) > 0; queue = queue[1:] {
		for i := range x.Sheet.Loops {
			if !m.cur.Loops[i].On {
				continue
			}
			for _, a := range x.Sheet.Loops[i].Route {
				for _, b := range x.Sheet.Loops[i].Route {
					carry(a.Wheel, b.Wheel, map[bool]float64{true: 1, false: -1}[a.Side == b.Side])
				}
			}
		}
		for i := range x.Sheet.Gears {
			g := &x.Sheet.Gears[i]
			way := map[bool]float64{true: 1, false: -1}[g.Idlers%2 == 1]
			carry(g.Driver, g.Driven, way)
			carry(g.Driven, g.Driver, way)
		}
	}
	return out
}

// rotateGroup moves a shaft that is not tied to the crank, and what is tied to it.
func (m *Machine) rotateGroup(k int, delta float64, moved map[int]float64) {
	if math.Abs(delta) < hair {
		return
	}
	x := m.Index
	for i := range x.Sheet.Locks {
		l, st := &x.Sheet.Locks[i], m.cur.Locks[i]
		if !st.In || st.Forced || l.Kind == engine.StopLock {
			continue
		}
		for _, id := range l.Holds {
			if by, ok := moved[x.ShaftAt(id)]; ok && math.Abs(by*delta) > float64(l.Freedom())+hair {
				m.note(TurnedAgainst{Lock: l.ID, Shaft: x.Sheet.Shafts[k].ID})
				m.locks()[i].Forced = true
				break
			}
		}
	}
	cam := false
	for g, by := range moved {
		m.shafts()[g] += by * delta
		cam = cam || x.Sheet.Shafts[g].Kind.IsCam()
	}
	if !cam {
		return
	}
	all, any := true, false
	for g, by := range moved {
		if !x.Sheet.Shafts[g].Kind.IsCam() {
			continue
		}
		meets, known := m.camMeets(g, m.cur.Shafts[g]-by*delta, by*delta)
		all, any = all && known, any || meets
	}
	if any && x.Sheet.Interference != engine.No {
		m.note(CamContact{Shaft: x.Sheet.Shafts[k].ID, Degrees: unit.Angle(math.Abs(delta))})
	}
	if any || all {
		return // worked out from stroke, rod and lift
	}
	if math.Abs(delta) > byHand && x.Sheet.Interference != engine.No && !m.cur.AtRest(x) {
		m.note(CamContact{Shaft: x.Sheet.Shafts[k].ID, Degrees: unit.Angle(math.Abs(delta))})
	}
}

// AtRest reports whether the crank stands at the rest position of its sheet, where
// no piston is near its valves and their springs throw no cam.
func (s *State) AtRest(x *engine.Index) bool {
	rest := x.Sheet.Limits.Rest
	return rest != 0 && math.Abs(engine.Wrap(s.Crank-rest, 360)) <= restReach
}

// restReach is how far either side of its rest position the crank may stand,
// degrees; an assumption.
const restReach = 5
