package test

import (
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Only what begins a house makes one: a command beside one that is not there, or whose
// folder is misspelt, says so and leaves nothing behind.
func TestOnlyAFewCommandsMakeAHouse(t *testing.T) {
	bin, data := program(t), folder(t)
	empty := filepath.Join(data, "misspelt")
	file := filepath.Join(t.TempDir(), "none.backup")
	for _, args := range [][]string{{"backup", file}, {"verify"}, {"person", "list"}, {"person", "add", "x@tarn.example", "--name", "X"}, {"export", "1", "--as", "x@tarn.example"}, {"key", "renew"}, {"upgrade"}} {
		out, err := run(bin, empty, args...)
		require.Error(t, err, "%v", args)
		assert.Contains(t, err.Error(), "exit status 2", "%v", args)
		assert.Contains(t, out, "there is no house in", "%v", args)
		assert.NoDirExists(t, empty, "%v", args)
		assert.NoFileExists(t, file, "%v", args)
	}
	// Nor does a server beside a restore that was cut off.
	cut := filepath.Join(data, "cut")
	require.NoError(t, os.MkdirAll(filepath.Join(cut, ".restoring"), 0o755))
	out, err := run(bin, cut, "serve")
	require.Error(t, err)
	assert.Contains(t, out, "was cut off")
	assert.NoDirExists(t, filepath.Join(cut, "pg"))
	for _, args := range [][]string{{"version"}, {"rules"}} {
		out, err := run(bin, empty, args...)
		assert.NoError(t, err, "%s", out)
	}
}

// A key that was lost is not replaced in silence. It can be renewed: what was signed before
// is held against the old one, and everybody signs in once more.
func TestALostKey(t *testing.T) {
	bin, data := program(t), folder(t)
	s := serve(t, bin, data, "demo")
	c, err := s.signIn("ines")
	require.NoError(t, err)
	out, err := run(bin, data, "key", "renew")
	assert.Error(t, err)
	assert.Contains(t, out, "Stop it first")
	out, err = run(bin, data, "person", "reset", "ines@tarn.example")
	require.NoError(t, err, "%s", out)
	assert.Contains(t, out, s.url+"/enter#", "a link that works")
	s.stop(t)

	require.NoError(t, os.Remove(filepath.Join(data, "record.key")))
	for _, how := range []string{"serve", "verify"} {
		out, err = run(bin, data, how)
		require.Error(t, err)
		assert.Contains(t, out, "that key is not in", how)
		assert.Contains(t, out, "inklatch key renew", how)
		assert.NoFileExists(t, filepath.Join(data, "record.key"))
	}
	out, err = run(bin, data, "key", "renew")
	require.NoError(t, err, "%s", out)
	assert.Contains(t, out, "the record is signed with the key")
	s = serve(t, bin, data, "demo")
	res, err := c.Get(s.url + "/api/revisions/4")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, http.StatusUnauthorized, res.StatusCode)
	_, err = s.signIn("ines")
	require.NoError(t, err)
	out, err = run(bin, data, "verify")
	require.NoError(t, err, "%s", out)

	// With all that speaks of the key gone too, the database still tells: no key is made.
	s.stop(t)
	for _, name := range []string{"record.key", "record.pub", "anchors.log"} {
		require.NoError(t, os.Rename(filepath.Join(data, name), filepath.Join(data, name+".away")))
	}
	out, err = run(bin, data, "serve")
	require.Error(t, err)
	assert.Contains(t, out, "that key is not in")
	assert.NoFileExists(t, filepath.Join(data, "record.key"))
	for _, name := range []string{"record.key", "record.pub", "anchors.log"} {
		require.NoError(t, os.Rename(filepath.Join(data, name+".away"), filepath.Join(data, name)))
	}
	s = serve(t, bin, data, "demo")

	// Without anchors beside it, that is said.
	require.NoError(t, os.Rename(filepath.Join(data, "anchors.log"), filepath.Join(data, "away")))
	out, err = run(bin, data, "verify")
	require.NoError(t, err, "%s", out)
	assert.Contains(t, out, "there is no anchors.log")
	s.stop(t)

	// The database is written anew, as for a newer PostgreSQL, and all of it fits.
	out, err = run(bin, data, "upgrade")
	require.NoError(t, err, "%s", out)
	assert.Contains(t, out, "is of the newest")
	out, err = run(bin, data, "upgrade", "--again")
	require.NoError(t, err, "%s", out)
	assert.Contains(t, out, "the old one is kept in")
	out, err = run(bin, data, "verify")
	require.NoError(t, err, "%s", out)
	s = serve(t, bin, data, "demo")
	_, err = s.signIn("ines")
	require.NoError(t, err)
	assert.NotEmpty(t, s.rows(t, 4))
	s.stop(t)
}

// Beside people who write and release, every backup can be restored and every verify finds
// nothing wrong.
func TestBackupsAndVerifiesBesideAuthors(t *testing.T) {
	bin, data := program(t), folder(t)
	s := serve(t, bin, data, "demo", "INKLATCH_GUARD_LOG="+filepath.Join(data, "guard.log"))
	admin, err := s.signIn("sunniva")
	require.NoError(t, err)
	a := &acks{names: map[string]bool{}}
	stop := make(chan struct{})
	writing := writers(s, 2, 1, a, stop)
	// Every change of a person is signed as it is made, as a release is.
	var signing sync.WaitGroup
	signing.Go(func() {
		for i := 0; ; i++ {
			select {
			case <-stop:
				return
			default:
			}
			_, _ = post(admin, s.url+"/api/people", map[string]any{"email": fmt.Sprintf("guest-%d@tarn.example", i), "name": fmt.Sprintf("Guest %d", i), "roles": []string{"reader"}})
		}
	})
	for i := range 4 {
		a.reaches(t, a.count()+10)
		out, err := run(bin, data, "verify")
		require.NoError(t, err, "%s", out)
		file := filepath.Join(t.TempDir(), "all.backup")
		out, err = run(bin, data, "backup", file)
		require.NoError(t, err, "%s", out)
		out, err = run(bin, data, "backup", file)
		assert.Error(t, err)
		assert.Contains(t, out, "already", "nothing is written over")
		fresh := filepath.Join(folder(t), "house")
		out, err = run(bin, fresh, "restore", file)
		require.NoError(t, err, "round %d: %s", i, out)
		assert.NoDirExists(t, filepath.Join(fresh, ".restoring"))
	}
	close(stop)
	writing.Wait()
	signing.Wait()
	_, err = post(&http.Client{}, s.url+"/api/session", map[string]string{"email": "ines@tarn.example", "password": "no such words"})
	require.Error(t, err)
	s.stop(t)
	raw, err := os.ReadFile(filepath.Join(data, "guard.log"))
	require.NoError(t, err)
	assert.Contains(t, string(raw), "refused sign-in from 127.0.0.1")
	assert.NotContains(t, s.log.String(), "127.0.0.1 ", "no address stands in the log")
	pg, err := filepath.Glob(filepath.Join(data, "pg", "data", "log", "postgresql-*.log"))
	require.NoError(t, err)
	assert.NotEmpty(t, pg, "the database's log is one for each day of the week")
	assert.NoFileExists(t, filepath.Join(data, "address"), "nobody is reached here any more")
	assert.False(t, strings.Contains(string(raw), "ines"), "and nobody is named")
}
