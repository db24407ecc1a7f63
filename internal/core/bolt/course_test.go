package bolt_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/unit"
)

func exactly[T ~float64](v T) bolt.Band[T] { return bolt.Band[T]{Low: v, High: v} }

// torqueAndAngle are the two stages of a common bolt.
func torqueAndAngle(t unit.Torque, deg unit.Angle) []bolt.Step {
	out := []bolt.Step{{Torque: exactly(t)}}
	if deg > 0 {
		out = append(out, bolt.Step{Angle: exactly(deg)})
	}
	return out
}

func bolted(t require.TestingT, text, class, condition string) bolt.Bolt {
	th := thread(t, text)
	c, ok := bolt.ClassOf(class, th)
	require.True(t, ok)
	return bolt.Bolt{Thread: th, Class: c, Friction: bolt.FrictionOf(condition)}
}

// byCompatibility is the second way: what a bolt is turned on is taken up by bolt, joint and
// lasting stretch together, so the load is the root of a sum, found by halving.
func byCompatibility(seat, deg, pitch, soft, yield, harden float64) float64 {
	way := deg / 360 * pitch
	low, high := seat, seat+way/soft+1
	for range 200 {
		f := (low + high) / 2
		used := (f - seat) * soft
		if f > yield {
			used += (f - math.Max(yield, seat)) / harden
		}
		if used < way {
			low = f
		} else {
			high = f
		}
	}
	return low
}

// The angle stage against the joint diagram solved as one equation, for bolts at random: the
// load at the ends of the band lies where the equation puts it.
func TestAngleAgainstTheJointDiagram(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := bolted(t, rapid.SampledFrom([]string{"M8", "M10", "M12×1.25", "M14×1.5"}).Draw(t, "thread"), rapid.SampledFrom([]string{"8.8", "10.9", "12.9"}).Draw(t, "class"), "oiled")
		mu := rapid.Float64Range(0.08, 0.16).Draw(t, "friction")
		b.Friction = exactly(mu)
		j := bolt.Joint{Grip: unit.Length(rapid.Float64Range(10, 120).Draw(t, "grip")), Clamped: bolt.Steel, Into: bolt.Steel}
		seat := rapid.Float64Range(0.1, 0.7).Draw(t, "seat") * float64(b.Yields().Low)
		deg := rapid.Float64Range(5, 180).Draw(t, "angle")
		c, ok := b.Through(j, torqueAndAngle(unit.Torque(seat), unit.Angle(deg)))
		require.True(t, ok)
		if c.Used.High >= 1 {
			return // it necks: no equation of ours holds there
		}
		// What the joint is, read off a turn that stays a spring.
		small, ok := b.Through(j, torqueAndAngle(unit.Torque(seat), 0.01))
		require.True(t, ok)
		for end, at := range map[bool]func(bolt.Band[unit.Force]) unit.Force{false: func(f bolt.Band[unit.Force]) unit.Force { return f.Low }, true: func(f bolt.Band[unit.Force]) unit.Force { return f.High }} {
			from := float64(at(c.Seated))
			soft := 0.01 / 360 * b.Thread.P / (float64(at(small.Final)) - from)
			yield := float64(b.YieldLoad().Low)
			// The hardening, read off the lasting stretch.
			harden := math.Inf(1)
			if c.Set.High > 0 {
				harden = (float64(c.Final.High) - yield) / float64(c.Set.High)
			}
			assert.InEpsilon(t, byCompatibility(from, deg, b.Thread.P, soft, yield, harden), float64(at(c.Final)), 1e-6, "end %v", end)
		}
	})
}

// A textbook's joint: bolt and parts as springs. 3/4 in bolt, grip 1.5 in, frusta of 30° in
// steel give km = 13.8·10⁶ lbf/in or near, and torque with friction 0.15 for 25 kip
// 3551 lbf·in (a standard text on machine design, from memory, whose collar is 1.25 d wide).
func TestATextbooksBolt(t *testing.T) {
	b := bolt.Bolt{Thread: bolt.Thread{D: 19.05, P: 25.4 / 16, Unified: true}, Friction: exactly(0.15)}
	clamp := b.Clamp(unit.Torque(3551 * 0.1129848))
	assert.InEpsilon(t, 25000*4.448222, float64(clamp.Low), 0.05)
}

