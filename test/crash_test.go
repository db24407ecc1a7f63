package test

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
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
)

// acks is what was acknowledged, by name.
type acks struct {
	mu    sync.Mutex
	names map[string]bool
	empty int
	last  error
}

func (a *acks) add(name string) { a.mu.Lock(); defer a.mu.Unlock(); a.names[name] = true }
func (a *acks) count() int      { a.mu.Lock(); defer a.mu.Unlock(); return len(a.names) }

func (a *acks) reaches(t *testing.T, n int) {
	t.Helper()
	for until := time.Now().Add(60 * time.Second); a.count() < n && time.Now().Before(until); {
		time.Sleep(10 * time.Millisecond)
	}
	a.mu.Lock()
	last := a.last
	a.mu.Unlock()
	require.GreaterOrEqual(t, a.count(), n, "work goes on; what was refused last: %v", last)
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
					if err != nil {
						a.mu.Lock()
						a.last = err
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
		for _, who := range []string{"ines", "mirja", "teodor", "aiko", "rosalind"} {
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
				readAll(clients[who], s.url, ref.Revision)
				if out, err := post(clients[who], fmt.Sprintf("%s/api/revisions/%d/latches/%s", s.url, ref.Revision, l), map[string]any{"version": 1}); err == nil && versionOf(out) > 0 {
					a.add(fmt.Sprintf("%d/%s", ref.Revision, l))
				}
			}
			for _, l := range []string{"technical", "editorial", "bench"} {
				readAll(clients[closes[l]], s.url, ref.Revision)
				out, err := post(clients[closes[l]], fmt.Sprintf("%s/api/revisions/%d/latches/%s", s.url, ref.Revision, l), map[string]any{"version": 1})
				if err == nil && versionOf(out) > 0 {
					a.add(fmt.Sprintf("%d/%s", ref.Revision, l))
				}
			}
			if out, err := post(clients["rosalind"], fmt.Sprintf("%s/api/revisions/%d/release", s.url, ref.Revision), map[string]any{"version": 1}); err == nil && versionOf(out) > 0 {
				a.add(fmt.Sprintf("%d/released", ref.Revision))
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
		want := "close " + l + " latch"
		if l == "released" {
			want = `"latch"`
		}
		assert.Contains(t, string(out), want, "revision %s", id)
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
		res, err := c.Get(s.url + "/api/events?at=listener@revisions/4")
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

// readAll marks all of a revision as read, where the server answers.
func readAll(c *http.Client, url string, revision int64) {
	at := fmt.Sprintf("%s/api/revisions/%d", url, revision)
	res, err := c.Get(at + "/redline")
	if err != nil {
		return
	}
	defer res.Body.Close()
	var r struct {
		Meta    struct{ Version int64 }
		Reading struct {
			Sheet  int64
			Unread []struct{ Step string }
		}
	}
	if json.NewDecoder(res.Body).Decode(&r) != nil {
		return
	}
	steps := []string{}
	for _, u := range r.Reading.Unread {
		steps = append(steps, u.Step)
	}
	_, _ = post(c, at+"/readings", map[string]any{"version": r.Meta.Version, "sheet": r.Reading.Sheet, "steps": steps})
}
