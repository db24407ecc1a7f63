package turns_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/turns"
)

// A mark on an idler, on a wheel that is gone, or on a shaft that nothing drives
// never stands in the way of the plan.
func TestMarksWhereNothingComesHome(t *testing.T) {
	for _, wheel := range []engine.WheelID{"idler-wheel", "no-such-wheel", ""} {
		d := demo.Document("renew-timing-belt-r3.latch.json")
		s := d.Engine
		s.Marks = append(s.Marks, engine.Mark{ID: "odd", Name: "odd mark", Kind: engine.TimingMark, Wheel: wheel, At: 40})
		x := engine.NewIndex(&s)
		assert.NotPanics(t, func() {
			turns.Of(x, &d.Procedure, proof.DefaultHouse())
			proof.Prove(x, &d.Procedure, proof.DefaultHouse())
		}, string(wheel))
	}
}
