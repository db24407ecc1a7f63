package desk_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
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
	"inklatch/internal/desk/view"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

type house struct {
	*testing.T
	d *desk.Desk
	s *store.Store
}

func open(t *testing.T) house {
	t.Parallel()
	s, err := store.Open(t.Context(), pgtest.Seeded(t, "demo", demo.Seed))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return house{t, desk.New(s), s}
}

func (h house) user(name string) *desk.User {
	u, err := h.d.Access.SignIn(h.Context(), name+"@tarn.example", demo.Password)
	require.NoError(h, err)
	return u
}

var batches int
var counting sync.Mutex

func name() string {
	counting.Lock()
	defer counting.Unlock()
	batches++
	return fmt.Sprintf("batch-%05d", batches)
}

const draft = 4

func (h house) save(u *desk.User, client string, base int64, edits ...procedure.Edit) (*desk.Saved, error) {
	return h.d.Drafts.Save(h.Context(), u, draft, desk.Batch{Name: name(), Client: client, Base: base, Edits: edits})
}

// read marks everything as read, where there is something to read.
func (h house) read(u *desk.User, id int64) {
	_, err := demo.Read(h.Context(), h.d, u, id)
	require.NoError(h, err)
}

// close closes a latch over the version there is, once all of it is read.
func (h house) close(u *desk.User, id int64, l latch.Latch) (*desk.Meta, error) {
	r, err := h.d.Drafts.Revision(h.Context(), u, id)
	require.NoError(h, err)
	h.read(u, id)
	m, err := h.d.Review.CloseLatch(h.Context(), u, id, l, r.Meta.Version)
	if err != nil || !m.Ready {
		return m, err
	}
	return h.d.Review.Release(h.Context(), h.user("rosalind"), id, m.Version) // nothing else is left to do
}

// release puts a code's draft into use as it stands.
func (h house) release(u *desk.User, code string) (*desk.EngineView, error) {
	v, err := h.d.Engines.View(h.Context(), u, code, 0)
	require.NoError(h, err)
	require.NoError(h, demo.ReadSheet(h.Context(), h.d, u, code))
	return h.d.Engines.ReleaseSheet(h.Context(), u, code, v.Meta.Version)
}

// intact holds the record against everything.
func (h house) intact() {
	h.Helper()
	r, err := h.s.Verify(h.Context(), nil)
	require.NoError(h, err)
	assert.Empty(h, r.Troubles)
}

func (h house) version(u *desk.User) int64 {
	r, err := h.d.Drafts.Revision(h.Context(), u, draft)
	require.NoError(h, err)
	return r.Meta.Version
}

func wait(id step.ID, minutes float64) procedure.Edit {
	return procedure.Edit{Op: procedure.Replace, Step: &step.Step{ID: id, Phase: "prepare", Action: &step.Wait{For: unit.Of(minutes, unit.Minute)}}}
}

func TestEditsToDifferentStepsMerge(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	base := h.version(ines)
	_, err := h.save(ines, "ines-1", base, wait("s01", 5))
	require.NoError(t, err)
	_, err = h.save(jonas, "jonas-1", base, wait("s02", 7), procedure.Edit{Op: procedure.Insert, After: "s02", Step: &step.Step{ID: "jonas", Phase: "prepare", Action: &step.Do{Text: "look"}}})
	require.NoError(t, err)
	r, err := h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, "Wait 5 min.", r.View.Rows[0].Sentence)
	assert.Equal(t, "Wait 7 min.", r.View.Rows[1].Sentence)
	assert.Equal(t, "Look.", r.View.Rows[2].Sentence)
}

