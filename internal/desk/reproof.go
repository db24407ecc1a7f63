package desk

import (
	"context"
	"crypto/rand"
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
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/latch"
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

func (d *Engines) queueReproof(ctx context.Context, tx *sql.Tx, id int64) error {
	_, err := d.jobs.InsertTx(ctx, tx, reproofArgs{id}, nil)
	if err != nil {
		return fmt.Errorf("queueing the proof: %w", err)
	}
	return nil
}

// reproveEvery is how many revisions are proved between two looks at whether
// the work was cancelled, with the lease renewed at each.
const reproveEvery = 20

// reprove proves what a reproof has not been through yet. It is a lease that
// makes one worker do so: where another holds it there is nothing to do.
func (d *Engines) reprove(ctx context.Context, id int64) error {
	worker := rand.Text()
	if mine, err := d.store.Claim(ctx, id, worker); err != nil || !mine {
		return err
	}
	r := d.store.Reads(ctx)
	run, err := r.ReproofByID(id)
	if err != nil {
		return err
	}
	now, before, err := d.beforeAndNow(r, run)
	if err != nil {
		return err
	}
	revs, err := r.Open(run.Code)
	if err != nil {
		return err
	}
	done, err := r.ReproofDone(id)
	if err != nil {
		return err
	}
	revs = slices.DeleteFunc(revs, func(v store.Revision) bool { return done[v.ID] })
	for part := range slices.Chunk(revs, reproveEvery) {
		if mine, err := d.store.Claim(ctx, id, worker); err != nil || !mine {
			return err // cancelled, or taken over
		}
		var rows []store.ReproofRow
		for i := range part {
			row, err := d.reproveOne(ctx, r, part[i].ID, before, now)
			if err != nil {
				return err
			}
			row.ReproofID = id
			rows = append(rows, *row)
		}
		if err := d.store.Advance(ctx, id, rows); err != nil {
			return err
		}
	}
	if err := d.store.Advance(ctx, id, nil); err != nil {
		return err
	}
	if err := d.indexStale(ctx); err != nil { // by the names of the new sheet
		return err
	}
	return d.store.Finish(ctx, id, "done")
}

// beforeAndNow are the sheet a reproof is about and the one before it.
func (d *Engines) beforeAndNow(r store.Reads, run *store.Reproof) (now, before *known, err error) {
	all, err := r.SheetsOf(run.Code)
	if err != nil {
		return nil, nil, err
	}
	for i := range all {
		switch {
		case all[i].ID == run.SheetID:
			now, err = d.knowSheet(r, &all[i])
		case now != nil && before == nil && all[i].State == "superseded":
			before, err = d.knowSheet(r, &all[i])
		}
		if err != nil {
			return nil, nil, err
		}
	}
	if now == nil {
		return nil, nil, river.JobCancel(errors.New("the sheet has gone"))
	}
	if before == nil {
		before = now
	}
	return now, before, nil
}

// reproveOne proves one revision with both sheets; what a draft comes to with
// the new one is kept for lists.
func (d *Engines) reproveOne(ctx context.Context, r store.Reads, id int64, before, now *known) (*store.ReproofRow, error) {
	o, err := d.open(r, id)
	if err != nil {
		return nil, err
	}
	old := before
	if latch.State(o.rev.State).Frozen() || o.rev.SheetID != nil {
		old = o.k // proved with the sheet its latches are closed over
	}
	row := again(old.index, now.index, o.p, d.house())
	row.RevisionID = id
	if latch.State(o.rev.State).Open() {
		if _, err := d.stand(ctx, r, o); err != nil {
			return nil, err
		}
	}
	return &row, nil
}

// again proves a procedure with two sheets and says what is new.
func again(old, now *engine.Index, p *procedure.Procedure, house finding.House) store.ReproofRow {
	before, after := pageproof.Prove(old, p, house), pageproof.Prove(now, p, house)
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
	return store.ReproofRow{Before: pageproof.Blocking(before), After: pageproof.Blocking(after), Says: text(says)}
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
func (d *Engines) Reproof(ctx context.Context, u *User, code string) (*Reproof, error) {
	if isReader(u) {
		return nil, forbidden("Proofs of drafts are for those who work on them.")
	}
	reads := d.store.Reads(ctx)
	r, rows, err := reads.LastReproof(code)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var who int64
	if r.StartedBy != nil {
		who = *r.StartedBy
	}
	names, err := reads.Names(who)
	if err != nil {
		return nil, err
	}
	out := &Reproof{ID: r.ID, State: r.State, Total: r.Total, Done: r.Done, By: nameOf(names, r.StartedBy), At: r.StartedAt, Finished: r.FinishedAt, Rows: []ReproofRow{}}
	slices.SortStableFunc(rows, func(a, b store.ReproofRow) int { return (b.After - b.Before) - (a.After - a.Before) })
	for i := range rows[:min(len(rows), mostReproofRows)] {
		o, err := d.open(reads, rows[i].RevisionID)
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
func (d *Engines) CancelReproof(ctx context.Context, u *User, code string) error {
	if isReader(u) {
		return forbidden("Proofs of drafts are for those who work on them.")
	}
	r, _, err := d.store.Reads(ctx).LastReproof(code)
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
func (d *Engines) Touches(ctx context.Context, u *User, code string) (changes []string, touches []Touch, err error) {
	if isReader(u) {
		return nil, nil, forbidden("Drafts are for those who work on them.")
	}
	changes, touches = []string{}, []Touch{}
	r := d.store.Reads(ctx)
	_, _, k, err := d.draftOf(r, code)
	if err != nil {
		return nil, nil, err
	}
	head, err := r.InUse(code)
	if errors.Is(err, store.ErrNotFound) {
		return changes, touches, nil
	}
	if err != nil {
		return nil, nil, err
	}
	was, err := d.knowSheet(r, head)
	if err != nil {
		return nil, nil, err
	}
	edits := engine.Diff(was.sheet, k.sheet)
	for i := range edits {
		changes = append(changes, changeName(was.sheet, k.sheet, edits[i].Path))
	}
	revs, err := r.Open(code)
	if err != nil || len(edits) == 0 {
		return changes, touches, err
	}
	for i := range revs {
		o, err := d.open(r, revs[i].ID)
		if err != nil {
			return nil, nil, err
		}
		if why := touchedBy(k.sheet, o.p, edits, func(i int) string { return changes[i] }); len(why) > 0 {
			touches = append(touches, Touch{revs[i].ID, o.p.Title, revs[i].Number, revs[i].State, why})
		}
	}
	return changes, touches, nil
}

// drives are the parts of a sheet that every page stands on.
var drives = []string{"shafts", "wheels", "loops", "gears", "limits", "varies"}

// touchedBy are the changes of a sheet that a page speaks of, by name: any of
// the drive itself or of a limit, those of things its steps name, and of things
// that these name in turn, such as a lock's tool or plug.
func touchedBy(now *engine.Sheet, p *procedure.Procedure, edits []engine.Edit, name func(int) string) []string {
	words := text(p.Steps) + text(p.Prelims)
	why := []string{}
	for i, e := range edits {
		list, id, thing := strings.Cut(e.Path, "/")
		if slices.Contains(tellsNothing, list) {
			continue
		}
		id, _, _ = strings.Cut(id, "/")
		if !thing || slices.Contains(drives, list) || speaksOf(words, id) || slices.ContainsFunc(engine.NamedBy(now, id), func(by string) bool { return speaksOf(words, by) }) {
			why = append(why, name(i))
		}
	}
	return why
}

func speaksOf(words, id string) bool { return strings.Contains(words, `"`+id+`"`) }

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
