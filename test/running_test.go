package test

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A database that is dead, frozen or takes no writes is told of, by both answers;
// a dead one is started again by the program that owns it.
func TestADatabaseThatIsAway(t *testing.T) {
	bin, data := program(t), folder(t)
	s := serve(t, bin, data, "demo")
	s.becomes(t, 200, "at the start")
	pid, err := postmaster(data)
	require.NoError(t, err)

	require.NoError(t, syscall.Kill(pid, syscall.SIGSTOP))
	s.becomes(t, 503, "while it is frozen")
	require.NoError(t, syscall.Kill(pid, syscall.SIGCONT))
	s.becomes(t, 200, "when it goes on")

	password, err := os.ReadFile(data + "/pg/password")
	require.NoError(t, err)
	lines, err := os.ReadFile(data + "/pg/data/postmaster.pid")
	require.NoError(t, err)
	owner, err := sql.Open("pgx", fmt.Sprintf("postgres://inklatch:%s@127.0.0.1:%s/inklatch", strings.TrimSpace(string(password)), strings.Split(string(lines), "\n")[3]))
	require.NoError(t, err)
	defer owner.Close()
	_, err = owner.Exec("ALTER DATABASE inklatch SET default_transaction_read_only = on")
	require.NoError(t, err)
	s.becomes(t, 503, "while it takes no writes, as when its disk is full")
	_, err = owner.Exec("SET default_transaction_read_only = off; ALTER DATABASE inklatch RESET default_transaction_read_only")
	require.NoError(t, err)
	s.becomes(t, 200, "when it takes them again")

	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	require.Eventually(t, func() bool { again, err := postmaster(data); return err == nil && again != pid }, 40*time.Second, 100*time.Millisecond, "it is started again")
	s.becomes(t, 200, "after that")
	assert.NotEmpty(t, s.rows(t, 4))
	s.stop(t)
	assert.Contains(t, s.log.String(), "PostgreSQL has died and is started again")
}

func TestTwoServersDoNotShareAFolder(t *testing.T) {
	bin, data := program(t), folder(t)
	s := serve(t, bin, data, "demo")
	out, err := run(bin, data, "serve")
	assert.Error(t, err)
	assert.Contains(t, out, "another program is using the database")
	s.stop(t)
}

// Everything into one file while people write, the folder destroyed, and
// everything out of the file again: pages, people, sessions' passwords, the
// record with its key.
func TestBackupAndRestore(t *testing.T) {
	bin, data := program(t), folder(t)
	s := serve(t, bin, data, "demo")
	a := &acks{names: map[string]bool{}}
	stop := make(chan struct{})
	wg := writers(s, 3, 1, a, stop)
	a.reaches(t, 30)
	a.mu.Lock()
	before := maps.Clone(a.names)
	a.mu.Unlock()
	file := filepath.Join(t.TempDir(), "all.backup")
	out, err := run(bin, data, "backup", file)
	require.NoError(t, err, "%s", out)
	a.reaches(t, 60)
	close(stop)
	wg.Wait()
	s.stop(t)

	out, err = run(bin, data, "restore", file)
	assert.Error(t, err)
	assert.Contains(t, out, "Nothing was changed", "what is there is not written over")
	raw, err := os.ReadFile(file)
	require.NoError(t, err)
	fresh := folder(t)
	for name, damaged := range map[string][]byte{"cut off": raw[:len(raw)/2], "not one": []byte("x"), "changed": bytes.Replace(raw, raw[len(raw)/3:len(raw)/3+4], []byte("damn"), 1)} {
		bad := filepath.Join(t.TempDir(), "bad.backup")
		require.NoError(t, os.WriteFile(bad, damaged, 0o600))
		out, err = run(bin, fresh, "restore", bad)
		assert.Error(t, err, name)
		assert.Contains(t, out, "Nothing was changed", name)
	}

	require.NoError(t, os.RemoveAll(data))
	require.NoError(t, os.Mkdir(data, 0o755))
	out, err = run(bin, data, "restore", file)
	require.NoError(t, err, "%s", out)
	assert.Contains(t, out, "8 people")
	s = serve(t, bin, data, "demo")
	there := s.rows(t, 4)
	for id := range before {
		assert.True(t, there[id], "%s was there before the backup", id)
	}
	out, err = run(bin, data, "verify")
	require.NoError(t, err, "%s", out)
	c, err := s.signIn("mirja")
	require.NoError(t, err)
	res, err := c.Get(s.url + "/api/revisions/1/sheet")
	require.NoError(t, err)
	var sheet struct{ Anchor string }
	require.NoError(t, json.NewDecoder(res.Body).Decode(&sheet))
	res.Body.Close()
	out, err = run(bin, data, "verify", "--anchor", sheet.Anchor)
	require.NoError(t, err, "what was printed before holds: %s", out)
	out, err = run(bin, data, "verify", "--anchor", strings.Replace(sheet.Anchor, ":", ":0000", 1))
	assert.Error(t, err)
	assert.Contains(t, out, "written anew")
	s.stop(t)
}

