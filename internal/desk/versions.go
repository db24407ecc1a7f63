package desk

import (
	"context"
	"slices"
	"time"

	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/store"
)

// Version is one revision on the timeline of its procedure.
type Version struct {
	Sibling
	Reason string `json:"reason"`
	By     string `json:"by"`
	Steps  int    `json:"steps"`
	// ChangedAt is when somebody last worked at it, By whom.
	ChangedAt time.Time `json:"changedAt"`
	// From and Until are when it holds: from its release to that of the next, or on.
	From  *time.Time `json:"from,omitempty"`
	Until *time.Time `json:"until,omitempty"`
	// Withdrawn says who took it back, which ended it.
	Withdrawn *Withdrawn `json:"withdrawn,omitempty"`
	// Closings are who closed which latch, and when.
	Closings []VersionClosing `json:"closings"`
	// Against is the release before it, 0 for the first; Counted says how much lies
	// between the two, in the words of the review.
	Against int64  `json:"against,omitzero"`
	Counted string `json:"counted"`
}

// VersionClosing is one latch of a version, closed.
type VersionClosing struct {
	Latch string    `json:"latch"`
	By    string    `json:"by"`
	At    time.Time `json:"at"`
}

// Timeline is every revision of a procedure that somebody may read, the latest first.
type Timeline struct {
	Meta     *Meta     `json:"meta"`
	Versions []Version `json:"versions"`
	// Held is the revision that held on the day that was asked for, 0 where none did.
	Held int64 `json:"held"`
}

// Versions is the timeline of the procedure of a revision. on, a day as 2006-01-02,
// asks which of them held at its end; empty asks nothing.
func (d *Drafts) Versions(ctx context.Context, u *User, id int64, on string) (*Timeline, error) {
	day, err := dayOf(on, "on")
	if err != nil {
		return nil, err
	}
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	m, err := d.meta(ctx, u, o, pageproof.Blocking(pageproof.Prove(o.k.index, o.p, d.house())))
	if err != nil {
		return nil, err
	}
	r := d.store.Reads(ctx)
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return nil, err
	}
	slices.SortFunc(all, func(a, b store.Revision) int { return a.Number - b.Number })
	out := &Timeline{Meta: m, Versions: []Version{}}
	var last *opened // the release before
	for i := range all {
		rev := &all[i]
		if latch.State(rev.State) == latch.Deleted || mayRead(u, rev) != nil {
			continue
		}
		p, err := d.read(r, rev)
		if err != nil {
			return nil, err
		}
		v, err := version(r, p)
		if err != nil {
			return nil, err
		}
		if last != nil {
			v.Against, v.Counted = last.rev.ID, redline.Between(last.state(), p.state()).Counted
		}
		if rev.LatchedAt != nil {
			last = p
			for k := range out.Versions {
				if q := &out.Versions[k]; q.From != nil && q.Until == nil {
					q.Until = rev.LatchedAt
				}
			}
		}
		out.Versions = append(out.Versions, *v)
	}
	if on != "" {
		out.Held = heldBefore(out.Versions, day.AddDate(0, 0, 1))
	}
	slices.Reverse(out.Versions)
	return out, nil
}

// heldBefore is the version that held just before a moment, 0 for none.
func heldBefore(vs []Version, before time.Time) int64 {
	for i := range vs {
		v := &vs[i]
		if v.From != nil && v.From.Before(before) && (v.Until == nil || !v.Until.Before(before)) {
			return v.ID
		}
	}
	return 0
}

// version lays one revision out.
func version(r store.Reads, p *opened) (*Version, error) {
	shut, err := r.Shut(p.rev.ID)
	if err != nil {
		return nil, err
	}
	names, err := r.Names(p.rev.ChangedBy)
	if err != nil {
		return nil, err
	}
	v := &Version{
		Sibling: Sibling{p.rev.ID, p.rev.Number, p.rev.State}, Reason: p.rev.Reason, By: names[p.rev.ChangedBy],
		Steps: len(p.p.Steps), ChangedAt: p.rev.ChangedAt, From: p.rev.LatchedAt, Closings: []VersionClosing{},
	}
	if latch.State(p.rev.State) == latch.Withdrawn {
		if v.Withdrawn, err = withdrawn(r, p.rev.ID); err != nil {
			return nil, err
		}
		v.Until = &v.Withdrawn.At
	}
	for i := range shut {
		v.Closings = append(v.Closings, VersionClosing{shut[i].Latch, shut[i].Name, shut[i].At})
	}
	return v, nil
}
