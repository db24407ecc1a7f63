package desk_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/readstate"
	"inklatch/internal/desk"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

func (h house) redline(u *desk.User, id, against int64) *desk.Redlined {
	h.Helper()
	r, err := h.d.Review.Redline(h.Context(), u, id, against)
	require.NoError(h, err)
	return r
}

func (h house) say(u *desk.User, id int64, s desk.Said) *desk.Remark {
	h.Helper()
	m, err := h.d.Review.Say(h.Context(), u, id, s)
	require.NoError(h, err)
	return m
}

// remark is one remark of a revision as somebody sees it.
func (h house) remark(u *desk.User, id, remark int64) desk.Remark {
	h.Helper()
	for _, m := range h.redline(u, id, 0).Remarks {
		if m.ID == remark {
			return m
		}
	}
	require.Fail(h, "there is no such remark")
	return desk.Remark{}
}

func (h house) answer(u *desk.User, remark int64, act, body string) error {
	return h.d.Review.AnswerRemark(h.Context(), u, remark, desk.Answered{Act: act, Body: body, Client: "answers"})
}

// A latch closes only when its reader has read every place that weighs on it as it
// stands; an edit makes unread what it touches, for those it weighs on.
func TestALatchClosesOverWhatWasRead(t *testing.T) {
	h := open(t)
	ines, mirja, teodor := h.user("ines"), h.user("mirja"), h.user("teodor")
	version := h.open(mirja, v6).Meta.Version
	_, err := h.d.Review.CloseLatch(t.Context(), mirja, v6, latch.ByTechnical, version)
	assert.ErrorContains(t, err, "steps, and the title and preparation, are not read as they stand now")
	h.read(mirja, v6)
	h.read(teodor, v6)
	s := h.open(ines, v6).View.Rows[3].Step
	s.Wording = "Remove the left timing cover, and its seal."
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Replace, Step: &s}))
	assert.Empty(t, h.redline(mirja, v6, 0).Reading.Unread, "wording is not hers")
	left := h.redline(teodor, v6, 0).Reading
	require.Len(t, left.Unread, 1)
	assert.Equal(t, desk.UnreadStep{Step: s.ID, Why: readstate.Again, What: []string{"wording"}, Own: "it has changed"}, left.Unread[0])
	assert.Equal(t, left.Steps-1, left.Read)
	assert.NotContains(t, steps(h.redline(ines, v6, 0).Reading), s.ID, "whoever wrote it has read it")

	since := h.redline(teodor, v6, desk.SinceRead)
	for _, w := range since.Redline.Rows {
		assert.Equal(t, w.Step == s.ID, w.Kind != "same", "since he last read, that step alone differs")
	}
	_, err = h.close(ines, v6, latch.ByAuthor)
	require.NoError(t, err)
	_, err = h.d.Review.CloseLatch(t.Context(), teodor, v6, latch.ByEditorial, h.open(teodor, v6).Meta.Version)
	assert.ErrorContains(t, err, "1 step is not read")
	_, err = h.close(teodor, v6, latch.ByEditorial)
	require.NoError(t, err)
	h.intact()
}

func steps(r *desk.ReadState) []step.ID {
	var out []step.ID
	for _, v := range r.Unread {
		out = append(out, v.Step)
	}
	return out
}

