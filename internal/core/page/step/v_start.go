package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Start starts the engine for the first time.
type Start struct {
	action
	For  unit.Quantity `json:"for,omitzero"`
	Then string        `json:"then,omitzero"`
}

var startSpec = &Spec{
	Verb: "start", Bare: true, Phrases: []string{"start", "start up", "run the engine for", "run engine for", "let the engine run for"},
	Fields:  []Field{{Key: "for", Label: "run for", Kind: QuantityIn, Hint: "30 s", Unit: unit.Second}, {Key: "then", Label: "and", Kind: TextIn, Hint: "listen; no warning lamp stays on"}},
	Example: "start engine 30 s and listen", Phase: "close", Turns: true, Runs: true,
	New: func() Action { return &Start{} },
}

// Verb is "start".
func (*Start) Verb() Verb { return "start" }

// Act starts it.
func (a *Start) Act(m *virtual.Machine) { m.Start() }

// Clause: "Start the engine, run it for 30 s and listen".
func (a *Start) Clause(_ *engine.Index) Clause {
	return clause(a.Verb(), "", only(RoleEngine, true), figure(RoleFor, a.For), words(RoleThen, a.Then))
}

func (a *Start) hazards(*engine.Index) []engine.Hazard {
	return []engine.Hazard{engine.HazardLocksOut}
}
