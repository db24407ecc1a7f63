package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/format/photo"
	"inklatch/internal/store"
)

// FieldNote is what a reader said was wrong at a step of a released sheet, and what
// came of it.
type FieldNote struct {
	ID int64 `json:"id"`
	// Revision and Number are the release it was said of.
	Revision int64     `json:"revision"`
	Number   int       `json:"number"`
	Step     step.ID   `json:"step,omitzero"`
	Quoted   string    `json:"quoted,omitzero"`
	Body     string    `json:"body"`
	Photo    bool      `json:"photo,omitzero"`
	By       string    `json:"by"`
	Mine     bool      `json:"mine,omitzero"`
	At       time.Time `json:"at"`
	// State is open, answered, point for one that is a point of the next draft, or
	// closed with a reason.
	State      string     `json:"state"`
	Answer     string     `json:"answer,omitzero"`
	AnsweredBy string     `json:"answeredBy,omitzero"`
	AnsweredAt *time.Time `json:"answeredAt,omitempty"`
	MayAnswer  bool       `json:"mayAnswer,omitzero"`
}

// NewNote is a field note as its reader sends it.
type NewNote struct {
	Step step.ID `json:"step,omitzero"`
	Body string  `json:"body"`
}

// FieldAnswer is what comes of a field note: answered, point or closed.
type FieldAnswer struct {
	State  string `json:"state"`
	Answer string `json:"answer"`
}

// AddFieldNote says what was wrong at a step of a released sheet, or of all of it.
func (d *Review) AddFieldNote(ctx context.Context, u *User, id int64, n NewNote) (*FieldNote, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	if s := latch.State(o.rev.State); !s.Frozen() {
		return nil, problem(409, "Revision %d is %s. A field note is said of what was released; say this in its review.", o.rev.Number, s)
	}
	if n.Body = strings.TrimSpace(n.Body); n.Body == "" {
		return nil, &Problem{Status: 422, Title: "Say what was wrong.", Field: "body"}
	}
	if err := holdText(n.Body, "body", mostSaid); err != nil {
		return nil, err
	}
	v := &store.FieldNote{RevisionID: id, StepID: string(n.Step), Body: n.Body, PersonID: u.ID}
	if n.Step != "" {
		at := o.p.At(n.Step)
		if at < 0 {
			return nil, &Problem{Status: 404, Title: "There is no such step on this sheet.", Field: "step"}
		}
		v.Said = sentence(o.k, &o.p.Steps[at])
	}
	waiting, err := d.store.Reads(ctx).Unheard(o.rev.ProcedureID, u.ID)
	if err != nil {
		return nil, err
	}
	if waiting >= mostUnheard {
		return nil, problem(429, "%d field notes of yours on this procedure wait for an answer already. Speak to whoever writes it.", waiting)
	}
	if may, _ := d.noting.Allow(fmt.Sprint(u.ID)); !may {
		return nil, problem(429, "That are many field notes at once. Wait a minute; what you wrote stands here.")
	}
	if err := d.store.AddFieldNote(ctx, v); err != nil {
		return nil, err
	}
	return noteOf(u, &store.FieldNoteRow{FieldNote: *v, By: u.Name, Number: o.rev.Number}), nil
}

func noteOf(u *User, v *store.FieldNoteRow) *FieldNote {
	return &FieldNote{
		ID: v.ID, Revision: v.RevisionID, Number: v.Number, Step: step.ID(v.StepID), Quoted: v.Said, Body: v.Body, Photo: v.Photo, By: v.By, Mine: v.PersonID == u.ID,
		At: v.At, State: v.State, Answer: v.Answer, AnsweredBy: v.AnsweredOf, AnsweredAt: v.AnsweredAt, MayAnswer: v.State == "open" && u.Writes(),
	}
}

// FieldNotes lists the field notes of the procedure of a revision: all of them for
// those who work on pages, their own for readers.
func (d *Review) FieldNotes(ctx context.Context, u *User, id int64) ([]FieldNote, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	all, err := d.store.Reads(ctx).FieldNotesOf(o.rev.ProcedureID)
	out := []FieldNote{}
	for i := range all {
		if v := noteOf(u, &all[i]); v.Mine || !isReader(u) {
			out = append(out, *v)
		}
	}
	return out, err
}

// readableNote finds a field note that somebody may see: their own, or any for those
// who work on pages.
func (d *Review) readableNote(ctx context.Context, u *User, id int64) (*store.FieldNote, error) {
	n, err := d.store.Reads(ctx).FieldNoteByID(id)
	if err != nil {
		return nil, missing(err, "field note")
	}
	if n.PersonID != u.ID && isReader(u) {
		return nil, notFound("field note")
	}
	return n, nil
}

// mostPhoto is the largest photo, bytes.
const mostPhoto = 5 << 20

