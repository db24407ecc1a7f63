package web

import (
	"bytes"
	"context"
	"io"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"inklatch/internal/desk"
	"inklatch/internal/format/oldpage"
)

// isStream reports whether a request is for events, which come for as long as
// somebody listens.
func isStream(r *http.Request) bool { return strings.HasSuffix(r.URL.Path, "/events") }

// isUpload reports whether a request brings a file.
func isUpload(r *http.Request) bool {
	return r.URL.Path == "/api/import" || r.URL.Path == "/api/engines/import" || isPhoto(r) || isShelfFile(r) || isTable(r) || isOldPage(r)
}

// isShelfFile tells the file of a tool or a document, and isTable a torque table that comes
// back: neither is text.
func isShelfFile(r *http.Request) bool {
	return r.Method == http.MethodPut && r.URL.Path == "/api/shelf/file"
}

func isTable(r *http.Request) bool {
	return r.Method == http.MethodPost && strings.HasPrefix(r.URL.Path, "/api/engines/") && strings.HasSuffix(r.URL.Path, "/torques")
}

// isOldPage tells a page that was written elsewhere: a document, or what was copied from one.
func isOldPage(r *http.Request) bool {
	return r.Method == http.MethodPost && strings.HasPrefix(r.URL.Path, "/api/revisions/") && strings.HasSuffix(r.URL.Path, "/old-page")
}

// isPhoto tells the photo of a field note, which is no text and has a limit of its
// own: a little over what is kept, so that what is too large hears how large it may
// be.
func isPhoto(r *http.Request) bool {
	return r.Method == http.MethodPut && strings.HasPrefix(r.URL.Path, "/api/notes/") && strings.HasSuffix(r.URL.Path, "/photo")
}

// The time a request may take, and one that brings a file.
const (
	requestLimit = 25 * time.Second
	uploadLimit  = 2 * time.Minute
)

// limitTime bounds every request but event streams.
func limitTime(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if isStream(r) {
			h.ServeHTTP(w, r)
			return
		}
		most := requestLimit
		if isUpload(r) {
			most = uploadLimit
		}
		// A person who goes away does not take their edit back: what has arrived
		// is carried out.
		ctx := r.Context()
		if r.Method != http.MethodGet {
			ctx = context.WithoutCancel(ctx)
		}
		ctx, cancel := context.WithTimeout(ctx, most)
		defer cancel()
		h.ServeHTTP(w, r.WithContext(ctx))
	})
}

// maxBody is the largest request body: a latch file and some room.
const (
	maxBody  = 64 << 20
	maxShelf = 11 << 20
	maxOld   = oldpage.MostBytes + 1<<20 // what is too large hears how large it may be
	maxPhoto = 6 << 20
	maxJSON  = 4 << 20
)

func limitBody(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		limit := int64(maxJSON)
		switch {
		case isPhoto(r), isTable(r):
			limit = maxPhoto
		case isShelfFile(r):
			limit = maxShelf
		case isOldPage(r):
			limit = maxOld
		case isUpload(r):
			limit = maxBody
		}
		r.Body = http.MaxBytesReader(w, r.Body, limit)
		h.ServeHTTP(w, r)
	})
}

// readText reads a JSON body whole before anything is done with it, and refuses
// one that is no text: a reader would put other letters in place of its bytes.
func readText(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Body == nil || r.Method == http.MethodGet || isUpload(r) {
			h.ServeHTTP(w, r)
			return
		}
		b, err := io.ReadAll(r.Body)
		switch {
		case err != nil && len(b) >= maxJSON:
			writeProblem(w, &desk.Problem{Status: 413, Title: "That is too large to be read. Nothing was changed."})
			return
		case err != nil:
			writeProblem(w, &desk.Problem{Status: 400, Title: "The request was cut off. Nothing was changed."})
			return
		case !utf8.Valid(b):
			writeProblem(w, &desk.Problem{Status: 422, Title: "There are bytes in this that are no text. Nothing was changed."})
			return
		}
		r.Body = io.NopCloser(bytes.NewReader(b))
		h.ServeHTTP(w, r)
	})
}

// heads answers HEAD as it would GET; the server sends no body.
func heads(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodHead && !isStream(r) {
			c := *r
			c.Method = http.MethodGet
			r = &c
		}
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
func (s *Site) headers(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		hd := w.Header()
		hd.Set("Content-Security-Policy", policy(""))
		hd.Set("X-Content-Type-Options", "nosniff")
		hd.Set("X-Frame-Options", "DENY")
		hd.Set("Referrer-Policy", "same-origin")
		hd.Set("Cross-Origin-Opener-Policy", "same-origin")
		hd.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
		if s.conf.Secure {
			hd.Set("Strict-Transport-Security", "max-age=31536000; includeSubDomains")
		}
		if strings.HasPrefix(r.URL.Path, "/api/") {
			hd.Set("Cache-Control", "no-store")
		}
		// A body in chunks may have come with a length too, which two servers in a
		// row can read differently (RFC 9112, section 6.1): nothing follows it on
		// this connection.
		if len(r.TransferEncoding) > 0 {
			hd.Set("Connection", "close")
		}
		h.ServeHTTP(w, r)
	})
}

// place is where a request comes from: the address it was sent from or, behind
// proxies that are trusted, the nearest address that is none of theirs.
func (s *Site) place(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	if !s.trusted(host) {
		return host
	}
	hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for _, hop := range slices.Backward(hops) {
		a, err := netip.ParseAddr(strings.TrimSpace(hop))
		if err != nil {
			break
		}
		if host = a.Unmap().String(); !s.trusted(host) {
			break
		}
	}
	return host
}

func (s *Site) trusted(host string) bool {
	a, err := netip.ParseAddr(host)
	return err == nil && slices.ContainsFunc(s.conf.Proxies, func(p netip.Prefix) bool { return p.Contains(a.Unmap()) })
}

// agent is how a browser calls itself, cut to what a list shows.
func agent(r *http.Request) string {
	a := strings.ToValidUTF8(r.UserAgent(), "")
	a = strings.Map(func(c rune) rune {
		if c < ' ' {
			return -1
		}
		return c
	}, a)
	if len(a) > 200 {
		a = strings.ToValidUTF8(a[:200], "")
	}
	return a
}
