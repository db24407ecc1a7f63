package desk_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/bolt"
	"inklatch/internal/desk"
)

func TestClampOf(t *testing.T) {
	a, err := desk.ClampOf(desk.ClampAsk{Thread: "m10 x 1.5", Class: "10.9", Lubrication: "dry", Torque: "52 ±2"})
	require.NoError(t, err)
	assert.Equal(t, bolt.Fine, a.Verdict)
	assert.Empty(t, a.Meant)
	assert.InDelta(t, 48.1, a.Proof, 0.1, "ISO 898-1, from memory")
	assert.Less(t, a.Clamp.Low, a.Clamp.High)
	assert.Less(t, a.OfYield.High, 1.0)
	assert.Less(t, a.Yields.High, a.Breaks.High)
	in, err := desk.ClampOf(desk.ClampAsk{Thread: "M10", Class: "10.9", Lubrication: "dry", Torque: "38.4 lbf·ft"})
	require.NoError(t, err)
	assert.InDelta(t, 52, in.Torque, 0.1)

	a, err = desk.ClampOf(desk.ClampAsk{Thread: "M10", Lubrication: "dry", Torque: "390 Nm"})
	require.NoError(t, err)
	assert.Equal(t, "12.9", a.Class, "the strongest where nobody says")
	assert.Equal(t, bolt.BreaksIt, a.Verdict)
	assert.Contains(t, a.Meant, "39 N·m")

	for field, ask := range map[string]desk.ClampAsk{
		"thread": {Thread: "M10×2", Torque: "5"}, "class": {Thread: "M10", Class: "10,8", Torque: "5"}, "torque": {Thread: "M10", Torque: "90°"}, "across": {Thread: "M10", Torque: "5", Across: -1},
	} {
		_, err := desk.ClampOf(ask)
		var p *desk.Problem
		if assert.ErrorAs(t, err, &p, field) {
			assert.Equal(t, field, p.Field, p.Title)
			assert.Equal(t, 422, p.Status)
		}
	}
	for _, torque := range []string{"", "-5 Nm", "1e9 Nm", "a lot"} {
		_, err := desk.ClampOf(desk.ClampAsk{Thread: "M10", Torque: torque})
		assert.Error(t, err, torque)
	}
}