// How many field notes a reader writes at once, and one more each time, and how many of
// theirs on one procedure may wait for an answer.
const (
	notesAtOnce = 20
	noteAgain   = time.Minute
	mostUnheard = 100
)

// developed keeps more than two photos from being decoded at a time: each takes memory by
// its pixels.
var developed = make(chan struct{}, 2)

// clean is the picture of a photo that was sent, and nothing else of it.
func clean(ctx context.Context, sent []byte) ([]byte, error) {
	select {
	case developed <- struct{}{}:
		defer func() { <-developed }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	out, err := photo.Clean(sent)
	if err != nil {
		return nil, problem(422, "%s. The note itself is kept.", message.Capital(err.Error()))
	}
	return out, nil
}

// AddPhoto puts a photo to one's own field note: JPEG, PNG or WebP of at most 5 MB. What
// is kept is the picture alone, upright and no larger than a screen needs.
func (d *Review) AddPhoto(ctx context.Context, u *User, id int64, sent []byte) error {
	n, err := d.readableNote(ctx, u, id)
	if err != nil {
		return err
	}
	if n.PersonID != u.ID {
		return forbidden("Whoever wrote a field note puts the photo to it.")
	}
	if len(sent) > mostPhoto {
		return problem(413, "A photo has at most 5 MB. Make it smaller and try again; the note itself is kept.")
	}
	if _, err := d.store.Reads(ctx).PhotoOf(n.ID); err == nil {
		return problem(409, "This field note has a photo already.")
	}
	kept, err := clean(ctx, sent)
	if err != nil {
		return err
	}
	err = d.store.AddPhoto(ctx, n, &store.FieldPhoto{Kind: photo.Kind, Photo: kept})
	if errors.Is(err, gorm.ErrDuplicatedKey) {
		return problem(409, "This field note has a photo already.")
	}
	return err
}

// Photo is the photo of a field note and its media type.
func (d *Review) Photo(ctx context.Context, u *User, id int64) (picture []byte, kind string, err error) {
	n, err := d.readableNote(ctx, u, id)
	if err != nil {
		return nil, "", err
	}
	p, err := d.store.Reads(ctx).PhotoOf(n.ID)
	if err != nil {
		return nil, "", missing(err, "photo")
	}
	return p.Photo, p.Kind, nil
}

// AnswerFieldNote answers a field note, makes it a point of the next draft, or
// closes it with a reason. Its reader sees what is said.
func (d *Review) AnswerFieldNote(ctx context.Context, u *User, id int64, a FieldAnswer) error {
	if err := MayWrite(u); err != nil {
		return err
	}
	if !slices.Contains([]string{"answered", "point", "closed"}, a.State) {
		return &Problem{Status: 422, Title: "A field note is answered, made a point of the next draft, or closed.", Field: "state"}
	}
	if a.Answer = strings.TrimSpace(a.Answer); a.Answer == "" {
		return &Problem{Status: 422, Title: "Say something: whoever wrote the note reads it.", Field: "answer"}
	}
	if err := holdText(a.Answer, "answer", mostSaid); err != nil {
		return err
	}
	var of int64
	err := d.store.AnswerFieldNote(ctx, id, u.ID, func(n *store.FieldNote) error {
		if n.State != "open" {
			return problem(409, "Somebody has answered this field note already.")
		}
		n.State, n.Answer, of = a.State, a.Answer, n.RevisionID
		return nil
	})
	if err != nil || a.State != "point" {
		return missing(err, "field note")
	}
	rev, err := d.store.Reads(ctx).RevisionByID(of)
	if err != nil {
		return err
	}
	return d.points(ctx, u, rev.ProcedureID)
}

// points brings field notes that are to be points onto the open draft of their
// procedure, where there is one; the next draft asks again.
func (d *Review) points(ctx context.Context, u *User, procedure int64) error {
	r := d.store.Reads(ctx)
	all, err := r.RevisionsOf(procedure)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(all, func(v store.Revision) bool { return latch.State(v.State).Open() })
	if at < 0 {
		return nil
	}
	return d.store.Write(ctx, all[at].ID, func(w *store.Draft) error {
		if !latch.State(w.Revision.State).Open() {
			return nil
		}
		o, err := d.drafted(w)
		if err != nil {
			return err
		}
		notes, err := w.PointsWaiting(procedure)
		if err != nil {
			return err
		}
		for i := range notes {
			n := &notes[i]
			m := &store.Remark{Kind: MustChange, Place: "page", PersonID: u.ID, Body: fmt.Sprintf("Field note %d by %s on revision %d: %s", n.ID, n.By, n.Number, n.Body)}
			if k := o.p.At(step.ID(n.StepID)); k >= 0 {
				m.Place, m.StepID, m.Said = "step", n.StepID, sentence(o.k, &o.p.Steps[k])
			}
			if err := w.Say(m, nil); err != nil {
				return err
			}
			if err := w.Point(n.ID, m.ID); err != nil {
				return err
			}
		}
		return nil
	})
}
