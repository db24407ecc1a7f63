// Package svg writes the drive of an engine as a picture of its own: the sheet's
// geometry in millimetres, in the state of one step of a run, with or without
// labels. The file needs nothing else: its colours are written out and its type
// falls back to any sans serif.
package svg

import (
	"bytes"
	"cmp"
	"encoding/xml"
	"errors"
	"fmt"
	"iter"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/drawing"
	"inklatch/internal/core/message"
	"inklatch/internal/core/virtual"
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
	State *virtual.State
	// Labels writes names and teeth beside the wheels.
	Labels bool
	// Title is what a screen reader says; the code when empty.
	Title string
	// Focus are the wheels that a close-up shows, each with its name; the whole drive
	// when empty. Wheels that are not drawn are left out.
	Focus []engine.WheelID
	// ID tells the picture's hatch from those of others on one page.
	ID string
}

// ErrEmpty is the error of drawing a sheet without wheels.
var ErrEmpty = errors.New("the sheet has no wheel to draw yet")

// Draw writes the drive of a sheet.
func Draw(x *engine.Index, o Options) ([]byte, error) {
	if len(x.Sheet.Wheels) == 0 {
		return nil, ErrEmpty
	}
	d := &picture{x: x, o: o, d: drawing.Of(x), hatch: "held" + o.ID}
	if d.d.Empty() {
		return nil, ErrEmpty
	}
	before, after := 16.0, 16.0
	if o.Labels {
		before, after = d.typeSize()
	}
	left, top := d.d.Box[0]-margin, d.d.Box[1]-above
	w, h := d.d.Box[2]+2*margin+before+after, d.d.Box[3]+above+below
	if more := d.names() - h; more > 0 { // a flat drive with many names on one side
		top, h = top-more/2, h+more
	}
	d.low = top + h
	if l, t, wide, high, ok := d.near(); ok {
		left, top, w, h, before = l, t, wide, high, 0
		d.low = top + h
	}
	d.unit = w / 420
	if len(o.Focus) > 0 {
		d.unit = w / 210
	}
	title := o.Title
	if title == "" {
		title = "The drive of " + x.Sheet.Code
	}
	d.put(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="%s %s %s %s" width="%smm" height="%smm" role="img">`, n(left-before), n(top), n(w), n(h), n(w), n(h))
	d.put(`<title>%s</title>`, text(title))
	// Locks are hatched the other way than the wheels they hold, so that they stand out.
	for _, p := range []struct {
		id    string
		turn  int
		scale float64
	}{{d.hatch, 45, d.unit}, {d.hatch + "-lock", -45, d.unit}, {d.hatch + "-1", -45, 1}} {
		d.put(`<defs><pattern id="%s" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(%d) scale(%s)"><rect width="6" height="6" fill="%s"/><rect width="2.3" height="6" fill="%s"/></pattern></defs>`, p.id, p.turn, n(p.scale), wash, marking)
	}
	d.wheels()
	d.loops()
	d.marks()
	d.direction()
	d.locks()
	if len(o.Focus) > 0 {
		d.named()
	}
	if o.Labels {
		d.labels()
	}
	d.put(`</svg>`)
	return d.b.Bytes(), nil
}

// margin is the room round the wheels, above and below the room over and under it,
// mm.
const (
	margin = 4
	above  = 30
	below  = 30
)

