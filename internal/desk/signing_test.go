package desk_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/unit"
	"inklatch/internal/desk"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// v6 is the demo's revision on review: its author's latch is closed.
const v6 = 7

func (h house) open(u *desk.User, id int64) *desk.Revision {
	h.Helper()
	r, err := h.d.Drafts.Revision(h.Context(), u, id)
	require.NoError(h, err)
	return r
}

func (h house) edits(u *desk.User, id int64, edits ...procedure.Edit) error {
	_, err := h.d.Drafts.Save(h.Context(), u, id, desk.Batch{Name: name(), Client: "edits-" + u.Name[:4], Base: h.open(u, id).Meta.Version, Edits: edits})
	return err
}

func problemOf(t *testing.T, err error) *desk.Problem {
	t.Helper()
	var p *desk.Problem
	require.ErrorAs(t, err, &p)
	return p
}

// A latch is closed over what the person saw, and nothing else.
func TestALatchIsClosedOverWhatWasSeen(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	seen := h.open(mirja, v6).Meta.Version
	first := h.open(ines, v6).View.Rows[1].Step
	first.Note = "Mind the clip."
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Replace, Step: &first}, procedure.Edit{Op: procedure.Remove, ID: h.open(ines, v6).View.Rows[4].Step.ID}))
	_, err := h.close(ines, v6, latch.ByAuthor)
	if err != nil { // the step that is gone may be missed by the proof
		_, err = h.d.Drafts.Undo(t.Context(), ines, v6, "edits-Ines", false)
		require.NoError(t, err)
		require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Replace, Step: &first}))
		_, err = h.close(ines, v6, latch.ByAuthor)
	}
	require.NoError(t, err)
	_, err = h.d.Review.CloseLatch(t.Context(), mirja, v6, latch.ByTechnical, seen)
	p := problemOf(t, err)
	assert.Equal(t, 409, p.Status)
	assert.Equal(t, h.open(mirja, v6).Meta.Version, p.Version)
	require.NotEmpty(t, p.Changes)
	assert.Contains(t, p.Changes[0], "note changed")
	_, err = h.d.Review.CloseLatch(t.Context(), mirja, v6, latch.ByTechnical, p.Version+5)
	assert.Equal(t, 409, problemOf(t, err).Status, "nobody has seen what is not there yet")
	h.read(mirja, v6)
	_, err = h.d.Review.CloseLatch(t.Context(), mirja, v6, latch.ByTechnical, p.Version)
	require.NoError(t, err)
	h.intact()
}

func TestASheetIsPutIntoUseAsItWasSeen(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TS1-03", "Smaller."))
	seen := h.sheet(mirja, "TS1-03").Meta.Version
	_, err := h.edit(ines, "TS1-03", "ines", seen, set("limits/backOff", "4"))
	require.NoError(t, err)
	_, err = h.d.Engines.ReleaseSheet(t.Context(), mirja, "TS1-03", seen)
	p := problemOf(t, err)
	assert.Equal(t, 409, p.Status)
	assert.NotEmpty(t, p.Changes)
	_, err = h.d.Engines.ReleaseSheet(t.Context(), mirja, "TS1-03", p.Version)
	assert.ErrorContains(t, err, "you have not read 1 of the things that change")
	require.NoError(t, demo.ReadSheet(t.Context(), h.d, mirja, "TS1-03"))
	_, err = h.d.Engines.ReleaseSheet(t.Context(), mirja, "TS1-03", p.Version)
	require.NoError(t, err)
	h.intact()
}

// A move together with new wording opens what either of them opens.
func TestAMoveAndNewWordingOpenTheEditorialLatchToo(t *testing.T) {
	h := open(t)
	ines, mirja, teodor := h.user("ines"), h.user("mirja"), h.user("teodor")
	for u, l := range map[*desk.User]latch.Latch{mirja: latch.ByTechnical, teodor: latch.ByEditorial} {
		_, err := h.close(u, v6, l)
		require.NoError(t, err)
	}
	rows := h.open(ines, v6).View.Rows
	said := rows[3].Step
	said.Wording = "Remove the left timing cover with its seal."
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Move, ID: rows[8].Step.ID, After: rows[6].Step.ID}, procedure.Edit{Op: procedure.Replace, Step: &said}))
	for _, m := range h.open(ines, v6).Meta.Latches {
		assert.False(t, m.Closed, "%s", m.Latch)
	}
	caution := rows[0].Step
	_, err := h.close(ines, v6, latch.ByAuthor)
	require.NoError(t, err)
	_, err = h.close(mirja, v6, latch.ByTechnical)
	require.NoError(t, err)
	caution.Cautions = []step.Caution{{Hazard: caution.Cautions[0].Hazard, Text: "Mind the battery."}}
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Replace, Step: &caution}))
	assert.False(t, h.open(ines, v6).Meta.Latches[1].Closed, "what a caution says is a value")
	h.intact()
}

