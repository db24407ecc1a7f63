package desk

import (
	"context"
	"slices"
	"time"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
)

// LatchMark is one latch of a revision as the title block shows it.
type LatchMark struct {
	Latch    latch.Latch `json:"latch"`
	Closed   bool        `json:"closed"`
	By       string      `json:"by,omitzero"`
	At       *time.Time  `json:"at,omitzero"`
	MayClose bool        `json:"mayClose"`
	WhyNot   string      `json:"whyNot,omitzero"`
	// Wants are what it wants of the person before it closes, met or not; none where
	// they may never close it, or it is closed.
	Wants []LatchWant `json:"wants,omitempty"`
	// Due is the day by which it is to close, as 2006-01-02; TakenBy has taken it over.
	Due     string `json:"due,omitzero"`
	Taken   int64  `json:"taken,omitzero"`
	TakenBy string `json:"takenBy,omitzero"`
}

// LatchWant is one thing a latch wants before it closes.
type LatchWant struct {
	What latch.What `json:"what"`
	Left int        `json:"left"`
	Why  string     `json:"why"`
}

// Sibling is another revision of the same procedure.
type Sibling struct {
	ID     int64  `json:"id"`
	Number int    `json:"number"`
	State  string `json:"state"`
}

// Meta is the title block.
type Meta struct {
	ID        int64       `json:"id"`
	Procedure int64       `json:"procedure"`
	Number    int         `json:"number"`
	State     string      `json:"state"`
	Version   int64       `json:"version"`
	Title     string      `json:"title"`
	Engine    string      `json:"engine"`
	Applies   string      `json:"applies"`
	Reason    string      `json:"reason"`
	Latches   []LatchMark `json:"latches"`
	Editable  bool        `json:"editable"`
	// MayDelete and MayBringBack are about the draft as a whole.
	MayDelete    bool `json:"mayDelete,omitzero"`
	MayBringBack bool `json:"mayBringBack,omitzero"`
	MayUndo      bool `json:"mayUndo,omitzero"`
	MayRedo      bool `json:"mayRedo,omitzero"`
	Blocking     int  `json:"blocking"`
	// Drill is what came of the mistakes the last time they were made, nil for never.
	Drill *DrillCount `json:"drill,omitempty"`
	// Ready is set once every latch is closed: a lead releases it then, MayRelease.
	Ready      bool `json:"ready,omitzero"`
	MayRelease bool `json:"mayRelease,omitzero"`
	// Questions is how many questions, suggestions and points that must be changed are
	// open.
	Questions int `json:"questions,omitzero"`
	// Spoken is how many remarks of any kind are open at each step; under no step those
	// of the page as a whole. Empty for readers.
	Spoken map[step.ID]int `json:"spoken,omitempty"`
	// MayReturn is set where the person may send it back to its author; Withdrawn says
	// who took the release back and why, MayWithdraw that the person may.
	MayReturn   bool       `json:"mayReturn,omitzero"`
	MayWithdraw bool       `json:"mayWithdraw,omitzero"`
	Withdrawn   *Withdrawn `json:"withdrawn,omitempty"`
	SHA256      string     `json:"sha256,omitzero"`
	LatchedAt   *time.Time `json:"latchedAt,omitzero"`
	Siblings    []Sibling  `json:"siblings"`
	// Beside are the pages of the code that this one can go on from, or that can go
	// on from it.
	Beside []Beside `json:"beside"`
}

// Revision is a revision with its run and its drive.
type Revision struct {
	Meta    *Meta         `json:"meta"`
	View    *view.View    `json:"view"`
	Drawing *view.Drawing `json:"drawing"`
	// Examples are quick lines made from the revision's own sheet.
	Examples []string `json:"examples"`
}

// Revision opens a revision for somebody.
func (d *Drafts) Revision(ctx context.Context, u *User, id int64) (*Revision, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	return d.present(ctx, u, o)
}

