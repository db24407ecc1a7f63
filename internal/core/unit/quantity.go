package unit

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Quantity is a value as an author wrote it: number or range, unit, tolerance,
// and the same thing in a second unit where the page gives one. Nothing is
// corrected on the way in: a tolerance in the wrong quantity or two figures that
// disagree are kept, so that the proof can point at them.
type Quantity struct {
	// Value is the figure, or the lower end of a range; Unit is its unit.
	Value float64
	Unit  Unit
	// High is the upper end of a range: 18–22 N·m.
	High  float64
	Range bool
	// Tol is the tolerance either side, 0 for none, in TolUnit. Where it is
	// Uneven, Tol is the one above and Less the one below: +2/−1.
	Tol     float64
	Less    float64
	Uneven  bool
	TolUnit Unit
	// Also is the figure given in a second unit, with the upper end and the
	// tolerances of its own; AlsoUnit is empty for none.
	Also     float64
	AlsoHigh float64
	AlsoTol  float64
	AlsoLess float64
	AlsoUnit Unit
}

// Of makes a plain quantity without tolerance.
func Of(value float64, u Unit) Quantity { return Quantity{Value: value, Unit: u} }

// Kind is the physical quantity q measures.
func (q Quantity) Kind() Kind { return q.Unit.Kind() }

// base is the value in the base unit of its kind.
func (q Quantity) base() float64 {
	d := definitions[q.Unit]
	return q.Nominal()*d.factor + d.offset
}

// Torque is q in N·m; false when q is not a torque.
func (q Quantity) Torque() (Torque, bool) { return Torque(q.base()), q.Kind() == KindTorque }

// Angle is q in degrees; false when q is not an angle.
func (q Quantity) Angle() (Angle, bool) { return Angle(q.base()), q.Kind() == KindAngle }

// Minutes is q in minutes; false when q is not a time.
func (q Quantity) Minutes() (Minutes, bool) { return Minutes(q.base()), q.Kind() == KindTime }

// TolFits reports whether the tolerance, if any, measures what the value does.
func (q Quantity) TolFits() bool {
	return q.Tol == 0 && q.Less == 0 || q.TolUnit == Percent || q.TolUnit.Kind() == q.Kind()
}

// Agrees reports whether the second figure, if any, says the same as the first:
// whether one of the two, converted, rounds to the other at the digits it was
// given with (12 N·m is 106 lbf·in and 9 lbf·ft; 22 N·m is not 16.2 lbf·in). The
// tolerances and the ends of a range have to agree in the same way.
func (q Quantity) Agrees() bool {
	if q.AlsoUnit == "" {
		return true
	}
	if q.AlsoUnit.Kind() != q.Kind() {
		return false
	}
	fits := func(a, b float64, shift bool) bool {
		da, db := definitions[q.Unit], definitions[q.AlsoUnit]
		if !shift {
			da.offset, db.offset = 0, 0
		}
		there := (a*da.factor + da.offset - db.offset) / db.factor
		back := (b*db.factor + db.offset - da.offset) / da.factor
		return math.Abs(there-b) <= lastDigit(b)/2*(1+1e-6) || math.Abs(back-a) <= lastDigit(a)/2*(1+1e-6)
	}
	if !fits(q.Value, q.Also, true) || q.Range && q.AlsoHigh != 0 && !fits(q.High, q.AlsoHigh, true) {
		return false
	}
	if q.AlsoTol != 0 && q.TolUnit == q.Unit && !fits(q.Tol, q.AlsoTol, false) {
		return false
	}
	return q.AlsoLess == 0 || q.TolUnit != q.Unit || fits(q.Less, q.AlsoLess, false)
}

// lastDigit is what one step of the last digit of v is worth as it is printed:
// 16.2 has tenths, 60 has ones.
func lastDigit(v float64) float64 {
	_, part, _ := strings.Cut(strconv.FormatFloat(v, 'f', -1, 64), ".")
	return math.Pow(10, -float64(len(part)))
}

// Bounds are the least and the most q allows, in its own unit: the ends of a
// range, or the value less and plus its tolerance. A tolerance that measures
// something else counts for nothing.
func (q Quantity) Bounds() (least, most float64) {
	if q.Range {
		return q.Value, q.High
	}
	below, above := q.Tol, q.Tol
	if q.Uneven {
		below = q.Less
	}
	switch {
	case q.TolUnit == Percent:
		below, above = below*math.Abs(q.Value)/100, above*math.Abs(q.Value)/100
	case q.TolUnit.Kind() == q.Kind() && q.Kind() != KindNone:
		f := definitions[q.TolUnit].factor / definitions[q.Unit].factor
		below, above = below*f, above*f
	default:
		below, above = 0, 0
	}
	return q.Value - below, q.Value + above
}

// Nominal is the value to work to: the middle of a range, otherwise the value.
func (q Quantity) Nominal() float64 {
	if q.Range {
		return (q.Value + q.High) / 2
	}
	return q.Value
}

// First is q without its second figure.
func (q Quantity) First() Quantity {
	q.Also, q.AlsoHigh, q.AlsoTol, q.AlsoLess, q.AlsoUnit = 0, 0, 0, 0, ""
	return q
}

// Second is the second figure of q as a quantity of its own, with the ends and
// tolerances it was given; zero where there is none.
func (q Quantity) Second() Quantity {
	if q.AlsoUnit == "" {
		return Quantity{}
	}
	s := Quantity{Value: q.Also, Unit: q.AlsoUnit, High: q.AlsoHigh, Range: q.Range && q.AlsoHigh != 0, Tol: q.AlsoTol, Less: q.AlsoLess, Uneven: q.Uneven && q.AlsoTol+q.AlsoLess != 0}
	if s.Tol != 0 || s.Less != 0 {
		s.TolUnit = s.Unit
	}
	return s
}

