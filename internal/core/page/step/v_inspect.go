package step

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Inspect looks a part over against criteria and says what follows.
type Inspect struct {
	action
	Parts []engine.PartID `json:"parts,omitempty"`
	For   string          `json:"lookFor,omitzero"`
	Then  string          `json:"then,omitzero"`
}

var inspectSpec = &Spec{
	Verb: "inspect", looks: true, Phrases: []string{"inspect", "look over", "examine", "check"}, Takes: []engine.Kind{engine.KindPart},
	Fields: []Field{
		{Key: "parts", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindPart}}, {Key: "lookFor", Label: "for", Kind: TextIn, Hint: "play, rough running, leaks"},
		{Key: "then", Label: "then", Kind: TextIn, Hint: "renew if found so"},
	},
	Example: "inspect water pump for leaks and play, then renew if found so", Phase: "inspect", Fails: true,
	New: func() Action { return &Inspect{} },
	Read: func(l *Line) Action {
		a := &Inspect{}
		l.Clauses(
			Several(l, &a.Parts, engine.KindPart, loopPart),
			func() bool {
				if a.For != "" || !l.Say("for") {
					return false
				}
				a.For = l.Free(func() bool {
					l.Skip(",", "and", "then")
					return l.at(l.pos, "renew") > 0 || l.at(l.pos, "replace") > 0
				})
				return a.For != ""
			},
			func() bool { return a.readThen(l) },
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

// readThen reads what is done with what is found, and nothing but that: "renew it if
// worn". Renewing without a condition is a step of its own.
func (a *Inspect) readThen(l *Line) bool {
	if a.Then != "" {
		return false
	}
	l.Skip("and", "then", ",")
	from := l.pos
	if !l.Say("renew", "replace") {
		return false
	}
	l.Say("it", "them", "both", "the part", "the parts", "it as a set", "them as a set", "them as a pair", "them together")
	if !l.Say("if", "when", "where", "as") {
		return false
	}
	is := l.pos
	for !l.end() && l.pos-is < 6 && !l.tokens[l.pos].mark && l.tokens[l.pos].figure == nil && !slices.Contains(guarded, l.tokens[l.pos].word) && !l.instruction(l.pos) && !l.commands(l.pos) {
		l.pos++
	}
	if l.pos == is {
		return false
	}
	a.Then = strings.ToLower(l.text[l.tokens[from].start:l.tokens[from].end]) + strings.Join(append([]string{""}, strings.Fields(l.text[l.tokens[from].end:l.tokens[l.pos-1].end])...), " ")
	l.loose = true
	return true
}

// Verb is "inspect".
func (*Inspect) Verb() Verb { return "inspect" }

// Act changes nothing.
func (a *Inspect) Act(m *virtual.Machine) {
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
