package pgserver_test

import (
	"database/sql"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/store/pgserver"
)

// folder is one that the server's own user may enter, also under root.
func folder(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp("/var/tmp", "inklatch-cluster-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	return filepath.Join(dir, "pg")
}

func exec(t *testing.T, at, query string) error {
	t.Helper()
	db, err := sql.Open("pgx", at)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(query)
	return err
}

func TestAServerOfOnesOwn(t *testing.T) {
	dir := folder(t)
	c, err := pgserver.Start(t.Context(), dir)
	require.NoError(t, err)
	assert.Error(t, exec(t, c.URL, "CREATE TABLE mine (n int)"), "the application owns nothing")
	assert.Error(t, exec(t, c.URL, "CREATE TEMP TABLE mine (n int)"), "and makes nothing, not even for a while")
	assert.Error(t, exec(t, c.URL, "COPY (SELECT 1) TO PROGRAM 'cat'"), "and runs nothing")
	require.NoError(t, exec(t, c.OwnerURL, "CREATE TABLE kept (n int); INSERT INTO kept VALUES (7)"))

	u, err := url.Parse(c.URL)
	require.NoError(t, err)
	assert.Equal(t, "127.0.0.1", u.Hostname(), "on loopback only")
	_, set := u.User.Password()
	assert.True(t, set, "with a password of its own")
	u.User = url.UserPassword(u.User.Username(), "guess")
	assert.Error(t, exec(t, u.String(), "SELECT 1"), "which has to be right")

	_, err = pgserver.Start(t.Context(), dir)
	assert.ErrorIs(t, err, pgserver.ErrInUse, "two copies do not share a folder")
	require.NoError(t, c.Stop())
	assert.Error(t, exec(t, c.URL, "SELECT 1"), "stopped")

	again, err := pgserver.Start(t.Context(), dir)
	require.NoError(t, err)
	assert.NoError(t, exec(t, again.OwnerURL, "UPDATE kept SET n = 8 WHERE n = 7"), "what was written is there")
	require.NoError(t, again.Stop())
}

func TestTwoServersSideBySide(t *testing.T) {
	a, err := pgserver.Start(t.Context(), folder(t))
	require.NoError(t, err)
	defer a.Stop()
	b, err := pgserver.Start(t.Context(), folder(t))
	require.NoError(t, err)
	defer b.Stop()
	assert.NotEqual(t, a.URL, b.URL)
	require.NoError(t, exec(t, a.OwnerURL, "CREATE TABLE mine (n int)"))
	assert.Error(t, exec(t, b.OwnerURL, "SELECT * FROM mine"))
}

func TestAFolderThatCannotBe(t *testing.T) {
	file := filepath.Join(t.TempDir(), "file")
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	_, err := pgserver.Start(t.Context(), filepath.Join(file, "pg"))
	require.Error(t, err)
	assert.NotErrorIs(t, err, pgserver.ErrInUse)
}

// A pid file that names another program's process stops nobody and stands in
// nobody's way.
func TestAStalePidFileStopsNobody(t *testing.T) {
	other, err := pgserver.Start(t.Context(), folder(t))
	require.NoError(t, err)
	defer other.Stop()
	dir := folder(t)
	c, err := pgserver.Start(t.Context(), dir)
	require.NoError(t, err)
	require.NoError(t, c.Stop())
	stale := fmt.Sprintf("%d\n%s\n", other.PID(), filepath.Join(dir, "data"))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "postmaster.pid"), []byte(stale), 0o644))
	c, err = pgserver.Start(t.Context(), dir)
	require.NoError(t, err)
	assert.NoError(t, exec(t, other.URL, "SELECT 1"), "the other one runs on")
	require.NoError(t, c.Stop())
}

// A folder that is not whole is left as it is, and said so.
func TestAFolderThatIsNotWhole(t *testing.T) {
	dir := folder(t)
	c, err := pgserver.Start(t.Context(), dir)
	require.NoError(t, err)
	require.NoError(t, exec(t, c.OwnerURL, "CREATE TABLE kept AS SELECT 7 AS n"))
	require.NoError(t, c.Stop())
	version := filepath.Join(dir, "data", "PG_VERSION")
	raw, err := os.ReadFile(version)
	require.NoError(t, err)
	require.NoError(t, os.Remove(version))
	_, err = pgserver.Start(t.Context(), dir)
	assert.ErrorContains(t, err, "PG_VERSION is missing. Nothing was changed")
	require.NoError(t, os.WriteFile(version, raw, 0o644))
	c, err = pgserver.Start(t.Context(), dir)
	require.NoError(t, err)
	assert.NoError(t, exec(t, c.OwnerURL, "SELECT n / (n - 6) FROM kept WHERE n = 7"), "everything is there")
	require.NoError(t, c.Stop())

	require.NoError(t, os.RemoveAll(filepath.Join(dir, "data")))
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "data.new", "left"), 0o700), "an initdb that was cut off")
	c, err = pgserver.Start(t.Context(), dir)
	require.NoError(t, err)
	require.NoError(t, c.Stop())
}