func TestEditsToTheSameStepShowBoth(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	base := h.version(ines)
	_, err := h.save(ines, "ines-1", base, wait("s01", 5))
	require.NoError(t, err)
	_, err = h.save(jonas, "jonas-1", base, wait("s01", 7), wait("s02", 9))
	var clash *desk.Clash
	require.ErrorAs(t, err, &clash)
	require.Len(t, clash.Steps, 1)
	assert.Equal(t, "Ines Okafor", clash.Steps[0].By)
	assert.Equal(t, "Wait 7 min.", clash.Steps[0].Yours)
	assert.Equal(t, "Wait 5 min.", clash.Steps[0].Theirs)
	r, err := h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.NotEqual(t, "Wait 9 min.", r.View.Rows[1].Sentence, "nothing of the batch was saved")

	_, err = h.save(jonas, "jonas-1", clash.Version, wait("s01", 7))
	require.NoError(t, err, "keeping mine goes through with the newer base")
	_, err = h.save(ines, "ines-1", base, procedure.Edit{Op: procedure.Remove, ID: "s01"})
	assert.ErrorAs(t, err, &clash, "taking out what somebody changed is a clash too")
}

func TestOnesOwnEditsNeverClashAndAreSavedOnce(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	base := h.version(ines)
	b := desk.Batch{Name: name(), Client: "ines-1", Base: base, Edits: []procedure.Edit{wait("s01", 5)}}
	one, err := h.d.Drafts.Save(t.Context(), ines, draft, b)
	require.NoError(t, err)
	again, err := h.d.Drafts.Save(t.Context(), ines, draft, b)
	require.NoError(t, err)
	assert.Equal(t, one.Meta.Version, again.Meta.Version, "sent twice, saved once")
	_, err = h.save(ines, "ines-1", base, wait("s01", 6))
	assert.NoError(t, err, "an old base of one's own is no clash")
}

func TestAnEditBesideAStepTakenOutFindsItsPlace(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	base := h.version(ines)
	_, err := h.save(ines, "ines-1", base, procedure.Edit{Op: procedure.Remove, ID: "s03"})
	require.NoError(t, err)
	_, err = h.save(jonas, "jonas-1", base, procedure.Edit{Op: procedure.Insert, After: "s03", Step: &step.Step{ID: "j1", Phase: "strip", Action: &step.Do{Text: "look"}}})
	require.NoError(t, err)
	r, err := h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, step.ID("j1"), r.View.Rows[2].Step.ID)
}

// Many insertions at one place run out of room between two numbers; the order
// stays right.
func TestManyInsertionsInOnePlaceKeepTheirOrder(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	var want []step.ID
	for i := range 60 {
		id := step.ID(fmt.Sprintf("x%02d", i))
		_, err := h.save(ines, "ines-1", 0, procedure.Edit{Op: procedure.Insert, After: "s01", Step: &step.Step{ID: id, Phase: "prepare", Action: &step.Do{Text: string(id)}}})
		require.NoError(t, err)
		want = append([]step.ID{id}, want...)
	}
	s, err := store.Open(t.Context(), pgtest.Config(t)) // a desk that has cached nothing
	require.NoError(t, err)
	s.Close()
	r, err := desk.New(h.s).Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	for i, id := range want {
		assert.Equal(t, id, r.View.Rows[i+1].Step.ID)
	}
}

func TestUndoAndRedoAcrossSaves(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	sentence := func() string {
		r, err := h.d.Drafts.Revision(t.Context(), ines, draft)
		require.NoError(t, err)
		return r.View.Rows[0].Sentence
	}
	first := sentence()
	for _, m := range []float64{5, 6} {
		_, err := h.save(ines, "ines-1", h.version(ines), wait("s01", m))
		require.NoError(t, err)
	}
	undo := func(redo bool) error { _, err := h.d.Drafts.Undo(t.Context(), ines, draft, "ines-2", redo); return err }
	require.NoError(t, undo(false))
	assert.Equal(t, "Wait 5 min.", sentence())
	require.NoError(t, undo(false))
	assert.Equal(t, first, sentence())
	require.NoError(t, undo(true))
	require.NoError(t, undo(true))
	assert.Equal(t, "Wait 6 min.", sentence())
	assert.Error(t, undo(true), "nothing more to redo")
	_, err := h.save(jonas, "jonas-1", h.version(ines), wait("s01", 9))
	require.NoError(t, err)
	assert.ErrorContains(t, undo(false), "Somebody else", "another's change is not undone")
	assert.Equal(t, "Wait 9 min.", sentence())
}

