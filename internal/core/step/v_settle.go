package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Settle turns the crank so that a new belt finds its place.
type Settle struct {
	action
	Turns float64 `json:"turns,omitzero"`
}

var settleSpec = &Spec{
	Verb: "settle", Phrases: []string{"settle"},
	Fields:  []Field{{Key: "turns", Label: "turns", Kind: NumberIn}},
	Example: "settle belt 6 turns", Phase: "tension",
	New: func() Action { return &Settle{} },
	Read: func(l *Line) Action {
		l.Word("the belt", "belt", "the chain", "chain")
		l.One(LoopObject)
		l.Word("with", "over", "by")
		return &Settle{Turns: l.CountedTurns()}
	},
	Next: func(_ *Line, a Action) []string { return when(a.(*Settle).Turns == 0, "6 turns") },
}

// Verb is "settle".
func (*Settle) Verb() Verb { return "settle" }

// Act turns the crank in running direction.
func (a *Settle) Act(m *bench.Machine) { m.Turn(bench.Turning{Turns: a.Turns}) }

// Say: "Settle the belt: turn the crank 6 turns in running direction".
func (a *Settle) Say(w *Words) {
	w.verb("Settle")
	if w.full {
		w.text("the belt: turn the crank")
		w.value("", turnsText(a.Turns))
		w.text(string(w.x.Sheet.Running))
		return
	}
	w.text("belt")
	w.value("", turnsText(a.Turns))
}

func turnsText(n float64) string {
	if n == 1 {
		return "1 turn"
	}
	return unit.Number(n) + " turns"
}

func (a *Settle) hazards(*engine.Index) []engine.Hazard { return []engine.Hazard{engine.HazardHands} }
