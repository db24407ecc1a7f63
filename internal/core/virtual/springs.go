package virtual

import (
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// What springs and teeth do with a cam that nothing holds: off its loop it goes to where
// its springs leave it, under its loop it stands by whole teeth.

// thrown moves the cams of a loop that has come off, which nothing holds, to the nearest
// angle at which their springs leave them. Where a valve can meet a piston a page may not
// let them go at all, and that is found; here they stand as the author meant.
func (m *Machine) thrown(loop int) {
	s := m.Index.Sheet
	if s.Interference != engine.No || m.cur.AtRest(m.Index) {
		return
	}
	m.behind(loop, func(i int) {
		sh := &s.Shafts[i]
		if !sh.Kind.IsCam() || len(sh.Rests) == 0 || m.out(i) || m.fixedGroup(i) || m.cur.CamAtRest(m.Index, sh.ID) {
			return
		}
		best := math.Inf(1)
		for _, at := range sh.Rests {
			if d := engine.Wrap(at-m.cur.Shafts[i], 360); math.Abs(d) < math.Abs(best) {
				best = d
			}
		}
		for k, by := range m.group(i) {
			m.shafts()[k] += by * best
		}
		m.note(CamThrown{Shaft: sh.ID, Loop: s.Loops[loop].ID, Degrees: unit.Angle(best)})
	})
}

// drawsHome moves the cams of a loop that has been laid over wheels fixed to their shafts,
// and that nothing holds, to where its teeth let them stand: whole teeth from home.
func (m *Machine) drawsHome(loop int) {
	s := m.Index.Sheet
	m.behind(loop, func(i int) {
		d := m.Index.Drive(i)
		if !s.Shafts[i].Kind.IsCam() || len(d.Loops) != 1 || len(d.Gears) > 0 || !m.follows(d) || m.Fixed(s.Shafts[i].ID) {
			return
		}
		for _, w := range d.Wheels {
			if !s.Wheels[w].Fast() {
				return
			}
		}
		w := m.Index.WheelOn(loop, s.Shafts[i].ID)
		if w < 0 || s.Wheels[w].Teeth == 0 {
			return
		}
		tooth := 360 / float64(s.Wheels[w].Teeth)
		off := engine.Wrap(m.cur.Shafts[i]-d.Ratio.Float()*m.cur.Crank, 360)
		if left := off - math.Round(off/tooth)*tooth; math.Abs(left) > hair {
			m.shafts()[i] -= left
		}
	})
}
