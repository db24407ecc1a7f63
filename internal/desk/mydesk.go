package desk

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/readstate"
	"inklatch/internal/store"
)

// The kinds of what waits for somebody, in the order they come on one day.
const (
	ToSettle  = "settle"
	ToAnswer  = "answer"
	ToNote    = "note"
	ToMend    = "mend"
	ToRelease = "release"
	ToReview  = "review"
	ToProve   = "prove"
	ToObey    = "house"
	ToLook    = "source"
	ToSheet   = "sheet"
	ToWrite   = "write"
	InReview  = "on review"
	WasNoted  = "answered"
)

var taskOrder = []string{ToSettle, ToAnswer, ToNote, ToMend, ToRelease, ToReview, ToProve, ToObey, ToLook, ToSheet, ToWrite, InReview, WasNoted}

// Task is one thing that waits for somebody, or that they wait for.
type Task struct {
	Kind string `json:"kind"`
	// Waits is set where it is for the person to do, rather than to know of.
	Waits bool `json:"waits,omitzero"`
	// Due is the day it is to be done by, as 2006-01-02; empty for none.
	Due string `json:"due,omitzero"`
	// Revision and Step are where it is done; Code is that of an engine sheet.
	Revision int64   `json:"revision,omitzero"`
	Step     step.ID `json:"step,omitzero"`
	Engine   string  `json:"engine"`
	Title    string  `json:"title"`
	Number   int     `json:"number,omitzero"`
	// Says is what there is to do, in a few words.
	Says string    `json:"says"`
	By   string    `json:"by,omitzero"`
	At   time.Time `json:"at"`
	// Row has the counts and latches of the revision it is about.
	Row *ProcedureRow `json:"row,omitempty"`
}

// The most of each kind that a desk shows, and the most reviews of which it counts
// what is to be read.
const (
	mostOnDesk  = 200
	mostCounted = 25
)

// MyDesk is what waits for somebody, in the order of the days it is due, and then
// of what keeps others waiting.
func (d *Drafts) MyDesk(ctx context.Context, u *User) ([]Task, error) {
	out := []Task{}
	kinds := []func(context.Context, *User) ([]Task, error){d.noteTasks}
	if !isReader(u) {
		kinds = append(kinds, d.reviewTasks, d.talkTasks, d.proofTasks, d.houseTasks, d.sourceTasks, d.sheetTasks)
	}
	for _, f := range kinds {
		ts, err := f(ctx, u)
		if err != nil {
			return nil, err
		}
		for i := range ts {
			ts[i].Waits = ts[i].Waits || !slices.Contains([]string{InReview, ToWrite, ToSheet, WasNoted}, ts[i].Kind)
		}
		out = append(out, ts...)
	}
	slices.SortStableFunc(out, func(a, b Task) int {
		return cmp.Or(
			cmp.Compare(b2i(a.Due == ""), b2i(b.Due == "")), strings.Compare(a.Due, b.Due),
			cmp.Compare(slices.Index(taskOrder, a.Kind), slices.Index(taskOrder, b.Kind)), b.At.Compare(a.At))
	})
	return out, nil
}

func b2i(yes bool) int {
	if yes {
		return 1
	}
	return 0
}