func (h house) mend(u *desk.User, id int64) {
	for range 40 {
		r, err := h.d.Drafts.Revision(h.Context(), u, id)
		require.NoError(h, err)
		if len(r.View.Findings) == 0 {
			return
		}
		_, err = h.d.Drafts.Save(h.Context(), u, id, desk.Batch{Name: name(), Client: "mender", Base: r.Meta.Version, Edits: r.View.Findings[0].Mends[0].Edits})
		require.NoError(h, err)
	}
	h.Fatal("findings left")
}

func TestThroughTheLatches(t *testing.T) {
	h := open(t)
	ines, mirja, teodor, aiko := h.user("ines"), h.user("mirja"), h.user("teodor"), h.user("aiko")
	shut := func(u *desk.User, l latch.Latch) error {
		_, err := h.close(u, draft, l)
		return err
	}
	assert.ErrorContains(t, shut(ines, latch.ByAuthor), "block release")
	h.mend(ines, draft)
	// Mended, the page says what the last one said; a value makes the bench try it.
	turned, err := h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	for i := range turned.View.Rows {
		if a, ok := turned.View.Rows[i].Step.Action.(*step.Slacken); ok && a.Turns == 1 {
			more := *a
			more.Turns = 1.5
			one := turned.View.Rows[i].Step
			one.Action = &more
			_, err := h.save(ines, "ines-0", turned.Meta.Version, procedure.Edit{Op: procedure.Replace, Step: &one})
			require.NoError(t, err)
		}
	}
	assert.ErrorContains(t, shut(mirja, latch.ByTechnical), "author closes first")
	require.NoError(t, shut(ines, latch.ByAuthor))
	require.NoError(t, shut(mirja, latch.ByTechnical))
	require.NoError(t, shut(teodor, latch.ByEditorial))

	// A note opens the author's and the editorial latch, not the technical one.
	r, err := h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	s := r.View.Rows[0].Step
	s.Note = "Mind the clip."
	saved, err := h.save(ines, "ines-1", r.Meta.Version, procedure.Edit{Op: procedure.Replace, Step: &s})
	require.NoError(t, err)
	assert.ElementsMatch(t, []latch.Latch{latch.ByAuthor, latch.ByEditorial}, saved.Reopened)
	assert.Equal(t, "draft", saved.Meta.State)
	require.NoError(t, shut(ines, latch.ByAuthor))
	require.NoError(t, shut(teodor, latch.ByEditorial))
	require.NoError(t, shut(aiko, latch.ByBench), "torque and locks changed against revision 3")

	r, err = h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, "latched", r.Meta.State)
	file, _, err := h.d.Drafts.Export(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, r.Meta.SHA256, latchjson.Sum(file))
	assert.Equal(t, "superseded", r.Meta.Siblings[1].State)
	_, err = h.save(ines, "ines-1", r.Meta.Version, wait("s01", 5))
	assert.ErrorContains(t, err, "never changes")
	h.intact()
}

func TestReadersSeeWhatIsReleasedOnly(t *testing.T) {
	h := open(t)
	pavel := h.user("pavel")
	_, err := h.d.Drafts.Revision(t.Context(), pavel, draft)
	assert.ErrorContains(t, err, "released revisions only")
	rows, err := h.list(pavel)
	require.NoError(t, err)
	require.Len(t, rows, 16)
	for _, r := range rows {
		assert.Equal(t, "latched", r.State)
	}
	_, err = h.save(pavel, "pavel", 0, wait("s01", 5))
	assert.ErrorContains(t, err, "Only an author")
}

func TestImport(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	raw, err := demo.Files.ReadFile("check-valve-timing-r1.latch.json")
	require.NoError(t, err)
	id, err := h.d.Drafts.Import(t.Context(), ines, raw, desk.Bringing{Anew: true})
	require.NoError(t, err)
	out, _, err := h.d.Drafts.Export(t.Context(), ines, id)
	require.NoError(t, err)
	doc, err := latchjson.Decode(out)
	require.NoError(t, err)
	a, err := store.ParseAnchor(doc.Anchor)
	require.NoError(t, err)
	assert.True(t, a.Valid(), "an export can be held against the record later")
	doc.Anchor = ""
	out, err = latchjson.Encode(doc)
	require.NoError(t, err)
	assert.Equal(t, string(raw), string(out), "in and out gives the same bytes")
	before, err := h.list(ines)
	require.NoError(t, err)
	_, err = h.d.Drafts.Import(t.Context(), ines, raw[:len(raw)/2], desk.Bringing{})
	assert.ErrorContains(t, err, "nothing was changed")
	after, err := h.list(ines)
	require.NoError(t, err)
	assert.Len(t, after, len(before))
}

