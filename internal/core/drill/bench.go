package drill

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// change is how a step is done otherwise, or how the engine stands otherwise after it.
type change interface {
	// do makes the mistake at step k, in place of doing it.
	do(b *bench, k int)
}

// bench is an engine on which a mistake was made, beside the clean run.
type bench struct {
	*gen
	m *virtual.Machine
	// one has a single step that is done otherwise.
	one procedure.Procedure
	// held are shafts that will stand off by so many degrees once no lock holds them.
	held map[engine.ShaftID]unit.Angle
	// out are wheels that their loop lies on so many teeth out.
	out map[engine.WheelID]int
	// value is a bolt that holds otherwise than it should, with nothing on the bench to show
	// it, until it is slackened or taken up again.
	value engine.FastenerID
	// wrong is how.
	wrong wrongly
	// missed is a tensioner that stands otherwise than the engine takes it to, nil for none.
	missed *missed
	// events are what the step met that was done last, of which it was.
	events []virtual.Event
	of     int
	// late is a step that is done in place of the next one, −1 for none; skips are steps of the
	// way that are passed over when they are come to.
	late  int
	skips map[int]bool
	// reversed is a used loop that runs the other way round, empty for none.
	reversed engine.LoopID
	// lap is by how much the crank is counted from another turn at the end, degrees.
	lap    float64
	seen   []Look
	force  int // the step at which something broke, −1
	broke  message.Text
	silent []virtual.Event
}

// drill makes a mistake and does the rest of the page.
func (g *gen) drill(m *Mistake) {
	b := g.bench(virtual.Resume(g.x, *g.before(m.at)))
	same := false
	for k := m.at; k < len(g.way.Steps) && !same; k++ {
		b.goes(m, k)
		same = k > m.at && b.clear(k)
	}
	b.judge(m, same)
}

func (g *gen) bench(m *virtual.Machine) *bench { return &bench{gen: g, m: m, force: -1, late: -1} }

// goes does what stands at step k of the way, with the mistake where it is made.
func (b *bench) goes(m *Mistake, k int) {
	b.events, b.of = nil, k
	switch {
	case k == m.at:
		m.change.do(b, k)
		b.m = virtual.Resume(b.x, *b.m.State())
	case b.late >= 0:
		b.of, b.late = b.late, -1
		b.does(b.of)
	case b.skips[k]:
		delete(b.skips, k)
	default:
		b.does(k)
	}
	if k >= m.at {
		b.weigh(b.of, b.of)
		if k > m.at {
			b.setAgain(b.of)
		}
		b.letGo()
	}
}

// does lets step k of the way act.
func (b *bench) does(k int) { b.events = append(b.events, b.m.Do(b.way, k).Events...) }

// acts lets an action act in place of a step.
func (b *bench) acts(a step.Action) {
	b.one.Steps = []step.Step{{Action: a}}
	b.events = append(b.events, b.m.Do(&b.one, 0).Events...)
}

// letGo moves shafts that stand off in their locks, once those are out.
func (b *bench) letGo() {
	for id, by := range b.held {
		if !b.m.Fixed(id) {
			b.m.Slip(id, by)
			delete(b.held, id)
		}
	}
}

// clear reports whether the engine stands as the clean one does after step k, with nothing
// left that could show.
func (b *bench) clear(k int) bool {
	return len(b.held) == 0 && len(b.out) == 0 && len(b.skips) == 0 && b.reversed == "" && b.value == "" && b.missed == nil && len(b.silent) == 0 && b.force < 0 && alike(b.m.State(), b.after(k)) && remembers(b.m.State(), b.after(k))
}

