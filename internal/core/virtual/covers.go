package virtual

import (
	"slices"

	"inklatch/internal/core/engine"
)

// covered notes covers that are on before a loop: what runs over a wheel behind one
// cannot be handled.
func (m *Machine) covered(loop int) {
	var said []engine.PartID
	for _, stop := range m.Index.Sheet.Loops[loop].Route {
		if p := m.cur.Before(m.Index, stop.Wheel); p != "" && !slices.Contains(said, p) {
			said = append(said, p)
			m.note(Covered{Part: p, Loop: m.Index.Sheet.Loops[loop].ID})
		}
	}
}

// Before is the cover that is on before a wheel in a state; empty for none.
func (st *State) Before(x *engine.Index, id engine.WheelID) engine.PartID {
	for _, p := range x.Covers(id) {
		if !st.Parts[p].Off {
			return x.Sheet.Parts[p].ID
		}
	}
	return ""
}

// coveredTensioner is covered for the loop of a tensioner.
func (m *Machine) coveredTensioner(id engine.TensionerID) {
	for i := range m.Index.Sheet.Loops {
		if m.Index.Sheet.Loops[i].Tensions(id) {
			m.covered(i)
		}
	}
}

// coveredPart is covered for the loops that run over a part.
func (m *Machine) coveredPart(id engine.PartID) {
	s := m.Index.Sheet
	for i := range s.Loops {
		for _, stop := range s.Loops[i].Route {
			if w := m.Index.Wheel(stop.Wheel); w != nil && w.Part == id && id != "" {
				m.covered(i)
				break
			}
		}
	}
}

// coveredFastener is covered for the loops over the wheels that a fastener
// clamps, and for those of the tensioners it holds.
func (m *Machine) coveredFastener(k int) {
	s := m.Index.Sheet
	m.reach(k)
	for _, w := range m.Index.ClampedBy(k) {
		if m.inFront(k, s.Wheels[w].ID) {
			continue
		}
		for i := range s.Loops {
			for _, stop := range s.Loops[i].Route {
				if stop.Wheel == s.Wheels[w].ID {
					m.covered(i)
				}
			}
		}
	}
	for i := range s.Tensioners {
		for _, b := range s.Tensioners[i].Bolts {
			if b == s.Fasteners[k].ID {
				m.coveredTensioner(s.Tensioners[i].ID)
			}
		}
	}
}

// inFront reports whether a bolt that clamps a wheel behind a cover is before that cover:
// with a part that has to be off before the cover comes off, as a pulley, or with another
// wheel that the cover does not hide.
func (m *Machine) inFront(k int, wheel engine.WheelID) bool {
	s := m.Index.Sheet
	id := s.Fasteners[k].ID
	for _, c := range m.Index.Covers(wheel) {
		if m.cur.Parts[c].Off {
			continue
		}
		if !slices.ContainsFunc(s.Parts[c].After, func(p engine.PartID) bool {
			part := m.Index.Part(p)
			return part != nil && slices.Contains(part.Held, id)
		}) && !slices.ContainsFunc(m.Index.ClampedBy(k), func(w int) bool {
			return s.Wheels[w].ID != wheel && !slices.Contains(m.Index.Covers(s.Wheels[w].ID), c)
		}) {
			return false
		}
	}
	return true
}

// Dismounted reports whether the part that a tensioner is has been taken off.
func (s *State) Dismounted(x *engine.Index, tensioner int) bool {
	p := x.PartAt(x.Sheet.Tensioners[tensioner].Part)
	return p >= 0 && s.Parts[p].Off
}

// LooseTension is a tensioner of a loop that does not hold it under tension yet: slack, or
// moved by bolts that do not clamp it. A pre-load is held by hand meanwhile.
func (s *State) LooseTension(x *engine.Index, loop int) engine.TensionerID {
	for _, id := range x.Sheet.Loops[loop].Tensioners() {
		i := x.TensionerAt(id)
		if i < 0 {
			continue
		}
		t := &x.Sheet.Tensioners[i]
		if s.Tensioners[i].Slack() || s.Dismounted(x, i) {
			return id
		}
		if t.Method.Of().ByBolts && t.Method != engine.PreLoad && len(t.Bolts) > 0 && !s.clamped(x, t) {
			return id
		}
	}
	return ""
}

// clamped reports whether a bolt of a tensioner clamps it.
func (s *State) clamped(x *engine.Index, t *engine.Tensioner) bool {
	return slices.ContainsFunc(t.Bolts, func(b engine.FastenerID) bool {
		k := x.FastenerAt(b)
		return k >= 0 && s.Fasteners[k].Stage >= Snug
	})
}

// reach notes a fastener that a part bars the way to.
func (m *Machine) reach(k int) {
	if p := m.Index.PartAt(m.Index.Sheet.Fasteners[k].Access); p >= 0 && !m.cur.Parts[p].Off {
		m.note(AccessShut{Fastener: m.Index.Sheet.Fasteners[k].ID, Part: m.Index.Sheet.Parts[p].ID})
	}
}

// clampedEarly notes a floating wheel that is clamped with one of its loops off:
// it no longer finds its place when the loop is laid.
func (m *Machine) clampedEarly(k int) {
	s := m.Index.Sheet
	for _, w := range m.Index.ClampedBy(k) {
		wheel := &s.Wheels[w]
		if !wheel.Mount.Floats() || !m.cur.Free[w] {
			continue
		}
		for i := range s.Loops {
			for _, stop := range s.Loops[i].Route {
				if stop.Wheel != wheel.ID {
					continue
				}
				if !m.cur.Loops[i].On {
					m.note(ClampedEarly{Wheel: wheel.ID, Loop: s.Loops[i].ID, Fastener: s.Fasteners[k].ID})
				} else if t := m.cur.LooseTension(m.Index, i); t != "" {
					m.note(ClampedEarly{Wheel: wheel.ID, Loop: s.Loops[i].ID, Fastener: s.Fasteners[k].ID, Tensioner: t})
				}
			}
		}
	}
}
