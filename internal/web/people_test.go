package web_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk"
	"inklatch/internal/mail"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
	"inklatch/internal/web"
	"inklatch/internal/web/api"
)

type latchRole = latch.Role

const good = "a lift over the valley"

// nobody is a browser nobody has signed in with.
func (s site) nobody() *http.Client {
	jar, err := cookiejar.New(nil)
	require.NoError(s, err)
	return &http.Client{Jar: jar, Timeout: 20 * time.Second}
}

func (s site) sign(c *http.Client, email, password string) int {
	s.Helper()
	status, _ := s.do(c, "POST", "/api/session", map[string]string{"email": email, "password": password})
	return status
}

func decode[T any](t *testing.T, out []byte) T {
	t.Helper()
	var v T
	require.NoError(t, json.Unmarshal(out, &v), "%s", out)
	return v
}

// From an empty database to somebody who reads: the first administrator by a
// link, others by theirs, each of which works once.
func TestTheFirstPersonAndThoseAfter(t *testing.T) {
	t.Parallel()
	st, err := store.Open(t.Context(), pgtest.Config(t))
	require.NoError(t, err)
	s := serve(t, st, web.Config{Address: "https://latch.tarn.example"})
	letters, err := mail.Catch(t.TempDir())
	require.NoError(t, err)
	defer letters.Close()
	sender, err := mail.NewSender(letters.URL, "latch@tarn.example")
	require.NoError(t, err)
	s.desk.Jobs.MailBy(sender, "")

	setup, err := s.desk.Access.Setup(t.Context())
	require.NoError(t, err)
	require.NotNil(t, setup)
	again, err := s.desk.Access.Setup(t.Context())
	require.NoError(t, err)
	c := s.nobody()
	enter := func(c *http.Client, secret, password, name, email string) (int, []byte) {
		return s.do(c, "POST", "/api/enter", map[string]string{"secret": secret, "password": password, "name": name, "email": email})
	}
	status, _ := enter(c, setup.Secret, good, "Eldri Sund", "eldri@tarn.example")
	assert.Equal(t, 410, status, "a newer link takes the place of the one before")
	status, out := enter(c, again.Secret, "short", "Eldri Sund", "eldri@tarn.example")
	assert.Equal(t, 422, status)
	assert.Equal(t, "password", *s.problem(out).Field)
	status, out = enter(c, again.Secret, good, "Eldri Sund", "no address")
	assert.Equal(t, "email", *s.problem(out).Field)
	assert.Equal(t, 422, status)
	status, out = enter(c, again.Secret, good, "Eldri Sund", "eldri@tarn.example")
	require.Equal(t, 200, status, "%s", out)
	assert.True(t, decode[api.Person](t, out).Administers)
	status, _ = enter(s.nobody(), again.Secret, good, "Somebody", "else@tarn.example")
	assert.Equal(t, 410, status, "it works once")
	none, err := s.desk.Access.Setup(t.Context())
	require.NoError(t, err)
	assert.Nil(t, none, "and never again")

	status, out = s.do(c, "POST", "/api/people", map[string]any{"name": "Tuva Rein", "email": "tuva@tarn.example", "roles": []string{"author", "reader"}})
	require.Equal(t, 201, status, "%s", out)
	link := decode[desk.Passage](t, out)
	assert.True(t, link.Mailed)
	require.Len(t, letters.Letters(), 1)
	status, out = s.do(c, "POST", "/api/people", map[string]any{"name": "Tuva", "email": "TUVA@tarn.example", "roles": []string{"author"}})
	assert.Equal(t, 409, status, "one address, one person: %s", out)
	for field, body := range map[string]map[string]any{
		"roles": {"name": "x", "email": "x@tarn.example", "roles": []string{"king"}}, "name": {"name": " ", "email": "x@tarn.example", "roles": []string{"reader"}},
		"email": {"name": "x", "email": "x@", "roles": []string{"reader"}},
	} {
		status, out = s.do(c, "POST", "/api/people", body)
		assert.Equal(t, 422, status)
		assert.Equal(t, field, *s.problem(out).Field)
	}
	status, _ = s.do(c, "POST", "/api/people", map[string]any{"name": "x", "email": "x@tarn.example", "roles": []string{}})
	assert.Equal(t, 422, status)

	tuva := s.nobody()
	assert.Equal(t, 401, s.sign(tuva, "tuva@tarn.example", ""), "invited is not let in yet")
	status, out = s.do(tuva, "POST", "/api/enter/look", map[string]string{"secret": link.Secret})
	require.Equal(t, 200, status)
	assert.Equal(t, "Tuva Rein", decode[desk.Entry](t, out).Name)
	for bad, says := range map[string]string{
		"password1234": "tried first", "tuva@tarn.example": "your name", "aaaaaaaaaaaaaa": "repeats", "abcabcabcabcabc": "repeats", "1234567890123": "", "inklatch2026": "this program", "qwertyuiopas": "",
	} {
		status, out := enter(tuva, link.Secret, bad, "", "")
		assert.Equal(t, 422, status, bad)
		assert.Contains(t, s.problem(out).Title, says, bad)
	}
	status, out = enter(tuva, link.Secret, "nur kleine worter", "", "")
	require.Equal(t, 200, status, "no rules of composition: %s", out)
	status, out = s.do(tuva, "GET", "/api/session", nil)
	require.Equal(t, 200, status)
	assert.Equal(t, []string{"reader", "author"}, decode[api.Person](t, out).Roles)

	status, out = s.do(c, "POST", fmt.Sprintf("/api/people/%d/link", decode[api.Person](t, out).Id), nil)
	require.Equal(t, 201, status)
	assert.Equal(t, "reset", decode[desk.Passage](t, out).Kind)
	assert.Equal(t, 200, s.sign(s.nobody(), "tuva@tarn.example", "nur kleine worter"), "until it is used the old one works")
	status, _ = enter(s.nobody(), decode[desk.Passage](t, out).Secret, "ganz neue worter", "", "")
	require.Equal(t, 200, status)
	status, _ = s.do(tuva, "GET", "/api/session", nil)
	assert.Equal(t, 204, status, "whoever was signed in with the old one is not any more")
	assert.Equal(t, 401, s.sign(s.nobody(), "tuva@tarn.example", "nur kleine worter"))
	r, err := st.Verify(t.Context(), nil)
	require.NoError(t, err)
	assert.Empty(t, r.Troubles)
	assert.Equal(t, 2, r.People)
}

