package web_test

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"net/url"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
	"inklatch/internal/web"
	"inklatch/internal/web/api"
)

// problem is what a refusal says.
func (s site) problem(out []byte) api.Problem {
	s.Helper()
	var p api.Problem
	require.NoError(s, json.Unmarshal(out, &p), "%s", out)
	return p
}

// Two hundred people close, release, import and undo at once, most of whom may
// not, on four connections: everybody gets an answer, and others are served
// meanwhile.
func TestTwoHundredAtOnceOnFourConnections(t *testing.T) {
	s := openWith(t, func(c *store.Config) { c.Pool = 4 }, web.Config{})
	raw, err := demo.Files.ReadFile("check-valve-timing-r1.latch.json")
	require.NoError(t, err)
	people := []*http.Client{s.client("pavel"), s.client("ines"), s.client("mirja"), s.client("aiko"), s.client("rosalind")}
	for _, c := range people {
		c.Timeout = time.Minute
	}
	var wg sync.WaitGroup
	var answered, broken atomic.Int64
	for i := range 200 {
		wg.Go(func() {
			c := people[i%len(people)]
			path, kind, body := "", "application/json", []byte(`{"version":1}`)
			switch i % 4 {
			case 0:
				path = "/api/revisions/7/latches/technical"
			case 1:
				path = "/api/engines/TC4-24C/release"
			case 2:
				path, kind, body = "/api/import?anew=true", "application/octet-stream", raw
			case 3:
				path, body = "/api/revisions/4/undo", []byte(`{"client":"many","redo":false}`)
			}
			res, err := c.Post(s.url+path, kind, bytes.NewReader(body))
			if err != nil {
				return
			}
			defer res.Body.Close()
			if _, err := io.Copy(io.Discard, res.Body); err == nil {
				answered.Add(1)
			}
			if res.StatusCode >= 500 {
				broken.Add(1)
			}
		})
	}
	reader := s.client("teodor")
	start := time.Now()
	res, err := reader.Get(s.url + "/api/session")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
	t.Logf("somebody else waited %v meanwhile", time.Since(start).Round(time.Millisecond))
	wg.Wait()
	assert.EqualValues(t, 200, answered.Load())
	assert.Zero(t, broken.Load())
	r, err := s.store.Verify(t.Context(), nil)
	require.NoError(t, err)
	assert.Empty(t, r.Troubles)
}

