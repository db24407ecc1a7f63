package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"github.com/spf13/cobra"

	"inklatch/demo"
	"inklatch/internal/desk"
	"inklatch/internal/mail"
	"inklatch/internal/store/pgserver"
	"inklatch/internal/web"
)

func serveCommand() *cobra.Command {
	return &cobra.Command{
		Use: "serve", Short: "Serve the application", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), cmd.OutOrStdout(), false)
		},
	}
}

func demoCommand() *cobra.Command {
	return &cobra.Command{
		Use: "demo", Short: "Serve the application with the made-up demo loaded", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), cmd.OutOrStdout(), true)
		},
	}
}

func serve(ctx context.Context, out io.Writer, withDemo bool) (err error) {
	if ctx == nil {
		ctx = context.Background()
	}
	ctx, cancel := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer cancel()
	set, err := read()
	if err != nil {
		return err
	}
	proxies, err := set.proxies()
	if err != nil {
		return err
	}
	log := set.logger()
	for _, name := range unknownSettings() {
		log.Warn("there is no such setting", "name", name)
	}
	guard, stopGuard, err := set.guardLog()
	if err != nil {
		return err
	}
	defer stopGuard()
	p, err := set.open(ctx, log, making)
	for n := 2; withDemo && n < 10 && errors.Is(err, pgserver.ErrInUse) && os.Getenv("INKLATCH_DATA") == ""; n++ {
		set.Data = fmt.Sprintf(".inklatch-%d", n) // a demo beside another one
		p, err = set.open(ctx, log, making)
	}
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, p.Close()) }()
	if withDemo {
		if err := demo.LoadLived(ctx, p.store); err != nil {
			return fmt.Errorf("loading the demo: %w", err)
		}
	}
	l, err := net.Listen("tcp", set.Listen)
	if err != nil {
		return fmt.Errorf("listening: %w", err)
	}
	if set.Address == "" {
		set.Address = set.scheme() + "://" + l.Addr().String()
	}
	d := desk.New(p.store)
	d.Signing(set.Pace, set.LastReleases)
	d.Log(log)
	letters, err := set.letters(d, withDemo)
	if err != nil {
		return err
	}
	defer letters()
	// What goes on by itself outlives the signal: it is stopped last, in order.
	alive, rest := context.WithCancel(context.WithoutCancel(ctx))
	defer rest()
	watch := p.guarded(alive, log)
	idle, err := d.Jobs.Work(alive)
	if err != nil {
		return err
	}
	registry := prometheus.NewRegistry()
	registry.MustRegister(collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), collectors.NewDBStatsCollector(p.store.SQL(), "inklatch"))
	registerFigures(registry, p, d)
	site := web.New(d, p.store, web.Config{Log: log, Secure: set.Secure, Address: set.Address, Proxies: proxies, Metrics: registry, Guard: guard})
	figures, err := set.figures(log, registry)
	if err != nil {
		return err
	}
	defer figures()
	if err := set.greet(ctx, out, d, withDemo); err != nil {
		return err
	}
	log.Info("started", "address", set.Address, "data", absolute(set.Data), "database", p.whereabouts(), "secure", set.Secure, "version", version())
	forget := set.tellAddress()
	defer forget()
	err = set.run(ctx, l, site)
	last, done := context.WithTimeout(context.Background(), 10*time.Second)
	defer done()
	err = errors.Join(err, idle(last))
	rest()
	watch.Wait()
	log.Info("stopped")
	return err
}

// guardLog opens the file of refused sign-ins; it is opened anew for each line, so that it
// may be moved away.
func (s settings) guardLog() (say func(line string), stop func(), err error) {
	if s.Guard == "" {
		return nil, func() {}, nil
	}
	write := func(line string) error {
		f, err := os.OpenFile(s.Guard, os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o600)
		if err != nil {
			return err
		}
		_, err = f.WriteString(line)
		return errors.Join(err, f.Close())
	}
	if err := write(""); err != nil {
		return nil, nil, fmt.Errorf("INKLATCH_GUARD_LOG is a file that can be written: %w", err)
	}
	lines := make(chan string, 256)
	done := make(chan struct{})
	go func() {
		defer close(done)
		for l := range lines {
			_ = write(l)
		}
	}()
	say = func(line string) {
		select {
		case lines <- time.Now().UTC().Format(time.RFC3339) + " " + line + "\n":
		default: // an attack that is faster than the disk has been seen
		}
	}
	return say, func() { close(lines); <-done }, nil
}

// whereabouts is where the database is, without who signs in to it.
func (p *place) whereabouts() string {
	if p.folder != "" {
		return p.folder
	}
	u, err := url.Parse(p.conf.URL)
	if err != nil {
		return "elsewhere"
	}
	return u.Host + u.Path
}

