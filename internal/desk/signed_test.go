package desk_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/readstate"
	"inklatch/internal/desk"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// later lets the clock of everything that is written go on by itself.
func later(t *testing.T) func(time.Duration) {
	t.Helper()
	was := store.Now
	at := was().Truncate(time.Second)
	store.Now = func() time.Time { return at }
	t.Cleanup(func() { store.Now = was })
	return func(d time.Duration) { at = at.Add(d) }
}

// What stands in view counts only once it has stood for as long as it asks, one thing
// after another; what has a value, a caution, its author's words or a change counts only
// when its reader says so; and the record keeps which it was.
func TestReadMeansRead(t *testing.T) {
	h := open(t)
	pass := later(t)
	mirja := h.user("mirja")
	r := h.redline(mirja, v6, 0)
	mark := func(stood bool, ids ...step.ID) *desk.ReadState {
		t.Helper()
		s, err := h.d.Review.MarkRead(t.Context(), mirja, v6, desk.Marking{Version: r.Meta.Version, Sheet: r.Reading.Sheet, Steps: ids, Stood: stood})
		require.NoError(t, err)
		return s
	}
	var own, plain []step.ID
	asks := map[step.ID]float64{}
	for _, v := range r.Reading.Unread {
		if v.Own != "" {
			own = append(own, v.Step)
			assert.Zero(t, v.Seconds)
		} else {
			plain = append(plain, v.Step)
			asks[v.Step] = v.Seconds
			assert.GreaterOrEqual(t, v.Seconds, 1.5)
		}
	}
	require.Greater(t, len(own), 20, "values, cautions and what stands above the steps")
	require.Greater(t, len(plain), 5)
	assert.Contains(t, own, readstate.Head)

	pass(time.Hour)
	for _, id := range own {
		assert.Len(t, mark(true, id).Unread, len(r.Reading.Unread), "nobody has said so: %s", id)
	}
	_, err := h.d.Review.MarkRead(t.Context(), mirja, v6, desk.Marking{Version: r.Meta.Version, Sheet: r.Reading.Sheet, Steps: plain, Stood: true})
	assert.ErrorContains(t, err, "One step stands in view at a time", "an hour in which nobody read is no time for all of them")
	left := mark(true, plain[0])
	assert.Len(t, left.Unread, len(r.Reading.Unread)-1)
	for _, id := range plain[1:] {
		assert.Len(t, mark(true, id).Unread, len(left.Unread), "no time has gone by since the last")
	}
	pass(time.Duration(asks[plain[1]] * float64(time.Second)))
	assert.Len(t, mark(true, plain[1]).Unread, len(left.Unread)-1)
	assert.Len(t, mark(true, plain[2]).Unread, len(left.Unread)-1, "the time of one step counts for one step")
	assert.Len(t, mark(false, own...).Unread, len(plain)-2, "R says so")
	mark(false, plain[2:]...)

	require.NoError(t, h.openLatches(mirja, v6, latch.ByTechnical))
	p, err := h.d.Review.PlanRelease(t.Context(), mirja, v6)
	require.NoError(t, err)
	for _, l := range p.Latches {
		if l.Latch == latch.ByTechnical {
			assert.Equal(t, []int{len(own) + len(plain) - 2, 2, 0}, []int{l.Said, l.Stood, l.Wrote})
		}
	}
	h.intact()
}

// openLatches closes one latch of a revision over what has been read.
func (h house) openLatches(u *desk.User, id int64, l latch.Latch) error {
	_, err := h.d.Review.CloseLatch(h.Context(), u, id, l, h.open(u, id).Meta.Version)
	return err
}

