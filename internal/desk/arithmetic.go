package desk

import (
	"context"
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/engine/resolution"
	"inklatch/internal/core/engine/tension"
	"inklatch/internal/core/proof/turns"
	"inklatch/internal/core/unit"
	"inklatch/internal/format/svg"
)

// Bench arithmetic: the sums of the trade, worked out by the core.

func bad(field, title string) *Problem { return &Problem{Status: 422, Title: title, Field: field} }

// Rim turns degrees into lengths round and across a rim, or a length into
// degrees.
type Rim struct {
	Diameter float64  `json:"diameter"`
	Degrees  *float64 `json:"degrees,omitempty"`
	MM       *float64 `json:"mm,omitempty"`
}

// RimAnswer holds all of it: degrees, the length round the rim and straight
// across, and crank degrees of a cam's wheel.
type RimAnswer struct {
	Degrees float64 `json:"degrees"`
	Arc     float64 `json:"arc"`
	Chord   float64 `json:"chord"`
	// PerDegree is the length round the rim of one degree.
	PerDegree float64 `json:"perDegree"`
}

// RimOf answers a Rim.
func RimOf(r Rim) (*RimAnswer, error) {
	if !(r.Diameter > 0) || r.Diameter > 5000 {
		return nil, bad("diameter", "A rim has a diameter between 0 and 5000 mm.")
	}
	radius := r.Diameter / 2
	deg := 0.0
	switch {
	case r.Degrees != nil:
		deg = *r.Degrees
	case r.MM != nil:
		deg = float64(resolution.ArcAngle(unit.Length(*r.MM), unit.Length(radius)))
	default:
		return nil, bad("degrees", "Give degrees or millimetres.")
	}
	if math.Abs(deg) > 360 || math.IsNaN(deg) {
		return nil, bad("degrees", "That is more than once round the rim.")
	}
	return &RimAnswer{deg, float64(resolution.Arc(unit.Angle(deg), unit.Length(radius))), float64(resolution.Chord(unit.Angle(deg), unit.Length(radius))), float64(resolution.Arc(1, unit.Length(radius)))}, nil
}

// ToothAsk asks what teeth of a wheel and the play of a tool are worth.
type ToothAsk struct {
	Teeth int `json:"teeth"`
	// Driver is the teeth of the crank wheel that drives it.
	Driver int `json:"driver"`
	Count  int `json:"count"`
	// PlayMM at Radius is a tool's play either side.
	PlayMM float64 `json:"playMM"`
	Radius float64 `json:"radius"`
}

// ToothAnswer is the error of the teeth and what the tool shows of it.
type ToothAnswer struct {
	Ratio   string            `json:"ratio"`
	OfShaft float64           `json:"ofShaft"`
	OfCrank float64           `json:"ofCrank"`
	Play    float64           `json:"play"`
	Least   float64           `json:"least"`
	Answer  resolution.Answer `json:"answer"`
	// Every is the number of crank turns between two homes of the wheel.
	Every int64 `json:"every"`
}

// ToothOf answers a ToothAsk.
func ToothOf(a ToothAsk) (*ToothAnswer, error) {
	switch {
	case a.Teeth < 1 || a.Teeth > 1000:
		return nil, bad("teeth", "A wheel has between 1 and 1000 teeth.")
	case a.Driver < 1 || a.Driver > 1000:
		return nil, bad("driver", "The crank wheel has between 1 and 1000 teeth.")
	case a.Count < 1 || a.Count > a.Teeth:
		return nil, bad("count", "The error is at least one tooth and at most once round.")
	case a.PlayMM < 0 || a.Radius < 0 || a.PlayMM > 0 && a.Radius == 0:
		return nil, bad("radius", "The play is measured at a radius from the shaft’s centre.")
	}
	r := engine.NewRatio(int64(a.Driver), int64(a.Teeth))
	out := &ToothAnswer{Ratio: r.String(), OfShaft: 360 / float64(a.Teeth) * float64(a.Count), Every: r.HomeEvery(1)}
	out.OfCrank = out.OfShaft / r.Float()
	play := unit.Angle(0)
	if a.PlayMM > 0 {
		play = resolution.ArcAngle(unit.Length(a.PlayMM), unit.Length(a.Radius))
	}
	answer, least := resolution.WithPlay(unit.Angle(out.OfShaft), play)
	out.Play, out.Answer, out.Least = float64(play), answer, float64(least)
	return out, nil
}

