package virtual

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/unit"
)

// Missing is the part that a wheel misses in a state, its own or its shaft; empty for one
// that is there.
func (s *State) Missing(x *engine.Index, wheel int) engine.PartID {
	for _, p := range x.SitsOn(wheel) {
		if s.Parts[p].Off {
			return x.Sheet.Parts[p].ID
		}
	}
	return ""
}

// apart reports whether a wheel of a pair of gears is out.
func (m *Machine) apart(g int) bool {
	pair := &m.Index.Sheet.Gears[g]
	return slices.ContainsFunc([]engine.WheelID{pair.Driver, pair.Driven}, func(id engine.WheelID) bool {
		w := m.Index.WheelAt(id)
		return w >= 0 && m.cur.Missing(m.Index, w) != ""
	})
}

// unmesh keeps which gears have just come apart.
func (m *Machine) unmesh() {
	for g := range m.cur.Meshes {
		if !m.cur.Meshes[g].Apart && m.apart(g) {
			m.meshes()[g] = MeshState{Apart: true, Relaid: m.cur.Meshes[g].Relaid, OffAt: m.cur.Crank}
		}
	}
}

// mesh brings together the gears whose wheels are both there again. They are laid tooth
// to tooth by their dots: what hangs behind them and nothing holds takes its home where
// the crank stands at its own, and may be a tooth off until somebody looks.
func (m *Machine) mesh() {
	x := m.Index
	for g := range m.cur.Meshes {
		if !m.cur.Meshes[g].Apart || m.apart(g) {
			continue
		}
		m.meshes()[g] = MeshState{Relaid: true}
		m.note(Meshed{Gear: x.Sheet.Gears[g].ID})
		for i := range x.Sheet.Shafts {
			d := x.Drive(i)
			if !slices.Contains(d.Gears, g) {
				continue
			}
			if m.Fixed(engine.CrankID) && m.Fixed(x.Sheet.Shafts[i].ID) {
				continue
			}
			if math.Abs(engine.Wrap(m.cur.Crank, 360)) <= markSlack && !m.Fixed(x.Sheet.Shafts[i].ID) && m.follows(d) {
				m.shafts()[i] -= engine.Wrap(m.cur.Shafts[i]-m.homeOf(i), 360)
			}
			if m.cur.Doubts[i].Teeth == 0 {
				m.doubts()[i].Teeth = 1
			}
		}
	}
}

// homeOf is where the mark of a shaft stands, or the lock that holds it goes in; the
// timing position where it has neither.
func (m *Machine) homeOf(shaft int) float64 {
	s := m.Index.Sheet
	for i := range s.Marks {
		if mark := &s.Marks[i]; mark.Kind == engine.TimingMark && m.Index.MarkShaft(mark) == s.Shafts[shaft].ID {
			return mark.At
		}
	}
	for i := range s.Locks {
		if l := &s.Locks[i]; l.Kind.ForPosition() && holds(l, s.Shafts[shaft].ID) {
			return l.At
		}
	}
	return 0
}

// laidIn is a shaft that has been laid in: by its peg or its mark, at its home, where the
// crank stands at its own. Until somebody looks it may stand as a hand left it.
func (m *Machine) laidIn(id engine.PartID) {
	for i := range m.Index.Sheet.Shafts {
		if m.Index.Sheet.Shafts[i].Part != id || id == "" || m.Index.Sheet.Shafts[i].ID == engine.CrankID {
			continue
		}
		if math.Abs(engine.Wrap(m.cur.Crank, 360)) <= markSlack {
			m.shafts()[i] -= engine.Wrap(m.cur.Shafts[i]-m.homeOf(i), 360)
		}
		m.doubts()[i] = Doubt{Teeth: m.cur.Doubts[i].Teeth, Angle: byHand}
	}
}

// gearsApart looks for contact with gears apart that drive a cam.
func (m *Machine) gearsApart() {
	s := m.Index.Sheet
	for g := range m.cur.Meshes {
		if !m.cur.Meshes[g].Apart || s.Interference == engine.No {
			continue
		}
		away := math.Abs(m.cur.Crank - m.cur.Meshes[g].OffAt)
		for i := range s.Shafts {
			d := m.Index.Drive(i)
			if !s.Shafts[i].Kind.IsCam() || !slices.Contains(d.Gears, g) || m.out(i) {
				continue
			}
			if _, known := piston.TrainOf(m.Index, i); known && s.Limits.SafeWindow == 0 || away <= s.Limits.SafeWindow+hair {
				continue
			}
			m.note(Contact{Gear: s.Gears[g].ID, Degrees: unit.Angle(away)})
			break
		}
	}
}

// out reports whether a shaft itself is out: its valves then hang on nothing.
func (m *Machine) out(shaft int) bool {
	s := m.Index.Sheet
	if p := m.Index.PartAt(s.Shafts[shaft].Part); p >= 0 && m.cur.Parts[p].Off {
		return true
	}
	return false
}

// looseCaps notes an engine that is turned with the bolts of a shaft's caps not tight.
func (m *Machine) looseCaps(delta float64) {
	if math.Abs(delta) < capsTurn {
		return
	}
	s := m.Index.Sheet
	for i := range s.Shafts {
		p := m.Index.Part(s.Shafts[i].Part)
		if p == nil || m.cur.Parts[m.Index.PartAt(p.ID)].Off || !m.follows(m.Index.Drive(i)) {
			continue
		}
		m.capsTight(p, func(f engine.FastenerID) { m.note(TurnedLoose{Fastener: f}) })
	}
}

// capsTurn is how far an engine may be turned with caps not tight, degrees: to bring
// gears or a sprocket together.
const capsTurn = 10

// capsTight calls f for the first bolt of a shaft's caps that was loosened and is not
// tight.
func (m *Machine) capsTight(p *engine.Part, f func(engine.FastenerID)) {
	for _, id := range p.Held {
		if k := m.Index.FastenerAt(id); k >= 0 && m.cur.Fasteners[k].Touched && m.cur.Fasteners[k].Stage < Partial {
			f(id)
			return
		}
	}
}
