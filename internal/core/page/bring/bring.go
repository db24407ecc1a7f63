// Package bring makes a procedure of a page that was written elsewhere: of its lines steps,
// cautions, notes and phases, as far as they are understood, and of every line a row that says
// what became of it. No line is lost, and none is guessed.
package bring

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// Kind is what a line was on its page.
type Kind string

// The kinds.
const (
	// Heading is a title of Level, 1 the highest.
	Heading Kind = "heading"
	// Item is a numbered or bulleted line; Level is how deep it lies in lists, from 1.
	Item Kind = "item"
	// Paragraph is a line of text that stands in no list.
	Paragraph Kind = "paragraph"
	// Caution warns of what stands behind it, Note adds to what stands before it.
	Caution Kind = "caution"
	Note    Kind = "note"
	// Cells is a row of a table.
	Cells Kind = "row"
	// Picture is a place at which one stood; Text says what is known of it.
	Picture Kind = "picture"
	// Furniture is what a page repeats: its number, head and foot.
	Furniture Kind = "furniture"
)

// Choices are the kinds of line.
func (Kind) Choices() []string {
	return []string{string(Heading), string(Item), string(Paragraph), string(Caution), string(Note), string(Cells), string(Picture), string(Furniture)}
}

// Line is one line of an old page.
type Line struct {
	Kind  Kind     `json:"kind"`
	Level int      `json:"level,omitzero"`
	Text  string   `json:"text"`
	Cells []string `json:"cells,omitempty"`
}

// Outcome is what became of a line.
type Outcome string

// The outcomes.
const (
	// Read is a step, Apart several of one line.
	Read  Outcome = "read"
	Apart Outcome = "taken apart"
	// Asked is a step of free text of which it is asked what was meant; Text one that was not
	// understood.
	Asked Outcome = "asked"
	Text  Outcome = "text"
	// Beside is a caution before a step, or a note at one.
	Beside Outcome = "beside a step"
	// Titled is a heading that is a phase, or the title.
	Titled Outcome = "heading"
	// Agrees is a value that the engine sheet has too, Differs one that it has otherwise.
	Agrees  Outcome = "agrees"
	Differs Outcome = "differs"
	// Left was not taken: it stands in the report only.
	Left Outcome = "left"
)

// Choices are the outcomes.
func (Outcome) Choices() []string {
	return []string{string(Read), string(Apart), string(Asked), string(Text), string(Beside), string(Titled), string(Agrees), string(Differs), string(Left)}
}

// Row is a line with what became of it.
type Row struct {
	Line
	Outcome Outcome `json:"outcome"`
	// Says is the sentence that it reads as, or why it does not.
	Says string `json:"says"`
	// Choices are lines that read and were probably meant.
	Choices []string `json:"choices,omitempty"`
	// Steps are the steps it stands in.
	Steps []step.ID `json:"steps,omitempty"`
	parts []string
}

// Parts are the lines that its steps read: the line itself, or those it was taken apart into.
func (r *Row) Parts() []string {
	if r.parts != nil {
		return r.parts
	}
	return []string{r.Text}
}

// Brought is what became of an old page.
type Brought struct {
	Procedure *procedure.Procedure
	// Rows are its lines, each with what became of it, in their order.
	Rows []Row
}

// Count is how many rows have an outcome.
func (b *Brought) Count(of Outcome) int {
	n := 0
	for i := range b.Rows {
		if b.Rows[i].Outcome == of {
			n++
		}
	}
	return n
}

// Page makes a procedure of the lines of a page for the engine of a lexicon.
func Page(x *engine.Index, lex *quickline.Lexicon, lines []Line) *Brought {
	b := &bringing{x: x, lex: lex, items: slices.ContainsFunc(lines, func(l Line) bool { return l.Kind == Item })}
	b.out.Procedure = &procedure.Procedure{Header: procedure.Header{Engine: x.Sheet.Code}}
	for i := range lines {
		b.rows = append(b.rows, Row{Line: lines[i]})
	}
	for i := range b.rows {
		b.at = i
		b.line(&b.rows[i])
	}
	for _, i := range b.pending {
		b.rows[i].Outcome, b.rows[i].Says = Left, "There is no step behind it that it warns of."
	}
	b.out.Rows = b.rows
	if b.out.Procedure.Title == "" {
		b.out.Procedure.Title = "Brought page"
	}
	return &b.out
}

