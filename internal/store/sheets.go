package store

import (
	"context"
	"database/sql"
	"errors"
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
	// CreatedBy and the others are nil in what was written before sheets had
	// versions.
	CreatedBy  *int64
	ChangedBy  *int64
	ChangedAt  time.Time
	ReleasedBy *int64
	ReleasedAt *time.Time
	// AskedBy wants the draft looked at, since AskedAt; nil for nobody.
	AskedBy *int64
	AskedAt *time.Time
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
	Digest   string
	At       time.Time
	// Says is what it changed, a line each, for the record.
	Says []string `gorm:"-"`
}

// ErrOpenSheet is the error of starting a draft of a sheet beside an open one,
// or of a code that there is already.
var ErrOpenSheet = errors.New("there is one already")

// AddSheet starts a draft: the first of a new code when fresh is set, which is
// an error for a code there is already. text is asked inside the transaction.
func (s *Store) AddSheet(ctx context.Context, code, reason string, person int64, fresh bool, text func(Reads) (string, error)) (*Sheet, error) {
	var out *Sheet
	err := s.in(ctx, func(t *tx) error {
		if err := t.lockCode(code); err != nil {
			return err
		}
		var last int
		if err := t.db.Raw("SELECT coalesce(max(number), 0) FROM sheets WHERE code = ?", code).Scan(&last).Error; err != nil {
			return err
		}
		if fresh && last > 0 {
			return ErrOpenSheet
		}
		body, err := text(t.Reads)
		if err != nil {
			return err
		}
		out = &Sheet{Code: code, Number: last + 1, State: "draft", Sheet: body, Version: 1, Reason: reason, CreatedBy: &person, ChangedBy: &person, ChangedAt: Now()}
		if err := t.db.Create(out).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return ErrOpenSheet
			}
			return err
		}
		t.touch("sheets", out.ID)
		return t.append(line{person: person, sheet: out.ID, what: "start sheet", payload: map[string]any{"code": code, "number": out.Number, "digest": sum(body)}})
	})
	return out, err
}

// lockCode waits until no sheet of the code goes into use and nothing is written
// on one.
func (t *tx) lockCode(code string) error {
	return t.db.Exec("SELECT 1 FROM engines WHERE code = ? FOR UPDATE", code).Error
}

// SheetDraft is a sheet's draft locked for writing, inside a transaction.
type SheetDraft struct {
	*tx
	Sheet *Sheet
}

// WriteSheet locks the draft of a code and lets f change it. Nothing is saved
// when f fails; ErrNotFound when there is no draft.
func (s *Store) WriteSheet(ctx context.Context, code string, f func(*SheetDraft) error) error {
	return s.writeSheet(ctx, code, false, f)
}

// ReleaseSheet is WriteSheet with the whole code locked: nothing is written on
// it until the sheet is in use.
func (s *Store) ReleaseSheet(ctx context.Context, code string, f func(*SheetDraft) error) error {
	return s.writeSheet(ctx, code, true, f)
}

func (s *Store) writeSheet(ctx context.Context, code string, whole bool, f func(*SheetDraft) error) error {
	return s.in(ctx, func(t *tx) error {
		if whole {
			if err := t.lockCode(code); err != nil {
				return err
			}
		}
		v, err := one[Sheet](t.db.Clauses(clause.Locking{Strength: "UPDATE"}), "code = ? AND state = 'draft'", code)
		if err != nil {
			return err
		}
		return f(&SheetDraft{t, v})
	})
}

// Batches lists the newest batches of the draft.
func (d *SheetDraft) Batches() ([]SheetBatch, error) { return d.SheetBatches(d.Sheet.ID) }

// Batch finds an earlier batch of the same name by the same person, nil for none.
func (d *SheetDraft) Batch(name string, person int64) (*SheetBatch, error) {
	return optional(one[SheetBatch](d.db, "sheet_id = ? AND person_id = ? AND batch = ?", d.Sheet.ID, person, name))
}

// LastBatch is a person's newest batch that undo, or redo, would take back; nil
// for none.
func (d *SheetDraft) LastBatch(person int64, redo bool) (*SheetBatch, error) {
	turns, err := d.SheetTurns(d.Sheet.ID, person)
	if err != nil {
		return nil, err
	}
	id := Undoable(turns, redo)
	if id == 0 {
		return nil, nil
	}
	return one[SheetBatch](d.db, "id = ?", id)
}

