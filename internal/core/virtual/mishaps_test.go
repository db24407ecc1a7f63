package virtual_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

func unlock(id engine.LockID) func(*virtual.Machine) {
	return func(m *virtual.Machine) { m.TakeLock(id) }
}
func refit(id engine.PartID, fresh, seal bool) func(*virtual.Machine) {
	return func(m *virtual.Machine) { m.RefitPart(id, fresh, seal) }
}
func slack(id engine.FastenerID, hold engine.LockID) func(*virtual.Machine) {
	return func(m *virtual.Machine) { m.Slacken(id, hold) }
}
func tight(id engine.FastenerID, to virtual.Stage, hold engine.LockID) func(*virtual.Machine) {
	return func(m *virtual.Machine) { m.Tighten(id, to, hold) }
}
func renew(id engine.FastenerID) func(*virtual.Machine) {
	return func(m *virtual.Machine) { m.RenewFastener(id) }
}

// found is whether the last step of a script notes a kind of event.
func found(s []func(*virtual.Machine), kind string) bool {
	t := run(s...)
	for _, e := range t.Steps[len(s)-1].Events {
		if kindOf(e) == kind {
			return true
		}
	}
	return false
}

// Each mishap of the bench stands beside the right way to do the same: the last
// step notes it in the one and not in the other.
func TestMishapsAndTheRightWay(t *testing.T) {
	type steps = []func(*virtual.Machine)
	pulley := steps{part("accessory-belt"), slack("crank-bolt", "flywheel-lock"), part("crank-pulley")}
	ready := steps{part("starter-cover"), lock("flywheel-lock")}
	for name, c := range map[string]struct {
		kind         string
		wrong, right steps
	}{
		"taken off twice": {
			"AlreadyOff",
			steps{part("upper-cover"), part("upper-cover")},
			steps{part("engine-mount"), part("upper-cover")},
		},
		"put back without coming off": {
			"NotOff",
			steps{refit("upper-cover", false, false)},
			steps{part("engine-mount"), part("upper-cover"), refit("upper-cover", false, false)},
		},
		"something in its way": {
			"InTheWay",
			steps{part("upper-cover")},
			steps{part("engine-mount"), part("upper-cover")},
		},
		"in the way again when it goes back": {
			"InTheWay",
			steps{part("engine-mount"), part("upper-cover"), refit("engine-mount", false, false), refit("upper-cover", false, false)},
			steps{part("engine-mount"), part("upper-cover"), refit("upper-cover", false, false)},
		},
		"on its old seal": {
			"OldSeal",
			steps{part("block-plug"), refit("block-plug", false, false)},
			steps{part("block-plug"), refit("block-plug", false, true)},
		},
		"a hole closed over its lock": {
			"HoleShut",
			steps{part("block-plug"), turn(virtual.Turning{To: "inlet-mark", Short: true}), lock("crank-pin"), refit("block-plug", false, true)},
			steps{part("block-plug"), turn(virtual.Turning{To: "inlet-mark", Short: true}), lock("crank-pin"), unlock("crank-pin"), refit("block-plug", false, true)},
		},
		"a dangerous bolt out with its part": {
			"BoltTight",
			steps{part("accessory-belt"), part("crank-pulley")},
			append(append(steps{}, ready...), pulley...),
		},
		"slackened twice": {
			"SlackAlready",
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), slack("crank-bolt", "flywheel-lock")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock")),
		},
		"tightened though nothing loosened it": {
			"TightAlready",
			append(append(steps{}, ready...), tight("crank-bolt", virtual.Final, "flywheel-lock")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), tight("crank-bolt", virtual.Final, "flywheel-lock")),
		},
		"a bolt whose part is off": {
			"PartGone",
			append(append(append(steps{}, ready...), pulley...), tight("crank-bolt", virtual.Final, "flywheel-lock")),
			append(append(append(steps{}, ready...), pulley...), refit("crank-pulley", false, false), tight("crank-bolt", virtual.Final, "flywheel-lock")),
		},
		"a bolt for one use, used again": {
			"OldPart",
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), tight("crank-bolt", virtual.Final, "flywheel-lock")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), renew("crank-bolt"), tight("crank-bolt", virtual.Final, "flywheel-lock")),
		},
		"renewed twice": {
			"RenewedAgain",
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), renew("crank-bolt"), renew("crank-bolt")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), renew("crank-bolt")),
		},
		"nothing holds against the wrench": {
			"Unheld",
			steps{slack("crank-bolt", "")},
			append(append(steps{}, ready...), slack("crank-bolt", "")),
		},
		"a hold that is not in": {
			"HoldNotIn",
			steps{part("starter-cover"), slack("crank-bolt", "flywheel-lock")},
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock")),
		},
		"the holder of another shaft": {
			"WrongHold",
			append(append(steps{}, ready...), slack("crank-bolt", "sprocket-holder")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock")),
		},
		"a pin carries the torque": {
			"PinCarriedTorque",
			steps{part("block-plug"), turn(virtual.Turning{To: "inlet-mark", Short: true}), lock("crank-pin"), turn(virtual.Turning{Onto: "crank-pin"}), slack("crank-bolt", "crank-pin")},
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock")),
		},
		"turned with the flywheel locked": {
			"TurnedAgainst",
			append(append(steps{}, ready...), turn(virtual.Turning{Turns: 1})),
			append(append(steps{}, ready...), unlock("flywheel-lock"), turn(virtual.Turning{Turns: 1})),
		},
		"a cam sprocket clamped with nothing holding its cam": {
			"NotFixed",
			steps{slack("inlet-sprocket-bolt", "sprocket-holder"), tight("inlet-sprocket-bolt", virtual.Final, "sprocket-holder")},
			steps{part("rear-cover"), turn(virtual.Turning{To: "inlet-mark"}), lock("cam-bar"), slack("inlet-sprocket-bolt", "sprocket-holder"), tight("inlet-sprocket-bolt", virtual.Final, "sprocket-holder")},
		},
		"sealant past its open time": {
			"SealantDry",
			steps{part("rear-cover"), func(m *virtual.Machine) { m.Spread("rear-cover", 10) }, func(m *virtual.Machine) { m.Wait(11) }, refit("rear-cover", false, true)},
			steps{part("rear-cover"), func(m *virtual.Machine) { m.Spread("rear-cover", 10) }, func(m *virtual.Machine) { m.Wait(9) }, refit("rear-cover", false, true)},
		},
		"a roller off under its belt": {
			"UnderLoop",
			steps{part("idler")},
			steps{func(m *virtual.Machine) { m.LoopOff("timing-belt") }, part("idler")},
		},
	} {
		t.Run(name, func(t *testing.T) {
			assert.True(t, found(c.wrong, c.kind), "%s is not noted", c.kind)
			assert.False(t, found(c.right, c.kind), "%s is noted though it is done right", c.kind)
		})
	}
}

