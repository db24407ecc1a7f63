package svg

import (
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/drawing"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/step"
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

// named writes the names of the wheels a close-up is about, below the middle of each:
// in one line where the wheel is wide enough there, in two where it is not, and below
// the wheel where neither goes in.
func (d *picture) named() {
	for w := range d.shown() {
		if !slices.Contains(d.o.Focus, engine.WheelID(w.ID)) {
			continue
		}
		size := 13 * d.unit
		lines, y := d.inside(w, size)
		d.put(`<text text-anchor="middle" font-family="Archivo Variable, Archivo, Arial, sans-serif" font-size="%s" font-weight="600" fill="%s" stroke="%s" stroke-width="%s" paint-order="stroke" stroke-linejoin="round">`, n(size), ink, white, n(3*d.unit))
		for i, l := range lines {
			d.put(`<tspan x="%s" y="%s">%s</tspan>`, n(w.X), n(y+float64(i)*1.15*size), text(l))
		}
		d.put(`</text>`)
	}
}

// inside breaks a wheel's name so that it stands in the wheel, and says where its first
// line does, mm. The belt lies over the rim, so a tooth's height of it is left free.
func (d *picture) inside(w *drawing.Wheel, size float64) ([]string, float64) {
	name := step.Capital(w.Label)
	y := w.Y + math.Min(w.R*0.62, 3*size)
	words := strings.Fields(name)
	for _, lines := range [][]string{{name}, halves(words)} {
		first := y
		if len(lines) > 1 {
			first = math.Min(y, w.Y+math.Min(7, w.R*0.22)+1.1*size)
		}
		fits := len(lines) > 0
		for i, l := range lines {
			low := first + float64(i)*1.15*size + 0.2*size - w.Y // the lower edge of a line, where the wheel is narrower
			half := w.R - 4
			fits = fits && low < half && float64(len([]rune(l)))*letter*size <= 2*math.Sqrt(half*half-low*low)
		}
		if fits {
			return lines, first
		}
	}
	return []string{name}, w.Y + w.R + 1.5*size
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
