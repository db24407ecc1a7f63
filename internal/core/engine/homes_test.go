package engine_test

import (
	"fmt"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
)

func TestSixCodes(t *testing.T) {
	type want struct {
		shaft string
		ratio engine.Ratio
		way   engine.Way
	}
	for file, shafts := range map[string][]want{
		"renew-timing-belt-r3.latch.json":         {{"inlet", engine.Ratio{Num: 1, Den: 2}, engine.Clockwise}},
		"renew-belt-in-oil-r1.latch.json":         {{"exhaust", engine.Ratio{Num: 1, Den: 2}, engine.Clockwise}, {"oil-pump", engine.Ratio{Num: 3, Den: 4}, engine.Clockwise}},
		"renew-belt-both-banks-r1.latch.json":     {{"hp-pump", engine.Ratio{Num: 2, Den: 3}, engine.Clockwise}, {"left-exhaust", engine.Ratio{Num: -1, Den: 2}, engine.Counterclockwise}},
		"renew-timing-chain-r1.latch.json":        {{"balance-a", engine.Ratio{Num: 2, Den: 1}, engine.Clockwise}, {"balance-b", engine.Ratio{Num: -2, Den: 1}, engine.Counterclockwise}},
		"renew-both-belts-r1.latch.json":          {{"jack", engine.Ratio{Num: -1, Den: 2}, engine.Clockwise}, {"left-cam", engine.Ratio{Num: -1, Den: 2}, engine.Clockwise}},
		"renew-cam-chain-r1.latch.json":           {{"cam", engine.Ratio{Num: 1, Den: 2}, engine.Counterclockwise}},
		"renew-belts-at-rest-r1.latch.json":       {{"cam", engine.Ratio{Num: 1, Den: 2}, engine.Clockwise}, {"balance", engine.Ratio{Num: 2, Den: 1}, engine.Clockwise}},
		"renew-chain-two-actuators-r1.latch.json": {{"exhaust", engine.Ratio{Num: 1, Den: 2}, engine.Clockwise}},
	} {
		x := engine.NewIndex(sheet(t, file))
		for _, w := range shafts {
			i := x.ShaftAt(engine.ShaftID(w.shaft))
			assert.Equal(t, w.ratio, x.Drive(i).Ratio, "%s %s", file, w.shaft)
			assert.Equal(t, w.way, x.Direction(i), "%s %s", file, w.shaft)
		}
		assert.Empty(t, x.Disagreements(), file)
	}
	v6 := engine.NewIndex(sheet(t, "renew-belt-both-banks-r1.latch.json"))
	assert.EqualValues(t, 6, v6.CycleHome(), "cams every two, the pump every three")
	assert.EqualValues(t, 3, v6.LockHomeEvery(v6.Lock("pump-pin")))
}

// What is painted on a loop comes back at the wheel it is read at by the same
// count as turning link by link, also on loops the crank does not drive.
func TestLoopHomeAgainstCounting(t *testing.T) {
	for _, file := range []string{"renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-belt-in-oil-r1.latch.json"} {
		x := engine.NewIndex(sheet(t, file))
		for i := range x.Sheet.Loops {
			l := &x.Sheet.Loops[i]
			w := x.Sheet.Wheels[x.Driver(i)]
			r := x.Drive(x.ShaftAt(w.Shaft)).Ratio.Abs()
			n := int64(1)
			for n*r.Num*int64(w.Teeth)%(r.Den*int64(l.Teeth)) != 0 || n*r.Num%r.Den != 0 { // the loop, and its driver tooth for tooth
				n++
			}
			assert.Equal(t, n, x.MarkHomeEvery(&engine.Mark{Kind: engine.LoopMark, Loop: l.ID}), "%s %s", file, l.Name)
			for _, stop := range l.Route {
				at := x.Wheel(stop.Wheel)
				k := x.ShaftAt(at.Shaft)
				if at.Teeth == 0 || k < 0 {
					continue
				}
				q := x.Drive(k).Ratio.Abs()
				m := n
				for m*q.Num%q.Den != 0 {
					m += n
				}
				assert.Equal(t, m, x.MarkHomeEvery(&engine.Mark{Kind: engine.LoopMark, Loop: l.ID, Wheel: stop.Wheel}), "%s %s at %s", file, l.Name, at.Name)
			}
		}
	}
}

