package drawing_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/drawing"
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

var sheets = []string{"renew-timing-belt-r3.latch.json", "renew-timing-chain-r1.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-cam-chain-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-chain-two-actuators-r1.latch.json"}

// A run touches both its wheels: it stands square on the radius at either end,
// and the pieces follow one another round the whole loop (elementary geometry).
func TestRunsTouchTheirWheels(t *testing.T) {
	for _, f := range sheets {
		s, d := of(f)
		for i, l := range d.Loops {
			require.Empty(t, l.Impossible, "%s %s", f, l.Name)
			require.Len(t, l.Pieces, len(s.Loops[i].Route))
			longest := 0.0
			for k, p := range l.Pieces {
				dx, dy := p.Run[2]-p.Run[0], p.Run[3]-p.Run[1]
				assert.InDelta(t, p.Length, math.Hypot(dx, dy), 1e-6, "%s: the run says its length", l.Name)
				longest = max(longest, p.Length)
				next := l.Pieces[(k+1)%len(l.Pieces)]
				for end, id := range []string{p.Wheel, next.Wheel} {
					w := d.Wheel(engine.WheelID(id))
					require.NotNil(t, w, id)
					x, y := p.Run[2*end]-w.X, p.Run[2*end+1]-w.Y
					assert.InDelta(t, 0, (x*dx+y*dy)/p.Length, 1e-6, "%s leaves or meets the %s at a tangent", l.Name, w.Name)
					assert.GreaterOrEqual(t, math.Hypot(x, y), w.R-1e-6, "%s runs through the %s", l.Name, w.Name)
				}
			}
			assert.InDelta(t, longest, l.Longest, 0.05+1e-6, "printed to a tenth")
		}
	}
}

// The box holds every wheel that is seen, and each mark rests where the sheet
// has it.
func TestEverythingLiesInTheBox(t *testing.T) {
	for _, f := range sheets {
		s, d := of(f)
		for _, w := range d.Wheels {
			if w.Mount == string(engine.Rail) || w.Hidden {
				continue
			}
			assert.GreaterOrEqual(t, w.X-w.R, d.Box[0]-1e-6, "%s %s", f, w.Name)
			assert.GreaterOrEqual(t, w.Y-w.R, d.Box[1]-1e-6, "%s %s", f, w.Name)
			assert.LessOrEqual(t, w.X+w.R, d.Box[0]+d.Box[2]+1e-6, "%s %s", f, w.Name)
			assert.LessOrEqual(t, w.Y+w.R, d.Box[1]+d.Box[3]+1e-6, "%s %s", f, w.Name)
		}
		marks := 0
		for _, w := range d.Wheels {
			for _, m := range w.Marks {
				marks++
				assert.False(t, math.IsNaN(m.Rest) || math.IsInf(m.Rest, 0), m.Name)
			}
		}
		want := 0
		for _, m := range s.Marks {
			if m.Wheel != "" && m.Kind != engine.LoopMark {
				want++
			}
		}
		assert.Equal(t, want, marks, "%s: every mark of a wheel is drawn; links lie on their loop", f)
	}
}

// Two drawings of one sheet are the same; one of a sheet that is moved is the
// same drawing elsewhere.
func TestAMovedDriveIsDrawnAlike(t *testing.T) {
	f := fixture.Document("renew-timing-belt-r3.latch.json")
	a := drawing.Of(engine.NewIndex(&f.Engine))
	assert.Equal(t, a, drawing.Of(engine.NewIndex(&f.Engine)))
	moved := fixture.Copy(f)
	for i := range moved.Engine.Wheels {
		moved.Engine.Wheels[i].X += 40
		moved.Engine.Wheels[i].Y -= 25
	}
	b := drawing.Of(engine.NewIndex(&moved.Engine))
	for i := range a.Wheels {
		assert.InDelta(t, a.Wheels[i].X+40, b.Wheels[i].X, 1e-6)
		assert.InDelta(t, a.Wheels[i].Y+25, b.Wheels[i].Y, 1e-6, "y counts downwards in a drawing")
	}
	for k, p := range a.Loops[0].Pieces {
		assert.InDelta(t, p.Length, b.Loops[0].Pieces[k].Length, 1e-6)
		assert.InDelta(t, p.Wrap, b.Loops[0].Pieces[k].Wrap, 1e-6)
	}
}

// Locks are drawn as what they are, each where it holds: a bar over both its shafts, a
// pin in its wheel, a stop and a jaw at the rim, several on one wheel apart.
func TestLocksAreDrawnWhereTheyHold(t *testing.T) {
	for _, f := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json"} {
		s, d := of(f)
		seen := map[[2]float64]string{}
		for _, l := range d.Locks {
			require.NotEmpty(t, l.Wheels, l.Name)
			for _, b := range l.Bars {
				assert.Equal(t, string(engine.BarLock), l.Kind)
				first := d.Wheel(engine.WheelID(l.Wheels[0]))
				last := d.Wheel(engine.WheelID(l.Wheels[len(l.Wheels)-1]))
				if first != last {
					sin, cos := math.Sincos(b.Turn * math.Pi / 180)
					assert.InDelta(t, last.X, b.X+b.Length*cos, 1e-9, l.Name)
					assert.InDelta(t, last.Y, b.Y+b.Length*sin, 1e-9, l.Name)
				}
			}
			for i, g := range l.Glyphs {
				w := d.Wheel(engine.WheelID(l.Wheels[i]))
				far := math.Hypot(g.X-w.X, g.Y-w.Y)
				if l.Kind == string(engine.PinLock) {
					assert.Less(t, far, w.R, "%s is in its wheel", l.Name)
				} else {
					assert.InDelta(t, w.R, far, 1e-9, "%s is at the rim", l.Name)
				}
				at := [2]float64{g.X, g.Y}
				assert.Empty(t, seen[at], "%s lies over %s", l.Name, seen[at])
				seen[at] = l.Name
			}
		}
		assert.Len(t, d.Locks, len(s.Locks), f)
	}
}

// A drive that is only begun does not fill the drawing, and a wheel that nothing lies
// on has no size yet.
func TestALoneWheel(t *testing.T) {
	s := &engine.Sheet{Shafts: []engine.Shaft{{ID: engine.CrankID}}, Wheels: []engine.Wheel{{ID: "a", Shaft: engine.CrankID, Teeth: 20}}}
	d := drawing.Of(engine.NewIndex(s))
	assert.False(t, d.Wheels[0].Sized)
	assert.Greater(t, d.Box[2], 5*d.Wheels[0].R)
	assert.Greater(t, d.Box[3], 5*d.Wheels[0].R)
	s.Wheels[0].Diameter = 60
	assert.True(t, drawing.Of(engine.NewIndex(s)).Wheels[0].Sized)
}