// present lays an opened revision out with its title block.
func (d *Drafts) present(ctx context.Context, u *User, o *opened) (*Revision, error) {
	v, err := d.show(o)
	if err != nil {
		return nil, err
	}
	m, err := d.meta(ctx, u, o, v.Blocking)
	if err != nil {
		return nil, err
	}
	return &Revision{m, v, view.DrawingOf(o.k.index), o.k.examples()}, nil
}

func (d *library) meta(ctx context.Context, u *User, o *opened, blocking int) (*Meta, error) {
	r := d.store.Reads(ctx)
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return nil, err
	}
	marks, p, err := d.marks(r, u, o, all, blocking)
	if err != nil {
		return nil, err
	}
	y := o.p.Applies.Years
	if y.From == 0 {
		y = o.k.sheet.Years
	}
	state := latch.State(o.rev.State)
	discards := d.mayDiscard(r, u, o.rev.ID) == nil
	m := &Meta{
		Siblings: []Sibling{},
		ID:       o.rev.ID, Procedure: o.rev.ProcedureID, Number: o.rev.Number, State: o.rev.State, Version: o.rev.Version,
		Title: o.p.Title, Engine: o.p.Engine, Applies: y.Said(), Reason: o.rev.Reason, Latches: marks,
		Editable: state.Open() && u.Writes(), MayDelete: state == latch.Draft && discards, MayBringBack: state == latch.Deleted && discards,
		Blocking: blocking, SHA256: o.rev.SHA256, LatchedAt: o.rev.LatchedAt,
	}
	if m.Drill, err = d.lastDrill(r, o); err != nil {
		return nil, err
	}
	for i := range p.talk.remarks {
		v := &p.talk.remarks[i]
		if v.State != "open" {
			continue
		}
		if v.Kind != Note {
			m.Questions++
		}
		if !isReader(u) {
			if m.Spoken == nil {
				m.Spoken = map[step.ID]int{}
			}
			m.Spoken[step.ID(v.StepID)]++
		}
	}
	m.Ready = state.Open() && len(marks) > 0 && !slices.ContainsFunc(marks, func(k LatchMark) bool { return !k.Closed })
	m.MayRelease = m.Ready && u.Leads()
	m.MayReturn, m.MayWithdraw = mayReturn(u, o.rev) == nil, state == latch.Latched && latch.MayWithdraw(u.Roles) == nil
	if state == latch.Withdrawn {
		if m.Withdrawn, err = withdrawn(r, o.rev.ID); err != nil {
			return nil, err
		}
	}
	for _, v := range all {
		if latch.State(v.State) != latch.Deleted && mayRead(u, &v) == nil {
			m.Siblings = append(m.Siblings, Sibling{v.ID, v.Number, v.State})
		}
	}
	if m.Beside, err = d.beside(r, u, o); err != nil {
		return nil, err
	}
	if m.Editable {
		if m.MayUndo, m.MayRedo, err = r.MayTakeBack(o.rev.ID, u.ID); err != nil {
			return nil, err
		}
	}
	return m, nil
}

// Look runs a revision with edits that are not saved yet, and reads a quick
// line. With after, a line that is understood stands in the view as a step with
// the id "line". Without edits and line there is no view: the caller has it.
func (d *Drafts) Look(ctx context.Context, u *User, id int64, edits []procedure.Edit, line string, after *step.ID, at view.Place) (*view.View, *Reading, []quickline.Completion, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, nil, nil, err
	}
	var r *Reading
	var c []quickline.Completion
	if line != "" {
		var here step.Phase
		if after != nil {
			if i := o.p.At(*after); i >= 0 {
				here = o.p.Steps[i].Phase
			}
		}
		r, c = readLine(o.k, line, here), quickline.Complete(o.k.lex, line)
		if after != nil && r.Problem == "" && r.Aside == "" {
			ghost := r.Step
			edits = append(edits, procedure.Edit{Op: procedure.Insert, After: *after, Step: &ghost})
		}
	}
	var v *view.View
	if len(edits) > 0 || at != (view.Place{}) {
		p, _, err := procedure.Apply(o.p, edits)
		if err != nil {
			return nil, nil, nil, &Problem{Status: 422, Title: fullStop(err.Error())}
		}
		if err := held(latchjson.CheckProcedure(p), ""); err != nil {
			return nil, nil, nil, err
		}
		at.Turns = min(max(at.Turns, 0), mostFrom)
		v = view.From(o.k.index, p, o.rev.Version, d.house(), at)
	}
	return v, r, c, nil
}

