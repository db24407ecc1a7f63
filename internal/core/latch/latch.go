// Package latch decides how a revision travels: draft, on review, latched,
// superseded; who may close which of its latches, and which ones an edit opens
// again.
package latch

import (
	"fmt"
	"slices"

	"inklatch/internal/core/procedure"
	"inklatch/internal/core/step"
)

// State of a revision.
type State string

// The states.
const (
	Draft      State = "draft"
	OnReview   State = "on review"
	Latched    State = "latched"
	Superseded State = "superseded"
)

// Frozen reports whether a revision in this state never changes again.
func (s State) Frozen() bool { return s == Latched || s == Superseded }

// Role is what a person is trusted with.
type Role string

// The roles.
const (
	Reader          Role = "reader"
	Author          Role = "author"
	TechnicalEditor Role = "technical editor"
	EditorialEditor Role = "editorial editor"
	BenchTechnician Role = "bench technician"
	Lead            Role = "lead"
	Administrator   Role = "administrator"
)

// Roles lists them all.
var Roles = []Role{Reader, Author, TechnicalEditor, EditorialEditor, BenchTechnician, Lead, Administrator}

// MayWrite reports whether somebody with these roles may edit drafts.
func MayWrite(roles []Role) bool {
	return slices.ContainsFunc(roles, func(r Role) bool { return r == Author || r == Lead })
}

// Latch is one of the sign-offs a revision needs.
type Latch string

// The latches, in the order they are shown.
const (
	ByAuthor    Latch = "author"
	ByTechnical Latch = "technical"
	ByEditorial Latch = "editorial"
	ByBench     Latch = "bench"
)

// closers says which roles may close a latch. A lead may stand in for an
// editor, never for the bench.
var closers = map[Latch][]Role{
	ByAuthor:    {Author, Lead},
	ByTechnical: {TechnicalEditor, Lead},
	ByEditorial: {EditorialEditor, Lead},
	ByBench:     {BenchTechnician},
}

// Closed is a latch that has been closed, and by whom.
type Closed struct {
	Latch  Latch
	Person int64
}

// House is what house rules say about latches.
type House struct {
	// AuthorMayEdit lets the author close the editorial latch too, in a team of
	// two.
	AuthorMayEdit bool
}

// MayClose says why a person may not close a latch now, nil when they may.
// blocking is the number of findings that block release.
func MayClose(s State, required []Latch, closed []Closed, l Latch, person int64, roles []Role, blocking int, h House) error {
	if s.Frozen() {
		return fmt.Errorf("this revision is %s; its latches are closed", s)
	}
	if !slices.Contains(required, l) {
		return fmt.Errorf("this revision needs no %s latch", l)
	}
	if !slices.ContainsFunc(roles, func(r Role) bool { return slices.Contains(closers[l], r) }) {
		return fmt.Errorf("closing the %s latch takes the role %s", l, closers[l][0])
	}
	if slices.ContainsFunc(closed, func(c Closed) bool { return c.Latch == l }) {
		return fmt.Errorf("the %s latch is closed already", l)
	}
	for _, c := range closed {
		pair := (c.Latch == ByAuthor && l == ByEditorial) || (c.Latch == ByEditorial && l == ByAuthor)
		if c.Person == person && !(h.AuthorMayEdit && pair) {
			return fmt.Errorf("you closed the %s latch; another person closes the %s latch", c.Latch, l)
		}
	}
	if s == Draft && l != ByAuthor {
		return fmt.Errorf("the author closes first: that sends the draft on review")
	}
	if blocking > 0 {
		return fmt.Errorf("%d finding%s block%s release: mend or accept %s first", blocking, plural(blocking, "", "s"), plural(blocking, "s", ""), plural(blocking, "it", "them"))
	}
	return nil
}

// MayPutIntoUse says why somebody may not put an engine sheet's draft into use,
// nil when they may: it takes a technical editor or a lead who has not worked on
// the draft, and no finding that blocks.
func MayPutIntoUse(roles []Role, workedOn bool, blocking int) error {
	switch {
	case !slices.ContainsFunc(roles, func(r Role) bool { return slices.Contains(closers[ByTechnical], r) }):
		return fmt.Errorf("putting a sheet into use takes the role %s", closers[ByTechnical][0])
	case workedOn:
		return fmt.Errorf("you worked on this draft; another person puts it into use")
	case blocking > 0:
		return fmt.Errorf("%d finding%s must be mended first", blocking, plural(blocking, "", "s"))
	}
	return nil
}

