package virtual

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Machine is the virtual engine while a step acts on it.
type Machine struct {
	// Index is the engine's sheet.
	Index  *engine.Index
	cur    State
	own    uint16
	events []Event
	// backOnto is set while the crank comes up to a stop that is met against the
	// running direction.
	backOnto bool
}

// The slices of the state that this step has made its own.
const (
	ownShafts = 1 << iota
	ownLocks
	ownLoops
	ownFree
	ownAway
	ownFasteners
	ownParts
	ownTensioners
	ownSealants
	ownDoubts
	ownFluids
	ownPaints
	ownMeshes
)

// NewMachine is a complete engine of the given sheet.
func NewMachine(x *engine.Index) *Machine {
	return &Machine{Index: x, cur: newState(x)}
}

// State is the engine as it stands.
func (m *Machine) State() *State { return &m.cur }

func (m *Machine) note(e Event) { m.events = append(m.events, e) }

// Unknown notes that a step names something the sheet does not have.
func (m *Machine) Unknown(name string) { m.note(UnknownThing{Name: name}) }

func claim[T any](m *Machine, bit uint16, s *[]T) []T {
	if m.own&bit == 0 {
		*s = slices.Clone(*s)
		m.own |= bit
	}
	return *s
}

func (m *Machine) shafts() []float64          { return claim(m, ownShafts, &m.cur.Shafts) }
func (m *Machine) locks() []LockState         { return claim(m, ownLocks, &m.cur.Locks) }
func (m *Machine) loops() []LoopState         { return claim(m, ownLoops, &m.cur.Loops) }
func (m *Machine) free() []bool               { return claim(m, ownFree, &m.cur.Free) }
func (m *Machine) away() []bool               { return claim(m, ownAway, &m.cur.Away) }
func (m *Machine) fasteners() []FastenerState { return claim(m, ownFasteners, &m.cur.Fasteners) }
func (m *Machine) parts() []PartState         { return claim(m, ownParts, &m.cur.Parts) }
func (m *Machine) tensioners() []TensionState { return claim(m, ownTensioners, &m.cur.Tensioners) }
func (m *Machine) meshes() []MeshState        { return claim(m, ownMeshes, &m.cur.Meshes) }
func (m *Machine) doubts() []Doubt            { return claim(m, ownDoubts, &m.cur.Doubts) }
func (m *Machine) fluids() []FluidState       { return claim(m, ownFluids, &m.cur.Fluids) }

// Turning says how the crank is to be turned.
type Turning struct {
	// Turns and Degrees add up; the sign is in Backwards.
	Turns     float64
	Degrees   unit.Angle
	Backwards bool
	// To is a mark to come to, Onto a stop to come up to, after the turns.
	To engine.MarkID
	// Also are marks that are to stand together with To.
	Also []engine.MarkID
	Onto engine.LockID
	// Until is a reading that is met where the turn ends.
	Until engine.ReadingID
	// Painted turns on until the technician's own marks stand.
	Painted bool
	// Into is a lock that goes in where the turn ends, and stays in.
	Into engine.LockID
	// Stated is set where the page says which way.
	Stated bool
	// Shaft is what is turned, "" for the crank. Its marks and locks alone can be
	// come to.
	Shaft engine.ShaftID
	// Short stops before the target by ShortBy.
	Short bool
	// On is the fastener the wrench goes on.
	On engine.FastenerID
}

// ShortBy is how far before its target a turn stops that stops short, degrees.
// Any value inside a stop's reach does; this one is an assumption of ours.
const ShortBy = 15

// stopReach is how far before its meeting place a screw-in stop may be fitted
// and how far behind it the web still bars its hole, degrees; an assumption.
const stopReach = 60

const hair = 1e-6