// alike reports whether two engines stand alike in all that can be seen or felt of them.
func alike(a, b *virtual.State) bool {
	return math.Abs(a.Crank-b.Crank) < hair && near(a.Shafts, b.Shafts) && a.Started == b.Started &&
		slices.Equal(a.Locks, b.Locks) && slices.Equal(a.Free, b.Free) && slices.Equal(a.Away, b.Away) &&
		slices.EqualFunc(a.Fasteners, b.Fasteners, func(p, q virtual.FastenerState) bool {
			return p.Stage == q.Stage && p.Fresh == q.Fresh && p.Stretched == q.Stretched && p.Reached == q.Reached
		}) &&
		slices.EqualFunc(a.Parts, b.Parts, func(p, q virtual.PartState) bool { return p.Off == q.Off && p.Fresh == q.Fresh }) &&
		slices.EqualFunc(a.Tensioners, b.Tensioners, func(p, q virtual.TensionState) bool { return p.Now == q.Now && p.Stop == q.Stop }) &&
		slices.EqualFunc(a.Loops, b.Loops, func(p, q virtual.LoopState) bool {
			return p.On == q.On && p.New == q.New && p.SlackAt == q.SlackAt && p.Copied == q.Copied
		}) &&
		slices.EqualFunc(a.Meshes, b.Meshes, func(p, q virtual.MeshState) bool { return p.Apart == q.Apart }) &&
		slices.Equal(a.Fluids, b.Fluids) && slices.EqualFunc(a.Paints, b.Paints, func(p, q virtual.Paint) bool {
		return p.Wheel == q.Wheel && p.Loop == q.Loop && math.Abs(engine.Wrap(p.Angle-q.Angle, 360)) < hair
	}) && len(a.Sealants) == len(b.Sealants) && slices.Equal(a.Resets, b.Resets)
}

// remembers reports whether two engines have also been through the same, as far as later steps
// are told otherwise by it: what was looked at, loosened, off before.
func remembers(a, b *virtual.State) bool {
	return a.Found == b.Found && a.Adrift == b.Adrift &&
		slices.Equal(a.Fasteners, b.Fasteners) && slices.Equal(a.Parts, b.Parts) && slices.Equal(a.Tensioners, b.Tensioners) &&
		slices.EqualFunc(a.Loops, b.Loops, func(p, q virtual.LoopState) bool {
			return p.Refitted == q.Refitted && p.Looked == q.Looked && p.Seen == q.Seen && math.Abs(p.Turned-q.Turned) < hair
		}) &&
		slices.EqualFunc(a.Meshes, b.Meshes, func(p, q virtual.MeshState) bool { return p.Relaid == q.Relaid })
}

const hair = 1e-6

func near(a, b []float64) bool {
	return slices.EqualFunc(a, b, func(p, q float64) bool { return math.Abs(engine.Wrap(p-q, 360)) < hair })
}

// weigh reads what step k met that it does not meet on a clean engine; at is the step in whose
// place it was done.
func (b *bench) weigh(k, at int) {
	clean := b.clean.Steps[k].Events
	looked := len(b.seen)
	for _, e := range b.events {
		if says, ok := b.loopMark(e); ok {
			b.sees(at, looked, says, true)
			continue
		}
		if says, sure, ok := b.lookedAt(k, e); ok {
			b.sees(at, looked, says, sure)
			continue
		}
		if slices.Contains(clean, e) {
			continue
		}
		n := b.noticed(k, e)
		switch n.how {
		case sight, stop:
			b.sees(at, looked, n.says, n.sure)
		case force:
			if b.force < 0 {
				b.force, b.broke = at, n.says
			}
		case silent:
			b.silent = append(b.silent, e)
		}
	}
	if i := b.x.LoopAt(b.reversed); i >= 0 && !b.m.State().Loops[i].On {
		b.reversed = ""
	}
	if f := b.x.FastenerAt(b.value); f >= 0 && b.m.State().Fasteners[f].Stage < virtual.Partial {
		b.value = "" // slackened again
	}
}

// sees keeps a look, one a step: a sure one in place of one that is not.
func (b *bench) sees(k, from int, says message.Text, sure bool) {
	l := Look{Step: b.way.Steps[k].ID, Place: b.way.Place(k), Says: says, Sure: sure}
	if len(b.seen) == from {
		b.seen = append(b.seen, l)
	} else if sure && !b.seen[from].Sure {
		b.seen[from] = l
	}
}

