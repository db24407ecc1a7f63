package desk

import (
	"context"
	"slices"
	"time"

	"github.com/alexedwards/argon2id"

	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// Own is what people set for themselves; nil leaves a thing as it is.
type Own struct {
	Name  *string
	Theme *string
	Units *string
	// AwayFrom and AwayUntil are the days of an absence, as 2006-01-02; an empty
	// AwayUntil ends it.
	AwayFrom, AwayUntil *string
	// Letters is daily for a letter of what waits for them, or never.
	Letters *string
}

// ChangeOwn changes what somebody sets for themselves.
func (d *Access) ChangeOwn(ctx context.Context, u *User, o Own) (*User, error) {
	p, err := d.store.ChangePerson(ctx, u.ID, u.ID, "change person", func(p *store.Person) error {
		if o.Name != nil {
			name, _, err := personText(*o.Name, p.Email)
			if err != nil {
				return err
			}
			p.Name = name
		}
		if o.Theme != nil {
			if !slices.Contains([]string{"day", "bench"}, *o.Theme) {
				return &Problem{Status: 422, Title: "There is a day and a bench theme.", Field: "theme"}
			}
			p.Theme = *o.Theme
		}
		if o.Units != nil {
			if !slices.Contains([]string{Metric, Imperial}, *o.Units) {
				return &Problem{Status: 422, Title: "Units are metric or imperial.", Field: "units"}
			}
			p.Units = *o.Units
		}
		if o.Letters != nil {
			if !slices.Contains([]string{"daily", "never"}, *o.Letters) {
				return &Problem{Status: 422, Title: "A letter of what waits comes daily or never.", Field: "letters"}
			}
			p.Letters = *o.Letters
		}
		if o.AwayUntil != nil {
			return away(p, or(o.AwayFrom), *o.AwayUntil)
		}
		return nil
	})
	if err != nil {
		return nil, nameTaken(err)
	}
	return userOf(p), nil
}

// away sets the days somebody is away.
func away(p *store.Person, from, until string) error {
	if until == "" {
		p.AwayFrom, p.AwayUntil = nil, nil
		return nil
	}
	last, err := dayOf(until, "awayUntil")
	if err != nil {
		return err
	}
	p.AwayFrom, p.AwayUntil = nil, &last
	if from == "" {
		return nil
	}
	first, err := dayOf(from, "awayFrom")
	if err != nil {
		return err
	}
	if first.After(last) {
		return &Problem{Status: 422, Title: "An absence ends on the day it begins, or later.", Field: "awayUntil"}
	}
	p.AwayFrom = &first
	return nil
}

// or is what a pointer points to, empty for none.
func or(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// ChangePassword chooses a new password against the old one; every other session
// ends.
func (d *Access) ChangePassword(ctx context.Context, u *User, old, password, session string) error {
	p, err := d.store.Reads(ctx).PersonByID(u.ID)
	if err != nil {
		return err
	}
	ok := false
	if err := d.hash(ctx, func() error {
		ok, _, err = argon2id.CheckHash(normal(old), p.PasswordHash)
		return err
	}); err != nil {
		return err
	}
	if !ok {
		return &Problem{Status: 422, Title: "That is not your password.", Field: "old"}
	}
	hash, err := d.newHash(ctx, password, u.Name, u.Email)
	if err != nil {
		return err
	}
	if _, err := d.store.ChangePerson(ctx, u.ID, u.ID, "choose password", func(p *store.Person) error {
		p.PasswordHash = hash
		return nil
	}); err != nil {
		return err
	}
	return d.store.EndSessions(ctx, u.ID, session)
}

// Place is where somebody is signed in.
type Place struct {
	ID    string    `json:"id"`
	Agent string    `json:"agent"`
	Since time.Time `json:"since"`
	Seen  time.Time `json:"seen"`
	Here  bool      `json:"here"`
}

// placeID names a session without giving anything of it away.
func placeID(token string) string { return latchjson.Sum([]byte("place " + token))[:16] }

// Places lists where somebody is signed in.
func (d *Access) Places(ctx context.Context, u *User, session string) ([]Place, error) {
	all, err := d.store.Reads(ctx).Sessions(u.ID)
	if err != nil {
		return nil, err
	}
	out := []Place{}
	for _, s := range all {
		out = append(out, Place{placeID(s.Token), s.Agent, s.MadeAt, s.SeenAt, s.Token == session})
	}
	return out, nil
}

// EndPlace signs somebody's own session out; an empty id ends all but this one.
func (d *Access) EndPlace(ctx context.Context, u *User, session, id string) error {
	if id == "" {
		return d.store.EndSessions(ctx, u.ID, session)
	}
	all, err := d.store.Reads(ctx).Sessions(u.ID)
	if err != nil {
		return err
	}
	for _, s := range all {
		if placeID(s.Token) == id {
			return d.store.EndSession(ctx, u.ID, s.Token)
		}
	}
	return notFound("session")
}
