package bench

import "inklatch/internal/core/engine"

// RemovePart takes a part off, with the fasteners that hold it.
func (m *Machine) RemovePart(id engine.PartID) {
	i := m.Index.PartAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	p := &m.Index.Sheet.Parts[i]
	if m.cur.Parts[i].Off {
		m.note(Event{Kind: AlreadyOff, Part: id})
		return
	}
	for _, before := range p.After {
		if b := m.Index.PartAt(before); b >= 0 && !m.cur.Parts[b].Off {
			m.note(Event{Kind: InTheWay, Part: before})
		}
	}
	m.parts()[i] = PartState{Off: true, Touched: true}
	for _, f := range p.Held {
		if k := m.Index.FastenerAt(f); k >= 0 {
			m.fasteners()[k] = FastenerState{Stage: Out, Touched: true, Fresh: m.cur.Fasteners[k].Fresh && m.cur.Fasteners[k].Stage < Partial}
			m.relax(k)
		}
	}
}

// RefitPart puts a part back; fresh says it is a new one, freshSeal that its
// seal is.
func (m *Machine) RefitPart(id engine.PartID, fresh, freshSeal bool) {
	i := m.Index.PartAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	p := &m.Index.Sheet.Parts[i]
	if !m.cur.Parts[i].Off {
		m.note(Event{Kind: NotOff, Part: id})
		return
	}
	fresh = fresh || m.cur.Parts[i].Fresh
	if p.Policy == engine.AlwaysNew && !fresh {
		m.note(Event{Kind: OldPart, Part: id})
	}
	if s := m.Index.PartAt(p.Seal); s >= 0 && !freshSeal && !m.cur.Parts[s].Fresh {
		m.note(Event{Kind: OldSeal, Part: id})
	}
	m.parts()[i] = PartState{Touched: true, Fresh: fresh}
	for _, f := range p.Held {
		if k := m.Index.FastenerAt(f); k >= 0 && m.cur.Fasteners[k].Stage < Finger {
			m.fasteners()[k].Stage = Finger
		}
	}
	m.closeJoint(id)
}

// RenewPart replaces a part by a new one, on the bench or in place.
func (m *Machine) RenewPart(id engine.PartID) {
	i := m.Index.PartAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	ps := m.parts()
	ps[i].Fresh, ps[i].Touched = true, true
}

// RenewFastener lays out new fasteners.
func (m *Machine) RenewFastener(id engine.FastenerID) {
	if i := m.Index.FastenerAt(id); i < 0 {
		m.Unknown(string(id))
	} else {
		m.fasteners()[i].Fresh = true
	}
}

// Slacken loosens a fastener; hold names what takes the torque, "" for nothing
// named.
func (m *Machine) Slacken(id engine.FastenerID, hold engine.LockID) {
	i := m.Index.FastenerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	m.torqueOn(i, hold)
	was := m.cur.Fasteners[i]
	if was.Stage > Loose {
		m.fasteners()[i] = FastenerState{Stage: Loose, Touched: true, Fresh: was.Fresh && was.Stage < Final}
	}
	m.relax(i)
}

// relax lets go what fastener i clamps.
func (m *Machine) relax(i int) {
	for _, w := range m.Index.ClampedBy(i) {
		if m.Index.Sheet.Wheels[w].Mount != engine.Keyed {
			m.free()[w] = true
		}
	}
	for t := range m.Index.Sheet.Tensioners {
		ten := &m.Index.Sheet.Tensioners[t]
		for _, b := range ten.Bolts {
			if b == m.Index.Sheet.Fasteners[i].ID && m.cur.Tensioners[t] != Pinned {
				m.tensioners()[t] = Relieved
			}
		}
	}
}

// Tighten takes a fastener up to a stage.
func (m *Machine) Tighten(id engine.FastenerID, to Stage, hold engine.LockID) {
	i := m.Index.FastenerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	f := &m.Index.Sheet.Fasteners[i]
	was := m.cur.Fasteners[i]
	if to >= Partial {
		m.torqueOn(i, hold)
		m.clampFixed(i)
	}
	if to == Final && f.SingleUse && was.Touched && !was.Fresh {
		m.note(Event{Kind: OldPart, Fastener: id})
	}
	m.fasteners()[i] = FastenerState{Stage: to, Touched: was.Touched, Fresh: was.Fresh}
	if to >= Snug {
		for _, w := range m.Index.ClampedBy(i) {
			if m.cur.Free[w] && m.allSnug(w) {
				m.free()[w] = false
			}
		}
	}
	for k := range m.Index.Sheet.Parts {
		for _, held := range m.Index.Sheet.Parts[k].Held {
			if held == id && to == Final {
				m.closeJoint(m.Index.Sheet.Parts[k].ID)
			}
		}
	}
}

func (m *Machine) allSnug(wheel int) bool {
	for _, f := range m.Index.Sheet.Wheels[wheel].Clamps {
		if i := m.Index.FastenerAt(f); i >= 0 && m.cur.Fasteners[i].Stage < Snug {
			return false
		}
	}
	return true
}

// clampFixed notes a floating wheel that is clamped while its shaft may move.
func (m *Machine) clampFixed(i int) {
	for _, w := range m.Index.ClampedBy(i) {
		wheel := &m.Index.Sheet.Wheels[w]
		if m.cur.Free[w] && !m.Fixed(wheel.Shaft) {
			m.note(Event{Kind: NotFixed, Fastener: m.Index.Sheet.Fasteners[i].ID, Shaft: wheel.Shaft})
		}
	}
}

// torqueOn works out what takes the torque of fastener i.
func (m *Machine) torqueOn(i int, hold engine.LockID) {
	f := &m.Index.Sheet.Fasteners[i]
	if f.OnShaft == "" {
		return
	}
	var pin engine.LockID
	for k := range m.Index.Sheet.Locks {
		l := &m.Index.Sheet.Locks[k]
		named := l.ID == hold
		if !named && !m.cur.Locks[k].In {
			continue
		}
		if !holds(l, f.OnShaft) {
			continue
		}
		if l.CarriesTorque {
			return
		}
		if named || l.Kind.ForPosition() {
			pin = l.ID
		}
	}
	if pin != "" {
		m.note(Event{Kind: PinCarriedTorque, Lock: pin, Fastener: f.ID, Shaft: f.OnShaft})
		return
	}
	m.note(Event{Kind: Unheld, Fastener: f.ID, Shaft: f.OnShaft})
}

func holds(l *engine.Lock, id engine.ShaftID) bool {
	for _, h := range l.Holds {
		if h == id {
			return true
		}
	}
	return false
}

// Spread opens a joint: sealant on a part, open for the given minutes (0 for no
// limit).
func (m *Machine) Spread(id engine.PartID, open float64) {
	if m.Index.PartAt(id) < 0 {
		return
	}
	if open > 0 {
		claim(m, ownSealants, &m.cur.Sealants)
		m.cur.Sealants = append(m.cur.Sealants, Sealant{Part: id, Since: m.cur.Minutes, Until: m.cur.Minutes + open})
	}
}

func (m *Machine) closeJoint(id engine.PartID) {
	for k, s := range m.cur.Sealants {
		if s.Part != id {
			continue
		}
		if m.cur.Minutes > s.Until+hair {
			m.note(Event{Kind: SealantDry, Part: id, Degrees: m.cur.Minutes - s.Since})
		}
		left := claim(m, ownSealants, &m.cur.Sealants)
		m.cur.Sealants = append(left[:k:k], left[k+1:]...)
		return
	}
}
