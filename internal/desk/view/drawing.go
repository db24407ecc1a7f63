package view

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/route"
)

// Drawing is the drive in the sheet's own geometry, millimetres, y downwards as
// screens count it.
type Drawing struct {
	Running string     `json:"running"`
	View    string     `json:"view"`
	Box     [4]float64 `json:"box"`
	Wheels  []Wheel    `json:"wheels"`
	Loops   []Loop     `json:"loops"`
	Gears   []Gear     `json:"gears"`
	Locks   []Lock     `json:"locks"`
	Things  []Thing    `json:"things"`
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
}

// Mark is a mark on a wheel: the shaft angle at which it meets its pointer, and
// where that pointer stands, degrees clockwise from twelve o'clock.
type Mark struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Kind  string  `json:"kind"`
	At    float64 `json:"at"`
	Clock float64 `json:"clock"`
}

// Lock is a lock point on the wheel of one shaft it holds.
type Lock struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Wheel string `json:"wheel"`
	// Position is set for one that fixes the timing, not only carries torque.
	Position bool `json:"position,omitzero"`
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
}

// Thing is something a step can name.
type Thing struct {
	Ref    string `json:"ref"`
	Kind   string `json:"kind"`
	ID     string `json:"id"`
	Name   string `json:"name"`
	Detail string `json:"detail,omitzero"`
}

// DrawingOf draws a sheet.
func DrawingOf(x *engine.Index) *Drawing {
	s := x.Sheet
	d := &Drawing{Running: string(s.Running), View: s.View, Wheels: []Wheel{}, Loops: []Loop{}, Gears: []Gear{}, Locks: []Lock{}, Things: things(x)}
	minX, minY, maxX, maxY := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for i := range s.Wheels {
		v := wheelOf(x, i)
		if v.Mount != string(engine.Rail) {
			minX, maxX = min(minX, v.X-v.R), max(maxX, v.X+v.R)
			minY, maxY = min(minY, v.Y-v.R), max(maxY, v.Y+v.R)
		}
		d.Wheels = append(d.Wheels, v)
	}
	for i := range s.Gears {
		g := &s.Gears[i]
		d.Gears = append(d.Gears, Gear{string(g.ID), g.Name, string(g.Driver), string(g.Driven), g.Inside})
	}
	if math.IsInf(minX, 1) {
		minX, minY, maxX, maxY = -100, -100, 100, 100
	}
	d.Box = [4]float64{minX, minY, maxX - minX, maxY - minY}
	for i := range s.Locks {
		l := &s.Locks[i]
		for _, shaft := range l.Holds {
			if w := slices.IndexFunc(s.Wheels, func(w engine.Wheel) bool { return w.Shaft == shaft && w.Teeth > 0 }); w >= 0 {
				d.Locks = append(d.Locks, Lock{string(l.ID), l.Name, string(s.Wheels[w].ID), l.Kind.ForPosition()})
			}
		}
	}
	for i := range s.Loops {
		d.Loops = append(d.Loops, loopOf(x, &s.Loops[i]))
	}
	return d
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
				v.R = route.PitchRadius(w, &s.Loops[k])
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
	if v.R == 0 {
		v.R = 12 // something to take hold of until its size is known
	}
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
			v.Marks = append(v.Marks, Mark{string(m.ID), m.Name, string(m.Kind), m.At, m.Clock})
		}
	}
	for k := range s.Tensioners {
		if s.Tensioners[k].Wheel == w.ID {
			v.Tensions, v.Tensioner = true, k
		}
	}
	return v
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
	out.Longest = math.Round(long.Length()*10) / 10
	if w := x.Wheel(long.From); w != nil {
		out.LongestFrom = w.Name
	}
	if w := x.Wheel(long.To); w != nil {
		out.LongestTo = w.Name
	}
	for i, a := range p.Arcs {
		r := p.Runs[i]
		out.Pieces = append(out.Pieces, Piece{
			Wheel: string(a.Wheel), Arc: arcPath(a), Run: [4]float64{r.P.X, -r.P.Y, r.Q.X, -r.Q.Y}, Length: r.Length(),
			Wrap: math.Abs(a.Sweep) * 180 / math.Pi, Pulls: r.Role == route.Pulls, Slack: r.Role == route.Slack,
		})
	}
	return out
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

func things(x *engine.Index) []Thing {
	s := x.Sheet
	out := []Thing{}
	add := func(kind, id, name, detail string) {
		out = append(out, Thing{kind + ":" + id, kind, id, name, detail})
	}
	for _, v := range s.Locks {
		d := string(v.Kind)
		if t := x.Tool(v.Tool); t != nil {
			d += ", " + t.Number
		}
		add("lock", string(v.ID), v.Name, d)
	}
	for _, v := range s.Parts {
		add("part", string(v.ID), v.Name, string(v.Policy))
	}
	for _, v := range s.Fasteners {
		add("fastener", string(v.ID), v.Name, v.Thread)
	}
	for _, v := range s.Loops {
		add("loop", string(v.ID), v.Name, fmt.Sprintf("%d teeth", v.Teeth))
	}
	for _, v := range s.Wheels {
		add("wheel", string(v.ID), v.Name, "")
	}
	for _, v := range s.Marks {
		add("mark", string(v.ID), v.Name, v.Look)
	}
	for _, v := range s.Tensioners {
		add("tensioner", string(v.ID), v.Name, string(v.Method))
	}
	for _, v := range s.Tools {
		add("tool", string(v.ID), v.Number+" "+v.Name, "")
	}
	return out
}
