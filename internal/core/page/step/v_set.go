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
	// Goal is what it is brought to, where that is no place or value of the sheet.
	Goal SetGoal `json:"goal,omitzero"`
	// To says where: "pointer to the notch". Beside a goal it is the goal in the author's
	// words.
	To string `json:"to,omitzero"`
	// Way is the sense the eccentric is turned.
	Way engine.Way `json:"way,omitzero"`
	// OtherEnd has the way said as it is seen from the other end; Way stays as it is.
	OtherEnd bool `json:"otherEnd,omitzero"`
	// At is the ambient temperature the setting holds for, a length or a note.
	At unit.Quantity `json:"at,omitzero"`
}

// SetGoal is an end of a tensioner's or phaser's travel.
type SetGoal string

// The goals. A tensioner has a stop, which is no setting yet, and a zero, where it leaves
// its loop slack; a phaser has two stops.
const (
	GoalPlace    SetGoal = ""
	GoalStop     SetGoal = "stop"
	GoalZero     SetGoal = "zero"
	GoalRetarded SetGoal = "retarded stop"
	GoalAdvanced SetGoal = "advanced stop"
)

// goalWords are the words that name each goal.
var goalWords = []struct {
	goal  SetGoal
	words []string
}{
	{GoalRetarded, []string{"retard", "retarded", "late", "latest"}},
	{GoalAdvanced, []string{"advance", "advanced", "early", "earliest"}},
	{GoalStop, []string{"stop", "stops"}},
	{GoalZero, []string{"zero", "rest"}},
}

// GoalIn is the goal that words name; whole reports that they say nothing else.
func GoalIn(words string) (goal SetGoal, whole bool) {
	whole = true
	for _, w := range strings.FieldsFunc(strings.ToLower(words), func(r rune) bool { return !unicode.IsLetter(r) }) {
		named := GoalPlace
		for _, g := range goalWords {
			if slices.Contains(g.words, w) {
				named = g.goal
			}
		}
		switch {
		case named == GoalPlace:
			whole = whole && slices.Contains([]string{"its", "the", "home", "end", "position", "against", "onto", "full", "point"}, w)
		case goal == GoalPlace || goal == GoalStop:
			goal = named
		case named != goal && named != GoalStop:
			whole = false
		}
	}
	return goal, whole && goal != GoalPlace
}

// Understand takes the end of travel, or the place of the sheet, out of the words: "its
// stop" is the goal, "until the pointer stands in the notch" the place as the sheet has it.
// Words that say more stay.
func (a *Set) Understand(x *engine.Index) {
	if goal, whole := a.Reaches(); goal != GoalPlace {
		a.Goal = goal
		if whole {
			a.To = ""
		}
		return
	}
	if where, ok := strings.CutPrefix(strings.ToLower(a.To), "until the pointer stands "); ok {
		a.To = "pointer " + where
	}
	t := x.Tensioner(a.Tensioner)
	if t == nil || len(a.Also) > 0 {
		return
	}
	if place, ok := t.PlaceNamed(a.To); ok {
		a.To = place
	}
}

// Reaches is the end of travel it is brought to: its goal, or what the words name in a file
// of before there were goals. whole reports that they say nothing else.
func (a *Set) Reaches() (goal SetGoal, whole bool) {
	if a.Goal != GoalPlace || a.To == "" {
		return a.Goal, a.To == ""
	}
	goal, whole = GoalIn(a.To)
	if (goal == GoalRetarded || goal == GoalAdvanced) && a.Phaser == "" || goal == GoalZero && a.Phaser != "" {
		return GoalPlace, false
	}
	return goal, whole
}

// All are the tensioners that are set.
func (a *Set) All() []engine.TensionerID { return both(a.Tensioner, a.Also) }

var setSpec = &Spec{
	Verb: "set", Phrases: []string{"set", "adjust", "bring", "turn", "tension"}, Takes: []engine.Kind{engine.KindTensioner, engine.KindWheel},
	Fields: []Field{
		{Key: "tensioner", Label: "tensioner", Kind: OneThing, Of: []engine.Kind{engine.KindTensioner}},
		{Key: "also", Label: "and", Kind: Things, Of: []engine.Kind{engine.KindTensioner}},
		{Key: "phaser", Label: "phaser", Kind: OneThing, Of: []engine.Kind{engine.KindWheel}},
		{Key: "goal", Label: "to its", Kind: ChoiceIn, Choices: []string{string(GoalPlace), string(GoalStop), string(GoalZero), string(GoalRetarded), string(GoalAdvanced)}},
		{Key: "to", Label: "to", Kind: TextIn, Hint: "pointer to the notch"},
		{Key: "way", Label: "turning", Kind: ChoiceIn, Choices: []string{"", string(engine.Clockwise), string(engine.Counterclockwise)}},
		{Key: "otherEnd", Label: "said as seen from the other end", Kind: Tick, With: "way"},
		{Key: "at", Label: "at", Kind: QuantityIn, Hint: "20 °C"},
	},
	Example: "set tensioner counterclockwise to pointer in notch at 20 °C", Phase: "tension", Tensions: true,
	New: func() Action { return &Set{} },
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
		m.SetTensioner(id, a.to(GoalStop))
	}
}

// Eases reports whether it takes a tensioner back to its zero, from where it is set again.
func (a *Set) Eases() bool { return a.to(GoalZero) }

func (a *Set) to(goal SetGoal) bool {
	got, _ := a.Reaches()
	return got == goal
}

// Clause: "Turn the tensioner counterclockwise until pointer in notch".
func (a *Set) Clause(x *engine.Index) Clause {
	what := things(RoleWhat, named(engine.KindTensioner, a.All()...))
	if a.Phaser != "" {
		what = things(RolePhaser, named(engine.KindWheel, a.Phaser))
	}
	goal := a.Goal
	if a.To != "" {
		goal = GoalPlace // in the author's words
	}
	return clause(a.Verb(), "", what, saidWay(a.Way, a.OtherEnd), seenFrom(x, a.Way, a.OtherEnd), choice(RoleGoal, goal), words(RolePlace, a.To), figure(RoleAt, a.At))
}