// What cannot be read again is not kept, whichever way it comes: it is refused
// with its place, and the page reads as before.
func TestWhatCannotBeReadAgainIsNotKept(t *testing.T) {
	s := open(t)
	ines := s.client("ines")
	insert := func(step map[string]any) map[string]any {
		return map[string]any{"op": "insert", "step": step}
	}
	long := strings.Repeat("x", 5000)
	for name, c := range map[string]struct {
		edit  map[string]any
		field string
	}{
		"a turn beyond all numbers": {insert(map[string]any{"id": "bad", "phase": "prove", "verb": "turn", "turns": 1e308}), "turns"},
		"a turn too many":           {insert(map[string]any{"id": "bad", "phase": "prove", "verb": "turn", "turns": 1e7}), "turns"},
		"a torque beyond all":       {insert(map[string]any{"id": "bad", "phase": "prove", "verb": "wait", "for": "9999999999999 min"}), "for"},
		"a note too long":           {insert(map[string]any{"id": "bad", "phase": "prove", "verb": "do", "text": "x", "note": long}), "note"},
		"a text with a NUL":         {insert(map[string]any{"id": "bad", "phase": "prove", "verb": "do", "text": "a\x00b"}), "text"},
		"an id with a blank":        {insert(map[string]any{"id": "a b", "phase": "prove", "verb": "do", "text": "x"}), "id"},
		"a title of nothing":        {map[string]any{"op": "header", "header": map[string]any{"title": " ", "engine": "TQ4-18P"}}, "title"},
		"a year beyond all":         {map[string]any{"op": "header", "header": map[string]any{"title": "x", "engine": "TQ4-18P", "applies": map[string]any{"years": map[string]any{"from": 1e15}}}}, "from"},
	} {
		status, out := s.do(ines, "POST", "/api/revisions/4/edits", map[string]any{"batch": "bad-batch", "client": "ines-window", "base": 99, "edits": []any{c.edit}})
		assert.Equal(t, 422, status, "%s: %s", name, out)
		p := s.problem(out)
		require.NotNil(t, p.Field, name)
		assert.Contains(t, *p.Field, c.field, name)
		status, _ = s.do(ines, "POST", "/api/revisions/4/look", map[string]any{"edits": []any{c.edit}})
		assert.Equal(t, 422, status, "a look at %s", name)
	}
	status, out := s.do(ines, "GET", "/api/revisions/4", nil)
	require.Equal(t, 200, status, "%.200s", out)

	raw, err := demo.Files.ReadFile("check-valve-timing-r1.latch.json")
	require.NoError(t, err)
	file := string(raw)
	many := strings.Repeat(`{"id":"x%d","phase":"prove","text":"x","verb":"do"},`, 1)
	steps := &strings.Builder{}
	for i := range 2001 {
		fmt.Fprintf(steps, many, i)
	}
	for name, bad := range map[string]string{
		"2 001 steps":              strings.Replace(file, `"steps":[`, `"steps":[`+steps.String(), 1),
		"a turn beyond all":        strings.Replace(file, `"steps":[`, `"steps":[{"id":"bad","phase":"prove","turns":1e308,"verb":"turn"},`, 1),
		"a code that is a path":    strings.ReplaceAll(file, `TQ4-18P`, `frozen/3`),
		"a code in small letters":  strings.ReplaceAll(file, `TQ4-18P`, `tq4-18p`),
		"bytes that are no letter": strings.Replace(file, "Check valve timing", "Check \xff valve", 1),
		"a NUL":                    strings.Replace(file, "Check valve timing", `Check \u0000 valve`, 1),
		"an id with a blank":       strings.Replace(file, `"id":"`, `"id":"a b`, 1),
	} {
		require.NotEqual(t, file, bad, name)
		status, out := s.do(ines, "POST", "/api/import", []byte(bad))
		assert.Equal(t, 422, status, "%s: %.200s", name, out)
		assert.NotEmpty(t, s.problem(out).Title, name)
	}
}

// Odd bytes anywhere are refused with a sentence, never with a 500.
func TestOddBytesAnywhere(t *testing.T) {
	s := open(t)
	ines, sunniva := s.client("ines"), s.client("sunniva")
	for _, r := range []struct {
		c            *http.Client
		method, path string
		body         any
		raw          string
	}{
		{ines, "GET", "/api/engines/A%00B", nil, ""}, {ines, "GET", "/api/engines/%ff%fe", nil, ""}, {ines, "GET", "/api/procedures?filter=%00", nil, ""}, {ines, "GET", "/api/procedures?filter=%ff", nil, ""},
		{ines, "POST", "/api/procedures", map[string]any{"engine": "TQ4-18P", "title": "a\x00b"}, ""}, {ines, "POST", "/api/procedures", map[string]any{"engine": "A\x00", "title": "x"}, ""},
		{ines, "POST", "/api/procedures/2/drafts", map[string]any{"reason": "a\x00"}, ""}, {ines, "POST", "/api/engines", map[string]any{"code": "OK-1", "from": "\x00"}, ""},
		{ines, "POST", "/api/engines/TQ4-18P/draft", map[string]any{"reason": "a\x00"}, ""}, {ines, "POST", "/api/revisions/4/latches/%00", map[string]any{"version": 1}, ""},
		{ines, "POST", "/api/session", nil, "{\"email\":\"\xff\",\"password\":\"x\"}"}, {ines, "POST", "/api/session", map[string]any{"email": "a\x00", "password": "x"}, ""},
		{sunniva, "POST", "/api/people", map[string]any{"name": "a\x00", "email": "a@tarn.example", "roles": []string{"reader"}}, ""},
		{sunniva, "POST", "/api/people", map[string]any{"name": "a", "email": "a\x00@tarn.example", "roles": []string{"reader"}}, ""},
		{sunniva, "POST", "/api/people", nil, "{\"name\":\"\xc3\x28\",\"email\":\"a@tarn.example\",\"roles\":[\"reader\"]}"},
		{ines, "PATCH", "/api/session", map[string]any{"name": "\x00"}, ""}, {ines, "POST", "/api/enter/look", map[string]any{"secret": "\x00"}, ""},
		{ines, "POST", "/api/revisions/4/here", map[string]any{"client": "\x00\x00\x00\x00", "step": "\x00"}, ""},
	} {
		body := r.raw
		if r.body != nil {
			b, err := json.Marshal(r.body)
			require.NoError(t, err)
			body = string(b)
		}
		req, err := http.NewRequest(r.method, s.url+r.path, strings.NewReader(body))
		require.NoError(t, err)
		if body != "" {
			req.Header.Set("Content-Type", "application/json")
		}
		res, err := r.c.Do(req)
		require.NoError(t, err)
		out, _ := io.ReadAll(res.Body)
		res.Body.Close()
		assert.Less(t, res.StatusCode, 500, "%s %s: %s", r.method, r.path, out)
		if r.path != "/api/revisions/4/here" {
			assert.GreaterOrEqual(t, res.StatusCode, 400, "%s %s", r.method, r.path)
		}
	}
}

