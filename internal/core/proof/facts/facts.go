// Package facts answers questions about a page that was run on the virtual engine:
// when a shaft was turned last, which locks and marks looked at it after that, where a
// part went back on. Rules and the drill ask; nothing here judges.
package facts

import (
	"reflect"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/virtual"
)

// Facts are a page, the engine it is done on, and the run of it. Steps are counted
// from 0; where there is no such step an answer is -1.
type Facts struct {
	// Index is the sheet as it holds for the engine the page is done on.
	Index *engine.Index
	// Page is what is done, one step after another.
	Page *procedure.Procedure
	// Run is what happened; nil until there is a run, for questions that need none.
	Run *virtual.Trace
	// met are the events of the run by their kind, once they were asked for.
	met map[reflect.Type][]happened
	// undone are the wheels that were out or loose at any step, once they were asked for.
	undone []bool
}

// happened is an event at a step.
type happened struct {
	step int
	e    virtual.Event
}

// Each calls f for every event of a kind, in the order they were met.
func Each[E virtual.Event](c *Facts, f func(i int, e E)) {
	if c.met == nil {
		c.met = make(map[reflect.Type][]happened, 16)
		for i := range c.Run.Steps {
			for _, e := range c.Run.Steps[i].Events {
				kind := reflect.TypeOf(e)
				c.met[kind] = append(c.met[kind], happened{i, e})
			}
		}
	}
	for _, h := range c.met[reflect.TypeFor[E]()] {
		f(h.step, h.e.(E))
	}
}
