package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
)

// ErrTaken is the error of an e-mail address somebody has already.
var ErrTaken = errors.New("somebody has that e-mail address already")

// ErrLastAdministrator is the error of taking the last administrator away.
var ErrLastAdministrator = errors.New("this is the last administrator who can sign in")

// ErrUsed is the error of a link that was used, has expired, or never was.
var ErrUsed = errors.New("this link has been used or has expired")

func sum(s string) string {
	h := sha256.Sum256([]byte(s))
	return hex.EncodeToString(h[:])
}

func rawJSON(s string) json.RawMessage { return json.RawMessage(s) }

// personLock serialises changes of people, so that two administrators cannot
// lock each other out in the same moment.
const personLock = 0x1a7c5

// what a line of the record says of somebody: everything a sign-in depends on.
func personPayload(p *Person) map[string]any {
	return map[string]any{"id": p.ID, "email": p.Email, "name": p.Name, "roles": p.Roles, "locked": p.Locked, "password": sum(p.PasswordHash)}
}

func (t *tx) lockPeople() error {
	return t.db.Exec("SELECT pg_advisory_xact_lock(?, hashtext(current_schema()))", personLock).Error
}

// AddPerson adds somebody and fills in the id. by is who adds them, 0 for the
// command line or the person themselves.
func (s *Store) AddPerson(ctx context.Context, p *Person, by int64) error {
	return s.in(ctx, func(t *tx) error {
		if err := t.lockPeople(); err != nil {
			return err
		}
		if err := t.holdName(0, p.Name); err != nil {
			return err
		}
		return t.addPerson(p, by)
	})
}

// self is who adds somebody that nobody added: the first administrator, by themselves.
const self = -1

func (t *tx) addPerson(p *Person, by int64) error {
	if p.Theme == "" {
		p.Theme = "day"
	}
	if p.Units == "" {
		p.Units = "metric"
	}
	if p.Letters == "" {
		p.Letters = "daily"
	}
	if p.CreatedAt.IsZero() {
		p.CreatedAt = Now()
	}
	if err := t.db.Create(p).Error; err != nil {
		if errors.Is(err, gorm.ErrDuplicatedKey) {
			return ErrTaken
		}
		return err
	}
	t.touch("people", p.ID)
	if by == self {
		by = p.ID
	}
	return t.append(line{person: by, what: "add person", payload: personPayload(p), anchor: true})
}

// ChangePerson changes somebody and says so in the record. It is an error to
// leave nobody who can sign in as an administrator.
func (s *Store) ChangePerson(ctx context.Context, id, by int64, what string, f func(*Person) error) (*Person, error) {
	var p *Person
	err := s.in(ctx, func(t *tx) error {
		var err error
		p, err = t.changePerson(id, by, what, f)
		return err
	})
	return p, err
}

func (t *tx) changePerson(id, by int64, what string, f func(*Person) error) (*Person, error) {
	if err := t.lockPeople(); err != nil {
		return nil, err
	}
	p, err := t.PersonByID(id)
	if err != nil {
		return nil, err
	}
	before := *p
	if err := f(p); err != nil {
		return nil, err
	}
	if *p == before {
		return p, nil
	}
	if p.Name != before.Name {
		if err := t.holdName(id, p.Name); err != nil {
			return nil, err
		}
	}
	if err := t.db.Model(&Person{}).Where("id = ?", id).Select("name", "password_hash", "roles", "locked", "theme", "units", "away_from", "away_until", "letters").Updates(p).Error; err != nil {
		return nil, err
	}
	if administers(&before) && !administers(p) {
		all, err := t.People()
		if err != nil {
			return nil, err
		}
		if !slices.ContainsFunc(all, func(o Person) bool { return administers(&o) }) {
			return nil, ErrLastAdministrator
		}
	}
	same := before
	same.Theme, same.Units, same.AwayFrom, same.AwayUntil, same.Letters = p.Theme, p.Units, p.AwayFrom, p.AwayUntil, p.Letters
	if same != *p {
		t.touch("people", id)
		if err := t.append(line{person: by, what: what, payload: personPayload(p), anchor: true}); err != nil {
			return nil, err
		}
	}
	return p, t.notify(Event{Person: id})
}

func administers(p *Person) bool {
	return !p.Locked && p.PasswordHash != "" && slices.Contains(strings.Split(p.Roles, ","), "administrator")
}

// AddLink keeps a link that lets somebody in; those of the same kind made for
// them before work no more.
func (s *Store) AddLink(ctx context.Context, l *Link) error {
	return s.in(ctx, func(t *tx) error {
		var before []string
		if err := t.db.Raw("UPDATE links SET used_at = ? WHERE kind = ? AND person_id IS NOT DISTINCT FROM ? AND used_at IS NULL RETURNING hash", Now(), l.Kind, l.PersonID).Scan(&before).Error; err != nil {
			return err
		}
		for _, h := range append(before, l.Hash) {
			t.touch("links", h)
		}
		l.MadeAt = Now()
		if err := t.db.Create(l).Error; err != nil {
			return err
		}
		of := int64(0)
		if l.PersonID != nil {
			of = *l.PersonID
		}
		return t.append(line{person: l.MadeBy, what: "make " + l.Kind + " link", payload: map[string]any{"id": of}})
	})
}

