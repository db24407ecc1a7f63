package store_test

import (
	"database/sql"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

// tampered runs SQL as somebody who may do anything and takes the triggers off
// first, as somebody with the owner's password would.
func tampered(t *testing.T, owner *sql.DB, statements string) {
	t.Helper()
	_, err := owner.Exec("BEGIN; SET LOCAL session_replication_role = replica; " + statements + "; COMMIT")
	require.NoError(t, err, statements)
}

// rechain writes the hashes of the record anew, so that the chain fits again.
const rechain = `DO $$
DECLARE
	e record;
	last text := '';
	h text;
BEGIN
	FOR e IN SELECT * FROM record ORDER BY seq LOOP
		h := encode(sha256(convert_to(e.form || E'\n' || last || E'\n' || e.seq || E'\n' ||
			to_char(e.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS') || rtrim(rtrim(to_char(e.at AT TIME ZONE 'UTC', '.US'), '0'), '.') || 'Z' || E'\n' ||
			e.person_id || E'\n' || e.revision_id || E'\n' || e.sheet_id || E'\n' || '"' || e.what || '"' || E'\n' || e.payload || E'\n', 'UTF8')), 'hex');
		UPDATE record SET prev = last, hash = h WHERE seq = e.seq;
		last := h;
	END LOOP;
END $$`

// Every way we could think of to make the record lie, each from the same good
// record. Most would have passed a check of the chain alone.
func TestTamperingIsFound(t *testing.T) {
	cases := []struct{ name, sql, says string }{
		{"a line changed", "UPDATE record SET payload = '{}' WHERE seq = 12", "was changed after it was written"},
		{"a line said of somebody else", "UPDATE record SET person_id = 5 WHERE what = 'edit'", "was changed after it was written"},
		{"a line's time moved", "UPDATE record SET at = at - interval '1 day' WHERE seq = 14", "was changed after it was written"},
		{"a line taken out", "DELETE FROM record WHERE seq = 15", "was taken out"},
		{"the end cut off", "DELETE FROM record WHERE seq > 20", "its end was cut off"},
		{"the last line cut off, anchors with it", "DELETE FROM anchors WHERE seq >= (SELECT max(seq) - 3 FROM record); DELETE FROM record WHERE seq >= (SELECT max(seq) - 3 FROM record)", "its end was cut off"},
		{"the chain written anew", "UPDATE record SET payload = replace(payload, 'EL-0502', 'EL-9999') WHERE what = 'start revision'; " + rechain, "written anew"},
		{"the chain written anew with the database's anchors", "UPDATE record SET payload = replace(payload, 'EL-0502', 'EL-9999') WHERE what = 'start revision'; " + rechain + "; UPDATE anchors a SET hash = r.hash FROM record r WHERE r.seq = a.seq", "has a signature that is not its key’s"},
		{"everything written anew and all anchors in it thrown away", "UPDATE record SET payload = replace(payload, 'EL-0502', 'EL-9999') WHERE what = 'start revision'; " + rechain + "; DELETE FROM anchors", "written anew"},
		{"a lie taken up as what was there before", "INSERT INTO record SELECT max(seq) + 1, now(), 0, 'adopt', 0, '{}', (SELECT hash FROM record ORDER BY seq DESC LIMIT 1), 'x', 0, 2 FROM record; " + rechain, "where nothing was"},
		{"a released page changed", "UPDATE revisions SET frozen = replace(frozen, '39 N·m', '24 N·m') WHERE number = 2", "is not the one that was released"},
		{"a released page changed with its hash", "UPDATE revisions SET frozen = replace(frozen, '39 N·m', '24 N·m'); UPDATE revisions SET sha256 = encode(sha256(convert_to(frozen, 'UTF8')), 'hex') WHERE frozen <> ''", "is not the one that was released"},
		{"an old page released again", "UPDATE revisions SET state = 'latched' WHERE number = 1 AND state = 'superseded'", "by the record it is superseded"},
		{"a page released by hand", "UPDATE revisions SET state = 'latched' WHERE state = 'on review'", "by the record it is draft"},
		{"a released page taken out", "DELETE FROM standings; DELETE FROM batches; DELETE FROM steps WHERE revision_id = 1; DELETE FROM closings WHERE revision_id = 1; DELETE FROM reproof_rows; DELETE FROM revisions WHERE id = 1", "is in the record and nowhere else"},
		{"a page slipped in", "INSERT INTO revisions (procedure_id, number, state, header, created_by, changed_by) VALUES (2, 9, 'draft', '{\"title\":\"x\"}', 1, 1)", "is not in the record"},
		{"a page moved to another procedure", "UPDATE revisions SET procedure_id = 5, number = 9 WHERE id = 4", "was started as number"},
		{"a procedure moved to another code", "UPDATE procedures SET engine = 'TS1-03' WHERE id = 2", "was started as number"},
		{"a draft's torque changed", "UPDATE steps SET body = replace(body, 'N·m', 'lbf·ft') WHERE revision_id = 4", "were changed without a line"},
		{"a draft's steps swapped", "UPDATE steps SET pos = 1000 WHERE revision_id = 7 AND pos = 3", "were changed without a line"},
		{"a step taken out of a draft", "UPDATE steps SET gone = true WHERE revision_id = 7 AND pos = 5", "were changed without a line"},
		{"a draft's title changed", "UPDATE revisions SET header = replace(header, 'both banks', 'one bank') WHERE id = 7", "were changed without a line"},
		{"a latch closed by hand", "INSERT INTO closings (revision_id, latch, person_id) VALUES (7, 'technical', 3)", "was closed without a line"},
		{"a latch closed by somebody else", "UPDATE closings SET person_id = 2 WHERE revision_id = 7", "is not closed by whom the record says"},
		{"a latch opened by hand", "DELETE FROM closings WHERE revision_id = 1 AND latch = 'bench'", "is not closed by whom the record says"},
		{"a deleted draft passed off as none", "UPDATE revisions SET state = 'deleted' WHERE id = 4", "by the record it is draft"},
		{"a sheet in use changed", "UPDATE sheets SET sheet = replace(sheet, 'N·m', 'lbf·ft') WHERE code = 'TQ4-18P'", "is not the one that was put into use"},
		{"a sheet in use changed with its hash", "UPDATE sheets SET sheet = replace(sheet, 'N·m', 'lbf·ft') WHERE code = 'TQ4-18P'; UPDATE sheets SET sha256 = encode(sha256(convert_to(sheet, 'UTF8')), 'hex') WHERE state = 'in use'", "is not the one that was put into use"},
		{"a sheet put into use by hand", "UPDATE sheets SET state = 'superseded' WHERE code = 'TC4-24C' AND number = 1; UPDATE sheets SET state = 'in use' WHERE code = 'TC4-24C' AND number = 2", "by the record it is"},
		{"a sheet slipped in", "INSERT INTO sheets (code, number, state, sheet) VALUES ('TQ4-18P', 7, 'superseded', '{}')", "is not in the record"},
		{"a sheet's draft changed", "UPDATE sheets SET sheet = replace(sheet, 'EL-', 'XX-') || ' ' WHERE state = 'draft'", "was changed without a line"},
		{"a role given by hand", "UPDATE people SET roles = 'administrator' WHERE id = 1", "The roles of Ines Okafor"},
		{"somebody added by hand", "INSERT INTO people (email, name, password_hash, roles) VALUES ('x@tarn.example', 'Nobody', '', 'lead')", "was added without a line"},
		{"a password set by hand", "UPDATE people SET password_hash = 'x' WHERE id = 3", "The password of Mirja"},
		{"somebody let in again", "UPDATE people SET locked = true WHERE id = 2", "was locked or let in"},
		{"a name given to somebody else", "UPDATE people SET name = 'Mirja Salmela', email = 'm@tarn.example' WHERE id = 2", "was renamed"},
	}
	require.GreaterOrEqual(t, len(cases), 20)
	t.Parallel()
	var outside []store.Anchor
	conf := pgtest.Config(t)
	conf.Keep = func(a store.Anchor) error { outside = append(outside, a); return nil }
	s, err := store.Open(t.Context(), conf)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, demo.Load(t.Context(), s))
	require.NoError(t, s.Sign(t.Context()))
	owner := pgtest.Owner(t, conf)
	asItWas := kept(t, owner)
	for _, c := range cases {
		r, err := s.Verify(t.Context(), outside)
		require.NoError(t, err)
		require.Empty(t, r.Troubles, "before %s", c.name)
		require.Greater(t, r.Anchors, 10)

		tampered(t, owner, c.sql)
		r, err = s.Verify(t.Context(), outside)
		require.NoError(t, err)
		all := strings.ReplaceAll(strings.Join(r.Troubles, " "), "'", "’")
		assert.Contains(t, all, c.says, c.name)
		tampered(t, owner, asItWas)
	}
}

