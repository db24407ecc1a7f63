// Package resolution works out errors of timing and what can see them: one tooth on
// each wheel, a worn chain or stretched belt, the play of a tool, and for every
// lock and mark the smallest error it shows. Angles are degrees, of the shaft
// or of the crank as the name says.
package resolution

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/unit"
)

// Tooth is what one tooth of a wheel is worth.
type Tooth struct {
	Wheel engine.WheelID
	Shaft engine.ShaftID
	// OfShaft is 360° over the teeth; OfCrank the crank angle that turns the
	// shaft so far.
	OfShaft, OfCrank float64
}

// Teeth lists what one tooth is worth on every toothed wheel of a driven shaft.
func Teeth(x *engine.Index) []Tooth {
	var out []Tooth
	for i := range x.Sheet.Wheels {
		w := &x.Sheet.Wheels[i]
		s := x.ShaftAt(w.Shaft)
		if w.Teeth == 0 || s < 0 || !x.Drive(s).Driven {
			continue
		}
		deg := 360 / float64(w.Teeth)
		out = append(out, Tooth{w.ID, w.Shaft, deg, crank(x, s, deg)})
	}
	return out
}

// crank is the crank angle that turns shaft i by deg.
func crank(x *engine.Index, i int, deg float64) float64 {
	r := math.Abs(x.Drive(i).Ratio.Float())
	if r == 0 {
		return 0
	}
	return deg / r
}

// Lag is how far a shaft falls behind when a loop has grown longer.
type Lag struct {
	Shaft            engine.ShaftID
	OfShaft, OfCrank float64
	// Pulling is the length of free run and plain arc between the shaft's wheel
	// and the driver that is under pull, mm.
	Pulling float64
}

// Wear is the lag of every shaft when loop l is percent longer than new. The
// tensioner takes the growth up on the slack side, so a shaft falls behind by
// the growth of the part that pulls it: from where the loop leaves its wheel to
// where it runs into the driver. On a toothed wheel each tooth or link still
// lies in one gap, so that only free runs and plain arcs grow. Shafts behind it on other loops fall behind by
// their ratio.
func Wear(x *engine.Index, l *engine.Loop, percent float64) ([]Lag, error) {
	p, err := route.Of(x, l)
	if err != nil {
		return nil, err
	}
	place := x.LoopAt(l.ID)
	driver := x.Driver(place)
	if driver < 0 {
		return nil, nil
	}
	n := len(p.Arcs)
	last := slices.IndexFunc(p.Arcs, func(a route.Arc) bool { return x.WheelAt(a.Wheel) == driver })
	base := x.Drive(x.ShaftAt(x.Sheet.Wheels[driver].Shaft))
	var out []Lag
	for k := 1; k < n; k++ {
		i := (last + k) % n
		w := x.Wheel(p.Arcs[i].Wheel)
		s := x.ShaftAt(w.Shaft)
		if w.Teeth == 0 || s < 0 || !x.Drive(s).Driven {
			continue
		}
		pulling := 0.0
		for j := i; ; j = (j + 1) % n {
			pulling += float64(p.Runs[j].Length())
			if (j+1)%n == last {
				break
			}
			if a := p.Arcs[(j+1)%n]; x.Wheel(a.Wheel).Teeth == 0 {
				pulling += float64(a.Length())
			}
		}
		deg := pulling * percent / 100 / p.Arcs[i].Radius * 180 / math.Pi
		out = append(out, Lag{w.Shaft, deg, crank(x, s, deg), pulling})
	}
	for i := range x.Sheet.Shafts {
		d := x.Drive(i)
		k := slices.Index(d.Loops, place)
		if k < 0 || slices.ContainsFunc(out, func(g Lag) bool { return g.Shaft == x.Sheet.Shafts[i].ID }) {
			continue
		}
		for _, g := range out[:len(out):len(out)] {
			up := x.ShaftAt(g.Shaft)
			if u := x.Drive(up); len(u.Wheels) < len(d.Wheels) && slices.Equal(u.Wheels, d.Wheels[:len(u.Wheels)]) && len(u.Wheels) > len(base.Wheels) {
				out = append(out, Lag{x.Sheet.Shafts[i].ID, g.OfCrank * math.Abs(d.Ratio.Float()), g.OfCrank, g.Pulling})
				break
			}
		}
	}
	return out, nil
}

// Links turns a chain measured n links longer than new, over all its links,
// into per cent.
func Links(n float64, l *engine.Loop) float64 {
	if l.Teeth == 0 {
		return 0
	}
	return n / float64(l.Teeth) * 100
}