// A step that somebody changed after the version a reader saw stays unread,
// whatever they say.
func TestNobodyReadsWhatTheyHaveNotSeen(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	r := h.redline(mirja, v6, 0)
	s := h.open(ines, v6).View.Rows[3].Step
	s.Cautions = append(s.Cautions, step.Caution{Text: "The cover is sharp."})
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Replace, Step: &s}))
	got, err := h.d.Review.MarkRead(t.Context(), mirja, v6, desk.Marking{Version: r.Meta.Version, Sheet: r.Reading.Sheet, Steps: steps(r.Reading)})
	require.NoError(t, err)
	assert.Equal(t, []step.ID{s.ID}, steps(got))
	_, err = h.d.Review.MarkRead(t.Context(), mirja, v6, desk.Marking{Version: r.Meta.Version + 1, Sheet: r.Reading.Sheet + 100, Steps: []step.ID{s.ID}})
	assert.ErrorContains(t, err, "engine sheet")
	got, err = h.d.Review.MarkRead(t.Context(), mirja, v6, desk.Marking{Version: r.Meta.Version + 50, Sheet: r.Reading.Sheet, Steps: []step.ID{s.ID}})
	require.NoError(t, err)
	assert.Equal(t, []step.ID{s.ID}, steps(got), "nobody has seen what is not there yet")
	got, err = h.d.Review.MarkRead(t.Context(), mirja, v6, desk.Marking{Version: h.open(mirja, v6).Meta.Version, Sheet: r.Reading.Sheet, Steps: []step.ID{s.ID}})
	require.NoError(t, err)
	assert.Empty(t, got.Unread)
	_, err = h.d.Review.MarkRead(t.Context(), h.user("pavel"), v6, desk.Marking{})
	assert.Equal(t, 403, problemOf(t, err).Status)
	_, err = h.d.Review.MarkRead(t.Context(), mirja, 3, desk.Marking{})
	assert.ErrorContains(t, err, "its review is over")
}

// Edits race readers who close latches as fast as they can: whatever comes of it,
// nothing is released that one of its latches was not closed over, and nobody
// closes one over what they have not read.
func TestNothingIsReleasedThatWasNotRead(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	readers := map[latch.Latch]*desk.User{latch.ByAuthor: ines, latch.ByTechnical: h.user("mirja"), latch.ByEditorial: h.user("teodor"), latch.ByBench: h.user("aiko")}
	released := 0
	for round := range tries(120, 10) {
		id, err := h.d.Drafts.NewDraft(t.Context(), ines, 2, fmt.Sprintf("Round %d.", round), 0)
		require.NoError(t, err)
		row := h.open(ines, id).View.Rows[round%4]
		s, sentence := row.Step, row.Sentence
		var wg sync.WaitGroup
		wg.Go(func() { // the author goes on writing
			for i := range 6 {
				next, said := s, "Mind it"+strings.Repeat(" well", (round+i)%7)
				switch i % 3 {
				case 0:
					next.Note = said + "."
				case 1:
					next.Cautions = append([]step.Caution{{Text: said + "."}}, s.Cautions...)
				case 2:
					next.Wording = strings.TrimSuffix(sentence, ".") + "; " + strings.ToLower(said) + "."
				}
				_, err := h.d.Drafts.Save(t.Context(), ines, id, desk.Batch{Name: name(), Client: "races", Base: 1 << 40, Edits: []procedure.Edit{{Op: procedure.Replace, Step: &next}}})
				if err != nil {
					assert.ErrorContains(t, err, "never changes")
					return
				}
				time.Sleep(time.Duration(round%5) * 5 * time.Millisecond)
			}
		})
		closed := make(chan struct{}, 1) // a latch has closed since the lead looked last
		for l, u := range readers {
			wg.Go(func() {
				for range 60 {
					r, err := h.d.Review.Redline(t.Context(), u, id, 0)
					if !assert.NoError(t, err) || r.Reading == nil {
						return
					}
					_, _ = h.d.Review.MarkRead(t.Context(), u, id, desk.Marking{Version: r.Meta.Version, Sheet: r.Reading.Sheet, Steps: steps(r.Reading)})
					if _, err := h.d.Review.CloseLatch(t.Context(), u, id, l, r.Meta.Version); err == nil {
						select {
						case closed <- struct{}{}:
						default:
						}
					}
					time.Sleep(3 * time.Millisecond)
				}
			})
		}
		var leads sync.WaitGroup
		leads.Go(func() {
			lead := h.user("rosalind")
			for range closed {
				if v, err := h.s.Reads(t.Context()).RevisionByID(id); err == nil {
					_, _ = h.d.Review.Release(t.Context(), lead, id, v.Version)
				}
			}
		})
		wg.Wait()
		close(closed)
		leads.Wait()
		if h.open(ines, id).Meta.State != string(latch.Latched) {
			require.NoError(t, h.finish(readers, id))
		} else {
			released++
		}
		file, _, err := h.d.Drafts.Export(t.Context(), ines, id)
		require.NoError(t, err)
		doc, err := latchjson.Decode(file)
		require.NoError(t, err)
		closings, err := h.s.Reads(t.Context()).ClosingsOf(id)
		require.NoError(t, err)
		require.GreaterOrEqual(t, len(closings), 3)
		for _, c := range closings {
			over, err := readstate.DecodeContent(c.Content)
			require.NoError(t, err)
			require.Empty(t, over.Differs(latch.Latch(c.Latch), &doc.Procedure, *c.SheetID), "the %s latch", c.Latch)
			// And its reader had read exactly that.
			page, err := h.s.Reads(t.Context()).ReadBy(2, c.PersonID)
			require.NoError(t, err)
			read, err := readstate.Decode(page)
			require.NoError(t, err)
			was := readstate.Content{Procedure: read.Procedure(&doc.Procedure), Sheet: *c.SheetID}
			require.Empty(t, was.Differs(latch.Latch(c.Latch), &doc.Procedure, *c.SheetID), "%d had not read it", c.PersonID)
		}
	}
	t.Logf("%d released while they raced", released)
	h.intact()
}