func absolute(dir string) string {
	if abs, err := filepath.Abs(dir); err == nil {
		return abs
	}
	return dir
}

// addressFile is where a server that runs says how it is reached, for commands beside it.
const addressFile = "address"

// tellAddress writes down how the site is reached, until it is forgotten.
func (s settings) tellAddress() (forget func()) {
	file := filepath.Join(s.Data, addressFile)
	if os.WriteFile(file, []byte(s.Address+"\n"), 0o644) != nil {
		return func() {}
	}
	likeFolder(file)
	return func() { os.Remove(file) }
}

// reached is how the site is reached, empty where nobody says.
func (s settings) reached() string {
	if s.Address != "" {
		return s.Address
	}
	b, err := os.ReadFile(filepath.Join(s.Data, addressFile))
	if err != nil {
		return ""
	}
	return strings.TrimSpace(string(b))
}

func (s settings) scheme() string {
	if s.TLSCert != "" {
		return "https"
	}
	return "http"
}

// guarded starts our own PostgreSQL again whenever it dies.
func (p *place) guarded(ctx context.Context, log *slog.Logger) *sync.WaitGroup {
	var wg sync.WaitGroup
	if p.cluster != nil {
		wg.Go(func() {
			p.cluster.Watch(ctx, func(what string, err error) {
				if err != nil {
					log.Error(what, "error", err)
				} else {
					log.Warn(what)
				}
			})
		})
	}
	return &wg
}

// letters sets up where links are sent. The demo catches them.
func (s settings) letters(d *desk.Desk, withDemo bool) (stop func(), err error) {
	stop = func() {}
	if s.SMTP == "" && withDemo {
		c, err := mail.Catch(filepath.Join(s.Data, "letters"))
		if err != nil {
			return nil, err
		}
		s.SMTP, stop = c.URL, func() { c.Close() }
	}
	if s.SMTP == "" {
		return stop, nil
	}
	m, err := mail.NewSender(s.SMTP, s.MailFrom)
	if err != nil {
		return nil, err
	}
	d.Jobs.MailBy(m, s.Address)
	return stop, nil
}

// figures serves Prometheus metrics on an address of their own.
func (s settings) figures(log *slog.Logger, r *prometheus.Registry) (stop func(), err error) {
	if s.Metrics == "off" || s.Metrics == "" {
		return func() {}, nil
	}
	l, err := net.Listen("tcp", s.Metrics)
	if err != nil {
		return nil, fmt.Errorf("listening for metrics: %w", err)
	}
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", promhttp.HandlerFor(r, promhttp.HandlerOpts{}))
	srv := &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second, WriteTimeout: 10 * time.Second}
	go srv.Serve(l)
	log.Info("metrics", "address", "http://"+l.Addr().String()+"/metrics")
	return func() { srv.Close() }, nil
}

// greet prints where the site is and how to get in.
func (s settings) greet(ctx context.Context, out io.Writer, d *desk.Desk, withDemo bool) error {
	fmt.Fprintf(out, "\nInk Latch is at %s\n", s.Address)
	if withDemo {
		fmt.Fprintf(out, "\nDemo sign-ins, all with the password “%s”:\n", demo.Password)
		for _, p := range demo.People {
			fmt.Fprintf(out, "  %-24s %s\n", p.Email, p.Roles)
		}
		fmt.Fprintf(out, "\nLetters of the demo are kept in %s and go nowhere.\n\n", filepath.Join(s.Data, "letters"))
		return nil
	}
	setup, err := d.Access.Setup(ctx)
	if err != nil || setup == nil {
		return err
	}
	fmt.Fprintf(out, "\nNobody can sign in yet. Set the first administrator up with this link; it works once, until %s:\n  %s/enter#%s\n\n", setup.Expires.Local().Format("2 January 15:04"), s.Address, setup.Secret)
	return nil
}

// run serves until the context ends. Then no new requests are taken, event
// streams are told, and requests that are under way are finished and answered:
// their contexts do not end with the signal.
func (s settings) run(ctx context.Context, l net.Listener, site *web.Site) error {
	srv := &http.Server{
		Handler: site, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 2 * time.Minute, WriteTimeout: 3 * time.Minute, IdleTimeout: 90 * time.Second, MaxHeaderBytes: 64 << 10,
		ErrorLog: slog.NewLogLogger(s.logger().Handler(), slog.LevelWarn),
	}
	failed := make(chan error, 1)
	go func() {
		if s.TLSCert != "" {
			failed <- srv.ServeTLS(l, s.TLSCert, s.TLSKey)
			return
		}
		failed <- srv.Serve(l)
	}()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	site.Leave()
	last, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	return srv.Shutdown(last)
}
