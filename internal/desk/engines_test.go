package desk_test

import (
	"context"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/desk"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

func set(path, value string) engine.Edit {
	e := engine.Edit{Path: path}
	if value != "" {
		e.Value = json.RawMessage(value)
	}
	return e
}

func (h house) sheet(u *desk.User, code string) *desk.EngineView {
	v, err := h.d.Engines.View(h.Context(), u, code, 0)
	require.NoError(h, err)
	return v
}

func (h house) edit(u *desk.User, code, client string, base int64, edits ...engine.Edit) (*desk.EngineView, error) {
	return h.d.Engines.SaveSheet(h.Context(), u, code, desk.SheetBatch{Name: name(), Client: client, Base: base, Edits: edits})
}

func TestASheetIsDrawnUpAndPutIntoUse(t *testing.T) {
	h := open(t)
	ines, mirja, pavel := h.user("ines"), h.user("mirja"), h.user("pavel")
	require.ErrorContains(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", " "), "why")
	require.ErrorContains(t, h.d.Engines.NewSheetDraft(t.Context(), mirja, "TQ4-18P", "x"), "Only an author")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "Letter EL-0700."))
	require.ErrorContains(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "again"), "open draft already")

	v := h.sheet(ines, "TQ4-18P")
	assert.Equal(t, 2, v.Meta.Number)
	assert.True(t, v.Meta.Editable)
	assert.Equal(t, 1, h.sheet(pavel, "TQ4-18P").Meta.Number, "a reader sees the one in use")
	_, err := h.d.Engines.View(t.Context(), pavel, "TQ4-18P", 2)
	assert.ErrorContains(t, err, "no such engine sheet")
	_, err = h.d.Engines.LookSheet(t.Context(), pavel, "TQ4-18P", nil)
	assert.ErrorContains(t, err, "work on them")

	look, err := h.d.Engines.LookSheet(t.Context(), ines, "TQ4-18P", []engine.Edit{set("loops/timing-belt/teeth", "111")})
	require.NoError(t, err)
	assert.False(t, look.Derived.Loops[0].Closes)
	assert.True(t, h.sheet(ines, "TQ4-18P").Derived.Loops[0].Closes, "a look saves nothing")

	v, err = h.edit(ines, "TQ4-18P", "a", v.Meta.Version, set("loops/timing-belt/teeth", "111"), set("evidence/cam-bar/source", `"measured at the bench"`))
	require.NoError(t, err)
	assert.Equal(t, "Ines Okafor", v.Sheet.Evidence["cam-bar"].By)
	assert.NotEmpty(t, v.Sheet.Evidence["cam-bar"].On)
	_, err = h.release(mirja, "TQ4-18P")
	assert.ErrorContains(t, err, "must be mended first")
	_, err = h.edit(ines, "TQ4-18P", "a", v.Meta.Version, v.Findings[0].Mends[0].Edits...)
	require.NoError(t, err)
	_, err = h.release(ines, "TQ4-18P")
	assert.ErrorContains(t, err, "technical editor")
	_, err = h.release(h.user("jonas"), "TQ4-18P")
	assert.Error(t, err)
	v, err = h.release(mirja, "TQ4-18P")
	require.NoError(t, err)
	assert.Equal(t, "in use", v.Meta.State)
	assert.Equal(t, 2, v.Meta.InUse)
	_, err = h.edit(ines, "TQ4-18P", "a", v.Meta.Version, set("bore", `"83 mm"`))
	assert.ErrorContains(t, err, "not a draft")
	_, err = h.d.Engines.ReleaseSheet(t.Context(), mirja, "TQ4-18P", v.Meta.Version)
	assert.ErrorContains(t, err, "no draft")
	old, err := h.d.Engines.View(t.Context(), ines, "TQ4-18P", 1)
	require.NoError(t, err)
	assert.Equal(t, "superseded", old.Meta.State)

	_, err = h.s.SQL().Exec("UPDATE sheets SET sheet = '{}' WHERE code = 'TQ4-18P' AND number = 1")
	assert.ErrorContains(t, err, "never changes")
	_, err = h.s.SQL().Exec("DELETE FROM sheets WHERE code = 'TQ4-18P' AND number = 2")
	assert.ErrorContains(t, err, "permission denied")
	h.intact()
}

