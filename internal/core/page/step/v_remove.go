package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Remove takes parts, covers and plugs off, with what holds them.
type Remove struct {
	action
	Parts []engine.PartID `json:"parts,omitempty"`
}

var removeSpec = &Spec{
	Verb: "remove", Phrases: []string{"remove", "take out", "take off", "disconnect", "undo", "unplug", "unbolt", "unscrew", "lift off", "lift out", "pull off", "detach", "dismount", "unclip", "withdraw"}, Takes: []engine.Kind{engine.KindPart},
	Fields:  []Field{{Key: "parts", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindPart}}},
	Example: "remove upper timing cover", Phase: "strip", Opens: true,
	New: func() Action { return &Remove{} },
}

// Verb is "remove".
func (*Remove) Verb() Verb { return "remove" }

// Act takes each part off.
func (a *Remove) Act(m *virtual.Machine) {
	for _, p := range a.Parts {
		m.RemovePart(p)
	}
}

// Clause: "Remove the upper timing cover", "Take out the block plug", "Disconnect
// the battery lead".
func (a *Remove) Clause(x *engine.Index) Clause {
	form, count := Form(""), Part{}
	if len(a.Parts) > 0 {
		if p := x.Part(a.Parts[0]); p != nil {
			switch p.Kind {
			case engine.Plug, engine.Seal:
				form = FormOut
			case engine.Lead:
				form = FormLead
			}
			if len(a.Parts) == 1 {
				count = bolts(x, p.Held)
			}
		}
	}
	return clause(a.Verb(), form, things(RoleWhat, named(engine.KindPart, a.Parts...)), count)
}

func (a *Remove) hazards(x *engine.Index) []engine.Hazard { return partHazards(x, a.Parts) }

func partHazards(x *engine.Index, parts []engine.PartID) []engine.Hazard {
	var out []engine.Hazard
	for _, id := range parts {
		if p := x.Part(id); p != nil && p.Hazard != "" {
			out = append(out, p.Hazard)
		}
	}
	return out
}
