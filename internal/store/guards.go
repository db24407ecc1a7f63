package store

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// holdSigned says which entries that were signed when they were written have no anchor in
// the database any more: somebody took it out.
func (t *told) holdSigned(out *Report, kept []Anchor, signs bool) {
	if !signs {
		return
	}
	has := map[int64]bool{}
	for _, a := range kept {
		has[a.Seq] = true
	}
	for _, seq := range t.signed {
		if !has[seq] {
			out.say("The anchor of entry %d of the record was taken out of the database.", seq)
		}
	}
}

// guards are the triggers that keep what must not change, by table and name, each with its
// kind as PostgreSQL keeps it and the MD5 of its function: one that was taken off, switched
// off or written anew is found.
var guards = map[string]string{
	"anchors.anchors_kept":                   "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"anchors.anchors_kept_whole":             "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"batches.batches_kept":                   "27 O 7ab505a04f3c3a2fc18390e643e500e4",
	"batches.batches_kept_whole":             "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"closings.closings_kept_whole":           "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"closings.latched_closings_kept":         "31 O bae92402d5433b22e89eddf55fa608c9",
	"engines.engines_kept":                   "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"engines.engines_kept_whole":             "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"field_notes.field_notes_kept":           "27 O fcae10effdc7f350ca4f836af645dfcd",
	"field_notes.field_notes_kept_whole":     "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"field_photos.field_photos_kept":         "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"field_photos.field_photos_kept_whole":   "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"house_rules.house_rules_kept":           "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"house_rules.house_rules_kept_whole":     "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"people.people_kept":                     "27 O 08fd24c156a407cfce37b1a08066a438",
	"people.people_kept_whole":               "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"procedures.procedures_kept":             "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"procedures.procedures_kept_whole":       "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"record.record_kept":                     "27 O 0a544ad67f639982e859cbed1a5cef59",
	"record.record_kept_whole":               "34 O 0a544ad67f639982e859cbed1a5cef59",
	"remarks.remarks_kept":                   "27 O 5932f1e430bb752db07c3c9625842a68",
	"remarks.remarks_kept_whole":             "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"replies.replies_kept":                   "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"replies.replies_kept_whole":             "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"revisions.latched_kept":                 "31 O e06be85be9cf9f96b1ed0bc2a0d79db6",
	"revisions.questions_kept":               "19 O 71e4c4f21a951f83abf570ccb6db097e",
	"revisions.revisions_kept_whole":         "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"shelf_files.shelf_files_kept":           "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"shelf_files.shelf_files_kept_whole":     "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"tool_checks.tool_checks_kept":           "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"tool_checks.tool_checks_kept_whole":     "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"sheet_batches.sheet_batches_kept":       "27 O 7ab505a04f3c3a2fc18390e643e500e4",
	"sheet_batches.sheet_batches_kept_whole": "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"sheets.sheets_kept":                     "31 O 454c6e0c7b0b2e5b7b5e1d9118adc2ef",
	"sheets.sheets_kept_whole":               "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"steps.latched_steps_kept":               "31 O bae92402d5433b22e89eddf55fa608c9",
	"steps.steps_kept_whole":                 "34 O 16bb7e9ec477b086d2a8671567acd9fa",
	"withdrawals.withdrawals_kept":           "27 O 16bb7e9ec477b086d2a8671567acd9fa",
	"withdrawals.withdrawals_kept_whole":     "34 O 16bb7e9ec477b086d2a8671567acd9fa",
}

// holdGuards holds the triggers of the schema, and what the application's role may do,
// against what they are to be.
func (r Reads) holdGuards(out *Report, _ *told) error {
	var rows []struct{ Name, Is string }
	err := r.db.Raw(`SELECT c.relname || '.' || g.tgname AS name, g.tgtype || ' ' || g.tgenabled::text || ' ' || md5(p.prosrc) AS is
		FROM pg_trigger g JOIN pg_class c ON c.oid = g.tgrelid JOIN pg_proc p ON p.oid = g.tgfoid
		WHERE c.relnamespace = current_schema()::regnamespace AND NOT g.tgisinternal AND c.relname NOT LIKE 'river%' ORDER BY 1`).Scan(&rows).Error
	if err != nil {
		return err
	}
	left := maps.Clone(guards)
	for _, v := range rows {
		want, ok := left[v.Name]
		delete(left, v.Name)
		switch {
		case !ok:
			out.say("There is a trigger %s that this program did not make.", v.Name)
		case want != v.Is:
			out.say("The trigger %s is switched off or not what it was.", v.Name)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(left)) {
		out.say("The trigger %s was taken off.", name)
	}
	return r.holdRights(out)
}

// holdRights says what the application's role may do beyond what it must. A role that owns
// the tables may do everything: that is warned of at every start.
func (r Reads) holdRights(out *Report) error {
	var rows []struct {
		Name, May string
		Owns      bool
	}
	err := r.db.Raw(`SELECT c.relname AS name, pg_has_role(current_user, c.relowner, 'MEMBER') AS owns,
			concat_ws(', ', CASE WHEN has_table_privilege(c.oid, 'INSERT') THEN 'INSERT' END,
				CASE WHEN has_table_privilege(c.oid, 'UPDATE') THEN 'UPDATE' WHEN has_any_column_privilege(c.oid, 'UPDATE') THEN 'UPDATE (' || (
					SELECT string_agg(a.attname, ', ' ORDER BY a.attname) FROM pg_attribute a WHERE a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped AND has_column_privilege(c.oid, a.attnum, 'UPDATE')) || ')' END,
				CASE WHEN has_table_privilege(c.oid, 'DELETE') THEN 'DELETE' END, CASE WHEN has_table_privilege(c.oid, 'TRUNCATE') THEN 'TRUNCATE' END, CASE WHEN has_table_privilege(c.oid, 'TRIGGER') THEN 'TRIGGER' END) AS may
		FROM pg_class c WHERE c.relnamespace = current_schema()::regnamespace AND c.relkind = 'r' AND c.relname NOT LIKE 'river%' ORDER BY 1`).Scan(&rows).Error
	if err != nil {
		return err
	}
	for _, v := range rows {
		if v.Owns {
			return nil
		}
		if want := inOrder(rights[v.Name]); inOrder(v.May) != want {
			out.say("The application may do more or less to %s than it must: %s; it must: %s.", v.Name, orNothing(v.May), orNothing(want))
		}
	}
	return nil
}

// inOrder are rights with the columns of UPDATE in order.
func inOrder(may string) string {
	before, rest, ok := strings.Cut(may, "(")
	if !ok {
		return may
	}
	columns, after, _ := strings.Cut(rest, ")")
	all := strings.Split(columns, ", ")
	slices.Sort(all)
	return fmt.Sprintf("%s(%s)%s", before, strings.Join(all, ", "), after)
}

func orNothing(may string) string {
	if may == "" {
		return "nothing"
	}
	return may
}
