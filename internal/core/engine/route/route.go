// Package route lays a loop over its wheels: the arcs it wraps, the straight
// runs between them, and its length. Points are millimetres in the sheet's
// view, x right and y up; angles are radians counter-clockwise from x.
//
// The tangent from circle A to circle B with senses o (+1 counter-clockwise,
// −1 clockwise) runs at θ = φ − asin(k/d), where d and φ are length and
// direction of the line between centres and k = oB·rB − oA·rA; its length is
// √(d² − k²). Both follow from the right triangle between the centres, as in
// any handbook of machine elements under open and crossed belts.
package route

import (
	"fmt"
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Point is a place in the sheet's view, mm.
type Point struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// Circle is a wheel as the loop's pitch line meets it.
type Circle struct {
	Wheel  engine.WheelID
	Centre Point
	// Radius is that of the pitch line, mm.
	Radius float64
	// Sense is +1 where the loop runs counter-clockwise round it, −1 clockwise.
	Sense float64
}

// Arc is the part of a wheel the loop lies on: from Start through Sweep, which
// has the sign of the wheel's sense.
type Arc struct {
	Wheel  engine.WheelID
	Centre Point
	Radius float64
	Start  float64
	Sweep  float64
}

// Length of the arc, mm.
func (a Arc) Length() unit.Length { return unit.Length(a.Radius * math.Abs(a.Sweep)) }

// Role is what a run does while the engine turns in its running direction.
type Role string

// The roles.
const (
	// Pulls is drawn tight into the driving wheel.
	Pulls Role = "pulls"
	// Carries lies between two driven shafts and passes on what is left.
	Carries Role = "carries"
	// Slack comes loose off the driving wheel.
	Slack Role = "slack"
)

// Run is a straight part between two wheels.
type Run struct {
	From, To engine.WheelID
	P, Q     Point
	Role     Role
}

// Length of the run, mm.
func (r Run) Length() unit.Length { return unit.Length(math.Hypot(r.Q.X-r.P.X, r.Q.Y-r.P.Y)) }

// Path is a loop laid over its wheels: Runs[i] leaves Arcs[i].
type Path struct {
	Arcs []Arc
	Runs []Run
}

// Length is the length of the pitch line, mm.
func (p *Path) Length() unit.Length {
	l := 0.0
	for i := range p.Arcs {
		l += float64(p.Arcs[i].Length()) + float64(p.Runs[i].Length())
	}
	return unit.Length(l)
}

// Longest is the longest straight run.
func (p *Path) Longest() Run {
	var best Run
	for _, r := range p.Runs {
		if r.Length() > best.Length() {
			best = r
		}
	}
	return best
}

// PitchRadius is the pitch-line radius of a wheel on a loop, mm: teeth × pitch
// over 2π for a toothed wheel, radius plus the loop's thickness for a plain one.
func PitchRadius(w *engine.Wheel, l *engine.Loop) unit.Length {
	if w.Teeth > 0 {
		return unit.Length(float64(w.Teeth) * l.Pitch / (2 * math.Pi))
	}
	return unit.Length(w.Diameter/2 + l.Thickness)
}

// travel is the sense of the wheels on the inside of the loop, +1 counter-
// clockwise: that of the shaft which drives it.
func travel(x *engine.Index, l *engine.Loop) float64 {
	sense := 1.0
	if x.Sheet.Running == engine.Clockwise {
		sense = -1
	}
	w := x.Driver(x.LoopAt(l.ID))
	if w < 0 {
		return sense
	}
	wheel := &x.Sheet.Wheels[w]
	if x.Drive(x.ShaftAt(wheel.Shaft)).Ratio.Num < 0 {
		sense = -sense
	}
	for _, s := range l.Route {
		if s.Wheel == wheel.ID && s.Side == engine.Back {
			return -sense
		}
	}
	return sense
}

// Circles are the wheels of loop l in order. It is an error when the route
// names a wheel the sheet does not have, or fewer than two.
func Circles(x *engine.Index, l *engine.Loop) ([]Circle, error) {
	if len(l.Route) < 2 {
		return nil, fmt.Errorf("the route of the %s needs at least two wheels", l.Name)
	}
	sense := travel(x, l)
	out := make([]Circle, 0, len(l.Route))
	for _, s := range l.Route {
		w := x.Wheel(s.Wheel)
		if w == nil {
			return nil, fmt.Errorf("the route of the %s names a wheel %q that is not on the sheet", l.Name, s.Wheel)
		}
		c := Circle{Wheel: w.ID, Centre: Point{w.X, w.Y}, Radius: float64(PitchRadius(w, l)), Sense: sense}
		if s.Side == engine.Back {
			c.Sense = -sense
		}
		out = append(out, c)
	}
	return out, nil
}

// Lay lays a loop over circles in the order it travels. It is an
// error when two neighbours overlap so far that no tangent exists.
func Lay(cs []Circle) (*Path, error) {
	n := len(cs)
	p := &Path{Arcs: make([]Arc, n), Runs: make([]Run, n)}
	heading := make([]float64, n)
	for i, a := range cs {
		b := cs[(i+1)%n]
		dx, dy := b.Centre.X-a.Centre.X, b.Centre.Y-a.Centre.Y
		d, k := math.Hypot(dx, dy), b.Sense*b.Radius-a.Sense*a.Radius
		if d <= math.Abs(k) || d == 0 {
			return nil, fmt.Errorf("wheels %q and %q overlap: no run can pass between them", a.Wheel, b.Wheel)
		}
		heading[i] = math.Atan2(dy, dx) - math.Asin(k/d)
		p.Runs[i] = Run{From: a.Wheel, To: b.Wheel, P: touch(a, heading[i]), Q: touch(b, heading[i])}
	}
	for i, c := range cs {
		in, out := heading[(i+n-1)%n], heading[i]
		sweep := math.Mod(c.Sense*(out-in), 2*math.Pi)
		if sweep < 0 {
			sweep += 2 * math.Pi
		}
		p.Arcs[i] = Arc{Wheel: c.Wheel, Centre: c.Centre, Radius: c.Radius, Start: in - c.Sense*math.Pi/2, Sweep: c.Sense * sweep}
	}
	return p, nil
}

// touch is where a run with the given heading meets a circle.
func touch(c Circle, heading float64) Point {
	s, co := math.Sincos(heading - c.Sense*math.Pi/2)
	return Point{c.Centre.X + c.Radius*co, c.Centre.Y + c.Radius*s}
}

// Of lays loop l of a sheet over its wheels.
func Of(x *engine.Index, l *engine.Loop) (*Path, error) {
	_, p, err := laid(x, l)
	if err != nil {
		return nil, err
	}
	roles(x, l, p)
	return p, nil
}

// laid is a loop with the circles it lies on.
func laid(x *engine.Index, l *engine.Loop) ([]Circle, *Path, error) {
	cs, err := Circles(x, l)
	if err != nil {
		return nil, nil, err
	}
	p, err := Lay(cs)
	return cs, p, err
}
