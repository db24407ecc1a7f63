package resolution_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	. "inklatch/internal/core/engine/resolution" // the demo is built on this package
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/unit"
)

func index(file string) *engine.Index { return engine.NewIndex(&fixture.Document(file).Engine) }

// 360/z of the shaft, twice that of the crank for a cam (common practice, no
// source).
func TestOneTooth(t *testing.T) {
	x := index("renew-timing-belt-r3.latch.json")
	got := map[engine.WheelID]Tooth{}
	for _, v := range Teeth(x) {
		got[v.Wheel] = v
	}
	require.Len(t, got, 3)
	assert.InDelta(t, 360.0/42, got["inlet-wheel"].OfShaft, 1e-12)
	assert.InDelta(t, 720.0/42, got["inlet-wheel"].OfCrank, 1e-12)
	assert.InDelta(t, 360.0/21, got["crank-wheel"].OfCrank, 1e-12)
}

// A chain over two equal wheels: what pulls is the one run between them, so n %
// of the centre distance is what the driven wheel falls behind, at its pitch
// radius.
func TestWearOfAChainOverTwoWheels(t *testing.T) {
	s := &engine.Sheet{
		Cycle: engine.FourStroke, Running: engine.Clockwise,
		Shafts: []engine.Shaft{{ID: "crank"}, {ID: "cam", Kind: engine.Camshaft}},
		Wheels: []engine.Wheel{{ID: "a", Shaft: "crank", Teeth: 20}, {ID: "b", Shaft: "cam", Teeth: 20, Y: 200}},
		Loops:  []engine.Loop{{ID: "l", Kind: engine.Chain, Pitch: 8, Teeth: 70, Route: []engine.Stop{{Wheel: "a", Side: engine.Inside}, {Wheel: "b", Side: engine.Inside}}}},
	}
	x := engine.NewIndex(s)
	lags, err := Wear(x, &s.Loops[0], 1)
	require.NoError(t, err)
	require.Len(t, lags, 1)
	assert.InDelta(t, 200, lags[0].Pulling, 1e-9)
	assert.InDelta(t, 2/(20*8/(2*math.Pi))*180/math.Pi, lags[0].OfShaft, 1e-9)
}

func TestWearGrowsAlongThePullingRun(t *testing.T) {
	x := index("renew-timing-belt-r3.latch.json")
	lags, err := Wear(x, &x.Sheet.Loops[0], 1)
	require.NoError(t, err)
	require.Len(t, lags, 2)
	assert.Equal(t, engine.ShaftID("inlet"), lags[0].Shaft)
	assert.Greater(t, lags[0].OfCrank, lags[1].OfCrank, "the cam further from the crank along the pull falls further behind")
	p, err := route.Of(x, &x.Sheet.Loops[0])
	require.NoError(t, err)
	// Exhaust → idler → crank is pulled: two runs and the idler's arc.
	assert.InDelta(t, float64(p.Runs[4].Length())+float64(p.Arcs[5].Length())+float64(p.Runs[5].Length()), lags[1].Pulling, 1e-9)
}

func TestWearReachesShaftsBehind(t *testing.T) {
	x := index("renew-belt-both-banks-r1.latch.json")
	lags, err := Wear(x, &x.Sheet.Loops[0], 1)
	require.NoError(t, err)
	by := map[engine.ShaftID]Lag{}
	for _, g := range lags {
		by[g.Shaft] = g
	}
	assert.InDelta(t, by["left-inlet"].OfCrank, by["left-exhaust"].OfCrank, 1e-9, "the exhaust cam hangs on the inlet cam by gears")
	assert.InDelta(t, by["right-inlet"].OfCrank, by["right-exhaust"].OfCrank, 1e-9)
	assert.Greater(t, by["hp-pump"].OfCrank, 0.0)
	tc4 := index("renew-timing-chain-r1.latch.json")
	lags, err = Wear(tc4, tc4.Loop("balance-chain"), 0.5)
	require.NoError(t, err)
	require.Len(t, lags, 2)
	assert.InDelta(t, lags[0].OfCrank, lags[1].OfCrank, 1e-9)
	assert.InDelta(t, 2.0/116*100, Links(2, tc4.Loop("timing-chain")), 1e-12)
	assert.Zero(t, Links(2, &engine.Loop{}))
}

func TestWhatSeesWhat(t *testing.T) {
	x := index("renew-timing-belt-r3.latch.json")
	table := TableOf(x)
	answer := func(err, sight string) Answer {
		for _, e := range table.Errors {
			if e.Name != err {
				continue
			}
			for i, g := range table.Sights {
				if g.Name == sight && g.Shaft == e.Shaft {
					return e.Seen[i]
				}
			}
		}
		return "no such cell"
	}
	assert.Equal(t, Sees, answer("one tooth on the inlet wheel", "cam bar"))
	for _, e := range table.Errors {
		for i, g := range table.Sights {
			if e.Name == "one tooth on the crank wheel" {
				assert.Equal(t, g.Shaft == engine.CrankID, e.Seen[i] == Blind, "the crank stands home with its belt a tooth out, and the cams do not: %s", g.Name)
			}
		}
	}
	assert.Equal(t, Sees, answer("1° slip of the inlet wheel", "cam bar"), "twice the play of 0.4° is less than 1°")
	assert.Equal(t, Misses, answer("1° slip of the inlet wheel", "inlet cam mark"), "the mark shows 1.5°")
	x.Lock("cam-bar").Play = 0.6
	table = TableOf(x)
	assert.Equal(t, Perhaps, answer("1° slip of the inlet wheel", "cam bar"))
	x.Lock("cam-bar").Play = 1.2
	table = TableOf(x)
	assert.Equal(t, Misses, answer("1° slip of the inlet wheel", "cam bar"))
	least, ok := table.Smallest("inlet")
	assert.True(t, ok)
	assert.InDelta(t, 1.5, float64(least), 1e-12, "the mark is finer than the bar now")
	_, ok = table.Smallest("nothing")
	assert.False(t, ok)
}

