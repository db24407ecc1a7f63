package drawing

import (
	"math"

	"inklatch/internal/core/engine"
)

// Lock is a lock point as it is drawn: what it is, where it goes in. A bar across
// the ends of two shafts is a Bar; everything else is a Glyph on each of the wheels.
type Lock struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Kind string `json:"kind"`
	// Position is set for one that fixes the timing, not only carries torque.
	Position bool     `json:"position,omitzero"`
	Wheels   []string `json:"wheels"`
	Glyphs   []Glyph  `json:"glyphs"`
	Bars     []Bar    `json:"bars"`
}

// Glyph is a small figure that keeps its size on the page: Path is in pixels of the
// page round the place X, Y, turned by Turn, degrees clockwise, so that up is away
// from the wheel's centre.
type Glyph struct {
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
	Turn float64 `json:"turn"`
	Path string  `json:"path"`
}

// Bar lies from X, Y for Length mm on at Turn, degrees clockwise from three o'clock;
// it is Wide pixels of the page across and goes End pixels beyond either end.
type Bar struct {
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Length float64 `json:"length"`
	Turn   float64 `json:"turn"`
	Wide   float64 `json:"wide"`
	End    float64 `json:"end"`
}

// bar lies between two places.
func bar(x1, y1, x2, y2 float64) Bar {
	return Bar{x1, y1, math.Hypot(x2-x1, y2-y1), math.Atan2(y2-y1, x2-x1) * 180 / math.Pi, 11, 16}
}

// around is where locks stand on a wheel, degrees from twelve o'clock: clear of its
// mark, which is mostly above, and of its name, which is below the middle.
var around = []float64{100, 238, 62, 298, 150}

// The figures, in pixels of the page, the wheel below them.
const (
	// a pin seen end on in its hole
	pinPath = "M-6.5 0a6.5 6.5 0 1 0 13 0a6.5 6.5 0 1 0 -13 0zM-1.5 0a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0 -3 0z"
	// a screw against which the web of the crank comes to rest
	stopPath = "M-3 5h6V-12h3v-6h-12v6h3z"
	// a jaw with teeth in the rim
	jawPath = "M-11 -15h22v9l-3.6 7l-3.7 -7l-3.7 7l-3.7 -7l-3.7 7l-3.6 -7z"
	// an arm with two pins in the face of the wheel
	holderPath = "M-3.6 16V-14a3.6 3.6 0 0 1 7.2 0V16zM-2.6 14a2.6 2.6 0 1 0 5.2 0a2.6 2.6 0 1 0 -5.2 0zM-2.6 3a2.6 2.6 0 1 0 5.2 0a2.6 2.6 0 1 0 -5.2 0z"
)

// locks draws the lock points of a sheet.
func (d *Drawing) locks(x *engine.Index) {
	taken := map[string]int{}
	for i := range x.Sheet.Locks {
		l := &x.Sheet.Locks[i]
		out := Lock{ID: string(l.ID), Name: l.Name, Kind: string(l.Kind), Position: l.Kind.ForPosition(), Wheels: []string{}, Glyphs: []Glyph{}, Bars: []Bar{}}
		var on []*Wheel
		for _, shaft := range l.Holds {
			if w := x.TimedBy(shaft); w != nil {
				at := d.Wheel(w.ID)
				on, out.Wheels = append(on, at), append(out.Wheels, at.ID)
			}
		}
		switch {
		case len(on) == 0:
			continue
		case l.Kind == engine.BarLock && len(on) > 1:
			out.Bars = append(out.Bars, bar(on[0].X, on[0].Y, on[len(on)-1].X, on[len(on)-1].Y))
		case l.Kind == engine.BarLock:
			half := on[0].R * 0.6
			out.Bars = append(out.Bars, bar(on[0].X-half, on[0].Y, on[0].X+half, on[0].Y))
		default:
			for _, w := range on {
				out.Glyphs = append(out.Glyphs, glyph(l.Kind, w, around[taken[w.ID]%len(around)]))
				taken[w.ID]++
			}
		}
		d.Locks = append(d.Locks, out)
	}
}

// glyph places the figure of a kind of lock on a wheel.
func glyph(kind engine.LockKind, w *Wheel, turn float64) Glyph {
	path, out := holderPath, w.R
	switch kind {
	case engine.PinLock:
		path, out = pinPath, w.R*0.56
	case engine.StopLock:
		path = stopPath
	case engine.FlywheelLock:
		path = jawPath
	}
	sin, cos := math.Sincos(turn * math.Pi / 180)
	return Glyph{X: w.X + out*sin, Y: w.Y - out*cos, Turn: turn, Path: path}
}
