package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// Pin retracts a tensioner and holds it with its pin.
type Pin struct {
	action
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
}

var pinSpec = &Spec{
	Verb: "pin", Phrases: []string{"pin", "retract and pin", "compress and pin", "retract"}, Takes: []ObjectKind{TensionerObject},
	Fields:  []Field{{Key: "tensioner", Label: "tensioner", Kind: OneThing, Of: []ObjectKind{TensionerObject}}},
	Example: "pin tensioner", Phase: "relieve",
	New:  func() Action { return &Pin{} },
	Read: func(l *Line) Action { return &Pin{Tensioner: engine.TensionerID(l.One(TensionerObject))} },
}

// Verb is "pin".
func (*Pin) Verb() Verb { return "pin" }

// Act pins it.
func (a *Pin) Act(m *bench.Machine) { m.PinTensioner(a.Tensioner) }

// Say: "Retract the tensioner and pin it (TL-105)".
func (a *Pin) Say(w *Words) {
	if w.full {
		w.verb("Retract")
		w.tensioner(a.Tensioner)
		w.text("and hold it with its pin")
	} else {
		w.verb("Pin")
		w.tensioner(a.Tensioner)
	}
	if t := w.x.Tensioner(a.Tensioner); t != nil {
		if tool := w.x.Tool(t.Pin); tool != nil {
			if w.full {
				w.text("(" + tool.Number + ")")
			} else {
				w.value("", tool.Number)
			}
		}
	}
}

func (a *Pin) tools(x *engine.Index) []engine.ToolID { return pinTool(x, a.Tensioner) }

func pinTool(x *engine.Index, id engine.TensionerID) []engine.ToolID {
	if t := x.Tensioner(id); t != nil && t.Pin != "" {
		return []engine.ToolID{t.Pin}
	}
	return nil
}

func (a *Pin) hazards(*engine.Index) []engine.Hazard { return []engine.Hazard{engine.HazardSpring} }
