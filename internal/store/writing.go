package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"slices"
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
	Person      int64
	What        string
	// From gives header, steps and what the record is told. It is asked inside the
	// transaction, with the procedure locked, so that a next revision starts from
	// the one that is latched now.
	From func(Reads) (header string, steps []Step, payload map[string]any, err error)
	// Then, where it is set, goes on with the draft inside the same transaction.
	Then func(*Draft) error
}

// AddRevision starts a draft and gives it.
func (s *Store) AddRevision(ctx context.Context, n NewRevision) (*Revision, error) {
	var r *Revision
	err := s.in(ctx, func(t *tx) error {
		if n.ProcedureID == 0 {
			p := Procedure{Engine: n.Engine, CreatedAt: Now()}
			if err := t.db.Create(&p).Error; err != nil {
				return err
			}
			n.ProcedureID = p.ID
			t.touch("procedures", p.ID)
		}
		if err := t.lockProcedure(n.ProcedureID); err != nil {
			return err
		}
		header, steps, payload, err := n.From(t.Reads)
		if err != nil {
			return err
		}
		var last int
		if err := t.db.Raw("SELECT coalesce(max(number), 0) FROM revisions WHERE procedure_id = ?", n.ProcedureID).Scan(&last).Error; err != nil {
			return err
		}
		r = &Revision{ProcedureID: n.ProcedureID, Number: last + 1, State: "draft", Reason: n.Reason, Header: header, Version: 1, CreatedBy: n.Person, ChangedBy: n.Person, ChangedAt: Now()}
		if err := t.db.Create(r).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return ErrOpenRevision
			}
			return err
		}
		t.touch("revisions", r.ID)
		for i := range steps {
			steps[i].RevisionID, steps[i].Version, steps[i].ChangedBy, steps[i].Pos = r.ID, 1, n.Person, float64(i+1)
		}
		if len(steps) > 0 {
			if err := t.db.CreateInBatches(steps, 500).Error; err != nil {
				return err
			}
		}
		payload["number"], payload["procedure"], payload["digest"] = r.Number, r.ProcedureID, digest(header, steps)
		if err := t.notify(Event{Revision: r.ID, Version: 1}); err != nil {
			return err
		}
		if err := t.append(line{person: n.Person, revision: r.ID, what: n.What, payload: payload}); err != nil || n.Then == nil {
			return err
		}
		d, err := t.lockDraft(r.ID, n.Engine)
		if err != nil {
			return err
		}
		return n.Then(d)
	})
	return r, err
}

// lockProcedure waits until nobody else starts or latches a revision of it.
func (t *tx) lockProcedure(id int64) error {
	return t.db.Exec("SELECT 1 FROM procedures WHERE id = ? FOR UPDATE", id).Error
}

// digest is the SHA-256 of a draft as it is kept: its header, then each step that
// stands, by position.
func digest(header string, steps []Step) string {
	live := slices.DeleteFunc(slices.Clone(steps), func(s Step) bool { return s.Gone })
	slices.SortStableFunc(live, func(a, b Step) int {
		switch {
		case a.Pos < b.Pos:
			return -1
		case a.Pos > b.Pos:
			return 1
		}
		return 0
	})
	h := sha256.New()
	io.WriteString(h, header+"\n")
	for i := range live {
		io.WriteString(h, live[i].StepID+"\n"+live[i].Body+"\n")
	}
	return hex.EncodeToString(h.Sum(nil))
}

// Draft is a revision locked for writing, inside a transaction.
type Draft struct {
	*tx
	Revision *Revision
	Steps    []Step
	Closings []Closing
	// Engine is its code. While the draft is locked the sheet in use stays.
	Engine string
}

