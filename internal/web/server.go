// Package web serves the screens and the contract of api/openapi.yaml.
package web

import (
	"bytes"
	"context"
	"crypto/rand"
	"embed"
	"encoding/json"
	"errors"
	"io/fs"
	"log/slog"
	"math"
	"mime"
	"net/http"
	"net/netip"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/klauspost/compress/gzhttp"
	"github.com/labstack/echo/v5"
	"github.com/prometheus/client_golang/prometheus"

	"inklatch/internal/core/page/step"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/web/api"
)

//go:embed all:dist
var dist embed.FS

// Config is how a site is served.
type Config struct {
	Log *slog.Logger
	// Secure marks the cookie for HTTPS only and tells browsers to come by HTTPS.
	Secure bool
	// Address is where people reach the site, for links in letters; without it none
	// are sent.
	Address string
	// Proxies are trusted to say where a request comes from.
	Proxies []netip.Prefix
	// Guard is told of every sign-in that was refused, with the address it came from; nil
	// keeps no address anywhere.
	Guard func(line string)
	// Metrics takes the site's figures; nil drops them.
	Metrics prometheus.Registerer
}

// Site is the web face of a desk. It is an http.Handler.
type Site struct {
	desk     *desk.Desk
	store    *store.Store
	conf     Config
	sessions *scs.SessionManager
	address  desk.Gate
	account  desk.Gate
	letters  desk.Gate
	known    *lru.Cache[string, struct{}]
	log      *slog.Logger
	figures  *figures
	handler  http.Handler
	// turns are how many whole pages are read at a time.
	turns chan struct{}

	// leaving is closed when the site takes no more requests.
	leaving chan struct{}
	leave   sync.Once
}

// The sign-in limits: attempts at once and one more each interval, from one
// address and for one account.
const (
	addressBurst    = 20
	addressInterval = 3 * time.Second
	accountBurst    = 10
	accountInterval = 2 * time.Second
	// accountPatience is how long an attempt waits for its turn; beyond it the
	// person is told to come back.
	accountPatience = 6 * time.Second
	mostKnown       = 20_000
)

// New builds the site of a desk.
func New(d *desk.Desk, s *store.Store, conf Config) *Site {
	if conf.Log == nil {
		conf.Log = slog.New(slog.DiscardHandler)
	}
	srv := &Site{
		desk: d, store: s, conf: conf, log: conf.Log, figures: newFigures(conf.Metrics), leaving: make(chan struct{}),
		turns:   make(chan struct{}, runtime.GOMAXPROCS(0)),
		address: desk.Gate{Burst: addressBurst, Interval: addressInterval}, account: desk.Gate{Burst: accountBurst, Interval: accountInterval},
		letters: desk.Gate{Burst: 2, Interval: 10 * time.Minute},
	}
	srv.known, _ = lru.New[string, struct{}](mostKnown)
	sm := scs.New()
	sm.Store = s.SessionStore()
	// No idle time here: the store keeps it, and a session is only ever written
	// when somebody signs in.
	sm.Lifetime = store.SessionLife
	sm.Cookie.Name, sm.Cookie.HttpOnly, sm.Cookie.SameSite, sm.Cookie.Secure = "inklatch", true, http.SameSiteStrictMode, conf.Secure
	sm.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		srv.log.Error("session", "request", requestID(r.Context()), "error", err)
		writeProblem(w, away())
	}
	srv.sessions = sm

	e := echo.New()
	e.Logger = conf.Log
	e.HTTPErrorHandler = srv.fail
	api.RegisterHandlers(e, api.NewStrictHandler(srv, []api.StrictMiddlewareFunc{srv.person}))
	e.Any("/api/*", func(*echo.Context) error {
		return &desk.Problem{Status: 404, Title: "There is nothing at this address."}
	})
	pages, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded above
	}
	e.GET("/*", screens(pages))
	srv.handler = srv.around(e)
	return srv
}

// around puts what every request goes through around the routes, the innermost
// first.
func (s *Site) around(e *echo.Echo) http.Handler {
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		writeProblem(w, &desk.Problem{Status: 403, Title: "This request came from another site and was not carried out."})
	}))
	var h http.Handler = s.sessions.LoadAndSave(e)
	h = s.skipSession(h, e)
	h = limitTime(h)
	h = readText(h)
	h = guard.Handler(h)
	h = limitBody(h)
	h = zipped(h)
	h = heads(h)
	h = s.headers(h)
	return s.observed(h)
}

