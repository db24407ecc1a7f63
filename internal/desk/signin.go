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

// dummyHash makes a sign-in with an unknown address take as long as one with a
// wrong password.
var dummyHash = sync.OnceValue(func() string {
	h, _ := argon2id.CreateHash("no password at all", argon2id.DefaultParams)
	return h
})

// HashPassword makes the argon2id hash that is kept.
func HashPassword(password string) (string, error) {
	return argon2id.CreateHash(password, argon2id.DefaultParams)
}

// SignIn checks an e-mail address and a password.
func (d *Desk) SignIn(ctx context.Context, email, password string) (*User, error) {
	p, err := d.store.PersonByEmail(ctx, strings.TrimSpace(email))
	hash := dummyHash()
	if err == nil {
		hash = p.PasswordHash
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	ok, _, hashErr := argon2id.CheckHash(password, hash)
	if err != nil || hashErr != nil || !ok {
		return nil, problem(401, "E-mail address and password do not belong together.")
	}
	return userOf(p), nil
}

// UserByID finds a signed-in person again.
func (d *Desk) UserByID(ctx context.Context, id int64) (*User, error) {
	p, err := d.store.PersonByID(ctx, id)
	if err != nil {
		return nil, problem(401, "Sign in first.")
	}
	return userOf(p), nil
}

// Gate slows sign-in attempts: a handful at once from one place, then one every
// few seconds.
type Gate struct {
	mu    sync.Mutex
	seen  map[string]*visitor
	swept time.Time
}

type visitor struct {
	limit *rate.Limiter
	last  time.Time
}

// The sign-in limits: attempts at once, and one more each interval.
const (
	gateBurst    = 10
	gateInterval = 6 * time.Second
)

// Allow reports whether one more attempt from a place may be made now.
func (g *Gate) Allow(place string) bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	now := time.Now()
	if g.seen == nil {
		g.seen = map[string]*visitor{}
	}
	if now.Sub(g.swept) > 10*time.Minute {
		g.swept = now
		for k, v := range g.seen {
			if now.Sub(v.last) > 10*time.Minute {
				delete(g.seen, k)
			}
		}
	}
	v := g.seen[place]
	if v == nil {
		v = &visitor{limit: rate.NewLimiter(rate.Every(gateInterval), gateBurst)}
		g.seen[place] = v
	}
	v.last = now
	return v.limit.Allow()
}
