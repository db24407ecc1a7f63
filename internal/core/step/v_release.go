package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// Release pulls a tensioner's pin and lets it work.
type Release struct {
	action
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
}

var releaseSpec = &Spec{
	Verb: "release", Phrases: []string{"release", "unpin", "let go", "pull pin of", "pull"}, Takes: []ObjectKind{TensionerObject},
	Fields:  []Field{{Key: "tensioner", Label: "tensioner", Kind: OneThing, Of: []ObjectKind{TensionerObject}}},
	Example: "release tensioner", Phase: "tension",
	New: func() Action { return &Release{} },
	Read: func(l *Line) Action {
		a := &Release{Tensioner: engine.TensionerID(l.One(TensionerObject))}
		l.Word("pin")
		return a
	},
}

// Verb is "release".
func (*Release) Verb() Verb { return "release" }

// Act lets it go.
func (a *Release) Act(m *bench.Machine) { m.ReleaseTensioner(a.Tensioner) }

// Say: "Pull the pin and let the tensioner move out slowly".
func (a *Release) Say(w *Words) {
	if w.full {
		w.verb("Pull")
		w.text("the pin and let")
		w.tensioner(a.Tensioner)
		w.text("move out slowly")
		return
	}
	w.verb("Release")
	w.tensioner(a.Tensioner)
	w.text("pin")
}

func (a *Release) tools(x *engine.Index) []engine.ToolID { return pinTool(x, a.Tensioner) }

func (a *Release) hazards(*engine.Index) []engine.Hazard { return []engine.Hazard{engine.HazardSpring} }
