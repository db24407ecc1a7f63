// Package store keeps everything in PostgreSQL: people, engine sheets,
// procedures with their revisions, drafts step by step, and the record. The
// program signs in as a role that owns nothing; migrations run as the owner.
package store

import (
	"cmp"
	"context"
	"crypto/ed25519"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Config says where the database is and who signs the record.
type Config struct {
	// URL is the application's; its role needs to own nothing.
	URL string
	// OwnerURL is the role that migrations run as. Empty takes URL for both, with
	// a warning.
	OwnerURL string
	// Pool is how many connections are held at most, 16 when 0.
	Pool int
	// ListenURL is where events of other servers are heard; URL where it is empty.
	ListenURL string
	// Existing opens a database that is there, with the schema of this program, and makes
	// neither.
	Existing bool
	// Alive says whether the server's main process lives, where that is known: connections
	// that are open may answer for a while after it has died.
	Alive func() bool
	// Key signs the head of the record; nil leaves it unsigned.
	Key ed25519.PrivateKey
	// Former are public keys, in hexadecimal, that signed it before.
	Former []string
	// Keep gets every anchor once what it vouches for is committed, to keep it
	// outside the database; nil keeps none.
	Keep func(Anchor) error
	// Log hears of what cannot be told to a caller; nil says nothing.
	Log *slog.Logger
}

// Store is an open database. It is safe for use by many goroutines.
type Store struct {
	db     *gorm.DB
	sql    *sql.DB
	conf   Config
	schema string
	warn   []string
	pulse  pulse
}

// ErrNotFound is the error of looking for something that is not there.
var ErrNotFound = errors.New("not found")

// Unreadable reports whether the database refused a text that cannot be kept: a
// NUL, or bytes that are no UTF-8.
func Unreadable(err error) bool { return state(err, "22021", "22P05") }

// Away reports whether the database did not answer, or gave up on a question:
// the same may well work a moment later.
func Away(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		// Lock and statement limits, no room for connections, shutting down,
		// starting up, disk full, read only.
		return state(err, "55P03", "57014", "40001", "40P01", "25006", "53100", "25P03") || strings.HasPrefix(pg.Code, "57P") || strings.HasPrefix(pg.Code, "53") || strings.HasPrefix(pg.Code, "08")
	}
	var op *net.OpError
	return errors.As(err, &op) || errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, context.DeadlineExceeded) || pgconn.Timeout(err) || errors.As(err, new(*pgconn.ConnectError))
}

func state(err error, codes ...string) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && slices.Contains(codes, pg.Code)
}

// The time limits of the database. A request is given up before a statement of
// it is, so that the person hears why.
const (
	StatementLimit = 20 * time.Second
	LockLimit      = 10 * time.Second
	IdleLimit      = 30 * time.Second
)

// connect opens a pool with the time limits set.
// limits set how long a statement, a wait for a lock and an idle transaction may last, for
// a connection.
var limits = func() string {
	ms := func(d time.Duration) string { return strconv.FormatInt(d.Milliseconds(), 10) }
	return fmt.Sprintf("set_config('statement_timeout', '%s', false), set_config('lock_timeout', '%s', false), set_config('idle_in_transaction_session_timeout', '%s', false)",
		ms(StatementLimit), ms(LockLimit), ms(IdleLimit))
}()

func connect(url string, most int) (*sql.DB, error) {
	c, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("reading the database URL: %w", err)
	}
	c.RuntimeParams["application_name"] = "inklatch"
	c.RuntimeParams["timezone"] = "UTC" // the record vouches for rows as text
	c.ConnectTimeout = 5 * time.Second
	// Not as start parameters: what pools connections refuses those it does not know.
	db := stdlib.OpenDB(*c, stdlib.OptionAfterConnect(func(ctx context.Context, c *pgx.Conn) error {
		_, err := c.Exec(ctx, "SELECT "+limits, pgx.QueryExecModeSimpleProtocol)
		return err
	}))
	db.SetMaxOpenConns(most)
	db.SetMaxIdleConns(most)
	db.SetConnMaxIdleTime(5 * time.Minute)
	return db, nil
}

