// Package test drives the whole application the way people do: a real server on
// a real PostgreSQL, and Debian's Chromium.
package test

import (
	"context"
	"encoding/json"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
	"inklatch/internal/web"
)

func TestMain(m *testing.M) {
	pgtest.Main(m, func() {
		if started != nil {
			started()
		}
	})
}

// started ends the browser of all tests, nil until one needs it. Every window is in a
// context of its own, which shares nothing with another.
var started func()

var chromium = sync.OnceValues(func() (*rod.Browser, error) {
	l := launcher.New().Bin("/usr/bin/chromium").Headless(true).NoSandbox(true).Leakless(false).
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").Set("disable-component-update").Set("disable-sync").
		Set("disable-extensions").Set("disable-component-extensions-with-background-pages")
	u, err := l.Launch()
	if err != nil {
		return nil, err
	}
	b := rod.New().ControlURL(u)
	if err := b.Connect(); err != nil {
		return nil, err
	}
	started = func() { _ = b.Close(); l.Kill() }
	return b, nil
})

// app is a served application with the demo, and a browser.
type app struct {
	*testing.T
	url     string
	store   *store.Store
	browser *rod.Browser
	// figures are those of the site.
	figures *prometheus.Registry
}

func open(t *testing.T) app {
	s, err := store.Open(t.Context(), pgtest.Seeded(t, "demo", demo.Seed))
	require.NoError(t, err)
	d := desk.New(s)
	idle, err := d.Jobs.Work(context.WithoutCancel(t.Context()))
	require.NoError(t, err)
	figures := prometheus.NewRegistry()
	site := web.New(d, s, web.Config{Metrics: figures})
	srv := httptest.NewServer(site)
	b, err := chromium()
	require.NoError(t, err)
	t.Cleanup(func() {
		srv.CloseClientConnections()
		srv.Close()
		last, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		idle(last)
		s.Close()
	})
	return app{t, srv.URL, s, b, figures}
}

// window is a page of a person of their own.
type window struct {
	app
	p *rod.Page
}

// window opens one for somebody who has signed in, or for nobody on the page where one
// does.
func (a app) window(who string) window {
	b, err := a.browser.Incognito()
	require.NoError(a, err)
	a.Cleanup(func() { _ = b.Close() }) // of this context alone
	at := "/sign-in"
	if who != "" {
		at = "/"
		require.NoError(a, b.SetCookies(a.session(who)))
	}
	p, err := b.Page(proto.TargetCreateTarget{URL: a.url + at})
	require.NoError(a, err)
	p = p.Timeout(6 * time.Minute)
	require.NoError(a, p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: 1280, Height: 800, DeviceScaleFactor: 1}))
	w := window{a, p}
	if who != "" {
		w.isIn()
	}
	return w
}

// session signs somebody in without a window: the cookies a browser is given.
func (a app) session(who string) []*proto.NetworkCookieParam {
	c, err := server{url: a.url}.signIn(who)
	require.NoError(a, err)
	at, err := url.Parse(a.url)
	require.NoError(a, err)
	var out []*proto.NetworkCookieParam
	for _, k := range c.Jar.Cookies(at) {
		out = append(out, &proto.NetworkCookieParam{Name: k.Name, Value: k.Value, URL: a.url, HTTPOnly: true, SameSite: proto.NetworkCookieSameSiteStrict})
	}
	require.NotEmpty(a, out)
	return out
}

// signsIn types a name and a password, as people do.
func (w window) signsIn(who string) {
	w.Helper()
	w.find("#email")
	w.focus("#email")
	w.text(who + "@tarn.example")
	w.keys(input.Tab)
	w.text(demo.Password)
	w.keys(input.Enter)
	w.isIn()
}

// isIn waits for the page of somebody signed in: the address is there before it.
func (w window) isIn() {
	w.Helper()
	w.until(`() => !location.pathname.startsWith("/sign-in") && document.querySelector("header nav")`)
}

