package desk

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/latch"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// reproofArgs is the job that proves a code's procedures against a new sheet.
type reproofArgs struct {
	Reproof int64 `json:"reproof"`
}

// Kind names the job in the queue.
func (reproofArgs) Kind() string { return "reproof" }

// queue is a client that only puts jobs in; Work runs them.
func queue(s *store.Store) *river.Client[*sql.Tx] {
	c, err := river.NewClient(riverdatabasesql.New(s.SQL()), &river.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		panic(err) // an empty configuration is valid
	}
	return c
}

func (d *Desk) queueReproof(ctx context.Context, tx *sql.Tx, id int64) error {
	_, err := d.jobs.InsertTx(ctx, tx, reproofArgs{id}, nil)
	if err != nil {
		return fmt.Errorf("queueing the proof: %w", err)
	}
	return nil
}

// Work runs queued jobs until the returned stop is called.
func (d *Desk) Work(ctx context.Context) (stop func(context.Context) error, err error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[reproofArgs]) error {
		return d.reprove(ctx, j.Args.Reproof)
	}))
	c, err := river.NewClient(riverdatabasesql.New(d.store.SQL()), &river.Config{
		Logger: slog.New(slog.DiscardHandler), Workers: workers, JobTimeout: -1, PollOnly: true, FetchPollInterval: 300 * time.Millisecond,
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 2}},
	})
	if err != nil {
		return nil, fmt.Errorf("starting the job queue: %w", err)
	}
	if err := c.Start(ctx); err != nil {
		return nil, fmt.Errorf("starting the job queue: %w", err)
	}
	return c.StopAndCancel, nil
}

// touched are the revisions of a code that a changed sheet concerns: of every
// procedure the open one and the latched one.
func (d *Desk) touched(ctx context.Context, code string) ([]store.Revision, error) {
	ps, err := d.store.Procedures(ctx)
	if err != nil {
		return nil, err
	}
	of := map[int64]bool{}
	for _, p := range ps {
		of[p.ID] = p.Engine == code
	}
	all, err := d.store.Revisions(ctx)
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(all, func(r store.Revision) bool {
		return !of[r.ProcedureID] || r.State == string(latch.Superseded)
	}), nil
}

// reproveEvery is how many revisions are proved between two looks at whether
// the work was cancelled.
const reproveEvery = 20

func (d *Desk) reprove(ctx context.Context, id int64) error {
	run, err := d.store.ReproofByID(ctx, id)
	if err != nil {
		return err
	}
	all, err := d.store.SheetsOf(ctx, run.Code)
	if err != nil {
		return err
	}
	var now, before *known
	for i := range all {
		switch {
		case all[i].ID == run.SheetID:
			now, err = d.knowSheet(&all[i])
		case now != nil && before == nil && all[i].State == "superseded":
			before, err = d.knowSheet(&all[i])
		}
		if err != nil {
			return err
		}
	}
	if now == nil {
		return river.JobCancel(errors.New("the sheet has gone"))
	}
	if before == nil {
		before = now
	}
	revs, err := d.touched(ctx, run.Code)
	if err != nil {
		return err
	}
	for part := range slices.Chunk(revs, reproveEvery) {
		if r, err := d.store.ReproofByID(ctx, id); err != nil || r.State == "cancelled" {
			return err
		}
		var rows []store.ReproofRow
		for i := range part {
			o, err := d.open(ctx, part[i].ID)
			if err != nil {
				return err
			}
			old := before
			if part[i].Frozen != "" {
				old = o.k // a latched revision was proved with the sheet it was frozen with
			}
			row := again(old.index, now.index, o.p, d.house)
			row.ReproofID, row.RevisionID = id, part[i].ID
			rows = append(rows, row)
		}
		if err := d.store.Advance(ctx, id, rows); err != nil {
			return err
		}
	}
	if err := d.store.Advance(ctx, id, nil); err != nil {
		return err
	}
	return d.store.Finish(ctx, id, "done")
}

// again proves a procedure with two sheets and says what is new.
func again(old, now *engine.Index, p *procedure.Procedure, house proof.House) store.ReproofRow {
	before, after := proof.Prove(old, p, house), proof.Prove(now, p, house)
	had := map[string]bool{}
	for i := range before {
		had[before[i].What] = true
	}
	says := []string{}
	for i := range after {
		if !had[after[i].What] && after[i].Accepted == "" {
			says = append(says, after[i].What+".")
		}
	}
	return store.ReproofRow{Before: proof.Blocking(before), After: proof.Blocking(after), Says: text(says)}
}

// Reproof is how far a code's proof has come and what it found.
type Reproof struct {
	ID       int64        `json:"id"`
	State    string       `json:"state"`
	Total    int          `json:"total"`
	Done     int          `json:"done"`
	By       string       `json:"by"`
	At       time.Time    `json:"at"`
	Finished *time.Time   `json:"finished,omitzero"`
	Rows     []ReproofRow `json:"rows"`
}

