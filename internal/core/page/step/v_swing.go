package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Swing moves a shaft to and fro and leaves it where it was.
type Swing struct {
	action
	Shaft engine.ShaftID `json:"shaft,omitzero"`
	// By is how far either way.
	By unit.Quantity `json:"by,omitzero"`
}

var swingSpec = &Spec{
	Verb: "swing", Phrases: []string{"swing", "rock", "move to and fro"},
	Fields: []Field{
		{Key: "shaft", Label: "shaft", Kind: OneThing, Of: []engine.Kind{engine.KindShaft}},
		{Key: "by", Label: "either way", Kind: QuantityIn, Hint: "5°", Unit: unit.Degree},
	},
	Example: "swing crank 5 deg to and fro", Phase: "find", Turns: true,
	New: func() Action { return &Swing{} },
	Read: func(l *Line) Action {
		a := &Swing{}
		l.Clauses(
			func() bool {
				if a.Shaft != "" {
					return false
				}
				if l.turned() {
					return true
				}
				named := l.shaftsNamed()
				if len(named) != 1 {
					return false
				}
				a.Shaft = named[0]
				return true
			},
			l.Value(&a.By, []string{"by", "through", "over"}, unit.KindAngle),
			l.Filler("to and fro", "back and forth", "either way", "both ways", "by hand", "to and fro by hand", "each way"),
		)
		if a.Shaft == engine.CrankID {
			a.Shaft = ""
		}
		if a.By.IsZero() && len(l.left) == 0 {
			l.refuse("it does not say how far")
		}
		return a
	},
	Next: func(_ *engine.Index, a Action) []string {
		return when(a.(*Swing).By.IsZero(), "5 deg to and fro")
	},
}

// Verb is "swing".
func (*Swing) Verb() Verb { return "swing" }

// Act moves it and brings it back.
func (a *Swing) Act(m *virtual.Machine) {
	by, _ := a.By.Angle()
	m.Swing(a.Shaft, float64(by))
}

// Say: "Swing the crank 5° to and fro".
func (a *Swing) Say(w *Words) {
	w.verb("Swing")
	w.shaft(a.Shaft)
	w.value("", textOf(a.By))
	w.text("to and fro")
}

func (a *Swing) hazards(*engine.Index) []engine.Hazard {
	return []engine.Hazard{engine.HazardHands}
}
