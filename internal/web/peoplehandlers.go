package web

import (
	"context"
	"fmt"
	"math"
	"strings"
	"time"

	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk"
	"inklatch/internal/web/api"
)

// Health answers that the program lives and its database takes writes.
func (s *Site) Health(ctx context.Context, _ api.HealthRequestObject) (api.HealthResponseObject, error) {
	if err := s.store.Probe(ctx); err != nil {
		return nil, &desk.Problem{Status: 503, Title: "The database takes no writes."}
	}
	return api.Health200JSONResponse{Ok: true}, nil
}

// Ready answers that requests are taken now.
func (s *Site) Ready(ctx context.Context, _ api.ReadyRequestObject) (api.ReadyResponseObject, error) {
	select {
	case <-s.leaving:
		return nil, &desk.Problem{Status: 503, Title: "The server is stopping."}
	default:
	}
	if err := s.store.Probe(ctx); err != nil {
		return nil, &desk.Problem{Status: 503, Title: "The database takes no writes."}
	}
	return api.Ready200JSONResponse{Ok: true}, nil
}

func personOf(u *desk.User) api.Person {
	p := api.Person{
		Id: u.ID, Name: u.Name, Email: u.Email, Roles: []string{}, Writes: u.Writes(), Works: u.Works(), Leads: u.Leads(), Administers: u.Administers(),
		Theme: api.PersonTheme(u.Theme), Units: api.PersonUnits(u.Units), Letters: api.PersonLetters(u.Letters),
	}
	if u.AwayUntil != "" {
		p.AwayFrom, p.AwayUntil = &u.AwayFrom, &u.AwayUntil
	}
	for _, r := range u.Roles {
		p.Roles = append(p.Roles, string(r))
	}
	return p
}

// WhoAmI is the signed-in person.
func (s *Site) WhoAmI(ctx context.Context, _ api.WhoAmIRequestObject) (api.WhoAmIResponseObject, error) {
	return api.WhoAmI200JSONResponse(personOf(user(ctx))), nil
}

// tooMany is the problem of an attempt that has to wait.
func tooMany(wait time.Duration) *desk.Problem {
	return &desk.Problem{Status: 429, Retry: wait, Title: fmt.Sprintf("Too many attempts. Wait %d seconds and try again.", int(math.Ceil(max(1, wait.Seconds()))))}
}

// slowed holds an attempt to sign in back. An address that keeps trying is
// refused for a while. An account that is tried from many places is slowed down,
// but not for a place from which its owner has signed in before: nobody can be
// shut out.
func (s *Site) slowed(ctx context.Context, account, place string) error {
	if ok, wait := s.address.Allow(place); !ok {
		return tooMany(wait)
	}
	if s.known.Contains(account + " " + place) {
		return nil
	}
	for end := time.Now().Add(accountPatience); ; {
		ok, wait := s.account.Allow(account)
		if ok {
			return nil
		}
		if time.Now().Add(wait).After(end) {
			return tooMany(wait)
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(wait):
		}
	}
}

// seldom slows down what nobody does often from one address, apart from signing
// in.
func (s *Site) seldom(ctx context.Context, what string) error {
	from, _ := ctx.Value(placeKey{}).(string)
	if ok, wait := s.address.Allow(what + " from " + from); !ok {
		return tooMany(wait)
	}
	return nil
}

// SignIn signs in and starts a session under a new token.
func (s *Site) SignIn(ctx context.Context, r api.SignInRequestObject) (api.SignInResponseObject, error) {
	from, _ := ctx.Value(placeKey{}).(string)
	account := strings.ToLower(strings.TrimSpace(r.Body.Email))
	if err := s.slowed(ctx, account, from); err != nil {
		s.figures.signIns.WithLabelValues("slowed").Inc()
		s.guard("slowed sign-in", from)
		return nil, err
	}
	u, err := s.desk.Access.SignIn(ctx, r.Body.Email, r.Body.Password)
	if err != nil {
		s.figures.signIns.WithLabelValues("refused").Inc()
		s.guard("refused sign-in", from)
		return nil, err
	}
	s.known.Add(account+" "+from, struct{}{})
	s.account.Forget(account)
	s.figures.signIns.WithLabelValues("let in").Inc()
	return api.SignIn200JSONResponse(personOf(u)), s.begin(ctx, u)
}

// guard tells of a refused sign-in, where somebody wants to hear of it. The address is
// kept there and nowhere else.
func (s *Site) guard(what, from string) {
	if s.conf.Guard != nil {
		s.conf.Guard(what + " from " + from)
	}
}

// Forgotten sends a link with which somebody chooses a new password.
func (s *Site) Forgotten(ctx context.Context, r api.ForgottenRequestObject) (api.ForgottenResponseObject, error) {
	if err := s.seldom(ctx, "forgotten"); err != nil {
		return nil, err
	}
	if ok, _ := s.letters.Allow(strings.ToLower(strings.TrimSpace(r.Body.Email))); !ok {
		return api.Forgotten204Response{}, nil // one has just gone out; that there is somebody is not said
	}
	if err := s.desk.Access.Forgotten(ctx, r.Body.Email); err != nil {
		return nil, err
	}
	return api.Forgotten204Response{}, nil
}

// begin starts a session for somebody under a new token.
func (s *Site) begin(ctx context.Context, u *desk.User) error {
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.sessions.Put(ctx, "person", u.ID)
	s.log.Info("signed in", "request", requestID(ctx), "person", u.ID)
	return nil
}