// ReproofRow is a revision for which the new sheet changes something.
type ReproofRow struct {
	Revision int64    `json:"revision"`
	Title    string   `json:"title"`
	Number   int      `json:"number"`
	State    string   `json:"state"`
	Before   int      `json:"before"`
	After    int      `json:"after"`
	Says     []string `json:"says"`
}

// mostReproofRows keeps the answer short: those that changed come first.
const mostReproofRows = 200

// Reproof is the newest proof of a code's procedures; nil for none.
func (d *Desk) Reproof(ctx context.Context, u *User, code string) (*Reproof, error) {
	if isReader(u) {
		return nil, forbidden("Proofs of drafts are for those who work on them.")
	}
	r, rows, err := d.store.LastReproof(ctx, code)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	names, err := d.names(ctx)
	if err != nil {
		return nil, err
	}
	out := &Reproof{ID: r.ID, State: r.State, Total: r.Total, Done: r.Done, By: nameOf(names, r.StartedBy), At: r.StartedAt, Finished: r.FinishedAt, Rows: []ReproofRow{}}
	slices.SortStableFunc(rows, func(a, b store.ReproofRow) int { return (b.After - b.Before) - (a.After - a.Before) })
	for i := range rows[:min(len(rows), mostReproofRows)] {
		o, err := d.open(ctx, rows[i].RevisionID)
		if err != nil {
			return nil, err
		}
		v := ReproofRow{Revision: rows[i].RevisionID, Title: o.p.Title, Number: o.rev.Number, State: o.rev.State, Before: rows[i].Before, After: rows[i].After}
		if err := json.Unmarshal([]byte(rows[i].Says), &v.Says); err != nil {
			return nil, err
		}
		out.Rows = append(out.Rows, v)
	}
	return out, nil
}

// CancelReproof stops a proof that is under way.
func (d *Desk) CancelReproof(ctx context.Context, u *User, code string) error {
	if isReader(u) {
		return forbidden("Proofs of drafts are for those who work on them.")
	}
	r, _, err := d.store.LastReproof(ctx, code)
	if errors.Is(err, store.ErrNotFound) {
		return notFound("proof under way")
	}
	if err != nil {
		return err
	}
	return d.store.Finish(ctx, r.ID, "cancelled")
}

// tellsNothing are the values of a sheet that no procedure depends on.
var tellsNothing = []string{"evidence", "use", "family", "maker"}

// Touch is a revision that a draft of a sheet concerns, and by what.
type Touch struct {
	Revision int64    `json:"revision"`
	Title    string   `json:"title"`
	Number   int      `json:"number"`
	State    string   `json:"state"`
	Why      []string `json:"why"`
}

// Touches lists what the draft of a sheet changes and which procedures speak of
// it: those whose steps name a changed thing, and all where the drive itself or
// a limit changes.
func (d *Desk) Touches(ctx context.Context, u *User, code string) (changes []string, touches []Touch, err error) {
	if isReader(u) {
		return nil, nil, forbidden("Drafts are for those who work on them.")
	}
	changes, touches = []string{}, []Touch{}
	_, all, k, err := d.draftOf(ctx, code)
	if err != nil {
		return nil, nil, err
	}
	i := slices.IndexFunc(all, func(s store.Sheet) bool { return s.State == "in use" })
	if i < 0 {
		return changes, touches, nil
	}
	was, err := latchjson.DecodeSheet([]byte(all[i].Sheet))
	if err != nil {
		return nil, nil, err
	}
	edits := engine.Diff(was, k.sheet)
	for i := range edits {
		changes = append(changes, changeName(was, k.sheet, edits[i].Path))
	}
	revs, err := d.touched(ctx, code)
	if err != nil || len(edits) == 0 {
		return changes, touches, err
	}
	for i := range revs {
		o, err := d.open(ctx, revs[i].ID)
		if err != nil {
			return nil, nil, err
		}
		words := text(o.p.Steps)
		t := Touch{revs[i].ID, o.p.Title, revs[i].Number, revs[i].State, []string{}}
		for k, e := range edits {
			list, id, thing := strings.Cut(e.Path, "/")
			if slices.Contains(tellsNothing, list) {
				continue
			}
			if !thing || slices.Contains([]string{"shafts", "wheels", "loops", "gears"}, list) || strings.Contains(words, `"`+id+`"`) {
				t.Why = append(t.Why, changes[k])
			}
		}
		if len(t.Why) > 0 {
			touches = append(touches, t)
		}
	}
	return changes, touches, nil
}

// changeName names what an edit is about.
func changeName(was, now *engine.Sheet, path string) string {
	list, id, thing := strings.Cut(path, "/")
	if !thing {
		return list
	}
	for _, s := range []*engine.Sheet{now, was} {
		x := engine.NewIndex(s)
		if name := x.NameOf(list, id); name != "" {
			if x := engine.NewIndex(now); x.NameOf(list, id) == "" {
				return name + " (taken out)"
			}
			return name
		}
	}
	return path
}
