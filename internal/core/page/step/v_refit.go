package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Refit puts parts, covers and plugs back.
type Refit struct {
	action
	Parts []engine.PartID `json:"parts,omitempty"`
	// New says the part is a new one; NewSeal that its seal is.
	New     bool `json:"new,omitzero"`
	NewSeal bool `json:"newSeal,omitzero"`
}

var refitSpec = &Spec{
	Verb: "refit", Phrases: []string{"refit", "fit", "put back", "put on", "install", "reinstall", "connect", "reconnect", "mount", "screw in", "bolt on", "replace on", "clip on", "attach"}, Takes: []engine.Kind{engine.KindPart},
	Fields: []Field{
		{Key: "parts", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindPart}},
		{Key: "new", Label: "new part", Kind: Tick}, {Key: "newSeal", Label: "new seal", Kind: Tick},
	},
	Example: "refit block plug with new seal", Phase: "close", Closes: true,
	New: func() Action { return &Refit{} },
}

// Verb is "refit".
func (*Refit) Verb() Verb { return "refit" }

// Act puts each part back.
func (a *Refit) Act(m *virtual.Machine) {
	for _, p := range a.Parts {
		m.RefitPart(p, a.New, a.NewSeal)
	}
}

// Clause: "Refit the block plug with a new seal".
func (a *Refit) Clause(x *engine.Index) Clause {
	form := Form("")
	if a.New {
		form = FormNew
	}
	if len(a.Parts) > 0 {
		if p := x.Part(a.Parts[0]); p != nil && p.Kind == engine.Lead {
			form = FormLead
		}
	}
	what := things(RoleWhat, named(engine.KindPart, a.Parts...))
	what.Fresh = a.New
	said := []Part{what, only(RoleNewSeal, a.NewSeal)}
	for _, id := range a.Parts {
		if p := x.Part(id); p != nil {
			said = append(said, words(RoleNeeds, p.Needs))
		}
	}
	return clause(a.Verb(), form, said...)
}
