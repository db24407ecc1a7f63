package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/netip"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/caarlos0/env/v11"

	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgserver"
)

// settings come from the environment; the README lists them.
type settings struct {
	// DatabaseURL uses an existing server instead of one of our own, OwnerURL
	// signs in to it for migrations.
	DatabaseURL string `env:"DATABASE_URL"`
	OwnerURL    string `env:"DATABASE_OWNER_URL"`
	// ListenURL is a direct address for hearing other servers, where DATABASE_URL goes
	// through something that pools transactions.
	ListenURL string `env:"DATABASE_LISTEN_URL"`
	// Data is the folder of our own server, the record's key and its anchors.
	Data string `env:"INKLATCH_DATA" envDefault:".inklatch"`
	// Listen is the address; port 0 takes a free one.
	Listen string `env:"INKLATCH_LISTEN" envDefault:"127.0.0.1:0"`
	// Address is where people reach the site.
	Address string `env:"INKLATCH_URL"`
	// Secure marks cookies for HTTPS only; certificates do so too.
	Secure  bool   `env:"INKLATCH_SECURE"`
	TLSCert string `env:"INKLATCH_TLS_CERT"`
	TLSKey  string `env:"INKLATCH_TLS_KEY"`
	// Proxies are networks whose word about where a request comes from counts.
	Proxies []string `env:"INKLATCH_TRUSTED_PROXIES"`
	// Metrics is the address of the figures, "off" for none.
	Metrics string `env:"INKLATCH_METRICS" envDefault:"127.0.0.1:0"`
	// SMTP and MailFrom send links; Log is text or json.
	SMTP     string `env:"INKLATCH_SMTP"`
	MailFrom string `env:"INKLATCH_MAIL_FROM" envDefault:"ink-latch@localhost"`
	Log      string `env:"INKLATCH_LOG" envDefault:"text"`
	// Guard is a file for refused sign-ins with the address they came from, for a program
	// that shuts such addresses out; nothing keeps addresses without it.
	Guard string `env:"INKLATCH_GUARD_LOG"`
	// Pace is how many words a minute count as read while a step stands in view;
	// LastReleases lets the last latch release instead of a lead.
	Pace         int  `env:"INKLATCH_READING_PACE" envDefault:"150"`
	LastReleases bool `env:"INKLATCH_LAST_LATCH_RELEASES"`
}

// The slowest and the fastest reading that a house may count, words a minute.
const (
	leastPace = 40
	mostPace  = 250
)

func read() (settings, error) {
	set, err := env.ParseAs[settings]()
	if err != nil {
		return set, err
	}
	if (set.TLSCert == "") != (set.TLSKey == "") {
		return set, errors.New("INKLATCH_TLS_CERT and INKLATCH_TLS_KEY go together")
	}
	set.Secure = set.Secure || set.TLSCert != ""
	if err := set.check(); err != nil {
		return set, err
	}
	if set.Pace < leastPace || set.Pace > mostPace {
		return set, fmt.Errorf("INKLATCH_READING_PACE is %d to %d words a minute, not %d", leastPace, mostPace, set.Pace)
	}
	if set.Log != "text" && set.Log != "json" {
		return set, fmt.Errorf("INKLATCH_LOG is text or json, not %q", set.Log)
	}
	return set, nil
}

// logger writes to the standard error stream.
func (s settings) logger() *slog.Logger {
	if s.Log == "json" {
		return slog.New(slog.NewJSONHandler(os.Stderr, nil))
	}
	return slog.New(slog.NewTextHandler(os.Stderr, nil))
}

// proxies reads the trusted networks; a lone address is a network of one.
func (s settings) proxies() ([]netip.Prefix, error) {
	var out []netip.Prefix
	for _, p := range s.Proxies {
		p = strings.TrimSpace(p)
		if a, err := netip.ParseAddr(p); err == nil {
			out = append(out, netip.PrefixFrom(a, a.BitLen()))
			continue
		}
		n, err := netip.ParsePrefix(p)
		if err != nil {
			return nil, fmt.Errorf("INKLATCH_TRUSTED_PROXIES names networks such as 10.0.0.0/8, not %q", p)
		}
		out = append(out, n)
	}
	return out, nil
}

// place is an open database with what it needs beside it.
type place struct {
	store *store.Store
	conf  store.Config
	// cluster is our own server, nil where there is another or another program
	// runs it.
	cluster *pgserver.Cluster
	// folder is where the database of our own server is, empty for another's.
	folder string
	stop   func() error
}

// opening is what a command may do where it opens a house.
type opening int

const (
	// beside opens a house that is there, whether another program serves it or not, and
	// makes nothing: no folder, no database, no key, no new schema.
	beside opening = iota
	// making makes what is missing.
	making
)

