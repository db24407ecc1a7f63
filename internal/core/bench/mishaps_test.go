package bench_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

func unlock(id engine.LockID) func(*bench.Machine) {
	return func(m *bench.Machine) { m.TakeLock(id) }
}
func refit(id engine.PartID, fresh, seal bool) func(*bench.Machine) {
	return func(m *bench.Machine) { m.RefitPart(id, fresh, seal) }
}
func slack(id engine.FastenerID, hold engine.LockID) func(*bench.Machine) {
	return func(m *bench.Machine) { m.Slacken(id, hold) }
}
func tight(id engine.FastenerID, to bench.Stage, hold engine.LockID) func(*bench.Machine) {
	return func(m *bench.Machine) { m.Tighten(id, to, hold) }
}
func renew(id engine.FastenerID) func(*bench.Machine) {
	return func(m *bench.Machine) { m.RenewFastener(id) }
}

// found is whether the last step of a script notes a kind of event.
func found(s []func(*bench.Machine), kind bench.EventKind) bool {
	t := run(s...)
	for _, e := range t.Steps[len(s)-1].Events {
		if e.Kind == kind {
			return true
		}
	}
	return false
}

// Each mishap of the bench stands beside the right way to do the same: the last
// step notes it in the one and not in the other.
func TestMishapsAndTheRightWay(t *testing.T) {
	type steps = []func(*bench.Machine)
	pulley := steps{part("accessory-belt"), slack("crank-bolt", "flywheel-lock"), part("crank-pulley")}
	ready := steps{part("starter-cover"), lock("flywheel-lock")}
	for name, c := range map[string]struct {
		kind         bench.EventKind
		wrong, right steps
	}{
		"taken off twice": {
			bench.AlreadyOff,
			steps{part("upper-cover"), part("upper-cover")},
			steps{part("engine-mount"), part("upper-cover")},
		},
		"put back without coming off": {
			bench.NotOff,
			steps{refit("upper-cover", false, false)},
			steps{part("engine-mount"), part("upper-cover"), refit("upper-cover", false, false)},
		},
		"something in its way": {
			bench.InTheWay,
			steps{part("upper-cover")},
			steps{part("engine-mount"), part("upper-cover")},
		},
		"in the way again when it goes back": {
			bench.InTheWay,
			steps{part("engine-mount"), part("upper-cover"), refit("engine-mount", false, false), refit("upper-cover", false, false)},
			steps{part("engine-mount"), part("upper-cover"), refit("upper-cover", false, false)},
		},
		"on its old seal": {
			bench.OldSeal,
			steps{part("block-plug"), refit("block-plug", false, false)},
			steps{part("block-plug"), refit("block-plug", false, true)},
		},
		"a hole closed over its lock": {
			bench.HoleShut,
			steps{part("block-plug"), turn(bench.Turning{To: "inlet-mark", Short: true}), lock("crank-pin"), refit("block-plug", false, true)},
			steps{part("block-plug"), turn(bench.Turning{To: "inlet-mark", Short: true}), lock("crank-pin"), unlock("crank-pin"), refit("block-plug", false, true)},
		},
		"a dangerous bolt out with its part": {
			bench.BoltTight,
			steps{part("accessory-belt"), part("crank-pulley")},
			append(append(steps{}, ready...), pulley...),
		},
		"slackened twice": {
			bench.SlackAlready,
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), slack("crank-bolt", "flywheel-lock")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock")),
		},
		"tightened though nothing loosened it": {
			bench.TightAlready,
			append(append(steps{}, ready...), tight("crank-bolt", bench.Final, "flywheel-lock")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), tight("crank-bolt", bench.Final, "flywheel-lock")),
		},
		"a bolt whose part is off": {
			bench.PartGone,
			append(append(append(steps{}, ready...), pulley...), tight("crank-bolt", bench.Final, "flywheel-lock")),
			append(append(append(steps{}, ready...), pulley...), refit("crank-pulley", false, false), tight("crank-bolt", bench.Final, "flywheel-lock")),
		},
		"a bolt for one use, used again": {
			bench.OldPart,
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), tight("crank-bolt", bench.Final, "flywheel-lock")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), renew("crank-bolt"), tight("crank-bolt", bench.Final, "flywheel-lock")),
		},
		"renewed twice": {
			bench.RenewedAgain,
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), renew("crank-bolt"), renew("crank-bolt")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock"), renew("crank-bolt")),
		},
		"nothing holds against the wrench": {
			bench.Unheld,
			steps{slack("crank-bolt", "")},
			append(append(steps{}, ready...), slack("crank-bolt", "")),
		},
		"a hold that is not in": {
			bench.HoldNotIn,
			steps{part("starter-cover"), slack("crank-bolt", "flywheel-lock")},
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock")),
		},
		"the holder of another shaft": {
			bench.WrongHold,
			append(append(steps{}, ready...), slack("crank-bolt", "sprocket-holder")),
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock")),
		},
		"a pin carries the torque": {
			bench.PinCarriedTorque,
			steps{part("block-plug"), turn(bench.Turning{To: "inlet-mark", Short: true}), lock("crank-pin"), turn(bench.Turning{Onto: "crank-pin"}), slack("crank-bolt", "crank-pin")},
			append(append(steps{}, ready...), slack("crank-bolt", "flywheel-lock")),
		},
		"turned with the flywheel locked": {
			bench.TurnedAgainst,
			append(append(steps{}, ready...), turn(bench.Turning{Turns: 1})),
			append(append(steps{}, ready...), unlock("flywheel-lock"), turn(bench.Turning{Turns: 1})),
		},
		"a cam sprocket clamped with nothing holding its cam": {
			bench.NotFixed,
			steps{slack("inlet-sprocket-bolt", "sprocket-holder"), tight("inlet-sprocket-bolt", bench.Final, "sprocket-holder")},
			steps{part("rear-cover"), turn(bench.Turning{To: "inlet-mark"}), lock("cam-bar"), slack("inlet-sprocket-bolt", "sprocket-holder"), tight("inlet-sprocket-bolt", bench.Final, "sprocket-holder")},
		},
		"sealant past its open time": {
			bench.SealantDry,
			steps{part("rear-cover"), func(m *bench.Machine) { m.Spread("rear-cover", 10) }, func(m *bench.Machine) { m.Wait(11) }, refit("rear-cover", false, true)},
			steps{part("rear-cover"), func(m *bench.Machine) { m.Spread("rear-cover", 10) }, func(m *bench.Machine) { m.Wait(9) }, refit("rear-cover", false, true)},
		},
		"a roller off under its belt": {
			bench.UnderLoop,
			steps{part("idler")},
			steps{func(m *bench.Machine) { m.LoopOff("timing-belt") }, part("idler")},
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
	for name, do := range map[string]func(*bench.Machine){
		"part off":      part("nothing"),
		"part on":       refit("nothing", true, true),
		"part renewed":  func(m *bench.Machine) { m.RenewPart("nothing") },
		"bolt slack":    slack("nothing", ""),
		"bolt tight":    tight("nothing", bench.Final, ""),
		"bolt renewed":  renew("nothing"),
		"lock in":       lock("nothing"),
		"lock out":      unlock("nothing"),
		"lock tried":    func(m *bench.Machine) { m.CheckLock("nothing") },
		"mark looked":   func(m *bench.Machine) { m.CheckMark("nothing") },
		"loop off":      func(m *bench.Machine) { m.LoopOff("nothing") },
		"loop on":       func(m *bench.Machine) { m.LoopOn("nothing", true, "") },
		"tensioner pin": func(m *bench.Machine) { m.PinTensioner("nothing") },
		"tensioner set": func(m *bench.Machine) { m.SetTensioner("nothing", false) },
		"tensioner out": func(m *bench.Machine) { m.ReleaseTensioner("nothing") },
	} {
		t.Run(name, func(t *testing.T) {
			tr := run(do)
			assert.Contains(t, kinds(tr, 0), bench.UnknownThing)
			assert.Equal(t, tr.First, tr.Steps[0].After)
		})
	}
}

