package virtual

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// byHand is how far a cam that nothing drives may be brought round with a
// spanner to meet its lock, degrees; an assumption of ours.
const byHand = 20

// FitLock puts a lock in where the shafts stand.
func (m *Machine) FitLock(id engine.LockID) {
	i := m.Index.LockAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	l := &m.Index.Sheet.Locks[i]
	if m.cur.Locks[i].In {
		m.note(AlreadyIn{Lock: id})
		return
	}
	m.access(l)
	forced := !m.tryLock(l)
	m.locks()[i] = LockState{In: true, Forced: forced}
	m.screws(l, FastenerState{Stage: Finger, Loosened: true})
	m.meetStops(0)
	m.look(l)
}

// screws brings a lock's own fastenings with it: in by hand, or out.
func (m *Machine) screws(l *engine.Lock, to FastenerState) {
	for _, f := range l.Screws {
		if k := m.Index.FastenerAt(f); k >= 0 {
			m.fasteners()[k] = to
		}
	}
}

// seated notes locks for position whose own screws are not tight, when what they
// hold is let go.
func (m *Machine) seated() {
	for i := range m.Index.Sheet.Locks {
		if l := &m.Index.Sheet.Locks[i]; m.cur.Locks[i].In {
			m.screwed(l)
		}
	}
}

// screwed notes a lock whose own screws are not tight, when force goes through it.
func (m *Machine) screwed(l *engine.Lock) {
	if i := m.Index.LockAt(l.ID); !m.cur.Locks[i].In {
		return
	}
	for _, f := range l.Screws {
		if k := m.Index.FastenerAt(f); k >= 0 && m.cur.Fasteners[k].Stage < Snug {
			m.note(ScrewsLoose{Lock: l.ID, Fastener: f})
		}
	}
}

// CheckLock tries whether a lock goes in, without leaving it there.
func (m *Machine) CheckLock(id engine.LockID) {
	i := m.Index.LockAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	l := &m.Index.Sheet.Locks[i]
	if m.cur.Locks[i].In {
		m.note(TriedWhileIn{Lock: id})
		return
	}
	if !l.Kind.ForPosition() {
		m.note(NoProof{Lock: id})
	}
	m.access(l)
	m.tryLock(l)
	m.look(l)
}

func (m *Machine) access(l *engine.Lock) {
	for _, id := range l.Accesses() {
		if p := m.Index.PartAt(id); p >= 0 && !m.cur.Parts[p].Off {
			m.note(AccessShut{Lock: l.ID, Part: id})
		}
	}
}

// tryLock tries whether a lock goes in where the shafts stand.
func (m *Machine) tryLock(l *engine.Lock) bool {
	if !l.Kind.ForPosition() {
		m.note(WentIn{Lock: l.ID})
		return true
	}
	if l.Kind == engine.StopLock {
		return m.tryStop(l)
	}
	if m.cur.Adrift {
		m.note(AfterRun{Lock: l.ID})
		return false
	}
	m.bringByHand(l)
	dev := m.deviation(l)
	if math.Abs(dev) <= float64(l.Freedom())+hair {
		m.cur.Found = true
		m.note(WentIn{Lock: l.ID, Degrees: unit.Angle(dev)})
		for _, id := range l.Holds {
			m.sure(id, float64(l.Freedom()))
		}
		return true
	}
	m.note(WouldNotGoIn{Lock: l.ID, Degrees: unit.Angle(dev), WrongStroke: m.oneTurnWouldDo(l), Shaft: m.furthest(l)})
	return false
}

// tryStop fits a screw-in stop: it goes in unless the web has just passed.
func (m *Machine) tryStop(l *engine.Lock) bool {
	dev := m.deviation(l)
	if past := l.Way() * dev; past > float64(l.Freedom())+hair && past < stopReach {
		m.note(WouldNotGoIn{Lock: l.ID, Degrees: unit.Angle(dev), Shaft: l.Holds[0]})
		return false
	}
	m.note(WentIn{Lock: l.ID, Degrees: unit.Angle(dev)})
	return true
}

// bringByHand turns cams that nothing drives onto their lock.
func (m *Machine) bringByHand(l *engine.Lock) {
	for _, id := range l.Holds {
		i := m.Index.ShaftAt(id)
		if i < 0 || id == engine.CrankID {
			continue
		}
		d := m.Index.Drive(i)
		dev := engine.Wrap(m.cur.Shafts[i]-l.At, float64(l.Period()))
		if d.Driven && !m.follows(d) && math.Abs(dev) > float64(l.Freedom()) && math.Abs(dev) <= byHand+hair {
			m.shafts()[i] -= dev
		}
	}
}

