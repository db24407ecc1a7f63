package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"inklatch/internal/core/latch"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/step"
	"inklatch/internal/desk/view"
	"inklatch/internal/store"
)

// Batch is what a writer sends to be saved.
type Batch struct {
	Name   string
	Client string
	Base   int64
	Edits  []procedure.Edit
}

// Saved is what came of it.
type Saved struct {
	Meta     *Meta         `json:"meta"`
	View     *view.View    `json:"view"`
	At       time.Time     `json:"at"`
	Step     string        `json:"step,omitzero"`
	Reopened []latch.Latch `json:"reopened,omitzero"`
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

// Save saves a batch of edits. Edits to different steps merge; an edit to a step
// that another client changed after Base is a *Clash, and nothing of the batch
// is saved. The same batch sent twice is saved once.
func (d *Desk) Save(ctx context.Context, u *User, id int64, b Batch) (*Saved, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	for i := range b.Edits {
		if err := b.Edits[i].Check(); err != nil {
			return nil, &Problem{Status: 422, Title: err.Error(), Field: fmt.Sprintf("edits[%d]", i)}
		}
	}
	o, err := d.open(ctx, id)
	if err != nil {
		return nil, err
	}
	names, err := d.names(ctx)
	if err != nil {
		return nil, err
	}
	out := &Saved{At: store.Now()}
	err = d.store.Write(ctx, id, func(w *store.Draft) error {
		if latch.State(w.Revision.State).Frozen() {
			return problem(409, "Revision %d is %s and never changes. Start a new draft from it.", w.Revision.Number, w.Revision.State)
		}
		if old, err := w.Batch(b.Name); err != nil || old != nil {
			return err
		}
		if c := clashes(w, o.k, names, b); len(c) > 0 {
			return &Clash{w.Revision.Version, c}
		}
		return d.write(w, u, o.k, b, "edit", out)
	})
	if err != nil {
		return nil, err
	}
	return d.after(ctx, u, id, out)
}

// after reads the revision again and tells everybody watching.
func (d *Desk) after(ctx context.Context, u *User, id int64, out *Saved) (*Saved, error) {
	r, err := d.Revision(ctx, u, id)
	if err != nil {
		return nil, err
	}
	out.Meta, out.View = r.Meta, r.View
	d.Watchers.version(id, r.Meta.Version)
	return out, nil
}

// clashes lists the steps of a batch that another client changed since its base.
func clashes(w *store.Draft, k *known, names map[int64]string, b Batch) []ClashStep {
	rows := map[string]*store.Step{}
	for i := range w.Steps {
		rows[w.Steps[i].StepID] = &w.Steps[i]
	}
	var out []ClashStep
	for i := range b.Edits {
		e := &b.Edits[i]
		if e.Op == procedure.SetHeader {
			if w.Revision.HeaderAt > b.Base && w.Revision.HeaderBy != b.Client {
				out = append(out, ClashStep{By: names[w.Revision.ChangedBy], Yours: "your header", Theirs: "their header"})
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
			c.Yours = sentence(k, e.Step)
		case e.Op == procedure.Remove:
			c.Yours = "take the step out"
		default:
			c.Yours = "move the step"
		}
		if !row.Gone {
			var s step.Step
			if json.Unmarshal([]byte(row.Body), &s) == nil {
				c.TheirStep, c.Theirs = &s, sentence(k, &s)
			}
		}
		out = append(out, c)
	}
	return out
}

func sentence(k *known, s *step.Step) string {
	if s.Wording != "" {
		return s.Wording
	}
	return step.Sentence(k.index, s.Action)
}

// write applies a batch inside a transaction and keeps the way back.
func (d *Desk) write(w *store.Draft, u *User, k *known, b Batch, kind string, out *Saved) error {
	before, err := assemble(w.Revision, w.Steps)
	if err != nil {
		return err
	}
	edits := reanchor(w.Steps, before, b.Edits)
	after, back, err := procedure.Apply(before, edits)
	if err != nil {
		var gone procedure.Gone
		if errors.As(err, &gone) {
			return problem(409, "%s: somebody took it out.", gone.Error())
		}
		return &Problem{Status: 422, Title: err.Error()}
	}
	w.Revision.Version++
	if err := saveRows(w, u, before, after, edits, b.Client); err != nil {
		return err
	}
	if err := w.SaveBatch(&store.Batch{Batch: b.Name, PersonID: u.ID, Version: w.Revision.Version, Edits: text(edits), Inverse: text(back), Kind: kind}); err != nil {
		return err
	}
	if out.Reopened, err = d.reopen(w, before, after); err != nil {
		return err
	}
	if err := w.Save(u.ID); err != nil {
		return err
	}
	if len(edits) > 0 {
		out.Step = string(edits[0].Target())
	}
	return w.Append(u.ID, kind, text(map[string]any{"batch": b.Name, "version": w.Revision.Version, "edits": edits, "reopened": out.Reopened}))
}

// reanchor lets an edit that stands after a step since taken out stand after
// the one before it.
func reanchor(rows []store.Step, p *procedure.Procedure, edits []procedure.Edit) []procedure.Edit {
	coming := map[step.ID]bool{}
	out := make([]procedure.Edit, len(edits))
	for i, e := range edits {
		if e.Op == procedure.Insert {
			coming[e.Step.ID] = true
		}
		if e.After != "" && p.At(e.After) < 0 && !coming[e.After] {
			alive := step.ID("")
			for r := range rows {
				if rows[r].StepID == string(e.After) {
					break
				}
				if !rows[r].Gone && rows[r].StepID != string(e.ID) {
					alive = step.ID(rows[r].StepID)
				}
			}
			e.After = alive
		}
		out[i] = e
	}
	return out
}

// saveRows writes the rows that a batch touched.
func saveRows(w *store.Draft, u *User, before, after *procedure.Procedure, edits []procedure.Edit, client string) error {
	pos := map[string]float64{}
	bodies := map[string]string{}
	for i := range w.Steps {
		pos[w.Steps[i].StepID] = w.Steps[i].Pos
		bodies[w.Steps[i].StepID] = w.Steps[i].Body
	}
	touched := map[step.ID]bool{}
	for i := range edits {
		if edits[i].Op == procedure.SetHeader {
			w.Revision.Header, w.Revision.HeaderBy, w.Revision.HeaderAt = text(after.Header), client, w.Revision.Version
			continue
		}
		touched[edits[i].Target()] = true
	}
	if !place(after, touched, pos) {
		for i := range after.Steps {
			pos[string(after.Steps[i].ID)] = float64(i + 1)
		}
		for i := range after.Steps { // no room between two steps: number them anew
			if id := after.Steps[i].ID; !touched[id] {
				for r := range w.Steps {
					if w.Steps[r].StepID == string(id) {
						s := w.Steps[r]
						s.Pos = pos[string(id)]
						if err := w.SaveStep(s); err != nil {
							return err
						}
					}
				}
			}
		}
	}
	for id := range touched {
		row := store.Step{StepID: string(id), Pos: pos[string(id)], Version: w.Revision.Version, Client: client, ChangedBy: u.ID}
		if i := after.At(id); i >= 0 {
			row.Body = text(after.Steps[i])
		} else if k := before.At(id); k >= 0 {
			row.Gone, row.Body = true, text(before.Steps[k])
		} else {
			continue
		}
		if err := w.SaveStep(row); err != nil {
			return err
		}
	}
	return nil
}

// place gives touched steps a position between their neighbours; false when
// there is no room left.
func place(p *procedure.Procedure, touched map[step.ID]bool, pos map[string]float64) bool {
	last := 0.0
	for i := range p.Steps {
		id := string(p.Steps[i].ID)
		own, known := pos[id]
		if touched[p.Steps[i].ID] {
			next := last + 2
			for k := i + 1; k < len(p.Steps); k++ {
				if !touched[p.Steps[k].ID] {
					next = pos[string(p.Steps[k].ID)]
					break
				}
			}
			if !known || own <= last || own >= next {
				if next-last < 1e-7 {
					return false
				}
				pos[id] = last + (next-last)/2
			}
		}
		if pos[id] <= last {
			return false
		}
		last = pos[id]
	}
	return true
}

// reopen opens the latches an edit touches and sets the state that follows.
func (d *Desk) reopen(w *store.Draft, before, after *procedure.Procedure) ([]latch.Latch, error) {
	closed := closings(w.Closings)
	open := latch.Reopened(latch.Weigh(before, after), closed)
	for _, l := range open {
		if err := w.Reopen(string(l)); err != nil {
			return nil, err
		}
		if l == latch.ByAuthor {
			w.Revision.State = string(latch.Draft)
		}
	}
	return open, nil
}

func closings(cs []store.Closing) []latch.Closed {
	out := make([]latch.Closed, len(cs))
	for i, c := range cs {
		out[i] = latch.Closed{Latch: latch.Latch(c.Latch), Person: c.PersonID}
	}
	return out
}

// Undo takes back a person's own last edit, or with redo the last undo. Steps
// that somebody else has changed since are left alone and say so.
func (d *Desk) Undo(ctx context.Context, u *User, id int64, client string, redo bool) (*Saved, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	o, err := d.open(ctx, id)
	if err != nil {
		return nil, err
	}
	out := &Saved{At: store.Now()}
	err = d.store.Write(ctx, id, func(w *store.Draft) error {
		if latch.State(w.Revision.State).Frozen() {
			return problem(409, "Revision %d is %s and never changes.", w.Revision.Number, w.Revision.State)
		}
		last, err := w.LastBatch(u.ID, redo)
		if err != nil {
			return err
		}
		if last == nil {
			return problem(409, "There is nothing to %s.", map[bool]string{false: "undo", true: "redo"}[redo])
		}
		var edits []procedure.Edit
		if err := json.Unmarshal([]byte(last.Inverse), &edits); err != nil {
			return err
		}
		for i := range edits {
			for r := range w.Steps {
				row := &w.Steps[r]
				if row.StepID == string(edits[i].Target()) && row.Version > last.Version && row.ChangedBy != u.ID {
					return problem(409, "Somebody else has changed that step since. Change it by hand if it has to be.")
				}
			}
		}
		if err := w.MarkUndone(last.ID); err != nil {
			return err
		}
		kind := map[bool]string{false: "undo", true: "redo"}[redo]
		return d.write(w, u, o.k, Batch{Name: fmt.Sprintf("%s-%d-%d", kind, last.ID, w.Revision.Version), Client: client, Edits: edits}, kind, out)
	})
	if err != nil {
		return nil, err
	}
	return d.after(ctx, u, id, out)
}