// A bolt that is tightened less does not come loose, and one slackened again
// stays as loose as it was.
func TestStagesOfABolt(t *testing.T) {
	tr := run(part("starter-cover"), lock("flywheel-lock"), slack("crank-bolt", "flywheel-lock"), tight("crank-bolt", bench.Finger, "flywheel-lock"), tight("crank-bolt", bench.Partial, "flywheel-lock"), tight("crank-bolt", bench.Snug, "flywheel-lock"), tight("crank-bolt", bench.Final, "flywheel-lock"))
	i := tr.Index.FastenerAt("crank-bolt")
	var got []bench.Stage
	for k := range tr.Steps {
		got = append(got, tr.Steps[k].After.Fasteners[i].Stage)
	}
	assert.Equal(t, []bench.Stage{bench.Final, bench.Final, bench.Loose, bench.Finger, bench.Partial, bench.Partial, bench.Final}, got)
	assert.True(t, tr.Steps[5].After.Fasteners[i].Loosened, "not finished yet")
	assert.False(t, tr.Last().Fasteners[i].Loosened)
}

// An engine found at another stroke is the same engine some turns earlier.
func TestStartingPositions(t *testing.T) {
	x := machine().Index
	s := script{turn(bench.Turning{Turns: 3}), func(m *bench.Machine) { m.CheckMark("inlet-mark") }}
	here, earlier := bench.Run(x, s), bench.RunFrom(x, s, 1)
	assert.InDelta(t, here.First.Crank-360, earlier.First.Crank, 1e-9)
	assert.InDelta(t, here.Last().Crank-360, earlier.Last().Crank, 1e-9)
	assert.InDelta(t, here.Last().Shafts[1]-180, earlier.Last().Shafts[1], 1e-9)
	whole := bench.RunFrom(x, s, 2)
	assert.Equal(t, kinds(here, 1), kinds(whole, 1), "two turns are one cycle: nothing tells them apart")
}
