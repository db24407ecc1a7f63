package desk

import (
	"context"
	"errors"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"golang.org/x/time/rate"

	"inklatch/internal/store"
)

// How many passwords are hashed at once, how many more may wait for that, and
// for how long. One takes 64 MB for a fraction of a second.
const (
	mostHashing = 4
	mostWaiting = 60
	waitHashing = 8 * time.Second
)

// hashParams are the second recommended set of RFC 9106 section 4 (64 MiB, three
// passes, four lanes), from memory.
var hashParams = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 4, SaltLength: 16, KeyLength: 32}

// dummyHash makes a sign-in with an unknown address take as long as one with a
// wrong password.
var dummyHash = sync.OnceValue(func() string {
	h, _ := argon2id.CreateHash("no password at all", hashParams)
	return h
})

// HashPassword makes the argon2id hash that is kept.
func HashPassword(password string) (string, error) {
	return argon2id.CreateHash(normal(password), hashParams)
}

// hash waits for one of the few places for hashing and runs f there. Whoever
// would have to wait too long is told to come back.
func (d *Access) hash(ctx context.Context, f func() error) error {
	busy := problem(429, "Many people are signing in just now. Wait a moment and try again.")
	busy.Retry = 5 * time.Second
	select {
	case d.waiting <- struct{}{}:
		defer func() { <-d.waiting }()
	default:
		return busy
	}
	t := time.NewTimer(waitHashing)
	defer t.Stop()
	select {
	case d.hashing <- struct{}{}:
		defer func() { <-d.hashing }()
		return f()
	case <-t.C:
		return busy
	case <-ctx.Done():
		return ctx.Err()
	}
}

// SignIn checks an e-mail address and a password.
func (d *Access) SignIn(ctx context.Context, email, password string) (*User, error) {
	wrong := problem(401, "E-mail address and password do not belong together.")
	if len(password) > mostPassword || holdText(email, "email", 320) != nil {
		return nil, wrong
	}
	p, err := d.store.Reads(ctx).PersonByEmail(strings.TrimSpace(email))
	hash := dummyHash()
	switch {
	case err == nil && p.PasswordHash != "":
		hash = p.PasswordHash
	case err != nil && !errors.Is(err, store.ErrNotFound):
		return nil, err
	}
	ok := false
	if err := d.hash(ctx, func() error {
		good, _, err := argon2id.CheckHash(normal(password), hash)
		ok = good
		return err
	}); err != nil {
		return nil, err
	}
	if p == nil || !ok || p.PasswordHash == "" {
		return nil, wrong
	}
	if p.Locked {
		return nil, problem(403, "This account is locked. Ask an administrator.")
	}
	return userOf(p), nil
}

// UserByID finds a signed-in person again. Roles and locks count from the moment
// they are set.
func (d *Access) UserByID(ctx context.Context, id int64) (*User, error) {
	p, err := d.store.Reads(ctx).PersonByID(id)
	if errors.Is(err, store.ErrNotFound) || err == nil && p.Locked {
		return nil, problem(401, "Sign in first.")
	}
	if err != nil {
		return nil, err
	}
	return userOf(p), nil
}

// Gate slows sign-in attempts down: a handful at once under one name, then one
// every so often. It slows and never locks, so that nobody can be shut out by
// somebody else's attempts for longer than a moment.
type Gate struct {
	Burst    int
	Interval time.Duration

	mu    sync.Mutex
	seen  map[string]*visitor
	swept time.Time
}

type visitor struct {
	limit *rate.Limiter
	last  time.Time
}

// mostVisitors bounds what is remembered; beyond it the oldest are forgotten.
const mostVisitors = 50_000

// Allow reports whether one more attempt under a name may be made now, and how
// long to wait otherwise.
func (g *Gate) Allow(name string) (bool, time.Duration) {
	g.mu.Lock()
	defer g.mu.Unlock()
	now := time.Now()
	v := g.visitor(name, now)
	v.last = now
	r := v.limit.ReserveN(now, 1)
	if wait := r.DelayFrom(now); wait > 0 {
		r.CancelAt(now)
		return false, wait
	}
	return true, 0
}

func (g *Gate) visitor(name string, now time.Time) *visitor {
	if g.seen == nil {
		g.seen = map[string]*visitor{}
	}
	full := time.Duration(g.Burst) * g.Interval
	if now.Sub(g.swept) > full || len(g.seen) > mostVisitors {
		g.swept = now
		for k, v := range g.seen {
			if now.Sub(v.last) > full {
				delete(g.seen, k)
			}
		}
		if len(g.seen) > mostVisitors {
			clear(g.seen)
		}
	}
	v := g.seen[name]
	if v == nil {
		v = &visitor{limit: rate.NewLimiter(rate.Every(g.Interval), g.Burst)}
		g.seen[name] = v
	}
	return v
}

// Forget takes a name off the list: who has signed in did know the password.
func (g *Gate) Forget(name string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	delete(g.seen, name)
}