func TestHeadAnswersAsGetDoes(t *testing.T) {
	s := open(t)
	c := s.client("ines")
	for path, status := range map[string]int{"/": 200, "/api/health": 200, "/api/session": 200, "/api/revisions/4": 200, "/api/revisions/999": 404, "/api/revisions/4/export": 200} {
		res, err := c.Head(s.url + path)
		require.NoError(t, err)
		b, _ := io.ReadAll(res.Body)
		res.Body.Close()
		assert.Equal(t, status, res.StatusCode, path)
		assert.Empty(t, b, path)
	}
	res, err := c.Get(s.url + "/api/revisions/4/export")
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, `attachment; filename=TQ4-18P-1-r4.latch.json`, res.Header.Get("Content-Disposition"))
}

// A request whose length can be read in two ways is the last on its connection.
func TestTwoLengthsEndTheConnection(t *testing.T) {
	s := open(t)
	u, err := url.Parse(s.url)
	require.NoError(t, err)
	conn, err := net.Dial("tcp", u.Host)
	require.NoError(t, err)
	defer conn.Close()
	_, err = fmt.Fprintf(conn, "POST /api/session HTTP/1.1\r\nHost: %s\r\nContent-Type: application/json\r\nContent-Length: 5\r\nTransfer-Encoding: chunked\r\n\r\n2\r\n{}\r\n0\r\n\r\nGET /api/health HTTP/1.1\r\nHost: %s\r\n\r\n", u.Host, u.Host)
	require.NoError(t, err)
	in := bufio.NewReader(conn)
	res, err := http.ReadResponse(in, nil)
	require.NoError(t, err)
	_, err = io.Copy(io.Discard, res.Body)
	require.NoError(t, err)
	assert.True(t, res.Close, "the answer says that it is the last")
	_, err = http.ReadResponse(in, nil)
	assert.Error(t, err, "what was smuggled in after it is not answered")
}

func TestHTTPSOnlyWhereItIsServed(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), pgtest.Config(t))
	require.NoError(t, err)
	defer st.Close()
	for secure, want := range map[bool]string{true: "max-age=31536000; includeSubDomains", false: ""} {
		w := httptest.NewRecorder()
		web.New(desk.New(st), st, web.Config{Secure: secure}).ServeHTTP(w, httptest.NewRequest("GET", "/api/health", nil))
		assert.Equal(t, 200, w.Code)
		assert.Equal(t, want, w.Header().Get("Strict-Transport-Security"))
		assert.NotEmpty(t, w.Header().Get("X-Request-Id"))
	}
}

