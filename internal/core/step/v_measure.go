package step

import (
	"slices"
	"strings"

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
	Verb: "measure", looks: true, Phrases: []string{"measure", "read", "gauge"},
	Fields: []Field{
		{Key: "what", Label: "what", Kind: TextIn, Hint: "frequency of the longest free run"},
		{Key: "value", Label: "passes at", Kind: QuantityIn, Hint: "110 ±5 Hz"}, {Key: "readings", Label: "readings", Kind: NumberIn},
	},
	Example: "measure coolant temperature 20 ±5 °C", Phase: "tension", Fails: true,
	New:  func() Action { return &Measure{} },
	Read: readMeasure,
}

var measurable = []unit.Kind{unit.KindTorque, unit.KindAngle, unit.KindLength, unit.KindTime, unit.KindTemperature, unit.KindFrequency}

// passLeads are the words between what is measured and the figure that passes.
var passLeads = []string{"it passes at", "passes at", "to pass at", "must be", "should be", "it must be", "it should be", "is to be", "to be", "at", "is", "=", "of", "must read", "should read", "must lie at", "must be between"}

// limits are words for a figure that is a limit on one side.
var limits = []string{"less", "more", "least", "most", "below", "above", "over", "under", "max", "min", "maximum", "minimum", "than", "within", "greater", "smaller", "exceed", "exceeds", "up"}

func readMeasure(l *Line) Action {
	a := &Measure{}
	l.Skip("the")
	readings := func() bool {
		if a.Readings != 0 || l.end() {
			return false
		}
		if l.Say("twice") {
			a.Readings = 2
			return true
		}
		l.Say("take", "and take", "with", "in")
		if l.end() {
			return false
		}
		v, ok := wholeNumber(l.tokens[l.pos].word)
		if !ok || v < 2 {
			return false
		}
		l.pos++
		a.Readings = v
		if l.Say("times", "readings") {
			return true
		}
		a.Readings = 0
		return false
	}
	figure := func() bool {
		l.Say(passLeads...)
		if l.end() || l.tokens[l.pos].figure == nil {
			return false
		}
		return true
	}
	a.What = l.Free(func() bool {
		if readings() {
			a.Readings = 0
			return true
		}
		return figure()
	})
	if a.What == "" {
		l.refuse("it does not say what to measure")
	}
	for _, t := range tokens(a.What) {
		if slices.Contains(turning, t.word) || slices.Contains(limits, t.word) {
			l.refuse("“" + t.word + "” is not read. Write the figure that passes, as a value with its tolerance or a range")
		}
	}
	l.Clauses(readings, func() bool {
		if !a.Value.IsZero() || !figure() {
			return false
		}
		q, ok := l.Figure(measurable...)
		a.Value = q
		return ok
	})
	return a
}

// Verb is "measure".
func (*Measure) Verb() Verb { return "measure" }

// Act changes nothing on the engine.
func (a *Measure) Act(*bench.Machine) {}

// Say: "Measure the ambient temperature: 20 ±5 °C".
func (a *Measure) Say(w *Words) {
	w.verb("Measure")
	if w.full && !strings.HasPrefix(a.What, "the ") && a.What != "" {
		w.text("the")
	}
	w.text(a.What)
	if a.Readings > 1 {
		w.text(unit.Number(float64(a.Readings)) + " times")
	}
	w.value("; it passes at", textOf(a.Value))
}
