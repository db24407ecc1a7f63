// Package pgtest gives tests a real PostgreSQL: one server for the test binary,
// a schema of its own for each test.
package pgtest

import (
	"context"
	"crypto/ed25519"
	"crypto/sha256"
	"database/sql"
	"fmt"
	"net/url"
	"os"
	"sync/atomic"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver for making schemas

	"inklatch/internal/store"
	"inklatch/internal/store/pgserver"
)

var (
	server *pgserver.Cluster
	count  atomic.Int64
)

// Main starts the server, runs the tests and stops it, and then whatever else was
// started for all of them. Call it from TestMain.
func Main(m *testing.M, after ...func()) {
	code := run(m)
	for _, f := range after {
		f()
	}
	os.Exit(code)
}

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("/var/tmp", "inklatch-test-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	server, err = pgserver.Start(context.Background(), dir+"/pg")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer server.Stop()
	return m.Run()
}

// Key signs the record in tests.
var Key = func() ed25519.PrivateKey {
	seed := sha256.Sum256([]byte("a key for tests"))
	return ed25519.NewKeyFromSeed(seed[:])
}()

// Config is an empty schema that is dropped after the test, with the
// application's role and the owner's.
func Config(t testing.TB) store.Config {
	t.Helper()
	name := fmt.Sprintf("t%d_%d", os.Getpid(), count.Add(1))
	db, err := sql.Open("pgx", server.OwnerURL)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec("CREATE SCHEMA " + name); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		db, err := sql.Open("pgx", server.OwnerURL)
		if err == nil {
			db.Exec("DROP SCHEMA " + name + " CASCADE")
			db.Close()
		}
	})
	return store.Config{URL: within(t, server.URL, name), OwnerURL: within(t, server.OwnerURL, name), Key: Key, Pool: 8}
}

// Owner opens the schema of a configuration as its owner, who may do anything.
func Owner(t testing.TB, c store.Config) *sql.DB {
	t.Helper()
	db, err := sql.Open("pgx", c.OwnerURL)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	return db
}

func within(t testing.TB, at, schema string) string {
	t.Helper()
	return searching(at, schema)
}

// searching is an address with another schema.
func searching(at, schema string) string {
	u, err := url.Parse(at)
	if err != nil {
		panic(err) // the server gave it
	}
	q := u.Query()
	q.Set("search_path", schema)
	u.RawQuery = q.Encode()
	return u.String()
}
