package bolt

import "inklatch/internal/core/unit"

// Verdict is what a torque is for a bolt.
type Verdict string

// Choices are the verdicts.
func (Verdict) Choices() []string {
	return []string{string(Fine), string(BreaksIt), string(YieldsIt), string(SlackIt)}
}

// The verdicts.
const (
	// Fine: nothing speaks against it.
	Fine Verdict = ""
	// Breaks it at any friction.
	BreaksIt Verdict = "breaks"
	// Yields it at any friction, which a torque without an angle is not meant to.
	YieldsIt Verdict = "yields"
	// Slack: hardly holds anything.
	SlackIt Verdict = "slack"
)

// leastOfYield is the share of yielding below which a torque holds hardly anything, at the
// least friction: an assumption. Bolts in plastic and plugs lie lower, and are asked about
// by nobody who does not say their class.
const leastOfYield = 0.2

// Judge says what a torque is for a bolt, N·m; low and high are the ends of its tolerance.
// Where an angle follows, a bolt may be taken past yield, and its torque only brings it to
// its seat.
func (b Bolt) Judge(low, high unit.Torque, angle bool) Verdict {
	switch {
	case low > b.Breaks().High:
		return BreaksIt
	case angle:
		return Fine
	case low > b.Yields().High:
		return YieldsIt
	case b.OfYield(high).High < leastOfYield:
		return SlackIt
	}
	return Fine
}

// usual is the share of its yielding that a bolt tightened by torque alone is commonly taken
// to: an assumption, wide on purpose.
var usual = Band[float64]{0.25, 1.0}

// usually reports whether a torque is what a bolt like this may be tightened to.
func (b Bolt) usually(torque unit.Torque) bool {
	of := b.OfYield(torque)
	return of.High >= usual.Low && of.Low <= usual.High && b.Judge(torque, torque, false) == Fine
}

// others are the units a figure may have been meant in, the likeliest first.
var others = []unit.Unit{unit.PoundForceInch, unit.NewtonMetre, unit.PoundForceFoot, unit.KilogramForceMetr, unit.KilogramForceCentimetre, unit.NewtonCentimetre}

// mostSlips is how many slips are offered.
const mostSlips = 3

// Slips are what may have been meant in place of a torque that makes no sense, as it would be
// written, the likeliest first and at most three: what comes to what a bolt like this is
// tightened to with the decimal mark a place further left or right, or with another unit.
// None for what is no torque.
func (b Bolt) Slips(q unit.Quantity) []unit.Quantity {
	q = q.First()
	if _, ok := q.Torque(); !ok {
		return nil
	}
	tries := []unit.Quantity{scaled(q, 0.1), scaled(q, 10)}
	for _, u := range others {
		n := q
		n.Unit = u
		if q.TolUnit == q.Unit {
			n.TolUnit = u
		}
		tries = append(tries, n)
	}
	var out []unit.Quantity
	for _, meant := range tries {
		if m, ok := meant.Torque(); ok && meant != q && len(out) < mostSlips && b.usually(m) {
			out = append(out, meant)
		}
	}
	return out
}

// scaled is a value with its tolerance by a power of ten.
func scaled(q unit.Quantity, by float64) unit.Quantity {
	q.Value, q.High = unit.Round(q.Value*by), unit.Round(q.High*by)
	if q.TolUnit != unit.Percent {
		q.Tol, q.Less = unit.Round(q.Tol*by), unit.Round(q.Less*by)
	}
	return q
}

// Ends are the ends of a torque with its tolerance; false for what is none.
func Ends(q unit.Quantity) (low, high unit.Torque, ok bool) {
	l, h := q.First().Bounds()
	least, errL := unit.Convert(l, q.Unit, unit.NewtonMetre)
	most, errH := unit.Convert(h, q.Unit, unit.NewtonMetre)
	return unit.Torque(least), unit.Torque(most), q.Kind() == unit.KindTorque && errL == nil && errH == nil
}
