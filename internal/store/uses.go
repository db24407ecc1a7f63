package store

import (
	"context"
	"strings"
	"unicode"

	"gorm.io/gorm"
)

// UseRow is one place at which a term stands, as core/uses finds it. It belongs to a
// revision or to an engine sheet.
type UseRow struct {
	RevisionID *int64
	SheetID    *int64
	StepID     string
	Kind       string
	Term       string
	Key        string
	Said       string
}

// TableName is uses.
func (UseRow) TableName() string { return "uses" }

// Index keeps the uses of some steps of the draft in place of those it had, of all
// of it where steps is nil. sheet is the version of the sheet they were found with.
func (d *Draft) Index(steps []string, rows []UseRow, sheet int64, edition string) error {
	return index(d.db, d.Revision.ID, steps, rows, sheet, edition)
}

// IndexRevision keeps the uses of a revision in place of those it had.
func (s *Store) IndexRevision(ctx context.Context, revision int64, rows []UseRow, sheet int64, edition string) error {
	return s.in(ctx, func(t *tx) error { return index(t.db, revision, nil, rows, sheet, edition) })
}

func index(db *gorm.DB, revision int64, steps []string, rows []UseRow, sheet int64, edition string) error {
	del := db.Where("revision_id = ?", revision)
	if steps != nil {
		del = del.Where("step_id IN ?", steps)
	}
	if err := del.Delete(&UseRow{}).Error; err != nil {
		return err
	}
	for i := range rows {
		rows[i].RevisionID = &revision
	}
	if len(rows) > 0 {
		if err := db.CreateInBatches(rows, 500).Error; err != nil {
			return err
		}
	}
	if steps != nil {
		return nil
	}
	return db.Exec("INSERT INTO indexed VALUES (?, ?, ?) ON CONFLICT (revision_id) DO UPDATE SET sheet_id = excluded.sheet_id, edition = excluded.edition", revision, sheet, edition).Error
}

// IndexSheet keeps the uses of a sheet in place of those of its code's sheets.
func (s *Store) IndexSheet(ctx context.Context, sheet int64, rows []UseRow) error {
	return s.in(ctx, func(t *tx) error {
		if err := t.db.Exec("DELETE FROM uses WHERE sheet_id IN (SELECT id FROM sheets WHERE code = (SELECT code FROM sheets WHERE id = ?))", sheet).Error; err != nil {
			return err
		}
		for i := range rows {
			rows[i].SheetID = &sheet
		}
		return t.db.CreateInBatches(rows, 500).Error
	})
}

// Indexed reports whether the uses of a revision were found by these rules.
func (r Reads) Indexed(revision int64, edition string) (bool, error) {
	var yes bool
	err := r.db.Raw("SELECT EXISTS (SELECT 1 FROM indexed WHERE revision_id = ? AND edition = ?)", revision, edition).Scan(&yes).Error
	return yes, err
}

// Unindexed lists revisions that are open or hold and whose uses were not found, or
// with another sheet or by other rules; and sheets in use of which none were: those after
// one each, the oldest first.
func (r Reads) Unindexed(edition string, afterRevision, afterSheet int64, most int) (revisions, sheets []int64, err error) {
	err = r.db.Raw(`SELECT r.id FROM revisions r JOIN procedures p ON p.id = r.procedure_id LEFT JOIN sheets u ON u.code = p.engine AND u.state = 'in use'
		WHERE r.state IN ('draft', 'on review', 'latched') AND NOT EXISTS (SELECT 1 FROM indexed i WHERE i.revision_id = r.id AND i.edition = ?
			AND (r.state = 'latched' OR i.sheet_id = coalesce(r.sheet_id, u.id))) AND r.id > ? ORDER BY r.id LIMIT ?`, edition, afterRevision, most).Scan(&revisions).Error
	if err != nil {
		return nil, nil, err
	}
	err = r.db.Raw("SELECT id FROM sheets s WHERE state = 'in use' AND NOT EXISTS (SELECT 1 FROM uses u WHERE u.sheet_id = s.id) AND s.id > ? ORDER BY id LIMIT ?", afterSheet, most).Scan(&sheets).Error
	return revisions, sheets, err
}

// Unindex forgets the uses of revisions that are neither open nor hold any more.
func (s *Store) Unindex(ctx context.Context) error {
	return s.in(ctx, func(t *tx) error {
		const gone = "SELECT i.revision_id FROM indexed i JOIN revisions r ON r.id = i.revision_id WHERE r.state NOT IN ('draft', 'on review', 'latched')"
		if err := t.db.Exec("DELETE FROM uses WHERE revision_id IN (" + gone + ")").Error; err != nil {
			return err
		}
		return t.db.Exec("DELETE FROM indexed WHERE revision_id IN (" + gone + ")").Error
	})
}

// Found is one place at which what was asked for stands.
type Found struct {
	RevisionID  int64
	SheetID     int64
	ProcedureID int64
	Engine      string
	Title       string
	Number      int
	State       string
	StepID      string
	Pos         float64
	Kind        string
	Term        string
	Said        string
}

// FindQuery says what is looked for.
type FindQuery struct {
	// Key is the term as whereused.Key gives it. A term is found that begins with it,
	// or that has all of its words, the last from its beginning.
	Key    string
	Kinds  []string
	Engine string
	// Drafts finds what is being written, too.
	Drafts bool
	Most   int
}

