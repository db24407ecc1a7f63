package unit

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Figures as authors type them, found in a line, and what they are.
func TestFiguresAsPeopleWriteThem(t *testing.T) {
	for in, want := range map[string]string{
		"wait 15 to 20 min":                "15–20 min",
		"18–22 N·m":                        "18–22 N·m",
		"18-22Nm":                          "18–22 N·m",
		"18 Nm to 22 Nm":                   "18–22 N·m",
		"gap 0.1–0.3 mm":                   "0.1–0.3 mm",
		"0,1 … 0,3 mm":                     "0.1–0.3 mm",
		"20 +2/−1 N·m":                     "20 +2/−1 N·m",
		"20 +2/-1 Nm":                      "20 +2/−1 N·m",
		"20 Nm +2/-1 Nm":                   "20 +2/−1 N·m",
		"20 +2/-2 Nm":                      "20 ±2 N·m",
		"20 Nm ±10 %":                      "20 N·m ±10 %",
		"20 N·m ± 10%":                     "20 N·m ±10 %",
		"72 mm (±1 mm)":                    "72 ±1 mm",
		"½ turn":                           "0.5 turns",
		"1½ turns":                         "1.5 turns",
		"1 1/2 turns":                      "1.5 turns",
		"1/4 turn":                         "0.25 turns",
		"half a turn":                      "0.5 turns",
		"a quarter turn":                   "0.25 turns",
		"a quarter of a turn":              "0.25 turns",
		"three quarters of a turn":         "0.75 turns",
		"one and a half turns":             "1.5 turns",
		"two full turns":                   "2 turns",
		"2 complete revolutions":           "2 turns",
		"one more turn":                    "1 turns",
		"a full turn":                      "1 turns",
		"half an hour":                     "0.5 h",
		"20 N·m / 15 lbf·ft":               "20 N·m (15 lbf·ft)",
		"10 Nm or 88.5 lb in":              "10 N·m (88.5 lbf·in)",
		"22 Nm (16.2 lb inch)":             "22 N·m (16.2 lbf·in)",
		"20 ±2 Nm (15 ±1.5 lbf ft)":        "20 ±2 N·m (15 ±1.5 lbf·ft)",
		"18-22 Nm (13-16 lb.ft)":           "18–22 N·m (13–16 lbf·ft)",
		"20 Nm [15 lb-ft]":                 "20 N·m (15 lbf·ft)",
		"25 N*m":                           "25 N·m",
		"250 Ncm":                          "250 N·cm",
		"2.5 kgf.m":                        "2.5 kgf·m",
		"15 lb.ft":                         "15 lbf·ft",
		"15 lbft":                          "15 lbf·ft",
		"15 ft. lb":                        "15 lbf·ft",
		"60º":                              "60°",
		"50 F":                             "50 °F",
		"20 C":                             "20 °C",
		"-10 °C":                           "-10 °C",
		"60\u202fN·m":                      "60 N·m",
		"60\u2009Nm":                       "60 N·m",
		"1\u2009200 mm":                    "1200 mm",
		"1,200.5 mm":                       "1200.5 mm",
		"11.25°":                           "11.25°",
		"0.125 mm":                         "0.125 mm",
		"+90°":                             "90°",
		"2 turns":                          "2 turns",
		"110 Hz ±5":                        "110 ±5 Hz",
		"between the flats 3 mm":           "3 mm",
		"20 plus or minus 2 newton metres": "20 ±2 N·m",
		"8,5 N·m":                          "8.5 N·m",
		"12.5 pound-feet":                  "12.5 lbf·ft",
		"-10 to 5 °C":                      "-10 to 5 °C",
		"between 22 and 24 Nm":             "22–24 N·m",
		"Between 0.1 and 0.2 mm":           "0.1–0.2 mm",
		"between 22 Nm and 24 Nm":          "22–24 N·m",
	} {
		ms := Find(in)
		if assert.Len(t, ms, 1, in) {
			assert.Equal(t, want, ms[0].Quantity.String(), in)
			assert.Empty(t, ms[0].Problem, in)
		}
	}
}

// Figures that are asked about or refused, each with its reason and, where there
// is one, the way to type it.
func TestFiguresThatAreNotTaken(t *testing.T) {
	for in, want := range map[string]struct {
		problem string
		choices []string
	}{
		"1,200 Nm":   {"between thousands", []string{"1200 N·m", "1.2 N·m"}},
		"10,000 mm":  {"between thousands", []string{"10000 mm", "10 mm"}},
		"1.200 mm":   {"between thousands", []string{"1200 mm", "1.2 mm"}},
		"-20 Nm":     {"below zero", nil},
		"turn −90°":  {"below zero", nil},
		"20 ±25 Nm":  {"larger than the value", nil},
		"<20 Nm":     {"limit on one side", nil},
		"≤ 20 Nm":    {"limit on one side", nil},
		"22–18 Nm":   {"from more to less", []string{"18–22 N·m"}},
		"9999999 Nm": {"larger than any value", nil},
	} {
		ms := Find(in)
		if assert.Len(t, ms, 1, in) {
			assert.Contains(t, ms[0].Problem, want.problem, in)
			assert.Equal(t, want.choices, ms[0].Choices, in)
		}
	}
}

// A figure typed into a field is asked about as in a line; what older files may
// hold is read.
func TestFieldsDoNotGuessEither(t *testing.T) {
	for _, in := range []string{"1,200 N·m", "10,000 mm", "1.200 N·m", "<20 N·m", "≤ 20 N·m", "22–18 N·m"} {
		_, err := Parse(in)
		assert.Error(t, err, in)
	}
	for in, want := range map[string]string{"1.375 mm": "1.3750 mm", "1.3750 mm": "1.3750 mm", "0,125 mm": "0.125 mm", "60,5 N·m": "60.5 N·m", "-4 °C": "-4 °C"} {
		q, err := Parse(in)
		require.NoError(t, err, in)
		assert.Equal(t, want, q.String())
	}
}

