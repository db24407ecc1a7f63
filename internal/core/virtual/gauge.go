package virtual

import (
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// gauge is the mark that a reading is for its shaft; nil for one that shows no shaft's
// place.
func (m *Machine) gauge(r *engine.Reading) *engine.Mark {
	if r == nil || m.Index.ShaftAt(r.Shaft) < 0 {
		return nil
	}
	return &engine.Mark{Kind: engine.TimingMark, Shaft: r.Shaft, At: r.At, Shows: float64(r.Tells())}
}

// reachable notes a reading with the part that bars the way to it still on.
func (m *Machine) reachable(r *engine.Reading) {
	if p := m.Index.PartAt(r.Behind); p >= 0 && !m.cur.Parts[p].Off {
		m.note(ReadingHidden{Reading: r.ID, Part: r.Behind})
	}
}

// Gauge takes a reading of the sheet: a look at the shaft whose place it shows, and at
// the tension of its loop.
func (m *Machine) Gauge(id engine.ReadingID) {
	r := m.Index.Reading(id)
	if r == nil {
		m.Unknown(string(id))
		return
	}
	m.reachable(r)
	m.note(Gauged{Reading: id})
	if l := m.Index.Loop(r.Loop); l != nil {
		for _, t := range l.Tensioners() {
			m.SeeTensioner(t)
		}
	}
	k := m.Index.ShaftAt(r.Shaft)
	if k < 0 {
		return
	}
	if m.cur.Adrift {
		m.note(AfterRun{Reading: id})
		return
	}
	m.note(Looked{Shaft: r.Shaft, Reading: id, Degrees: r.Tells()})
	if dev := engine.Wrap(m.cur.Shafts[k]-r.At, 360); math.Abs(dev) > float64(r.Tells())+hair {
		m.note(ReadingOff{Reading: id, Shaft: r.Shaft, Degrees: unit.Angle(dev)})
	} else {
		m.sure(r.Shaft, float64(r.Tells()))
	}
	m.lookShaft(r.Shaft)
}
