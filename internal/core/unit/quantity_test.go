package unit

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A bare number takes the unit of its field; what has one, or is no number, is left.
func TestABareNumberTakesTheFieldsUnit(t *testing.T) {
	for _, c := range []struct {
		text string
		unit Unit
		want string
	}{
		{"42", NewtonMetre, "42 N·m"}, {" 42 ", NewtonMetre, "42 N·m"}, {"42 lbf·ft", NewtonMetre, "42 lbf·ft"}, {"2,5", NewtonMetre, "2,5 N·m"},
		{"18–22", NewtonMetre, "18–22 N·m"}, {"20 ±2", NewtonMetre, "20 ±2 N·m"}, {"bolt", NewtonMetre, "bolt"}, {"", NewtonMetre, ""}, {"42", "", "42"},
	} {
		assert.Equal(t, c.want, Bare(c.text, c.unit), "%q", c.text)
	}
	_, err := Judge("1,200 N·m")
	assert.Error(t, err, "one thousand two hundred, or one and a fifth?")
	q, err := Judge(" 42 Nm ")
	require.NoError(t, err)
	assert.Equal(t, Of(42, NewtonMetre), q)
	_, err = Judge("not a value")
	assert.Error(t, err)
}

// Every word for a number is one of the words for the number it stands for.
func TestWordsForNumbers(t *testing.T) {
	for w, n := range numberWords {
		got, ok := WordNumber(w)
		assert.True(t, ok)
		assert.InDelta(t, n, got, 0)
		assert.Contains(t, WordsFor(n), w)
	}
	assert.Empty(t, WordsFor(41))
	_, ok := WordNumber("umpteen")
	assert.False(t, ok)
}

// The same amount in another unit is the same value, and a tenth more is not; the kind
// stays, and what measures something else is refused.
func TestTheSameValueInAnyUnit(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		q := drawQuantity(r).First()
		for u := range definitions {
			there, err := Convert(q.Value, q.Unit, u)
			if u.Kind() != q.Kind() {
				if q.Kind() != KindNone && u.Kind() != KindNone {
					require.Error(r, err)
				}
				_, err := q.In(u)
				require.True(r, err != nil || q.Kind() == u.Kind())
				continue
			}
			if err != nil || q.Range {
				continue
			}
			require.True(r, Of(q.Value, q.Unit).SameValue(Of(there, u)), "%s is %g %s", q, there, u)
			if math.Abs(there) > 1 {
				require.False(r, Of(q.Value, q.Unit).SameValue(Of(there*1.1, u)))
			}
		}
	})
}

// Written as text and read again, a quantity is what it was; its first figure has no
// second, and its second none either.
func TestQuantitiesAreWrittenAndRead(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		q := drawQuantity(r)
		b, err := q.MarshalText()
		require.NoError(r, err)
		var again Quantity
		require.NoError(r, again.UnmarshalText(b))
		require.Equal(r, q.String(), again.String())
		require.Empty(r, q.First().AlsoUnit)
		require.Equal(r, q.AlsoUnit == "", q.Second().IsZero())
		require.Empty(r, q.Second().AlsoUnit)
		require.Equal(r, q.First(), q.First().First())
		least, most := q.Bounds()
		require.LessOrEqual(r, least, most)
		if q.Plain() {
			require.InDelta(r, q.Nominal(), least, 1e-9)
			require.InDelta(r, q.Nominal(), most, 1e-9)
		}
		if q.Range {
			require.InDelta(r, (q.Value+q.High)/2, q.Nominal(), 1e-9)
		}
	})
	assert.True(t, Quantity{}.IsZero())
	assert.Error(t, new(Quantity).UnmarshalText([]byte("no value")))
}

// What a quantity is in its base unit, by its type: N·m, degrees, minutes; the factors
// are those of NIST SP 811 (2008), appendix B.8, from memory.
func TestBaseUnitsByType(t *testing.T) {
	torque, ok := Of(100, PoundForceFoot).Torque()
	assert.True(t, ok)
	assert.InDelta(t, 135.5818, float64(torque), 1e-3)
	assert.InDelta(t, 100, torque.In(PoundForceFoot), 1e-9)
	assert.True(t, math.IsNaN(torque.In(Degree)))
	angle, ok := Of(0.5, Turn).Angle()
	assert.True(t, ok)
	assert.InDelta(t, 180, float64(angle), 1e-9)
	minutes, ok := Of(30, Second).Minutes()
	assert.True(t, ok)
	assert.InDelta(t, 0.5, float64(minutes), 1e-12)
	_, ok = Of(1, Degree).Torque()
	assert.False(t, ok)
	_, ok = Of(1, NewtonMetre).Minutes()
	assert.False(t, ok)
}
