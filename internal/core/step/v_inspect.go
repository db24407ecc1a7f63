package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// Inspect looks a part over against criteria and says what follows.
type Inspect struct {
	action
	Parts []engine.PartID `json:"parts,omitempty"`
	For   string          `json:"lookFor,omitzero"`
	Then  string          `json:"then,omitzero"`
}

var inspectSpec = &Spec{
	Verb: "inspect", Phrases: []string{"inspect", "look over", "examine"}, Takes: []ObjectKind{PartObject},
	Fields: []Field{
		{Key: "parts", Label: "what", Kind: Things, Of: []ObjectKind{PartObject}}, {Key: "lookFor", Label: "for", Kind: TextIn, Hint: "play, rough running, leaks"},
		{Key: "then", Label: "then", Kind: TextIn, Hint: "renew if found so"},
	},
	Example: "inspect water pump for leaks and play, then renew if found so", Phase: "inspect",
	New: func() Action { return &Inspect{} },
	Read: func(l *Line) Action {
		a := &Inspect{Parts: ids[engine.PartID](l.All(PartObject))}
		a.For = l.Remains("for")
		if before, after, ok := cutWord(a.For, ", then "); ok {
			a.For, a.Then = before, after
		}
		return a
	},
	Next: func(l *Line, a Action) []string {
		i := a.(*Inspect)
		if i.For == "" && len(i.Parts) > 0 {
			if p := l.x.Part(i.Parts[0]); p != nil && p.If != "" {
				return []string{"for " + p.If}
			}
		}
		return nil
	},
}

// Verb is "inspect".
func (*Inspect) Verb() Verb { return "inspect" }

// Act changes nothing.
func (a *Inspect) Act(*bench.Machine) {}

// Say: "Inspect the water pump for leaks and play; renew if found so".
func (a *Inspect) Say(w *Words) {
	w.verb("Inspect")
	each(w, a.Parts, w.part)
	if a.For != "" {
		w.text("for " + a.For)
	}
	if a.Then != "" {
		w.text(", then " + a.Then)
	}
}
