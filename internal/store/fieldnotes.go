package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"time"

	"gorm.io/gorm/clause"
)

// FieldNote is what a reader said was wrong at a step of a released revision, and
// what came of it. RemarkID is the point of a draft that it became.
type FieldNote struct {
	ID         int64 `gorm:"primaryKey"`
	RevisionID int64
	StepID     string
	Said       string
	Body       string
	PersonID   int64
	At         time.Time
	State      string
	Answer     string
	AnsweredBy *int64
	AnsweredAt *time.Time
	RemarkID   *int64
}

// FieldPhoto is the photo of a field note.
type FieldPhoto struct {
	NoteID int64 `gorm:"primaryKey"`
	Kind   string
	Photo  []byte
}

// FieldNoteRow is a field note as lists show it.
type FieldNoteRow struct {
	FieldNote
	By         string
	AnsweredOf string
	Photo      bool
	Engine     string
	Title      string
	Number     int
}

const fieldNoteRows = `SELECT f.*, n.name AS by, coalesce(a.name, '') AS answered_of, p.note_id IS NOT NULL AS photo, q.engine, r.title, r.number
	FROM field_notes f JOIN people n ON n.id = f.person_id LEFT JOIN people a ON a.id = f.answered_by LEFT JOIN field_photos p ON p.note_id = f.id
		JOIN revisions r ON r.id = f.revision_id JOIN procedures q ON q.id = r.procedure_id `

// FieldNotesOf lists the field notes of a procedure's revisions, the newest first.
func (r Reads) FieldNotesOf(procedure int64) ([]FieldNoteRow, error) {
	var out []FieldNoteRow
	err := r.db.Raw(fieldNoteRows+"WHERE r.procedure_id = ? ORDER BY f.id DESC LIMIT 500", procedure).Scan(&out).Error
	return out, err
}

// FieldNotesFor lists the open field notes on procedures whose newest revision a
// person started, or all with every set; the oldest first.
func (r Reads) FieldNotesFor(person int64, every bool, most int) ([]FieldNoteRow, error) {
	var out []FieldNoteRow
	err := r.db.Raw(fieldNoteRows+`WHERE f.state = 'open' AND (? OR (SELECT v.created_by FROM revisions v WHERE v.procedure_id = r.procedure_id AND v.state <> 'deleted' ORDER BY v.number DESC LIMIT 1) = ?)
		ORDER BY f.id LIMIT ?`, every, person, most).Scan(&out).Error
	return out, err
}

// FieldNotesBy lists the field notes of a reader that were answered after a moment,
// the newest first.
func (r Reads) FieldNotesBy(person int64, since time.Time, most int) ([]FieldNoteRow, error) {
	var out []FieldNoteRow
	err := r.db.Raw(fieldNoteRows+"WHERE f.person_id = ? AND f.answered_at > ? ORDER BY f.answered_at DESC LIMIT ?", person, since, most).Scan(&out).Error
	return out, err
}

// PointsWaiting lists the field notes that are to become points of the next draft of
// a procedure and have not yet.
func (r Reads) PointsWaiting(procedure int64) ([]FieldNoteRow, error) {
	var out []FieldNoteRow
	err := r.db.Raw(fieldNoteRows+"WHERE r.procedure_id = ? AND f.state = 'point' AND f.remark_id IS NULL ORDER BY f.id", procedure).Scan(&out).Error
	return out, err
}

// Unheard is how many field notes of somebody on a procedure wait for an answer.
func (r Reads) Unheard(procedure, person int64) (int, error) {
	var n int
	err := r.db.Raw("SELECT count(*) FROM field_notes f JOIN revisions r ON r.id = f.revision_id WHERE r.procedure_id = ? AND f.person_id = ? AND f.state = 'open'", procedure, person).Scan(&n).Error
	return n, err
}

// FieldNoteByID finds a field note.
func (r Reads) FieldNoteByID(id int64) (*FieldNote, error) { return one[FieldNote](r.db, "id = ?", id) }