// finish closes what is still open of a revision.
func (h house) finish(readers map[latch.Latch]*desk.User, id int64) error {
	for _, m := range h.open(readers[latch.ByAuthor], id).Meta.Latches {
		if !m.Closed {
			if _, err := h.close(readers[m.Latch], id, m.Latch); err != nil {
				return err
			}
		}
	}
	m := h.open(readers[latch.ByAuthor], id).Meta
	if m.State == string(latch.Latched) {
		return nil
	}
	_, err := h.d.Review.Release(h.Context(), h.user("rosalind"), id, m.Version)
	return err
}

func TestARemarkStaysOnItsStep(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	rows := h.open(mirja, v6).View.Rows
	s := rows[3].Step
	had := h.open(ines, v6).Meta.Questions
	m := h.say(mirja, v6, desk.Said{Kind: desk.Question, Place: "step", Step: s.ID, Body: "Which seal, @Ines?"})
	assert.Equal(t, 4, m.Number)
	assert.Equal(t, rows[3].Sentence, m.Quoted)
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Move, ID: s.ID, After: rows[7].Step.ID}))
	s.Wording = "Remove the cover and the seal."
	s.Phase = h.open(ines, v6).View.Rows[7].Step.Phase
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Replace, Step: &s}))
	got := h.remark(ines, v6, m.ID)
	assert.Equal(t, 8, got.Number, "it moved with its step")
	assert.Equal(t, rows[3].Sentence, got.Quoted, "and says what it was said about")
	assert.True(t, got.Changed)
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Remove, ID: s.ID}))
	got = h.remark(ines, v6, m.ID)
	assert.Zero(t, got.Number)
	assert.Equal(t, s.ID, got.Step)
	assert.Equal(t, had+1, h.open(ines, v6).Meta.Questions)
	h.intact()
}

