package step

import (
	"strings"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// Fit lays a belt or chain over its wheels.
type Fit struct {
	action
	Loop engine.LoopID `json:"loop,omitzero"`
	New  bool          `json:"new,omitzero"`
	// Order is the wheels in the order they are served, starting where the work
	// starts.
	Order []engine.WheelID `json:"order,omitempty"`
	// Slack is the wheel on whose run the slack is left.
	Slack engine.WheelID `json:"slack,omitzero"`
}

var fitSpec = &Spec{
	Verb: "fit", Phrases: []string{"fit", "refit", "lay on", "put on", "install"}, Takes: []ObjectKind{LoopObject},
	Fields: []Field{
		{Key: "loop", Label: "loop", Kind: OneThing, Of: []ObjectKind{LoopObject}}, {Key: "new", Label: "new", Kind: Tick},
		{Key: "order", Label: "order", Kind: Things, Of: []ObjectKind{WheelObject}},
		{Key: "slack", Label: "slack at", Kind: OneThing, Of: []ObjectKind{WheelObject}},
	},
	Example: "fit new timing belt, crank → idler → exhaust → inlet → pump → tensioner, slack at tensioner", Phase: "fit",
	New: func() Action { return &Fit{} },
	Read: func(l *Line) Action {
		a := &Fit{Slack: engine.WheelID(l.After([]string{"slack at the", "slack at", "leaving slack at", "slack on"}, WheelObject)), Loop: engine.LoopID(l.One(LoopObject)), New: l.Word("new")}
		a.Order = ids[engine.WheelID](l.All(WheelObject))
		for l.Word("→", "->", ">", "over", "from", "to", "starting at", "then") {
			continue
		}
		return a
	},
	Next: func(l *Line, a Action) []string {
		f := a.(*Fit)
		loop := l.x.Loop(f.Loop)
		if loop == nil {
			return nil
		}
		var out []string
		if len(f.Order) == 0 {
			out = append(out, fittingOrder(l.x, loop))
		}
		if f.Slack == "" {
			if t := l.x.Tensioner(loop.Tensioner); t != nil && l.x.Wheel(t.Wheel) != nil {
				out = append(out, "slack at "+l.x.Wheel(t.Wheel).Name)
			}
		}
		return out
	},
}

// fittingOrder serves the pulling run first: from the driver against the way
// the loop travels, so that the slack ends at the tensioner.
func fittingOrder(x *engine.Index, l *engine.Loop) string {
	var names []string
	for i := range l.Route {
		if w := x.Wheel(l.Route[(len(l.Route)-i)%len(l.Route)].Wheel); w != nil {
			names = append(names, w.Name)
		}
	}
	return strings.Join(names, " → ")
}

// Verb is "fit".
func (*Fit) Verb() Verb { return "fit" }

// Act fits it.
func (a *Fit) Act(m *bench.Machine) { m.LoopOn(a.Loop, a.New, a.Slack) }

// Say: "Fit the new timing belt over crank, idler …, slack at the tensioner".
func (a *Fit) Say(w *Words) {
	w.verb("Fit")
	w.fresh = a.New
	w.loop(a.Loop)
	w.fresh = false
	if len(a.Order) > 0 {
		var names []string
		for _, id := range a.Order {
			if wh := w.x.Wheel(id); wh != nil {
				names = append(names, wh.Name)
			} else {
				names = append(names, "“"+string(id)+"”")
			}
		}
		if w.full {
			w.text("in the order " + list(names))
		} else {
			w.text(", " + strings.Join(names, " → "))
		}
	}
	if a.Slack != "" {
		if w.full {
			w.text(", and leave the slack at")
			w.wheel(a.Slack)
		} else if wh := w.x.Wheel(a.Slack); wh != nil {
			w.value("", "slack at "+wh.Name)
		}
	}
}
