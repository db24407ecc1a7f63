package desk

import (
	"context"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/readstate"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// ReadState is what somebody has read of a revision as it stands now, of that
// which weighs on the latches they may close; on all of them for somebody who may
// close none.
type ReadState struct {
	// Sheet is the engine sheet's version it is read with, to be named when something
	// is marked as read.
	Sheet int64 `json:"sheet"`
	Steps int   `json:"steps"`
	Read  int   `json:"read"`
	// Unread are the steps that are not, the header under an empty id, and steps that
	// are gone.
	Unread []UnreadStep `json:"unread"`
}

// UnreadStep is one thing that is not read as it stands.
type UnreadStep struct {
	Step step.ID       `json:"step"`
	Why  readstate.Why `json:"why"`
	// What names what of it has changed since it was read.
	What []string `json:"what"`
	// Own says why its reader has to say that it is read; where it is empty, it counts as
	// read once it has stood in view for Seconds.
	Own     string  `json:"own,omitzero"`
	Seconds float64 `json:"seconds,omitzero"`
}

// pending is what one person has before them at a revision.
type pending struct {
	page   *readstate.Page
	unread []readstate.Unread
	talk   talk
	person int64
}

// of fills in what a latch wants of the person.
func (p *pending) of(c latch.Case, l latch.Latch) latch.Case {
	if p == nil {
		return c
	}
	for _, v := range readstate.Left(p.unread, l) {
		if v.Step == readstate.Head {
			c.HeadUnread = true
		} else {
			c.Unread++
		}
	}
	c.Questions, c.Demands, c.Unanswered = p.talk.open(p.person)
	c.Asked = p.talk.asked()
	return c
}

// pending gathers what a person has before them. before is the release before the
// revision, nil for none.
func (d *library) pending(r store.Reads, u *User, o, before *opened) (*pending, error) {
	page, err := d.hasRead(r, u, o.rev.ProcedureID)
	if err != nil {
		return nil, err
	}
	t, err := talkOf(r, o.rev.ID)
	if err != nil {
		return nil, err
	}
	return &pending{page, page.Unread(stateOf(o, before)), t, u.ID}, nil
}

// hasRead is what somebody has read, shared by all who ask: it is not to be changed.
func (d *library) hasRead(r store.Reads, u *User, procedure int64) (*readstate.Page, error) {
	p, _, err := d.readingText(r, u, procedure)
	return p, err
}

// readingText is hasRead with the text it was read from. What was read before one more line
// came to it is not decoded again.
func (d *library) readingText(r store.Reads, u *User, procedure int64) (*readstate.Page, string, error) {
	text, err := r.ReadBy(procedure, u.ID)
	if err != nil {
		return nil, "", err
	}
	key := latchjson.Sum([]byte(text))
	if p, ok := d.readings.Get(key); ok {
		return p, text, nil
	}
	var p *readstate.Page
	if end := strings.LastIndexByte(text, '\n'); end > 0 {
		if was, ok := d.readings.Get(latchjson.Sum([]byte(text[:end]))); ok {
			p, err = was.With(text[end+1:])
		}
	}
	if p == nil && err == nil {
		p, err = readstate.Decode(text)
	}
	if err == nil {
		d.readings.Add(key, p)
	}
	return p, text, err
}

// hand is what somebody has read, to be changed, and how many lines of it were written
// since it was last written whole.
type hand struct {
	*readstate.Page
	lines int
	fresh bool
}

// mostLinesRead is how many lines are added to what somebody has read before it is written
// whole again.
const mostLinesRead = 60

func (d *library) readBy(r store.Reads, u *User, procedure int64) (*hand, error) {
	p, text, err := d.readingText(r, u, procedure)
	if err != nil {
		return nil, err
	}
	return &hand{p.Clone(), strings.Count(text, "\n"), text == ""}, nil
}

// keep writes what has become of some things of it: a line, where that will do.
func (h *hand) keep(w *store.Draft, u *User, ids ...step.ID) error {
	if h.fresh || h.lines >= mostLinesRead {
		return w.ReadNow(u.ID, h.Encode())
	}
	return w.ReadMore(u.ID, h.lines+1, h.Patch(ids...))
}

// stateOf is what there is to read of a page: its steps, and those of the release
// before it that it has no more.
func stateOf(o, before *opened) readstate.State {
	s := readstate.State{Index: o.k.index, Procedure: o.p, Memo: o.k.memo}
	if before != nil {
		for i := range before.p.Steps {
			if id := before.p.Steps[i].ID; o.p.At(id) < 0 {
				s.Gone = append(s.Gone, id)
			}
		}
	}
	return s
}

// asks is what a thing that is unread asks of its reader. changed are the steps that
// are not as they were in the release before.
func (d *Review) asks(o *opened, changed map[step.ID]bool, v *readstate.Unread) readstate.Asks {
	at := o.p.At(v.Step)
	switch {
	case v.Step == readstate.Head:
		return readstate.Asks{Own: "it stands above all steps"}
	case at < 0:
		return readstate.Asks{Own: "it was taken off the page"}
	}
	return readstate.AsksOf(o.k.index, &o.p.Steps[at], v.Why != readstate.Never || changed[v.Step], d.ruled().Latches.ReadingPace)
}

// changedSince are the steps that are not as they were in the release before; none
// where there was none, for then all of them are new.
func changedSince(o, before *opened) map[step.ID]bool {
	if before == nil {
		return nil
	}
	out := map[step.ID]bool{}
	for _, c := range latch.Between(before.printed(), o.printed()) {
		out[c.Step] = true
	}
	return out
}

// readState lays out what somebody has read.
func (d *Review) readState(u *User, o, before *opened, required []latch.Latch, unread []readstate.Unread) *ReadState {
	changed := changedSince(o, before)
	var mine []latch.Latch
	for _, l := range required {
		if latch.MayEverClose(l, u.Roles) == nil {
			mine = append(mine, l)
		}
	}
	out := &ReadState{Sheet: o.k.id.sheet, Steps: len(o.p.Steps), Read: len(o.p.Steps), Unread: []UnreadStep{}}
	for i := range unread {
		v := &unread[i]
		if len(mine) > 0 && !slices.ContainsFunc(mine, v.For) {
			continue
		}
		if o.p.At(v.Step) >= 0 {
			out.Read--
		}
		a := d.asks(o, changed, v)
		w := UnreadStep{Step: v.Step, Why: v.Why, What: []string{}, Own: a.Own, Seconds: a.For.Seconds()}
		for _, c := range v.Changes {
			w.What = append(w.What, c.What)
		}
		out.Unread = append(out.Unread, w)
	}
	return out
}

// Marking is what somebody has read, or wants unread again, at the version and the
// sheet they saw.
type Marking struct {
	Version int64     `json:"version"`
	Sheet   int64     `json:"sheet"`
	Steps   []step.ID `json:"steps"`
	Unread  bool      `json:"unread,omitzero"`
	// Stood is set where nobody said so: the one step that is named has stood in view for
	// as long as it asks.
	Stood bool `json:"stood,omitzero"`
}

// standsFor is the share of the time a step asks that has to have gone by between two
// marks, so that a slow line is not held against its reader.
const standsFor = 0.75

// stood reports whether a step has stood in view for as long as it asks: none that asks
// for its reader's own word, and none sooner after the last that was read than its own
// words take. One at a time: hours in which nobody read anything are not time that
// forty steps stood in view.
func (d *Review) stood(o, before *opened, page *readstate.Page, id step.ID) bool {
	all := page.Unread(stateOf(o, before))
	i := slices.IndexFunc(all, func(v readstate.Unread) bool { return v.Step == id })
	if i < 0 {
		return false
	}
	a := d.asks(o, changedSince(o, before), &all[i])
	return a.Own == "" && store.Now().Sub(page.Last()) >= time.Duration(float64(a.For)*standsFor)
}

// MarkRead notes what somebody has read of a revision. A step that somebody else
// has changed since the version they saw stays unread: they have not seen it. The
// state it gives says so.
func (d *Review) MarkRead(ctx context.Context, u *User, id int64, m Marking) (*ReadState, error) {
	if isReader(u) {
		return nil, forbidden("Readers see released revisions only. This one is still being written.")
	}
	if m.Stood && len(m.Steps) != 1 {
		return nil, &Problem{Status: 422, Title: "One step stands in view at a time.", Field: "steps"}
	}
	var out *ReadState
	err := d.store.Write(ctx, id, func(w *store.Draft) error {
		o, before, required, err := d.reviewed(w)
		if err != nil {
			return err
		}
		if m.Sheet != o.k.id.sheet {
			return problem(409, "The engine sheet behind this page has changed since you looked. Read it again as it stands now.")
		}
		page, err := d.readBy(w.Reads, u, w.Revision.ProcedureID)
		if err != nil {
			return err
		}
		now := stateOf(o, before)
		touched := m.Steps
		switch ids := seen(w, m); {
		case m.Unread:
			page.Forget(m.Steps...)
		case m.Stood:
			if len(ids) == 1 && d.stood(o, before, page.Page, ids[0]) {
				page.MarkAs(now, readstate.Mark{How: readstate.Stood, At: moment()}, ids[0])
			}
		default:
			page.MarkAs(now, readstate.Mark{How: readstate.Said, At: moment()}, ids...)
		}
		out = d.readState(u, o, before, required, page.Unread(now))
		return page.keep(w, u, touched...)
	})
	return out, missing(err, "revision")
}

// moment is now, as it is kept.
func moment() time.Time { return store.Now().UTC().Truncate(time.Millisecond) }

// reviewed opens a locked draft for its review: with the release before it and the
// latches it needs.
func (d *Review) reviewed(w *store.Draft) (o, before *opened, required []latch.Latch, err error) {
	if s := latch.State(w.Revision.State); !s.Open() {
		return nil, nil, nil, problem(409, "Revision %d is %s: its review is over.", w.Revision.Number, s)
	}
	if o, err = d.drafted(w); err != nil {
		return nil, nil, nil, err
	}
	all, err := w.RevisionsOf(w.Revision.ProcedureID)
	if err != nil {
		return nil, nil, nil, err
	}
	if before, err = d.before(w.Reads, o, all); err != nil {
		return nil, nil, nil, err
	}
	return o, before, requiredAgainst(d.latches(), before, o), nil
}

// seen are the steps of a marking that have stayed as they were since.
func seen(w *store.Draft, m Marking) []step.ID {
	version := map[step.ID]int64{readstate.Head: w.Revision.HeaderAt}
	for i := range w.Steps {
		version[step.ID(w.Steps[i].StepID)] = w.Steps[i].Version
	}
	var out []step.ID
	for _, id := range m.Steps {
		if version[id] <= m.Version && m.Version <= w.Revision.Version {
			out = append(out, id)
		}
	}
	return out
}

// readOwn notes that somebody has read what they have just written. Where they
// moved steps about, what stands elsewhere for that is read too.
func (d *Review) readOwn(w *store.Draft, u *User, was, after *opened, edits []procedure.Edit) error {
	page, err := d.readBy(w.Reads, u, w.Revision.ProcedureID)
	if err != nil {
		return err
	}
	var ids []step.ID
	moves := false
	for i := range edits {
		switch edits[i].Op {
		case procedure.SetHeader:
			ids = append(ids, readstate.Head)
		case procedure.Move:
			moves = true
			fallthrough
		default:
			ids = append(ids, edits[i].Target())
		}
	}
	now := readstate.State{Index: after.k.index, Procedure: after.p, Memo: after.k.memo}
	had := map[step.ID]bool{}
	if moves {
		for _, v := range page.Unread(readstate.State{Index: was.k.index, Procedure: was.p, Memo: was.k.memo}) {
			had[v.Step] = true
		}
	}
	wrote := readstate.Mark{How: readstate.Wrote, At: moment()}
	page.MarkAs(now, wrote, ids...)
	touched := slices.Clone(ids)
	if moves {
		ids = ids[:0]
		for _, v := range page.Unread(now) {
			if !had[v.Step] {
				ids = append(ids, v.Step)
			}
		}
		page.MarkAs(now, wrote, ids...)
	}
	return page.keep(w, u, append(touched, ids...)...)
}