// loopMark is what a loop's own mark shows that is read at a wheel on which the loop lies out.
func (b *bench) loopMark(e virtual.Event) (message.Text, bool) {
	s, ok := e.(virtual.MarkStood)
	if ok && s.Loop != "" && s.Loop == b.reversed {
		return message.F("the marks on the %s stand in the other order", b.named(engine.KindLoop, string(s.Loop))), true
	}
	if !ok || s.Loop == "" || len(b.out) == 0 {
		return message.Text{}, false
	}
	mark := b.x.Mark(s.Mark)
	if mark == nil || b.out[mark.Wheel] == 0 {
		return message.Text{}, false
	}
	n := b.out[mark.Wheel]
	if n < 0 {
		n = -n
	}
	return message.F("the %s stands %d teeth beside", b.named(engine.KindMark, string(s.Mark)), n), true
}

// lookedAt is what a look finds that the engine has nothing to say to: at a tensioner, which does
// not stand as it should; at the tools, of which one is missing.
func (b *bench) lookedAt(k int, e virtual.Event) (says message.Text, sure, ok bool) {
	st, clean := b.m.State(), b.after(k)
	switch v := e.(type) {
	case virtual.TensionSeen:
		i := b.x.TensionerAt(v.Tensioner)
		if c := b.missed; c != nil && c.id == v.Tensioner && c.shows.ID != "" {
			return c.shows, c.sure, true
		}
		if i >= 0 && st.Tensioners[i].Now != clean.Tensioners[i].Now {
			return message.F("the %s is %s", b.named(engine.KindTensioner, string(v.Tensioner)), message.As(st.Tensioners[i].Now.String())), true, true
		}
	case virtual.Counted:
		for i := range st.Locks {
			if st.Locks[i].In && !clean.Locks[i].In {
				return message.F("the %s is missing from the tools", b.named(engine.KindLock, string(b.x.Sheet.Locks[i].ID))), true, true
			}
		}
		for i := range st.Tensioners {
			if st.Tensioners[i].Now == virtual.Pinned && clean.Tensioners[i].Now != virtual.Pinned {
				return message.F("the pin of the %s is missing from the tools", b.named(engine.KindTensioner, string(b.x.Sheet.Tensioners[i].ID))), true, true
			}
		}
	}
	return message.Text{}, false, false
}

// The ways in which something is noticed.
const (
	nothing = iota
	sight   // a look shows it
	stop    // the step cannot be done
	force   // something breaks
	silent  // it is wrong, and nobody sees
)

type notice struct {
	how  int
	says message.Text
	sure bool
}

// off is how far a shaft stands from where it stands on a clean engine, degrees.
func (b *bench) off(k int, id engine.ShaftID, period float64) float64 {
	i := b.x.ShaftAt(id)
	if i < 0 {
		return 0
	}
	return engine.Wrap(b.m.State().Shafts[i]-b.after(k).Shafts[i], period)
}

// judge says what came of a mistake; same is set where the engine stands as the clean one does.
func (b *bench) judge(m *Mistake, same bool) {
	m.Seen = b.seen
	b.relabel()
	first := slices.IndexFunc(b.seen, func(l Look) bool { return l.Sure })
	m.Comes, m.Severity = message.F("nothing"), 1
	if !same {
		m.Comes, m.Severity = b.comes()
	}
	at := math.MaxInt
	if first >= 0 {
		at = slices.IndexFunc(b.way.Steps, func(s step.Step) bool { return s.ID == b.seen[first].Step })
	}
	switch {
	case b.force >= 0 && b.force <= at:
		m.Outcome = ByForce
		m.Comes = b.broke
		m.Severity = max(m.Severity, 9)
	case first >= 0 && b.shutSince(m.at, at):
		m.Outcome = Late
	case first >= 0 && b.tried(at):
		m.Outcome = Caught
	case first >= 0:
		m.Outcome = Stopped
		m.Comes, m.Severity = message.F("the work does not go on"), 2
	case same, b.inside(m):
		m.Outcome = Absorbed
		m.Severity = 1
		if m.Why.ID == "" {
			m.Why = message.F("the engine stands as it should at the end")
		}
	default:
		m.Outcome = NotCaught
	}
}

