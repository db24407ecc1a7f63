package desk

import (
	"context"

	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/core/virtual"
	"inklatch/internal/desk/view"
)

// Redlined is what lies between an earlier revision and one that is read.
type Redlined struct {
	Meta *Meta `json:"meta"`
	// Against is the earlier revision; absent for the first of its procedure, which
	// has nothing before it.
	Against *Sibling         `json:"against,omitempty"`
	Redline *redline.Redline `json:"redline"`
	// New are the findings that were not there before, Settled those that are no more,
	// each as its sentence.
	New     []string `json:"new"`
	Settled []string `json:"settled"`
	// Head is what stands above the steps.
	Head []redline.Said `json:"head"`
	// Chart is the latch chart now, Was that of the earlier state.
	Chart []virtual.Lifeline `json:"chart"`
	Was   []virtual.Lifeline `json:"was"`
	// Reading is what the person has read of a revision that is open; Remarks are what
	// was said of one, for those who may say something.
	Reading *ReadState `json:"reading,omitempty"`
	Remarks []Remark   `json:"remarks"`
}

// SinceRead draws a redline against what the person has read of the procedure, in
// place of an earlier revision.
const SinceRead = -1

// Redline draws the redline of a revision against an earlier one of its procedure:
// against 0 is the last that was released before it, or the one before where none
// was; SinceRead is what the person has read. Both revisions must be ones that the
// person may read.
func (d *Review) Redline(ctx context.Context, u *User, id, against int64) (*Redlined, error) {
	o, v, m, err := d.shownTo(ctx, u, id)
	if err != nil {
		return nil, err
	}
	out := &Redlined{Meta: m, New: []string{}, Settled: []string{}, Chart: v.Chart, Was: []virtual.Lifeline{}, Remarks: []Remark{}}
	if err := d.reviewOf(ctx, u, o, out); err != nil {
		return nil, err
	}
	was, err := d.earlier(ctx, u, o, m, against, out)
	if err != nil {
		return nil, err
	}
	now := o.state()
	out.Head = redline.Heading(now)
	if was == nil {
		out.Redline = redline.Between(now, now)
		return out, nil
	}
	out.Redline = redline.Between(was.state(), now)
	before := pageproof.Prove(was.k.index, was.p, d.house())
	out.New, out.Settled = sayings(v.Findings, before), sayings(before, v.Findings)
	out.Was = virtual.Run(was.k.index, was.p).Lifelines(was.p)
	return out, nil
}

// shownTo is a revision that somebody may read, as it is shown, with its title block.
func (d *library) shownTo(ctx context.Context, u *User, id int64) (*opened, *view.View, *Meta, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, nil, nil, err
	}
	v, err := d.show(o)
	if err != nil {
		return nil, nil, nil, err
	}
	m, err := d.meta(ctx, u, o, v.Blocking)
	return o, v, m, err
}

// earlier is the state that a redline is drawn against; nil for none.
func (d *library) earlier(ctx context.Context, u *User, o *opened, m *Meta, against int64, out *Redlined) (*opened, error) {
	if against == SinceRead {
		page, err := d.readBy(d.store.Reads(ctx), u, o.rev.ProcedureID)
		if err != nil {
			return nil, err
		}
		return &opened{o.rev, page.Procedure(o.p), o.k}, nil
	}
	out.Against = earlierOf(m, against)
	switch {
	case out.Against != nil:
		return d.readable(ctx, u, out.Against.ID)
	case against != 0:
		return nil, notFound("revision of this procedure")
	}
	return nil, nil
}

// reviewOf fills in what somebody has read of a revision and what was said of it.
func (d *Review) reviewOf(ctx context.Context, u *User, o *opened, out *Redlined) error {
	if isReader(u) {
		return nil
	}
	r := d.store.Reads(ctx)
	t, err := talkOf(r, o.rev.ID)
	if err != nil {
		return err
	}
	if out.Remarks, err = t.lay(r, u, o); err != nil || !latch.State(o.rev.State).Open() {
		return err
	}
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return err
	}
	before, err := d.before(r, o, all)
	if err != nil {
		return err
	}
	page, err := d.hasRead(r, u, o.rev.ProcedureID)
	if err != nil {
		return err
	}
	out.Reading = d.readState(u, o, before, requiredAgainst(d.latches(), before, o), page.Unread(stateOf(o, before)))
	return nil
}

// earlierOf is the revision that a redline is drawn against; nil where there is none.
func earlierOf(m *Meta, against int64) *Sibling {
	var best *Sibling
	for i := range m.Siblings {
		s := &m.Siblings[i]
		if against != 0 {
			if s.ID == against && s.ID != m.ID {
				return s
			}
			continue
		}
		released := func(v *Sibling) bool { return latch.State(v.State).Frozen() }
		if s.Number < m.Number && s.State != "deleted" && (best == nil || released(s) && !released(best) || released(s) == released(best) && s.Number > best.Number) {
			best = s
		}
	}
	return best
}

// sayings are the sentences of findings that are among a and not among b, by what
// they say without the numbers of their steps.
func sayings(a, b []pageproof.Finding) []string {
	had := map[string]int{}
	for i := range b {
		had[b[i].Rule+" "+b[i].Why]++
	}
	out := []string{}
	for i := range a {
		if a[i].Accepted != "" || a[i].Cause != "" {
			continue
		}
		key := a[i].Rule + " " + a[i].Why
		if had[key] > 0 {
			had[key]--
			continue
		}
		out = append(out, a[i].What)
	}
	return out
}