// zipped compresses answers, fast, for views are fetched at every key. Scripts and
// styles come compressed from the build.
func zipped(h http.Handler) http.Handler {
	fast, err := gzhttp.NewWrapper(gzhttp.CompressionLevel(1))
	if err != nil {
		return h
	}
	answers := fast(h)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasPrefix(r.URL.Path, "/assets/") {
			h.ServeHTTP(w, r)
			return
		}
		answers.ServeHTTP(w, r)
	})
}

// ServeHTTP serves one request.
func (s *Site) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Leave tells event streams that the server is going and lets ready say no.
// Requests that are under way are finished, those that still come are served:
// stopping to take them is the listener's work.
func (s *Site) Leave() { s.leave.Do(func() { close(s.leaving) }) }

// skipSession serves files without a session, and event streams with one that
// is only read: the session manager would hold their answer back to its end.
func (s *Site) skipSession(with, e http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case !strings.HasPrefix(r.URL.Path, "/api/"), strings.HasPrefix(r.URL.Path, "/api/health"):
			e.ServeHTTP(w, r)
		case isStream(r):
			token := ""
			if c, err := r.Cookie(s.sessions.Cookie.Name); err == nil {
				token = c.Value
			}
			ctx, err := s.sessions.Load(r.Context(), token)
			if err != nil {
				s.sessions.ErrorFunc(w, r, err)
				return
			}
			e.ServeHTTP(w, r.WithContext(ctx))
		default:
			with.ServeHTTP(w, r.WithContext(store.WithAgent(r.Context(), agent(r))))
		}
	})
}

// packings are the ways in which the build compresses a file, the smallest first, by
// what is put behind its name.
var packings = []struct{ coding, end string }{{"br", ".br"}, {"gzip", ".gz"}}

// servePacked serves a file as the build has compressed it, in the smallest way the
// browser reads (RFC 9110 section 12.5.3); false where there is none.
func servePacked(w http.ResponseWriter, r *http.Request, pages fs.FS, path string) bool {
	any := false
	for _, p := range packings {
		b, err := fs.ReadFile(pages, path+p.end)
		if err != nil {
			continue
		}
		any = true
		if !accepts(r, p.coding) {
			continue
		}
		w.Header().Add("Vary", "Accept-Encoding")
		w.Header().Set("Content-Encoding", p.coding)
		w.Header().Set("Content-Type", mime.TypeByExtension(filepath.Ext(path)))
		w.Header().Set("Content-Length", strconv.Itoa(len(b)))
		if r.Method != http.MethodHead {
			_, _ = w.Write(b)
		}
		return true
	}
	if any {
		w.Header().Add("Vary", "Accept-Encoding")
	}
	return false
}

// accepts reports whether a browser reads a coding: it is named, and not with a weight
// of nothing.
func accepts(r *http.Request, coding string) bool {
	for one := range strings.SplitSeq(strings.Join(r.Header.Values("Accept-Encoding"), ","), ",") {
		name, weight, _ := strings.Cut(one, ";")
		if strings.EqualFold(strings.TrimSpace(name), coding) {
			q, err := strconv.ParseFloat(strings.TrimPrefix(strings.ReplaceAll(weight, " ", ""), "q="), 64)
			return weight == "" || err == nil && q > 0
		}
	}
	return false
}

// screens serves the built front end; every other path is the application.
func screens(pages fs.FS) echo.HandlerFunc {
	files := http.FileServerFS(pages)
	return func(c *echo.Context) error {
		r := c.Request()
		path := strings.TrimPrefix(r.URL.Path, "/")
		if f, err := fs.Stat(pages, path); path != "" && err == nil && !f.IsDir() {
			if strings.HasPrefix(path, "assets/") {
				c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
				if servePacked(c.Response(), r, pages, path) {
					return nil
				}
			}
			files.ServeHTTP(c.Response(), r)
			return nil
		}
		b, err := fs.ReadFile(pages, "index.html")
		if err != nil {
			return &desk.Problem{Status: 404, Title: "The screens are not built into this program. Build it with make build."}
		}
		nonce := rand.Text()
		c.Response().Header().Set("Content-Security-Policy", policy(nonce))
		c.Response().Header().Set("Cache-Control", "no-store")
		return c.HTMLBlob(http.StatusOK, bytes.Replace(b, []byte("__NONCE__"), []byte(nonce), 1))
	}
}

type userKey struct{}

// openOperations are those nobody has to be signed in for.
var openOperations = map[string]bool{"Health": true, "Ready": true, "SignIn": true, "Forgotten": true, "LookLink": true, "Enter": true}

