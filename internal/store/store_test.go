package store_test

import (
	"context"
	"database/sql"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func loaded(t *testing.T) *store.Store {
	t.Parallel()
	s, _ := owned(t)
	return s
}

// owned is a store with the demo, and its owner, who may do anything.
func owned(t *testing.T) (*store.Store, *sql.DB) {
	c := pgtest.Config(t)
	s, err := store.Open(t.Context(), c)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, demo.Load(t.Context(), s))
	return s, pgtest.Owner(t, c)
}

func TestALatchedRevisionNeverChanges(t *testing.T) {
	s, owner := owned(t)
	revs, err := s.Reads(t.Context()).RevisionsOf(1)
	require.NoError(t, err)
	require.Equal(t, "latched", revs[1].State)
	id := revs[1].ID
	for _, sql := range []string{
		"UPDATE revisions SET header = '{}' WHERE id = $1",
		"UPDATE revisions SET frozen = '' WHERE id = $1",
		"UPDATE revisions SET state = 'draft' WHERE id = $1",
		"UPDATE revisions SET version = version + 1 WHERE id = $1",
		"DELETE FROM revisions WHERE id = $1",
		"UPDATE steps SET body = '{}' WHERE revision_id = $1",
		"DELETE FROM steps WHERE revision_id = $1",
		"DELETE FROM closings WHERE revision_id = $1",
		"INSERT INTO closings (revision_id, latch, person_id) VALUES ($1, 'more', 1)",
	} {
		_, err := owner.Exec(sql, id)
		assert.ErrorContains(t, err, "never changes", sql)
	}
	for _, table := range []string{"record", "people", "engines", "procedures", "revisions", "steps", "batches", "closings", "sheets", "sheet_batches", "anchors"} {
		_, err := owner.Exec("TRUNCATE " + table + " CASCADE")
		assert.ErrorContains(t, err, "only ever added to", table)
	}
	_, err = owner.Exec("UPDATE revisions SET state = 'superseded' WHERE id = $1", id)
	assert.NoError(t, err, "a newer one may supersede it")
	_, err = owner.Exec("UPDATE revisions SET state = 'latched' WHERE id = $1", id)
	assert.Error(t, err, "and that is not taken back")
}

func TestOneOpenRevisionAtATime(t *testing.T) {
	s := loaded(t)
	_, err := s.AddRevision(context.Background(), store.NewRevision{ProcedureID: 1, Person: 1, What: "x", From: func(store.Reads) (string, []store.Step, map[string]any, error) {
		return "{}", nil, map[string]any{}, nil
	}})
	assert.ErrorIs(t, err, store.ErrOpenRevision)
}

func TestWhatIsNotThere(t *testing.T) {
	s := loaded(t)
	_, err := s.Reads(t.Context()).RevisionByID(999)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.Reads(t.Context()).PersonByEmail("nobody@tarn.example")
	assert.ErrorIs(t, err, store.ErrNotFound)
	p, err := s.Reads(t.Context()).PersonByEmail("INES@tarn.example")
	require.NoError(t, err)
	assert.Equal(t, "Ines Okafor", p.Name)
	assert.ErrorIs(t, s.Write(t.Context(), 999, func(*store.Draft) error { return nil }), store.ErrNotFound)
}

func TestUndoable(t *testing.T) {
	b := func(id int64, kind string, undone bool) store.Turn {
		return store.Turn{ID: id, Kind: kind, Undone: undone}
	}
	assert.Zero(t, store.Undoable(nil, false))
	assert.EqualValues(t, 2, store.Undoable([]store.Turn{b(2, "edit", false), b(1, "edit", false)}, false))
	assert.EqualValues(t, 1, store.Undoable([]store.Turn{b(3, "undo", false), b(2, "edit", true), b(1, "edit", false)}, false))
	assert.EqualValues(t, 3, store.Undoable([]store.Turn{b(3, "undo", false), b(2, "edit", true)}, true))
	assert.EqualValues(t, 3, store.Undoable([]store.Turn{b(5, "redo", false), b(4, "undo", true), b(3, "undo", false), b(2, "edit", true)}, true), "one redo after another")
	assert.Zero(t, store.Undoable([]store.Turn{b(4, "edit", false), b(3, "undo", false)}, true), "a new edit ends what can be redone")
}
