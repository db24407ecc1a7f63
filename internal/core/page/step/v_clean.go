package step

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Clean takes dirt, oil and old sealant off parts and threads.
type Clean struct {
	action
	Parts     []engine.PartID     `json:"parts,omitempty"`
	Fasteners []engine.FastenerID `json:"fasteners,omitempty"`
	// Faces is set where it is their joint faces and seats that are cleaned.
	Faces bool `json:"faces,omitzero"`
}

var cleanSpec = &Spec{
	Verb: "clean", Phrases: []string{"clean off", "clean", "degrease", "remove old sealant from", "remove the old sealant from", "remove all old sealant from", "scrape old sealant from", "scrape the old sealant from"}, Takes: []engine.Kind{engine.KindPart, engine.KindFastener},
	Fields: []Field{
		{Key: "parts", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindPart}},
		{Key: "fasteners", Label: "bolts", Kind: Things, Of: []engine.Kind{engine.KindFastener}},
		{Key: "faces", Label: "their faces", Kind: Tick},
	},
	Example: "clean the faces of the lower timing cover", Phase: "inspect",
	New: func() Action { return &Clean{} },
}

// Verb is "clean".
func (*Clean) Verb() Verb { return "clean" }

// Act takes off what was put on them.
func (a *Clean) Act(m *virtual.Machine) {
	for _, id := range a.Parts {
		m.CleanPart(id)
	}
	if len(a.Parts)+len(a.Fasteners) == 0 {
		m.Unknown("")
	}
}

// Clause: "Clean the faces of the lower timing cover".
func (a *Clean) Clause(*engine.Index) Clause {
	return clause(a.Verb(), "", only(RoleFaces, a.Faces), things(RoleWhat, slices.Concat(named(engine.KindPart, a.Parts...), named(engine.KindFastener, a.Fasteners...))))
}
