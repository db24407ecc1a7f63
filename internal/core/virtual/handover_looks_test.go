package virtual_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/virtual"
)

var standingPages = []string{
	"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
	"renew-belt-in-oil-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-timing-chain-r1.latch.json", "open-timing-drive-r1.latch.json", "close-timing-drive-r1.latch.json",
}

// However an engine stands between two steps of a page: an engine that is made to stand
// so stands so, in all that a page can say of it.
func TestAnEngineStandsAsItIsSaidTo(t *testing.T) {
	said := 0
	for _, f := range standingPages {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		run := virtual.Run(x, &d.Procedure)
		for i := range run.Steps {
			st := virtual.StandingOf(x, &run.Steps[i].After)
			if st.Whole() {
				assert.Empty(t, st.Says(x.NameOf))
				continue
			}
			said++
			assert.NotEmpty(t, st.Says(x.NameOf))
			m, err := virtual.Stood(x, 0, st)
			require.NoError(t, err, "%s, after step %s", f, d.Procedure.Steps[i].ID)
			again := virtual.StandingOf(x, m.State())
			// Marks that stand by chance beside the ones that are said may be more.
			again.Marks = slices.DeleteFunc(again.Marks, func(id engine.MarkID) bool { return !slices.Contains(st.Marks, id) })
			assert.Empty(t, st.Differs(again, x.NameOf), "%s, after step %s", f, d.Procedure.Steps[i].ID)
			assert.Empty(t, again.Differs(st, x.NameOf), "%s, after step %s", f, d.Procedure.Steps[i].ID)
		}
	}
	assert.Greater(t, said, 150)
}

func TestAStandingThatCannotBe(t *testing.T) {
	x := engine.NewIndex(&fixture.Document(standingPages[0]).Engine)
	for _, s := range []virtual.Standing{
		{Off: []engine.PartID{"none"}}, {LoopsOff: []engine.LoopID{"none"}}, {In: []engine.LockID{"none"}}, {Slack: []engine.FastenerID{"none"}},
		{Pinned: []engine.TensionerID{"none"}}, {Relieved: []engine.TensionerID{"none"}}, {Marks: []engine.MarkID{"none"}},
	} {
		_, err := virtual.Stood(x, 0, s)
		assert.ErrorContains(t, err, "is not on the engine sheet")
	}
	whole, err := virtual.Stood(x, 0, virtual.Standing{})
	require.NoError(t, err)
	assert.True(t, virtual.StandingOf(x, whole.State()).Whole())
}

// What is looked for and found the other way is told, and what is as it is said to be
// is not.
func TestWhatIsFoundOtherwise(t *testing.T) {
	d := fixture.Document(standingPages[0])
	x := engine.NewIndex(&d.Engine)
	heard := func(begin virtual.Standing, look func(m *virtual.Machine)) []virtual.Event {
		m, err := virtual.Stood(x, 0, begin)
		require.NoError(t, err)
		return m.Do(oneLook(look), 0).Events
	}
	told := func(es []virtual.Event) (out []virtual.Finding) {
		for i := range es {
			if f, ok := es[i].(virtual.FoundOtherwise); ok {
				out = append(out, f.Found)
			}
		}
		return out
	}
	in := virtual.Standing{In: []engine.LockID{"crank-pin"}, Onto: []engine.LockID{"crank-pin"}, Off: []engine.PartID{"block-plug", "upper-cover"}, LoopsOff: []engine.LoopID{"timing-belt"}}
	closed := virtual.Standing{}
	for name, c := range map[string]struct {
		begin virtual.Standing
		look  func(m *virtual.Machine)
		want  []virtual.Finding
	}{
		"a lock that is in is in":       {in, func(m *virtual.Machine) { m.FindLock("crank-pin", true) }, nil},
		"a lock that is in is not out":  {in, func(m *virtual.Machine) { m.FindLock("crank-pin", false) }, []virtual.Finding{virtual.FoundIn}},
		"a lock that is out is not in":  {closed, func(m *virtual.Machine) { m.FindLock("crank-pin", true) }, []virtual.Finding{virtual.FoundOut}},
		"a part that is off is off":     {in, func(m *virtual.Machine) { m.FindPart("upper-cover", false) }, nil},
		"a part that is off is not on":  {in, func(m *virtual.Machine) { m.FindPart("upper-cover", true) }, []virtual.Finding{virtual.FoundOff}},
		"a part that is on is not off":  {closed, func(m *virtual.Machine) { m.FindPart("upper-cover", false) }, []virtual.Finding{virtual.FoundFitted}},
		"a belt that is off is not on":  {in, func(m *virtual.Machine) { m.FindLoop("timing-belt", true) }, []virtual.Finding{virtual.FoundOff}},
		"a belt that is on is on":       {closed, func(m *virtual.Machine) { m.FindLoop("timing-belt", true) }, nil},
		"a mark behind a cover":         {closed, func(m *virtual.Machine) { m.FindHidden("inlet-mark") }, nil},
		"a mark in view":                {in, func(m *virtual.Machine) { m.FindHidden("inlet-mark") }, []virtual.Finding{virtual.FoundInView}},
		"a mark that is away":           {closed, func(m *virtual.Machine) { m.FindMarkAway("crank-mark") }, nil},
		"a mark that is at its pointer": {virtual.Standing{Marks: []engine.MarkID{"crank-mark"}}, func(m *virtual.Machine) { m.FindMarkAway("crank-mark") }, []virtual.Finding{virtual.FoundAtPointer}},
		"a tensioner that is relieved":  {virtual.Standing{Relieved: []engine.TensionerID{"tensioner"}}, func(m *virtual.Machine) { m.TryPin("tensioner") }, []virtual.Finding{virtual.FoundRelieved}},
	} {
		assert.Equal(t, c.want, told(heard(c.begin, c.look)), name)
	}
	for _, look := range []func(m *virtual.Machine){
		func(m *virtual.Machine) { m.FindLock("none", true) }, func(m *virtual.Machine) { m.FindPart("none", true) }, func(m *virtual.Machine) { m.FindLoop("none", true) },
		func(m *virtual.Machine) { m.FindHidden("none") }, func(m *virtual.Machine) { m.FindMarkAway("none") }, func(m *virtual.Machine) { m.Inspect("none") },
		func(m *virtual.Machine) { m.TryPin("none") }, func(m *virtual.Machine) { m.SeeTensioner("none") },
	} {
		assert.True(t, slices.ContainsFunc(heard(closed, look), func(e virtual.Event) bool { return kindOf(e) == "UnknownThing" }))
	}
}

// oneLook is one look as a procedure.
type oneLook func(m *virtual.Machine)

func (oneLook) Len() int                        { return 1 }
func (f oneLook) Act(_ int, m *virtual.Machine) { f(m) }
func (oneLook) Holds(int) []engine.LockID       { return nil }
func (oneLook) Stands() virtual.Standing        { return virtual.Standing{} }