// Only proxies that are trusted say where a request comes from.
func TestWhoIsBehindAProxy(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), pgtest.Config(t))
	require.NoError(t, err)
	defer st.Close()
	attempt := func(h http.Handler, n int, forwarded func(int) string) int {
		last := 0
		for i := range n {
			r := httptest.NewRequest("POST", "/api/enter/look", strings.NewReader(`{"secret":"x"}`))
			r.Header.Set("Content-Type", "application/json")
			r.RemoteAddr = "10.1.2.3:4444"
			r.Header.Set("X-Forwarded-For", forwarded(i))
			w := httptest.NewRecorder()
			h.ServeHTTP(w, r)
			last = w.Code
		}
		return last
	}
	each := func(i int) string { return fmt.Sprintf("203.0.113.%d", i) }
	trusting := web.Config{Proxies: []netip.Prefix{netip.MustParsePrefix("10.0.0.0/8")}}
	assert.Equal(t, 410, attempt(web.New(desk.New(st), st, trusting), 40, each), "forty people behind one proxy")
	assert.Equal(t, 429, attempt(web.New(desk.New(st), st, web.Config{}), 40, each), "one who makes addresses up")
	assert.Equal(t, 429, attempt(web.New(desk.New(st), st, trusting), 40, func(i int) string { return each(i) + ", 198.51.100.7" }), "one who makes addresses up behind a trusted proxy")
}

// Many who sign in at once wait for one another: memory stays where it is.
func TestManySignInAtOnce(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), pgtest.Config(t))
	require.NoError(t, err)
	require.NoError(t, demo.Load(t.Context(), st))
	defer st.Close()
	h := web.New(desk.New(st), st, web.Config{Proxies: []netip.Prefix{netip.MustParsePrefix("10.0.0.0/8")}})
	var most atomic.Uint64
	done := make(chan struct{})
	go func() {
		var m runtime.MemStats
		for {
			select {
			case <-done:
				return
			case <-time.After(5 * time.Millisecond):
				runtime.ReadMemStats(&m)
				most.Store(max(most.Load(), m.HeapInuse))
			}
		}
	}()
	var wg sync.WaitGroup
	var in, later, other atomic.Int64
	for i := range 150 {
		wg.Go(func() {
			email := fmt.Sprintf("nobody-%d@tarn.example", i)
			if i%10 == 0 {
				email = "ines@tarn.example"
			}
			r := httptest.NewRequest("POST", "/api/session", strings.NewReader(fmt.Sprintf(`{"email":%q,"password":%q}`, email, demo.Password)))
			r.Header.Set("Content-Type", "application/json")
			r.RemoteAddr = "10.0.0.1:1"
			r.Header.Set("X-Forwarded-For", fmt.Sprintf("198.51.100.%d", i))
			w := httptest.NewRecorder()
			h.ServeHTTP(w, r)
			switch w.Code {
			case 200:
				in.Add(1)
			case 401, 429:
				later.Add(1)
			default:
				other.Add(1)
			}
		})
	}
	wg.Wait()
	close(done)
	assert.Zero(t, other.Load(), "everybody is let in, refused, or told to come back")
	assert.EqualValues(t, 150, in.Load()+later.Load())
	assert.Less(t, most.Load(), uint64(2<<30), "four hashings at once take 256 MB, 150 would take 9 GB")
	t.Logf("150 at once: %d let in, %d refused or told to come back, heap %d MB at most", in.Load(), later.Load(), most.Load()>>20)
}

