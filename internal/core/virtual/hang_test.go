package virtual_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/virtual"
)

// noted is what a machine notes while f acts on it.
func noted(m *virtual.Machine, f func(m *virtual.Machine)) []virtual.Event {
	return m.Do(single{f}, 0).Events
}

func bench(file string) *virtual.Machine {
	return virtual.NewMachine(engine.NewIndex(&fixture.Document(file).Engine))
}

// A chain that hangs lets its sprocket off with it; one that is tight does not. Hung on
// again, it lies anew.
func TestASprocketComesOffWithItsChain(t *testing.T) {
	m := bench("lay-in-camshaft-r1.latch.json")
	taut := noted(m, func(m *virtual.Machine) { m.RemovePart("sprocket") })
	assert.Contains(t, taut, virtual.Event(virtual.UnderLoop{Part: "sprocket", Loop: "chain"}))

	m = bench("lay-in-camshaft-r1.latch.json")
	m.RemovePart("cover")
	m.RemovePart("tensioner")
	slack := noted(m, func(m *virtual.Machine) { m.RemovePart("sprocket") })
	assert.NotContains(t, slack, virtual.Event(virtual.UnderLoop{Part: "sprocket", Loop: "chain"}))
	was := m.State().Shafts[1]
	m.Turn(virtual.Turning{Degrees: 4})
	assert.InDelta(t, was, m.State().Shafts[1], 1e-9, "the cam no longer follows")
	on := noted(m, func(m *virtual.Machine) { m.RefitPart("sprocket", false, false) })
	assert.Contains(t, on, virtual.Event(virtual.Laid{Loop: "chain"}))
	assert.False(t, m.State().Loops[0].Looked)
	m.CheckMark("sprocket-lines")
	assert.True(t, m.State().Loops[0].Looked)
}

// Without its shaft nothing meets a piston, and a shaft that is laid in has its caps.
func TestAShaftIsAThing(t *testing.T) {
	m := bench("lay-in-camshaft-r1.latch.json")
	m.Turn(virtual.Turning{To: "tdc-line", Also: []engine.MarkID{"sprocket-lines"}})
	for _, id := range []engine.PartID{"cover", "tensioner", "sprocket"} {
		m.RemovePart(id)
	}
	m.LoopOff("chain")
	in := noted(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: 200}) })
	assert.True(t, slices.ContainsFunc(in, func(e virtual.Event) bool { _, ok := e.(virtual.Contact); return ok }))
	m.Turn(virtual.Turning{Degrees: 160})
	m.RemovePart("camshaft")
	out := noted(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 1}) })
	assert.False(t, slices.ContainsFunc(out, func(e virtual.Event) bool { _, ok := e.(virtual.Contact); return ok }), "its valves hang on nothing")
	m.RefitPart("camshaft", false, false)
	m.LoopOn("chain", true, "")
	loose := noted(m, func(m *virtual.Machine) { m.RefitPart("sprocket", false, false) })
	assert.Contains(t, loose, virtual.Event(virtual.CapsLoose{Shaft: "cam", Loop: "chain", Fastener: "cap-bolt"}))
	m.RemovePart("sprocket")
	m.Tighten("cap-bolt", virtual.Final, "")
	tight := noted(m, func(m *virtual.Machine) { m.RefitPart("sprocket", false, false) })
	assert.NotContains(t, tight, virtual.Event(virtual.CapsLoose{Shaft: "cam", Loop: "chain", Fastener: "cap-bolt"}))
}

// The marks of a chain move on with their sprocket, and hold until their link leaves it.
func TestLoopMarksHoldUntilTheirLinkLeaves(t *testing.T) {
	for by, holds := range map[float64]bool{10: true, 80: true, 100: false, 350: false} {
		m := bench("renew-timing-chain-r1.latch.json")
		m.LoopOff("timing-chain")
		m.LoopOn("timing-chain", true, "")
		m.ReleaseTensioner("ratchet")
		looked := noted(m, func(m *virtual.Machine) {
			m.Turn(virtual.Turning{Degrees: 0, Turns: by / 360})
			m.CheckMark("inlet-link") // on a cam: half of what the crank turns
		})
		moved := slices.ContainsFunc(looked, func(e virtual.Event) bool { _, ok := e.(virtual.LoopMarkMoved); return ok })
		assert.Equal(t, holds, !moved, "%v° of the crank", by)
	}
}

// With a loop slack and all else on it held, a small turn draws its slack; a wide one
// turns the engine against what holds it.
func TestSlackIsTakenUp(t *testing.T) {
	m := bench("renew-timing-belt-r3.latch.json")
	m.LoopOff("timing-belt")
	for i := range m.Index.Sheet.Tensioners {
		m.PinTensioner(m.Index.Sheet.Tensioners[i].ID)
	}
	m.LoopOn("timing-belt", true, "")
	m.RemovePart("rear-cover")
	m.Turn(virtual.Turning{To: "inlet-mark"})
	m.FitLock("cam-bar")
	crank := m.State().Crank
	small := noted(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: 4, Backwards: true}) })
	assert.Empty(t, small)
	assert.InDelta(t, crank, m.State().Crank, 1e-9)
	wide := noted(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: 40}) })
	assert.Contains(t, wide, virtual.Event(virtual.TurnedAgainst{Lock: "cam-bar"}))
}

// An engine that has run stands anywhere until its crank is brought to something.
func TestAfterARunTheCrankIsAnywhere(t *testing.T) {
	m := bench("lay-in-camshaft-r1.latch.json")
	m.Start()
	after := noted(m, func(m *virtual.Machine) { m.CheckMark("tdc-line") })
	assert.Equal(t, []virtual.Event{virtual.AfterRun{Mark: "tdc-line"}}, after)
	m.Turn(virtual.Turning{To: "tdc-line"})
	found := noted(m, func(m *virtual.Machine) { m.CheckMark("tdc-line") })
	assert.NotContains(t, found, virtual.Event(virtual.AfterRun{Mark: "tdc-line"}))
}
