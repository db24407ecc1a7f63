package virtual_test

import (
	"fmt"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/virtual"
)

// A page is run on a complete engine; what cannot be done is an event of its step, and
// the engine goes on as its author meant.
func ExampleRun() {
	f := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&f.Engine)
	t := virtual.Run(x, script{
		func(m *virtual.Machine) { m.FitLock("crank-pin") }, // its plug is still in
		func(m *virtual.Machine) { m.RemovePart("block-plug") },
	})
	for i, s := range t.Steps {
		for _, e := range s.Events {
			switch e := e.(type) {
			case virtual.AccessShut:
				fmt.Printf("step %d: the %s is before the %s\n", i+1, x.Part(e.Part).Name, x.Lock(e.Lock).Name)
			case virtual.WouldNotGoIn:
				fmt.Printf("step %d: the %s stands %.0f° away\n", i+1, x.Shaft(e.Shaft).Name, float64(e.Degrees))
			}
		}
	}
	// Output:
	// step 1: the block plug is before the crank pin
}