func (m *Machine) oneTurnWouldDo(l *engine.Lock) bool {
	for _, id := range l.Holds {
		i := m.Index.ShaftAt(id)
		if i < 0 {
			return false
		}
		moved := m.cur.Shafts[i] + 360*m.Index.Drive(i).Ratio.Float()
		if math.Abs(engine.Wrap(moved-l.At, float64(l.Period()))) > float64(l.Freedom())+hair {
			return false
		}
	}
	return true
}

func (m *Machine) furthest(l *engine.Lock) engine.ShaftID {
	var id engine.ShaftID
	worst := -1.0
	for _, s := range l.Holds {
		if i := m.Index.ShaftAt(s); i >= 0 {
			if d := math.Abs(engine.Wrap(m.cur.Shafts[i]-l.At, float64(l.Period()))); d > worst {
				worst, id = d, s
			}
		}
	}
	return id
}

// look notes that the timing was looked at on every loop behind the lock.
func (m *Machine) look(l *engine.Lock) {
	if !l.Kind.ForPosition() {
		return
	}
	for _, id := range l.Holds {
		m.lookShaft(id)
		if l.Kind != engine.StopLock {
			m.note(Looked{Shaft: id, Lock: l.ID})
		}
	}
}

func (m *Machine) lookShaft(id engine.ShaftID) {
	i := m.Index.ShaftAt(id)
	if i < 0 {
		return
	}
	for _, loop := range m.Index.Drive(i).Loops {
		if !m.cur.Loops[loop].Looked {
			m.loops()[loop].Looked = true
		}
	}
	m.sees(i)
}

// sees keeps for every loop that a shaft, with what gears tie to it, was looked at.
func (m *Machine) sees(shaft int) {
	bits := uint64(0)
	for k := range m.Index.Sheet.Shafts {
		if m.Index.Geared(k, shaft) {
			bits |= 1 << k
		}
	}
	for l := range m.cur.Loops {
		if m.cur.Loops[l].Seen|bits != m.cur.Loops[l].Seen {
			m.loops()[l].Seen |= bits
		}
	}
}

// TakeLock takes a lock out.
func (m *Machine) TakeLock(id engine.LockID) {
	i := m.Index.LockAt(id)
	switch {
	case i < 0:
		m.Unknown(string(id))
	case !m.cur.Locks[i].In:
		m.note(NotIn{Lock: id})
	default:
		m.locks()[i] = LockState{}
		m.screws(&m.Index.Sheet.Locks[i], FastenerState{Stage: Out, Loosened: true})
		m.note(CameOut{Lock: id})
	}
}

// markSlack is what a look at a mark passes when the sheet does not say how
// small an error it shows, degrees.
const markSlack = 2

func (m *Machine) shows(mark *engine.Mark) float64 {
	if mark.Shows == 0 {
		return markSlack
	}
	return mark.Shows
}

// CheckMark looks whether a mark stands at its pointer.
func (m *Machine) CheckMark(id engine.MarkID) {
	mark := m.Index.Mark(id)
	if mark == nil {
		m.Unknown(string(id))
		return
	}
	if mark.Kind == engine.LoopMark {
		m.checkLoopMark(mark)
		return
	}
	m.readable(mark)
	shaft := m.Index.MarkShaft(mark)
	if shaft == "" {
		return
	}
	if m.cur.Adrift && mark.Kind == engine.TimingMark {
		m.note(AfterRun{Mark: id})
		return
	}
	if mark.Kind == engine.TimingMark {
		m.note(Looked{Shaft: shaft, Mark: id})
	}
	dev := engine.Wrap(m.cur.Shafts[m.Index.ShaftAt(shaft)]-mark.At, 360)
	if math.Abs(dev) > m.shows(mark) {
		m.note(MarkAway{Mark: id, Degrees: unit.Angle(dev), Shaft: shaft})
	} else {
		if mark.Kind == engine.TimingMark {
			m.sure(shaft, m.shows(mark))
		}
		m.note(MarkStood{Mark: id, Degrees: unit.Angle(dev), Shaft: shaft})
	}
	m.lookShaft(shaft)
}

