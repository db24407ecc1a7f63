package pgtest

import (
	"database/sql"
	"fmt"
	"net/url"
	"os"
	"sync"
	"testing"

	"inklatch/internal/store"
)

// mould is a database that was filled once, from which those of tests are copied.
type mould struct {
	once sync.Once
	err  error
}

var (
	mouldsLock sync.Mutex
	moulds     = map[string]*mould{}
)

// moulded is the schema of a mould and of all its copies.
const moulded = "latch"

// Seeded is a database of the test's own that fill has filled. It is filled once for
// each name in a test binary, and copied as a whole for every test.
func Seeded(t testing.TB, name string, fill func(store.Config) error) store.Config {
	t.Helper()
	mouldsLock.Lock()
	m := moulds[name]
	if m == nil {
		m = &mould{}
		moulds[name] = m
	}
	mouldsLock.Unlock()
	from := fmt.Sprintf("mould_%s_%d", name, os.Getpid())
	m.once.Do(func() {
		if m.err = execute(server.OwnerURL, "CREATE DATABASE "+from); m.err != nil {
			return
		}
		if m.err = execute(based(server.OwnerURL, from), "CREATE SCHEMA "+moulded); m.err != nil {
			return
		}
		m.err = fill(configOf(from))
	})
	if m.err != nil {
		t.Fatalf("filling %s: %v", name, m.err)
	}
	own := fmt.Sprintf("f%d_%d", os.Getpid(), count.Add(1))
	// Two copies at once would each find the other at the mould.
	mouldsLock.Lock()
	err := execute(server.OwnerURL, "CREATE DATABASE "+own+" TEMPLATE "+from+" STRATEGY FILE_COPY")
	mouldsLock.Unlock()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = execute(server.OwnerURL, "DROP DATABASE "+own+" WITH (FORCE)") })
	return configOf(own)
}

func configOf(database string) store.Config {
	at := func(u string) string { return searching(based(u, database), moulded) }
	return store.Config{URL: at(server.URL), OwnerURL: at(server.OwnerURL), Key: Key, Pool: 8}
}

func execute(at, statement string) error {
	db, err := sql.Open("pgx", at)
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.Exec(statement)
	return err
}

// based is an address with another database.
func based(at, database string) string {
	u, err := url.Parse(at)
	if err != nil {
		panic(err) // the server gave it
	}
	u.Path = "/" + database
	return u.String()
}
