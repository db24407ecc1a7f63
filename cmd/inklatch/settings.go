package main

import (
	"context"
	"crypto/ed25519"
	"crypto/rand"
	"crypto/x509"
	"encoding/hex"
	"encoding/pem"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/netip"
	"os"
	"path/filepath"
	"strings"
	"sync"

	"github.com/caarlos0/env/v11"

	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/cluster"
)

// settings come from the environment; the README lists them.
type settings struct {
	// DatabaseURL uses an existing server instead of one of our own, OwnerURL
	// signs in to it for migrations.
	DatabaseURL string `env:"DATABASE_URL"`
	OwnerURL    string `env:"DATABASE_OWNER_URL"`
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
	cluster *cluster.Cluster
	stop    func() error
}

// open connects to the database, starting our own server where none is named.
// With attach, one that another program runs already will do.
func (s settings) open(ctx context.Context, log *slog.Logger, attach bool) (*place, error) {
	p := &place{stop: func() error { return nil }}
	p.conf = store.Config{URL: s.DatabaseURL, OwnerURL: s.OwnerURL, Log: log}
	if s.DatabaseURL == "" {
		if err := p.own(ctx, s, attach); err != nil {
			return nil, err
		}
	} else if err := os.MkdirAll(s.Data, 0o755); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	key, err := s.key()
	if err != nil {
		return nil, errors.Join(err, p.stop())
	}
	p.conf.Key, p.conf.Keep = key, s.keeper()
	if p.store, err = store.Open(ctx, p.conf); err != nil {
		return nil, errors.Join(err, p.stop())
	}
	for _, w := range p.store.Warnings() {
		log.Warn(w)
	}
	return p, nil
}

// own starts our own server, or joins the one that runs.
func (p *place) own(ctx context.Context, s settings, attach bool) error {
	dir := filepath.Join(s.Data, "pg")
	c, err := cluster.Start(ctx, dir)
	switch {
	case err == nil:
		p.cluster, p.stop = c, c.Stop
	case attach && errors.Is(err, cluster.ErrInUse):
		if c, err = cluster.Attach(dir); err != nil {
			return err
		}
	default:
		return err
	}
	p.conf.URL, p.conf.OwnerURL = c.URL, c.OwnerURL
	return nil
}

// Close closes the database and stops a server of our own.
func (p *place) Close() error { return errors.Join(p.store.Close(), p.stop()) }

const keyFile, publicFile, anchorsFile = "record.key", "record.pub", "anchors.log"

// key is the private key that signs the record's head, made at the first start.
// It is kept beside the database and never in it.
func (s settings) key() (ed25519.PrivateKey, error) {
	file := filepath.Join(s.Data, keyFile)
	b, err := os.ReadFile(file)
	if errors.Is(err, os.ErrNotExist) {
		return s.makeKey(file)
	}
	if err != nil {
		return nil, fmt.Errorf("reading the key of the record: %w", err)
	}
	block, _ := pem.Decode(b)
	if block == nil {
		return nil, fmt.Errorf("%s is not a key. Bring the file back from a backup; anchors that were printed cannot be made again without it", file)
	}
	k, err := x509.ParsePKCS8PrivateKey(block.Bytes)
	if err != nil {
		return nil, fmt.Errorf("reading the key of the record: %w", err)
	}
	key, ok := k.(ed25519.PrivateKey)
	if !ok {
		return nil, fmt.Errorf("%s is not an Ed25519 key", file)
	}
	return key, nil
}

func (s settings) makeKey(file string) (ed25519.PrivateKey, error) {
	pub, key, err := ed25519.GenerateKey(rand.Reader)
	if err != nil {
		return nil, err
	}
	der, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return nil, err
	}
	f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if errors.Is(err, os.ErrExist) {
		return s.key() // another copy was quicker
	}
	if err != nil {
		return nil, fmt.Errorf("keeping the key of the record: %w", err)
	}
	defer f.Close()
	if err := pem.Encode(f, &pem.Block{Type: "PRIVATE KEY", Bytes: der}); err != nil {
		return nil, fmt.Errorf("keeping the key of the record: %w", err)
	}
	return key, os.WriteFile(filepath.Join(s.Data, publicFile), []byte(hex.EncodeToString(pub)+"\n"), 0o644)
}

// keeper writes anchors down outside the database, a line each.
func (s settings) keeper() func(store.Anchor) error {
	var mu sync.Mutex
	return func(a store.Anchor) error {
		mu.Lock()
		defer mu.Unlock()
		f, err := os.OpenFile(filepath.Join(s.Data, anchorsFile), os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o644)
		if err != nil {
			return err
		}
		_, err = fmt.Fprintln(f, a.Line())
		return errors.Join(err, f.Close())
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
	p, err := set.open(ctx, slog.New(slog.NewTextHandler(io.Discard, nil)), true)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, p.Close()) }()
	return f(ctx, p, desk.New(p.store))
}