// SignOut ends the session.
func (s *Site) SignOut(ctx context.Context, _ api.SignOutRequestObject) (api.SignOutResponseObject, error) {
	if err := s.sessions.Destroy(ctx); err != nil {
		return nil, err
	}
	s.log.Info("signed out", "request", requestID(ctx), "person", user(ctx).ID)
	return api.SignOut204Response{}, nil
}

// ChangeOwn changes name, theme and units.
func (s *Site) ChangeOwn(ctx context.Context, r api.ChangeOwnRequestObject) (api.ChangeOwnResponseObject, error) {
	u, err := s.desk.Access.ChangeOwn(ctx, user(ctx), desk.Own{Name: r.Body.Name, Theme: r.Body.Theme, Units: r.Body.Units, AwayFrom: r.Body.AwayFrom, AwayUntil: r.Body.AwayUntil, Letters: r.Body.Letters})
	if err != nil {
		return nil, err
	}
	return api.ChangeOwn200JSONResponse(personOf(u)), nil
}

// ChangePassword chooses a new password.
func (s *Site) ChangePassword(ctx context.Context, r api.ChangePasswordRequestObject) (api.ChangePasswordResponseObject, error) {
	if err := s.seldom(ctx, "password"); err != nil {
		return nil, err
	}
	if err := s.desk.Access.ChangePassword(ctx, user(ctx), r.Body.Old, r.Body.Password, s.session(ctx)); err != nil {
		return nil, err
	}
	return api.ChangePassword204Response{}, nil
}

// ListPlaces lists where the person is signed in.
func (s *Site) ListPlaces(ctx context.Context, _ api.ListPlacesRequestObject) (api.ListPlacesResponseObject, error) {
	out, err := s.desk.Access.Places(ctx, user(ctx), s.session(ctx))
	if err != nil {
		return nil, err
	}
	return api.ListPlaces200JSONResponse(out), nil
}

// EndPlace signs the person out elsewhere.
func (s *Site) EndPlace(ctx context.Context, r api.EndPlaceRequestObject) (api.EndPlaceResponseObject, error) {
	id := ""
	if r.Params.Id != nil {
		id = *r.Params.Id
	}
	if err := s.desk.Access.EndPlace(ctx, user(ctx), s.session(ctx), id); err != nil {
		return nil, err
	}
	return api.EndPlace204Response{}, nil
}

// LookLink says what a link is for.
func (s *Site) LookLink(ctx context.Context, r api.LookLinkRequestObject) (api.LookLinkResponseObject, error) {
	if err := s.seldom(ctx, "link"); err != nil {
		return nil, err
	}
	e, err := s.desk.Access.LookLink(ctx, r.Body.Secret)
	if err != nil {
		return nil, err
	}
	return api.LookLink200JSONResponse(*e), nil
}

// Enter uses a link and signs in.
func (s *Site) Enter(ctx context.Context, r api.EnterRequestObject) (api.EnterResponseObject, error) {
	if err := s.seldom(ctx, "link"); err != nil {
		return nil, err
	}
	u, err := s.desk.Access.Enter(ctx, r.Body.Secret, r.Body.Password, or(r.Body.Name), or(r.Body.Email))
	if err != nil {
		return nil, err
	}
	return api.Enter200JSONResponse(personOf(u)), s.begin(ctx, u)
}

func or[T any](p *T) (v T) {
	if p != nil {
		v = *p
	}
	return v
}

// ListPeople lists everybody.
func (s *Site) ListPeople(ctx context.Context, _ api.ListPeopleRequestObject) (api.ListPeopleResponseObject, error) {
	out, err := s.desk.Access.People(ctx, user(ctx))
	if err != nil {
		return nil, err
	}
	return api.ListPeople200JSONResponse{People: out, Roles: desk.RolesThereAre()}, nil
}

func rolesOf(names []string) []latch.Role {
	out := make([]latch.Role, len(names))
	for i, n := range names {
		out[i] = latch.Role(n)
	}
	return out
}

// Invite adds somebody.
func (s *Site) Invite(ctx context.Context, r api.InviteRequestObject) (api.InviteResponseObject, error) {
	p, err := s.desk.Access.Invite(ctx, user(ctx), r.Body.Name, r.Body.Email, rolesOf(r.Body.Roles), s.conf.Address)
	if err != nil {
		return nil, err
	}
	return api.Invite201JSONResponse(*p), nil
}

// ChangePerson changes somebody.
func (s *Site) ChangePerson(ctx context.Context, r api.ChangePersonRequestObject) (api.ChangePersonResponseObject, error) {
	c := desk.Change{Name: r.Body.Name, Locked: r.Body.Locked}
	if r.Body.Roles != nil {
		roles := rolesOf(*r.Body.Roles)
		c.Roles = &roles
	}
	if err := s.desk.Access.ChangePerson(ctx, user(ctx), r.Person, c); err != nil {
		return nil, err
	}
	return api.ChangePerson204Response{}, nil
}

// ResetPerson makes a link for somebody.
func (s *Site) ResetPerson(ctx context.Context, r api.ResetPersonRequestObject) (api.ResetPersonResponseObject, error) {
	p, err := s.desk.Access.Reset(ctx, user(ctx), r.Person, s.conf.Address)
	if err != nil {
		return nil, err
	}
	return api.ResetPerson201JSONResponse(*p), nil
}

// SignOutPerson signs somebody out everywhere.
func (s *Site) SignOutPerson(ctx context.Context, r api.SignOutPersonRequestObject) (api.SignOutPersonResponseObject, error) {
	if err := s.desk.Access.SignOutPerson(ctx, user(ctx), r.Person); err != nil {
		return nil, err
	}
	return api.SignOutPerson204Response{}, nil
}