func TestALeadWhoWorkedOnItDoesNotPutItIntoUse(t *testing.T) {
	h := open(t)
	rosalind := h.user("rosalind")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), rosalind, "TS1-03", "Smaller."))
	v := h.sheet(rosalind, "TS1-03")
	assert.False(t, v.Meta.MayRelease)
	assert.Contains(t, v.Meta.WhyNot, "another person")
	_, err := h.release(rosalind, "TS1-03")
	assert.ErrorContains(t, err, "another person")
}

func TestEditsOfDifferentValuesMergeAndOfOneAsk(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TV6-27D", "New pump."))
	base := h.sheet(ines, "TV6-27D").Meta.Version
	_, err := h.edit(ines, "TV6-27D", "a", base, set("wheels/pump-wheel/x", "-130"))
	require.NoError(t, err)
	_, err = h.edit(jonas, "TV6-27D", "b", base, set("wheels/coolant-wheel/x", "91"), set("locks/pump-pin/note", `"6 mm"`))
	require.NoError(t, err)
	_, err = h.edit(jonas, "TV6-27D", "b", base, set("wheels/pump-wheel/x", "-120"))
	require.ErrorContains(t, err, "Somebody else changed this value")
	v := h.sheet(jonas, "TV6-27D")
	x := engine.NewIndex(v.Sheet)
	assert.InDelta(t, -130, x.Wheel("pump-wheel").X, 0)
	assert.InDelta(t, 91, x.Wheel("coolant-wheel").X, 0)

	// Each takes back their own.
	v, err = h.d.Engines.UndoSheet(t.Context(), ines, "TV6-27D", "a", false)
	require.NoError(t, err)
	assert.InDelta(t, -132, engine.NewIndex(v.Sheet).Wheel("pump-wheel").X, 0)
	assert.InDelta(t, 91, engine.NewIndex(v.Sheet).Wheel("coolant-wheel").X, 0, "what another did stays")
	v, err = h.d.Engines.UndoSheet(t.Context(), ines, "TV6-27D", "a", true)
	require.NoError(t, err)
	assert.InDelta(t, -130, engine.NewIndex(v.Sheet).Wheel("pump-wheel").X, 0)
	_, err = h.d.Engines.UndoSheet(t.Context(), ines, "TV6-27D", "a", true)
	assert.ErrorContains(t, err, "nothing of yours")
	base = v.Meta.Version
	_, err = h.edit(jonas, "TV6-27D", "b", base, set("wheels/pump-wheel/name", `"pump"`))
	require.NoError(t, err)
	_, err = h.d.Engines.UndoSheet(t.Context(), ines, "TV6-27D", "a", false)
	assert.ErrorContains(t, err, "changed the same value since")
}

func TestABatchSentTwiceIsSavedOnce(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TS1-03", "x"))
	b := desk.SheetBatch{Name: "sent-twice", Client: "a", Base: 1, Edits: []engine.Edit{set("cylinders", "2")}}
	one, err := h.d.Engines.SaveSheet(t.Context(), ines, "TS1-03", b)
	require.NoError(t, err)
	two, err := h.d.Engines.SaveSheet(t.Context(), ines, "TS1-03", b)
	require.NoError(t, err)
	assert.Equal(t, one.Meta.Version, two.Meta.Version)
}