// kept puts a copy of everything beside it and gives the SQL that brings it back.
func kept(t *testing.T, owner *sql.DB) string {
	t.Helper()
	rows, err := owner.Query(`SELECT table_name, string_agg(quote_ident(column_name), ', ') FROM information_schema.columns c JOIN information_schema.tables USING (table_schema, table_name)
		WHERE table_schema = current_schema() AND table_type = 'BASE TABLE' AND is_generated = 'NEVER' AND table_name NOT LIKE 'river%' AND table_name NOT LIKE 'goose%' GROUP BY table_name`)
	require.NoError(t, err)
	defer rows.Close()
	var copies, back strings.Builder
	for rows.Next() {
		var table, columns string
		require.NoError(t, rows.Scan(&table, &columns))
		fmt.Fprintf(&copies, "CREATE TABLE kept_%s AS TABLE %s;", table, table)
		fmt.Fprintf(&back, "DELETE FROM %s; INSERT INTO %s (%s) SELECT %s FROM kept_%s;", table, table, columns, columns, table)
	}
	require.NoError(t, rows.Err())
	_, err = owner.Exec(copies.String())
	require.NoError(t, err)
	return strings.TrimSuffix(back.String(), ";")
}

// What was printed can be typed back in.
func TestAnAnchorThatWasPrinted(t *testing.T) {
	s := loaded(t)
	a, err := s.Reads(t.Context()).AnchorOf(1)
	require.NoError(t, err)
	require.NotNil(t, a)
	for _, typed := range []string{a.Mark(), a.Line(), strings.ToUpper(a.Mark()), a.Mark()[:20] + " " + a.Mark()[20:]} {
		p, err := store.ParseAnchor(typed)
		require.NoError(t, err, typed)
		r, err := s.Verify(t.Context(), []store.Anchor{p})
		require.NoError(t, err)
		assert.Empty(t, r.Troubles, typed)
	}
	wrong := *a
	wrong.Hash = strings.Repeat("0", 64)
	p, err := store.ParseAnchor(wrong.Mark())
	require.NoError(t, err)
	r, err := s.Verify(t.Context(), []store.Anchor{p})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(r.Troubles, " "), "written anew")
	for _, bad := range []string{"", "x", "12", "12:", "12:abc", "12:zzzzzzzzzzzzzzzzzzzz", wrong.Line(), strings.Replace(a.Line(), a.Signature[:8], "AAAAAAAA", 1)} {
		_, err := store.ParseAnchor(bad)
		assert.Error(t, err, bad)
	}
	later := *a
	later.At = later.At.Add(time.Second)
	assert.False(t, later.Valid(), "the signature covers the time")
}