func TestAnEquivalentToolWithMorePlay(t *testing.T) {
	x := index("renew-both-belts-r1.latch.json")
	plays := map[string]float64{}
	for _, g := range Sights(x) {
		if g.Lock == "left-peg" {
			plays[g.Tool] = g.Least
		}
	}
	assert.Equal(t, map[string]float64{"": 1, "TL-518": 4.8}, plays)
	x.Mark("left-mark").Shows = 0
	for _, g := range Sights(x) {
		if g.Mark == "left-mark" {
			assert.InDelta(t, 2, g.Least, 0, "a mark that says nothing is taken as ±2°")
		}
	}
}

// On a rim: arc = r·θ, chord = 2r·sin(θ/2) (any handbook of mathematics); a
// chord of the radius is under 60°.
func TestRim(t *testing.T) {
	assert.InDelta(t, math.Pi*100, float64(Arc(180, 100)), 1e-9)
	assert.InDelta(t, 100, float64(Chord(60, 100)), 1e-9)
	rapid.Check(t, func(t *rapid.T) {
		deg, r := rapid.Float64Range(0.01, 179).Draw(t, "deg"), rapid.Float64Range(5, 400).Draw(t, "r")
		assert.InDelta(t, deg, float64(ArcAngle(Arc(unit.Angle(deg), unit.Length(r)), unit.Length(r))), 1e-9)
		assert.Less(t, float64(Chord(unit.Angle(deg), unit.Length(r))), float64(Arc(unit.Angle(deg), unit.Length(r))))
	})
}

// The lag against laying a worn loop link by link: from a joint that lies in a
// gap of the wheel, link after link along the pulling side, one link to a gap on
// toothed wheels whatever its length, to the driver. How far the first joint
// there lies off its gap is what the wheel has to fall behind.
func TestWearLinkByLink(t *testing.T) {
	for _, file := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json"} {
		x := index(file)
		for k := range x.Sheet.Loops {
			l := &x.Sheet.Loops[k]
			lags, err := Wear(x, l, 1)
			require.NoError(t, err)
			p, err := route.Of(x, l)
			require.NoError(t, err)
			driver := x.Driver(k)
			for _, g := range lags {
				i := -1
				for j := range p.Arcs {
					if w := x.Wheel(p.Arcs[j].Wheel); w.Shaft == g.Shaft && w.Teeth > 0 && x.WheelAt(w.ID) != driver {
						i = j
					}
				}
				if i < 0 {
					continue // it hangs on another shaft
				}
				worn := joints(x, l, p, i, driver, 1.01) - joints(x, l, p, i, driver, 1)
				deg := -worn * l.Pitch / p.Arcs[i].Radius * 180 / math.Pi
				assert.InDelta(t, g.OfShaft, deg, g.OfShaft*0.02+1e-6, "%s %s %s", file, l.ID, g.Shaft)
			}
		}
	}
}

// joints counts the links from where the loop leaves wheel i to where it meets
// the driver, each link grow times its pitch where it lies free.
func joints(x *engine.Index, l *engine.Loop, p *route.Path, i, driver int, grow float64) float64 {
	const fine = 1000 // parts of a link
	n, links := len(p.Arcs), 0.0
	left := 0.0 // of the part of a link that reaches into the next stretch
	lay := func(length, pitch float64) {
		step := pitch / fine
		at := left * step
		for ; at < length; at += step {
			links += 1.0 / fine
		}
		left = (at - length) / step
	}
	for j := i; ; j = (j + 1) % n {
		lay(float64(p.Runs[j].Length()), l.Pitch*grow)
		a := p.Arcs[(j+1)%n]
		if x.WheelAt(a.Wheel) == driver {
			return links
		}
		pitch := l.Pitch * grow
		if w := x.Wheel(a.Wheel); w.Teeth > 0 {
			pitch = 2 * math.Pi * a.Radius / float64(w.Teeth)
		}
		lay(float64(a.Length()), pitch)
	}
}

// What a tooth leaves between valves and pistons is what the contact says of so many
// degrees of the crank, the worse way round, and less than the engine in step has.
func TestRoomOfATooth(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	seen := 0
	for _, e := range TableOf(x).Errors {
		s := x.Shaft(e.Shaft)
		if s.ID == engine.CrankID {
			assert.True(t, e.Valves, "a tooth on the driver moves the cams: %s", e.Name)
			continue
		}
		v, ok := piston.TrainOf(x, x.ShaftAt(s.ID))
		assert.Equal(t, ok, e.Valves, e.Name)
		if !ok {
			continue
		}
		seen++
		late, _ := v.Least(unit.Angle(e.OfCrank))
		early, _ := v.Least(unit.Angle(-e.OfCrank))
		step, _ := v.Least(0)
		assert.InDelta(t, float64(min(late, early)), e.Room, 1e-9, e.Name)
		assert.Less(t, e.Room, step, e.Name)
	}
	assert.Greater(t, seen, 3)
}