// Nobody signs their own hand's work, in whatever role and however long ago.
func TestNobodySignsTheirOwnEdits(t *testing.T) {
	h := open(t)
	rosalind, ines := h.user("rosalind"), h.user("ines")
	require.NoError(t, h.edits(rosalind, v6, procedure.Edit{Op: procedure.Insert, Step: &step.Step{ID: "mine", Phase: "prepare", Action: &step.Wait{For: unit.Of(1, unit.Minute)}}}))
	for i := range 410 { // more than is looked back for undo
		require.NoError(t, h.edits(rosalind, v6, procedure.Edit{Op: procedure.Replace, Step: &step.Step{ID: "mine", Phase: "prepare", Action: &step.Wait{For: unit.Of(float64(i+1), unit.Minute)}}}))
		if i == 5 {
			i = 6 // only that there are many matters
		}
	}
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Remove, ID: "mine"}))
	_, err := h.close(ines, v6, latch.ByAuthor)
	require.NoError(t, err)
	for _, l := range []latch.Latch{latch.ByTechnical, latch.ByEditorial} {
		_, err = h.close(rosalind, v6, l)
		require.ErrorContains(t, err, "you worked on this revision", l)
	}
	for _, m := range h.open(rosalind, v6).Meta.Latches {
		assert.False(t, m.MayClose, "%s", m.Latch)
	}
}

// A sheet that goes into use opens the latches of what it touches, and of
// nothing else: those keep the sheet their latches were closed over, to the end.
func TestWhatANewSheetOpens(t *testing.T) {
	h := open(t)
	ines, mirja, teodor, aiko := h.user("ines"), h.user("mirja"), h.user("teodor"), h.user("aiko")
	_, err := h.close(mirja, v6, latch.ByTechnical)
	require.NoError(t, err)
	release := func(edit engine.Edit) {
		require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TV6-27D", "New drawing."))
		_, err := h.edit(ines, "TV6-27D", "ines", h.sheet(ines, "TV6-27D").Meta.Version, edit)
		require.NoError(t, err)
		_, err = h.release(mirja, "TV6-27D")
		require.NoError(t, err)
	}
	release(set("use", `"Snow groomers of 2026"`))
	m := h.open(ines, v6).Meta
	assert.Equal(t, "on review", m.State, "where it is used changes no page")
	assert.True(t, m.Latches[1].Closed)

	release(set("limits/backOff", "4"))
	m = h.open(ines, v6).Meta
	assert.Equal(t, "draft", m.State, "a limit touches every page")
	for _, l := range m.Latches {
		assert.False(t, l.Closed)
	}
	rs, err := h.d.Review.Record(t.Context(), ines, v6)
	require.NoError(t, err)
	assert.Equal(t, "open latches", rs[0].What)

	_, err = h.close(ines, v6, latch.ByAuthor)
	require.NoError(t, err)
	release(set("use", `"Snow groomers of 2027"`))
	for _, m := range h.redline(ines, v6, 0).Remarks {
		if m.State == "open" && m.Kind == desk.Question {
			act := "waive"
			if m.By == h.user("rosalind").Name {
				act = "settle"
			}
			require.NoError(t, h.answer(h.user("rosalind"), m.ID, act, "Seen at the bench."))
		}
	}
	for u, l := range map[*desk.User]latch.Latch{mirja: latch.ByTechnical, teodor: latch.ByEditorial, aiko: latch.ByBench} {
		_, err = h.close(u, v6, l)
		require.NoError(t, err)
	}
	out, _, err := h.d.Drafts.Export(t.Context(), ines, v6)
	require.NoError(t, err)
	doc, err := latchjson.Decode(out)
	require.NoError(t, err)
	assert.Equal(t, "Snow groomers of 2026", doc.Engine.Use, "frozen with the sheet its latches were closed over")
	h.intact()
}

