package desk_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/desk"
)

func TestWrenchOf(t *testing.T) {
	a, err := desk.WrenchOf(desk.WrenchAsk{Torque: "100 ±5", Length: 400, Reach: 100, Full: 140})
	require.NoError(t, err)
	assert.Equal(t, []string{"80 N·m", "59 lbf·ft", "710 lbf·in"}, a.Set)
	assert.InDelta(t, 1.25, a.Gives, 1e-9)
	assert.Empty(t, a.Trouble)
	a, err = desk.WrenchOf(desk.WrenchAsk{Torque: "120", Ratio: 5, Efficiency: 0.92, Full: 140})
	require.NoError(t, err)
	assert.Contains(t, a.Trouble, "used from 28 N·m on")
	a, err = desk.WrenchOf(desk.WrenchAsk{Torque: "10 N·m"})
	require.NoError(t, err)
	assert.Equal(t, "88.5 lbf·in", a.Set[2], "not 88.507")

	for field, ask := range map[string]desk.WrenchAsk{
		"torque": {Torque: "soft"}, "length": {Torque: "5", Reach: 40}, "angle": {Torque: "5", Length: 50, Reach: 60, Angle: 180}, "ratio": {Torque: "5", Ratio: 0.2, Efficiency: 1}, "full": {Torque: "5", Full: -3},
	} {
		_, err := desk.WrenchOf(ask)
		var p *desk.Problem
		if assert.ErrorAs(t, err, &p, field) {
			assert.Equal(t, field, p.Field, p.Title)
		}
	}
}
