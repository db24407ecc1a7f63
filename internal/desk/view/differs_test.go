package view_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/desk/view"
)

// An engine differs from itself in nothing; from itself a step later in what that step
// did, and the other way round in the same.
func TestWhatAStepDidIsWhatDiffers(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	v := view.Of(x, &d.Procedure, 1, finding.DefaultHouse())
	after := func(id step.ID) []string {
		i := d.Procedure.At(id)
		require.GreaterOrEqual(t, i, 0)
		return view.Differs(x, x, &v.States[i+1], &v.States[i])
	}
	for i := range v.States {
		assert.Empty(t, view.Differs(x, x, &v.States[i], &v.States[i]))
		if i > 0 {
			assert.Len(t, view.Differs(x, x, &v.States[i-1], &v.States[i]), len(view.Differs(x, x, &v.States[i], &v.States[i-1])), "there and back, before step %d", i)
		}
	}
	assert.Equal(t, []string{"crank pin: in, was out"}, after("s08"))
	assert.Contains(t, after("s09"), "crank: held, was free")
	assert.Contains(t, after("s11"), "cam bar: in, was out")
	assert.Contains(t, after("s11"), "inlet cam: held, was free")
	for _, c := range []struct{ verb, says string }{{"take off", "timing belt: off, was on"}, {"fit", "timing belt: on, was off"}} {
		for i := range d.Procedure.Steps {
			if s := &d.Procedure.Steps[i]; string(s.Action.Verb()) == c.verb {
				assert.Contains(t, view.Differs(x, x, &v.States[i+1], &v.States[i]), c.says)
			}
		}
	}
	// What is in doubt is said in teeth, then in degrees.
	a, b := v.States[0], v.States[0]
	a.Shafts, b.Shafts = append([]view.Shaft{}, a.Shafts...), append([]view.Shaft{}, b.Shafts...)
	a.Shafts[1].Teeth, b.Shafts[2].Teeth, a.Shafts[0].Doubt = 1, 2, 0.5
	assert.Equal(t, []string{
		"crank: known to ±0.5°, was to ±0°", x.Sheet.Shafts[1].Name + ": in doubt by a tooth, was sure to the tooth", x.Sheet.Shafts[2].Name + ": sure to the tooth, was in doubt by 2 teeth",
	}, view.Differs(x, x, &a, &b))
	a.Crank, b.Crank = 725, 5
	assert.NotContains(t, view.Differs(x, x, &a, &b)[0], "crank: at", "a whole cycle on it stands as it did")
	a.Crank = 10
	assert.Contains(t, view.Differs(x, x, &a, &b), "crank: at 10.0°, was at 5.0°")
}