// An engine sheet comes into use by one door: by another person, drawn, with a
// version and a line in the record.
func TestASheetComesIntoUseByOneDoor(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	doc := demo.Document("check-valve-timing-r1.latch.json")
	doc.Engine.Code, doc.Procedure.Engine = "NEW-1", "NEW-1"
	raw, err := latchjson.Encode(doc)
	require.NoError(t, err)
	_, err = h.d.Drafts.Import(t.Context(), ines, raw, desk.Bringing{})
	assert.ErrorContains(t, err, "was kept as a draft")
	_, err = h.d.Drafts.Import(t.Context(), ines, raw, desk.Bringing{})
	assert.ErrorContains(t, err, "only a draft")
	_, err = h.d.Drafts.NewProcedure(t.Context(), ines, "NEW-1", "x")
	assert.ErrorContains(t, err, "is a draft still", "nothing is written on a sheet that is not in use")
	_, err = h.release(ines, "NEW-1")
	assert.ErrorContains(t, err, "technical editor")
	_, err = h.release(mirja, "NEW-1")
	require.NoError(t, err)
	_, err = h.d.Drafts.Import(t.Context(), ines, raw, desk.Bringing{})
	require.NoError(t, err)

	_, err = h.d.Engines.NewEngine(t.Context(), ines, "EMPTY-1", "", "")
	require.NoError(t, err)
	_, err = h.release(mirja, "EMPTY-1")
	assert.ErrorContains(t, err, "must be mended", "an empty sheet has nothing wrong on it and is blocked all the same")
	h.intact()
}

// Names of batches belong to their person and revision.
func TestNamesOfBatches(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	send := func(u *desk.User, id int64, batch string, minutes float64) error {
		_, err := h.d.Drafts.Save(t.Context(), u, id, desk.Batch{Name: batch, Client: "names", Base: 99, Edits: []procedure.Edit{wait("s01", minutes)}})
		return err
	}
	require.NoError(t, send(ines, draft, "batch-one", 5))
	require.NoError(t, send(ines, draft, "batch-one", 5), "the same once more is the same")
	p := problemOf(t, send(ines, draft, "batch-one", 6))
	assert.Equal(t, 409, p.Status)
	assert.Contains(t, p.Title, "used before")
	require.NoError(t, send(jonas, draft, "batch-one", 7), "another person's name is another name")
	assert.Equal(t, "Wait 7 min.", h.open(ines, draft).View.Rows[0].Sentence)
	v := h.open(ines, v6).View.Rows[0].Step.ID
	_, err := h.d.Drafts.Save(t.Context(), ines, v6, desk.Batch{Name: "batch-one", Client: "names", Base: 99, Edits: []procedure.Edit{wait(v, 3)}})
	require.NoError(t, err, "and so is one of another revision")

	for _, bad := range []string{"undo:1:2", "short", "", "a name with blanks", "x\x00xxxxxxx"} {
		assert.Equal(t, 422, problemOf(t, send(ines, draft, bad, 8)).Status, "%q", bad)
	}
	saved, err := h.d.Drafts.Undo(t.Context(), jonas, draft, "names", false)
	require.NoError(t, err)
	assert.Equal(t, "Wait 5 min.", saved.View.Rows[0].Sentence)

	b := desk.SheetBatch{Name: "batch-one", Client: "names", Base: 99, Edits: []engine.Edit{set("limits/backOff", "4")}}
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TS1-03", "x"))
	_, err = h.d.Engines.SaveSheet(t.Context(), ines, "TS1-03", b)
	require.NoError(t, err)
	b.Edits = []engine.Edit{set("limits/backOff", "5")}
	_, err = h.d.Engines.SaveSheet(t.Context(), ines, "TS1-03", b)
	assert.Contains(t, problemOf(t, err).Title, "used before")
	h.intact()
}