// Write locks a revision, lets f change it, and saves what f changed with an
// entry in the record. Nothing is saved when f fails.
func (s *Store) Write(ctx context.Context, revision int64, f func(*Draft) error) error {
	return s.in(ctx, func(t *tx) error {
		code, err := t.EngineOf(revision)
		if err != nil {
			return err
		}
		// Always the code before the revision: a sheet going into use does the same.
		if err := t.db.Exec("SELECT 1 FROM engines WHERE code = ? FOR KEY SHARE", code).Error; err != nil {
			return err
		}
		d, err := t.lockDraft(revision, code)
		if err != nil {
			return err
		}
		return f(d)
	})
}

func (t *tx) lockDraft(revision int64, code string) (*Draft, error) {
	r, err := one[Revision](t.db.Clauses(clause.Locking{Strength: "NO KEY UPDATE"}), "id = ?", revision)
	if err != nil {
		return nil, err
	}
	d := &Draft{tx: t, Revision: r, Engine: code}
	if d.Steps, err = t.StepsOf(revision); err != nil {
		return nil, err
	}
	d.Closings, err = t.ClosingsOf(revision)
	return d, err
}

// Lock waits until nobody else starts or latches a revision of the procedure.
func (d *Draft) Lock() error { return d.lockProcedure(d.Revision.ProcedureID) }

// Batch finds an earlier batch of the same name by the same person, nil for none.
func (d *Draft) Batch(name string, person int64) (*Batch, error) {
	return optional(one[Batch](d.db, "revision_id = ? AND person_id = ? AND batch = ?", d.Revision.ID, person, name))
}

// LastBatch is a person's newest batch that can be undone or, with redo, the
// newest undo that can be taken back; nil for none.
func (d *Draft) LastBatch(person int64, redo bool) (*Batch, error) {
	turns, err := d.Turns(d.Revision.ID, person)
	if err != nil {
		return nil, err
	}
	id := Undoable(turns, redo)
	if id == 0 {
		return nil, nil
	}
	return one[Batch](d.db, "id = ?", id)
}

// Undoable picks from somebody's batches, the newest first, the one that undo,
// or redo, would take back: undo takes the newest edit that stands, redo the
// newest undo with nothing done since. It is 0 for none.
func Undoable(newest []Turn, redo bool) int64 {
	for _, t := range newest {
		switch {
		case t.Undone:
		case redo && t.Kind == "undo":
			return t.ID
		case redo && t.Kind == "redo":
		case redo:
			return 0
		case t.Kind != "undo":
			return t.ID
		}
	}
	return 0
}

// MarkUndone notes that a batch has been taken back.
func (d *Draft) MarkUndone(id int64) error {
	d.touch("batches", id)
	return d.db.Model(&Batch{}).Where("id = ?", id).Update("undone", true).Error
}

// SaveStep writes one step.
func (d *Draft) SaveStep(s Step) error {
	s.RevisionID = d.Revision.ID
	if i := slices.IndexFunc(d.Steps, func(o Step) bool { return o.StepID == s.StepID }); i >= 0 {
		d.Steps[i] = s
	} else {
		d.Steps = append(d.Steps, s)
	}
	return d.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&s).Error
}

// SaveBatch writes a batch of edits.
func (d *Draft) SaveBatch(b *Batch) error {
	b.RevisionID, b.At = d.Revision.ID, Now()
	err := d.db.Create(b).Error
	d.touch("batches", b.ID)
	return err
}

// Save writes the revision itself and tells everybody watching.
func (d *Draft) Save(person int64) error {
	d.Revision.ChangedBy, d.Revision.ChangedAt = person, Now()
	d.touch("revisions", d.Revision.ID)
	err := d.db.Model(&Revision{}).Where("id = ?", d.Revision.ID).
		Select("state", "header", "header_by", "header_at", "version", "sheet_id", "changed_by", "changed_at").Updates(d.Revision).Error
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return ErrOpenRevision
	}
	if err != nil {
		return err
	}
	return d.notify(Event{Revision: d.Revision.ID, Version: d.Revision.Version})
}