// Who asks keeps their own latch open until they are content; what must be changed
// keeps everybody's, but the author may send the page round once it is answered.
func TestQuestionsKeepLatchesOpen(t *testing.T) {
	h := open(t)
	ines, mirja, teodor, aiko := h.user("ines"), h.user("mirja"), h.user("teodor"), h.user("aiko")
	q := h.say(mirja, v6, desk.Said{Kind: desk.Question, Place: "page", Body: "For 2027 as well?"})
	_, err := h.close(mirja, v6, latch.ByTechnical)
	assert.ErrorContains(t, err, "1 question of yours is open")
	_, err = h.close(teodor, v6, latch.ByEditorial)
	require.NoError(t, err, "a question is its asker’s alone")
	require.NoError(t, h.answer(ines, q.ID, "reply", "Yes."))
	assert.Equal(t, 403, problemOf(t, h.answer(ines, q.ID, "settle", "")).Status, "whoever asked says when it is settled")
	require.NoError(t, h.answer(mirja, q.ID, "settle", ""))
	must := h.say(aiko, v6, desk.Said{Kind: desk.MustChange, Place: "page", Body: "The holder does not fit behind the fan."})
	_, err = h.close(mirja, v6, latch.ByTechnical)
	assert.ErrorContains(t, err, "1 point that must be changed is open")
	s := h.open(ines, v6).View.Rows[3].Step
	s.Note = "Mind the fan."
	s.Cautions = append(s.Cautions, step.Caution{Text: "The fan may start."})
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Replace, Step: &s}))
	_, err = h.close(ines, v6, latch.ByAuthor)
	assert.ErrorContains(t, err, "has no answer yet")
	require.NoError(t, h.answer(ines, must.ID, "reply", "See the caution now."))
	_, err = h.close(ines, v6, latch.ByAuthor)
	require.NoError(t, err)
	require.NoError(t, h.answer(aiko, must.ID, "settle", ""))
	require.NoError(t, h.answer(ines, must.ID, "reopen", "One more thing."))
	assert.ErrorContains(t, h.answer(h.user("rosalind"), must.ID, "settle", "Seen."), "A lead may waive it")
	assert.ErrorContains(t, h.answer(h.user("rosalind"), must.ID, "waive", ""), "Say why")
	assert.ErrorContains(t, h.answer(ines, must.ID, "waive", "It is nothing."), "A lead waives")
	require.NoError(t, h.answer(h.user("rosalind"), must.ID, "waive", "The fan is another one on this code."))
	_, err = h.close(mirja, v6, latch.ByTechnical)
	require.NoError(t, err)
	got := h.remark(ines, v6, must.ID)
	assert.Equal(t, "waived", got.State)
	assert.Len(t, got.Answers, 4)
	h.intact()
}

func TestASuggestionIsProvedAndTaken(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	rows := h.open(mirja, draft).View.Rows
	at := -1
	for i := range rows {
		if _, ok := rows[i].Step.Action.(*step.Tighten); ok {
			at = i
		}
	}
	s := rows[at].Step
	bad := desk.Said{Kind: desk.Suggestion, Place: "step", Step: s.ID, Line: "tighten the moon 22 N·m"}
	_, err := h.d.Review.Say(t.Context(), mirja, draft, bad)
	assert.Equal(t, "line", problemOf(t, err).Field, "what is not understood is not offered")
	trial := desk.Said{Kind: desk.Suggestion, Place: "step", Step: s.ID, Line: "wait 5 min", Trial: true}
	m := h.say(mirja, draft, trial)
	assert.Zero(t, m.ID)
	require.NotNil(t, m.Effect)
	assert.NotEmpty(t, m.Effect.New, "a bolt that is never tightened is found")
	assert.Empty(t, h.redline(mirja, draft, 0).Remarks, "a trial leaves nothing behind")

	trial.Trial, trial.Behind = false, true
	m = h.say(mirja, draft, trial)
	assert.Equal(t, 403, problemOf(t, h.answer(mirja, m.ID, "take", "")).Status, "an author takes it")
	require.NoError(t, h.answer(ines, m.ID, "take", ""))
	now := h.open(ines, draft).View.Rows
	require.Len(t, now, len(rows)+1)
	assert.Equal(t, "Wait 5 min.", now[at+1].Sentence)
	rec, err := h.s.Reads(t.Context()).Record(draft)
	require.NoError(t, err)
	assert.Contains(t, rec[1].Payload, fmt.Sprintf(`"suggested by":%d`, mirja.ID), "the record names both")
	worked, err := h.s.Reads(t.Context()).WorkedOn(draft, mirja.ID)
	require.NoError(t, err)
	assert.False(t, worked, "the author answers for what they take")

	m = h.say(mirja, draft, desk.Said{Kind: desk.Suggestion, Place: "step", Step: now[0].Step.ID, Line: "wait 7 min"})
	first := now[0].Step
	first.Note = "Let it stand."
	require.NoError(t, h.edits(ines, draft, procedure.Edit{Op: procedure.Replace, Step: &first}))
	assert.ErrorContains(t, h.answer(ines, m.ID, "take", ""), "has changed since")
	assert.Equal(t, "body", problemOf(t, h.answer(ines, m.ID, "decline", "")).Field)
	require.NoError(t, h.answer(ines, m.ID, "decline", "It is long enough."))
	assert.ErrorContains(t, h.answer(ines, m.ID, "take", ""), "declined")
	h.intact()
}

