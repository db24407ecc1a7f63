package desk_test

import (
	"context"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk"
	"inklatch/internal/store"
)

func raw(s string) json.RawMessage { return json.RawMessage(s) }

// tried waits for the end of a trial.
func (h house) trialled(u *desk.User, id int64) *desk.HouseTrial {
	var v *desk.HouseTrial
	require.Eventually(h, func() bool {
		var err error
		v, err = h.d.House.Trial(h.Context(), u, id)
		require.NoError(h, err)
		return v.State != "running"
	}, 60*time.Second, 50*time.Millisecond)
	return v
}

// A lead tries rules on all pages, sees what they would block and let pass, and saves them:
// from then on the proof goes by them, in every list, on every desk and on another server too.
func TestALeadChangesTheHouseRules(t *testing.T) {
	h := open(t)
	h.working()
	rosalind, ines := h.user("rosalind"), h.user("ines")
	v, err := h.d.House.Rules(t.Context(), ines)
	require.NoError(t, err)
	assert.Zero(t, v.Version)
	assert.False(t, v.May)
	assert.Empty(t, v.Versions)
	assert.JSONEq(t, string(v.Ours), string(v.Rules))

	six := raw(`{"minTurns": 6, "severities": {"lock-not-tried": "look"}}`)
	says, err := h.d.House.Differ(t.Context(), ines, six)
	require.NoError(t, err)
	assert.Len(t, says, 2)
	_, err = h.d.House.Try(t.Context(), ines, six)
	assert.ErrorContains(t, err, "Only a lead")
	_, err = h.d.House.Save(t.Context(), ines, six, 0, "why")
	assert.ErrorContains(t, err, "Only a lead")

	id, err := h.d.House.Try(t.Context(), rosalind, six)
	require.NoError(t, err)
	trial := h.trialled(rosalind, id)
	assert.Equal(t, "done", trial.State)
	assert.Equal(t, trial.Total, trial.Done)
	assert.Greater(t, trial.Total, 10)
	row := func(rows []desk.HouseTrialRow, revision int64) *desk.HouseTrialRow {
		for i := range rows {
			if rows[i].Revision == revision {
				return &rows[i]
			}
		}
		return nil
	}
	r := row(trial.Rows, 4)
	require.NotNil(t, r, "the draft turns its engine two turns")
	assert.Contains(t, strings.Join(r.New, "\n"), "is turned only")
	one, err := h.d.House.Beside(t.Context(), ines, six, 4)
	require.NoError(t, err)
	assert.Equal(t, r, one, "one page beside is the same as in the trial")
	before, err := h.d.Drafts.Revision(t.Context(), ines, 4)
	require.NoError(t, err)

	for why, want := range map[string]string{"": "Say why", " ": "Say why", strings.Repeat("a", 2001): "2000"} {
		_, err = h.d.House.Save(t.Context(), rosalind, six, 0, why)
		assert.ErrorContains(t, err, want)
	}
	version, err := h.d.House.Save(t.Context(), rosalind, six, 0, "We have always turned six.")
	require.NoError(t, err)
	_, err = h.d.House.Save(t.Context(), rosalind, raw(`{"minTurns": 4}`), 0, "Four will do.")
	assert.ErrorContains(t, err, "Somebody else changed")
	_, err = h.d.House.Save(t.Context(), rosalind, six, version, "Again.")
	assert.ErrorContains(t, err, "hold already")

	v, err = h.d.House.Rules(t.Context(), ines)
	require.NoError(t, err)
	require.Len(t, v.Versions, 1)
	assert.Equal(t, version, v.Version)
	assert.Equal(t, "We have always turned six.", v.Versions[0].Why)
	assert.Equal(t, says, v.Versions[0].Changes)
	h.trialled(ines, v.Trial)

	after, err := h.d.Drafts.Revision(t.Context(), ines, 4)
	require.NoError(t, err)
	assert.NotEqual(t, before.View.Blocking, after.View.Blocking, "the page is proved with the new rules")
	other := desk.New(h.s)
	there, err := other.Drafts.Revision(t.Context(), ines, 4)
	require.NoError(t, err)
	assert.Equal(t, after.View.Blocking, there.View.Blocking)
	rows, _, err := h.d.Drafts.Procedures(t.Context(), ines, desk.ListQuery{Limit: 100})
	require.NoError(t, err)
	for _, p := range rows {
		if p.Revision == 4 {
			assert.Equal(t, after.View.Blocking, p.Blocking)
		}
	}

	told := func() (n int) {
		tasks, err := h.d.Drafts.MyDesk(t.Context(), ines)
		require.NoError(t, err)
		for _, k := range tasks {
			if k.Kind == desk.ToObey && k.Revision == 4 {
				assert.True(t, k.Waits)
				assert.Contains(t, k.Says, "house rules 1: ")
				n++
			}
		}
		return n
	}
	assert.Equal(t, 1, told(), "it is on its author's desk")
	again, err := h.d.House.Save(t.Context(), rosalind, raw(`{"minTurns": 6, "severities": {"lock-not-tried": "look"}, "maxWords": 30}`), version, "Thirty words.")
	require.NoError(t, err)
	v, err = h.d.House.Rules(t.Context(), ines)
	require.NoError(t, err)
	assert.Equal(t, again, v.Version)
	h.trialled(ines, v.Trial)
	assert.Equal(t, 1, told(), "other rules that say nothing of it leave it there")
	require.NoError(t, h.edits(ines, 4, procedure.Edit{Op: procedure.Remove, ID: after.View.Rows[0].Step.ID}))
	assert.Zero(t, told(), "until somebody has been at it")

	record, err := h.d.Review.RecordOf(t.Context(), ines, desk.RecordAsk{Kind: string(store.RecordHouse), Limit: 10})
	require.NoError(t, err)
	require.Len(t, record, 2)
	assert.Equal(t, "changed the house rules, now version 1: We have always turned six.", record[1].Says)
	assert.Equal(t, says, record[1].Detail)

	file, name, err := h.d.House.RulesFile(t.Context(), ines, 0)
	require.NoError(t, err)
	assert.Equal(t, "house rules 2.json", name)
	back, err := h.d.House.Differ(t.Context(), ines, file)
	require.NoError(t, err)
	assert.Empty(t, back, "the file is the rules")
	_, _, err = h.d.House.RulesFile(t.Context(), ines, 9)
	assert.ErrorContains(t, err, "no such version")
	report, err := h.s.Verify(t.Context(), nil)
	require.NoError(t, err)
	assert.Empty(t, report.Troubles)
}