// Nobody is shut out by somebody else's attempts under their name.
func TestAttemptsUnderSomebodysNameDoNotShutThemOut(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), pgtest.Config(t))
	require.NoError(t, err)
	require.NoError(t, demo.Load(t.Context(), st))
	defer st.Close()
	h := web.New(desk.New(st), st, web.Config{Proxies: []netip.Prefix{netip.MustParsePrefix("10.0.0.0/8")}})
	sign := func(from, password string) int {
		r := httptest.NewRequest("POST", "/api/session", strings.NewReader(fmt.Sprintf(`{"email":"ines@tarn.example","password":%q}`, password)))
		r.Header.Set("Content-Type", "application/json")
		r.RemoteAddr = "10.0.0.1:1"
		r.Header.Set("X-Forwarded-For", from)
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w.Code
	}
	require.Equal(t, 200, sign("203.0.113.5", demo.Password), "Ines has signed in from her desk")
	var slowed atomic.Int64
	var wg sync.WaitGroup
	for i := range 30 {
		wg.Go(func() {
			if sign(fmt.Sprintf("198.51.100.%d", i), "a guess") == 429 {
				slowed.Add(1)
			}
		})
	}
	wg.Wait()
	assert.Positive(t, slowed.Load(), "guesses from many places are held back")
	assert.Equal(t, 200, sign("203.0.113.5", demo.Password), "and from her desk she comes in all the same")
}

// Roles are looked at before anything else: who may not hears so, whether there
// is such a thing or not.
func TestRolesBeforeState(t *testing.T) {
	s := open(t)
	pavel, teodor := s.client("pavel"), s.client("teodor")
	for _, r := range []struct {
		c            *http.Client
		method, path string
		body         any
	}{
		{pavel, "POST", "/api/revisions/7/latches/technical", map[string]any{"version": 0}}, {pavel, "POST", "/api/revisions/999/latches/technical", map[string]any{"version": 0}},
		{pavel, "POST", "/api/engines/TS1-03/release", map[string]any{"version": 0}}, {pavel, "POST", "/api/engines/NOWHERE/release", map[string]any{"version": 0}},
		{teodor, "POST", "/api/revisions/7/latches/technical", map[string]any{"version": 0}},
		{pavel, "POST", "/api/revisions/999/edits", map[string]any{"batch": "x", "client": "x", "base": 1, "edits": []any{}}},
		{pavel, "POST", "/api/revisions/999/undo", map[string]any{"client": "x", "redo": false}}, {pavel, "DELETE", "/api/revisions/999", nil},
		{pavel, "POST", "/api/procedures", map[string]any{"engine": "NOWHERE", "title": ""}}, {pavel, "POST", "/api/procedures/999/drafts", map[string]any{"reason": ""}},
		{pavel, "POST", "/api/engines/NOWHERE/edits", map[string]any{"batch": "x", "client": "x", "base": 1, "edits": []any{}}}, {pavel, "POST", "/api/engines/NOWHERE/draft", map[string]any{"reason": ""}},
		{pavel, "GET", "/api/people", nil}, {pavel, "PATCH", "/api/people/999", map[string]any{"locked": true}}, {pavel, "GET", "/api/procedures?deleted=true", nil},
	} {
		status, out := s.do(r.c, r.method, r.path, r.body)
		assert.Equal(t, 403, status, "%s %s: %s", r.method, r.path, out)
	}
	ines := s.client("ines")
	for _, r := range []struct {
		method, path string
		body         any
	}{
		{"POST", "/api/revisions/999/latches/author", map[string]any{"version": 0}}, {"POST", "/api/revisions/4/latches/nothing", map[string]any{"version": 0}},
		{"POST", "/api/procedures/999/drafts", map[string]any{"reason": "x"}}, {"POST", "/api/engines/NOWHERE/draft", map[string]any{"reason": "x"}},
		{"POST", "/api/revisions/999/edits", map[string]any{"batch": "batch-one", "client": "walk", "base": 1, "edits": []any{map[string]any{"op": "remove", "id": "s01"}}}},
		{"POST", "/api/engines/NOWHERE/edits", map[string]any{"batch": "batch-one", "client": "walk", "base": 1, "edits": []any{map[string]any{"path": "use", "value": "x"}}}},
		{"DELETE", "/api/revisions/999", nil}, {"POST", "/api/revisions/999/back", nil}, {"GET", "/api/engines/NOWHERE/touches", nil},
	} {
		status, out := s.do(ines, r.method, r.path, r.body)
		assert.Equal(t, 404, status, "%s %s: %s", r.method, r.path, out)
	}
}
