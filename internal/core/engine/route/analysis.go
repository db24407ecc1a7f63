package route

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// roles gives every run its role. From the driver onwards the loop is slack to
// the first wheel that turns a shaft; from the last such wheel on it pulls;
// between them it carries.
func roles(x *engine.Index, l *engine.Loop, p *Path) {
	n := len(p.Runs)
	driver := x.Driver(x.LoopAt(l.ID))
	first := 0
	loaded := make([]bool, n)
	for i, a := range p.Arcs {
		w := x.WheelAt(a.Wheel)
		if w == driver {
			first = i
		}
		loaded[i] = w >= 0 && w != driver && x.Sheet.Wheels[w].Shaft != ""
	}
	from, to := n, 0
	for k := 1; k < n; k++ {
		if loaded[(first+k)%n] {
			from = min(from, k)
			to = k
		}
	}
	for k := range n {
		role := Carries
		switch {
		case k >= to:
			role = Pulls
		case k < from:
			role = Slack
		}
		p.Runs[(first+k)%n].Role = role
	}
}

// Meets is how a wheel sits in a loop.
type Meets struct {
	Wheel engine.WheelID
	// Wrap is the angle the loop lies on, degrees.
	Wrap float64
	// InMesh is the number of teeth in it, 0 for a plain wheel.
	InMesh float64
	// Way is the sense the wheel turns in, empty for a rail.
	Way engine.Way
}

// Meetings are the wheels of a path in order.
func Meetings(x *engine.Index, p *Path) []Meets {
	out := make([]Meets, len(p.Arcs))
	for i, a := range p.Arcs {
		m := Meets{Wheel: a.Wheel, Wrap: math.Abs(a.Sweep) * 180 / math.Pi, Way: engine.Clockwise}
		if a.Sweep > 0 {
			m.Way = engine.Counterclockwise
		}
		if w := x.Wheel(a.Wheel); w != nil {
			m.InMesh = m.Wrap / 360 * float64(w.Teeth)
			if w.Mount == engine.Rail {
				m.Way = ""
			}
		}
		out[i] = m
	}
	return out
}

// TakeUp is a loop's own length held against its way round the wheels, with the
// wheel of its tensioner moved through its travel.
type TakeUp struct {
	// Length is pitch × teeth, Path the way with the tensioner at its nominal
	// place, mm.
	Length, Path float64
	// Least and Most are the way at the two ends of the travel, mm; both are
	// Path for a loop without a tensioner.
	Least, Most float64
	// Sits is where in its travel the tensioner stands with a new loop, mm from
	// nominal, positive towards more tension. Closes is false when the loop does
	// not fit anywhere in the travel.
	Sits   float64
	Closes bool
	// Back is set where the way gets shorter towards more tension, Short where the loop
	// cannot be laid at an end of the travel.
	Back, Short bool
	// Stretch is how much longer the loop may grow before the travel ends, in
	// per cent; Ease how much way the retracted tensioner gives to lay it on, mm.
	Stretch, Ease float64
}

// Off is how much longer the nominal way is than the loop, mm.
func (t *TakeUp) Off() unit.Length { return unit.Length(t.Path - t.Length) }

