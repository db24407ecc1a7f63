package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Now is the clock of everything that is written; tests may set it.
var Now = time.Now

// ErrOpenRevision is the error of starting a draft beside an open one.
var ErrOpenRevision = errors.New("this procedure has an open revision already")

// NewRevision is what a first or next revision starts from.
type NewRevision struct {
	// ProcedureID is 0 for a new procedure on Engine.
	ProcedureID int64
	Engine      string
	Reason      string
	Header      string
	Steps       []Step
	Person      int64
	What        string
	Payload     string
}

// AddRevision starts a draft and gives it.
func (s *Store) AddRevision(ctx context.Context, n NewRevision) (*Revision, error) {
	var r *Revision
	err := s.in(ctx, func(tx *gorm.DB) error {
		if n.ProcedureID == 0 {
			p := Procedure{Engine: n.Engine, CreatedAt: Now()}
			if err := tx.Create(&p).Error; err != nil {
				return err
			}
			n.ProcedureID = p.ID
		}
		var last int
		if err := tx.Raw("SELECT coalesce(max(number), 0) FROM revisions WHERE procedure_id = ?", n.ProcedureID).Scan(&last).Error; err != nil {
			return err
		}
		r = &Revision{ProcedureID: n.ProcedureID, Number: last + 1, State: "draft", Reason: n.Reason, Header: n.Header, Version: 1, CreatedBy: n.Person, ChangedBy: n.Person, ChangedAt: Now()}
		if err := tx.Create(r).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return ErrOpenRevision
			}
			return err
		}
		for i := range n.Steps {
			n.Steps[i].RevisionID, n.Steps[i].Version, n.Steps[i].ChangedBy, n.Steps[i].Pos = r.ID, 1, n.Person, float64(i+1)
		}
		if len(n.Steps) > 0 {
			if err := tx.CreateInBatches(n.Steps, 500).Error; err != nil {
				return err
			}
		}
		return appendRecord(tx, Now(), n.Person, r.ID, n.What, n.Payload)
	})
	return r, err
}

// Draft is a revision locked for writing, inside a transaction.
type Draft struct {
	tx       *gorm.DB
	Revision *Revision
	Steps    []Step
	Closings []Closing
}

// Write locks a revision, lets f change it, and saves what f changed with an
// entry in the record. Nothing is saved when f fails.
func (s *Store) Write(ctx context.Context, revision int64, f func(*Draft) error) error {
	return s.in(ctx, func(tx *gorm.DB) error {
		r, err := one[Revision](tx.Clauses(clause.Locking{Strength: "UPDATE"}), "id = ?", revision)
		if err != nil {
			return err
		}
		d := &Draft{tx: tx, Revision: r}
		if d.Steps, err = many[Step](tx, "pos, step_id", "revision_id = ?", revision); err != nil {
			return err
		}
		if d.Closings, err = many[Closing](tx, "at", "revision_id = ?", revision); err != nil {
			return err
		}
		return f(d)
	})
}

// Batch finds an earlier batch of the same name, nil for none.
func (d *Draft) Batch(name string) (*Batch, error) {
	b, err := one[Batch](d.tx, "batch = ?", name)
	if errors.Is(err, ErrNotFound) {
		return nil, nil
	}
	return b, err
}

// LastBatch is a person's newest batch that can be undone or, with redo, the
// newest undo that can be taken back; nil for none.
func (d *Draft) LastBatch(person int64, redo bool) (*Batch, error) {
	all, err := many[Batch](d.tx.Limit(400), "id DESC", "revision_id = ? AND person_id = ? AND NOT undone", d.Revision.ID, person)
	if err != nil {
		return nil, err
	}
	return Undoable(all, redo), nil
}

// Undoable picks from a person's batches, the newest first, the one that undo,
// or redo, would take back.
func Undoable(newest []Batch, redo bool) *Batch {
	return undoable(newest, redo, func(b *Batch) (string, bool) { return b.Kind, b.Undone })
}

// undoable is the one rule of it, for batches of steps and of sheets: undo takes
// the newest edit that stands, redo the newest undo with nothing done since.
func undoable[B any](newest []B, redo bool, of func(*B) (kind string, undone bool)) *B {
	for i := range newest {
		switch kind, undone := of(&newest[i]); {
		case undone:
		case redo && kind == "undo":
			return &newest[i]
		case redo && kind == "redo":
		case redo:
			return nil
		case kind != "undo":
			return &newest[i]
		}
	}
	return nil
}

// MarkUndone notes that a batch has been taken back.
func (d *Draft) MarkUndone(id int64) error {
	return d.tx.Model(&Batch{}).Where("id = ?", id).Update("undone", true).Error
}

// SaveStep writes one step.
func (d *Draft) SaveStep(s Step) error {
	s.RevisionID = d.Revision.ID
	return d.tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&s).Error
}

// SaveBatch writes a batch of edits.
func (d *Draft) SaveBatch(b *Batch) error {
	b.RevisionID, b.At = d.Revision.ID, Now()
	return d.tx.Create(b).Error
}

// Save writes the revision itself.
func (d *Draft) Save(person int64) error {
	d.Revision.ChangedBy, d.Revision.ChangedAt = person, Now()
	return d.tx.Save(d.Revision).Error
}

// SetState writes nothing but the state, which is all a latched revision lets
// change.
func (d *Draft) SetState(revision int64, state string) error {
	return d.tx.Model(&Revision{}).Where("id = ?", revision).Update("state", state).Error
}

// Siblings are the revisions of the same procedure.
func (d *Draft) Siblings() ([]Revision, error) {
	return many[Revision](d.tx, "number DESC", "procedure_id = ?", d.Revision.ProcedureID)
}

// Close closes a latch.
func (d *Draft) Close(latch string, person int64) error {
	c := Closing{RevisionID: d.Revision.ID, Latch: latch, PersonID: person, At: Now()}
	if err := d.tx.Create(&c).Error; err != nil {
		return err
	}
	d.Closings = append(d.Closings, c)
	return nil
}

// Reopen opens a latch again.
func (d *Draft) Reopen(latch string) error {
	return d.tx.Where("revision_id = ? AND latch = ?", d.Revision.ID, latch).Delete(&Closing{}).Error
}

// Append adds to the record.
func (d *Draft) Append(person int64, what, payload string) error {
	return appendRecord(d.tx, Now(), person, d.Revision.ID, what, payload)
}