// Sight is something that can see an error of a shaft.
type Sight struct {
	Lock engine.LockID
	Mark engine.MarkID
	// Tool is the equivalent it is done with, empty for the sheet's own tool.
	Tool  string
	Name  string
	Shaft engine.ShaftID
	// Play is the freedom either side, 0 for a mark. Least is the smallest error
	// of the shaft that cannot escape it: twice the play, for a shaft locked at
	// one end of the play may stand at the other when it is checked; or what the
	// mark shows.
	Play, Least, OfCrank float64
}

// markShows is taken where the sheet does not say how small an error a mark
// shows, degrees: the lower figure of ±1–2° for a mark against a pointer
// (common practice, no source).
const markShows = 2

// Sights lists what can see errors, shaft by shaft: every lock for position, its
// equivalents, every timing mark, and every reading that shows a shaft's place.
func Sights(x *engine.Index) []Sight {
	var out []Sight
	add := func(g Sight) {
		if i := x.ShaftAt(g.Shaft); i >= 0 && x.Drive(i).Driven {
			g.OfCrank = crank(x, i, g.Least)
			out = append(out, g)
		}
	}
	for i := range x.Sheet.Locks {
		l := &x.Sheet.Locks[i]
		if !l.Kind.ForPosition() {
			continue
		}
		for _, s := range l.Holds {
			add(Sight{Lock: l.ID, Name: l.Name, Shaft: s, Play: float64(l.Freedom()), Least: sure(float64(l.Freedom()))})
			if t := x.Tool(l.Tool); t != nil {
				for _, e := range t.Equivalents {
					add(Sight{Lock: l.ID, Tool: e.Number, Name: l.Name + " with " + e.Number, Shaft: s, Play: e.Play, Least: sure(e.Play)})
				}
			}
		}
	}
	for i := range x.Sheet.Marks {
		m := &x.Sheet.Marks[i]
		shaft := x.MarkShaft(m)
		if m.Kind != engine.TimingMark || shaft == "" {
			continue
		}
		shows := m.Shows
		if shows == 0 {
			shows = markShows
		}
		add(Sight{Mark: m.ID, Name: m.Name, Shaft: shaft, Least: shows})
	}
	for i := range x.Sheet.Readings {
		r := &x.Sheet.Readings[i]
		add(Sight{Name: r.Name, Shaft: r.Shaft, Least: float64(r.Tells())})
	}
	return out
}

// Error is something that can be wrong with one shaft.
type Error struct {
	Name             string
	Shaft            engine.ShaftID
	OfShaft, OfCrank float64
	// Seen runs beside Sights: can the sight see this error?
	Seen []Answer
	// Room is what is left between valves and pistons with a cam out of step by so
	// much, the way that leaves less, mm; below zero they meet. Valves is set where the
	// sheet lets it be worked out.
	Room   float64
	Valves bool
}

// Answer is whether a sight sees an error.
type Answer string

// The answers.
const (
	Sees Answer = "sees it"
	// Perhaps is an error larger than the play but not than twice the play.
	Perhaps Answer = "may see it"
	Misses  Answer = "cannot see it"
	// Blind is a sight on another shaft.
	Blind Answer = ""
)

// see is the answer for an error that leaves shafts off by so many degrees of each.
func (g *Sight) see(off map[engine.ShaftID]float64) Answer {
	deg, ok := off[g.Shaft]
	if !ok {
		return Blind
	}
	return see(deg, g.Play, g.Least)
}

// Moved are the shafts that stand off when a wheel is out by an angle of its own shaft,
// and by how many degrees of each: its own shaft where the loop or gear drives that by
// it, and all that hang on the crank through it. A wheel that drives leaves its own shaft
// where it is: the crank stands home with its belt a tooth out, and the cams do not.
func Moved(x *engine.Index, wheel int, deg unit.Angle) map[engine.ShaftID]float64 {
	out := map[engine.ShaftID]float64{}
	own := x.ShaftAt(x.Sheet.Wheels[wheel].Shaft)
	if own < 0 || !x.Drive(own).Driven {
		return out
	}
	of := crank(x, own, float64(deg))
	for i := range x.Sheet.Shafts {
		if d := x.Drive(i); slices.Contains(d.Wheels, wheel) {
			out[x.Sheet.Shafts[i].ID] = of * math.Abs(d.Ratio.Float())
		}
	}
	return out
}

