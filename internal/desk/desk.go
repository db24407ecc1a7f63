// Package desk is what people do: sign in, write, undo, send round, close
// latches, read, bring files in and out. It joins core and store, checks who
// may, and keeps the record.
package desk

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"github.com/riverqueue/river"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/latch"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/step"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// Desk is the house at work. It is safe for use by many goroutines.
type Desk struct {
	store *store.Store
	house proof.House
	jobs  *river.Client[*sql.Tx]
	sheet sync.Map // code+version → *known
	draft sync.Map // revision → *cached
	proof sync.Map // revision → *counted
	// Watchers hears of new versions and of who is where.
	Watchers *Watchers
}

// New is a desk over a store with the default house rules.
func New(s *store.Store) *Desk {
	d := &Desk{store: s, house: proof.DefaultHouse(), Watchers: newWatchers()}
	if s != nil {
		d.jobs = queue(s)
	}
	return d
}

// Problem is an error meant for a person: an HTTP status, a sentence, and the
// field it belongs to.
type Problem struct {
	Status int
	Title  string
	Detail string
	Field  string
}

// Error is the sentence.
func (p *Problem) Error() string { return p.Title }

func problem(status int, format string, args ...any) *Problem {
	return &Problem{Status: status, Title: fmt.Sprintf(format, args...)}
}

func notFound(what string) *Problem { return problem(404, "There is no such %s.", what) }

// forbidden says why somebody may not.
func forbidden(why string) *Problem { return problem(403, "%s", why) }

// User is somebody signed in.
type User struct {
	ID    int64
	Name  string
	Email string
	Roles []latch.Role
}

// Writes reports whether the person may edit drafts.
func (u *User) Writes() bool { return latch.MayWrite(u.Roles) }

// MayWrite says why somebody may not write, nil when they may.
func MayWrite(u *User) error {
	if u.Writes() {
		return nil
	}
	return forbidden("Writing takes the role author.")
}

func userOf(p *store.Person) *User {
	u := &User{ID: p.ID, Name: p.Name, Email: p.Email}
	for r := range strings.SplitSeq(p.Roles, ",") {
		u.Roles = append(u.Roles, latch.Role(r))
	}
	return u
}

// known is a sheet with what is built from it once.
type known struct {
	sheet *engine.Sheet
	index *engine.Index
	lex   *step.Lexicon
}

func know(sheet *engine.Sheet) *known {
	x := engine.NewIndex(sheet)
	return &known{sheet, x, step.NewLexicon(x)}
}

func (d *Desk) engine(ctx context.Context, code string) (*known, error) {
	e, err := d.store.EngineByCode(ctx, code)
	if errors.Is(err, store.ErrNotFound) {
		return nil, notFound("engine code")
	}
	if err != nil {
		return nil, err
	}
	key := fmt.Sprintf("%s/%d", e.Code, e.Version)
	if k, ok := d.sheet.Load(key); ok {
		return k.(*known), nil
	}
	sheet, err := latchjson.DecodeSheet([]byte(e.Sheet))
	if err != nil {
		return nil, fmt.Errorf("reading the sheet of %s: %w", e.Code, err)
	}
	k := know(sheet)
	d.sheet.Store(key, k)
	return k, nil
}

// counted is how many findings a revision had, for its version and its sheet.
type counted struct {
	version            int64
	k                  *known
	blocking, findings int
}

// counts proves a revision, once for each version and sheet: lists ask for all
// of them each time.
func (d *Desk) counts(o *opened) (blocking, findings int) {
	if v, ok := d.proof.Load(o.rev.ID); ok {
		if c := v.(*counted); c.version == o.rev.Version && c.k == o.k {
			return c.blocking, c.findings
		}
	}
	fs := proof.Prove(o.k.index, o.p, d.house)
	c := &counted{o.rev.Version, o.k, proof.Blocking(fs), len(fs)}
	d.proof.Store(o.rev.ID, c)
	return c.blocking, c.findings
}

