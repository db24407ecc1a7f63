package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Set brings a tensioner to its pointer, gauge, note or length, or a phaser to
// its home stop.
type Set struct {
	action
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
	// Phaser is the wheel, where it is a phaser that is set.
	Phaser engine.WheelID `json:"phaser,omitzero"`
	// To says where: "pointer to the notch".
	To string `json:"to,omitzero"`
	// Way is the sense the eccentric is turned.
	Way engine.Way `json:"way,omitzero"`
	// At is the ambient temperature the setting holds for, a length or a note.
	At unit.Quantity `json:"at,omitzero"`
}

var setSpec = &Spec{
	Verb: "set", Phrases: []string{"set", "adjust", "bring"}, Takes: []ObjectKind{TensionerObject, WheelObject},
	Fields: []Field{
		{Key: "tensioner", Label: "tensioner", Kind: OneThing, Of: []ObjectKind{TensionerObject}},
		{Key: "phaser", Label: "phaser", Kind: OneThing, Of: []ObjectKind{WheelObject}},
		{Key: "to", Label: "to", Kind: TextIn, Hint: "pointer to the notch"},
		{Key: "way", Label: "turning", Kind: ChoiceIn, Choices: []string{"", string(engine.Clockwise), string(engine.Counterclockwise)}},
		{Key: "at", Label: "at", Kind: QuantityIn, Hint: "20 °C"},
	},
	Example: "set tensioner counterclockwise to pointer in notch at 20 °C", Phase: "tension",
	New: func() Action { return &Set{} },
	Read: func(l *Line) Action {
		a := &Set{Tensioner: engine.TensionerID(l.One(TensionerObject)), Way: l.Way()}
		if q, ok := l.Quantity(unit.KindTemperature); ok {
			a.At = q
		} else if q, ok := l.Quantity(unit.KindFrequency); ok {
			a.At = q
		} else if q, ok := l.Quantity(unit.KindLength); ok {
			a.At = q
		}
		if a.Tensioner == "" {
			a.Phaser = engine.WheelID(l.One(WheelObject))
			l.Word("phaser")
		}
		l.Word("at")
		a.To = l.Remains("to", "until")
		return a
	},
	Next: func(l *Line, a Action) []string {
		s := a.(*Set)
		t := l.x.Tensioner(s.Tensioner)
		if t == nil {
			return nil
		}
		var out []string
		if s.Way == "" && t.Turn != "" {
			out = append(out, string(t.Turn))
		}
		if s.To == "" {
			for _, p := range t.Pointer {
				out = append(out, "at "+p.From.String()+" to "+p.Place)
			}
		}
		return out
	},
}

// Verb is "set".
func (*Set) Verb() Verb { return "set" }

// Act sets it.
func (a *Set) Act(m *bench.Machine) {
	if a.Phaser != "" {
		m.SetPhaser(a.Phaser)
		return
	}
	m.SetTensioner(a.Tensioner)
}

// Say: "Turn the tensioner counterclockwise until pointer in notch".
func (a *Set) Say(w *Words) {
	w.verb("Set")
	if a.Phaser != "" {
		w.wheel(a.Phaser)
		w.text("phaser")
	} else {
		w.tensioner(a.Tensioner)
	}
	w.text(string(a.Way))
	if a.To != "" {
		w.text("to " + a.To)
	}
	if !a.At.IsZero() {
		if w.full {
			w.value("at", a.At.String())
		} else {
			w.value("", "at "+a.At.String())
		}
	}
}
