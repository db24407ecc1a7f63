package web

import (
	"context"
	"crypto/rand"
	"fmt"
	"net/http"
	"runtime/debug"
	"strconv"
	"time"

	"github.com/prometheus/client_golang/prometheus"

	"inklatch/internal/desk"
)

// noted is what is found out about a request on its way, for the log and the
// figures. It holds no personal data beyond a person's number.
type noted struct {
	id        string
	operation string
	person    int64
}

type notedKey struct{}

// note is what is known of a request.
func note(ctx context.Context) *noted {
	if n, ok := ctx.Value(notedKey{}).(*noted); ok {
		return n
	}
	return &noted{}
}

func requestID(ctx context.Context) string { return note(ctx).id }

// slow is how long a request takes before the log says so.
const slow = time.Second

// figures are what a site counts.
type figures struct {
	requests *prometheus.CounterVec
	seconds  *prometheus.HistogramVec
	streams  prometheus.Gauge
	signIns  *prometheus.CounterVec
}

func newFigures(r prometheus.Registerer) *figures {
	f := &figures{
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "inklatch_requests_total", Help: "Requests by operation and status."}, []string{"operation", "status"}),
		seconds:  prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "inklatch_request_seconds", Help: "How long requests take.", Buckets: []float64{.005, .01, .025, .05, .1, .2, .5, 1, 5, 25}}, []string{"operation"}),
		streams:  prometheus.NewGauge(prometheus.GaugeOpts{Name: "inklatch_streams", Help: "Windows that listen for events."}),
		signIns:  prometheus.NewCounterVec(prometheus.CounterOpts{Name: "inklatch_sign_ins_total", Help: "Attempts to sign in by outcome."}, []string{"outcome"}),
	}
	if r != nil {
		r.MustRegister(f.requests, f.seconds, f.streams, f.signIns)
	}
	return f
}

// watched remembers the status of an answer, and whether there was one.
type watched struct {
	http.ResponseWriter
	status int
}

func (w *watched) WriteHeader(status int) {
	if w.status == 0 {
		w.status = status
	}
	w.ResponseWriter.WriteHeader(status)
}

func (w *watched) Write(b []byte) (int, error) {
	if w.status == 0 {
		w.status = http.StatusOK
	}
	return w.ResponseWriter.Write(b)
}

// Flush sends what has been written so far on its way.
func (w *watched) Flush() { _ = http.NewResponseController(w.ResponseWriter).Flush() }

// Unwrap lets flushing through.
func (w *watched) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// observed gives every request a name, counts it, and tells the log what was
// slow, refused or broken.
func (s *Site) observed(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		n := &noted{id: rand.Text()[:12], operation: "screens"}
		out := &watched{ResponseWriter: w}
		out.Header().Set("X-Request-Id", n.id)
		start := time.Now()
		defer func() {
			if e := recover(); e != nil {
				if e == http.ErrAbortHandler {
					panic(e)
				}
				s.log.Error("request broke", "request", n.id, "operation", n.operation, "error", fmt.Sprint(e), "stack", string(debug.Stack()))
				if out.status == 0 {
					writeProblem(out, &desk.Problem{Status: 500, Title: "Something went wrong on the server. What you typed is kept here; try again in a moment."})
				}
			}
			s.saw(r, n, out.status, time.Since(start))
		}()
		h.ServeHTTP(out, r.WithContext(context.WithValue(r.Context(), notedKey{}, n)))
	})
}

func (s *Site) saw(r *http.Request, n *noted, status int, took time.Duration) {
	if status == 0 {
		status = http.StatusOK
	}
	s.figures.requests.WithLabelValues(n.operation, strconv.Itoa(status)).Inc()
	if isStream(r) {
		return
	}
	s.figures.seconds.WithLabelValues(n.operation).Observe(took.Seconds())
	switch {
	case took > slow:
		s.log.Warn("slow request", "request", n.id, "operation", n.operation, "status", status, "person", n.person, "ms", took.Milliseconds())
	case status == 401 || status == 403 || status == 429:
		s.log.Info("refused", "request", n.id, "operation", n.operation, "status", status, "person", n.person)
	}
}
