package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Sheet is one version of an engine sheet.
type Sheet struct {
	ID      int64 `gorm:"primaryKey"`
	Code    string
	Number  int
	State   string
	Sheet   string
	Version int64
	Reason  string
	SHA256  string `gorm:"column:sha256"`
	// CreatedBy and the others are nil where a program, not a person, did it.
	CreatedBy  *int64
	ChangedBy  *int64
	ChangedAt  time.Time
	ReleasedBy *int64
	ReleasedAt *time.Time
}

// SheetBatch is a saved batch of edits of a sheet and the way back.
type SheetBatch struct {
	ID       int64 `gorm:"primaryKey"`
	SheetID  int64
	Batch    string
	Client   string
	PersonID int64
	Version  int64
	Edits    string
	Inverse  string
	Kind     string
	Undone   bool
	At       time.Time
}

// Reproof is one run of proving a code's procedures again.
type Reproof struct {
	ID         int64 `gorm:"primaryKey"`
	Code       string
	SheetID    int64
	State      string
	Total      int
	Done       int
	StartedBy  *int64
	StartedAt  time.Time
	FinishedAt *time.Time
}

// ReproofRow is what it found in one revision.
type ReproofRow struct {
	ReproofID  int64 `gorm:"primaryKey"`
	RevisionID int64 `gorm:"primaryKey"`
	Before     int
	After      int
	Says       string
}

// ErrOpenSheet is the error of starting a draft of a sheet beside an open one,
// or of a code that there is already.
var ErrOpenSheet = errors.New("there is one already")

// SheetsOf lists the versions of a code's sheet, the newest first.
func (s *Store) SheetsOf(ctx context.Context, code string) ([]Sheet, error) {
	return many[Sheet](s.db.WithContext(ctx), "number DESC", "code = ?", code)
}

// Sheets lists the draft and the one in use of every code.
func (s *Store) Sheets(ctx context.Context) ([]Sheet, error) {
	return many[Sheet](s.db.WithContext(ctx), "code, number DESC", "state <> 'superseded'")
}

// AddSheet starts a draft: the first of a new code when fresh is set, which is
// an error for a code there is already.
func (s *Store) AddSheet(ctx context.Context, code, sheet, reason string, person int64, fresh bool) (*Sheet, error) {
	var out *Sheet
	err := s.in(ctx, func(tx *gorm.DB) error {
		var last int
		if err := tx.Raw("SELECT coalesce(max(number), 0) FROM sheets WHERE code = ?", code).Scan(&last).Error; err != nil {
			return err
		}
		if fresh && last > 0 {
			return ErrOpenSheet
		}
		out = &Sheet{Code: code, Number: last + 1, State: "draft", Sheet: sheet, Version: 1, Reason: reason, CreatedBy: &person, ChangedBy: &person, ChangedAt: Now()}
		if err := tx.Create(out).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return ErrOpenSheet
			}
			return err
		}
		return appendRecord(tx, Now(), person, 0, "start sheet "+code, fmt.Sprintf(`{"number":%d}`, out.Number))
	})
	return out, err
}

// SheetDraft is a sheet's draft locked for writing, inside a transaction.
type SheetDraft struct {
	tx    *gorm.DB
	Sheet *Sheet
}

// WriteSheet locks the draft of a code and lets f change it. Nothing is saved
// when f fails; ErrNotFound when there is no draft.
func (s *Store) WriteSheet(ctx context.Context, code string, f func(*SheetDraft) error) error {
	return s.in(ctx, func(tx *gorm.DB) error {
		v, err := one[Sheet](tx.Clauses(clause.Locking{Strength: "UPDATE"}), "code = ? AND state = 'draft'", code)
		if err != nil {
			return err
		}
		return f(&SheetDraft{tx, v})
	})
}

// Batches lists the batches of the draft, the newest first.
func (d *SheetDraft) Batches() ([]SheetBatch, error) {
	return many[SheetBatch](d.tx.Limit(400), "id DESC", "sheet_id = ?", d.Sheet.ID)
}

// SheetBatches lists the batches of a sheet, the newest first.
func (s *Store) SheetBatches(ctx context.Context, sheet int64) ([]SheetBatch, error) {
	return many[SheetBatch](s.db.WithContext(ctx).Limit(400), "id DESC", "sheet_id = ?", sheet)
}

// UndoableSheet picks from a sheet's batches, the newest first, the one of a
// person's that undo, or redo, would take back.
func UndoableSheet(newest []SheetBatch, person int64, redo bool) *SheetBatch {
	return undoable(newest, redo, func(b *SheetBatch) (string, bool) { return b.Kind, b.Undone || b.PersonID != person })
}

// MarkUndone notes that a batch has been taken back.
func (d *SheetDraft) MarkUndone(id int64) error {
	return d.tx.Model(&SheetBatch{}).Where("id = ?", id).Update("undone", true).Error
}

