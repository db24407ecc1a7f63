package desk

import (
	"context"
	"errors"
	"strings"
	"time"

	"inklatch/internal/core/review/latch"
	"inklatch/internal/store"
)

// ProcedureRow is a procedure with its newest revision that the person may see.
type ProcedureRow struct {
	Procedure       int64  `json:"procedure"`
	Revision        int64  `json:"revision"`
	LatchedRevision int64  `json:"latchedRevision,omitzero"`
	LatchedNumber   int    `json:"latchedNumber,omitzero"`
	Engine          string `json:"engine"`
	Title           string `json:"title"`
	Number          int    `json:"number"`
	State           string `json:"state"`
	Steps           int    `json:"steps"`
	Free            int    `json:"free"`
	Blocking        int    `json:"blocking"`
	Findings        int    `json:"findings"`
	// Caught is how many of its Mistakes come to no harm, Missed how many get through that it
	// needs to catch, when it was last drilled; no Mistakes where it was not yet.
	Caught    int         `json:"caught,omitzero"`
	Mistakes  int         `json:"mistakes,omitzero"`
	Missed    int         `json:"missed,omitzero"`
	Latches   []LatchMark `json:"latches"`
	ChangedBy string      `json:"changedBy"`
	ChangedAt time.Time   `json:"changedAt"`
	// Trouble says why the page cannot be read.
	Trouble string `json:"trouble,omitzero"`
}

// ListQuery says which procedures somebody wants to see, and how.
type ListQuery struct {
	// Filter is words that must each be found, in whatever case.
	Filter  string
	Sort    store.ShelfSort
	Down    bool
	Offset  int
	Limit   int
	Deleted bool
	states  []string
	mine    bool
}

// The most procedures one page of a list has, and the most words of a filter.
const (
	mostRows  = 200
	mostWords = 12
)

// Procedures lists one page of the procedures somebody may see, and how many
// there are.
func (d *Drafts) Procedures(ctx context.Context, u *User, q ListQuery) (rows []ProcedureRow, total int, err error) {
	if err := holdText(q.Filter, "filter", 400); err != nil {
		return nil, 0, err
	}
	words := strings.Fields(q.Filter)
	if len(words) > mostWords {
		words = words[:mostWords]
	}
	if q.Deleted && !u.Writes() {
		return nil, 0, forbidden("Deleted drafts are for those who write.")
	}
	r := d.store.Reads(ctx)
	found, err := r.Shelves(store.ShelfQuery{
		Words: words, Drafts: !isReader(u), Deleted: q.Deleted, States: q.states, Mine: q.mine, Sort: q.Sort, Down: q.Down,
		Offset: max(q.Offset, 0), Limit: min(max(q.Limit, 1), mostRows), Person: u.ID, Edition: d.pageEdition(),
	})
	if err != nil {
		return nil, 0, err
	}
	rows = []ProcedureRow{}
	for i := range found {
		row, err := d.row(ctx, r, u, &found[i])
		if err != nil {
			return nil, 0, err
		}
		rows = append(rows, *row)
		total = found[i].Total
	}
	return rows, total, nil
}

func (d *Drafts) row(ctx context.Context, r store.Reads, u *User, s *store.Shelf) (*ProcedureRow, error) {
	trouble := ""
	if !s.Kept && s.State != string(latch.Deleted) {
		k, err := d.standing(ctx, r, s.Revision)
		if err != nil {
			if trouble, err = troubleOf(err); err != nil {
				return nil, err
			}
			d.log.Warn("a page in a list cannot be read", "revision", s.Revision, "why", trouble)
			k = &store.Standing{Blocking: 1, Findings: 1}
		}
		s.Steps, s.Free, s.Blocking, s.Findings, s.Requires = k.Steps, k.Free, k.Blocking, k.Findings, k.Requires
	}
	var required []latch.Latch
	for name := range strings.SplitSeq(s.Requires, ",") {
		if name != "" {
			required = append(required, latch.Latch(name))
		}
	}
	shut, err := s.Closings()
	if err != nil {
		return nil, err
	}
	marks := d.latchMarks(u, latch.State(s.State), required, shut, s.Blocking, s.WorkedOn, nil)
	rs, err := s.Reviews()
	if err != nil {
		return nil, err
	}
	for i := range marks {
		for _, v := range rs {
			if v.Latch == string(marks[i].Latch) && !marks[i].Closed {
				marks[i].Due, marks[i].Taken, marks[i].TakenBy = v.Due, v.Person, v.Name
			}
		}
	}
	return &ProcedureRow{
		Procedure: s.ProcedureID, Revision: s.Revision, LatchedRevision: s.LatchedID, LatchedNumber: s.LatchedNo, Engine: s.Engine, Title: s.Title,
		Number: s.Number, State: s.State, Steps: s.Steps, Free: s.Free, Blocking: s.Blocking, Findings: s.Findings,
		Caught: s.Caught, Mistakes: s.Made, Missed: s.Missed,
		Latches: marks, ChangedBy: s.ChangedBy, ChangedAt: s.ChangedAt, Trouble: trouble,
	}, nil
}

// standing opens a revision and proves it for lists.
func (d *library) standing(ctx context.Context, r store.Reads, id int64) (*store.Standing, error) {
	o, err := d.open(r, id)
	if err != nil {
		return nil, err
	}
	return d.stand(ctx, r, o)
}

// troubleOf is what is said of one page or sheet of a list that cannot be read, so that it
// keeps nothing from the others. What is wrong with the database is an error still.
func troubleOf(err error) (string, error) {
	var p *Problem
	switch {
	case err == nil, store.Away(err), errors.Is(err, context.Canceled):
		return "", err
	case errors.As(err, &p):
		return p.Title, nil
	}
	return "This cannot be read: " + err.Error() + ".", nil
}

// stand proves a page and keeps what lists say of it.
func (d *library) stand(ctx context.Context, r store.Reads, o *opened) (*store.Standing, error) {
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return nil, err
	}
	required, err := d.required(r, o, all)
	if err != nil {
		return nil, err
	}
	shown, err := d.laid(o.k, o.p, o.rev.Version)
	if err != nil {
		return nil, err
	}
	v := standing(o, shown.Findings, required)
	return &v, d.store.KeepStanding(ctx, v)
}