// Taking a change of the header back leaves what others have changed in it.
func TestUndoOfAHeaderTakesBackItsOwnFields(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	head := func(u *desk.User, change func(*procedure.Header)) {
		v := h.open(u, draft).View.Header
		change(&v)
		require.NoError(t, h.edits(u, draft, procedure.Edit{Op: procedure.SetHeader, Header: &v}))
	}
	before := h.open(ines, draft).View.Header
	head(ines, func(v *procedure.Header) { v.Title, v.Prelims.People = "Renew the belt", "one, trained" })
	head(jonas, func(v *procedure.Header) { v.Purpose = "So that it turns." })
	saved, err := h.d.Drafts.Undo(t.Context(), ines, draft, "edits-Ines", false)
	require.NoError(t, err)
	assert.Equal(t, before.Title, saved.View.Header.Title)
	assert.Equal(t, before.Prelims.People, saved.View.Header.Prelims.People)
	assert.Equal(t, "So that it turns.", saved.View.Header.Purpose)
	saved, err = h.d.Drafts.Undo(t.Context(), ines, draft, "edits-Ines", true)
	require.NoError(t, err)
	assert.Equal(t, "Renew the belt", saved.View.Header.Title)
	assert.Equal(t, "So that it turns.", saved.View.Header.Purpose)
	head(jonas, func(v *procedure.Header) { v.Title = "Renew timing belt, again" })
	_, err = h.d.Drafts.Undo(t.Context(), ines, draft, "edits-Ines", false)
	assert.ErrorContains(t, err, "title has been changed again")
	h.intact()
}

func TestADeletedDraftComesBack(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	assert.ErrorContains(t, h.d.Drafts.Delete(t.Context(), ines, v6), "Only a draft", "what editors are at is not taken from them")
	assert.ErrorContains(t, h.d.Drafts.Delete(t.Context(), ines, 1), "Only a draft")
	assert.ErrorContains(t, h.d.Drafts.Delete(t.Context(), mirja, draft), "Only an author")
	require.NoError(t, h.d.Drafts.Delete(t.Context(), ines, draft))
	assert.ErrorContains(t, h.edits(ines, draft, wait("s01", 5)), "Bring it back")
	_, err := h.close(ines, draft, latch.ByAuthor)
	assert.ErrorContains(t, err, "deleted")
	_, total, err := h.d.Drafts.Procedures(t.Context(), ines, desk.ListQuery{Limit: 50, Deleted: true})
	require.NoError(t, err)
	assert.Equal(t, 1, total)
	rows, err := h.list(ines)
	require.NoError(t, err)
	for _, r := range rows {
		assert.NotEqual(t, "deleted", r.State)
		if r.Procedure == 1 {
			assert.Equal(t, "latched", r.State, "its latched revision stands in its place")
		}
	}
	next, err := h.d.Drafts.NewDraft(t.Context(), ines, 1, "Another try.", 0)
	require.NoError(t, err)
	_, err = h.d.Drafts.BringBack(t.Context(), ines, draft)
	assert.ErrorContains(t, err, "another open revision")
	require.NoError(t, h.d.Drafts.Delete(t.Context(), ines, next))
	back, err := h.d.Drafts.BringBack(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.EqualValues(t, draft, back)
	require.NoError(t, h.edits(ines, draft, wait("s01", 5)))
	h.intact()
}

// A draft that is started while the next revision latches is made of that one,
// whoever comes first.
func TestADraftStartsFromWhatIsLatchedNow(t *testing.T) {
	h := open(t)
	ines, jonas, mirja, teodor, aiko := h.user("ines"), h.user("jonas"), h.user("mirja"), h.user("teodor"), h.user("aiko")
	const proc = 2
	for i := range tries(300, 12) {
		id, err := h.d.Drafts.NewDraft(t.Context(), ines, proc, fmt.Sprintf("Round %d.", i), 0)
		require.NoError(t, err)
		head := h.open(ines, id).View.Header
		head.Purpose = fmt.Sprintf("Round %d.", i)
		require.NoError(t, h.edits(ines, id, procedure.Edit{Op: procedure.SetHeader, Header: &head}))
		last := mirja
		for _, m := range h.open(ines, id).Meta.Latches {
			u := map[latch.Latch]*desk.User{latch.ByAuthor: ines, latch.ByEditorial: teodor, latch.ByBench: aiko}[m.Latch]
			if u != nil {
				_, err = h.close(u, id, m.Latch)
				require.NoError(t, err)
			}
		}
		h.read(last, id)
		version := h.open(last, id).Meta.Version
		var wg sync.WaitGroup
		wg.Go(func() {
			_, err := h.d.Review.CloseLatch(t.Context(), last, id, latch.ByTechnical, version)
			assert.NoError(t, err)
			_, err = h.d.Review.Release(t.Context(), h.user("rosalind"), id, version)
			assert.NoError(t, err)
		})
		var fresh atomic.Int64
		wg.Go(func() {
			for range 200 {
				next, err := h.d.Drafts.NewDraft(t.Context(), jonas, proc, "At once.", 0)
				if err == nil {
					fresh.Store(next)
					return
				}
				time.Sleep(time.Millisecond)
			}
		})
		wg.Wait()
		require.NotZero(t, fresh.Load())
		require.Equal(t, head.Purpose, h.open(jonas, fresh.Load()).View.Header.Purpose, "it was started from the revision that had just been latched")
		require.NoError(t, h.d.Drafts.Delete(t.Context(), jonas, fresh.Load()))
	}
	h.intact()
}

// A proof whose worker was killed is taken up by another once its lease has run
// out, goes on where it was, and is done once.
func TestAProofThatWasKilledGoesOn(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "x"))
	_, err := h.edit(ines, "TQ4-18P", "ines", 1, set("limits/backOff", "4"))
	require.NoError(t, err)
	_, err = h.release(mirja, "TQ4-18P")
	require.NoError(t, err)
	run, _, err := h.s.Reads(t.Context()).LastReproof("TQ4-18P")
	require.NoError(t, err)
	mine, err := h.s.Claim(t.Context(), run.ID, "a worker that is killed")
	require.NoError(t, err)
	require.True(t, mine)
	require.NoError(t, h.s.Advance(t.Context(), run.ID, []store.ReproofRow{{ReproofID: run.ID, RevisionID: 3, Says: "[]"}}))
	mine, err = h.s.Claim(t.Context(), run.ID, "another")
	require.NoError(t, err)
	assert.False(t, mine, "while the lease holds nobody else takes it")

	h.working()
	h.tried()
	v, err := h.d.Engines.Reproof(t.Context(), ines, "TQ4-18P")
	require.NoError(t, err)
	require.Equal(t, "running", v.State)
	_, err = h.s.SQL().Exec("UPDATE reproofs SET lease_until = now() WHERE id = $1", run.ID) // the lease runs out
	require.NoError(t, err)
	done := h.proved(ines, "TQ4-18P")
	assert.Equal(t, "done", done.State)
	assert.Equal(t, done.Total, done.Done)
}