// bringing is a page that is being brought.
type bringing struct {
	x    *engine.Index
	lex  *quickline.Lexicon
	out  Brought
	rows []Row
	// items is set where the page has lists: what stands in none is prose then.
	items bool
	// here is the phase of the last step, under that of the heading it stands under, empty for
	// none.
	here, under step.Phase
	// pending are the cautions that wait for their step, by their rows.
	pending []int
	at      int // the row that is being read
	// head are the cells of the head of the table, none outside one.
	head []string
}

func (b *bringing) line(r *Row) {
	if r.Kind != Cells {
		b.head = nil
	}
	switch r.Kind {
	case Heading:
		b.heading(r)
	case Caution:
		b.pending = append(b.pending, b.at)
		r.Outcome, r.Says = Beside, "A caution before the next step."
	case Note:
		b.note(r)
	case Cells:
		b.cells(r)
	case Picture:
		r.Outcome, r.Says = Left, "Pictures stay with the old page; the sheet draws the engine itself."
	case Furniture:
		r.Outcome, r.Says = Left, "It is what the paper repeats."
	case Item:
		b.instruction(r)
	default:
		b.prose(r)
	}
}

// heading is the title of the page, or of a phase.
func (b *bringing) heading(r *Row) {
	phase := PhaseOf(r.Text)
	if phase == "strip" && step.PhaseAfter(b.here, phase) != phase && step.PhaseAfter(b.here, "take-off") == "take-off" {
		phase = "take-off" // a removal that comes behind the locking is that of the drive
	}
	p := b.out.Procedure
	if r.Level > 1 && !b.overItems() && b.instructs(r.Text) {
		b.instruction(r) // its steps are set as headings
		return
	}
	r.Outcome = Titled
	switch {
	case p.Title == "" && len(p.Steps) == 0 && (r.Level <= 1 || phase == ""):
		p.Title = r.Text
		r.Says = "The title of the page."
	case phase != "" && step.PhaseAfter(b.here, phase) != phase:
		b.under = ""
		r.Outcome, r.Says = Left, "The phase "+phase.Name()+" comes earlier in the work: the steps behind it stand where their verbs stand."
	case phase != "":
		b.under = phase
		r.Says = "The phase " + phase.Name() + "."
	default:
		b.under = ""
		r.Outcome, r.Says = Left, "No phase is called that: the steps behind it stand where their verbs stand."
	}
}

// overItems reports whether a line of a list stands under the heading that is being read.
func (b *bringing) overItems() bool {
	for i := b.at + 1; i < len(b.rows) && b.rows[i].Kind != Heading; i++ {
		if b.rows[i].Kind == Item {
			return true
		}
	}
	return false
}

// note adds to the step before it.
func (b *bringing) note(r *Row) {
	p := b.out.Procedure
	if len(p.Steps) == 0 {
		r.Outcome, r.Says = Left, "There is no step before it."
		return
	}
	s := &p.Steps[len(p.Steps)-1]
	s.Note = strings.TrimSpace(s.Note + " " + r.Text)
	r.Outcome, r.Says, r.Steps = Beside, "A note at the step before it.", []step.ID{s.ID}
}

// prose is a line that stands in no list. On a page with lists it is a step only where it gives
// an instruction.
func (b *bringing) prose(r *Row) {
	if b.instructs(r.Text) {
		b.instruction(r)
		return
	}
	r.Outcome, r.Says = Left, "It gives no instruction."
}

// instructs reports whether a line that stands in no list is an instruction.
func (b *bringing) instructs(text string) bool {
	read := quickline.Read(b.lex, text)
	return read.Read() && read.Aside == "" && !isFree(&read) || quickline.Instructs(text) || !b.items && read.Parts != nil
}

func isFree(r *quickline.Reading) bool {
	_, free := r.Action.(*step.Do)
	return free
}