// What is no figure stays words.
func TestNoFigure(t *testing.T) {
	for _, in := range []string{"M8 bolt", "TL-101", "a bolt", "one action", "half the slack", "stage 2: then", "in two stages", "the third gear", "cylinder 1", "5 bolts", "5 × M8"} {
		assert.Empty(t, Find(in), in)
	}
}

// Two figures agree at the digits they are given with.
func TestAgreementDependsOnTheDigits(t *testing.T) {
	for in, want := range map[string]bool{
		"22 N·m (16 lbf·ft)": true, "22 N·m (16.2 lbf·ft)": true, "22 N·m (16.23 lbf·ft)": true, "22 N·m (16.3 lbf·ft)": true, "22 N·m (16.4 lbf·ft)": true, "22 N·m (16.7 lbf·ft)": false,
		"60 N·m (44 lbf·ft)": true, "60 N·m (45 lbf·ft)": false, "60.5 N·m (44 lbf·ft)": false, "61 N·m (45 lbf·ft)": true,
		"20 ±2 N·m (14.8 ±1.5 lbf·ft)": true, "20 ±2 N·m (14.8 ±2 lbf·ft)": false, "20 ±2 N·m (14.8 ±3 lbf·ft)": false,
		"18–22 N·m (13–16 lbf·ft)": true, "18–22 N·m (13–18 lbf·ft)": false, "20 °C (68 °F)": true, "20 °C (70 °F)": false,
	} {
		q, err := Parse(in)
		require.NoError(t, err, in)
		assert.Equal(t, want, q.Agrees(), in)
	}
}

func TestConvertedValuesCarryTheirTolerance(t *testing.T) {
	for in, want := range map[string]string{
		"20 ±2 N·m": "14.8 ±1.5 lbf·ft", "140 ±5 N·m": "103 ±4 lbf·ft", "18–22 N·m": "13.3–16.2 lbf·ft",
		"20 +2/−1 N·m": "14.8 +1.5/−0.7 lbf·ft", "20 N·m ±10 %": "14.8 lbf·ft ±10 %", "1000 ±0.2 N·m": "738 ±0.1 lbf·ft",
	} {
		q, err := Parse(in)
		require.NoError(t, err, in)
		o, err := q.In(PoundForceFoot)
		require.NoError(t, err, in)
		assert.Equal(t, want, o.String(), in)
	}
}

func TestBounds(t *testing.T) {
	for in, want := range map[string][2]float64{
		"20 ±2 N·m": {18, 22}, "18–22 N·m": {18, 22}, "20 +2/−1 N·m": {19, 22}, "20 N·m ±10 %": {18, 22}, "20 N·m": {20, 20}, "90° ±5 N·m": {90, 90}, "20 °C ±9 °F": {15, 25},
	} {
		q, err := Parse(in)
		require.NoError(t, err, in)
		lo, hi := q.Bounds()
		assert.InDelta(t, want[0], lo, 1e-9, in)
		assert.InDelta(t, want[1], hi, 1e-9, in)
	}
}

// What is printed of any quantity is found again in a sentence, the same.
func TestPrintedFiguresAreFoundInASentence(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		q := drawQuantity(t)
		ms := Find("set it to " + q.String() + ", then go on")
		if len(ms) != 1 || ms[0].Quantity != q {
			t.Fatalf("%q was found as %+v, want %+v", q.String(), ms, q)
		}
		if ms[0].Problem != "" {
			t.Fatalf("%q: %s", q.String(), ms[0].Problem)
		}
	})
}

func drawQuantity(t *rapid.T) Quantity {
	units := []Unit{NewtonMetre, NewtonCentimetre, PoundForceFoot, PoundForceInch, KilogramForceMetr, KilogramForceCentimetre, Degree, Turn, Millimetre, Second, Minute, Hour, Celsius, Fahrenheit, Hertz}
	n := func(label string, lo, hi int) float64 { return float64(rapid.IntRange(lo, hi).Draw(t, label)) / 1000 }
	q := Quantity{Value: n("value", 100_000, 999_999), Unit: rapid.SampledFrom(units).Draw(t, "unit")}
	switch rapid.IntRange(0, 4).Draw(t, "shape") {
	case 1:
		q.Tol, q.TolUnit = n("tol", 1, 99_999), q.Unit
	case 2:
		q.Tol, q.Less, q.Uneven, q.TolUnit = n("above", 1, 50_000), n("below", 50_001, 99_999), true, q.Unit
	case 3:
		q.Range, q.High = true, q.Value+n("more", 1, 9_999)
	case 4:
		q.Tol, q.TolUnit = n("per cent", 1, 99_000), Percent
	}
	if q.Kind() == KindTorque && rapid.Bool().Draw(t, "also?") {
		q.Also, q.AlsoUnit = n("also", 1, 999_999), rapid.SampledFrom(units[:6]).Draw(t, "also unit")
		if q.AlsoUnit == q.Unit {
			q.Also, q.AlsoUnit = 0, ""
		} else if q.Range {
			q.AlsoHigh = q.Also + 1
		}
	}
	return q
}

// A range is typed into a field as in a line.
func TestBetweenInAField(t *testing.T) {
	q, err := Judge("between 0.08 and 0.18 mm")
	assert.NoError(t, err)
	assert.Equal(t, "0.08–0.18 mm", q.String())
	for _, s := range []string{"between 0.08 mm", "inbetween 0.08 and 0.18 mm", "between them 0.08–0.18 mm"} {
		_, err := Judge(s)
		assert.Error(t, err, s)
	}
}
