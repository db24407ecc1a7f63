// Package tension turns the note of a plucked run into its tension and back,
// and judges a set of readings. Lengths are millimetres, masses grams a metre,
// tensions newtons, frequencies hertz.
package tension

import (
	"errors"
	"fmt"
	"math"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"inklatch/internal/core/unit"
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
// (any textbook of physics under standing waves). Bending stiffness is neglected:
// short thick runs read a little high (see Stiff).
func (r Run) Tension(f unit.Frequency) unit.Force {
	l, m := r.Length/1000, r.Mass/1000
	return unit.Force(4 * m * l * l * float64(f) * float64(f))
}

// Frequency is the run's fundamental, Hz, at tension n, N.
func (r Run) Frequency(n unit.Force) unit.Frequency {
	l, m := r.Length/1000, r.Mass/1000
	return unit.Frequency(math.Sqrt(float64(n)/m) / (2 * l))
}

// Window is what passes, Hz.
type Window struct{ Least, Most float64 }

// Middle of the window.
func (w Window) Middle() unit.Frequency { return unit.Frequency((w.Least + w.Most) / 2) }

// Holds reports whether f passes.
func (w Window) Holds(f unit.Frequency) bool { return float64(f) >= w.Least && float64(f) <= w.Most }

// Verdict is what to do after a set of readings.
type Verdict string

// The verdicts.
const (
	// Accept: the 95 % interval of the mean lies inside the window.
	Accept Verdict = "accept"
	// More: too few, or too far apart to know; turn the engine and take more.
	More Verdict = "turn and take more"
	// Settling: they still fall or rise from one to the next.
	Settling Verdict = "still settling"
	// Reset: the whole interval lies outside the window.
	Reset Verdict = "set again"
	// Odd: one reading does not belong to the rest; somebody has to say whether
	// it stays.
	Odd Verdict = "look at one reading"
)

// Judged is a set of readings looked at. No reading is left out by itself.
type Judged struct {
	N      int     `json:"n"`
	Mean   float64 `json:"mean"`
	Spread float64 `json:"spread"`
	// Error is half the 95 % confidence interval of the mean (Student), Hz.
	Error float64 `json:"error"`
	// Outliers is the place of the reading that does not belong to the rest, by
	// Grubbs' test at 5 % (NIST/SEMATECH e-Handbook of Statistical Methods,
	// 1.3.5.17.1), empty for none. The test is made from GrubbsLeast readings on.
	Outliers []int `json:"outliers"`
	// Without is the mean of the others, Hz, where there is one.
	Without float64 `json:"without,omitzero"`
	// Drift is the change from one reading to the next, Hz, by least squares;
	// Drifts is set when they go the same way by more than chance (Mann–Kendall,
	// exact, 5 %) and by more than 2 % of the mean.
	Drift   float64 `json:"drift"`
	Drifts  bool    `json:"drifts"`
	Verdict Verdict `json:"verdict"`
	Why     string  `json:"why"`
}

// LeastReadings is the fewest readings that are judged: common practice is
// "several", no source; three is the least that shows a spread.
const LeastReadings = 3

// GrubbsLeast is the fewest readings Grubbs' test is made with: with six or
// fewer it calls good readings odd too often to be of use (NIST/SEMATECH
// e-Handbook, 1.3.5.17, from memory).
const GrubbsLeast = 7

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
	j.Mean, j.Spread = stat.MeanStdDev(readings, nil)
	n := float64(j.N)
	j.Error = student(0.975, n-1) * j.Spread / math.Sqrt(n)
	j.odd(readings)
	steady := j.trend(readings)
	switch low, high := j.Mean-j.Error, j.Mean+j.Error; {
	case len(j.Outliers) > 0:
		j.Verdict = Odd
		j.Why = fmt.Sprintf("reading %d does not belong to the rest, whose mean is %.1f Hz; was another run plucked? Take it out if so, or take more", j.Outliers[0]+1, j.Without)
	case j.Drifts && steady:
		j.Verdict, j.Why = Settling, "each reading lies further the same way; the belt is still settling"
	case j.Drifts:
		j.Verdict, j.Why = Settling, "the readings go on the same way by more than chance; the belt is still settling"
	case high < w.Least || low > w.Most:
		j.Verdict, j.Why = Reset, "the readings agree on a tone outside the window"
	case low >= w.Least && high <= w.Most:
		j.Verdict, j.Why = Accept, "the mean lies inside the window with all of its 95 % interval"
	case w.Holds(unit.Frequency(j.Mean)):
		j.Verdict, j.Why = More, "the mean lies inside, but its 95 % interval reaches out of the window"
	default:
		j.Verdict, j.Why = More, "the mean lies outside, but its 95 % interval reaches into the window"
	}
	return j, nil
}

// odd looks for the one reading that does not belong to the rest.
func (j *Judged) odd(readings []float64) {
	if j.N < GrubbsLeast || j.Spread == 0 {
		return
	}
	far := 0
	for i := range readings {
		if math.Abs(readings[i]-j.Mean) > math.Abs(readings[far]-j.Mean) {
			far = i
		}
	}
	if math.Abs(readings[far]-j.Mean)/j.Spread > Grubbs(j.N, 0.05) {
		j.Outliers = []int{far}
		j.Without = (j.Mean*float64(j.N) - readings[far]) / float64(j.N-1)
	}
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

// trend asks whether the readings go the same way by more than chance; steady is
// set when each one lies further the same way.
func (j *Judged) trend(readings []float64) (steady bool) {
	order := make([]float64, len(readings))
	for i := range order {
		order[i] = float64(i)
	}
	_, j.Drift = stat.LinearRegression(order, readings, nil, false)
	up, down := 0, 0
	for i := range readings {
		for k := i + 1; k < len(readings); k++ {
			switch {
			case readings[k] > readings[i]:
				up++
			case readings[k] < readings[i]:
				down++
			}
		}
	}
	pairs := len(readings) * (len(readings) - 1) / 2
	j.Drifts = MannKendall(len(readings), up-down) <= 0.05 && math.Abs(j.Drift)*float64(len(readings)-1) > 0.02*j.Mean
	return up == pairs || down == pairs
}

// MannKendall is the chance that n readings in any order at all give a sum of
// signs of |s| or more, both ways: the exact two-sided test (Kendall, Rank
// Correlation Methods, 1970, from memory). The number of orders with k pairs the
// wrong way round follows by adding one reading after another.
func MannKendall(n, s int) float64 {
	if n < 2 {
		return 1
	}
	orders := []float64{1}
	all := 1.0
	for m := 2; m <= n; m++ {
		next := make([]float64, len(orders)+m-1)
		for k, v := range orders {
			for add := range m {
				next[k+add] += v
			}
		}
		orders, all = next, all*float64(m)
	}
	if s < 0 {
		s = -s
	}
	pairs, sum := n*(n-1)/2, 0.0
	for k, v := range orders {
		if d := pairs - 2*k; d >= s || -d >= s {
			sum += v
		}
	}
	return sum / all
}

// Stiff is the share by which bending stiffness raises the note of a run, in the
// first order: a string with stiffness EI and length L fixed at its ends sounds
// at f·(1 + 2/L·√(EI/T)) (Fletcher and Rossing, The Physics of Musical
// Instruments, section 2.18, from memory). EI of a belt is on no data sheet; the
// tool neglects it and warns below ShortRun.
func Stiff(length, tension, ei float64) float64 {
	return 2 / (length / 1000) * math.Sqrt(ei/tension)
}

// ShortRun is the free length, mm, under which the screens warn that stiffness
// is neglected: an assumption of ours, about ten times the pitch of a belt.
const ShortRun = 90
