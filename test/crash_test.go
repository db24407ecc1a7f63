package test

import (
	"bufio"
	"bytes"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver for the owner
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
)

// program builds the program once for a test.
func program(t *testing.T) string {
	bin := filepath.Join(t.TempDir(), "inklatch")
	out, err := exec.Command("go", "build", "-o", bin, "../cmd/inklatch").CombinedOutput()
	require.NoError(t, err, "%s", out)
	return bin
}

// folder is a data folder that PostgreSQL's own user can reach, also under root.
func folder(t *testing.T) string {
	data, err := os.MkdirTemp("/var/tmp", "inklatch-e2e-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(data, 0o755))
	t.Cleanup(func() { os.RemoveAll(data) })
	return data
}

// run runs a command of the program on a data folder and gives what it says.
func run(bin, data string, args ...string) (string, error) {
	cmd := exec.Command(bin, args...)
	cmd.Env = append(os.Environ(), "INKLATCH_DATA="+data, "DATABASE_URL=", "INKLATCH_METRICS=off")
	out, err := cmd.CombinedOutput()
	return string(out), err
}

// server is the program serving on a folder of its own.
type server struct {
	cmd *exec.Cmd
	url string
	// setup is the link for the first administrator, where one was printed.
	setup string
	log   *bytes.Buffer
}

func serve(t *testing.T, bin, data, how string, env ...string) server {
	t.Helper()
	cmd := exec.Command(bin, how)
	cmd.Env = append(os.Environ(), append([]string{"INKLATCH_DATA=" + data, "INKLATCH_LISTEN=127.0.0.1:0", "DATABASE_URL="}, env...)...)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	s := server{cmd: cmd, log: &bytes.Buffer{}}
	cmd.Stderr = s.log
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { // nothing outlives a test that failed
		if cmd.ProcessState == nil {
			_ = cmd.Process.Signal(os.Interrupt)
			_ = cmd.Wait()
		}
	})
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if _, url, ok := strings.Cut(lines.Text(), "Ink Latch is at "); ok {
			s.url = url
		}
		if at := strings.Index(lines.Text(), "/enter#"); at >= 0 {
			s.setup = lines.Text()[at+len("/enter#"):]
		}
		if s.url != "" && (how == "demo" || s.setup != "") {
			break
		}
	}
	go func() {
		for lines.Scan() {
			continue
		}
	}()
	require.NotEmpty(t, s.url, "the server did not start: %s", s.log)
	return s
}

// stop asks the server to stop and waits for it.
func (s server) stop(t *testing.T) {
	t.Helper()
	require.NoError(t, s.cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, s.cmd.Wait(), "a stop that was asked for is clean: %s", s.log)
}

// kill kills the server with kill -9.
func (s server) kill() {
	_ = s.cmd.Process.Kill()
	_ = s.cmd.Wait()
}

func (s server) signIn(who string) (*http.Client, error) {
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar, Timeout: 20 * time.Second}
	var err error
	for range 10 {
		if _, err = post(c, s.url+"/api/session", map[string]string{"email": who + "@tarn.example", "password": demo.Password}); err == nil {
			return c, nil
		}
		time.Sleep(500 * time.Millisecond)
	}
	return c, err
}

// refused is an answer that was no yes.
type refused struct {
	status int
	said   string
}

func (r refused) Error() string { return fmt.Sprintf("%d: %.200s", r.status, r.said) }

