package engine

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func twinCam() *Sheet {
	return &Sheet{
		Shafts: []Shaft{{ID: CrankID, Kind: Crankshaft}, {ID: "in", Kind: InletCam}, {ID: "oil", Kind: Pump}, {ID: "lone", Kind: Pump}},
		Wheels: []Wheel{
			{ID: "wc", Shaft: CrankID, Teeth: 21}, {ID: "wc2", Shaft: CrankID, Teeth: 20},
			{ID: "wi", Shaft: "in", Teeth: 42}, {ID: "wo", Shaft: "oil", Teeth: 28}, {ID: "idle", Diameter: 40},
		},
		Loops: []Loop{
			{ID: "belt", Teeth: 151, Pitch: 8, Route: []Stop{{"wc", Inside}, {"wi", Inside}, {"idle", Back}}},
			{ID: "oilbelt", Teeth: 60, Pitch: 8, Route: []Stop{{"wc2", Inside}, {"wo", Back}}},
		},
		Marks: []Mark{{ID: "paint", Kind: LoopMark, Loop: "belt"}, {ID: "dot", Kind: TimingMark, Wheel: "wo"}},
		Locks: []Lock{{ID: "bar", Kind: BarLock, Holds: []ShaftID{CrankID, "in"}, Repeats: 1}, {ID: "hold", Kind: Holder, Holds: []ShaftID{"in"}}},
	}
}

func TestRatiosFromTeeth(t *testing.T) {
	x := NewIndex(twinCam())
	assert.Equal(t, Ratio{1, 2}, x.Drive(x.ShaftAt("in")).Ratio)
	assert.Equal(t, Ratio{-5, 7}, x.Drive(x.ShaftAt("oil")).Ratio, "a wheel on the back of the loop turns the other way")
	assert.False(t, x.Drive(x.ShaftAt("lone")).Driven)
	assert.EqualValues(t, 7, x.MarkHomeEvery(x.Mark("dot")))
	assert.EqualValues(t, 151, x.MarkHomeEvery(x.Mark("paint")), "lcm(151,21)/21")
	assert.EqualValues(t, 2, x.LockHomeEvery(x.Lock("bar")))
	assert.Zero(t, x.LockHomeEvery(x.Lock("hold")))
	assert.Nil(t, x.Part("nothing"))
	assert.Equal(t, -1, x.ToolAt("nothing"))
}

// Home counts from the fraction against counting turns one by one.
func TestHomeEveryAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.IntRange(1, 90).Draw(t, "driver teeth"), rapid.IntRange(1, 90).Draw(t, "driven teeth")
		k := rapid.IntRange(1, 4).Draw(t, "repeats")
		want := int64(1)
		for want*int64(a)*int64(k)%int64(b) != 0 {
			want++
		}
		if got := NewRatio(int64(a), int64(b)).HomeEvery(k); got != want {
			t.Fatalf("%d:%d repeats %d: %d, counted %d", a, b, k, got, want)
		}
	})
}

func TestWrap(t *testing.T) {
	for _, c := range [][3]float64{{370, 360, 10}, {-10, 360, -10}, {180, 360, 180}, {-180, 360, 180}, {725, 720, 5}, {0, 360, 0}} {
		assert.InDelta(t, c[2], Wrap(c[0], c[1]), 1e-9)
	}
}

// A name tells the kind of a shaft by its own words, or does not.
func TestTheKindANameTells(t *testing.T) {
	for name, want := range map[string]ShaftKind{
		"inlet cam": InletCam, "left exhaust cam": ExhaustCam, "Camshaft": Camshaft, "cam": Camshaft,
		"high-pressure pump": Pump, "first balance shaft": Balance, "intake": InletCam,
		"jackshaft": "", "cam pump": "", "inlet exhaust cam": "", "campaign": "", "": "", "new shaft": "",
	} {
		assert.Equal(t, want, KindCalled(name), "%q", name)
	}
}
