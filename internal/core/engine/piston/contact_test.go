package piston_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/optimize"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/unit"
)

func mm(v float64) unit.Quantity { return unit.Of(v, unit.Millimetre) }

func train(t require.TestingT, v engine.Valves) (*piston.Train, *engine.Sheet) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	s := d.Engine
	s.Shafts[1].Valves = &v
	tr, ok := piston.TrainOf(engine.NewIndex(&s), 1)
	require.True(t, ok)
	return tr, &s
}

var inlet = engine.Valves{Opens: -8, Closes: 228, Lift: mm(9.4), Clear: mm(2.4)}

// The lift against simple harmonic motion of the handbooks (handbooks of machine
// design, cams: s = h/2·(1 − cos(πθ/β)) over a rise of β; from memory): half the rise
// is half the lift, a third of it a quarter, and the fall mirrors the rise.
func TestLiftIsSimpleHarmonic(t *testing.T) {
	tr, _ := train(t, inlet)
	rise := (inlet.Closes - inlet.Opens) / 2
	for part, want := range map[float64]float64{0: 0, 1.0 / 3: 0.25, 0.5: 0.5, 2.0 / 3: 0.75, 1: 1, 1.5: 0.5, 2: 0} {
		assert.InDelta(t, want*9.4, float64(tr.Lift(unit.Angle(inlet.Opens+part*rise))), 1e-9, part)
		assert.InDelta(t, float64(tr.Lift(unit.Angle(inlet.Opens+part*rise))), float64(tr.Lift(unit.Angle(inlet.Closes-part*rise))), 1e-9, "it is the same both ways")
	}
	for _, shut := range []float64{-9, 229, 360, -200} {
		assert.Zero(t, float64(tr.Lift(unit.Angle(shut))))
	}
	assert.InDelta(t, float64(tr.Lift(30)), float64(tr.Lift(30+720)), 1e-12)
}

// The piston against slider-crank (Heywood 1988, eq. 2.5, from memory): 90° after top
// dead centre it is below half the stroke by l − √(l² − a²).
func TestThePistonUnderTheValve(t *testing.T) {
	tr, s := train(t, engine.Valves{Opens: -8, Closes: 228, Lift: mm(0.001), Clear: mm(2.4)})
	a, l := s.Stroke.Value/2, s.Rod.Value
	assert.InDelta(t, 2.4, float64(tr.Room(0, 0)), 1e-3)
	assert.InDelta(t, 2.4+a+l-math.Sqrt(l*l-a*a), float64(tr.Room(90, 0)), 1e-3)
	assert.InDelta(t, 2.4+s.Stroke.Value, float64(tr.Room(180, 0)), 1e-3)
}

// Where valve and piston first meet, against gonum's minimiser of the room.
func TestFromAgainstAMinimiser(t *testing.T) {
	tr, _ := train(t, inlet)
	early, meets := tr.From(true)
	require.True(t, meets)
	least := func(late unit.Angle) float64 {
		best := math.Inf(1)
		for _, start := range []float64{-40, 0, 40, 320, 360, 400} {
			r, err := optimize.Minimize(optimize.Problem{Func: func(x []float64) float64 { return float64(tr.Room(unit.Angle(x[0]), late)) }}, []float64{start}, nil, &optimize.NelderMead{})
			if err == nil {
				best = math.Min(best, r.F)
			}
		}
		return best
	}
	assert.Greater(t, least(early+0.6), 0.0, "just short of it they keep clear")
	assert.Less(t, least(early-0.6), 0.0, "just past it they do not")
	late, meets := tr.From(false)
	require.True(t, meets)
	assert.Greater(t, float64(late), 3*math.Abs(float64(early)), "an inlet cam that is late moves away from the piston")
}

// With crank and cam in step every piston has at least the least room, wherever the
// engine stands, and the least is reached.
func TestNowInStep(t *testing.T) {
	tr, _ := train(t, inlet)
	least, at := tr.Least(0)
	rapid.Check(t, func(t *rapid.T) {
		crank := rapid.Float64Range(-2000, 2000).Draw(t, "crank")
		if room := tr.Now(unit.Angle(crank), unit.Angle(crank/2)); room < least-0.01 {
			t.Fatalf("%v mm at %v°, the least is %v", room, crank, least)
		}
	})
	assert.InDelta(t, float64(least), float64(tr.Now(at+360, (at+360)/2)), 0.01)
	_, s := train(t, inlet)
	s.Limits.TDC = 40
	moved, _ := piston.TrainOf(engine.NewIndex(s), 1)
	assert.InDelta(t, float64(least), float64(moved.Now(at+400, (at+400)/2)), 0.01, "top dead centre is where the sheet says")
}