// Turn turns the crank, or another shaft with all that is tied to it.
func (m *Machine) Turn(t Turning) {
	if t.Shaft != "" && t.Shaft != engine.CrankID {
		m.turnShaft(t)
		return
	}
	delta := t.Turns*360 + float64(t.Degrees)
	way := 1.0
	if t.Backwards {
		delta, way = -delta, -1
	}
	x := m.Index
	m.turnedBy(t.On)
	target := false
	if t.To != "" {
		if mark := x.Mark(t.To); mark == nil {
			m.Unknown(string(t.To))
		} else {
			m.readable(mark)
			delta += m.ahead(mark, delta, way)
			delta += m.together(mark, t.Also, delta, way)
			target = true
		}
	}
	met := false
	if t.Until != "" {
		r := x.Reading(t.Until)
		switch mark := m.gauge(r); {
		case r == nil:
			m.Unknown(string(t.Until))
		case mark == nil || !m.tiedNow(r.Shaft):
			m.note(ElsewhereMark{Reading: t.Until, Shaft: engine.CrankID})
		default:
			m.reachable(r)
			delta += m.ahead(mark, delta, way)
			met, target = true, true
		}
	}
	if t.Painted {
		delta += m.toPaint(delta, way)
		target = true
	}
	m.cur.Adrift = m.cur.Adrift && t.Into == ""
	if t.Into != "" {
		if i := x.LockAt(t.Into); i < 0 {
			m.Unknown(string(t.Into))
		} else {
			delta += m.into(&x.Sheet.Locks[i], delta, way)
			target = true
		}
	}
	if t.Onto != "" {
		if i := x.LockAt(t.Onto); i < 0 {
			m.Unknown(string(t.Onto))
		} else {
			if !m.cur.Locks[i].In {
				m.note(NothingToMeet{Lock: t.Onto})
			}
			lock := &x.Sheet.Locks[i]
			m.backOnto = lock.Meets == engine.MeetsAgainst && t.Backwards
			defer func() { m.backOnto = false }()
			travel := toward(lock.At-(m.cur.Crank+delta), float64(lock.Period()), way)
			if delta += travel; m.cur.Locks[i].In && math.Abs(delta) < 1 {
				m.note(NotComeUp{Lock: t.Onto, Degrees: unit.Angle(math.Abs(delta))})
			}
			target = true
		}
	}
	if t.Short {
		if !target && t.Turns > 0 {
			end := m.cur.Crank + delta
			delta = math.Round(end/360)*360 - m.cur.Crank
		}
		delta -= way * ShortBy
	}
	if !target && m.takesUp(engine.CrankID, delta) {
		return
	}
	m.rotate(delta)
	if target || t.Short {
		m.cur.Found = true
	}
	m.cur.Adrift = m.cur.Adrift && !target
	if t.Into != "" && x.LockAt(t.Into) >= 0 {
		m.FitLock(t.Into)
	}
	if met {
		m.Gauge(t.Until)
	}
}

// tiedNow reports whether a shaft follows the crank just now.
func (m *Machine) tiedNow(id engine.ShaftID) bool {
	i := m.Index.ShaftAt(id)
	return i >= 0 && m.Index.Drive(i).Driven && m.follows(m.Index.Drive(i))
}

// into is the crank travel to the next place where a lock goes in, the way that is
// turned; none where there is no such place within as many turns as the engine
// takes to come home.
func (m *Machine) into(l *engine.Lock, delta, way float64) float64 {
	if len(l.Holds) == 0 {
		return 0
	}
	i := m.Index.ShaftAt(l.Holds[0])
	if i < 0 {
		return 0
	}
	if !m.Index.Drive(i).Driven || !m.follows(m.Index.Drive(i)) {
		m.note(ElsewhereMark{Lock: l.ID, Shaft: engine.CrankID})
		return 0
	}
	r := m.Index.Drive(i).Ratio.Float()
	first := toward((l.At-m.cur.Shafts[i]-r*delta)/r, float64(l.Period())/math.Abs(r), way)
	for n := range mostTogether {
		more := first + way*float64(l.Period())/math.Abs(r)*float64(n)
		if m.goesIn(l, delta+more) {
			return more
		}
	}
	return first
}

// goesIn reports whether a lock goes in once the crank has moved by delta.
func (m *Machine) goesIn(l *engine.Lock, delta float64) bool {
	for _, id := range l.Holds {
		i := m.Index.ShaftAt(id)
		if i < 0 {
			continue
		}
		at := m.cur.Shafts[i]
		if d := m.Index.Drive(i); d.Driven && m.follows(d) {
			at += d.Ratio.Float() * delta
		}
		if math.Abs(engine.Wrap(at-l.At, float64(l.Period()))) > float64(l.Freedom())+hair {
			return false
		}
	}
	return true
}