func TestNamesBehindAnAt(t *testing.T) {
	h := open(t)
	mirja := h.user("mirja")
	ask := func(body string) error {
		_, err := h.d.Review.Say(t.Context(), mirja, v6, desk.Said{Kind: desk.Question, Place: "page", Body: body})
		return err
	}
	assert.NoError(t, ask("@Ines Okafor, is that so?"))
	assert.NoError(t, ask("Is it, @ines and @Teodor Vance said so?"))
	assert.NoError(t, ask("mirja@tarn.example is no name, nor is 3 @ 4"))
	assert.ErrorContains(t, ask("@Nobody, is that so?"), "Nobody here is called Nobody")
}

func TestARevisionIsReturned(t *testing.T) {
	h := open(t)
	ines, teodor, pavel := h.user("ines"), h.user("teodor"), h.user("pavel")
	assert.Equal(t, 403, problemOf(t, h.d.Review.Return(t.Context(), ines, v6, []string{"x"})).Status)
	assert.Equal(t, 403, problemOf(t, h.d.Review.Return(t.Context(), pavel, v6, []string{"x"})).Status)
	assert.Equal(t, "points", problemOf(t, h.d.Review.Return(t.Context(), teodor, v6, []string{" "})).Field)
	assert.Equal(t, 409, problemOf(t, h.d.Review.Return(t.Context(), teodor, draft, []string{"x"})).Status)
	assert.True(t, h.open(teodor, v6).Meta.MayReturn)
	had := h.open(teodor, v6).Meta.Questions
	require.NoError(t, h.d.Review.Return(t.Context(), teodor, v6, []string{"Say left and right as on the engine.", "The title is the old one."}))
	m := h.open(ines, v6).Meta
	assert.Equal(t, "draft", m.State)
	assert.False(t, m.Latches[0].Closed)
	assert.Equal(t, had+2, m.Questions)
	_, err := h.close(ines, v6, latch.ByAuthor)
	assert.ErrorContains(t, err, "2 points that must be changed have no answer yet")
	h.intact()
}

func TestAReleaseIsWithdrawn(t *testing.T) {
	h := open(t)
	ines, mirja, pavel := h.user("ines"), h.user("mirja"), h.user("pavel")
	const id = 5
	m := h.open(mirja, id).Meta
	require.True(t, m.MayWithdraw)
	assert.Equal(t, 403, problemOf(t, h.d.Review.Withdraw(t.Context(), ines, id, "x")).Status)
	assert.Equal(t, "reason", problemOf(t, h.d.Review.Withdraw(t.Context(), mirja, id, " ")).Field)
	assert.Equal(t, 409, problemOf(t, h.d.Review.Withdraw(t.Context(), mirja, draft, "x")).Status)
	require.NoError(t, h.d.Review.Withdraw(t.Context(), mirja, id, "The stop bolt of 2025 is shorter."))
	assert.Equal(t, 409, problemOf(t, h.d.Review.Withdraw(t.Context(), mirja, id, "x")).Status)
	s, err := h.d.Drafts.Sheet(t.Context(), pavel, id)
	require.NoError(t, err)
	require.NotNil(t, s.Meta.Withdrawn, "its sheet says so, to readers as well")
	assert.Equal(t, "The stop bolt of 2025 is shorter.", s.Meta.Withdrawn.Reason)
	rows, _, err := h.d.Drafts.Procedures(t.Context(), pavel, desk.ListQuery{Limit: 50})
	require.NoError(t, err)
	found := false
	for _, r := range rows {
		found = found || r.Revision == id && r.State == "withdrawn"
	}
	assert.True(t, found, "a list says that it is withdrawn, rather than nothing")
	day := store.Now().Format(time.DateOnly)
	line, err := h.d.Drafts.Versions(t.Context(), ines, id, day)
	require.NoError(t, err)
	assert.Zero(t, line.Held, "it holds no more")
	require.NotNil(t, line.Versions[0].Withdrawn)
	assert.NotNil(t, line.Versions[0].Until)
	next, err := h.d.Drafts.NewDraft(t.Context(), ines, m.Procedure, "The stop bolt again.", 0)
	require.NoError(t, err)
	assert.Len(t, h.open(ines, next).Meta.Latches, 4, "the bench looks at all of it again")
	_, err = h.s.SQL().Exec("UPDATE revisions SET state = 'latched' WHERE id = $1", id)
	assert.ErrorContains(t, err, "never changes")
	h.intact()
}

