package step

import (
	"slices"
	"strings"
	"unicode"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Measure takes a reading and says what passes.
type Measure struct {
	action
	What string `json:"what,omitzero"`
	// Reading is the reading of the sheet that is taken, in place of What.
	Reading engine.ReadingID `json:"reading,omitzero"`
	// Value is the figure to find, with its tolerance.
	Value    unit.Quantity `json:"value,omitzero"`
	Readings int           `json:"readings,omitzero"`
	// Loop is the belt or chain it is read on, Place where on the engine.
	Loop  engine.LoopID `json:"loop,omitzero"`
	Place string        `json:"place,omitzero"`
	// Within is how far the readings may lie apart.
	Within unit.Quantity `json:"within,omitzero"`
}

var measureSpec = &Spec{
	Verb: "measure", looks: true, Phrases: []string{"measure", "read", "gauge"},
	Fields: []Field{
		{Key: "reading", Label: "reading", Kind: OneThing, Of: []engine.Kind{engine.KindReading}}, {Key: "what", Label: "what", Kind: TextIn, Hint: "frequency of the longest free run"},
		{Key: "value", Label: "passes at", Kind: QuantityIn, Hint: "116 ±8 Hz"}, {Key: "readings", Label: "readings", Kind: NumberIn},
		{Key: "within", Label: "readings within", Kind: QuantityIn, Hint: "4 Hz"},
		{Key: "loop", Label: "of", Kind: OneThing, Of: []engine.Kind{engine.KindLoop}},
		{Key: "place", Label: "at", Kind: TextIn, Hint: "the longest free run"},
	},
	Example: "measure coolant temperature 20 ±5 °C", Phase: "tension", Fails: true,
	New: func() Action { return &Measure{} },
}

// ofTension are words for what a belt or chain is measured by. Common practice, no source.
var ofTension = []string{"deflection", "twist", "tension", "frequency", "tone"}

// wordIn reports whether a text has one of some words.
func wordIn(text string, words ...string) bool {
	return slices.ContainsFunc(strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) }), func(w string) bool {
		return slices.Contains(words, w)
	})
}

// tensionOf reports whether words speak of the tension of a loop and of nothing else.
func tensionOf(what string, l *engine.Loop) bool {
	if !wordIn(what, ofTension...) {
		return false
	}
	own := append([]string{"the", string(l.Kind)}, ofTension...)
	own = append(own, strings.Fields(strings.ToLower(l.Name))...)
	for w := range strings.FieldsSeq(strings.ToLower(what)) {
		if !slices.Contains(own, w) {
			return false
		}
	}
	return true
}

// OfLoop takes the belt or chain, and the place on it, out of what is measured: the
// note of the balance belt at the longest free run. Where it is measured by what only a belt
// or chain has, and the engine has one, it is that one.
func (a *Measure) OfLoop(x *engine.Index) {
	what := a.What
	defer func() {
		if a.Loop == "" && len(x.Sheet.Loops) == 1 && tensionOf(a.What, &x.Sheet.Loops[0]) {
			a.Loop = x.Sheet.Loops[0].ID
		}
	}()
	for i := range x.Sheet.Loops {
		l := &x.Sheet.Loops[i]
		for _, of := range []string{" of the ", " of "} {
			at := strings.Index(strings.ToLower(what), of+strings.ToLower(l.Name))
			if at <= 0 {
				continue
			}
			rest := what[at+len(of)+len(l.Name):]
			if place, ok := strings.CutPrefix(rest, " at "); ok && place != "" {
				a.What, a.Loop, a.Place = what[:at], l.ID, place
				return
			}
			if rest == "" {
				a.What, a.Loop = what[:at], l.ID
				return
			}
		}
	}
}

// Verb is "measure".
func (*Measure) Verb() Verb { return "measure" }

// Act changes nothing on the engine; the note of a loop is a look at its tension, a
// reading of the sheet at what it tells of.
func (a *Measure) Act(m *virtual.Machine) {
	if a.Reading != "" {
		m.Gauge(a.Reading)
	}
	if a.Loop == "" {
		return
	}
	l := m.Index.Loop(a.Loop)
	if l == nil {
		m.Unknown(string(a.Loop))
		return
	}
	for _, id := range l.Tensioners() {
		m.SeeTensioner(id)
	}
}

func (a *Measure) tools(x *engine.Index) []engine.ToolID {
	if r := x.Reading(a.Reading); r != nil && r.Tool != "" {
		return []engine.ToolID{r.Tool}
	}
	return nil
}

// what is what is measured: a reading of the sheet, or words.
func (a *Measure) what() Part {
	if a.Reading != "" {
		return things(RoleMeets, named(engine.KindReading, a.Reading))
	}
	return words(RoleWhat, a.What)
}

// Clause: "Measure the ambient temperature: 20 ±5 °C".
func (a *Measure) Clause(x *engine.Index) Clause {
	place := a.Place
	if r := x.Reading(a.Reading); r != nil && place == "" {
		place = r.Place
	}
	readings := number(RoleReadings, float64(a.Readings))
	if a.Readings < 2 {
		readings = Part{}
	}
	return clause(a.Verb(), "", a.what(), things(RoleLoops, named(engine.KindLoop, a.Loop)), words(RolePlace, place), readings, figure(RolePasses, a.Value), figure(RoleWithin, a.Within))
}
