package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Inspect looks a part over against criteria and says what follows.
type Inspect struct {
	action
	Parts []engine.PartID `json:"parts,omitempty"`
	For   string          `json:"lookFor,omitzero"`
	Then  string          `json:"then,omitzero"`
}

var inspectSpec = &Spec{
	Verb: "inspect", looks: true, Phrases: []string{"inspect", "look over", "examine", "check"}, Takes: []engine.Kind{engine.KindPart},
	Fields: []Field{
		{Key: "parts", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindPart}}, {Key: "lookFor", Label: "for", Kind: TextIn, Hint: "play, rough running, leaks"},
		{Key: "then", Label: "then", Kind: TextIn, Hint: "renew if found so"},
	},
	Example: "inspect water pump for leaks and play, then renew if found so", Phase: "inspect", Fails: true,
	New: func() Action { return &Inspect{} },
}

// Verb is "inspect".
func (*Inspect) Verb() Verb { return "inspect" }

// Act changes nothing.
func (a *Inspect) Act(m *virtual.Machine) {
	for _, id := range a.Parts {
		m.Inspect(id)
	}
}

// Clause: "Inspect the water pump for leaks and play; renew if found so".
func (a *Inspect) Clause(_ *engine.Index) Clause {
	return clause(a.Verb(), "", things(RoleWhat, named(engine.KindPart, a.Parts...)), words(RoleFor, a.For), words(RoleThen, a.Then))
}