// The first start without a demo, and people looked after from the shell beside
// the server that runs.
func TestTheFirstStart(t *testing.T) {
	bin, data := program(t), folder(t)
	s := serve(t, bin, data, "serve", "INKLATCH_LOG=json")
	require.NotEmpty(t, s.setup)
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar, Timeout: 20 * time.Second}
	_, err := post(c, s.url+"/api/enter", map[string]string{"secret": s.setup, "password": "a lift over the valley", "name": "Eldri Sund", "email": "eldri@tarn.example"})
	require.NoError(t, err)
	out, err := run(bin, data, "person", "add", "tuva@tarn.example", "--name", "Tuva Rein", "--roles", "author, reader")
	require.NoError(t, err, "%s", out)
	_, secret, _ := strings.Cut(out, "#")
	_, err = post(&http.Client{}, s.url+"/api/enter", map[string]string{"secret": strings.TrimSpace(secret), "password": "nur kleine worter"})
	require.NoError(t, err)
	out, err = run(bin, data, "person", "list")
	require.NoError(t, err)
	assert.Regexp(t, `tuva@tarn.example +Tuva Rein +reader, author +seen`, out)
	for _, args := range [][]string{{"role", "tuva@tarn.example", "lead"}, {"lock", "tuva@tarn.example"}, {"unlock", "tuva@tarn.example"}, {"reset", "tuva@tarn.example"}} {
		out, err = run(bin, data, append([]string{"person"}, args...)...)
		require.NoError(t, err, "%v: %s", args, out)
	}
	for _, args := range [][]string{{"role", "tuva@tarn.example", "king"}, {"lock", "nobody@tarn.example"}, {"lock", "eldri@tarn.example"}, {"add", "no address", "--name", "x"}} {
		out, err = run(bin, data, append([]string{"person"}, args...)...)
		assert.Error(t, err, "%v: %s", args, out)
	}
	res, err := http.Get(metricsOf(t, s))
	require.NoError(t, err)
	figures, err := io.ReadAll(res.Body)
	res.Body.Close()
	require.NoError(t, err)
	assert.Contains(t, string(figures), `inklatch_requests_total{operation="Enter",status="200"} 2`)
	assert.Contains(t, string(figures), "go_sql_open_connections")
	s.stop(t)
	assert.NotContains(t, s.log.String(), "tarn.example", "the log names nobody")
	assert.Contains(t, s.log.String(), `"msg":"signed in"`)
}

// metricsOf is where the log says the figures are.
func metricsOf(t *testing.T, s server) string {
	t.Helper()
	at := ""
	require.Eventually(t, func() bool {
		for line := range strings.Lines(s.log.String()) {
			var l struct{ Msg, Address string }
			if json.Unmarshal([]byte(line), &l) == nil && l.Msg == "metrics" {
				at = l.Address
			}
		}
		return at != ""
	}, 5*time.Second, 20*time.Millisecond)
	return at
}
