package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Settle turns the crank so that a new belt finds its place.
type Settle struct {
	action
	Turns float64 `json:"turns,omitzero"`
	// Loop is the belt or chain that settles, where the engine has several.
	Loop engine.LoopID `json:"loop,omitzero"`
}

var settleSpec = &Spec{
	Verb: "settle", Phrases: []string{"settle"},
	Fields:  []Field{{Key: "turns", Label: "turns", Kind: NumberIn}, {Key: "loop", Label: "loop", Kind: OneThing, Of: []engine.Kind{engine.KindLoop}}},
	Example: "settle belt 6 turns", Phase: "tension", Turns: true,
	New: func() Action { return &Settle{} },
}

// Verb is "settle".
func (*Settle) Verb() Verb { return "settle" }

// Act turns the crank in running direction.
func (a *Settle) Act(m *virtual.Machine) { m.Turn(virtual.Turning{Turns: a.Turns}) }

// Say: "Settle the belt: turn the crank 6 turns in running direction".
func (a *Settle) Say(w *Words) {
	w.verb("Settle")
	switch {
	case a.Loop != "":
		w.loop(a.Loop)
	case w.full:
		w.text("the " + w.x.Drives())
	default:
		w.text(w.x.Drives())
	}
	if w.full {
		w.text(": turn the crank")
		w.value("", turnsText(a.Turns))
		w.text(string(w.x.Sheet.Running))
		return
	}
	w.value("", turnsText(a.Turns))
}

func turnsText(n float64) string {
	if n == 1 {
		return "1 turn"
	}
	if n > 0 && n < 1 {
		return unit.Number(n) + " turn"
	}
	return unit.Number(n) + " turns"
}

func (a *Settle) hazards(*engine.Index) []engine.Hazard { return []engine.Hazard{engine.HazardHands} }
