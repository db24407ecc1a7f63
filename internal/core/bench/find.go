package bench

import (
	"math"

	"inklatch/internal/core/engine"
)

// FindLock looks whether a lock is in, or is out.
func (m *Machine) FindLock(id engine.LockID, in bool) {
	i := m.Index.LockAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if is := m.cur.Locks[i].In; is != in {
		m.note(Event{Kind: FoundOtherwise, Lock: id, Name: either(is, "in", "out")})
	}
}

// FindPart looks whether a part is fitted, or is not.
func (m *Machine) FindPart(id engine.PartID, fitted bool) {
	i := m.Index.PartAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if is := !m.cur.Parts[i].Off; is != fitted {
		m.note(Event{Kind: FoundOtherwise, Part: id, Name: either(is, "fitted", "off")})
	}
}

// FindLoop looks whether a loop is on, or is off.
func (m *Machine) FindLoop(id engine.LoopID, on bool) {
	i := m.Index.LoopAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if is := m.cur.Loops[i].On; is != on {
		m.note(Event{Kind: FoundOtherwise, Loop: id, Name: either(is, "on", "off")})
	}
}

// FindHidden looks whether a mark is hidden by the part before it.
func (m *Machine) FindHidden(id engine.MarkID) {
	mark := m.Index.Mark(id)
	if mark == nil {
		m.Unknown(string(id))
		return
	}
	if p := m.Index.PartAt(mark.Behind); p < 0 || m.cur.Parts[p].Off {
		m.note(Event{Kind: FoundOtherwise, Mark: id, Name: "in view"})
	}
}

// FindMarkAway looks whether a mark stands away from its pointer.
func (m *Machine) FindMarkAway(id engine.MarkID) {
	mark := m.Index.Mark(id)
	if mark == nil {
		m.Unknown(string(id))
		return
	}
	w := m.Index.Wheel(mark.Wheel)
	if mark.Kind == engine.LoopMark || w == nil || m.Index.ShaftAt(w.Shaft) < 0 {
		return
	}
	if math.Abs(engine.Wrap(m.cur.Shafts[m.Index.ShaftAt(w.Shaft)]-mark.At, 360)) <= m.shows(mark) {
		m.note(Event{Kind: FoundOtherwise, Mark: id, Name: "at its pointer"})
	}
}

func either(ok bool, yes, no string) string {
	if ok {
		return yes
	}
	return no
}