// Edits of a release need no word of their reader's but where something changed.
func TestWhatChangedIsReadByItself(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	id, err := h.d.Drafts.NewDraft(t.Context(), ines, 2, "Another cover.", 0)
	require.NoError(t, err)
	rows := h.open(ines, id).View.Rows
	at := -1
	for i := range rows {
		if rows[i].Step.Action.Verb() == "remove" && len(rows[i].Step.Cautions) == 0 {
			at = i
		}
	}
	require.Positive(t, at)
	own := func() string {
		for _, v := range h.redline(mirja, id, 0).Reading.Unread {
			if v.Step == rows[at].Step.ID {
				return v.Own
			}
		}
		return "it is read"
	}
	h.read(mirja, id)
	assert.Equal(t, "it is read", own())
	s := rows[at].Step
	s.Note = "Mind the clip."
	require.NoError(t, h.edits(ines, id, procedure.Edit{Op: procedure.Replace, Step: &s}))
	assert.Equal(t, "it is read", own(), "a note at a cover is none of hers")
	s.Cautions = []step.Caution{{Text: "The edge is sharp."}}
	require.NoError(t, h.edits(ines, id, procedure.Edit{Op: procedure.Replace, Step: &s}))
	assert.Equal(t, "it has changed", own())
}

// The last latch makes a page ready; a lead releases it, with every question settled or
// waived, and the record says what it changes and supersedes.
func TestReleaseIsAnAct(t *testing.T) {
	h := open(t)
	ines, rosalind := h.user("ines"), h.user("rosalind")
	readers := map[latch.Latch]*desk.User{latch.ByAuthor: ines, latch.ByTechnical: h.user("mirja"), latch.ByEditorial: h.user("teodor"), latch.ByBench: h.user("aiko")}
	id, err := h.d.Drafts.NewDraft(t.Context(), ines, 2, "Two questions.", 0)
	require.NoError(t, err)
	head := h.open(ines, id).View.Header
	head.Purpose = "To look at it once more."
	require.NoError(t, h.edits(ines, id, procedure.Edit{Op: procedure.SetHeader, Header: &head}))
	q := h.say(rosalind, id, desk.Said{Kind: desk.Question, Place: "page", Body: "Is the purpose right?"})
	must := h.say(readers[latch.ByTechnical], id, desk.Said{Kind: desk.Question, Place: "page", Body: "Twice?"})
	require.NoError(t, h.answer(readers[latch.ByTechnical], must.ID, "settle", ""))
	_, err = h.d.Review.Release(t.Context(), rosalind, id, h.open(ines, id).Meta.Version)
	assert.ErrorContains(t, err, "not every latch is closed")
	for _, m := range h.open(ines, id).Meta.Latches {
		h.read(readers[m.Latch], id)
		require.NoError(t, h.openLatches(readers[m.Latch], id, m.Latch), m.Latch)
	}
	meta := h.open(rosalind, id).Meta
	tasks, err := h.d.Drafts.MyDesk(t.Context(), rosalind)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(tasks, func(v desk.Task) bool { return v.Kind == desk.ToRelease && v.Waits && v.Revision == id }))
	assert.Equal(t, "on review", meta.State, "nothing is released by itself")
	assert.True(t, meta.Ready)
	assert.True(t, meta.MayRelease)
	assert.False(t, h.open(ines, id).Meta.MayRelease)
	_, err = h.d.Review.Release(t.Context(), ines, id, meta.Version)
	assert.ErrorContains(t, err, "A lead releases")
	_, err = h.d.Review.Release(t.Context(), rosalind, id, meta.Version)
	assert.ErrorContains(t, err, "1 question is open")
	_, err = h.s.SQL().Exec("UPDATE revisions SET state = 'latched', frozen = 'x', sha256 = encode(sha256('x'), 'hex'), latched_at = now() WHERE id = $1", id)
	assert.ErrorContains(t, err, "has a question open", "not by the database either")
	plan, err := h.d.Review.PlanRelease(t.Context(), rosalind, id)
	require.NoError(t, err)
	assert.False(t, plan.MayRelease)
	assert.Len(t, plan.Asked, 1)
	assert.Equal(t, 1, plan.Supersedes)
	assert.Equal(t, "1 value", plan.Counted)
	assert.NotEmpty(t, plan.Holds)
	assert.Len(t, plan.Latches, len(meta.Latches))
	require.NoError(t, h.answer(rosalind, q.ID, "settle", "It is."))
	_, err = h.d.Review.Release(t.Context(), rosalind, id, meta.Version-1)
	assert.Equal(t, 409, problemOf(t, err).Status, "the page that was seen is released, and no other")
	out, err := h.d.Review.Release(t.Context(), rosalind, id, meta.Version)
	require.NoError(t, err)
	assert.Equal(t, "latched", out.State)
	lines, err := h.d.Review.Record(t.Context(), rosalind, id)
	require.NoError(t, err)
	assert.Contains(t, lines[0].Says, "released it in place of revision 1 (1 value)")
	h.intact()
}