// turnedBy notes a wrench on a bolt that does not turn the crank.
func (m *Machine) turnedBy(id engine.FastenerID) {
	i := m.Index.FastenerAt(id)
	if i < 0 {
		if id != "" {
			m.Unknown(string(id))
		}
		return
	}
	if m.cur.Fasteners[i].Stage < Snug {
		m.note(TurnedByNothing{Fastener: id, Part: m.gone(id)})
	}
}

// ahead is the crank travel from current+delta on, the way that is turned, to
// the next place where a mark stands.
func (m *Machine) ahead(mark *engine.Mark, delta, way float64) float64 {
	i := m.Index.ShaftAt(m.Index.MarkShaft(mark))
	if i < 0 || !m.Index.Drive(i).Driven {
		return 0
	}
	r := m.Index.Drive(i).Ratio.Float()
	return toward((mark.At-m.cur.Shafts[i]-r*delta)/r, 360/math.Abs(r), way)
}

// mostTogether is how often a mark is passed until others stand with it.
const mostTogether = 120

// together is the further travel, by whole meetings of a mark, until others
// stand with it; none where they never do, and a look at them says so.
func (m *Machine) together(mark *engine.Mark, also []engine.MarkID, delta, way float64) float64 {
	k := m.Index.ShaftAt(m.Index.MarkShaft(mark))
	if len(also) == 0 || k < 0 || !m.Index.Drive(k).Driven {
		return 0
	}
	for _, id := range also {
		if o := m.Index.Mark(id); o != nil {
			m.readable(o)
		} else {
			m.Unknown(string(id))
		}
	}
	every := 360 / math.Abs(m.Index.Drive(k).Ratio.Float())
	for n := range mostTogether {
		more := way * every * float64(n)
		if m.stand(also, delta+more) {
			return more
		}
	}
	for _, id := range also {
		m.note(MarkAway{Mark: id, NeverTogether: true})
	}
	return 0
}

// stand reports whether marks stand once the crank has moved by delta.
func (m *Machine) stand(ids []engine.MarkID, delta float64) bool {
	for _, id := range ids {
		o := m.Index.Mark(id)
		if o == nil {
			continue
		}
		i := m.Index.ShaftAt(m.Index.MarkShaft(o))
		if i < 0 || !m.Index.Drive(i).Driven {
			continue
		}
		if at := m.cur.Shafts[i] + m.Index.Drive(i).Ratio.Float()*delta; math.Abs(engine.Wrap(at-o.At, 360)) > m.shows(o) {
			return false
		}
	}
	return true
}

// toward is the travel to a place, the way that is turned: forward, or as far
// back.
func toward(a, period, way float64) float64 { return way * forward(way*a, period) }

// forward brings an angle into [0, period), forgiving a hair either side.
func forward(a, period float64) float64 {
	a = math.Mod(a, period)
	if a < -hair {
		a += period
	}
	if a > period-hair {
		a -= period
	}
	return a
}

// rotate moves the crank and everything that follows it.
func (m *Machine) rotate(delta float64) {
	if math.Abs(delta) < hair {
		m.meetStops(0)
		return
	}
	if delta < 0 && (!m.backOnto || -delta > stopReach) {
		m.note(Backwards{Degrees: unit.Angle(-delta)})
	}
	m.against(delta)
	x := m.Index
	shafts := m.shafts()
	for i := range shafts {
		d := x.Drive(i)
		if !d.Driven || !m.follows(d) {
			continue
		}
		shafts[i] += d.Ratio.Float() * delta
	}
	m.cur.Crank += delta
	m.meetStops(delta)
	m.looseWheels()
	m.looseCaps(delta)
	m.slackLoops(delta)
	m.wander(delta)
}

// farTurn is how far a slack loop may be turned without a finding, degrees: to
// come up to a stop, or to seat a tool.
const farTurn = 90

// wholeTurn is a turn over, degrees, with a little forgiven: what keeps a bolt
// from being turned over slack.
const wholeTurn = 340