// Plain reports whether q is one figure: no range, no tolerance.
func (q Quantity) Plain() bool { return !q.Range && q.Tol == 0 && q.Less == 0 }

// SameValue reports whether q and r are the same amount, whatever the unit.
func (q Quantity) SameValue(r Quantity) bool {
	return q.Kind() == r.Kind() && math.Abs(q.base()-r.base()) <= 1e-6*(1+math.Abs(q.base()))
}

// In is q in unit u with the house's rounding, ends and tolerances along, second
// figure dropped. It is an error when u measures something else.
func (q Quantity) In(u Unit) (Quantity, error) {
	v, err := Convert(q.Value, q.Unit, u)
	if err != nil {
		return Quantity{}, err
	}
	r := Quantity{Value: Round(v), Unit: u, Range: q.Range, Uneven: q.Uneven}
	if q.Range {
		high, err := Convert(q.High, q.Unit, u)
		if err != nil {
			return Quantity{}, err
		}
		r.High = Round(high)
	}
	switch {
	case q.Tol == 0 && q.Less == 0 || !q.TolFits():
		r.Uneven = false
	case q.TolUnit == Percent:
		r.Tol, r.Less, r.TolUnit = q.Tol, q.Less, Percent
	default:
		f := definitions[q.TolUnit].factor / definitions[u].factor
		r.Tol, r.Less, r.TolUnit = finer(q.Tol*f, decimals(v)), finer(q.Less*f, decimals(v)), u
	}
	return r, nil
}

// finer rounds a tolerance to the decimals of its value, or as far as it takes
// to leave something of it.
func finer(tol float64, decimals int) float64 {
	for d := decimals; d < 6; d++ {
		if r := roundTo(tol, d); r != 0 || tol == 0 {
			return r
		}
	}
	return tol
}

// String prints q in its one canonical form, which Parse reads back unchanged:
// "60 N·m", "20 ±2 N·m", "18–22 N·m", "20 +2/−1 N·m", "20 N·m ±10 %", "90°",
// "90° ±5 N·m", "22 N·m (16.2 lbf·ft)".
func (q Quantity) String() string {
	var b strings.Builder
	b.WriteString(ends(q.Value, q.High, q.Range))
	same := q.TolUnit == q.Unit
	tol := tolText(q.Tol, q.Less, q.Uneven)
	if same {
		b.WriteString(tol)
	}
	b.WriteString(suffix(q.Unit))
	if tol != "" && !same {
		b.WriteString(tol + suffix(q.TolUnit))
	}
	if q.AlsoUnit != "" {
		b.WriteString(" (" + ends(q.Also, q.AlsoHigh, q.Range && q.AlsoHigh != 0) + tolText(q.AlsoTol, q.AlsoLess, q.Uneven && q.AlsoTol+q.AlsoLess != 0) + suffix(q.AlsoUnit) + ")")
	}
	return b.String()
}

func ends(low, high float64, ranged bool) string {
	switch {
	case !ranged:
		return Number(low)
	case low < 0 || high < 0:
		return Number(low) + " to " + Number(high)
	}
	return Number(low) + "–" + Number(high)
}

func tolText(tol, less float64, uneven bool) string {
	switch {
	case uneven:
		return " +" + Number(tol) + "/−" + Number(less)
	case tol != 0:
		return " ±" + Number(tol)
	}
	return ""
}

func suffix(u Unit) string {
	switch u {
	case "":
		return ""
	case Degree:
		return "°"
	}
	return " " + string(u)
}

// IsZero reports whether nothing was written.
func (q Quantity) IsZero() bool { return q == Quantity{} }

// MarshalText is String.
func (q Quantity) MarshalText() ([]byte, error) { return []byte(q.String()), nil }

// UnmarshalText is Parse; the error says what would have been understood.
func (q *Quantity) UnmarshalText(text []byte) error {
	p, err := Parse(string(text))
	if err != nil {
		return err
	}
	*q = p
	return nil
}

// Plausible limits of a typed figure: nothing on an engine is outside them,
// and a slip of the finger usually is.
const maxValue = 1e6

// Parse reads one quantity and nothing else. Decimal comma, any unit name the
// trade uses, tolerance before or after the unit, and a second figure in
// brackets or after "=" are understood.
func Parse(text string) (Quantity, error) {
	t := strings.TrimSpace(text)
	m, ok := scan(t, 0, true)
	if !ok || m.End != len(t) {
		return Quantity{}, fmt.Errorf("%q is not a value with a unit, such as “60 N·m”, “20 ±2 N·m”, “90°” or “15 min”", clip(text))
	}
	// What this program itself never prints, so that no file of its own holds it:
	// a limit on one side, a range from more to less, a comma or a point before
	// noughts that could stand between thousands.
	q := m.Quantity
	if strings.ContainsAny(t[:1], "<>") || strings.HasPrefix(t, "≤") || strings.HasPrefix(t, "≥") || q.Range && q.High <= q.Value ||
		len(m.Choices) == 2 && (strings.Contains(t, ",") || strings.HasSuffix(strconv.FormatFloat(q.Value, 'f', 3, 64), "0")) {
		return Quantity{}, errors.New(m.Problem)
	}
	if math.Abs(m.Quantity.Value) > maxValue {
		return Quantity{}, fmt.Errorf("%q is larger than any value on an engine", clip(text))
	}
	return m.Quantity, nil
}

func clip(s string) string {
	r := []rune(s)
	if len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}
