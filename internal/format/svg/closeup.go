package svg

import (
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/drawing"
	"inklatch/internal/core/message"
)

// room is what a close-up leaves round its wheels, and leastSide how much of the
// drive it shows at least, mm; shape is its width against its height.
const (
	room      = 26
	leastSide = 90
	shape     = 1.25
)

// near is the part of the drive that a close-up shows; false for the whole of it.
func (d *picture) near() (left, top, w, h float64, ok bool) {
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for v := range d.shown() {
		if slices.Contains(d.o.Focus, engine.WheelID(v.ID)) {
			x0, x1 = min(x0, v.X-v.R), max(x1, v.X+v.R)
			y0, y1 = min(y0, v.Y-v.R), max(y1, v.Y+v.R)
		}
	}
	if math.IsInf(x0, 1) {
		return 0, 0, 0, 0, false
	}
	w, h = max(x1-x0+2*room, leastSide), max(y1-y0+2*room, leastSide)
	w, h = max(w, h*shape), max(h, w/shape)
	return (x0 + x1 - w) / 2, (y0 + y1 - h) / 2, w, h, true
}

// locks draws the locks that are in, as what they are.
func (d *picture) locks() {
	for i := range d.d.Locks {
		l := &d.d.Locks[i]
		k := d.x.LockAt(engine.LockID(l.ID))
		if d.o.State == nil || k < 0 || !d.o.State.Locks[k].In {
			continue
		}
		fill, inner := white, white
		if l.Position {
			fill, inner = "url(#"+d.hatch+"-lock)", "url(#"+d.hatch+"-1)"
		}
		for _, b := range l.Bars {
			end, wide := b.End*d.unit, b.Wide*d.unit
			d.put(`<rect x="%s" y="%s" width="%s" height="%s" rx="%s" transform="translate(%s %s) rotate(%s)" fill="%s" stroke="%s" stroke-width="%s"/>`,
				n(-end), n(-wide/2), n(b.Length+2*end), n(wide), n(2*d.unit), n(b.X), n(b.Y), n(b.Turn), fill, marking, n(1.5*d.unit))
		}
		for _, g := range l.Glyphs {
			d.put(`<path d="%s" transform="translate(%s %s) rotate(%s) scale(%s)" fill="%s" fill-rule="evenodd" stroke="%s" stroke-width="1.5" stroke-linejoin="round"/>`, g.Path, n(g.X), n(g.Y), n(g.Turn), n(d.unit), inner, marking)
		}
	}
}

// label is a name as it stands in a picture: its lines, the middle of the first one's foot
// and the size of its type, mm.
type label struct {
	lines      []string
	x, y, size float64
	// far is set where it stands so far from its wheel that a line has to lead there.
	far bool
}

// leading is the distance of two lines in sizes of their type.
const leading = 1.15

// box is what a label covers.
func (l *label) box() (x0, y0, x1, y1 float64) {
	wide := 0.0
	for _, s := range l.lines {
		wide = max(wide, float64(len([]rune(s)))*letter*l.size)
	}
	return l.x - wide/2, l.y - 0.8*l.size, l.x + wide/2, l.y + float64(len(l.lines)-1)*leading*l.size + 0.25*l.size
}

// meets reports whether two labels lie over one another, or so near that they read as
// one line.
func (l *label) meets(o *label) bool {
	x0, y0, x1, y1 := l.box()
	p0, q0, p1, q1 := o.box()
	gap := 0.5 * l.size
	return x0 < p1+gap && p0 < x1+gap && y0 < q1 && q0 < y1
}

// within reports whether a label stands in its wheel: the belt lies over the rim, so a
// tooth's height of it is left free.
func (l *label) within(w *drawing.Wheel) bool {
	half := w.R - 4
	for i, s := range l.lines {
		low := l.y + float64(i)*leading*l.size + 0.2*l.size - w.Y // the lower edge of a line, where the wheel is narrower
		if low >= half || float64(len([]rune(s)))*letter*l.size > 2*math.Sqrt(half*half-low*low) {
			return false
		}
	}
	return true
}

// over reports whether a label lies over a wheel, or over the given share of it about its
// middle.
func (l *label) over(w *drawing.Wheel, share float64) bool {
	x0, y0, x1, y1 := l.box()
	return math.Hypot(min(max(w.X, x0), x1)-w.X, min(max(w.Y, y0), y1)-w.Y) < w.R*share
}