// looseOnRoute notes bolts of a refitted loop's wheels and tensioner that are not
// tight while the engine is turned on.
func (m *Machine) looseOnRoute(i int) {
	s := m.Index.Sheet
	if !m.cur.Loops[i].Refitted {
		return
	}
	sets := func(f engine.FastenerID) bool { // a spring sets its tensioner while the engine is turned
		return slices.ContainsFunc(s.Tensioners, func(t engine.Tensioner) bool { return t.Method.Of().BySpring && slices.Contains(t.Bolts, f) })
	}
	note := func(f engine.FastenerID) {
		if sets(f) {
			return
		}
		if k := m.Index.FastenerAt(f); k >= 0 && m.cur.Fasteners[k].Touched && m.cur.Fasteners[k].Stage > Out && m.cur.Fasteners[k].Stage < Snug {
			m.note(TurnedLoose{Loop: s.Loops[i].ID, Fastener: f})
		}
	}
	for _, stop := range s.Loops[i].Route {
		w := m.Index.Wheel(stop.Wheel)
		if w == nil {
			continue
		}
		if p := m.Index.Part(w.Part); p != nil {
			for _, f := range p.Held {
				note(f)
			}
		}
	}
	for _, id := range s.Loops[i].Tensioners() {
		if t := m.Index.Tensioner(id); t != nil {
			for _, f := range t.Bolts {
				note(f)
			}
		}
	}
}

// slackLoops notes turning on loops that nothing tensions.
func (m *Machine) slackLoops(delta float64) {
	s := m.Index.Sheet
	if math.Abs(delta) > wholeTurn {
		for i := range s.Fasteners {
			f, st := &s.Fasteners[i], m.cur.Fasteners[i]
			if f.OnShaft != "" && st.Touched && st.Stage > Out && st.Stage < Snug && len(m.Index.ClampedBy(i)) == 0 {
				m.note(TurnedLoose{Fastener: f.ID})
			}
			for _, w := range m.Index.ClampedBy(i) {
				if s.Wheels[w].Fast() && st.Touched && st.Stage > Out && st.Stage < Snug {
					m.note(TurnedLoose{Fastener: f.ID})
					break
				}
			}
		}
	}
	for i := range m.cur.Loops {
		ids := s.Loops[i].Tensioners()
		if !m.cur.Loops[i].On || math.Abs(delta) < farTurn {
			continue
		}
		m.whole(i)
		if len(ids) == 0 {
			continue
		}
		m.looseOnRoute(i)
		for _, id := range ids {
			if t := m.Index.TensionerAt(id); t >= 0 && m.cur.Tensioners[t].Slack() {
				m.note(SlackTurned{Loop: s.Loops[i].ID, Tensioner: id})
				m.jump(i)
				break
			}
		}
	}
}

// follows reports whether a shaft is tied to the crank just now.
func (m *Machine) follows(d *engine.Drive) bool {
	for _, l := range d.Loops {
		if !m.cur.Loops[l].On {
			return false
		}
	}
	for _, w := range d.Wheels {
		if m.cur.Free[w] || m.cur.Missing(m.Index, w) != "" {
			return false
		}
	}
	return true
}

// against notes every lock that the turn works against.
func (m *Machine) against(delta float64) {
	x := m.Index
	for i := range x.Sheet.Locks {
		l, st := &x.Sheet.Locks[i], m.cur.Locks[i]
		if st.In && !st.Forced && m.opposes(l, delta) {
			m.note(TurnedAgainst{Lock: l.ID})
			m.locks()[i].Forced = true // the pin or what it sits in is broken
		}
	}
}

func (m *Machine) opposes(l *engine.Lock, delta float64) bool {
	for _, id := range l.Holds {
		i := m.Index.ShaftAt(id)
		if i < 0 {
			continue
		}
		d := m.Index.Drive(i)
		if !d.Driven || !m.follows(d) {
			continue
		}
		move := d.Ratio.Float() * delta
		if l.Kind != engine.StopLock {
			return math.Abs(move) > float64(l.Freedom())+hair
		}
		way := l.Way()
		return way*move > 0 && way*move > forward(way*(l.At-m.cur.Shafts[i]), float64(l.Period()))+float64(l.Freedom())+hair
	}
	return false
}

