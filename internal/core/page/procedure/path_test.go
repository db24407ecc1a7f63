package procedure_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// plain is a page on which every engine goes the same way, banks one on which a look at
// the pump fails on engines that are found elsewhere, oil one that is not the same for
// all years.
const (
	plain = "check-valve-timing-r1.latch.json"
	banks = "renew-belt-both-banks-r1.latch.json"
	oil   = "renew-belt-in-oil-r1.latch.json"
)

func ids(p *procedure.Procedure) (out []step.ID) {
	for i := range p.Steps {
		out = append(out, p.Steps[i].ID)
	}
	return out
}

func TestAPlainPageIsItsOwnWay(t *testing.T) {
	d := fixture.Document(plain)
	p := &d.Procedure
	require.True(t, p.Plain())
	w := p.Along(nil, -1)
	assert.Same(t, p, w.Procedure)
	for i := range p.Steps {
		assert.Equal(t, i, w.Place(i))
		says, to := p.Back(i)
		assert.Empty(t, says)
		assert.Equal(t, -1, to)
		assert.Empty(t, p.Branch(i))
	}
	assert.Equal(t, -1, w.Place(-1))
	assert.Equal(t, 999, w.Place(999))
	assert.Empty(t, p.Failing())
	assert.Nil(t, p.First(&d.Engine))
	x := engine.NewIndex(&d.Engine)
	way, run := p.Go(x, 0, nil)
	assert.Same(t, p, way.Procedure)
	assert.Len(t, run.Steps, p.Len())
}

// What is done when the look fails is left out of the way the page should go, and is
// gone through where that step fails, and on from where it leads back to.
func TestTheWayThroughWhatIsDoneWhenAStepFails(t *testing.T) {
	p := &fixture.Document(banks).Procedure
	k, b := p.At("v13a"), p.At("v13b")
	require.Equal(t, k+1, b)
	assert.False(t, p.Plain())
	assert.Equal(t, []int{b}, p.Branch(k))
	assert.Empty(t, p.Branch(b), "nothing is done when that fails")
	assert.Empty(t, p.Branch(-1))
	assert.Equal(t, []int{k}, p.Failing())
	assert.Equal(t, k, p.Under(b))
	says, to := p.Back(b)
	assert.Equal(t, fmt.Sprintf("then step %d again, twice at most", k+1), says)
	assert.Equal(t, k, to)

	should := p.Along(nil, -1)
	assert.Equal(t, slices.Delete(slices.Clone(ids(p)), b, b+1), ids(should.Procedure))
	assert.Equal(t, b+1, should.Place(b), "behind it, places are one on")
	fails := p.Along(nil, k)
	all := ids(p)
	assert.Equal(t, slices.Concat(all[:k], all[b:b+1], all[k:b], all[b+1:]), ids(fails.Procedure))
	assert.Equal(t, []int{b, k, b + 1}, []int{fails.Place(k), fails.Place(k + 1), fails.Place(k + 2)})

	// Without a way back it is gone on from behind the step; with one to a step, from there.
	p.Steps[k].Again = nil
	assert.Equal(t, slices.Concat(all[:k], all[b:]), ids(p.Along(nil, k).Procedure))
	says, _ = p.Back(b)
	assert.Empty(t, says)
	p.Steps[k].Again = &step.Again{From: all[k-2], Times: 3}
	says, to = p.Back(b)
	assert.Equal(t, fmt.Sprintf("then go on from step %d, 3 times at most", k-1), says)
	assert.Equal(t, k-2, to)
	assert.Equal(t, slices.Concat(all[:k], all[b:b+1], all[k-2:b], all[b+1:]), ids(p.Along(nil, k).Procedure))
	p.Steps[k].Again = &step.Again{From: all[k+3]} // a step behind it is none to go back to
	_, to = p.Back(b)
	assert.Equal(t, k, to)
}

// However many turns earlier the engine is found, going through the page takes what is
// done when the look fails as often as it has to, and then every lock goes in.
func TestTheEngineIsBroughtHomeFromWhereverItIsFound(t *testing.T) {
	d := fixture.Document(banks)
	x, p := engine.NewIndex(&d.Engine), &d.Procedure
	k, b := p.At("v13a"), p.At("v13b")
	taken := map[int]int{}
	for n := range int64(12) {
		w, run := p.Go(x, n, nil)
		require.Len(t, run.Steps, len(w.Steps))
		again := 0
		for i := range w.Steps {
			if w.Place(i) == b {
				again++
				assert.Contains(t, []int{k, b}, w.Place(i+1), "then the look again, or what is done when it fails once more")
			}
			assert.False(t, run.Steps[i].Failed(), "found %d turns earlier, step %s fails", n, w.Steps[i].ID)
		}
		require.LessOrEqual(t, again, p.Steps[k].Most())
		taken[again]++
		whole := p.Trace(x, n, nil)
		require.Len(t, whole.Steps, p.Len())
		assert.Equal(t, again == 0, whole.Steps[b].Aside, "what was not done stands aside")
	}
	assert.Len(t, taken, 3, "never, once and twice, by where it is found: %v", taken)
	// One try less is too few for some.
	p.Steps[k].Again = &step.Again{Times: 1}
	failed := 0
	for n := range int64(12) {
		w, run := p.Go(x, n, nil)
		for i := range w.Steps {
			if run.Steps[i].Failed() {
				failed++
				break
			}
		}
	}
	assert.Positive(t, failed)
	assert.Less(t, failed, 12)
}

