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
	Read: func(l *Line) Action {
		a := &Settle{}
		l.Clauses(
			func() bool {
				if a.Loop != "" {
					return false
				}
				if l.Say(l.drive()...) {
					return true
				}
				id, ok := l.One(engine.KindLoop)
				a.Loop = engine.LoopID(id)
				return ok
			},
			func() bool {
				l.Say("turn the crank", "turning the crank", "by turning the crank", "turn crank")
				l.Say("with", "over", "by", "for", "through")
				if a.Turns != 0 {
					return false
				}
				n, ok := l.Turns()
				a.Turns = n
				return ok
			},
			l.Filler(string(l.x.Sheet.Running), "in running direction", "in the running direction", "of the crank"),
		)
		if a.Turns == 0 && len(l.left) == 0 {
			l.refuse("it does not say how many turns")
		}
		return a
	},
	Next: func(_ *engine.Index, a Action) []string { return when(a.(*Settle).Turns == 0, "6 turns") },
}

// drive are the words for all of an engine's loops together: the belt, the
// chains.
func (l *Line) drive() []string {
	w := l.x.Drives()
	return []string{"the " + w, w}
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
