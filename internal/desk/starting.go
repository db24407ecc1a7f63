package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// NewProcedure starts a procedure from an empty page.
func (d *Drafts) NewProcedure(ctx context.Context, u *User, code, title string) (int64, error) {
	if err := MayWrite(u); err != nil {
		return 0, err
	}
	k, err := d.engine(d.store.Reads(ctx), code)
	if err != nil {
		return 0, err
	}
	p := &procedure.Procedure{Header: procedure.Header{Title: title, Engine: k.sheet.Code, Applies: procedure.Applies{Years: k.sheet.Years}}}
	id, err := d.add(ctx, u, store.NewRevision{Engine: k.sheet.Code, Reason: "First revision.", What: "start procedure"}, the(p))
	if err != nil {
		return 0, err
	}
	// Whoever gave it its title has read that.
	return id, d.store.Write(ctx, id, func(w *store.Draft) error {
		o, err := d.drafted(w)
		if err != nil {
			return err
		}
		return d.rooms.Review.readOwn(w, u, o, o, []procedure.Edit{{Op: procedure.SetHeader}})
	})
}

// the gives one procedure, whatever is latched.
func the(p *procedure.Procedure) func(store.Reads) (*procedure.Procedure, error) {
	return func(store.Reads) (*procedure.Procedure, error) { return p, nil }
}

// NewDraft starts the next revision from the one that is latched now, or from one
// that was released before: 0 is the one that holds.
func (d *Drafts) NewDraft(ctx context.Context, u *User, proc int64, reason string, from int64) (int64, error) {
	if err := MayWrite(u); err != nil {
		return 0, err
	}
	p, err := d.store.Reads(ctx).Procedure(proc)
	if err != nil {
		return 0, missing(err, "procedure")
	}
	if reason = strings.TrimSpace(reason); reason == "" {
		return 0, &Problem{Status: 422, Title: "Say why there is a new revision: readers see it.", Field: "reason"}
	}
	if err := holdText(reason, "reason", 1000); err != nil {
		return 0, err
	}
	n := store.NewRevision{ProcedureID: proc, Engine: p.Engine, Reason: reason, What: "start revision"}
	id, err := d.add(ctx, u, n, func(r store.Reads) (*procedure.Procedure, error) {
		all, err := r.RevisionsOf(proc)
		if err != nil {
			return nil, err
		}
		// The one that holds, or the last that did where it was withdrawn.
		i := slices.IndexFunc(all, func(v store.Revision) bool { return v.LatchedAt != nil })
		if i < 0 {
			return nil, problem(409, "Nothing of this procedure is released yet. Go on with its draft.")
		}
		if from != 0 {
			if i = slices.IndexFunc(all, func(v store.Revision) bool { return v.ID == from && v.LatchedAt != nil }); i < 0 {
				return nil, notFound("released revision of this procedure")
			}
		}
		o, err := d.open(r, all[i].ID)
		if err != nil {
			return nil, err
		}
		return o.p, nil
	})
	if err != nil {
		return 0, err
	}
	return id, d.rooms.Review.points(ctx, u, proc)
}

// Bringing is what somebody has said about a file that was asked about.
type Bringing struct {
	// Ours takes the sheet in use, where the file's own is another.
	Ours bool
	// Anew starts a procedure of its own, where there is one of that title already.
	Anew bool
}

// mostTold is how many differences of two sheets are told.
const mostTold = 40

// Import reads a latch file as a draft: of the procedure of its title, or as a new one. A
// code without a sheet keeps the file's as a draft, and says so. It is asked first, as a
// Problem with the field "sheet", where the file's engine sheet is not the one in use, and
// refused with the field "file" where the file says what is there already or would stand
// beside a draft.
func (d *Drafts) Import(ctx context.Context, u *User, b []byte, say Bringing) (int64, error) {
	if err := MayWrite(u); err != nil {
		return 0, err
	}
	doc, err := latchjson.Decode(b)
	if err != nil {
		return 0, unreadable(err, latchjson.KindOf(b))
	}
	code := doc.Engine.Code
	r := d.store.Reads(ctx)
	v, err := r.InUse(code)
	if errors.Is(err, store.ErrNotFound) {
		return 0, d.bringSheet(ctx, u, &doc.Engine)
	}
	if err != nil {
		return 0, err
	}
	k, err := d.knowSheet(r, v)
	if err != nil {
		return 0, err
	}
	if !say.Ours {
		if err := sameSheet(k, v.Number, &doc.Engine); err != nil {
			return 0, err
		}
	}
	n := store.NewRevision{Engine: code, Reason: "Read from a file.", What: "import"}
	if !say.Anew {
		if n.ProcedureID, err = d.titled(r, u, &doc.Procedure); err != nil {
			return 0, err
		}
	}
	return d.add(ctx, u, n, the(&doc.Procedure))
}

