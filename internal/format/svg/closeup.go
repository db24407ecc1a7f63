package svg

import (
	"math"
	"slices"

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

// named writes the names of the wheels a close-up is about, below the middle of
// each.
func (d *picture) named() {
	for w := range d.shown() {
		if !slices.Contains(d.o.Focus, engine.WheelID(w.ID)) {
			continue
		}
		size := 13 * d.unit
		y := w.Y + math.Min(w.R*0.62, 3*size)
		if float64(len([]rune(w.Label)))*letter*size > 2.3*w.R {
			y = w.Y + w.R + 1.5*size
		}
		d.put(`<text x="%s" y="%s" text-anchor="middle" font-family="Archivo Variable, Archivo, Arial, sans-serif" font-size="%s" font-weight="600" fill="%s" stroke="%s" stroke-width="%s" paint-order="stroke" stroke-linejoin="round">%s</text>`,
			n(w.X), n(y), n(size), ink, white, n(3*d.unit), text(step.Capital(w.Label)))
	}
}
