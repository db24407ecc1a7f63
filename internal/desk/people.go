package desk

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"inklatch/internal/core/latch"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// The units somebody reads first.
const (
	Metric   = "metric"
	Imperial = "imperial"
)

// Mailer sends a letter; nil stands for a house without one, in which links are
// handed over by hand.
type Mailer interface {
	Send(ctx context.Context, to, subject, body string) error
}

// MailBy sends links by a mailer.
func (d *Desk) MailBy(m Mailer) { d.mail = m }

// Somebody is a person as an administrator sees them.
type Somebody struct {
	ID       int64        `json:"id"`
	Name     string       `json:"name"`
	Email    string       `json:"email"`
	Roles    []latch.Role `json:"roles"`
	Locked   bool         `json:"locked"`
	Invited  bool         `json:"invited"`
	Since    time.Time    `json:"since"`
	LastSeen *time.Time   `json:"lastSeen,omitzero"`
	Sessions int          `json:"sessions"`
}

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

func mayAdminister(u *User) error {
	if u.Administers() {
		return nil
	}
	return forbidden("People are looked after by an administrator.")
}

// People lists everybody for an administrator.
func (d *Desk) People(ctx context.Context, u *User) ([]Somebody, error) {
	if err := mayAdminister(u); err != nil {
		return nil, err
	}
	r := d.store.Reads(ctx)
	all, err := r.People()
	if err != nil {
		return nil, err
	}
	seen, sessions, err := r.LastSeen()
	if err != nil {
		return nil, err
	}
	out := []Somebody{}
	for i := range all {
		p := &all[i]
		v := Somebody{ID: p.ID, Name: p.Name, Email: p.Email, Roles: userOf(p).Roles, Locked: p.Locked, Invited: p.PasswordHash == "", Since: p.CreatedAt, Sessions: sessions[p.ID]}
		if t, ok := seen[p.ID]; ok {
			v.LastSeen = &t
		}
		out = append(out, v)
	}
	slices.SortFunc(out, func(a, b Somebody) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out, nil
}

// personText holds a name and an address against what can be kept.
func personText(name, email string) (string, string, error) {
	name, email = strings.TrimSpace(name), strings.TrimSpace(email)
	if name == "" {
		return "", "", &Problem{Status: 422, Title: "Everybody has a name.", Field: "name"}
	}
	if err := holdText(name, "name", 120); err != nil {
		return "", "", err
	}
	a, err := mail.ParseAddress(email)
	if err != nil || a.Address != email || len(email) > 320 || holdText(email, "email", 320) != nil {
		return "", "", &Problem{Status: 422, Title: "That is not an e-mail address.", Field: "email"}
	}
	return name, email, nil
}

// rolesText joins roles, each of them known and named once.
func rolesText(roles []latch.Role) (string, error) {
	var out []string
	for _, r := range latch.Roles {
		if slices.Contains(roles, r) {
			out = append(out, string(r))
		}
	}
	for _, r := range roles {
		if !slices.Contains(latch.Roles, r) {
			return "", &Problem{Status: 422, Title: fmt.Sprintf("There is no role %q.", r), Field: "roles"}
		}
	}
	if len(out) == 0 {
		return "", &Problem{Status: 422, Title: "Everybody has at least one role; a reader reads.", Field: "roles"}
	}
	return strings.Join(out, ","), nil
}

// by is who does something to people: an administrator, or nil for whoever sits
// at the server's own command line.
func by(u *User) int64 {
	if u == nil {
		return 0
	}
	return u.ID
}

func (d *Desk) mayLookAfter(u *User) error {
	if u == nil {
		return nil
	}
	return mayAdminister(u)
}

// Invite adds somebody and makes the link with which they choose a password. A
// nil user is the command line.
func (d *Desk) Invite(ctx context.Context, u *User, name, email string, roles []latch.Role, address string) (*Passage, error) {
	if err := d.mayLookAfter(u); err != nil {
		return nil, err
	}
	name, email, err := personText(name, email)
	if err != nil {
		return nil, err
	}
	list, err := rolesText(roles)
	if err != nil {
		return nil, err
	}
	p := &store.Person{Name: name, Email: email, Roles: list}
	if err := d.store.AddPerson(ctx, p, by(u)); errors.Is(err, store.ErrTaken) {
		return nil, &Problem{Status: 409, Title: "Somebody has that e-mail address already.", Field: "email"}
	} else if err != nil {
		return nil, err
	}
	return d.passage(ctx, u, p, "invite", inviteFor, address)
}

// Reset makes a link with which somebody chooses a new password; until then the
// old one works.
func (d *Desk) Reset(ctx context.Context, u *User, id int64, address string) (*Passage, error) {
	if err := d.mayLookAfter(u); err != nil {
		return nil, err
	}
	p, err := d.store.Reads(ctx).PersonByID(id)
	if err != nil {
		return nil, missing(err, "person")
	}
	if p.PasswordHash == "" {
		return d.passage(ctx, u, p, "invite", inviteFor, address)
	}
	return d.passage(ctx, u, p, "reset", resetFor, address)
}

// Setup makes the link that sets the first administrator up; nil where there are
// people already.
func (d *Desk) Setup(ctx context.Context) (*Passage, error) {
	all, err := d.store.Reads(ctx).People()
	if err != nil || len(all) > 0 {
		return nil, err
	}
	return d.passage(ctx, nil, nil, "setup", setupFor, "")
}

func (d *Desk) passage(ctx context.Context, u *User, p *store.Person, kind string, lives time.Duration, address string) (*Passage, error) {
	out := &Passage{Secret: rand.Text(), Kind: kind, Expires: store.Now().Add(lives).UTC().Truncate(time.Second)}
	l := &store.Link{Hash: latchjson.Sum([]byte(out.Secret)), Kind: kind, MadeBy: by(u), ExpiresAt: out.Expires}
	if p != nil {
		l.PersonID, out.Name, out.Email = &p.ID, p.Name, p.Email
	}
	if err := d.store.AddLink(ctx, l); err != nil {
		return nil, err
	}
	if d.mail == nil || p == nil || address == "" {
		return out, nil
	}
	subject, body := letter(kind, out, strings.TrimRight(address, "/")+"/enter#"+out.Secret)
	if err := d.mail.Send(ctx, p.Email, subject, body); err != nil {
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
func (d *Desk) LookLink(ctx context.Context, secret string) (*Entry, error) {
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
func (d *Desk) Enter(ctx context.Context, secret, password, name, email string) (*User, error) {
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

func (d *Desk) newHash(ctx context.Context, password, name, email string) (hash string, err error) {
	if err := checkPassword(password, name, email); err != nil {
		return "", err
	}
	err = d.hash(ctx, func() error {
		hash, err = HashPassword(password)
		return err
	})
	return hash, err
}

// Change is what an administrator changes of somebody; nil leaves a thing as it
// is.
type Change struct {
	Name   *string
	Roles  *[]latch.Role
	Locked *bool
}

// ChangePerson changes somebody at once, in every session of theirs. The last
// administrator stays one.
func (d *Desk) ChangePerson(ctx context.Context, u *User, id int64, c Change) error {
	if err := d.mayLookAfter(u); err != nil {
		return err
	}
	what := "change person"
	_, err := d.store.ChangePerson(ctx, id, by(u), what, func(p *store.Person) error {
		if c.Name != nil {
			name, _, err := personText(*c.Name, p.Email)
			if err != nil {
				return err
			}
			p.Name = name
		}
		if c.Roles != nil {
			list, err := rolesText(*c.Roles)
			if err != nil {
				return err
			}
			p.Roles = list
		}
		if c.Locked != nil {
			p.Locked = *c.Locked
		}
		return nil
	})
	if errors.Is(err, store.ErrLastAdministrator) {
		return problem(409, "This is the last administrator who can sign in. Make somebody else one first.")
	}
	if err != nil {
		return missing(err, "person")
	}
	if c.Locked != nil && *c.Locked {
		return d.store.EndSessions(ctx, id, "")
	}
	return nil
}

// SignOutPerson ends every session of somebody.
func (d *Desk) SignOutPerson(ctx context.Context, u *User, id int64) error {
	if err := d.mayLookAfter(u); err != nil {
		return err
	}
	if _, err := d.store.Reads(ctx).PersonByID(id); err != nil {
		return missing(err, "person")
	}
	return d.store.EndSessions(ctx, id, "")
}

// Own is what people set for themselves; nil leaves a thing as it is.
type Own struct {
	Name  *string
	Theme *string
	Units *string
}

// ChangeOwn changes what somebody sets for themselves.
func (d *Desk) ChangeOwn(ctx context.Context, u *User, o Own) (*User, error) {
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
		return nil
	})
	if err != nil {
		return nil, err
	}
	return userOf(p), nil
}

// ChangePassword chooses a new password against the old one; every other session
// ends.
func (d *Desk) ChangePassword(ctx context.Context, u *User, old, password, session string) error {
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
func (d *Desk) Places(ctx context.Context, u *User, session string) ([]Place, error) {
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
func (d *Desk) EndPlace(ctx context.Context, u *User, session, id string) error {
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

// PersonByEmail finds somebody for the command line.
func (d *Desk) PersonByEmail(ctx context.Context, email string) (*User, error) {
	p, err := d.store.Reads(ctx).PersonByEmail(email)
	if err != nil {
		return nil, missing(err, "person")
	}
	return userOf(p), nil
}