// More clearance never lets them meet sooner; more lift never later.
func TestMoreRoom(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		v := inlet
		v.Clear, v.Lift = mm(rapid.Float64Range(1, 6).Draw(t, "clear")), mm(rapid.Float64Range(4, 12).Draw(t, "lift"))
		tr, _ := train(t, v)
		more := v
		more.Clear = mm(v.Clear.Value + 1)
		wider, _ := train(t, more)
		more = v
		more.Lift = mm(v.Lift.Value + 1)
		higher, _ := train(t, more)
		late := rapid.Float64Range(-180, 180).Draw(t, "late")
		a, _ := tr.Least(unit.Angle(late))
		b, _ := wider.Least(unit.Angle(late))
		c, _ := higher.Least(unit.Angle(late))
		if math.Abs(float64(b-a-1)) > 1e-9 || c > a+1e-9 {
			t.Fatalf("%v, %v with more room, %v with more lift", a, b, c)
		}
	})
}

func TestWhatCannotBeWorkedOut(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	for name, spoil := range map[string]func(*engine.Sheet, *engine.Valves){
		"no rod":           func(s *engine.Sheet, _ *engine.Valves) { s.Rod = unit.Quantity{} },
		"no lift":          func(_ *engine.Sheet, v *engine.Valves) { v.Lift = unit.Quantity{} },
		"no clearance":     func(_ *engine.Sheet, v *engine.Valves) { v.Clear = unit.Quantity{} },
		"a torque":         func(_ *engine.Sheet, v *engine.Valves) { v.Lift = unit.Of(9, unit.NewtonMetre) },
		"shut as it opens": func(_ *engine.Sheet, v *engine.Valves) { v.Closes = v.Opens },
		"open all round":   func(_ *engine.Sheet, v *engine.Valves) { v.Closes = v.Opens + 720 },
	} {
		s, v := d.Engine, inlet
		spoil(&s, &v)
		s.Shafts[1].Valves = &v
		_, ok := piston.TrainOf(engine.NewIndex(&s), 1)
		assert.False(t, ok, name)
	}
}

// Where contact begins is what a search degree by degree gives, of any valves: nothing
// is missed between the degrees that are left out.
func TestContactIsWhereASlowSearchFindsIt(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		opens := rapid.Float64Range(-60, 40).Draw(r, "opens")
		tr, _ := train(r, engine.Valves{
			Opens: opens, Closes: opens + rapid.Float64Range(120, 320).Draw(r, "open for"),
			Lift: mm(rapid.Float64Range(0.5, 14).Draw(r, "lift")), Clear: mm(rapid.Float64Range(0, 9).Draw(r, "clear")),
		})
		if tr == nil {
			return
		}
		for _, early := range []bool{false, true} {
			way := 1.0
			if early {
				way = -1
			}
			first := math.Inf(1)
			for late := 0.0; late <= 360; late++ {
				if room, _ := tr.Least(unit.Angle(way * late)); room < 0 {
					first = late
					break
				}
			}
			from, meets := tr.From(early)
			require.Equal(r, !math.IsInf(first, 1), meets)
			if meets {
				require.InDelta(r, first, math.Abs(float64(from)), 1.06, "from %v", from)
				require.LessOrEqual(r, math.Abs(float64(from)), first+0.05)
			}
		}
	})
}

