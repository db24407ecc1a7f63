package desk_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine/resolution"
	"inklatch/internal/core/engine/tension"
	"inklatch/internal/desk"
)

func TestRim(t *testing.T) {
	deg, mm := 24.0, 39.79
	a, err := desk.RimOf(desk.Rim{Diameter: 190, Degrees: &deg})
	require.NoError(t, err)
	assert.InDelta(t, 39.79, a.Arc, 0.005)
	assert.InDelta(t, 39.50, a.Chord, 0.005)
	b, err := desk.RimOf(desk.Rim{Diameter: 190, MM: &mm})
	require.NoError(t, err)
	assert.InDelta(t, 24, b.Degrees, 0.005)
	far, nan := 361.0, math.NaN()
	for _, bad := range []desk.Rim{{}, {Diameter: -1, Degrees: &deg}, {Diameter: 9000, Degrees: &deg}, {Diameter: 100}, {Diameter: 100, Degrees: &far}, {Diameter: 100, Degrees: &nan}} {
		_, err := desk.RimOf(bad)
		var p *desk.Problem
		require.ErrorAs(t, err, &p)
		assert.Equal(t, 422, p.Status)
		assert.NotEmpty(t, p.Field)
	}
}

func TestToothAndTool(t *testing.T) {
	ask := desk.ToothAsk{Teeth: 42, Driver: 21, Count: 1, PlayMM: 0.12, Radius: 11}
	a, err := desk.ToothOf(ask)
	require.NoError(t, err)
	assert.Equal(t, "1/2", a.Ratio)
	assert.InDelta(t, 8.571, a.OfShaft, 0.001)
	assert.InDelta(t, 17.143, a.OfCrank, 0.001)
	assert.EqualValues(t, 2, a.Every)
	assert.Equal(t, resolution.Sees, a.Answer)
	ask.PlayMM = 1.2
	a, err = desk.ToothOf(ask)
	require.NoError(t, err)
	assert.Equal(t, resolution.Perhaps, a.Answer)
	ask.PlayMM = 2
	a, err = desk.ToothOf(ask)
	require.NoError(t, err)
	assert.Equal(t, resolution.Misses, a.Answer)
	ask.PlayMM = 0
	a, err = desk.ToothOf(ask)
	require.NoError(t, err)
	assert.Empty(t, a.Answer, "no tool, no answer")
	for _, bad := range []desk.ToothAsk{{}, {Teeth: 42}, {Teeth: 42, Driver: 21}, {Teeth: 42, Driver: 21, Count: 43}, {Teeth: 42, Driver: 21, Count: 1, PlayMM: 1}, {Teeth: 2000, Driver: 21, Count: 1}} {
		_, err := desk.ToothOf(bad)
		assert.Error(t, err, "%+v", bad)
	}
}

func TestDrops(t *testing.T) {
	ask := desk.DropsAsk{Stroke: 85, Rod: 138, Drop: 5, Before: -24.2, After: 25.8, Dial: 0.02, Wheel: 0.5}
	a, err := desk.DropsOf(ask)
	require.NoError(t, err)
	assert.InDelta(t, 0.8, a.Top, 1e-9)
	assert.True(t, a.Fits)
	assert.Len(t, a.Drops, 81)
	assert.InDelta(t, 0, a.Drops[40], 1e-12)
	assert.Len(t, a.Methods, 5)
	ask.After = 40
	a, err = desk.DropsOf(ask)
	require.NoError(t, err)
	assert.False(t, a.Fits, "64° apart is no 5 mm drop of this engine")
	for _, bad := range []desk.DropsAsk{{}, {Stroke: 85, Rod: 40, Drop: 5}, {Stroke: 85, Rod: 138, Drop: 99}, {Stroke: 85, Rod: 138, Drop: 5, Dial: -1}} {
		_, err := desk.DropsOf(bad)
		assert.Error(t, err, "%+v", bad)
	}
}

func TestNote(t *testing.T) {
	ask := desk.NoteAsk{Length: 123.4, Mass: 92, Frequency: 110, Tolerance: 8, Readings: []float64{104, 109, 111, 108, 112}}
	a, err := desk.NoteOf(ask)
	require.NoError(t, err)
	assert.InDelta(t, 67.8, a.Tension, 0.1)
	assert.Less(t, a.Least, a.Tension)
	assert.Greater(t, a.Most, a.Tension)
	require.NotNil(t, a.Judged)
	assert.Equal(t, tension.Accept, a.Judged.Verdict)
	assert.Len(t, a.Tensions, 5)
	ask.Readings = nil
	a, err = desk.NoteOf(ask)
	require.NoError(t, err)
	assert.Nil(t, a.Judged)
	for _, bad := range []desk.NoteAsk{{}, {Length: 100, Mass: 92}, {Length: 100, Mass: 92, Frequency: 110, Tolerance: 110}, {Length: 100, Mass: 92, Frequency: 110, Tolerance: 8, Readings: []float64{110, -1, 110}}, {Length: 100, Mass: 92, Frequency: 110, Tolerance: 8, Readings: make([]float64, 300)}} {
		_, err := desk.NoteOf(bad)
		assert.Error(t, err)
	}
}
