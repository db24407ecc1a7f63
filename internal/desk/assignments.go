package desk

import (
	"context"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/review/latch"
	"inklatch/internal/store"
)

// Withdrawn says who took a release back, when and why.
type Withdrawn struct {
	By     string    `json:"by"`
	At     time.Time `json:"at"`
	Reason string    `json:"reason"`
}

func withdrawn(r store.Reads, id int64) (*Withdrawn, error) {
	w, err := r.WithdrawalOf(id)
	if err != nil || w == nil {
		return nil, err
	}
	names, err := r.Names(w.PersonID)
	return &Withdrawn{names[w.PersonID], w.At, w.Reason}, err
}

// Withdraw takes a release back, with the reason every sheet of it then carries.
// Nothing comes in its place: the next draft starts from it.
func (d *Review) Withdraw(ctx context.Context, u *User, id int64, reason string) error {
	if err := latch.MayWithdraw(u.Roles); err != nil {
		return forbidden(fullStop(err.Error()))
	}
	if reason = strings.TrimSpace(reason); reason == "" {
		return &Problem{Status: 422, Title: "Say why it is withdrawn: it stands on every sheet.", Field: "reason"}
	}
	if err := holdText(reason, "reason", 1000); err != nil {
		return err
	}
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		if s := latch.State(w.Revision.State); s != latch.Latched {
			return problem(409, "Only the release that holds is withdrawn. Revision %d is %s.", w.Revision.Number, s)
		}
		return w.Withdraw(u.ID, reason)
	})
	return missing(err, "revision")
}

// mayReturn says why somebody may not send a revision back to its author.
func mayReturn(u *User, rev *store.Revision) error {
	if !slices.ContainsFunc([]latch.Latch{latch.ByTechnical, latch.ByEditorial, latch.ByBench}, func(l latch.Latch) bool { return latch.MayEverClose(l, u.Roles) == nil }) {
		return forbidden("Only somebody who reviews can return a revision.")
	}
	if s := latch.State(rev.State); s != latch.OnReview {
		return problem(409, "Only a revision on review can be returned. Revision %d is %s.", rev.Number, s)
	}
	return nil
}

// mostPoints is how many points one return may name.
const mostPoints = 50

// Return sends a revision back to its author with a list of what to mend: every
// point becomes one that must be changed, beside those that are open. Its latches
// open.
func (d *Review) Return(ctx context.Context, u *User, id int64, points []string) error {
	points = slices.DeleteFunc(slices.Clone(points), func(p string) bool { return strings.TrimSpace(p) == "" })
	if len(points) > mostPoints {
		return problem(422, "A return names at most %d points.", mostPoints)
	}
	for _, p := range points {
		if err := holdText(p, "points", mostSaid); err != nil {
			return err
		}
	}
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		if err := mayReturn(u, w.Revision); err != nil {
			return err
		}
		t, err := talkOf(w.Reads, id)
		if err != nil {
			return err
		}
		_, demands, _ := t.open(u.ID)
		if len(points)+demands == 0 {
			return &Problem{Status: 422, Title: "Say what is to be mended: a return without a point leaves its author guessing.", Field: "points"}
		}
		for _, p := range points {
			named, err := mentioned(w.Reads, p)
			if err != nil {
				return err
			}
			if err := w.Say(&store.Remark{Kind: MustChange, Place: "page", Body: strings.TrimSpace(p), PersonID: u.ID}, named); err != nil {
				return err
			}
		}
		return reopenAll(w, u, "return", map[string]any{"points": demands + len(points)})
	})
	return missing(err, "revision")
}

// Arrangement is by when a latch is to close and who closes it; nil leaves a thing
// as it is.
type Arrangement struct {
	// Due is a day as 2006-01-02, empty for none.
	Due *string `json:"due,omitempty"`
	// Person takes the latch over, 0 for nobody.
	Person *int64 `json:"person,omitempty"`
}

