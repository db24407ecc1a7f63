package store

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5/pgtype"
	"gorm.io/gorm"
)

// vouched is a table whose rows the record vouches for, one by one: a line of the record
// has the SHA-256 of every row that was written with it.
type vouched struct {
	table string
	// noun is what a row is called, with a verb for %s, its key.
	noun string
	// keys are the columns of its key, columns those that are vouched for beside.
	keys, columns []string
}

// vouchedTables are all of them. A column that is added to one of them later gets a table
// of a new form here: what was vouched for before is held by the columns there were then.
var vouchedTables = []vouched{
	{"closings", "The closed latch %s", []string{"revision_id", "latch"}, []string{"person_id", "version", "sheet_id", "at", "content", "name"}},
	{"reviews", "The day or the taker of the latch %s", []string{"revision_id", "latch"}, []string{"due", "person_id"}},
	{"withdrawals", "The withdrawal of revision %s", []string{"revision_id"}, []string{"reason", "person_id", "at"}},
	{"remarks", "Remark %s", []string{"id"}, []string{"revision_id", "sheet_id", "kind", "place", "step_id", "part", "said", "body", "line", "edits", "effect", "state", "version", "person_id", "at"}},
	{"replies", "Answer %s", []string{"id"}, []string{"remark_id", "act", "body", "person_id", "at"}},
	{"mentions", "The name in remark %s", []string{"remark_id", "person_id"}, []string{"at"}},
	{"field_notes", "Field note %s", []string{"id"}, []string{"revision_id", "step_id", "said", "body", "person_id", "at", "state", "answer", "answered_by", "answered_at", "remark_id"}},
	{"field_photos", "The photo of field note %s", []string{"note_id"}, []string{"kind", "photo"}},
	{"shelf_files", "The kept file %s", []string{"id"}, []string{"kind", "number", "name", "type", "body", "person_id", "at"}},
	{"tool_checks", "The calibration %s", []string{"id"}, []string{"number", "done", "months", "person_id", "at"}},
	{"house_rules", "Version %s of the house rules", []string{"id"}, []string{"body", "changes", "why", "person_id", "at"}},
	{"links", "The link %.8s…", []string{"hash"}, []string{"kind", "person_id", "made_by", "made_at", "expires_at", "used_at"}},
	{"people", "Person %s", []string{"id"}, []string{"email", "name", "password_hash", "roles", "locked", "created_at"}},
	{"procedures", "Procedure %s", []string{"id"}, []string{"engine", "created_at"}},
	{"revisions", "What stands beside the page of revision %s", []string{"id"}, []string{"procedure_id", "number", "state", "reason", "header_by", "header_at", "version", "sha256", "sheet_id", "created_by", "changed_by", "changed_at", "latched_at"}},
	{"batches", "Saved edit %s", []string{"id"}, []string{"revision_id", "batch", "person_id", "version", "edits", "inverse", "kind", "undone", "digest", "at"}},
	{"sheets", "What stands beside engine sheet %s", []string{"id"}, []string{"code", "number", "state", "version", "reason", "sha256", "created_by", "changed_by", "changed_at", "released_by", "released_at", "asked_by", "asked_at"}},
	{"sheet_batches", "Saved edit of a sheet %s", []string{"id"}, []string{"sheet_id", "batch", "client", "person_id", "version", "edits", "inverse", "kind", "undone", "digest", "at"}},
	{"engines", "Engine code %s", []string{"code"}, nil},
}

// key is the row's key as SQL.
func (v *vouched) key() string { return "concat_ws(':', " + strings.Join(v.keys, ", ") + ")" }

// query selects table, key and hash of rows; where, if it is not empty, chooses them.
func (v *vouched) query(where string) string {
	all := slices.Concat(v.keys, v.columns)
	q := fmt.Sprintf("SELECT '%s' AS of, %s AS key, encode(sha256(convert_to(jsonb_build_array(%s)::text, 'UTF8')), 'hex') AS hash FROM %s", v.table, v.key(), strings.Join(all, ", "), v.table)
	if where != "" {
		q += " WHERE " + where
	}
	return q
}

