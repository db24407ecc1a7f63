package step

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// FieldKind tells a screen how to edit a field.
type FieldKind string

// The kinds of field.
const (
	OneThing   FieldKind = "thing"
	Things     FieldKind = "things"
	QuantityIn FieldKind = "quantity"
	NumberIn   FieldKind = "number"
	TextIn     FieldKind = "text"
	ChoiceIn   FieldKind = "choice"
	Tick       FieldKind = "tick"
	StagesIn   FieldKind = "stages"
	// StagesByIn are stages for some engines each.
	StagesByIn FieldKind = "stages by case"
)

// Field is one thing an author fills in for a verb.
type Field struct {
	Key     string        `json:"key"`
	Label   string        `json:"label"`
	Kind    FieldKind     `json:"kind"`
	Of      []engine.Kind `json:"of,omitzero"`
	Choices []string      `json:"choices,omitzero"`
	Hint    string        `json:"hint,omitzero"`
	// Unit is what a bare number means here, empty where it has to be said.
	Unit unit.Unit `json:"unit,omitzero"`
	// Beside is set for things that a step names beside what it works at: without
	// them it still says something.
	Beside bool `json:"beside,omitzero"`
	// With is another value of the step without which this one says nothing; the value
	// itself where it is asked for only once a line has said it.
	With string `json:"with,omitzero"`
}

// Spec is all there is to know about a verb but its effect and wording.
type Spec struct {
	Verb Verb `json:"verb"`
	// Phrases open a quick line; the first is the one a page prints.
	Phrases []string `json:"phrases"`
	// Takes are the kinds of thing that may follow the phrase.
	Takes []engine.Kind `json:"takes,omitzero"`
	// Fields are what an author fills in.
	Fields []Field `json:"fields"`
	// Example is a whole quick line.
	Example string `json:"example"`
	// Phase is where such a step usually stands.
	Phase Phase `json:"phase"`

	// Fails is set for a verb that can come out otherwise: what is tried may not go
	// in, what is looked at may stand away.
	Fails bool `json:"fails,omitzero"`

	// What the verb does, so that rules, latches and screens ask it and not its name.
	// Turns: it turns a shaft. Runs: the engine runs by itself. Holds: it puts in or
	// takes out what holds one. Opens, Closes: it takes things off, or puts them back.
	// Bolts: it works at fasteners. Tensions: it moves a tensioner. One that does none
	// of it and changes nothing looks.
	Turns    bool `json:"turns,omitzero"`
	Runs     bool `json:"runs,omitzero"`
	Holds    bool `json:"holds,omitzero"`
	Opens    bool `json:"opens,omitzero"`
	Closes   bool `json:"closes,omitzero"`
	Bolts    bool `json:"bolts,omitzero"`
	Tensions bool `json:"tensions,omitzero"`
	// Lays: it lays belts and chains, or takes them off.
	Lays bool `json:"lays,omitzero"`

	// Bare is set for a verb that says enough with nothing filled in.
	Bare bool `json:"-"`

	// looks marks verbs that change nothing on the engine.
	looks bool

	// New makes an empty action.
	New func() Action `json:"-"`
}

// Specs lists the verbs in the order a page meets them.
var Specs = []*Spec{
	freeSpec,
	cleanSpec,
	removeSpec, refitSpec, renewSpec, turnSpec, lockSpec, unlockSpec, slackenSpec, tightenSpec,
	takeOffSpec, fitSpec, pinSpec, releaseSpec, setSpec, settleSpec, waitSpec, measureSpec,
	checkSpec, applySpec, inspectSpec, paintSpec, swingSpec, drainSpec, fillSpec, resetSpec, startSpec, doSpec,
}

var registry = func() map[Verb]*Spec {
	m := make(map[Verb]*Spec, len(Specs))
	for _, s := range Specs {
		m[s.Verb] = s
	}
	return m
}()

// Bench reports whether a change of such a step is one for the bench: it locks,
// turns, tightens or tensions.
func (s *Spec) Bench() bool { return s.Holds || s.Bolts || s.Tensions || s.Turns && !s.Runs }

// Phrased is the verb that a phrase opens, the first of several; nil for none.
func Phrased(phrase string) *Spec {
	for _, s := range Specs {
		for _, p := range s.Phrases {
			if p == phrase {
				return s
			}
		}
	}
	return nil
}

// Works reports whether such a step opens, closes, holds, tightens or tensions
// something.
func (s *Spec) Works() bool { return s.Opens || s.Closes || s.Holds || s.Bolts || s.Tensions }

// Looks reports whether the verb changes nothing on the engine.
func (s *Spec) Looks() bool { return s.looks }

// SpecOf is the spec of a verb, nil for none.
func SpecOf(v Verb) *Spec { return registry[v] }

// Weighs reports whether such a step locks, turns, lays, tightens or tensions
// something, or starts the engine: words put beside it can send a hand wrong.
func (s *Spec) Weighs() bool { return s.Bench() || s.Turns || s.Runs || s.Lays }

// Kinds are the kinds of thing a verb can speak of.
func (s *Spec) Kinds() []engine.Kind {
	out := slices.Clone(s.Takes)
	for _, f := range s.Fields {
		for _, k := range f.Of {
			if !slices.Contains(out, k) {
				out = append(out, k)
			}
		}
	}
	return out
}