// A cam that a gear turns against the crank comes late by lagging the other way round: over
// a whole cycle it leaves the same room as one that turns with it.
func TestACamThatTurnsAgainstTheCrank(t *testing.T) {
	for idlers, ratio := range map[int]float64{0: -0.5, 1: 0.5} {
		d := fixture.Document("renew-timing-belt-r3.latch.json")
		v := inlet
		s := engine.Sheet{
			Cycle: engine.FourStroke, Cylinders: 4, Running: engine.Clockwise, Stroke: d.Engine.Stroke, Rod: d.Engine.Rod,
			Shafts: []engine.Shaft{{ID: engine.CrankID, Name: "crank", Kind: engine.Crankshaft}, {ID: "cam", Name: "cam", Kind: engine.InletCam, Valves: &v}},
			Wheels: []engine.Wheel{{ID: "a", Name: "crank", Shaft: engine.CrankID, Teeth: 24, Mount: engine.Keyed}, {ID: "b", Name: "cam", Shaft: "cam", Teeth: 48, Mount: engine.Keyed}},
			Gears:  []engine.Gear{{ID: "g", Name: "gear", Driver: "a", Driven: "b", Idlers: idlers}},
		}
		x := engine.NewIndex(&s)
		require.InDelta(t, ratio, x.Drive(1).Ratio.Float(), 1e-12)
		tr, ok := piston.TrainOf(x, 1)
		require.True(t, ok)
		for _, late := range []float64{0, 40, -40, 12, -25} {
			least := math.Inf(1)
			for crank := 0.0; crank < 720; crank++ {
				least = math.Min(least, float64(tr.Now(unit.Angle(crank), unit.Angle(ratio*(crank-late)))))
			}
			want, _ := tr.Least(unit.Angle(late))
			assert.InDelta(t, float64(want), least, 0.02, "%d idlers, %v° late", idlers, late)
		}
	}
}

// A cam of one bank asks its own pistons only: with any crank and cam it leaves what the
// engines of one cylinder leave that are made of the cylinders of that bank, each started
// where it fires, evenly or not.
func TestACamOfOneBankAsksItsOwnPistons(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	sheet := func(cylinders int, tdc float64, fires ...float64) *engine.Index {
		v := inlet
		s := engine.Sheet{
			Cycle: engine.FourStroke, Cylinders: cylinders, Running: engine.Clockwise, Stroke: d.Engine.Stroke, Rod: d.Engine.Rod, FiringOrder: []int{1, 4, 2, 5, 3, 6},
			Banks:  []engine.Bank{{ID: "left", Name: "left", Cylinders: []int{1, 2, 3}}, {ID: "right", Name: "right", Cylinders: []int{4, 5, 6}}},
			Limits: engine.Limits{TDC: tdc}, FiringAngles: fires,
			Shafts: []engine.Shaft{{ID: engine.CrankID, Name: "crank", Kind: engine.Crankshaft}, {ID: "cam", Name: "cam", Kind: engine.InletCam, Bank: "right", Valves: &v}},
			Wheels: []engine.Wheel{{ID: "a", Name: "crank", Shaft: engine.CrankID, Teeth: 24, Mount: engine.Keyed}, {ID: "b", Name: "cam", Shaft: "cam", Teeth: 48, Mount: engine.Keyed}},
			Loops:  []engine.Loop{{ID: "l", Name: "belt", Kind: engine.Belt, Teeth: 100, Pitch: 8, Route: []engine.Stop{{Wheel: "a", Side: engine.Inside}, {Wheel: "b", Side: engine.Inside}}}},
		}
		return engine.NewIndex(&s)
	}
	for _, c := range []struct{ fires, own []float64 }{
		{nil, []float64{120, 360, 600}}, // 4, 5 and 6 are second, fourth and sixth of six
		{[]float64{0, 90, 240, 330, 480, 570}, []float64{90, 330, 570}},
	} {
		bank, ok := piston.TrainOf(sheet(6, 0, c.fires...), 1)
		require.True(t, ok)
		var alone []*piston.Train
		for _, at := range c.own {
			one := sheet(1, at)
			one.Sheet.FiringOrder, one.Sheet.Banks = nil, nil
			v, ok := piston.TrainOf(one, 1)
			require.True(t, ok)
			alone = append(alone, v)
		}
		for crank := 0.0; crank < 720; crank += 11 {
			for _, out := range []float64{0, 7, -31, 90} {
				cam := unit.Angle(crank/2 + out)
				least := math.Inf(1)
				for _, v := range alone {
					least = math.Min(least, float64(v.Now(unit.Angle(crank), cam)))
				}
				assert.InDelta(t, least, float64(bank.Now(unit.Angle(crank), cam)), 1e-6, "crank %v, cam %v° out", crank, out)
			}
		}
	}
}
