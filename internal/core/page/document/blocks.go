package document

import (
	"fmt"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/virtual"
)

// Safety is the sentence that stands on every sheet.
const Safety = "This sheet does not replace the maker’s own data, local rules or the judgement of a licensed technician."

// Document is the whole of a printed page, top to bottom, as blocks that say what they
// are: every face of it (screen, print, files) renders these and works nothing out.
type Document struct {
	// Strip is the title strip, which stands on every page.
	Strip  Strip
	Blocks []Block
}

// Block is one thing on the page: one of the types below.
type Block interface{ block() }

// Named is a name with what stands behind it.
type Named struct{ Name, Text string }

// Grade is what a notice asks of its reader.
type Grade string

// The grades, the gravest first.
const (
	// Stop: nobody works by this page.
	Stop Grade = "stop"
	// Care: it is read before anything is done.
	Care Grade = "care"
)

type (
	// Strip is maker, code, procedure, revision and applicability.
	Strip struct{ Fields []Named }
	// Notice is what has to be read.
	Notice struct {
		Grade Grade
		Text  string
	}
	// Heading opens a part; level 1 is the title.
	Heading struct {
		Level int
		Text  string
	}
	// Paragraph is running text; Lead, where there is one, stands before it.
	Paragraph struct{ Lead, Text string }
	// Boxes are things to be ticked before the work begins.
	Boxes struct{ Items []string }
	// Terms are names with what stands behind each.
	Terms struct{ Rows []Named }
	// List is lines of equal rank.
	List struct{ Items []string }
	// Drive is the drawing of the whole drive in a state, with what it shows.
	Drive struct {
		State *virtual.State
		Says  string
	}
	// ToolTable, PartTable and TorqueTable are what is needed, and every value.
	ToolTable   struct{ Rows []Tool }
	PartTable   struct{ Rows []Part }
	TorqueTable struct{ Rows []Torque }
	// Work is one step with its cautions before it; Picture is the engine after it, close
	// up, nil for none.
	Work struct {
		Step
		Picture *Picture
	}
	// Record is what was done to the page, and by whom.
	Record struct{ Rows []Done }
)

// Done is one line of the record of a page: what, by whom or of what, and when or why.
type Done struct{ What, By, When string }

func (Strip) block()       {}
func (Notice) block()      {}
func (Heading) block()     {}
func (Paragraph) block()   {}
func (Boxes) block()       {}
func (Terms) block()       {}
func (List) block()        {}
func (Drive) block()       {}
func (ToolTable) block()   {}
func (PartTable) block()   {}
func (TorqueTable) block() {}
func (Work) block()        {}
func (Record) block()      {}

// FromFile is the state of a page that was read from a file: what it says of itself
// nobody has held against a record.
const FromFile = "from a file"

// Issue is what is known of a page beside what its author wrote: which revision it is,
// how it stands, and what it is signed with. The zero value is a page that nobody has
// released.
type Issue struct {
	// Number is the revision, 0 where it has none; State how it stands, latched for one
	// that is released.
	Number int
	State  string
	// Withdrawn says who took a release back and why; empty for one that holds.
	Withdrawn string
	// Applies says for which engines it is.
	Applies string
	Reason  string
	SHA256  string
	// Anchor is the entry of the record the page can be held against, Signer who signed
	// it.
	Anchor, Signer string
	Latches        []Done
	// Kept are findings that were accepted.
	Kept []Done
	// Rules says under which house rules it was proved; empty for the program's own.
	Rules string
	// Drilled says what came of the mistakes that were made on it.
	Drilled string
	// Since is the last release before it, Changes what is not as it was there.
	Since   int
	Changes []string
}

// Standing says that nobody is to work by the page, and why; empty for a release that
// holds.
func (i *Issue) Standing() string {
	switch {
	case i.Withdrawn != "":
		return i.Withdrawn
	case i.State == "latched":
		return ""
	case i.State == FromFile:
		return "Read from a file: whether it is released, and holds, is not known here."
	case i.State == "superseded":
		return "Superseded: a newer revision is released."
	case i.State == "deleted":
		return "Deleted: this draft is no longer being written."
	case i.State == "on review":
		return "Not released: this revision is on review."
	}
	return "Not released: this revision is still being written."
}

// revision is the revision in the title strip: its number and how it stands.
func (i *Issue) revision() string {
	state := i.State
	switch state {
	case "latched":
		state = "released"
	case "":
		state = "draft"
	}
	if i.Number == 0 {
		return state
	}
	return fmt.Sprintf("%d %s", i.Number, state)
}

