// Package bolt knows what a bolt is made to hold: its thread, its property class, the
// friction in its thread and under its head, and so what a torque does to it. Lengths are
// millimetres, areas mm², forces newtons, stresses N/mm², torques newton metres; every
// clamp load is a band between the least and the greatest friction, never one number.
//
// The package knows no engine sheet. What it says rests on figures of standards that are
// marked where they stand; those from memory say so.
package bolt

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/unit"
)

// Thread is an external screw thread of the ISO metric profile, or a unified one.
type Thread struct {
	// D is the nominal diameter and P the pitch, mm.
	D, P float64
	// Unified threads are told by their diameter and threads per inch, as 3/8-16.
	Unified bool
	// Left is set for a left-hand thread.
	Left bool
}

// inch is 25.4 mm exactly (the international inch).
const inch = 25.4

// PitchDiameter is d2 = d − 0.649519·P (ISO 724).
func (t Thread) PitchDiameter() unit.Length { return unit.Length(t.D - 3*math.Sqrt(3)/8*t.P) }

// Minor is the minor diameter of the external thread at its root, d3 = d − 1.226869·P:
// d1 = d − 1.082532·P less a sixth of the triangle’s height (ISO 724, ISO 898-1).
func (t Thread) Minor() unit.Length {
	h := math.Sqrt(3) / 2 * t.P
	return unit.Length(t.D - 2*5.0/8*h - h/6)
}

// Core is the mean of pitch and minor diameter, on which stress is counted.
func (t Thread) Core() unit.Length {
	if t.Unified {
		return unit.Length(t.D - 0.9743*t.P) // ASME B1.1, from memory
	}
	return (t.PitchDiameter() + t.Minor()) / 2
}

// StressArea is As = π/4·((d2 + d3)/2)² (ISO 898-1), or π/4·(D − 0.9743/n)² for unified
// threads (ASME B1.1, from memory), mm².
func (t Thread) StressArea() unit.Area { return unit.Area(math.Pi / 4 * t.Core() * t.Core()) }

// String is the thread as it is written: M10, M12×1.25, 3/8-16.
func (t Thread) String() string {
	var out string
	switch {
	case t.Unified:
		out = fmt.Sprintf("%s-%.0f", fraction(t.D/inch), inch/t.P)
	case t.P == coarse[t.D]:
		out = "M" + short(t.D)
	default:
		out = "M" + short(t.D) + "×" + short(t.P)
	}
	if t.Left {
		out += " LH"
	}
	return out
}

