package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/unit"
)

// Measure takes a reading and says what passes.
type Measure struct {
	action
	What string `json:"what,omitzero"`
	// Value is the figure to find, with its tolerance.
	Value    unit.Quantity `json:"value,omitzero"`
	Readings int           `json:"readings,omitzero"`
}

var measureSpec = &Spec{
	Verb: "measure", Phrases: []string{"measure", "read"},
	Fields: []Field{
		{Key: "what", Label: "what", Kind: TextIn, Hint: "frequency of the longest free run"},
		{Key: "value", Label: "passes at", Kind: QuantityIn, Hint: "110 ±5 Hz"}, {Key: "readings", Label: "readings", Kind: NumberIn},
	},
	Example: "measure coolant temperature 20 ±5 °C", Phase: "tension",
	New: func() Action { return &Measure{} },
	Read: func(l *Line) Action {
		a := &Measure{}
		for k := unit.KindTorque; k <= unit.KindFrequency && a.Value.IsZero(); k++ {
			a.Value, _ = l.Quantity(k)
		}
		a.What = l.Remains("the")
		return a
	},
}

// Verb is "measure".
func (*Measure) Verb() Verb { return "measure" }

// Act changes nothing on the engine.
func (a *Measure) Act(*bench.Machine) {}

// Say: "Measure the ambient temperature: 20 ±5 °C".
func (a *Measure) Say(w *Words) {
	w.verb("Measure")
	if w.full {
		w.text("the")
	}
	w.text(a.What)
	if a.Readings > 1 {
		w.text(unit.Number(float64(a.Readings)) + " times")
	}
	w.value("; it passes at", textOf(a.Value))
}