// DropsAsk are two equal dial readings.
type DropsAsk struct {
	Stroke float64 `json:"stroke"`
	Rod    float64 `json:"rod"`
	Offset float64 `json:"offset"`
	Drop   float64 `json:"drop"`
	Before float64 `json:"before"`
	After  float64 `json:"after"`
	Dial   float64 `json:"dial"`
	Wheel  float64 `json:"wheel"`
}

// DropsAnswer is where top dead centre is, with the piston's travel to draw.
type DropsAnswer struct {
	Middle      float64 `json:"middle"`
	Top         float64 `json:"top"`
	Uncertainty float64 `json:"uncertainty"`
	Span        float64 `json:"span"`
	Want        float64 `json:"want"`
	Slope       float64 `json:"slope"`
	SlopeTop    float64 `json:"slopeTop"`
	// Fits is false where the span is not what the geometry gives.
	Fits bool `json:"fits"`
	// Degrees and Drops are the curve, crank degrees about top dead centre.
	Degrees []float64 `json:"degrees"`
	Drops   []float64 `json:"drops"`
	Methods []Method  `json:"methods"`
}

// Method is a way to find top dead centre and how near it comes.
type Method struct {
	Name     string  `json:"name"`
	Resolves float64 `json:"resolves"`
	Why      string  `json:"why"`
}

// DropsOf answers a DropsAsk.
func DropsOf(a DropsAsk) (*DropsAnswer, error) {
	g := piston.Gear{Stroke: a.Stroke, Rod: a.Rod, Offset: a.Offset}
	if err := g.Check(); err != nil {
		return nil, bad("rod", fullStop(err.Error()))
	}
	f, err := piston.EqualDrops{Gear: g, Drop: a.Drop, Before: a.Before, After: a.After, Dial: a.Dial, Wheel: a.Wheel}.Find()
	if err != nil {
		return nil, bad("drop", fullStop(err.Error()))
	}
	out := &DropsAnswer{Middle: f.Middle, Top: f.Top, Uncertainty: f.Uncertainty, Span: f.Span, Want: f.Want, Slope: f.Slope, SlopeTop: f.SlopeTop, Fits: f.Fits, Degrees: []float64{}, Drops: []float64{}}
	half := math.Min(90, math.Max(20, f.Want*0.8))
	for i := range 81 {
		deg := float64(g.Top()) + half*(float64(i)/40-1)
		out.Degrees = append(out.Degrees, deg)
		out.Drops = append(out.Drops, float64(g.Drop(unit.Angle(deg))))
	}
	for _, m := range piston.Methods {
		out.Methods = append(out.Methods, Method{m.Name, m.Resolves, m.Why})
	}
	return out, nil
}

// NoteAsk is a free run with what is known of it, and readings.
type NoteAsk struct {
	Length    float64   `json:"length"`
	Mass      float64   `json:"mass"`
	Frequency float64   `json:"frequency"`
	Tolerance float64   `json:"tolerance"`
	Readings  []float64 `json:"readings"`
}

// NoteAnswer is the tension the note stands for and the readings judged.
type NoteAnswer struct {
	Tension  float64         `json:"tension"`
	Least    float64         `json:"least"`
	Most     float64         `json:"most"`
	From     float64         `json:"from"`
	To       float64         `json:"to"`
	Judged   *tension.Judged `json:"judged,omitempty"`
	Tensions []float64       `json:"tensions"`
	// Short is set for a run so short that its stiffness tells.
	Short bool `json:"short"`
}