// Where a shaft stands after n turns, exactly, against turning its wheels tooth
// by tooth through two loops and a pair of gears.
func TestStandingAgainstTeeth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		z := func(name string) int { return rapid.IntRange(8, 60).Draw(t, name) }
		a, b, c, d, e, f := z("a"), z("b"), z("c"), z("d"), z("e"), z("f")
		s := &engine.Sheet{
			Cycle: engine.FourStroke, Running: engine.Clockwise,
			Shafts: []engine.Shaft{{ID: "crank"}, {ID: "one"}, {ID: "two"}, {ID: "three"}},
			Wheels: []engine.Wheel{
				{ID: "a", Shaft: "crank", Teeth: a}, {ID: "b", Shaft: "one", Teeth: b}, {ID: "c", Shaft: "one", Teeth: c},
				{ID: "d", Shaft: "two", Teeth: d}, {ID: "e", Shaft: "two", Teeth: e}, {ID: "f", Shaft: "three", Teeth: f},
			},
			Loops: []engine.Loop{
				{ID: "l", Teeth: 90, Pitch: 8, Route: []engine.Stop{{Wheel: "a", Side: engine.Inside}, {Wheel: "b", Side: engine.Inside}}},
				{ID: "m", Teeth: 70, Pitch: 8, Route: []engine.Stop{{Wheel: "c", Side: engine.Inside}, {Wheel: "d", Side: engine.Back}}},
			},
			Gears: []engine.Gear{{ID: "g", Driver: "e", Driven: "f"}},
		}
		x := engine.NewIndex(s)
		n := rapid.IntRange(0, 30).Draw(t, "turns")
		// n turns are n·a teeth of the first loop; shaft three turns n·a/b·c/d·e/f
		// times, backwards twice: once over the loop's back, once in the gears.
		num, den := n*a*c*e, b*d*f
		want := engine.NewRatio(int64(num%den), int64(den))
		assert.Equal(t, want, x.At(3, engine.Ratio{Num: int64(n), Den: 1}))
		every := x.ShaftHomeEvery("three", 1)
		assert.Equal(t, engine.Ratio{Num: 0, Den: 1}, x.At(3, engine.Ratio{Num: every, Den: 1}))
		for k := int64(1); k < min(every, 400); k++ {
			if x.At(3, engine.Ratio{Num: k, Den: 1}).Num == 0 {
				t.Fatalf("home at %d already, said %d", k, every)
			}
		}
		meets, ok := x.Meets(3, 1)
		assert.True(t, ok)
		assert.Zero(t, x.At(3, meets).Num)
	})
}

func TestStroke(t *testing.T) {
	four, two := &engine.Sheet{Cycle: engine.FourStroke}, &engine.Sheet{Cycle: engine.TwoStroke}
	assert.True(t, four.TellsStroke(2))
	assert.True(t, four.TellsStroke(4))
	assert.False(t, four.TellsStroke(1), "a crank pin goes in at either")
	assert.False(t, four.TellsStroke(3), "a pump home every three turns is home at either in turn")
	assert.False(t, two.TellsStroke(2), "a two-stroke has one top dead centre")
	assert.EqualValues(t, 12, engine.NextHome(6, 6))
	assert.EqualValues(t, 6, engine.NextHome(6, 0))
	assert.Zero(t, engine.NextHome(0, 3))
}

func TestTwoDrivesThatDisagree(t *testing.T) {
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	s.Shafts = append(s.Shafts, engine.Shaft{ID: "x", Name: "x"})
	s.Wheels = append(s.Wheels, engine.Wheel{ID: "g1", Shaft: "inlet", Teeth: 30}, engine.Wheel{ID: "g2", Shaft: "exhaust", Teeth: 31})
	s.Gears = append(s.Gears, engine.Gear{ID: "g", Driver: "g1", Driven: "g2", Idlers: 1})
	odd := engine.NewIndex(s).Disagreements()
	assert.NotEmpty(t, odd)
	s.Wheels[len(s.Wheels)-1].Teeth = 30
	assert.Empty(t, engine.NewIndex(s).Disagreements(), "thirty to thirty over an idler turns with the belt")
}

