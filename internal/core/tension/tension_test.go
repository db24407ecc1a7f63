package tension

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"pgregory.net/rapid"
)

// OpenStax University Physics Volume 1, example 16.7 (standing waves on a
// string, from memory): 2.00 m of string of 6.0 g/m under a hanging mass of
// 2.00 kg has its first mode at 14.29 Hz. With g = 9.80 m/s² the tension is
// 19.6 N and the wave travels at 57.15 m/s.
func TestStandingWaveExample(t *testing.T) {
	r := Run{Length: 2000, Mass: 6}
	assert.InDelta(t, 14.29, r.Frequency(2*9.80), 0.005)
	assert.InDelta(t, 19.6, r.Tension(14.29), 0.02)
	assert.InDelta(t, 57.15, 2*2.0*r.Frequency(19.6), 0.01)
}

// Twice the note is four times the tension; half the run at one tension is twice
// the note. Both ways come back.
func TestBothWays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := Run{Length: rapid.Float64Range(20, 800).Draw(t, "length"), Mass: rapid.Float64Range(5, 500).Draw(t, "mass")}
		f := rapid.Float64Range(10, 400).Draw(t, "f")
		n := r.Tension(f)
		assert.InEpsilon(t, f, r.Frequency(n), 1e-12)
		assert.InEpsilon(t, 4*n, r.Tension(2*f), 1e-12)
		assert.InEpsilon(t, 2*f, Run{r.Length / 2, r.Mass}.Frequency(n), 1e-12)
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
		{"two only", []float64{110, 110}, More, 0},
		{"none", nil, More, 0},
		{"one odd one is left out", []float64{110, 109, 111, 110, 140, 110, 109}, Accept, 1},
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
	assert.InDelta(t, 110, window.Middle(), 0)
}

// What is kept has gonum's mean and standard deviation, and never less than two
// thirds of the readings; the order of equal readings does not matter to them.
func TestJudgedFigures(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rs := rapid.SliceOfN(rapid.Float64Range(80, 140), 3, 30).Draw(t, "readings")
		j, err := Judge(rs, window)
		require.NoError(t, err)
		var kept []float64
		for i, v := range rs {
			out := false
			for _, o := range j.Outliers {
				out = out || o == i
			}
			if !out {
				kept = append(kept, v)
			}
		}
		assert.GreaterOrEqual(t, len(kept), (2*len(rs)+2)/3)
		mean, sd := stat.MeanStdDev(kept, nil)
		assert.InDelta(t, mean, j.Mean, 1e-9)
		assert.InDelta(t, sd, j.Spread, 1e-9)
		if j.Verdict == Accept {
			assert.True(t, window.Holds(j.Mean))
			assert.False(t, j.Drifts)
		}
	})
}
