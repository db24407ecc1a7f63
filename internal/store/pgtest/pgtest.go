// Package pgtest gives tests a real PostgreSQL: one server for the test binary,
// a schema of its own for each test.
package pgtest

import (
	"context"
	"database/sql"
	"fmt"
	"net/url"
	"os"
	"sync/atomic"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver for making schemas

	"inklatch/internal/store/cluster"
)

var (
	server *cluster.Cluster
	count  atomic.Int64
)

// Main starts the server, runs the tests and stops it. Call it from TestMain.
func Main(m *testing.M) {
	os.Exit(run(m))
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
	server, err = cluster.Start(context.Background(), dir+"/pg")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer server.Stop()
	return m.Run()
}

// URL is a database URL with an empty schema that is dropped after the test.
func URL(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("t%d_%d", os.Getpid(), count.Add(1))
	db, err := sql.Open("pgx", server.URL)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec("CREATE SCHEMA " + name); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		db, err := sql.Open("pgx", server.URL)
		if err == nil {
			db.Exec("DROP SCHEMA " + name + " CASCADE")
			db.Close()
		}
	})
	u, err := url.Parse(server.URL)
	if err != nil {
		t.Fatal(err)
	}
	q := u.Query()
	q.Set("search_path", name)
	u.RawQuery = q.Encode()
	return u.String()
}