func short(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

func fraction(v float64) string {
	for _, den := range []float64{1, 2, 4, 8, 16} {
		if n := v * den; math.Abs(n-math.Round(n)) < 1e-9 {
			if den == 1 {
				return short(n)
			}
			return fmt.Sprintf("%.0f/%.0f", n, den)
		}
	}
	return short(v)
}

// coarse are the pitches of the coarse series and fine those of the fine ones, mm by
// nominal diameter (ISO 261 and ISO 262, from memory; M3 to M30).
var (
	coarse = map[float64]float64{3: 0.5, 4: 0.7, 5: 0.8, 6: 1, 7: 1, 8: 1.25, 9: 1.25, 10: 1.5, 11: 1.5, 12: 1.75, 14: 2, 16: 2, 18: 2.5, 20: 2.5, 22: 2.5, 24: 3, 27: 3, 30: 3.5}
	fine   = map[float64][]float64{
		4: {0.5}, 5: {0.5}, 6: {0.75}, 7: {0.75}, 8: {1, 0.75}, 9: {1, 0.75}, 10: {1.25, 1, 0.75}, 11: {1, 0.75}, 12: {1.5, 1.25, 1}, 14: {1.5, 1.25, 1},
		15: {1.5, 1}, 16: {1.5, 1}, 17: {1.5, 1}, 18: {2, 1.5, 1}, 20: {2, 1.5, 1}, 22: {2, 1.5, 1}, 24: {2, 1.5, 1}, 25: {2, 1.5, 1}, 26: {1.5}, 27: {2, 1.5, 1}, 28: {2, 1.5, 1}, 30: {3, 2, 1.5, 1},
	}
	// unified are the threads per inch of UNC and UNF by diameter, inches (ASME B1.1, from
	// memory).
	unified = map[float64][]float64{
		1.0 / 4: {20, 28}, 5.0 / 16: {18, 24}, 3.0 / 8: {16, 24}, 7.0 / 16: {14, 20}, 1.0 / 2: {13, 20}, 9.0 / 16: {12, 18}, 5.0 / 8: {11, 18}, 3.0 / 4: {10, 16}, 7.0 / 8: {9, 14}, 1: {8, 12},
	}
)

var (
	metricText  = regexp.MustCompile(`^[Mm]\s*(\d{1,2}(?:[.,]\d+)?)(?:\s*[x×X*]\s*(\d(?:[.,]\d+)?)\b)?\s*(?:[x×X*]\s*\d{2,3}\b(?:\s*mm)?)?\b(.*)$`)
	unifiedText = regexp.MustCompile(`^(\d{1,2})/(\d{1,2})["”]?\s*[-–]\s*(\d{1,2})\b(.*)$`)
	pipeText    = regexp.MustCompile(`(?i)^(?:G|R|Rc|Rp)\s*\d|NPT|BSP`)
	restText    = regexp.MustCompile(`(?i)^[\s,-]*(?:(LH|left(?:[- ]hand)?)|\d[a-z]\d?[a-z]?|UN[CF]|thread|RH)?[\s,]*$`)
)

// NoThread is why a text is no thread of this package, with the nearest that is one; the
// nearest is empty where nothing is near.
type NoThread struct {
	Text, Nearest, Why string
}

// Error says it in a sentence.
func (e *NoThread) Error() string {
	out := "“" + e.Text + "” " + e.Why
	if e.Nearest != "" {
		out += "; the nearest is " + e.Nearest
	}
	return out
}

// Parse reads a thread as people write it: M10, M12×1.25, M12 x 1.25 LH, 3/8-16 UNC; the
// length of the bolt may stand behind it, as in M8×35. Every error is a *NoThread, that of a
// pipe thread too: those seal and hold no clamp load, Pipe tells them.
func Parse(text string) (Thread, error) {
	text = strings.TrimSpace(text)
	num := func(s string) float64 {
		v, _ := strconv.ParseFloat(strings.Replace(s, ",", ".", 1), 64)
		return v
	}
	if m := metricText.FindStringSubmatch(text); m != nil {
		rest := restText.FindStringSubmatch(m[3])
		if rest == nil {
			return Thread{}, &NoThread{Text: text, Why: "is not read as a thread behind “M" + m[1] + "”", Nearest: nearestOf(num(m[1]), num(m[2]))}
		}
		t := Thread{D: num(m[1]), P: num(m[2]), Left: rest[1] != ""}
		c, isCoarse := coarse[t.D]
		if m[2] == "" && isCoarse {
			t.P = c
		}
		if t.P == c && isCoarse || slices.Contains(fine[t.D], t.P) {
			return t, nil
		}
		if t.D < 3 || t.D > 30 {
			return Thread{}, &NoThread{Text: text, Why: "is none of the threads known here, M3 to M30"}
		}
		return Thread{}, &NoThread{Text: text, Why: "is no ISO metric thread", Nearest: nearestOf(t.D, t.P)}
	}
	if m := unifiedText.FindStringSubmatch(text); m != nil {
		rest := restText.FindStringSubmatch(m[4])
		d, n := num(m[1])/math.Max(num(m[2]), 1), num(m[3])
		if rest != nil && slices.Contains(unified[d], n) {
			return Thread{D: d * inch, P: inch / n, Unified: true, Left: rest[1] != ""}, nil
		}
		near := ""
		if of := unified[d]; len(of) > 0 {
			near = Thread{D: d * inch, P: inch / of[0], Unified: true}.String()
		}
		return Thread{}, &NoThread{Text: text, Why: "is no unified thread", Nearest: near}
	}
	return Thread{}, &NoThread{Text: text, Why: "is not read as a thread"}
}

// Pipe reports whether a text names a pipe thread, which seals and clamps nothing.
func Pipe(text string) bool { return pipeText.MatchString(strings.TrimSpace(text)) }

// nearestOf is the thread of the series that lies nearest to a diameter and a pitch; the
// coarse one where no pitch is given.
func nearestOf(d, p float64) string {
	best, off := Thread{}, math.Inf(1)
	try := func(t Thread, isCoarse bool) {
		by := 4 * math.Abs(t.D-d)
		if p > 0 {
			by += math.Abs(t.P - p)
		} else if !isCoarse {
			by += 0.5
		}
		if by < off-1e-9 || by < off+1e-9 && (t.D < best.D || t.D == best.D && t.P > best.P) {
			best, off = t, by
		}
	}
	for of, pitch := range coarse {
		try(Thread{D: of, P: pitch}, true)
	}
	for of, pitches := range fine {
		for _, pitch := range pitches {
			try(Thread{D: of, P: pitch}, false)
		}
	}
	if off > 8 {
		return ""
	}
	return best.String()
}
