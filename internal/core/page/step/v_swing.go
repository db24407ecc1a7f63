package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Swing moves a shaft to and fro and leaves it where it was.
type Swing struct {
	action
	Shaft engine.ShaftID `json:"shaft,omitzero"`
	// By is how far either way.
	By unit.Quantity `json:"by,omitzero"`
}

var swingSpec = &Spec{
	Verb: "swing", Phrases: []string{"swing", "rock", "move to and fro"},
	Fields: []Field{
		{Key: "shaft", Label: "shaft", Kind: OneThing, Of: []engine.Kind{engine.KindShaft}},
		{Key: "by", Label: "either way", Kind: QuantityIn, Hint: "5°", Unit: unit.Degree},
	},
	Example: "swing crank 5 deg to and fro", Phase: "find", Turns: true,
	New: func() Action { return &Swing{} },
}

// Verb is "swing".
func (*Swing) Verb() Verb { return "swing" }

// Act moves it and brings it back.
func (a *Swing) Act(m *virtual.Machine) {
	by, _ := a.By.Angle()
	m.Swing(a.Shaft, by)
}

// Clause: "Swing the crank 5° to and fro".
func (a *Swing) Clause(_ *engine.Index) Clause {
	shaft := a.Shaft
	if shaft == "" {
		shaft = engine.CrankID
	}
	return clause(a.Verb(), "", things(RoleWhat, named(engine.KindShaft, shaft)), figure(RoleAmount, a.By), only(RoleToAndFro, true))
}

func (a *Swing) hazards(*engine.Index) []engine.Hazard {
	return []engine.Hazard{engine.HazardHands}
}
