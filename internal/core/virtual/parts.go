package virtual

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// RemovePart takes a part off, with the fasteners that hold it.
func (m *Machine) RemovePart(id engine.PartID) {
	i := m.Index.PartAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	p := &m.Index.Sheet.Parts[i]
	if m.cur.Parts[i].Off {
		m.note(AlreadyOff{Part: id})
		return
	}
	for _, before := range p.After {
		if b := m.Index.PartAt(before); b >= 0 && !m.cur.Parts[b].Off {
			m.note(InTheWay{Part: before})
		}
	}
	m.underLoop(p)
	m.hung(p, func(loop engine.LoopID, shaft engine.ShaftID) Event { return LoopOffUnlocked{Loop: loop, Shaft: shaft} })
	m.coveredPart(id)
	m.sprungOut(id)
	m.spills(p)
	m.pulledOff(id)
	m.parts()[i] = PartState{Off: true, Touched: true, Fresh: m.cur.Parts[i].Fresh && p.Kind != engine.Seal} // a new one stays new
	m.unmesh()
	for _, f := range p.Held {
		if k := m.Index.FastenerAt(f); k >= 0 {
			m.comesOut(k, id)
			m.fasteners()[k] = FastenerState{Stage: Out, Loosened: true, Touched: true, Fresh: m.cur.Fasteners[k].Fresh && m.cur.Fasteners[k].Stage < Partial, Stretched: m.cur.Fasteners[k].Stretched}
			m.relax(k)
		}
	}
}

// underLoop notes a part that comes off, or goes back, under a loop that is on and taut. A
// slack one hangs: a sprocket comes off its shaft with it, a roller out of it.
func (m *Machine) underLoop(p *engine.Part) {
	s := m.Index.Sheet
	for i := range s.Loops {
		if !m.cur.Loops[i].On || s.Loops[i].Part == p.ID || m.slackLoop(i) {
			continue
		}
		for _, stop := range s.Loops[i].Route {
			if w := m.Index.Wheel(stop.Wheel); w != nil && w.Part == p.ID {
				m.note(UnderLoop{Part: p.ID, Loop: s.Loops[i].ID})
			}
		}
	}
}

// sprungOut notes a tensioner that comes off while it pushes on its loop, though
// it has a pin to hold it back.
func (m *Machine) sprungOut(id engine.PartID) {
	for k := range m.Index.Sheet.Tensioners {
		t := &m.Index.Sheet.Tensioners[k]
		if t.Part != id || t.Pin == "" || m.cur.Tensioners[k].Slack() {
			continue
		}
		for l := range m.Index.Sheet.Loops {
			if m.Index.Sheet.Loops[l].Tensions(t.ID) && m.cur.Loops[l].On {
				m.note(SprungOut{Tensioner: t.ID, Part: id, Loop: m.Index.Sheet.Loops[l].ID})
			}
		}
	}
}

// comesOut takes a fastener out with its part: slackened under the same rules as
// by a step of its own, and noted where its danger needs such a step.
func (m *Machine) comesOut(k int, part engine.PartID) {
	f := &m.Index.Sheet.Fasteners[k]
	if m.cur.Fasteners[k].Stage <= Finger {
		return
	}
	m.reach(k)
	m.torqueOn(k, "")
	if f.Hazard != "" || f.LeftHand {
		m.note(BoltTight{Part: part, Fastener: f.ID})
	}
}