func TestTheSheet(t *testing.T) {
	h := open(t)
	s, err := h.d.Drafts.Sheet(t.Context(), h.user("pavel"), 3)
	require.NoError(t, err)
	assert.Contains(t, s.Safety, "does not replace")
	assert.Len(t, s.Tools, 6)
	var parts []string
	for _, p := range s.Parts {
		parts = append(parts, p.Name)
	}
	assert.ElementsMatch(t, []string{"idler roller", "belt tensioner", "timing belt", "plug seal", "rear cam cover seal", "crank bolt"}, parts)
	for _, r := range s.Torque {
		if r.Name == "crank bolt" {
			assert.Equal(t, "120 N·m + 90 ±5°", r.Value)
			assert.Equal(t, "88.5 lbf·ft + 90 ±5°", r.Other)
		}
	}
	assert.Contains(t, fmt.Sprint(s.Phases), "Keep hands out of the drive")
}

func TestALineIsReadWithItsCautions(t *testing.T) {
	h := open(t)
	v, r, c, err := h.d.Drafts.Look(t.Context(), h.user("ines"), draft, nil, "slacken both sprocket bolts with sprocket holder", ptr(step.ID("s17")), view.Place{})
	require.NoError(t, err)
	assert.Empty(t, r.Problem)
	assert.Equal(t, engine.HazardTaper, r.Step.Cautions[0].Hazard)
	assert.NotEmpty(t, c)
	i := 0
	for k := range v.Rows {
		if v.Rows[k].Step.ID == "line" {
			i = k
		}
	}
	assert.Equal(t, step.ID("s17"), v.Rows[i-1].Step.ID, "the line is shown where it would go")
	out, err := h.d.Drafts.Read(t.Context(), h.user("ines"), draft, "1. remove timing belt\n2. admire it", "lock")
	require.NoError(t, err)
	require.Len(t, out, 2)
	assert.NotEmpty(t, out[1].Problem)
	assert.Equal(t, step.Phase("take-off"), out[0].Step.Phase, "its usual phase lies further on")
	assert.Equal(t, step.Phase("take-off"), out[1].Step.Phase, "free text stays where it is written")
	_, err = h.d.Drafts.Read(t.Context(), h.user("ines"), draft, strings.Repeat("wait 1 min\n", 501), "")
	assert.Error(t, err)
}

func ptr[T any](v T) *T { return &v }

// another is a desk that hears what others on its database do.
func (h house) another() *desk.Desk {
	d := desk.New(h.s)
	stop, err := d.Jobs.Work(h.Context())
	require.NoError(h, err)
	h.Cleanup(func() {
		last, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		stop(last)
	})
	return d
}

// hears waits for an event that fits.
func hears(t *testing.T, events <-chan desk.Event, what string, fits func(desk.Event) bool) {
	t.Helper()
	for end := time.After(10 * time.Second); ; {
		select {
		case e := <-events:
			if fits(e) {
				return
			}
		case <-end:
			t.Fatalf("not heard: %s", what)
		}
	}
}