func (w window) find(selector string) *rod.Element {
	w.Helper()
	e, err := w.p.Timeout(45 * time.Second).Element(selector)
	require.NoError(w, err, selector)
	return e.CancelTimeout()
}

// button finds a button or link by its text.
func (w window) button(text string) *rod.Element {
	w.Helper()
	e, err := w.p.Timeout(45*time.Second).ElementR("button, a, label, [role=menuitem]", text)
	require.NoError(w, err, text)
	return e.CancelTimeout()
}

func (w window) click(text string) {
	w.Helper()
	e := w.button(text)
	if is, _ := e.Matches(".row-link"); is {
		// The link of a row is as large as its row: what Rod finds at its middle is no
		// element that it knows.
		shape, err := e.Shape()
		require.NoError(w, err)
		require.NoError(w, w.p.Mouse.MoveTo(*shape.OnePointInside()))
		require.NoError(w, w.p.Mouse.Click(proto.InputMouseButtonLeft, 1))
		return
	}
	// What comes in above it moves it: a click where it was goes to nobody.
	require.NoError(w, e.Timeout(45*time.Second).WaitStableRAF(), text)
	require.NoError(w, e.Click(proto.InputMouseButtonLeft, 1), text)
}

func (w window) focus(selector string) { w.Helper(); require.NoError(w, w.find(selector).Focus()) }
func (w window) text(s string)         { w.Helper(); require.NoError(w, w.p.InsertText(s)) }
func (w window) keys(k ...input.Key)   { w.Helper(); require.NoError(w, w.p.Keyboard.Type(k...)) }

func (w window) chord(mod input.Key, k ...input.Key) {
	w.Helper()
	require.NoError(w, w.p.KeyActions().Press(mod).Type(k...).Do())
}

// until waits for a condition in the page.
func (w window) until(js string) {
	w.Helper()
	if err := w.p.Timeout(45 * time.Second).Wait(rod.Eval("async () => !!(await (" + js + ")())").ByPromise()); err != nil {
		shot, _ := w.p.Screenshot(false, nil)
		_ = os.WriteFile(os.TempDir()+"/inklatch-failed.png", shot, 0o600)
		body, _ := w.p.Eval(`() => document.body.innerText.slice(0, 1500)`)
		w.Fatalf("%s does not come true: %v\n%v", js, err, body)
	}
}

func (w window) sees(text string) {
	w.Helper()
	b, _ := json.Marshal(text)
	w.until(`() => document.body.innerText.includes(` + string(b) + `)`)
}

func (w window) eval(js string) string {
	w.Helper()
	v, err := w.p.Eval(js)
	require.NoError(w, err)
	return v.Value.String()
}

func (w window) go_(path string) {
	w.Helper()
	w.find("main")
	want, _, _ := strings.Cut(path, "?")
	var err error
	for range 4 { // a move of the application's own may come in between
		if err = w.p.Navigate(w.url + path); err == nil {
			err = w.p.WaitLoad()
		}
		if err != nil {
			continue
		}
		w.find("main")
		w.frames()
		if w.eval(`() => location.pathname`) == want {
			return
		}
	}
	require.NoError(w, err)
}

// frames waits until what was done is drawn.
func (w window) frames() {
	w.Helper()
	w.until(`async () => { await new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))); return true }`)
}

// step writes one line in the quick line and waits for its row.
func (w window) step(line string, n int) {
	w.Helper()
	w.text(line)
	w.keys(input.Enter)
	w.until(`() => document.querySelectorAll(".step-row:not([data-ghost=true])").length >= ` + itoa(min(n, 8)) + ` && document.querySelector("#quick").value === ""`)
}

func itoa(n int) string { b, _ := json.Marshal(n); return string(b) }

// saved waits until nothing is on its way.
func (w window) saved() {
	w.Helper()
	w.until(`() => /^Saved/.test(document.querySelector("[data-saving]").textContent)`)
}