// What the application's role may not do, whatever becomes of the program.
func TestTheApplicationOwnsNothing(t *testing.T) {
	s := loaded(t)
	assert.Empty(t, s.Warnings())
	for _, sql := range []string{
		"UPDATE record SET payload = 'x'", "DELETE FROM record", "TRUNCATE record", "ALTER TABLE record DISABLE TRIGGER USER", "DROP TABLE record",
		"DROP TRIGGER record_kept ON record", "CREATE TABLE mine (n int)", "CREATE TEMP TABLE revisions (id int)", "CREATE FUNCTION f() RETURNS int LANGUAGE sql AS 'SELECT 1'",
		"SET session_replication_role = replica", "COPY (SELECT 1) TO PROGRAM 'cat'", "COPY people TO '/tmp/people'", "SELECT pg_read_file('/etc/passwd')",
		"TRUNCATE revisions CASCADE", "DELETE FROM revisions", "DELETE FROM steps", "DELETE FROM batches", "DELETE FROM sheets", "DELETE FROM engines", "DELETE FROM procedures", "DELETE FROM people",
		"UPDATE anchors SET hash = 'x'", "DELETE FROM anchors", "UPDATE closings SET person_id = 1", "ALTER ROLE CURRENT_USER SUPERUSER", "CREATE ROLE other",
		"INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, true)",
	} {
		_, err := s.SQL().Exec(sql)
		assert.Error(t, err, sql)
	}
	var super bool
	require.NoError(t, s.SQL().QueryRow("SELECT rolsuper FROM pg_roles WHERE rolname = current_user").Scan(&super))
	assert.False(t, super)
}