// A reproof that cannot even be queued keeps the sheet out of use.
func TestAQueueThatFailsTakesTheReleaseBack(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "x"))
	err := h.s.ReleaseSheet(t.Context(), "TQ4-18P", func(w *store.SheetDraft) error {
		_, err := w.Release(h.user("mirja").ID, nil, func(*sql.Tx, int64) error { return errors.New("no room") })
		return err
	})
	require.ErrorContains(t, err, "no room")
	assert.Equal(t, 1, h.sheet(ines, "TQ4-18P").Meta.InUse)
	h.intact()
}

// tries is how often a race is run: many where asked for, few in a test of
// everything.
func tries(many, few int) int {
	if raceSuite() {
		return many
	}
	return few
}

func TestEveryEditIsReadAgainByADeskThatRemembersNothing(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	var wg sync.WaitGroup
	for w := range 4 {
		wg.Go(func() {
			for i := range 15 {
				id := step.ID(fmt.Sprintf("w%d-%02d", w, i))
				_, err := h.d.Drafts.Save(context.WithoutCancel(t.Context()), ines, draft, desk.Batch{Name: name(), Client: fmt.Sprint("writer-", w), Edits: []procedure.Edit{{Op: procedure.Insert, Step: &step.Step{ID: id, Phase: "prepare", Action: &step.Do{Text: "x"}}}}})
				assert.NoError(t, err)
			}
		})
	}
	wg.Wait()
	kept := h.open(ines, draft)
	fresh, err := desk.New(h.s).Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, len(kept.View.Rows), len(fresh.View.Rows))
	for i := range kept.View.Rows {
		assert.Equal(t, kept.View.Rows[i].Step, fresh.View.Rows[i].Step)
	}
	h.intact()
}
