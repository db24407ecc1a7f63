// Package tool knows what stands between a torque and the figure on a wrench: adapters that
// make it longer, multipliers, the range in which a wrench is used, and figures that can be
// set on one.
package tool

import (
	"errors"
	"fmt"
	"math"

	"inklatch/internal/core/unit"
)

// Adapter is what makes a wrench reach further: a crow's foot, an offset extension.
type Adapter struct {
	// Reach is from the square of the wrench to the middle of the bolt.
	Reach unit.Length
	// Angle is between the wrench and the adapter: 0 in line with it, 90° square to it, 180°
	// pointing back along it.
	Angle unit.Angle
}

// Multiplier is a gear between wrench and bolt.
type Multiplier struct {
	// Ratio is how often the wrench turns for a turn of the bolt, Efficiency what share of
	// the torque comes through.
	Ratio, Efficiency float64
}

// What an arrangement cannot be.
var (
	ErrLength     = errors.New("a wrench has a length, from the middle of its grip to its square")
	ErrBack       = errors.New("the adapter points so far back that the wrench turns the bolt the wrong way")
	ErrMultiplier = errors.New("a multiplier has a ratio of 1 to 500 and lets through a share between 0.3 and 1")
)

// Setting is what a wrench is set to so that a torque comes to the bolt: by the lever,
// T·L/(L + E·cos α) (ISO 6789-1 and tool handbooks, from memory), over the ratio and the
// efficiency of a multiplier. length is from the middle of the grip to the square. The zero
// adapter and the zero multiplier are none.
func Setting(t unit.Torque, length unit.Length, a Adapter, m Multiplier) (unit.Torque, error) {
	out := float64(t)
	if a.Reach != 0 {
		if length <= 0 {
			return 0, ErrLength
		}
		lever := float64(length) + float64(a.Reach)*math.Cos(float64(a.Angle)*math.Pi/180)
		if lever <= 0 {
			return 0, ErrBack
		}
		out *= float64(length) / lever
	}
	if m != (Multiplier{}) {
		if !(m.Ratio >= 1 && m.Ratio <= 500 && m.Efficiency >= 0.3 && m.Efficiency <= 1) {
			return 0, ErrMultiplier
		}
		out /= m.Ratio * m.Efficiency
	}
	return unit.Torque(out), nil
}

// leastOfScale is the share of its full scale from which a torque wrench is used (ISO 6789-1:
// calibrated from 20 % of the greatest value on; from memory).
const leastOfScale = 0.2

// Reach is whether a wrench of a full scale can be set to a torque, and why not.
func Reach(t, full unit.Torque) error {
	switch {
	case t > full*(1+1e-9):
		return fmt.Errorf("it goes no further than %s", full.Said())
	case t < full*leastOfScale*(1-1e-9):
		return fmt.Errorf("it is used from %s on, a fifth of its scale", (full * leastOfScale).Said())
	}
	return nil
}

// steps are the divisions that wrenches have, the finest first: a fifth, a half or a whole of
// a power of ten.
var steps = []float64{1, 2, 5}

// Settable is the figure nearest to a value that can be set on a scale with divisions of
// about a hundredth of it, and that lies within low and high, all in one unit: 88.5 for
// 88.507. Where no figure with so few places lies within, the next finer division is taken.
func Settable(value, low, high float64) float64 {
	if !(value > 0) || low > high || value < low || value > high {
		return value
	}
	for fine := 2.0; fine > -4; fine-- {
		power := math.Pow(10, math.Floor(math.Log10(value))-3+fine)
		for i := len(steps) - 1; i >= 0; i-- {
			d := power * steps[i]
			if d > value/100*1.0001 {
				continue
			}
			got := math.Round(value/d) * d
			if got >= low-1e-12 && got <= high+1e-12 {
				return clean(got)
			}
		}
	}
	return value
}

// exact is how near a value without a tolerance is met by a scale, a share.
const exact = 0.005

// SetIn is the middle of two torques as it can be set in a unit, and between them; where they
// are one, as near to it as a scale can show.
func SetIn(low, high unit.Torque, u unit.Unit) unit.Quantity {
	mid := (low + high) / 2
	if low == high {
		low, high = low*(1-exact), high*(1+exact)
	}
	return unit.Of(Settable(mid.In(u), low.In(u), high.In(u)), u)
}

// clean takes the dust of binary fractions off a figure.
func clean(v float64) float64 { return math.Round(v*1e9) / 1e9 }
