package virtual_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

func doubt(m *virtual.Machine, id engine.ShaftID) virtual.Doubt {
	return m.State().Doubts[m.Index.ShaftAt(id)]
}

// inPosition is a TQ4-18P with its drive open, crank pin met and cam bar in.
func inPosition(t *testing.T) *virtual.Machine {
	m := tq4()
	for _, p := range []engine.PartID{"accessory-belt", "engine-mount", "upper-cover", "block-plug", "rear-cover"} {
		met(m, func(m *virtual.Machine) { m.RemovePart(p) })
	}
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{To: "inlet-mark", Short: true}) })
	met(m, func(m *virtual.Machine) { m.FitLock("crank-pin") })
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Onto: "crank-pin"}) })
	require.Contains(t, met(m, func(m *virtual.Machine) { m.FitLock("cam-bar") }), "WentIn")
	return m
}

// A belt laid with the shafts held leaves no tooth in doubt; laid with one of them
// loose it leaves one, until a lock or a mark tells, and the play of the lock remains.
func TestDoubtOfALaidBelt(t *testing.T) {
	off, on := func(m *virtual.Machine) { m.LoopOff("timing-belt") }, func(m *virtual.Machine) { m.LoopOn("timing-belt", true, "tensioner-wheel") }
	held := inPosition(t)
	met(held, off)
	met(held, on)
	assert.True(t, doubt(held, "inlet").None(), "%+v", doubt(held, "inlet"))

	loose := inPosition(t)
	met(loose, off)
	met(loose, func(m *virtual.Machine) { m.TakeLock("cam-bar") })
	met(loose, on)
	assert.Equal(t, 1, doubt(loose, "inlet").Teeth)
	assert.Equal(t, 0, doubt(loose, "crank").Teeth, "the crank is what the others are out of step with")
	assert.InDelta(t, 360.0/42, float64(doubt(loose, "inlet").Degrees(loose.Index, loose.Index.ShaftAt("inlet"))), 1e-9)
	met(loose, func(m *virtual.Machine) { m.CheckLock("cam-bar") })
	assert.True(t, doubt(loose, "inlet").None())

	floats := inPosition(t)
	met(floats, func(m *virtual.Machine) { m.Slacken("inlet-sprocket-bolt", "sprocket-holder") })
	met(floats, off)
	met(floats, on)
	met(floats, func(m *virtual.Machine) { m.Tighten("inlet-sprocket-bolt", virtual.Final, "sprocket-holder") })
	play := float64(floats.Index.Lock("cam-bar").Freedom()) + float64(floats.Index.Lock("crank-pin").Freedom())/2
	assert.InDelta(t, play, doubt(floats, "inlet").Angle, 1e-9, "a floating sprocket is clamped wherever the bar lets its cam stand, and the pin the crank")
	assert.True(t, doubt(floats, "exhaust").None(), "the other one was never let go")
}

// Turned on slack, a tooth may jump on every shaft behind the belt, and on no other.
func TestTeethMayJump(t *testing.T) {
	m := virtual.NewMachine(of("renew-timing-chain-r1.latch.json"))
	met(m, func(m *virtual.Machine) { m.PinTensioner("ratchet") })
	got := met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 1}) })
	require.Contains(t, got, "SlackTurned")
	assert.Equal(t, 1, doubt(m, "inlet").Teeth)
	assert.Equal(t, 0, doubt(m, "balance-a").Teeth)
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 1}) })
	assert.Equal(t, 1, doubt(m, "inlet").Teeth, "one tooth, not one more each time")
	assert.True(t, m.State().SlackOn(m.Index, m.Index.LoopAt("timing-chain")))
	assert.False(t, m.State().SlackOn(m.Index, m.Index.LoopAt("balance-chain")))
}

// A tensioner forgets what was seen of it when it is moved or its belt turned over, and
// its stop when it is relieved.
func TestTensionersRemember(t *testing.T) {
	m := tq4()
	st := func() virtual.TensionState { return m.State().Tensioners[0] }
	met(m, func(m *virtual.Machine) { m.SeeTensioner("tensioner") })
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: 30}) })
	assert.True(t, st().Seen)
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 2}) })
	assert.False(t, st().Seen, "it moves while the belt settles")
	met(m, func(m *virtual.Machine) { m.Slacken("tensioner-bolt", "") })
	assert.Equal(t, virtual.TensionState{Now: virtual.Relieved}, st())
	assert.True(t, st().Slack())
	met(m, func(m *virtual.Machine) { m.SetTensioner("tensioner", true) })
	assert.True(t, st().Stop)
	met(m, func(m *virtual.Machine) { m.SetTensioner("tensioner", false) })
	assert.True(t, st().Stop, "it has been to its stop since it was relieved")
	met(m, func(m *virtual.Machine) { m.Slacken("tensioner-bolt", "") })
	met(m, func(m *virtual.Machine) { m.PinTensioner("tensioner") })
	assert.False(t, st().Stop)
}

