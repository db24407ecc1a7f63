package desk

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/house"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/store"
)

// Try holds all pages against rules somebody chose, in the background, beside those that hold.
func (d *House) Try(ctx context.Context, u *User, raw json.RawMessage) (int64, error) {
	if err := mayRule(u); err != nil {
		return 0, err
	}
	r, err := chosen(raw)
	if err != nil {
		return 0, err
	}
	before, err := d.ruled().Write()
	if err != nil {
		return 0, err
	}
	after, err := r.Write()
	if err != nil {
		return 0, err
	}
	t := &store.HouseTrial{Before: string(before), After: string(after), PersonID: u.ID}
	err = d.store.TryHouse(ctx, t, d.queueTrial(ctx))
	return t.ID, err
}

// HouseTrial is how far a trial of rules is, and the pages for which they make a difference.
type HouseTrial struct {
	ID    int64  `json:"id"`
	State string `json:"state"`
	Total int    `json:"total"`
	Done  int    `json:"done"`
	// Stuck is set where its worker has not been heard of for long.
	Stuck bool            `json:"stuck,omitzero"`
	Rows  []HouseTrialRow `json:"rows"`
}

// HouseTrialRow is a page for which rules make a difference.
type HouseTrialRow struct {
	Revision int64  `json:"revision"`
	Engine   string `json:"engine"`
	Title    string `json:"title"`
	Number   int    `json:"number"`
	State    string `json:"state"`
	// Blocked and Blocks are how many findings block it before and after, Missed and Misses
	// how many mistakes it misses.
	Blocked int `json:"blocked"`
	Blocks  int `json:"blocks"`
	Missed  int `json:"missed"`
	Misses  int `json:"misses"`
	TrialSays
}

// TrialSays is what is new under other rules, and what is gone.
type TrialSays struct {
	New  []string `json:"new"`
	Gone []string `json:"gone"`
	// Wants and Spares are latches that are needed now, or no more.
	Wants  []string `json:"wants"`
	Spares []string `json:"spares"`
}

// empty reports whether the rules make no difference.
func (s *TrialSays) empty() bool { return len(s.New)+len(s.Gone)+len(s.Wants)+len(s.Spares) == 0 }

const (
	// mostTrialRows is how many pages of a trial are shown, those with the most to do first.
	mostTrialRows = 200
	// silentFor is after how long a trial of which nothing is heard is taken for left.
	silentFor = 30 * time.Second
)

// Trial is how far a trial is, and what it found.
func (d *House) Trial(ctx context.Context, u *User, id int64) (*HouseTrial, error) {
	if isReader(u) {
		return nil, forbidden("House rules are for those who work on pages.")
	}
	r := d.store.Reads(ctx)
	t, err := r.HouseTrialByID(id)
	if err != nil {
		return nil, missing(err, "trial any more")
	}
	out := &HouseTrial{ID: t.ID, State: t.State, Total: t.Total, Done: t.Done, Rows: []HouseTrialRow{}}
	out.Stuck = t.State == "running" && store.Now().Sub(t.Beat) > silentFor
	rows, err := r.HouseTrialRows(id, mostTrialRows)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		v, err := d.trialRow(r, &rows[i])
		if err != nil {
			return nil, err
		}
		out.Rows = append(out.Rows, *v)
	}
	return out, nil
}

func (d *library) trialRow(r store.Reads, row *store.HouseTrialRow) (*HouseTrialRow, error) {
	o, err := d.open(r, row.RevisionID)
	if err != nil {
		return nil, err
	}
	v := &HouseTrialRow{
		Revision: o.rev.ID, Engine: o.p.Engine, Title: o.p.Title, Number: o.rev.Number, State: o.rev.State,
		Blocked: row.Blocked, Blocks: row.Blocks, Missed: row.Missed, Misses: row.Misses,
	}
	return v, json.Unmarshal([]byte(row.Says), &v.TrialSays)
}

// CancelTrial stops a trial of rules that are not saved.
func (d *House) CancelTrial(ctx context.Context, u *User, id int64) error {
	if err := mayRule(u); err != nil {
		return err
	}
	t, err := d.store.Reads(ctx).HouseTrialByID(id)
	if err != nil {
		return missing(err, "trial any more")
	}
	if t.RulesID != nil {
		return problem(409, "These rules were saved: every page is held against them.")
	}
	return d.store.EndTrial(ctx, id, "cancelled")
}

// Beside is one page under the rules that hold and under others.
func (d *House) Beside(ctx context.Context, u *User, raw json.RawMessage, revision int64) (*HouseTrialRow, error) {
	o, err := d.readable(ctx, u, revision)
	if err != nil {
		return nil, err
	}
	if isReader(u) {
		return nil, forbidden("House rules are for those who work on pages.")
	}
	r, err := chosen(raw)
	if err != nil {
		return nil, err
	}
	now := d.ruled().Rules
	row, err := d.held(ctx, d.store.Reads(ctx), o, &now, &r)
	if err != nil {
		return nil, err
	}
	return d.trialRow(d.store.Reads(ctx), row)
}

// trialArgs is the job that holds all pages against rules.
type trialArgs struct {
	Trial int64 `json:"trial"`
}

// Kind names the job in the queue.
func (trialArgs) Kind() string { return "house-trial" }

func (d *House) queueTrial(ctx context.Context) func(tx *sql.Tx, id int64) error {
	return func(tx *sql.Tx, id int64) error {
		if _, err := d.jobs.InsertTx(ctx, tx, trialArgs{id}, nil); err != nil {
			return fmt.Errorf("queueing the trial: %w", err)
		}
		return nil
	}
}

