package virtual

import (
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
	p := m.Index.PartAt(m.Index.Sheet.Fluids[i].Drain)
	m.fluids()[i] = FluidState{Out: true, Open: p >= 0 && !m.cur.Parts[p].Off}
}

// drained reports whether a part is what was opened to let a fluid out, and goes back.
func (m *Machine) drained(id engine.PartID) bool {
	for i := range m.Index.Sheet.Fluids {
		if m.Index.Sheet.Fluids[i].Drain == id && id != "" && m.cur.Fluids[i].Out {
			return true
		}
	}
	return false
}

// Fill puts a fluid in.
func (m *Machine) Fill(id engine.FluidID) {
	i := m.Index.FluidAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if !m.cur.Fluids[i].Out {
		m.note(NotDrained{Fluid: m.Index.Sheet.Fluids[i].ID})
	}
	for k := range m.Index.Sheet.Parts {
		p := &m.Index.Sheet.Parts[k]
		if m.cur.Parts[k].Off && (p.Spills == id || p.ID == m.Index.Sheet.Fluids[i].Drain) {
			m.note(FilledOpen{Fluid: m.Index.Sheet.Fluids[i].ID, Part: p.ID})
		}
	}
	if m.cur.Fluids[i].Open {
		m.note(FilledOpen{Fluid: id, Part: m.Index.Sheet.Fluids[i].Drain, Drained: true})
	}
	m.fluids()[i] = FluidState{}
}

// plugged is a part that goes back, and closes what was opened to drain a fluid.
func (m *Machine) plugged(id engine.PartID) {
	for i := range m.Index.Sheet.Fluids {
		if m.Index.Sheet.Fluids[i].Drain == id && id != "" && m.cur.Fluids[i].Open {
			m.fluids()[i].Open = false
		}
	}
}

// spills lets out what runs out with a part, and notes it where nobody drained it.
func (m *Machine) spills(p *engine.Part) {
	for i := range m.Index.Sheet.Fluids {
		f := &m.Index.Sheet.Fluids[i]
		if p.Spills != f.ID && p.ID != f.Drain || m.cur.Fluids[i].Out {
			continue
		}
		if p.ID != f.Drain {
			m.note(Spilled{Part: p.ID, Fluid: f.ID})
		}
		m.fluids()[i] = FluidState{Out: true}
	}
}

// ResetCounter sets the counter of a part back.
func (m *Machine) ResetCounter(id engine.PartID) {
	if m.Index.PartAt(id) < 0 {
		m.Unknown(string(id))
		return
	}
	m.cur.Resets = append(slices.Clip(m.cur.Resets), id)
	m.note(Reset{Part: id})
}
