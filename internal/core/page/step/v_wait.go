package step

import (
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Wait lets time pass.
type Wait struct {
	action
	For   unit.Quantity `json:"for,omitzero"`
	Until string        `json:"until,omitzero"`
}

var waitSpec = &Spec{
	Verb: "wait", Phrases: []string{"wait", "let stand", "let the engine cool down", "let engine cool down", "let the engine cool", "let engine cool", "allow the engine to cool down", "allow the engine to cool", "leave the engine to cool"},
	Fields:  []Field{{Key: "for", Label: "for", Kind: QuantityIn, Hint: "15 min", Unit: unit.Minute}, {Key: "until", Label: "until", Kind: TextIn}},
	Example: "wait 15 min", Phase: "tension",
	New: func() Action { return &Wait{} },
	Read: func(l *Line) Action {
		a := &Wait{}
		if strings.Contains(l.phrase, "cool") {
			switch {
			case l.end():
				a.Until = "the engine is cold"
			case l.Say("to below", "below", "until it is below"):
				l.figured = true
				if t := l.Free(nil); t != "" {
					a.Until = "the engine is below " + t
				}
				l.figured = false
			}
		}
		l.Clauses(
			l.Value(&a.For, []string{"for"}, unit.KindTime),
			func() bool {
				if a.Until != "" || !l.Say("until", "till") {
					return false
				}
				l.figured = true
				a.Until = l.FreeWith(nil, "no")
				l.figured = false
				return a.Until != ""
			},
			l.Filler("for the sealant to set", "for the sealant to cure", "for the sealant to skin over", "for the sealant", "for the belt to settle", "for the thread lock to cure"),
		)
		if a.For.IsZero() && a.Until == "" && len(l.left) == 0 {
			l.refuse("it does not say how long")
		}
		return a
	},
	Next: func(_ *engine.Index, a Action) []string { return when(a.(*Wait).For.IsZero(), "15 min") },
}

// Verb is "wait".
func (*Wait) Verb() Verb { return "wait" }

// Act lets the time pass.
func (a *Wait) Act(m *virtual.Machine) {
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
