package turns_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/turns"
)

// A mark on an idler, on a wheel that is gone, or on a shaft that nothing drives
// never stands in the way of the plan.
func TestMarksWhereNothingComesHome(t *testing.T) {
	for _, wheel := range []engine.WheelID{"idler-wheel", "no-such-wheel", ""} {
		d := fixture.Document("renew-timing-belt-r3.latch.json")
		s := d.Engine
		s.Marks = append(s.Marks, engine.Mark{ID: "odd", Name: "odd mark", Kind: engine.TimingMark, Wheel: wheel, At: 40})
		x := engine.NewIndex(&s)
		assert.NotPanics(t, func() {
			turns.Of(x, &d.Procedure, finding.DefaultHouse())
			pageproof.Prove(x, &d.Procedure, finding.DefaultHouse())
		}, string(wheel))
	}
}

// A mark away from the timing position stands where its shaft truly brings it:
// a cam mark at 180° at every odd count, a crank mark at 90° at none.
func TestMarksAwayFromTheTimingPosition(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	s := d.Engine
	s.Marks = append(s.Marks,
		engine.Mark{ID: "half", Name: "half mark", Kind: engine.TimingMark, Wheel: "inlet-wheel", At: 180},
		engine.Mark{ID: "quarter", Name: "quarter mark", Kind: engine.TimingMark, Wheel: "crank-wheel", At: 90})
	p := turns.Of(engine.NewIndex(&s), &d.Procedure, finding.DefaultHouse())
	by := map[string]turns.Row{}
	for _, r := range p.Rows {
		by[r.Name] = r
	}
	require.Contains(t, by, "half mark")
	assert.Equal(t, []int64{1, 3, 5}, by["half mark"].Homes[:3])
	assert.Empty(t, by["quarter mark"].Homes)
	assert.Equal(t, []float64{0.25, 1.25, 2.25}, by["quarter mark"].Elsewhere[:3])
	assert.EqualValues(t, 2, p.Best, "the procedure looks at neither")
}

// No mend of a turn plan leads to a plan that is still not home.
func TestMendsOfAPlanSettleIt(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	n := 0
	for _, count := range []float64{1, 1.5, 2.25, 3, 5} {
		change(&d.Procedure, count)
		p := turns.Of(x, &d.Procedure, finding.DefaultHouse())
		for _, m := range p.Mends {
			q, _, err := procedure.Apply(&d.Procedure, m.Edits)
			require.NoError(t, err)
			assert.True(t, turns.Of(x, q, finding.DefaultHouse()).Home, "%v turns: %s", count, m.Label)
			n++
		}
	}
	assert.NotZero(t, n)
}