// Nothing gets looser by being turned on, a wider friction widens the band, the course ends
// where it ends, and a bolt left a spring is longer by load over stiffness and no more.
func TestCourses(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := bolted(t, rapid.SampledFrom([]string{"M6", "M8", "M10", "M12×1.25", "M14×1.5", "M16"}).Draw(t, "thread"), rapid.SampledFrom([]string{"8.8", "10.9", "12.9", "A2-70"}).Draw(t, "class"), rapid.SampledFrom([]string{"dry", "oiled", "greased", "thread lock", ""}).Draw(t, "condition"))
		grip := unit.Length(rapid.Float64Range(3, 150).Draw(t, "grip"))
		j := bolt.Joint{Grip: grip, Plain: unit.Length(rapid.Float64Range(0, float64(grip)).Draw(t, "plain")), Clamped: rapid.SampledFrom([]bolt.Material{"", bolt.Steel, bolt.CastIron, bolt.Aluminium, bolt.Magnesium}).Draw(t, "clamped"), Into: bolt.Aluminium}
		torque := unit.Torque(rapid.Float64Range(0.05, 0.9).Draw(t, "torque") * float64(b.Yields().Low))
		deg := unit.Angle(rapid.Float64Range(1, 270).Draw(t, "angle"))
		c, ok := b.Through(j, torqueAndAngle(torque, deg))
		require.True(t, ok)
		assert.InDelta(t, float64(deg), float64(c.Turned), 1e-9)
		was := c.Points[0]
		for _, p := range c.Points {
			assert.GreaterOrEqual(t, p.Load.Low, was.Load.Low-1e-6)
			assert.GreaterOrEqual(t, p.Load.High, was.Load.High-1e-6)
			assert.LessOrEqual(t, p.Load.Low, p.Load.High)
			was = p
		}
		assert.InEpsilon(t, float64(c.Final.High), float64(was.Load.High), 1e-6, "the picture ends where the sum does")
		assert.InEpsilon(t, float64(c.Final.Low), float64(was.Load.Low), 1e-6)
		if c.Reuse == bolt.MayReuse {
			assert.Zero(t, c.Set.High)
		} else {
			assert.Positive(t, c.Set.High)
		}
		more, ok := b.Through(j, torqueAndAngle(torque, deg+10))
		require.True(t, ok)
		assert.GreaterOrEqual(t, more.Final.Low, c.Final.Low)
		narrow := b
		narrow.Friction = exactly((b.Friction.Low + b.Friction.High) / 2)
		n, ok := narrow.Through(j, torqueAndAngle(torque, deg))
		require.True(t, ok)
		assert.GreaterOrEqual(t, n.Final.Low, c.Final.Low-1e-6)
		assert.LessOrEqual(t, n.Seated.High, c.Seated.High+1e-6)
	})
}

// By hand: M12×1.25 10.9, 40 mm of steel clamped. Bolt: 6/(205·113.1) + 40/(205·86.0) +
// 6/(205·86.0) + 3.96/(210·113.1) mm/kN; parts: frusta. A degree is 1.25/360 mm.
func TestADegreeByHand(t *testing.T) {
	b := bolted(t, "M12×1.25", "10.9", "oiled")
	b.Friction = exactly(0.12)
	j := bolt.Joint{Grip: 40, Clamped: bolt.Steel, Into: bolt.Steel}
	core := math.Pi / 4 * 10.466 * 10.466
	bar := 6/(205*113.097) + 46/(205*core) + 3.96/(210*113.097)
	parts := 2 * math.Log(5*(0.5774*40+6)/(0.5774*40+30)) / (0.5774 * math.Pi * 205 * 12)
	want := 1.25 / 360 / (bar + parts) // kN for a degree
	c, ok := b.Through(j, torqueAndAngle(30, 10))
	require.True(t, ok)
	rise := float64(c.Final.Low+c.Final.High-c.Seated.Low-c.Seated.High) / 2 / 10
	assert.InEpsilon(t, want*1000, rise, 0.03)
}

// A common torque and angle of a sprocket bolt takes a 10.9 bolt past yield; the torque alone
// does not, and a bolt in doubt is neither. Common practice, no source, for the pairs.
func TestReuse(t *testing.T) {
	b := bolted(t, "M12×1.25", "10.9", "oiled")
	j := bolt.Joint{Grip: 30, Clamped: bolt.Steel, Into: bolt.Steel}
	for _, c := range []struct {
		torque unit.Torque
		deg    unit.Angle
		want   bolt.Reuse
	}{{50, 0, bolt.MayReuse}, {50, 37, bolt.MayHaveYielded}, {50, 120, bolt.HasYielded}, {50, 1000, bolt.WillBreak}} {
		got, ok := b.Through(j, torqueAndAngle(c.torque, c.deg))
		require.True(t, ok)
		assert.Equal(t, c.want, got.Reuse, "%v + %v", c.torque, c.deg)
	}
	_, ok := b.Through(bolt.Joint{}, torqueAndAngle(50, 90))
	assert.False(t, ok, "an angle says nothing without the clamped length")
	c, ok := b.Through(bolt.Joint{}, torqueAndAngle(50, 0))
	require.True(t, ok)
	assert.Equal(t, b.Clamp(50), c.Final)
	// Turned on from hand tight, without a torque before it.
	c, ok = b.Through(j, []bolt.Step{{Angle: exactly(unit.Angle(60))}})
	require.True(t, ok)
	assert.Zero(t, c.Seated.High)
	assert.Positive(t, c.Final.Low)
}

