package desk

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// Batch is what a writer sends to be saved.
type Batch struct {
	Name   string
	Client string
	Base   int64
	Edits  []procedure.Edit
	// Also is what the record is told beside.
	Also map[string]any
}

// Saved is what came of it.
type Saved struct {
	Meta     *Meta         `json:"meta"`
	View     *view.View    `json:"view"`
	At       time.Time     `json:"at"`
	Step     string        `json:"step,omitzero"`
	Reopened []latch.Latch `json:"reopened,omitzero"`

	// committed remembers what was worked out inside a write that went through.
	committed func()
}

// Clash is an edit to a step that somebody else has changed since.
type Clash struct {
	Version int64
	Steps   []ClashStep
}

// ClashStep is one such step: both sentences, and theirs whole; Theirs is empty
// and TheirStep nil where they took it out.
type ClashStep struct {
	ID        step.ID    `json:"id"`
	By        string     `json:"by"`
	Yours     string     `json:"yours,omitzero"`
	Theirs    string     `json:"theirs,omitzero"`
	TheirStep *step.Step `json:"theirStep,omitzero"`
}

// Error says what to do.
func (c *Clash) Error() string {
	return "Somebody else changed the same step. Nothing of yours is lost: choose which one stays."
}

// nameShape is what a batch or a client may be called. Names of undo have a
// colon, so that nobody's batch is in the way of one.
var nameShape = regexp.MustCompile(`^[A-Za-z0-9][A-Za-z0-9_.-]{0,63}$`)

// named holds the names a batch comes with against their shape.
func named(batch, client string) error {
	if !nameShape.MatchString(batch) || len(batch) < 8 {
		return &Problem{Status: 422, Title: "A batch has a name of 8 to 64 letters, figures and hyphens.", Field: "batch"}
	}
	if !nameShape.MatchString(client) {
		return &Problem{Status: 422, Title: "A client has a name of at most 64 letters, figures and hyphens.", Field: "client"}
	}
	return nil
}

// usedBefore says why a batch's name cannot be used once more, nil where the
// very same batch was saved before.
func usedBefore(digest, sent string) error {
	if digest == sent {
		return nil
	}
	return &Problem{Status: 409, Title: "This batch’s name was used before, for other edits. Nothing was saved; send it under a new name.", Field: "batch"}
}

// Save saves a batch of edits. Edits to different steps merge; an edit to a step
// that another client changed after Base is a *Clash, and nothing of the batch
// is saved. The same batch sent twice is saved once.
func (d *Drafts) Save(ctx context.Context, u *User, id int64, b Batch) (*Saved, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	if err := named(b.Name, b.Client); err != nil {
		return nil, err
	}
	for i := range b.Edits {
		if err := b.Edits[i].Check(); err != nil {
			return nil, &Problem{Status: 422, Title: fullStop(err.Error()), Field: fmt.Sprintf("edits[%d]", i)}
		}
	}
	sent := latchjson.Sum([]byte(text(b.Edits)))
	return d.change(ctx, u, id, func(w *store.Draft, out *Saved) error {
		old, err := w.Batch(b.Name, u.ID)
		if err != nil {
			return err
		}
		if old != nil {
			return usedBefore(old.Digest, sent)
		}
		o, err := d.drafted(w)
		if err != nil {
			return err
		}
		c, err := clashes(w, o.k, b)
		if err != nil {
			return err
		}
		if len(c) > 0 {
			return &Clash{w.Revision.Version, c}
		}
		return d.write(w, u, o, b, "edit", sent, out)
	})
}