// row is one row with its hash.
type row struct{ Of, Key, Hash string }

// touch notes that a row of a vouched table was written or taken out.
func (t *tx) touch(table string, key ...any) {
	if t.touched == nil {
		t.touched = map[string][][]any{}
	}
	t.touched[table] = append(t.touched[table], key)
}

func keyText(key []any) string {
	parts := make([]string, len(key))
	for i, k := range key {
		parts[i] = fmt.Sprint(k)
	}
	return strings.Join(parts, ":")
}

// rows are the hashes of the rows that were touched, by table and key; empty for one that
// is gone. After that none is touched.
func (t *tx) rows() (map[string]map[string]string, error) {
	if len(t.touched) == 0 {
		return nil, nil
	}
	out := map[string]map[string]string{}
	var parts []string
	var args []any
	for i := range vouchedTables {
		v := &vouchedTables[i]
		keys := t.touched[v.table]
		if len(keys) == 0 {
			continue
		}
		out[v.table] = map[string]string{}
		for _, k := range keys {
			out[v.table][keyText(k)] = ""
		}
		if len(v.keys) == 1 {
			flat := make([]any, len(keys))
			for k := range keys {
				flat[k] = keys[k][0]
			}
			parts, args = append(parts, v.query(v.keys[0]+" IN ?")), append(args, flat)
		} else {
			parts, args = append(parts, v.query("("+strings.Join(v.keys, ", ")+") IN ?")), append(args, keys)
		}
	}
	clear(t.touched)
	var found []row
	if err := t.db.Raw(strings.Join(parts, " UNION ALL "), args...).Scan(&found).Error; err != nil {
		return nil, fmt.Errorf("vouching for what was written: %w", err)
	}
	for _, r := range found {
		out[r.Of][r.Key] = r.Hash
	}
	return out, nil
}

// everyRow calls f with every row of the vouched tables.
func (r Reads) everyRow(f func(v *vouched, key, hash string)) error {
	for i := range vouchedTables {
		v := &vouchedTables[i]
		rows, err := r.db.Raw(v.query("")).Rows()
		if err != nil {
			return err
		}
		for rows.Next() {
			var w row
			if err := rows.Scan(&w.Of, &w.Key, &w.Hash); err != nil {
				rows.Close()
				return err
			}
			f(v, w.Key, w.Hash)
		}
		if err := rows.Close(); err != nil {
			return err
		}
		if err := rows.Err(); err != nil {
			return err
		}
	}
	return nil
}

// holdRows holds the rows of all vouched tables against what the record says of them.
func (r Reads) holdRows(out *Report, t *told) error {
	left := map[string]map[string]string{}
	for table, rows := range t.rows {
		left[table] = maps.Clone(rows)
	}
	err := r.everyRow(func(v *vouched, key, hash string) {
		want, ok := left[v.table][key]
		delete(left[v.table], key)
		name := fmt.Sprintf(v.noun, key)
		switch {
		case !ok, want == "":
			out.say("%s was put there without a line in the record.", name)
		case want != hash:
			out.say("%s was changed without a line in the record.", name)
		}
	})
	for i := range vouchedTables {
		v := &vouchedTables[i]
		for _, key := range slices.Sorted(maps.Keys(left[v.table])) {
			if left[v.table][key] != "" {
				out.say("%s is in the record and nowhere else.", fmt.Sprintf(v.noun, key))
			}
		}
	}
	return err
}

// takeUpRows is the line that vouches for all rows there are, where an older program did
// not.
const takeUpRows = "take up rows"

