package desk_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/latch"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/desk"
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
	s, err := store.Open(t.Context(), pgtest.URL(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, demo.Load(t.Context(), s))
	return house{t, desk.New(s), s}
}

func (h house) user(name string) *desk.User {
	u, err := h.d.SignIn(h.Context(), name+"@tarn.example", demo.Password)
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
	return h.d.Save(h.Context(), u, draft, desk.Batch{Name: name(), Client: client, Base: base, Edits: edits})
}

func (h house) version(u *desk.User) int64 {
	r, err := h.d.Revision(h.Context(), u, draft)
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
	r, err := h.d.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, "Wait 5 min.", r.View.Rows[0].Sentence)
	assert.Equal(t, "Wait 7 min.", r.View.Rows[1].Sentence)
	assert.Equal(t, "look.", r.View.Rows[2].Sentence)
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
	r, err := h.d.Revision(t.Context(), ines, draft)
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
	one, err := h.d.Save(t.Context(), ines, draft, b)
	require.NoError(t, err)
	again, err := h.d.Save(t.Context(), ines, draft, b)
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
	r, err := h.d.Revision(t.Context(), ines, draft)
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
	s, err := store.Open(t.Context(), pgtest.URL(t)) // a desk that has cached nothing
	require.NoError(t, err)
	s.Close()
	r, err := desk.New(h.s).Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	for i, id := range want {
		assert.Equal(t, id, r.View.Rows[i+1].Step.ID)
	}
}

func TestUndoAndRedoAcrossSaves(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	sentence := func() string {
		r, err := h.d.Revision(t.Context(), ines, draft)
		require.NoError(t, err)
		return r.View.Rows[0].Sentence
	}
	first := sentence()
	for _, m := range []float64{5, 6} {
		_, err := h.save(ines, "ines-1", h.version(ines), wait("s01", m))
		require.NoError(t, err)
	}
	undo := func(redo bool) error { _, err := h.d.Undo(t.Context(), ines, draft, "ines-2", redo); return err }
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
		r, err := h.d.Revision(h.Context(), u, id)
		require.NoError(h, err)
		if len(r.View.Findings) == 0 {
			return
		}
		_, err = h.d.Save(h.Context(), u, id, desk.Batch{Name: name(), Client: "mender", Base: r.Meta.Version, Edits: r.View.Findings[0].Mends[0].Edits})
		require.NoError(h, err)
	}
	h.Fatal("findings left")
}

func TestThroughTheLatches(t *testing.T) {
	h := open(t)
	ines, mirja, teodor, aiko := h.user("ines"), h.user("mirja"), h.user("teodor"), h.user("aiko")
	shut := func(u *desk.User, l latch.Latch) error {
		_, err := h.d.CloseLatch(t.Context(), u, draft, l)
		return err
	}
	assert.ErrorContains(t, shut(ines, latch.ByAuthor), "block release")
	h.mend(ines, draft)
	assert.ErrorContains(t, shut(mirja, latch.ByTechnical), "author closes first")
	require.NoError(t, shut(ines, latch.ByAuthor))
	require.NoError(t, shut(mirja, latch.ByTechnical))
	require.NoError(t, shut(teodor, latch.ByEditorial))

	// A note opens the author's and the editorial latch, not the technical one.
	r, err := h.d.Revision(t.Context(), ines, draft)
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

	r, err = h.d.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, "latched", r.Meta.State)
	file, _, err := h.d.Export(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, r.Meta.SHA256, latchjson.Sum(file))
	assert.Equal(t, "superseded", r.Meta.Siblings[1].State)
	_, err = h.save(ines, "ines-1", r.Meta.Version, wait("s01", 5))
	assert.ErrorContains(t, err, "never changes")
	_, err = h.s.VerifyRecord(t.Context())
	assert.NoError(t, err)
}

func TestReadersSeeWhatIsReleasedOnly(t *testing.T) {
	h := open(t)
	pavel := h.user("pavel")
	_, err := h.d.Revision(t.Context(), pavel, draft)
	assert.ErrorContains(t, err, "latched revisions only")
	rows, err := h.d.Procedures(t.Context(), pavel)
	require.NoError(t, err)
	require.Len(t, rows, 6)
	for _, r := range rows {
		assert.Equal(t, "latched", r.State)
	}
	_, err = h.save(pavel, "pavel", 0, wait("s01", 5))
	assert.ErrorContains(t, err, "role author")
}

func TestImport(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	raw, err := demo.Files.ReadFile("check-valve-timing-r1.latch.json")
	require.NoError(t, err)
	id, err := h.d.Import(t.Context(), ines, raw)
	require.NoError(t, err)
	out, _, err := h.d.Export(t.Context(), ines, id)
	require.NoError(t, err)
	assert.Equal(t, string(raw), string(out), "in and out gives the same bytes")
	before, err := h.d.Procedures(t.Context(), ines)
	require.NoError(t, err)
	_, err = h.d.Import(t.Context(), ines, raw[:len(raw)/2])
	assert.ErrorContains(t, err, "nothing was changed")
	after, err := h.d.Procedures(t.Context(), ines)
	require.NoError(t, err)
	assert.Len(t, after, len(before))
}

func TestTheSheet(t *testing.T) {
	h := open(t)
	s, err := h.d.Sheet(t.Context(), h.user("pavel"), 3)
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
	v, r, c, err := h.d.Look(t.Context(), h.user("ines"), draft, nil, "slacken both sprocket bolts with sprocket holder", ptr(step.ID("s17")))
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
	out, err := h.d.Read(t.Context(), h.user("ines"), draft, "1. remove belt\n2. admire it", "lock")
	require.NoError(t, err)
	require.Len(t, out, 2)
	assert.NotEmpty(t, out[1].Problem)
	assert.Equal(t, step.Phase("take-off"), out[0].Step.Phase, "its usual phase lies further on")
	assert.Equal(t, step.Phase("take-off"), out[1].Step.Phase, "free text stays where it is written")
	_, err = h.d.Read(t.Context(), h.user("ines"), draft, strings.Repeat("wait 1 min\n", 501), "")
	assert.Error(t, err)
}

func ptr[T any](v T) *T { return &v }

func TestWatchersHearEachOther(t *testing.T) {
	d := desk.New(nil)
	a, leaveA := d.Watchers.Join(1, "aaaa", "Ines")
	d.Watchers.At(1, "aaaa", "s01")
	b, leaveB := d.Watchers.Join(1, "bbbb", "Jonas")
	defer leaveB()
	assert.Equal(t, desk.Event{Client: "aaaa", Name: "Ines", Step: "s01"}, <-b)
	d.Watchers.At(1, "bbbb", "s02")
	assert.Equal(t, desk.Event{Client: "bbbb", Name: "Jonas", Step: "s02"}, <-a)
	leaveA()
	assert.True(t, (<-b).Left)
}

func TestTheGateSlowsAttempts(t *testing.T) {
	var g desk.Gate
	n := 0
	for range 50 {
		if g.Allow("here") {
			n++
		}
	}
	assert.Equal(t, 10, n)
	assert.True(t, g.Allow("there"))
}
