package test

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"inklatch/demo"
)

// Authors at work on one server, every one with a window that listens, looking
// at a line they type and saving it every few seconds, ten to a page of sixty
// steps. Nothing is judged: INKLATCH_AUTHORS=200 go test ./test -run Authors -v
// prints how long they wait, load and server on the same machine.
func TestAuthorsAtWork(t *testing.T) {
	n, _ := strconv.Atoi(os.Getenv("INKLATCH_AUTHORS"))
	if n == 0 {
		t.Skip("INKLATCH_AUTHORS says how many")
	}
	bin, data := program(t), folder(t)
	s := serve(t, bin, data, "demo")
	first, err := s.signIn("ines")
	require.NoError(t, err)
	raw, err := demo.Files.ReadFile("renew-timing-belt-r3.latch.json")
	require.NoError(t, err)
	var pages []int64
	for range (n + 9) / 10 {
		res, err := first.Post(s.url+"/api/import?anew=true", "application/octet-stream", bytes.NewReader(raw))
		require.NoError(t, err)
		out, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		res.Body.Close()
		var id int64
		_, err = fmt.Sscanf(string(out), `{"revision":%d}`, &id)
		require.NoError(t, err, "%s", out)
		pages = append(pages, id)
	}
	// A session holds eight lines and a person thirty-two: the three who write, with four
	// sessions each, listen for the first ninety-six authors.
	var sessions []*http.Client
	for i := range min((n+7)/8, 12) {
		c, err := s.signIn([]string{"ines", "jonas", "rosalind"}[i%3])
		require.NoError(t, err)
		sessions = append(sessions, c)
	}
	transport := &http.Transport{MaxIdleConnsPerHost: 4 * n}
	var mu sync.Mutex
	var looks, saves []time.Duration
	refusals, reads := 0, 0
	var wg sync.WaitGroup
	end := time.Now().Add(40 * time.Second)
	for i := range n {
		wg.Go(func() {
			jar := sessions[i%len(sessions)].Jar
			c := &http.Client{Jar: jar, Transport: transport, Timeout: 30 * time.Second}
			page := fmt.Sprintf("%s/api/revisions/%d", s.url, pages[i/10])
			client := fmt.Sprintf("author-%04d", i)
			go func() {
				quiet := &http.Client{Jar: jar, Transport: transport}
				res, err := quiet.Get(fmt.Sprintf("%s/api/events?at=%s@revisions/%d", s.url, client, pages[i/10]))
				if err != nil || res.StatusCode != 200 {
					return
				}
				// Like a window: what is new is read, once however much was heard.
				news := make(chan struct{}, 1)
				go func() {
					for range news {
						if res, err := quiet.Get(page); err == nil {
							_, _ = io.Copy(io.Discard, res.Body)
							res.Body.Close()
							mu.Lock()
							reads++
							mu.Unlock()
						}
						time.Sleep(700 * time.Millisecond)
					}
				}()
				for in := bufio.NewScanner(res.Body); in.Scan(); {
					if strings.Contains(in.Text(), `"version"`) {
						select {
						case news <- struct{}{}:
						default:
						}
					}
				}
				close(news)
			}()
			timed := func(into *[]time.Duration, url string, body any) {
				start := time.Now()
				_, err := post(c, url, body)
				mu.Lock()
				defer mu.Unlock()
				*into = append(*into, time.Since(start))
				if err != nil {
					refusals++
				}
			}
			time.Sleep(time.Duration(rand.IntN(5000)) * time.Millisecond)
			for k := 0; time.Now().Before(end); k++ {
				id := fmt.Sprintf("%s-%d", client, k)
				edit := []any{map[string]any{"op": "insert", "after": "s01", "step": map[string]any{"id": id, "phase": "prepare", "verb": "wait", "for": "5 min"}}}
				if k%2 == 1 {
					edit = []any{map[string]any{"op": "remove", "id": fmt.Sprintf("%s-%d", client, k-1)}}
				}
				timed(&looks, page+"/look", map[string]any{"line": "wait 5 min", "after": "s01"})
				timed(&saves, page+"/edits", map[string]any{"batch": "batch-" + id, "client": client, "base": 1, "edits": edit})
				time.Sleep(time.Duration(4000+rand.IntN(2000)) * time.Millisecond)
			}
		})
	}
	wg.Wait()
	of := func(d []time.Duration, share float64) time.Duration {
		slices.Sort(d)
		return d[int(float64(len(d)-1)*share)].Round(time.Millisecond)
	}
	t.Logf("%d authors: save median %v, p95 %v; look median %v, p95 %v; %d saves, %d pages read by listeners, %d refused", n, of(saves, 0.5), of(saves, 0.95), of(looks, 0.5), of(looks, 0.95), len(saves), reads, refusals)
	s.stop(t)
}