// Two tensioners on one belt: one relieved lets it off, both are on before it is
// turned, and the first comes first.
func TestTwoTensionersOnOneBelt(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	s := d.Engine
	s.Tensioners = append(s.Tensioners, engine.Tensioner{ID: "plunger", Name: "plunger", Method: engine.Hydraulic, Pin: "tl-101"})
	s.Loops[0].Then = []engine.TensionerID{"plunger"}
	m := virtual.NewMachine(engine.NewIndex(&s))
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") }), "LoopTight")
	m = virtual.NewMachine(engine.NewIndex(&s))
	met(m, func(m *virtual.Machine) { m.PinTensioner("plunger") })
	assert.NotContains(t, met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") }), "LoopTight")
	met(m, func(m *virtual.Machine) { m.LoopOn("timing-belt", true, "tensioner-wheel") })
	met(m, func(m *virtual.Machine) { m.PinTensioner("tensioner") })
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.ReleaseTensioner("plunger") }), "TensionOrder")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 1}) }), "SlackTurned", "one of the two is still pinned")
	met(m, func(m *virtual.Machine) { m.ReleaseTensioner("tensioner") })
	assert.NotContains(t, met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 1}) }), "SlackTurned")
}

// A crank turned with the belt off meets valves where slider-crank and lift say so,
// and within a few degrees does not; by the sheet's limit of contact alone it does
// near top dead centre.
func TestContactIsWorkedOut(t *testing.T) {
	m := inPosition(t)
	met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") })
	met(m, func(m *virtual.Machine) { m.TakeLock("crank-pin") })
	assert.NotContains(t, met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: 4}) }), "Contact")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: 176}) }), "Contact")

	d := fixture.Document("renew-timing-belt-r3.latch.json")
	s := d.Engine
	s.Limits.SafeWindow = 180
	for i := range s.Shafts {
		s.Shafts[i].Valves = nil
	}
	s.Shafts[1].Contact = 10
	for travel, meets := range map[float64]bool{15: false, 170: true} {
		m = virtual.NewMachine(engine.NewIndex(&s))
		met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{To: "inlet-mark"}) })
		met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") })
		got := met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: unit.Angle(travel)}) })
		assert.Equal(t, meets, slices.Contains(got, "Contact"), travel)
	}
}

// Own marks: painted once, they stand until a shaft is turned, come home with it, are
// turned to, and on a new belt are there only once copied.
func TestOwnMarks(t *testing.T) {
	m := inPosition(t)
	paint := func(w engine.WheelID, l engine.LoopID) func(*virtual.Machine) {
		return func(m *virtual.Machine) { m.PaintMark(w, l) }
	}
	look := func() []string { return met(m, func(m *virtual.Machine) { m.CheckPaints() }) }
	assert.Equal(t, []string{"PaintMissing"}, look())
	met(m, paint("inlet-wheel", ""))
	assert.Contains(t, look(), "MarkStood")
	met(m, func(m *virtual.Machine) { m.TakeLock("cam-bar") })
	met(m, func(m *virtual.Machine) { m.TakeLock("crank-pin") })
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 1}) })
	assert.Contains(t, look(), "MarkAway", "a cam turns half a turn for one of the crank")
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Painted: true}) })
	assert.Contains(t, look(), "MarkStood")
	assert.InDelta(t, 0, engine.Wrap(angle(m, "inlet")-m.State().Paints[0].Angle, 360), 1e-6)

	m = inPosition(t)
	met(m, paint("crank-wheel", "timing-belt"))
	assert.Contains(t, look(), "MarkStood")
	met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") })
	assert.Equal(t, []string{"PaintMissing"}, look(), "with the belt off there is nothing to read")
	met(m, func(m *virtual.Machine) { m.LoopOn("timing-belt", true, "") })
	assert.Equal(t, []string{"PaintMissing"}, look(), "the new belt has none")
	met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") })
	met(m, func(m *virtual.Machine) { m.CopyPaint("timing-belt") })
	met(m, func(m *virtual.Machine) { m.LoopOn("timing-belt", true, "") })
	assert.Contains(t, look(), "MarkStood")
	met(m, func(m *virtual.Machine) { m.TakeLock("cam-bar") })
	met(m, func(m *virtual.Machine) { m.TakeLock("crank-pin") })
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 2}) })
	assert.Equal(t, []string{"PaintMoved"}, look(), "it has travelled on")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.PaintMark("nothing", "") }), "UnknownThing")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.PaintMark("crank-wheel", "nothing") }), "UnknownThing")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.CopyPaint("nothing") }), "UnknownThing")
}

