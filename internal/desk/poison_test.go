package desk_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/desk"
)

// A number that no engine has gets through no door: not by an edit, not by a look at one,
// not by a file.
func TestNoNumberThatMultipliesGetsIn(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TS1-03", "Smaller."))
	for path, value := range map[string]string{"cylinders": "10000000", "wheels/crank/teeth": "100000", "limits/backOff": "1e9", "firingOrder": "[1,2,10000000]"} {
		edits := []engine.Edit{{Path: path, Value: json.RawMessage(value)}}
		_, err := h.d.Engines.LookSheet(t.Context(), ines, "TS1-03", edits)
		assert.Equal(t, 422, problemOf(t, err).Status, path)
		_, err = h.d.Engines.SaveSheet(t.Context(), ines, "TS1-03", desk.SheetBatch{Name: name(), Client: "aaaa", Base: 1, Edits: edits})
		assert.Equal(t, 422, problemOf(t, err).Status, path)
	}
	v, err := h.d.Engines.View(t.Context(), ines, "TS1-03", 0)
	require.NoError(t, err)
	v.Sheet.Cylinders = 10_000_000
	raw, err := json.Marshal(v.Sheet)
	require.NoError(t, err)
	_, err = h.d.Engines.ImportEngine(t.Context(), ines, raw)
	assert.Equal(t, 422, problemOf(t, err).Status)
	assert.Contains(t, problemOf(t, err).Title, "between 0 and 64")
}

// A draft that cannot be read, written by an older program or by its owner, takes no list
// down, nor a desk, nor what is proved at the start: it says what is wrong with it.
func TestAPoisonedDraftTakesNothingDown(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TS1-03", "Smaller."))
	res, err := h.s.SQL().Exec(`UPDATE sheets SET sheet = jsonb_set(sheet::jsonb, '{cylinders}', '10000000')::text, version = version + 1 WHERE code = 'TS1-03' AND state = 'draft'`)
	require.NoError(t, err)
	n, err := res.RowsAffected()
	require.NoError(t, err)
	require.EqualValues(t, 1, n)
	_, err = h.s.SQL().Exec("UPDATE steps SET body = '{\"verb\":\"no such verb\"}' WHERE revision_id = $1 AND step_id = 's01'", draft)
	require.NoError(t, err)
	_, err = h.s.SQL().Exec("DELETE FROM standings")
	require.NoError(t, err)
	_, err = h.s.SQL().Exec("DELETE FROM indexed")
	require.NoError(t, err)

	d := h.another() // a server that starts with it
	rows, err := d.Engines.List(t.Context(), ines)
	require.NoError(t, err)
	found := false
	for _, r := range rows {
		if r.Code == "TS1-03" && r.Draft > 0 {
			found = true
			assert.Contains(t, r.Trouble, "cylinders, 10000000 cannot be")
			assert.Equal(t, 1, r.Blocking)
		} else {
			assert.Empty(t, r.Trouble)
		}
	}
	assert.True(t, found)
	_, err = d.Engines.View(t.Context(), ines, "TS1-03", 0)
	assert.Equal(t, 409, problemOf(t, err).Status)
	for _, u := range []*desk.User{ines, mirja} {
		_, err = d.Drafts.MyDesk(t.Context(), u)
		assert.NoError(t, err)
	}
	_, _, err = d.Drafts.Procedures(t.Context(), ines, desk.ListQuery{})
	assert.NoError(t, err)
	_, err = d.Engines.Where(t.Context(), ines, "cam bar", "", "")
	assert.NoError(t, err)
	_, err = d.Drafts.Save(t.Context(), ines, v6, desk.Batch{Name: name(), Client: "aaaa", Base: 99, Edits: []procedure.Edit{{Op: procedure.Insert, Step: &step.Step{ID: "other", Phase: "prepare", Action: &step.Do{Text: "look"}}}}})
	assert.NoError(t, err, "other pages are written as before")
}