// A file loses nothing in silence: another sheet than the one in use is told of and asked
// about, a file of a known procedure becomes its next draft, and one that says nothing new,
// or is no latch file, hears so.
func TestAFileIsAskedAbout(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	bring := func(doc *latchjson.Document, say desk.Bringing) (int64, error) {
		b, err := latchjson.Encode(doc)
		require.NoError(t, err)
		return h.d.Drafts.Import(t.Context(), ines, b, say)
	}
	doc := demo.Document("check-valve-timing-r1.latch.json")
	_, err := bring(doc, desk.Bringing{})
	assert.Equal(t, "file", problemOf(t, err).Field)
	assert.ErrorContains(t, err, "says what revision 1")

	doc.Engine.Fasteners[4].Count++
	doc.Procedure.Steps = doc.Procedure.Steps[:len(doc.Procedure.Steps)-1]
	_, err = bring(doc, desk.Bringing{})
	p := problemOf(t, err)
	assert.Equal(t, "sheet", p.Field)
	require.Len(t, p.Changes, 1)
	assert.Contains(t, p.Changes[0], "idler bolt")
	before, err := h.list(ines)
	require.NoError(t, err)

	id, err := bring(doc, desk.Bringing{Ours: true})
	require.NoError(t, err)
	r, err := h.d.Drafts.Revision(t.Context(), ines, id)
	require.NoError(t, err)
	assert.Equal(t, 2, r.Meta.Number, "the next draft of the procedure of that title")
	after, err := h.list(ines)
	require.NoError(t, err)
	assert.Len(t, after, len(before))
	doc.Procedure.Steps = doc.Procedure.Steps[:len(doc.Procedure.Steps)-1]
	_, err = bring(doc, desk.Bringing{Ours: true})
	assert.ErrorContains(t, err, "has a draft already, revision 2")
	id, err = bring(doc, desk.Bringing{Ours: true, Anew: true})
	require.NoError(t, err)
	r, err = h.d.Drafts.Revision(t.Context(), ines, id)
	require.NoError(t, err)
	assert.Equal(t, 1, r.Meta.Number)

	sheet, err := latchjson.Canonical(&doc.Engine)
	require.NoError(t, err)
	for file, says := range map[string]string{
		string(sheet): "This is an engine sheet", "": "This file is empty", "%PDF-1.7": "This is a PDF", "PK\x03\x04xx word/document.xml": "word processor", "Remove the cover.\nTurn.": "This is a text",
		"<svg/>": "XML", `{"seq":1,"hash":"x"}` + "\n": "export of the record", `{"a":1}`: "no latch file", "\x89PNG": "picture", "PK\x03\x04 database.dump": "backup of a house",
	} {
		_, err = h.d.Drafts.Import(t.Context(), ines, []byte(file), desk.Bringing{})
		assert.Equal(t, 422, problemOf(t, err).Status)
		assert.ErrorContains(t, err, says)
	}
}

// there fits an event that says a window is at a step, left one that says it has gone.
func there(client, name, at string) func(desk.Event) bool {
	return func(e desk.Event) bool {
		return slices.Contains(e.Here, desk.Presence{Client: client, Name: name, Step: at})
	}
}

func left(client string) func(desk.Event) bool {
	return func(e desk.Event) bool { return slices.Contains(e.Here, desk.Presence{Client: client, Left: true}) }
}

// Two servers on one database: who is where and what is new is heard on both.
func TestWatchersHearEachOtherOnTwoServers(t *testing.T) {
	h := open(t)
	one, two := h.another(), h.another()
	a, leaveA, err := one.Watchers.Join("session-a", 1, "Ines", desk.Seat{Room: desk.Room{Revision: draft}, Client: "aaaa"})
	require.NoError(t, err)
	one.Watchers.At(desk.Room{Revision: draft}, "aaaa", "session-a", "s01")
	b, leaveB, err := two.Watchers.Join("session-b", 2, "Jonas", desk.Seat{Room: desk.Room{Revision: draft}, Client: "bbbb"})
	require.NoError(t, err)
	defer leaveB()
	hears(t, b, "where Ines is", there("aaaa", "Ines", "s01"))
	two.Watchers.At(desk.Room{Revision: draft}, "bbbb", "session-b", "s02")
	hears(t, a, "where Jonas is", there("bbbb", "Jonas", "s02"))

	_, _, err = one.Watchers.Join("somebody else's", 1, "Ines", desk.Seat{Room: desk.Room{Revision: draft}, Client: "aaaa"})
	assert.ErrorContains(t, err, "Somebody else is here under that name", "a name belongs to the session that took it")
	one.Watchers.At(desk.Room{Revision: draft}, "aaaa", "somebody else's", "s09")

	ines := h.user("ines")
	saved, err := two.Drafts.Save(t.Context(), ines, draft, desk.Batch{Name: name(), Client: "bbbb", Base: 99, Edits: []procedure.Edit{wait("s01", 5)}})
	require.NoError(t, err)
	hears(t, a, "the new version", func(e desk.Event) bool {
		for _, p := range e.Here {
			assert.NotEqual(t, "s09", p.Step, "nobody speaks for another session")
		}
		return e.Version == saved.Meta.Version
	})
	r, err := one.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, "Wait 5 min.", r.View.Rows[0].Sentence, "the other server shows what was saved on this one")
	leaveA()
	hears(t, b, "that Ines has left", left("aaaa"))
}

