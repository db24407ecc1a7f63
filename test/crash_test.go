package test

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
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

// server is the program serving on a folder of its own.
type server struct {
	cmd *exec.Cmd
	url string
}

func serve(t *testing.T, bin, data string) server {
	t.Helper()
	cmd := exec.Command(bin, "demo")
	cmd.Env = append(os.Environ(), "INKLATCH_DATA="+data, "INKLATCH_LISTEN=127.0.0.1:0", "DATABASE_URL=")
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	cmd.Stderr = os.Stderr
	require.NoError(t, cmd.Start())
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if _, url, ok := strings.Cut(lines.Text(), "Ink Latch is at "); ok {
			go func() {
				for lines.Scan() {
					continue
				}
			}()
			return server{cmd, url}
		}
	}
	t.Fatal("the server did not start")
	return server{}
}

func (s server) signIn() (*http.Client, error) {
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar, Timeout: 5 * time.Second}
	_, err := post(c, s.url+"/api/session", map[string]string{"email": "ines@tarn.example", "password": demo.Password})
	return c, err
}

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
	if err == nil && res.StatusCode != 200 {
		err = fmt.Errorf("%d: %.200s", res.StatusCode, out)
	}
	return out, err
}

// Edits flow from several writers; the server is killed with kill -9, started
// again, then PostgreSQL is killed with kill -9 and the server started again.
// Afterwards every acknowledged edit is there and the record's chain holds.
func TestNoAcknowledgedEditIsLost(t *testing.T) {
	bin := program(t)
	data, err := os.MkdirTemp("/var/tmp", "inklatch-crash-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(data, 0o755))
	t.Cleanup(func() { os.RemoveAll(data) })

	var mu sync.Mutex
	acked := map[string]bool{}
	flow := func(s server, round int, stop <-chan struct{}) *sync.WaitGroup {
		var wg sync.WaitGroup
		for w := range 3 {
			wg.Go(func() {
				c, err := s.signIn()
				if err != nil {
					return
				}
				for i := 0; ; i++ {
					select {
					case <-stop:
						return
					default:
					}
					id := fmt.Sprintf("r%d-w%d-%04d", round, w, i)
					_, err := post(c, s.url+"/api/revisions/4/edits", map[string]any{"batch": "batch-" + id, "client": fmt.Sprintf("writer-%d", w), "base": 1,
						"edits": []any{map[string]any{"op": "insert", "step": map[string]any{"id": id, "phase": "prepare", "verb": "wait", "for": "5 min"}}}})
					if err != nil {
						return // not acknowledged: nothing was promised
					}
					mu.Lock()
					acked[id] = true
					mu.Unlock()
				}
			})
		}
		return &wg
	}
	count := func() int { mu.Lock(); defer mu.Unlock(); return len(acked) }
	enough := func(n int) {
		t.Helper()
		for until := time.Now().Add(60 * time.Second); count() < n && time.Now().Before(until); {
			time.Sleep(10 * time.Millisecond)
		}
		require.GreaterOrEqual(t, count(), n, "edits flow")
	}

	s := serve(t, bin, data)
	stop := make(chan struct{})
	wg := flow(s, 1, stop)
	enough(40)
	require.NoError(t, s.cmd.Process.Kill())
	_ = s.cmd.Wait()
	wg.Wait()

	s = serve(t, bin, data)
	before := count()
	wg = flow(s, 2, stop)
	enough(before + 40)
	pid, err := postmaster(data)
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	wg.Wait()
	require.NoError(t, s.cmd.Process.Kill())
	_ = s.cmd.Wait()

	s = serve(t, bin, data)
	c, err := s.signIn()
	require.NoError(t, err)
	res, err := c.Get(s.url + "/api/revisions/4")
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
	lost := 0
	for id := range acked {
		if !there[id] {
			lost++
		}
	}
	assert.Zero(t, lost, "of %d acknowledged edits", len(acked))
	t.Logf("%d acknowledged edits, all there", len(acked))
	require.NoError(t, s.cmd.Process.Signal(os.Interrupt))
	require.NoError(t, s.cmd.Wait(), "a stop that was asked for is clean")

	verify := exec.Command(bin, "verify")
	verify.Env = append(os.Environ(), "INKLATCH_DATA="+data, "DATABASE_URL=")
	out, err := verify.CombinedOutput()
	require.NoError(t, err, "%s", out)
	assert.Contains(t, string(out), "are as they were written")
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

func TestTwoProgramsDoNotShareAFolder(t *testing.T) {
	bin := program(t)
	data, err := os.MkdirTemp("/var/tmp", "inklatch-two-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(data, 0o755))
	t.Cleanup(func() { os.RemoveAll(data) })
	s := serve(t, bin, data)
	second := exec.Command(bin, "verify")
	second.Env = append(os.Environ(), "INKLATCH_DATA="+data, "DATABASE_URL=")
	out, err := second.CombinedOutput()
	assert.Error(t, err)
	assert.Contains(t, string(out), "another program is using the database")
	require.NoError(t, s.cmd.Process.Signal(os.Interrupt))
	require.NoError(t, s.cmd.Wait())
}
