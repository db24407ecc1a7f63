package step

import (
	"slices"
	"strings"

	"inklatch/internal/core/virtual"
)

// Do is free text: an instruction the virtual engine cannot follow.
type Do struct {
	action
	Text string `json:"text,omitzero"`
	// Unread marks a quick line that was not understood.
	Unread bool `json:"unread,omitzero"`
}

var doSpec = &Spec{
	Verb: "do", Phrases: []string{"do"}, looks: true,
	Fields:  []Field{{Key: "text", Label: "text", Kind: TextIn}},
	Example: "do open the workshop door", Phase: "prepare",
	New: func() Action { return &Do{} },
	Read: func(l *Line) Action {
		a := &Do{}
		if l.end() {
			return a
		}
		// "Do" says that what follows is to stay text. "Do not", "do up", "do the same" are no
		// such word: of those nothing is cut off.
		if l.pos != 1 || slices.Contains([]string{"not", "up", "the", "so", "this", "that", "it", "same", "likewise", "again", "all", "both", "each", "them", "these", "those"}, l.tokens[l.pos].word) {
			for !l.end() {
				l.unread(l.pos)
				l.pos++
			}
			return a
		}
		a.Text = strings.TrimSpace(l.text[l.tokens[l.pos].start:])
		l.pos = len(l.tokens)
		l.loose = true
		return a
	},
}

// Verb is "do".
func (*Do) Verb() Verb { return "do" }

// Act changes nothing.
func (a *Do) Act(*virtual.Machine) {}

// Say is the text as it is.
func (a *Do) Say(w *Words) { w.text(a.Text) }
