package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrNewer is the error of a program that is older than its database.
var ErrNewer = errors.New("this database was written by a newer Ink Latch")

// prepare brings the schema up to date as its owner and gives the application's
// role what it needs. Several copies that start at once do so one after another.
func (s *Store) prepare(ctx context.Context) error {
	url := s.conf.OwnerURL
	if url == "" {
		url = s.conf.URL
	}
	owner, err := connect(url, 4)
	if err != nil {
		return err
	}
	defer owner.Close()
	gate, err := owner.Conn(ctx)
	if err != nil {
		return fmt.Errorf("connecting to PostgreSQL: %w", err)
	}
	defer gate.Close()
	// Migrating may take its time, and so may waiting for another copy to.
	if _, err := gate.ExecContext(ctx, "SET statement_timeout = 0; SET lock_timeout = 0"); err != nil {
		return fmt.Errorf("connecting to PostgreSQL: %w", err)
	}
	if err := gate.QueryRowContext(ctx, "SELECT current_schema()").Scan(&s.schema); err != nil {
		return fmt.Errorf("finding the schema: %w", err)
	}
	if _, err := gate.ExecContext(ctx, "SELECT pg_advisory_lock(hashtext('inklatch ' || current_schema()))"); err != nil {
		return fmt.Errorf("waiting for another copy to bring the schema up to date: %w", err)
	}
	defer gate.ExecContext(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock_all()")
	if s.conf.Existing {
		return current(ctx, owner)
	}
	if err := migrate(ctx, owner); err != nil {
		return err
	}
	return s.grant(ctx, gate)
}

// ErrNoHouse is the error of a database in which there is no house.
var ErrNoHouse = errors.New("there is no house in this database")

// current holds the schema against this program, and makes nothing.
func current(ctx context.Context, owner *sql.DB) error {
	var there bool
	if err := owner.QueryRowContext(ctx, "SELECT to_regclass('goose_db_version') IS NOT NULL AND to_regclass('record') IS NOT NULL").Scan(&there); err != nil {
		return fmt.Errorf("connecting to PostgreSQL: %w", err)
	}
	if !there {
		return fmt.Errorf("%w, and none was made. A new one begins with inklatch serve, demo or restore", ErrNoHouse)
	}
	p, err := provider(owner)
	if err != nil {
		return err
	}
	have, err := p.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("reading the schema's version: %w", err)
	}
	switch newest := SchemaVersion(); {
	case have > newest:
		return fmt.Errorf("%w: its schema is %d and this program knows %d. Use the newer program", ErrNewer, have, newest)
	case have < newest:
		return fmt.Errorf("this database was written by an older Ink Latch: its schema is %d, this program's is %d. Use that program, or start this one once with inklatch serve; nothing was changed", have, newest)
	}
	return nil
}

// SchemaVersion is the schema that this program writes.
func SchemaVersion() int64 {
	all, _ := fs.Glob(migrations, "migrations/*.sql")
	newest := int64(0)
	for _, f := range all {
		if n, err := strconv.ParseInt(strings.SplitN(path.Base(f), "_", 2)[0], 10, 64); err == nil {
			newest = max(newest, n)
		}
	}
	return newest
}

func provider(owner *sql.DB) (*goose.Provider, error) {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, owner, dir)
	if err != nil {
		return nil, fmt.Errorf("reading migrations: %w", err)
	}
	return p, nil
}

func migrate(ctx context.Context, owner *sql.DB) error {
	p, err := provider(owner)
	if err != nil {
		return err
	}
	have, err := p.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("reading the schema's version: %w", err)
	}
	if newest := SchemaVersion(); have > newest {
		return fmt.Errorf("%w: its schema is %d and this program knows %d. Start the newer program", ErrNewer, have, newest)
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("bringing the schema up to date: %w", err)
	}
	jobs, err := rivermigrate.New(riverdatabasesql.New(owner), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return fmt.Errorf("reading the job queue's migrations: %w", err)
	}
	if _, err := jobs.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("bringing the job queue up to date: %w", err)
	}
	return nil
}

