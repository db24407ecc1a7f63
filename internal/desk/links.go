package desk

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"strings"
	"time"

	"inklatch/internal/core/review/latch"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// Passage is a link that lets somebody in once.
type Passage struct {
	// Secret goes into the address; only its hash is kept.
	Secret  string    `json:"secret"`
	Kind    string    `json:"kind"`
	Name    string    `json:"name"`
	Email   string    `json:"email"`
	Expires time.Time `json:"expires"`
	// Mailed is set where it was sent.
	Mailed bool `json:"mailed"`
}

// How long links work.
const (
	setupFor  = 24 * time.Hour
	inviteFor = 7 * 24 * time.Hour
	resetFor  = 2 * time.Hour
)

// Setup makes the link that sets the first administrator up; nil where there are
// people already.
func (d *Access) Setup(ctx context.Context) (*Passage, error) {
	all, err := d.store.Reads(ctx).People()
	if err != nil || len(all) > 0 {
		return nil, err
	}
	return d.passage(ctx, nil, nil, "setup", setupFor, "")
}

func (d *Access) passage(ctx context.Context, u *User, p *store.Person, kind string, lives time.Duration, address string) (*Passage, error) {
	out := &Passage{Secret: rand.Text(), Kind: kind, Expires: store.Now().Add(lives).UTC().Truncate(time.Second)}
	l := &store.Link{Hash: latchjson.Sum([]byte(out.Secret)), Kind: kind, MadeBy: by(u), ExpiresAt: out.Expires}
	if p != nil {
		l.PersonID, out.Name, out.Email = &p.ID, p.Name, p.Email
	}
	if err := d.store.AddLink(ctx, l); err != nil {
		return nil, err
	}
	if d.rooms.Jobs.mail == nil || p == nil || address == "" {
		return out, nil
	}
	subject, body := letter(kind, out, strings.TrimRight(address, "/")+"/enter#"+out.Secret)
	if err := d.rooms.Jobs.mail.Send(ctx, p.Email, subject, body); err != nil {
		d.log.Error("a link could not be sent", "error", err)
		return out, nil // it is shown, and can be handed over by hand
	}
	out.Mailed = true
	return out, nil
}

func letter(kind string, p *Passage, link string) (subject, body string) {
	what := "You have been added to Ink Latch. Choose a password here:"
	subject = "Your way into Ink Latch"
	if kind == "reset" {
		what, subject = "A new password for Ink Latch was asked for. Choose it here:", "A new password for Ink Latch"
	}
	return subject, fmt.Sprintf("%s,\n\n%s\n\n%s\n\nThe link works once, until %s. If you did not expect it, let it be; nothing happens.\n", p.Name, what, link, p.Expires.Format("2 January 2006 15:04 MST"))
}

// Entry is what a link is for, before it is used.
type Entry struct {
	Kind  string `json:"kind"`
	Name  string `json:"name"`
	Email string `json:"email"`
}

// errUsed is the problem of a link that does not work any more.
func errUsed() *Problem {
	return problem(410, "This link has been used or has expired. Ask an administrator for another.")
}

// LookLink says what a link is for.
func (d *Access) LookLink(ctx context.Context, secret string) (*Entry, error) {
	r := d.store.Reads(ctx)
	l, err := r.LinkByHash(latchjson.Sum([]byte(secret)))
	if errors.Is(err, store.ErrUsed) {
		return nil, errUsed()
	}
	if err != nil {
		return nil, err
	}
	e := &Entry{Kind: l.Kind}
	if l.PersonID != nil {
		p, err := r.PersonByID(*l.PersonID)
		if err != nil {
			return nil, err
		}
		e.Name, e.Email = p.Name, p.Email
	}
	return e, nil
}

// Enter uses a link: a password is chosen, for the first administrator name and
// address too. Whoever was signed in with the old one is not any more.
func (d *Access) Enter(ctx context.Context, secret, password, name, email string) (*User, error) {
	e, err := d.LookLink(ctx, secret)
	if err != nil {
		return nil, err
	}
	first := e.Kind == "setup"
	if first {
		if name, email, err = personText(name, email); err != nil {
			return nil, err
		}
	} else {
		name, email = e.Name, e.Email
	}
	hash, err := d.newHash(ctx, password, name, email)
	if err != nil {
		return nil, err
	}
	p, err := d.store.UseLink(ctx, latchjson.Sum([]byte(secret)), func(p *store.Person) error {
		if p.Locked {
			return forbidden("This account is locked. Ask an administrator.")
		}
		if first {
			p.Name, p.Email, p.Roles = name, email, string(latch.Administrator)
		}
		p.PasswordHash = hash
		return nil
	})
	if errors.Is(err, store.ErrUsed) {
		return nil, errUsed()
	}
	if err != nil {
		return nil, err
	}
	return userOf(p), nil
}

func (d *Access) newHash(ctx context.Context, password, name, email string) (hash string, err error) {
	if err := checkPassword(password, name, email); err != nil {
		return "", err
	}
	err = d.hash(ctx, func() error {
		hash, err = HashPassword(password)
		return err
	})
	return hash, err
}