// What is said of a page, and what is done to an engine sheet and by whom, is heard
// on every server.
func TestTalkAndSheetsAreHeardOnTwoServers(t *testing.T) {
	h := open(t)
	one, two := h.another(), h.another()
	ines, mirja := h.user("ines"), h.user("mirja")
	page, leave, err := one.Watchers.Join("session-a", 1, "Ines", desk.Seat{Room: desk.Room{Revision: v6}, Client: "aaaa"})
	require.NoError(t, err)
	defer leave()
	m, err := two.Review.Say(t.Context(), mirja, v6, desk.Said{Kind: desk.Question, Place: "page", Body: "Is it?"})
	require.NoError(t, err)
	hears(t, page, "a question", func(e desk.Event) bool { return e.Talk })
	require.NoError(t, two.Review.AnswerRemark(t.Context(), ines, m.ID, desk.Answered{Act: "reply", Body: "It is."}))
	hears(t, page, "an answer", func(e desk.Event) bool { return e.Talk })
	day := "2026-12-24"
	require.NoError(t, two.Review.Arrange(t.Context(), ines, v6, latch.ByBench, desk.Arrangement{Due: &day}))
	hears(t, page, "a due date", func(e desk.Event) bool { return e.Talk })

	require.NoError(t, one.Engines.NewSheetDraft(t.Context(), ines, "TS1-03", "Smaller."))
	room := desk.Room{Code: "TS1-03"}
	sheet, leaveSheet, err := one.Watchers.Join("session-a", 1, "Ines", desk.Seat{Room: room, Client: "aaaa"})
	require.NoError(t, err)
	defer leaveSheet()
	_, leaveOther, err := two.Watchers.Join("session-b", 2, "Jonas", desk.Seat{Room: room, Client: "bbbb"})
	require.NoError(t, err)
	two.Watchers.At(room, "bbbb", "session-b", "limits/backOff")
	hears(t, sheet, "where Jonas is", there("bbbb", "Jonas", "limits/backOff"))
	v, err := two.Engines.SaveSheet(t.Context(), h.user("jonas"), "TS1-03", desk.SheetBatch{Name: name(), Client: "bbbb", Base: 1, Edits: []engine.Edit{set("limits/backOff", "4")}})
	require.NoError(t, err)
	hears(t, sheet, "a new version", func(e desk.Event) bool { return e.Version == v.Meta.Version })
	leaveOther()
	hears(t, sheet, "that he has left", left("bbbb"))
	assert.Equal(t, 403, problemOf(t, one.Drafts.MayWatch(t.Context(), h.user("pavel"), room)).Status)
	assert.Equal(t, 404, problemOf(t, one.Drafts.MayWatch(t.Context(), ines, desk.Room{Code: "none"})).Status)
	assert.NoError(t, one.Drafts.MayWatch(t.Context(), ines, room))
}

func TestTheGateSlowsAttempts(t *testing.T) {
	g := desk.Gate{Burst: 10, Interval: time.Minute}
	n := 0
	for range 50 {
		ok, wait := g.Allow("here")
		if ok {
			n++
		} else {
			assert.LessOrEqual(t, wait, time.Minute, "refused attempts do not push the next one back")
		}
	}
	assert.Equal(t, 10, n)
	ok, _ := g.Allow("there")
	assert.True(t, ok)
	g.Forget("here")
	ok, _ = g.Allow("here")
	assert.True(t, ok, "who has signed in starts anew")
}
