package store_test

import (
	"database/sql"
	"fmt"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

// unvouched are the columns that nothing vouches for, and why nobody is hurt by what
// stands in them. An entry that ends in a dot is a whole table.
var unvouched = map[string]string{
	"standings.": "worked out from the page", "drills.": "worked out from the page", "sheet_standings.": "worked out from the sheet", "sheet_tools.": "worked out from the sheet", "sheet_sources.": "worked out from the sheet", "uses.": "worked out from the page", "indexed.": "worked out from the page",
	"reproofs.": "worked out from the pages", "reproof_rows.": "worked out from the pages", "house_trials.": "worked out from the pages", "house_trial_rows.": "worked out from the pages", "pulse.": "only whether the database takes writes",
	"sessions.expiry": "a session ends by itself", "sessions.made_at": "shown to its own person", "sessions.seen_at": "shown to its own person", "sessions.agent": "shown to its own person",
	"people.theme": "how one likes it", "people.units": "how one likes it", "people.letters": "how one likes it", "people.lettered": "the day of a letter", "people.away_from": "told to colleagues", "people.away_until": "told to colleagues",
	"readings.at": "each mark in the page has its own moment", "sheet_readings.at": "each mark has its own moment",
	"steps.version": "for merging what two write at once", "steps.client": "for merging what two write at once", "steps.changed_by": "for merging; who wrote what is in the lines of the record",
	"steps.step_id": "of a step that was taken out: no page has it", "steps.revision_id": "of a step that was taken out: no page has it", "steps.gone": "held, but for one that is gone already",
}

// Whatever column of whatever table is changed by somebody who may do anything, the record
// says so. A column that is added and that nothing vouches for fails here.
func TestNoColumnIsChangedUnseen(t *testing.T) {
	t.Parallel()
	var outside []store.Anchor
	conf := pgtest.Config(t)
	conf.Keep = func(a store.Anchor) error { outside = append(outside, a); return nil }
	s, err := store.Open(t.Context(), conf)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, demo.Load(t.Context(), s))
	require.NoError(t, s.AddLink(t.Context(), &store.Link{Hash: "a link", Kind: "reset", PersonID: ptr(int64(1)), MadeBy: 8, ExpiresAt: time.Now().Add(time.Hour)}))
	owner := pgtest.Owner(t, conf)
	owner.SetMaxOpenConns(1) // what is begun is ended on the same one
	asItWas := kept(t, owner)

	words := map[string][]string{} // what the checks of a column let it be
	rows, err := owner.Query(`SELECT c.relname || '.' || a.attname, pg_get_constraintdef(k.oid) FROM pg_constraint k JOIN pg_class c ON c.oid = k.conrelid
		JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = ANY (k.conkey) WHERE k.contype = 'c' AND c.relnamespace = current_schema()::regnamespace`)
	require.NoError(t, err)
	for rows.Next() {
		var name, def string
		require.NoError(t, rows.Scan(&name, &def))
		for _, m := range regexp.MustCompile(`'([a-z/ -]+)'::text`).FindAllStringSubmatch(def, -1) {
			words[name] = append(words[name], m[1])
		}
	}
	require.NoError(t, rows.Close())

	type column struct{ table, name, kind string }
	var all []column
	rows, err = owner.Query(`SELECT table_name, column_name, data_type FROM information_schema.columns JOIN information_schema.tables USING (table_schema, table_name)
		WHERE table_schema = current_schema() AND table_type = 'BASE TABLE' AND is_generated = 'NEVER' AND table_name !~ '^(river|goose|kept)' ORDER BY 1, 2`)
	require.NoError(t, err)
	for rows.Next() {
		var c column
		require.NoError(t, rows.Scan(&c.table, &c.name, &c.kind))
		all = append(all, c)
	}
	require.NoError(t, rows.Close())
	require.Greater(t, len(all), 150)

	other := func(c column) []string {
		name := c.table + "." + c.name
		if len(words[name]) > 0 {
			var out []string
			for _, w := range words[name] {
				out = append(out, "'"+w+"'")
			}
			return out
		}
		switch c.kind {
		case "text":
			if name == "revisions.header" { // it has to be JSON
				return []string{c.name + " || ' '"}
			}
			return []string{c.name + " || 'x'"}
		case "boolean":
			return []string{"NOT " + c.name}
		case "bytea":
			return []string{c.name + ` || '\x00'::bytea`}
		case "date":
			return []string{"coalesce(" + c.name + ", DATE '2020-01-01') + 1"}
		case "timestamp with time zone":
			return []string{"coalesce(" + c.name + ", now()) + interval '1 second'"}
		default:
			return []string{"coalesce(" + c.name + ", 0) + 1000"}
		}
	}
	unseen, empty := 0, map[string]bool{}
	for _, c := range all {
		name := c.table + "." + c.name
		if unvouched[c.table+"."] != "" || unvouched[name] != "" {
			continue
		}
		changed := false
		for _, value := range other(c) {
			where := "true"
			if c.table == "remarks" { // of a page or of a sheet
				where = "(" + c.name + " IS NOT NULL OR '" + c.name + "' NOT IN ('revision_id', 'sheet_id'))"
			}
			if c.table == "steps" { // a draft's, and one that stands
				where = "NOT gone AND EXISTS (SELECT 1 FROM revisions r WHERE r.id = revision_id AND r.state = 'draft')"
			}
			var n int
			require.NoError(t, owner.QueryRow(fmt.Sprintf("SELECT count(*) FROM (SELECT 1 FROM %s WHERE %s AND (%s) IS DISTINCT FROM %s LIMIT 1) x", c.table, where, value, c.name)).Scan(&n))
			if n == 0 {
				continue
			}
			_, err := owner.Exec("BEGIN; SET LOCAL session_replication_role = replica; " + fmt.Sprintf("UPDATE %[1]s SET %[2]s = %[3]s WHERE ctid = (SELECT ctid FROM %[1]s WHERE %[4]s AND (%[3]s) IS DISTINCT FROM %[2]s ORDER BY ctid LIMIT 1)", c.table, c.name, value, where) + "; COMMIT")
			if err != nil { // a key that is taken: another word may do
				_, err = owner.Exec("ROLLBACK")
				require.NoError(t, err)
				continue
			}
			changed = true
			r, err := s.Verify(t.Context(), outside)
			require.NoError(t, err)
			if !assert.NotEmpty(t, r.Troubles, "%s = %s was not seen", name, value) {
				unseen++
			}
			tampered(t, owner, "DELETE FROM "+c.table+"; INSERT INTO "+c.table+" ("+columnsOf(t, owner, c.table)+") SELECT "+columnsOf(t, owner, c.table)+" FROM kept_"+c.table)
			break
		}
		if !changed {
			empty[name] = true
		}
	}
	r, err := s.Verify(t.Context(), outside)
	require.NoError(t, err)
	require.Empty(t, r.Troubles, "put back as it was")
	t.Logf("%d columns, %d of them changed unseen; nothing to change in %v", len(all), unseen, empty)

	// Nor is a row slipped in or taken out.
	for _, x := range []string{
		"INSERT INTO links SELECT 'another', kind, person_id, made_by, made_at, expires_at, NULL FROM links LIMIT 1", "DELETE FROM links",
		"INSERT INTO mentions SELECT remark_id, 7, at FROM mentions LIMIT 1", "DELETE FROM mentions", "DELETE FROM reviews", "DELETE FROM batches",
		"UPDATE readings SET page = (SELECT page FROM readings WHERE person_id = 3 LIMIT 1) WHERE person_id = 4",
		"DELETE FROM anchors WHERE seq = (SELECT max(seq) FROM record WHERE what = 'latch')",
	} {
		tampered(t, owner, x)
		r, err := s.Verify(t.Context(), nil)
		require.NoError(t, err)
		assert.NotEmpty(t, r.Troubles, x)
		tampered(t, owner, asItWas)
	}
}

