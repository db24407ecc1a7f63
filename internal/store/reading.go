package store

import (
	"context"
	"errors"

	"gorm.io/gorm"
)

// Reads is everything that can be read, through the pool or through one
// transaction. It is a value: what is read inside a write is read through that
// write's own.
type Reads struct{ db *gorm.DB }

// Reads reads through the pool.
func (s *Store) Reads(ctx context.Context) Reads { return Reads{s.db.WithContext(ctx)} }

// PersonByEmail finds somebody by e-mail address, whatever its case.
func (r Reads) PersonByEmail(email string) (*Person, error) {
	return one[Person](r.db, "lower(email) = lower(?)", email)
}

// PersonByID finds somebody.
func (r Reads) PersonByID(id int64) (*Person, error) { return one[Person](r.db, "id = ?", id) }

// People lists everybody.
func (r Reads) People() ([]Person, error) { return many[Person](r.db, "id", "true") }

// Names are the names of some people.
func (r Reads) Names(ids ...int64) (map[int64]string, error) {
	var rows []struct {
		ID   int64
		Name string
	}
	if err := r.db.Raw("SELECT id, name FROM people WHERE id IN ?", append(ids, 0)).Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := make(map[int64]string, len(rows))
	for _, p := range rows {
		out[p.ID] = p.Name
	}
	return out, nil
}

// NameOf is what somebody is called; empty for the command line.
func (r Reads) NameOf(id int64) (string, error) {
	names, err := r.Names(id)
	return names[id], err
}

// ReadAtClosing counts how whoever last closed a latch of a revision came to have read
// it, thing by thing: said, stood, wrote.
func (r Reads) ReadAtClosing(revision int64, latch string) (map[string]int, error) {
	var rows []struct {
		How string
		N   int
	}
	err := r.db.Raw(`SELECT v ->> 'read' AS how, count(*) AS n FROM jsonb_array_elements(
		(SELECT payload::jsonb -> 'steps' FROM record WHERE revision_id = ? AND what = ? ORDER BY seq DESC LIMIT 1)) v
		WHERE v ->> 'read' IS NOT NULL GROUP BY 1`, revision, "close "+latch+" latch").Scan(&rows).Error
	out := map[string]int{}
	for _, v := range rows {
		out[v.How] = v.N
	}
	return out, err
}

// Workers are those by whose hand the record has anything in a revision.
func (r Reads) Workers(revision int64) ([]int64, error) {
	var out []int64
	err := r.db.Raw("SELECT DISTINCT person_id FROM record WHERE revision_id = ? AND "+work, revision).Scan(&out).Error
	return out, err
}

// RevisionByID finds a revision.
func (r Reads) RevisionByID(id int64) (*Revision, error) { return one[Revision](r.db, "id = ?", id) }

// RevisionsOf lists the revisions of a procedure without their headers, the
// newest first.
func (r Reads) RevisionsOf(procedure int64) ([]Revision, error) {
	return many[Revision](r.db.Omit("header"), "number DESC", "procedure_id = ?", procedure)
}

// Parts lists the newest revision of procedures of a code that begin or end in the
// middle of a job: those with one of the named titles first, then by procedure.
func (r Reads) Parts(code string, named []string, most int) ([]Revision, error) {
	var out []Revision
	err := r.db.Raw(partsQuery, map[string]any{"code": code, "named": named, "most": most}).Scan(&out).Error
	return out, err
}

// partsQuery finds them by the index of what few pages have: written as it is there, and
// as something that is or is not, so that the planner knows from it how few they are.
const partsQuery = `SELECT r.* FROM revisions r JOIN procedures p ON p.id = r.procedure_id
	WHERE nullif(jsonb_exists(r.header::jsonb, 'begins') OR jsonb_exists(r.header::jsonb, 'ends'), false) IS NOT NULL AND p.engine = @code AND r.state <> 'deleted'
		AND NOT EXISTS (SELECT 1 FROM revisions n WHERE n.procedure_id = r.procedure_id AND n.number > r.number AND n.state <> 'deleted')
	ORDER BY r.header::jsonb ->> 'title' IN @named DESC, r.procedure_id LIMIT @most`

