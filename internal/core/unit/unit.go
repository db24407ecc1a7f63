// Package unit holds the quantities a timing procedure is written in: torque,
// angle, turns, length, time, temperature, frequency and volume. It reads what people
// type ("60 Nm", "44 ft lb", "20 ±2 N·m", "60,5 N·m"), converts between the
// units of the trade, and prints with the house's rounding.
package unit

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Kind is the physical quantity a unit measures.
type Kind int

// The kinds of quantity a procedure uses.
const (
	KindNone Kind = iota
	KindTorque
	KindAngle
	KindLength
	KindTime
	KindTemperature
	KindFrequency
	KindVolume
)

var kindNames = [...]string{"number", "torque", "angle", "length", "time", "temperature", "frequency", "volume"}

// String is the kind in plain words, lower case.
func (k Kind) String() string { return kindNames[k] }

// Unit is a unit of measure, written the way the house prints it.
type Unit string

// The units the trade uses.
const (
	NewtonMetre             Unit = "N·m"
	PoundForceFoot          Unit = "lbf·ft"
	PoundForceInch          Unit = "lbf·in"
	KilogramForceMetr       Unit = "kgf·m"
	NewtonCentimetre        Unit = "N·cm"
	KilogramForceCentimetre Unit = "kgf·cm"
	Degree                  Unit = "°"
	Turn                    Unit = "turns"
	Millimetre              Unit = "mm"
	Inch                    Unit = "in"
	Second                  Unit = "s"
	Minute                  Unit = "min"
	Hour                    Unit = "h"
	Celsius                 Unit = "°C"
	Fahrenheit              Unit = "°F"
	Hertz                   Unit = "Hz"
	Litre                   Unit = "L"
	Millilitre              Unit = "mL"
	Quart                   Unit = "qt"
	// Percent is a unit of tolerances only.
	Percent Unit = "%"
)

// definition places a unit: base = value*factor + offset, the base being
// N·m, °, mm, min, °C, Hz or L.
type definition struct {
	kind   Kind
	factor float64
	offset float64
}

// Factors: NIST SP 811 (2008), appendix B.8 and B.9: pound-force foot
// 1.355 818 N·m, pound-force inch 0.112 984 8 N·m, kilogram-force metre
// 9.806 65 N·m (exact), inch 25.4 mm (exact), liquid quart 0.946 352 9 L, t/°C = (t/°F − 32)/1.8. The two
// pound-force units are built from their exact parts, 0.453 592 37 kg,
// 9.806 65 m/s² and 0.3048 m, of which SP 811 prints the seven-figure value.
var definitions = map[Unit]definition{
	NewtonMetre:             {KindTorque, 1, 0},
	PoundForceFoot:          {KindTorque, 0.45359237 * 9.80665 * 0.3048, 0},
	PoundForceInch:          {KindTorque, 0.45359237 * 9.80665 * 0.0254, 0},
	KilogramForceMetr:       {KindTorque, 9.80665, 0},
	NewtonCentimetre:        {KindTorque, 0.01, 0},
	KilogramForceCentimetre: {KindTorque, 0.0980665, 0},
	Degree:                  {KindAngle, 1, 0},
	Turn:                    {KindAngle, 360, 0},
	Millimetre:              {KindLength, 1, 0},
	Inch:                    {KindLength, 25.4, 0},
	Second:                  {KindTime, 1.0 / 60, 0},
	Minute:                  {KindTime, 1, 0},
	Hour:                    {KindTime, 60, 0},
	Celsius:                 {KindTemperature, 1, 0},
	Fahrenheit:              {KindTemperature, 5.0 / 9, -160.0 / 9},
	Hertz:                   {KindFrequency, 1, 0},
	Litre:                   {KindVolume, 1, 0},
	Millilitre:              {KindVolume, 0.001, 0},
	Quart:                   {KindVolume, 0.9463529, 0},
}

// Kind is the quantity u measures; KindNone for a unit this package lacks.
func (u Unit) Kind() Kind { return definitions[u].kind }

// inKind are the units in the order people meet them.
var inKind = []Unit{
	NewtonMetre, PoundForceFoot, PoundForceInch, KilogramForceMetr, KilogramForceCentimetre, NewtonCentimetre, Degree, Turn, Millimetre, Inch,
	Second, Minute, Hour, Celsius, Fahrenheit, Hertz, Litre, Millilitre, Quart,
}

// Units are those that measure a kind, the commonest first.
func (k Kind) Units() []Unit {
	var out []Unit
	for _, u := range inKind {
		if u.Kind() == k {
			out = append(out, u)
		}
	}
	return out
}

// Torque is a turning moment in newton metres.
type Torque float64

// In is t in unit u, which must be a torque unit; otherwise NaN.
func (t Torque) In(u Unit) float64 { return from(float64(t), u, KindTorque) }

// Said is t in newton metres, rounded as the house does.
func (t Torque) Said() Quantity { return Of(Round(float64(t)), NewtonMetre) }

// Angle is a plane angle in degrees.
type Angle float64

// Length is a length in millimetres.
type Length float64

// Minutes is a length of time in minutes.
type Minutes float64

// Temperature is a Celsius temperature.
type Temperature float64

// Frequency is a frequency in hertz.
type Frequency float64

// Force is a force in newtons.
type Force float64

// Area is an area in mm².
type Area float64

// Stress is a stress in N/mm².
type Stress float64

// LengthPerAngle is how far something moves for an angle, millimetres for a degree.
type LengthPerAngle float64

func from(base float64, u Unit, k Kind) float64 {
	d := definitions[u]
	if d.kind != k {
		return math.NaN()
	}
	return (base - d.offset) / d.factor
}

// Convert gives value, in unit a, in unit b. It is an error when the two
// measure different kinds of quantity.
func Convert(value float64, a, b Unit) (float64, error) {
	da, db := definitions[a], definitions[b]
	if da.kind == KindNone || da.kind != db.kind {
		return 0, fmt.Errorf("%s is a %s and %s is a %s", a, da.kind, b, db.kind)
	}
	return (value*da.factor + da.offset - db.offset) / db.factor, nil
}

// Round is the house's rounding of a converted figure: three significant
// figures and never more than one decimal at ten and above (22 N·m prints as
// 16.2 lbf·ft, 120 N·m as 88.5 lbf·ft).
func Round(v float64) float64 {
	return roundTo(v, decimals(v))
}

// decimals is how many decimals the house prints of a figure of this size.
func decimals(v float64) int {
	if v == 0 || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0
	}
	return min(max(2-int(math.Floor(math.Log10(math.Abs(v)))), 0), 3)
}

func roundTo(v float64, decimals int) float64 {
	p := math.Pow(10, float64(decimals))
	return math.Round(v*p) / p
}

// Number prints v with the fewest digits that read back as the same number, and
// never so that the point could be taken for a mark between thousands: 1.375 is
// printed 1.3750. Minus zero is 0; what is no number at all is "?".
func Number(v float64) string {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return "?"
	}
	if v == 0 {
		return "0"
	}
	s := strconv.FormatFloat(v, 'f', -1, 64)
	if whole, part, ok := strings.Cut(strings.TrimPrefix(s, "-"), "."); ok && len(part) == 3 && len(whole) <= 3 && whole != "0" {
		s += "0"
	}
	return s
}