// A swing leaves everything where it was, and meets what is in its way.
func TestSwing(t *testing.T) {
	m := tq4()
	before := *m.State()
	assert.Empty(t, met(m, func(m *virtual.Machine) { m.Swing("", 4) }))
	assert.Equal(t, before, *m.State())
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Swing("crank", 30) }), "Backwards", "more than may be turned back")
	m = inPosition(t)
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Swing("inlet", 10) }), "TurnedAgainst")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Swing("nothing", 10) }), "UnknownThing")
	m = inPosition(t)
	met(m, func(m *virtual.Machine) { m.LoopOff("timing-belt") })
	met(m, func(m *virtual.Machine) { m.TakeLock("crank-pin") })
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Swing("", 12) }), "Contact")
}

func TestFluids(t *testing.T) {
	x := of("renew-belt-in-oil-r1.latch.json")
	m := virtual.NewMachine(x)
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Fill("engine-oil") }), "NotDrained")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.RemovePart("timing-cover") }), "Spilled")
	assert.True(t, m.State().Fluids[0].Out)
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Fill("engine-oil") }), "FilledOpen")
	m = virtual.NewMachine(x)
	met(m, func(m *virtual.Machine) { m.Drain("engine-oil") })
	assert.NotContains(t, met(m, func(m *virtual.Machine) { m.RemovePart("timing-cover") }), "Spilled")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Start() }), "StartedOpen")
	for _, do := range []func(*virtual.Machine){func(m *virtual.Machine) { m.Drain("x") }, func(m *virtual.Machine) { m.Fill("x") }, func(m *virtual.Machine) { m.ResetCounter("x") }} {
		assert.Contains(t, met(m, do), "UnknownThing")
	}
	s := *x.Sheet
	s.Fluids = []engine.Fluid{{ID: "engine-oil", Name: "engine oil", Drain: "block-plug"}}
	m = virtual.NewMachine(engine.NewIndex(&s))
	assert.NotContains(t, met(m, func(m *virtual.Machine) { m.RemovePart("block-plug") }), "Spilled", "its own plug lets it out")
	assert.True(t, m.State().Fluids[0].Out)
}

// A stop that is met against the running direction is come up to backwards.
func TestAStopMetBackwards(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	s := d.Engine
	x := engine.NewIndex(&s)
	s.Locks[x.LockAt("crank-pin")].Meets = engine.MeetsAgainst
	m := virtual.NewMachine(engine.NewIndex(&s))
	met(m, func(m *virtual.Machine) { m.RemovePart("block-plug") })
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{To: "inlet-mark"}) })
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: 15}) })
	require.Contains(t, met(m, func(m *virtual.Machine) { m.FitLock("crank-pin") }), "WentIn")
	got := met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Onto: "crank-pin", Backwards: true}) })
	assert.Contains(t, got, "MetStop")
	assert.NotContains(t, got, "Backwards", "that is its way")
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: 20, Backwards: true}) }), "TurnedAgainst")
}

// A lock that holds a wheel leaves the shaft to turn in it while it floats.
func TestALockOfAWheel(t *testing.T) {
	m := inPosition(t)
	m.Index.Sheet.Locks[m.Index.LockAt("cam-bar")].Wheel = "inlet-wheel"
	assert.True(t, m.Fixed("inlet"))
	met(m, func(m *virtual.Machine) { m.Slacken("inlet-sprocket-bolt", "sprocket-holder") })
	assert.False(t, m.Fixed("inlet"))
}

// Every state of every demo page has as many doubts, fluids and tensioners as the
// sheet has, and a page leaves no tooth in doubt.
func TestNoToothIsLeftInDoubt(t *testing.T) {
	for _, f := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json", "renew-belts-at-rest-r1.latch.json"} {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		last := d.Procedure.Trace(x, 0, nil).Last()
		for i, v := range last.Doubts {
			assert.Zero(t, v.Teeth, "%s: %s", f, x.Sheet.Shafts[i].ID)
			if x.Sheet.Shafts[i].Kind.IsCam() {
				assert.LessOrEqual(t, v.Angle, x.Sheet.Limits.CamError+1e-9, "%s: %s", f, x.Sheet.Shafts[i].ID)
			}
		}
	}
}

