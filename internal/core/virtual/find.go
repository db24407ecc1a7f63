package virtual

import (
	"math"

	"inklatch/internal/core/engine"
)

// Finding is how a check finds a thing.
type Finding uint8

// How things are found.
const (
	FoundIn        Finding = iota + 1 // a lock is in
	FoundOut                          // a lock is out
	FoundFitted                       // a part is fitted
	FoundOn                           // a loop is on
	FoundOff                          // a part or loop is off
	FoundInView                       // a mark can be seen
	FoundAtPointer                    // a mark stands at its pointer
	FoundRelieved                     // a tensioner is relieved
)

// FindLock looks whether a lock is in, or is out.
func (m *Machine) FindLock(id engine.LockID, in bool) {
	if i := m.Index.LockAt(id); i >= 0 {
		m.otherwise(m.cur.Locks[i].In, in, engine.Ref{Kind: engine.KindLock, ID: string(id)}, FoundIn, FoundOut)
	} else {
		m.Unknown(string(id))
	}
}

// FindPart looks whether a part is fitted, or is not.
func (m *Machine) FindPart(id engine.PartID, fitted bool) {
	if i := m.Index.PartAt(id); i >= 0 {
		m.otherwise(!m.cur.Parts[i].Off, fitted, engine.Ref{Kind: engine.KindPart, ID: string(id)}, FoundFitted, FoundOff)
	} else {
		m.Unknown(string(id))
	}
}

// FindLoop looks whether a loop is on, or is off.
func (m *Machine) FindLoop(id engine.LoopID, on bool) {
	if i := m.Index.LoopAt(id); i >= 0 {
		m.otherwise(m.cur.Loops[i].On, on, engine.Ref{Kind: engine.KindLoop, ID: string(id)}, FoundOn, FoundOff)
	} else {
		m.Unknown(string(id))
	}
}

// otherwise notes that a thing is found the other way than a check says.
func (m *Machine) otherwise(is, want bool, thing engine.Ref, yes, no Finding) {
	if is == want {
		return
	}
	if is {
		no = yes
	}
	m.note(FoundOtherwise{Thing: thing, Found: no})
}

// FindHidden looks whether a mark is hidden by the part before it.
func (m *Machine) FindHidden(id engine.MarkID) {
	mark := m.Index.Mark(id)
	if mark == nil {
		m.Unknown(string(id))
		return
	}
	if p := m.Index.PartAt(mark.Behind); p < 0 || m.cur.Parts[p].Off {
		m.note(FoundOtherwise{Thing: engine.Ref{Kind: engine.KindMark, ID: string(id)}, Found: FoundInView})
	}
}

// FindMarkAway looks whether a mark stands away from its pointer.
func (m *Machine) FindMarkAway(id engine.MarkID) {
	mark := m.Index.Mark(id)
	if mark == nil {
		m.Unknown(string(id))
		return
	}
	k := m.Index.ShaftAt(m.Index.MarkShaft(mark))
	if mark.Kind == engine.LoopMark || k < 0 {
		return
	}
	if math.Abs(engine.Wrap(m.cur.Shafts[k]-mark.At, 360)) <= m.shows(mark) {
		m.note(FoundOtherwise{Thing: engine.Ref{Kind: engine.KindMark, ID: string(id)}, Found: FoundAtPointer})
	}
}

// Inspect looks a part over.
func (m *Machine) Inspect(id engine.PartID) {
	if m.Index.PartAt(id) < 0 {
		m.Unknown(string(id))
		return
	}
	m.note(Inspected{Part: id})
}

// CountTools counts the tools back into their kit.
func (m *Machine) CountTools() { m.note(Counted{}) }

// TryPin tries whether the pin of a tensioner goes into its hole, without leaving
// it there: where its loop is on and tensioned, it does.
func (m *Machine) TryPin(id engine.TensionerID) {
	i := m.Index.TensionerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	t := &m.Index.Sheet.Tensioners[i]
	switch {
	case t.Pin == "":
		m.Unknown(t.Name + " pin")
		return
	case m.cur.Tensioners[i].Now == Pinned:
		m.note(TriedWhileIn{Tensioner: id})
		return
	case m.cur.Tensioners[i].Now == Relieved:
		m.note(FoundOtherwise{Thing: engine.Ref{Kind: engine.KindTensioner, ID: string(id)}, Found: FoundRelieved})
		return
	}
	m.seen(i)
}

func (m *Machine) seen(i int) {
	m.tensioners()[i].Seen = true
	m.note(TensionSeen{Tensioner: m.Index.Sheet.Tensioners[i].ID})
}

// SeeTensioner looks whether a tensioner stands where it belongs.
func (m *Machine) SeeTensioner(id engine.TensionerID) {
	i := m.Index.TensionerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	m.seen(i)
}
