// Package tension turns the note of a plucked run into its tension and back,
// and judges a set of readings. Lengths are millimetres, masses grams a metre,
// tensions newtons, frequencies hertz.
package tension

import (
	"errors"
	"math"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Run is a free run of belt.
type Run struct {
	// Length is the free length, mm; Mass the mass of a metre, g/m.
	Length, Mass float64
}

// Check says what is wrong with the run.
func (r Run) Check() error {
	if !(r.Length > 0) || !(r.Mass > 0) {
		return errors.New("a run has a length and a mass above zero")
	}
	return nil
}

// Tension is the tension, N, at which the run's fundamental is f, Hz:
// T = 4·m·L²·f², from f = √(T/m)/(2L) for a stretched string fixed at both ends
// (any textbook of physics under standing waves). A belt is stiffer than a
// string: short thick runs read a little high.
func (r Run) Tension(f float64) float64 {
	l, m := r.Length/1000, r.Mass/1000
	return 4 * m * l * l * f * f
}

// Frequency is the run's fundamental, Hz, at tension n, N.
func (r Run) Frequency(n float64) float64 {
	l, m := r.Length/1000, r.Mass/1000
	return math.Sqrt(n/m) / (2 * l)
}

// Window is what passes, Hz.
type Window struct{ Least, Most float64 }

// Middle of the window.
func (w Window) Middle() float64 { return (w.Least + w.Most) / 2 }

// Holds reports whether f passes.
func (w Window) Holds(f float64) bool { return f >= w.Least && f <= w.Most }

// Verdict is what to do after a set of readings.
type Verdict string

// The verdicts.
const (
	// Accept: they agree and the mean passes.
	Accept Verdict = "accept"
	// More: too few, or too far apart to know; turn the engine and take more.
	More Verdict = "turn and take more"
	// Settling: they still fall or rise from one to the next.
	Settling Verdict = "still settling"
	// Reset: they agree, on a note outside the window.
	Reset Verdict = "set again"
)

// Judged is a set of readings looked at.
type Judged struct {
	N      int     `json:"n"`
	Mean   float64 `json:"mean"`
	Spread float64 `json:"spread"`
	// Error is half the 95 % confidence interval of the mean (Student), Hz.
	Error float64 `json:"error"`
	// Outliers are places of readings that do not belong to the rest, by Grubbs'
	// test at 5 % (NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.17.1);
	// they are left out of mean and spread.
	Outliers []int `json:"outliers"`
	// Drift is the change from one reading to the next, Hz, by least squares;
	// Drifts is set when it is not chance (t-test, 5 %).
	Drift   float64 `json:"drift"`
	Drifts  bool    `json:"drifts"`
	Verdict Verdict `json:"verdict"`
	Why     string  `json:"why"`
}

// LeastReadings is the fewest readings that are judged: common practice is
// "several", no source; three is the least that shows a spread and one odd one.
const LeastReadings = 3

// Judge looks at readings in the order they were taken.
func Judge(readings []float64, w Window) (*Judged, error) {
	if !(w.Least > 0) || !(w.Most > w.Least) {
		return nil, errors.New("a window has a lower and a higher end, both above zero")
	}
	for _, f := range readings {
		if !(f > 0) || math.IsInf(f, 0) {
			return nil, errors.New("a reading is a frequency above zero")
		}
	}
	j := &Judged{N: len(readings), Outliers: []int{}}
	if j.N < LeastReadings {
		if j.N > 0 {
			j.Mean = stat.Mean(readings, nil)
		}
		j.Verdict, j.Why = More, "fewer than three readings show no spread"
		return j, nil
	}
	kept, order := j.drop(readings)
	j.Mean, j.Spread = stat.MeanStdDev(kept, nil)
	n := float64(len(kept))
	j.Error = student(0.975, n-1) * j.Spread / math.Sqrt(n)
	j.trend(kept, order)
	switch half := (w.Most - w.Least) / 2; {
	case j.Drifts:
		j.Verdict, j.Why = Settling, "each reading lies further the same way; the belt is still settling"
	case !w.Holds(j.Mean) && outside(j, w):
		j.Verdict, j.Why = Reset, "the readings agree on a note outside the window"
	case j.Error > half:
		j.Verdict, j.Why = More, "the readings lie too far apart to know on which side of the window the belt is"
	case !w.Holds(j.Mean):
		j.Verdict, j.Why = More, "the mean lies just outside; one more reading may tell"
	default:
		j.Verdict, j.Why = Accept, "the readings agree and their mean passes"
	}
	return j, nil
}

// outside reports whether the whole confidence interval is outside the window.
func outside(j *Judged, w Window) bool {
	return j.Mean+j.Error < w.Least || j.Mean-j.Error > w.Most
}

// drop leaves out outliers, one after another, never more than a third.
func (j *Judged) drop(readings []float64) (kept, order []float64) {
	kept = append(kept, readings...)
	for i := range readings {
		order = append(order, float64(i))
	}
	for len(kept) > LeastReadings && len(kept)-1 >= (2*len(readings)+2)/3 {
		mean, sd := stat.MeanStdDev(kept, nil)
		far := 0
		for i := range kept {
			if math.Abs(kept[i]-mean) > math.Abs(kept[far]-mean) {
				far = i
			}
		}
		if sd == 0 || math.Abs(kept[far]-mean)/sd <= Grubbs(len(kept), 0.05) {
			break
		}
		j.Outliers = append(j.Outliers, int(order[far]))
		kept = append(kept[:far], kept[far+1:]...)
		order = append(order[:far], order[far+1:]...)
	}
	return kept, order
}

// Grubbs is the critical value of Grubbs' two-sided test for n readings at
// level alpha: (n−1)/√n · √(t²/(n−2+t²)) with t of Student at alpha/(2n) and
// n−2 degrees of freedom.
func Grubbs(n int, alpha float64) float64 {
	if n < 3 {
		return math.Inf(1)
	}
	m := float64(n)
	t := student(1-alpha/(2*m), m-2)
	return (m - 1) / math.Sqrt(m) * math.Sqrt(t*t/(m-2+t*t))
}

func student(p, nu float64) float64 {
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: nu}.Quantile(p)
}

// trend fits a line through the readings and asks whether its slope is chance.
func (j *Judged) trend(kept, order []float64) {
	n := float64(len(kept))
	if n < 4 {
		return
	}
	a, b := stat.LinearRegression(order, kept, nil, false)
	j.Drift = b
	rest, mx, sxx := 0.0, stat.Mean(order, nil), 0.0
	for i := range kept {
		e := kept[i] - a - b*order[i]
		rest += e * e
		sxx += (order[i] - mx) * (order[i] - mx)
	}
	se := math.Sqrt(rest / (n - 2) / sxx)
	j.Drifts = b != 0 && math.Abs(b) > student(0.975, n-2)*se && math.Abs(b)*(n-1) > 0.02*stat.Mean(kept, nil)
}
