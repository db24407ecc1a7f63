package desk

import (
	"context"
	"fmt"
	"slices"
	"time"

	"inklatch/internal/core/latch"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/step"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// LatchMark is one latch of a revision as the title block shows it.
type LatchMark struct {
	Latch    latch.Latch `json:"latch"`
	Closed   bool        `json:"closed"`
	By       string      `json:"by,omitzero"`
	At       *time.Time  `json:"at,omitzero"`
	MayClose bool        `json:"mayClose"`
	WhyNot   string      `json:"whyNot,omitzero"`
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
	MayUndo   bool        `json:"mayUndo,omitzero"`
	MayRedo   bool        `json:"mayRedo,omitzero"`
	Blocking  int         `json:"blocking"`
	SHA256    string      `json:"sha256,omitzero"`
	LatchedAt *time.Time  `json:"latchedAt,omitzero"`
	Siblings  []Sibling   `json:"siblings"`
}

// Revision is a revision with its run and its drive.
type Revision struct {
	Meta    *Meta         `json:"meta"`
	View    *view.View    `json:"view"`
	Drawing *view.Drawing `json:"drawing"`
}

// Revision opens a revision for somebody.
func (d *Desk) Revision(ctx context.Context, u *User, id int64) (*Revision, error) {
	o, err := d.open(ctx, id)
	if err != nil {
		return nil, err
	}
	if err := mayRead(u, o.rev); err != nil {
		return nil, err
	}
	v := view.Of(o.k.index, o.p, o.rev.Version, d.house)
	m, err := d.meta(ctx, u, o, v.Blocking)
	if err != nil {
		return nil, err
	}
	return &Revision{m, v, view.DrawingOf(o.k.index)}, nil
}

func (d *Desk) meta(ctx context.Context, u *User, o *opened, blocking int) (*Meta, error) {
	all, err := d.store.RevisionsOf(ctx, o.rev.ProcedureID)
	if err != nil {
		return nil, err
	}
	marks, err := d.marks(ctx, u, o, all, blocking)
	if err != nil {
		return nil, err
	}
	y := o.p.Applies.Years
	if y.From == 0 {
		y = o.k.sheet.Years
	}
	frozen := latch.State(o.rev.State).Frozen()
	m := &Meta{
		Siblings: []Sibling{},
		ID:       o.rev.ID, Procedure: o.rev.ProcedureID, Number: o.rev.Number, State: o.rev.State, Version: o.rev.Version,
		Title: o.p.Title, Engine: o.p.Engine, Applies: yearsText(y), Reason: o.rev.Reason, Latches: marks,
		Editable: !frozen && u.Writes(), Blocking: blocking, SHA256: o.rev.SHA256, LatchedAt: o.rev.LatchedAt,
	}
	for _, r := range all {
		if latch.State(r.State).Frozen() || mayRead(u, &r) == nil {
			m.Siblings = append(m.Siblings, Sibling{r.ID, r.Number, r.State})
		}
	}
	if m.Editable {
		batches, err := d.store.BatchesOf(ctx, o.rev.ID, u.ID)
		if err != nil {
			return nil, err
		}
		m.MayUndo, m.MayRedo = store.Undoable(batches, false) != nil, store.Undoable(batches, true) != nil
	}
	return m, nil
}

// NewProcedure starts a procedure from an empty page.
func (d *Desk) NewProcedure(ctx context.Context, u *User, code, title string) (int64, error) {
	k, err := d.engine(ctx, code)
	if err != nil {
		return 0, err
	}
	return d.add(ctx, u, &procedure.Procedure{Header: procedure.Header{Title: title, Engine: k.sheet.Code, Applies: procedure.Applies{Years: k.sheet.Years}}}, 0, "First revision.", "start procedure")
}

// NewDraft starts the next revision from the latched one.
func (d *Desk) NewDraft(ctx context.Context, u *User, proc int64, reason string) (int64, error) {
	all, err := d.store.RevisionsOf(ctx, proc)
	if err != nil {
		return 0, err
	}
	i := slices.IndexFunc(all, func(r store.Revision) bool { return r.State == string(latch.Latched) })
	if i < 0 {
		return 0, notFound("latched revision")
	}
	if reason == "" {
		return 0, &Problem{Status: 422, Title: "Say why there is a new revision: readers see it.", Field: "reason"}
	}
	o, err := d.open(ctx, all[i].ID)
	if err != nil {
		return 0, err
	}
	return d.add(ctx, u, o.p, proc, reason, "start revision")
}

// Import reads a latch file as a new procedure's first draft. The engine's code
// must be known, or its sheet comes in with the file.
func (d *Desk) Import(ctx context.Context, u *User, b []byte) (int64, error) {
	if err := MayWrite(u); err != nil {
		return 0, err
	}
	doc, err := latchjson.Decode(b)
	if err != nil {
		return 0, unreadable(err)
	}
	if _, err := d.engine(ctx, doc.Engine.Code); err != nil {
		if p, ok := err.(*Problem); !ok || p.Status != 404 {
			return 0, err
		}
		if err := d.PutEngine(ctx, doc); err != nil {
			return 0, err
		}
	}
	return d.add(ctx, u, &doc.Procedure, 0, "Read from a file.", "import")
}

// PutEngine keeps the engine sheet of a document.
func (d *Desk) PutEngine(ctx context.Context, doc *latchjson.Document) error {
	b, err := latchjson.Canonical(&doc.Engine)
	if err != nil {
		return err
	}
	return d.store.PutEngine(ctx, doc.Engine.Code, string(b), latchjson.Sum(b))
}

func (d *Desk) add(ctx context.Context, u *User, p *procedure.Procedure, proc int64, reason, what string) (int64, error) {
	if err := MayWrite(u); err != nil {
		return 0, err
	}
	if p.Title == "" || len(p.Title) > 300 {
		return 0, &Problem{Status: 422, Title: "A procedure needs a title of at most 300 letters.", Field: "title"}
	}
	n := store.NewRevision{ProcedureID: proc, Engine: p.Engine, Reason: reason, Header: text(p.Header), Person: u.ID, What: what, Payload: text(map[string]any{"title": p.Title, "steps": len(p.Steps), "reason": reason})}
	for i := range p.Steps {
		n.Steps = append(n.Steps, store.Step{StepID: string(p.Steps[i].ID), Body: text(p.Steps[i]), Client: "start"})
	}
	r, err := d.store.AddRevision(ctx, n)
	if err == store.ErrOpenRevision {
		return 0, problem(409, "This procedure has an open revision already. Go on with that one.")
	}
	if err != nil {
		return 0, fmt.Errorf("starting a revision: %w", err)
	}
	return r.ID, nil
}

// Export is a revision as a latch file and its name.
func (d *Desk) Export(ctx context.Context, u *User, id int64) ([]byte, string, error) {
	o, err := d.open(ctx, id)
	if err != nil {
		return nil, "", err
	}
	if err := mayRead(u, o.rev); err != nil {
		return nil, "", err
	}
	name := fmt.Sprintf("%s-%d-r%d.latch.json", o.p.Engine, o.rev.ProcedureID, o.rev.Number)
	if o.rev.Frozen != "" {
		return []byte(o.rev.Frozen), name, nil
	}
	b, err := latchjson.Encode(&latchjson.Document{Engine: *o.k.sheet, Procedure: *o.p})
	return b, name, err
}

// Look runs a revision with edits that are not saved yet, and reads a quick
// line. With after, a line that is understood stands in the view as a step with
// the id "line". Without edits and line there is no view: the caller has it.
func (d *Desk) Look(ctx context.Context, u *User, id int64, edits []procedure.Edit, line string, after *step.ID) (*view.View, *Reading, []step.Completion, error) {
	o, err := d.open(ctx, id)
	if err != nil {
		return nil, nil, nil, err
	}
	if err := mayRead(u, o.rev); err != nil {
		return nil, nil, nil, err
	}
	var r *Reading
	var c []step.Completion
	if line != "" {
		var here step.Phase
		if after != nil {
			if i := o.p.At(*after); i >= 0 {
				here = o.p.Steps[i].Phase
			}
		}
		r, c = reading(o.k, line, here), step.Complete(o.k.lex, line)
		if after != nil && r.Problem == "" {
			ghost := r.Step
			edits = append(edits, procedure.Edit{Op: procedure.Insert, After: *after, Step: &ghost})
		}
	}
	var v *view.View
	if len(edits) > 0 {
		p, _, err := procedure.Apply(o.p, edits)
		if err != nil {
			return nil, nil, nil, &Problem{Status: 422, Title: err.Error()}
		}
		v = view.Of(o.k.index, p, o.rev.Version, d.house)
	}
	return v, r, c, nil
}

// Reading is a line as a step.
type Reading struct {
	Step     step.Step `json:"step"`
	Sentence string    `json:"sentence"`
	Problem  string    `json:"problem,omitzero"`
	Near     []string  `json:"near"`
}

func reading(k *known, line string, here step.Phase) *Reading {
	r := step.Read(k.lex, line)
	s := step.Step{ID: "line", Phase: step.PhaseAfter(here, r.Phase), Action: r.Action}
	for _, h := range s.Hazards(k.index) {
		if !s.Warns(h) {
			s.Cautions = append(s.Cautions, step.CautionFor(h))
		}
	}
	if r.Near == nil {
		r.Near = []string{}
	}
	return &Reading{s, step.Sentence(k.index, s.Action), r.Problem, r.Near}
}

// Read turns a line or a pasted page into steps, without saving them. They go on
// from phase here, empty for the top of the page.
func (d *Desk) Read(ctx context.Context, u *User, id int64, page string, here step.Phase) ([]Reading, error) {
	o, err := d.open(ctx, id)
	if err != nil {
		return nil, err
	}
	if err := mayRead(u, o.rev); err != nil {
		return nil, err
	}
	out := []Reading{}
	for _, line := range step.Split(page) {
		r := reading(o.k, line, here)
		here = r.Step.Phase
		out = append(out, *r)
		if len(out) > 500 {
			return nil, problem(422, "That page has more than 500 lines. Paste it in parts.")
		}
	}
	return out, nil
}

// RecordLine is one entry of the record in words.
type RecordLine struct {
	Seq    int64     `json:"seq"`
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	What   string    `json:"what"`
	Detail string    `json:"detail,omitzero"`
	Hash   string    `json:"hash"`
}

// Record is what was done to a revision, the newest first.
func (d *Desk) Record(ctx context.Context, u *User, id int64) ([]RecordLine, error) {
	o, err := d.open(ctx, id)
	if err != nil {
		return nil, err
	}
	if err := mayRead(u, o.rev); err != nil {
		return nil, err
	}
	es, err := d.store.Record(ctx, id)
	if err != nil {
		return nil, err
	}
	names, err := d.names(ctx)
	if err != nil {
		return nil, err
	}
	out := make([]RecordLine, len(es))
	for i, e := range es {
		out[i] = RecordLine{e.Seq, e.At, names[e.PersonID], e.What, "", e.Hash}
	}
	return out, nil
}

// MayWatch says why somebody may not hear of a revision.
func (d *Desk) MayWatch(ctx context.Context, u *User, id int64) error {
	o, err := d.open(ctx, id)
	if err != nil {
		return err
	}
	return mayRead(u, o.rev)
}
