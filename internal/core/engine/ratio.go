package engine

import (
	"fmt"
	"math"
)

// Ratio is an exact fraction in lowest terms with a positive denominator: turns
// of a shaft for one turn of the crank.
type Ratio struct{ Num, Den int64 }

// One is a shaft that turns with the crank.
var One = Ratio{1, 1}

// NewRatio reduces num/den. It panics on a zero denominator, which a sheet with
// teeth above zero cannot give.
func NewRatio(num, den int64) Ratio {
	if den == 0 {
		panic("engine: ratio with zero denominator")
	}
	if den < 0 {
		num, den = -num, -den
	}
	g := gcd(abs(num), den)
	if g == 0 {
		return Ratio{0, 1}
	}
	return Ratio{num / g, den / g}
}

// Mul is the product, reduced.
func (r Ratio) Mul(s Ratio) Ratio {
	a, b := NewRatio(r.Num, s.Den), NewRatio(s.Num, r.Den)
	return NewRatio(a.Num*b.Num, a.Den*b.Den)
}

// Add is r + s in lowest terms.
func (r Ratio) Add(s Ratio) Ratio { return NewRatio(r.Num*s.Den+s.Num*r.Den, r.Den*s.Den) }

// Float is the nearest floating-point value; 0 for the zero Ratio, that of a
// shaft nothing drives.
func (r Ratio) Float() float64 {
	if r.Den == 0 {
		return 0
	}
	return float64(r.Num) / float64(r.Den)
}

// String is "1/2", or "2" for a whole number.
func (r Ratio) String() string {
	if r.Den == 1 {
		return fmt.Sprint(r.Num)
	}
	return fmt.Sprintf("%d/%d", r.Num, r.Den)
}

// HomeEvery is the smallest whole number of crank turns after which a feature
// that repeats k times per turn of a shaft with this ratio stands home again:
// the least n ≥ 1 with n·ratio·k whole, the denominator of ratio·k. A shaft
// that stands still is home at every count.
func (r Ratio) HomeEvery(k int) int64 {
	if k < 1 {
		k = 1
	}
	return r.Mul(Ratio{int64(k), 1}).Den
}

// LCM is the least common multiple of positive counts; 1 for none.
func LCM(counts ...int64) int64 {
	l := int64(1)
	for _, c := range counts {
		if c > 0 {
			l = l / gcd(l, c) * c
		}
	}
	return l
}

// Wrap brings an angle into (−period/2, period/2].
func Wrap[A ~float64](a, period A) A {
	a = A(math.Mod(float64(a), float64(period)))
	switch {
	case a > period/2:
		return a - period
	case a <= -period/2:
		return a + period
	}
	return a
}

func gcd(a, b int64) int64 {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

func abs(a int64) int64 {
	if a < 0 {
		return -a
	}
	return a
}
