package bench

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
)

// Drain lets a fluid out by what the sheet opens for it.
func (m *Machine) Drain(id engine.FluidID) {
	i := m.Index.FluidAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	m.fluids()[i] = FluidState{Out: true, Touched: true}
}

// Fill puts a fluid in.
func (m *Machine) Fill(id engine.FluidID) {
	i := m.Index.FluidAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if !m.cur.Fluids[i].Out {
		m.note(Event{Kind: NotDrained, Name: m.Index.Sheet.Fluids[i].Name})
	}
	for k := range m.Index.Sheet.Parts {
		p := &m.Index.Sheet.Parts[k]
		if m.cur.Parts[k].Off && (p.Spills == id || p.ID == m.Index.Sheet.Fluids[i].Drain) {
			m.note(Event{Kind: FilledOpen, Name: m.Index.Sheet.Fluids[i].Name, Part: p.ID})
		}
	}
	m.fluids()[i] = FluidState{Touched: true}
}

// spills lets out what runs out with a part, and notes it where nobody drained it.
func (m *Machine) spills(p *engine.Part) {
	for i := range m.Index.Sheet.Fluids {
		f := &m.Index.Sheet.Fluids[i]
		if p.Spills != f.ID && p.ID != f.Drain || m.cur.Fluids[i].Out {
			continue
		}
		if p.ID != f.Drain {
			m.note(Event{Kind: Spilled, Part: p.ID, Name: f.Name})
		}
		m.fluids()[i] = FluidState{Out: true, Touched: true}
	}
}

// ResetCounter sets the counter of a part back.
func (m *Machine) ResetCounter(id engine.PartID) {
	if m.Index.PartAt(id) < 0 {
		m.Unknown(string(id))
		return
	}
	m.cur.Resets = append(slices.Clip(m.cur.Resets), id)
	m.note(Event{Kind: Reset, Part: id})
}

// Swing moves a shaft to and fro, so many degrees either way, and leaves it where it
// was: to feel play, to let a belt find its place.
func (m *Machine) Swing(id engine.ShaftID, degrees float64) {
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
			if by, ok := moved[m.Index.ShaftAt(h)]; ok && math.Abs(by*degrees) > l.Freedom()+hair {
				m.note(Event{Kind: TurnedAgainst, Lock: l.ID, Shaft: id})
				m.locks()[i].Forced = true
				break
			}
		}
	}
	if id == engine.CrankID {
		if degrees > m.Index.Sheet.Limits.BackOff && m.Index.Sheet.Limits.BackOff > 0 {
			m.note(Event{Kind: Backwards, Degrees: degrees})
		}
		for i := range m.cur.Loops {
			away := math.Abs(m.cur.Crank-m.cur.Loops[i].OffAt) + degrees
			if s := m.Index.Sheet; !m.cur.Loops[i].On && s.Interference != engine.No && m.drivesCam(i) && !m.knowsRoom(i) && away > s.Limits.SafeWindow+hair {
				m.note(Event{Kind: Contact, Loop: s.Loops[i].ID, Degrees: away})
			}
		}
		m.looseWheels()
	}
}
