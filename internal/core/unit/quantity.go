package unit

import (
	"fmt"
	"math"
	"strings"
)

// Quantity is a value as an author wrote it: number, unit, tolerance, and the
// same thing in a second unit where the page gives one. Nothing is corrected
// on the way in: a tolerance in the wrong quantity or two figures that
// disagree are kept, so that the proof can point at them.
type Quantity struct {
	Value float64
	Unit  Unit
	// Tol is the tolerance either side, 0 for none; TolUnit is its unit.
	Tol     float64
	TolUnit Unit
	// Also is the figure given in a second unit; AlsoUnit is empty for none.
	Also     float64
	AlsoUnit Unit
}

// Of makes a plain quantity without tolerance.
func Of(value float64, u Unit) Quantity { return Quantity{Value: value, Unit: u} }

// Kind is the physical quantity q measures.
func (q Quantity) Kind() Kind { return q.Unit.Kind() }

// base is the value in the base unit of its kind.
func (q Quantity) base() float64 {
	d := definitions[q.Unit]
	return q.Value*d.factor + d.offset
}

// Torque is q in N·m; false when q is not a torque.
func (q Quantity) Torque() (Torque, bool) { return Torque(q.base()), q.Kind() == KindTorque }

// Angle is q in degrees; false when q is not an angle.
func (q Quantity) Angle() (Angle, bool) { return Angle(q.base()), q.Kind() == KindAngle }

// Minutes is q in minutes; false when q is not a time.
func (q Quantity) Minutes() (Minutes, bool) { return Minutes(q.base()), q.Kind() == KindTime }

// TolFits reports whether the tolerance, if any, measures what the value does.
func (q Quantity) TolFits() bool { return q.Tol == 0 || q.TolUnit.Kind() == q.Kind() }

// alsoSlack is how far two written figures may lie apart and still be the same
// value rounded: 2 %, which passes every rounded pair of common practice
// (9 lbf·ft for 12 N·m is the coarsest) and no wrong unit.
const alsoSlack = 0.02

// Agrees reports whether the second figure, if any, is the first one converted
// and rounded. The rounding allowed is 2 %.
func (q Quantity) Agrees() bool {
	if q.AlsoUnit == "" {
		return true
	}
	c, err := Convert(q.Value, q.Unit, q.AlsoUnit)
	if err != nil {
		return false
	}
	return math.Abs(c-q.Also) <= alsoSlack*math.Abs(c)+1e-9
}

// SameValue reports whether q and r are the same amount, whatever the unit.
func (q Quantity) SameValue(r Quantity) bool {
	return q.Kind() == r.Kind() && math.Abs(q.base()-r.base()) <= 1e-6*(1+math.Abs(q.base()))
}

// In is q in unit u with the house's rounding, tolerance along, second figure
// dropped. It is an error when u measures something else.
func (q Quantity) In(u Unit) (Quantity, error) {
	v, err := Convert(q.Value, q.Unit, u)
	if err != nil {
		return Quantity{}, err
	}
	r := Quantity{Value: Round(v), Unit: u}
	if q.Tol != 0 && q.TolFits() {
		r.Tol = roundTo(q.Tol*definitions[q.TolUnit].factor/definitions[u].factor, decimals(v))
		r.TolUnit = u
	}
	return r, nil
}

// String prints q in its one canonical form, which Parse reads back unchanged:
// "60 N·m", "20 ±2 N·m", "90°", "90° ±5 N·m", "22 N·m (16.2 lbf·ft)".
func (q Quantity) String() string {
	var b strings.Builder
	b.WriteString(Number(q.Value))
	same := q.Tol != 0 && q.TolUnit == q.Unit
	if same {
		b.WriteString(" ±" + Number(q.Tol))
	}
	b.WriteString(suffix(q.Unit))
	if q.Tol != 0 && !same {
		b.WriteString(" ±" + Number(q.Tol) + suffix(q.TolUnit))
	}
	if q.AlsoUnit != "" {
		b.WriteString(" (" + Number(q.Also) + suffix(q.AlsoUnit) + ")")
	}
	return b.String()
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
