package bolt

import (
	"math"
	"slices"

	"inklatch/internal/core/unit"
)

// Spot is where a bolt of a set sits, mm.
type Spot struct{ X, Y unit.Length }

// Pattern is an order in which the bolts of a joint are tightened.
type Pattern string

// The patterns. Common practice, no source.
const (
	// Alternating goes along and leaves every second for the way back.
	Alternating Pattern = "alternating"
	// Crosswise goes from each to the one opposite.
	Crosswise Pattern = "crosswise"
	// FromTheMiddle goes outwards, from side to side.
	FromTheMiddle Pattern = "from the middle out"
)

func (s Spot) less(m Spot) (dx, dy float64) { return float64(s.X - m.X), float64(s.Y - m.Y) }

func (s Spot) far(m Spot) float64 { return math.Hypot(s.less(m)) }

// middle is the mean of spots.
func middle(spots []Spot) Spot {
	var m Spot
	for _, s := range spots {
		m.X += s.X / unit.Length(len(spots))
		m.Y += s.Y / unit.Length(len(spots))
	}
	return m
}

// opposite is how far two spots are from lying on one side of the middle: the cosine between
// them as seen from there, −1 for right opposite.
func opposite(a, b, m Spot) float64 {
	ax, ay := a.less(m)
	bx, by := b.less(m)
	l := math.Hypot(ax, ay) * math.Hypot(bx, by)
	if l == 0 {
		return 0
	}
	return (ax*bx + ay*by) / l
}

// Order is an order of spots by a pattern, as places in spots. It begins at the first for
// crosswise and alternating, nearest the middle for the third.
func (p Pattern) Order(spots []Spot) []int {
	n := len(spots)
	out := make([]int, 0, n)
	if n == 0 {
		return out
	}
	m := middle(spots)
	switch p {
	case Crosswise:
		left := rest(n, 0)
		out = append(out, 0)
		for len(left) > 0 {
			last := spots[out[len(out)-1]]
			var best int
			if len(out)%2 == 1 { // its opposite
				best = least(left, func(i int) float64 { return opposite(last, spots[i], m) - spots[i].far(m)*1e-6 })
			} else { // as far as can be from all that are tight
				best = least(left, func(i int) float64 {
					near := math.Inf(1)
					for _, k := range out {
						near = math.Min(near, spots[i].far(spots[k]))
					}
					return -near
				})
			}
			out, left = append(out, best), slices.DeleteFunc(left, func(i int) bool { return i == best })
		}
	case FromTheMiddle:
		left := rest(n, -1)
		for len(left) > 0 {
			next := least(left, func(i int) float64 { return spots[i].far(m) })
			if len(out) > 0 { // of those that are as far out, the one opposite
				last, out := spots[out[len(out)-1]], spots[next].far(m)+ringWidth(spots, m)
				next = least(left, func(i int) float64 {
					if spots[i].far(m) > out {
						return 2
					}
					return opposite(last, spots[i], m)
				})
			}
			out, left = append(out, next), slices.DeleteFunc(left, func(i int) bool { return i == next })
		}
	case Alternating:
		along := around360(spots, m)
		for k := 0; k < n; k += 2 {
			out = append(out, along[k])
		}
		for k := 1; k < n; k += 2 {
			out = append(out, along[k])
		}
	default:
		return rest(n, -1)
	}
	return out
}

// ringWidth is how much further out a bolt may sit and still be as far out.
func ringWidth(spots []Spot, m Spot) float64 {
	most := 0.0
	for _, s := range spots {
		most = math.Max(most, s.far(m))
	}
	return 0.2 * most
}

// around360 are spots in the order in which one meets them going round the middle from the
// first.
func around360(spots []Spot, m Spot) []int {
	at := func(i int) float64 {
		x0, y0 := spots[0].less(m)
		x, y := spots[i].less(m)
		a := math.Atan2(x, y) - math.Atan2(x0, y0)
		if a < -1e-9 {
			a += 2 * math.Pi
		}
		return a
	}
	out := rest(len(spots), -1)
	slices.SortStableFunc(out, func(a, b int) int { return cmpFloat(at(a), at(b)) })
	return out
}

func rest(n, but int) []int {
	out := make([]int, 0, n)
	for i := range n {
		if i != but {
			out = append(out, i)
		}
	}
	return out
}

func least(of []int, by func(int) float64) int {
	return slices.MinFunc(of, func(a, b int) int { return cmpFloat(by(a), by(b)) })
}

func cmpFloat(a, b float64) int {
	switch {
	case a < b-1e-9:
		return -1
	case a > b+1e-9:
		return 1
	}
	return 0
}

// Kept reports whether spots, in their order, are tightened by a pattern: crosswise where the
// second of each two lies on the other side of the middle, from the middle out where none
// lies much further in than one before it, alternating where no two neighbours follow one
// another. True for fewer than four, for a pattern that is none of these, and for spots that
// lie on one another.
func (p Pattern) Kept(spots []Spot) bool {
	if len(spots) < 4 {
		return true
	}
	m := middle(spots)
	ring := ringWidth(spots, m)
	if ring == 0 {
		return true
	}
	switch p {
	case Crosswise:
		for i := 1; i < len(spots); i += 2 {
			if spots[i].far(m) > ring && spots[i-1].far(m) > ring && opposite(spots[i-1], spots[i], m) > 0.2 {
				return false
			}
		}
	case FromTheMiddle:
		most := 0.0
		for _, s := range spots {
			if s.far(m) < most-1.5*ring {
				return false
			}
			most = math.Max(most, s.far(m))
		}
	case Alternating:
		along := around360(spots, m)
		if slices.Equal(along, rest(len(spots), -1)) {
			return false // round and round
		}
	}
	return true
}
