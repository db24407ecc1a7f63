package desk_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/desk"
	"inklatch/internal/format/grid"
)

// The table of a code goes out, is changed, comes back row by row, and is written as one change;
// a sheet in use is not changed, and who does not write is told nothing.
func TestTorquesOutAndIn(t *testing.T) {
	h := open(t)
	ines, pavel := h.user("ines"), h.user("pavel")
	table, err := h.d.Shelves.Torques(t.Context(), ines, "TQ4-18P", 0)
	require.NoError(t, err)
	assert.False(t, table.Editable, "it is in use")
	for _, format := range []string{"csv", "xlsx"} {
		b, name, err := table.File(format)
		require.NoError(t, err)
		assert.Equal(t, "TQ4-18P torques."+format, name)
		rows, err := grid.Read(b)
		require.NoError(t, err)
		assert.Len(t, rows, len(table.Rows)+1)
	}
	file := []byte("Fastener;Tightened to;Condition\nidler bolt;41 Nm;oiled\ncrank bolt;a lot;\n")
	_, err = h.d.Shelves.TorqueChanges(t.Context(), ines, "TQ4-18P", file)
	var p *desk.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, 409, p.Status)
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "New letter."))
	_, err = h.d.Shelves.TorqueChanges(t.Context(), pavel, "TQ4-18P", file)
	require.ErrorAs(t, err, &p)
	assert.Equal(t, 403, p.Status)
	got, err := h.d.Shelves.TorqueChanges(t.Context(), ines, "TQ4-18P", file)
	require.NoError(t, err)
	assert.Equal(t, 2, got.Rows)
	require.Len(t, got.Changes, 2)
	require.Len(t, got.Troubles, 1)
	assert.Equal(t, 3, got.Troubles[0].Row)
	var edits []engine.Edit
	for _, c := range got.Changes {
		edits = append(edits, c.Edit)
	}
	v, err := h.edit(ines, "TQ4-18P", "window", h.sheet(ines, "TQ4-18P").Meta.Version, edits...)
	require.NoError(t, err)
	assert.Equal(t, "41 N·m", engine.StagesText(engine.NewIndex(v.Sheet).Fastener("idler-bolt").Spec))
	got, err = h.d.Shelves.TorqueChanges(t.Context(), ines, "TQ4-18P", file)
	require.NoError(t, err)
	assert.Empty(t, got.Changes, "it says what the sheet says now")

	for says, b := range map[string][]byte{"neither an XLSX file": {0xff, 0xfe}, "larger than 8 MB": []byte(strings.Repeat("a", grid.MostBytes+1))} {
		_, err = h.d.Shelves.TorqueChanges(t.Context(), ines, "TQ4-18P", b)
		require.ErrorAs(t, err, &p)
		assert.Contains(t, p.Title, says)
	}
	many, err := h.d.Shelves.TorqueChanges(t.Context(), ines, "TQ4-18P", []byte("Fastener,Count\n"+strings.Repeat("no such bolt,1\n", 5000)))
	require.NoError(t, err)
	assert.Len(t, many.Troubles, 100)
	assert.Equal(t, 4900, many.More)

	page, err := h.d.Drafts.Torques(t.Context(), ines, draft)
	require.NoError(t, err)
	assert.Contains(t, page.Title, "revision 4")
	_, err = h.d.Drafts.Torques(t.Context(), pavel, draft)
	require.ErrorAs(t, err, &p)
	assert.Equal(t, 403, p.Status, "drafts are for those who work on them")
}
