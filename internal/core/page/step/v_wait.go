package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Wait lets time pass.
type Wait struct {
	action
	For   unit.Quantity `json:"for,omitzero"`
	Until string        `json:"until,omitzero"`
}

var waitSpec = &Spec{
	Verb: "wait", Phrases: []string{"wait", "let stand", "let the engine cool down", "let engine cool down", "let the engine cool", "let engine cool", "allow the engine to cool down", "allow the engine to cool", "leave the engine to cool"},
	Fields:  []Field{{Key: "for", Label: "for", Kind: QuantityIn, Hint: "15 min", Unit: unit.Minute}, {Key: "until", Label: "until", Kind: TextIn}},
	Example: "wait 15 min", Phase: "tension",
	New: func() Action { return &Wait{} },
}

// Verb is "wait".
func (*Wait) Verb() Verb { return "wait" }

// Act lets the time pass.
func (a *Wait) Act(m *virtual.Machine) {
	t, _ := a.For.Minutes()
	m.Wait(t)
}

// Clause: "Wait 15 min until the engine is cold".
func (a *Wait) Clause(_ *engine.Index) Clause {
	return clause(a.Verb(), "", figure(RoleFor, a.For), words(RoleUntil, a.Until))
}