// A page that is not the same for all is gone through on one engine: no step is done
// that is not for it, and its own values hold.
func TestTheWayOnOneEngine(t *testing.T) {
	d := fixture.Document(oil)
	p := &d.Procedure
	cells, all := p.Cells(&d.Engine)
	require.Len(t, cells, 2)
	assert.Equal(t, 2, all)
	require.NotNil(t, p.First(&d.Engine))
	assert.Equal(t, cells[0], *p.First(&d.Engine))
	values := map[string]bool{}
	for _, car := range cells {
		w := p.Along(&car, -1)
		for i := range p.Steps {
			at := slices.Index(w.At, i)
			assert.Equal(t, p.Steps[i].When.Covers(car) && !p.Steps[i].IfNot, at >= 0, "step %s on %s", p.Steps[i].ID, car)
			if at < 0 {
				continue
			}
			if a, ok := p.Steps[i].Action.(*step.Tighten); ok && len(a.By) > 0 {
				on := w.Steps[at].Action.(*step.Tighten)
				assert.Empty(t, on.By, "one engine has one value")
				values[engine.StagesText(on.Stages)] = true
			}
		}
	}
	assert.Len(t, values, 2, "and each its own")
}

// Whatever steps are for when another fails, and for some engines only: each way goes
// forward but where it leads back, does nothing that is not for the engine, and the
// trace of the whole has every step once.
func TestWaysOfAnyPage(t *testing.T) {
	d := fixture.Document(banks)
	x := engine.NewIndex(&d.Engine)
	rapid.Check(t, func(r *rapid.T) {
		p := &procedure.Procedure{Header: d.Procedure.Header, Steps: slices.Clone(d.Procedure.Steps)}
		for i := range p.Steps {
			s := &p.Steps[i]
			s.IfNot = rapid.IntRange(0, 4).Draw(r, "if not") == 0
			s.Again = nil
			if rapid.IntRange(0, 5).Draw(r, "again") == 0 {
				s.Again = &step.Again{From: p.Steps[rapid.IntRange(0, i).Draw(r, "from")].ID, Times: rapid.IntRange(0, 12).Draw(r, "times")}
			}
			if rapid.IntRange(0, 6).Draw(r, "when") == 0 {
				s.When.Years.From = rapid.IntRange(2018, 2026).Draw(r, "year")
			}
		}
		car := engine.Car{Year: rapid.IntRange(2018, 2025).Draw(r, "car")}
		fails := -1
		if f := p.Failing(); len(f) > 0 {
			fails = rapid.SampledFrom(append(f, -1)).Draw(r, "fails")
		}
		w := p.Along(&car, fails)
		require.Len(r, w.At, len(w.Steps))
		back := 0
		for i, at := range w.At {
			require.True(r, p.Steps[at].When.Covers(car))
			if i > 0 && at <= w.At[i-1] {
				back++
			}
			if p.Steps[at].IfNot {
				require.Contains(r, p.Branch(fails), at)
			}
		}
		require.LessOrEqual(r, back, 1, "it leads back once")
		for i := range p.Steps {
			if k := p.Under(i); k >= 0 {
				require.Less(r, k, i)
				require.False(r, p.Steps[k].IfNot)
			}
			require.LessOrEqual(r, p.Steps[i].Most(), step.MostTimes)
		}
		turns := int64(rapid.IntRange(0, 6).Draw(r, "turns"))
		tr := p.Trace(x, turns, &car)
		require.Len(r, tr.Steps, p.Len())
		for i := range p.Steps {
			if !p.Steps[i].When.Covers(car) {
				require.True(r, tr.Steps[i].Aside, "a step that is not for the engine stands aside")
			}
		}
		way, run := p.Go(x, turns, &car)
		require.Len(r, run.Steps, len(way.Steps))
	})
}

// A step takes a minute, and a holder that a step uses within itself is held.
func TestAStepTakesAMinuteAndHolds(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x, p := engine.NewIndex(&d.Engine), &d.Procedure
	run := virtual.Run(x, p)
	assert.GreaterOrEqual(t, float64(run.Last().Minutes), float64(p.Len()))
	held := 0
	for i := range p.Steps {
		for _, id := range p.Holds(i) {
			held++
			assert.NotNil(t, x.Lock(id))
		}
	}
	assert.Positive(t, held)
	assert.Equal(t, p.Begins, p.Stands())
	assert.True(t, (&procedure.Task{}).None())
	assert.False(t, (&procedure.Task{Checks: true}).None())
	e := procedure.Edit{Op: procedure.Replace, Step: &step.Step{ID: "x"}}
	assert.Equal(t, step.ID("x"), e.Target())
	e = procedure.Edit{Op: procedure.Remove, ID: "y"}
	assert.Equal(t, step.ID("y"), e.Target())
	assert.Contains(t, procedure.Gone{ID: "z"}.Error(), `"z"`)
}
