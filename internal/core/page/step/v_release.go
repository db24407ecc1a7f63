package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Release pulls a tensioner's pin and lets it work.
type Release struct {
	action
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
	// Also are more that are let go in the same step.
	Also []engine.TensionerID `json:"also,omitempty"`
}

// All are the tensioners that are let go.
func (a *Release) All() []engine.TensionerID { return both(a.Tensioner, a.Also) }

var releaseSpec = &Spec{
	Verb: "release", Phrases: []string{"release", "unpin", "let go", "let", "pull the pin and let", "pull the pin out and let", "pull out the pin and let", "take the pin out and let", "draw the pin and let", "pull the pins and let", "pull the pin of", "pull the pins of", "pull out the pins of", "pull the pin from", "pull the pin out of", "pull out the pin of", "pull pin of", "remove the pin of", "remove the pin from", "take out the pin of", "take out the pin from", "take the pin out of", "pull", "pull out", "remove", "take out", "withdraw"}, Takes: []engine.Kind{engine.KindTensioner},
	Fields:  []Field{{Key: "tensioner", Label: "tensioner", Kind: OneThing, Of: []engine.Kind{engine.KindTensioner}}, {Key: "also", Label: "and", Kind: Things, Of: []engine.Kind{engine.KindTensioner}}},
	Example: "release tensioner", Phase: "tension", Holds: true, Tensions: true,
	New: func() Action { return &Release{} },
}

// Verb is "release".
func (*Release) Verb() Verb { return "release" }

// Act lets it go.
func (a *Release) Act(m *virtual.Machine) {
	for _, id := range a.All() {
		m.ReleaseTensioner(id)
	}
}

// Clause: "Pull the pin and let the tensioner move out slowly", "Let the tensioner
// go" for one without a pin.
func (a *Release) Clause(x *engine.Index) Clause {
	form := Form("")
	if len(PinTools(x, a.All())) > 0 {
		form = FormPin
	}
	return clause(a.Verb(), form, things(RoleWhat, named(engine.KindTensioner, a.All()...)))
}

func (a *Release) tools(x *engine.Index) []engine.ToolID { return PinTools(x, a.All()) }

func (a *Release) hazards(*engine.Index) []engine.Hazard { return []engine.Hazard{engine.HazardSpring} }
