package virtual

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
)

// A loop that is slack hangs on its wheels: a sprocket comes off its shaft with it, or
// goes on with it, and a roller comes out of it or in later. It is complete when all its
// wheels are there.

// slackLoop reports whether a loop that is on hangs: one of its tensioners is slack or
// off, a wheel of it is out, or nothing tensions it.
func (m *Machine) slackLoop(i int) bool {
	l := &m.Index.Sheet.Loops[i]
	none := true
	for _, id := range l.Tensioners() {
		if t := m.Index.Tensioner(id); t != nil {
			none = none && t.Method == engine.Fixed
			if m.cur.Dismounted(m.Index, m.Index.TensionerAt(id)) {
				return true
			}
		}
	}
	return none || m.cur.SlackOn(m.Index, i)
}

// timedOn calls f for the loops that are on and run over a sprocket of a part, which
// carries a shaft.
func (m *Machine) timedOn(p *engine.Part, f func(loop int, wheel *engine.Wheel)) {
	s := m.Index.Sheet
	for i := range s.Loops {
		if !m.cur.Loops[i].On {
			continue
		}
		for _, stop := range s.Loops[i].Route {
			if w := m.Index.Wheel(stop.Wheel); w != nil && w.Teeth > 0 && m.Index.ShaftAt(w.Shaft) >= 0 && m.isPartOf(p.ID, w) {
				f(i, w)
			}
		}
	}
}

// isPartOf reports whether a wheel comes off with a part: its own, or its shaft.
func (m *Machine) isPartOf(id engine.PartID, w *engine.Wheel) bool {
	sh := m.Index.Shaft(w.Shaft)
	return id != "" && (w.Part == id || sh != nil && sh.Part == id)
}

// hung notes the shaft of a sprocket that comes off, or goes on, with a loop that hangs,
// where nothing holds it; a shaft that is taken out itself needs no holding.
func (m *Machine) hung(p *engine.Part, as func(engine.LoopID, engine.ShaftID) Event) {
	m.timedOn(p, func(i int, w *engine.Wheel) {
		sh := m.Index.Shaft(w.Shaft)
		if m.drivesCam(i) && (sh.Kind == engine.Crankshaft || sh.Kind.IsCam()) && sh.Part != p.ID && !m.Fixed(sh.ID) {
			m.note(as(m.Index.Sheet.Loops[i].ID, sh.ID))
		}
	})
}

// rehung is a sprocket that has gone on with a loop that hangs: the loop lies anew, and
// nobody has looked at it.
func (m *Machine) rehung(p *engine.Part) {
	m.timedOn(p, func(i int, w *engine.Wheel) {
		if sh := m.Index.Shaft(w.Shaft); sh.Part != p.ID {
			if caps := m.Index.Part(sh.Part); caps != nil {
				m.capsTight(caps, func(f engine.FastenerID) {
					m.note(CapsLoose{Shaft: sh.ID, Loop: m.Index.Sheet.Loops[i].ID, Fastener: f})
				})
			}
		}
		was := m.cur.Loops[i]
		m.loops()[i] = LoopState{On: true, Refitted: true, SlackAt: was.SlackAt, New: was.New, Copied: was.Copied}
		m.note(Laid{Loop: m.Index.Sheet.Loops[i].ID})
		m.laid(i)
	})
}

// incomplete is the first part that a loop which is on still misses; empty for none.
func (m *Machine) incomplete(i int) engine.PartID {
	for _, stop := range m.Index.Sheet.Loops[i].Route {
		if w := m.Index.WheelAt(stop.Wheel); w >= 0 {
			if p := m.cur.Missing(m.Index, w); p != "" {
				return p
			}
		}
	}
	return ""
}

// whole notes a loop that is tensioned, or turned on, before all its wheels are there.
func (m *Machine) whole(i int) {
	if p := m.incomplete(i); p != "" && m.cur.Loops[i].On && !slices.ContainsFunc(m.events, func(e Event) bool { return e == Event(WheelMissing{Loop: m.Index.Sheet.Loops[i].ID, Part: p}) }) {
		m.note(WheelMissing{Loop: m.Index.Sheet.Loops[i].ID, Part: p})
	}
}

// slackTurn is how far a shaft is turned, degrees of it either way, to draw the slack of a
// loop to where it is taken up; further it is no taking up any more. An assumption of ours.
const slackTurn = 12

// takesUp reports whether a small turn of a shaft only moves the slack of a loop: the loop
// hangs on it, nothing that goes in holds the shaft itself, and another on the loop stands
// in its lock. Nothing of the engine moves by it.
func (m *Machine) takesUp(id engine.ShaftID, delta float64) bool {
	if delta == 0 || math.Abs(delta) > slackTurn {
		return false
	}
	s := m.Index.Sheet
	for i := range s.Locks {
		if st := m.cur.Locks[i]; st.In && !st.Forced && holds(&s.Locks[i], id) && s.Locks[i].Kind != engine.Holder {
			return false
		}
	}
	for i := range s.Loops {
		if !m.cur.Loops[i].On || !m.cur.Loops[i].Refitted || !m.slackLoop(i) || m.Index.WheelOn(i, id) < 0 {
			continue
		}
		held := false
		for _, stop := range s.Loops[i].Route {
			w := m.Index.Wheel(stop.Wheel)
			if w == nil || w.Teeth == 0 || w.Shaft == id || m.Index.ShaftAt(w.Shaft) < 0 {
				continue
			}
			held = held || m.Fixed(w.Shaft)
		}
		if held {
			return true
		}
	}
	return false
}
