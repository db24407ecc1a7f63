package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// Renew replaces parts or fasteners by new ones.
type Renew struct {
	action
	Parts     []engine.PartID     `json:"parts,omitempty"`
	Fasteners []engine.FastenerID `json:"fasteners,omitempty"`
}

var renewSpec = &Spec{
	Verb: "renew", Phrases: []string{"renew", "replace", "use new", "lay out new"}, Takes: []ObjectKind{PartObject, FastenerObject},
	Fields: []Field{
		{Key: "parts", Label: "parts", Kind: Things, Of: []ObjectKind{PartObject}},
		{Key: "fasteners", Label: "fasteners", Kind: Things, Of: []ObjectKind{FastenerObject}},
	},
	Example: "renew tensioner", Phase: "inspect",
	New: func() Action { return &Renew{} },
	Read: func(l *Line) Action {
		l.Word("with new", "by new")
		return &Renew{Parts: ids[engine.PartID](l.All(PartObject)), Fasteners: ids[engine.FastenerID](l.All(FastenerObject))}
	},
}

// Verb is "renew".
func (*Renew) Verb() Verb { return "renew" }

// Act marks each as new.
func (a *Renew) Act(m *bench.Machine) {
	for _, p := range a.Parts {
		m.RenewPart(p)
	}
	for _, f := range a.Fasteners {
		m.RenewFastener(f)
	}
}

// Say: "Renew the tensioner and the idler".
func (a *Renew) Say(w *Words) {
	w.verb("Renew")
	each(w, a.Parts, w.part)
	if len(a.Parts) > 0 && len(a.Fasteners) > 0 {
		w.text("and")
	}
	each(w, a.Fasteners, w.fastener)
	if !w.full {
		w.value("", count(w.x, a.Fasteners))
	}
}
