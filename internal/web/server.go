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
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/klauspost/compress/gzhttp"
	"github.com/labstack/echo/v5"

	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/web/api"
)

//go:embed all:dist
var dist embed.FS

// Server is the web face of a desk.
type Server struct {
	desk     *desk.Desk
	sessions *scs.SessionManager
	sweeper  *postgresstore.PostgresStore
	gate     desk.Gate
	log      *slog.Logger
}

// New builds the handler for a desk. Call the returned stop when done. secure
// marks the cookie for HTTPS only.
func New(d *desk.Desk, s *store.Store, log *slog.Logger, secure bool) (http.Handler, func()) {
	srv := &Server{desk: d, log: log, sweeper: postgresstore.NewWithCleanupInterval(s.SQL(), 10*time.Minute)}
	sm := scs.New()
	sm.Store = srv.sweeper
	sm.Lifetime, sm.IdleTimeout = 7*24*time.Hour, 24*time.Hour
	sm.Cookie.Name, sm.Cookie.HttpOnly, sm.Cookie.SameSite, sm.Cookie.Secure = "inklatch", true, http.SameSiteStrictMode, secure
	sm.ErrorFunc = func(w http.ResponseWriter, _ *http.Request, err error) {
		log.Error("session", "error", err)
		writeProblem(w, &desk.Problem{Status: 503, Title: "The database did not answer. What you typed is kept here; try again in a moment."})
	}
	srv.sessions = sm

	e := echo.New()
	e.Logger = log
	e.HTTPErrorHandler = srv.fail
	strict := api.NewStrictHandler(srv, []api.StrictMiddlewareFunc{srv.person})
	api.RegisterHandlers(e, strict)
	e.Any("/api/*", func(*echo.Context) error {
		return &desk.Problem{Status: 404, Title: "There is nothing at this address."}
	})
	pages, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded above
	}
	e.GET("/*", screens(pages))

	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		writeProblem(w, &desk.Problem{Status: 403, Title: "This request came from another site and was not carried out."})
	}))
	var h http.Handler = sm.LoadAndSave(e)
	h = skipSession(h, e, sm)
	h = guard.Handler(h)
	h = limitBody(h)
	if zip, err := gzhttp.NewWrapper(gzhttp.CompressionLevel(1)); err == nil { // fast: views are fetched at every key
		h = zip(h)
	}
	h = headers(h)
	return h, srv.sweeper.StopCleanup
}

// skipSession serves files without a session, and event streams with one that
// is only read: the session manager would hold their answer back to its end.
func skipSession(with, e http.Handler, sm *scs.SessionManager) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case !strings.HasPrefix(r.URL.Path, "/api/"):
			e.ServeHTTP(w, r)
		case strings.HasSuffix(r.URL.Path, "/events"):
			token := ""
			if c, err := r.Cookie(sm.Cookie.Name); err == nil {
				token = c.Value
			}
			ctx, err := sm.Load(r.Context(), token)
			if err != nil {
				sm.ErrorFunc(w, r, err)
				return
			}
			e.ServeHTTP(w, r.WithContext(ctx))
		default:
			with.ServeHTTP(w, r)
		}
	})
}

// maxBody is the largest request body: a latch file and some room.
const maxBody = 64 << 20

func limitBody(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		limit := int64(4 << 20)
		if r.URL.Path == "/api/import" || r.URL.Path == "/api/engines/import" {
			limit = maxBody
		}
		r.Body = http.MaxBytesReader(w, r.Body, limit)
		h.ServeHTTP(w, r)
	})
}

// policy is the content policy. Scripts and styles come from this server alone;
// nonce admits the style elements that dialogs add while they are open.
func policy(nonce string) string {
	style := "'self'"
	if nonce != "" {
		style += " 'nonce-" + nonce + "'"
	}
	return "default-src 'none'; script-src 'self'; style-src " + style + "; font-src 'self'; img-src 'self' data:; connect-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
}

// headers are the security headers of every answer.
func headers(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		hd := w.Header()
		hd.Set("Content-Security-Policy", policy(""))
		hd.Set("X-Content-Type-Options", "nosniff")
		hd.Set("X-Frame-Options", "DENY")
		hd.Set("Referrer-Policy", "same-origin")
		hd.Set("Cross-Origin-Opener-Policy", "same-origin")
		hd.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
		if strings.HasPrefix(r.URL.Path, "/api/") {
			hd.Set("Cache-Control", "no-store")
		}
		h.ServeHTTP(w, r)
	})
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

// open operations are those nobody has to be signed in for.
var openOperations = map[string]bool{"Health": true, "SignIn": true}

// person puts the signed-in person into the context and turns everybody else
// away.
func (s *Server) person(next api.StrictHandlerFunc, operation string) api.StrictHandlerFunc {
	return func(c *echo.Context, request any) (any, error) {
		ctx := c.Request().Context()
		if !openOperations[operation] {
			id := s.sessions.GetInt64(ctx, "person")
			if id == 0 {
				return nil, &desk.Problem{Status: 401, Title: "Sign in first."}
			}
			u, err := s.desk.UserByID(ctx, id)
			if err != nil {
				return nil, err
			}
			ctx = context.WithValue(ctx, userKey{}, u)
		}
		ctx = context.WithValue(ctx, placeKey{}, place(c.Request()))
		c.SetRequest(c.Request().WithContext(ctx))
		return next(c, request)
	}
}

type placeKey struct{}

// place is where a request comes from, for the sign-in limit.
func place(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	return host
}

func user(ctx context.Context) *desk.User { return ctx.Value(userKey{}).(*desk.User) }

// fail turns an error into problem details (RFC 9457).
func (s *Server) fail(c *echo.Context, err error) {
	var p *desk.Problem
	var http4 *echo.HTTPError
	var big *http.MaxBytesError
	var syntax *json.SyntaxError
	switch {
	case errors.As(err, &p):
	case errors.As(err, &big):
		p = &desk.Problem{Status: 413, Title: "That is too large to be read. Nothing was changed."}
	case errors.As(err, &syntax):
		p = &desk.Problem{Status: 400, Title: "The request is not JSON.", Detail: syntax.Error()}
	case errors.As(err, &http4):
		p = &desk.Problem{Status: http4.Code, Title: http.StatusText(http4.Code) + ".", Detail: http4.Message}
	case errors.Is(err, context.Canceled):
		return
	default:
		if st, ok := err.(interface{ StatusCode() int }); ok && st.StatusCode() < 500 {
			p = &desk.Problem{Status: st.StatusCode(), Title: http.StatusText(st.StatusCode()) + ".", Detail: err.Error()}
			break
		}
		s.log.Error("request failed", "path", c.Request().URL.Path, "error", err)
		p = &desk.Problem{Status: 500, Title: "Something went wrong on the server. What you typed is kept here; try again in a moment."}
	}
	writeProblem(c.Response(), p)
}

func writeProblem(w http.ResponseWriter, p *desk.Problem) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(p.Status)
	out := api.Problem{Type: "about:blank", Title: p.Title, Status: p.Status}
	if p.Detail != "" {
		out.Detail = &p.Detail
	}
	if p.Field != "" {
		out.Field = &p.Field
	}
	_ = json.NewEncoder(w).Encode(out)
}
