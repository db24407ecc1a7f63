// Package piston works out where pistons stand and what that shows: their height over
// the crank angle, top dead centre from two equal dial readings and what each way of
// finding it can resolve, and whether valves meet them when a cam is out of step.
// Lengths are millimetres. Of a Gear, angles are crank degrees after the crank pin
// stands in line with the bore's direction, in running direction; of a Train, degrees
// of the crank.
package piston

import (
	"errors"
	"fmt"
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/unit"
)

// Gear is a slider-crank: what turns the crank's turning into the piston's
// travel.
type Gear struct {
	// Stroke is twice the crank throw, Rod the length of the connecting rod
	// between centres.
	Stroke, Rod float64
	// Offset is how far the bore's axis (with the pin's) passes the crank's
	// centre, positive towards the side the crank pin goes to after top dead
	// centre.
	Offset float64
}

// GearOf is the slider-crank of a sheet; false when stroke or rod is not written.
func GearOf(s *engine.Sheet) (Gear, bool) {
	stroke, okS := s.Stroke.In(unit.Millimetre)
	rod, okR := s.Rod.In(unit.Millimetre)
	g := Gear{Stroke: stroke.Value, Rod: rod.Value}
	return g, okS == nil && okR == nil && g.Check() == nil
}

// Check says what is wrong with the lengths, nil when the mechanism can turn
// all the way round.
func (g Gear) Check() error {
	switch {
	case g.Stroke <= 0 || g.Rod <= 0:
		return errors.New("stroke and rod are lengths above zero")
	case g.Rod <= g.Stroke/2+math.Abs(g.Offset):
		return fmt.Errorf("a rod of %.6g mm is too short for a throw of %.6g mm and an offset of %.6g mm: the crank could not go round", g.Rod, g.Stroke/2, g.Offset)
	}
	return nil
}

// Height is the distance from the crank's centre to the piston pin along the
// bore: s = a·cos θ + √(l² − (a·sin θ − e)²), with throw a, rod l and offset e.
// For e = 0 it is equation 2.5 of Heywood, Internal Combustion Engine
// Fundamentals (1988), chapter 2.
func (g Gear) Height(deg unit.Angle) unit.Length {
	s, c := math.Sincos(float64(deg) * math.Pi / 180)
	a := g.Stroke / 2
	b := a*s - g.Offset
	return unit.Length(a*c + math.Sqrt(g.Rod*g.Rod-b*b))
}

// Slope is the change of Height for a degree of crank, mm/°.
func (g Gear) Slope(deg unit.Angle) unit.LengthPerAngle {
	s, c := math.Sincos(float64(deg) * math.Pi / 180)
	a := g.Stroke / 2
	b := a*s - g.Offset
	return unit.LengthPerAngle((-a*s - b*a*c/math.Sqrt(g.Rod*g.Rod-b*b)) * math.Pi / 180)
}

// Top is the angle at which the piston is highest: throw and rod in line, with
// sin θ = e/(a + l). It is 0 without an offset.
func (g Gear) Top() unit.Angle {
	return unit.Angle(math.Asin(g.Offset/(g.Stroke/2+g.Rod)) * 180 / math.Pi)
}

// Drop is how far the piston stands below its highest place.
func (g Gear) Drop(deg unit.Angle) unit.Length {
	return g.Height(g.Top()) - g.Height(deg)
}

// At is the two angles, before and after top dead centre, at which the piston
// stands drop below its highest place. It is an error when it never stands
// there.
func (g Gear) At(drop unit.Length) (before, after unit.Angle, err error) {
	if err := g.Check(); err != nil {
		return 0, 0, err
	}
	bottom := 180 + math.Asin(g.Offset/(g.Rod-g.Stroke/2))*180/math.Pi
	if drop <= 0 || drop >= g.Drop(unit.Angle(bottom)) {
		return 0, 0, fmt.Errorf("the piston moves %.3g mm; a drop of %.3g mm is outside", g.Drop(unit.Angle(bottom)), drop)
	}
	f := func(deg float64) float64 { return float64(g.Drop(unit.Angle(deg)) - drop) }
	return unit.Angle(route.Root(f, bottom-360, float64(g.Top()))), unit.Angle(route.Root(f, float64(g.Top()), bottom)), nil
}

