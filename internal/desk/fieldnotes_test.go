package desk_test

import (
	"bytes"
	"image"
	"image/jpeg"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/desk"
)

// A reader says what was wrong at a step of a release, whoever answers for it reads
// and answers that, and the reader sees the answer.
func TestAFieldNoteIsAnswered(t *testing.T) {
	h := open(t)
	pavel, aiko, ines, jonas := h.user("pavel"), h.user("aiko"), h.user("ines"), h.user("jonas")
	const release = 5
	of := h.open(pavel, release).View.Rows[2]
	_, err := h.d.Review.AddFieldNote(t.Context(), pavel, v6, desk.NewNote{Body: "x"})
	assert.Equal(t, 403, problemOf(t, err).Status, "readers know of no drafts")
	_, err = h.d.Review.AddFieldNote(t.Context(), aiko, v6, desk.NewNote{Body: "x"})
	assert.ErrorContains(t, err, "in its review")
	_, err = h.d.Review.AddFieldNote(t.Context(), pavel, release, desk.NewNote{Body: " "})
	assert.Equal(t, "body", problemOf(t, err).Field)
	_, err = h.d.Review.AddFieldNote(t.Context(), pavel, release, desk.NewNote{Step: "none", Body: "x"})
	assert.Equal(t, "step", problemOf(t, err).Field)
	n, err := h.d.Review.AddFieldNote(t.Context(), pavel, release, desk.NewNote{Step: of.Step.ID, Body: "The plug is on the left."})
	require.NoError(t, err)
	assert.Equal(t, of.Sentence, n.Quoted)

	mine := func(u *desk.User) *desk.FieldNote {
		all, err := h.d.Review.FieldNotes(t.Context(), u, release)
		require.NoError(t, err)
		for i := range all {
			if all[i].ID == n.ID {
				return &all[i]
			}
		}
		return nil
	}
	assert.True(t, mine(ines).MayAnswer)
	assert.False(t, mine(aiko).MayAnswer)
	answer := func(u *desk.User, state, text string) error {
		return h.d.Review.AnswerFieldNote(t.Context(), u, n.ID, desk.FieldAnswer{State: state, Answer: text})
	}
	assert.Equal(t, 403, problemOf(t, answer(aiko, "answered", "No.")).Status)
	assert.Equal(t, "answer", problemOf(t, answer(ines, "closed", "")).Field)
	assert.Equal(t, "state", problemOf(t, answer(ines, "open", "No.")).Field)
	require.NoError(t, answer(ines, "closed", "On that engine only."))
	assert.ErrorContains(t, answer(jonas, "answered", "Yes."), "already")
	got := mine(pavel)
	assert.Equal(t, []string{"closed", "On that engine only.", "Ines Okafor"}, []string{got.State, got.Answer, got.AnsweredBy})
	_, err = h.s.SQL().Exec("UPDATE field_notes SET body = 'x'")
	assert.Error(t, err, "a field note stays as its reader wrote it")
	h.intact()
}

func TestAFieldNoteHasAPhoto(t *testing.T) {
	h := open(t)
	pavel, ines, aiko := h.user("pavel"), h.user("ines"), h.user("aiko")
	n, err := h.d.Review.AddFieldNote(t.Context(), pavel, 5, desk.NewNote{Body: "See the photo."})
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 4, 4))))
	assert.Equal(t, 422, problemOf(t, h.d.Review.AddPhoto(t.Context(), pavel, n.ID, []byte("<svg xmlns='http://www.w3.org/2000/svg'/>"))).Status, "a drawing may carry a script")
	assert.Equal(t, 413, problemOf(t, h.d.Review.AddPhoto(t.Context(), pavel, n.ID, append(b.Bytes(), make([]byte, 5<<20)...))).Status)
	assert.Equal(t, 403, problemOf(t, h.d.Review.AddPhoto(t.Context(), ines, n.ID, b.Bytes())).Status)
	require.NoError(t, h.d.Review.AddPhoto(t.Context(), pavel, n.ID, b.Bytes()))
	assert.Equal(t, 409, problemOf(t, h.d.Review.AddPhoto(t.Context(), pavel, n.ID, b.Bytes())).Status)
	got, kind, err := h.d.Review.Photo(t.Context(), aiko, n.ID)
	require.NoError(t, err)
	assert.Equal(t, "image/jpeg", kind)
	assert.NotEqual(t, b.Bytes(), got, "the file itself is not kept")
	img, err := jpeg.Decode(bytes.NewReader(got))
	require.NoError(t, err)
	assert.Equal(t, image.Rect(0, 0, 4, 4), img.Bounds())
	other, err := h.d.Review.AddFieldNote(t.Context(), ines, 5, desk.NewNote{Body: "Mine."})
	require.NoError(t, err)
	_, _, err = h.d.Review.Photo(t.Context(), pavel, other.ID)
	assert.Equal(t, 404, problemOf(t, err).Status, "a reader sees their own notes only")
	h.intact()
}

