// Package drawing is the one geometry of the drive, for the screens, the printed
// sheet and the exported picture: where every wheel, rail, mark, lock and loop
// lies, in the sheet's own millimetres. How thick a line is and what colour it
// has is the business of those who draw.
package drawing

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/route"
)

// Drawing is the drive in the sheet's own geometry, millimetres, y downwards as
// screens count it. Wheels come in the order they are drawn: rails, then large
// wheels before small ones, so that none hides another.
type Drawing struct {
	Running string     `json:"running"`
	View    string     `json:"view"`
	Box     [4]float64 `json:"box"`
	Wheels  []Wheel    `json:"wheels"`
	Loops   []Loop     `json:"loops"`
	Gears   []Gear     `json:"gears"`
	Locks   []Lock     `json:"locks"`
	// Casting is a quiet outline behind the wheels, as a path.
	Casting string `json:"casting"`
}

// Wheel is a wheel with its pitch radius and, where it has one, its mark.
type Wheel struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Label is what the drawing calls it: its shaft, its part, or its own name.
	Label    string  `json:"label"`
	X        float64 `json:"x"`
	Y        float64 `json:"y"`
	R        float64 `json:"r"`
	Teeth    int     `json:"teeth"`
	Shaft    string  `json:"shaft"`
	Mount    string  `json:"mount"`
	Ratio    float64 `json:"ratio"`
	Marks    []Mark  `json:"marks"`
	Tensions bool    `json:"tensions,omitzero"`
	// Tensioner is the place of the tensioner that moves the wheel, −1 for none.
	Tensioner int `json:"tensioner"`
	// Hidden is set for a wheel of a gear pair inside a casing.
	Hidden bool `json:"hidden,omitzero"`
	// Sized is set where its size is known: its diameter, or its teeth with the pitch
	// of what lies on it or the module of its pair.
	Sized bool `json:"sized,omitzero"`
	// Side is where its name stands: right of the drive, or left.
	Side Side `json:"side"`
	// Rail is, for a rail, the path of the part that the loop lies on.
	Rail string `json:"rail,omitzero"`
}

// Side is a side of the drive.
type Side string

// The sides.
const (
	Left  Side = "left"
	Right Side = "right"
)

// Choices are the two sides.
func (Side) Choices() []string { return []string{string(Left), string(Right)} }

// Mark is a mark on a wheel: the shaft angle at which it meets its pointer, and
// where that pointer stands, degrees clockwise from twelve o'clock.
type Mark struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Kind  string  `json:"kind"`
	At    float64 `json:"at"`
	Clock float64 `json:"clock"`
	// Rest is where the mark itself stands in the drawing while its shaft is at
	// the timing position, degrees clockwise from twelve o'clock.
	Rest float64 `json:"rest"`
}

// Gear is two wheels in mesh, drawn by their pitch circles.
type Gear struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Driver string `json:"driver"`
	Driven string `json:"driven"`
	Inside bool   `json:"inside,omitzero"`
}

// Loop is a belt or chain in pieces: an arc on a wheel and the run that leaves
// it.
type Loop struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Kind  string `json:"kind"`
	Teeth int    `json:"teeth"`
	// Tensioner is the place of the loop's tensioner, −1 for none.
	Tensioner   int     `json:"tensioner"`
	Longest     float64 `json:"longest"`
	LongestFrom string  `json:"longestFrom"`
	LongestTo   string  `json:"longestTo"`
	Pieces      []Piece `json:"pieces"`
	Impossible  string  `json:"impossible"`
	// Path is the loop as a closed path; Slack the same with the run that the
	// tensioner takes up hanging out.
	Path  string `json:"path"`
	Slack string `json:"slack"`
}

// Piece is an arc as an SVG path and a run as x1, y1, x2, y2.
type Piece struct {
	Wheel  string     `json:"wheel"`
	Arc    string     `json:"arc"`
	Run    [4]float64 `json:"run"`
	Length float64    `json:"length"`
	// Wrap is the angle of the arc, degrees.
	Wrap  float64 `json:"wrap,omitzero"`
	Pulls bool    `json:"pulls"`
	Slack bool    `json:"slack"`

	arc route.Arc
}

// Of draws a sheet.
func Of(x *engine.Index) *Drawing {
	s := x.Sheet
	d := &Drawing{Running: string(s.Running), View: s.View, Wheels: []Wheel{}, Loops: []Loop{}, Gears: []Gear{}, Locks: []Lock{}}
	for i := range s.Gears {
		g := &s.Gears[i]
		d.Gears = append(d.Gears, Gear{string(g.ID), g.Name, string(g.Driver), string(g.Driven), g.Inside})
	}
	for i := range s.Loops {
		d.Loops = append(d.Loops, loopOf(x, &s.Loops[i]))
	}
	for i := range s.Wheels {
		d.Wheels = append(d.Wheels, wheelOf(x, i))
	}
	d.measure()
	for i := range d.Wheels {
		d.finish(&d.Wheels[i])
	}
	slices.SortStableFunc(d.Wheels, before)
	d.locks(x)
	return d
}

