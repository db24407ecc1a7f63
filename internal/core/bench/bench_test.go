package bench_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
)

func machine() *bench.Machine {
	return bench.NewMachine(engine.NewIndex(&fixture.Document("renew-timing-belt-r3.latch.json").Engine))
}

// script is a list of functions.
type script []func(*bench.Machine)

func (s script) Len() int                    { return len(s) }
func (s script) Act(i int, m *bench.Machine) { s[i](m) }
func (s script) Holds(int) []engine.LockID   { return nil }
func run(s ...func(*bench.Machine)) *bench.Trace {
	return bench.Run(machine().Index, script(s))
}

func kinds(t *bench.Trace, i int) []bench.EventKind {
	var out []bench.EventKind
	for _, e := range t.Steps[i].Events {
		if !e.Kind.Act() {
			out = append(out, e.Kind)
		}
	}
	return out
}

func part(id engine.PartID) func(*bench.Machine) { return func(m *bench.Machine) { m.RemovePart(id) } }
func lock(id engine.LockID) func(*bench.Machine) { return func(m *bench.Machine) { m.FitLock(id) } }
func turn(t bench.Turning) func(*bench.Machine)  { return func(m *bench.Machine) { m.Turn(t) } }

func TestComingUpToAStop(t *testing.T) {
	tr := run(part("block-plug"), turn(bench.Turning{To: "inlet-mark", Short: true}), lock("crank-pin"), turn(bench.Turning{Onto: "crank-pin"}), turn(bench.Turning{Degrees: 1}), turn(bench.Turning{Degrees: 20, Backwards: true}))
	assert.InDelta(t, -bench.ShortBy, tr.Steps[1].After.Crank, 1e-9)
	assert.Equal(t, []bench.EventKind{bench.WentIn}, kinds(tr, 2))
	assert.False(t, tr.Steps[2].After.Locks[0].Met, "fitted, not met yet")
	assert.InDelta(t, 0, tr.Steps[3].After.Crank, 1e-9)
	assert.True(t, tr.Steps[3].After.Locks[0].Met)
	assert.Contains(t, kinds(tr, 4), bench.TurnedAgainst, "a stop is met in its direction only")
	assert.NotContains(t, kinds(tr, 5), bench.TurnedAgainst)
	assert.False(t, tr.Steps[5].After.Locks[0].Met, "turned away from it")
}

func TestTheWebBarsTheStopJustAfterTDC(t *testing.T) {
	tr := run(part("block-plug"), turn(bench.Turning{To: "crank-mark"}), turn(bench.Turning{Degrees: 10}), lock("crank-pin"))
	assert.Contains(t, kinds(tr, 3), bench.WouldNotGoIn)
}

func TestTheBarKnowsTheStroke(t *testing.T) {
	tr := run(part("rear-cover"), turn(bench.Turning{To: "inlet-mark"}), turn(bench.Turning{Turns: 1}), lock("cam-bar"))
	e := tr.Steps[3].Events[0]
	assert.Equal(t, bench.WouldNotGoIn, e.Kind)
	assert.True(t, e.WrongStroke)
	assert.InDelta(t, 180, e.Degrees, 1e-9)
}

func TestAFreeSprocketDoesNotTurnItsCam(t *testing.T) {
	tr := run(func(m *bench.Machine) { m.Slacken("inlet-sprocket-bolt", "sprocket-holder") }, turn(bench.Turning{Turns: 1}))
	inlet, exhaust := 1, 2
	assert.InDelta(t, bench.StartAngle/2, tr.Last().Shafts[inlet], 1e-9)
	assert.InDelta(t, bench.StartAngle/2+180, tr.Last().Shafts[exhaust], 1e-9)
	assert.Contains(t, kinds(tr, 1), bench.LooseWheelTurned)
}

func TestWithTheBeltOffOnlyTheCrankTurns(t *testing.T) {
	tr := run(turn(bench.Turning{To: "inlet-mark"}), func(m *bench.Machine) { m.LoopOff("timing-belt") }, turn(bench.Turning{Degrees: 4}), turn(bench.Turning{Degrees: 4}))
	assert.InDelta(t, 0, tr.Last().Shafts[1], 1e-9)
	assert.NotContains(t, kinds(tr, 2), bench.Contact, "inside the safe window of 5°")
	assert.Contains(t, kinds(tr, 3), bench.Contact)
}

func TestLifelines(t *testing.T) {
	tr := run(part("block-plug"), lock("crank-pin"), func(m *bench.Machine) { m.LoopOff("timing-belt") }, func(m *bench.Machine) { m.TakeLock("crank-pin") }, func(m *bench.Machine) { m.LoopOn("timing-belt", true, "") })
	lines := tr.Lifelines(script(make([]func(*bench.Machine), 5)))
	require.Len(t, lines, 3)
	assert.Equal(t, []bench.Span{{From: 0, To: 5}}, lines[0].Spans, "the plug stays out")
	assert.Equal(t, []bench.Span{{From: 1, To: 3}}, lines[1].Spans)
	assert.Equal(t, []bench.Span{{From: -1, To: 2}, {From: 4, To: 5}}, lines[2].Spans)
}

func TestBeltLinesAreHomeAgainAfter109Turns(t *testing.T) {
	// lcm(109, 21)/21 = 109 turns.
	tr := run(func(m *bench.Machine) { m.LoopOff("timing-belt"); m.LoopOn("timing-belt", true, "") }, turn(bench.Turning{Turns: 2}), func(m *bench.Machine) { m.CheckMark("belt-lines") }, turn(bench.Turning{Turns: 107}), func(m *bench.Machine) { m.CheckMark("belt-lines") })
	assert.Contains(t, kinds(tr, 2), bench.LoopMarkMoved)
	assert.Contains(t, kinds(tr, 4), bench.MarkStood)
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
				s = append(s, turn(bench.Turning{Degrees: deg}))
			case 1:
				s = append(s, lock(x.Sheet.Locks[k].ID))
			case 2:
				s = append(s, func(m *bench.Machine) { m.TakeLock(x.Sheet.Locks[k].ID) })
			case 3:
				s = append(s, part(x.Sheet.Parts[p].ID))
			case 4:
				s = append(s, func(m *bench.Machine) { m.RefitPart(x.Sheet.Parts[p].ID, true, true) })
			}
		}
		a, b := bench.Run(x, s), bench.Run(x, s)
		assert.Equal(t, a.First, b.First)
		assert.Equal(t, a.Steps, b.Steps)
		assert.InDelta(t, a.Last().Crank/2, a.Last().Shafts[1], 1e-6)
		half := bench.Run(x, s[:n/2])
		for i := range half.Steps {
			assert.Equal(t, half.Steps[i].After, a.Steps[i].After, "a later step changed an earlier state")
		}
	})
}
