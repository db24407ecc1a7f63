package tool_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/tool"
	"inklatch/internal/core/unit"
)

// Worked by the lever of a tool handbook: a wrench of 400 mm with 100 mm in line gives five
// quarters of what it shows; square to it, what it shows; back along it, three quarters.
func TestSettingByTheLever(t *testing.T) {
	for _, c := range []struct{ angle, want float64 }{{0, 80}, {90, 100}, {180, 100 * 4 / 3.0}, {60, 100 * 400 / 450.0}} {
		got, err := tool.Setting(100, 400, tool.Adapter{Reach: 100, Angle: unit.Angle(c.angle)}, tool.Multiplier{})
		require.NoError(t, err)
		assert.InDelta(t, c.want, float64(got), 1e-9, c.angle)
	}
	got, err := tool.Setting(120, 0, tool.Adapter{}, tool.Multiplier{Ratio: 5, Efficiency: 0.92})
	require.NoError(t, err)
	assert.InDelta(t, 26.087, float64(got), 0.001)
	got, err = tool.Setting(39, 0, tool.Adapter{}, tool.Multiplier{})
	require.NoError(t, err)
	assert.InDelta(t, 39, float64(got), 0)
	for want, f := range map[error]func() (unit.Torque, error){
		tool.ErrLength: func() (unit.Torque, error) { return tool.Setting(10, 0, tool.Adapter{Reach: 50}, tool.Multiplier{}) },
		tool.ErrBack: func() (unit.Torque, error) {
			return tool.Setting(10, 50, tool.Adapter{Reach: 60, Angle: 180}, tool.Multiplier{})
		},
		tool.ErrMultiplier: func() (unit.Torque, error) { return tool.Setting(10, 0, tool.Adapter{}, tool.Multiplier{Ratio: 5}) },
	} {
		_, err := f()
		assert.ErrorIs(t, err, want)
	}
}

// What a wrench is set to, by the moments about the bolt: force on the grip times its
// distance from the bolt's axis along the wrench.
func TestSettingByMoments(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		want := rapid.Float64Range(1, 400).Draw(r, "torque")
		l, e, deg := rapid.Float64Range(150, 900).Draw(r, "length"), rapid.Float64Range(1, 140).Draw(r, "reach"), rapid.Float64Range(-180, 180).Draw(r, "angle")
		set, err := tool.Setting(unit.Torque(want), unit.Length(l), tool.Adapter{Reach: unit.Length(e), Angle: unit.Angle(deg)}, tool.Multiplier{})
		if err != nil {
			r.Fatal(err)
		}
		// The wrench shows the moment about its own square; the bolt sits off it.
		force := float64(set) / l
		got := force * (l + e*math.Cos(deg*math.Pi/180)) // it pulls across the wrench
		if math.Abs(got-want) > 1e-9*want {
			r.Fatalf("%v N·m at the bolt, %v wanted", got, want)
		}
	})
}

func TestReach(t *testing.T) {
	assert.NoError(t, tool.Reach(28, 140))
	assert.NoError(t, tool.Reach(140, 140))
	assert.ErrorContains(t, tool.Reach(20, 140), "used from 28 N·m on")
	assert.ErrorContains(t, tool.Reach(150, 140), "no further than 140 N·m")
}

// A figure that can be set lies within the tolerance, near the value, and has few places.
func TestSettable(t *testing.T) {
	assert.InDelta(t, 88.5, tool.Settable(88.507, 80, 97), 1e-12)
	assert.InDelta(t, 16.2, tool.Settable(16.226, 15, 17), 1e-12)
	assert.InDelta(t, 28.75, tool.Settable(28.75, 28.74, 28.76), 1e-12, "finer where the tolerance wants it")
	assert.InDelta(t, 5, tool.Settable(5, 6, 7), 0, "a value out of its own tolerance stays")
	rapid.Check(t, func(r *rapid.T) {
		v := rapid.Float64Range(0.5, 900).Draw(r, "value")
		tol := v * rapid.Float64Range(0.001, 0.2).Draw(r, "tolerance")
		got := tool.Settable(v, v-tol, v+tol)
		if got < v-tol-1e-9 || got > v+tol+1e-9 || math.Abs(got-v) > v/100 {
			r.Fatalf("%v becomes %v within ±%v", v, got, tol)
		}
	})
}