func TestEditsThatCannotBeTellWhy(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "x"))
	for path, c := range map[string][2]string{
		"wheels/crank-wheel/teeth":  {`"some"`, "teeth takes a whole number, not a string."},
		"wheels/inlet-wheel/teeth":  {`2000`, "between 0 and 1000"},
		"code":                      {`"TQ4-99"`, "keeps its code"},
		"locks/crank-pin/holds":     {`[]`, "at least one shaft"},
		"loops/timing-belt/route":   {`[{"wheel":"nowhere","side":"back"}]`, "no wheel"},
		"fasteners/crank-bolt/spec": {`[{"torque":"lots"}]`, "not a value with a unit"},
	} {
		_, err := h.edit(ines, "TQ4-18P", "a", 1, set(path, c[0]))
		var p *desk.Problem
		require.ErrorAs(t, err, &p, path)
		assert.Equal(t, 422, p.Status)
		assert.Contains(t, strings.ToLower(p.Title), strings.ToLower(c[1]), path)
	}
	assert.EqualValues(t, 1, h.sheet(ines, "TQ4-18P").Meta.Version, "nothing was saved")
}

func TestANewCode(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	for _, bad := range []string{"", "x", "tq 4", "A/B", strings.Repeat("A", 30)} {
		_, err := h.d.Engines.NewEngine(t.Context(), ines, bad, "", "")
		assert.ErrorContains(t, err, "2 to 20", "%q", bad)
	}
	_, err := h.d.Engines.NewEngine(t.Context(), h.user("aiko"), "TX-1", "", "")
	assert.ErrorContains(t, err, "Only an author")
	code, err := h.d.Engines.NewEngine(t.Context(), ines, " tx1-01 ", "", "")
	require.NoError(t, err)
	assert.Equal(t, "TX1-01", code)
	v := h.sheet(ines, "TX1-01")
	assert.Equal(t, "draft", v.Meta.State)
	assert.Len(t, v.Sheet.Shafts, 1)
	_, err = h.d.Engines.NewEngine(t.Context(), ines, "TX1-01", "", "")
	assert.ErrorContains(t, err, "already")
	_, err = h.d.Engines.NewEngine(t.Context(), ines, "TQ4-18P", "", "")
	assert.ErrorContains(t, err, "already")
	_, err = h.d.Drafts.NewProcedure(t.Context(), ines, "TX1-01", "Renew")
	assert.ErrorContains(t, err, "is a draft still", "nothing is written on a sheet that is not in use")

	_, err = h.d.Engines.NewEngine(t.Context(), ines, "TC4-30C", "TC4-24C", "")
	require.NoError(t, err)
	v = h.sheet(ines, "TC4-30C")
	assert.Empty(t, v.Sheet.Evidence, "where values come from was said of the other code")
	assert.Len(t, v.Sheet.Wheels, 10)
	_, err = h.d.Engines.NewEngine(t.Context(), ines, "TC4-31C", "nothing", "")
	assert.Error(t, err)
	assert.Equal(t, "Tarn", v.Sheet.Maker, "every sheet is of one maker")

	_, err = h.d.Engines.NewEngine(t.Context(), ines, "TX2-01", "", "vee-gears")
	require.NoError(t, err)
	v = h.sheet(ines, "TX2-01")
	assert.Equal(t, "vee-gears", v.Sheet.Archetype)
	assert.True(t, v.Derived.Loops[0].Closes)
	assert.Contains(t, v.Meta.Reason, "V, belt and cam gears")
	assert.NotZero(t, v.Meta.Blocking, "an archetype’s measures are nobody’s")
	for _, bad := range [][2]string{{"", "eight"}, {"TC4-24C", "single"}} {
		_, err = h.d.Engines.NewEngine(t.Context(), ines, "TX3-01", bad[0], bad[1])
		assert.Error(t, err)
	}
	assert.Len(t, desk.Archetypes(), 10)

	raw, err := demo.Files.ReadFile("renew-cam-chain-r1.latch.json")
	require.NoError(t, err)
	code, err = h.d.Engines.ImportEngine(t.Context(), ines, raw)
	require.NoError(t, err)
	assert.Equal(t, "TS1-03", code)
	assert.Equal(t, 2, h.sheet(ines, "TS1-03").Meta.Number)
	_, err = h.d.Engines.ImportEngine(t.Context(), ines, raw)
	assert.ErrorContains(t, err, "open draft")
	_, err = h.d.Engines.ImportEngine(t.Context(), ines, []byte(`{"code":`))
	assert.ErrorContains(t, err, "nothing was changed")

	rows, err := h.d.Engines.List(t.Context(), ines)
	require.NoError(t, err)
	assert.Len(t, rows, 15)
	rows, err = h.d.Engines.List(t.Context(), h.user("pavel"))
	require.NoError(t, err)
	assert.Len(t, rows, 12, "readers see codes in use")
}

