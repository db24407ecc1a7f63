package bolt

import "math"

// Bolt is a bolt as it is tightened.
type Bolt struct {
	Thread Thread
	Class  Class
	// Friction is that in the thread and under the head, taken to be equal.
	Friction Band
	// Across is the width across flats, mm; 0 for the usual one of the thread.
	Across float64
}

// heads are the bearing diameters under a hexagon head (dw, ISO 4014 grade A, least) and of
// its hole (dh, ISO 273, medium), mm by nominal diameter; from memory.
var heads = map[float64][2]float64{
	4: {5.88, 4.5}, 5: {6.88, 5.5}, 6: {8.88, 6.6}, 8: {11.63, 9}, 10: {14.63, 11}, 12: {16.63, 13.5}, 14: {19.64, 15.5}, 16: {22.49, 17.5}, 18: {25.34, 20}, 20: {28.19, 22}, 22: {31.71, 24}, 24: {33.61, 26},
}

// Bearing is the mean diameter on which the head turns, Db = (dw + dh)/2 (ISO 16047). Where
// the width across flats is given, dw is 0.92 of it; a thread without a usual head has one
// of 1.5 d and a hole of 1.1 d: assumptions.
func (b Bolt) Bearing() float64 {
	h, ok := heads[b.Thread.D]
	dw, dh := h[0], h[1]
	if !ok {
		dw, dh = 0.92*1.5*b.Thread.D, 1.1*b.Thread.D
	}
	if b.Across > 0 {
		dw = math.Max(0.92*b.Across, dh)
	}
	return (dw + dh) / 2
}

// arm is the torque for each newton of clamp load at a friction, mm: the form of ISO 16047
// and VDI 2230, T/F = P/2π + μ·d2/(2 cos 30°) + μ·Db/2.
func (b Bolt) arm(mu float64) float64 {
	return b.Thread.P/(2*math.Pi) + mu*b.Thread.PitchDiameter()/math.Sqrt(3) + mu*b.Bearing()/2
}

// K is the factor of the short form T = K·d·F at a friction.
func (b Bolt) K(mu float64) float64 { return b.arm(mu) / b.Thread.D }

// Clamp is the clamp load that a torque gives, N: the least at the greatest friction. The
// torque is in N·m.
func (b Bolt) Clamp(torque float64) Band {
	return Band{torque * 1000 / b.arm(b.Friction.High), torque * 1000 / b.arm(b.Friction.Low)}
}

// Where the twist is counted: at the rim of the core, where yielding begins (polar section
// modulus π/16·d³), or spread over all of it, when the bolt breaks (π/12·d³).
const (
	rim   = 2.0
	whole = 1.5
)

// until is the clamp load at which a stress is met while the bolt is being turned, N: pull
// and twist together by von Mises (the form of VDI 2230 part 1 for the assembly preload;
// from memory).
func (b Bolt) until(stress, mu, where float64) float64 {
	t := b.Thread
	twist := where * t.PitchDiameter() / t.Core() * (t.P/(math.Pi*t.PitchDiameter()) + 2/math.Sqrt(3)*mu)
	return stress * t.StressArea() / math.Sqrt(1+3*twist*twist)
}

// ends is a torque at which a stress is met, N·m, at the least and at the greatest friction.
func (b Bolt) ends(stress, where float64) Band {
	at := func(mu float64) float64 { return b.until(stress, mu, where) * b.arm(mu) / 1000 }
	return Band{at(b.Friction.Low), at(b.Friction.High)}
}

// Yields is the torque at which the bolt begins to yield, and Breaks that at which it
// breaks, N·m: the least at the least friction. Below the low end it never does, above the
// high end always.
func (b Bolt) Yields() Band { return b.ends(b.Class.Yield, rim) }

// Breaks is described at Yields.
func (b Bolt) Breaks() Band { return b.ends(b.Class.Tensile, whole) }

// YieldLoad is the clamp load at which the bolt yields while it is turned, N: the least at
// the greatest friction.
func (b Bolt) YieldLoad() Band {
	return Band{b.until(b.Class.Yield, b.Friction.High, rim), b.until(b.Class.Yield, b.Friction.Low, rim)}
}

// ProofLoad is the load of the proof test, N: As × Sp (ISO 898-1).
func (b Bolt) ProofLoad() float64 { return b.Thread.StressArea() * b.Class.Proof }

// OfYield is which share of its yielding the bolt is taken to by a torque, at the greatest
// friction and at the least.
func (b Bolt) OfYield(torque float64) Band {
	c := b.Clamp(torque)
	return Band{c.Low / b.until(b.Class.Yield, b.Friction.High, rim), c.High / b.until(b.Class.Yield, b.Friction.Low, rim)}
}
