package unit

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// NIST SP 811 (2008 edition), appendix B.8, prints these factors to seven
// figures.
func TestFactorsAgainstSP811(t *testing.T) {
	for _, c := range []struct {
		from, to Unit
		factor   float64
	}{
		{PoundForceFoot, NewtonMetre, 1.355818},
		{PoundForceInch, NewtonMetre, 0.1129848},
		{KilogramForceMetr, NewtonMetre, 9.80665},
		{Inch, Millimetre, 25.4},
		{Hour, Second, 3600},
		{Turn, Degree, 360},
	} {
		got, err := Convert(1, c.from, c.to)
		require.NoError(t, err)
		assert.InEpsilon(t, c.factor, got, 5e-7, "%s to %s", c.from, c.to)
	}
	f, err := Convert(212, Fahrenheit, Celsius) // SP 811, B.9: t/°C = (t/°F − 32)/1.8
	require.NoError(t, err)
	assert.InDelta(t, 100, f, 1e-9)
	_, err = Convert(1, NewtonMetre, Degree)
	assert.Error(t, err)
}

// The rounded pairs of common practice (no published source).
func TestPairsOfCommonPractice(t *testing.T) {
	for nm, lbft := range map[float64]float64{120: 88.5, 55: 40.6, 37: 27.3, 25: 18.4, 22: 16.2} {
		q, err := Of(nm, NewtonMetre).In(PoundForceFoot)
		require.NoError(t, err)
		assert.Equal(t, lbft, q.Value)
	}
	for _, pair := range []string{"35 N·m (26 lbf·ft)", "42 N·m (31 lbf·ft)", "10 N·m (88.5 lbf·in)", "10 N·m (89 lbf·in)", "12 N·m (106 lbf·in)", "12 N·m (9 lbf·ft)"} {
		q, err := Parse(pair)
		require.NoError(t, err)
		assert.True(t, q.Agrees(), pair)
	}
	for _, pair := range []string{"22 N·m (16.2 lbf·in)", "20 N·m (16.2 lbf·ft)", "22 N·m (90°)"} {
		q, err := Parse(pair)
		require.NoError(t, err)
		assert.False(t, q.Agrees(), pair)
	}
}

func TestParseWhatPeopleType(t *testing.T) {
	for in, want := range map[string]string{
		"60 Nm": "60 N·m", "60N.m": "60 N·m", "60,5 N·m": "60.5 N·m", "44 lbf-ft": "44 lbf·ft", "44 ft lb": "44 lbf·ft",
		"44 LB-FT": "44 lbf·ft", "88 in-lb": "88 lbf·in", "1.2 kgm": "1.2 kgf·m", "20 ±2 N·m": "20 ±2 N·m", "20 Nm +/- 2": "20 ±2 N·m",
		"20 N·m ±2 Nm": "20 ±2 N·m", "90 deg": "90°", "90°±5": "90 ±5°", "90° ±5 N·m": "90° ±5 N·m", "15 minutes": "15 min",
		"3 in": "3 in", "0.15 mm": "0.15 mm", "-4 °C": "-4 °C", "110 hz": "110 Hz", "2 turns": "2 turns", "22 Nm = 16.2 lb-ft": "22 N·m (16.2 lbf·ft)",
		"22 N·m (16.2 lbf·ft)": "22 N·m (16.2 lbf·ft)", "20 ±0 N·m": "20 N·m", "20 deg C": "20 °C",
	} {
		q, err := Parse(in)
		require.NoError(t, err, in)
		assert.Equal(t, want, q.String(), in)
	}
	for _, in := range []string{"", "60", "Nm", "60 furlongs", "60 N·m and more", "1e9 N·m", "9999999 N·m", "±2 N·m", "60..5 N·m", "0x10 mm", "60 N·m (5"} {
		_, err := Parse(in)
		assert.Error(t, err, in)
	}
}

func TestFindLeavesWordsAlone(t *testing.T) {
	ms := Find("tighten M8 bolt 60 Nm + 90 deg with TL-104 in 2 stages, 3 in all")
	require.Len(t, ms, 2)
	assert.Equal(t, "60 N·m", ms[0].Quantity.String())
	assert.Equal(t, "90°", ms[1].Quantity.String())
}

func TestPrintedFormReadsBack(t *testing.T) {
	units := []Unit{NewtonMetre, PoundForceFoot, PoundForceInch, KilogramForceMetr, Degree, Turn, Millimetre, Inch, Second, Minute, Hour, Celsius, Fahrenheit, Hertz}
	rapid.Check(t, func(t *rapid.T) {
		n := func(label string, lo int) float64 { return float64(rapid.IntRange(lo, 99999).Draw(t, label)) / 100 }
		q := Quantity{Value: n("value", 0), Unit: rapid.SampledFrom(units).Draw(t, "unit")}
		if rapid.Bool().Draw(t, "tol?") {
			q.Tol, q.TolUnit = n("tol", 1), rapid.SampledFrom(units).Draw(t, "tol unit")
		}
		if rapid.Bool().Draw(t, "also?") {
			q.Also, q.AlsoUnit = n("also", 1), rapid.SampledFrom(units).Draw(t, "also unit")
		}
		back, err := Parse(q.String())
		if err != nil || back != q {
			t.Fatalf("%q read back as %+v, %v; want %+v", q.String(), back, err, q)
		}
	})
}

func TestConvertThereAndBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		units := []Unit{NewtonMetre, PoundForceFoot, PoundForceInch, KilogramForceMetr}
		a, b := rapid.SampledFrom(units).Draw(t, "a"), rapid.SampledFrom(units).Draw(t, "b")
		v := rapid.Float64Range(0.01, 1e4).Draw(t, "v")
		there, _ := Convert(v, a, b)
		back, _ := Convert(there, b, a)
		if d := back/v - 1; d > 1e-12 || d < -1e-12 {
			t.Fatalf("%g %s came back as %g", v, a, back)
		}
	})
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"60 N·m", "20 ±2 N·m", "90° ±5 N·m", "22 N·m (16.2 lbf·ft)", "60,5", "± °"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		Find(s)
		q, err := Parse(s)
		if err != nil {
			return
		}
		back, err := Parse(q.String())
		if err != nil || back != q {
			t.Fatalf("%q → %q → %+v, %v", s, q.String(), back, err)
		}
	})
}