// working starts the job queue and stops it with the test.
func (h house) working() {
	stop, err := h.d.Jobs.Work(context.WithoutCancel(h.Context()))
	require.NoError(h, err)
	h.Cleanup(func() {
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		stop(ctx)
	})
}

// tried waits until a worker has had every proof in its hands.
func (h house) tried() {
	require.Eventually(h, func() bool {
		var left int
		err := h.s.SQL().QueryRow("SELECT count(*) FROM river_job WHERE kind = 'reproof' AND attempt = 0 AND state IN ('available', 'pending', 'retryable', 'running')").Scan(&left)
		var all int
		return err == nil && left == 0 && h.s.SQL().QueryRow("SELECT count(*) FROM river_job WHERE kind = 'reproof' AND state <> 'running'").Scan(&all) == nil && all > 0
	}, 30*time.Second, 20*time.Millisecond)
}

func (h house) proved(u *desk.User, code string) *desk.Reproof {
	var r *desk.Reproof
	require.Eventually(h, func() bool {
		var err error
		r, err = h.d.Engines.Reproof(h.Context(), u, code)
		require.NoError(h, err)
		return r != nil && r.Finished != nil
	}, 60*time.Second, 50*time.Millisecond)
	return r
}

func TestAChangedSheetProvesItsProceduresAgain(t *testing.T) {
	h := open(t)
	h.working()
	ines, mirja := h.user("ines"), h.user("mirja")
	none, err := h.d.Engines.Reproof(t.Context(), ines, "TQ4-18P")
	require.NoError(t, err)
	assert.Nil(t, none)
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "Letter EL-0710."))
	_, err = h.edit(ines, "TQ4-18P", "a", 1, set("fasteners/idler-bolt/spec", `[{"torque":"45 N·m"}]`), set("evidence/idler-bolt/source", `"EL-0710"`))
	require.NoError(t, err)
	changes, touches, err := h.d.Engines.Touches(t.Context(), ines, "TQ4-18P")
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"evidence", "idler bolt"}, changes)
	require.Len(t, touches, 4, "the draft, the latched renewal and the two halves of one; the timing check turns no idler bolt")
	for _, v := range touches {
		assert.Equal(t, []string{"idler bolt"}, v.Why)
	}
	_, err = h.edit(ines, "TQ4-18P", "a", 2, set("limits/backOff", "2"))
	require.NoError(t, err)
	_, touches, err = h.d.Engines.Touches(t.Context(), ines, "TQ4-18P")
	require.NoError(t, err)
	assert.Len(t, touches, 5, "a limit touches all of them")
	_, _, err = h.d.Engines.Touches(t.Context(), h.user("pavel"), "TQ4-18P")
	assert.Error(t, err)

	_, err = h.release(mirja, "TQ4-18P")
	require.NoError(t, err)
	r := h.proved(ines, "TQ4-18P")
	assert.Equal(t, "done", r.State)
	assert.Equal(t, 5, r.Total)
	assert.Equal(t, 5, r.Done)
	assert.Equal(t, "Mirja Salmela", r.By)
	says := 0
	for _, row := range r.Rows {
		for _, s := range row.Says {
			says++
			assert.Contains(t, s, "the sheet says 45 N·m")
		}
	}
	assert.Equal(t, 3, says, "the one that opens the drive leaves the idler off")
	assert.ErrorContains(t, h.d.Engines.CancelReproof(t.Context(), ines, "TV6-27D"), "no such")
}

