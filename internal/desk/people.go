package desk

import (
	"context"
	"errors"
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/review/latch"
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

// MailBy sends links, and letters of what waits, by a mailer. address is where people
// reach the program, empty where that is not known beforehand.
func (d *Jobs) MailBy(m Mailer, address string) { d.mail, d.address = &counted{m, d}, address }

// counted is a mailer whose letters are counted.
type counted struct {
	by Mailer
	d  *Jobs
}

// Send sends one letter.
func (c *counted) Send(ctx context.Context, to, subject, body string) error {
	err := c.by.Send(ctx, to, subject, body)
	if err != nil {
		c.d.lettersFailed.Add(1)
	} else {
		c.d.lettersSent.Add(1)
	}
	return err
}

// LettersSent is how many letters went out since the start.
func (d *Jobs) LettersSent() int64 { return d.lettersSent.Load() }

// LettersFailed is how many did not.
func (d *Jobs) LettersFailed() int64 { return d.lettersFailed.Load() }

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

// RoleRow is a role and what it is for.
type RoleRow struct {
	Name latch.Role `json:"name"`
	May  string     `json:"may"`
}

// RolesThereAre lists the roles.
func RolesThereAre() []RoleRow {
	var out []RoleRow
	for _, r := range latch.Roles {
		out = append(out, RoleRow{r, r.May()})
	}
	return out
}

func mayAdminister(u *User) error {
	if u.Administers() {
		return nil
	}
	return forbidden("People are looked after by an administrator.")
}

// People lists everybody for an administrator.
func (d *Access) People(ctx context.Context, u *User) ([]Somebody, error) {
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
	kept, err := store.Name(name)
	if name == "" {
		return "", "", &Problem{Status: 422, Title: "Everybody has a name.", Field: "name"}
	}
	if err := holdText(name, "name", 120); err != nil {
		return "", "", err
	}
	if err != nil {
		return "", "", &Problem{Status: 422, Title: "A name has letters, and no signs that nobody sees: it stands under what one signs.", Field: "name"}
	}
	name = kept
	a, err := mail.ParseAddress(email)
	if err != nil || a.Address != email || len(email) > 320 || holdText(email, "email", 320) != nil {
		return "", "", &Problem{Status: 422, Title: "That is not an e-mail address.", Field: "email"}
	}
	return name, email, nil
}

// nameTaken says of a name that somebody else has that it is so.
func nameTaken(err error) error {
	if errors.Is(err, store.ErrNameTaken) {
		return &Problem{Status: 409, Title: "Somebody here is called that already, or looks so in print. Add a middle name or an initial: names stand under what people sign.", Field: "name"}
	}
	return err
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

func (d *Access) mayLookAfter(u *User) error {
	if u == nil {
		return nil
	}
	return mayAdminister(u)
}

// Invite adds somebody and makes the link with which they choose a password. A
// nil user is the command line.
func (d *Access) Invite(ctx context.Context, u *User, name, email string, roles []latch.Role, address string) (*Passage, error) {
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
		return nil, nameTaken(err)
	}
	return d.passage(ctx, u, p, "invite", inviteFor, address)
}

// Reset makes a link with which somebody chooses a new password; until then the
// old one works.
func (d *Access) Reset(ctx context.Context, u *User, id int64, address string) (*Passage, error) {
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

// Forgotten sends somebody a link with which they choose a new password. Nobody hears
// whether there is such a person: the letter goes out while they are answered. In a house
// that sends no letters an administrator has to make the link, and that is said.
func (d *Access) Forgotten(ctx context.Context, email string) error {
	if d.rooms.Jobs.mail == nil || d.rooms.Jobs.address == "" {
		return problem(409, "This house sends no letters. Ask an administrator for a link: under People, or with inklatch person reset at the server.")
	}
	if err := holdText(email, "email", 300); err != nil {
		return err
	}
	apart := context.WithoutCancel(ctx)
	go func() {
		p, err := d.store.Reads(apart).PersonByEmail(strings.TrimSpace(email))
		if err != nil || p.Locked || p.PasswordHash == "" {
			return
		}
		if _, err := d.passage(apart, nil, p, "reset", resetFor, d.rooms.Jobs.address); err != nil {
			d.log.Error("a link could not be made", "person", p.ID, "error", err)
		}
	}()
	return nil
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
func (d *Access) ChangePerson(ctx context.Context, u *User, id int64, c Change) error {
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
	err = nameTaken(err)
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
func (d *Access) SignOutPerson(ctx context.Context, u *User, id int64) error {
	if err := d.mayLookAfter(u); err != nil {
		return err
	}
	if _, err := d.store.Reads(ctx).PersonByID(id); err != nil {
		return missing(err, "person")
	}
	return d.store.EndSessions(ctx, id, "")
}

// PersonByEmail finds somebody for the command line.
func (d *Access) PersonByEmail(ctx context.Context, email string) (*User, error) {
	p, err := d.store.Reads(ctx).PersonByEmail(email)
	if err != nil {
		return nil, missing(err, "person")
	}
	return userOf(p), nil
}