// see is the answer of something with a play, degrees, that is sure of errors
// from least on; play is 0 for a mark.
func see(deg, play, least float64) Answer {
	const hair = 1e-9
	switch {
	case deg >= least-hair:
		return Sees
	case play > 0 && deg > play+hair:
		return Perhaps
	}
	return Misses
}

// sure is the smallest error, degrees, that a tool with a play cannot miss.
func sure(play float64) float64 { return 2 * play }

// WithPlay is whether a tool with a play, degrees either side, sees an error of
// deg, and the smallest error it is sure of. A tool without play answers
// nothing: its play is not known.
func WithPlay(deg, play unit.Angle) (Answer, unit.Angle) {
	if play <= 0 {
		return Blind, 0
	}
	return see(float64(deg), float64(play), sure(float64(play))), unit.Angle(sure(float64(play)))
}

// Table holds errors against what can see them.
type Table struct {
	Sights []Sight
	Errors []Error
}

// TableOf is the table of a sheet: a tooth on every wheel, a slip of one degree
// on every floating wheel, and every loop one per cent longer than new.
func TableOf(x *engine.Index) *Table {
	t := &Table{Sights: Sights(x)}
	add := func(name string, shaft engine.ShaftID, of, ofCrank float64, off map[engine.ShaftID]float64) {
		e := Error{Name: name, Shaft: shaft, OfShaft: of, OfCrank: ofCrank}
		for i := range x.Sheet.Shafts { // the cam that it leaves least room
			if _, moves := off[x.Sheet.Shafts[i].ID]; !moves {
				continue
			}
			if v, ok := piston.TrainOf(x, i); ok {
				late, _ := v.Least(unit.Angle(ofCrank))
				early, _ := v.Least(unit.Angle(-ofCrank))
				if room := float64(min(late, early)); !e.Valves || room < e.Room {
					e.Room, e.Valves = room, true
				}
			}
		}
		for i := range t.Sights {
			e.Seen = append(e.Seen, t.Sights[i].see(off))
		}
		t.Errors = append(t.Errors, e)
	}
	for _, v := range Teeth(x) {
		off := Moved(x, x.WheelAt(v.Wheel), unit.Angle(v.OfShaft))
		if len(off) == 0 { // nothing is timed by it
			continue
		}
		add("one tooth on the "+wheelName(x.Wheel(v.Wheel)), v.Shaft, v.OfShaft, v.OfCrank, off)
	}
	for i := range x.Sheet.Wheels {
		w := &x.Sheet.Wheels[i]
		if s := x.ShaftAt(w.Shaft); w.Mount.Floats() && s >= 0 && x.Drive(s).Driven {
			if off := Moved(x, i, 1); len(off) > 0 {
				add("1° slip of the "+wheelName(w), w.Shaft, 1, crank(x, s, 1), off)
			}
		}
	}
	for i := range x.Sheet.Loops {
		l := &x.Sheet.Loops[i]
		lags, err := Wear(x, l, 1)
		if err != nil {
			continue
		}
		for _, g := range lags {
			add(l.Name+" 1 % longer, "+x.Shaft(g.Shaft).Name+" late", g.Shaft, g.OfShaft, g.OfCrank, map[engine.ShaftID]float64{g.Shaft: g.OfShaft})
		}
	}
	return t
}

func wheelName(w *engine.Wheel) string { return w.Name + " wheel" }

// Smallest is the smallest error of a shaft, in its own degrees, that any of
// the sights cannot miss; false when nothing sees the shaft.
func (t *Table) Smallest(shaft engine.ShaftID) (unit.Angle, bool) {
	best, any := math.Inf(1), false
	for i := range t.Sights {
		if t.Sights[i].Shaft == shaft && t.Sights[i].Tool == "" {
			best, any = math.Min(best, t.Sights[i].Least), true
		}
	}
	return unit.Angle(best), any
}

// Arc is the length round a rim of radius r that angle deg covers, mm.
func Arc(deg unit.Angle, r unit.Length) unit.Length {
	return unit.Length(float64(deg) * math.Pi / 180 * float64(r))
}

// ArcAngle is the angle that a length of mm round a rim of radius r covers,
// degrees.
func ArcAngle(mm, r unit.Length) unit.Angle {
	return unit.Angle(float64(mm) / float64(r) * 180 / math.Pi)
}

// Chord is the straight distance between two points of a rim, 2·r·sin(deg/2),
// mm: what a rule laid across reads.
func Chord(deg unit.Angle, r unit.Length) unit.Length {
	return unit.Length(2 * float64(r) * math.Sin(float64(deg)*math.Pi/360))
}
