package desk

import (
	"context"

	"inklatch/internal/core/latch"
	"inklatch/internal/core/procedure"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// required are the latches of a revision against the one latched before it.
func (d *Desk) required(ctx context.Context, o *opened, all []store.Revision) ([]latch.Latch, error) {
	var previous *procedure.Procedure
	for i := range all {
		if all[i].Number < o.rev.Number && all[i].Frozen != "" {
			p, err := d.open(ctx, all[i].ID)
			if err != nil {
				return nil, err
			}
			previous = p.p
			break
		}
	}
	return latch.Required(previous, o.p), nil
}

func (d *Desk) marks(ctx context.Context, u *User, o *opened, all []store.Revision, blocking int) ([]LatchMark, error) {
	cs, err := d.store.ClosingsOf(ctx, o.rev.ID)
	if err != nil {
		return nil, err
	}
	names, err := d.names(ctx)
	if err != nil {
		return nil, err
	}
	required, err := d.required(ctx, o, all)
	if err != nil {
		return nil, err
	}
	closed := closings(cs)
	out := []LatchMark{}
	for _, l := range required {
		m := LatchMark{Latch: l}
		for i := range cs {
			if cs[i].Latch == string(l) {
				m.Closed, m.By, m.At = true, names[cs[i].PersonID], &cs[i].At
			}
		}
		why := latch.MayClose(latch.State(o.rev.State), required, closed, l, u.ID, u.Roles, blocking, latch.House{AuthorMayEdit: d.house.AuthorMayEdit})
		if m.MayClose = why == nil; !m.MayClose {
			m.WhyNot = why.Error()
		}
		out = append(out, m)
	}
	return out, nil
}

// CloseLatch closes a latch. The last one latches the revision: it is frozen
// with its engine sheet and hashed, and the revision before is superseded.
func (d *Desk) CloseLatch(ctx context.Context, u *User, id int64, l latch.Latch) (*Meta, error) {
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		p, err := assemble(w.Revision, w.Steps)
		if err != nil {
			return err
		}
		k, err := d.engine(ctx, p.Engine)
		if err != nil {
			return err
		}
		o := &opened{w.Revision, p, k}
		all, err := w.Siblings()
		if err != nil {
			return err
		}
		required, err := d.required(ctx, o, all)
		if err != nil {
			return err
		}
		blocking := view.Of(k.index, p, 0, d.house).Blocking
		closed := closings(w.Closings)
		if err := latch.MayClose(latch.State(w.Revision.State), required, closed, l, u.ID, u.Roles, blocking, latch.House{AuthorMayEdit: d.house.AuthorMayEdit}); err != nil {
			return problem(409, "Not yet: %s.", err.Error())
		}
		if err := w.Close(string(l), u.ID); err != nil {
			return err
		}
		w.Revision.State = string(latch.After(required, append(closed, latch.Closed{Latch: l, Person: u.ID})))
		if err := w.Append(u.ID, "close "+string(l)+" latch", text(map[string]any{"version": w.Revision.Version})); err != nil {
			return err
		}
		if w.Revision.State != string(latch.Latched) {
			return w.Save(u.ID)
		}
		return d.freeze(w, u, o, all)
	})
	if err != nil {
		return nil, err
	}
	r, err := d.Revision(ctx, u, id)
	if err != nil {
		return nil, err
	}
	d.Watchers.version(id, r.Meta.Version)
	return r.Meta, nil
}

func (d *Desk) freeze(w *store.Draft, u *User, o *opened, all []store.Revision) error {
	b, err := latchjson.Encode(&latchjson.Document{Engine: *o.k.sheet, Procedure: *o.p})
	if err != nil {
		return err
	}
	now := store.Now()
	w.Revision.Frozen, w.Revision.SHA256, w.Revision.LatchedAt = string(b), latchjson.Sum(b), &now
	if err := w.Save(u.ID); err != nil {
		return err
	}
	for i := range all {
		if all[i].State == string(latch.Latched) && all[i].ID != w.Revision.ID {
			if err := w.SetState(all[i].ID, string(latch.Superseded)); err != nil {
				return err
			}
		}
	}
	return w.Append(u.ID, "latch", text(map[string]any{"sha256": w.Revision.SHA256, "number": w.Revision.Number}))
}
