package route_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/fixture"
)

func TestLeadingALoopOverWheels(t *testing.T) {
	f := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&f.Engine)
	type ids = []engine.WheelID
	in, back := engine.Inside, engine.Back
	for _, c := range []struct {
		says  string
		taken ids
		want  []engine.Stop
	}{
		{"toothed inside, plain on the back", ids{"crank-wheel", "tensioner-wheel"}, []engine.Stop{{Wheel: "crank-wheel", Side: in}, {Wheel: "tensioner-wheel", Side: back}}},
		{"one again turns over", ids{"crank-wheel", "crank-wheel"}, []engine.Stop{{Wheel: "crank-wheel", Side: back}}},
		{"and back again", ids{"idler-wheel", "idler-wheel", "idler-wheel"}, []engine.Stop{{Wheel: "idler-wheel", Side: back}}},
		{"an earlier one too, where it is", ids{"crank-wheel", "idler-wheel", "crank-wheel"}, []engine.Stop{{Wheel: "crank-wheel", Side: back}, {Wheel: "idler-wheel", Side: back}}},
		{"what is not there is left out", ids{"nowhere"}, []engine.Stop{}},
	} {
		assert.Equal(t, c.want, route.Lead(x, c.taken), c.says)
	}
}

// A new loop over the wheels of one there is gets the count of teeth it has.
func TestANewLoopCloses(t *testing.T) {
	for _, name := range []string{"renew-timing-belt-r3.latch.json", "renew-timing-chain-r1.latch.json", "renew-cam-chain-r1.latch.json"} {
		f := fixture.Document(name)
		old := f.Engine.Loops[0]
		f.Engine.Loops = f.Engine.Loops[1:]
		for i := range f.Engine.Tensioners {
			f.Engine.Tensioners[i].Wheel = ""
		}
		x := engine.NewIndex(&f.Engine)
		l := route.Begin(x, old.Kind, old.Route)
		require.NotEqual(t, old.ID, "")
		l.Pitch, l.Thickness = old.Pitch, old.Thickness
		again := f.Engine
		again.Loops = append([]engine.Loop{}, l)
		p, err := route.Of(engine.NewIndex(&again), &again.Loops[0])
		require.NoError(t, err)
		assert.InDelta(t, float64(old.Teeth), float64(p.Length())/old.Pitch, 1.6, name)
	}
}

func TestASecondLoopStartsFromTheFirst(t *testing.T) {
	f := fixture.Document("renew-timing-chain-r1.latch.json")
	x := engine.NewIndex(&f.Engine)
	l := route.Begin(x, engine.Chain, f.Engine.Loops[0].Route)
	assert.Equal(t, f.Engine.Loops[0].Pitch, l.Pitch)
	assert.Zero(t, l.Teeth%2, "an odd chain needs a cranked link")
	assert.Nil(t, x.Loop(l.ID), "it has an id of its own")
}
