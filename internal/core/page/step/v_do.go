package step

import (
	"inklatch/internal/core/engine"
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
}

// Verb is "do".
func (*Do) Verb() Verb { return "do" }

// Act changes nothing.
func (a *Do) Act(*virtual.Machine) {}

// Clause is the text as it is.
func (a *Do) Clause(_ *engine.Index) Clause { return clause(a.Verb(), "", words(RoleText, a.Text)) }