// A cover that the sheet lists wheels behind keeps everybody from what is on them,
// whether a mark is there or not; a lock may be behind several parts, and a pointer on
// one that has to be on.
func TestCoversAccessAndPointers(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	s := d.Engine
	x := engine.NewIndex(&s)
	for i := range s.Marks {
		s.Marks[i].Behind = ""
	}
	s.Parts[x.PartAt("upper-cover")].Hides = []engine.WheelID{"inlet-wheel", "idler-wheel"}
	s.Locks[x.LockAt("cam-bar")].Also = []engine.PartID{"upper-cover", "engine-mount"}
	s.Marks[x.MarkAt("exhaust-mark")].On = "rear-cover"
	m := virtual.NewMachine(engine.NewIndex(&s))
	look := func(id engine.MarkID) []string {
		return met(m, func(m *virtual.Machine) { m.CheckMark(id) })
	}
	assert.Contains(t, look("inlet-mark"), "MarkHidden")
	assert.NotContains(t, look("crank-mark"), "MarkHidden")
	assert.Equal(t, engine.PartID("upper-cover"), m.State().Before(m.Index, "idler-wheel"))
	assert.Empty(t, m.State().Before(m.Index, "pump-wheel"))
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.Slacken("inlet-sprocket-bolt", "sprocket-holder") }), "Covered")
	shut := func() (out []engine.PartID) {
		from := virtual.Resume(m.Index, *m.State())
		for _, e := range from.Do(single{func(m *virtual.Machine) { m.FitLock("cam-bar") }}, 0).Events {
			if s, ok := e.(virtual.AccessShut); ok {
				out = append(out, s.Part)
			}
		}
		return out
	}
	assert.Equal(t, []engine.PartID{"rear-cover", "upper-cover", "engine-mount"}, shut())
	for _, p := range []engine.PartID{"engine-mount", "upper-cover"} {
		met(m, func(m *virtual.Machine) { m.RemovePart(p) })
	}
	assert.Equal(t, []engine.PartID{"rear-cover"}, shut())
	assert.NotContains(t, look("inlet-mark"), "MarkHidden")
	assert.NotContains(t, look("exhaust-mark"), "PointerOff")
	met(m, func(m *virtual.Machine) { m.RemovePart("rear-cover") })
	assert.Contains(t, look("exhaust-mark"), "PointerOff")
}

// A mark on a shaft itself is read, turned to and counted like one on its wheel.
func TestAMarkOnAShaft(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	s := d.Engine
	x := engine.NewIndex(&s)
	mark := &s.Marks[x.MarkAt("inlet-mark")]
	mark.Wheel, mark.Shaft, mark.Behind = "", "inlet", ""
	of := engine.NewIndex(&s)
	assert.Equal(t, x.MarkHomeEvery(x.Mark("exhaust-mark")), of.MarkHomeEvery(mark), "every second turn")
	m := virtual.NewMachine(of)
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{To: "inlet-mark"}) })
	assert.InDelta(t, 0, engine.Wrap(angle(m, "inlet")-mark.At, 360), 1e-6)
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.CheckMark("inlet-mark") }), "MarkStood")
	met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 1}) })
	assert.Contains(t, met(m, func(m *virtual.Machine) { m.CheckMark("inlet-mark") }), "MarkAway")
}

// Mounts by what they let a wheel do.
func TestMounts(t *testing.T) {
	for mount, floats := range map[engine.Mount]bool{engine.Keyed: false, engine.Dowelled: false, engine.Floating: true, engine.Slotted: true, engine.Friction: true} {
		d := fixture.Document("renew-timing-belt-r3.latch.json")
		s := d.Engine
		for i := range s.Wheels {
			if s.Wheels[i].ID == "inlet-wheel" {
				s.Wheels[i].Mount = mount
			}
		}
		m := virtual.NewMachine(engine.NewIndex(&s))
		met(m, func(m *virtual.Machine) { m.RemovePart("upper-cover") })
		met(m, func(m *virtual.Machine) { m.Slacken("inlet-sprocket-bolt", "sprocket-holder") })
		assert.Equal(t, floats, m.State().Free[m.Index.WheelAt("inlet-wheel")], mount)
		got := met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: 1}) })
		assert.Equal(t, floats, slices.Contains(got, "LooseWheelTurned"), mount)
		assert.Equal(t, !floats, slices.Contains(got, "TurnedLoose"), "%s: it turns with its shaft, and its bolt is slack", mount)
		assert.Equal(t, !floats, mount.Fixed())
	}
}