// EqualDrops is a way of finding top dead centre: turn until the dial shows a
// drop before it, read the degree wheel, turn on until it shows the same drop
// after it, read again; the middle is top dead centre.
type EqualDrops struct {
	Gear
	// Drop is the drop read, mm. Before and After are the two readings of the
	// degree wheel, degrees.
	Drop          float64
	Before, After float64
	// Dial and Wheel are how finely the two can be read, either side: mm and
	// degrees.
	Dial, Wheel float64
}

// Found is what the readings say.
type Found struct {
	// Middle is the middle of the two readings, and Top where the degree wheel
	// reads at top dead centre: the middle less what an offset bore shifts it.
	Middle, Top float64
	// Uncertainty is the expanded uncertainty of the middle, degrees either side,
	// with k = 2: about 95 %. Dial and wheel are taken to read anywhere inside
	// their ± alike, so that each has its ± over √3 as standard uncertainty, and
	// the middle of two readings halves the variance: 2·√((w² + (d/s)²)/6) with
	// the slope s at the drop (JCGM 100:2008, 4.3.7 and 6.2.1, from memory).
	Uncertainty float64
	// Span is the angle between the readings, Want what the geometry gives for
	// this drop; far apart, the drop, the dial's seat or the sheet is wrong.
	Span, Want float64
	// Fits is false where the two differ by more than twice the uncertainty and
	// a degree, an assumption of ours.
	Fits bool
	// Slope is the piston's travel for a degree at the drop, mm/°; SlopeTop the
	// travel in the last degree before top dead centre, which a dial at top dead
	// centre would have to see.
	Slope, SlopeTop float64
}

// Find works the readings out.
func (e EqualDrops) Find() (*Found, error) {
	before, after, err := e.At(unit.Length(e.Drop))
	if err != nil {
		return nil, err
	}
	if e.Dial < 0 || e.Wheel < 0 {
		return nil, errors.New("a reading is never finer than zero")
	}
	slope := (math.Abs(float64(e.Slope(before))) + math.Abs(float64(e.Slope(after)))) / 2
	span := math.Mod(e.After-e.Before, 360)
	if span < 0 {
		span += 360
	}
	middle := e.Before + span/2
	shift := float64((before+after)/2 - e.Top())
	f := &Found{
		Middle: fold(middle), Top: fold(middle - shift),
		Uncertainty: 2 * math.Sqrt((e.Wheel*e.Wheel+e.Dial*e.Dial/slope/slope)/6),
		Span:        span, Want: float64(after - before), Slope: slope, SlopeTop: float64(e.Gear.Drop(e.Top() - 1)),
	}
	f.Fits = math.Abs(f.Span-f.Want) <= 2*f.Uncertainty+1
	return f, nil
}

// fold brings an angle to more than −180° and at most 180°.
func fold(a float64) float64 {
	a = math.Mod(a, 360)
	switch {
	case a > 180:
		return a - 360
	case a <= -180:
		return a + 360
	}
	return a
}

// Method is a way to know that the crank is at top dead centre.
type Method struct {
	Name string
	// Resolves is how near it comes, crank degrees either side.
	Resolves float64
	Why      string
}

// Methods are the ways, the best first. The ranking is common practice, no
// source; the figures are assumptions of ours.
var Methods = []Method{
	{"pin or stop in the block", 0.2, "the web meets it; nothing is read"},
	{"dial gauge at equal drops", 0.5, "read where the piston moves, halved"},
	{"mark against a pointer", 1.5, "read by eye, from the side it is seen"},
	{"keyway at twelve o’clock", 5, "judged by eye"},
	{"compression gauge", 10, "shows the stroke, hardly the place"},
}
