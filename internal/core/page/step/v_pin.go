package step

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Pin retracts a tensioner and holds it with its pin.
type Pin struct {
	action
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
	// Also are more that are pinned in the same step.
	Also []engine.TensionerID `json:"also,omitempty"`
}

// All are the tensioners that are pinned.
func (a *Pin) All() []engine.TensionerID { return both(a.Tensioner, a.Also) }

var pinSpec = &Spec{
	Verb: "pin", Phrases: []string{"pin", "retract and pin", "compress and pin", "retract", "compress", "squeeze", "push back", "push in"}, Takes: []engine.Kind{engine.KindTensioner},
	Fields:  []Field{{Key: "tensioner", Label: "tensioner", Kind: OneThing, Of: []engine.Kind{engine.KindTensioner}}, {Key: "also", Label: "and", Kind: Things, Of: []engine.Kind{engine.KindTensioner}}},
	Example: "pin tensioner", Phase: "relieve", Holds: true, Tensions: true, Fails: true,
	New: func() Action { return &Pin{} },
}

// Verb is "pin".
func (*Pin) Verb() Verb { return "pin" }

// Act pins it.
func (a *Pin) Act(m *virtual.Machine) {
	for _, id := range a.All() {
		m.PinTensioner(id)
	}
}

// Clause: "Retract the tensioner and pin it (TL-105)".
func (a *Pin) Clause(x *engine.Index) Clause {
	pins := PinTools(x, a.All())
	return clause(a.Verb(), "", things(RoleWhat, named(engine.KindTensioner, a.All()...)), number(RoleKeepIn, float64(min(len(pins), 1)*len(a.All()))), things(RoleTools, named(engine.KindTool, pins...)))
}

func (a *Pin) tools(x *engine.Index) []engine.ToolID { return PinTools(x, a.All()) }

// PinTools are the tools that pin tensioners, each once.
func PinTools(x *engine.Index, of []engine.TensionerID) []engine.ToolID {
	var out []engine.ToolID
	for _, id := range of {
		if t := x.Tensioner(id); t != nil && t.Pin != "" && !slices.Contains(out, t.Pin) {
			out = append(out, t.Pin)
		}
	}
	return out
}

func (a *Pin) hazards(*engine.Index) []engine.Hazard { return []engine.Hazard{engine.HazardSpring} }