// open connects to the database, starting our own server where none is named.
func (s settings) open(ctx context.Context, log *slog.Logger, how opening) (*place, error) {
	if _, err := os.Stat(filepath.Join(s.Data, unfinished)); err == nil {
		return nil, fmt.Errorf("a restore into %s was cut off. Restore the backup again; to begin anew instead, take the folder %s in it away", s.Data, unfinished)
	}
	p := &place{stop: func() error { return nil }}
	p.conf = store.Config{URL: s.DatabaseURL, OwnerURL: s.OwnerURL, ListenURL: s.ListenURL, Log: log, Existing: how == beside}
	if s.DatabaseURL == "" {
		if err := p.own(ctx, s, how); err != nil {
			return nil, err
		}
	} else if how == making {
		if err := os.MkdirAll(s.Data, 0o755); err != nil {
			return nil, fmt.Errorf("making the data folder: %w", err)
		}
	}
	if err := s.patient(ctx, log, p, how); err != nil {
		return nil, errors.Join(err, p.stop())
	}
	for _, w := range p.store.Warnings() {
		log.Warn(w)
	}
	return p, nil
}

// patience is how long a server that starts waits for a database of others: both may come
// up with the machine.
const patience = time.Minute

// patient opens the store and, where somebody else's database is not there yet, waits for
// it.
func (s settings) patient(ctx context.Context, log *slog.Logger, p *place, how opening) error {
	end := time.Now().Add(patience)
	for {
		err := s.keyed(ctx, p, how)
		if err == nil {
			p.store, err = store.Open(ctx, p.conf)
		}
		if err == nil || how == beside || s.DatabaseURL == "" || !store.Away(err) || time.Now().After(end) {
			return err
		}
		log.Warn("the database is not there yet", "error", err)
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(2 * time.Second):
		}
	}
}

// own starts our own server, or joins the one that runs.
func (p *place) own(ctx context.Context, s settings, how opening) error {
	dir := filepath.Join(s.Data, "pg")
	if how == beside {
		if _, err := pgserver.Exists(dir); errors.Is(err, pgserver.ErrNone) {
			return fmt.Errorf("there is no house in %s, and none was made. Name its folder in INKLATCH_DATA; a new one begins with inklatch serve, demo or restore", s.Data)
		} else if err != nil {
			return err
		}
	}
	c, err := pgserver.Start(ctx, dir)
	switch {
	case err == nil:
		p.cluster, p.stop = c, c.Stop
	case how == beside && errors.Is(err, pgserver.ErrInUse):
		if c, err = pgserver.Attach(dir); err != nil {
			return err
		}
	default:
		return err
	}
	p.folder, p.conf.Alive = c.Dir(), c.Alive
	p.conf.URL, p.conf.OwnerURL = c.URL, c.OwnerURL
	return nil
}

// Close closes the database and stops a server of our own.
func (p *place) Close() error { return errors.Join(p.store.Close(), p.stop()) }

// keeper writes anchors down outside the database, a line each.
func (s settings) keeper() func(store.Anchor) error {
	var mu sync.Mutex
	return func(a store.Anchor) error {
		mu.Lock()
		defer mu.Unlock()
		file := filepath.Join(s.Data, anchorsFile)
		f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o644)
		if err != nil {
			return err
		}
		likeFolder(file)
		_, err = fmt.Fprintln(f, a.Line())
		return errors.Join(err, f.Close())
	}
}

// likeFolder gives a file to whoever the folder it lies in belongs to: a command that is run
// as root beside a service must not take its files over.
func likeFolder(file string) {
	if os.Geteuid() != 0 {
		return
	}
	info, err := os.Stat(filepath.Dir(file))
	if err != nil {
		return
	}
	if owner, ok := info.Sys().(*syscall.Stat_t); ok && owner.Uid != 0 {
		_ = os.Chown(file, int(owner.Uid), int(owner.Gid))
	}
}

// anchors reads anchors from a file, a line each. A last line that was cut off
// by a crash is let pass.
func anchors(file string) ([]store.Anchor, error) {
	b, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	whole := strings.HasSuffix(string(b), "\n")
	lines := strings.Split(strings.TrimSpace(string(b)), "\n")
	var out []store.Anchor
	for i, l := range lines {
		if l = strings.TrimSpace(l); l == "" || strings.HasPrefix(l, "#") {
			continue
		}
		a, err := store.ParseAnchor(l)
		if err != nil && i == len(lines)-1 && !whole {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("line %d of %s: %w", i+1, file, err)
		}
		out = append(out, a)
	}
	return out, nil
}

// with opens the database for one command, beside a server that runs or without
// one.
func with(ctx context.Context, f func(context.Context, *place, *desk.Desk) error) (err error) {
	if ctx == nil {
		ctx = context.Background()
	}
	set, err := read()
	if err != nil {
		return err
	}
	p, err := set.open(ctx, slog.New(slog.DiscardHandler), beside)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, p.Close()) }()
	return f(ctx, p, desk.New(p.store))
}