// LinkByHash finds a link that still works; ErrUsed otherwise.
func (r Reads) LinkByHash(hash string) (*Link, error) {
	l, err := one[Link](r.db, "hash = ? AND used_at IS NULL AND expires_at > ?", hash, Now())
	if errors.Is(err, ErrNotFound) {
		return nil, ErrUsed
	}
	return l, err
}

// UseLink uses a link up and lets f change the person it is for; for the first
// administrator f gets a new person. Every session of theirs ends.
func (s *Store) UseLink(ctx context.Context, hash string, f func(*Person) error) (*Person, error) {
	var p *Person
	err := s.in(ctx, func(t *tx) error {
		if err := t.lockPeople(); err != nil {
			return err
		}
		l, err := t.LinkByHash(hash)
		if err != nil {
			return err
		}
		t.touch("links", hash)
		if err := t.db.Exec("UPDATE links SET used_at = ? WHERE hash = ?", Now(), hash).Error; err != nil {
			return err
		}
		if l.PersonID == nil {
			var people int
			if err := t.db.Raw("SELECT count(*) FROM people").Scan(&people).Error; err != nil {
				return err
			}
			if people > 0 {
				return ErrUsed
			}
			p = &Person{}
			if err := f(p); err != nil {
				return err
			}
			return t.addPerson(p, self)
		}
		if p, err = t.changePerson(*l.PersonID, *l.PersonID, "choose password", f); err != nil {
			return err
		}
		return t.endSessions(p.ID, "")
	})
	return p, err
}

// Sessions lists where somebody is signed in, the latest first.
func (r Reads) Sessions(person int64) ([]Session, error) {
	return many[Session](r.db.Omit("data"), "seen_at DESC", "person_id = ? AND expiry > now()", person)
}

// LastSeen is when each person was last heard of, as far as sessions tell.
func (r Reads) LastSeen() (map[int64]time.Time, map[int64]int, error) {
	var rows []struct {
		PersonID int64
		Seen     time.Time
		N        int
	}
	err := r.db.Raw("SELECT person_id, max(seen_at) AS seen, count(*) FILTER (WHERE expiry > now()) AS n FROM sessions GROUP BY person_id").Scan(&rows).Error
	seen, n := map[int64]time.Time{}, map[int64]int{}
	for _, v := range rows {
		seen[v.PersonID], n[v.PersonID] = v.Seen, v.N
	}
	return seen, n, err
}

// EndSessions signs somebody out everywhere but in the session keep, which may
// be empty.
func (s *Store) EndSessions(ctx context.Context, person int64, keep string) error {
	return s.in(ctx, func(t *tx) error { return t.endSessions(person, keep) })
}

func (t *tx) endSessions(person int64, keep string) error {
	if err := t.db.Exec("DELETE FROM sessions WHERE person_id = ? AND token <> ?", person, keep).Error; err != nil {
		return err
	}
	return t.notify(Event{Person: person})
}

// EndSession signs one session of somebody's out.
func (s *Store) EndSession(ctx context.Context, person int64, token string) error {
	return s.in(ctx, func(t *tx) error {
		if err := t.db.Exec("DELETE FROM sessions WHERE person_id = ? AND token = ?", person, token).Error; err != nil {
			return err
		}
		return t.notify(Event{Person: person})
	})
}

// Unlettered are those who may get a letter of what waits for them on a day: who can
// sign in, want one, are here, and have had none that day.
func (r Reads) Unlettered(now time.Time) ([]int64, error) {
	var out []int64
	day := now.Format(time.DateOnly)
	err := r.db.Raw(`SELECT id FROM people WHERE NOT locked AND password_hash <> '' AND letters = 'daily' AND lettered IS DISTINCT FROM CAST(@day AS date)
		AND NOT (away_until IS NOT NULL AND CAST(@day AS date) <= away_until AND (away_from IS NULL OR CAST(@day AS date) >= away_from)) ORDER BY id`, map[string]any{"day": day}).Scan(&out).Error
	return out, err
}

// TakeLetter takes the day's letter of somebody, so that no other server writes it;
// false where another has.
func (s *Store) TakeLetter(ctx context.Context, id int64, now time.Time) (bool, error) {
	day := now.Format(time.DateOnly)
	r := s.db.WithContext(ctx).Exec("UPDATE people SET lettered = CAST(? AS date) WHERE id = ? AND lettered IS DISTINCT FROM CAST(? AS date)", day, id, day)
	return r.RowsAffected == 1, r.Error
}