func (s site) idOf(c *http.Client, email string) int64 {
	_, out := s.do(c, "GET", "/api/people", nil)
	for _, p := range decode[api.People](s.T, out).People {
		if p.Email == email {
			return p.ID
		}
	}
	s.Fatalf("nobody has the address %s", email)
	return 0
}

// A role taken away, a lock and a new password count from that moment, on open
// sessions and on streams of events.
func TestRolesLocksAndPasswordsCountAtOnce(t *testing.T) {
	s := open(t)
	sunniva, ines, jonas := s.client("sunniva"), s.client("ines"), s.client("jonas")
	stream := func(c *http.Client) <-chan string {
		c2 := *c
		c2.Timeout = 0
		res, err := c2.Get(s.url + fmt.Sprintf("/api/events?at=window-%d@revisions/4", time.Now().UnixNano()))
		require.NoError(t, err)
		require.Equal(t, 200, res.StatusCode)
		ended := make(chan string, 1)
		go func() {
			b, _ := io.ReadAll(res.Body)
			res.Body.Close()
			ended <- string(b)
		}()
		return ended
	}
	ends := func(ch <-chan string, what string) {
		t.Helper()
		select {
		case said := <-ch:
			assert.Contains(t, said, "event: out", what)
		case <-time.After(10 * time.Second):
			t.Fatalf("the stream goes on: %s", what)
		}
	}
	edit := func(c *http.Client, name string) int {
		status, _ := s.do(c, "POST", "/api/revisions/4/edits", map[string]any{"batch": name, "client": "window", "base": 99, "edits": []any{
			map[string]any{"op": "insert", "step": map[string]any{"id": name, "phase": "prepare", "verb": "wait", "for": "5 min"}}}})
		return status
	}
	path := fmt.Sprintf("/api/people/%d", s.idOf(sunniva, "ines@tarn.example"))
	require.Equal(t, 200, edit(ines, "batch-before"))
	watching := stream(ines)
	status, _ := s.do(sunniva, "PATCH", path, map[string]any{"roles": []string{"reader"}})
	require.Equal(t, 204, status)
	ends(watching, "a reader hears nothing of drafts")
	assert.Equal(t, 403, edit(ines, "batch-after"))

	status, _ = s.do(sunniva, "PATCH", path, map[string]any{"roles": []string{"author"}})
	require.Equal(t, 204, status)
	assert.Equal(t, 200, edit(ines, "batch-again"))
	watching = stream(ines)
	status, _ = s.do(sunniva, "PATCH", path, map[string]any{"locked": true})
	require.Equal(t, 204, status)
	ends(watching, "locked")
	assert.Equal(t, 401, edit(ines, "batch-locked"))
	assert.Equal(t, 403, s.sign(s.nobody(), "ines@tarn.example", demo.Password))
	status, _ = s.do(sunniva, "PATCH", path, map[string]any{"locked": false})
	require.Equal(t, 204, status)
	assert.Equal(t, 401, edit(ines, "batch-unlocked"), "the sessions of before are gone")
	assert.Equal(t, 200, s.sign(ines, "ines@tarn.example", demo.Password))

	elsewhere := s.client("jonas")
	watching = stream(elsewhere)
	status, out := s.do(jonas, "POST", "/api/session/password", map[string]any{"old": "wrong", "password": good})
	assert.Equal(t, 422, status)
	assert.Equal(t, "old", *s.problem(out).Field)
	status, _ = s.do(jonas, "POST", "/api/session/password", map[string]any{"old": demo.Password, "password": good})
	require.Equal(t, 204, status)
	ends(watching, "a new password ends every other session")
	status, _ = s.do(jonas, "GET", "/api/session", nil)
	assert.Equal(t, 200, status, "but not the one it was chosen in")
	watching = stream(jonas)
	status, _ = s.do(jonas, "DELETE", "/api/session", nil)
	require.Equal(t, 204, status)
	ends(watching, "signed out")

	own := fmt.Sprintf("/api/people/%d", s.idOf(sunniva, "sunniva@tarn.example"))
	for _, body := range []map[string]any{{"locked": true}, {"roles": []string{"reader"}}} {
		status, out = s.do(sunniva, "PATCH", own, body)
		assert.Equal(t, 409, status)
		assert.Contains(t, s.problem(out).Title, "last administrator")
	}
	status, _ = s.do(sunniva, "GET", "/api/people", nil)
	assert.Equal(t, 200, status, "who is still one")
}