// named writes the names of the wheels a close-up is about: in the wheel where it is wide
// enough for them, in one line or two, and otherwise under it, over it or beside it, at
// the first of these places that is in the picture and that no other name has, clear of
// other wheels if there is one, or of as much about their middles as can be.
func (d *picture) named() {
	left, top, wide, high, ok := d.near()
	if !ok {
		return
	}
	size := 13 * d.unit
	if len(d.o.Focus) > 4 {
		size *= 0.8 // many names: smaller type keeps each by its wheel
	}
	var placed []label
	free := func(l label) bool {
		x0, y0, x1, y1 := l.box()
		return x0 >= left && x1 <= left+wide && y0 >= top && y1 <= top+high && !slices.ContainsFunc(placed, func(o label) bool { return l.meets(&o) })
	}
	others := func(w *drawing.Wheel) []*drawing.Wheel {
		return slices.DeleteFunc(slices.Collect(d.shown()), func(v *drawing.Wheel) bool { return v == w })
	}
	for w := range d.shown() {
		if !slices.Contains(d.o.Focus, engine.WheelID(w.ID)) {
			continue
		}
		all := d.placesOf(w, size)
		i := -1
		for share := 1.0; i < 0 && share > -0.1; share -= 0.25 {
			i = slices.IndexFunc(all, func(l label) bool {
				return free(l) && !slices.ContainsFunc(others(w), func(v *drawing.Wheel) bool { return l.over(v, share) })
			})
		}
		i = max(0, i)
		placed = append(placed, all[i])
		if l := &all[i]; l.far {
			d.lead(l, w)
		}
		d.write(&all[i])
	}
}

// rings is how many times its own height a name is moved away from its wheel, where
// others stand nearer.
const rings = 6

// round are the ways from a wheel to its name, the best first: under it, over it, beside
// it and between.
var round = [][2]float64{{0, 1}, {0, -1}, {1, 0}, {-1, 0}, {0.8, 0.6}, {-0.8, 0.6}, {0.8, -0.6}, {-0.8, -0.6}}

// placesOf are the places at which a wheel's name may stand, the best first.
func (d *picture) placesOf(w *drawing.Wheel, size float64) []label {
	name := message.Capital(w.Label)
	words := strings.Fields(name)
	lines := [][]string{{name}}
	if two := halves(words); two != nil {
		lines = append(lines, two)
	}
	if len(words) > 2 {
		lines = append(lines, words)
	}
	var in, out []label
	for _, ls := range lines {
		more := float64(len(ls)-1) * leading * size
		l := label{lines: ls, x: w.X, y: w.Y + math.Min(w.R*0.62, 3*size), size: size}
		if more > 0 {
			l.y = math.Min(l.y, w.Y+math.Min(7, w.R*0.22)+1.1*size)
		}
		if l.within(w) {
			in = append(in, l)
		}
	}
	for ring := range rings {
		for _, ls := range lines {
			l := label{lines: ls, size: size, far: ring > 0}
			x0, y0, x1, y1 := l.box()
			away := w.R + (0.5+1.2*float64(ring))*size
			for _, way := range round {
				// Its own middle lies where its nearer edge is as far away as it should be.
				l.x = w.X + way[0]*away + side(way[0])*(x1-x0)/2 - (x0+x1)/2
				l.y = w.Y + way[1]*away + side(way[1])*(y1-y0)/2 - (y0+y1)/2
				out = append(out, l)
			}
		}
	}
	return append(in, out...)
}

func side(v float64) float64 {
	switch {
	case v > 0:
		return 1
	case v < 0:
		return -1
	}
	return 0
}

// lead draws a line from a name to its wheel.
func (d *picture) lead(l *label, w *drawing.Wheel) {
	x0, y0, x1, y1 := l.box()
	x, y := min(max(w.X, x0), x1), min(max(w.Y, y0), y1)
	dx, dy := x-w.X, y-w.Y
	dist := math.Max(1, math.Hypot(dx, dy))
	d.put(`<path d="M%s %sL%s %s" stroke="%s" stroke-width="%s"/>`, n(w.X+dx/dist*w.R), n(w.Y+dy/dist*w.R), n(x), n(y), quiet, n(0.8*d.unit))
}

func (d *picture) write(l *label) {
	d.put(`<text text-anchor="middle" font-family="Archivo Variable, Archivo, Arial, sans-serif" font-size="%s" font-weight="600" fill="%s" stroke="%s" stroke-width="%s" paint-order="stroke" stroke-linejoin="round">`, n(l.size), ink, white, n(3*d.unit))
	for i, s := range l.lines {
		d.put(`<tspan x="%s" y="%s">%s</tspan>`, n(l.x), n(l.y+float64(i)*leading*l.size), text(s))
	}
	d.put(`</text>`)
}

// halves breaks words into two lines of about the same length, nil for one word.
func halves(words []string) []string {
	var out []string
	best := 0
	for i := 1; i < len(words); i++ {
		l, r := strings.Join(words[:i], " "), strings.Join(words[i:], " ")
		if long := max(len([]rune(l)), len([]rune(r))); out == nil || long < best {
			out, best = []string{l, r}, long
		}
	}
	return out
}