// adoptRows vouches once for the rows of a database that an older program wrote, and seals
// what is sealed.
func (s *Store) adoptRows(ctx context.Context) error {
	return s.in(ctx, func(t *tx) error {
		if err := t.lockRecord(); err != nil {
			return err
		}
		var done bool
		if err := t.db.Raw(`SELECT NOT EXISTS (SELECT 1 FROM record) OR EXISTS (SELECT 1 FROM record WHERE form > 1 AND jsonb_exists(payload::jsonb, 'rows'))`).Scan(&done).Error; err != nil || done {
			return err
		}
		all := map[string]map[string]string{}
		err := t.everyRow(func(v *vouched, key, hash string) {
			if all[v.table] == nil {
				all[v.table] = map[string]string{}
			}
			all[v.table][key] = hash
		})
		if err != nil {
			return err
		}
		if err := t.sealAll(); err != nil {
			return err
		}
		return t.append(line{what: takeUpRows, payload: map[string]any{"rows": all}, anchor: true})
	})
}

// seal is a code over words by a key that stands outside the database (HMAC-SHA256, RFC
// 2104): for rows that change too often to have a line of the record each. It is empty
// where the house has no key.
func (s *Store) seal(words ...string) string {
	if s.conf.Key == nil {
		return ""
	}
	k := hmac.New(sha256.New, s.conf.Key.Seed())
	k.Write([]byte("ink latch rows"))
	h := hmac.New(sha256.New, k.Sum(nil))
	for _, w := range words {
		fmt.Fprintf(h, "%d:%s,", len(w), w)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// sealedTables are the tables of that kind, with what of them is sealed: the columns of
// their keys, and the one with the words.
var sealedTables = []struct {
	table, noun string
	keys        []string
	words       string
}{
	{"readings", "What person %[2]s has read of procedure %[1]s", []string{"procedure_id", "person_id"}, "page"},
	{"reading_marks", "What person %[2]s has read of procedure %[1]s", []string{"procedure_id", "person_id", "n"}, "mark"},
	{"sheet_readings", "What person %[2]s has read of engine sheet %[1]s", []string{"sheet_id", "person_id"}, "things"},
}

// sealAll seals what an older program, or another key, has left.
func (t *tx) sealAll() error {
	if t.s.conf.Key == nil {
		return nil
	}
	for i := range sealedTables {
		v := &sealedTables[i]
		err := eachSealed(t.db, v.table, v.keys, v.words, func(key []string, words, _ string) error {
			seal := t.s.seal(slices.Concat([]string{v.table}, key, []string{words})...)
			return t.db.Exec(fmt.Sprintf("UPDATE %s SET seal = ? WHERE (%s) IN ?", v.table, strings.Join(v.keys, ", ")), seal, [][]any{anys(key)}).Error
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func anys(words []string) []any {
	out := make([]any, len(words))
	for i, w := range words {
		out[i] = w
	}
	return out
}

// eachSealed calls f with the key, the words and the seal of each row.
func eachSealed(db *gorm.DB, table string, keys []string, words string, f func(key []string, words, seal string) error) error {
	rows, err := db.Raw(fmt.Sprintf("SELECT ARRAY[%s]::text[], %s, seal FROM %s", strings.Join(keys, ", "), words, table)).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	type one struct {
		key         []string
		words, seal string
	}
	var all []one
	m := pgtype.NewMap()
	for rows.Next() {
		var v one
		if err := rows.Scan(m.SQLScanner(&v.key), &v.words, &v.seal); err != nil {
			return err
		}
		all = append(all, v)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for _, v := range all {
		if err := f(v.key, v.words, v.seal); err != nil {
			return err
		}
	}
	return nil
}

// holdSeals holds sealed rows against their seals; nothing where there is no key.
func (s *Store) holdSeals(r Reads, out *Report) error {
	if s.conf.Key == nil {
		return nil
	}
	for _, v := range sealedTables {
		err := eachSealed(r.db, v.table, v.keys, v.words, func(key []string, words, seal string) error {
			if !hmac.Equal([]byte(seal), []byte(s.seal(slices.Concat([]string{v.table}, key, []string{words})...))) {
				out.say(v.noun+" was changed without this program.", key[0], key[1])
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}
