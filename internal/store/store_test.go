package store_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func loaded(t *testing.T) *store.Store {
	t.Parallel()
	s, err := store.Open(t.Context(), pgtest.URL(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, demo.Load(t.Context(), s))
	return s
}

func TestTheRecordIsAChainAndShowsEveryTouch(t *testing.T) {
	s := loaded(t)
	n, err := s.VerifyRecord(t.Context())
	require.NoError(t, err)
	assert.Greater(t, n, int64(20))
	m, err := s.VerifyLatched(t.Context(), latchjson.Sum)
	require.NoError(t, err)
	assert.Equal(t, 8, m)

	_, err = s.SQL().Exec("UPDATE record SET payload = 'x' WHERE seq = 3")
	assert.ErrorContains(t, err, "only ever added to")
	_, err = s.SQL().Exec("DELETE FROM record WHERE seq = 3")
	assert.ErrorContains(t, err, "only ever added to")
	_, err = s.SQL().Exec("TRUNCATE record")
	assert.ErrorContains(t, err, "only ever added to")

	// Somebody with the owner's rights can take the trigger off; the chain tells.
	for _, tamper := range []string{
		"UPDATE record SET payload = 'x' WHERE seq = 3",
		"UPDATE record SET person_id = 5 WHERE seq = 4",
		"DELETE FROM record WHERE seq = 5",
	} {
		_, err = s.SQL().Exec("BEGIN; ALTER TABLE record DISABLE TRIGGER USER; " + tamper + "; ALTER TABLE record ENABLE TRIGGER USER; COMMIT")
		require.NoError(t, err)
		_, err = s.VerifyRecord(t.Context())
		var broken store.Broken
		require.ErrorAs(t, err, &broken, tamper)
		assert.LessOrEqual(t, broken.Seq, int64(6))
	}
}

func TestALatchedRevisionNeverChanges(t *testing.T) {
	s := loaded(t)
	revs, err := s.RevisionsOf(t.Context(), 1)
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
		_, err := s.SQL().Exec(sql, id)
		assert.ErrorContains(t, err, "never changes", sql)
	}
	_, err = s.SQL().Exec("UPDATE revisions SET state = 'superseded' WHERE id = $1", id)
	assert.NoError(t, err, "a newer one may supersede it")
	_, err = s.SQL().Exec("UPDATE revisions SET state = 'latched' WHERE id = $1", id)
	assert.Error(t, err, "and that is not taken back")
}

func TestOneOpenRevisionAtATime(t *testing.T) {
	s := loaded(t)
	_, err := s.AddRevision(context.Background(), store.NewRevision{ProcedureID: 1, Header: "{}", Person: 1, What: "x"})
	assert.ErrorIs(t, err, store.ErrOpenRevision)
}

func TestWhatIsNotThere(t *testing.T) {
	s := loaded(t)
	_, err := s.RevisionByID(t.Context(), 999)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.PersonByEmail(t.Context(), "nobody@tarn.example")
	assert.ErrorIs(t, err, store.ErrNotFound)
	p, err := s.PersonByEmail(t.Context(), "INES@tarn.example")
	require.NoError(t, err)
	assert.Equal(t, "Ines Okafor", p.Name)
	assert.ErrorIs(t, s.Write(t.Context(), 999, func(*store.Draft) error { return nil }), store.ErrNotFound)
}

func TestUndoable(t *testing.T) {
	b := func(id int64, kind string, undone bool) store.Batch {
		return store.Batch{ID: id, Kind: kind, Undone: undone}
	}
	assert.Nil(t, store.Undoable(nil, false))
	assert.EqualValues(t, 2, store.Undoable([]store.Batch{b(2, "edit", false), b(1, "edit", false)}, false).ID)
	assert.EqualValues(t, 1, store.Undoable([]store.Batch{b(3, "undo", false), b(2, "edit", true), b(1, "edit", false)}, false).ID)
	assert.EqualValues(t, 3, store.Undoable([]store.Batch{b(3, "undo", false), b(2, "edit", true)}, true).ID)
	assert.EqualValues(t, 3, store.Undoable([]store.Batch{b(5, "redo", false), b(4, "undo", true), b(3, "undo", false), b(2, "edit", true)}, true).ID, "one redo after another")
	assert.Nil(t, store.Undoable([]store.Batch{b(4, "edit", false), b(3, "undo", false)}, true), "a new edit ends what can be redone")
}
