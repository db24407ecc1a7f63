package desk

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
)

// The beats of what a server does by itself.
const (
	orphansEvery = 2 * time.Second
	anchorsEvery = 10 * time.Minute
	sweepEvery   = 10 * time.Minute
	indexEvery   = time.Minute
)

// Work runs queued jobs, hears what other servers on the same database do, takes
// up work whose worker has gone, and signs the record now and then, until the
// returned stop is called.
func (d *Jobs) Work(ctx context.Context) (stop func(context.Context) error, err error) {
	workers := river.NewWorkers()
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[reproofArgs]) error {
		return d.rooms.Engines.reprove(ctx, j.Args.Reproof)
	}))
	river.AddWorker(workers, river.WorkFunc(func(ctx context.Context, j *river.Job[trialArgs]) error {
		return d.rooms.House.try(ctx, j.Args.Trial)
	}))
	c, err := river.NewClient(riverdatabasesql.New(d.store.SQL()), &river.Config{
		Logger: slog.New(slog.DiscardHandler), Workers: workers, JobTimeout: -1, PollOnly: true, FetchPollInterval: 300 * time.Millisecond,
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 2}}, ReindexerSchedule: river.NeverSchedule(),
	})
	if err != nil {
		return nil, fmt.Errorf("starting the job queue: %w", err)
	}
	if err := c.Start(ctx); err != nil {
		return nil, fmt.Errorf("starting the job queue: %w", err)
	}
	ctx, cancel := context.WithCancel(ctx)
	var wg sync.WaitGroup
	ready := make(chan struct{})
	wg.Go(func() { d.store.Listen(ctx, ready, d.rooms.Watchers.hear) })
	<-ready
	wg.Go(func() {
		if !d.rooms.Watchers.heard(ctx, 10*time.Second) && ctx.Err() == nil {
			d.log.Error("notices of the database do not arrive here: windows do not hear of each other, and a lock or a new role counts only after a while. Where DATABASE_URL goes through a connection pool, name a direct address in DATABASE_LISTEN_URL")
		}
	})
	wg.Go(func() { every(ctx, sayAgain, d.rooms.Watchers.refresh) })
	wg.Go(func() { every(ctx, orphansEvery, d.takeUp) })
	wg.Go(func() { every(ctx, anchorsEvery, d.sign) })
	wg.Go(func() { every(ctx, sweepEvery, d.sweep) })
	wg.Go(func() {
		d.catchUp(ctx)
		d.drillUp(ctx)
	})
	wg.Go(func() { every(ctx, indexEvery, d.reindex) })
	wg.Go(func() { every(ctx, lettersEvery, d.letters) })
	return func(last context.Context) error {
		cancel()
		wg.Wait()
		d.sign(last)
		return c.StopAndCancel(last)
	}, nil
}

func every(ctx context.Context, beat time.Duration, f func(context.Context)) {
	t := time.NewTicker(beat)
	defer t.Stop()
	for {
		f(ctx)
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
	}
}

// tell writes an error of work nobody waits for into the log.
func (d *library) tell(what string, err error) {
	if err != nil && !errors.Is(err, context.Canceled) {
		d.log.Error(what, "error", err)
	}
}

// takeUp queues proofs again whose worker has gone.
func (d *Jobs) takeUp(ctx context.Context) {
	n, err := d.store.Orphans(ctx, func(tx *sql.Tx, id int64) error { return d.rooms.Engines.queueReproof(ctx, tx, id) })
	d.tell("taking work up that was left", err)
	_, err = d.store.TakeUpTrials(ctx, silentFor, d.rooms.House.queueTrial(ctx))
	d.tell("taking up a trial of house rules that was left", err)
	if n > 0 {
		d.log.Info("work that was left is taken up", "proofs", n)
	}
}

func (d *Jobs) sign(ctx context.Context) { d.tell("signing the record", d.store.Sign(ctx)) }

func (d *Jobs) sweep(ctx context.Context) { d.tell("sweeping sessions", d.store.Sweep(ctx)) }

func (d *Jobs) reindex(ctx context.Context) {
	d.tell("finding where things are used", d.rooms.Engines.indexStale(ctx))
}

// catchUp proves what lists have no figures for: sheets and pages written by an older
// program, or with other rules.
func (d *Jobs) catchUp(ctx context.Context) {
	d.catchUpSheets(ctx)
	last := int64(0)
	for ctx.Err() == nil {
		ids, err := d.store.Reads(ctx).Unproved(d.pageEdition(), last, 50)
		if err != nil || len(ids) == 0 {
			d.tell("proving pages for lists", err)
			return
		}
		for _, last = range ids {
			r := d.store.Reads(ctx)
			if _, err := d.standing(ctx, r, last); err != nil { // it keeps nothing from the others
				d.tell(fmt.Sprintf("proving revision %d for lists", last), err)
			}
		}
	}
}

// drillUp drills what was never drilled as it stands: pages written by an older program, or
// whose sheet is newer.
func (d *Jobs) drillUp(ctx context.Context) {
	last := int64(0)
	for ctx.Err() == nil {
		r := d.store.Reads(ctx)
		ids, err := r.Undrilled(d.drillEdition(), last, 50)
		if err != nil || len(ids) == 0 {
			d.tell("drilling pages for lists", err)
			return
		}
		for _, last = range ids {
			o, err := d.open(r, last)
			if err == nil {
				_, err = d.report(ctx, o)
			}
			d.tell(fmt.Sprintf("drilling revision %d for lists", last), err) // it keeps nothing from the others
		}
	}
}

func (d *Jobs) catchUpSheets(ctx context.Context) {
	last := int64(0)
	for ctx.Err() == nil {
		r := d.store.Reads(ctx)
		all, err := r.Uncarded(d.sheetEdition(), last, 50)
		if err != nil || len(all) == 0 {
			d.tell("proving engine sheets for lists", err)
			return
		}
		for i := range all {
			last = all[i].SheetID
			if _, err := d.cardOf(ctx, r, &all[i]); err != nil { // it keeps nothing from the others
				d.tell(fmt.Sprintf("proving the sheet of %s for lists", all[i].Code), err)
			}
		}
	}
}