// readable notes a mark that is hidden, or is none.
func (m *Machine) readable(mark *engine.Mark) {
	if mark.Kind == engine.LookAlike {
		m.note(NotAMark{Mark: mark.ID})
	}
	if i := m.Index.LoopAt(mark.Loop); mark.Kind == engine.LoopMark && i >= 0 && !m.cur.Loops[i].Refitted {
		m.note(LoopMarkMoved{Mark: mark.ID, Loop: mark.Loop, AsFound: true})
	}
	if p := m.Index.PartAt(mark.Behind); p >= 0 && !m.cur.Parts[p].Off {
		m.note(MarkHidden{Mark: mark.ID, Part: mark.Behind})
	} else if p := m.listed(mark.Wheel); p != "" && mark.Kind != engine.LoopMark {
		m.note(MarkHidden{Mark: mark.ID, Part: p})
	}
	if p := m.Index.PartAt(mark.On); p >= 0 && m.cur.Parts[p].Off {
		m.note(PointerOff{Mark: mark.ID, Part: mark.On})
	}
}

// listed is a part that is on and that the sheet lists a wheel behind; empty for none.
func (m *Machine) listed(id engine.WheelID) engine.PartID {
	for i := range m.Index.Sheet.Parts {
		if p := &m.Index.Sheet.Parts[i]; !m.cur.Parts[i].Off && slices.Contains(p.Hides, id) {
			return p.ID
		}
	}
	return ""
}

func (m *Machine) checkLoopMark(mark *engine.Mark) {
	i := m.Index.LoopAt(mark.Loop)
	if i < 0 {
		return
	}
	turns := m.cur.Loops[i].Turned / 360
	if m.cur.Adrift {
		m.note(AfterRun{Mark: mark.ID})
		return
	}
	if !m.cur.Loops[i].Refitted {
		// Nobody knows where a loop’s own marks stand on an engine as it is found.
		m.note(LoopMarkMoved{Mark: mark.ID, Loop: mark.Loop, AsFound: true})
		return
	}
	if back := float64(m.Index.MarkHomeEvery(mark)); m.hasLeft(mark, m.cur.Loops[i].Turned) && (back == 0 || math.Abs(math.Remainder(turns, back)) > 0.01) {
		m.note(LoopMarkMoved{Mark: mark.ID, Loop: mark.Loop, Degrees: unit.Angle(m.cur.Loops[i].Turned)})
		return
	}
	m.note(MarkStood{Mark: mark.ID, Loop: mark.Loop})
	m.lies(mark)
	if !m.cur.Loops[i].Looked {
		m.loops()[i].Looked = true
	}
	for k := range m.Index.Sheet.Shafts {
		if w := m.Index.Wheel(mark.Wheel); w == nil || w.Shaft == m.Index.Sheet.Shafts[k].ID {
			m.sees(k)
		}
	}
}

// inWrap is how far a wheel turns, degrees of it, before the tooth or link that met its
// mark leaves it: less than half of the least that a loop wraps a timed wheel. An
// assumption of ours.
const inWrap = 45

// hasLeft reports whether the tooth or link of a loop's own mark has left the wheel that it
// is read at, once the crank has been turned so far with the loop on. Until then the two
// move together. One that is read at no wheel moves on at once.
func (m *Machine) hasLeft(mark *engine.Mark, turned float64) bool {
	w := m.Index.Wheel(mark.Wheel)
	if w == nil {
		return turned > 3.6
	}
	k := m.Index.ShaftAt(w.Shaft)
	if k < 0 || !m.Index.Drive(k).Driven {
		return turned > 3.6
	}
	return turned*math.Abs(m.Index.Drive(k).Ratio.Float()) > inWrap
}

// Fixed reports whether a shaft's position is held by a lock that is in and, for
// a stop, met.
func (m *Machine) Fixed(id engine.ShaftID) bool {
	return fixed(m.Index, &m.cur, id)
}

func fixed(x *engine.Index, st *State, id engine.ShaftID) bool {
	for i := range x.Sheet.Locks {
		l := &x.Sheet.Locks[i]
		if !l.Kind.ForPosition() || !st.Locks[i].Holds(l.Kind) {
			continue
		}
		if w := x.WheelAt(l.Wheel); w >= 0 && st.Free[w] {
			continue // it holds the wheel, and the shaft turns in it
		}
		for _, h := range l.Holds {
			if h == id {
				return true
			}
		}
	}
	return false
}
