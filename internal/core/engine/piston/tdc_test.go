package piston_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/diff/fd"
	"gonum.org/v1/gonum/optimize"
	"pgregory.net/rapid"

	. "inklatch/internal/core/engine/piston" // the demo is built on this package
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/unit"
)

var tq4 = Gear{Stroke: 85, Rod: 138}

// Heywood, Internal Combustion Engine Fundamentals, eq. 2.5, at angles where it
// can be written out by hand: s(0) = a + l, s(180°) = l − a, s(90°) = √(l² − a²).
func TestHeight(t *testing.T) {
	assert.InDelta(t, 42.5+138, float64(tq4.Height(0)), 1e-12)
	assert.InDelta(t, 138-42.5, float64(tq4.Height(180)), 1e-12)
	assert.InDelta(t, math.Sqrt(138*138-42.5*42.5), float64(tq4.Height(90)), 1e-9)
	assert.InDelta(t, 85, float64(tq4.Drop(180)), 1e-9, "the stroke")
}

// The law of cosines in the triangle of throw, rod and height: l² = a² + s² −
// 2·a·s·cos θ, for any angle.
func TestHeightAgainstTheLawOfCosines(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := Gear{Stroke: rapid.Float64Range(20, 150).Draw(t, "stroke"), Rod: rapid.Float64Range(80, 300).Draw(t, "rod")}
		if g.Check() != nil {
			t.Skip()
		}
		deg := rapid.Float64Range(-180, 180).Draw(t, "deg")
		a, s := g.Stroke/2, float64(g.Height(unit.Angle(deg)))
		assert.InDelta(t, g.Rod*g.Rod, a*a+s*s-2*a*s*math.Cos(deg*math.Pi/180), 1e-6)
	})
}

// Slope against gonum's finite differences, and the top of an offset bore
// against gonum's minimiser.
func TestSlopeAndTopAgainstGonum(t *testing.T) {
	for _, g := range []Gear{tq4, {Stroke: 97, Rod: 152, Offset: 12}, {Stroke: 66, Rod: 108, Offset: -8}} {
		for _, deg := range []float64{-120, -30, 0, 17, 90, 163} {
			assert.InDelta(t, fd.Derivative(func(x float64) float64 { return float64(g.Height(unit.Angle(x))) }, deg, &fd.Settings{Formula: fd.Central}), float64(g.Slope(unit.Angle(deg))), 1e-7)
		}
		res, err := optimize.Minimize(optimize.Problem{Func: func(v []float64) float64 { return -float64(g.Height(unit.Angle(v[0]))) }}, []float64{1}, nil, &optimize.NelderMead{})
		require.NoError(t, err)
		assert.InDelta(t, res.X[0], float64(g.Top()), 1e-3)
		assert.InDelta(t, 0, float64(g.Slope(g.Top())), 1e-12)
	}
}

func TestCheck(t *testing.T) {
	for _, g := range []Gear{{}, {Stroke: 80}, {Stroke: 80, Rod: 40}, {Stroke: 80, Rod: 60, Offset: 21}, {Stroke: -1, Rod: 10}} {
		assert.Error(t, g.Check(), "%+v", g)
	}
	assert.NoError(t, tq4.Check())
	g, ok := GearOf(&fixture.Document("renew-timing-belt-r3.latch.json").Engine)
	assert.True(t, ok)
	assert.Equal(t, tq4, g)
	s := fixture.Document("renew-timing-belt-r3.latch.json").Engine
	s.Rod.Unit = "N·m"
	_, ok = GearOf(&s)
	assert.False(t, ok)
}

// The readings of a known top come back to it, with or without offset; the
// middle of an offset bore's readings does not.
func TestEqualDropsFindTheTop(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g := Gear{Stroke: rapid.Float64Range(50, 120).Draw(t, "stroke"), Rod: rapid.Float64Range(120, 220).Draw(t, "rod"), Offset: rapid.Float64Range(-15, 15).Draw(t, "offset")}
		drop := rapid.Float64Range(1, 20).Draw(t, "drop")
		zero := rapid.Float64Range(-40, 40).Draw(t, "where the wheel says 0")
		before, after, err := g.At(unit.Length(drop))
		require.NoError(t, err)
		assert.InDelta(t, drop, float64(g.Drop(before)), 1e-9)
		assert.InDelta(t, drop, float64(g.Drop(after)), 1e-9)
		f, err := EqualDrops{Gear: g, Drop: drop, Before: float64(before) - zero, After: float64(after) - zero, Dial: 0.02, Wheel: 0.5}.Find()
		require.NoError(t, err)
		assert.InDelta(t, float64(g.Top())-zero, f.Top, 1e-6)
		assert.InDelta(t, f.Want, f.Span, 1e-6)
		if g.Offset == 0 {
			assert.InDelta(t, f.Middle, f.Top, 1e-6)
		}
	})
}

// The uncertainty against drawing readings at random: uniform errors of ±d and
// ±w have standard deviations d/√3 and w/√3, and the middle of two readings
// halves the variance of one.
func TestUncertainty(t *testing.T) {
	e := EqualDrops{Gear: tq4, Drop: 5, Dial: 0.05, Wheel: 0.3}
	before, after, err := tq4.At(5)
	require.NoError(t, err)
	e.Before, e.After = float64(before), float64(after)
	f, err := e.Find()
	require.NoError(t, err)
	rnd := uint64(1)
	uniform := func() float64 { // a small generator, so that the test is the same each time
		rnd = rnd*6364136223846793005 + 1442695040888963407
		return float64(rnd>>11)/(1<<53)*2 - 1
	}
	const n = 20000
	sum := 0.0
	for range n {
		b, _, err := tq4.At(unit.Length(5 + 0.05*uniform()))
		require.NoError(t, err)
		_, a, err := tq4.At(unit.Length(5 + 0.05*uniform()))
		require.NoError(t, err)
		m := (float64(b+a) + 0.3*uniform() + 0.3*uniform()) / 2
		sum += m * m
	}
	assert.InEpsilon(t, f.Uncertainty/2, math.Sqrt(sum/n), 0.03)
	e.Before, e.After = float64(before)+360, float64(after)+360
	g, err := e.Find()
	require.NoError(t, err)
	assert.InDelta(t, f.Top, g.Top, 1e-9, "a turn more on the wheel is the same place")
}

func TestADialAtTheTopSeesNothing(t *testing.T) {
	e := EqualDrops{Gear: tq4, Drop: 5, Before: -25, After: 25, Dial: 0.02, Wheel: 0.5}
	f, err := e.Find()
	require.NoError(t, err)
	assert.Less(t, f.SlopeTop, 0.01, "a hundredth in the last degree")
	assert.Greater(t, f.Slope, 0.3, "forty times as much at 5 mm down")
	for _, bad := range []EqualDrops{{Gear: tq4, Drop: 0}, {Gear: tq4, Drop: 90}, {Gear: Gear{}, Drop: 5}, {Gear: tq4, Drop: 5, Dial: -1}} {
		_, err := bad.Find()
		assert.Error(t, err)
	}
	for i := 1; i < len(Methods); i++ {
		assert.Greater(t, Methods[i].Resolves, Methods[i-1].Resolves, "best first")
	}
}

// Readings on either side of the wheel's zero: 350° and 30° are 40° apart.
func TestReadingsAcrossZero(t *testing.T) {
	f, err := EqualDrops{Gear: tq4, Drop: 5, Before: 350, After: 30}.Find()
	require.NoError(t, err)
	assert.InDelta(t, 40, f.Span, 1e-9)
	assert.InDelta(t, 10, f.Middle, 1e-9)
}