// PhotoOf is the photo of a field note.
func (r Reads) PhotoOf(note int64) (*FieldPhoto, error) {
	return one[FieldPhoto](r.db, "note_id = ?", note)
}

func noteText(n *FieldNote) string { return n.StepID + "\n" + n.Said + "\n" + n.Body }

func answerText(n *FieldNote) string { return n.State + "\n" + n.Answer }

func sumBytes(b []byte) string {
	h := sha256.Sum256(b)
	return hex.EncodeToString(h[:])
}

// AddFieldNote keeps a field note and tells everybody watching.
func (s *Store) AddFieldNote(ctx context.Context, n *FieldNote) error {
	n.State, n.At = "open", Now().UTC().Truncate(time.Microsecond)
	return s.in(ctx, func(t *tx) error {
		if err := t.db.Create(n).Error; err != nil {
			return err
		}
		t.touch("field_notes", n.ID)
		return t.toldNote(n.PersonID, n, "field note", noteText(n))
	})
}

func (t *tx) toldNote(person int64, n *FieldNote, what, says string) error {
	if err := t.notify(Event{Revision: n.RevisionID, Talk: true}); err != nil {
		return err
	}
	return t.append(line{person: person, revision: n.RevisionID, what: what, payload: map[string]any{"note": n.ID, "step": n.StepID, "says": sum(says)}})
}

// AddPhoto keeps the photo of a field note; one that has a photo keeps it.
func (s *Store) AddPhoto(ctx context.Context, n *FieldNote, p *FieldPhoto) error {
	return s.in(ctx, func(t *tx) error {
		p.NoteID = n.ID
		if err := t.db.Create(p).Error; err != nil {
			return err
		}
		t.touch("field_photos", n.ID)
		return t.toldNote(n.PersonID, n, "photo of a field note", string(p.Photo))
	})
}

// AnswerFieldNote lets f answer a field note, locked.
func (s *Store) AnswerFieldNote(ctx context.Context, id, person int64, f func(*FieldNote) error) error {
	return s.in(ctx, func(t *tx) error {
		n, err := one[FieldNote](t.db.Clauses(clause.Locking{Strength: "UPDATE"}), "id = ?", id)
		if err != nil {
			return err
		}
		if err := f(n); err != nil {
			return err
		}
		now := Now().UTC().Truncate(time.Microsecond)
		n.AnsweredBy, n.AnsweredAt = &person, &now
		t.touch("field_notes", id)
		if err := t.db.Model(&FieldNote{}).Where("id = ?", id).Select("state", "answer", "answered_by", "answered_at").Updates(n).Error; err != nil {
			return err
		}
		return t.toldNote(person, n, "answer field note", answerText(n))
	})
}

// Point notes which remark of the draft a field note became.
func (d *Draft) Point(note, remark int64) error {
	d.touch("field_notes", note)
	return d.db.Model(&FieldNote{}).Where("id = ?", note).Update("remark_id", remark).Error
}

// holdNotes holds field notes against the record.
func (r Reads) holdNotes(out *Report, t *told) error {
	all, err := many[FieldNote](r.db, "id", "true")
	if err != nil {
		return err
	}
	for i := range all {
		n := &all[i]
		want := t.notes[n.ID]
		delete(t.notes, n.ID)
		if want == nil || want.says != sum(noteText(n)) {
			out.say("Field note %d is not what the record says was said.", n.ID)
			continue
		}
		if n.State != "open" && want.answer != sum(answerText(n)) || n.State == "open" && want.answer != "" {
			out.say("The answer to field note %d is not what the record says.", n.ID)
		}
		p, err := optional(r.PhotoOf(n.ID))
		if err != nil {
			return err
		}
		if p == nil && want.photo != "" || p != nil && sumBytes(p.Photo) != want.photo {
			out.say("The photo of field note %d is not the one the record says.", n.ID)
		}
	}
	for id := range t.notes {
		out.say("Field note %d is in the record and nowhere else.", id)
	}
	return nil
}