// Take works out the take-up of a loop.
func Take(x *engine.Index, l *engine.Loop) (*TakeUp, error) {
	cs, p, err := laid(x, l)
	if err != nil {
		return nil, err
	}
	t := &TakeUp{Length: float64(l.Length()), Path: float64(p.Length()), Least: float64(p.Length()), Most: float64(p.Length())}
	way, travel := moving(x, l, cs, p)
	if travel <= 0 {
		// Nothing moves: the loop has to fit as it is, to a tenth of a tooth.
		t.Closes = math.Abs(float64(t.Off())) <= l.Pitch/10
		return t, nil
	}
	// Whichever way the roller moves, and however far of its travel the loop can be laid:
	// the shortest and the longest way round.
	length := func(v float64) float64 {
		q, err := way(v)
		if err != nil {
			return math.NaN()
		}
		return float64(q.Length())
	}
	slackest, tightest := length(-travel), length(travel)
	t.Back = tightest < t.Path && t.Path < slackest
	t.Short = math.IsNaN(slackest) || math.IsNaN(tightest) || !t.Back && (slackest > t.Path || tightest < t.Path)
	for _, way := range []float64{1, -1} {
		for k := range travelParts {
			a, b := way*station(travel, k), way*station(travel, k+1)
			if v := length(lastLaid(length, a, b)); !math.IsNaN(v) {
				t.Least, t.Most = math.Min(t.Least, v), math.Max(t.Most, v)
			}
		}
	}
	t.Stretch = (t.Most - t.Length) / t.Length * 100
	t.Ease = t.Length - t.Least
	if t.Length < t.Least || t.Length > t.Most {
		return t, nil
	}
	t.Sits = sits(func(v float64) float64 { return length(v) - t.Length }, travel)
	t.Closes = !math.IsNaN(t.Sits)
	return t, nil
}

// travelParts is into how many parts each side of a travel is taken to look at the way
// round: it may turn back on the way, and may not be laid to its end.
const travelParts = 16

// station is the end of a part, mm from the middle of the travel: short ones near the
// middle, where a loop is to fit.
func station(travel float64, k int) float64 {
	u := float64(k) / travelParts
	return travel * u * u
}

// lastLaid is how far of the way from a to b a loop can be laid, b where all of it can.
func lastLaid(over func(float64) float64, a, b float64) float64 {
	if !math.IsNaN(over(b)) || math.IsNaN(over(a)) {
		return b
	}
	for range 20 {
		if m := (a + b) / 2; math.IsNaN(over(m)) {
			b = m
		} else {
			a = m
		}
	}
	return a
}

// sits is the place in a travel, nearest to its middle, where a loop fits; over is how much
// longer the way round is than it. Not a number where there is none.
func sits(over func(float64) float64, travel float64) float64 {
	for k := range travelParts {
		a, b := station(travel, k), station(travel, k+1)
		for _, way := range []float64{1, -1} {
			if v := Root(over, way*a, lastLaid(over, way*a, way*b)); !math.IsNaN(v) {
				return v
			}
		}
	}
	return math.NaN()
}

// moving gives the way round the wheels as a function of the tensioner's
// travel, mm from nominal, and the travel either side; 0 when nothing moves.
func moving(x *engine.Index, l *engine.Loop, cs []Circle, p *Path) (func(float64) (*Path, error), float64) {
	t := x.Tensioner(l.Tensioner)
	if t == nil || t.Travel <= 0 {
		return nil, 0
	}
	at, way := roller(t, cs, p)
	if way == nil {
		return nil, 0
	}
	return func(v float64) (*Path, error) {
		c := way(v)
		moved := append([]Circle(nil), cs...)
		moved[at].Centre = c
		q, err := Lay(moved)
		if err != nil {
			return nil, err
		}
		if math.Abs(q.Arcs[at].Sweep)*180/math.Pi > mostWrap && len(moved) > 2 {
			// Drawn back so far that it no longer touches: the loop passes it by.
			if q, err = Lay(append(moved[:at:at], moved[at+1:]...)); err != nil {
				return nil, err
			}
		}
		return q, nil
	}, t.Travel
}

// roller finds the wheel a tensioner moves among the circles, and where its centre
// is when it has moved by so many mm towards more tension; nil where the loop does
// not run over that wheel.
func roller(t *engine.Tensioner, cs []Circle, p *Path) (int, func(float64) Point) {
	at := slices.IndexFunc(cs, func(c Circle) bool { return c.Wheel == t.Wheel })
	if at < 0 {
		return at, nil
	}
	a := p.Arcs[at]
	s, c := math.Sincos(a.Start + a.Sweep/2)
	if t.Moves != 0 {
		s, c = math.Sincos(math.Pi/2 - t.Moves*math.Pi/180)
	}
	from := cs[at].Centre
	return at, func(v float64) Point { return Point{from.X + v*c, from.Y + v*s} }
}