// bringSheet keeps the sheet of a file whose code has none in use, and says what comes
// next.
func (d *Drafts) bringSheet(ctx context.Context, u *User, s *engine.Sheet) error {
	var open *Problem
	switch err := d.rooms.Engines.addSheet(ctx, u, s, "Read from a file.", false); {
	case errors.As(err, &open) && open.Status == 409:
		return problem(409, "%s has no sheet in use yet, only a draft. Have it put into use, then read this file again. Nothing was changed.", s.Code)
	case err != nil:
		return err
	}
	return problem(409, "%s has no sheet in use here. The sheet in the file was kept as a draft: have somebody else look it over and put it into use, then read this file again.", s.Code)
}

// sameSheet is the question that is asked of a file whose sheet is not the one in use; nil
// where it is.
func sameSheet(k *known, number int, sheet *engine.Sheet) error {
	a, err := latchjson.Canonical(k.sheet)
	if err != nil {
		return err
	}
	b, err := latchjson.Canonical(sheet)
	if err != nil || string(a) == string(b) {
		return err
	}
	lines := redline.SheetLines(engine.NewIndex(sheet), k.index)
	if len(lines) == 0 {
		return nil // in nothing that is said on any screen
	}
	p := problem(409, "The engine sheet in this file is not the one in use: from the file’s to sheet %d of %s, %d %s. The page would be proved with the sheet in use, and say its values. Nothing has been changed.", number, sheet.Code, len(lines), many(len(lines), "thing differs", "things differ"))
	p.Field, p.Changes = "sheet", lines[:min(len(lines), mostTold)]
	return p
}

// titled finds the procedure of a code that a file is the next draft of, 0 for none. It is
// refused where the file says what its newest revision says, and where that is a draft.
func (d *Drafts) titled(r store.Reads, u *User, p *procedure.Procedure) (int64, error) {
	newest, err := r.NewestTitled(p.Engine, p.Title)
	if err != nil || newest == nil {
		return 0, err
	}
	o, err := d.read(r, newest)
	if err != nil {
		return 0, err
	}
	was, err := latchjson.Canonical(o.p)
	if err != nil {
		return 0, err
	}
	now, err := latchjson.Canonical(p)
	if err != nil {
		return 0, err
	}
	state := latch.State(newest.State)
	switch {
	case string(was) == string(now):
		err := problem(409, "This file says what revision %d of “%s”, %s, says already. Nothing was read in.", newest.Number, p.Title, state.Said())
		err.Field = "file"
		return 0, err
	case state.Open():
		err := problem(409, "“%s” on %s has a draft already, revision %d. Go on with that one, or delete it; a file becomes the next draft. Nothing was changed.", p.Title, p.Engine, newest.Number)
		err.Field = "file"
		return 0, err
	}
	return newest.ProcedureID, nil
}

// holdText holds a text of a person's against what can be kept.
func holdText(s, field string, most int) error {
	return held(latchjson.CheckText(s, field, most), "")
}

// Misread is the problem of a step that cannot be read, with its place.
func Misread(e *step.Misplaced) *Problem {
	return &Problem{Status: 422, Title: fullStop(e.Err.Error()), Field: strings.TrimPrefix(string(e.Pointer), "/")}
}

// held makes a problem of what cannot be taken in, with its place.
func held(err error, within string) error {
	var bad *latchjson.Error
	if errors.As(err, &bad) {
		return &Problem{Status: 422, Title: fullStop(bad.Why), Field: within + bad.Place}
	}
	return err
}

// add starts a revision that says what from gives inside the transaction. It is
// proved and laid out before it is kept.
func (d *Drafts) add(ctx context.Context, u *User, n store.NewRevision, from func(store.Reads) (*procedure.Procedure, error)) (int64, error) {
	n.Person = u.ID
	n.From = func(r store.Reads) (string, []store.Step, map[string]any, error) {
		p, err := from(r)
		if err != nil {
			return "", nil, nil, err
		}
		if err := held(latchjson.CheckProcedure(p), ""); err != nil {
			return "", nil, nil, err
		}
		k, err := d.engine(r, n.Engine)
		if err != nil {
			return "", nil, nil, err
		}
		if _, err := d.laid(k, p, 1); err != nil {
			return "", nil, nil, &Problem{Status: 422, Title: "This page cannot be laid out: " + err.Error() + "."}
		}
		steps := make([]store.Step, len(p.Steps))
		for i := range p.Steps {
			steps[i] = store.Step{StepID: string(p.Steps[i].ID), Body: text(p.Steps[i]), Client: "start"}
		}
		return text(p.Header), steps, map[string]any{"title": p.Title, "steps": len(p.Steps), "reason": n.Reason, "engine": n.Engine, "version": 1}, nil
	}
	r, err := d.store.AddRevision(ctx, n)
	if errors.Is(err, store.ErrOpenRevision) {
		return 0, problem(409, "This procedure has an open revision already. Go on with that one.")
	}
	if err != nil {
		return 0, fmt.Errorf("starting a revision: %w", err)
	}
	return r.ID, d.rooms.Engines.indexRevision(ctx, r.ID)
}