// MarkUndone notes that a batch has been taken back.
func (d *SheetDraft) MarkUndone(id int64) error {
	d.touch("sheet_batches", id)
	return d.db.Model(&SheetBatch{}).Where("id = ?", id).Update("undone", true).Error
}

// Save writes the draft with the batch that changed it and a line of the record.
func (d *SheetDraft) Save(b *SheetBatch) error {
	now := Now()
	d.Sheet.Version++
	d.Sheet.ChangedBy, d.Sheet.ChangedAt = &b.PersonID, now
	b.SheetID, b.Version, b.At = d.Sheet.ID, d.Sheet.Version, now
	err := d.db.Model(&Sheet{}).Where("id = ?", d.Sheet.ID).Select("sheet", "version", "changed_by", "changed_at").Updates(d.Sheet).Error
	if err != nil {
		return err
	}
	if err := d.db.Create(b).Error; err != nil {
		return err
	}
	d.touch("sheets", d.Sheet.ID)
	d.touch("sheet_batches", b.ID)
	if err := d.notify(Event{Code: d.Sheet.Code, Version: d.Sheet.Version}); err != nil {
		return err
	}
	return d.append(line{person: b.PersonID, sheet: d.Sheet.ID, what: b.Kind + " sheet", payload: map[string]any{
		"code": d.Sheet.Code, "batch": b.Batch, "version": b.Version, "edits": rawJSON(b.Edits), "did": b.Says, "digest": sum(d.Sheet.Sheet)}})
}

// OpenDrafts are the code's revisions on review, locked for writing.
func (d *SheetDraft) OpenDrafts() ([]*Draft, error) {
	var ids []int64
	if err := d.db.Raw("SELECT r.id FROM revisions r JOIN procedures p ON p.id = r.procedure_id WHERE p.engine = ? AND r.state IN ('draft', 'on review') ORDER BY r.id", d.Sheet.Code).Scan(&ids).Error; err != nil {
		return nil, err
	}
	var out []*Draft
	for _, id := range ids {
		w, err := d.lockDraft(id, d.Sheet.Code)
		if err != nil {
			return nil, err
		}
		if len(w.Closings) > 0 {
			out = append(out, w)
		}
	}
	return out, nil
}

// Release puts the draft into use: the one in use before is superseded, and a
// reproof of the code's procedures is written down, nil when it has none.
// enqueue gets the transaction, so that the work is queued with it or not at
// all. did says what it changes, a line each.
func (d *SheetDraft) Release(person int64, did []string, enqueue func(tx *sql.Tx, reproof int64) error) (*Reproof, error) {
	now, v := Now(), d.Sheet
	var before []int64
	if err := d.db.Raw("UPDATE sheets SET state = 'superseded' WHERE code = ? AND state = 'in use' RETURNING id", v.Code).Scan(&before).Error; err != nil {
		return nil, err
	}
	for _, id := range append(before, v.ID) {
		d.touch("sheets", id)
	}
	d.touch("engines", v.Code)
	v.State, v.ReleasedBy, v.ReleasedAt, v.SHA256 = "in use", &person, &now, sum(v.Sheet)
	if err := d.db.Model(&Sheet{}).Where("id = ?", v.ID).Select("state", "released_by", "released_at", "sha256").Updates(v).Error; err != nil {
		return nil, err
	}
	if err := d.db.Exec("INSERT INTO engines (code) VALUES (?) ON CONFLICT DO NOTHING", v.Code).Error; err != nil {
		return nil, err
	}
	if err := d.notify(Event{Code: v.Code, Talk: true}); err != nil {
		return nil, err
	}
	err := d.append(line{person: person, sheet: v.ID, what: "put sheet into use", payload: map[string]any{"code": v.Code, "number": v.Number, "sha256": v.SHA256, "did": did}, anchor: true})
	if err != nil {
		return nil, err
	}
	revs, err := d.Open(v.Code)
	if err != nil || len(revs) == 0 {
		return nil, err
	}
	r := &Reproof{Code: v.Code, SheetID: v.ID, State: "waiting", Total: len(revs), StartedBy: &person, StartedAt: now}
	if err := d.db.Create(r).Error; err != nil {
		return nil, err
	}
	raw, err := d.raw()
	if err != nil {
		return nil, err
	}
	return r, enqueue(raw, r.ID)
}

// raw is the transaction as database/sql knows it, for the job queue.
func (t *tx) raw() (*sql.Tx, error) {
	raw, ok := t.db.Statement.ConnPool.(*sql.Tx)
	if !ok {
		return nil, errors.New("this is not inside a transaction")
	}
	return raw, nil
}