// reviewTasks are the latches somebody may close on the work of others, and their
// own drafts; a lead sees everybody's.
func (d *Drafts) reviewTasks(ctx context.Context, u *User) ([]Task, error) {
	var out []Task
	counted := 0
	reviews, _, err := d.Procedures(ctx, u, ListQuery{Limit: mostOnDesk, states: []string{string(latch.OnReview)}, Sort: store.ByDue})
	if err != nil {
		return nil, err
	}
	own := map[int64]bool{}
	for i := range reviews {
		row := &reviews[i]
		l, due, mine := waitsFor(u, row)
		if l == "" {
			continue
		}
		own[row.Revision] = true
		t := taskOf(ToReview, row)
		t.Due, t.Says = due, string(l)+" latch"
		if counted < mostCounted {
			counted++
			says, err := d.leftToRead(ctx, u, row.Revision, l)
			if err != nil {
				if says, err = troubleOf(err); err != nil {
					return nil, err
				}
			}
			t.Says += ": " + says
		}
		if mine {
			t.Says += ", taken over by you"
		}
		out = append(out, t)
	}
	if !u.Writes() {
		return out, nil
	}
	lead := u.Leads()
	drafts, _, err := d.Procedures(ctx, u, ListQuery{Limit: mostOnDesk, states: []string{string(latch.Draft), string(latch.OnReview)}, Sort: store.ByDue, mine: !lead})
	if err != nil {
		return nil, err
	}
	for i := range drafts {
		row := &drafts[i]
		if own[row.Revision] {
			continue
		}
		t, err := d.draftTask(ctx, row, lead)
		if err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, nil
}

// houseTasks are somebody's own pages in which the newest house rules find more than those
// before did, until they are changed.
func (d *Drafts) houseTasks(ctx context.Context, u *User) ([]Task, error) {
	if !u.Writes() {
		return nil, nil
	}
	r := d.store.Reads(ctx)
	rows, err := r.HouseTold(u.ID, mostOnDesk)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	saved := map[int64]*store.HouseRules{}
	var who []int64
	for i := range rows {
		if id := rows[i].RulesID; saved[id] == nil {
			if saved[id], err = r.HouseOf(id); err != nil {
				return nil, err
			}
			who = append(who, saved[id].PersonID)
		}
	}
	names, err := r.Names(who...)
	if err != nil {
		return nil, err
	}
	var out []Task
	for i := range rows {
		v := saved[rows[i].RulesID]
		row, err := d.trialRow(r, &rows[i].HouseTrialRow)
		if err != nil {
			return nil, err
		}
		says := fmt.Sprintf("house rules %d: ", v.ID)
		if n := row.Blocks - row.Blocked; n > 0 {
			says += fmt.Sprintf("%d more %s", n, many(n, "finding blocks it", "findings block it"))
		} else {
			n := row.Misses - row.Missed
			says += fmt.Sprintf("%d more %s", n, many(n, "mistake is missed", "mistakes are missed"))
		}
		out = append(out, Task{Kind: ToObey, Revision: row.Revision, Engine: row.Engine, Title: row.Title, Number: row.Number, At: v.At, By: nameOf(names, &v.PersonID), Says: says})
	}
	return out, nil
}

func taskOf(kind string, row *ProcedureRow) Task {
	return Task{Kind: kind, Revision: row.Revision, Engine: row.Engine, Title: row.Title, Number: row.Number, By: row.ChangedBy, At: row.ChangedAt, Row: row}
}

// draftTask is a draft as its authors find it on their desks.
func (d *Drafts) draftTask(ctx context.Context, row *ProcedureRow, lead bool) (Task, error) {
	t := taskOf(ToWrite, row)
	for _, m := range row.Latches {
		if m.Due != "" && (t.Due == "" || m.Due < t.Due) && (row.State == string(latch.OnReview) || m.Latch == latch.ByAuthor) {
			t.Due = m.Due
		}
	}
	if row.State == string(latch.OnReview) {
		t.Kind, t.Says = InReview, "waits for others"
		if !slices.ContainsFunc(row.Latches, func(m LatchMark) bool { return !m.Closed }) {
			t.Says = "every latch is closed, a lead releases it"
			if lead {
				t.Kind, t.Says = ToRelease, "every latch is closed"
			}
		}
		return t, nil
	}
	talk, err := talkOf(d.store.Reads(ctx), row.Revision)
	if err != nil {
		return t, err
	}
	if _, demands, _ := talk.open(0); demands > 0 {
		t.Kind, t.Says = ToMend, fmt.Sprintf("%d %s that must be changed", demands, many(demands, "point", "points"))
	} else {
		t.Says = "being written"
	}
	return t, nil
}

func many(n int, one, more string) string {
	if n == 1 {
		return one
	}
	return more
}

// waitsFor is the latch of a revision on review that waits for somebody: one they
// have taken over before one that is free, and none that another has taken.
func waitsFor(u *User, row *ProcedureRow) (l latch.Latch, due string, mine bool) {
	for _, m := range row.Latches {
		if !m.MayClose || m.Taken != 0 && m.Taken != u.ID {
			continue
		}
		if l == "" || m.Taken == u.ID && !mine || m.Due != "" && (due == "" || m.Due < due) && (m.Taken == u.ID) == mine {
			l, due, mine = m.Latch, m.Due, m.Taken == u.ID
		}
	}
	return l, due, mine
}

// leftToRead says what somebody has still to read before they can close a latch.
func (d *Drafts) leftToRead(ctx context.Context, u *User, id int64, l latch.Latch) (string, error) {
	r := d.store.Reads(ctx)
	o, err := d.open(r, id)
	if err != nil {
		return "", err
	}
	all, err := r.RevisionsOf(o.rev.ProcedureID)
	if err != nil {
		return "", err
	}
	before, err := d.before(r, o, all)
	if err != nil {
		return "", err
	}
	page, err := d.hasRead(r, u, o.rev.ProcedureID)
	if err != nil {
		return "", err
	}
	left := readstate.Left(page.Unread(stateOf(o, before)), l)
	again, steps := 0, 0
	for i := range left {
		again += b2i(left[i].Why != readstate.Never)
		steps += b2i(left[i].Step != readstate.Head)
	}
	says := fmt.Sprintf("%d %s to read", steps, many(steps, "step", "steps"))
	switch {
	case len(left) == 0:
		return "all read", nil
	case steps == 0:
		return "the title and preparation to read", nil
	case again == 0:
		return says, nil
	}
	return fmt.Sprintf("%s, %d changed since you read", says, again), nil
}

// talkTasks are the remarks that wait for somebody: to be settled, where theirs was
// answered, and to be answered.
func (d *Drafts) talkTasks(ctx context.Context, u *User) ([]Task, error) {
	ws, err := d.store.Reads(ctx).Waiting(u.ID, mostOnDesk)
	if err != nil {
		return nil, err
	}
	var out []Task
	for i := range ws {
		w := &ws[i]
		t := Task{Revision: w.RevisionID, Step: step.ID(w.StepID), Engine: w.Engine, Title: w.Title, Number: w.Number, By: w.By, At: w.At, Says: cmp.Or(w.Body, w.Line)}
		if w.Due != nil {
			t.Due = w.Due.Format(time.DateOnly)
		}
		switch {
		case w.Mine && w.LastBy != 0 && w.LastBy != u.ID:
			t.Kind, t.By, t.Says = ToSettle, w.LastName, cmp.Or(w.LastBody, t.Says)
		case w.Mine, w.Kind == Note && !w.Named, w.LastBy != 0 && w.LastBy != w.PersonID:
			continue // theirs, or nothing to answer, or answered: whoever asked has the word
		case w.Named, w.Worked && u.Writes():
			t.Kind = ToAnswer
		default:
			continue
		}
		out = append(out, t)
	}
	return out, nil
}

// answersFor is how long an answer to a field note stays on its reader's desk.
const answersFor = 14 * 24 * time.Hour

// noteTasks are the field notes on what somebody answers for, of everybody's for a
// lead, and the answers to their own.
func (d *Drafts) noteTasks(ctx context.Context, u *User) ([]Task, error) {
	r := d.store.Reads(ctx)
	var out []Task
	if u.Writes() {
		ns, err := r.FieldNotesFor(u.ID, u.Leads(), mostOnDesk)
		if err != nil {
			return nil, err
		}
		for i := range ns {
			out = append(out, noteTask(ToNote, &ns[i], ns[i].By, ns[i].Body, ns[i].At))
		}
	}
	ns, err := r.FieldNotesBy(u.ID, store.Now().Add(-answersFor), mostOnDesk)
	for i := range ns {
		out = append(out, noteTask(WasNoted, &ns[i], ns[i].AnsweredOf, ns[i].Answer, *ns[i].AnsweredAt))
	}
	return out, err
}

func noteTask(kind string, n *store.FieldNoteRow, by, says string, at time.Time) Task {
	return Task{Kind: kind, Revision: n.RevisionID, Step: step.ID(n.StepID), Engine: n.Engine, Title: n.Title, Number: n.Number, By: by, Says: says, At: at}
}

// proofTasks are releases in which the engine sheet now in use finds more.
func (d *Drafts) proofTasks(ctx context.Context, u *User) ([]Task, error) {
	if !u.Writes() {
		return nil, nil
	}
	ws, err := d.store.Reads(ctx).Worse(mostOnDesk)
	var out []Task
	for _, w := range ws {
		out = append(out, Task{
			Kind: ToProve, Revision: w.RevisionID, Engine: w.Engine, Title: w.Title, Number: w.Number, At: w.At,
			Says: fmt.Sprintf("%d more %s with the sheet now in use", w.More, many(w.More, "finding", "findings")),
		})
	}
	return out, err
}

// sourceTasks are sheets in use whose values rest on a document that another has replaced, for
// those who entered them; for all who write, where none of them is here any more.
func (d *Drafts) sourceTasks(ctx context.Context, u *User) ([]Task, error) {
	if !u.Writes() {
		return nil, nil
	}
	late, err := d.store.Reads(ctx).LateSources(u.Name, mostOnDesk)
	if err != nil {
		return nil, err
	}
	out := make([]Task, 0, len(late))
	for i := range late {
		s := &late[i]
		out = append(out, Task{
			Kind: ToLook, Engine: s.Code, Title: fmt.Sprintf("Engine sheet %d", s.Sheet), Number: s.Sheet, At: s.At,
			Says: fmt.Sprintf("%s %s is replaced by %s: %s", s.Kind, s.Number, s.Replaced, s.Rests),
		})
	}
	return out, nil
}

// sheetTasks are the engine sheets being drawn up: for those who put sheets into use
// when they were asked to look, for those who draw them up when something must be
// changed, and for both to know of otherwise.
func (d *Drafts) sheetTasks(ctx context.Context, u *User) ([]Task, error) {
	rows, err := d.rooms.Engines.SheetsOnDesk(ctx, u)
	var out []Task
	for i := range rows {
		t, err := d.sheetTask(ctx, u, &rows[i])
		if err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, err
}

func (d *Drafts) sheetTask(ctx context.Context, u *User, row *EngineRow) (Task, error) {
	t := Task{Kind: ToSheet, Engine: row.Code, Title: fmt.Sprintf("Engine sheet %d", row.Draft), Number: row.Draft, Says: "being drawn up", At: row.At}
	r := d.store.Reads(ctx)
	all, err := r.SheetsOf(row.Code)
	if err != nil {
		return t, err
	}
	at := slices.IndexFunc(all, func(v store.Sheet) bool { return v.State == "draft" })
	if at < 0 {
		return t, nil // it was put into use since
	}
	v := &all[at]
	worked, err := r.WorkedOnSheet(v.ID, u.ID)
	if err != nil {
		return t, err
	}
	said, err := sheetTalk(r, v.ID)
	if err != nil {
		return t, err
	}
	settle, demands, asked := said.toSettle(u.ID), said.demands(), said.asked()
	uses := latch.MayEverPutIntoUse(u.Roles) == nil
	switch {
	case settle > 0:
		t.Waits, t.Says = true, fmt.Sprintf("%d %s to settle", settle, many(settle, "answer", "answers"))
	case worked && demands > 0:
		t.Waits, t.Says = true, fmt.Sprintf("%d %s that must be changed", demands, many(demands, "point", "points"))
	case worked && asked > 0:
		t.Waits, t.Says = true, fmt.Sprintf("%d %s open", asked, many(asked, "question is", "questions are"))
	case !worked && uses && v.AskedBy != nil:
		if t.By, err = r.NameOf(*v.AskedBy); err != nil {
			return t, err
		}
		t.Waits, t.Says, t.At = true, t.By+" asks for it to be looked at", *v.AskedAt
	case v.AskedBy != nil:
		t.Says = "waits to be looked at"
	case row.Blocking > 0:
		t.Says = fmt.Sprintf("%d %s in the way of its use", row.Blocking, many(row.Blocking, "finding stands", "findings stand"))
	case uses:
		t.Says = "nothing is in the way of its use"
	}
	return t, nil
}