func TestFreedom(t *testing.T) {
	assert.InDelta(t, 0.4, float64((&engine.Lock{Play: 0.4, PlayMM: 9, Radius: 1}).Freedom()), 0)
	assert.InDelta(t, 0.625, float64((&engine.Lock{PlayMM: 0.12, Radius: 11}).Freedom()), 0.001)
	assert.Zero(t, float64((&engine.Lock{PlayMM: 0.12}).Freedom()))
}

// A drive of any shape, shafts hung on one another by loops and gears in any
// order on the sheet: each turns as often as its teeth say, worked out shaft by
// shaft with big rational numbers (math/big), and none disagrees.
func TestAnyDriveAgainstItsTeeth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 7).Draw(t, "shafts")
		s := &engine.Sheet{Cycle: engine.FourStroke, Running: engine.Clockwise, Shafts: []engine.Shaft{{ID: "crank"}}}
		rate := []*big.Rat{big.NewRat(1, 1)}
		wheel := func(shaft engine.ShaftID, teeth int) engine.WheelID {
			id := engine.WheelID(fmt.Sprintf("w%d", len(s.Wheels)))
			s.Wheels = append(s.Wheels, engine.Wheel{ID: id, Shaft: shaft, Teeth: teeth})
			return id
		}
		for i := 1; i <= n; i++ {
			id := engine.ShaftID(fmt.Sprintf("s%d", i))
			on := rapid.IntRange(0, i-1).Draw(t, "on")
			a, b := rapid.IntRange(8, 60).Draw(t, "a"), rapid.IntRange(8, 60).Draw(t, "b")
			s.Shafts = append(s.Shafts, engine.Shaft{ID: id})
			from, to := wheel(s.Shafts[on].ID, a), wheel(id, b)
			sign := int64(1)
			if rapid.Bool().Draw(t, "gears") {
				g := engine.Gear{ID: engine.GearID("g" + string(id)), Driver: from, Driven: to}
				if rapid.Bool().Draw(t, "the other way round on the sheet") {
					g.Driver, g.Driven = to, from
				}
				switch rapid.IntRange(0, 3).Draw(t, "mesh") {
				case 0:
					sign = -1
				case 1:
					g.Idlers = 1
				case 2:
					g.Idlers, sign = 2, -1
				case 3: // inside a casing, an ordinary pair
					g.Inside, sign = true, -1
				}
				s.Gears = append(s.Gears, g)
			} else {
				sides := []engine.Side{engine.Inside, rapid.SampledFrom([]engine.Side{engine.Inside, engine.Back}).Draw(t, "side")}
				if sides[1] == engine.Back {
					sign = -1
				}
				s.Loops = append(s.Loops, engine.Loop{ID: engine.LoopID("l" + string(id)), Teeth: 80, Pitch: 8, Route: []engine.Stop{{Wheel: from, Side: sides[0]}, {Wheel: to, Side: sides[1]}}})
			}
			rate = append(rate, new(big.Rat).Mul(rate[on], big.NewRat(sign*int64(a), int64(b))))
		}
		s.Shafts = append(s.Shafts, engine.Shaft{ID: "loose"})
		shuffled := rapid.Permutation(s.Wheels).Draw(t, "wheels")
		s.Wheels = shuffled
		x := engine.NewIndex(s)
		for i, want := range rate {
			d := x.Drive(i)
			if !d.Driven {
				t.Fatalf("%s is not driven", s.Shafts[i].ID)
			}
			if got := big.NewRat(d.Ratio.Num, d.Ratio.Den); got.Cmp(want) != 0 {
				t.Fatalf("%s turns %s times, its teeth say %s", s.Shafts[i].ID, got, want)
			}
			// It is home after as many turns as the denominator has, no earlier.
			if every := x.ShaftHomeEvery(s.Shafts[i].ID, 1); every != want.Denom().Int64() {
				t.Fatalf("%s is home every %d, its teeth say %s", s.Shafts[i].ID, every, want.Denom())
			}
		}
		assert.Empty(t, x.Disagreements())
		assert.False(t, x.Drive(len(rate)).Driven, "nothing drives it")
	})
}