func plural(n int, one, more string) string {
	if n == 1 {
		return one
	}
	return more
}

// After is the state once the given latches are closed.
func After(required []Latch, closed []Closed) State {
	open := slices.DeleteFunc(slices.Clone(required), func(l Latch) bool {
		return slices.ContainsFunc(closed, func(c Closed) bool { return c.Latch == l })
	})
	switch {
	case len(open) == 0:
		return Latched
	case slices.Contains(open, ByAuthor):
		return Draft
	}
	return OnReview
}

// Weight is how much an edit changes.
type Weight string

// The weights, the heaviest first.
const (
	Value   Weight = "value"
	Order   Weight = "order"
	Wording Weight = "wording"
	Nothing Weight = "nothing"
)

// Weigh says how much lies between two states of a procedure.
func Weigh(before, after *procedure.Procedure) Weight {
	if headerWeight(&before.Header, &after.Header) == Value {
		return Value
	}
	w := headerWeight(&before.Header, &after.Header)
	if len(before.Steps) != len(after.Steps) {
		return Value
	}
	old := make(map[step.ID]*step.Step, len(before.Steps))
	for i := range before.Steps {
		old[before.Steps[i].ID] = &before.Steps[i]
	}
	moved := false
	for i := range after.Steps {
		a := &after.Steps[i]
		b, ok := old[a.ID]
		if !ok {
			return Value
		}
		moved = moved || before.Steps[i].ID != a.ID || b.Phase != a.Phase
		switch {
		case !sameAction(a, b) || len(a.Cautions) < len(b.Cautions) || !slices.Equal(a.Tools, b.Tools) || !slices.Equal(a.Accept, b.Accept):
			return Value
		case a.Wording != b.Wording || a.Note != b.Note || !slices.Equal(a.Cautions, b.Cautions):
			w = Wording
		}
	}
	if moved {
		return Order
	}
	return w
}

func headerWeight(a, b *procedure.Header) Weight {
	switch {
	case a.Engine != b.Engine || a.Applies != b.Applies || !slices.Equal(a.Prelims.Tools, b.Prelims.Tools) || !slices.Equal(a.Prelims.Conditions, b.Prelims.Conditions):
		return Value
	case a.Title != b.Title || a.Purpose != b.Purpose || a.Prelims.People != b.Prelims.People || a.Prelims.Time != b.Prelims.Time || !slices.Equal(a.Prelims.Supplies, b.Prelims.Supplies):
		return Wording
	}
	return Nothing
}

func sameAction(a, b *step.Step) bool { return step.SameAction(a.Action, b.Action) }

// Reopened are the closed latches that a change of this weight opens again:
// values and order open the author's, the technical and the bench latch,
// wording the author's and the editorial one. Values are wording too.
func Reopened(w Weight, closed []Closed) []Latch {
	var scope []Latch
	switch w {
	case Value, Order:
		scope = []Latch{ByAuthor, ByTechnical, ByEditorial, ByBench}
	case Wording:
		scope = []Latch{ByAuthor, ByEditorial}
	}
	if w == Order {
		scope = []Latch{ByAuthor, ByTechnical, ByBench}
	}
	var out []Latch
	for _, c := range closed {
		if slices.Contains(scope, c.Latch) {
			out = append(out, c.Latch)
		}
	}
	return out
}

// Required are the latches a revision needs. The bench closes one where the
// procedure is new or a lock, turn or torque differs from the revision before;
// previous is nil for the first.
func Required(previous, now *procedure.Procedure) []Latch {
	base := []Latch{ByAuthor, ByTechnical, ByEditorial}
	if previous == nil || !slices.EqualFunc(heavy(previous), heavy(now), func(a, b *step.Step) bool { return step.SameAction(a.Action, b.Action) }) {
		return append(base, ByBench)
	}
	return base
}

// heavy are the steps that lock, turn or tighten, in order.
func heavy(p *procedure.Procedure) []*step.Step {
	var out []*step.Step
	for i := range p.Steps {
		switch p.Steps[i].Action.Verb() {
		case "lock", "unlock", "turn", "settle", "slacken", "tighten", "pin", "release", "set":
			out = append(out, &p.Steps[i])
		}
	}
	return out
}
