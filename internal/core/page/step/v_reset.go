package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Reset sets a counter back: that of a part of the sheet, or one in words.
type Reset struct {
	action
	Part engine.PartID `json:"part,omitzero"`
	What string        `json:"what,omitzero"`
}

var resetSpec = &Spec{
	Verb: "reset", Phrases: []string{"reset", "set back", "zero"},
	Fields: []Field{
		{Key: "part", Label: "counter of", Kind: OneThing, Of: []engine.Kind{engine.KindPart}},
		{Key: "what", Label: "what", Kind: TextIn, Hint: "service display"},
	},
	Example: "reset belt counter", Phase: "close",
	New: func() Action { return &Reset{} },
}

// Verb is "reset".
func (*Reset) Verb() Verb { return "reset" }

// Act sets it back.
func (a *Reset) Act(m *virtual.Machine) {
	if a.Part != "" {
		m.ResetCounter(a.Part)
	}
}

// Clause: "Reset the belt counter".
func (a *Reset) Clause(x *engine.Index) Clause {
	if p := x.Part(a.Part); p != nil && p.Reset != "" {
		counter := things(RoleCounter, named(engine.KindPart, a.Part))
		counter.Words = p.Reset
		return clause(a.Verb(), "", counter)
	}
	if a.Part != "" {
		return clause(a.Verb(), "", things(RoleCounterOf, named(engine.KindPart, a.Part)))
	}
	return clause(a.Verb(), "", words(RoleWhat, a.What))
}