// tried reports whether a step is done to look: what it finds is found by a look, and what any
// other step meets stops it.
func (b *bench) tried(k int) bool { return step.SpecOf(b.way.Steps[k].Action.Verb()).Looks() }

// shutSince reports whether a cover that was off at one step is on before another, or the
// engine was started by then.
func (b *bench) shutSince(from, to int) bool {
	if to <= from {
		return false
	}
	was, is := b.after(from), b.before(to)
	if is.Started && !was.Started {
		return true
	}
	if _, starts := b.way.Steps[to].Action.(*step.Start); starts {
		return true
	}
	for i := range b.x.Sheet.Parts {
		if b.x.Sheet.Parts[i].Kind == engine.Cover && was.Parts[i].Off && !is.Parts[i].Off {
			return true
		}
	}
	return false
}

// inside reports whether all that is left of a mistake is within what the sheet passes.
func (b *bench) inside(m *Mistake) bool {
	end := len(b.way.Steps) - 1
	limit := b.x.Sheet.Limits.CamError
	st := *b.m.State()
	if len(b.held) > 0 || b.value != "" || b.reversed != "" || b.missed != nil || len(b.silent) > 0 || end < 0 {
		return false
	}
	most := 0.0
	for i := range st.Shafts {
		most = max(most, math.Abs(b.outBy(i)))
	}
	if most > max(limit, hair) {
		return false
	}
	st.Shafts, st.Crank, st.Paints = b.after(end).Shafts, b.after(end).Crank, b.after(end).Paints
	if !alike(&st, b.after(end)) {
		return false
	}
	if most > hair {
		m.Why = message.F("%s° is inside the %s° that the code passes", degrees(most), degrees(limit))
	}
	return true
}

// comes is what the mistake does to the engine if the page is done to its end, and how bad
// that is.
func (b *bench) comes() (message.Text, int) {
	end := len(b.way.Steps) - 1
	st, clean := b.m.State(), b.after(end)
	says, worst := message.F("nothing"), 1
	put := func(bad int, t message.Text) {
		if bad > worst {
			says, worst = t, bad
		}
	}
	for i := range b.x.Sheet.Shafts {
		if off := b.outBy(i); math.Abs(off) > hair {
			b.outOfStep(i, off, put)
		}
	}
	for i := range st.Locks {
		if st.Locks[i].In && !clean.Locks[i].In {
			put(9, message.F("the %s stays in: the engine is turned or started against it", b.named(engine.KindLock, string(b.x.Sheet.Locks[i].ID))))
		}
	}
	for i := range st.Tensioners {
		if st.Tensioners[i].Slack() && !clean.Tensioners[i].Slack() {
			put(9, message.F("the %s leaves its loop slack: it jumps", b.named(engine.KindTensioner, string(b.x.Sheet.Tensioners[i].ID))))
		} else if st.Tensioners[i].Now != clean.Tensioners[i].Now {
			put(7, message.F("the %s is not set", b.named(engine.KindTensioner, string(b.x.Sheet.Tensioners[i].ID))))
		}
	}
	for i := range st.Loops {
		if st.Loops[i].On != clean.Loops[i].On {
			put(9, message.F("the %s is not on", b.named(engine.KindLoop, string(b.x.Sheet.Loops[i].ID))))
		}
	}
	for i := range st.Fasteners {
		if a, c := st.Fasteners[i], clean.Fasteners[i]; a.Stage < c.Stage && c.Stage > virtual.Loose {
			bad := 6
			if f := &b.x.Sheet.Fasteners[i]; f.OnShaft != "" || len(b.x.ClampedBy(i)) > 0 || f.Stretches() {
				bad = 8
			}
			put(bad, message.F("the %s is left %s and works loose", b.named(engine.KindFastener, string(b.x.Sheet.Fasteners[i].ID)), message.As(a.Stage.String())))
		}
	}
	for i := range st.Parts {
		p := &b.x.Sheet.Parts[i]
		name := b.named(engine.KindPart, string(p.ID))
		switch a, c := st.Parts[i], clean.Parts[i]; {
		case a.Off && !c.Off && (p.Kind == engine.Plug || p.Kind == engine.Seal):
			put(6, message.F("the %s is missing: oil or coolant comes out", name))
		case a.Off && !c.Off:
			put(5, message.F("the %s is left off", name))
		case !a.Fresh && c.Fresh:
			put(5, message.F("the %s is the old one", name))
		}
	}
	for i := range st.Fluids {
		if st.Fluids[i].Out && !clean.Fluids[i].Out {
			put(9, message.F("the engine runs without its %s", b.named(engine.KindFluid, string(b.x.Sheet.Fluids[i].ID))))
		}
	}
	if b.value != "" {
		put(b.wrong.bad, b.wrong.comes)
	}
	if b.missed != nil {
		put(b.missed.bad, b.missed.comes)
	}
	if b.reversed != "" {
		put(5, message.F("the %s runs against the way it has worn: it is noisy, and fails early", b.named(engine.KindLoop, string(b.reversed))))
	}
	if len(b.silent) > 0 {
		put(b.harm(b.silent[0]))
	}
	return says, worst
}