// columnsOf are the columns of a table that are written.
func columnsOf(t *testing.T, owner *sql.DB, table string) string {
	var out string
	require.NoError(t, owner.QueryRow("SELECT string_agg(quote_ident(column_name), ', ' ORDER BY ordinal_position) FROM information_schema.columns WHERE table_schema = current_schema() AND table_name = $1 AND is_generated = 'NEVER'", table).Scan(&out))
	return out
}

// What keeps the tables is looked at too: triggers that are off, gone, new or written anew,
// and rights that were given.
func TestGuardsAreHeld(t *testing.T) {
	conf := pgtest.Seeded(t, "demo", demo.Seed)
	s, err := store.Open(t.Context(), conf)
	require.NoError(t, err)
	defer s.Close()
	owner := pgtest.Owner(t, conf)
	role := ""
	require.NoError(t, s.SQL().QueryRow("SELECT current_user").Scan(&role))
	for _, c := range []struct{ do, undo, says string }{
		{"ALTER TABLE record DISABLE TRIGGER record_kept", "ALTER TABLE record ENABLE TRIGGER record_kept", "record.record_kept is switched off"},
		{"ALTER TABLE people RENAME TO people_; ALTER TABLE people_ RENAME TO people; DROP TRIGGER people_kept ON people", "CREATE TRIGGER people_kept BEFORE UPDATE OR DELETE ON people FOR EACH ROW EXECUTE FUNCTION keep_people()", "people.people_kept was taken off"},
		{"CREATE FUNCTION mine() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN RETURN NEW; END'; CREATE TRIGGER mine BEFORE INSERT ON record FOR EACH ROW EXECUTE FUNCTION mine()", "DROP TRIGGER mine ON record; DROP FUNCTION mine()", "record.mine that this program did not make"},
		{"GRANT DELETE ON record TO " + role, "REVOKE DELETE ON record FROM " + role, "more or less to record than it must"},
		{"GRANT UPDATE (body) ON remarks TO " + role, "REVOKE UPDATE (body) ON remarks FROM " + role, "UPDATE (body, state)"},
	} {
		_, err := owner.Exec(c.do)
		require.NoError(t, err, c.do)
		r, err := s.Verify(t.Context(), nil)
		require.NoError(t, err)
		assert.Contains(t, strings.Join(r.Troubles, "\n"), c.says)
		_, err = owner.Exec(c.undo)
		require.NoError(t, err, c.undo)
		r, err = s.Verify(t.Context(), nil)
		require.NoError(t, err)
		assert.Empty(t, r.Troubles, "after %s", c.undo)
	}
}

// A session that somebody wrote into the database by hand signs nobody in.
func TestASessionWrittenByHandSignsNobodyIn(t *testing.T) {
	conf := pgtest.Seeded(t, "demo", demo.Seed)
	s, err := store.Open(t.Context(), conf)
	require.NoError(t, err)
	defer s.Close()
	owner := pgtest.Owner(t, conf)
	_, err = owner.Exec("INSERT INTO sessions (token, person_id, data, expiry, agent) VALUES ($1, 5, 'x', now() + interval '1 day', '')", store.SessionKey("mine"))
	require.NoError(t, err)
	_, found, err := s.SessionStore().FindCtx(t.Context(), "mine")
	require.NoError(t, err)
	assert.False(t, found)
}

func ptr[T any](v T) *T { return &v }