// Nobody fills the desks of others with field notes: so many at once, and so many that
// wait on one procedure.
func TestFieldNotesComeInMeasure(t *testing.T) {
	h := open(t)
	pavel := h.user("pavel")
	kept := 0
	for range 30 {
		_, err := h.d.Review.AddFieldNote(t.Context(), pavel, 5, desk.NewNote{Body: "Again."})
		if err != nil {
			assert.Equal(t, 429, problemOf(t, err).Status)
			continue
		}
		kept++
	}
	assert.Equal(t, 20, kept)
	_, err := h.d.Review.AddFieldNote(t.Context(), h.user("ines"), 5, desk.NewNote{Body: "Once."})
	assert.NoError(t, err, "nobody slows others down")
	_, err = h.s.SQL().Exec("INSERT INTO field_notes (revision_id, step_id, said, body, person_id, at, state, answer) SELECT 5, '', '', 'x', $1, now(), 'open', '' FROM generate_series(1, 100)", pavel.ID)
	require.NoError(t, err)
	_, err = desk.New(h.s).Review.AddFieldNote(t.Context(), pavel, 5, desk.NewNote{Body: "One more."})
	assert.ErrorContains(t, err, "wait for an answer already")
}

// A note that is taken up becomes a point of the open draft, at its step; without
// one, of the next that is started.
func TestAFieldNoteBecomesAPoint(t *testing.T) {
	h := open(t)
	pavel, ines := h.user("pavel"), h.user("ines")
	const release = 5
	of := h.open(pavel, release).View.Rows[2]
	n, err := h.d.Review.AddFieldNote(t.Context(), pavel, release, desk.NewNote{Step: of.Step.ID, Body: "The plug is on the left."})
	require.NoError(t, err)
	require.NoError(t, h.d.Review.AnswerFieldNote(t.Context(), ines, n.ID, desk.FieldAnswer{State: "point", Answer: "We will say so."}))
	id, err := h.d.Drafts.NewDraft(t.Context(), ines, h.open(ines, release).Meta.Procedure, "The plug.", 0)
	require.NoError(t, err)
	got := h.redline(ines, id, 0).Remarks
	require.Len(t, got, 1)
	assert.Equal(t, desk.MustChange, got[0].Kind)
	assert.Equal(t, 3, got[0].Number)
	assert.Contains(t, got[0].Body, "The plug is on the left.")
	again, err := h.d.Review.AddFieldNote(t.Context(), pavel, release, desk.NewNote{Body: "And the title."})
	require.NoError(t, err)
	require.NoError(t, h.d.Review.AnswerFieldNote(t.Context(), ines, again.ID, desk.FieldAnswer{State: "point", Answer: "Yes."}))
	assert.Len(t, h.redline(ines, id, 0).Remarks, 2, "with a draft, at once")
	require.NoError(t, h.edits(ines, id, procedure.Edit{Op: procedure.Remove, ID: step.ID(of.Step.ID)}))
	assert.Len(t, h.redline(ines, id, 0).Remarks, 2)
	h.intact()
}