// What is wrong with rules is said at its place; a reader sees none of it.
func TestHouseRulesThatAreNone(t *testing.T) {
	h := open(t)
	rosalind, pavel := h.user("rosalind"), h.user("pavel")
	for text, field := range map[string]string{`{"minTurns": 99}`: "minTurns", `{"backwards": "no"}`: "backwards", `{"drill": {"tooth": {"least": 300, "occurrence": 1}}}`: "drill/tooth", `{"x": 1}`: "", `3`: ""} {
		_, err := h.d.House.Try(t.Context(), rosalind, raw(text))
		var p *desk.Problem
		require.ErrorAs(t, err, &p, text)
		assert.Equal(t, 422, p.Status)
		assert.Equal(t, field, p.Field, text)
	}
	_, err := h.d.House.Rules(t.Context(), pavel)
	assert.ErrorContains(t, err, "for those who work on pages")
	_, err = h.d.House.Trial(t.Context(), pavel, 1)
	assert.ErrorContains(t, err, "for those who work on pages")
	_, err = h.d.House.Differ(t.Context(), pavel, raw(`{}`))
	assert.ErrorContains(t, err, "for those who work on pages")
	_, err = h.d.House.Beside(t.Context(), pavel, raw(`{}`), 3)
	assert.Error(t, err)
	_, _, err = h.d.House.RulesFile(t.Context(), pavel, 0)
	assert.Error(t, err)
	_, err = h.d.House.Trial(t.Context(), rosalind, 77)
	assert.ErrorContains(t, err, "no such trial")
}