// change changes a draft and shows what became of it.
func (d *Drafts) change(ctx context.Context, u *User, id int64, f func(*store.Draft, *Saved) error) (*Saved, error) {
	out := &Saved{At: store.Now()}
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		if s := latch.State(w.Revision.State); s.Frozen() {
			return problem(409, "Revision %d is %s and never changes. Start a new draft from it.", w.Revision.Number, s)
		} else if !s.Open() {
			return problem(409, "Revision %d is %s. Bring it back to write in it.", w.Revision.Number, s)
		}
		return f(w, out)
	})
	if err != nil {
		return nil, missing(err, "revision")
	}
	if out.committed != nil {
		out.committed()
	}
	r, err := d.Revision(ctx, u, id)
	if err != nil {
		return nil, err
	}
	out.Meta, out.View = r.Meta, r.View
	return out, nil
}

// drafted is what a locked draft says, with its sheet.
func (d *library) drafted(w *store.Draft) (*opened, error) {
	p, ok := d.pages.Get(pageKey{w.Revision.ID, w.Revision.Version})
	if !ok {
		var err error
		if p, err = assemble(w.Revision, w.Steps); err != nil {
			return nil, err
		}
	}
	return d.with(w.Reads, w.Revision, p)
}

// clashes lists the steps of a batch that another client changed since its base.
func clashes(w *store.Draft, k *known, b Batch) ([]ClashStep, error) {
	rows := map[string]*store.Step{}
	for i := range w.Steps {
		rows[w.Steps[i].StepID] = &w.Steps[i]
	}
	by := []int64{w.Revision.ChangedBy}
	for i := range w.Steps {
		if !slices.Contains(by, w.Steps[i].ChangedBy) {
			by = append(by, w.Steps[i].ChangedBy)
		}
	}
	names, err := w.Names(by...)
	if err != nil {
		return nil, err
	}
	var out []ClashStep
	for i := range b.Edits {
		e := &b.Edits[i]
		if e.Op == procedure.SetHeader {
			if w.Revision.HeaderAt > b.Base && w.Revision.HeaderBy != b.Client {
				yours, theirs := apart(k, w.Revision.Header, e.Header)
				out = append(out, ClashStep{By: names[w.Revision.ChangedBy], Yours: yours, Theirs: theirs})
			}
			continue
		}
		row := rows[string(e.Target())]
		if row == nil || e.Op == procedure.Insert || row.Version <= b.Base || row.Client == b.Client {
			continue
		}
		c := ClashStep{ID: e.Target(), By: names[row.ChangedBy]}
		switch {
		case e.Step != nil:
			c.Yours = whole(k, e.Step)
		case e.Op == procedure.Remove:
			c.Yours = "take the step out"
		default:
			c.Yours = "move the step"
		}
		if !row.Gone {
			var s step.Step
			if json.Unmarshal([]byte(row.Body), &s) == nil {
				c.TheirStep, c.Theirs = &s, whole(k, &s)
			}
		}
		out = append(out, c)
	}
	return out, nil
}

// whole is all that a step says: its cautions, its sentence and its note.
func whole(k *known, s *step.Step) string {
	var parts []string
	for _, c := range s.Cautions {
		parts = append(parts, "Caution: "+c.Text)
	}
	parts = append(parts, sentence(k, s))
	if s.Note != "" {
		parts = append(parts, "Note: "+s.Note)
	}
	return strings.Join(parts, " ")
}

// apart says in what two headers of one page differ, the one that is sent and the one
// there is.
func apart(k *known, there string, sent *procedure.Header) (yours, theirs string) {
	now := &procedure.Procedure{}
	if json.Unmarshal([]byte(there), &now.Header) != nil || sent == nil {
		return "your header", "their header"
	}
	mine, other := redline.Heading(redline.State{Index: k.index, Procedure: &procedure.Procedure{Header: *sent}}), redline.Heading(redline.State{Index: k.index, Procedure: now})
	without := func(a, b []redline.Said) string {
		var out []string
		for _, v := range a {
			if !slices.Contains(b, v) {
				out = append(out, v.What+": "+v.Text)
			}
		}
		return strings.Join(out, "; ")
	}
	return cmp.Or(without(mine, other), "without what they added"), cmp.Or(without(other, mine), "without what you added")
}

