package demo

import (
	"context"
	"time"

	"inklatch/internal/store"
)

// LoadLived is Load as if the work had been done over the last months, so that a demo
// has a past to look at: what held on a day, how long something waits. It turns the
// clock of the store back while it loads, and nothing else may use it until it is done.
func LoadLived(ctx context.Context, s *store.Store) error {
	c := &calendar{today: time.Now()}
	store.Now = c.now
	defer func() { store.Now = time.Now }()
	c.back(150)
	return load(ctx, s, c)
}

// calendar is a clock that stands on some day of the past and goes on from there; nil
// is the clock on the wall.
type calendar struct {
	today time.Time
	// at is where it was set, since when that was.
	at, since time.Time
}

func (c *calendar) now() time.Time { return c.at.Add(time.Since(c.since)) }

// back sets the clock to a morning so many days ago, or of the Friday before; it never goes back from where it
// stands.
func (c *calendar) back(days int) {
	if c == nil {
		return
	}
	on := c.today.AddDate(0, 0, -days)
	for on.Weekday() == time.Saturday || on.Weekday() == time.Sunday {
		on = on.AddDate(0, 0, -1)
	}
	y, m, d := on.Date()
	at := time.Date(y, m, d, 8, 12, 0, 0, c.today.Location())
	if !c.at.IsZero() && at.Before(c.now()) {
		return
	}
	c.at, c.since = at, time.Now()
}

// pass lets some time of the day pass, never beyond now.
func (c *calendar) pass(d time.Duration) {
	if c == nil {
		return
	}
	if at := c.now().Add(d); at.Before(c.today) {
		c.at, c.since = at, time.Now()
	}
}
