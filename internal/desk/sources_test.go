package desk_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/desk"
)

// A document is chosen for a value, who chose it and when is written down, and its words go
// with it; words of one's own are no document of the list; one that is taken off the list
// leaves its words.
func TestWhereAValueComesFrom(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "A new letter."))
	do := func(path string, value any) *engine.Sheet {
		raw, err := json.Marshal(value)
		require.NoError(t, err)
		v, err := h.edit(ines, "TQ4-18P", "window", h.sheet(ines, "TQ4-18P").Meta.Version, engine.Edit{Path: path, Value: raw})
		require.NoError(t, err)
		return v.Sheet
	}
	s := do("evidence/crank-bolt/in", "el-0418")
	assert.Equal(t, engine.SourceID("el-0418"), s.Evidence["crank-bolt"].In)
	assert.Equal(t, "letter EL-0418", s.Evidence["crank-bolt"].Source)
	assert.Equal(t, "Ines Okafor", s.Evidence["crank-bolt"].By)
	s = do("evidence/crank-bolt/place", "table 1")
	assert.Equal(t, "letter EL-0418, table 1", s.Evidence["crank-bolt"].Source)
	s = do("evidence/crank-bolt/in", "no-such")
	assert.Empty(t, s.Evidence["crank-bolt"].In)
	do("evidence/crank-bolt/in", "el-0418")
	s = do("evidence/crank-bolt/source", "measured at the bench")
	assert.Equal(t, []any{engine.SourceID(""), "measured at the bench"}, []any{s.Evidence["crank-bolt"].In, s.Evidence["crank-bolt"].Source})
	s = do("sources/el-0418", nil)
	assert.Equal(t, []any{engine.SourceID(""), "letter EL-0418, table 3"}, []any{s.Evidence["inlet-sprocket-bolt"].In, s.Evidence["inlet-sprocket-bolt"].Source})
}

// A letter that one code says is replaced, and that values of another still rest on, is said to
// be late; once nothing rests on it, it is not.
func TestTheSourcesOfTheHouse(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	list := func(q desk.CribQuery) *desk.SourceList {
		_, err := h.d.Engines.List(t.Context(), ines)
		require.NoError(t, err)
		l, err := h.d.Shelves.Sources(t.Context(), ines, q)
		require.NoError(t, err)
		return l
	}
	all := list(desk.CribQuery{})
	require.Len(t, all.Rows, 2)
	letter := list(desk.CribQuery{Filter: "letter timing"})
	require.Len(t, letter.Rows, 1)
	assert.Equal(t, []desk.SourceOnCode{{Code: "TQ4-18P", Rests: []string{"inlet sprocket bolt"}}}, letter.Rows[0].Codes)
	assert.Zero(t, letter.Rows[0].Late)
	assert.Empty(t, list(desk.CribQuery{Engine: "TC4-24C"}).Rows)

	// Another code learns that the letter is replaced.
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TC1-06V", "The new letter."))
	var edits []engine.Edit
	for _, s := range []engine.Source{{ID: "old", Number: "EL-0418", Kind: engine.Letter, Replaced: "new"}, {ID: "new", Number: "EL-0601", Kind: engine.Letter}} {
		raw, err := json.Marshal(s)
		require.NoError(t, err)
		edits = append(edits, engine.Edit{Path: "sources/" + string(s.ID), Value: raw})
	}
	_, err := h.edit(ines, "TC1-06V", "window", h.sheet(ines, "TC1-06V").Meta.Version, edits...)
	require.NoError(t, err)
	_, err = h.release(h.user("mirja"), "TC1-06V")
	require.NoError(t, err)
	letter = list(desk.CribQuery{Filter: "el-0418"})
	tasks, err := h.d.Drafts.MyDesk(t.Context(), ines)
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(tasks, func(v desk.Task) bool {
		return v.Kind == desk.ToLook && v.Waits && v.Engine == "TQ4-18P" && v.Says == "letter EL-0418 is replaced by letter EL-0601: inlet sprocket bolt"
	}), "it is on the desk of who writes")
	require.Len(t, letter.Rows, 1)
	assert.Equal(t, 1, letter.Rows[0].Late)
	assert.Equal(t, "letter EL-0601", letter.Rows[0].Replaced)
	assert.Equal(t, []desk.SourceOnCode{{Code: "TC1-06V", Rests: []string{}, Replaced: "letter EL-0601"}, {Code: "TQ4-18P", Rests: []string{"inlet sprocket bolt"}, Late: true}}, letter.Rows[0].Codes)
}