// meetStops updates which stops are met after the crank has moved.
func (m *Machine) meetStops(delta float64) {
	x := m.Index
	for i := range x.Sheet.Locks {
		l := &x.Sheet.Locks[i]
		if l.Kind != engine.StopLock || !m.cur.Locks[i].In {
			continue
		}
		met := math.Abs(m.deviation(l)) <= float64(l.Freedom())+hair && (l.Way()*delta >= 0 || m.cur.Locks[i].Met)
		if met == m.cur.Locks[i].Met {
			continue
		}
		m.locks()[i].Met = met
		if met {
			m.note(MetStop{Lock: l.ID})
		}
	}
}

// deviation is the largest distance of a held shaft from the nearest place
// where the lock goes in, degrees of that shaft.
func (m *Machine) deviation(l *engine.Lock) float64 {
	worst := 0.0
	for _, id := range l.Holds {
		if i := m.Index.ShaftAt(id); i >= 0 {
			if d := engine.Wrap(m.cur.Shafts[i]-l.At, float64(l.Period())); math.Abs(d) > math.Abs(worst) {
				worst = d
			}
		}
	}
	return worst
}

func (m *Machine) looseWheels() {
	x := m.Index
	for w, free := range m.cur.Free {
		if !free {
			continue
		}
		i := x.ShaftAt(x.Sheet.Wheels[w].Shaft)
		if i >= 0 && x.Drive(i).Driven && m.loopsOn(x.Drive(i)) {
			m.note(LooseWheelTurned{Wheel: x.Sheet.Wheels[w].ID})
		}
	}
}

func (m *Machine) loopsOn(d *engine.Drive) bool {
	for _, l := range d.Loops {
		if !m.cur.Loops[l].On {
			return false
		}
	}
	return true
}

// wander counts travel on fitted loops and looks for contact with one off.
func (m *Machine) wander(delta float64) {
	s := m.Index.Sheet
	for k := range m.cur.Tensioners {
		if m.cur.Tensioners[k].Seen && math.Abs(delta) > wholeTurn && m.onLoop(k) {
			m.tensioners()[k].Seen = false
		}
	}
	m.meet(delta)
	m.gearsApart()
	for i := range m.cur.Loops {
		if m.cur.Loops[i].On {
			m.loops()[i].Turned += math.Abs(delta)
			continue
		}
		away := math.Abs(m.cur.Crank - m.cur.Loops[i].OffAt)
		if s.Interference != engine.No && away > s.Limits.SafeWindow+hair && m.drivesCam(i) && !m.knowsRoom(i) {
			m.note(Contact{Loop: s.Loops[i].ID, Degrees: unit.Angle(away)})
		}
	}
}

func (m *Machine) drivesCam(loop int) bool {
	s := m.Index.Sheet
	for i := range s.Shafts {
		if s.Shafts[i].Kind.IsCam() && !m.out(i) && slices.Contains(m.Index.Drive(i).Loops, loop) {
			return true
		}
	}
	return false
}

// Wait lets time pass.
func (m *Machine) Wait(minutes unit.Minutes) { m.cur.Minutes += minutes }

// Start starts the engine for the first time.
func (m *Machine) Start() {
	s := m.Index.Sheet
	for i, l := range m.cur.Locks {
		if l.In {
			m.note(StartedWithLock{Lock: s.Locks[i].ID})
		}
	}
	for i := range s.Parts {
		if m.cur.Parts[i].Off && s.Parts[i].Kind != engine.Seal && s.Parts[i].Kind != engine.LoopPart {
			m.note(StartedOpen{Part: s.Parts[i].ID})
		}
	}
	for i := range s.Fasteners {
		if st := m.cur.Fasteners[i]; st.Touched && st.Stage < Final && st.Stage > Out {
			m.note(StartedOpen{Fastener: s.Fasteners[i].ID})
		}
	}
	for i := range s.Fluids {
		if m.cur.Fluids[i].Out {
			m.note(StartedOpen{Fluid: s.Fluids[i].ID})
		}
	}
	for i := range s.Tensioners {
		if m.cur.Tensioners[i].Slack() && m.onLoop(i) {
			m.note(StartedOpen{Tensioner: s.Tensioners[i].ID})
		}
	}
	m.cur.Started = true
	m.cur.Found, m.cur.Adrift = false, true
}
