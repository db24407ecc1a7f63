package desk

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// SheetBatch is what somebody sends to be saved in an engine sheet.
type SheetBatch struct {
	Name   string
	Client string
	Base   int64
	Edits  []engine.Edit
}

// SaveSheet saves edits of a draft. Edits of different values merge; an edit of
// a value that another client changed after Base is a problem that says so, and
// nothing of the batch is saved. The same batch sent twice is saved once.
func (d *Engines) SaveSheet(ctx context.Context, u *User, code string, b SheetBatch) (*EngineView, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	if err := named(b.Name, b.Client); err != nil {
		return nil, err
	}
	sent := latchjson.Sum([]byte(text(b.Edits)))
	err := d.writeSheet(ctx, code, func(w *store.SheetDraft, s *engine.Sheet) error {
		old, err := w.Batch(b.Name, u.ID)
		if err != nil {
			return err
		}
		if old != nil {
			return usedBefore(old.Digest, sent)
		}
		batches, err := w.Batches()
		if err != nil {
			return err
		}
		if path := clashing(batches, b.Base, b.Client, b.Edits); path != "" {
			return &Problem{Status: 409, Title: "Somebody else changed this value in the meantime. Look at theirs and type yours again.", Field: path}
		}
		after, err := applySheet(s, b.Edits)
		if err != nil {
			return err
		}
		sign(s, after, u.Name)
		return d.keep(w, s, after, &store.SheetBatch{Batch: b.Name, Client: b.Client, PersonID: u.ID, Kind: "edit", Digest: sent})
	})
	if err != nil {
		return nil, err
	}
	return d.View(ctx, u, code, 0)
}

// sign writes down who said where a value comes from, and when. A source that
// is emptied is none.
func sign(before, after *engine.Sheet, name string) {
	x := engine.NewIndex(after)
	for id, e := range after.Evidence {
		if x.Source(e.In) == nil {
			e.In, e.Place = "", ""
		}
		was := before.Evidence[id]
		if e.Source != was.Source && e.In == was.In {
			e.In, e.Place = "", "" // words of one's own are no document of the list
		}
		e.Source = x.Cited(e)
		switch {
		case e.Source == "":
			delete(after.Evidence, id)
			continue
		case e.Source != was.Source || e.In != was.In:
			e.By, e.On = name, store.Now().Format(time.DateOnly)
		}
		after.Evidence[id] = e
	}
	if len(after.Evidence) == 0 {
		after.Evidence = nil
	}
}

// writeSheet locks a draft and reads it.
func (d *Engines) writeSheet(ctx context.Context, code string, f func(*store.SheetDraft, *engine.Sheet) error) error {
	err := d.store.WriteSheet(ctx, code, func(w *store.SheetDraft) error {
		k, err := d.knowSheet(w.Reads, w.Sheet)
		if err != nil {
			return fmt.Errorf("reading the draft of %s: %w", code, err)
		}
		return f(w, k.sheet)
	})
	if errors.Is(err, store.ErrNotFound) {
		if all, err := d.store.Reads(ctx).SheetsOf(code); err != nil || len(all) == 0 {
			return cmp.Or(err, error(notFound("engine code")))
		}
		return problem(409, "The sheet of %s is not a draft. Start a new version to change it.", code)
	}
	return err
}

// keep writes what became of a draft, with the edits there and back. It is
// derived, proved and laid out before it is kept.
func (d *Engines) keep(w *store.SheetDraft, before, after *engine.Sheet, b *store.SheetBatch) error {
	there := engine.Diff(before, after)
	if len(there) == 0 {
		return nil
	}
	body, err := latchjson.Canonical(after)
	if err != nil {
		return err
	}
	if _, err := latchjson.DecodeSheet(body); err != nil {
		return unreadable(err, "")
	}
	k := know(sheetKey{}, after)
	v, err := d.laidSheet(k)
	if err != nil {
		return err
	}
	if _, err := json.Marshal(v); err != nil {
		return &Problem{Status: 422, Title: "This sheet could not be drawn any more. Nothing was saved.", Detail: err.Error()}
	}
	w.Sheet.Sheet = string(body)
	b.Edits, b.Inverse = text(there), text(engine.Diff(after, before))
	b.Says = redline.SheetLines(engine.NewIndex(before), k.index)
	return w.Save(b)
}

// clashing is the first path that another client changed after base; empty for
// none. Two paths clash when one lies within the other.
func clashing(batches []store.SheetBatch, base int64, client string, edits []engine.Edit) string {
	for i := range batches {
		if batches[i].Version <= base || batches[i].Client == client {
			continue
		}
		var theirs []engine.Edit
		if json.Unmarshal([]byte(batches[i].Edits), &theirs) != nil {
			continue
		}
		for _, a := range edits {
			for _, t := range theirs {
				if within(a.Path, t.Path) || within(t.Path, a.Path) {
					return a.Path
				}
			}
		}
	}
	return ""
}

func within(a, b string) bool { return a == b || strings.HasPrefix(a, b+"/") }

// UndoSheet takes back somebody's own last edit of a draft, or with redo their
// last undo.
func (d *Engines) UndoSheet(ctx context.Context, u *User, code, client string, redo bool) (*EngineView, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	if err := named("undo-of-theirs", client); err != nil {
		return nil, err
	}
	kind := "undo"
	if redo {
		kind = "redo"
	}
	err := d.writeSheet(ctx, code, func(w *store.SheetDraft, s *engine.Sheet) error {
		b, err := w.LastBatch(u.ID, redo)
		if err != nil {
			return err
		}
		if b == nil {
			return problem(409, "There is nothing of yours to take back.")
		}
		var back []engine.Edit
		if err := json.Unmarshal([]byte(b.Inverse), &back); err != nil {
			return err
		}
		batches, err := w.Batches()
		if err != nil {
			return err
		}
		for i := range batches {
			// Only what others did since stands in the way; one's own later
			// batches have been taken back before this one.
			if o := batches[i]; o.ID > b.ID && o.PersonID != u.ID && clashing([]store.SheetBatch{o}, 0, "", back) != "" {
				return problem(409, "Somebody has changed the same value since. Change it by hand.")
			}
		}
		after, err := applySheet(s, back)
		if err != nil {
			return err
		}
		if err := w.MarkUndone(b.ID); err != nil {
			return err
		}
		return d.keep(w, s, after, &store.SheetBatch{Batch: fmt.Sprintf("%s:%d:%d", kind, b.ID, w.Sheet.Version), Client: client, PersonID: u.ID, Kind: kind})
	})
	if err != nil {
		return nil, err
	}
	return d.View(ctx, u, code, 0)
}
