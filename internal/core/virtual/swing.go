package virtual

import (
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Swing moves a shaft to and fro, so many degrees either way, and leaves it where it
// was: to feel play, to let a belt find its place.
func (m *Machine) Swing(id engine.ShaftID, degrees unit.Angle) {
	if id == "" {
		id = engine.CrankID
	}
	k := m.Index.ShaftAt(id)
	if k < 0 {
		m.Unknown(string(id))
		return
	}
	moved := m.group(k)
	for i := range m.Index.Sheet.Locks {
		l, st := &m.Index.Sheet.Locks[i], m.cur.Locks[i]
		if !st.In || st.Forced {
			continue
		}
		for _, h := range l.Holds {
			if by, ok := moved[m.Index.ShaftAt(h)]; ok && math.Abs(by*float64(degrees)) > float64(l.Freedom())+hair {
				m.note(TurnedAgainst{Lock: l.ID, Shaft: id})
				m.locks()[i].Forced = true
				break
			}
		}
	}
	if id == engine.CrankID {
		if float64(degrees) > m.Index.Sheet.Limits.BackOff && m.Index.Sheet.Limits.BackOff > 0 {
			m.note(Backwards{Degrees: degrees})
		}
		for i := range m.cur.Loops {
			away := math.Abs(m.cur.Crank-m.cur.Loops[i].OffAt) + float64(degrees)
			if s := m.Index.Sheet; !m.cur.Loops[i].On && s.Interference != engine.No && m.drivesCam(i) && !m.knowsRoom(i) && away > s.Limits.SafeWindow+hair {
				m.note(Contact{Loop: s.Loops[i].ID, Degrees: unit.Angle(away)})
			}
		}
		m.looseWheels()
	}
}