// try holds all pages that are open or hold against the rules of a trial.
func (d *House) try(ctx context.Context, id int64) error {
	r := d.store.Reads(ctx)
	t, err := r.HouseTrialByID(id)
	if errors.Is(err, store.ErrNotFound) || err == nil && t.State != "running" {
		return nil // forgotten, or stopped
	}
	if err != nil {
		return err
	}
	before, err := rulesOf(t.Before)
	if err != nil {
		return errors.Join(err, d.store.EndTrial(ctx, id, "failed"))
	}
	after, err := rulesOf(t.After)
	if err != nil {
		return errors.Join(err, d.store.EndTrial(ctx, id, "failed"))
	}
	done, last := 0, int64(0)
	for {
		ids, err := r.HouseTries(last, reproveEvery)
		if err != nil {
			return err
		}
		if len(ids) == 0 {
			break
		}
		var rows []store.HouseTrialRow
		for _, last = range ids {
			done++
			o, err := d.open(r, last)
			if err == nil {
				var row *store.HouseTrialRow
				if row, err = d.held(ctx, r, o, &before, &after); err == nil {
					if row.TrialID = id; row.Says != "" && !emptySays(row.Says) {
						rows = append(rows, *row)
					}
				}
			}
			d.tell(fmt.Sprintf("holding revision %d against the house rules", last), err) // it keeps nothing from the others
		}
		if going, err := d.store.GoOn(ctx, id, done, rows); err != nil || !going {
			return err
		}
	}
	if err := d.store.EndTrial(ctx, id, "done"); err != nil {
		return err
	}
	if t.RulesID != nil { // what lists say of pages is of older rules
		if _, err := d.readRules(ctx); err != nil {
			return err
		}
		d.rooms.Jobs.catchUp(ctx)
		d.rooms.Jobs.drillUp(ctx)
	}
	return nil
}

func emptySays(says string) bool {
	var s TrialSays
	return json.Unmarshal([]byte(says), &s) == nil && s.empty()
}

// held is a page under two sets of rules.
func (d *library) held(ctx context.Context, r store.Reads, o *opened, before, after *house.Rules) (*store.HouseTrialRow, error) {
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return nil, err
	}
	latched, err := d.before(r, o, all)
	if err != nil {
		return nil, err
	}
	return worked(func() (*store.HouseTrialRow, error) {
		row := &store.HouseTrialRow{RevisionID: o.rev.ID, Version: o.rev.Version}
		says := TrialSays{New: []string{}, Gone: []string{}, Wants: []string{}, Spares: []string{}}
		was, is := pageproof.Found(o.k.index, o.p, nil, before.Proof), pageproof.Found(o.k.index, o.p, nil, after.Proof)
		row.Blocked, row.Blocks = pageproof.Blocking(was), pageproof.Blocking(is)
		says.New, says.Gone = weighty(is, was), weighty(was, is)
		if !sameDrill(before, after) {
			within, cancel := context.WithTimeout(ctx, mostDrill)
			defer cancel()
			a := drill.Run(within, o.k.index, o.p, drill.Options{House: before.Drill})
			b := drill.Run(within, o.k.index, o.p, drill.Options{House: after.Drill})
			row.Missed, row.Misses = a.Missed, b.Missed
			says.New = append(says.New, missedMore(b, a)...)
			says.Gone = append(says.Gone, missedMore(a, b)...)
		}
		if latch.State(o.rev.State).Open() {
			needed, needs := requiredAgainst(before.Latches, latched, o), requiredAgainst(after.Latches, latched, o)
			says.Wants, says.Spares = without(needs, needed), without(needed, needs)
		}
		row.Says = text(says)
		return row, nil
	})
}

func sameDrill(a, b *house.Rules) bool {
	x, y := house.Default(), house.Default()
	x.Drill, y.Drill = a.Drill, b.Drill
	return x.Same(&y)
}

// without are the latches that others are not.
func without(all, others []latch.Latch) []string {
	out := []string{}
	for _, l := range all {
		if !slices.Contains(others, l) {
			out = append(out, string(l))
		}
	}
	return out
}

// weighty are the open findings that others do not have, or not as grave, with what they ask.
func weighty(fs, others []pageproof.Finding) []string {
	had := map[string]finding.Severity{}
	for i := range others {
		if others[i].Accepted == "" {
			had[others[i].What] = others[i].Severity
		}
	}
	out := []string{}
	for i := range fs {
		if s, ok := had[fs[i].What]; fs[i].Accepted == "" && (!ok || s != fs[i].Severity) {
			out = append(out, fs[i].What+": "+house.Said(fs[i].Severity)+".")
		}
	}
	return out
}

// missedMore are kinds of mistake of which a drill misses more than another.
func missedMore(r, other *drill.Report) []string {
	count := func(r *drill.Report) map[string]int {
		n := map[string]int{}
		for i := range r.Mistakes {
			if r.Mistakes[i].Missed() {
				n[r.Mistakes[i].Family.Name]++
			}
		}
		return n
	}
	had, out := count(other), []string{}
	for _, name := range slices.Sorted(maps.Keys(count(r))) {
		if n := count(r)[name] - had[name]; n > 0 {
			out = append(out, fmt.Sprintf("%s: %d more %s.", name, n, many(n, "mistake is missed", "mistakes are missed")))
		}
	}
	return out
}
