package web_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"inklatch/demo"
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
