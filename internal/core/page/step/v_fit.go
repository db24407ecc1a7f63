package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
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
	Verb: "fit", Phrases: []string{"fit", "refit", "lay on", "put on", "install", "lay", "slip on", "slide on", "feed on", "put back", "reinstall", "ease on", "mount"}, Takes: []engine.Kind{engine.KindLoop},
	Fields: []Field{
		{Key: "loop", Label: "loop", Kind: OneThing, Of: []engine.Kind{engine.KindLoop}}, {Key: "new", Label: "new", Kind: Tick},
		{Key: "order", Label: "order", Kind: Things, Of: []engine.Kind{engine.KindWheel}, Beside: true},
		{Key: "slack", Label: "slack at", Kind: OneThing, Of: []engine.Kind{engine.KindWheel}, Beside: true},
	},
	Example: "fit new timing belt, crank → idler → exhaust → inlet → pump → tensioner, slack at tensioner", Phase: "fit", Closes: true, Lays: true,
	New: func() Action { return &Fit{} },
}

// Verb is "fit".
func (*Fit) Verb() Verb { return "fit" }

// Act fits it.
func (a *Fit) Act(m *virtual.Machine) { m.LoopOn(a.Loop, a.New, a.Slack) }

// Clause: "Fit the new timing belt over crank, idler …, slack at the tensioner".
func (a *Fit) Clause(_ *engine.Index) Clause {
	what := things(RoleWhat, named(engine.KindLoop, a.Loop))
	what.Fresh = a.New
	return clause(a.Verb(), "", what, things(RoleOrder, named(engine.KindWheel, a.Order...)), things(RoleSlack, named(engine.KindWheel, a.Slack)))
}
