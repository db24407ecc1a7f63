package virtual

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/unit"
)

// meetStep is how finely a turn is looked through for contact, degrees.
const meetStep = 2

// knowsRoom reports whether the sheet says enough about every cam that a loop
// drives to work out where valves meet pistons, and sets no window of its own.
func (m *Machine) knowsRoom(loop int) bool {
	if m.Index.Sheet.Limits.SafeWindow > 0 {
		return false
	}
	any := false
	for i := range m.Index.Sheet.Shafts {
		if !m.Index.Sheet.Shafts[i].Kind.IsCam() || !m.hangs(i, loop) {
			continue
		}
		if _, ok := piston.TrainOf(m.Index, i); !ok {
			return false
		}
		any = true
	}
	return any
}

func (m *Machine) hangs(shaft, loop int) bool {
	for _, l := range m.Index.Drive(shaft).Loops {
		if l == loop {
			return true
		}
	}
	return false
}

// meet looks through a turn of the crank that has been made for a cam that did not
// follow it and whose valves met the pistons.
func (m *Machine) meet(delta float64) {
	s := m.Index.Sheet
	if s.Interference == engine.No {
		return
	}
	for i := range s.Shafts {
		d := m.Index.Drive(i)
		if s.Shafts[i].Valves == nil && s.Shafts[i].Contact == 0 || !s.Shafts[i].Kind.IsCam() || !d.Driven || m.follows(d) || m.out(i) {
			continue
		}
		t, ok := piston.TrainOf(m.Index, i)
		if !ok {
			m.beyond(i, delta)
			continue
		}
		for gone := 0.0; gone < math.Abs(delta); gone += meetStep {
			if crank := m.cur.Crank - delta + math.Copysign(gone, delta); t.Now(unit.Angle(crank), unit.Angle(m.cur.Shafts[i])) < 0 {
				m.note(Contact{Shaft: s.Shafts[i].ID, Degrees: unit.Angle(gone), Loop: m.offLoop(d)})
				break
			}
		}
	}
}

// nearTop is how near its top a piston has to be for a valve to reach it, degrees of
// the crank either way, where the sheet gives only the limit of contact; an
// assumption.
const nearTop = 40

// beyond looks through a turn for a cam that is out of step by more than the sheet's
// own limit of contact while a piston is near its top.
func (m *Machine) beyond(i int, delta float64) {
	s := m.Index.Sheet
	limit, r := s.Shafts[i].Contact, m.Index.Drive(i).Ratio.Float()
	for gone := 0.0; limit > 0 && gone <= math.Abs(delta); gone += meetStep {
		crank := m.cur.Crank - delta + math.Copysign(gone, delta)
		if math.Abs(engine.Wrap(m.cur.Shafts[i]-r*crank, 360)) <= limit {
			continue
		}
		for k := range max(s.Cylinders, 1) {
			top := s.Limits.TDC + float64(s.Fires(k))
			if math.Abs(engine.Wrap(crank-top, 360)) <= nearTop {
				m.note(Contact{Shaft: s.Shafts[i].ID, Degrees: unit.Angle(gone), Loop: m.offLoop(m.Index.Drive(i))})
				return
			}
		}
	}
}

// CamAtRest reports whether a cam stands at an angle of its own at which its springs
// leave it.
func (s *State) CamAtRest(x *engine.Index, id engine.ShaftID) bool {
	i := x.ShaftAt(id)
	return i >= 0 && slices.ContainsFunc(x.Sheet.Shafts[i].Rests, func(at float64) bool {
		return math.Abs(engine.Wrap(s.Shafts[i]-at, 360)) <= restReach
	})
}

// offLoop is a loop of a drive that is off, empty for none.
func (m *Machine) offLoop(d *engine.Drive) engine.LoopID {
	for _, l := range d.Loops {
		if !m.cur.Loops[l].On {
			return m.Index.Sheet.Loops[l].ID
		}
	}
	return ""
}

// camMeets reports whether turning a cam by hand takes its valves to the pistons:
// worked out where the sheet lets it be; known is false otherwise.
func (m *Machine) camMeets(shaft int, from, by float64) (meets, known bool) {
	t, ok := piston.TrainOf(m.Index, shaft)
	if !ok {
		return false, false
	}
	for gone := 0.0; gone <= math.Abs(by); gone += meetStep / 2 {
		if t.Now(unit.Angle(m.cur.Crank), unit.Angle(from+math.Copysign(gone, by))) < 0 {
			return true, true
		}
	}
	return false, true
}
