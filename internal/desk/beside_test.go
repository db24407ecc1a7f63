package desk_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk"
)

// titled is the newest revision of the page with a title.
func (h house) titled(u *desk.User, title string) desk.ProcedureRow {
	rows, err := h.list(u)
	require.NoError(h, err)
	for _, r := range rows {
		if r.Title == title {
			return r
		}
	}
	require.Fail(h, "no such page", title)
	return desk.ProcedureRow{}
}

// A page in the middle of a job knows the pages beside it, and is not latched while
// it begins otherwise than the one before it ends, or names one that is not there.
func TestPagesOfAJobMeetBeforeTheyAreLatched(t *testing.T) {
	h := open(t)
	ines, pavel := h.user("ines"), h.user("pavel")
	const first, second = "Open the timing drive for work on the head", "Close the timing drive after work on the head"
	row := h.titled(ines, second)
	r := h.open(ines, row.Revision)
	require.Len(t, r.Meta.Beside, 1)
	assert.Equal(t, first, r.Meta.Beside[0].Title)
	assert.Empty(t, r.Meta.Beside[0].Apart)
	assert.Contains(t, r.Meta.Beside[0].Says, "timing belt")
	assert.Empty(t, h.open(ines, v6).Meta.Beside, "another code has no part in it")

	id, err := h.d.Drafts.NewDraft(t.Context(), ines, row.Procedure, "The belt is laid with other marks.", 0)
	require.NoError(t, err)
	change := func(f func(*procedure.Header)) {
		head := h.open(ines, id).View.Header
		f(&head)
		require.NoError(t, h.edits(ines, id, procedure.Edit{Op: procedure.SetHeader, Header: &head}))
	}
	begins := r.View.Header.Begins
	change(func(head *procedure.Header) { head.Begins.Marks = begins.Marks[:2] })
	now := h.open(ines, id)
	require.Zero(t, now.View.Blocking, "nothing is wrong with the page by itself")
	assert.Equal(t, []string{"exhaust cam mark standing where “" + first + "” ends, and not where “" + second + "” begins"}, now.Meta.Beside[0].Apart)
	_, err = h.close(ines, id, latch.ByAuthor)
	assert.ErrorContains(t, err, "exhaust cam mark standing")

	change(func(head *procedure.Header) { head.Begins, head.After = begins, "A page nobody wrote" })
	_, err = h.close(ines, id, latch.ByAuthor)
	assert.ErrorContains(t, err, "there is no page “A page nobody wrote”")

	change(func(head *procedure.Header) { head.After = first })
	_, err = h.close(ines, id, latch.ByAuthor)
	require.NoError(t, err)

	// A reader sees what is released beside what is released.
	seen := h.open(pavel, h.titled(pavel, first).Revision)
	require.Len(t, seen.Meta.Beside, 0, "the newest of the other page is on review, and drafts are not theirs")
	h.intact()
}
