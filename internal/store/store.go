// Package store keeps everything in PostgreSQL: people, engine sheets,
// procedures with their revisions, drafts step by step, and the record.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database. It is safe for use by many goroutines.
type Store struct {
	db  *gorm.DB
	sql *sql.DB
}

// ErrNotFound is the error of looking for something that is not there.
var ErrNotFound = errors.New("not found")

// Open connects to the database at url and brings its schema up to date.
func Open(ctx context.Context, url string) (*Store, error) {
	db, err := gorm.Open(postgres.Open(url), &gorm.Config{Logger: logger.Discard, TranslateError: true})
	if err != nil {
		return nil, fmt.Errorf("connecting to PostgreSQL: %w", err)
	}
	raw, err := db.DB()
	if err != nil {
		return nil, fmt.Errorf("connecting to PostgreSQL: %w", err)
	}
	raw.SetMaxOpenConns(16)
	raw.SetConnMaxIdleTime(5 * time.Minute)
	s := &Store{db: db, sql: raw}
	if err := s.migrate(ctx); err != nil {
		raw.Close()
		return nil, err
	}
	return s, nil
}

func (s *Store) migrate(ctx context.Context) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, s.sql, dir)
	if err != nil {
		return fmt.Errorf("reading migrations: %w", err)
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("bringing the schema up to date: %w", err)
	}
	jobs, err := rivermigrate.New(riverdatabasesql.New(s.sql), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return fmt.Errorf("reading the job queue's migrations: %w", err)
	}
	if _, err := jobs.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("bringing the job queue up to date: %w", err)
	}
	return nil
}

// SQL is the plain connection pool, for the session store and the job queue.
func (s *Store) SQL() *sql.DB { return s.sql }

// Close closes the connections.
func (s *Store) Close() error { return s.sql.Close() }

// in runs f in one transaction.
func (s *Store) in(ctx context.Context, f func(tx *gorm.DB) error) error {
	return s.db.WithContext(ctx).Transaction(f)
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