// Where the house says so, the last latch releases; with a question open it does not.
func TestTheLastLatchReleasesByHouseRule(t *testing.T) {
	h := open(t)
	h.d.Signing(150, true)
	ines := h.user("ines")
	readers := map[latch.Latch]*desk.User{latch.ByAuthor: ines, latch.ByTechnical: h.user("mirja"), latch.ByEditorial: h.user("teodor"), latch.ByBench: h.user("aiko")}
	for _, asks := range []bool{true, false} {
		id, err := h.d.Drafts.NewDraft(t.Context(), ines, 2, "By house rule.", 0)
		require.NoError(t, err)
		require.NoError(t, h.edits(ines, id, wait(h.open(ines, id).View.Rows[0].Step.ID, 5)))
		var q *desk.Remark
		if asks {
			q = h.say(h.user("rosalind"), id, desk.Said{Kind: desk.Question, Place: "page", Body: "Is it?"})
		}
		for _, m := range h.open(ines, id).Meta.Latches {
			h.read(readers[m.Latch], id)
			require.NoError(t, h.openLatches(readers[m.Latch], id, m.Latch), m.Latch)
		}
		meta := h.open(ines, id).Meta
		if asks {
			assert.Equal(t, "on review", meta.State)
			require.NoError(t, h.answer(h.user("rosalind"), q.ID, "settle", "It is."))
			_, err = h.d.Review.Release(t.Context(), h.user("rosalind"), id, meta.Version)
			require.NoError(t, err)
			continue
		}
		assert.Equal(t, "latched", meta.State)
	}
	h.intact()
}

// A draft that was deleted and comes back after a later release is a new draft against
// what holds now; it is never released over it.
func TestADraftThatComesBackLate(t *testing.T) {
	h := open(t)
	ines, rosalind := h.user("ines"), h.user("rosalind")
	readers := map[latch.Latch]*desk.User{latch.ByAuthor: ines, latch.ByTechnical: h.user("mirja"), latch.ByEditorial: h.user("teodor"), latch.ByBench: h.user("aiko")}
	early, err := h.d.Drafts.NewDraft(t.Context(), ines, 2, "Put aside.", 0)
	require.NoError(t, err)
	require.NoError(t, h.edits(ines, early, wait(h.open(ines, early).View.Rows[0].Step.ID, 5)))
	require.NoError(t, h.d.Drafts.Delete(t.Context(), ines, early))
	next, err := h.d.Drafts.NewDraft(t.Context(), ines, 2, "Sooner.", 0)
	require.NoError(t, err)
	head := h.open(ines, next).View.Header
	head.Purpose = "To look at it once more."
	require.NoError(t, h.edits(ines, next, procedure.Edit{Op: procedure.SetHeader, Header: &head}))
	require.NoError(t, h.finish(readers, next))

	back, err := h.d.Drafts.BringBack(t.Context(), ines, early)
	require.NoError(t, err)
	assert.NotEqual(t, early, back)
	m := h.open(ines, back).Meta
	assert.Equal(t, h.open(ines, next).Meta.Number+1, m.Number)
	assert.Contains(t, m.Reason, "Draft 2 taken up again")
	r := h.redline(ines, back, 0)
	assert.Equal(t, next, r.Against.ID, "redlined against what holds now")
	assert.Equal(t, "Wait 5 min.", h.open(ines, back).View.Rows[0].Sentence)
	assert.Equal(t, "deleted", h.open(rosalind, early).Meta.State)
	h.intact()
}