// cached is a draft as it was parsed at a version.
type cached struct {
	version int64
	p       *procedure.Procedure
}

// opened is a revision with its procedure and engine.
type opened struct {
	rev *store.Revision
	p   *procedure.Procedure
	k   *known
}

// open reads a revision: a draft from its steps, a latched one from the file it
// was frozen as, with the sheet it was frozen with.
func (d *Desk) open(ctx context.Context, id int64) (*opened, error) {
	rev, err := d.store.RevisionByID(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, notFound("revision")
	}
	if err != nil {
		return nil, err
	}
	if rev.Frozen != "" {
		key := fmt.Sprintf("frozen/%d", rev.ID)
		if o, ok := d.sheet.Load(key); ok {
			f := o.(*opened)
			return &opened{rev, f.p, f.k}, nil
		}
		doc, err := latchjson.Decode([]byte(rev.Frozen))
		if err != nil {
			return nil, fmt.Errorf("reading revision %d: %w", rev.ID, err)
		}
		o := &opened{rev, &doc.Procedure, know(&doc.Engine)}
		d.sheet.Store(key, o)
		return o, nil
	}
	if c, ok := d.draft.Load(id); ok && c.(*cached).version == rev.Version {
		p := c.(*cached).p
		k, err := d.engine(ctx, p.Engine)
		return &opened{rev, p, k}, err
	}
	steps, err := d.store.StepsOf(ctx, id)
	if err != nil {
		return nil, err
	}
	p, err := assemble(rev, steps)
	if err != nil {
		return nil, err
	}
	if max := newest(steps, rev); max <= rev.Version {
		d.draft.Store(id, &cached{rev.Version, p})
	}
	k, err := d.engine(ctx, p.Engine)
	if err != nil {
		return nil, err
	}
	return &opened{rev, p, k}, nil
}

// newest is the highest version of any part of a draft.
func newest(steps []store.Step, rev *store.Revision) int64 {
	v := rev.HeaderAt
	for i := range steps {
		v = max(v, steps[i].Version)
	}
	return v
}

// assemble puts a procedure together from its rows.
func assemble(rev *store.Revision, rows []store.Step) (*procedure.Procedure, error) {
	p := &procedure.Procedure{Steps: make([]step.Step, 0, len(rows))}
	if err := json.Unmarshal([]byte(rev.Header), &p.Header); err != nil {
		return nil, fmt.Errorf("reading the header of revision %d: %w", rev.ID, err)
	}
	for i := range rows {
		if rows[i].Gone {
			continue
		}
		var s step.Step
		if err := json.Unmarshal([]byte(rows[i].Body), &s); err != nil {
			return nil, fmt.Errorf("reading step %q of revision %d: %w", rows[i].StepID, rev.ID, err)
		}
		p.Steps = append(p.Steps, s)
	}
	return p, nil
}

func text(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only types of ours are written
	}
	return string(b)
}

// nameOf is somebody's name.
func (d *Desk) names(ctx context.Context) (map[int64]string, error) {
	all, err := d.store.People(ctx)
	if err != nil {
		return nil, err
	}
	out := make(map[int64]string, len(all))
	for _, p := range all {
		out[p.ID] = p.Name
	}
	return out, nil
}

// mayRead holds everybody signed in to be a reader; drafts are for those who
// work on them.
func mayRead(u *User, rev *store.Revision) error {
	if latch.State(rev.State).Frozen() || slices.ContainsFunc(u.Roles, func(r latch.Role) bool { return r != latch.Reader }) {
		return nil
	}
	return forbidden("Readers see latched revisions only. This one is still being written.")
}

func yearsText(y engine.Years) string {
	switch {
	case y.From == 0:
		return "all"
	case y.To == 0:
		return fmt.Sprintf("from %d", y.From)
	case y.To == y.From:
		return fmt.Sprint(y.From)
	}
	return fmt.Sprintf("%d–%d", y.From, y.To)
}
