package drill

import (
	"context"
	"math/rand/v2"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/virtual"
)

// Pair is two mistakes that are each noticed alone, made on one engine.
type Pair struct {
	First, Second *Mistake
	Outcome       Outcome
	// Comes is what both do to the engine if nobody notices, Severity how bad that is, from 1
	// to 10.
	Comes    message.Text
	Severity int
}

// pairSeed draws the same pairs every time.
const pairSeed = 1

// Pairs makes some pairs of mistakes of a page at once, those that are caught alone or stop the
// work, and gives the pairs that get through: one hides the other. tried is how many were made,
// at most most; they are drawn with a fixed seed from all that there are, on the first engine
// that the page is for.
func Pairs(ctx context.Context, x *engine.Index, p *procedure.Procedure, most int, house House) (through []Pair, tried int) {
	g := made(x, p, world{car: p.First(x.Sheet)})
	g.make(house.Families(), nil)
	var alone []*Mistake
	for i := range g.out {
		m := &g.out[i]
		g.drill(m)
		if m.Outcome == Caught || m.Outcome == Stopped {
			alone = append(alone, m)
		}
	}
	if len(alone) < 2 {
		return nil, 0
	}
	draw := rand.New(rand.NewPCG(pairSeed, uint64(len(alone))))
	had := map[[2]int]bool{}
	for range 4 * most {
		i, j := draw.IntN(len(alone)), draw.IntN(len(alone))
		if i > j {
			i, j = j, i
		}
		if tried == most || ctx.Err() != nil {
			break
		}
		if i == j || had[[2]int{i, j}] || alone[i].at == alone[j].at {
			continue
		}
		had[[2]int{i, j}] = true
		tried++
		if pr := g.both(alone[i], alone[j]); !pr.Outcome.Good() {
			through = append(through, pr)
		}
	}
	return through, tried
}

// both makes two mistakes, the earlier first.
func (g *gen) both(a, b *Mistake) Pair {
	m := *a
	m.Why = message.Text{}
	t := g.bench(virtual.Resume(g.x, *g.before(a.at)))
	same := false
	for k := a.at; k < len(g.way.Steps) && !same; k++ {
		if k == b.at && t.late < 0 {
			t.goes(b, k)
		} else {
			t.goes(&m, k)
		}
		same = k > b.at && t.clear(k)
	}
	t.judge(&m, same)
	return Pair{a, b, m.Outcome, m.Comes, m.Severity}
}