// Two administrators who take each other's role away in the same moment: one of
// them stays.
func TestTwoAdministratorsDoNotLockEachOtherOut(t *testing.T) {
	s := open(t)
	sunniva := s.client("sunniva")
	mirja := s.idOf(sunniva, "mirja@tarn.example")
	me := s.idOf(sunniva, "sunniva@tarn.example")
	for range 10 {
		status, _ := s.do(sunniva, "PATCH", fmt.Sprintf("/api/people/%d", mirja), map[string]any{"roles": []string{"technical editor", "administrator"}})
		require.Equal(t, 204, status)
		both := []*desk.User{{ID: mirja, Roles: []latchRole{"administrator"}}, {ID: me, Roles: []latchRole{"administrator"}}}
		var wg sync.WaitGroup
		var done atomic.Int64
		for i, u := range both {
			wg.Go(func() {
				roles := []latchRole{"reader"}
				if s.desk.Access.ChangePerson(t.Context(), u, both[1-i].ID, desk.Change{Roles: &roles}) == nil {
					done.Add(1)
				}
			})
		}
		wg.Wait()
		require.EqualValues(t, 1, done.Load())
		admin := []latchRole{"administrator"}
		require.NoError(t, s.desk.Access.ChangePerson(t.Context(), nil, me, desk.Change{Roles: &admin}))
	}
}

