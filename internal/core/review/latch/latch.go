// Package latch decides how a revision travels: draft, on review, latched,
// superseded; who may close which of its latches, and which ones an edit opens
// again.
package latch

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// State of a revision.
type State string

// The states.
const (
	Draft      State = "draft"
	OnReview   State = "on review"
	Latched    State = "latched"
	Superseded State = "superseded"
	// Withdrawn is a release that was taken back: it holds no more, and nothing came in
	// its place.
	Withdrawn State = "withdrawn"
	Deleted   State = "deleted"
)

// Frozen reports whether a revision in this state never changes again.
func (s State) Frozen() bool { return s == Latched || s == Superseded || s == Withdrawn }

// Said is what a state is called where people read it: a revision that is latched has
// been released.
func (s State) Said() string {
	if s == Latched {
		return "released"
	}
	return string(s)
}

// Open reports whether a revision in this state is being worked on.
func (s State) Open() bool { return s == Draft || s == OnReview }

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

// May says in a few words what each role is for.
func (r Role) May() string {
	return map[Role]string{
		Reader: "reads and prints what is released", Author: "writes procedures and engine sheets",
		TechnicalEditor: "closes the technical latch, puts sheets into use", EditorialEditor: "closes the editorial latch",
		BenchTechnician: "closes the bench latch", Lead: "writes, and stands in for an editor", Administrator: "looks after people",
	}[r]
}

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
	AuthorMayEdit bool `json:"authorMayEdit"`
	// LastReleases lets whoever closes the last latch release the revision with it; without
	// it a lead does.
	LastReleases bool `json:"lastLatchReleases"`
	// ReadingPace is how many words a minute somebody reads who weighs each of them; default
	// 150. A step that stood in view for as long counts as read.
	ReadingPace int `json:"readingPace"`
	// Bench is when a revision needs the bench latch, Editorial when the editorial one.
	Bench     BenchNeeded     `json:"bench"`
	Editorial EditorialNeeded `json:"editorial"`
}

// BenchNeeded is when a revision is tried at the bench.
type BenchNeeded string

// When a revision needs the bench latch.
const (
	// BenchWhenWorkChanged asks it where a revision is the first, or what is done at the
	// engine changed.
	BenchWhenWorkChanged BenchNeeded = "when the work changed"
	// BenchAlways asks it of every revision, BenchNever of none.
	BenchAlways BenchNeeded = "always"
	BenchNever  BenchNeeded = "never"
)

// Choices are when, the default first.
func (BenchNeeded) Choices() []string {
	return []string{string(BenchWhenWorkChanged), string(BenchAlways), string(BenchNever)}
}

// EditorialNeeded is when a revision is read by an editorial editor.
type EditorialNeeded string

// When a revision needs the editorial latch.
const (
	EditorialAlways EditorialNeeded = "always"
	EditorialNever  EditorialNeeded = "never"
)

// Choices are when, the default first.
func (EditorialNeeded) Choices() []string {
	return []string{string(EditorialAlways), string(EditorialNever)}
}

// DefaultHouse is what holds before anybody chooses.
func DefaultHouse() House {
	return House{ReadingPace: 150, Bench: BenchWhenWorkChanged, Editorial: EditorialAlways}
}

// Sort puts latches in the order they are closed in.
func Sort(ls []Latch) {
	order := []Latch{ByAuthor, ByTechnical, ByEditorial, ByBench}
	slices.SortStableFunc(ls, func(a, b Latch) int { return slices.Index(order, a) - slices.Index(order, b) })
}

// Known reports whether l is one of the latches.
func (l Latch) Known() bool { return closers[l] != nil }

// MayEverClose says why somebody with these roles may not close a latch on any
// revision, nil when they may.
func MayEverClose(l Latch, roles []Role) error {
	if slices.ContainsFunc(roles, func(r Role) bool { return slices.Contains(closers[l], r) }) {
		return nil
	}
	return fmt.Errorf("only %s can close the %s latch", people(closers[l]), l)
}

// people names the roles as a sentence does: "a technical editor or a lead".
func people(roles []Role) string {
	var out []string
	for _, r := range roles {
		article := "a "
		if strings.ContainsRune("aeiou", rune(r[0])) {
			article = "an "
		}
		out = append(out, article+string(r))
	}
	return strings.Join(out, " or ")
}