// Empty reports whether there is nothing to draw.
func (d *Drawing) Empty() bool {
	return !slices.ContainsFunc(d.Wheels, func(w Wheel) bool { return w.Mount != string(engine.Rail) && !w.Hidden })
}

// Wheel finds a wheel of the drawing, nil for none.
func (d *Drawing) Wheel(id engine.WheelID) *Wheel {
	for i := range d.Wheels {
		if d.Wheels[i].ID == string(id) {
			return &d.Wheels[i]
		}
	}
	return nil
}

// before is the order of drawing.
func before(a, b Wheel) int {
	rank := func(w Wheel) float64 {
		if w.Mount == string(engine.Rail) {
			return math.Inf(-1)
		}
		return -w.R
	}
	return cmp.Compare(rank(a), rank(b))
}

// What is drawn at least, mm: about the size of a small engine’s drive.
const leastWide, leastTall = 160, 220

// measure sets the box round everything that is not a rail, and the casting.
func (d *Drawing) measure() {
	left, top, right, bottom := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, v := range d.Wheels {
		if v.Mount != string(engine.Rail) && !v.Hidden {
			left, right = min(left, v.X-v.R), max(right, v.X+v.R)
			top, bottom = min(top, v.Y-v.R), max(bottom, v.Y+v.R)
		}
	}
	if math.IsInf(left, 1) {
		left, top, right, bottom = -100, -100, 100, 100
	}
	// A wheel or two of a drive that is only begun do not fill the drawing.
	if w := right - left; w < leastWide {
		left, right = left-(leastWide-w)/2, right+(leastWide-w)/2
	}
	if h := bottom - top; h < leastTall {
		top, bottom = top-(leastTall-h)*0.7, bottom+(leastTall-h)*0.3
	}
	w, h := right-left, bottom-top
	d.Box = [4]float64{left, top, w, h}
	d.Casting = fmt.Sprintf("M%.2f %.2fH%.2fL%.2f %.2fL%.2f %.2fH%.2fL%.2f %.2fZ",
		left+w*0.06, top-12, left+w*0.94, right+16, top+h*0.45, left+w*0.84, bottom+14, left+w*0.16, left-16, top+h*0.45)
}

// railInside is how far inside the loop's line a rail is drawn, mm.
const railInside = 7

// finish sets what needs the whole drawing.
func (d *Drawing) finish(v *Wheel) {
	v.Side = Left
	if v.Shaft == string(engine.CrankID) || v.X > d.Box[0]+d.Box[2]/2 {
		v.Side = Right
	}
	if v.Mount != string(engine.Rail) {
		return
	}
	for i := range d.Loops {
		for _, p := range d.Loops[i].Pieces {
			if p.Wheel != v.ID {
				continue
			}
			a := p.arc
			a.Radius = max(1, v.R-railInside)
			a.Start -= math.Copysign(0.06, a.Sweep)
			a.Sweep += math.Copysign(0.12, a.Sweep)
			v.Rail = arcPath(a)
		}
	}
}

func wheelOf(x *engine.Index, i int) Wheel {
	s := x.Sheet
	w := &s.Wheels[i]
	v := Wheel{ID: string(w.ID), Name: w.Name, X: w.X, Y: -w.Y, R: w.Diameter / 2, Teeth: w.Teeth, Shaft: string(w.Shaft), Mount: string(w.Mount), Marks: []Mark{}, Tensioner: -1}
	for k := range s.Loops {
		for _, stop := range s.Loops[k].Route {
			if stop.Wheel != w.ID {
				continue
			}
			if w.Teeth > 0 {
				v.R = float64(route.PitchRadius(w, &s.Loops[k]))
			}
		}
	}
	for k := range s.Gears {
		g := &s.Gears[k]
		if g.Driver == w.ID || g.Driven == w.ID {
			if w.Teeth > 0 && g.Module > 0 {
				v.R = g.Module * float64(w.Teeth) / 2
			}
		}
	}
	v.Sized = v.R > 0
	if v.R == 0 {
		v.R = 12 // something to take hold of until its size is known
	}
	v.Hidden = hidden(s, w.ID)
	v.Label = w.Name
	if q := x.Part(w.Part); q != nil {
		v.Label = q.Name
	}
	if sh := x.ShaftAt(w.Shaft); sh >= 0 {
		if w.Teeth > 0 && only(s, w) {
			v.Label = s.Shafts[sh].Name
		}
		v.Ratio = x.Drive(sh).Ratio.Float()
	}
	for k := range s.Marks {
		if m := &s.Marks[k]; m.Wheel == w.ID && m.Kind != engine.LoopMark {
			v.Marks = append(v.Marks, Mark{string(m.ID), m.Name, string(m.Kind), m.At, m.Clock, m.Clock - m.At*sense(s.Running)})
		}
	}
	for k := range s.Tensioners {
		if s.Tensioners[k].Wheel == w.ID {
			v.Tensions, v.Tensioner = true, k
		}
	}
	return v
}

