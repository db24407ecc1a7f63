package drawing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/drawing"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
)

func of(name string) (*engine.Sheet, *drawing.Drawing) {
	f := fixture.Document(name)
	return &f.Engine, drawing.Of(engine.NewIndex(&f.Engine))
}

func TestWheelsComeInTheOrderTheyAreDrawn(t *testing.T) {
	_, d := of("renew-timing-chain-r1.latch.json")
	rails, last := true, 1e9
	for _, w := range d.Wheels {
		if w.Mount == string(engine.Rail) {
			assert.True(t, rails, "rails lie under everything")
			assert.NotEmpty(t, w.Rail, w.Name)
			continue
		}
		rails = false
		assert.LessOrEqual(t, w.R, last, w.Name)
		last = w.R
	}
	assert.False(t, d.Empty())
	assert.True(t, drawing.Of(engine.NewIndex(&engine.Sheet{})).Empty())
}

// Only the run that the tensioner takes up hangs out, and only in Slack.
func TestASlackRunHangsOut(t *testing.T) {
	_, d := of("renew-timing-belt-r3.latch.json")
	l := d.Loops[0]
	slack := 0
	for _, p := range l.Pieces {
		if p.Slack {
			slack++
		}
	}
	require.Positive(t, slack)
	assert.NotContains(t, l.Path, "Q")
	assert.Contains(t, l.Slack, "Q")
}

// A gear without a module is drawn at the diameter it has, as everywhere.
func TestAGearWithoutAModule(t *testing.T) {
	f := fixture.Document("renew-timing-chain-r1.latch.json")
	for i := range f.Engine.Gears {
		f.Engine.Gears[i].Module = 0
	}
	d := drawing.Of(engine.NewIndex(&f.Engine))
	for _, w := range d.Wheels {
		assert.Positive(t, w.R, w.Name)
	}
}

func TestNamesStandOnTheSideOfTheirWheel(t *testing.T) {
	_, d := of("renew-timing-belt-r3.latch.json")
	assert.Equal(t, drawing.Left, d.Wheel("inlet-wheel").Side)
	assert.Equal(t, drawing.Right, d.Wheel("exhaust-wheel").Side)
	assert.Equal(t, drawing.Right, d.Wheel("crank-wheel").Side, "the crank is always named on the right")
	assert.Nil(t, d.Wheel("none"))
}
