package route

import (
	"math"

	"inklatch/internal/core/engine"
)

// Closing is a count of teeth or links held against the way round the wheels:
// where the roller of the tensioner would have to stand for it.
type Closing struct {
	Teeth int
	// Fits reports whether the loop closes with this count: with the roller within
	// its travel, or, where nothing moves, to a tenth of a tooth.
	Fits bool
	// Off is how much longer the way round is than the loop with the roller in the
	// middle of its travel, mm.
	Off float64
	// Sits is how far from the middle of its travel the roller stands then, mm,
	// positive towards more tension; At is where its centre is, in the sheet's
	// millimetres. Found is false where no place of the roller closes the loop, or
	// nothing moves.
	Sits  float64
	At    Point
	Found bool
	// Stretch is how much longer the loop may grow before the travel ends, per cent;
	// Ease how much way the drawn back roller gives to lay it on, mm.
	Stretch, Ease float64
}

// reach is how far from its middle a roller is looked for when its travel is too
// short, mm: farther than that a drive is drawn anew, not adjusted.
const reach = 120

// Closings are the counts with which a loop closes over its wheels as they stand,
// fewest first. Where there are none, they are the nearest counts below and above,
// with how far the roller would have to go, or, where nothing moves, how much the
// way round misses. A chain without a half link comes in even counts. It is an
// error when the loop cannot be laid.
func Closings(x *engine.Index, l *engine.Loop) ([]Closing, error) {
	cs, p, err := laid(x, l)
	if err != nil {
		return nil, err
	}
	step := 1.0
	if l.Kind == engine.Chain && !l.Half {
		step = 2
	}
	if l.Pitch <= 0 {
		return []Closing{}, nil
	}
	unit := step * l.Pitch
	take, err := Take(x, l)
	if err != nil {
		return nil, err
	}
	out := []Closing{}
	for k := math.Ceil(take.Least/unit - 1e-9); k*unit <= take.Most+1e-9; k++ {
		if c := closes(x, l, cs, p, take, int(k*step)); c.Fits {
			out = append(out, c)
		}
	}
	if len(out) > 0 {
		return out, nil
	}
	k := math.Floor(float64(p.Length()) / unit)
	for _, n := range []float64{k, k + 1} {
		if n < 1 {
			continue
		}
		// Where nothing moves, the nearer of the two may still fit to a tenth.
		c := closes(x, l, cs, p, take, int(n*step))
		if c.Fits {
			return []Closing{c}, nil
		}
		out = append(out, c)
	}
	return out, nil
}

// closes holds one count against the way round.
func closes(x *engine.Index, l *engine.Loop, cs []Circle, p *Path, take *TakeUp, n int) Closing {
	length := float64(n) * l.Pitch
	c := Closing{Teeth: n, Off: float64(p.Length()) - length, Stretch: (take.Most - length) / length * 100, Ease: length - take.Least}
	way, travel := moving(x, l, cs, p)
	if way == nil {
		c.Fits = math.Abs(c.Off) <= l.Pitch/10
		return c
	}
	over := func(v float64) float64 {
		q, err := way(v)
		if err != nil {
			return math.NaN()
		}
		return float64(q.Length()) - length
	}
	v := sits(over, travel)
	c.Fits = !math.IsNaN(v)
	// Beyond the travel the roller is followed in small moves, so that the nearest
	// place is found and nothing is looked for past wheels it would run into.
	for _, to := range []float64{1, -1} {
		for d := travel; math.IsNaN(v) && d < reach; d += 2 {
			a, b := over(to*d), over(to*min(d+2, reach))
			if math.IsNaN(a) || math.IsNaN(b) {
				break
			}
			v = Root(over, to*d, to*min(d+2, reach))
		}
	}
	if math.IsNaN(v) {
		return c
	}
	at, place := roller(x.Tensioner(l.Tensioner), cs, p)
	c.Sits, c.At = v, place(v)
	c.Found = c.Fits || lies(x, l, cs, at, c.At, length)
	return c
}

// lies reports whether a loop of a length lies round its wheels with one of them
// moved, none in the way of another.
func lies(x *engine.Index, l *engine.Loop, cs []Circle, at int, to Point, length float64) bool {
	moved := append([]Circle(nil), cs...)
	moved[at].Centre = to
	p, err := Lay(moved)
	if err != nil || math.Abs(float64(p.Length())-length) > l.Pitch/100 {
		return false
	}
	for _, t := range Troubles(x, l, moved, p) {
		if t.Kind != Touches {
			return false
		}
	}
	return true
}
