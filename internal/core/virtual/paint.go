package virtual

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// paintShows is the smallest error a mark painted by hand shows, degrees of its
// shaft: a brush is some 2 mm wide; an assumption of ours.
const paintShows = 2

// PaintMark paints a mark on a wheel and what is beside it, or, with a loop, across
// the loop and the wheel.
func (m *Machine) PaintMark(id engine.WheelID, loop engine.LoopID) {
	w := m.Index.Wheel(id)
	if w == nil {
		m.Unknown(string(id))
		return
	}
	if l := m.Index.LoopAt(loop); loop != "" && (l < 0 || !m.cur.Loops[l].On) {
		if l < 0 {
			m.Unknown(string(loop))
		} else {
			m.note(NotOff{Loop: loop, Painted: true})
		}
		return
	}
	at, travel := 0.0, 0.0
	if l := m.Index.LoopAt(loop); l >= 0 {
		travel = m.cur.Loops[l].Turned
	}
	if k := m.Index.ShaftAt(w.Shaft); k >= 0 {
		at = m.cur.Shafts[k]
	}
	claim(m, ownPaints, &m.cur.Paints)
	m.cur.Paints = append(slices.DeleteFunc(m.cur.Paints, func(p Paint) bool { return p.Wheel == id && p.Loop == loop }), Paint{id, loop, at, travel})
	m.note(Painted{Wheel: id, Loop: loop})
}

// painted is the own mark at a wheel, nil for none.
func (m *Machine) painted(id engine.WheelID, loop engine.LoopID) *Paint {
	for i := range m.cur.Paints {
		if p := &m.cur.Paints[i]; p.Wheel == id && p.Loop == loop {
			return p
		}
	}
	return nil
}

// CheckPaint looks whether the own marks at a wheel stand: those on its shaft, and
// across a loop those of the loop.
func (m *Machine) CheckPaint(id engine.WheelID, loop engine.LoopID) {
	w := m.Index.Wheel(id)
	if w == nil {
		m.Unknown(string(id))
		return
	}
	p := m.painted(id, loop)
	if p == nil {
		m.note(PaintMissing{Wheel: id, Loop: loop})
		return
	}
	if l := m.Index.LoopAt(loop); l >= 0 {
		switch st := m.cur.Loops[l]; {
		case !st.On:
			m.note(PaintMissing{Wheel: id, Loop: loop, Off: true})
			return
		case st.Refitted && st.New && !st.Copied:
			m.note(PaintMissing{Wheel: id, Loop: loop, New: true})
			return
		case st.Turned-p.Travel > 3.6 || m.Index.ShaftAt(w.Shaft) >= 0 && math.Abs(engine.Wrap(m.cur.Shafts[m.Index.ShaftAt(w.Shaft)]-p.Angle, 360)) > paintShows:
			m.note(PaintMoved{Wheel: id, Loop: loop})
			return
		}
		m.note(MarkStood{Wheel: id, Loop: loop})
		m.lies(&engine.Mark{Wheel: id, Loop: loop})
		if !m.cur.Loops[l].Looked {
			m.loops()[l].Looked = true
		}
		if k := m.Index.ShaftAt(w.Shaft); k >= 0 {
			m.sees(k)
		}
		return
	}
	k := m.Index.ShaftAt(w.Shaft)
	if k < 0 {
		return
	}
	m.note(Looked{Shaft: w.Shaft, Wheel: id, Degrees: paintShows})
	m.lookShaft(w.Shaft)
	if dev := engine.Wrap(m.cur.Shafts[k]-p.Angle, 360); math.Abs(dev) > paintShows {
		m.note(MarkAway{Wheel: id, Shaft: w.Shaft, Degrees: unit.Angle(dev)})
		return
	}
	m.sure(w.Shaft, paintShows)
	m.note(MarkStood{Wheel: id, Shaft: w.Shaft})
}

// CopyPaint takes the marks painted across a loop over to the new one, tooth by
// tooth counted, before it is laid.
func (m *Machine) CopyPaint(loop engine.LoopID) {
	l := m.Index.LoopAt(loop)
	if l < 0 {
		m.Unknown(string(loop))
		return
	}
	if !slices.ContainsFunc(m.cur.Paints, func(p Paint) bool { return p.Loop == loop }) {
		m.note(PaintMissing{Loop: loop})
		return
	}
	m.loops()[l].Copied = true
}

// CheckPaints looks at all own marks.
func (m *Machine) CheckPaints() {
	if len(m.cur.Paints) == 0 {
		m.note(PaintMissing{})
	}
	for _, p := range slices.Clone(m.cur.Paints) {
		m.CheckPaint(p.Wheel, p.Loop)
	}
}

// toPaint is the crank travel from current+delta on, the way that is turned, to where
// all own marks on wheels that the crank drives stand.
func (m *Machine) toPaint(delta, way float64) float64 {
	var to []engine.Mark
	for _, p := range m.cur.Paints {
		if w := m.Index.Wheel(p.Wheel); p.Loop == "" && w != nil && m.Index.ShaftAt(w.Shaft) >= 0 {
			to = append(to, engine.Mark{Wheel: p.Wheel, At: p.Angle})
		}
	}
	if len(to) == 0 {
		m.note(PaintMissing{})
		return 0
	}
	k := m.Index.ShaftAt(m.Index.MarkShaft(&to[0]))
	if !m.Index.Drive(k).Driven {
		return 0
	}
	every := 360 / math.Abs(m.Index.Drive(k).Ratio.Float())
	first := m.ahead(&to[0], delta, way)
	for n := range mostTogether {
		more := first + way*every*float64(n)
		stand := !slices.ContainsFunc(to, func(o engine.Mark) bool {
			i := m.Index.ShaftAt(m.Index.MarkShaft(&o))
			d := m.Index.Drive(i)
			return d.Driven && math.Abs(engine.Wrap(m.cur.Shafts[i]+d.Ratio.Float()*(delta+more)-o.At, 360)) > paintShows
		})
		if stand {
			return more
		}
	}
	return first
}
