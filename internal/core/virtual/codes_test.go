package virtual_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

const (
	oil   = "renew-belt-in-oil-r1.latch.json"
	v6    = "renew-belt-both-banks-r1.latch.json"
	chain = "renew-timing-chain-r1.latch.json"
	twin  = "renew-both-belts-r1.latch.json"
	one   = "renew-cam-chain-r1.latch.json"
)

func of(file string) *engine.Index { return engine.NewIndex(&fixture.Document(file).Engine) }

func off(id engine.LoopID) func(*virtual.Machine) { return func(m *virtual.Machine) { m.LoopOff(id) } }
func on(id engine.LoopID) func(*virtual.Machine) {
	return func(m *virtual.Machine) { m.LoopOn(id, true, "") }
}
func check(id engine.LockID) func(*virtual.Machine) {
	return func(m *virtual.Machine) { m.CheckLock(id) }
}

func shaft(x *engine.Index, st *virtual.State, id engine.ShaftID) float64 {
	return st.Shafts[x.ShaftAt(id)]
}

// Through belt and gears every shaft of the V6 turns by its teeth, the exhaust
// cams the other way.
func TestTheV6Turns(t *testing.T) {
	x := of(v6)
	tr := virtual.Run(x, script{turn(virtual.Turning{To: "left-mark"}), turn(virtual.Turning{Turns: 3})})
	st := tr.Last()
	assert.InDelta(t, 1080, st.Crank, 1e-9)
	assert.InDelta(t, 540, shaft(x, st, "left-inlet"), 1e-9)
	assert.InDelta(t, -540, shaft(x, st, "left-exhaust"), 1e-9)
	assert.InDelta(t, 720, shaft(x, st, "hp-pump"), 1e-9, "three turns bring the pump home")
}

// Two turns: both cam plates go in, the pump pin does not. Six: all of them.
func TestOnlySixTurnsBringAllHome(t *testing.T) {
	for n, pump := range map[float64]string{2: "WouldNotGoIn", 3: "WentIn", 4: "WouldNotGoIn", 6: "WentIn"} {
		tr := virtual.Run(of(v6), script{part("left-cam-cap"), part("right-cam-cap"), turn(virtual.Turning{To: "left-mark"}), turn(virtual.Turning{Turns: n}), check("left-plate"), check("pump-pin")})
		cams := "WentIn"
		if n == 3 {
			cams = "WouldNotGoIn"
		}
		assert.Equal(t, []string{cams}, kinds(tr, 4), "%v turns", n)
		assert.Equal(t, []string{pump}, kinds(tr, 5), "%v turns", n)
	}
}

// With one of two belts off, only what hangs on it stands still.
func TestOneBeltOfTwoOff(t *testing.T) {
	x := of(twin)
	tr := virtual.Run(x, script{turn(virtual.Turning{To: "left-mark"}), off("left-belt"), turn(virtual.Turning{Degrees: 6}), turn(virtual.Turning{Degrees: 6})})
	st := tr.Last()
	assert.InDelta(t, 0, shaft(x, st, "left-cam"), 1e-9)
	assert.InDelta(t, -6, shaft(x, st, "right-cam"), 1e-9)
	assert.InDelta(t, -6, shaft(x, st, "jack"), 1e-9)
	assert.NotContains(t, kinds(tr, 2), "Contact", "inside the safe window of 8°")
	assert.Contains(t, kinds(tr, 3), "Contact")
}

// The balance chain drives no cam: nobody has to hold one while it is off.
func TestABalanceChainNeedsNoCamHeld(t *testing.T) {
	x := of(chain)
	tr := virtual.Run(x, script{turn(virtual.Turning{To: "inlet-mark"}), off("balance-chain"), turn(virtual.Turning{Turns: 1}), on("balance-chain")})
	assert.NotContains(t, kinds(tr, 1), "LoopOffUnlocked")
	assert.NotContains(t, kinds(tr, 2), "Contact")
	st := tr.Last()
	assert.InDelta(t, 180, shaft(x, st, "inlet"), 1e-9)
	assert.InDelta(t, 0, shaft(x, st, "balance-a"), 1e-9, "it stayed behind while the crank turned")
	tr = virtual.Run(x, script{turn(virtual.Turning{To: "inlet-mark"}), off("timing-chain")})
	assert.Contains(t, kinds(tr, 1), "LoopOffUnlocked")
}