func sentence(k *known, s *step.Step) string {
	return en.Full(k.index, s)
}

// write applies a batch inside a transaction and keeps the way back. What comes
// of it is held against the limits, proved and laid out before it is kept, so
// that what is stored can always be read again.
func (d *Drafts) write(w *store.Draft, u *User, o *opened, b Batch, kind, sent string, out *Saved) error {
	edits := reanchor(w.Steps, o.p, b.Edits)
	after, back, err := procedure.Apply(o.p, edits)
	if err != nil {
		var gone procedure.Gone
		if errors.As(err, &gone) {
			return problem(409, "%s: somebody took it out.", gone.Error())
		}
		return &Problem{Status: 422, Title: fullStop(err.Error())}
	}
	if err := held(latchjson.CheckProcedure(after), "procedure."); err != nil {
		return err
	}
	w.Revision.Version++
	changes := latch.Changes(o.p, after)
	if out.Reopened, err = reopen(w, changes); err != nil {
		return err
	}
	if err := saveRows(w, u, o.p, after, slices.Concat(edits, back), b.Client); err != nil {
		return err
	}
	if err := w.SaveBatch(&store.Batch{Batch: b.Name, PersonID: u.ID, Version: w.Revision.Version, Edits: text(edits), Inverse: text(back), Kind: kind, Digest: sent}); err != nil {
		return err
	}
	if err := d.keepStanding(w, u, o, after, edits, out); err != nil {
		return err
	}
	if err := w.Save(u.ID); err != nil {
		return err
	}
	if len(edits) > 0 {
		out.Step = string(edits[0].Target())
	}
	said := map[string]any{"batch": b.Name, "edits": edits, "reopened": out.Reopened}
	maps.Copy(said, b.Also)
	return w.Append(u.ID, kind, said)
}

// keepStanding proves what a draft says now, keeps the counts for lists, and that
// whoever wrote it has read it.
func (d *Drafts) keepStanding(w *store.Draft, u *User, was *opened, p *procedure.Procedure, edits []procedure.Edit, out *Saved) error {
	o, err := d.with(w.Reads, w.Revision, p)
	if err != nil {
		return err
	}
	if err := d.rooms.Review.readOwn(w, u, was, o, edits); err != nil {
		return err
	}
	if err := indexEdits(w, o, edits); err != nil {
		return err
	}
	// It is laid out, and its mends are tried, when somebody looks, and not while the
	// draft is held.
	found, err := worked(func() ([]pageproof.Finding, error) {
		return pageproof.Found(o.k.index, p, nil, d.house()), nil
	})
	if busy := (*Problem)(nil); errors.As(err, &busy) {
		return busy
	}
	if err != nil {
		return &Problem{Status: 422, Title: "This page could not be proved any more. Nothing was saved.", Detail: err.Error()}
	}
	all, err := w.RevisionsOf(w.Revision.ProcedureID)
	if err != nil {
		return err
	}
	required, err := d.required(w.Reads, o, all)
	if err != nil {
		return err
	}
	page := pageKey{w.Revision.ID, w.Revision.Version}
	out.committed = func() { d.pages.Add(page, p) }
	return w.Keep(standing(o, found, required))
}

// reopen opens the latches that changes touch and sets the state that follows.
// Once no latch is closed any more the draft is proved with the sheet in use
// again.
func reopen(w *store.Draft, changes []latch.Change) ([]latch.Latch, error) {
	open := latch.Reopened(changes, closings(w.Closings))
	names := make([]string, len(open))
	for i, l := range open {
		names[i] = string(l)
	}
	if err := w.Reopen(names); err != nil {
		return nil, err
	}
	if slices.Contains(open, latch.ByAuthor) {
		w.Revision.State = string(latch.Draft)
	}
	if len(w.Closings) == 0 {
		w.Revision.SheetID = nil
	}
	return open, nil
}
