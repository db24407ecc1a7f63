package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Reset sets a counter back: that of a part of the sheet, or one in words.
type Reset struct {
	action
	Part engine.PartID `json:"part,omitzero"`
	What string        `json:"what,omitzero"`
}

var resetSpec = &Spec{
	Verb: "reset", Phrases: []string{"reset", "set back", "zero"},
	Fields: []Field{
		{Key: "part", Label: "counter of", Kind: OneThing, Of: []engine.Kind{engine.KindPart}},
		{Key: "what", Label: "what", Kind: TextIn, Hint: "service display"},
	},
	Example: "reset belt counter", Phase: "close",
	New: func() Action { return &Reset{} },
}

// Verb is "reset".
func (*Reset) Verb() Verb { return "reset" }

// Act sets it back.
func (a *Reset) Act(m *virtual.Machine) {
	if a.Part != "" {
		m.ResetCounter(a.Part)
	}
}

// Say: "Reset the belt counter".
func (a *Reset) Say(w *Words) {
	w.verb("Reset")
	what := a.What
	if p := w.x.Part(a.Part); p != nil && p.Reset != "" {
		what = p.Reset
		if w.full {
			what = "the " + what
		}
		w.put(ObjectSpan, what, string(engine.KindPart)+":"+string(a.Part))
		return
	}
	if a.Part != "" {
		w.text(map[bool]string{true: "the counter of", false: "counter of"}[w.full])
		w.part(a.Part)
		return
	}
	w.text(what)
}