// Case is what decides whether a latch may be closed now.
type Case struct {
	State    State
	Required []Latch
	Closed   []Closed
	// Blocking is the number of findings that block release.
	Blocking int
	// WorkedOn is set where the record has anything by the person's hand in the
	// revision.
	WorkedOn bool
	House    House
	// Asked is how many questions are open, whoever asked them.
	Asked int
	// Unread is how many steps that weigh on the latch the person has not read as they
	// stand, HeadUnread whether the title and preparation are among what they have not
	// read; Questions how many of their own questions are open.
	Unread     int
	HeadUnread bool
	Questions  int
	// Demands is how many points that must be changed are open, whoever made them, and
	// Unanswered how many of those nobody has answered.
	Demands    int
	Unanswered int
}

// MayClose says why a person may not close a latch now, nil when they may.
// Nobody closes the technical, the editorial or the bench latch over edits of
// their own, in whatever role, but for the author who edits in a team of two.
func (c Case) MayClose(l Latch, person int64, roles []Role) error {
	if err := MayEverClose(l, roles); err != nil {
		return err
	}
	if !c.State.Open() {
		return fmt.Errorf("this revision is %s; its latches stay as they are", c.State.Said())
	}
	if !slices.Contains(c.Required, l) {
		return fmt.Errorf("this revision needs no %s latch", l)
	}
	if slices.ContainsFunc(c.Closed, func(k Closed) bool { return k.Latch == l }) {
		return fmt.Errorf("the %s latch is closed already", l)
	}
	inTwo := c.House.AuthorMayEdit
	for _, k := range c.Closed {
		pair := (k.Latch == ByAuthor && l == ByEditorial) || (k.Latch == ByEditorial && l == ByAuthor)
		if k.Person == person && !(inTwo && pair) {
			return fmt.Errorf("you closed the %s latch; another person closes the %s latch", k.Latch, l)
		}
	}
	if c.WorkedOn && l != ByAuthor && !(inTwo && l == ByEditorial) {
		return fmt.Errorf("you worked on this revision; another person closes the %s latch", l)
	}
	if c.State == Draft && l != ByAuthor {
		return fmt.Errorf("the author closes first: that sends the draft on review")
	}
	for _, w := range c.Wants(l) {
		if w.Left > 0 {
			return errors.New(w.Why)
		}
	}
	return nil
}

// Ready reports whether every latch the revision needs is closed, so that it can be
// released.
func (c Case) Ready() bool {
	return c.State.Open() && len(c.Required) > 0 && After(c.Required, c.Closed) == Latched
}

// MayRelease says why a revision is not released by somebody with these roles now, nil
// when it may be: by a lead, once every latch is closed and nothing that was asked or
// must be changed is open. By the rule of the house it may be whoever closed the last
// latch.
func (c Case) MayRelease(roles []Role, last bool) error {
	switch {
	case !slices.Contains(roles, Lead) && !(last && c.House.LastReleases):
		return fmt.Errorf("a lead releases it")
	case !c.State.Open():
		return fmt.Errorf("this revision is %s", c.State.Said())
	case !c.Ready():
		return fmt.Errorf("not every latch is closed")
	case c.Blocking > 0:
		return fmt.Errorf("%d %s", c.Blocking, plural(c.Blocking, "finding blocks release", "findings block release"))
	case c.Demands > 0:
		return fmt.Errorf("%d %s", c.Demands, plural(c.Demands, "point that must be changed is open", "points that must be changed are open"))
	case c.Asked > 0:
		return fmt.Errorf("%d %s: whoever asked settles it, or a lead waives it with a reason", c.Asked, plural(c.Asked, "question is open", "questions are open"))
	}
	return nil
}

// Want is one thing a latch wants before it closes: how many are left, and the
// sentence for the person who would close it.
type Want struct {
	What What
	Left int
	Why  string
}

// What names a want.
type What string

// The wants.
const (
	NoBlocking  What = "findings"
	AllRead     What = "read"
	NoQuestions What = "questions"
	NoDemands   What = "must-changes"
)

// Wants lists what a latch wants of the person who closes it, met or not. A point
// that must be changed keeps the editors' latches open until whoever made it is
// content; the author may send the page round again once each has an answer.
func (c Case) Wants(l Latch) []Want {
	want := func(w What, left int, one, more string) Want {
		return Want{w, left, fmt.Sprintf("%d %s", left, plural(left, one, more))}
	}
	out := []Want{
		want(NoBlocking, c.Blocking, "finding blocks release: mend or accept it first", "findings block release: mend or accept them first"),
		c.unread(),
		want(NoQuestions, c.Questions, "question of yours is open", "questions of yours are open"),
	}
	if l == ByAuthor {
		return append(out, want(NoDemands, c.Unanswered, "point that must be changed has no answer yet", "points that must be changed have no answer yet"))
	}
	return append(out, want(NoDemands, c.Demands, "point that must be changed is open", "points that must be changed are open"))
}

