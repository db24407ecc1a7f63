package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/unit"
)

// Wait lets time pass.
type Wait struct {
	action
	For   unit.Quantity `json:"for,omitzero"`
	Until string        `json:"until,omitzero"`
}

var waitSpec = &Spec{
	Verb: "wait", Phrases: []string{"wait", "let stand", "leave"},
	Fields:  []Field{{Key: "for", Label: "for", Kind: QuantityIn, Hint: "15 min"}, {Key: "until", Label: "until", Kind: TextIn}},
	Example: "wait 15 min", Phase: "tension",
	New: func() Action { return &Wait{} },
	Read: func(l *Line) Action {
		a := &Wait{}
		a.For, _ = l.Quantity(unit.KindTime)
		l.Word("for")
		a.Until = l.Remains("until")
		return a
	},
	Next: func(_ *Line, a Action) []string { return when(a.(*Wait).For.IsZero(), "15 min") },
}

// Verb is "wait".
func (*Wait) Verb() Verb { return "wait" }

// Act lets the time pass.
func (a *Wait) Act(m *bench.Machine) {
	t, _ := a.For.Minutes()
	m.Wait(float64(t))
}

// Say: "Wait 15 min until the engine is cold".
func (a *Wait) Say(w *Words) {
	w.verb("Wait")
	w.value("", textOf(a.For))
	if a.Until != "" {
		w.text("until " + a.Until)
	}
}
