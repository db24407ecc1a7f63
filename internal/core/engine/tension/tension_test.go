package tension

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"pgregory.net/rapid"

	"inklatch/internal/core/unit"
)

// OpenStax University Physics Volume 1, example 16.7 (standing waves on a
// string, from memory): 2.00 m of string of 6.0 g/m under a hanging mass of
// 2.00 kg has its first mode at 14.29 Hz. With g = 9.80 m/s² the tension is
// 19.6 N and the wave travels at 57.15 m/s.
func TestStandingWaveExample(t *testing.T) {
	r := Run{Length: 2000, Mass: 6}
	assert.InDelta(t, 14.29, float64(r.Frequency(2*9.80)), 0.005)
	assert.InDelta(t, 19.6, float64(r.Tension(14.29)), 0.02)
	assert.InDelta(t, 57.15, 2*2.0*float64(r.Frequency(19.6)), 0.01)
}

// Twice the note is four times the tension; half the run at one tension is twice
// the note. Both ways come back.
func TestBothWays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := Run{Length: rapid.Float64Range(20, 800).Draw(t, "length"), Mass: rapid.Float64Range(5, 500).Draw(t, "mass")}
		f := rapid.Float64Range(10, 400).Draw(t, "f")
		n := float64(r.Tension(unit.Frequency(f)))
		assert.InEpsilon(t, f, float64(r.Frequency(unit.Force(n))), 1e-12)
		assert.InEpsilon(t, 4*n, float64(r.Tension(unit.Frequency(2*f))), 1e-12)
		assert.InEpsilon(t, 2*f, float64(Run{r.Length / 2, r.Mass}.Frequency(unit.Force(n))), 1e-12)
	})
	assert.Error(t, Run{}.Check())
	assert.Error(t, Run{Length: 1, Mass: math.NaN()}.Check())
	assert.NoError(t, Run{1, 1}.Check())
}

// Critical values of Grubbs' two-sided test at 5 %, from published tables (from
// memory): 5 readings 1.715, 10 readings 2.290, 20 readings 2.709.
func TestGrubbs(t *testing.T) {
	assert.InDelta(t, 1.715, Grubbs(5, 0.05), 0.001)
	assert.InDelta(t, 2.290, Grubbs(10, 0.05), 0.001)
	assert.InDelta(t, 2.709, Grubbs(20, 0.05), 0.001)
	assert.True(t, math.IsInf(Grubbs(2, 0.05), 1))
}

var window = Window{102, 118}

func TestJudge(t *testing.T) {
	for _, c := range []struct {
		name     string
		readings []float64
		want     Verdict
		outliers int
	}{
		{"they agree", []float64{108, 110, 111, 109, 110}, Accept, 0},
		{"inside, but the interval is not", []float64{104, 116, 106, 115}, More, 0},
		{"two only", []float64{110, 110}, More, 0},
		{"none", nil, More, 0},
		{"one odd one is asked about", []float64{110, 109, 111, 110, 140, 110, 109}, Odd, 1},
		{"six readings are too few to call one odd", []float64{110, 109, 111, 110, 140, 110}, More, 0},
		{"too far apart", []float64{92, 128, 97, 121}, More, 0},
		{"they agree, too low", []float64{94, 95, 94, 95}, Reset, 0},
		{"they agree, too high", []float64{126, 127, 126}, Reset, 0},
		// Readings of one belt move between 92 and 114 as it settles (common
		// practice, no source).
		{"settling", []float64{114, 109, 104, 99, 95, 92}, Settling, 0},
		{"all the same", []float64{110, 110, 110}, Accept, 0},
		{"just outside, unsure", []float64{98, 104, 100, 103}, More, 0},
	} {
		j, err := Judge(c.readings, window)
		require.NoError(t, err, c.name)
		assert.Equal(t, c.want, j.Verdict, "%s: %+v", c.name, j)
		assert.Len(t, j.Outliers, c.outliers, c.name)
		assert.NotEmpty(t, j.Why, c.name)
	}
	for _, bad := range [][]float64{{110, -1, 110}, {110, math.NaN(), 110}, {110, math.Inf(1), 1}} {
		_, err := Judge(bad, window)
		assert.Error(t, err)
	}
	_, err := Judge([]float64{1, 2, 3}, Window{5, 5})
	assert.Error(t, err)
	assert.InDelta(t, 110, float64(window.Middle()), 0)
}

// Every reading counts: mean and standard deviation are gonum's of all of them,
// and what is accepted lies inside the window with its interval.
func TestJudgedFigures(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rs := rapid.SliceOfN(rapid.Float64Range(80, 140), 3, 30).Draw(t, "readings")
		j, err := Judge(rs, window)
		require.NoError(t, err)
		mean, sd := stat.MeanStdDev(rs, nil)
		assert.InDelta(t, mean, j.Mean, 1e-9)
		assert.InDelta(t, sd, j.Spread, 1e-9)
		if j.Verdict == Accept {
			assert.GreaterOrEqual(t, j.Mean-j.Error, window.Least)
			assert.LessOrEqual(t, j.Mean+j.Error, window.Most)
			assert.False(t, j.Drifts)
			assert.Empty(t, j.Outliers)
		}
	})
}

// The exact test against counting every order there is.
func TestMannKendallByCounting(t *testing.T) {
	for n := 2; n <= 7; n++ {
		counts := map[int]int{}
		all := 0
		var walk func(done, rest []int)
		walk = func(done, rest []int) {
			if len(rest) == 0 {
				s := 0
				for i := range done {
					for _, b := range done[i+1:] {
						if b > done[i] {
							s++
						} else {
							s--
						}
					}
				}
				counts[s]++
				all++
				return
			}
			for i := range rest {
				next := append(append([]int{}, rest[:i]...), rest[i+1:]...)
				walk(append(append([]int{}, done...), rest[i]), next)
			}
		}
		rest := make([]int, n)
		for i := range rest {
			rest[i] = i
		}
		walk(nil, rest)
		for s := range counts {
			want := 0
			for k, v := range counts {
				if k >= s && k >= -s || -k >= s && -k >= -s {
					want += v
				}
			}
			assert.InDelta(t, float64(want)/float64(all), MannKendall(n, s), 1e-12, "n %d s %d", n, s)
		}
	}
	assert.InDelta(t, 2.0/120, MannKendall(5, 10), 1e-12, "five readings each further the same way: 2 in 5!")
}

func TestStiffnessRaisesTheNote(t *testing.T) {
	assert.InDelta(t, 0.02, Stiff(100, 400, 0.0004), 1e-12)
	assert.Greater(t, Stiff(50, 400, 0.0004), Stiff(100, 400, 0.0004), "a shorter run reads higher")
}
