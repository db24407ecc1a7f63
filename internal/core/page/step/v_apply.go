package step

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Apply puts sealant, oil, grease or thread lock on something.
type Apply struct {
	action
	What     Stuff             `json:"what,omitzero"`
	Part     engine.PartID     `json:"part,omitzero"`
	Fastener engine.FastenerID `json:"fastener,omitzero"`
	// Open is the open time of sealant.
	Open unit.Quantity `json:"open,omitzero"`
}

// Stuff is what is applied.
type Stuff string

// What can be applied.
const (
	Sealant    Stuff = "sealant"
	Oil        Stuff = "engine oil"
	Grease     Stuff = "grease"
	ThreadLock Stuff = "thread lock"
)

// Choices are what may be put on.
func (Stuff) Choices() []string {
	return []string{string(Sealant), string(Oil), string(Grease), string(ThreadLock)}
}

var stuffs = Stuff("").Choices()

var applySpec = &Spec{
	Verb: "apply", Phrases: []string{"apply", "put", "coat", "spread", "smear", "oil the", "grease the", "lubricate"},
	Fields: []Field{
		{Key: "what", Label: "what", Kind: ChoiceIn, Choices: stuffs},
		{Key: "part", Label: "to part", Kind: OneThing, Of: []engine.Kind{engine.KindPart}},
		{Key: "fastener", Label: "to fastener", Kind: OneThing, Of: []engine.Kind{engine.KindFastener}},
		{Key: "open", Label: "open time", Kind: QuantityIn, Hint: "10 min", Unit: unit.Minute},
	},
	Example: "apply sealant to lower timing cover, open time 10 min", Phase: "close",
	New: func() Action { return &Apply{} },
}

// Verb is "apply".
func (*Apply) Verb() Verb { return "apply" }

// Act opens a joint where there is sealant.
func (a *Apply) Act(m *virtual.Machine) {
	if a.What == Sealant {
		t, _ := a.Open.Minutes()
		m.Spread(a.Part, t)
	}
}

// Clause: "Apply sealant to the lower timing cover and close within 10 min".
func (a *Apply) Clause(_ *engine.Index) Clause {
	return clause(a.Verb(), "", choice(RoleStuffs, a.What), things(RoleTo, slices.Concat(named(engine.KindPart, a.Part), named(engine.KindFastener, a.Fastener))), figure(RoleWithin, a.Open))
}

func (a *Apply) hazards(*engine.Index) []engine.Hazard {
	if a.What == Sealant {
		return []engine.Hazard{engine.HazardSealant}
	}
	return nil
}
