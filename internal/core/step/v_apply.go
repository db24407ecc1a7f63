package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Apply puts sealant, oil, grease or thread lock on something.
type Apply struct {
	action
	What     Stuff             `json:"what,omitzero"`
	Part     engine.PartID     `json:"part,omitzero"`
	Fastener engine.FastenerID `json:"fastener,omitzero"`
	// Open is the open time of sealant.
	Open unit.Quantity `json:"open,omitzero"`
}

// Stuff is what is applied.
type Stuff string

// What can be applied.
const (
	Sealant    Stuff = "sealant"
	Oil        Stuff = "engine oil"
	Grease     Stuff = "grease"
	ThreadLock Stuff = "thread lock"
)

var stuffs = []string{string(Sealant), string(Oil), string(Grease), string(ThreadLock)}

var applySpec = &Spec{
	Verb: "apply", Phrases: []string{"apply", "put", "coat"},
	Fields: []Field{
		{Key: "what", Label: "what", Kind: ChoiceIn, Choices: stuffs},
		{Key: "part", Label: "to part", Kind: OneThing, Of: []ObjectKind{PartObject}},
		{Key: "fastener", Label: "to fastener", Kind: OneThing, Of: []ObjectKind{FastenerObject}},
		{Key: "open", Label: "open time", Kind: QuantityIn, Hint: "10 min"},
	},
	Example: "apply sealant to lower timing cover, open time 10 min", Phase: "close",
	New: func() Action { return &Apply{} },
	Read: func(l *Line) Action {
		a := &Apply{}
		for _, s := range stuffs {
			if l.Word(s) {
				a.What = Stuff(s)
				break
			}
		}
		if a.What == "" && l.Word("oil") {
			a.What = Oil
		}
		a.Part, a.Fastener = engine.PartID(l.One(PartObject)), engine.FastenerID(l.One(FastenerObject))
		a.Open, _ = l.Quantity(unit.KindTime)
		l.Word("open time", "close within", "within")
		l.Word("to", "on", "of")
		return a
	},
	Next: func(_ *Line, a Action) []string {
		if a.(*Apply).What == "" {
			return stuffs
		}
		return nil
	},
}

// Verb is "apply".
func (*Apply) Verb() Verb { return "apply" }

// Act opens a joint where there is sealant.
func (a *Apply) Act(m *bench.Machine) {
	if a.What == Sealant {
		t, _ := a.Open.Minutes()
		m.Spread(a.Part, float64(t))
	}
}

// Say: "Apply sealant to the lower timing cover and close within 10 min".
func (a *Apply) Say(w *Words) {
	w.verb("Apply")
	w.text(string(a.What))
	if a.Part != "" || a.Fastener != "" {
		w.text("to")
	}
	if a.Part != "" {
		w.part(a.Part)
	}
	if a.Fastener != "" {
		w.fastener(a.Fastener)
	}
	w.value("and close within", textOf(a.Open))
}

func (a *Apply) hazards(*engine.Index) []engine.Hazard {
	if a.What == Sealant {
		return []engine.Hazard{engine.HazardSealant}
	}
	return nil
}