// Save writes the draft with the batch that changed it and a line of the record.
func (d *SheetDraft) Save(b *SheetBatch) error {
	now := Now()
	d.Sheet.Version++
	d.Sheet.ChangedBy, d.Sheet.ChangedAt = &b.PersonID, now
	b.SheetID, b.Version, b.At = d.Sheet.ID, d.Sheet.Version, now
	if err := d.tx.Save(d.Sheet).Error; err != nil {
		return err
	}
	if err := d.tx.Create(b).Error; err != nil {
		return err
	}
	return appendRecord(d.tx, now, b.PersonID, 0, b.Kind+" sheet "+d.Sheet.Code, b.Edits)
}

// Release puts the draft into use: the one in use before is superseded, the
// engine takes the new sheet, and a reproof of the code's procedures is written
// down. enqueue gets the transaction, so that the work is queued with it or not
// at all.
func (d *SheetDraft) Release(person int64, sha256 string, revisions int, enqueue func(tx *sql.Tx, reproof int64) error) (*Reproof, error) {
	now := Now()
	if err := d.tx.Model(&Sheet{}).Where("code = ? AND state = 'in use'", d.Sheet.Code).Update("state", "superseded").Error; err != nil {
		return nil, err
	}
	d.Sheet.State, d.Sheet.ReleasedBy, d.Sheet.ReleasedAt, d.Sheet.SHA256 = "in use", &person, &now, sha256
	if person == 0 {
		d.Sheet.ReleasedBy = nil
	}
	if err := d.tx.Save(d.Sheet).Error; err != nil {
		return nil, err
	}
	if err := putEngine(d.tx, d.Sheet.Code, d.Sheet.Sheet); err != nil {
		return nil, err
	}
	if err := appendRecord(d.tx, now, person, 0, "put sheet "+d.Sheet.Code+" into use", fmt.Sprintf(`{"number":%d,"sha256":%q}`, d.Sheet.Number, sha256)); err != nil {
		return nil, err
	}
	r := &Reproof{Code: d.Sheet.Code, SheetID: d.Sheet.ID, State: "waiting", Total: revisions, StartedBy: d.Sheet.ReleasedBy, StartedAt: now}
	if revisions == 0 {
		return nil, nil
	}
	if err := d.tx.Create(r).Error; err != nil {
		return nil, err
	}
	tx, ok := d.tx.Statement.ConnPool.(*sql.Tx)
	if !ok {
		return nil, errors.New("a sheet is released outside a transaction")
	}
	return r, enqueue(tx, r.ID)
}

func putEngine(tx *gorm.DB, code, sheet string) error {
	return tx.Exec(`INSERT INTO engines (code, sheet) VALUES (?, ?)
		ON CONFLICT (code) DO UPDATE SET sheet = EXCLUDED.sheet, version = engines.version + 1`, code, sheet).Error
}

// PutEngine adds a sheet, or its next version, straight into use.
func (s *Store) PutEngine(ctx context.Context, code, sheet, sha256 string) error {
	return s.in(ctx, func(tx *gorm.DB) error {
		var last int
		if err := tx.Raw("SELECT coalesce(max(number), 0) FROM sheets WHERE code = ?", code).Scan(&last).Error; err != nil {
			return err
		}
		if err := tx.Model(&Sheet{}).Where("code = ? AND state = 'in use'", code).Update("state", "superseded").Error; err != nil {
			return err
		}
		now := Now()
		if err := tx.Create(&Sheet{Code: code, Number: last + 1, State: "in use", Sheet: sheet, Version: 1, SHA256: sha256, ChangedAt: now, ReleasedAt: &now}).Error; err != nil {
			return err
		}
		return putEngine(tx, code, sheet)
	})
}

// LastReproof is the newest reproof of a code with its rows; ErrNotFound for
// none.
func (s *Store) LastReproof(ctx context.Context, code string) (*Reproof, []ReproofRow, error) {
	r, err := one[Reproof](s.db.WithContext(ctx).Order("id DESC"), "code = ?", code)
	if err != nil {
		return nil, nil, err
	}
	rows, err := many[ReproofRow](s.db.WithContext(ctx), "revision_id", "reproof_id = ?", r.ID)
	return r, rows, err
}

// ReproofByID finds a reproof.
func (s *Store) ReproofByID(ctx context.Context, id int64) (*Reproof, error) {
	return one[Reproof](s.db.WithContext(ctx), "id = ?", id)
}

// Advance writes what was found in some revisions and how far the reproof is.
func (s *Store) Advance(ctx context.Context, id int64, rows []ReproofRow) error {
	return s.in(ctx, func(tx *gorm.DB) error {
		if len(rows) > 0 {
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(rows, 200).Error; err != nil {
				return err
			}
		}
		return tx.Exec(`UPDATE reproofs SET state = CASE WHEN state = 'waiting' THEN 'running' ELSE state END,
			done = (SELECT count(*) FROM reproof_rows WHERE reproof_id = ?) WHERE id = ?`, id, id).Error
	})
}

// Finish ends a reproof that has not ended.
func (s *Store) Finish(ctx context.Context, id int64, state string) error {
	return s.db.WithContext(ctx).Exec("UPDATE reproofs SET state = ?, finished_at = ? WHERE id = ? AND state IN ('waiting', 'running')", state, Now(), id).Error
}