// Opens says with what engine a page begins, where that is not a complete one.
func (p *Page) Opens(h *procedure.Header) string {
	return end(p.Begins, h.After, "Goes on from “%s”.")
}

// Closes says how it leaves the engine, where that is not complete.
func (p *Page) Closes(h *procedure.Header) string {
	return end(p.Ends, h.Before, "Goes on in “%s”.")
}

func end(stands, beside, as string) string {
	if stands == "" && beside == "" {
		return ""
	}
	if stands == "" {
		stands = "Everything on and tight"
	}
	out := stands + "."
	if beside != "" {
		out += " " + fmt.Sprintf(as, beside)
	}
	return out
}

// Lay lays a procedure out whole. t is its run; imperial puts the other unit system
// first in the torque table.
func Lay(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, is *Issue, imperial bool) *Document {
	page := Of(x, p)
	if imperial {
		page.Swapped()
	}
	return page.Lay(x, p, t, is)
}

// Lay is Lay with a page that was laid out already.
func (page *Page) Lay(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, is *Issue) *Document {
	applies := is.Applies
	if n := p.Applies.Note; n != "" {
		applies = joined(applies, n)
	}
	d := &Document{Strip: Strip{[]Named{{"Maker", x.Sheet.Maker}, {"Engine code", x.Sheet.Code}, {"Procedure", p.Title}, {"Revision", is.revision()}, {"Applicability", applies}}}}
	add := func(b ...Block) { d.Blocks = append(d.Blocks, b...) }
	add(d.Strip)
	if s := is.Standing(); s != "" {
		add(Notice{Stop, s})
	}
	add(Heading{1, p.Title})
	if p.Purpose != "" {
		add(Paragraph{Text: p.Purpose})
	}
	add(Notice{Care, Safety}, Heading{2, "Before you start"})
	if len(p.Prelims.Conditions) > 0 {
		add(Boxes{p.Prelims.Conditions})
	}
	if rows := before(x, p); len(rows) > 0 {
		add(Terms{rows})
	}
	if len(x.Sheet.Wheels) > 0 {
		add(Drive{Held(x, t), "Marks and locks in the timing position, running " + string(x.Sheet.Running)})
	}
	add(Heading{2, "Special tools"}, ToolTable{page.Tools}, Heading{2, "New parts"}, PartTable{page.Parts})
	if s := page.Opens(&p.Header); s != "" {
		add(Paragraph{"Begins with.", s})
	}
	pictures := map[int]*Picture{}
	for _, v := range Pictures(x, p, t) {
		pictures[v.Step] = &v
	}
	for i := range page.Phases {
		add(Heading{2, page.Phases[i].Name})
		for _, s := range page.Phases[i].Steps {
			add(Work{s, pictures[s.Number-1]})
		}
	}
	if s := page.Closes(&p.Header); s != "" {
		add(Paragraph{"Ends with.", s})
	}
	if len(page.Torque) > 0 {
		add(Heading{2, "Torque table"}, TorqueTable{page.Torque})
	}
	if len(is.Changes) > 0 {
		add(Heading{2, fmt.Sprintf("Changed since revision %d", is.Since)}, List{is.Changes})
	}
	if rows := append(append([]Done{}, is.Latches...), is.Kept...); len(rows) > 0 {
		add(Heading{2, "Record"}, Record{rows})
	}
	var told []Named
	for _, n := range []Named{{"Reason", is.Reason}, {"House rules", is.Rules}, {"Mistake drill", is.Drilled}, {"SHA-256", is.SHA256}, {"Record entry", is.Anchor}, {"Signed by key", is.Signer}} {
		if n.Text != "" {
			told = append(told, n)
		}
	}
	if len(told) > 0 {
		add(Terms{told})
	}
	add(d.Strip, Notice{Care, Safety})
	return d
}

// before are the preliminaries that have a name.
func before(x *engine.Index, p *procedure.Procedure) []Named {
	view := ""
	if x.Sheet.View != "" {
		view = message.Capital(x.Sheet.View) + "."
	}
	took := ""
	if !p.Prelims.Time.IsZero() {
		took = p.Prelims.Time.String()
	}
	var out []Named
	for _, n := range []Named{{"People", p.Prelims.People}, {"Time", took}, {"Supplies", strings.Join(p.Prelims.Supplies, ", ")}, {"View", view}, {"Sides", x.Sheet.Sides}} {
		if n.Text != "" {
			out = append(out, n)
		}
	}
	return out
}
