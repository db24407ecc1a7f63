package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// TakeOff takes a belt or chain off.
type TakeOff struct {
	action
	Loop engine.LoopID `json:"loop,omitzero"`
	// Also are more that come off in the same step.
	Also []engine.LoopID `json:"also,omitempty"`
}

// All are the loops that come off.
func (a *TakeOff) All() []engine.LoopID { return both(a.Loop, a.Also) }

var takeOffSpec = &Spec{
	Verb: "take-off", Phrases: []string{"take off", "remove", "slip off", "slide off", "ease off", "lift off", "pull off"}, Takes: []engine.Kind{engine.KindLoop},
	Fields:  []Field{{Key: "loop", Label: "loop", Kind: OneThing, Of: []engine.Kind{engine.KindLoop}}, {Key: "also", Label: "and", Kind: Things, Of: []engine.Kind{engine.KindLoop}}},
	Example: "take off timing belt", Phase: "take-off", Opens: true, Lays: true,
	New: func() Action { return &TakeOff{} },
}

// Verb is "take-off".
func (*TakeOff) Verb() Verb { return "take-off" }

// Act takes it off.
func (a *TakeOff) Act(m *virtual.Machine) {
	for _, id := range a.All() {
		m.LoopOff(id)
	}
}

// Clause: "Take off the timing belt".
func (a *TakeOff) Clause(_ *engine.Index) Clause {
	return clause(a.Verb(), "", things(RoleWhat, named(engine.KindLoop, a.All()...)))
}