func TestWhoClosesALatchAndWhen(t *testing.T) {
	h := open(t)
	ines, mirja, rosalind, teodor, aiko := h.user("ines"), h.user("mirja"), h.user("rosalind"), h.user("teodor"), h.user("aiko")
	day, to := "2026-12-04", func(u *desk.User) *int64 { return &u.ID }
	arrange := func(u *desk.User, l latch.Latch, a desk.Arrangement) error {
		return h.d.Review.Arrange(t.Context(), u, v6, l, a)
	}
	require.NoError(t, arrange(ines, latch.ByTechnical, desk.Arrangement{Due: &day}))
	assert.Equal(t, 403, problemOf(t, arrange(mirja, latch.ByTechnical, desk.Arrangement{Due: &day})).Status)
	bad := "4.12."
	assert.Equal(t, "due", problemOf(t, arrange(ines, latch.ByTechnical, desk.Arrangement{Due: &bad})).Field)
	assert.ErrorContains(t, arrange(ines, latch.ByAuthor, desk.Arrangement{Due: &day}), "closed already")
	require.NoError(t, arrange(mirja, latch.ByTechnical, desk.Arrangement{Person: to(mirja)}))
	m := h.open(ines, v6).Meta.Latches[1]
	assert.Equal(t, []string{day, "Mirja Salmela"}, []string{m.Due, m.TakenBy})
	assert.ErrorContains(t, arrange(mirja, latch.ByTechnical, desk.Arrangement{Person: to(teodor)}), "cannot close the technical latch")
	assert.Equal(t, 403, problemOf(t, arrange(teodor, latch.ByTechnical, desk.Arrangement{Person: to(rosalind)})).Status, "it is not his to hand on")
	require.NoError(t, arrange(mirja, latch.ByTechnical, desk.Arrangement{Person: to(rosalind)}))

	until := store.Now().AddDate(0, 0, 3).Format(time.DateOnly)
	_, err := h.d.Access.ChangeOwn(t.Context(), aiko, desk.Own{AwayUntil: &until})
	require.NoError(t, err)
	assert.ErrorContains(t, arrange(rosalind, latch.ByBench, desk.Arrangement{Person: to(aiko)}), "away until")
	all, err := h.d.Review.Colleagues(t.Context(), ines)
	require.NoError(t, err)
	for _, c := range all {
		assert.Equal(t, c.Name == aiko.Name, c.Away != "", c.Name)
	}
	none := int64(0)
	require.NoError(t, arrange(rosalind, latch.ByTechnical, desk.Arrangement{Person: &none}))
	assert.Empty(t, h.open(ines, v6).Meta.Latches[1].TakenBy)
	h.intact()
}

