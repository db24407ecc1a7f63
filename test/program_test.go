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
	"strings"
	"syscall"
	"testing"
	"time"

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