// A draft is deleted, and brought back, by those who have worked on it and by leads.
func TestWhoDeletesADraft(t *testing.T) {
	h := open(t)
	ines, jonas, rosalind := h.user("ines"), h.user("jonas"), h.user("rosalind")
	id, err := h.d.Drafts.NewDraft(t.Context(), jonas, 2, "His own.", 0)
	require.NoError(t, err)
	assert.ErrorContains(t, h.d.Drafts.Delete(t.Context(), ines, id), "those who have worked on it or by a lead")
	assert.False(t, h.open(ines, id).Meta.MayDelete)
	assert.True(t, h.open(jonas, id).Meta.MayDelete)
	require.NoError(t, h.d.Drafts.Delete(t.Context(), rosalind, id))
	_, err = h.d.Drafts.BringBack(t.Context(), ines, id)
	assert.ErrorContains(t, err, "those who have worked on it")
	_, err = h.d.Drafts.BringBack(t.Context(), jonas, id)
	require.NoError(t, err)
}

// What must be changed is answered by an author of the page, and by nobody else.
func TestWhoAnswersWhatMustBeChanged(t *testing.T) {
	h := open(t)
	jonas, aiko := h.user("jonas"), h.user("aiko")
	id, err := h.d.Drafts.NewDraft(t.Context(), jonas, 2, "A point.", 0)
	require.NoError(t, err)
	must := h.say(aiko, id, desk.Said{Kind: desk.MustChange, Place: "page", Body: "The holder does not fit."})
	h.read(jonas, id)
	for _, who := range []string{"sunniva", "mirja", "rosalind", "ines"} {
		require.NoError(t, h.answer(h.user(who), must.ID, "reply", "It does."))
		assert.ErrorContains(t, h.openLatches(jonas, id, latch.ByAuthor), "has no answer yet", who)
	}
	require.NoError(t, h.answer(jonas, must.ID, "reply", "The other one does."))
	rosalind := h.user("rosalind")
	require.NoError(t, h.edits(rosalind, id, wait(h.open(rosalind, id).View.Rows[0].Step.ID, 5)))
	assert.ErrorContains(t, h.answer(rosalind, must.ID, "waive", "It is nothing."), "your own work", "nobody waives what is said of their own work")
	h.read(jonas, id)
	require.NoError(t, h.openLatches(jonas, id, latch.ByAuthor))
}

// Nobody takes a colleague's name, or one that looks like it, and what was signed keeps
// the name it was signed with.
func TestNamesInSignaturesAreOfTheirTime(t *testing.T) {
	h := open(t)
	pavel, mirja := h.user("pavel"), h.user("mirja")
	rename := func(u *desk.User, name string) error {
		_, err := h.d.Access.ChangeOwn(t.Context(), u, desk.Own{Name: &name})
		return err
	}
	for _, name := range []string{
		"Mirja Salmela", "mirja salmela", "Mirja  Salmela", "Ｍirja Salmela", "Mіrja Salmela" /* Cyrillic i */, "MIRJA SALMELA", "Mirja Sa1mela", "ꓟirja Salmela",
	} {
		assert.ErrorContains(t, rename(pavel, name), "called that already", "%q", name)
		_, err := h.d.Access.Invite(t.Context(), h.user("sunniva"), name, "other@tarn.example", []latch.Role{latch.Reader}, "")
		assert.ErrorContains(t, err, "called that already", "%q", name)
	}
	for _, name := range []string{"Mir\u200bja Salmela", "\u202eMirja Salmela", "Mirja\u2060 Salmela", "\u00ad", "123", "Mirja Salmela\ufe0f"} {
		assert.Error(t, rename(pavel, name), "%q", name)
	}
	require.NoError(t, rename(pavel, "Pavel Ångström-Øst"))

	h.read(mirja, v6)
	require.NoError(t, h.openLatches(mirja, v6, latch.ByTechnical))
	require.NoError(t, rename(mirja, "Mirja Holm"))
	for _, m := range h.open(h.user("ines"), v6).Meta.Latches {
		if m.Latch == latch.ByTechnical {
			assert.Equal(t, "Mirja Salmela", m.By)
		}
	}
	lines, err := h.d.Review.Record(t.Context(), h.user("ines"), v6)
	require.NoError(t, err)
	for _, l := range lines {
		if l.What == "close technical latch" {
			assert.Equal(t, "Mirja Salmela", l.By)
		}
	}
	require.NoError(t, rename(pavel, "Mirja Salmela"), "the name is free again, and what she signed says when")
	h.intact()
}

