package step

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Renew replaces parts or fasteners by new ones.
type Renew struct {
	action
	Parts     []engine.PartID     `json:"parts,omitempty"`
	Fasteners []engine.FastenerID `json:"fasteners,omitempty"`
}

var renewSpec = &Spec{
	Verb: "renew", Phrases: []string{"renew", "replace", "use new", "use a new", "lay out new", "change", "exchange", "fit a new", "fit new", "insert a new", "insert new", "screw in a new", "screw in new"}, Takes: []engine.Kind{engine.KindPart, engine.KindFastener},
	Fields: []Field{
		{Key: "parts", Label: "parts", Kind: Things, Of: []engine.Kind{engine.KindPart}},
		{Key: "fasteners", Label: "fasteners", Kind: Things, Of: []engine.Kind{engine.KindFastener}},
	},
	Example: "renew tensioner", Phase: "inspect",
	New: func() Action { return &Renew{} },
}

// Verb is "renew".
func (*Renew) Verb() Verb { return "renew" }

// Act marks each as new.
func (a *Renew) Act(m *virtual.Machine) {
	for _, p := range a.Parts {
		m.RenewPart(p)
	}
	for _, f := range a.Fasteners {
		m.RenewFastener(f)
	}
}

// Clause: "Renew the tensioner and the idler".
func (a *Renew) Clause(x *engine.Index) Clause {
	return clause(a.Verb(), "", things(RoleWhat, slices.Concat(named(engine.KindPart, a.Parts...), named(engine.KindFastener, a.Fasteners...))), bolts(x, a.Fasteners))
}