// gone is a part that a fastener holds, off just now; empty when there is none
// or one of them is on.
func (m *Machine) gone(f engine.FastenerID) engine.PartID {
	var off engine.PartID
	for i := range m.Index.Sheet.Parts {
		p := &m.Index.Sheet.Parts[i]
		for _, h := range p.Held {
			if h != f {
				continue
			}
			if !m.cur.Parts[i].Off {
				return ""
			}
			off = p.ID
		}
	}
	return off
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
	defer m.plugged(id)
	if !m.cur.Parts[i].Off {
		if !m.drained(id) {
			m.note(NotOff{Part: id})
		}
		return
	}
	for _, before := range p.After {
		// What had to be off before it came off is still, or again, in its way.
		if b := m.Index.PartAt(before); b >= 0 && !m.cur.Parts[b].Off {
			m.note(InTheWay{Part: before, Refit: true})
		}
	}
	m.underLoop(p)
	m.hung(p, func(loop engine.LoopID, shaft engine.ShaftID) Event { return LoopOnUnlocked{Loop: loop, Shaft: shaft} })
	m.coveredPart(id)
	m.shut(id)
	fresh = fresh || m.cur.Parts[i].Fresh
	if p.Policy == engine.AlwaysNew && !fresh {
		m.note(OldPart{Part: id})
	}
	if s := m.Index.PartAt(p.Seal); s >= 0 && !freshSeal && !m.cur.Parts[s].Fresh {
		m.note(OldSeal{Part: id})
	}
	m.parts()[i] = PartState{Touched: true, Fresh: fresh}
	for _, f := range p.Held {
		if k := m.Index.FastenerAt(f); k >= 0 && m.cur.Fasteners[k].Stage < Finger {
			m.fasteners()[k].Stage = Finger
		}
	}
	m.arrives(id, fresh)
	m.laidIn(id)
	m.rehung(p)
	m.mesh()
	m.closeJoint(id)
}

// shut notes a lock that is in behind a part that goes back.
func (m *Machine) shut(id engine.PartID) {
	for k := range m.Index.Sheet.Locks {
		if l := &m.Index.Sheet.Locks[k]; l.Access == id && m.cur.Locks[k].In {
			m.note(HoleShut{Part: id, Lock: l.ID})
		}
	}
}

// arrives is a tensioner that goes back: a new one with a pin comes pinned, any
// other stands as it was.
func (m *Machine) arrives(id engine.PartID, fresh bool) {
	for k := range m.Index.Sheet.Tensioners {
		if t := &m.Index.Sheet.Tensioners[k]; t.Part == id && id != "" && fresh && t.Pin != "" {
			m.tensioners()[k] = TensionState{Now: Pinned}
		}
	}
}

// RenewPart replaces a part by a new one, on the bench or in place.
func (m *Machine) RenewPart(id engine.PartID) {
	i := m.Index.PartAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if p := &m.Index.Sheet.Parts[i]; !m.cur.Parts[i].Off && p.Kind != engine.Seal && m.loopOf(id) < 0 && (len(p.Held) > 0 || m.runsUnder(id)) {
		m.note(RenewedInPlace{Part: id})
	}
	if m.cur.Parts[i].Fresh {
		m.note(RenewedAgain{Part: id})
	}
	ps := m.parts()
	ps[i].Fresh, ps[i].Touched = true, true
}

// runsUnder reports whether a loop that is on runs over a part.
func (m *Machine) runsUnder(id engine.PartID) bool {
	s := m.Index.Sheet
	for i := range s.Loops {
		if !m.cur.Loops[i].On {
			continue
		}
		if s.Loops[i].Part == id {
			return true
		}
		for _, stop := range s.Loops[i].Route {
			if w := m.Index.Wheel(stop.Wheel); w != nil && w.Part == id {
				return true
			}
		}
	}
	return false
}

// loopOf is the loop that a part is, −1 for none.
func (m *Machine) loopOf(id engine.PartID) int {
	for i := range m.Index.Sheet.Loops {
		if m.Index.Sheet.Loops[i].Part == id && !m.cur.Loops[i].On {
			return i
		}
	}
	return -1
}

// RenewFastener lays out new fasteners.
func (m *Machine) RenewFastener(id engine.FastenerID) {
	i := m.Index.FastenerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if m.cur.Fasteners[i].Fresh && m.cur.Fasteners[i].Stage < Final {
		m.note(RenewedAgain{Fastener: id})
	}
	if st := m.cur.Fasteners[i]; st.Touched && st.Stage > Finger { // the old one comes out for it
		m.fasteners()[i] = FastenerState{Stage: Finger, Loosened: true, Touched: true}
	}
	m.fasteners()[i].Fresh, m.fasteners()[i].Stretched = true, false
}

