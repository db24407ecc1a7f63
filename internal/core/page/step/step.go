// Package step holds the verbs of a timing procedure, one file each: what an
// author fills in, what it does to the virtual engine, and how it reads. The verb is
// data; the sentence is made from it.
package step

import (
	"errors"
	"fmt"
	"reflect"
	"slices"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// ID names a step for as long as its procedure lives; it never changes when the
// step moves.
type ID string

// Verb names what a step does.
type Verb string

// Phase groups steps in the order the work goes.
type Phase string

// Phases lists the phases in the order of the work with their headings.
var Phases = []struct {
	Phase Phase
	Name  string
}{
	{"prepare", "Prepare"}, {"strip", "Strip"}, {"find", "Find position"}, {"lock", "Lock"}, {"relieve", "Relieve"},
	{"take-off", "Take off"}, {"inspect", "Inspect"}, {"fit", "Fit"}, {"tension", "Tension"}, {"tighten", "Tighten"},
	{"prove", "Prove"}, {"close", "Close"},
}

// Name is the heading of a phase, empty for one that is none.
func (p Phase) Name() string {
	for _, q := range Phases {
		if q.Phase == p {
			return q.Name
		}
	}
	return ""
}

// Known reports whether p is one of Phases.
func (p Phase) Known() bool {
	for _, q := range Phases {
		if q.Phase == p {
			return true
		}
	}
	return false
}

// PhaseAfter is the phase of a step written after one in phase here: it stays in
// that phase unless its usual one lies further on. Free text always stays.
func PhaseAfter(here, usual Phase) Phase {
	at := func(p Phase) int {
		return slices.IndexFunc(Phases, func(q struct {
			Phase Phase
			Name  string
		}) bool {
			return q.Phase == p
		})
	}
	if at(usual) > at(here) {
		return usual
	}
	if here == "" {
		return Phases[0].Phase
	}
	return here
}

// Action is the typed content of a step: one of the verbs of this package.
type Action interface {
	// Verb is the registered name.
	Verb() Verb
	// Act does to the virtual engine what the step asks a technician to do.
	Act(m *virtual.Machine)
	// Clause is what the step says, apart from any language.
	Clause(x *engine.Index) Clause
	sealed()
}

type action struct{}

func (action) sealed() {}

// Optional things an action can tell about itself.
type (
	holder interface{ hold() engine.LockID }
	tooler interface {
		tools(*engine.Index) []engine.ToolID
	}
	hazarder interface {
		hazards(*engine.Index) []engine.Hazard
	}
)

// Caution warns before a step.
type Caution struct {
	Hazard engine.Hazard `json:"hazard,omitzero"`
	Text   string        `json:"text"`
}

// Acceptance keeps a finding on a step, with the reason. It falls away when the
// step changes.
type Acceptance struct {
	Rule   string `json:"rule"`
	Reason string `json:"reason"`
}

// Step is one numbered step of a procedure.
type Step struct {
	ID       ID
	Phase    Phase
	Action   Action
	Wording  string
	Note     string
	Cautions []Caution
	Tools    []engine.ToolID
	Accept   []Acceptance
	// When says for which engines of the code the step is done; empty for all.
	When engine.When
	// IfNot is set for a step that is done only when the one above does not come
	// out: the nearest above it that is always done.
	IfNot bool
	// Picture says whether the printed sheet draws the engine at the step; empty
	// leaves it to the step.
	Picture Picture
	// Pair is the mistake, by the name the drill has for it, that the printed sheet shows
	// beside the step: how it looks as it should, and how with that mistake; empty for none.
	Pair string
	// Again says where to go on once the steps for its failing are done; nil to go
	// on with the next step.
	Again *Again
}

// Picture is an author's choice about the drawing of the engine beside a step.
type Picture string

// The choices: a drawing where a lock goes in, a loop is laid or left slack, or a
// mark is read is the usual; always and never say otherwise.
const (
	UsualPicture  Picture = ""
	AlwaysPicture Picture = "always"
	NeverPicture  Picture = "never"
)

// Choices are the pictures a step may ask for.
func (Picture) Choices() []string { return []string{string(AlwaysPicture), string(NeverPicture)} }

// Again leads back from the steps that are done when a step fails.
type Again struct {
	// From is the step to go on from; empty for the one that failed.
	From ID `json:"from,omitzero"`
	// Times is how often at most, 1 to MostTimes; 0 stands for once.
	Times int `json:"times,omitzero"`
}

// MostTimes bounds how often a page may send its reader back.
const MostTimes = 9

// Most is how often a step may fail and be tried again, 1 or more.
func (s *Step) Most() int {
	if s.Again == nil {
		return 1
	}
	return min(max(s.Again.Times, 1), MostTimes)
}

// CanFail reports whether the step's verb can come out otherwise, so that other
// steps may say what is to be done then.
func (s *Step) CanFail() bool {
	spec := SpecOf(s.Action.Verb())
	return spec != nil && spec.Fails
}

// envelope is a step's JSON: the fields every step has beside its verb's own.
type envelope struct {
	ID       ID              `json:"id"`
	Phase    Phase           `json:"phase"`
	Verb     Verb            `json:"verb"`
	Wording  string          `json:"wording,omitzero"`
	Note     string          `json:"note,omitzero"`
	Cautions []Caution       `json:"cautions,omitempty"`
	Tools    []engine.ToolID `json:"tools,omitempty"`
	Accept   []Acceptance    `json:"accept,omitempty"`
	When     engine.When     `json:"when,omitzero"`
	IfNot    bool            `json:"ifNot,omitzero"`
	Again    *Again          `json:"again,omitempty"`
	Picture  Picture         `json:"picture,omitzero"`
	Pair     string          `json:"pair,omitzero"`
	Rest     jsontext.Value  `json:",embed"`
}

// Common is the type that holds the fields every step has in JSON beside those
// of its verb.
func Common() reflect.Type { return reflect.TypeFor[envelope]() }

// MarshalJSONTo writes the step as one flat object.
func (s Step) MarshalJSONTo(enc *jsontext.Encoder) error {
	if s.Action == nil {
		return errors.New("a step without a verb")
	}
	rest, err := json.Marshal(s.Action)
	if err != nil {
		return err
	}
	return json.MarshalEncode(enc, envelope{s.ID, s.Phase, s.Action.Verb(), s.Wording, s.Note, s.Cautions, s.Tools, s.Accept, s.When, s.IfNot, s.Again, s.Picture, s.Pair, rest})
}

// UnmarshalJSONFrom reads a step and refuses verbs and fields it does not know.
func (s *Step) UnmarshalJSONFrom(dec *jsontext.Decoder) error {
	var e envelope
	raw, err := dec.ReadValue()
	if err != nil {
		return err
	}
	here := dec.StackPointer()
	if err := json.Unmarshal(raw, &e); err != nil {
		return within(here, err)
	}
	spec, ok := registry[e.Verb]
	if !ok {
		return within(here+"/verb", fmt.Errorf("there is no verb %q", e.Verb))
	}
	if e.ID == "" {
		return within(here+"/id", errors.New("every step needs an id"))
	}
	if !e.Phase.Known() {
		return within(here+"/phase", fmt.Errorf("there is no phase %q", e.Phase))
	}
	a := spec.New()
	if len(e.Rest) > 0 {
		if err := json.Unmarshal(e.Rest, a, json.RejectUnknownMembers(true)); err != nil {
			return within(here, err)
		}
	}
	*s = Step{ID: e.ID, Phase: e.Phase, Action: a, Wording: e.Wording, Note: e.Note, Cautions: e.Cautions, Tools: e.Tools, Accept: e.Accept, When: e.When, IfNot: e.IfNot, Picture: e.Picture, Pair: e.Pair, Again: e.Again}
	return nil
}

// MarshalJSON and UnmarshalJSON serve readers that know only encoding/json.

// MarshalJSON is MarshalJSONTo.
func (s Step) MarshalJSON() ([]byte, error) { return json.Marshal(s) }

// UnmarshalJSON is UnmarshalJSONFrom.
func (s *Step) UnmarshalJSON(b []byte) error { return json.Unmarshal(b, s) }

// within places an error of a nested value in the document around it.
func within(here jsontext.Pointer, err error) error {
	place := here
	var se *json.SemanticError
	if errors.As(err, &se) {
		place += se.JSONPointer
		if se.Err != nil {
			err = se.Err
		} else {
			err = fmt.Errorf("a %s cannot stand here", se.JSONKind)
		}
	}
	return &Misplaced{Pointer: place, Err: err}
}

// Misplaced is an error in a step with its place in the whole document.
type Misplaced struct {
	Pointer jsontext.Pointer
	Err     error
}

// Error is the place as a JSON pointer and the reason.
func (e *Misplaced) Error() string { return string(e.Pointer) + ": " + e.Err.Error() }

// Unwrap is the reason alone.
func (e *Misplaced) Unwrap() error { return e.Err }

// HoldsWith is the lock or holder a step uses within itself, "" for none.
func (s *Step) HoldsWith() engine.LockID {
	if h, ok := s.Action.(holder); ok {
		return h.hold()
	}
	return ""
}

// ToolsUsed are the special tools a step needs: its verb's and those it names.
func (s *Step) ToolsUsed(x *engine.Index) []engine.ToolID {
	if t, ok := s.Action.(tooler); ok {
		if used := t.tools(x); len(used) > 0 {
			return append(used, s.Tools...)
		}
	}
	return s.Tools
}

// Hazards are the dangers a step carries on this engine.
func (s *Step) Hazards(x *engine.Index) []engine.Hazard {
	if h, ok := s.Action.(hazarder); ok {
		return h.hazards(x)
	}
	return nil
}

// Reads are the marks a step reads, or brings to their pointers.
func (s *Step) Reads() []engine.MarkID {
	switch a := s.Action.(type) {
	case interface{ Marks() []engine.MarkID }:
		return a.Marks()
	case interface {
		Proves() ([]engine.LockID, []engine.MarkID)
	}:
		_, marks := a.Proves()
		return marks
	}
	return nil
}

// Warns reports whether the step has a caution for a hazard.
func (s *Step) Warns(h engine.Hazard) bool {
	for _, c := range s.Cautions {
		if c.Hazard == h {
			return true
		}
	}
	return false
}

// lockTool is the tool of a lock point, as a list of none or one.
func lockTool(x *engine.Index, id engine.LockID) []engine.ToolID {
	if l := x.Lock(id); l != nil && l.Tool != "" {
		return []engine.ToolID{l.Tool}
	}
	return nil
}

// cautionTexts are the house's sentences for each hazard: common practice, no
// source.
var cautionTexts = map[engine.Hazard]string{
	engine.HazardBattery:   "The engine can crank or start by itself. Keep the battery disconnected until the last step.",
	engine.HazardSupport:   "The engine is no longer carried by its mount. Support it from below before you go on.",
	engine.HazardHot:       "Coolant and parts can be hot. Let the engine cool.",
	engine.HazardSpring:    "Stored spring force. Keep fingers clear of the arm and let it move slowly.",
	engine.HazardTaper:     "The sprocket can leave its taper with a bang. Keep the holder on until the bolt is loose.",
	engine.HazardBreaker:   "A breaker bar can slip. Pull towards you, with the holder braced.",
	engine.HazardHands:     "Keep hands out of the drive while the crank is turned.",
	engine.HazardLeftHand:  "Left-hand thread: it slackens clockwise.",
	engine.HazardLocksOut:  "Count the locks out before the engine is turned. One left in breaks the pin or the block.",
	engine.HazardSealant:   "Sealant irritates skin and eyes. Wear gloves and air the room.",
	engine.HazardFirstTime: "The engine runs with parts of the drive within reach. Keep hands, hair and cloth clear.",
}

// CautionFor is the house's caution for a hazard.
func CautionFor(h engine.Hazard) Caution { return Caution{h, cautionTexts[h]} }

// SameAction reports whether two actions say the same, field by field.
func SameAction(a, b Action) bool { return reflect.DeepEqual(a, b) }

// Tools are the tools that a doing needs by what the sheet has of its things.
func Tools(x *engine.Index, a Action) []engine.ToolID {
	if t, ok := a.(tooler); ok {
		return t.tools(x)
	}
	return nil
}