// Delete marks a draft as deleted; BringBack takes that back. Both stand in the
// record, and are for those who have worked on it and for leads.
func (d *Drafts) Delete(ctx context.Context, u *User, id int64) error {
	return d.mark(ctx, u, id, latch.Draft, latch.Deleted, "delete draft", "Only a draft can be deleted. This revision is %s.")
}

// BringBack makes a deleted draft a draft again and gives its id. Where a later revision
// was released since, it is taken up as a new draft against what holds now.
func (d *Drafts) BringBack(ctx context.Context, u *User, id int64) (int64, error) {
	r := d.store.Reads(ctx)
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return 0, err
	}
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return 0, err
	}
	later := slices.ContainsFunc(all, func(v store.Revision) bool { return v.Number > o.rev.Number && v.LatchedAt != nil })
	if latch.State(o.rev.State) != latch.Deleted || !later {
		return id, d.mark(ctx, u, id, latch.Deleted, latch.Draft, "bring draft back", "Only a deleted draft can be brought back. This revision is %s.")
	}
	if err := d.mayDiscard(r, u, id); err != nil {
		return 0, err
	}
	reason := fmt.Sprintf("Draft %d taken up again: %s", o.rev.Number, o.rev.Reason)
	return d.add(ctx, u, store.NewRevision{ProcedureID: o.rev.ProcedureID, Engine: o.p.Engine, Reason: reason, What: "start revision"}, the(o.p))
}

// mayDiscard says why somebody may neither delete a draft nor bring it back, nil when
// they may: it takes a hand in it, or a lead.
func (d *library) mayDiscard(r store.Reads, u *User, id int64) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	if u.Leads() {
		return nil
	}
	worked, err := r.WorkedOn(id, u.ID)
	if err == nil && !worked {
		return forbidden("A draft is deleted, and brought back, by those who have worked on it or by a lead.")
	}
	return err
}

func (d *Drafts) mark(ctx context.Context, u *User, id int64, from, to latch.State, what, unlike string) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		if err := d.mayDiscard(w.Reads, u, id); err != nil {
			return err
		}
		if w.Revision.State != string(from) {
			return problem(409, unlike, latch.State(w.Revision.State).Said())
		}
		if err := w.Lock(); err != nil {
			return err
		}
		w.Revision.State = string(to)
		w.Revision.Version++
		if err := w.Append(u.ID, what, map[string]any{}); err != nil {
			return err
		}
		return w.Save(u.ID)
	})
	if errors.Is(err, store.ErrOpenRevision) {
		return problem(409, "This procedure has another open revision by now. Finish or delete that one first.")
	}
	return missing(err, "revision")
}

// standingIn is the file of a release that holds no more, which says so.
func (d *Drafts) standingIn(r store.Reads, o *opened, file string) ([]byte, error) {
	doc, err := latchjson.Decode([]byte(file))
	if err != nil {
		return nil, err
	}
	s := &latchjson.Standing{State: o.rev.State, SHA256: o.rev.SHA256}
	if latch.State(o.rev.State) == latch.Withdrawn {
		w, err := withdrawn(r, o.rev.ID)
		if err != nil {
			return nil, err
		}
		s.Since, s.By, s.Reason = w.At.Format(time.DateOnly), w.By, w.Reason
	} else {
		all, err := r.RevisionsOf(o.rev.ProcedureID)
		if err != nil {
			return nil, err
		}
		for i := range all { // the newest first: what remains is the next release behind it
			if all[i].LatchedAt != nil && all[i].Number > o.rev.Number {
				s.Revision, s.Since = all[i].Number, all[i].LatchedAt.Format(time.DateOnly)
			}
		}
	}
	doc.Standing = s
	return latchjson.Encode(doc)
}

// Export is a revision as a latch file and its name: a latched one as it was
// frozen, one that holds no more with what became of it, a draft with the newest anchor
// of the record.
func (d *Drafts) Export(ctx context.Context, u *User, id int64) ([]byte, string, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, "", err
	}
	r := d.store.Reads(ctx)
	name := fmt.Sprintf("%s-%d-r%d.latch.json", o.p.Engine, o.rev.ProcedureID, o.rev.Number)
	if s := latch.State(o.rev.State); s.Frozen() {
		file, err := r.Frozen(id)
		if err != nil || s == latch.Latched {
			return []byte(file), name, err
		}
		b, err := d.standingIn(r, o, file)
		return b, strings.Replace(name, ".latch.json", "-"+string(s)+".latch.json", 1), err
	}
	anchor, err := r.NewestAnchor()
	if err != nil {
		return nil, "", err
	}
	doc := &latchjson.Document{Engine: *o.k.sheet, Procedure: *o.p}
	if anchor != nil {
		doc.Anchor = anchor.Line()
	}
	b, err := latchjson.Encode(doc)
	return b, name, err
}