// instruction is a line that becomes a step, or several.
func (b *bringing) instruction(r *Row) {
	read := quickline.Read(b.lex, r.Parts()[0])
	switch {
	case read.Aside == quickline.CautionAside:
		r.Kind = Caution
		b.line(r)
		return
	case read.Aside == quickline.NoteAside:
		r.Kind = Note
		b.line(r)
		return
	case read.Parts != nil && len(read.Choices) == 0:
		r.Outcome, r.parts = Apart, read.Parts
		var says []string
		for _, part := range read.Parts {
			one := quickline.Read(b.lex, part)
			says = append(says, one.Sentence(b.x))
			b.step(r, &one)
		}
		r.Says = strings.Join(says, " ")
		return
	case read.Read() && isFree(&read):
		r.Outcome, r.Says = Text, "It is kept as it stands: it forbids something, or says what nobody does."
	case read.Read():
		r.Outcome, r.Says = Read, read.Sentence(b.x)
	case len(read.Choices) > 0:
		r.Outcome, r.Says, r.Choices = Asked, sentence(read.Problem), read.Choices
	default:
		r.Outcome, r.Says = Text, sentence(read.Problem)
	}
	b.step(r, &read)
}

// step adds a step, with the cautions that wait for one.
func (b *bringing) step(r *Row, read *quickline.Reading) {
	p := b.out.Procedure
	b.here = step.PhaseAfter(b.here, read.Phase)
	if b.under != "" {
		b.here = b.under
	}
	s := read.Step(step.ID(fmt.Sprintf("b%03d", len(p.Steps)+1)), b.here)
	for _, i := range b.pending {
		s.Cautions = append(s.Cautions, step.Caution{Text: b.rows[i].Text})
		b.rows[i].Steps = []step.ID{s.ID}
	}
	b.pending = nil
	p.Steps = append(p.Steps, s)
	r.Steps = append(r.Steps, s.ID)
}

func sentence(problem string) string {
	if problem == "" {
		return ""
	}
	return message.Capital(problem) + "."
}

// phases are what headings call the phases of the work, by the words in them; the first that is
// found counts. Common practice, no source.
var phases = []struct {
	words []string
	phase step.Phase
}{
	{[]string{"prepar", "before you", "preliminar", "precaution"}, "prepare"},
	{[]string{"lock", "pinning", "fixing the"}, "lock"},
	{[]string{"relieve", "reliev", "slacken", "detension", "release the tension"}, "relieve"},
	{[]string{"tension", "adjust"}, "tension"},
	{[]string{"take off", "taking off"}, "take-off"},
	{[]string{"remov", "dismantl", "disassembl", "strip", "access"}, "strip"},
	{[]string{"inspect", "clean"}, "inspect"},
	{[]string{"check", "verif", "prov", "rotat", "turning"}, "prove"},
	{[]string{"timing position", "timing point", "position", "top dead centre", "top dead center", "tdc", "find", "bringing the engine"}, "find"},
	{[]string{"tighten", "torqu", "clamp"}, "tighten"},
	{[]string{"close", "closing", "complet", "final", "reassembl", "refit the cover", "finish"}, "close"},
	{[]string{"fit", "install", "laying", "assembl"}, "fit"},
}

// What a heading calls the drive itself, and what has a belt of its own or lies over it.
var (
	drives = regexp.MustCompile(`\b(?:belt|chain)s?\b`)
	others = regexp.MustCompile(`\b(?:accessory|auxiliary|ancillary|alternator|fan|v-belt|poly|cover)`)
)

// PhaseOf is the phase that a heading calls by its name or by what the trade calls it, empty where
// it is none.
func PhaseOf(heading string) step.Phase {
	said := strings.ToLower(strings.TrimSpace(heading))
	for _, p := range step.Phases {
		if strings.EqualFold(p.Name, said) {
			return p.Phase
		}
	}
	if strings.Contains(said, "remov") && drives.MatchString(said) && !others.MatchString(said) {
		return "take-off"
	}
	for _, p := range phases {
		for _, w := range p.words {
			if at := strings.Index(said, w); at == 0 || at > 0 && said[at-1] == ' ' {
				return p.phase
			}
		}
	}
	return ""
}
