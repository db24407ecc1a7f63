package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Settle turns the crank so that a new belt finds its place.
type Settle struct {
	action
	Turns float64 `json:"turns,omitzero"`
	// Loop is the belt or chain that settles, where the engine has several.
	Loop engine.LoopID `json:"loop,omitzero"`
}

var settleSpec = &Spec{
	Verb: "settle", Phrases: []string{"settle"},
	Fields:  []Field{{Key: "turns", Label: "turns", Kind: NumberIn}, {Key: "loop", Label: "loop", Kind: OneThing, Of: []engine.Kind{engine.KindLoop}}},
	Example: "settle belt 6 turns", Phase: "tension", Turns: true,
	New: func() Action { return &Settle{} },
}

// Verb is "settle".
func (*Settle) Verb() Verb { return "settle" }

// Act turns the crank in running direction.
func (a *Settle) Act(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: a.Turns}) }

// Clause: "Settle the belt: turn the crank 6 turns in running direction".
func (a *Settle) Clause(x *engine.Index) Clause {
	what := things(RoleWhat, named(engine.KindLoop, a.Loop))
	if a.Loop == "" {
		what = choice(RoleDrive, x.Drives())
	}
	return clause(a.Verb(), "", what, number(RoleTurns, a.Turns), choice(RoleWay, x.Sheet.Running))
}

func (a *Settle) hazards(*engine.Index) []engine.Hazard { return []engine.Hazard{engine.HazardHands} }