// Freeze releases the revision with its file and supersedes the one before, whose number
// is supersedes, 0 for none; changes counts what lies between the two, and house is the version of the house rules it
// was released under, both for the record.
func (d *Draft) Freeze(person int64, file, sha256 string, supersedes int, changes string, house int64) error {
	now := Now()
	r := d.Revision
	r.State, r.SHA256, r.LatchedAt, r.ChangedBy, r.ChangedAt = "latched", sha256, &now, person, now
	err := d.db.Exec("UPDATE revisions SET state = ?, frozen = ?, sha256 = ?, latched_at = ?, sheet_id = ?, changed_by = ?, changed_at = ?, version = ? WHERE id = ?",
		r.State, file, sha256, now, r.SheetID, person, now, r.Version, r.ID).Error
	if err != nil {
		return err
	}
	d.touch("revisions", r.ID)
	var before []int64
	err = d.db.Raw("UPDATE revisions SET state = 'superseded' WHERE procedure_id = ? AND state = 'latched' AND id <> ? RETURNING id", r.ProcedureID, r.ID).Scan(&before).Error
	if err != nil {
		return err
	}
	for _, id := range before {
		d.touch("revisions", id)
	}
	if err := d.notify(Event{Revision: r.ID, Version: r.Version}); err != nil {
		return err
	}
	return d.append(line{person: person, revision: r.ID, what: "latch", payload: map[string]any{"sha256": sha256, "number": r.Number, "sheet": r.SheetID, "supersedes": supersedes, "changes": changes, "house": house}, anchor: true})
}

// Close closes a latch over the version and sheet the person saw.
// content is all of that, sums its SHA-256 step by step for the record.
func (d *Draft) Close(latch string, person int64, required []string, content string, sums any) error {
	name, err := d.NameOf(person)
	if err != nil {
		return err
	}
	c := Closing{RevisionID: d.Revision.ID, Latch: latch, PersonID: person, Version: d.Revision.Version, SheetID: d.Revision.SheetID, At: Now().UTC().Truncate(time.Microsecond), Content: content, Name: name}
	if err := d.db.Create(&c).Error; err != nil {
		return err
	}
	d.Closings = append(d.Closings, c)
	d.touch("closings", c.RevisionID, latch)
	// The line vouches for the revision too, whose state is written after it is closed.
	d.later = append(d.later, d.line(person, "close "+latch+" latch", map[string]any{"latch": latch, "sheet": c.SheetID, "required": required, "steps": sums, "content": sum(content)}))
	return nil
}

// Reopen opens latches again; the record says which, with the entry that follows.
func (d *Draft) Reopen(latches []string) error {
	if len(latches) == 0 {
		return nil
	}
	for _, l := range latches {
		d.touch("closings", d.Revision.ID, l)
	}
	d.Closings = slices.DeleteFunc(d.Closings, func(c Closing) bool { return slices.Contains(latches, c.Latch) })
	return d.db.Where("revision_id = ? AND latch IN ?", d.Revision.ID, latches).Delete(&Closing{}).Error
}

// Append adds to the record, with the version and what the draft says now.
func (d *Draft) Append(person int64, what string, payload map[string]any) error {
	return d.append(d.line(person, what, payload))
}

func (d *Draft) line(person int64, what string, payload map[string]any) line {
	payload["version"], payload["digest"] = d.Revision.Version, digest(d.Revision.Header, d.Steps)
	return line{person: person, revision: d.Revision.ID, what: what, payload: payload}
}

// Keep writes what a proof found in this version of the draft.
func (d *Draft) Keep(v Standing) error { return keepStanding(d.db, v) }

func keepStanding(db *gorm.DB, v Standing) error {
	return db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&v).Error
}

// KeepStanding writes what a proof found in a revision.
func (s *Store) KeepStanding(ctx context.Context, v Standing) error {
	return keepStanding(s.db.WithContext(ctx), v)
}