// Open connects to the database and brings its schema up to date.
func Open(ctx context.Context, conf Config) (*Store, error) {
	if conf.Pool == 0 {
		conf.Pool = 16
	}
	if conf.Log == nil {
		conf.Log = slog.New(slog.DiscardHandler)
	}
	raw, err := connect(conf.URL, conf.Pool)
	if err != nil {
		return nil, err
	}
	s := &Store{sql: raw, conf: conf}
	if err := s.prepare(ctx); err != nil {
		raw.Close()
		return nil, err
	}
	s.db, err = gorm.Open(postgres.New(postgres.Config{Conn: raw}), &gorm.Config{Logger: logger.Discard, TranslateError: true, SkipDefaultTransaction: true})
	if err != nil {
		raw.Close()
		return nil, fmt.Errorf("connecting to PostgreSQL: %w", err)
	}
	take := func() error { return cmp.Or(s.adopt(ctx), s.adoptRows(ctx)) }
	if conf.Existing {
		take = func() error { return nil }
	}
	if err := take(); err != nil {
		raw.Close()
		return nil, err
	}
	return s, nil
}

// SQL is the plain connection pool, for the job queue.
func (s *Store) SQL() *sql.DB { return s.sql }

// Warnings are what is weaker about this database than it could be, a sentence
// each.
func (s *Store) Warnings() []string { return s.warn }

// Close closes the connections.
func (s *Store) Close() error { return s.sql.Close() }

// tx is one transaction and what is to happen once it has been committed.
type tx struct {
	Reads
	s       *Store
	anchors []Anchor
	// touched are rows the record vouches for that no line has spoken of yet.
	touched map[string][][]any
	// later are lines that wait for what is still written with them.
	later []line
}

// in runs f in one transaction. Everything f reads it reads through it.
func (s *Store) in(ctx context.Context, f func(t *tx) error) error {
	t := &tx{s: s}
	err := s.db.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		t.Reads = Reads{db}
		if err := f(t); err != nil {
			return err
		}
		if err := t.flush(); err != nil || len(t.touched) == 0 {
			return err
		}
		return t.append(line{what: "seal"}) // what was written after the last line
	})
	if err != nil {
		return err
	}
	for _, a := range t.anchors {
		if s.conf.Keep == nil {
			break
		}
		if err := s.conf.Keep(a); err != nil {
			s.conf.Log.Error("an anchor of the record could not be kept outside the database", "seq", a.Seq, "error", err)
		}
	}
	return nil
}

// pulse is the last answer to whether the database takes writes.
type pulse struct {
	mu  sync.Mutex
	at  time.Time
	err error
}

// The pulse is felt at most once a second, and is lost after two seconds
// without an answer.
const (
	pulseEvery = time.Second
	pulseLimit = 2 * time.Second
)

var errDead = errors.New("PostgreSQL has died")

// Probe writes to the database and says why that did not work: it is dead,
// frozen, full, or takes no writes.
func (s *Store) Probe(ctx context.Context) error {
	p := &s.pulse
	p.mu.Lock()
	defer p.mu.Unlock()
	if s.conf.Alive != nil && !s.conf.Alive() {
		p.at, p.err = time.Time{}, errDead
		return p.err
	}
	if time.Since(p.at) < pulseEvery {
		return p.err
	}
	limited, cancel := context.WithTimeout(context.WithoutCancel(ctx), pulseLimit)
	defer cancel()
	done := make(chan error, 1)
	go func() { done <- s.beat(limited) }()
	select { // a frozen server may keep even a cancelled call waiting
	case p.err = <-done:
	case <-time.After(pulseLimit + 200*time.Millisecond):
		p.err = context.DeadlineExceeded
	}
	p.at = time.Now()
	return p.err
}

// beat writes over a connection of its own: those of the pool go on for a while
// when the server takes no new ones any more.
func (s *Store) beat(ctx context.Context) error {
	conf, err := pgx.ParseConfig(s.conf.URL)
	if err != nil {
		return err
	}
	c, err := pgx.ConnectConfig(ctx, conf)
	if err != nil {
		return err
	}
	defer c.Close(context.WithoutCancel(ctx))
	_, err = c.Exec(ctx, "UPDATE pulse SET at = now() WHERE id = 1")
	return err
}

func one[T any](db *gorm.DB, where string, args ...any) (*T, error) {
	var v T
	err := db.Where(where, args...).First(&v).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	return &v, nil
}

func many[T any](db *gorm.DB, order, where string, args ...any) ([]T, error) {
	var v []T
	err := db.Where(where, args...).Order(order).Find(&v).Error
	return v, err
}