// unread is what the person has still to read: steps by their number, and what stands
// above them.
func (c Case) unread() Want {
	w := Want{AllRead, c.Unread, fmt.Sprintf("%d %s not read as %s now", c.Unread, plural(c.Unread, "step is", "steps are"), plural(c.Unread, "it stands", "they stand"))}
	switch {
	case c.HeadUnread && c.Unread == 0:
		w = Want{AllRead, 1, "the title and preparation are not read as they stand now"}
	case c.HeadUnread:
		w.Left++
		w.Why = fmt.Sprintf("%d %s, and the title and preparation, are not read as they stand now", c.Unread, plural(c.Unread, "step", "steps"))
	}
	return w
}

// MayWithdraw says why somebody with these roles may not withdraw a release, nil
// when they may.
func MayWithdraw(roles []Role) error {
	if MayEverClose(ByTechnical, roles) == nil {
		return nil
	}
	return fmt.Errorf("only %s can withdraw a release", people(closers[ByTechnical]))
}

// Closes are the latches that somebody with these roles may close, as they are shown.
func Closes(roles []Role) []Latch {
	out := []Latch{}
	for _, l := range []Latch{ByAuthor, ByTechnical, ByEditorial, ByBench} {
		if MayEverClose(l, roles) == nil {
			out = append(out, l)
		}
	}
	return out
}

// MayEverPutIntoUse says why somebody with these roles may put no engine sheet
// into use, nil when they may.
func MayEverPutIntoUse(roles []Role) error {
	if slices.ContainsFunc(roles, func(r Role) bool { return slices.Contains(closers[ByTechnical], r) }) {
		return nil
	}
	return fmt.Errorf("only %s can put a sheet into use", people(closers[ByTechnical]))
}

// SheetCase is what decides whether a draft of an engine sheet may be put into use.
type SheetCase struct {
	WorkedOn bool
	Blocking int
	// Unread is how many things of it that have changed the person has not read as they
	// stand, Asked how many questions and points are open, whoever made them.
	Unread int
	Asked  int
}

// MayPutIntoUse says why somebody may not put an engine sheet's draft into use,
// nil when they may: it takes a technical editor or a lead who has not worked on
// the draft and has read all that changes, no finding that blocks, and nothing that was
// asked and is open.
func MayPutIntoUse(roles []Role, c SheetCase) error {
	if err := MayEverPutIntoUse(roles); err != nil {
		return err
	}
	switch {
	case c.WorkedOn:
		return fmt.Errorf("you worked on this draft; another person puts it into use")
	case c.Blocking > 0:
		return fmt.Errorf("%d finding%s must be mended first", c.Blocking, plural(c.Blocking, "", "s"))
	case c.Asked > 0:
		return fmt.Errorf("%d %s open", c.Asked, plural(c.Asked, "question or point is", "questions or points are"))
	case c.Unread > 0:
		return fmt.Errorf("you have not read %d of the things that change as they stand", c.Unread)
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

// Required are the latches a revision needs. Unless the house says otherwise, the bench
// closes one where the procedure is new, or where a step that locks, turns, lays, tightens, tensions or
// starts is not printed as in the revision before: its own words and notes and what its
// engine sheet makes of it along. previous is nil for the first.
func (h House) Required(previous *Page, now Page) []Latch {
	base := []Latch{ByAuthor, ByTechnical, ByEditorial}
	if h.Editorial == EditorialNever {
		base = base[:2]
	}
	switch h.Bench {
	case BenchAlways:
		return append(base, ByBench)
	case BenchNever:
		return base
	}
	if previous == nil || !slices.EqualFunc(heavy(previous.Procedure), heavy(now.Procedure), func(a, b *step.Step) bool { return samePrinted(*previous, now, a, b) }) {
		return append(base, ByBench)
	}
	return base
}

// samePrinted reports whether two steps of two pages say the same to whoever does them.
func samePrinted(was, now Page, a, b *step.Step) bool {
	return step.SameAction(a.Action, b.Action) && a.Wording == b.Wording && a.Note == b.Note && reflect.DeepEqual(a.When, b.When) && document.StandsAlike(was.Index, now.Index, b)
}

// heavy are the steps of weight, in order, and those whose own words give a figure or
// an instruction.
func heavy(p *procedure.Procedure) []*step.Step {
	var out []*step.Step
	for i := range p.Steps {
		s := &p.Steps[i]
		if v := step.SpecOf(s.Action.Verb()); v != nil && v.Weighs() || quickline.Instructs(s.Wording) || quickline.Instructs(s.Note) {
			out = append(out, s)
		}
	}
	return out
}