// What is not on the sheet is noted by its name and changes nothing.
func TestUnknownThingsChangeNothing(t *testing.T) {
	for name, do := range map[string]func(*virtual.Machine){
		"part off":      part("nothing"),
		"part on":       refit("nothing", true, true),
		"part renewed":  func(m *virtual.Machine) { m.RenewPart("nothing") },
		"bolt slack":    slack("nothing", ""),
		"bolt tight":    tight("nothing", virtual.Final, ""),
		"bolt renewed":  renew("nothing"),
		"lock in":       lock("nothing"),
		"lock out":      unlock("nothing"),
		"lock tried":    func(m *virtual.Machine) { m.CheckLock("nothing") },
		"mark looked":   func(m *virtual.Machine) { m.CheckMark("nothing") },
		"loop off":      func(m *virtual.Machine) { m.LoopOff("nothing") },
		"loop on":       func(m *virtual.Machine) { m.LoopOn("nothing", true, "") },
		"tensioner pin": func(m *virtual.Machine) { m.PinTensioner("nothing") },
		"tensioner set": func(m *virtual.Machine) { m.SetTensioner("nothing", false) },
		"tensioner out": func(m *virtual.Machine) { m.ReleaseTensioner("nothing") },
	} {
		t.Run(name, func(t *testing.T) {
			tr := run(do)
			assert.Contains(t, kinds(tr, 0), "UnknownThing")
			assert.Equal(t, tr.First, tr.Steps[0].After)
		})
	}
}

// A bolt that is tightened less does not come loose, and one slackened again
// stays as loose as it was.
func TestStagesOfABolt(t *testing.T) {
	tr := run(part("starter-cover"), lock("flywheel-lock"), slack("crank-bolt", "flywheel-lock"), tight("crank-bolt", virtual.Finger, "flywheel-lock"), tight("crank-bolt", virtual.Partial, "flywheel-lock"), tight("crank-bolt", virtual.Snug, "flywheel-lock"), tight("crank-bolt", virtual.Final, "flywheel-lock"))
	i := tr.Index.FastenerAt("crank-bolt")
	var got []virtual.Stage
	for k := range tr.Steps {
		got = append(got, tr.Steps[k].After.Fasteners[i].Stage)
	}
	assert.Equal(t, []virtual.Stage{virtual.Final, virtual.Final, virtual.Loose, virtual.Finger, virtual.Partial, virtual.Partial, virtual.Final}, got)
	assert.True(t, tr.Steps[5].After.Fasteners[i].Loosened, "not finished yet")
	assert.False(t, tr.Last().Fasteners[i].Loosened)
}

// An engine found at another stroke is the same engine some turns earlier.
func TestStartingPositions(t *testing.T) {
	x := machine().Index
	s := script{turn(virtual.Turning{Turns: 3}), func(m *virtual.Machine) { m.CheckMark("inlet-mark") }}
	here, earlier := virtual.Run(x, s), virtual.RunFrom(x, s, 1)
	assert.InDelta(t, here.First.Crank-360, earlier.First.Crank, 1e-9)
	assert.InDelta(t, here.Last().Crank-360, earlier.Last().Crank, 1e-9)
	assert.InDelta(t, here.Last().Shafts[1]-180, earlier.Last().Shafts[1], 1e-9)
	whole := virtual.RunFrom(x, s, 2)
	assert.Equal(t, kinds(here, 1), kinds(whole, 1), "two turns are one cycle: nothing tells them apart")
}
