package desk

import (
	"context"
	"slices"
	"time"

	"inklatch/internal/core/latch"
	"inklatch/internal/store"
)

// ProcedureRow is a procedure with its newest revision that the person may see.
type ProcedureRow struct {
	Procedure       int64       `json:"procedure"`
	Revision        int64       `json:"revision"`
	LatchedRevision int64       `json:"latchedRevision,omitzero"`
	LatchedNumber   int         `json:"latchedNumber,omitzero"`
	Engine          string      `json:"engine"`
	Title           string      `json:"title"`
	Number          int         `json:"number"`
	State           string      `json:"state"`
	Steps           int         `json:"steps"`
	Blocking        int         `json:"blocking"`
	Findings        int         `json:"findings"`
	Latches         []LatchMark `json:"latches"`
	ChangedBy       string      `json:"changedBy"`
	ChangedAt       time.Time   `json:"changedAt"`
	createdBy       int64
}

// Procedures lists every procedure for somebody, by engine code and title.
func (d *Desk) Procedures(ctx context.Context, u *User) ([]ProcedureRow, error) {
	revs, err := d.store.Revisions(ctx)
	if err != nil {
		return nil, err
	}
	names, err := d.names(ctx)
	if err != nil {
		return nil, err
	}
	by := map[int64][]store.Revision{}
	for _, r := range revs {
		by[r.ProcedureID] = append(by[r.ProcedureID], r)
	}
	out := []ProcedureRow{}
	for _, all := range by {
		i := slices.IndexFunc(all, func(r store.Revision) bool { return mayRead(u, &r) == nil })
		if i < 0 {
			continue
		}
		row, err := d.row(ctx, u, &all[i], all, names)
		if err != nil {
			return nil, err
		}
		out = append(out, *row)
	}
	slices.SortFunc(out, func(a, b ProcedureRow) int {
		if c := compare(a.Engine, b.Engine); c != 0 {
			return c
		}
		if c := compare(a.Title, b.Title); c != 0 {
			return c
		}
		return int(a.Procedure - b.Procedure)
	})
	return out, nil
}

func compare(a, b string) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

func (d *Desk) row(ctx context.Context, u *User, rev *store.Revision, all []store.Revision, names map[int64]string) (*ProcedureRow, error) {
	o, err := d.open(ctx, rev.ID)
	if err != nil {
		return nil, err
	}
	blocking, findings := d.counts(o)
	marks, err := d.marks(ctx, u, o, all, blocking)
	if err != nil {
		return nil, err
	}
	row := &ProcedureRow{
		Procedure: rev.ProcedureID, Revision: rev.ID, Engine: o.p.Engine, Title: o.p.Title, Number: rev.Number, State: rev.State, Steps: len(o.p.Steps),
		Blocking: blocking, Findings: findings, Latches: marks, ChangedBy: names[rev.ChangedBy], ChangedAt: rev.ChangedAt, createdBy: rev.CreatedBy,
	}
	for _, r := range all {
		if r.State == string(latch.Latched) {
			row.LatchedRevision, row.LatchedNumber = r.ID, r.Number
		}
	}
	return row, nil
}

// MyDesk is what waits for somebody: latches they may close on the work of
// others, and their own drafts.
func (d *Desk) MyDesk(ctx context.Context, u *User) (reviews, drafts []ProcedureRow, err error) {
	rows, err := d.Procedures(ctx, u)
	if err != nil {
		return nil, nil, err
	}
	reviews, drafts = []ProcedureRow{}, []ProcedureRow{}
	for _, r := range rows {
		switch {
		case r.State == string(latch.OnReview) && slices.ContainsFunc(r.Latches, func(m LatchMark) bool { return m.MayClose }):
			reviews = append(reviews, r)
		case !latch.State(r.State).Frozen() && u.Writes():
			drafts = append(drafts, r)
		}
	}
	return reviews, drafts, nil
}
