package store

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Event is what servers on one database tell each other. Those of a write are
// heard when it is committed, and not at all when it is not.
type Event struct {
	// Revision has a new Version, or something was said of it.
	Revision int64 `json:"r,omitzero"`
	// Code is the engine code whose sheet it is about, in place of a revision.
	Code    string `json:"e,omitzero"`
	Version int64  `json:"v,omitzero"`
	// Talk is set where something was said of the revision, or arranged.
	Talk bool `json:"t,omitzero"`
	// From is a server that says who has come, moved or left there, or asks who is in
	// some rooms elsewhere.
	From string     `json:"f,omitzero"`
	Here []Presence `json:"h,omitempty"`
	Ask  []Presence `json:"a,omitempty"`
	// Echo is what a server tells itself, to find out whether it hears.
	Echo string `json:"x,omitzero"`
	// House is a version of the house's rules that was saved.
	House int64 `json:"u,omitzero"`
	// Person has changed, or a session of theirs has ended.
	Person int64 `json:"p,omitzero"`
	// Missed is set where the line was down and events may have been lost.
	Missed bool `json:"-"`
}

// Presence is a window at a revision or at the engine sheet of a code.
type Presence struct {
	Revision int64  `json:"r,omitzero"`
	Code     string `json:"e,omitzero"`
	Client   string `json:"c,omitzero"`
	Name     string `json:"n,omitzero"`
	Step     string `json:"s,omitzero"`
	Left     bool   `json:"l,omitzero"`
}

// mostTold is how many bytes of presences go into one event: PostgreSQL carries less than
// 8000 in all.
const mostTold = 6000

// TellPresences tells other servers who has come, moved or left on this one, and asks who
// is in some rooms on theirs, in as few events as it takes.
func (s *Store) TellPresences(ctx context.Context, from string, here, ask []Presence) error {
	e, n := Event{From: from}, 0
	send := func() error {
		defer func() { e, n = Event{From: from}, 0 }()
		return s.Tell(ctx, e)
	}
	for i, all := range [][]Presence{here, ask} {
		for _, p := range all {
			raw, err := json.Marshal(p)
			if err != nil {
				return err
			}
			if n > 0 && n+len(raw) > mostTold {
				if err := send(); err != nil {
					return err
				}
			}
			n += len(raw) + 1
			if i == 0 {
				e.Here = append(e.Here, p)
			} else {
				e.Ask = append(e.Ask, p)
			}
		}
	}
	if n == 0 {
		return nil
	}
	return send()
}

func (s *Store) channel() string { return "inklatch_" + s.schema }

func (t *tx) notify(e Event) error { return notify(t.Reads, t.s.channel(), e) }

func notify(r Reads, channel string, e Event) error {
	raw, err := json.Marshal(e)
	if err != nil {
		return err
	}
	return r.db.Exec("SELECT pg_notify(?, ?)", channel, string(raw)).Error
}

// Tell sends an event that belongs to no write.
func (s *Store) Tell(ctx context.Context, e Event) error {
	return notify(s.Reads(ctx), s.channel(), e)
}

// Listen calls hear with every event until the context ends, on a connection of
// its own. After a cut line it begins anew, with an event that says so. ready is
// closed once it listens.
func (s *Store) Listen(ctx context.Context, ready chan<- struct{}, hear func(Event)) {
	first := true
	for ctx.Err() == nil {
		err := s.listen(ctx, func() {
			if first {
				close(ready)
				first = false
				return
			}
			hear(Event{Missed: true})
		}, hear)
		if ctx.Err() != nil {
			break
		}
		s.conf.Log.Warn("the line on which servers hear each other was cut", "error", err)
		select {
		case <-ctx.Done():
		case <-time.After(time.Second):
		}
	}
	if first {
		close(ready)
	}
}

func (s *Store) listen(ctx context.Context, up func(), hear func(Event)) error {
	conf, err := pgx.ParseConfig(cmp.Or(s.conf.ListenURL, s.conf.URL))
	if err != nil {
		return err
	}
	conf.ConnectTimeout = 5 * time.Second
	conf.RuntimeParams["application_name"] = "inklatch events"
	c, err := pgx.ConnectConfig(ctx, conf)
	if err != nil {
		return err
	}
	defer c.Close(context.WithoutCancel(ctx))
	if _, err := c.Exec(ctx, "LISTEN "+pgx.Identifier{s.channel()}.Sanitize()); err != nil {
		return err
	}
	up()
	for {
		n, err := c.WaitForNotification(ctx)
		if err != nil {
			return fmt.Errorf("waiting for events: %w", err)
		}
		var e Event
		if json.Unmarshal([]byte(n.Payload), &e) == nil {
			hear(e)
		}
	}
}