// What it may do to a table goes no further than the triggers let it.
func TestTriggersHoldEveryWayIn(t *testing.T) {
	conf := pgtest.Seeded(t, "demo", demo.Seed)
	owner := pgtest.Owner(t, conf) // who may write everywhere: the triggers hold them too
	for _, c := range []struct{ sql, says string }{
		{"INSERT INTO revisions (procedure_id, number, state, header, frozen, sha256, created_by, changed_by) VALUES (2, 5, 'latched', '{}', 'x', 'x', 1, 1)", "starts as a draft"},
		{"UPDATE revisions SET frozen = 'x', sha256 = 'x', state = 'latched', latched_at = now() WHERE id = 7", "file that is its own"},
		{"UPDATE revisions SET frozen = 'x', sha256 = encode(sha256('x'), 'hex'), state = 'latched', latched_at = now() WHERE id = 7", "has latches open"},
		{"UPDATE revisions SET frozen = 'x' WHERE id = 7", "only a latched revision is frozen"},
		{"UPDATE revisions SET state = 'superseded' WHERE id = 7", "was never latched"},
		{"UPDATE revisions SET state = 'deleted' WHERE id = 7", "only a draft is deleted"},
		{"UPDATE revisions SET procedure_id = 2 WHERE id = 7", "stays where it is"},
		{"UPDATE revisions SET version = version - 1 WHERE id = 7", "upwards"},
		{"UPDATE revisions SET header = '{}' WHERE id = 1", "never changes"},
		{"UPDATE steps SET revision_id = 1 WHERE revision_id = 4", "never changes"},
		{"UPDATE steps SET revision_id = 4 WHERE revision_id = 1", "never changes"},
		{"UPDATE steps SET revision_id = 7 WHERE revision_id = 4 AND step_id = 's01'", "never changes"},
		{"INSERT INTO steps SELECT 1, 'new', 1, '{}', 1, 'x', 1, false", "never changes"},
		{"INSERT INTO closings (revision_id, latch, person_id) VALUES (1, 'more', 1)", "never changes"},
		{"DELETE FROM closings WHERE revision_id = 1", "never changes"},
		{"UPDATE batches SET edits = '[]'", "never changes"},
		{"UPDATE sheets SET sheet = '{}' WHERE state = 'in use'", "never changes"},
		{"UPDATE sheets SET state = 'in use' WHERE state = 'draft'", "another person"},
		{"UPDATE sheets SET state = 'in use', released_by = created_by, sha256 = encode(sha256(convert_to(sheet, 'UTF8')), 'hex') WHERE state = 'draft'", "another person"},
		{"INSERT INTO sheets (code, number, state, sheet) VALUES ('TS1-03', 2, 'in use', '{}')", "somebody's draft"},
		{"UPDATE sheets SET code = 'TS1-03' WHERE state = 'draft'", "stays where it is"},
		{"UPDATE engines SET code = 'X'", "only ever added to"},
		{"UPDATE procedures SET engine = 'TS1-03'", "only ever added to"},
		{"UPDATE people SET created_at = now()", "never taken out"},
	} {
		_, err := owner.Exec(c.sql)
		assert.ErrorContains(t, err, c.says, c.sql)
	}
}

func TestAnOwnerWhoServesIsWarnedOf(t *testing.T) {
	c := pgtest.Config(t)
	c.URL, c.OwnerURL = c.OwnerURL, ""
	s, err := store.Open(t.Context(), c)
	require.NoError(t, err)
	defer s.Close()
	require.Len(t, s.Warnings(), 1)
	assert.Contains(t, s.Warnings()[0], "DATABASE_OWNER_URL")
}

