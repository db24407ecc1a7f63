package virtual

import (
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// tooth is one tooth of a shaft's finest wheel on a loop or pair of gears, degrees of
// the shaft; 0 for one without a toothed wheel.
func (m *Machine) tooth(shaft int) float64 {
	best := 0.0
	for i := range m.Index.Sheet.Wheels {
		w := &m.Index.Sheet.Wheels[i]
		if w.Teeth > 0 && m.Index.ShaftAt(w.Shaft) == shaft && (best == 0 || 360/float64(w.Teeth) < best) {
			best = 360 / float64(w.Teeth)
		}
	}
	return best
}

// Degrees is a doubt of a shaft in degrees of it, either way, as its teeth are on
// the sheet.
func (d Doubt) Degrees(x *engine.Index, shaft int) unit.Angle {
	m := Machine{Index: x}
	return unit.Angle(float64(d.Teeth)*m.tooth(shaft) + d.Angle)
}

// sure bounds the doubt of a shaft, and of what gears alone tie to it, after a look
// that shows so many degrees: less than half a tooth tells one tooth from the next.
func (m *Machine) sure(id engine.ShaftID, shows float64) {
	k := m.Index.ShaftAt(id)
	if k < 0 {
		return
	}
	for i := range m.cur.Doubts {
		d := m.cur.Doubts[i]
		if d.None() || !m.Index.Geared(i, k) {
			continue
		}
		if t := m.tooth(i); t == 0 || shows < t/2 {
			d.Teeth = 0
		}
		d.Angle = math.Min(d.Angle, shows)
		m.doubts()[i] = d
	}
}

// behind calls f for every shaft that hangs on the crank by a loop.
func (m *Machine) behind(loop int, f func(shaft int)) {
	for i := range m.Index.Sheet.Shafts {
		for _, l := range m.Index.Drive(i).Loops {
			if l == loop {
				f(i)
			}
		}
	}
}

// jump is a tooth that may be lost on every wheel behind a loop.
func (m *Machine) jump(loop int) {
	m.behind(loop, func(i int) {
		if m.cur.Doubts[i].Teeth == 0 {
			m.doubts()[i].Teeth = 1
		}
	})
}

// laid is what a loop that is laid leaves in doubt: nothing where a lock holds the
// shaft, whose wheel takes the nearest tooth or finds its place; otherwise a tooth,
// until somebody looks.
func (m *Machine) laid(loop int) {
	m.drawsHome(loop)
	held := m.Fixed(engine.CrankID)
	m.behind(loop, func(i int) {
		if held && m.Fixed(m.Index.Sheet.Shafts[i].ID) {
			if m.cur.Doubts[i].Teeth > 0 {
				m.doubts()[i].Teeth = 0
			}
			return
		}
		if m.cur.Doubts[i].Teeth == 0 {
			m.doubts()[i].Teeth = 1
		}
	})
}

// lies takes the doubt of a tooth from the shafts of a loop whose own marks stand:
// they tell tooth from tooth at the wheel they are read at.
func (m *Machine) lies(mark *engine.Mark) {
	w := m.Index.Wheel(mark.Wheel)
	loop := m.Index.LoopAt(mark.Loop)
	m.behind(loop, func(i int) {
		if m.cur.Doubts[i].Teeth > 0 && (w == nil || m.Index.ShaftAt(w.Shaft) == i) {
			m.doubts()[i].Teeth = 0
		}
	})
}

// clampedAt is a floating wheel that has just been clamped: its shaft stands where
// its lock lets it, or where a hand left it.
func (m *Machine) clampedAt(wheel int) {
	s := m.Index.Sheet
	for k := range s.Shafts {
		if s.Shafts[k].ID != s.Wheels[wheel].Shaft && !m.drivenBy(k, wheel) {
			continue
		}
		play := m.heldWithin(s.Shafts[k].ID)
		angle := play
		if d := m.Index.Drive(k); s.Shafts[k].ID != engine.CrankID && d.Driven { // the crank stands in its lock as loosely
			angle = math.Min(play+m.heldWithin(engine.CrankID)*math.Abs(d.Ratio.Float()), byHand)
		}
		m.doubts()[k] = Doubt{Teeth: m.cur.Doubts[k].Teeth, Angle: angle}
		if most := s.Limits.CamError; most > 0 && s.Shafts[k].Kind.IsCam() && play > most+hair && play < byHand {
			m.note(BeyondLimit{Shaft: s.Shafts[k].ID, Wheel: s.Wheels[wheel].ID, Degrees: unit.Angle(play)})
		}
	}
}

// heldWithin is how far a shaft may stand off in the locks that hold it, degrees of it;
// as far as a hand leaves it where none does.
func (m *Machine) heldWithin(id engine.ShaftID) float64 {
	play := float64(byHand)
	for i := range m.Index.Sheet.Locks {
		l := &m.Index.Sheet.Locks[i]
		if l.Kind.ForPosition() && m.cur.Locks[i].Holds(l.Kind) && holds(l, id) {
			play = math.Min(play, float64(l.Freedom()))
		}
	}
	return play
}
