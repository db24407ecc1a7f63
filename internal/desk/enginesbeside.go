package desk

import (
	"context"

	"inklatch/internal/core/page/step"
	"inklatch/internal/desk/view"
)

// SheetsBeside is the engine at one step of a revision, and at the same step of the earlier
// state that its redline is drawn against.
type SheetsBeside struct {
	// Now and Was are absent where the step is not on that page; Was too where there is
	// nothing earlier.
	Now *Drawn `json:"now,omitempty"`
	Was *Drawn `json:"was,omitempty"`
	// Differs says in what the two engines differ, a phrase for each.
	Differs []string `json:"differs"`
}

// Drawn is an engine as it stands after a step.
type Drawn struct {
	// Number is the place of the step, from 1; 0 for the end of the page.
	Number  int           `json:"number,omitzero"`
	Drawing *view.Drawing `json:"drawing"`
	State   view.State    `json:"state"`
}

// EnginesBeside draws the engine after a step, now and in the earlier state; for no
// step, as the whole page leaves it. against is as in Redline.
func (d *Engines) EnginesBeside(ctx context.Context, u *User, id, against int64, at step.ID) (*SheetsBeside, error) {
	o, v, m, err := d.shownTo(ctx, u, id)
	if err != nil {
		return nil, err
	}
	was, err := d.earlier(ctx, u, o, m, against, &Redlined{})
	if err != nil {
		return nil, err
	}
	out := &SheetsBeside{Now: engineAt(o, v, at), Differs: []string{}}
	if was != nil {
		before, err := d.showEarlier(was, against)
		if err != nil {
			return nil, err
		}
		out.Was = engineAt(was, before, at)
	}
	if out.Now == nil && out.Was == nil {
		return nil, notFound("step of this page")
	}
	if out.Now != nil && out.Was != nil {
		out.Differs = view.Differs(o.k.index, was.k.index, &out.Now.State, &out.Was.State)
	}
	return out, nil
}

// showEarlier is the earlier state as it is shown. What somebody has read is no
// revision, and kept by nobody.
func (d *Engines) showEarlier(was *opened, against int64) (*view.View, error) {
	if against == SinceRead {
		return view.Of(was.k.index, was.p, 0, d.house()), nil
	}
	return d.show(was)
}

// engineAt is the engine after a step of a page; nil where the step is not on it.
func engineAt(o *opened, v *view.View, at step.ID) *Drawn {
	n := len(o.p.Steps)
	if at != "" {
		if n = o.p.At(at) + 1; n == 0 {
			return nil
		}
	}
	out := &Drawn{Drawing: view.DrawingOf(o.k.index), State: v.States[n]}
	if at != "" {
		out.Number = n
	}
	return out
}
