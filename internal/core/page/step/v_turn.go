package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Turn turns the crank by hand, or another shaft.
type Turn struct {
	action
	// Shaft is what is turned; empty for the crank.
	Shaft engine.ShaftID `json:"shaft,omitzero"`
	// Turns are whole or part turns; Degrees an angle on top.
	Turns   float64       `json:"turns,omitzero"`
	Degrees unit.Quantity `json:"degrees,omitzero"`
	// Way is the sense in the sheet's view; empty means running direction.
	Way engine.Way `json:"way,omitzero"`
	// OtherEnd has the way said as it is seen from the other end; Way stays as it is.
	OtherEnd bool `json:"otherEnd,omitzero"`
	// To is a mark to bring to its pointer; Onto a stop to come up to.
	To engine.MarkID `json:"to,omitzero"`
	// Also are marks that are to stand with it: it is turned on until all do.
	Also []engine.MarkID `json:"also,omitempty"`
	Onto engine.LockID   `json:"onto,omitzero"`
	// Painted turns until the technician's own marks stand.
	Painted bool `json:"painted,omitzero"`
	// Into is a lock that is tried while it is turned, goes in and stays in.
	Into engine.LockID `json:"into,omitzero"`
	// Until is a reading that the turn ends at, Reads what it is to read there.
	Until engine.ReadingID `json:"until,omitzero"`
	Reads unit.Quantity    `json:"reads,omitzero"`
	// Short stops just short of the target.
	Short bool `json:"short,omitzero"`
	// On is the fastener the wrench goes on.
	On engine.FastenerID `json:"on,omitzero"`
}

var turnSpec = &Spec{
	Verb: "turn", Phrases: []string{"turn", "rotate", "bar", "wind", "turn over", "rotate over", "bring"},
	Fields: []Field{
		{Key: "shaft", Label: "what", Kind: OneThing, Of: []engine.Kind{engine.KindShaft}, Hint: "crank"},
		{Key: "turns", Label: "turns", Kind: NumberIn}, {Key: "degrees", Label: "degrees", Kind: QuantityIn, Hint: "30°", Unit: unit.Degree},
		{Key: "way", Label: "way", Kind: ChoiceIn, Choices: []string{string(engine.Clockwise), string(engine.Counterclockwise)}},
		{Key: "to", Label: "to mark", Kind: OneThing, Of: []engine.Kind{engine.KindMark}},
		{Key: "also", Label: "with marks", Kind: Things, Of: []engine.Kind{engine.KindMark}},
		{Key: "painted", Label: "to the paint marks", Kind: Tick},
		{Key: "onto", Label: "onto stop", Kind: OneThing, Of: []engine.Kind{engine.KindLock}},
		{Key: "into", Label: "until it goes in", Kind: OneThing, Of: []engine.Kind{engine.KindLock}},
		{Key: "until", Label: "until the reading", Kind: OneThing, Of: []engine.Kind{engine.KindReading}, Beside: true}, {Key: "reads", Label: "reads", Kind: QuantityIn, With: "until"},
		{Key: "short", Label: "stop short", Kind: Tick}, {Key: "otherEnd", Label: "said as seen from the other end", Kind: Tick, With: "way"}, {Key: "on", Label: "on", Kind: OneThing, Of: []engine.Kind{engine.KindFastener}, Beside: true},
	},
	Example: "turn crank 2 turns clockwise, stop short", Phase: "prove", Turns: true,
	New: func() Action { return &Turn{} },
}

// Marks are the marks that are to stand where the turn ends.
func (a *Turn) Marks() []engine.MarkID {
	if a.To == "" {
		return a.Also
	}
	return append([]engine.MarkID{a.To}, a.Also...)
}

// Verb is "turn".
func (*Turn) Verb() Verb { return "turn" }

// Act turns the crank; the way decides whether it goes backwards.
func (a *Turn) Act(m *virtual.Machine) {
	deg, _ := a.Degrees.Angle()
	m.Turn(virtual.Turning{
		Turns: a.Turns, Degrees: deg, To: a.To, Also: a.Also, Onto: a.Onto, Into: a.Into, Until: a.Until, Stated: a.Way != "", Shaft: a.Shaft, Painted: a.Painted, Short: a.Short, On: a.On,
		Backwards: a.Way != "" && a.Way != m.Index.Running(a.Shaft),
	})
}

// Clause: "Turn the crank 2 turns clockwise and stop just short".
func (a *Turn) Clause(x *engine.Index) Clause {
	shaft := a.Shaft
	if shaft == "" {
		shaft = engine.CrankID
	}
	on := things(RoleOn, named(engine.KindFastener, a.On))
	return clause(a.Verb(), "",
		things(RoleWhat, named(engine.KindShaft, shaft)), number(RoleTurns, a.Turns), figure(RoleDegrees, a.Degrees), saidWay(a.Way, a.OtherEnd), seenFrom(x, a.Way, a.OtherEnd), on,
		things(RoleTo, named(engine.KindMark, a.Marks()...)), only(RolePainted, a.Painted), things(RoleOnto, named(engine.KindLock, a.Onto)),
		things(RoleInto, named(engine.KindLock, a.Into)), things(RoleMeets, named(engine.KindReading, a.Until)), a.reads(), only(RoleShort, a.Short))
}

// reads is what the reading reads that the turn ends at.
func (a *Turn) reads() Part {
	if a.Until == "" {
		return Part{}
	}
	return figure(RoleReads, a.Reads)
}

// Crank reports whether it is the crank that is turned.
func (a *Turn) Crank() bool { return a.Shaft == "" || a.Shaft == engine.CrankID }

func (a *Turn) hazards(*engine.Index) []engine.Hazard {
	if a.Turns >= 1 {
		return []engine.Hazard{engine.HazardHands}
	}
	return nil
}

func (a *Turn) tools(x *engine.Index) []engine.ToolID {
	if r := x.Reading(a.Until); r != nil && r.Tool != "" {
		return append(lockTool(x, a.Into), r.Tool)
	}
	return lockTool(x, a.Into)
}