// Open lists the revisions of a code that are being written or on review, and
// the latched ones, by id.
func (r Reads) Open(code string) ([]Revision, error) {
	return many[Revision](r.db, "id", "state IN ('draft', 'on review', 'latched') AND procedure_id IN (SELECT id FROM procedures WHERE engine = ?)", code)
}

// Frozen is the file a latched revision was frozen as.
func (r Reads) Frozen(id int64) (string, error) {
	var s string
	err := r.db.Raw("SELECT frozen FROM revisions WHERE id = ?", id).Scan(&s).Error
	return s, err
}

// EngineOf is the code of a revision's procedure.
func (r Reads) EngineOf(revision int64) (string, error) {
	var code string
	err := r.db.Raw("SELECT p.engine FROM revisions r JOIN procedures p ON p.id = r.procedure_id WHERE r.id = ?", revision).Scan(&code).Error
	if err == nil && code == "" {
		err = ErrNotFound
	}
	return code, err
}

// Procedure finds a procedure.
func (r Reads) Procedure(id int64) (*Procedure, error) { return one[Procedure](r.db, "id = ?", id) }

// CountProcedures is how many procedures a code has.
func (r Reads) CountProcedures(code string) (int, error) {
	var n int
	err := r.db.Raw("SELECT count(*) FROM procedures WHERE engine = ?", code).Scan(&n).Error
	return n, err
}

// StepsOf lists the steps of a revision in order, those taken out along.
func (r Reads) StepsOf(revision int64) ([]Step, error) {
	return many[Step](r.db, "pos, step_id", "revision_id = ?", revision)
}

// ClosingsOf lists the closed latches of a revision.
func (r Reads) ClosingsOf(revision int64) ([]Closing, error) {
	return many[Closing](r.db, "at", "revision_id = ?", revision)
}

// Shut lists the closed latches of a revision with the names of who closed them.
func (r Reads) Shut(revision int64) ([]ShelfClosing, error) {
	var out []ShelfClosing
	err := r.db.Raw("SELECT c.latch, c.person_id AS person, coalesce(nullif(c.name, ''), n.name) AS name, c.at FROM closings c JOIN people n ON n.id = c.person_id WHERE c.revision_id = ? ORDER BY c.at", revision).Scan(&out).Error
	return out, err
}

// Turn is the kind of a batch and whether it was taken back, enough to know what
// undo would do.
type Turn struct {
	ID     int64
	Kind   string
	Undone bool
}

// Turns lists a person's batches in a revision, the newest first.
func (r Reads) Turns(revision, person int64) ([]Turn, error) {
	return r.turns("batches", "revision_id", revision, person)
}

// MayTakeBack reports whether a person has something to undo in a revision, and
// something to redo: the rule of Undoable, without fetching what it goes by.
func (r Reads) MayTakeBack(revision, person int64) (undo, redo bool, err error) {
	var v struct{ Undo, Redo bool }
	err = r.db.Raw(`SELECT EXISTS (SELECT 1 FROM batches WHERE revision_id = @r AND person_id = @p AND NOT undone AND kind <> 'undo') AS undo,
		coalesce((SELECT kind = 'undo' FROM batches WHERE revision_id = @r AND person_id = @p AND NOT undone AND kind <> 'redo' ORDER BY id DESC LIMIT 1), false) AS redo`,
		map[string]any{"r": revision, "p": person}).Scan(&v).Error
	return v.Undo, v.Redo, err
}

// SheetTurns lists a person's batches in a sheet, the newest first.
func (r Reads) SheetTurns(sheet, person int64) ([]Turn, error) {
	return r.turns("sheet_batches", "sheet_id", sheet, person)
}

func (r Reads) turns(table, column string, of, person int64) ([]Turn, error) {
	var out []Turn
	err := r.db.Table(table).Select("id, kind, undone").Where(column+" = ? AND person_id = ? AND NOT undone", of, person).Order("id DESC").Limit(400).Find(&out).Error
	return out, err
}

