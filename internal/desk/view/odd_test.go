package view_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/desk/view"
)

// A sheet in the making may have a mark on an idler, on a wheel that is gone, or a
// lock that holds nothing: it is derived, drawn and proved all the same.
func TestOddSheetsAreShown(t *testing.T) {
	for name, odd := range map[string]func(*engine.Sheet){
		"a mark on an idler":        func(s *engine.Sheet) { s.Marks[0].Wheel = "idler-wheel" },
		"a mark on no wheel":        func(s *engine.Sheet) { s.Marks[0].Wheel = "gone" },
		"a lock that holds nothing": func(s *engine.Sheet) { s.Locks[0].Holds = nil },
		"a lock on no shaft":        func(s *engine.Sheet) { s.Locks[0].Holds = []engine.ShaftID{"gone"} },
		"a tensioner on no wheel":   func(s *engine.Sheet) { s.Tensioners[0].Wheel = "gone" },
		"a pitch of zero":           func(s *engine.Sheet) { s.Loops[0].Pitch = 0 },
		"no teeth":                  func(s *engine.Sheet) { s.Wheels[0].Teeth = 0 },
		"a name for nothing":        func(s *engine.Sheet) { s.Names = []engine.OwnName{{ID: "a", Say: "", Of: "x"}} },
	} {
		d := demo.Document("renew-timing-belt-r3.latch.json")
		s, err := engine.Apply(&d.Engine, nil) // a copy of its own
		assert.NoError(t, err)
		odd(s)
		x := engine.NewIndex(s)
		assert.NotPanics(t, func() {
			view.DerivedOf(x)
			view.DrawingOf(x)
			sheetproof.Prove(x, finding.DefaultHouse())
			view.Of(x, &d.Procedure, 1, finding.DefaultHouse())
		}, name)
	}
}