// Arrange sets by when a latch is to close, which those who write and leads do, and
// who has taken it over: somebody takes it for themselves, hands on what they have
// taken, or a lead deals it out.
func (d *Review) Arrange(ctx context.Context, u *User, id int64, l latch.Latch, a Arrangement) error {
	if !l.Known() {
		return notFound("latch")
	}
	if err := mayTalk(u); err != nil {
		return err
	}
	var due *time.Time
	if a.Due != nil && *a.Due != "" {
		t, err := dayOf(*a.Due, "due")
		if err != nil {
			return err
		}
		due = &t
	}
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		_, _, required, err := d.reviewed(w)
		if err != nil {
			return err
		}
		if !slices.Contains(required, l) {
			return problem(409, "This revision needs no %s latch.", l)
		}
		if slices.ContainsFunc(w.Closings, func(c store.Closing) bool { return c.Latch == string(l) }) {
			return problem(409, "The %s latch is closed already.", l)
		}
		rs, err := w.ReviewsOf(id)
		if err != nil {
			return err
		}
		v := store.Review{Latch: string(l)}
		for _, r := range rs {
			if r.Latch == string(l) {
				v = r
			}
		}
		if a.Due != nil {
			if !u.Writes() {
				return forbidden("Due dates are set by an author or a lead.")
			}
			v.Due = due
		}
		if a.Person == nil {
			return w.Arrange(u.ID, "set due date", v)
		}
		what, err := handOver(w, u, l, &v, *a.Person)
		if err != nil {
			return err
		}
		return w.Arrange(u.ID, what, v)
	})
	return missing(err, "revision")
}

// handOver gives a latch to somebody, or to nobody, and says what that is.
func handOver(w *store.Draft, u *User, l latch.Latch, v *store.Review, to int64) (string, error) {
	lead := u.Leads()
	own := v.PersonID != nil && *v.PersonID == u.ID
	if to == 0 {
		if !own && !lead {
			return "", forbidden("Only whoever has taken a review over gives it back, or a lead.")
		}
		v.PersonID = nil
		return "give review back", nil
	}
	p, err := w.PersonByID(to)
	if err != nil {
		return "", missing(err, "person")
	}
	them := userOf(p)
	if err := latch.MayEverClose(l, them.Roles); err != nil || p.Locked {
		return "", problem(409, "%s cannot close the %s latch.", them.Name, l)
	}
	worked, err := w.WorkedOn(w.Revision.ID, to)
	if err != nil {
		return "", err
	}
	if worked && l != latch.ByAuthor {
		return "", problem(409, "%s worked on this revision; another person closes the %s latch.", them.Name, l)
	}
	c := store.Colleague{AwayFrom: p.AwayFrom, AwayUntil: p.AwayUntil}
	if to != u.ID && c.Away(store.Now()) {
		return "", problem(409, "%s is away until %s. Hand it to somebody who is here.", them.Name, p.AwayUntil.Format("2 January"))
	}
	if to != u.ID && !own && !lead {
		return "", forbidden("One takes a review over for oneself, or hands on one’s own. A lead deals them out.")
	}
	v.PersonID = &to
	if to == u.ID {
		return "take review over", nil
	}
	return "hand review over", nil
}

// arranged puts due dates and takers on the marks of a revision's latches.
func arranged(r store.Reads, marks []LatchMark, rs []store.Review) error {
	var ids []int64
	for _, v := range rs {
		if v.PersonID != nil {
			ids = append(ids, *v.PersonID)
		}
	}
	names, err := r.Names(ids...)
	if err != nil {
		return err
	}
	for i := range marks {
		for _, v := range rs {
			if v.Latch != string(marks[i].Latch) || marks[i].Closed {
				continue
			}
			if v.Due != nil {
				marks[i].Due = v.Due.Format(time.DateOnly)
			}
			if v.PersonID != nil {
				marks[i].Taken, marks[i].TakenBy = *v.PersonID, names[*v.PersonID]
			}
		}
	}
	return nil
}

// Colleague is somebody as those who work on pages see them.
type Colleague struct {
	ID    int64        `json:"id"`
	Name  string       `json:"name"`
	Roles []latch.Role `json:"roles"`
	// Closes are the latches they may close.
	Closes []latch.Latch `json:"closes"`
	// Away is the last day of an absence that has begun, as 2006-01-02.
	Away string `json:"away,omitzero"`
}

// Colleagues lists everybody who can sign in, by name, for those who work on pages.
func (d *Review) Colleagues(ctx context.Context, u *User) ([]Colleague, error) {
	if isReader(u) {
		return nil, forbidden("Who works on pages is for those who do.")
	}
	all, err := d.store.Reads(ctx).Colleagues()
	if err != nil {
		return nil, err
	}
	out := []Colleague{}
	for i := range all {
		v := Colleague{ID: all[i].ID, Name: all[i].Name, Roles: userOf(&store.Person{Roles: all[i].Roles}).Roles}
		v.Closes = latch.Closes(v.Roles)
		if all[i].Away(store.Now()) {
			v.Away = all[i].AwayUntil.Format(time.DateOnly)
		}
		out = append(out, v)
	}
	return out, nil
}