// Slacken loosens a fastener; hold names what takes the torque, "" for nothing
// named.
func (m *Machine) Slacken(id engine.FastenerID, hold engine.LockID) {
	i := m.Index.FastenerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	was := m.cur.Fasteners[i]
	if was.Stage <= Loose {
		m.note(SlackAlready{Fastener: id, Part: m.gone(id)})
	} else {
		m.coveredFastener(i)
		m.torqueOn(i, hold)
	}
	if was.Stage > Loose {
		m.fasteners()[i] = FastenerState{Stage: Loose, Loosened: true, Touched: true, Fresh: was.Fresh && was.Stage < Final, Stretched: was.Stretched}
		if spec, n := m.Index.Sheet.Fasteners[i].Spec, was.Reached; n > 0 && n < len(spec) && spec[n].Slacken {
			m.fasteners()[i].Reached = n + 1 // that is one of its stages
		}
	}
	m.relax(i)
}

// FreeWheel breaks a wheel loose from its seat.
func (m *Machine) FreeWheel(id engine.WheelID) {
	w := m.Index.WheelAt(id)
	if w < 0 {
		m.Unknown(string(id))
		return
	}
	wheel := &m.Index.Sheet.Wheels[w]
	for _, f := range wheel.Clamps {
		if k := m.Index.FastenerAt(f); k >= 0 && m.cur.Fasteners[k].Stage > Finger {
			m.note(StillClamped{Wheel: id, Fastener: f})
			return
		}
	}
	if !wheel.Fast() {
		m.free()[w] = true
	}
}

// pulledOff frees the wheels that come off with a part: one that is off sits fast on
// nothing.
func (m *Machine) pulledOff(id engine.PartID) {
	for w := range m.Index.Sheet.Wheels {
		if wheel := &m.Index.Sheet.Wheels[w]; wheel.Part == id && wheel.Taper && !wheel.Fast() {
			m.free()[w] = true
		}
	}
}

// WorkSome slackens or tightens some of a set: the others stay as they are, and so does
// what they hold together.
func (m *Machine) WorkSome(id engine.FastenerID, hold engine.LockID) {
	i := m.Index.FastenerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	m.coveredFastener(i)
	if m.cur.Fasteners[i].Stage >= Snug || hold != "" {
		m.torqueOn(i, hold)
	}
}

// relax lets go what fastener i clamps.
func (m *Machine) relax(i int) {
	for _, w := range m.Index.ClampedBy(i) {
		if wheel := &m.Index.Sheet.Wheels[w]; !wheel.Fast() && !wheel.Taper {
			m.free()[w] = true
		}
	}
	for t := range m.Index.Sheet.Tensioners {
		ten := &m.Index.Sheet.Tensioners[t]
		for _, b := range ten.Bolts {
			switch now := m.cur.Tensioners[t].Now; {
			case b != m.Index.Sheet.Fasteners[i].ID:
			case ten.Method.Of().BySpring:
				m.springs(t)
			case now != Pinned: // one that has been to its stop is on the way back from there
				m.tensioners()[t] = TensionState{Now: Relieved, Stop: m.cur.Tensioners[t].Stop && m.onLoop(t)}
			}
		}
	}
}

