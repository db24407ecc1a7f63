package virtual_test

import (
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

func machine() *virtual.Machine {
	return virtual.NewMachine(engine.NewIndex(&fixture.Document("renew-timing-belt-r3.latch.json").Engine))
}

// script is a list of functions.
type script []func(*virtual.Machine)

func (s script) Len() int                      { return len(s) }
func (s script) Act(i int, m *virtual.Machine) { s[i](m) }
func (s script) Holds(int) []engine.LockID     { return nil }
func run(s ...func(*virtual.Machine)) *virtual.Trace {
	return virtual.Run(machine().Index, script(s))
}

func kinds(t *virtual.Trace, i int) []string {
	var out []string
	for _, e := range t.Steps[i].Events {
		if !virtual.Act(e) {
			out = append(out, kindOf(e))
		}
	}
	return out
}

// kindOf is the name of the type of an event.
func kindOf(e virtual.Event) string { return reflect.TypeOf(e).Name() }

func part(id engine.PartID) func(*virtual.Machine) {
	return func(m *virtual.Machine) { m.RemovePart(id) }
}
func lock(id engine.LockID) func(*virtual.Machine)  { return func(m *virtual.Machine) { m.FitLock(id) } }
func turn(t virtual.Turning) func(*virtual.Machine) { return func(m *virtual.Machine) { m.Turn(t) } }

func TestComingUpToAStop(t *testing.T) {
	tr := run(part("block-plug"), turn(virtual.Turning{To: "inlet-mark", Short: true}), lock("crank-pin"), turn(virtual.Turning{Onto: "crank-pin"}), turn(virtual.Turning{Degrees: 1}), turn(virtual.Turning{Degrees: 20, Backwards: true}))
	assert.InDelta(t, -virtual.ShortBy, tr.Steps[1].After.Crank, 1e-9)
	assert.Equal(t, []string{"WentIn"}, kinds(tr, 2))
	assert.False(t, tr.Steps[2].After.Locks[0].Met, "fitted, not met yet")
	assert.InDelta(t, 0, tr.Steps[3].After.Crank, 1e-9)
	assert.True(t, tr.Steps[3].After.Locks[0].Met)
	assert.Contains(t, kinds(tr, 4), "TurnedAgainst", "a stop is met in its direction only")
	assert.NotContains(t, kinds(tr, 5), "TurnedAgainst")
	assert.False(t, tr.Steps[5].After.Locks[0].Met, "turned away from it")
}

func TestTheWebBarsTheStopJustAfterTDC(t *testing.T) {
	tr := run(part("block-plug"), turn(virtual.Turning{To: "crank-mark"}), turn(virtual.Turning{Degrees: 10}), lock("crank-pin"))
	assert.Contains(t, kinds(tr, 3), "WouldNotGoIn")
}

func TestTheBarKnowsTheStroke(t *testing.T) {
	tr := run(part("rear-cover"), turn(virtual.Turning{To: "inlet-mark"}), turn(virtual.Turning{Turns: 1}), lock("cam-bar"))
	e, ok := tr.Steps[3].Events[0].(virtual.WouldNotGoIn)
	require.True(t, ok)
	assert.True(t, e.WrongStroke)
	assert.InDelta(t, 180, float64(e.Degrees), 1e-9)
}

func TestAFreeSprocketDoesNotTurnItsCam(t *testing.T) {
	tr := run(func(m *virtual.Machine) { m.Slacken("inlet-sprocket-bolt", "sprocket-holder") }, turn(virtual.Turning{Turns: 1}))
	inlet, exhaust := 1, 2
	assert.InDelta(t, virtual.StartAngle/2, tr.Last().Shafts[inlet], 1e-9)
	assert.InDelta(t, virtual.StartAngle/2+180, tr.Last().Shafts[exhaust], 1e-9)
	assert.Contains(t, kinds(tr, 1), "LooseWheelTurned")
}

func TestWithTheBeltOffOnlyTheCrankTurns(t *testing.T) {
	tr := run(turn(virtual.Turning{To: "inlet-mark"}), func(m *virtual.Machine) { m.LoopOff("timing-belt") }, turn(virtual.Turning{Degrees: 4}), turn(virtual.Turning{Degrees: 4}))
	assert.InDelta(t, 0, tr.Last().Shafts[1], 1e-9)
	assert.NotContains(t, kinds(tr, 2), "Contact", "inside the safe window of 5°")
	assert.Contains(t, kinds(tr, 3), "Contact")
}

func TestLifelines(t *testing.T) {
	tr := run(part("block-plug"), lock("crank-pin"), func(m *virtual.Machine) { m.LoopOff("timing-belt") }, func(m *virtual.Machine) { m.TakeLock("crank-pin") }, func(m *virtual.Machine) { m.LoopOn("timing-belt", true, "") })
	lines := tr.Lifelines(script(make([]func(*virtual.Machine), 5)))
	require.Len(t, lines, 3)
	assert.Equal(t, []virtual.Span{{From: 0, To: 5}}, lines[0].Spans, "the plug stays out")
	assert.Equal(t, []virtual.Span{{From: 1, To: 3}}, lines[1].Spans)
	assert.Equal(t, []virtual.Span{{From: -1, To: 2}, {From: 4, To: 5}}, lines[2].Spans)
}

func TestBeltLinesAreHomeAgainAfter109Turns(t *testing.T) {
	// lcm(109, 21)/21 = 109 turns.
	tr := run(func(m *virtual.Machine) { m.LoopOff("timing-belt"); m.LoopOn("timing-belt", true, "") }, turn(virtual.Turning{Turns: 2}), func(m *virtual.Machine) { m.CheckMark("belt-lines") }, turn(virtual.Turning{Turns: 107}), func(m *virtual.Machine) { m.CheckMark("belt-lines") })
	assert.Contains(t, kinds(tr, 2), "LoopMarkMoved")
	assert.Contains(t, kinds(tr, 4), "MarkStood")
}

// Whatever is done, the run is the same twice, never touches an earlier state,
// and with everything fitted and clamped the shafts follow the crank exactly.
func TestRunsAreDeterministicAndStatesKept(t *testing.T) {
	x := machine().Index
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 25).Draw(t, "steps")
		var s script
		for range n {
			deg := float64(rapid.IntRange(-800, 800).Draw(t, "deg"))
			k := rapid.IntRange(0, len(x.Sheet.Locks)-1).Draw(t, "lock")
			p := rapid.IntRange(0, len(x.Sheet.Parts)-1).Draw(t, "part")
			switch rapid.IntRange(0, 4).Draw(t, "what") {
			case 0:
				s = append(s, turn(virtual.Turning{Degrees: unit.Angle(deg)}))
			case 1:
				s = append(s, lock(x.Sheet.Locks[k].ID))
			case 2:
				s = append(s, func(m *virtual.Machine) { m.TakeLock(x.Sheet.Locks[k].ID) })
			case 3:
				s = append(s, part(x.Sheet.Parts[p].ID))
			case 4:
				s = append(s, func(m *virtual.Machine) { m.RefitPart(x.Sheet.Parts[p].ID, true, true) })
			}
		}
		a, b := virtual.Run(x, s), virtual.Run(x, s)
		assert.Equal(t, a.First, b.First)
		assert.Equal(t, a.Steps, b.Steps)
		assert.InDelta(t, a.Last().Crank/2, a.Last().Shafts[1], 1e-6)
		half := virtual.Run(x, s[:n/2])
		for i := range half.Steps {
			assert.Equal(t, half.Steps[i].After, a.Steps[i].After, "a later step changed an earlier state")
		}
	})
}
