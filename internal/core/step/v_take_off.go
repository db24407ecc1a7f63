package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// TakeOff takes a belt or chain off.
type TakeOff struct {
	action
	Loop engine.LoopID `json:"loop,omitzero"`
}

var takeOffSpec = &Spec{
	Verb: "take-off", Phrases: []string{"take off", "remove", "slip off"}, Takes: []ObjectKind{LoopObject},
	Fields:  []Field{{Key: "loop", Label: "loop", Kind: OneThing, Of: []ObjectKind{LoopObject}}},
	Example: "take off timing belt", Phase: "take-off",
	New: func() Action { return &TakeOff{} },
	Read: func(l *Line) Action {
		return &TakeOff{Loop: engine.LoopID(l.One(LoopObject))}
	},
}

// Verb is "take-off".
func (*TakeOff) Verb() Verb { return "take-off" }

// Act takes it off.
func (a *TakeOff) Act(m *bench.Machine) { m.LoopOff(a.Loop) }

// Say: "Take off the timing belt".
func (a *TakeOff) Say(w *Words) {
	w.verb("Take off")
	w.loop(a.Loop)
}
