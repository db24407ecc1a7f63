package step

import (
	"slices"
	"strings"

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
	Verb: "inspect", looks: true, Phrases: []string{"inspect", "look over", "examine", "check"}, Takes: []ObjectKind{PartObject},
	Fields: []Field{
		{Key: "parts", Label: "what", Kind: Things, Of: []ObjectKind{PartObject}}, {Key: "lookFor", Label: "for", Kind: TextIn, Hint: "play, rough running, leaks"},
		{Key: "then", Label: "then", Kind: TextIn, Hint: "renew if found so"},
	},
	Example: "inspect water pump for leaks and play, then renew if found so", Phase: "inspect", Fails: true,
	New: func() Action { return &Inspect{} },
	Read: func(l *Line) Action {
		a := &Inspect{}
		l.Clauses(
			Several(l, &a.Parts, PartObject, loopPart),
			func() bool {
				if a.For != "" || !l.Say("for") {
					return false
				}
				then := func() bool {
					return l.Say(", then") || l.Say(", and then") || l.Say("and then") || l.Say("then") || l.Say("and renew") || l.Say(", renew") || l.Say("renew")
				}
				a.For = l.freeTo(then)
				return a.For != ""
			},
			func() bool {
				if a.Then != "" {
					return false
				}
				if !l.Skip("then") && l.at(l.pos, "renew") == 0 && l.at(l.pos, "replace") == 0 {
					return false
				}
				if l.renews() {
					return false
				}
				a.Then = l.freeTo(nil)
				return a.Then != ""
			},
		)
		if strings.HasPrefix(l.phrase, "check") && a.For == "" && len(l.left) == 0 {
			l.unread(0)
		}
		return a
	},
	Next: func(x *engine.Index, a Action) []string {
		i := a.(*Inspect)
		if i.For == "" && len(i.Parts) > 0 {
			if p := x.Part(i.Parts[0]); p != nil && p.If != "" {
				return []string{"for " + p.If}
			}
		}
		return nil
	},
}

// renews reports whether what follows is a step of its own that renews
// something, and not what is done if it is found so.
func (l *Line) renews() bool {
	probe := &Line{x: l.x, lex: l.lex, text: l.text, tokens: l.tokens, pos: l.pos, fresh: true}
	if !probe.Say("renew", "replace") {
		return false
	}
	if _, ok := probe.Things(true, PartObject, loopPart, FastenerObject); !ok {
		return false
	}
	return !slices.ContainsFunc(l.tokens[l.pos:], func(t token) bool { return slices.Contains([]string{"if", "when", "where", "as"}, t.word) })
}

// Verb is "inspect".
func (*Inspect) Verb() Verb { return "inspect" }

// Act changes nothing.
func (a *Inspect) Act(m *bench.Machine) {
	for _, id := range a.Parts {
		m.Inspect(id)
	}
}

// Say: "Inspect the water pump for leaks and play; renew if found so".
func (a *Inspect) Say(w *Words) {
	w.verb("Inspect")
	each(w, a.Parts, w.part)
	if a.For != "" {
		w.text("for " + strings.TrimPrefix(a.For, "for "))
	}
	if a.Then != "" {
		w.text(", then " + strings.TrimPrefix(a.Then, "then "))
	}
}