// Root is a zero of f between a and b, where f has opposite signs, by halving:
// 60 halvings take any travel to less than a nanometre. NaN when f does not
// change its sign.
func Root(f func(float64) float64, a, b float64) float64 {
	fa, fb := f(a), f(b)
	switch {
	case fa == 0:
		return a
	case fb == 0:
		return b
	case math.IsNaN(fa) || math.IsNaN(fb) || (fa > 0) == (fb > 0):
		return math.NaN()
	}
	for range 60 {
		m := (a + b) / 2
		fm := f(m)
		if fm == 0 {
			return m
		}
		if (fm > 0) == (fa > 0) {
			a = m
		} else {
			b = m
		}
	}
	return (a + b) / 2
}

// Trouble is something about a route that cannot be, or comes too close.
type Trouble struct {
	Kind TroubleKind
	// A and B are the wheels it is about; B may be empty. Run is the place of a
	// run in the path, −1 for none.
	A, B engine.WheelID
	Run  int
	// Gap is the room between the two, mm; negative when they overlap.
	Gap float64
}

// TroubleKind says what is wrong with a route.
type TroubleKind string

// The kinds of trouble.
const (
	// Overlap: two wheels of one loop stand in each other's place.
	Overlap TroubleKind = "overlap"
	// Unreached: the loop would have to go nearly all the way round the wheel:
	// it lies on the other side of the runs beside it.
	Unreached TroubleKind = "unreached"
	// Crossing: two runs cross.
	Crossing TroubleKind = "crossing"
	// Inverted: the loop does not close into one simple ring.
	Inverted TroubleKind = "inverted"
	// Touches: a run touches, or nearly touches, a wheel it should pass.
	Touches TroubleKind = "touches"
)

// LeastRoom is the room a run needs beside a wheel it passes, mm: an assumption
// of ours.
const LeastRoom = 2

// mostWrap is the wrap beyond which a wheel counts as not reached, degrees.
const mostWrap = 300

// Troubles looks for what cannot be in a laid loop.
func Troubles(x *engine.Index, l *engine.Loop, cs []Circle, p *Path) []Trouble {
	var out []Trouble
	total := 0.0
	for i, a := range p.Arcs {
		total += a.Sweep
		if math.Abs(a.Sweep)*180/math.Pi > mostWrap {
			out = append(out, Trouble{Kind: Unreached, A: cs[i].Wheel, Run: -1})
		}
	}
	if len(out) == 0 && math.Abs(math.Abs(total)-2*math.Pi) > 1e-6 {
		out = append(out, Trouble{Kind: Inverted, Run: -1})
	}
	rail := func(c Circle) bool { w := x.Wheel(c.Wheel); return w != nil && w.Mount == engine.Rail }
	for i := range cs {
		for k := i + 1; k < len(cs); k++ {
			if rail(cs[i]) || rail(cs[k]) {
				continue
			}
			d := math.Hypot(cs[i].Centre.X-cs[k].Centre.X, cs[i].Centre.Y-cs[k].Centre.Y)
			if gap := d - cs[i].Radius - cs[k].Radius; gap < 0 {
				out = append(out, Trouble{Kind: Overlap, A: cs[i].Wheel, B: cs[k].Wheel, Run: -1, Gap: gap})
			}
		}
	}
	n := len(p.Runs)
	for i, r := range p.Runs {
		for k := i + 1; k < n; k++ {
			if cross(r.P, r.Q, p.Runs[k].P, p.Runs[k].Q) {
				out = append(out, Trouble{Kind: Crossing, A: r.From, B: p.Runs[k].From, Run: i})
			}
		}
		for k, c := range cs {
			if k == i || k == (i+1)%n || rail(c) {
				continue
			}
			if gap := distance(c.Centre, r.P, r.Q) - c.Radius - l.Thickness; gap < LeastRoom {
				out = append(out, Trouble{Kind: Touches, A: c.Wheel, Run: i, Gap: gap})
			}
		}
	}
	return out
}

