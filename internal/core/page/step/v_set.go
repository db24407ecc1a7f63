package step

import (
	"slices"
	"strings"
	"unicode"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Set brings a tensioner to its pointer, gauge, note or length, or a phaser to
// its home stop.
type Set struct {
	action
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
	// Also are more that are set in the same way.
	Also []engine.TensionerID `json:"also,omitempty"`
	// Phaser is the wheel, where it is a phaser that is set.
	Phaser engine.WheelID `json:"phaser,omitzero"`
	// To says where: "pointer to the notch".
	To string `json:"to,omitzero"`
	// Way is the sense the eccentric is turned.
	Way engine.Way `json:"way,omitzero"`
	// OtherEnd has the way said as it is seen from the other end; Way stays as it is.
	OtherEnd bool `json:"otherEnd,omitzero"`
	// At is the ambient temperature the setting holds for, a length or a note.
	At unit.Quantity `json:"at,omitzero"`
}

// All are the tensioners that are set.
func (a *Set) All() []engine.TensionerID { return both(a.Tensioner, a.Also) }

var setSpec = &Spec{
	Verb: "set", Phrases: []string{"set", "adjust", "bring", "turn", "tension"}, Takes: []engine.Kind{engine.KindTensioner, engine.KindWheel},
	Fields: []Field{
		{Key: "tensioner", Label: "tensioner", Kind: OneThing, Of: []engine.Kind{engine.KindTensioner}},
		{Key: "also", Label: "and", Kind: Things, Of: []engine.Kind{engine.KindTensioner}},
		{Key: "phaser", Label: "phaser", Kind: OneThing, Of: []engine.Kind{engine.KindWheel}},
		{Key: "to", Label: "to", Kind: TextIn, Hint: "pointer to the notch"},
		{Key: "way", Label: "turning", Kind: ChoiceIn, Choices: []string{"", string(engine.Clockwise), string(engine.Counterclockwise)}},
		{Key: "otherEnd", Label: "said as seen from the other end", Kind: Tick, With: "way"},
		{Key: "at", Label: "at", Kind: QuantityIn, Hint: "20 °C"},
	},
	Example: "set tensioner counterclockwise to pointer in notch at 20 °C", Phase: "tension", Tensions: true,
	New: func() Action { return &Set{} },
}

// wordIn reports whether a text has one of some words.
func wordIn(text string, words ...string) bool {
	return slices.ContainsFunc(strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) }), func(w string) bool {
		return slices.Contains(words, w)
	})
}

// Verb is "set".
func (*Set) Verb() Verb { return "set" }

// Act sets it.
func (a *Set) Act(m *virtual.Machine) {
	if a.Phaser != "" {
		m.SetPhaser(a.Phaser)
		return
	}
	for _, id := range a.All() {
		if a.Eases() {
			m.EaseTensioner(id)
			continue
		}
		m.SetTensioner(id, wordIn(a.To, "stop", "stops"))
	}
}

// Eases reports whether it takes a tensioner back to its zero, from where it is set again.
func (a *Set) Eases() bool { return wordIn(a.To, "zero", "rest") }

// Clause: "Turn the tensioner counterclockwise until pointer in notch".
func (a *Set) Clause(x *engine.Index) Clause {
	what := things(RoleWhat, named(engine.KindTensioner, a.All()...))
	if a.Phaser != "" {
		what = things(RolePhaser, named(engine.KindWheel, a.Phaser))
	}
	return clause(a.Verb(), "", what, saidWay(a.Way, a.OtherEnd), seenFrom(x, a.Way, a.OtherEnd), words(RolePlace, a.To), figure(RoleAt, a.At))
}
