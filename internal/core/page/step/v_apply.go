package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
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

// Choices are what may be put on.
func (Stuff) Choices() []string {
	return []string{string(Sealant), string(Oil), string(Grease), string(ThreadLock)}
}

var stuffs = Stuff("").Choices()

var applySpec = &Spec{
	Verb: "apply", Phrases: []string{"apply", "put", "coat", "spread", "smear"},
	Fields: []Field{
		{Key: "what", Label: "what", Kind: ChoiceIn, Choices: stuffs},
		{Key: "part", Label: "to part", Kind: OneThing, Of: []engine.Kind{engine.KindPart}},
		{Key: "fastener", Label: "to fastener", Kind: OneThing, Of: []engine.Kind{engine.KindFastener}},
		{Key: "open", Label: "open time", Kind: QuantityIn, Hint: "10 min", Unit: unit.Minute},
	},
	Example: "apply sealant to lower timing cover, open time 10 min", Phase: "close",
	New: func() Action { return &Apply{} },
	Read: func(l *Line) Action {
		a := &Apply{}
		l.Clauses(
			func() bool {
				if a.What != "" {
					return false
				}
				l.Skip("with")
				for l.Skip("some", "clean", "fresh", "a bead of", "new", "the") || l.Kept("a little", "a thin bead of", "a film of", "a thin film of", "a thin coat of", "a drop of", "a thin layer of")() {
				}
				for _, s := range stuffs {
					if l.Say(s) {
						a.What = Stuff(s)
						return true
					}
				}
				if l.Say("oil") {
					a.What = Oil
				} else if l.Say("threadlock", "locking compound", "thread locking compound", "thread locker", "threadlocker") {
					a.What = ThreadLock
				}
				return a.What != ""
			},
			func() bool {
				l.Say("the threads of", "threads of", "to the threads of", "to threads of", "on the threads of", "to the joint of", "to the joint face of", "to", "on", "onto", "of")
				if a.Part != "" || a.Fastener != "" {
					return false
				}
				ns, ok := l.Things(false, engine.KindPart, engine.KindFastener)
				if !ok {
					return false
				}
				l.Say("threads", "thread")
				if p := pick[engine.PartID](ns, engine.KindPart); len(p) > 0 {
					a.Part = p[0]
				} else {
					a.Fastener = pick[engine.FastenerID](ns, engine.KindFastener)[0]
				}
				return true
			},
			func() bool {
				if !a.Open.IsZero() {
					return false
				}
				l.Say("open time", "and close within", "close within", "and close the joint within", "close the joint within", "within", "and fit it within")
				l.Say("of")
				q, ok := l.Figure(unit.KindTime)
				a.Open = q
				return ok
			},
		)
		if a.What == "" && len(l.left) == 0 {
			l.refuse("it does not say what to apply")
		}
		return a
	},
	Next: func(_ *engine.Index, a Action) []string {
		if a.(*Apply).What == "" {
			return stuffs
		}
		return nil
	},
}

// Verb is "apply".
func (*Apply) Verb() Verb { return "apply" }

// Act opens a joint where there is sealant.
func (a *Apply) Act(m *virtual.Machine) {
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
