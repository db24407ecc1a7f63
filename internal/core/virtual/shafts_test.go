package virtual_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/virtual"
)

// met are the kinds of event of a machine's last step.
func met(m *virtual.Machine, do func(*virtual.Machine)) []string {
	var out []string
	for _, e := range m.Do(single{do}, 0).Events {
		out = append(out, kindOf(e))
	}
	return out
}

// single is a script of a single step.
type single struct{ do func(*virtual.Machine) }

func (o single) Len() int                      { return 1 }
func (o single) Act(_ int, m *virtual.Machine) { o.do(m) }
func (o single) Holds(int) []engine.LockID     { return nil }

func tq4() *virtual.Machine {
	return virtual.NewMachine(engine.NewIndex(&fixture.Document("renew-timing-belt-r3.latch.json").Engine))
}

func angle(m *virtual.Machine, id engine.ShaftID) float64 {
	return m.State().Shafts[m.Index.ShaftAt(id)]
}

// A cam that the belt ties to the crank turns the whole engine; with the belt off
// it turns alone.
func TestAShaftTurnsWithWhatIsTiedToIt(t *testing.T) {
	m := tq4()
	crank, inlet, exhaust := angle(m, "crank"), angle(m, "inlet"), angle(m, "exhaust")
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Shaft: "exhaust", Degrees: 30}) })
	assert.InDelta(t, crank+60, angle(m, "crank"), 1e-9, "two turns of the crank for one of the cam")
	assert.InDelta(t, inlet+30, angle(m, "inlet"), 1e-9)
	met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") })
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Shaft: "exhaust", Degrees: 7}) })
	assert.InDelta(t, crank+60, angle(m, "crank"), 1e-9)
	assert.InDelta(t, inlet+30, angle(m, "inlet"), 1e-9)
	assert.InDelta(t, exhaust+37, angle(m, "exhaust"), 1e-9)
}

// A lock is tried while a shaft is turned: it stays in where it goes in, the way
// that is turned, and breaks whatever is turned against it afterwards.
func TestALockGoesInWhereTheTurnEnds(t *testing.T) {
	m := tq4()
	m.Index.Sheet.Locks[m.Index.LockAt("cam-bar")].Access = ""
	got := met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Into: "cam-bar"}) })
	assert.Contains(t, got, "WentIn")
	bar := m.Index.Lock("cam-bar")
	for _, id := range bar.Holds {
		assert.InDelta(t, 0, engine.Wrap(angle(m, id)-bar.At, float64(bar.Period())), float64(bar.Freedom()))
	}
	require.True(t, m.State().Locks[m.Index.LockAt("cam-bar")].In)
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Shaft: "inlet", Degrees: 20}) }), "TurnedAgainst")
}

// A cam turned by hand meets a piston, but where the crank stands at rest.
func TestACamTurnedByHand(t *testing.T) {
	for _, rest := range []float64{0, 160} {
		m := tq4()
		m.Index.Sheet.Limits.Rest = rest
		m.Index.Sheet.Shafts[m.Index.ShaftAt("inlet")].Valves = nil
		met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") }) // the crank stands at 160°
		got := met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Shaft: "inlet", Degrees: 90}) })
		if rest == 0 {
			assert.Contains(t, got, "CamContact")
		} else {
			assert.NotContains(t, got, "CamContact")
		}
	}
	m := tq4()
	met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") })
	assert.NotContains(t, met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Shaft: "inlet", Degrees: 8}) }), "CamContact", "a hand’s breadth is how a cam is brought home")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Shaft: "inlet", To: "exhaust-mark"}) }), "ElsewhereMark")
}

// An engine resumed from a state goes on as one that was never stopped, and the
// state is not touched.
func TestResume(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	whole := virtual.Run(x, &d.Procedure)
	for at := range whole.Steps {
		before := *whole.Before(at)
		m := virtual.Resume(x, before)
		for i := at; i < len(whole.Steps); i++ {
			got := m.Do(&d.Procedure, i)
			require.Equal(t, whole.Steps[i].After, got.After, "resumed before step %d, at step %d", at+1, i+1)
			require.ElementsMatch(t, whole.Steps[i].Events, got.Events, "resumed before step %d, at step %d", at+1, i+1)
		}
		require.Equal(t, before, *whole.Before(at))
	}
}
