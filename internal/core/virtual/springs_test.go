package virtual_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

const (
	springSet = "renew-belt-spring-set-r1.latch.json"
	atRest    = "renew-belts-at-rest-r1.latch.json"
	lift      = "set-pump-by-lift-r1.latch.json"
)

// With its belt off a cam that nothing holds goes to the nearest of its rests, and
// stays there until somebody turns it; where valves meet pistons it stands as the author
// meant, for the page may not let it go.
func TestACamIsThrownToItsRest(t *testing.T) {
	for rests, want := range map[[2]float64]float64{{35, 150}: 35, {-20, 160}: -20, {190, 300}: -60} {
		x := of(springSet)
		x.Shaft("cam").Rests = rests[:]
		do := script{turn(virtual.Turning{To: "cam-mark"}), off("belt"), on("belt")}
		tr := virtual.Run(x, do)
		assert.Contains(t, kinds(tr, 1), "CamThrown")
		assert.InDelta(t, want, shaft(x, &tr.Steps[1].After, "cam"), 1e-9)
		x.Sheet.Interference = engine.Yes
		assert.NotContains(t, kinds(virtual.Run(x, do), 1), "CamThrown")
	}
}

// Wherever a hand leaves a cam, its teeth let it stand in whole teeth from home once the
// belt is on.
func TestTeethDrawACamHome(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		by := rapid.Float64Range(-40, 40).Draw(r, "by hand")
		x := of(springSet)
		tr := virtual.Run(x, script{turn(virtual.Turning{To: "cam-mark"}), off("belt"), turn(virtual.Turning{Shaft: "cam", Degrees: unit.Angle(math.Abs(by)), Backwards: by < 0}), on("belt")})
		cam, tooth := shaft(x, tr.Last(), "cam"), 360/40.0
		assert.InDelta(r, 0, cam-math.Round(cam/tooth)*tooth, 1e-6)
		assert.LessOrEqual(r, math.Abs(cam-by), tooth/2+1e-6, "to the nearest tooth")
	})
}

// What is before a loop is off before it comes off, and on after it.
func TestALoopBehindAnother(t *testing.T) {
	x := of(atRest)
	x.Part("timing-belt").After = []engine.PartID{"balance-belt"}
	tr := virtual.Run(x, script{off("timing-belt"), off("balance-belt"), on("balance-belt"), on("timing-belt")})
	assert.Contains(t, kinds(tr, 0), "InTheWay")
	assert.Contains(t, kinds(tr, 3), "InTheWay")
	tr = virtual.Run(x, script{off("balance-belt"), off("timing-belt"), on("timing-belt"), on("balance-belt")})
	assert.NotContains(t, kinds(tr, 1), "InTheWay")
	assert.NotContains(t, kinds(tr, 2), "InTheWay")
}

// A reading shows where its shaft stands, and a turn may end at it; on a shaft that hangs
// on something else the crank never comes to it.
func TestAReadingIsMet(t *testing.T) {
	x := of(lift)
	gauge := func(m *virtual.Machine) { m.Gauge("plunger-lift") }
	tr := virtual.Run(x, script{gauge, turn(virtual.Turning{Until: "plunger-lift"}), turn(virtual.Turning{Turns: 1}), gauge, turn(virtual.Turning{Turns: 1}), gauge})
	assert.Contains(t, kinds(tr, 0), "ReadingOff")
	assert.NotContains(t, kinds(tr, 1), "ReadingOff")
	assert.InDelta(t, 0, shaft(x, &tr.Steps[1].After, "pump"), 1e-6)
	assert.Contains(t, kinds(tr, 3), "ReadingOff", "the pump is half a turn off")
	assert.NotContains(t, kinds(tr, 5), "ReadingOff")
	loose := func(m *virtual.Machine) { m.Slacken("pump-gear-bolt", "") }
	tr = virtual.Run(x, script{loose, turn(virtual.Turning{Until: "plunger-lift"}), turn(virtual.Turning{Shaft: "pump", Until: "plunger-lift"})})
	assert.Contains(t, kinds(tr, 1), "ElsewhereMark")
	assert.InDelta(t, 0, shaft(x, tr.Last(), "pump"), 1e-6)
	assert.InDelta(t, virtual.StartAngle, tr.Last().Crank, 1e-6, "the crank stays")
}

// A page without a step has a chart, if an empty one, on an engine without a loop too.
func TestAnEmptyPageOnGears(t *testing.T) {
	tr := virtual.Run(of(lift), script{})
	assert.NotNil(t, tr.Lifelines(script{}))
	assert.Empty(t, tr.Lifelines(script{}))
}
