package bolt

import (
	"math"

	"inklatch/internal/core/unit"
)

// Bolt is a bolt as it is tightened.
type Bolt struct {
	Thread Thread
	Class  Class
	// Friction is that in the thread and under the head, taken to be equal.
	Friction Band[float64]
	// Across is the width across flats, mm; 0 for the usual one of the thread.
	Across unit.Length
}

// heads are the bearing diameters under a hexagon head (dw, ISO 4014 grade A, least) and of
// its hole (dh, ISO 273, medium), mm by nominal diameter; from memory.
var heads = map[float64][2]float64{
	4: {5.88, 4.5}, 5: {6.88, 5.5}, 6: {8.88, 6.6}, 8: {11.63, 9}, 10: {14.63, 11}, 12: {16.63, 13.5}, 14: {19.64, 15.5}, 16: {22.49, 17.5}, 18: {25.34, 20}, 20: {28.19, 22}, 22: {31.71, 24}, 24: {33.61, 26},
}

// Bearing is the mean diameter on which the head turns, Db = (dw + dh)/2 (ISO 16047). Where
// the width across flats is given, dw is 0.92 of it; a thread without a usual head has one
// of 1.5 d and a hole of 1.1 d: assumptions.
func (b Bolt) Bearing() unit.Length {
	h, ok := heads[b.Thread.D]
	dw, dh := h[0], h[1]
	if !ok {
		dw, dh = 0.92*1.5*b.Thread.D, 1.1*b.Thread.D
	}
	if b.Across > 0 {
		dw = math.Max(0.92*float64(b.Across), dh)
	}
	return unit.Length(dw+dh) / 2
}

// arm is the torque for each newton of clamp load at a friction, mm: the form of ISO 16047
// and VDI 2230, T/F = P/2π + μ·d2/(2 cos 30°) + μ·Db/2.
func (b Bolt) arm(mu float64) float64 {
	return b.Thread.P/(2*math.Pi) + mu*float64(b.Thread.PitchDiameter())/math.Sqrt(3) + mu*float64(b.Bearing())/2
}

// K is the factor of the short form T = K·d·F at a friction.
func (b Bolt) K(mu float64) float64 { return b.arm(mu) / b.Thread.D }

// Clamp is the clamp load that a torque gives, N: the least at the greatest friction.
func (b Bolt) Clamp(torque unit.Torque) Band[unit.Force] {
	at := func(mu float64) unit.Force { return unit.Force(float64(torque) * 1000 / b.arm(mu)) }
	return Band[unit.Force]{at(b.Friction.High), at(b.Friction.Low)}
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
func (b Bolt) until(stress unit.Stress, mu, where float64) unit.Force {
	t := b.Thread
	d2 := float64(t.PitchDiameter())
	twist := where * d2 / float64(t.Core()) * (t.P/(math.Pi*d2) + 2/math.Sqrt(3)*mu)
	return unit.Force(float64(stress) * float64(t.StressArea()) / math.Sqrt(1+3*twist*twist))
}

// ends is a torque at which a stress is met, N·m, at the least and at the greatest friction.
func (b Bolt) ends(stress unit.Stress, where float64) Band[unit.Torque] {
	at := func(mu float64) unit.Torque {
		return unit.Torque(float64(b.until(stress, mu, where)) * b.arm(mu) / 1000)
	}
	return Band[unit.Torque]{at(b.Friction.Low), at(b.Friction.High)}
}

// Yields is the torque at which the bolt begins to yield, and Breaks that at which it
// breaks, N·m: the least at the least friction. Below the low end it never does, above the
// high end always.
func (b Bolt) Yields() Band[unit.Torque] { return b.ends(b.Class.Yield, rim) }

// Breaks is described at Yields.
func (b Bolt) Breaks() Band[unit.Torque] { return b.ends(b.Class.Tensile, whole) }

// YieldLoad is the clamp load at which the bolt yields while it is turned, N: the least at
// the greatest friction.
func (b Bolt) YieldLoad() Band[unit.Force] {
	return Band[unit.Force]{b.until(b.Class.Yield, b.Friction.High, rim), b.until(b.Class.Yield, b.Friction.Low, rim)}
}

// ProofLoad is the load of the proof test, N: As × Sp (ISO 898-1).
func (b Bolt) ProofLoad() unit.Force {
	return unit.Force(float64(b.Thread.StressArea()) * float64(b.Class.Proof))
}

// OfYield is which share of its yielding the bolt is taken to by a torque, at the greatest
// friction and at the least.
func (b Bolt) OfYield(torque unit.Torque) Band[float64] {
	c, y := b.Clamp(torque), b.YieldLoad()
	return Band[float64]{float64(c.Low / y.Low), float64(c.High / y.High)}
}
