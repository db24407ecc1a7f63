package desk

import (
	"context"
	"encoding/json"
	"fmt"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/store"
)

// Undo takes back a person's own last edit, or with redo the last undo. Steps
// that somebody else has changed since are left alone and say so; of a header
// only the fields that edit changed go back.
func (d *Drafts) Undo(ctx context.Context, u *User, id int64, client string, redo bool) (*Saved, error) {
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
	return d.change(ctx, u, id, func(w *store.Draft, out *Saved) error {
		last, err := w.LastBatch(u.ID, redo)
		if err != nil {
			return err
		}
		if last == nil {
			return problem(409, "There is nothing to %s.", kind)
		}
		o, err := d.drafted(w)
		if err != nil {
			return err
		}
		edits, err := wayBack(w, u, o, last)
		if err != nil {
			return err
		}
		if err := w.MarkUndone(last.ID); err != nil {
			return err
		}
		return d.write(w, u, o, Batch{Name: fmt.Sprintf("%s:%d:%d", kind, last.ID, w.Revision.Version), Client: client, Edits: edits}, kind, "", out)
	})
}

// wayBack are the edits that take a batch back from where the draft stands now.
func wayBack(w *store.Draft, u *User, o *opened, last *store.Batch) ([]procedure.Edit, error) {
	var edits, there []procedure.Edit
	if err := json.Unmarshal([]byte(last.Inverse), &edits); err != nil {
		return nil, err
	}
	if err := json.Unmarshal([]byte(last.Edits), &there); err != nil {
		return nil, err
	}
	for i := range edits {
		e := &edits[i]
		if e.Op == procedure.SetHeader {
			h, err := procedure.HeaderBack(&o.p.Header, e.Header, headerOf(there))
			if err != nil {
				return nil, problem(409, "%s Change it by hand if it has to be.", fullStop(err.Error()))
			}
			e.Header = h
			continue
		}
		for r := range w.Steps {
			row := &w.Steps[r]
			if row.StepID == string(e.Target()) && row.Version > last.Version && row.ChangedBy != u.ID {
				return nil, problem(409, "Somebody else has changed that step since. Change it by hand if it has to be.")
			}
		}
	}
	return edits, nil
}

// headerOf is the last header a batch set.
func headerOf(edits []procedure.Edit) *procedure.Header {
	var h *procedure.Header
	for i := range edits {
		if edits[i].Op == procedure.SetHeader {
			h = edits[i].Header
		}
	}
	return h
}
