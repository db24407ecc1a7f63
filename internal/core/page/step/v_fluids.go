package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Drain lets a fluid out.
type Drain struct {
	action
	Fluids []engine.FluidID `json:"fluids,omitempty"`
}

// Fill puts a fluid in.
type Fill struct {
	action
	Fluid engine.FluidID `json:"fluid,omitzero"`
	// Amount is how much goes in.
	Amount unit.Quantity `json:"amount,omitzero"`
}

var drainSpec = &Spec{
	Verb: "drain", Phrases: []string{"drain", "drain off", "let out"}, Takes: []engine.Kind{engine.KindFluid},
	Fields:  []Field{{Key: "fluids", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindFluid}}},
	Example: "drain coolant", Phase: "prepare", Opens: true,
	New: func() Action { return &Drain{} },
}

var fillSpec = &Spec{
	Verb: "fill", Phrases: []string{"fill", "fill in", "refill", "fill up", "pour in"}, Takes: []engine.Kind{engine.KindFluid},
	Fields: []Field{
		{Key: "fluid", Label: "what", Kind: OneThing, Of: []engine.Kind{engine.KindFluid}},
		{Key: "amount", Label: "how much", Kind: QuantityIn, Hint: "6.5 L", Unit: unit.Litre},
	},
	Example: "fill coolant 6.5 L", Phase: "close", Closes: true,
	New: func() Action { return &Fill{} },
}

// Verb is "drain".
func (*Drain) Verb() Verb { return "drain" }

// Act lets it out.
func (a *Drain) Act(m *virtual.Machine) {
	for _, id := range a.Fluids {
		m.Drain(id)
	}
}

// Clause: "Drain the coolant".
func (a *Drain) Clause(_ *engine.Index) Clause {
	return clause(a.Verb(), "", things(RoleWhat, named(engine.KindFluid, a.Fluids...)))
}

func (a *Drain) hazards(x *engine.Index) []engine.Hazard {
	return []engine.Hazard{engine.HazardHot}
}

// Verb is "fill".
func (*Fill) Verb() Verb { return "fill" }

// Act puts it in.
func (a *Fill) Act(m *virtual.Machine) {
	if a.Fluid != "" {
		m.Fill(a.Fluid)
	}
}

// Clause: "Fill in 6.5 L of the coolant".
func (a *Fill) Clause(_ *engine.Index) Clause {
	return clause(a.Verb(), "", figure(RoleAmount, a.Amount), things(RoleWhat, named(engine.KindFluid, a.Fluid)))
}