// outBy is how far a shaft is out of step with the crank at the end, against the clean
// engine, degrees of it.
func (b *bench) outBy(i int) float64 {
	s, d := &b.x.Sheet.Shafts[i], b.x.Drive(i)
	if s.ID == engine.CrankID {
		return 0
	}
	st, clean := b.m.State(), b.after(len(b.way.Steps)-1)
	off := st.Shafts[i] - clean.Shafts[i] + float64(b.held[s.ID])
	if d.Driven { // what stands elsewhere with the crank is in step
		off -= d.Ratio.Float() * (st.Crank - clean.Crank - b.lap)
	}
	return engine.Wrap(off, 360)
}

// relabel counts the crank from its other turn where that brings all shafts nearer: an engine
// whose cams were laid anew while the crank stood a turn further on is in step, for a crank
// looks the same after each turn.
func (b *bench) relabel() {
	if b.x.Sheet.Cycle != engine.FourStroke || len(b.way.Steps) == 0 {
		return
	}
	most := func() (v float64) {
		for i := range b.x.Sheet.Shafts {
			v = max(v, math.Abs(b.outBy(i)))
		}
		return v
	}
	as := most()
	b.lap = 360
	if most() > as-hair {
		b.lap = 0
	}
}

// train is the valves of a cam, false where the sheet does not let them be worked out.
func (g *gen) train(i int) (*piston.Train, bool) {
	t, ok := g.trains[i]
	if !ok {
		t, _ = piston.TrainOf(g.x, i)
		g.trains[i] = t
	}
	return t, t != nil
}

// outOfStep is what a shaft does that stands off by so many degrees of it.
func (b *bench) outOfStep(i int, off float64, put func(int, message.Text)) {
	s := &b.x.Sheet.Shafts[i]
	name := b.named(engine.KindShaft, string(s.ID))
	late := earlyOrLate(off)
	size := degrees(math.Abs(off))
	if t, ok := b.train(i); ok && b.x.Sheet.Interference != engine.No {
		if room, _ := t.Least(unit.Angle(-off / b.x.Drive(i).Ratio.Float())); room < 0 {
			put(10, message.F("the %s is %s° %s: valves meet pistons", name, size, late))
			return
		}
	} else if s.Contact > 0 && math.Abs(off) > s.Contact {
		put(10, message.F("the %s is %s° %s: valves meet pistons", name, size, late))
		return
	}
	bad := 7
	if limit := b.x.Sheet.Limits.CamError; limit > 0 && math.Abs(off) <= limit {
		bad = 2
	}
	put(bad, message.F("the %s is %s° %s", name, size, late))
}

// degrees is an angle as it is said, to a tenth.
func degrees(v float64) string { return unit.Number(math.Round(v*10) / 10) }
