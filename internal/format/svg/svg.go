// Package svg writes the drive of an engine as a picture of its own: the sheet's
// geometry in millimetres, in the state of one step of a run, with or without
// labels. The file needs nothing else: its colours are written out and its type
// falls back to any sans serif.
package svg

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/route"
)

// The inks of the drawing, as docs and screens use them.
const (
	ink     = "#131c26"
	quiet   = "#4a5865"
	rule    = "#cfd7d8"
	marking = "#23409a"
	wash    = "#e4e9f7"
	paint   = "#f0b90b"
	white   = "#ffffff"
)

// Options choose what is drawn.
type Options struct {
	// State is the engine at one moment; nil draws the timing position with
	// everything fitted.
	State *bench.State
	// Labels writes names and teeth beside the wheels.
	Labels bool
	// Title is what a screen reader says; the code when empty.
	Title string
}

// ErrEmpty is the error of drawing a sheet without wheels.
var ErrEmpty = errors.New("the sheet has no wheel to draw yet")

// Draw writes the drive of a sheet.
func Draw(x *engine.Index, o Options) ([]byte, error) {
	if len(x.Sheet.Wheels) == 0 {
		return nil, ErrEmpty
	}
	d := &drawing{x: x, o: o}
	d.measure()
	if math.IsInf(d.left, 1) {
		return nil, ErrEmpty
	}
	before, after := 16.0, 16.0
	if o.Labels {
		before, after = d.typeSize()
	}
	w, h := d.right-d.left+before+after, d.top-d.bottom+52
	title := o.Title
	if title == "" {
		title = "The drive of " + x.Sheet.Code
	}
	d.put(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="%s %s %s %s" width="%smm" height="%smm" role="img">`, n(d.left-before), n(-d.top-26), n(w), n(h), n(w), n(h))
	d.put(`<title>%s</title>`, text(title))
	d.put(`<defs><pattern id="held" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width="7" height="7" fill="%s"/><rect width="2.6" height="7" fill="%s"/></pattern></defs>`, wash, marking)
	d.wheels(func(w *engine.Wheel) bool { return w.Mount == engine.Rail })
	d.wheels(func(w *engine.Wheel) bool { return w.Mount != engine.Rail })
	d.loops()
	d.marks()
	d.direction()
	if o.Labels {
		d.labels()
	}
	d.put(`</svg>`)
	return d.b.Bytes(), nil
}

type drawing struct {
	b                        bytes.Buffer
	x                        *engine.Index
	o                        Options
	left, right, top, bottom float64
	// size is that of the labels' type, mm.
	size float64
}

// typeShare is the size of type against the width of the whole drawing: eleven
// pixels of four hundred. letter is a letter's width against its size.
const (
	typeShare = 11.0 / 400
	letter    = 0.56
)

// typeSize sets the size of type so that it can be read at the width of half a
// page, and gives the room that names need at either side. The room grows with
// the type and the type with the whole width: width = drive + letters × size,
// size = width × share.
func (d *drawing) typeSize() (left, right float64) {
	l, r := 8, 8
	for _, w := range d.order() {
		if w.Mount == engine.Rail {
			continue
		}
		c := max(len([]rune(w.Name)), 12)
		if d.onLeft(w) {
			l = max(l, c)
		} else {
			r = max(r, c)
		}
	}
	const gap = 16
	drive := d.right - d.left + 2*gap
	d.size = drive * typeShare / math.Max(0.3, 1-float64(l+r)*letter*typeShare)
	return gap + float64(l)*letter*d.size, gap + float64(r)*letter*d.size
}

// onLeft reports on which side of the drive a wheel is named.
func (d *drawing) onLeft(w *engine.Wheel) bool {
	return w.X < (d.left+d.right)/2 && w.Shaft != engine.CrankID
}

func (d *drawing) put(format string, args ...any) {
	fmt.Fprintf(&d.b, format+"\n", args...)
}

// n is a figure of the drawing: hundredths of a millimetre, y turned over by
// those who call it.
func n(v float64) string {
	s := fmt.Sprintf("%.2f", v)
	s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	if s == "-0" {
		return "0"
	}
	return s
}

func text(s string) string {
	var b bytes.Buffer
	_ = xml.EscapeText(&b, []byte(s))
	return b.String()
}

// radius of a wheel as it is drawn.
func (d *drawing) radius(w *engine.Wheel) float64 {
	for i := range d.x.Sheet.Loops {
		for _, s := range d.x.Sheet.Loops[i].Route {
			if s.Wheel == w.ID && w.Teeth > 0 {
				return route.PitchRadius(w, &d.x.Sheet.Loops[i])
			}
		}
	}
	for i := range d.x.Sheet.Gears {
		if g := &d.x.Sheet.Gears[i]; w.Teeth > 0 && (g.Driver == w.ID || g.Driven == w.ID) {
			return g.Module * float64(w.Teeth) / 2
		}
	}
	return w.Diameter / 2
}

// hidden are the wheels of gear pairs inside a casing.
func (d *drawing) hidden(w *engine.Wheel) bool {
	for i := range d.x.Sheet.Loops {
		if slices.ContainsFunc(d.x.Sheet.Loops[i].Route, func(s engine.Stop) bool { return s.Wheel == w.ID }) {
			return false
		}
	}
	return slices.ContainsFunc(d.x.Sheet.Gears, func(g engine.Gear) bool { return g.Inside && (g.Driver == w.ID || g.Driven == w.ID) })
}

func (d *drawing) measure() {
	d.left, d.bottom, d.right, d.top = math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for i := range d.x.Sheet.Wheels {
		w := &d.x.Sheet.Wheels[i]
		if w.Mount == engine.Rail || d.hidden(w) {
			continue
		}
		r := d.radius(w) + 4
		d.left, d.right = math.Min(d.left, w.X-r), math.Max(d.right, w.X+r)
		d.bottom, d.top = math.Min(d.bottom, w.Y-r), math.Max(d.top, w.Y+r)
	}
}

// held reports whether a lock that is in and met holds a shaft.
func (d *drawing) held(id engine.ShaftID) bool {
	if d.o.State == nil || id == "" {
		return false
	}
	for i := range d.x.Sheet.Locks {
		l, st := &d.x.Sheet.Locks[i], d.o.State.Locks[i]
		if st.In && l.Kind.ForPosition() && (l.Kind != engine.StopLock || st.Met) && slices.Contains(l.Holds, id) {
			return true
		}
	}
	return false
}

// angle of a wheel's shaft, degrees clockwise as drawn.
func (d *drawing) angle(w *engine.Wheel) float64 {
	i := d.x.ShaftAt(w.Shaft)
	if d.o.State == nil || i < 0 {
		return 0
	}
	if d.x.Sheet.Running == engine.Clockwise {
		return d.o.State.Shafts[i]
	}
	return -d.o.State.Shafts[i]
}

// order draws large wheels first, so that none hides a smaller one.
func (d *drawing) order() []*engine.Wheel {
	var out []*engine.Wheel
	for i := range d.x.Sheet.Wheels {
		if !d.hidden(&d.x.Sheet.Wheels[i]) {
			out = append(out, &d.x.Sheet.Wheels[i])
		}
	}
	slices.SortStableFunc(out, func(a, b *engine.Wheel) int {
		switch ra, rb := d.radius(a), d.radius(b); {
		case ra > rb:
			return -1
		case ra < rb:
			return 1
		}
		return 0
	})
	return out
}

func (d *drawing) wheels(which func(*engine.Wheel) bool) {
	for _, w := range d.order() {
		if !which(w) {
			continue
		}
		r := d.radius(w)
		if w.Mount == engine.Rail {
			d.rail(w, r)
			continue
		}
		free := d.o.State != nil && d.o.State.Free[d.x.WheelAt(w.ID)]
		fill := white
		if d.held(w.Shaft) && !free {
			fill = "url(#held)"
		}
		d.put(`<g transform="translate(%s %s) rotate(%s)">`, n(w.X), n(-w.Y), n(d.angle(w)))
		d.put(`<circle r="%s" fill="%s" stroke="%s" stroke-width="1.1"/>`, n(r-1.5), fill, ink)
		if w.Teeth > 0 {
			tooth := math.Pi * (r - 1) / float64(w.Teeth)
			d.put(`<circle r="%s" fill="none" stroke="%s" stroke-width="2" stroke-dasharray="%.3f"/>`, n(r-1), ink, tooth)
		}
		if free {
			d.put(`<circle r="%s" fill="none" stroke="%s" stroke-dasharray="3 3"/>`, n(r*0.7), ink)
		}
		d.put(`<circle r="%s" fill="%s" stroke="%s"/></g>`, n(math.Min(7, r*0.22)), white, ink)
	}
}

// rail draws only the arc a loop lies on.
func (d *drawing) rail(w *engine.Wheel, r float64) {
	for i := range d.x.Sheet.Loops {
		p, err := route.Of(d.x, &d.x.Sheet.Loops[i])
		if err != nil {
			continue
		}
		for _, a := range p.Arcs {
			if a.Wheel != w.ID {
				continue
			}
			a.Radius = r - 4
			a.Start -= math.Copysign(0.06, a.Sweep)
			a.Sweep += math.Copysign(0.12, a.Sweep)
			d.put(`<path d="%s" fill="none" stroke="%s" stroke-width="7" stroke-linecap="round"/>`, arc(a), rule)
		}
	}
}

// arc is an arc as a path.
func arc(a route.Arc) string {
	at := func(t float64) (float64, float64) {
		return a.Centre.X + a.Radius*math.Cos(t), -a.Centre.Y - a.Radius*math.Sin(t)
	}
	x1, y1 := at(a.Start)
	x2, y2 := at(a.Start + a.Sweep)
	large, sweep := 0, 1
	if math.Abs(a.Sweep) > math.Pi {
		large = 1
	}
	if a.Sweep > 0 {
		sweep = 0
	}
	return fmt.Sprintf("M%s %sA%s %s 0 %d %d %s %s", n(x1), n(y1), n(a.Radius), n(a.Radius), large, sweep, n(x2), n(y2))
}

func (d *drawing) loops() {
	for i := range d.x.Sheet.Loops {
		l := &d.x.Sheet.Loops[i]
		p, err := route.Of(d.x, l)
		if err != nil {
			continue
		}
		var path strings.Builder
		for k, a := range p.Arcs {
			piece := arc(a)
			if k > 0 {
				piece = "L" + piece[1:]
			}
			path.WriteString(piece)
		}
		path.WriteString("Z")
		if d.o.State != nil && !d.o.State.Loops[i].On {
			d.put(`<path d="%s" fill="none" stroke="%s" stroke-width="1" stroke-dasharray="2 5"/>`, path.String(), quiet)
			continue
		}
		dash := "1.4 2.8"
		if l.Kind == engine.Chain {
			dash = "4.5 2.5"
		}
		d.put(`<path d="%s" fill="none" stroke="%s" stroke-width="5" stroke-linejoin="round"/>`, path.String(), ink)
		d.put(`<path d="%s" fill="none" stroke="%s" stroke-width="1.5" stroke-dasharray="%s"/>`, path.String(), white, dash)
	}
}

func (d *drawing) marks() {
	for i := range d.x.Sheet.Marks {
		m := &d.x.Sheet.Marks[i]
		w := d.x.Wheel(m.Wheel)
		if w == nil || m.Kind != engine.TimingMark || d.hidden(w) {
			continue
		}
		r := d.radius(w)
		turn := m.Clock + d.angle(w) - m.At*sign(d.x.Sheet.Running)
		d.put(`<g transform="translate(%s %s)"><rect x="-2" y="%s" width="4" height="%s" fill="%s" stroke="#7a5d00" stroke-width="0.4" transform="rotate(%s)"/>`, n(w.X), n(-w.Y), n(-r+3), n(math.Min(10, r*0.35)), paint, n(turn))
		d.put(`<path d="M0 %sl-3.6 -7.5h7.2z" fill="%s" transform="rotate(%s)"/></g>`, n(-r-5), ink, n(m.Clock))
	}
}

func sign(w engine.Way) float64 {
	if w == engine.Clockwise {
		return 1
	}
	return -1
}

// direction is the arrow of the running direction below the crank.
func (d *drawing) direction() {
	for i := range d.x.Sheet.Wheels {
		w := &d.x.Sheet.Wheels[i]
		if w.Shaft != engine.CrankID || w.Teeth == 0 {
			continue
		}
		r, flip := d.radius(w)+12, sign(d.x.Sheet.Running)
		d.put(`<g transform="translate(%s %s) scale(%s 1)" fill="none" stroke="%s" stroke-width="1.3"><path d="M%s %sA%s %s 0 0 1 %s %s"/><path d="M%s %sl6 -3.2v6.4z" fill="%s" stroke="none"/></g>`,
			n(w.X), n(-w.Y), n(flip), ink, n(r*0.42), n(r*0.91), n(r), n(r), n(-r*0.42), n(r*0.91), n(-r*0.42-5), n(r*0.91-1.6), ink)
		return
	}
}

func capital(s string) string {
	r := []rune(s)
	if len(r) == 0 {
		return s
	}
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}

func (d *drawing) labels() {
	last := map[bool]float64{}
	ws := d.order()
	slices.SortStableFunc(ws, func(a, b *engine.Wheel) int { return int(math.Copysign(1, b.Y-a.Y)) })
	for _, w := range ws {
		if w.Mount == engine.Rail {
			continue
		}
		left := d.onLeft(w)
		x, anchor := d.right+10, "start"
		if left {
			x, anchor = d.left-10, "end"
		}
		y := -w.Y
		if v, ok := last[left]; ok && y < v+2.5*d.size {
			y = v + 2.5*d.size
		}
		last[left] = y
		under := fmt.Sprintf("%d teeth", w.Teeth)
		if w.Teeth == 0 {
			under = fmt.Sprintf("plain, %s mm", n(w.Diameter))
		}
		dx, dy := x-w.X, y-d.size/3+w.Y
		dist, r := math.Max(1, math.Hypot(dx, dy)), d.radius(w)+5
		d.put(`<g font-family="Archivo Variable, Archivo, Arial, sans-serif" text-anchor="%s"><path d="M%s %sL%s %s" stroke="%s" stroke-width="0.6"/><text x="%s" y="%s" font-size="%s" font-weight="600" fill="%s">%s</text><text x="%s" y="%s" font-size="%s" fill="%s">%s</text></g>`,
			anchor, n(x), n(y-d.size/3), n(w.X+dx/dist*r), n(-w.Y+dy/dist*r), quiet, n(x), n(y), n(d.size), ink, text(capital(w.Name)), n(x), n(y+1.15*d.size), n(0.92*d.size), quiet, under)
	}
}