// One speaks of a phase, of words of a step and of a thing on the drawing, and of
// nothing that is not there.
func TestWhatARemarkIsAbout(t *testing.T) {
	h := open(t)
	mirja := h.user("mirja")
	row := h.open(mirja, v6).View.Rows[3]
	for _, c := range []struct {
		said   desk.Said
		quoted string
		field  string
	}{
		{desk.Said{Place: "phase", Part: "fit"}, "", ""},
		{desk.Said{Place: "phase", Part: "lunch"}, "", "part"},
		{desk.Said{Place: "words", Step: row.Step.ID, Part: "left timing cover"}, row.Sentence, ""},
		{desk.Said{Place: "words", Step: row.Step.ID, Part: "right timing cover"}, "", "part"},
		{desk.Said{Place: "words", Step: row.Step.ID}, "", "part"},
		{desk.Said{Place: "drawing", Part: "locks/crank-pin"}, "crank pin", ""},
		{desk.Said{Place: "drawing", Part: "locks/moon"}, "", "part"},
		{desk.Said{Place: "moon"}, "", "place"},
		{desk.Said{Place: "page", Part: "x", Step: "x"}, "", ""},
	} {
		c.said.Kind, c.said.Body = desk.Note, "Look."
		m, err := h.d.Review.Say(t.Context(), mirja, v6, c.said)
		if c.field != "" {
			assert.Equal(t, c.field, problemOf(t, err).Field, "%+v", c.said)
			continue
		}
		require.NoError(t, err, "%+v", c.said)
		assert.Equal(t, c.quoted, m.Quoted)
		if c.said.Place == "page" {
			assert.Empty(t, string(m.Step)+m.Part, "of the page as a whole")
		}
	}
	for _, bad := range []desk.Said{
		{Kind: "shout", Place: "page", Body: "x"}, {Kind: desk.Question, Place: "page"}, {Kind: desk.Suggestion, Place: "step", Step: row.Step.ID},
		{Kind: desk.Question, Place: "page", Body: "x", Line: "wait 5 min"}, {Kind: desk.Suggestion, Place: "step", Step: row.Step.ID, Line: row.Sentence},
		{Kind: desk.Suggestion, Place: "step", Step: row.Step.ID, Line: "note: mind the clip"},
	} {
		_, err := h.d.Review.Say(t.Context(), mirja, v6, bad)
		assert.Equal(t, 422, problemOf(t, err).Status, "%+v", bad)
	}
	_, err := h.d.Review.Say(t.Context(), mirja, v6, desk.Said{Kind: desk.Question, Place: "step", Step: "moon", Body: "x"})
	assert.Equal(t, 404, problemOf(t, err).Status)
	_, err = h.d.Review.Say(t.Context(), mirja, 3, desk.Said{Kind: desk.Suggestion, Place: "step", Step: "s08", Line: "wait 5 min", Trial: true})
	assert.Equal(t, 409, problemOf(t, err).Status, "nothing is tried on a release")
	h.intact()
}

// An absence is days in their order, and ends when it is taken back.
func TestAnAbsence(t *testing.T) {
	h := open(t)
	aiko := h.user("aiko")
	day := func(n int) *string { s := store.Now().UTC().AddDate(0, 0, n).Format(time.DateOnly); return &s }
	away := func(from, until *string) (string, error) {
		u, err := h.d.Access.ChangeOwn(t.Context(), aiko, desk.Own{AwayFrom: from, AwayUntil: until})
		if err != nil {
			return "", err
		}
		all, err := h.d.Review.Colleagues(t.Context(), u)
		require.NoError(t, err)
		for _, c := range all {
			if c.ID == u.ID {
				return c.Away, nil
			}
		}
		return "", nil
	}
	none, bad := "", "24.12."
	for _, c := range []struct {
		from, until *string
		away, field string
	}{
		{nil, day(2), *day(2), ""}, {day(0), day(0), *day(0), ""}, {day(1), day(3), "", ""}, {day(-5), day(-1), "", ""}, {&none, &none, "", ""},
		{day(3), day(1), "", "awayUntil"}, {&bad, day(1), "", "awayFrom"}, {nil, &bad, "", "awayUntil"},
	} {
		got, err := away(c.from, c.until)
		if c.field != "" {
			assert.Equal(t, c.field, problemOf(t, err).Field)
			continue
		}
		require.NoError(t, err)
		assert.Equal(t, c.away, got)
	}
	h.intact()
}
