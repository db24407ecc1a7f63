package desk_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/desk"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/grid"
)

// The mistakes of a draft are counted for its title block and for lists; after an edit the figures
// say that they are older, until it is drilled again.
func TestADrillIsCounted(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	r, err := h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Nil(t, r.Meta.Drill, "nobody has drilled it yet")
	n, err := h.d.Drills.Count(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Positive(t, n.Missed)
	assert.Greater(t, n.Of, n.Caught)
	r, err = h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	require.Equal(t, n, r.Meta.Drill)
	rows, err := h.list(ines)
	require.NoError(t, err)
	i := slices.IndexFunc(rows, func(p desk.ProcedureRow) bool { return p.Revision == draft })
	assert.Equal(t, []int{n.Caught, n.Of, n.Missed}, []int{rows[i].Caught, rows[i].Mistakes, rows[i].Missed})

	_, d, err := h.d.Drills.Of(t.Context(), ines, draft)
	require.NoError(t, err)
	m := one(t, d, func(m desk.DrillMistake) bool { return m.Missed })
	mends, err := h.d.Drills.Mends(t.Context(), ines, draft, m.ID)
	require.NoError(t, err)
	require.NotEmpty(t, mends)
	_, err = h.save(ines, "window", r.Meta.Version, mends[0].Edits...)
	require.NoError(t, err)
	r, err = h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.True(t, r.Meta.Drill.Older)
	assert.Equal(t, n.Missed, r.Meta.Drill.Missed, "the last answer stands")
	again, err := h.d.Drills.Count(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, n.Missed-1, again.Missed)
}

func one(t *testing.T, d *desk.Drilled, is func(m desk.DrillMistake) bool) desk.DrillMistake {
	t.Helper()
	i := slices.IndexFunc(d.Mistakes, is)
	require.GreaterOrEqual(t, i, 0)
	return d.Mistakes[i]
}

// A mistake is kept with a reason at its step: it is missed no more, its reason stands on the
// sheet's record, and falls away when the step says something else.
func TestAMistakeIsKeptWithAReason(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	_, d, err := h.d.Drills.Of(t.Context(), ines, draft)
	require.NoError(t, err)
	m := one(t, d, func(m desk.DrillMistake) bool { return m.Missed })
	r, err := h.d.Drafts.Revision(t.Context(), ines, draft)
	require.NoError(t, err)
	at := slices.IndexFunc(r.View.Rows, func(v view.Row) bool { return v.Step.ID == m.MadeAt })
	s := r.View.Rows[at].Step
	of, _, _ := strings.Cut(m.ID, "@")
	s.Accept = append(s.Accept, step.Acceptance{Rule: drill.AcceptPrefix + of, Reason: "It is seen at once."})
	_, err = h.save(ines, "window", r.Meta.Version, procedure.Edit{Op: procedure.Replace, Step: &s})
	require.NoError(t, err)
	_, after, err := h.d.Drills.Of(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Equal(t, d.Missed-1, after.Missed)
	assert.Equal(t, 1, after.Accepted)
	assert.Equal(t, "It is seen at once.", one(t, after, func(v desk.DrillMistake) bool { return v.ID == m.ID }).Accepted)
	sheet, err := h.d.Drafts.Sheet(t.Context(), ines, draft)
	require.NoError(t, err)
	said := ""
	for _, b := range sheet.Blocks {
		for _, r := range b.Rows {
			said += r.Name + "|" + r.Text + "|" + r.When + "\n"
		}
	}
	assert.Contains(t, said, "It is seen at once.")
	assert.Contains(t, said, "Mistake drill|")
	assert.Contains(t, said, "accepted with a reason: 1")
}

// A film shows a mistake from the step it is made at to the one that shows it, beside the engine
// as it should stand.
func TestAFilmOfAMistake(t *testing.T) {
	h := open(t)
	ines, pavel := h.user("ines"), h.user("pavel")
	const released = 3
	_, d, err := h.d.Drills.Of(t.Context(), ines, released)
	require.NoError(t, err)
	m := one(t, d, func(m desk.DrillMistake) bool { return m.Family == "slip" && len(m.Seen) > 0 && m.Seen[0].Sure })
	f, err := h.d.Drills.Film(t.Context(), ines, released, m.ID)
	require.NoError(t, err)
	require.NotEmpty(t, f.Frames)
	first, last := f.Frames[0], f.Frames[len(f.Frames)-1]
	assert.Equal(t, m.MadeAt, first.Step)
	assert.Equal(t, m.Seen[0].Step, last.Step)
	assert.True(t, last.Sure)
	assert.Equal(t, m.Seen[0].Says, last.Seen)
	require.NotEmpty(t, last.Off)
	assert.NotEqual(t, last.Wrong.Shafts, last.Right.Shafts)
	var p *desk.Problem
	_, err = h.d.Drills.Film(t.Context(), ines, released, "tooth/none@s1")
	require.ErrorAs(t, err, &p)
	assert.Equal(t, 404, p.Status)
	_, err = h.d.Drills.Film(t.Context(), pavel, draft, m.ID)
	require.ErrorAs(t, err, &p, "a reader has no draft")
}

// A change says what it lets through, and what it catches now.
func TestADrillAcrossAChange(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	c, err := h.d.Drills.Change(t.Context(), ines, draft, 0)
	require.NoError(t, err)
	require.NotNil(t, c.Was)
	require.NotEmpty(t, c.Lost)
	i := slices.IndexFunc(c.Lost, func(m desk.DrillChanged) bool { return strings.HasPrefix(m.ID, "left-in/flywheel-lock@") })
	require.GreaterOrEqual(t, i, 0, "the draft took the look out")
	assert.Equal(t, []string{"caught", "by force"}, []string{c.Lost[i].Was, c.Lost[i].Is})
	_, err = h.d.Drills.Change(t.Context(), ines, draft, 999)
	assert.Error(t, err)
}

// The worksheet has a row for every mistake, with its grades, and no formula.
func TestAWorksheetOfMistakes(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	_, d, err := h.d.Drills.Of(t.Context(), ines, draft)
	require.NoError(t, err)
	for _, format := range []string{"csv", "xlsx"} {
		b, name, err := h.d.Drills.Worksheet(t.Context(), ines, draft, format)
		require.NoError(t, err)
		assert.Equal(t, "TQ4-18P mistakes."+format, name)
		rows, err := grid.Read(b)
		require.NoError(t, err)
		assert.Len(t, rows, len(d.Mistakes)+1)
		assert.Equal(t, "Risk", rows[0][13])
	}
}

// Two mistakes at once are made when somebody asks, the same ones every time.
func TestTwoMistakesAtOnce(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	p, err := h.d.Drills.Pairs(t.Context(), ines, 3)
	require.NoError(t, err)
	assert.Positive(t, p.Tried)
	again, err := h.d.Drills.Pairs(t.Context(), ines, 3)
	require.NoError(t, err)
	assert.Equal(t, p, again)
	_, err = h.d.Drills.Pairs(t.Context(), h.user("pavel"), draft)
	assert.Error(t, err, "a reader has no draft")
}

// An author has it printed beside the look that tells a mistake how it looks right, and how then:
// it stands on the sheet, falls away when the step looks at something else, and a mistake that
// nothing is sure to show has no such pair.
func TestAPairOfPicturesIsPrinted(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	_, all, err := h.d.Drills.Of(t.Context(), ines, draft)
	require.NoError(t, err)
	var m desk.DrillMistake
	var film *desk.DrillFilm
	for _, m = range all.Mistakes {
		film, err = h.d.Drills.Film(t.Context(), ines, draft, m.ID)
		require.NoError(t, err)
		if film.Tells != nil && m.Family == "stroke" {
			break
		}
	}
	require.NotNil(t, film.Tells)
	assert.False(t, film.Tells.Printed)
	assert.NotEmpty(t, film.Tells.Shafts)
	row := func() *step.Step {
		for _, r := range h.open(ines, draft).View.Rows {
			if r.Step.ID == film.Tells.Step {
				return &r.Step
			}
		}
		return nil
	}
	s := row()
	require.NotNil(t, s)
	s.Pair = m.ID
	require.NoError(t, h.edits(ines, draft, procedure.Edit{Op: procedure.Replace, Step: s}))
	sheet, err := h.d.Drafts.Sheet(t.Context(), ines, draft)
	require.NoError(t, err)
	pair := sheet.Step(film.Tells.Number - 1).Pair
	require.NotNil(t, pair)
	assert.Equal(t, m.What, pair.When)
	assert.Contains(t, pair.Right, "<svg")
	assert.Contains(t, pair.Wrong, "<svg")
	assert.NotEqual(t, pair.Right, pair.Wrong)
	assert.NotEmpty(t, pair.Shows)
	film, err = h.d.Drills.Film(t.Context(), ines, draft, m.ID)
	require.NoError(t, err)
	assert.True(t, film.Tells.Printed)
	// The step looks at something else: what it was to show falls away.
	other := *row()
	other.Action = &step.Check{Tools: true}
	require.NoError(t, h.edits(ines, draft, procedure.Edit{Op: procedure.Replace, Step: &other}))
	assert.Empty(t, row().Pair)
}