// person puts the signed-in person into the context and turns everybody else
// away.
func (s *Site) person(next api.StrictHandlerFunc, operation string) api.StrictHandlerFunc {
	return func(c *echo.Context, request any) (any, error) {
		ctx := c.Request().Context()
		note(ctx).operation = operation
		if !openOperations[operation] {
			id := s.sessions.GetInt64(ctx, "person")
			if id == 0 && operation == "WhoAmI" {
				return api.WhoAmI204Response{}, nil // a first visit is no mistake
			}
			if id == 0 {
				return nil, &desk.Problem{Status: 401, Title: "Sign in first."}
			}
			u, err := s.desk.Access.UserByID(ctx, id)
			if err != nil {
				return nil, err
			}
			note(ctx).person = u.ID
			ctx = context.WithValue(ctx, userKey{}, u)
		}
		ctx = context.WithValue(ctx, placeKey{}, s.place(c.Request()))
		c.SetRequest(c.Request().WithContext(ctx))
		return next(c, request)
	}
}

type placeKey struct{}

func user(ctx context.Context) *desk.User { return ctx.Value(userKey{}).(*desk.User) }

// session names the session of a request as the store does.
func (s *Site) session(ctx context.Context) string {
	return store.SessionKey(s.sessions.Token(ctx))
}

func away() *desk.Problem {
	return &desk.Problem{Status: 503, Title: "The database did not answer. What you typed is kept here; try again in a moment."}
}

// fail turns an error into problem details (RFC 9457).
func (s *Site) fail(c *echo.Context, err error) {
	var p *desk.Problem
	var http4 *echo.HTTPError
	var big *http.MaxBytesError
	var syntax *json.SyntaxError
	var mis *step.Misplaced
	ctx := c.Request().Context()
	switch {
	case errors.As(err, &p):
	case errors.As(err, &big):
		p = &desk.Problem{Status: 413, Title: "That is too large to be read. Nothing was changed."}
	case errors.As(err, &mis):
		p = desk.Misread(mis)
	case errors.As(err, &syntax):
		p = &desk.Problem{Status: 400, Title: "The request is not JSON.", Detail: syntax.Error()}
	case store.Unreadable(err):
		p = &desk.Problem{Status: 422, Title: "There is a character in this that cannot be kept. Nothing was changed."}
	case store.Away(err), errors.Is(err, context.Canceled):
		// Never an answer without a word: who hears nothing takes it for done.
		s.log.Warn("the database did not answer", "request", requestID(ctx), "error", err)
		p = away()
	case errors.As(err, &http4):
		p = &desk.Problem{Status: http4.Code, Title: http.StatusText(http4.Code) + ".", Detail: http4.Message}
		if inner := http4.Unwrap(); inner != nil && http4.Code == http.StatusBadRequest {
			p.Title, p.Detail = "Something in this request cannot be read. Nothing was changed.", inner.Error()
		}
	default:
		if st, ok := err.(interface{ StatusCode() int }); ok && st.StatusCode() < 500 {
			p = &desk.Problem{Status: st.StatusCode(), Title: http.StatusText(st.StatusCode()) + ".", Detail: err.Error()}
			break
		}
		s.log.Error("request failed", "request", requestID(ctx), "path", c.Request().URL.Path, "error", err)
		p = &desk.Problem{Status: 500, Title: "Something went wrong on the server. What you typed is kept here; try again in a moment."}
	}
	writeProblem(c.Response(), p)
}

func writeProblem(w http.ResponseWriter, p *desk.Problem) {
	w.Header().Set("Content-Type", "application/problem+json")
	switch wait := int(math.Ceil(p.Retry.Seconds())); {
	case wait > 0:
		w.Header().Set("Retry-After", strconv.Itoa(wait))
	case p.Status == http.StatusServiceUnavailable:
		w.Header().Set("Retry-After", "2")
	case p.Status == http.StatusTooManyRequests:
		w.Header().Set("Retry-After", "60")
	}
	w.WriteHeader(p.Status)
	out := api.Problem{Type: "about:blank", Title: p.Title, Status: p.Status}
	if p.Detail != "" {
		out.Detail = &p.Detail
	}
	if p.Field != "" {
		out.Field = &p.Field
	}
	if p.Version != 0 {
		out.Version = &p.Version
	}
	if p.Changes != nil {
		out.Changes = &p.Changes
	}
	_ = json.NewEncoder(w).Encode(out)
}
