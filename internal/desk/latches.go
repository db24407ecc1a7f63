package desk

import (
	"context"
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/readstate"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// before is the revision latched before another, nil for none. all are those of the
// procedure, the newest first.
func (d *library) before(r store.Reads, o *opened, all []store.Revision) (*opened, error) {
	for i := range all {
		if all[i].Number < o.rev.Number && latch.State(all[i].State).Frozen() {
			return d.open(r, all[i].ID)
		}
	}
	return nil, nil
}

// requiredAgainst are the latches of a revision against the one latched before it.
// One that was withdrawn is nothing to go by: the bench looks at all of it again.
func requiredAgainst(house latch.House, before, o *opened) []latch.Latch {
	if before == nil || latch.State(before.rev.State) == latch.Withdrawn {
		return house.Required(nil, o.printed())
	}
	was := before.printed()
	return house.Required(&was, o.printed())
}

// neededBy is requiredAgainst for a revision as it is kept, worked out once for all who
// look at it.
func (d *library) neededBy(before, o *opened) []latch.Latch {
	rules := d.ruled()
	key := neededKey{shownKey: shownKey{pageKey{o.rev.ID, o.rev.Version}, o.k.id, rules.version}}
	if before != nil {
		key.before, key.state = before.rev.ID, before.rev.State
	}
	if out, ok := d.needed.Get(key); ok {
		return out
	}
	out := requiredAgainst(rules.Latches, before, o)
	d.needed.Add(key, out)
	return out
}

// printed is a revision as its engine sheet prints it.
func (o *opened) printed() latch.Page { return latch.Page{Index: o.k.index, Procedure: o.p} }

// required are the latches of a revision.
func (d *library) required(r store.Reads, o *opened, all []store.Revision) ([]latch.Latch, error) {
	before, err := d.before(r, o, all)
	if err != nil {
		return nil, err
	}
	return requiredAgainst(d.latches(), before, o), nil
}

// standing is what a list says of a proved page.
func standing(o *opened, found []pageproof.Finding, required []latch.Latch) store.Standing {
	names := make([]string, len(required))
	for i, l := range required {
		names[i] = string(l)
	}
	return store.Standing{
		RevisionID: o.rev.ID, Version: o.rev.Version, SheetID: o.k.id.sheet, Edition: pageproof.Edition,
		Steps: len(o.p.Steps), Free: len(o.free()), Blocking: pageproof.Blocking(found), Findings: pageproof.Open(found), Requires: strings.Join(names, ","),
	}
}

// free are the numbers of the steps with words the virtual engine knows nothing of.
func (o *opened) free() []int {
	out := []int{}
	for i := range o.p.Steps {
		if len(o.p.Steps[i].Free()) > 0 {
			out = append(out, i+1)
		}
	}
	return out
}

// marks are the latches of a revision as somebody sees them.
func (d *library) marks(r store.Reads, u *User, o *opened, all []store.Revision, blocking int) ([]LatchMark, *pending, error) {
	shut, err := r.Shut(o.rev.ID)
	if err != nil {
		return nil, nil, err
	}
	before, err := d.before(r, o, all)
	if err != nil {
		return nil, nil, err
	}
	worked, err := r.WorkedOn(o.rev.ID, u.ID)
	if err != nil {
		return nil, nil, err
	}
	p := &pending{}
	if latch.State(o.rev.State).Open() {
		if p, err = d.pending(r, u, o, before); err != nil {
			return nil, nil, err
		}
	}
	out := d.latchMarks(u, latch.State(o.rev.State), d.neededBy(before, o), shut, blocking, worked, p)
	rs, err := r.ReviewsOf(o.rev.ID)
	if err != nil {
		return nil, nil, err
	}
	return out, p, arranged(r, out, rs)
}

// latchMarks are the latches of a revision as somebody sees them; where pending is
// nil, whatever they have still to read and to answer.
func (d *library) latchMarks(u *User, s latch.State, required []latch.Latch, shut []store.ShelfClosing, blocking int, worked bool, p *pending) []LatchMark {
	c := latch.Case{State: s, Required: required, Blocking: blocking, WorkedOn: worked, House: d.latches()}
	for _, k := range shut {
		c.Closed = append(c.Closed, latch.Closed{Latch: latch.Latch(k.Latch), Person: k.Person})
	}
	if s.Frozen() { // released under the rules of its day
		required = nil
		for i := range shut {
			required = append(required, latch.Latch(shut[i].Latch))
		}
		latch.Sort(required)
	}
	out := []LatchMark{}
	for _, l := range required {
		m := LatchMark{Latch: l}
		for i := range shut {
			if shut[i].Latch == string(l) {
				m.Closed, m.By, m.At = true, shut[i].Name, &shut[i].At
			}
		}
		c := p.of(c, l)
		if p != nil && !m.Closed && s.Open() && latch.MayEverClose(l, u.Roles) == nil {
			for _, w := range c.Wants(l) {
				m.Wants = append(m.Wants, LatchWant(w))
			}
		}
		why := c.MayClose(l, u.ID, u.Roles)
		if m.MayClose = why == nil; !m.MayClose {
			m.WhyNot = why.Error()
		}
		out = append(out, m)
	}
	return out
}

// CloseLatch closes a latch over the version the person saw; where the draft has
// moved on, nothing is closed and the problem says what has changed since. The
// first latch fixes the engine sheet the others are closed over. The last one makes the
// revision ready; Release releases it.
func (d *Review) CloseLatch(ctx context.Context, u *User, id int64, l latch.Latch, seen int64) (*Meta, error) {
	if !l.Known() {
		return nil, notFound("latch")
	}
	if err := latch.MayEverClose(l, u.Roles); err != nil {
		return nil, forbidden(fullStop(err.Error()))
	}
	err := d.store.Write(ctx, id, func(w *store.Draft) error { return d.closeLatch(w, u, l, seen) })
	if err != nil {
		return nil, missing(err, "revision")
	}
	r, err := d.rooms.Drafts.Revision(ctx, u, id)
	if err != nil {
		return nil, err
	}
	return r.Meta, nil
}

func (d *Review) closeLatch(w *store.Draft, u *User, l latch.Latch, seen int64) error {
	o, err := d.drafted(w)
	if err != nil {
		return err
	}
	if seen != w.Revision.Version {
		return d.movedOn(w, o, seen)
	}
	all, err := w.RevisionsOf(w.Revision.ProcedureID)
	if err != nil {
		return err
	}
	before, err := d.before(w.Reads, o, all)
	if err != nil {
		return err
	}
	required := requiredAgainst(d.latches(), before, o)
	worked, err := w.WorkedOn(w.Revision.ID, u.ID)
	if err != nil {
		return err
	}
	p, err := d.pending(w.Reads, u, o, before)
	if err != nil {
		return err
	}
	v := view.Of(o.k.index, o.p, w.Revision.Version, d.house())
	c := latch.Case{
		State: latch.State(w.Revision.State), Required: required, Closed: closings(w.Closings), Blocking: v.Blocking,
		WorkedOn: worked, House: d.latches(),
	}
	if err := p.of(c, l).MayClose(l, u.ID, u.Roles); err != nil {
		return problem(409, "Not yet: %s.", err.Error())
	}
	if err := d.meets(w.Reads, u, o); err != nil {
		return err
	}
	if w.Revision.SheetID == nil {
		w.Revision.SheetID = &o.k.id.sheet
	}
	names := make([]string, len(required))
	for i, r := range required {
		names[i] = string(r)
	}
	over := readstate.Content{Procedure: o.p, Sheet: o.k.id.sheet}
	if err := w.Close(string(l), u.ID, names, over.Encode(), over.Sums(p.page)); err != nil {
		return err
	}
	if err := w.Keep(standing(o, v.Findings, required)); err != nil {
		return err
	}
	c.Closed = append(c.Closed, latch.Closed{Latch: l, Person: u.ID})
	c.Asked, c.Demands = p.talk.asked(), p.talk.demands()
	if c.House.LastReleases && c.MayRelease(u.Roles, true) == nil {
		return d.release(w, u, o, before)
	}
	next := latch.After(required, c.Closed)
	if next == latch.Latched {
		next = latch.OnReview // ready: it waits for its release
	}
	w.Revision.State = string(next)
	return w.Save(u.ID)
}

// latches are the house's rules of latches.
func (d *library) latches() latch.House {
	return d.ruled().Latches
}

// release freezes a revision whose latches are closed, supersedes the one before and
// says in the record what changes by it.
func (d *Review) release(w *store.Draft, u *User, o, before *opened) error {
	if err := closedOver(w, o); err != nil {
		return err
	}
	if err := w.Lock(); err != nil {
		return err
	}
	supersedes, changes := 0, ""
	if before != nil {
		supersedes, changes = before.rev.Number, redline.Between(before.state(), o.state()).Counted
	}
	doc := &latchjson.Document{Engine: *o.k.sheet, Procedure: *o.p}
	// The file carries the head of the record with its last latch closed; the
	// line that latches it cannot be in it, for it has the file's hash.
	if a, err := w.SignHead(); err != nil {
		return err
	} else if a != nil {
		doc.Anchor = a.Line()
	}
	b, err := latchjson.Encode(doc)
	if err != nil {
		return err
	}
	return w.Freeze(u.ID, string(b), latchjson.Sum(b), supersedes, changes, d.ruled().version)
}

// state is a revision as redlines take it.
func (o *opened) state() redline.State {
	return redline.State{Index: o.k.index, Procedure: o.p}
}

// closedOver holds what is about to be released against what each of its latches was
// closed over. Edits open the latches they weigh on, so nothing can differ; this is
// looked at all the same, for it is what a release stands on.
func closedOver(w *store.Draft, o *opened) error {
	for i := range w.Closings {
		c := &w.Closings[i]
		if c.Content == "" {
			continue // closed by a program that did not keep it
		}
		over, err := readstate.DecodeContent(c.Content)
		if err != nil {
			return err
		}
		if what := over.Differs(latch.Latch(c.Latch), o.p, o.k.id.sheet); what != "" {
			return problem(409, "The %s latch was closed over something else than there is now: %s. Nothing was released.", c.Latch, what)
		}
	}
	return nil
}

// movedOn is the problem of closing a latch over another version than the one
// there is.
func (d *Review) movedOn(w *store.Draft, now *opened, seen int64) error {
	p := &Problem{Status: 409, Title: "The draft has moved on since you looked. Look at what has changed, then close the latch.", Version: w.Revision.Version}
	if seen > w.Revision.Version {
		return p
	}
	batches, err := w.BatchesSince(w.Revision.ID, seen)
	if err != nil {
		return err
	}
	before := now.p
	for i := range batches {
		var back []procedure.Edit
		if err := json.Unmarshal([]byte(batches[i].Inverse), &back); err != nil {
			return err
		}
		// What cannot be taken back exactly is left out; the version tells anyway.
		if was, _, err := procedure.Apply(before, back); err == nil {
			before = was
		}
	}
	p.Changes = describe(now.k, before, now.p)
	return p
}

// describe says the changes between two states of a page, a line each.
func describe(k *known, before, after *procedure.Procedure) []string {
	out := []string{}
	for _, c := range latch.Changes(before, after) {
		line := c.What + " changed in the header"
		if c.Step != "" {
			at, page := after.At(c.Step), after
			if at < 0 {
				at, page = before.At(c.Step), before
			}
			s := &page.Steps[at]
			line = stepLine(at, c, s, k)
		}
		out = append(out, line)
	}
	return out
}

func stepLine(at int, c latch.Change, s *step.Step, k *known) string {
	what := string(c.Kind)
	if c.Kind == latch.Changed {
		what = c.What + " changed"
	}
	return "Step " + strconv.Itoa(at+1) + " " + what + ": " + sentence(k, s)
}

func closings(cs []store.Closing) []latch.Closed {
	out := make([]latch.Closed, len(cs))
	for i, c := range cs {
		out[i] = latch.Closed{Latch: latch.Latch(c.Latch), Person: c.PersonID}
	}
	return out
}

// reopenAll opens every latch of a revision again, because what they were closed
// over has changed.
func reopenAll(w *store.Draft, u *User, what string, why map[string]any) error {
	var names []string
	for _, c := range w.Closings {
		names = append(names, c.Latch)
	}
	slices.Sort(names)
	if err := w.Reopen(names); err != nil {
		return err
	}
	w.Revision.State, w.Revision.SheetID = string(latch.Draft), nil
	w.Revision.Version++
	why["reopened"] = names
	if err := w.Append(u.ID, what, why); err != nil {
		return err
	}
	return w.Save(u.ID)
}