func TestAProofCanBeStopped(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "x"))
	_, err := h.edit(ines, "TQ4-18P", "a", 1, set("limits/backOff", "2"))
	require.NoError(t, err)
	_, err = h.release(mirja, "TQ4-18P")
	require.NoError(t, err)
	r, err := h.d.Engines.Reproof(t.Context(), ines, "TQ4-18P")
	require.NoError(t, err)
	assert.Equal(t, "waiting", r.State, "queued, though nobody works yet")
	require.NoError(t, h.d.Engines.CancelReproof(t.Context(), ines, "TQ4-18P"))
	h.working()
	h.tried()
	r, err = h.d.Engines.Reproof(t.Context(), ines, "TQ4-18P")
	require.NoError(t, err)
	assert.Equal(t, "cancelled", r.State)
	assert.Zero(t, r.Done)
}

func TestOneEnginesCases(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	for year, want := range map[int]string{2022: "2021–2022", 2024: "from 2023"} {
		got, err := h.d.Drafts.Car(t.Context(), ines, "TQ3-10W", 0, engine.Car{Year: year})
		require.NoError(t, err)
		require.Len(t, got, 1)
		assert.Equal(t, want, got[0].When)
		assert.Equal(t, "cases of the idler bolt", got[0].Name)
	}
	_, err := h.d.Drafts.Car(t.Context(), ines, "TQ3-10W", 0, engine.Car{Year: 1999})
	assert.ErrorContains(t, err, "outside")
}

func TestTurnsAndDrawings(t *testing.T) {
	h := open(t)
	ines, pavel := h.user("ines"), h.user("pavel")
	rev, plan, err := h.d.Drafts.Turns(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.EqualValues(t, draft, rev.Meta.ID)
	assert.EqualValues(t, 2, plan.Best)
	_, _, err = h.d.Drafts.Turns(t.Context(), pavel, draft)
	assert.Error(t, err)
	b, err := h.d.Drafts.Draw(t.Context(), ines, draft, 5, true)
	require.NoError(t, err)
	assert.Contains(t, string(b), "<svg")
	_, err = h.d.Drafts.Draw(t.Context(), ines, draft, 500, true)
	assert.ErrorContains(t, err, "no such step")
	_, err = h.d.Drafts.Draw(t.Context(), pavel, draft, 5, true)
	assert.Error(t, err)
	_, err = h.d.Engines.NewEngine(t.Context(), ines, "EMPTY", "", "")
	require.NoError(t, err)
	_, err = h.d.Drafts.DrawEngine(t.Context(), ines, "EMPTY", 0, true)
	assert.ErrorContains(t, err, "no wheel to draw yet")
	_, err = h.d.Drafts.DrawEngine(t.Context(), pavel, "EMPTY", 0, true)
	assert.Error(t, err)
}

func TestSheetsSurviveASecondMigration(t *testing.T) {
	h := open(t)
	v, err := h.s.Reads(t.Context()).InUse("TQ4-18P")
	require.NoError(t, err)
	body, err := h.s.Reads(t.Context()).SheetText(v.ID)
	require.NoError(t, err)
	assert.Equal(t, latchjson.Sum([]byte(body)), v.SHA256)
	_, _, err = h.s.Reads(t.Context()).LastReproof("TQ4-18P")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// A thousand procedures of one code proved again after its sheet changed, on
// as many cores as the test gets; the figure is procedures a second.
func BenchmarkReprove1000(b *testing.B) {
	d := demo.Document("renew-timing-belt-r3.latch.json")
	old := engine.NewIndex(&d.Engine)
	changed, err := engine.Apply(&d.Engine, []engine.Edit{set("fasteners/idler-bolt/spec", `[{"torque":"45 N·m"}]`)})
	require.NoError(b, err)
	now := engine.NewIndex(changed)
	for b.Loop() {
		for range 1000 {
			desk.Again(old, now, &d.Procedure)
		}
	}
	b.ReportMetric(float64(1000*b.N)/b.Elapsed().Seconds(), "procedures/s")
}
