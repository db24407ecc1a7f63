package desk_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/review/redline"
)

// A draft is laid over the last revision that was released, or over any other of its
// procedure; whoever may not read one of the two sees none of it.
func TestARedline(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	v, err := h.d.Review.Redline(t.Context(), ines, 4, 0)
	require.NoError(t, err)
	require.NotNil(t, v.Against)
	assert.Less(t, v.Against.Number, v.Meta.Number)
	assert.Contains(t, []string{"latched", "superseded"}, v.Against.State)
	assert.False(t, v.Redline.Empty())
	assert.NotEmpty(t, v.New, "the draft has findings that the released one has not")
	n := 0
	for _, w := range v.Redline.Rows {
		if w.Kind == redline.Same {
			n++
		}
	}
	assert.Greater(t, n, 20)

	back, err := h.d.Review.Redline(t.Context(), ines, v.Against.ID, v.Meta.ID)
	require.NoError(t, err)
	assert.Equal(t, len(v.New), len(back.Settled), "the other way round, what was new is settled")

	first, err := h.d.Review.Redline(t.Context(), ines, 7, 0)
	require.NoError(t, err)
	assert.Nil(t, first.Against, "nothing stands before the first revision")
	assert.True(t, first.Redline.Empty())

	_, err = h.d.Review.Redline(t.Context(), ines, 4, 7)
	assert.Error(t, err, "of another procedure")
	_, err = h.d.Review.Redline(t.Context(), ines, 4, 4)
	assert.Error(t, err, "against itself")
	_, err = h.d.Review.Redline(t.Context(), h.user("pavel"), 4, 0)
	assert.Error(t, err, "readers read what is released")
	_, err = h.d.Review.Redline(t.Context(), h.user("pavel"), v.Against.ID, 4)
	assert.Error(t, err, "nor the draft against what is released")
}

// The job sheet of a draft lists what is not as it was in the last release, and marks
// its steps; that of the first revision has nothing to list.
func TestChangeBars(t *testing.T) {
	h := open(t)
	s, err := h.d.Drafts.Sheet(t.Context(), h.user("ines"), 4)
	require.NoError(t, err)
	assert.Equal(t, 3, s.Since)
	n := 0
	for _, ph := range s.Phases {
		for _, st := range ph.Steps {
			if st.Changed != "" {
				n++
				assert.Contains(t, strings.Join(s.Changes, "\n"), fmt.Sprintf("Step %d %s", st.Number, st.Changed))
			}
		}
	}
	assert.Positive(t, n)
	assert.Contains(t, strings.Join(s.Changes, "\n"), "No longer (step 33 then): Take out the crank pin and the cam bar.")
	s, err = h.d.Drafts.Sheet(t.Context(), h.user("ines"), 7)
	require.NoError(t, err)
	assert.Zero(t, s.Since)
	assert.Empty(t, s.Changes)
}

// The timeline of a procedure says from and until when each revision held, who closed
// its latches, how much changed since the release before, and what held on a day.
func TestTheTimeline(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	v, err := h.d.Drafts.Versions(t.Context(), ines, 4, "")
	require.NoError(t, err)
	require.Len(t, v.Versions, 4)
	assert.Zero(t, v.Held)
	for i, number := range []int{4, 3, 2, 1} {
		assert.Equal(t, number, v.Versions[i].Number, "the latest first")
	}
	draft, now, old := v.Versions[0], v.Versions[1], v.Versions[2]
	assert.Nil(t, draft.From)
	assert.Equal(t, now.ID, draft.Against)
	assert.Equal(t, h.redline(ines, draft.ID, 0).Redline.Counted, draft.Counted, "counted as in the review")
	require.NotNil(t, now.From)
	assert.Nil(t, now.Until, "it holds on")
	assert.Equal(t, now.From, old.Until, "one holds until the next")
	assert.NotEmpty(t, old.Closings)
	assert.Zero(t, v.Versions[3].Against)

	day := func(on string) int64 {
		v, err := h.d.Drafts.Versions(t.Context(), ines, 4, on)
		require.NoError(t, err)
		return v.Held
	}
	assert.Equal(t, now.ID, day(now.From.UTC().AddDate(0, 0, 3).Format("2006-01-02")))
	assert.Zero(t, day("2001-01-01"))
	_, err = h.d.Drafts.Versions(t.Context(), ines, 4, "yesterday")
	assert.ErrorContains(t, err, "2026-05-31")

	// Readers see what is released, and no draft.
	v, err = h.d.Drafts.Versions(t.Context(), h.user("pavel"), now.ID, "")
	require.NoError(t, err)
	assert.Len(t, v.Versions, 3)
	_, err = h.d.Drafts.Versions(t.Context(), h.user("pavel"), 4, "")
	assert.Error(t, err)
}

// A draft starts from any release of its procedure, and from nothing else.
func TestADraftFromAnEarlierRelease(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	v, err := h.d.Drafts.Versions(t.Context(), ines, 4, "")
	require.NoError(t, err)
	first := v.Versions[3]
	_, err = h.d.Drafts.NewDraft(t.Context(), ines, v.Meta.Procedure, "Back to the old torque.", first.ID)
	assert.ErrorContains(t, err, "open revision", "one draft at a time")
	require.NoError(t, h.d.Drafts.Delete(t.Context(), ines, 4))
	for _, bad := range []int64{4, 7, 999} {
		_, err = h.d.Drafts.NewDraft(t.Context(), ines, v.Meta.Procedure, "Back to the old torque.", bad)
		assert.Error(t, err, "%d is no release of it", bad)
	}
	id, err := h.d.Drafts.NewDraft(t.Context(), ines, v.Meta.Procedure, "Back to the old torque.", first.ID)
	require.NoError(t, err)
	r, err := h.d.Review.Redline(t.Context(), ines, id, first.ID)
	require.NoError(t, err)
	assert.True(t, r.Redline.Empty(), "it starts as that release was")
}