// A draft of an engine sheet is read thing by thing with what each was, spoken of, asked
// for, returned and put into use; the record says what was changed.
func TestASheetIsReviewedLikeAPage(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	const code = "TS1-03"
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, code, "Letter EL-0911."))
	assert.ErrorContains(t, h.d.Engines.AskSheet(t.Context(), ines, code), "nothing to look at yet")
	v := h.sheet(ines, code)
	bolt := v.Sheet.Fasteners[0]
	v, err := h.edit(ines, code, "ines", v.Meta.Version, set("fasteners/"+string(bolt.ID)+"/spec", `[{"torque": "12 N·m"}]`), set("limits/backOff", "4"))
	require.NoError(t, err)
	r, err := h.d.Engines.ReviewSheet(t.Context(), mirja, code)
	require.NoError(t, err)
	require.Len(t, r.Changes, 2)
	line := ""
	for i := range r.Changes {
		assert.True(t, r.Changes[i].Unread)
		if r.Changes[i].Name == bolt.Name {
			line = r.Changes[i].Line()
		}
	}
	assert.Contains(t, line, engine.StagesText(bolt.Spec)+" → 12 N·m", "from what to what")
	limits := slices.IndexFunc(r.Changes, func(c desk.ReviewedThing) bool { return c.Thing == "limits" })
	require.GreaterOrEqual(t, limits, 0)
	assert.Contains(t, r.Changes[limits].Line(), "allowed back-off, degrees", "in the words of the screens")
	assert.NotEmpty(t, r.Touches)
	require.NoError(t, h.d.Engines.AskSheet(t.Context(), ines, code))
	assert.ErrorContains(t, h.d.Engines.AskSheet(t.Context(), ines, code), "already")
	task := func(u *desk.User) string {
		t.Helper()
		ts, err := h.d.Drafts.MyDesk(t.Context(), u)
		require.NoError(t, err)
		for i := range ts {
			if ts[i].Kind == desk.ToSheet && ts[i].Engine == code {
				return map[bool]string{true: "! "}[ts[i].Waits] + ts[i].Says
			}
		}
		return ""
	}
	assert.Equal(t, "! Ines Okafor asks for it to be looked at", task(mirja))
	assert.Equal(t, "waits to be looked at", task(ines))
	require.NoError(t, h.d.Engines.SaySheet(t.Context(), mirja, code, desk.Said{Kind: desk.Question, Place: "thing", Part: "fasteners/" + string(bolt.ID), Body: "Oiled, too?"}))
	assert.Error(t, h.d.Engines.SaySheet(t.Context(), mirja, code, desk.Said{Kind: desk.Question, Place: "thing", Part: "fasteners/moon", Body: "?"}))
	require.NoError(t, demo.ReadSheet(t.Context(), h.d, mirja, code))
	_, err = h.d.Engines.ReleaseSheet(t.Context(), mirja, code, v.Meta.Version)
	assert.ErrorContains(t, err, "1 question or point is open")
	assert.Error(t, h.d.Engines.ReturnSheet(t.Context(), ines, code, []string{"No."}), "an author puts no sheet into use")
	require.NoError(t, h.d.Engines.ReturnSheet(t.Context(), mirja, code, []string{"Say where 12 N·m comes from."}))
	r, err = h.d.Engines.ReviewSheet(t.Context(), ines, code)
	require.NoError(t, err)
	assert.Empty(t, r.AskedBy, "it is its author's again")
	assert.Equal(t, "! 1 point that must be changed", task(ines))
	require.Len(t, r.Remarks, 2)
	assert.Equal(t, bolt.Name, r.Remarks[0].Quoted)

	// What is read is read as it stood: another value is unread again.
	v, err = h.edit(ines, code, "ines", v.Meta.Version, set("fasteners/"+string(bolt.ID)+"/spec", `[{"torque": "12.5 N·m"}]`))
	require.NoError(t, err)
	r, err = h.d.Engines.ReviewSheet(t.Context(), mirja, code)
	require.NoError(t, err)
	unread := 0
	for _, c := range r.Changes {
		if c.Unread {
			unread++
			assert.Equal(t, bolt.Name, c.Name)
		}
	}
	assert.Equal(t, 1, unread)
	require.NoError(t, demo.ReadSheet(t.Context(), h.d, mirja, code))
	for _, m := range r.Remarks {
		require.NoError(t, h.answer(ines, m.ID, "reply", "Letter EL-0911."))
		assert.Equal(t, "! 1 answer to settle", task(mirja))
		assert.ErrorContains(t, h.answer(ines, m.ID, "settle", ""), "Whoever asked")
		require.NoError(t, h.answer(mirja, m.ID, "settle", ""))
	}
	_, err = h.d.Engines.ReleaseSheet(t.Context(), mirja, code, v.Meta.Version)
	require.NoError(t, err)
	lines, err := h.d.Review.RecordOf(t.Context(), ines, desk.RecordAsk{Engine: code, Kind: "sheets", Limit: 50})
	require.NoError(t, err)
	said := ""
	for _, l := range lines {
		for _, d := range l.Detail {
			said += d + "\n"
		}
		said += l.Says + "\n"
	}
	for _, want := range []string{bolt.Name + ": torque and angle", "→ 12 N·m", "12 N·m → 12.5 N·m", "put the sheet into use", "asked for the sheet to be looked at", "returned the sheet with 1 point", "asked: Oiled, too?, of the sheet"} {
		assert.Contains(t, said, want)
	}
	assert.NotContains(t, said, string(bolt.ID)+", spec", "not by paths")
	h.intact()
}

