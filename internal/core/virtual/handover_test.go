package virtual_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// A page finds the engine as it says: with a lock in, its shafts at home, from
// each turn at which that can be.
func TestStood(t *testing.T) {
	x := tq4().Index
	locked := virtual.Standing{Off: []engine.PartID{"rear-cover", "block-plug"}, In: []engine.LockID{"crank-pin", "cam-bar"}, Onto: []engine.LockID{"crank-pin"}}
	for turns, crank := range map[int64]float64{0: 0, 1: -720, 2: 0} {
		m, err := virtual.Stood(x, turns, locked)
		require.NoError(t, err)
		assert.InDelta(t, crank, angle(m, "crank"), 1e-9, "the cams are home every second turn; past the last place it stands at the first")
		assert.InDelta(t, crank/2, angle(m, "inlet"), 1e-9)
		assert.True(t, m.Fixed("crank"))
		assert.True(t, m.Fixed("exhaust"))
		assert.True(t, m.State().Found)
	}
	// With the belt off, the crank may have been at either stroke; the cams are
	// where their lock has them.
	open := locked
	open.LoopsOff = []engine.LoopID{"timing-belt"}
	m, err := virtual.Stood(x, 1, open)
	require.NoError(t, err)
	assert.InDelta(t, -360, angle(m, "crank"), 1e-9)
	assert.InDelta(t, 0, engine.Wrap(angle(m, "inlet"), 360), 1e-9)
	// A stop that is in and not met holds nothing, and the crank stands short of it.
	short := virtual.Standing{In: []engine.LockID{"crank-pin"}}
	m, err = virtual.Stood(x, 0, short)
	require.NoError(t, err)
	assert.False(t, m.Fixed("crank"))
	assert.InDelta(t, -virtual.ShortBy, angle(m, "crank"), 1e-9)
	// Slack sprocket bolts let the wheels go, a slack tensioner bolt alone nothing.
	m, err = virtual.Stood(x, 0, virtual.Standing{Slack: []engine.FastenerID{"inlet-sprocket-bolt", "tensioner-bolt"}})
	require.NoError(t, err)
	assert.True(t, m.State().Free[x.WheelAt("inlet-wheel")])
	assert.Equal(t, virtual.Working, m.State().Tensioners[0].Now)
	assert.InDelta(t, virtual.StartAngle, angle(m, "crank"), 1e-9, "where nothing says otherwise it is found anywhere")
	whole, err := virtual.Stood(x, 1, virtual.Standing{})
	require.NoError(t, err)
	assert.Equal(t, virtual.Found(x, 1).State(), whole.State())
}

// What no engine can be, and what the sheet does not have, is an error.
func TestNobodyStandsSo(t *testing.T) {
	x := tq4().Index
	for name, s := range map[string]virtual.Standing{
		"part": {Off: []engine.PartID{"gone"}}, "loop": {LoopsOff: []engine.LoopID{"gone"}}, "lock": {In: []engine.LockID{"gone"}}, "bolt": {Slack: []engine.FastenerID{"gone"}},
		"pinned": {Pinned: []engine.TensionerID{"gone"}}, "relieved": {Relieved: []engine.TensionerID{"gone"}}, "mark": {Marks: []engine.MarkID{"gone"}},
	} {
		_, err := virtual.Stood(x, 0, s)
		assert.ErrorContains(t, err, "not on the engine sheet", name)
	}
	x.Sheet.Marks = append(x.Sheet.Marks, engine.Mark{ID: "odd", Kind: engine.TimingMark, Wheel: "inlet-wheel", At: 90})
	x = engine.NewIndex(x.Sheet)
	_, err := virtual.Stood(x, 0, virtual.Standing{Marks: []engine.MarkID{"crank-mark", "odd"}})
	assert.ErrorContains(t, err, "at no turn of the crank")
	_, err = virtual.Stood(x, 0, virtual.Standing{Marks: []engine.MarkID{"crank-mark", "odd"}, LoopsOff: []engine.LoopID{"timing-belt"}})
	assert.NoError(t, err, "with the belt off the cam stands where it likes")
}

func TestAStandingInWords(t *testing.T) {
	x := tq4().Index
	s := virtual.Standing{Off: []engine.PartID{"upper-cover"}, LoopsOff: []engine.LoopID{"timing-belt"}, In: []engine.LockID{"crank-pin"}, Onto: []engine.LockID{"crank-pin"}, Pinned: []engine.TensionerID{"tensioner"}}
	assert.Equal(t, "Off: upper timing cover, timing belt; in: crank pin; met: crank pin; pinned: tensioner", s.Says(x.NameOf))
	assert.Empty(t, virtual.Standing{}.Says(x.NameOf))
	assert.True(t, virtual.Standing{}.Whole())
	assert.False(t, s.Whole())
	assert.Empty(t, s.Differs(s, x.NameOf))
	assert.Equal(t, []string{"upper timing cover off", "timing belt off", "crank pin in", "crank pin met", "tensioner pinned"}, s.Differs(virtual.Standing{}, x.NameOf))
	assert.Empty(t, virtual.Standing{}.Differs(s, x.NameOf), "it says what the first has and the other has not")
}

// The pin of a tensioner goes in where the loop is tensioned, and is no proof where
// it is in.
func TestThePinOfATensioner(t *testing.T) {
	m := tq4()
	try := func() []string { return met(m, func(m *virtual.Machine) { m.TryPin("tensioner") }) }
	assert.Equal(t, []string{"TensionSeen"}, try())
	met(m, func(m *virtual.Machine) { m.Slacken("tensioner-bolt", "") })
	assert.Equal(t, []string{"FoundOtherwise"}, try())
	met(m, func(m *virtual.Machine) { m.PinTensioner("tensioner") })
	assert.Equal(t, []string{"TriedWhileIn"}, try())
	m.Index.Sheet.Tensioners[0].Pin = ""
	assert.Equal(t, []string{"UnknownThing"}, try())
	assert.Equal(t, []string{"UnknownThing"}, met(m, func(m *virtual.Machine) { m.TryPin("gone") }))
}

// Nothing that a turn of another shaft says is passed over.
func TestOnlyTheCrankMeetsAStop(t *testing.T) {
	m := tq4()
	got := met(m, func(m *virtual.Machine) {
		m.Turn(virtual.Turning{Shaft: "inlet", Degrees: 10, Onto: "crank-pin", Also: []engine.MarkID{"exhaust-mark"}})
	})
	n := 0
	for _, k := range got {
		if k == "ElsewhereMark" {
			n++
		}
	}
	assert.Equal(t, 2, n)
	before := angle(m, "inlet")
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Shaft: "inlet", Degrees: 40, Short: true}) })
	assert.InDelta(t, before+40-virtual.ShortBy, angle(m, "inlet"), 1e-9)
	// A bolt behind a part is not reached.
	m.Index.Sheet.Fasteners[m.Index.FastenerAt("idler-bolt")].Access = "upper-cover"
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Slacken("idler-bolt", "") }), "AccessShut")
	met(m, func(m *virtual.Machine) { m.RemovePart("upper-cover") })
	assert.NotContains(t, met(m, func(m *virtual.Machine) { m.Slacken("idler-bolt", "") }), "AccessShut")
}
