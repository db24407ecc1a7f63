package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
	"inklatch/internal/web"
)

// What a window asks for when somebody else has saved: the whole revision, as
// a browser gets it.
func BenchmarkReadAgain(b *testing.B) {
	st, err := store.Open(b.Context(), pgtest.Config(b))
	require.NoError(b, err)
	defer st.Close()
	require.NoError(b, demo.Load(b.Context(), st))
	h := web.New(desk.New(st), st, web.Config{})
	w := httptest.NewRecorder()
	r := httptest.NewRequest("POST", "/api/session", strings.NewReader(`{"email":"ines@tarn.example","password":"`+demo.Password+`"}`))
	r.Header.Set("Content-Type", "application/json")
	h.ServeHTTP(w, r)
	require.Equal(b, http.StatusOK, w.Code)
	cookie := w.Result().Cookies()[0]
	for b.Loop() {
		r := httptest.NewRequest("GET", "/api/revisions/4", nil)
		r.AddCookie(cookie)
		r.Header.Set("Accept-Encoding", "gzip")
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		n, _ := io.Copy(io.Discard, w.Result().Body)
		b.SetBytes(n)
	}
}

// An edit while five hundred windows listen to the page it is made on.
func BenchmarkEditUnderFiveHundredStreams(b *testing.B) {
	st, err := store.Open(b.Context(), pgtest.Config(b))
	require.NoError(b, err)
	defer st.Close()
	require.NoError(b, demo.Load(b.Context(), st))
	d := desk.New(st)
	stop, err := d.Jobs.Work(b.Context())
	require.NoError(b, err)
	defer func() { _ = stop(context.Background()) }()
	ines, err := d.Access.SignIn(b.Context(), "ines@tarn.example", demo.Password)
	require.NoError(b, err)
	var heard atomic.Int64
	for i := range 500 {
		name := fmt.Sprintf("window-%04d", i)
		events, leave, err := d.Watchers.Join(name, int64(10_000+i), name, desk.Seat{Room: desk.Room{Revision: 4}, Client: name})
		require.NoError(b, err)
		defer leave()
		go func() {
			for e := range events {
				if e.Version > 0 {
					heard.Add(1)
				}
			}
		}()
	}
	base := int64(99)
	for i := 0; b.Loop(); i++ {
		saved, err := d.Drafts.Save(b.Context(), ines, 4, desk.Batch{Name: fmt.Sprintf("bench-%06d", i), Client: "bench", Base: base, Edits: []procedure.Edit{{Op: procedure.Replace, Step: &step.Step{ID: "s01", Phase: "prepare", Action: &step.Wait{For: unit.Of(float64(1+i%90), unit.Minute)}}}}})
		require.NoError(b, err)
		base = saved.Meta.Version
	}
	b.ReportMetric(float64(heard.Load())/float64(b.N), "heard/op")
}

// What one saved step costs a house: the look at the line that is typed, the save, and nine
// other windows at the page that read it again; by turns, so that nothing waits for
// anything.
func BenchmarkSaveAmongTen(b *testing.B) {
	st, err := store.Open(b.Context(), pgtest.Seeded(b, "demo", demo.Seed))
	require.NoError(b, err)
	defer st.Close()
	h := web.New(desk.New(st), st, web.Config{})
	signIn := func(who string) *http.Cookie {
		w := httptest.NewRecorder()
		r := httptest.NewRequest("POST", "/api/session", strings.NewReader(`{"email":"`+who+`@tarn.example","password":"`+demo.Password+`"}`))
		r.Header.Set("Content-Type", "application/json")
		h.ServeHTTP(w, r)
		require.Equal(b, http.StatusOK, w.Code)
		return w.Result().Cookies()[0]
	}
	people := []*http.Cookie{signIn("ines"), signIn("jonas"), signIn("mirja"), signIn("rosalind")}
	do := func(who int, method, path, body string) []byte {
		r := httptest.NewRequest(method, path, strings.NewReader(body))
		r.AddCookie(people[who%len(people)])
		if r.Header.Set("Content-Type", "application/json"); strings.HasPrefix(path, "/api/import") {
			r.Header.Set("Content-Type", "application/octet-stream")
		}
		r.Header.Set("Accept-Encoding", "gzip")
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		require.Less(b, w.Code, 300, "%s %s: %s", method, path, w.Body)
		return w.Body.Bytes()
	}
	raw, err := demo.Files.ReadFile("renew-timing-belt-r3.latch.json")
	require.NoError(b, err)
	var ref struct{ Revision int64 }
	require.NoError(b, json.Unmarshal(do(0, "POST", "/api/import?anew=true", string(raw)), &ref))
	page := fmt.Sprintf("/api/revisions/%d", ref.Revision)
	before := processorTime()
	for i := 0; b.Loop(); i++ {
		do(0, "POST", page+"/look", `{"line":"wait 5 min","after":"s01"}`)
		do(0, "POST", page+"/edits", fmt.Sprintf(`{"batch":"among-ten-%d","client":"window-0","base":1000000,"edits":[{"op":"set","step":{"id":"s01","phase":"prepare","verb":"wait","for":"%d min"}}]}`, i, i%90+1))
		for k := range 9 {
			do(1+k, "GET", page, "")
		}
	}
	for what, used := range processorTime() {
		b.ReportMetric(float64((used-before[what]).Microseconds())/1000/float64(b.N), what+"-cpu-ms/save")
	}
}

// processorTime is what this process and all PostgreSQL processes of the machine have used
// so far; only the first where there is no /proc.
func processorTime() map[string]time.Duration {
	out := map[string]time.Duration{}
	var own syscall.Rusage
	if syscall.Getrusage(syscall.RUSAGE_SELF, &own) == nil {
		out["server"] = time.Duration(own.Utime.Nano() + own.Stime.Nano())
	}
	stats, _ := filepath.Glob("/proc/[0-9]*/stat")
	for _, f := range stats {
		raw, err := os.ReadFile(f)
		if err != nil || !strings.Contains(string(raw), "(postgres)") {
			continue
		}
		// proc(5): fields 14 and 15 are the user and system time in ticks, a hundred a second.
		fields := strings.Fields(string(raw[strings.LastIndexByte(string(raw), ')')+1:]))
		for _, k := range []int{11, 12} {
			ticks, _ := strconv.ParseInt(fields[k], 10, 64)
			out["database"] += time.Duration(ticks) * 10 * time.Millisecond
		}
	}
	return out
}