// A release that holds no more says so in its file, which is otherwise the one that was
// released.
func TestAFileSaysThatItHoldsNoMore(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	b, name, err := h.d.Drafts.Export(t.Context(), ines, 1)
	require.NoError(t, err)
	assert.Contains(t, name, "superseded")
	doc, err := latchjson.Decode(b)
	require.NoError(t, err)
	require.NotNil(t, doc.Standing)
	assert.Equal(t, 2, doc.Standing.Revision)
	assert.Contains(t, doc.Standing.Says(), "superseded on")
	assert.Equal(t, h.open(ines, 1).Meta.SHA256, doc.Standing.SHA256)
	doc.Standing = nil
	again, err := latchjson.Encode(doc)
	require.NoError(t, err)
	assert.Equal(t, h.open(ines, 1).Meta.SHA256, latchjson.Sum(again), "without its standing it is the file that was signed")

	require.NoError(t, h.d.Review.Withdraw(t.Context(), h.user("mirja"), 3, "The idler bolt sheared."))
	b, name, err = h.d.Drafts.Export(t.Context(), ines, 3)
	require.NoError(t, err)
	assert.Contains(t, name, "withdrawn")
	doc, err = latchjson.Decode(b)
	require.NoError(t, err)
	assert.Contains(t, doc.Standing.Says(), "The idler bolt sheared.")
	b, _, err = h.d.Drafts.Export(t.Context(), ines, 12)
	require.NoError(t, err)
	doc, err = latchjson.Decode(b)
	require.NoError(t, err)
	assert.Nil(t, doc.Standing, "one that holds says nothing of the kind")
}

// Sheets are found by code, year and the words on them.
func TestSheetsAreFound(t *testing.T) {
	h := open(t)
	for _, who := range []string{"pavel", "ines"} {
		titles := func(filter string) (out []string) {
			rows, _, err := h.d.Drafts.Procedures(t.Context(), h.user(who), desk.ListQuery{Limit: 50, Filter: filter})
			require.NoError(t, err)
			for _, r := range rows {
				out = append(out, r.Engine+" "+r.Title)
			}
			return out
		}
		assert.Contains(t, titles("TQ4 2022"), "TQ4-18P Check valve timing")
		assert.Empty(t, titles("TQ4 2016"), "the code was made from 2019 on")
		assert.Contains(t, titles("2022 strainer"), "TQ3-10W Renew timing belt in oil")
		assert.NotContains(t, titles("strainer"), "TQ4-18P Check valve timing")
		assert.Contains(t, titles("released TS1"), "TS1-03 Renew cam chain and check the firing mark")
	}
}