// BatchesSince lists the batches of a revision after a version, the newest first.
func (r Reads) BatchesSince(revision, version int64) ([]Batch, error) {
	return many[Batch](r.db.Limit(5000), "id DESC", "revision_id = ? AND version > ?", revision, version)
}

// work are the lines of the record that make somebody's hand part of a page.
const work = `what IN ('edit', 'undo', 'redo', 'import', 'start procedure', 'start revision', 'start sheet', 'edit sheet', 'undo sheet', 'redo sheet')`

// WorkedOn reports whether the record has anything by a person's hand in a
// revision.
func (r Reads) WorkedOn(revision, person int64) (bool, error) {
	var yes bool
	err := r.db.Raw("SELECT EXISTS (SELECT 1 FROM record WHERE revision_id = ? AND person_id = ? AND "+work+")", revision, person).Scan(&yes).Error
	return yes, err
}

// WorkedOnSheet reports the same of a version of an engine sheet.
func (r Reads) WorkedOnSheet(sheet, person int64) (bool, error) {
	var yes bool
	err := r.db.Raw(`SELECT EXISTS (SELECT 1 FROM record WHERE sheet_id = ? AND person_id = ? AND `+work+`)
		OR EXISTS (SELECT 1 FROM sheet_batches WHERE sheet_id = ? AND person_id = ?) OR EXISTS (SELECT 1 FROM sheets WHERE id = ? AND created_by = ?)`,
		sheet, person, sheet, person, sheet, person).Scan(&yes).Error
	return yes, err
}

// Record lists the entries of a revision, the newest first.
func (r Reads) Record(revision int64) ([]Entry, error) {
	return many[Entry](r.db.Limit(500), "seq DESC", "revision_id = ?", revision)
}

// SheetHead finds a version of a sheet without its text.
func (r Reads) SheetHead(id int64) (*Sheet, error) {
	return one[Sheet](r.db.Omit("sheet"), "id = ?", id)
}

// InUse is the sheet of a code that is in use, without its text.
func (r Reads) InUse(code string) (*Sheet, error) {
	return one[Sheet](r.db.Omit("sheet"), "code = ? AND state = 'in use'", code)
}

// SheetText is the JSON of a version of a sheet.
func (r Reads) SheetText(id int64) (string, error) {
	var s string
	err := r.db.Raw("SELECT sheet FROM sheets WHERE id = ?", id).Scan(&s).Error
	return s, err
}

// SheetsOf lists the versions of a code's sheet without their text, the newest
// first.
func (r Reads) SheetsOf(code string) ([]Sheet, error) {
	return many[Sheet](r.db.Omit("sheet"), "number DESC", "code = ?", code)
}

// SheetBatches lists the newest batches of a sheet.
func (r Reads) SheetBatches(sheet int64) ([]SheetBatch, error) {
	return many[SheetBatch](r.db.Limit(400), "id DESC", "sheet_id = ?", sheet)
}

// LastReproof is the newest reproof of a code with its rows; ErrNotFound for
// none.
func (r Reads) LastReproof(code string) (*Reproof, []ReproofRow, error) {
	v, err := one[Reproof](r.db.Order("id DESC"), "code = ?", code)
	if err != nil {
		return nil, nil, err
	}
	rows, err := many[ReproofRow](r.db, "revision_id", "reproof_id = ?", v.ID)
	return v, rows, err
}

// ReproofByID finds a reproof.
func (r Reads) ReproofByID(id int64) (*Reproof, error) { return one[Reproof](r.db, "id = ?", id) }

// ReproofDone are the revisions a reproof has been through.
func (r Reads) ReproofDone(id int64) (map[int64]bool, error) {
	rows, err := many[ReproofRow](r.db.Omit("says"), "revision_id", "reproof_id = ?", id)
	if err != nil {
		return nil, err
	}
	done := make(map[int64]bool, len(rows))
	for i := range rows {
		done[rows[i].RevisionID] = true
	}
	return done, nil
}

// optional turns ErrNotFound into nothing.
func optional[T any](v *T, err error) (*T, error) {
	if errors.Is(err, ErrNotFound) {
		return nil, nil
	}
	return v, err
}