// mostFrom is the furthest position a look is taken from, turns.
const mostFrom = 1000

// Reading is a line as a step.
type Reading struct {
	Step     step.Step `json:"step"`
	Sentence string    `json:"sentence"`
	// Line is the line in pieces, the unread ones marked.
	Line    []Piece  `json:"line"`
	Problem string   `json:"problem,omitzero"`
	Choices []string `json:"choices"`
	// Parts are the lines a line with several instructions can be taken apart into.
	Parts []string        `json:"parts,omitempty"`
	Aside quickline.Aside `json:"aside,omitzero"`
	// Ahead is set for a caution that stands before the step it warns of.
	Ahead bool `json:"ahead,omitzero"`
	// Bolt is what its torques come to, BadBolt that a bolt does not bear them.
	Bolt    string `json:"bolt,omitzero"`
	BadBolt bool   `json:"badBolt,omitzero"`
}

// Piece is a stretch of a line.
type Piece struct {
	Text   string `json:"text"`
	Unread bool   `json:"unread,omitzero"`
}

// pieces cuts a line at its unread stretches.
func pieces(r *quickline.Reading) []Piece {
	out := []Piece{}
	at := 0
	add := func(to int, unread bool) {
		if to > at {
			out = append(out, Piece{r.Line[at:to], unread})
			at = to
		}
	}
	for _, u := range r.Unread {
		add(u[0], false)
		add(u[1], true)
	}
	add(len(r.Line), false)
	return out
}

func readLine(k *known, line string, here step.Phase) *Reading {
	r := quickline.Read(k.lex, line)
	s := r.Step("line", step.PhaseAfter(here, r.Phase))
	for _, h := range s.Hazards(k.index) {
		if !s.Warns(h) {
			s.Cautions = append(s.Cautions, step.CautionFor(h))
		}
	}
	if r.Choices == nil {
		r.Choices = []string{}
	}
	out := &Reading{Step: s, Sentence: r.Sentence(k.index), Line: pieces(&r), Problem: r.Problem, Choices: r.Choices, Parts: r.Parts, Aside: r.Aside}
	out.Bolt, out.BadBolt = inShort(k.index, &s)
	return out
}

// Read turns a line or a pasted page into steps, without saving them. They go on
// from phase here, empty for the top of the page.
func (d *Drafts) Read(ctx context.Context, u *User, id int64, page string, here step.Phase) ([]Reading, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	lines := quickline.Split(page)
	if len(lines) > 500 {
		return nil, problem(422, "That page has more than 500 lines. Paste it in parts.")
	}
	out := make([]Reading, 0, len(lines))
	for _, line := range lines {
		r := readLine(o.k, line, here)
		here = r.Step.Phase
		out = append(out, *r)
	}
	return out, nil
}

// MayWatch says why somebody may not hear of a revision, or of the sheets of a code.
func (d *Drafts) MayWatch(ctx context.Context, u *User, at Room) error {
	if at.Code != "" {
		if isReader(u) {
			return forbidden("Drafts are for those who work on them.")
		}
		all, err := d.store.Reads(ctx).SheetsOf(at.Code)
		if err == nil && len(all) == 0 {
			return notFound("engine code")
		}
		return err
	}
	id := at.Revision
	rev, err := d.store.Reads(ctx).RevisionByID(id)
	if err != nil {
		return missing(err, "revision")
	}
	return mayRead(u, rev)
}