type picture struct {
	b bytes.Buffer
	x *engine.Index
	o Options
	d *drawing.Drawing
	// size is that of the labels' type, low the lower edge of the picture, mm.
	size, low float64
	// unit is the size of a pixel of the page, mm: figures of locks and the names in a
	// close-up keep their size on it. hatch is the id of what fills locked wheels.
	unit  float64
	hatch string
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
func (d *picture) typeSize() (left, right float64) {
	l, r := 8, 8
	for w := range d.shown() {
		c := max(len([]rune(w.Label)), 12)
		if w.Side == drawing.Left {
			l = max(l, c)
		} else {
			r = max(r, c)
		}
	}
	const gap = 16
	drive := d.d.Box[2] + 2*margin + 2*gap
	d.size = drive * typeShare / math.Max(0.3, 1-float64(l+r)*letter*typeShare)
	return gap + float64(l)*letter*d.size, gap + float64(r)*letter*d.size
}

// shown are the wheels that are drawn as wheels.
func (d *picture) shown() iter.Seq[*drawing.Wheel] {
	return func(yield func(*drawing.Wheel) bool) {
		for i := range d.d.Wheels {
			if w := &d.d.Wheels[i]; !w.Hidden && w.Mount != string(engine.Rail) && !yield(w) {
				return
			}
		}
	}
}

func (d *picture) put(format string, args ...any) {
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

// held reports whether a lock that is in and met holds a shaft.
func (d *picture) held(shaft string) bool {
	id := engine.ShaftID(shaft)
	if d.o.State == nil || id == "" {
		return false
	}
	for i := range d.x.Sheet.Locks {
		l, st := &d.x.Sheet.Locks[i], d.o.State.Locks[i]
		if l.Kind.ForPosition() && st.Holds(l.Kind) && slices.Contains(l.Holds, id) {
			return true
		}
	}
	return false
}

// angle of a wheel's shaft, degrees clockwise as drawn.
func (d *picture) angle(w *drawing.Wheel) float64 {
	i := d.x.ShaftAt(engine.ShaftID(w.Shaft))
	if d.o.State == nil || i < 0 {
		return 0
	}
	if d.x.Sheet.Running == engine.Clockwise {
		return d.o.State.Shafts[i]
	}
	return -d.o.State.Shafts[i]
}

func (d *picture) wheels() {
	for i := range d.d.Wheels {
		if w := &d.d.Wheels[i]; w.Rail != "" {
			d.put(`<path d="%s" fill="none" stroke="%s" stroke-width="9" stroke-linecap="round"/>`, w.Rail, rule)
		}
	}
	for w := range d.shown() {
		free := d.o.State != nil && d.o.State.Free[d.x.WheelAt(engine.WheelID(w.ID))]
		fill := white
		if d.held(w.Shaft) && !free {
			fill = "url(#" + d.hatch + ")"
		}
		d.put(`<g transform="translate(%s %s) rotate(%s)">`, n(w.X), n(w.Y), n(d.angle(w)))
		d.put(`<circle r="%s" fill="%s" stroke="%s" stroke-width="1.1"/>`, n(w.R-1.5), fill, ink)
		if w.Teeth > 0 {
			tooth := math.Pi * (w.R - 1) / float64(w.Teeth)
			d.put(`<circle r="%s" fill="none" stroke="%s" stroke-width="2" stroke-dasharray="%.3f"/>`, n(w.R-1), ink, tooth)
		}
		if free {
			d.put(`<circle r="%s" fill="none" stroke="%s" stroke-dasharray="3 3"/>`, n(w.R*0.7), ink)
		}
		d.put(`<circle r="%s" fill="%s" stroke="%s"/></g>`, n(math.Min(7, w.R*0.22)), white, ink)
	}
}

func (d *picture) loops() {
	for i := range d.d.Loops {
		l := &d.d.Loops[i]
		if l.Path == "" {
			continue
		}
		if d.o.State != nil && !d.o.State.Loops[i].On {
			d.put(`<path d="%s" fill="none" stroke="%s" stroke-width="1" stroke-dasharray="2 5"/>`, l.Path, quiet)
			continue
		}
		way := l.Path
		if d.o.State != nil && d.o.State.SlackOn(d.x, i) {
			way = l.Slack
		}
		dash := "1.4 2.8"
		if l.Kind == string(engine.Chain) {
			dash = "4.5 2.5"
		}
		d.put(`<path d="%s" fill="none" stroke="%s" stroke-width="5" stroke-linejoin="round"/>`, way, ink)
		d.put(`<path d="%s" fill="none" stroke="%s" stroke-width="1.5" stroke-dasharray="%s"/>`, way, white, dash)
	}
}

func (d *picture) marks() {
	for w := range d.shown() {
		for _, m := range w.Marks {
			if m.Kind != string(engine.TimingMark) {
				continue
			}
			d.put(`<g transform="translate(%s %s)"><rect x="-2" y="%s" width="4" height="%s" fill="%s" stroke="#7a5d00" stroke-width="0.4" transform="rotate(%s)"/>`, n(w.X), n(w.Y), n(-w.R+3), n(math.Min(10, w.R*0.35)), paint, n(m.Rest+d.angle(w)))
			d.put(`<path d="M0 %sl-3.6 -7.5h7.2z" fill="%s" transform="rotate(%s)"/></g>`, n(-w.R-5), ink, n(m.Clock))
		}
	}
}

func sign(w engine.Way) float64 {
	if w == engine.Clockwise {
		return 1
	}
	return -1
}

// direction is the arrow of the running direction below the crank.
func (d *picture) direction() {
	for w := range d.shown() {
		if w.Shaft != string(engine.CrankID) || w.Teeth == 0 {
			continue
		}
		r, flip := w.R+12, sign(d.x.Sheet.Running)
		d.put(`<g transform="translate(%s %s) scale(%s 1)" fill="none" stroke="%s" stroke-width="1.3"><path d="M%s %sA%s %s 0 0 1 %s %s"/><path d="M%s %sl6 -3.2v6.4z" fill="%s" stroke="none"/></g>`,
			n(w.X), n(w.Y), n(flip), ink, n(r*0.42), n(r*0.91), n(r), n(r), n(-r*0.42), n(r*0.91), n(-r*0.42-5), n(r*0.91-1.6), ink)
		return
	}
}

// apart is the distance of one name from the next, in sizes of their type.
const apart = 2.5

// names is the height that the names of the fuller side need, mm.
func (d *picture) names() float64 {
	if !d.o.Labels {
		return 0
	}
	n := map[drawing.Side]int{}
	for w := range d.shown() {
		n[w.Side]++
	}
	return (float64(max(n[drawing.Left], n[drawing.Right]))*apart + 1) * d.size
}

// places are where the names of a side stand, moved apart from the top down where
// they would meet, and back up where they would leave the picture.
func (d *picture) places(ws []*drawing.Wheel) map[*drawing.Wheel]float64 {
	out := map[*drawing.Wheel]float64{}
	apart := apart * d.size
	for _, side := range []drawing.Side{drawing.Left, drawing.Right} {
		var of []*drawing.Wheel
		for _, w := range ws {
			if w.Side == side {
				of = append(of, w)
			}
		}
		for i, w := range of {
			out[w] = w.Y
			if i > 0 {
				out[w] = math.Max(w.Y, out[of[i-1]]+apart)
			}
		}
		floor := d.low - 1.5*d.size
		for _, w := range slices.Backward(of) {
			out[w] = math.Min(out[w], floor)
			floor = out[w] - apart
		}
	}
	return out
}

func (d *picture) labels() {
	ws := slices.SortedStableFunc(d.shown(), func(a, b *drawing.Wheel) int { return cmp.Compare(a.Y, b.Y) })
	places := d.places(ws)
	for _, w := range ws {
		x, anchor := d.d.Box[0]+d.d.Box[2]+margin+10, "start"
		if w.Side == drawing.Left {
			x, anchor = d.d.Box[0]-margin-10, "end"
		}
		y := places[w]
		under := fmt.Sprintf("%d teeth", w.Teeth)
		if w.Teeth == 0 {
			under = fmt.Sprintf("plain, %s mm", n(2*w.R))
		}
		dx, dy := x-w.X, y-d.size/3-w.Y
		dist, r := math.Max(1, math.Hypot(dx, dy)), w.R+5
		d.put(`<g font-family="Archivo Variable, Archivo, Arial, sans-serif" text-anchor="%s"><path d="M%s %sL%s %s" stroke="%s" stroke-width="0.6"/><text x="%s" y="%s" font-size="%s" font-weight="600" fill="%s">%s</text><text x="%s" y="%s" font-size="%s" fill="%s">%s</text></g>`,
			anchor, n(x-math.Copysign(d.size/3, dx)), n(y-d.size/3), n(w.X+dx/dist*r), n(w.Y+dy/dist*r), quiet, n(x), n(y), n(d.size), ink, text(message.Capital(w.Label)), n(x), n(y+1.15*d.size), n(0.92*d.size), quiet, under)
	}
}
