package bolt_test

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/unit"
)

// ring are n bolts on a circle, the first at the top, clockwise.
func ring(n int) []bolt.Spot {
	var out []bolt.Spot
	for i := range n {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		out = append(out, bolt.Spot{X: unit.Length(100 * s), Y: unit.Length(100 * c)})
	}
	return out
}

// rows are two rows of n/2, as on a long cover or a head.
func rows(n int) []bolt.Spot {
	var out []bolt.Spot
	for i := range n {
		out = append(out, bolt.Spot{X: unit.Length(40 * (i / 2)), Y: unit.Length(90 * (i % 2))})
	}
	return out
}

func ordered(spots []bolt.Spot, order []int) []bolt.Spot {
	var out []bolt.Spot
	for _, i := range order {
		out = append(out, spots[i])
	}
	return out
}

// The orders every workshop knows (common practice, no source): four bolts 1 3 2 4 round the
// ring, six 1 4 and then from pair to pair, heads from the middle outwards.
func TestPatterns(t *testing.T) {
	four := bolt.Crosswise.Order(ring(4))
	assert.Equal(t, []int{0, 2}, four[:2])
	assert.ElementsMatch(t, []int{1, 3}, four[2:])
	six := bolt.Crosswise.Order(ring(6))
	assert.Equal(t, []int{0, 3}, six[:2])
	for i := 0; i < 6; i += 2 {
		assert.Equal(t, 3, (six[i+1]-six[i]+6)%6, "each to its opposite: %v", six)
	}
	head := bolt.FromTheMiddle.Order(rows(10))
	assert.ElementsMatch(t, []int{4, 5}, head[:2], "the middle two first: %v", head)
	assert.ElementsMatch(t, []int{0, 1, 8, 9}, head[6:], "the corners last: %v", head)
	assert.Equal(t, []int{0, 2, 4, 6, 1, 3, 5, 7}, bolt.Alternating.Order(ring(8)))
	assert.Equal(t, []int{0, 1, 2}, bolt.Pattern("as one likes").Order(ring(3)))
	assert.Empty(t, bolt.Crosswise.Order(nil))
}

// Any order that is made by a pattern is kept by it, and is of the same bolts; one after the
// other round the ring is none of them.
func TestPatternsAreKept(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(4, 24).Draw(t, "n")
		spots := map[string]func(int) []bolt.Spot{"ring": ring, "rows": rows}[rapid.SampledFrom([]string{"ring", "rows"}).Draw(t, "shape")](n)
		p := rapid.SampledFrom([]bolt.Pattern{bolt.Crosswise, bolt.FromTheMiddle, bolt.Alternating}).Draw(t, "pattern")
		order := p.Order(spots)
		sorted := slices.Clone(order)
		slices.Sort(sorted)
		for i, v := range sorted {
			assert.Equal(t, i, v)
		}
		assert.True(t, p.Kept(ordered(spots, order)), "%s: %v", p, order)
	})
	assert.False(t, bolt.Crosswise.Kept(ring(8)))
	assert.False(t, bolt.Alternating.Kept(ring(8)))
	assert.False(t, bolt.FromTheMiddle.Kept(rows(10)), "from one end to the other")
	assert.True(t, bolt.Crosswise.Kept(ring(3)))
	assert.True(t, bolt.Crosswise.Kept(make([]bolt.Spot, 6)), "nobody has placed them")
}