// rights are what the application's role may do to each table beside reading it.
// What is missing here it cannot do, whatever becomes of the program: it owns
// nothing, so it cannot take a trigger off either.
var rights = map[string]string{
	"people":   "INSERT, UPDATE (name, password_hash, roles, locked, theme, units, away_from, away_until, letters, lettered)",
	"links":    "INSERT, UPDATE (used_at)",
	"sessions": "INSERT, UPDATE (data, seal, seen_at), DELETE",
	// Nothing of these is ever changed: the right is for locking a row, and a trigger stands
	// before the rest.
	"engines": "INSERT, UPDATE (code)", "procedures": "INSERT, UPDATE (created_at)",
	"revisions": "INSERT, UPDATE (state, header, header_by, header_at, version, frozen, sha256, sheet_id, changed_by, changed_at, latched_at)",
	"steps":     "INSERT, UPDATE (pos, body, version, client, changed_by, gone)",
	"sheets":    "INSERT, UPDATE (state, sheet, version, sha256, changed_by, changed_at, released_by, released_at, asked_by, asked_at)",
	"batches":   "INSERT, UPDATE (undone)", "sheet_batches": "INSERT, UPDATE (undone)", "closings": "INSERT, DELETE",
	"record": "INSERT", "anchors": "INSERT", "pulse": "UPDATE (at)", "replies": "INSERT", "withdrawals": "INSERT", "field_photos": "INSERT", "shelf_files": "INSERT", "tool_checks": "INSERT", "house_rules": "INSERT",
	"readings": "INSERT, UPDATE (page, at, seal)", "sheet_readings": "INSERT, UPDATE (things, at, seal)",
	"reading_marks": "INSERT, UPDATE (seal), DELETE",
	"remarks":       "INSERT, UPDATE (state)", "mentions": "INSERT, UPDATE (at)", "reviews": "INSERT, UPDATE (due, person_id)",
	"field_notes": "INSERT, UPDATE (state, answer, answered_by, answered_at, remark_id)",
	// What is worked out from the rest.
	"uses": "INSERT, DELETE", "indexed": "INSERT, UPDATE (sheet_id, edition), DELETE",
	"standings": "INSERT, UPDATE, DELETE", "drills": "INSERT, UPDATE, DELETE", "sheet_standings": "INSERT, UPDATE, DELETE", "sheet_tools": "INSERT, DELETE", "sheet_sources": "INSERT, DELETE", "reproofs": "INSERT, UPDATE", "reproof_rows": "INSERT, UPDATE",
	"house_trials": "INSERT, UPDATE, DELETE", "house_trial_rows": "INSERT, UPDATE, DELETE",
}

// grant gives the application's role its rights and takes all others away.
func (s *Store) grant(ctx context.Context, owner *sql.Conn) error {
	var role string
	var super, owns bool
	err := s.sql.QueryRowContext(ctx, `SELECT current_user, rolsuper, EXISTS (SELECT 1 FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
		WHERE n.nspname = $1 AND c.relname = 'record' AND pg_has_role(current_user, c.relowner, 'MEMBER')) FROM pg_roles WHERE rolname = current_user`, s.schema).Scan(&role, &super, &owns)
	if err != nil && s.conf.OwnerURL == "" {
		return fmt.Errorf("connecting to PostgreSQL: %w", err)
	}
	if err != nil {
		return fmt.Errorf("connecting to PostgreSQL as the application: %w", err)
	}
	if super || owns {
		s.warn = append(s.warn, fmt.Sprintf("The application signs in to PostgreSQL as %q, who owns its tables: whoever takes the program over could change the record. Name a role without ownership in DATABASE_URL and the owner in DATABASE_OWNER_URL.", role))
		return nil
	}
	if s.conf.OwnerURL == "" {
		return nil // somebody has set the roles up by hand
	}
	id, schema := pgx.Identifier{role}.Sanitize(), pgx.Identifier{s.schema}.Sanitize()
	var b strings.Builder
	fmt.Fprintf(&b, "BEGIN; GRANT USAGE ON SCHEMA %s TO %s; REVOKE CREATE ON SCHEMA %s FROM %s; REVOKE ALL ON ALL TABLES IN SCHEMA %s FROM %s; GRANT SELECT ON ALL TABLES IN SCHEMA %s TO %s; GRANT USAGE ON ALL SEQUENCES IN SCHEMA %s TO %s;",
		schema, id, schema, id, schema, id, schema, id, schema, id)
	for table, may := range rights {
		fmt.Fprintf(&b, "GRANT %s ON %s.%s TO %s;", may, schema, pgx.Identifier{table}.Sanitize(), id)
	}
	rows, err := owner.QueryContext(ctx, `SELECT relname FROM pg_class WHERE relnamespace = $1::regnamespace AND relkind = 'r' AND relname LIKE 'river\_%' AND relname <> 'river_migration'`, schema)
	if err != nil {
		return fmt.Errorf("reading the job queue's tables: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var t string
		if err := rows.Scan(&t); err != nil {
			return err
		}
		fmt.Fprintf(&b, "GRANT INSERT, UPDATE, DELETE ON %s.%s TO %s;", schema, pgx.Identifier{t}.Sanitize(), id)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	if _, err := owner.ExecContext(ctx, b.String()+"COMMIT"); err != nil {
		return fmt.Errorf("giving %s its rights: %w", role, err)
	}
	// The limits for every connection of the role, also through what hands connections out
	// by the transaction. An owner who may not say so leaves it to what each sets itself.
	for name, limit := range map[string]time.Duration{"statement_timeout": StatementLimit, "lock_timeout": LockLimit, "idle_in_transaction_session_timeout": IdleLimit} {
		_, _ = owner.ExecContext(ctx, fmt.Sprintf("DO $$ BEGIN EXECUTE format('ALTER ROLE %%I IN DATABASE %%I SET %s = %d', '%s', current_database()); EXCEPTION WHEN insufficient_privilege THEN NULL; END $$", name, limit.Milliseconds(), strings.ReplaceAll(role, "'", "''")))
	}
	return nil
}