// Find lists where something is used: pages that are open or hold, and sheets in
// use. more is set where there is more than was asked for.
func (r Reads) Find(q FindQuery) (found []Found, more bool, err error) {
	states := []string{"latched"}
	if q.Drafts {
		states = append(states, "draft", "on review")
	}
	args := map[string]any{"prefix": escapeLike(q.Key) + "%", "words": prefixed(q.Key), "states": states, "kinds": q.Kinds, "engine": q.Engine, "most": q.Most + 1}
	hit := "(u.key LIKE @prefix"
	if args["words"] != "" {
		hit += " OR u.words @@ to_tsquery('simple', @words)"
	}
	hit += ")"
	if len(q.Kinds) > 0 {
		hit += " AND u.kind IN @kinds"
	}
	code := ""
	if q.Engine != "" {
		code = " AND engine = @engine"
	}
	err = r.db.Raw(`SELECT DISTINCT * FROM (
			SELECT u.revision_id, 0 AS sheet_id, r.procedure_id, p.engine, r.title, r.number, r.state, u.step_id, coalesce(t.pos, 0) AS pos, u.kind, u.term, u.said
			FROM uses u JOIN revisions r ON r.id = u.revision_id AND r.state IN @states JOIN procedures p ON p.id = r.procedure_id
				LEFT JOIN steps t ON t.revision_id = u.revision_id AND t.step_id = u.step_id
			WHERE `+hit+`
			UNION ALL
			SELECT 0, u.sheet_id, 0, s.code, 'Engine sheet', s.number, s.state, '', 0, u.kind, u.term, u.said
			FROM uses u JOIN sheets s ON s.id = u.sheet_id AND s.state = 'in use' WHERE `+hit+`) x
		WHERE true`+code+` LIMIT @most`, args).Scan(&found).Error
	if len(found) > q.Most {
		return found[:q.Most], true, err
	}
	return found, false, err
}

// prefixed is a text as a query for all of its words, the last from its beginning: it
// may still be being typed.
func prefixed(s string) string {
	all := []rune(s)
	digit := func(i int) bool { return i >= 0 && i < len(all) && unicode.IsDigit(all[i]) }
	for i, r := range all {
		if !unicode.IsLetter(r) && !unicode.IsNumber(r) && (r != '.' || !digit(i-1) || !digit(i+1)) {
			all[i] = ' ' // a point within a figure is part of it
		}
	}
	out := strings.Fields(string(all))
	if n := len(out); n > 0 {
		out[n-1] += ":*"
	}
	return strings.Join(out, " & ")
}

// Holder is a page or an engine sheet on which something that is looked for may stand.
type Holder struct {
	RevisionID int64
	Code       string
}

// Sought says by what something is looked for: values that begin with a prefix;
// texts that have all words of one of several ways to write it, a last one that ends
// with * from its beginning; and, where that is not empty, texts that have it letter by
// letter.
type Sought struct {
	Prefix  string
	Words   []string
	Literal string
}

// Holders lists the codes whose sheet in use may say something, or that have a draft of
// one, and then the pages that are open, or that hold and have no open revision. More of
// them may be listed than have it, never fewer. The pages are at most as many as are
// asked for, so that no number of sheets keeps them out; more is set where there are
// others.
func (r Reads) Holders(s Sought, code string, most int) (found []Holder, more bool, err error) {
	args := map[string]any{"prefix": escapeLike(s.Prefix) + "%", "literal": "%" + escapeLike(s.Literal) + "%", "engine": code, "most": most + 1}
	hit := "(u.key LIKE @prefix"
	if s.Literal != "" {
		hit += " OR u.said ILIKE @literal"
	}
	var ways []string
	for _, w := range s.Words {
		begun := strings.HasSuffix(w, "*")
		q := prefixed(w)
		if !begun {
			q = strings.TrimSuffix(q, ":*")
		}
		if q != "" {
			ways = append(ways, "("+q+")")
		}
	}
	if args["words"] = strings.Join(ways, " | "); len(ways) > 0 {
		hit += " OR u.words @@ to_tsquery('simple', @words)"
	}
	hit += ")"
	at := ""
	if code != "" {
		at = " AND code = @engine"
	}
	err = r.db.Raw(`SELECT revision_id, code FROM (
			(SELECT DISTINCT u.revision_id, p.engine AS code FROM uses u JOIN revisions r ON r.id = u.revision_id JOIN procedures p ON p.id = r.procedure_id
			WHERE `+hit+` AND (r.state IN ('draft', 'on review') OR r.state = 'latched'
				AND NOT EXISTS (SELECT 1 FROM revisions o WHERE o.procedure_id = r.procedure_id AND o.state IN ('draft', 'on review')))`+strings.ReplaceAll(at, "code", "p.engine")+`
				ORDER BY code, revision_id LIMIT @most)
			UNION
			SELECT DISTINCT 0, s.code FROM uses u JOIN sheets s ON s.id = u.sheet_id AND s.state = 'in use' WHERE `+hit+`
			UNION
			SELECT 0, code FROM sheets WHERE state = 'draft') x
		WHERE true`+at+` ORDER BY revision_id = 0 DESC, code, revision_id`, args).Scan(&found).Error
	pages := 0
	for i := range found {
		if found[i].RevisionID != 0 {
			pages++
		}
	}
	if pages > most {
		return found[:len(found)-1], true, err
	}
	return found, false, err
}