// sense is 1 where the engine runs clockwise in the drawing, −1 where not.
func sense(w engine.Way) float64 {
	if w == engine.Counterclockwise {
		return -1
	}
	return 1
}

// hidden reports whether a wheel belongs to a gear pair inside a casing and to
// no loop.
func hidden(s *engine.Sheet, id engine.WheelID) bool {
	for i := range s.Loops {
		if slices.ContainsFunc(s.Loops[i].Route, func(t engine.Stop) bool { return t.Wheel == id }) {
			return false
		}
	}
	return slices.ContainsFunc(s.Gears, func(g engine.Gear) bool { return g.Inside && (g.Driver == id || g.Driven == id) })
}

// only reports whether a wheel is the one toothed wheel of its shaft, so that
// the shaft's name says which is meant.
func only(s *engine.Sheet, w *engine.Wheel) bool {
	for i := range s.Wheels {
		if o := &s.Wheels[i]; o.ID != w.ID && o.Shaft == w.Shaft && o.Teeth > 0 {
			return false
		}
	}
	return true
}

func loopOf(x *engine.Index, l *engine.Loop) Loop {
	out := Loop{ID: string(l.ID), Name: l.Name, Kind: string(l.Kind), Teeth: l.Teeth, Pieces: []Piece{}, Tensioner: x.TensionerAt(l.Tensioner)}
	p, err := route.Of(x, l)
	if err != nil {
		out.Impossible = err.Error()
		return out
	}
	long := p.Longest()
	out.Longest = math.Round(float64(long.Length())*10) / 10
	if w := x.Wheel(long.From); w != nil {
		out.LongestFrom = w.Name
	}
	if w := x.Wheel(long.To); w != nil {
		out.LongestTo = w.Name
	}
	for i, a := range p.Arcs {
		r := p.Runs[i]
		out.Pieces = append(out.Pieces, Piece{
			Wheel: string(a.Wheel), Arc: arcPath(a), Run: [4]float64{r.P.X, -r.P.Y, r.Q.X, -r.Q.Y}, Length: float64(r.Length()),
			Wrap: math.Abs(a.Sweep) * 180 / math.Pi, Pulls: r.Role == route.Pulls, Slack: r.Role == route.Slack, arc: a,
		})
	}
	out.Path, out.Slack = out.path(0), out.path(sag)
	return out
}

// sag is how far a slack run hangs out, as a share of its length: drawn to be
// seen, not measured.
const sag = 0.3

// path joins arcs and runs; slack runs bow away from the loop's middle.
func (l *Loop) path(sag float64) string {
	middle := 0.0
	for _, p := range l.Pieces {
		middle += p.Run[0] / float64(len(l.Pieces))
	}
	var b strings.Builder
	for i, p := range l.Pieces {
		if i == 0 {
			b.WriteString(p.Arc)
		} else {
			b.WriteString(p.Arc[strings.Index(p.Arc, "A"):])
		}
		x1, y1, x2, y2 := p.Run[0], p.Run[1], p.Run[2], p.Run[3]
		if p.Slack && sag > 0 {
			out := 1.0
			if (x1+x2)/2 < middle {
				out = -1
			}
			fmt.Fprintf(&b, "Q%.2f %.2f %.2f %.2f", (x1+x2)/2+out*p.Length*sag, (y1+y2)/2+p.Length*sag*0.6, x2, y2)
			continue
		}
		fmt.Fprintf(&b, "L%.2f %.2f", x2, y2)
	}
	return b.String()
}

// arcPath is an arc as SVG; y is turned over, so senses swap.
func arcPath(a route.Arc) string {
	pt := func(t float64) (float64, float64) {
		return a.Centre.X + a.Radius*math.Cos(t), -(a.Centre.Y + a.Radius*math.Sin(t))
	}
	x1, y1 := pt(a.Start)
	x2, y2 := pt(a.Start + a.Sweep)
	large, sweep := 0, 0
	if math.Abs(a.Sweep) > math.Pi {
		large = 1
	}
	if a.Sweep < 0 {
		sweep = 1
	}
	return fmt.Sprintf("M%.2f %.2fA%.2f %.2f 0 %d %d %.2f %.2f", x1, y1, a.Radius, a.Radius, large, sweep, x2, y2)
}
