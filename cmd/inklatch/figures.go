package main

import (
	"context"
	"strconv"
	"time"

	"github.com/prometheus/client_golang/prometheus"

	"inklatch/internal/desk"
	"inklatch/internal/store"
)

// registerFigures adds what the program says of itself beside its requests: what it was
// built from, whether its database takes writes, what waits in its queue, and letters.
func registerFigures(r prometheus.Registerer, p *place, d *desk.Desk) {
	gauge := func(name, help string, f func(context.Context) float64) {
		r.MustRegister(prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, func() float64 {
			ctx, cancel := context.WithTimeout(context.Background(), 3*time.Second)
			defer cancel()
			return f(ctx)
		}))
	}
	r.MustRegister(prometheus.NewGaugeFunc(prometheus.GaugeOpts{
		Name: "inklatch_build_info", Help: "What the program was built from; always 1.",
		ConstLabels: prometheus.Labels{"version": version(), "schema": strconv.FormatInt(store.SchemaVersion(), 10)},
	}, func() float64 { return 1 }))
	gauge("inklatch_database_up", "1 while the database takes writes.", func(ctx context.Context) float64 {
		if p.store.Probe(ctx) != nil {
			return 0
		}
		return 1
	})
	gauge("inklatch_jobs_waiting", "Jobs in the queue that nobody has begun; -1 where the database does not say.", func(ctx context.Context) float64 {
		n, err := p.store.Reads(ctx).JobsWaiting()
		if err != nil {
			return -1
		}
		return float64(n)
	})
	for outcome, count := range map[string]func() int64{"sent": d.Jobs.LettersSent, "failed": d.Jobs.LettersFailed} {
		r.MustRegister(prometheus.NewCounterFunc(prometheus.CounterOpts{
			Name: "inklatch_letters_total", Help: "Letters by outcome.", ConstLabels: prometheus.Labels{"outcome": outcome},
		}, func() float64 { return float64(count()) }))
	}
}
