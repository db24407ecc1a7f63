// Package finding is the frame of all that is found, in procedures and in engine
// sheets: what a rule is and what it reads, what a finding says of which place, and by
// what it is known again when the page has changed. It knows no rule.
package finding

import (
	"fmt"
	"slices"

	"inklatch/internal/core/message"
)

// Severity is what a finding asks for.
type Severity string

// The severities, the gravest first.
const (
	Blocks    Severity = "blocks"
	ShouldFix Severity = "should-fix"
	Look      Severity = "look"
)

// Choices are the severities, the gravest first.
func (Severity) Choices() []string {
	return []string{string(Blocks), string(ShouldFix), string(Look)}
}

// Rank is 0 for the gravest severity; −1 for a word that is none.
func (s Severity) Rank() int {
	return slices.Index([]Severity{Blocks, ShouldFix, Look}, s)
}

// Reads says what a rule looks at, and with that when it is looked through.
type Reads uint8

const (
	// Run is one run of the page: on every kind of engine, along every way where a step
	// fails. On a sheet, the sheet.
	Run Reads = iota
	// Written is the page as it is written, once, whoever follows it on which engine.
	Written
	// Words are what people wrote themselves, in free text, notes and cautions: nothing
	// on the engine follows from it.
	Words
	// Starts are runs from other positions, made by the rule itself; each costs a run.
	Starts
	// Engines are runs on the other kinds of engine, made with the rules that read a
	// run.
	Engines
)

// Rule is one thing that is looked for in a P: a page or a sheet under proof.
type Rule[P any] struct {
	// ID names the rule in files, in house rules and in what is accepted; it never
	// changes its meaning.
	ID       string
	Family   string
	Severity Severity
	// Doc says what goes wrong on an engine without the rule.
	Doc   string
	Reads Reads
	Check func(P)
}

// Family is rules that are looked through one after another.
type Family[P any] []Rule[P]

// Through calls f for every rule that reads one of these, in order.
func Through[P any](families []Family[P], f func(*Rule[P]), reads ...Reads) {
	for i := range families {
		for k := range families[i] {
			if r := &families[i][k]; slices.Contains(reads, r.Reads) {
				f(r)
			}
		}
	}
}

// ReadBy is what the rule of an id reads; false for none of the families.
func ReadBy[P any](families []Family[P], id string) (Reads, bool) {
	for i := range families {
		for k := range families[i] {
			if families[i][k].ID == id {
				return families[i][k].Reads, true
			}
		}
	}
	return 0, false
}

// Mend is edits that would settle a finding; E is an edit of a page or of a sheet.
type Mend[E any] struct {
	// Label is what it does, in English.
	Label string `json:"label"`
	// Says is the label as an id and what stands in it, for other languages.
	Says  message.Text `json:"-"`
	Edits []E          `json:"edits"`
}

// MendOf is edits with what they do.
func MendOf[E any](says message.Text, edits []E) Mend[E] {
	return Mend[E]{Label: says.String(), Says: says, Edits: edits}
}

// Message is what a finding says and why, as ids and what stands in them, for
// catalogues in other languages.
type Message struct {
	What message.Text `json:"what"`
	Why  message.Text `json:"why"`
}

// Finding is one sentence and its reason. Where it stands is said by what embeds it.
type Finding struct {
	// ID names the finding within one proof: its rule and where it stands.
	ID string `json:"id"`
	// Cause is the ID of the finding it follows from: settled, that one settles this
	// one too. Empty for one that stands by itself.
	Cause    string   `json:"cause,omitzero"`
	Rule     string   `json:"rule"`
	Severity Severity `json:"severity"`
	// What and Why are the message in English.
	What    string   `json:"what"`
	Why     string   `json:"why"`
	Message *Message `json:"message,omitempty"`
}

// New is a finding of a rule with the severity a house gives it; of is the name of
// the rule among a house's severities.
func New[P any](r *Rule[P], house House, of string, what, why message.Text) Finding {
	f := Finding{Rule: r.ID, Severity: r.Severity, What: what.String(), Why: why.String(), Message: &Message{what, why}}
	if s, ok := house.Severities[of]; ok {
		f.Severity = s
	}
	return f
}

// Says puts something before what a finding says.
func (f *Finding) Says(before message.Text) {
	m := *f.Message
	m.What = before.And(m.What.Lower())
	f.Message, f.What = &m, m.What.String()
}

// Subject is what a finding says of which things, wherever it stands: it stays the
// same when steps are added or moved and things are called otherwise.
type Subject string

// Subject is what it is known by.
func (f *Finding) Subject() Subject {
	if f.Message == nil {
		return Subject(f.Rule + " " + f.What)
	}
	return Subject(f.Rule + " " + f.Message.What.Of())
}

// Key tells a finding from every other: its rule and what it says, and where.
type Key struct {
	Subject Subject
	Place   string
}

// Sort puts findings in order, the gravest first, otherwise by place, and names each
// by its rule and its place, the second at one place .2.
func Sort[F any](fs []F, of func(*F) *Finding, at func(*F) int, place func(*F) string) {
	slices.SortStableFunc(fs, func(a, b F) int {
		if x, y := of(&a).Severity, of(&b).Severity; x != y {
			return x.Rank() - y.Rank()
		}
		return at(&a) - at(&b)
	})
	seen := make(map[string]int, len(fs))
	for i := range fs {
		f := of(&fs[i])
		f.ID = f.Rule
		if p := place(&fs[i]); p != "" {
			f.ID += "@" + p
		}
		if seen[f.ID]++; seen[f.ID] > 1 {
			f.ID += fmt.Sprintf(".%d", seen[f.ID])
		}
	}
}
