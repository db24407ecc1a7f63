package desk_test

import (
	"bytes"
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

// Every entry says who did what to which step, and the filters keep what they name.
func TestTheRecordInWords(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	row := h.open(ines, v6).View.Rows[3]
	s := row.Step
	s.Note = "Mind the clip."
	require.NoError(t, h.edits(ines, v6, procedure.Edit{Op: procedure.Replace, Step: &s}, procedure.Edit{Op: procedure.Move, ID: "v02", After: "v03"}, procedure.Edit{Op: procedure.Remove, ID: "v10"}))
	all, err := h.d.Review.RecordOf(t.Context(), mirja, desk.RecordAsk{Limit: 200})
	require.NoError(t, err)
	first := all[0]
	assert.Equal(t, "Ines Okafor", first.By)
	assert.Equal(t, "edited 3 places; that opened the latches of author", first.Says)
	assert.Equal(t, []string{"changed: " + row.Sentence, "moved: Remove the fan.", "removed: Remove the starter cover."}, first.Detail)
	assert.Equal(t, []any{int64(v6), "TV6-27D", 1}, []any{first.Revision, first.Engine, first.Number})
	for i, e := range all {
		assert.NotEmpty(t, e.Says)
		assert.NotContains(t, e.Says, "{")
		assert.True(t, e.Revision != 0 || e.Sheet != 0 || e.What == "note a calibration of", "what was done to people is for administrators: %s", e.Says)
		if i > 0 {
			assert.Less(t, e.Seq, all[i-1].Seq)
		}
	}
	said := ""
	for _, e := range all {
		said += e.By + " " + e.Says + " " + strings.Join(e.Detail, " ") + "\n"
	}
	for _, want := range []string{
		"Mirja Salmela asked: Which letter asks for two minutes?", "Ines Okafor answered a question: Which letter", "at: Start the engine, run it for 2 min and listen.",
		"Aiko Lindqvist said that this must be changed: Say where", "Teodor Vance suggested a line: So that nobody", "Jonas Brandvold settled a remark",
		"Mirja Salmela took the technical latch over", "set the technical latch to close by ", "Ines Okafor closed the author latch", "released it, SHA-256 ",
		"started the revision: Field note 31", "Pavel Nygaard wrote field note 1", "put a photo to field note 1", "answered field note 2", "put the sheet into use",
		"edited the sheet", "inlet link: ",
	} {
		assert.Contains(t, said, want)
	}
	for ask, holds := range map[desk.RecordAsk]func(desk.RecordLine) bool{
		{Person: ines.ID}:   func(e desk.RecordLine) bool { return e.By == "Ines Okafor" },
		{Engine: "TQ3-10W"}: func(e desk.RecordLine) bool { return e.Engine == "TQ3-10W" },
		{Procedure: 3}:      func(e desk.RecordLine) bool { return e.Title == "Renew timing belt in oil" },
		{Kind: "latches"}: func(e desk.RecordLine) bool {
			return strings.Contains(e.What, "latch") || strings.Contains(e.What, "due") || strings.Contains(e.What, "review")
		},
		{Kind: "talk"}: func(e desk.RecordLine) bool {
			return strings.Contains("question remark must-change suggestion", e.What[strings.LastIndex(e.What, " ")+1:])
		},
		{Kind: "sheets"}:                       func(e desk.RecordLine) bool { return e.Sheet != 0 },
		{Kind: "field notes"}:                  func(e desk.RecordLine) bool { return strings.Contains(e.Says, "field note") },
		{Kind: "edits", Before: first.Seq - 5}: func(e desk.RecordLine) bool { return e.Seq < first.Seq-5 },
	} {
		ask.Limit = 200
		some, err := h.d.Review.RecordOf(t.Context(), mirja, ask)
		require.NoError(t, err)
		assert.NotEmpty(t, some, "%+v", ask)
		for _, e := range some {
			assert.True(t, holds(e), "%+v: %+v", ask, e)
		}
	}
	tomorrow := store.Now().AddDate(0, 0, 1).Format(time.DateOnly)
	none, err := h.d.Review.RecordOf(t.Context(), mirja, desk.RecordAsk{From: tomorrow, Limit: 9})
	require.NoError(t, err)
	assert.Empty(t, none)
	_, err = h.d.Review.RecordOf(t.Context(), mirja, desk.RecordAsk{Until: "1.2.", Limit: 9})
	assert.Equal(t, "until", problemOf(t, err).Field)
	_, err = h.d.Review.RecordOf(t.Context(), h.user("pavel"), desk.RecordAsk{Limit: 9})
	assert.Equal(t, 403, problemOf(t, err).Status)
	people, err := h.d.Review.RecordOf(t.Context(), h.user("sunniva"), desk.RecordAsk{Kind: "people", Limit: 200})
	require.NoError(t, err)
	assert.Len(t, people, 8)
	assert.Equal(t, "add person Sunniva Holt", people[0].Says)
}

// The record goes out as lines that can be held together anywhere, and whatever is
// done to the file is found.
func TestTheRecordIsExported(t *testing.T) {
	h := open(t)
	var b bytes.Buffer
	assert.Equal(t, 403, problemOf(t, h.d.Review.ExportRecord(t.Context(), h.user("mirja"), &b)).Status)
	require.NoError(t, h.d.Review.ExportRecord(t.Context(), h.user("rosalind"), &b))
	file := b.String()
	r, head, err := store.HoldExport(strings.NewReader(file), nil)
	require.NoError(t, err)
	assert.Empty(t, r.Troubles)
	assert.Positive(t, r.Entries)
	held, err := h.s.Verify(t.Context(), []store.Anchor{head})
	require.NoError(t, err)
	assert.Empty(t, held.Troubles, "the database still begins with it")
	_, err = h.close(h.user("mirja"), v6, latch.ByTechnical)
	require.NoError(t, err) // the record goes on
	held, err = h.s.Verify(t.Context(), []store.Anchor{head})
	require.NoError(t, err)
	assert.Empty(t, held.Troubles)
	lines := strings.SplitAfter(strings.TrimSuffix(file, "\n"), "\n")
	for name, change := range map[string]string{
		"a word":         strings.Replace(file, "Field note 31", "Field note 32", 1),
		"a line removed": strings.Join(append(append([]string{}, lines[:7]...), lines[8:]...), ""),
		"a moment":       strings.Replace(file, `"person":1`, `"person":2`, 1),
	} {
		r, _, err := store.HoldExport(strings.NewReader(change), nil)
		require.NoError(t, err, name)
		assert.NotEmpty(t, r.Troubles, name)
	}
	for _, bad := range []string{"", "{", "[]\n", `{"anchor":"x"}`} {
		_, _, err := store.HoldExport(strings.NewReader(bad), nil)
		assert.Error(t, err, bad)
	}
}