// Thread engagement by a rule of the trade (common practice, no source): a diameter in steel
// holds an 8.8 bolt until it breaks, 1.5 to 2 diameters in aluminium; half a diameter of
// aluminium does not.
func TestStripping(t *testing.T) {
	b := bolted(t, "M8", "8.8", "dry")
	breaks := float64(b.Thread.StressArea()) * 800
	tapped, own, ok := b.Strips(bolt.Joint{Engaged: 8, Into: bolt.Steel})
	require.True(t, ok)
	assert.Greater(t, float64(tapped.Low), breaks)
	assert.Greater(t, float64(own), breaks)
	tapped, _, _ = b.Strips(bolt.Joint{Engaged: 17, Into: bolt.Aluminium})
	assert.Greater(t, float64(tapped.Low), breaks)
	tapped, _, _ = b.Strips(bolt.Joint{Engaged: 4, Into: bolt.Aluminium})
	assert.Less(t, float64(tapped.High), breaks)
	at, ok := b.StripsAt(bolt.Joint{Engaged: 6, Into: bolt.Aluminium})
	require.True(t, ok)
	assert.Less(t, at.Low, at.High)
	_, ok = b.StripsAt(bolt.Joint{Engaged: 30, Into: bolt.Steel})
	assert.False(t, ok, "the bolt gives way first")
	for _, j := range []bolt.Joint{{}, {Engaged: 10}, {Into: bolt.Steel}, {Engaged: 1, Into: bolt.Steel}} {
		_, _, ok := b.Strips(j)
		assert.False(t, ok)
	}
}

// A ring of 20 mm mean radius under 50 kN passes on 100 to 200 N·m by a face: F·μ·r by hand.
func TestCarries(t *testing.T) {
	got := bolt.Carries(exactly(unit.Force(50_000)), 20, 1)
	assert.InDelta(t, 100, float64(got.Low), 1e-9)
	assert.InDelta(t, 200, float64(got.High), 1e-9)
}

func BenchmarkThrough(b *testing.B) {
	bo := bolted(b, "M12×1.25", "10.9", "oiled")
	for b.Loop() {
		bo.Through(bolt.Joint{Grip: 30}, torqueAndAngle(50, 90))
	}
}

// A bolt that is slackened between its stages ends as one that never was, but for what the
// stages before drew out of it; turned back by an angle it loses what it gained by it.
func TestSlackenedBetween(t *testing.T) {
	b := bolted(t, "M10", "8.8", "oiled")
	j := bolt.Joint{Grip: 40, Clamped: bolt.Steel, Into: bolt.Steel}
	plain, ok := b.Through(j, torqueAndAngle(30, 20))
	require.True(t, ok)
	loose := bolt.Step{Back: true}
	seated, ok := b.Through(j, append([]bolt.Step{{Torque: exactly(unit.Torque(40))}, loose}, torqueAndAngle(30, 20)...))
	require.True(t, ok)
	assert.Equal(t, plain.Final, seated.Final)
	assert.Equal(t, plain.Seated, seated.Seated, "what counts is the torque after it")
	assert.Equal(t, plain.Points, seated.Points)

	there, ok := b.Through(j, append(torqueAndAngle(30, 5), bolt.Step{Angle: exactly(unit.Angle(5)), Back: true}, bolt.Step{Torque: exactly(unit.Torque(20))}))
	require.True(t, ok)
	first, ok := b.Through(j, torqueAndAngle(30, 0))
	require.True(t, ok)
	assert.InDelta(t, float64(first.Final.Low), float64(there.Final.Low), 1)
	assert.InDelta(t, float64(first.Final.High), float64(there.Final.High), 1)

	over, ok := b.Through(j, []bolt.Step{{Torque: exactly(unit.Torque(90))}, loose, {Torque: exactly(unit.Torque(30))}})
	require.True(t, ok)
	assert.Positive(t, float64(over.Set.High), "drawn out is drawn out")
	_, ok = b.Through(j, []bolt.Step{{Torque: exactly(unit.Torque(30))}, loose})
	assert.False(t, ok, "it ends loose")
}
