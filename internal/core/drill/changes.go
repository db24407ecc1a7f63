package drill

import (
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// instead does something else in place of a step, one after the other.
type instead struct{ actions []step.Action }

func (c instead) do(b *bench, _ int) {
	for _, a := range c.actions {
		b.acts(a)
	}
}

// moved lets shafts stand off by so many degrees of each after a step, as soon as no lock holds
// them; out is the wheel its loop lies on so many teeth out, empty for none.
type moved struct {
	off   map[engine.ShaftID]unit.Angle
	out   engine.WheelID
	teeth int
}

func (c moved) do(b *bench, k int) {
	b.does(k)
	if b.held == nil {
		b.held = map[engine.ShaftID]unit.Angle{}
	}
	for id, by := range c.off {
		b.held[id] += by
	}
	if c.out != "" {
		if b.out == nil {
			b.out = map[engine.WheelID]int{}
		}
		b.out[c.out] += c.teeth
	}
}

// turned turns the crank on after a step, degrees, in its running direction or, below zero,
// back; what the step looked at it looked at before.
type turned struct{ by unit.Angle }

func (c turned) do(b *bench, k int) {
	b.does(k)
	b.turn(c.by)
}

// turn turns the crank by so many degrees, with nothing said of it.
func (b *bench) turn(by unit.Angle) {
	b.m.Turn(virtual.Turning{Degrees: unit.Angle(math.Abs(float64(by))), Backwards: by < 0})
}

// short turns the crank so many degrees less than a step does.
type short struct{ by unit.Angle }

func (c short) do(b *bench, k int) {
	delta := unit.Angle(b.after(k).Crank - b.before(k).Crank)
	switch {
	case delta > c.by:
		delta -= c.by
	case delta < -c.by:
		delta += c.by
	default:
		delta = 0
	}
	b.turn(delta)
	b.m.State().Found = true
}
