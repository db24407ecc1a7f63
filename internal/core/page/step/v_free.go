package step

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Free breaks wheels loose from their seats, so that they turn on their shafts: on a
// taper a slack bolt is not enough.
type Free struct {
	action
	Wheels []engine.WheelID `json:"wheels,omitempty"`
}

var freeSpec = &Spec{
	Verb: "free", Phrases: []string{"free", "break loose", "break free", "knock loose", "break the taper of", "break taper of"}, Takes: []engine.Kind{engine.KindWheel},
	Fields:  []Field{{Key: "wheels", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindWheel}}},
	Example: "free inlet sprocket from its taper", Phase: "relieve",
	New: func() Action { return &Free{} },
}

// Verb is "free".
func (*Free) Verb() Verb { return "free" }

// Act frees each of them.
func (a *Free) Act(m *virtual.Machine) {
	for _, id := range a.Wheels {
		m.FreeWheel(id)
	}
}

// Clause: a wheel that is called as its shaft is its sprocket or gear: "Free the inlet sprocket from its seat (TL-904)".
func (a *Free) Clause(x *engine.Index) Clause {
	role := RoleSprockets
	for _, id := range a.Wheels {
		w := x.Wheel(id)
		switch {
		case len(a.Wheels) > 1 || w == nil || x.Shaft(w.Shaft) == nil || !strings.HasPrefix(x.Shaft(w.Shaft).Name, w.Name), slices.ContainsFunc(x.Sheet.Wheels, func(o engine.Wheel) bool { return strings.HasPrefix(o.Name, w.Name+" ") }):
			role = RoleWhat // by a name of its own, or one that goes on in another’s
		case role == RoleSprockets && slices.ContainsFunc(x.Sheet.Gears, func(g engine.Gear) bool { return g.Driver == id || g.Driven == id }):
			role = RoleGears
		}
	}
	return clause(a.Verb(), "", things(role, named(engine.KindWheel, a.Wheels...)), number(RoleSeats, float64(len(a.Wheels))), things(RoleTools, named(engine.KindTool, a.tools(x)...)))
}

func (a *Free) tools(x *engine.Index) []engine.ToolID {
	var out []engine.ToolID
	for _, id := range a.Wheels {
		if w := x.Wheel(id); w != nil && w.Puller != "" && !slices.Contains(out, w.Puller) {
			out = append(out, w.Puller)
		}
	}
	return out
}