// A trial nobody works at is said to be stuck; it can be stopped, one that was saved cannot, and
// a second takes the place of the first.
func TestTrialsStop(t *testing.T) {
	h := open(t) // nothing works at jobs here
	rosalind := h.user("rosalind")
	first, err := h.d.House.Try(t.Context(), rosalind, raw(`{"minTurns": 4}`))
	require.NoError(t, err)
	second, err := h.d.House.Try(t.Context(), rosalind, raw(`{"minTurns": 6}`))
	require.NoError(t, err)
	_, err = h.d.House.Trial(t.Context(), rosalind, first)
	assert.ErrorContains(t, err, "no such trial")
	v, err := h.d.House.Trial(t.Context(), rosalind, second)
	require.NoError(t, err)
	assert.Equal(t, "running", v.State)
	assert.False(t, v.Stuck)
	_, err = h.s.SQL().Exec("UPDATE house_trials SET beat = beat - interval '1 hour'")
	require.NoError(t, err)
	v, err = h.d.House.Trial(t.Context(), rosalind, second)
	require.NoError(t, err)
	assert.True(t, v.Stuck)
	assert.ErrorContains(t, h.d.House.CancelTrial(t.Context(), h.user("ines"), second), "Only a lead")
	require.NoError(t, h.d.House.CancelTrial(t.Context(), rosalind, second))
	v, err = h.d.House.Trial(t.Context(), rosalind, second)
	require.NoError(t, err)
	assert.Equal(t, "cancelled", v.State)

	_, err = h.d.House.Save(t.Context(), rosalind, raw(`{"minTurns": 4}`), 0, "Four.")
	require.NoError(t, err)
	now, err := h.d.House.Rules(t.Context(), rosalind)
	require.NoError(t, err)
	assert.ErrorContains(t, h.d.House.CancelTrial(t.Context(), rosalind, now.Trial), "were saved")

	// Its worker has gone before it began: another takes it up.
	_, err = h.s.SQL().Exec("UPDATE house_trials SET beat = beat - interval '1 hour'")
	require.NoError(t, err)
	_, err = h.s.SQL().Exec("DELETE FROM river_job")
	require.NoError(t, err)
	h.working()
	assert.Equal(t, "done", h.trialled(rosalind, now.Trial).State)
}

// Latches follow the house: what a page needs before it is released, and not what it needed
// when it was.
func TestLatchesFollowTheHouse(t *testing.T) {
	h := open(t)
	rosalind, ines := h.user("rosalind"), h.user("ines")
	latches := func(revision int64) (out []latch.Latch) {
		v, err := h.d.Drafts.Revision(t.Context(), ines, revision)
		require.NoError(t, err)
		for _, m := range v.Meta.Latches {
			out = append(out, m.Latch)
		}
		return out
	}
	released := latches(3)
	assert.Contains(t, latches(4), latch.ByEditorial)
	_, err := h.d.House.Save(t.Context(), rosalind, raw(`{"editorial": "never", "bench": "always"}`), 0, "Two people.")
	require.NoError(t, err)
	assert.NotContains(t, latches(4), latch.ByEditorial)
	assert.Contains(t, latches(4), latch.ByBench)
	assert.Equal(t, released, latches(3), "it was released with these")
	trial, err := h.d.House.Rules(context.WithoutCancel(t.Context()), ines)
	require.NoError(t, err)
	assert.NotZero(t, trial.Trial)
}

// What was released keeps the rules of its day on its record: findings that were kept with a
// reason stay there when a house asks for something else.
func TestAReleasedPageKeepsTheRulesOfItsDay(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	record := func() string {
		s, err := h.d.Drafts.Sheet(t.Context(), ines, 3)
		require.NoError(t, err)
		b, err := json.Marshal(s.Blocks)
		require.NoError(t, err)
		return string(b)
	}
	was := record()
	_, err := h.d.House.Save(t.Context(), h.user("rosalind"), raw(`{"minTurns": 6, "drill": {"tooth": {"off": true, "least": 0, "occurrence": 1}}}`), 0, "Six.")
	require.NoError(t, err)
	assert.Equal(t, was, record())
	draft, err := h.d.Drafts.Sheet(t.Context(), ines, 4)
	require.NoError(t, err)
	b, err := json.Marshal(draft.Blocks)
	require.NoError(t, err)
	assert.Contains(t, string(b), "proved with version 1")
}