// Tighten takes a fastener up to a stage; through are the values it is taken to. Some of
// the sheet's stages leave it part way: the rest is done by a later step.
func (m *Machine) Tighten(id engine.FastenerID, to Stage, hold engine.LockID, through ...engine.Stage) {
	i := m.Index.FastenerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	f := &m.Index.Sheet.Fasteners[i]
	was := m.cur.Fasteners[i]
	if p := m.gone(id); p != "" && (f.OnShaft == "" || to != Snug) { // one may be nipped up bare, to turn by
		m.note(PartGone{Part: p, Fastener: id})
	}
	if to == Final && was.Stage == Final && !was.Loosened && !f.Again {
		m.note(TightAlready{Fastener: id})
	}
	m.coveredFastener(i)
	m.boltOrder(i, to)
	if to >= Partial || to == Snug && hold != "" { // little force, unless a hold is named against it
		m.torqueOn(i, hold)
	}
	bare := m.gone(id) != "" // without its part it clamps nothing
	if to >= Snug && !bare {
		m.clampFixed(i)
		m.clampedEarly(i)
	}
	if to == Final && f.SingleUse && was.Touched && !was.Fresh {
		m.note(OldPart{Fastener: id})
	}
	reached := was.Reached
	if to == Final && was.Stage < Final {
		if n, ok := engine.Reach(f.Spec, reached, through); ok && n < len(f.Spec) {
			to, reached = Partial, n
		}
	}
	to = max(to, was.Stage) // tightened less, nothing comes loose
	m.fasteners()[i] = FastenerState{Stage: to, Touched: was.Touched, Fresh: was.Fresh, Loosened: was.Loosened && to < Final, Reached: reached, Stretched: was.Stretched && !was.Fresh}
	if to == Final && f.Stretches() {
		if was.Loosened && was.Stretched && !was.Fresh && !f.SingleUse {
			m.note(StretchedTwice{Fastener: id})
		}
		m.fasteners()[i].Stretched = true
	}
	if to >= Snug && !bare {
		for _, w := range m.Index.ClampedBy(i) {
			if m.cur.Free[w] && m.allSnug(w) {
				m.free()[w] = false
				m.clampedAt(w)
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

// boltOrder notes a fastener that is taken up before one that comes first: by the
// sheet's order between fasteners, or that of a lock's own screws.
func (m *Machine) boltOrder(i int, to Stage) {
	f := &m.Index.Sheet.Fasteners[i]
	if to == Final {
		for _, id := range f.After {
			if k := m.Index.FastenerAt(id); k >= 0 && m.cur.Fasteners[k].Touched && m.cur.Fasteners[k].Stage < Final {
				m.note(BoltOrder{Fastener: f.ID, After: m.Index.Sheet.Fasteners[k].ID})
			}
		}
	}
	if to < Snug {
		return
	}
	for l := range m.Index.Sheet.Locks {
		screws := m.Index.Sheet.Locks[l].Screws
		at := slices.Index(screws, f.ID)
		if at < 0 || !m.cur.Locks[l].In {
			continue
		}
		for _, id := range screws[:at] {
			if k := m.Index.FastenerAt(id); k >= 0 && m.cur.Fasteners[k].Stage < Snug {
				m.note(ScrewOrder{Fastener: f.ID, Lock: m.Index.Sheet.Locks[l].ID, After: m.Index.Sheet.Fasteners[k].ID})
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

// clampFixed notes a loose wheel that is clamped while its shaft may move, or, where it
// drives others, while one of those behind it may: until then they are two groups.
func (m *Machine) clampFixed(i int) {
	s := m.Index.Sheet
	for _, w := range m.Index.ClampedBy(i) {
		if !m.cur.Free[w] {
			continue
		}
		wheel := &s.Wheels[w]
		if !m.Fixed(wheel.Shaft) {
			m.note(NotFixed{Fastener: s.Fasteners[i].ID, Shaft: wheel.Shaft})
		}
		for k := range s.Shafts {
			if m.drivenBy(k, w) && s.Shafts[k].Kind.IsCam() && !m.fixedGroup(k) {
				m.note(NotFixed{Fastener: s.Fasteners[i].ID, Shaft: s.Shafts[k].ID})
			}
		}
		for k := range s.Locks {
			// A sprocket finds its place by its loop or its mesh; a pulley has only its own.
			if l := &s.Locks[k]; l.Wheel == wheel.ID && l.Kind.ForPosition() && !m.cur.Locks[k].Holds(l.Kind) && m.Index.Alone(wheel.ID) {
				m.note(Unplaced{Wheel: wheel.ID, Lock: l.ID, Fastener: s.Fasteners[i].ID})
			}
		}
	}
}

// drivenBy reports whether a shaft hangs on the crank through a wheel that is not its
// own, by loops that are on.
func (m *Machine) drivenBy(shaft, wheel int) bool {
	d := m.Index.Drive(shaft)
	return m.Index.Sheet.Wheels[wheel].Shaft != m.Index.Sheet.Shafts[shaft].ID && slices.Contains(d.Wheels, wheel) && m.loopsOn(d)
}

// fixedGroup reports whether a shaft, or one that it moves with just now, is held by a
// lock.
func (m *Machine) fixedGroup(shaft int) bool {
	if m.Fixed(m.Index.Sheet.Shafts[shaft].ID) {
		return true
	}
	for k := range m.group(shaft) {
		if m.Fixed(m.Index.Sheet.Shafts[k].ID) {
			return true
		}
	}
	return false
}

// torqueOn works out what takes the torque of fastener i.
func (m *Machine) torqueOn(i int, hold engine.LockID) {
	f := &m.Index.Sheet.Fasteners[i]
	if f.OnShaft == "" {
		return
	}
	// The hold that a step names is the one that holds: another that happens to be
	// in does not excuse it.
	if l := m.Index.Lock(hold); l != nil {
		switch {
		case !holds(l, f.OnShaft) && !m.tied(l, f.OnShaft):
			m.note(WrongHold{Lock: hold, Fastener: f.ID, Shaft: f.OnShaft})
			return
		case !l.CarriesTorque:
			m.note(PinCarriedTorque{Lock: hold, Fastener: f.ID, Shaft: f.OnShaft})
		}
		if l.Kind != engine.Holder && !m.cur.Locks[m.Index.LockAt(hold)].In {
			m.note(HoldNotIn{Lock: hold, Fastener: f.ID, Shaft: f.OnShaft})
		} else if l.Kind == engine.Holder {
			m.access(l) // it is put on for the step, where it can be
		}
		m.screwed(l)
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
			m.screwed(l)
			return
		}
		if named || l.Kind.ForPosition() {
			pin = l.ID
		}
	}
	if pin != "" {
		m.note(PinCarriedTorque{Lock: pin, Fastener: f.ID, Shaft: f.OnShaft})
		return
	}
	m.note(Unheld{Fastener: f.ID, Shaft: f.OnShaft})
}

// tied reports whether a holder grips a shaft that gears alone tie to another.
func (m *Machine) tied(l *engine.Lock, id engine.ShaftID) bool {
	k := m.Index.ShaftAt(id)
	if k < 0 {
		return false
	}
	for _, h := range l.Holds {
		if i := m.Index.ShaftAt(h); i >= 0 && m.Index.Geared(i, k) {
			return true
		}
	}
	return false
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
func (m *Machine) Spread(id engine.PartID, open unit.Minutes) {
	if m.Index.PartAt(id) < 0 {
		return
	}
	m.note(SealantOn{Part: id})
	if open > 0 {
		claim(m, ownSealants, &m.cur.Sealants)
		m.cur.Sealants = append(m.cur.Sealants, Sealant{Part: id, Since: float64(m.cur.Minutes), Until: float64(m.cur.Minutes) + float64(open)})
	}
}

// CleanPart takes what was put on a part off it again, sealant too.
func (m *Machine) CleanPart(id engine.PartID) {
	if m.Index.PartAt(id) < 0 {
		m.Unknown(string(id))
		return
	}
	m.note(Cleaned{Part: id})
	for k, s := range m.cur.Sealants {
		if s.Part == id {
			left := claim(m, ownSealants, &m.cur.Sealants)
			m.cur.Sealants = append(left[:k:k], left[k+1:]...)
			return
		}
	}
}

func (m *Machine) closeJoint(id engine.PartID) {
	for k, s := range m.cur.Sealants {
		if s.Part != id {
			continue
		}
		if float64(m.cur.Minutes) > s.Until+hair {
			m.note(SealantDry{Part: id, Minutes: unit.Minutes(float64(m.cur.Minutes) - s.Since)})
		}
		left := claim(m, ownSealants, &m.cur.Sealants)
		m.cur.Sealants = append(left[:k:k], left[k+1:]...)
		return
	}
}