// A bar in symmetric slots goes in on either stroke; one off-centre does not.
func TestSymmetricSlotsDoNotTellTheStroke(t *testing.T) {
	go1 := script{part("cam-cover"), turn(virtual.Turning{To: "inlet-mark"}), turn(virtual.Turning{Turns: 1}), check("cam-bar")}
	assert.Equal(t, []string{"WentIn"}, kinds(virtual.Run(of(chain), go1), 3))
	x := of(chain)
	x.Lock("cam-bar").Repeats = 1
	tr := virtual.Run(x, go1)
	require.Equal(t, []string{"WouldNotGoIn"}, kinds(tr, 3))
	assert.True(t, tr.Steps[3].Events[0].(virtual.WouldNotGoIn).WrongStroke)
}

func TestAPhaserIsBroughtToItsStopBeforeTheBelt(t *testing.T) {
	x := of(oil)
	count := func(tr *virtual.Trace, i int) int {
		n := 0
		for _, k := range kinds(tr, i) {
			if k == "PhaserAway" {
				n++
			}
		}
		return n
	}
	phaser := func(id engine.WheelID) func(*virtual.Machine) { return func(m *virtual.Machine) { m.SetPhaser(id) } }
	tr := virtual.Run(x, script{off("timing-belt"), on("timing-belt")})
	assert.Equal(t, 2, count(tr, 1))
	tr = virtual.Run(x, script{off("timing-belt"), phaser("inlet-wheel"), on("timing-belt")})
	assert.Equal(t, 1, count(tr, 2))
	tr = virtual.Run(x, script{off("timing-belt"), phaser("inlet-wheel"), phaser("exhaust-wheel"), on("timing-belt"), phaser("crank-wheel")})
	assert.Zero(t, count(tr, 3))
	assert.Equal(t, []string{"UnknownThing"}, kinds(tr, 4), "the crank wheel is no phaser")
	tr = virtual.Run(x, script{off("pump-chain"), on("pump-chain")})
	assert.Zero(t, count(tr, 1), "the pump chain runs over none")
}

// A flywheel's marks stand on the crank: the firing line comes 24° before TDC.
func TestTheFiringLineComesBeforeTDC(t *testing.T) {
	x := of(one)
	x.Mark("cam-line").Behind = "" // the cover is off
	tr := virtual.Run(x, script{turn(virtual.Turning{To: "cam-line"}), turn(virtual.Turning{To: "firing-line"}), func(m *virtual.Machine) { m.CheckMark("firing-line") }, turn(virtual.Turning{To: "tdc-line"}), func(m *virtual.Machine) { m.CheckMark("cam-line") }})
	assert.InDelta(t, 360-24, tr.Steps[1].After.Crank, 1e-9)
	assert.Equal(t, []string{"MarkStood"}, kinds(tr, 2))
	assert.InDelta(t, 360, tr.Steps[3].After.Crank, 1e-9)
	assert.Equal(t, []string{"MarkAway"}, kinds(tr, 4), "TDC again, but on the other stroke")
	away := tr.Steps[4].Events[len(tr.Steps[4].Events)-1]
	assert.InDelta(t, 180, math.Abs(float64(away.(virtual.MarkAway).Degrees)), 1e-9)
}

// Play given in millimetres at a radius is the play the lock has.
func TestPlayInMillimetres(t *testing.T) {
	x := of(oil)
	for crank, kind := range map[float64]string{1.1: "WentIn", 1.4: "WouldNotGoIn"} {
		tr := virtual.Run(x, script{part("cam-cover"), turn(virtual.Turning{To: "inlet-mark"}), turn(virtual.Turning{Degrees: unit.Angle(crank)}), check("cam-yoke")})
		assert.Equal(t, []string{kind}, kinds(tr, 3), "0.12 mm at 11 mm is 0.63° of the cam, 1.25° of the crank")
	}
}

// However the crank is turned with everything fitted, every driven shaft of
// every code stands where its exact ratio puts it.
func TestShaftsFollowTheirRatios(t *testing.T) {
	for _, f := range []string{oil, v6, chain, twin, one} {
		x := of(f)
		rapid.Check(t, func(t *rapid.T) {
			var s script
			total := virtual.StartAngle * 1.0
			for range rapid.IntRange(1, 12).Draw(t, "turns") {
				d := float64(rapid.IntRange(-720, 720).Draw(t, "deg"))
				total += d
				s = append(s, turn(virtual.Turning{Degrees: unit.Angle(d)}))
			}
			st := virtual.Run(x, s).Last()
			for i := range x.Sheet.Shafts {
				assert.InDelta(t, total*x.Drive(i).Ratio.Float(), st.Shafts[i], 1e-6)
			}
		})
	}
}
