package desk

import (
	"context"
	"time"

	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/desk/view"
	"inklatch/internal/store"
)

// ReleasePlan is what a release would do, for whoever is about to release.
type ReleasePlan struct {
	Version int64 `json:"version"`
	// MayRelease is set where the person may release now; WhyNot says why not.
	MayRelease bool   `json:"mayRelease,omitzero"`
	WhyNot     string `json:"whyNot,omitzero"`
	// Supersedes is the number of the release that holds no more then, 0 for none;
	// Holds is since when it has.
	Supersedes int    `json:"supersedes,omitzero"`
	Holds      string `json:"holds,omitzero"`
	// Counted says how much changes for readers, Changes what, the gravest first.
	Counted string   `json:"counted,omitzero"`
	Changes []string `json:"changes"`
	// Free are the numbers of steps with words the virtual engine knows nothing of.
	Free []int `json:"free"`
	// Latches are who closed which, and how they came to have read the page.
	Latches []SignedLatch `json:"latches"`
	// Asked are the questions and points that are open.
	Asked []Remark `json:"asked"`
}

// SignedLatch is a closed latch with how its closer came to have read the page.
type SignedLatch struct {
	Latch latch.Latch `json:"latch"`
	By    string      `json:"by"`
	// Said are the things its closer said to have read, Stood those that stood in view
	// for as long as they ask, Wrote those they wrote.
	Said  int `json:"said"`
	Stood int `json:"stood"`
	Wrote int `json:"wrote"`
}

// PlanRelease is what the release of a revision would do.
func (d *Review) PlanRelease(ctx context.Context, u *User, id int64) (*ReleasePlan, error) {
	if isReader(u) {
		return nil, forbidden("Readers see released revisions only. This one is still being written.")
	}
	r := d.store.Reads(ctx)
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	out := &ReleasePlan{Version: o.rev.Version, Changes: []string{}, Free: []int{}, Latches: []SignedLatch{}, Asked: []Remark{}}
	c, before, t, err := d.releaseCase(r, o)
	if err != nil {
		return nil, err
	}
	if why := c.MayRelease(u.Roles, false); why == nil {
		out.MayRelease = true
	} else {
		out.WhyNot = why.Error()
	}
	if before != nil {
		out.Supersedes, out.Holds = before.rev.Number, before.rev.LatchedAt.Format(time.DateOnly)
		if latch.State(before.rev.State) != latch.Latched {
			out.Supersedes = 0
		}
		line := redline.Between(before.state(), o.state())
		out.Counted, out.Changes = line.Counted, append(out.Changes, line.Lines()...)
	}
	out.Free = o.free()
	all, err := t.lay(r, u, o)
	if err != nil {
		return nil, err
	}
	for _, m := range all {
		if m.State == "open" && (m.Kind == Question || m.Kind == MustChange) {
			out.Asked = append(out.Asked, m)
		}
	}
	out.Latches, err = d.signed(r, o)
	return out, err
}

// signed are the closed latches of a revision with how each closer read it, as the
// record has it.
func (d *Review) signed(r store.Reads, o *opened) ([]SignedLatch, error) {
	shut, err := r.Shut(o.rev.ID)
	if err != nil {
		return nil, err
	}
	out := []SignedLatch{}
	for i := range shut {
		hows, err := r.ReadAtClosing(o.rev.ID, shut[i].Latch)
		if err != nil {
			return nil, err
		}
		out = append(out, SignedLatch{latch.Latch(shut[i].Latch), shut[i].Name, hows["said"], hows["stood"], hows["wrote"]})
	}
	return out, nil
}

// releaseCase is what decides whether a revision may be released.
func (d *Review) releaseCase(r store.Reads, o *opened) (c latch.Case, before *opened, t talk, err error) {
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return c, nil, t, err
	}
	if before, err = d.before(r, o, all); err != nil {
		return c, nil, t, err
	}
	closed, err := r.ClosingsOf(o.rev.ID)
	if err != nil {
		return c, nil, t, err
	}
	if t, err = talkOf(r, o.rev.ID); err != nil {
		return c, nil, t, err
	}
	v := view.Of(o.k.index, o.p, o.rev.Version, d.house())
	c = latch.Case{
		State: latch.State(o.rev.State), Required: requiredAgainst(d.latches(), before, o), Closed: closings(closed), Blocking: v.Blocking,
		House: d.latches(), Asked: t.asked(), Demands: t.demands(),
	}
	return c, before, t, nil
}

// Release releases a revision whose latches are closed, over the version the person
// saw: it is frozen with its engine sheet and hashed, and the release before holds no
// more. Nothing changes it again.
func (d *Review) Release(ctx context.Context, u *User, id, seen int64) (*Meta, error) {
	if isReader(u) {
		return nil, forbidden("A lead releases.")
	}
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		o, err := d.drafted(w)
		if err != nil {
			return err
		}
		c, before, _, err := d.releaseCase(w.Reads, o)
		if err != nil {
			return err
		}
		switch why := c.MayRelease(u.Roles, false); {
		case why != nil && !u.Leads():
			return forbidden("A lead releases.")
		case why != nil:
			return problem(409, "Not yet: %s.", why.Error())
		case seen != w.Revision.Version:
			return d.movedOn(w, o, seen)
		}
		return d.release(w, u, o, before)
	})
	if err != nil {
		return nil, missing(err, "revision")
	}
	r, err := d.rooms.Drafts.Revision(ctx, u, id)
	if err != nil {
		return nil, err
	}
	return r.Meta, nil
}
