package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/alexedwards/scs/v2"
)

// SessionStore keeps sessions for the session manager. A session that has ended
// does not come back: a request that is still running only ever updates a row
// that is there.
type SessionStore struct{ s *Store }

// SessionStore is the store's own.
func (s *Store) SessionStore() SessionStore { return SessionStore{s} }

type agentKey struct{}

// WithAgent tells under which name a session is made: the browser's.
func WithAgent(ctx context.Context, agent string) context.Context {
	return context.WithValue(ctx, agentKey{}, agent)
}

// FindCtx finds a session that has not expired and has been used lately.
func (v SessionStore) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	var row struct {
		PersonID int64
		Data     []byte
		Seal     string
		Stale    bool
	}
	err := v.s.db.WithContext(ctx).Raw(`SELECT person_id, data, seal, seen_at < now() - interval '1 minute' AS stale FROM sessions
		WHERE token = ? AND expiry > now() AND seen_at > now() - make_interval(secs => ?)`, SessionKey(token), SessionIdle.Seconds()).Scan(&row).Error
	if err != nil || row.Data == nil || row.Seal != v.seal(SessionKey(token), row.PersonID, row.Data) {
		return nil, false, err // nobody is signed in by a row that somebody wrote by hand
	}
	if row.Stale { // once a minute, not at every request
		err = v.s.db.WithContext(ctx).Exec("UPDATE sessions SET seen_at = now() WHERE token = ?", SessionKey(token)).Error
	}
	return row.Data, true, err
}

// How long a session lives, and how long it may lie unused.
const (
	SessionLife = 7 * 24 * time.Hour
	SessionIdle = 24 * time.Hour
)

// CommitCtx keeps a session of somebody who has just signed in.
func (v SessionStore) CommitCtx(ctx context.Context, token string, b []byte, expiry time.Time) error {
	_, values, err := scs.GobCodec{}.Decode(b)
	if err != nil {
		return err
	}
	person, _ := values["person"].(int64)
	if person == 0 {
		return nil // nobody signed in: there is nothing to keep
	}
	agent, _ := ctx.Value(agentKey{}).(string)
	key := SessionKey(token)
	return v.s.db.WithContext(ctx).Exec(`INSERT INTO sessions (token, person_id, data, expiry, agent, seal) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (token) DO UPDATE SET data = EXCLUDED.data, seal = EXCLUDED.seal`, key, person, b, expiry, agent, v.seal(key, person, b)).Error
}

func (v SessionStore) seal(key string, person int64, data []byte) string {
	return v.s.seal("sessions", key, fmt.Sprint(person), string(data))
}

// DeleteCtx ends a session, here and wherever it is open.
func (v SessionStore) DeleteCtx(ctx context.Context, token string) error {
	return v.s.in(ctx, func(t *tx) error {
		var person int64
		if err := t.db.Raw("DELETE FROM sessions WHERE token = ? RETURNING person_id", SessionKey(token)).Scan(&person).Error; err != nil || person == 0 {
			return err
		}
		return t.notify(Event{Person: person})
	})
}

// SessionKey is the name a session is kept under: the SHA-256 of its token, which
// nobody can sign in with.
func SessionKey(token string) string { return sum(token) }

// SessionLives reports whether the session kept under a key is still there.
func (r Reads) SessionLives(token string) (bool, error) {
	var yes bool
	err := r.db.Raw("SELECT EXISTS (SELECT 1 FROM sessions WHERE token = ? AND expiry > now())", token).Scan(&yes).Error
	return yes, err
}

// Sweep takes out sessions and links that have expired.
func (s *Store) Sweep(ctx context.Context) error {
	return s.db.WithContext(ctx).Exec("DELETE FROM sessions WHERE expiry < now() OR seen_at < now() - make_interval(secs => ?)", SessionIdle.Seconds()).Error
}

var errNoContext = errors.New("sessions are asked for with a context")

// Find, Commit and Delete are never called: the manager prefers the others.

// Find is FindCtx.
func (SessionStore) Find(string) ([]byte, bool, error) { return nil, false, errNoContext }

// Commit is CommitCtx.
func (SessionStore) Commit(string, []byte, time.Time) error { return errNoContext }

// Delete is DeleteCtx.
func (SessionStore) Delete(string) error { return errNoContext }