// A session that was signed out does not come back with the requests that were
// still running, and is not written at every request.
func TestASessionThatHasEndedStaysSo(t *testing.T) {
	s := open(t)
	for range 5 {
		c := s.client("ines")
		var wg sync.WaitGroup
		for range 8 {
			wg.Go(func() {
				for range 6 {
					res, err := c.Get(s.url + "/api/revisions/4")
					if err == nil {
						_, _ = io.Copy(io.Discard, res.Body)
						res.Body.Close()
					}
				}
			})
		}
		time.Sleep(10 * time.Millisecond)
		u := s.url + "/api/session"
		cookies := c.Jar.Cookies(must(http.NewRequest("GET", u, nil)).URL)
		status, _ := s.do(c, "DELETE", "/api/session", nil)
		require.Equal(t, 204, status)
		wg.Wait()
		req := must(http.NewRequest("GET", u, nil))
		for _, k := range cookies {
			req.AddCookie(k)
		}
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		res.Body.Close()
		assert.Equal(t, 204, res.StatusCode, "nobody is signed in")
	}
	c := s.client("ines")
	writes := func() string {
		var x string
		require.NoError(t, s.store.SQL().QueryRow("SELECT string_agg(xmin::text || token, ',' ORDER BY token) FROM sessions").Scan(&x))
		return x
	}
	before := writes()
	for range 20 {
		s.do(c, "GET", "/api/session", nil)
	}
	assert.Equal(t, before, writes(), "twenty requests write no session")

	var token string
	require.NoError(t, s.store.SQL().QueryRow("SELECT token FROM sessions LIMIT 1").Scan(&token))
	req := must(http.NewRequest("GET", s.url+"/api/session", nil))
	req.AddCookie(&http.Cookie{Name: "inklatch", Value: token})
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, 204, res.StatusCode, "what is kept in the database signs nobody in")
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

func TestPlacesAndOwnSettings(t *testing.T) {
	s := open(t)
	here, there := s.client("ines"), s.client("ines")
	_, out := s.do(here, "GET", "/api/session/places", nil)
	all := decode[[]desk.Place](t, out)
	require.Len(t, all, 2)
	for _, p := range all {
		if !p.Here {
			status, _ := s.do(here, "DELETE", "/api/session/places?id="+p.ID, nil)
			assert.Equal(t, 204, status)
		}
	}
	status, _ := s.do(there, "GET", "/api/session", nil)
	assert.Equal(t, 204, status, "nobody is signed in")
	third := s.client("ines")
	status, _ = s.do(here, "DELETE", "/api/session/places", nil)
	assert.Equal(t, 204, status)
	status, _ = s.do(third, "GET", "/api/session", nil)
	assert.Equal(t, 204, status)
	status, _ = s.do(here, "GET", "/api/session", nil)
	assert.Equal(t, 200, status)

	status, out = s.do(here, "PATCH", "/api/session", map[string]any{"theme": "bench", "units": "imperial", "name": "Ines O. Okafor"})
	require.Equal(t, 200, status)
	p := decode[api.Person](t, out)
	assert.Equal(t, "Ines O. Okafor", p.Name)
	assert.EqualValues(t, "bench", p.Theme)
	for _, body := range []map[string]any{{"theme": "pink"}, {"units": "stone"}, {"name": " "}} {
		status, _ = s.do(here, "PATCH", "/api/session", body)
		assert.Equal(t, 422, status, "%v", body)
	}
	_, out = s.do(here, "GET", "/api/revisions/1/sheet", nil)
	assert.True(t, strings.Contains(decode[desk.Sheet](t, out).Torque[0].Value, "lbf"), "their units stand first")
	_, out = s.do(s.client("jonas"), "GET", "/api/revisions/1/sheet", nil)
	sheet := decode[desk.Sheet](t, out)
	assert.False(t, strings.Contains(sheet.Torque[0].Value, "lbf"))
	a, err := store.ParseAnchor(sheet.Anchor)
	require.NoError(t, err, "a released sheet carries its anchor")
	r, err := s.store.Verify(t.Context(), []store.Anchor{a})
	require.NoError(t, err)
	assert.Empty(t, r.Troubles)
}

// Letters that cannot be sent are no obstacle: the link is shown.
func TestALetterThatCannotBeSent(t *testing.T) {
	s := openWith(t, func(*store.Config) {}, web.Config{Address: "http://here"})
	sender, err := mail.NewSender("smtp+plain://127.0.0.1:1", "latch@tarn.example")
	require.NoError(t, err)
	s.desk.Jobs.MailBy(sender, "")
	status, out := s.do(s.client("sunniva"), "POST", "/api/people", map[string]any{"name": "Tuva Rein", "email": "tuva@tarn.example", "roles": []string{"author"}})
	require.Equal(t, 201, status)
	assert.False(t, decode[desk.Passage](t, out).Mailed)
	for _, bad := range []string{"", "mail.example", "http://mail.example", "smtp://host:port"} {
		_, err := mail.NewSender(bad, "a@b.example")
		assert.Error(t, err, bad)
	}
	_, err = mail.NewSender("smtp://host", "nobody")
	assert.Error(t, err)
}