// distance is the distance of a point from a segment.
func distance(c, p, q Point) float64 {
	dx, dy := q.X-p.X, q.Y-p.Y
	t := 0.0
	if l := dx*dx + dy*dy; l > 0 {
		t = math.Max(0, math.Min(1, ((c.X-p.X)*dx+(c.Y-p.Y)*dy)/l))
	}
	return math.Hypot(c.X-p.X-t*dx, c.Y-p.Y-t*dy)
}

// cross reports whether two segments cross inside both.
func cross(a, b, c, d Point) bool {
	side := func(p, q, r Point) float64 { return (q.X-p.X)*(r.Y-p.Y) - (q.Y-p.Y)*(r.X-p.X) }
	return side(a, b, c)*side(a, b, d) < 0 && side(c, d, a)*side(c, d, b) < 0
}

// Links is where a mark of the loop stands along it.
type Links struct {
	Mark engine.MarkID
	// Want is the number of teeth or links from the first mark in the direction
	// of travel that the geometry asks for; Says what the sheet says.
	Want float64
	Says int
	// Reached is false when the wheel does not touch the loop at the mark's
	// clock, so that the two cannot meet there.
	Reached bool
}

// Off is how many links the sheet is away from the geometry, the short way
// round a loop of n teeth.
func (l *Links) Off(n int) float64 { return engine.Wrap(float64(l.Says)-l.Want, float64(n)) }

// AsNew is the way of a new loop with its tensioner where that loop leaves it; the
// nominal way where nothing moves or the loop does not close.
func AsNew(x *engine.Index, l *engine.Loop) (*Path, error) {
	cs, p, err := laid(x, l)
	if err != nil {
		return nil, err
	}
	way, travel := moving(x, l, cs, p)
	if travel <= 0 {
		return p, nil
	}
	t, err := Take(x, l)
	if err != nil || !t.Closes {
		return p, nil
	}
	q, err := way(t.Sits)
	if err != nil || len(q.Arcs) != len(p.Arcs) {
		return p, nil
	}
	return q, nil
}

// Coloured works out the links between the marks of a loop from where each
// meets its wheel. Marks that name no wheel are left out. The way is taken with
// the tensioner where a new loop leaves it.
func Coloured(x *engine.Index, l *engine.Loop) ([]Links, error) {
	p, err := AsNew(x, l)
	if err != nil {
		return nil, err
	}
	starts, along := make([]float64, len(p.Arcs)), 0.0
	for i := range p.Arcs {
		starts[i] = along
		along += float64(p.Arcs[i].Length()) + float64(p.Runs[i].Length())
	}
	var out []Links
	first, any := 0.0, false
	for i := range x.Sheet.Marks {
		m := &x.Sheet.Marks[i]
		if m.Kind != engine.LoopMark || m.Loop != l.ID || m.Wheel == "" {
			continue
		}
		k := 0
		for k < len(p.Arcs) && p.Arcs[k].Wheel != m.Wheel {
			k++
		}
		if k == len(p.Arcs) {
			return nil, fmt.Errorf("the %s meets a wheel the %s does not run over", m.Name, l.Name)
		}
		at, reached := onArc(p.Arcs[k], math.Pi/2-m.Clock*math.Pi/180)
		s := starts[k] + at
		if !any {
			first, any = s-float64(m.Link)*l.Pitch, true
		}
		want := math.Mod((s-first)/l.Pitch, along/l.Pitch)
		if want < -1e-9 {
			want += along / l.Pitch
		}
		out = append(out, Links{m.ID, want, m.Link, reached})
	}
	return out, nil
}

// onArc is the length along an arc to the direction t, and whether the arc
// reaches it; past its end the nearer end counts.
func onArc(a Arc, t float64) (float64, bool) {
	d := math.Mod((t-a.Start)*math.Copysign(1, a.Sweep), 2*math.Pi)
	if d < 0 {
		d += 2 * math.Pi
	}
	whole := math.Abs(a.Sweep)
	switch {
	case d <= whole+1e-9:
		return d * a.Radius, true
	case d-whole < 2*math.Pi-d:
		return float64(a.Length()), false
	}
	return 0, false
}