// Several copies that start at once wait for one to bring the schema up to date;
// an older program leaves a newer one alone.
func TestSeveralCopiesStartAtOnce(t *testing.T) {
	c := pgtest.Config(t)
	errs := make(chan error, 8)
	for range cap(errs) {
		go func() {
			s, err := store.Open(t.Context(), c)
			if err == nil {
				s.Close()
			}
			errs <- err
		}()
	}
	for range cap(errs) {
		assert.NoError(t, <-errs)
	}
	_, err := pgtest.Owner(t, c).Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, true)")
	require.NoError(t, err)
	_, err = store.Open(t.Context(), c)
	require.ErrorIs(t, err, store.ErrNewer)
	assert.ErrorContains(t, err, "Start the newer program")
}

// A record an older program wrote is taken up once and can be held against
// everything from then on.
func TestAnOlderRecordIsTakenUp(t *testing.T) {
	c := pgtest.Config(t)
	s, err := store.Open(t.Context(), c)
	require.NoError(t, err)
	require.NoError(t, demo.Load(t.Context(), s))
	require.NoError(t, s.Close())
	owner := pgtest.Owner(t, c)
	tampered(t, owner, "DELETE FROM field_photos; DELETE FROM field_notes; DELETE FROM replies; DELETE FROM mentions; DELETE FROM remarks; DELETE FROM anchors; UPDATE record SET form = 1, sheet_id = 0; "+strings.Replace(rechain, `e.form || E'\n' || last`, `last`, 1))
	_, err = owner.Exec(strings.NewReplacer(`e.form || E'\n' || last`, "last", `e.revision_id || E'\n' || e.sheet_id || E'\n' || '"' || e.what || '"'`, `e.revision_id || E'\n' || e.what`, "UPDATE record SET prev", "UPDATE record SET prev").Replace("BEGIN; SET LOCAL session_replication_role = replica; " + rechain + "; COMMIT"))
	require.NoError(t, err)
	s, err = store.Open(t.Context(), c)
	require.NoError(t, err)
	defer s.Close()
	r, err := s.Verify(t.Context(), nil)
	require.NoError(t, err)
	assert.Empty(t, r.Troubles)
	assert.Equal(t, 8, r.People)
	tampered(t, owner, "UPDATE people SET roles = 'administrator' WHERE id = 1")
	r, err = s.Verify(t.Context(), nil)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(r.Troubles, " "), "The roles of Ines Okafor")
}

// What somebody said, what a latch was closed over and who withdrew a release are
// held against the record too.
func TestTalkIsHeldAgainstTheRecord(t *testing.T) {
	c := pgtest.Config(t)
	s, err := store.Open(t.Context(), c)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, demo.Load(t.Context(), s))
	owner := pgtest.Owner(t, c)
	for _, x := range []struct{ change, says string }{
		{"UPDATE remarks SET body = 'x' WHERE id = 2", "Remark 2 is not what the record says"},
		{"UPDATE replies SET body = 'x' WHERE id = 1", "Answer 1 to remark 1 is not what the record says"},
		{"DELETE FROM replies WHERE id = 1", "Answer 1 is in the record and nowhere else"},
		{"UPDATE closings SET content = replace(content, '\"sheet\":', '\"sheet\": ') WHERE revision_id = 5 AND latch = 'technical'", "What the technical latch of revision 5 was closed over"},
		{"INSERT INTO withdrawals VALUES (5, 'x', 1, now())", "Revision 5 was withdrawn without a line"},
		{"UPDATE revisions SET state = 'withdrawn' WHERE id = 6", "Revision 6 is withdrawn; by the record it is"},
	} {
		tampered(t, owner, x.change)
		r, err := s.Verify(t.Context(), nil)
		require.NoError(t, err)
		assert.Contains(t, strings.Join(r.Troubles, "\n"), x.says, x.change)
	}
	for _, q := range []string{"UPDATE remarks SET body = 'x'", "DELETE FROM remarks", "UPDATE replies SET body = 'x'", "DELETE FROM withdrawals"} {
		_, err := s.SQL().Exec(q)
		assert.Error(t, err, q)
	}
}