// NoteOf answers a NoteAsk.
func NoteOf(a NoteAsk) (*NoteAnswer, error) {
	r := tension.Run{Length: a.Length, Mass: a.Mass}
	switch {
	case r.Check() != nil || a.Length > 5000 || a.Mass > 5000:
		return nil, bad("length", "A run has a length in mm and a mass in g/m, both above zero.")
	case !(a.Frequency > 0) || a.Frequency > 5000:
		return nil, bad("frequency", "The tone is between 0 and 5000 Hz.")
	case !(a.Tolerance > 0) || a.Tolerance >= a.Frequency:
		return nil, bad("tolerance", "The tolerance is above zero and below the tone itself.")
	case len(a.Readings) > 200:
		return nil, bad("readings", "At most 200 readings are judged at once.")
	}
	w := tension.Window{Least: a.Frequency - a.Tolerance, Most: a.Frequency + a.Tolerance}
	out := &NoteAnswer{Tension: float64(r.Tension(unit.Frequency(a.Frequency))), Least: float64(r.Tension(unit.Frequency(w.Least))), Most: float64(r.Tension(unit.Frequency(w.Most))), From: w.Least, To: w.Most, Tensions: []float64{}, Short: a.Length < tension.ShortRun}
	if len(a.Readings) > 0 {
		j, err := tension.Judge(a.Readings, w)
		if err != nil {
			return nil, bad("readings", fullStop(err.Error()))
		}
		out.Judged = j
		for _, f := range a.Readings {
			out.Tensions = append(out.Tensions, float64(r.Tension(unit.Frequency(f))))
		}
	}
	return out, nil
}

// Turns is the turn plan of a revision, with its title block.
func (d *Drafts) Turns(ctx context.Context, u *User, id int64) (*Revision, *turns.Plan, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, nil, err
	}
	r, err := d.present(ctx, u, o)
	if err != nil {
		return nil, nil, err
	}
	return r, turns.Of(o.k.index, o.p, d.house()), nil
}

// Draw is the drive of a revision after a step as SVG; step −1 draws it as the
// sheet describes it.
func (d *Drafts) Draw(ctx context.Context, u *User, id int64, at int, labels bool) ([]byte, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	opt := svg.Options{Labels: labels}
	if at >= 0 {
		t := o.p.Trace(o.k.index, 0, o.p.First(o.k.index.Sheet))
		if at > len(t.Steps) {
			return nil, notFound("step")
		}
		opt.State = t.Before(at)
	}
	return drawn(svg.Draw(o.k.index, opt))
}

// DrawEngine is the drive of an engine sheet as SVG.
func (d *Drafts) DrawEngine(ctx context.Context, u *User, code string, number int, labels bool) ([]byte, error) {
	_, _, k, err := d.numbered(d.store.Reads(ctx), u, code, number)
	if err != nil {
		return nil, err
	}
	return drawn(svg.Draw(k.index, svg.Options{Labels: labels}))
}

func drawn(b []byte, err error) ([]byte, error) {
	if err != nil {
		return nil, &Problem{Status: 409, Title: fullStop(err.Error())}
	}
	return b, nil
}

// Car resolves a sheet for one engine: the values of its cases, settled.
func (d *Drafts) Car(ctx context.Context, u *User, code string, number int, car engine.Car) ([]Settled, error) {
	v, err := d.rooms.Engines.View(ctx, u, code, number)
	if err != nil {
		return nil, err
	}
	if _, err := v.Sheet.For(car); err != nil {
		return nil, bad("year", fullStop(err.Error()))
	}
	out := []Settled{}
	x := engine.NewIndex(v.Sheet)
	for i := range v.Sheet.Varies {
		w := &v.Sheet.Varies[i]
		for k := range w.Cases {
			if w.Cases[k].When.Covers(car) {
				out = append(out, Settled{ID: w.ID, Name: x.NameOf("varies", w.ID), When: w.Cases[k].When.String(), Case: k})
			}
		}
	}
	return out, nil
}

// Settled is one case that holds for a car.
type Settled struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	When string `json:"when"`
	Case int    `json:"case"`
}