func post(c *http.Client, url string, body any) ([]byte, error) {
	raw, err := json.Marshal(body)
	if err != nil {
		return nil, err
	}
	res, err := c.Post(url, "application/json", bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	defer res.Body.Close()
	out, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode > 299 {
		err = refused{res.StatusCode, string(out)}
	}
	return out, err
}

// versionOf is the version an answer names, 0 for none: only such an answer says
// that something was saved.
func versionOf(out []byte) int64 {
	var v struct {
		Meta    struct{ Version int64 }
		Version int64
	}
	if json.Unmarshal(out, &v) != nil {
		return 0
	}
	return max(v.Meta.Version, v.Version)
}

// rows are the ids of the steps of a revision.
func (s server) rows(t *testing.T, revision int64) map[string]bool {
	t.Helper()
	c, err := s.signIn("ines")
	require.NoError(t, err)
	res, err := c.Get(fmt.Sprintf("%s/api/revisions/%d", s.url, revision))
	require.NoError(t, err)
	defer res.Body.Close()
	var r struct {
		View struct {
			Rows []struct{ Step struct{ ID string } }
		}
	}
	require.NoError(t, json.NewDecoder(res.Body).Decode(&r))
	there := map[string]bool{}
	for _, row := range r.View.Rows {
		there[row.Step.ID] = true
	}
	return there
}

// acks is what was acknowledged, by name.
type acks struct {
	mu    sync.Mutex
	names map[string]bool
	empty int
}

func (a *acks) add(name string) { a.mu.Lock(); defer a.mu.Unlock(); a.names[name] = true }
func (a *acks) count() int      { a.mu.Lock(); defer a.mu.Unlock(); return len(a.names) }

func (a *acks) reaches(t *testing.T, n int) {
	t.Helper()
	for until := time.Now().Add(60 * time.Second); a.count() < n && time.Now().Before(until); {
		time.Sleep(10 * time.Millisecond)
	}
	require.GreaterOrEqual(t, a.count(), n, "work goes on")
}

// writers let edits flow into revision 4 until stop is closed or the server is
// gone. Like the screens, they send what was not acknowledged once more.
func writers(s server, n, round int, a *acks, stop <-chan struct{}) *sync.WaitGroup {
	var wg sync.WaitGroup
	for w := range n {
		wg.Go(func() {
			c, err := s.signIn("ines")
			if err != nil {
				return
			}
			for i := 0; ; i++ {
				id := fmt.Sprintf("r%d-w%d-%04d", round, w, i)
				for silent := 0; ; {
					select {
					case <-stop:
						return
					default:
					}
					out, err := post(c, s.url+"/api/revisions/4/edits", map[string]any{"batch": "batch-" + id, "client": fmt.Sprintf("writer-%d", w), "base": 1,
						"edits": []any{map[string]any{"op": "insert", "step": map[string]any{"id": id, "phase": "prepare", "verb": "wait", "for": "5 min"}}}})
					if err == nil && versionOf(out) > 0 {
						a.add(id)
						break
					}
					if err == nil {
						a.mu.Lock()
						a.empty++
						a.mu.Unlock()
					}
					var no refused
					if !errors.As(err, &no) {
						if silent++; silent > 3 {
							return // the server is gone
						}
					}
					time.Sleep(50 * time.Millisecond)
				}
			}
		})
	}
	return &wg
}

// releasers take procedure 2 round and round: a draft, every latch, released.
// They write down every latch that was acknowledged as closed, and every release.
func releasers(s server, a *acks, stop <-chan struct{}) *sync.WaitGroup {
	var wg sync.WaitGroup
	wg.Go(func() {
		clients := map[string]*http.Client{}
		for _, who := range []string{"ines", "mirja", "teodor", "aiko"} {
			c, err := s.signIn(who)
			if err != nil {
				return
			}
			clients[who] = c
		}
		closes := map[string]string{"author": "ines", "technical": "mirja", "editorial": "teodor", "bench": "aiko"}
		for {
			out, err := post(clients["ines"], s.url+"/api/procedures/2/drafts", map[string]string{"reason": "Round."})
			var ref struct{ Revision int64 }
			if err != nil || json.Unmarshal(out, &ref) != nil || ref.Revision == 0 {
				select {
				case <-stop:
					return
				case <-time.After(50 * time.Millisecond):
				}
				if c, err := clients["ines"].Get(s.url + "/api/health"); err != nil {
					return
				} else {
					c.Body.Close()
				}
				ref.Revision = openRevision(clients["ines"], s.url)
				if ref.Revision == 0 {
					continue
				}
			}
			for l, who := range closes {
				if l != "author" {
					continue
				}
				if out, err := post(clients[who], fmt.Sprintf("%s/api/revisions/%d/latches/%s", s.url, ref.Revision, l), map[string]any{"version": 1}); err == nil && versionOf(out) > 0 {
					a.add(fmt.Sprintf("%d/%s", ref.Revision, l))
				}
			}
			for _, l := range []string{"technical", "editorial", "bench"} {
				out, err := post(clients[closes[l]], fmt.Sprintf("%s/api/revisions/%d/latches/%s", s.url, ref.Revision, l), map[string]any{"version": 1})
				if err == nil && versionOf(out) > 0 {
					a.add(fmt.Sprintf("%d/%s", ref.Revision, l))
				}
			}
			select {
			case <-stop:
				return
			default:
			}
		}
	})
	return &wg
}

// openRevision is the open revision of procedure 2, 0 for none.
func openRevision(c *http.Client, url string) int64 {
	res, err := c.Get(url + "/api/procedures?filter=check+valve")
	if err != nil {
		return 0
	}
	defer res.Body.Close()
	var page struct {
		Rows []struct {
			Procedure, Revision int64
			State               string
		}
	}
	if json.NewDecoder(res.Body).Decode(&page) != nil {
		return 0
	}
	for _, r := range page.Rows {
		if r.Procedure == 2 && (r.State == "draft" || r.State == "on review") {
			return r.Revision
		}
	}
	return 0
}

// holds checks that every latch that was acknowledged stands in the record.
func (s server) holds(t *testing.T, a *acks) {
	t.Helper()
	c, err := s.signIn("ines")
	require.NoError(t, err)
	for name := range a.names {
		id, l, _ := strings.Cut(name, "/")
		res, err := c.Get(s.url + "/api/revisions/" + id + "/record")
		require.NoError(t, err)
		out, err := io.ReadAll(res.Body)
		res.Body.Close()
		require.NoError(t, err)
		assert.Contains(t, string(out), "close "+l+" latch", "revision %s", id)
	}
}

// Edits, latches and releases flow; the server is killed with kill -9, stopped,
// and its PostgreSQL is killed with kill -9 under it. Afterwards everything that
// was acknowledged is there and the record holds.
func TestNothingAcknowledgedIsLost(t *testing.T) {
	bin, data := program(t), folder(t)
	edits, latches := &acks{names: map[string]bool{}}, &acks{names: map[string]bool{}}
	rounds := 4
	if os.Getenv("INKLATCH_RACES") == "many" {
		rounds = 40
	}
	for round := range rounds {
		s := serve(t, bin, data, "demo")
		stop := make(chan struct{})
		wg, wl := writers(s, 3, round, edits, stop), releasers(s, latches, stop)
		edits.reaches(t, edits.count()+25)
		latches.reaches(t, latches.count()+3)
		switch round % 3 {
		case 0:
			s.kill()
			close(stop)
		case 1: // the program starts its PostgreSQL again, and work goes on
			pid, err := postmaster(data)
			require.NoError(t, err)
			require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
			edits.reaches(t, edits.count()+25)
			latches.reaches(t, latches.count()+2)
			close(stop)
			wg.Wait()
			wl.Wait()
			s.kill()
		case 2:
			s.stop(t)
			close(stop)
		}
		wg.Wait()
		wl.Wait()
	}
	s := serve(t, bin, data, "demo")
	there := s.rows(t, 4)
	lost := 0
	for id := range edits.names {
		if !there[id] {
			lost++
		}
	}
	assert.Zero(t, lost, "of %d acknowledged edits", len(edits.names))
	assert.Zero(t, edits.empty, "no answer was a yes without a word")
	s.holds(t, latches)
	t.Logf("%d edits and %d latches acknowledged in %d rounds, all there", len(edits.names), len(latches.names), rounds)
	out, err := run(bin, data, "verify")
	require.NoError(t, err, "%s", out)
	assert.Contains(t, out, "are as they were written", "beside the server that runs")
	s.stop(t)
	out, err = run(bin, data, "verify")
	require.NoError(t, err, "%s", out)
}

// A stop under writing: what is under way is finished and answered, streams are
// told, sessions stay, and nobody hears yes for nothing.
func TestAStopLosesNothing(t *testing.T) {
	bin, data := program(t), folder(t)
	stops := 4
	if os.Getenv("INKLATCH_RACES") == "many" {
		stops = 40
	}
	a := &acks{names: map[string]bool{}}
	var c *http.Client
	for round := range stops {
		s := serve(t, bin, data, "demo")
		var err error
		if c == nil {
			c, err = s.signIn("ines")
			require.NoError(t, err)
			c.Timeout = 0
		}
		res, err := c.Get(s.url + "/api/revisions/4/events?client=listener")
		require.NoError(t, err)
		require.Equal(t, 200, res.StatusCode, "a session outlives a stop")
		heard := make(chan string, 1)
		go func() {
			b, _ := io.ReadAll(res.Body)
			res.Body.Close()
			heard <- string(b)
		}()
		stop := make(chan struct{})
		wg := writers(s, 6, round, a, stop)
		a.reaches(t, a.count()+30)
		s.stop(t)
		close(stop)
		wg.Wait()
		assert.Contains(t, <-heard, "event: bye")
	}
	s := serve(t, bin, data, "demo")
	there := s.rows(t, 4)
	for id := range a.names {
		assert.True(t, there[id], id)
	}
	assert.Zero(t, a.empty)
	t.Logf("%d edits acknowledged under %d stops, all there", len(a.names), stops)
	s.stop(t)
}

// postmaster is the process of the server in a data folder.
func postmaster(data string) (int, error) {
	found, _ := filepath.Glob(data + "/pg/data/postmaster.pid")
	if len(found) == 0 {
		return 0, fmt.Errorf("no server in %s", data)
	}
	b, err := os.ReadFile(found[0])
	if err != nil {
		return 0, err
	}
	first, _, _ := strings.Cut(string(b), "\n")
	return strconv.Atoi(first)
}

// health asks one of the two answers.
func (s server) health(path string) int {
	c := http.Client{Timeout: 8 * time.Second}
	res, err := c.Get(s.url + path)
	if err != nil {
		return 0
	}
	res.Body.Close()
	return res.StatusCode
}

func (s server) becomes(t *testing.T, status int, why string) {
	t.Helper()
	for _, path := range []string{"/api/health", "/api/health/ready"} {
		require.Eventually(t, func() bool { return s.health(path) == status }, 40*time.Second, 200*time.Millisecond, "%s %s", path, why)
	}
}

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
