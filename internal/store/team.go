package store

import (
	"fmt"
	"time"

	"gorm.io/gorm/clause"
)

// Reading is what one person has read of a procedure, as core/reading writes it.
type Reading struct {
	ProcedureID int64 `gorm:"primaryKey"`
	PersonID    int64 `gorm:"primaryKey"`
	Page        string
	At          time.Time
	// Seal is over the others, by a key that stands outside the database.
	Seal string
}

// Remark is what somebody said of a revision, of a step of it by the step's id, or
// the line they suggest in its place. Said is what the step said then; Edits are
// those that a suggestion makes, Effect what a trial of it came to, both as JSON.
type Remark struct {
	ID int64 `gorm:"primaryKey"`
	// RevisionID is 0 where it is about a draft of an engine sheet, whose id is SheetID.
	RevisionID int64
	SheetID    int64
	Kind       string
	Place      string
	StepID     string
	Part       string
	Said       string
	Body       string
	Line       string
	Edits      string
	Effect     string
	State      string
	Version    int64
	PersonID   int64
	At         time.Time
}

// Reply is an answer to a remark, or what somebody did with it.
type Reply struct {
	ID       int64 `gorm:"primaryKey"`
	RemarkID int64
	Act      string
	Body     string
	PersonID int64
	At       time.Time
}

// Mention is somebody named in a remark or in an answer to it.
type Mention struct {
	RemarkID int64 `gorm:"primaryKey"`
	PersonID int64 `gorm:"primaryKey"`
	At       time.Time
}

// Review is by when a latch of a revision is to close, and who has taken it over.
type Review struct {
	RevisionID int64  `gorm:"primaryKey"`
	Latch      string `gorm:"primaryKey"`
	Due        *time.Time
	PersonID   *int64
}

// Withdrawal is a release that was taken back.
type Withdrawal struct {
	RevisionID int64 `gorm:"primaryKey"`
	Reason     string
	PersonID   int64
	At         time.Time
}

// ReadBy is what a person has read of a procedure, empty for nothing: the page on a line,
// and what they have marked since on a line each.
func (r Reads) ReadBy(procedure, person int64) (string, error) {
	var page string
	err := r.db.Raw(`SELECT page || coalesce((SELECT string_agg(E'\n' || mark, '' ORDER BY n) FROM reading_marks m WHERE m.procedure_id = r.procedure_id AND m.person_id = r.person_id), '')
		FROM readings r WHERE procedure_id = ? AND person_id = ?`, procedure, person).Scan(&page).Error
	return page, err
}

// RemarksOf lists the remarks of a revision, the oldest first.
func (r Reads) RemarksOf(revision int64) ([]Remark, error) {
	return many[Remark](r.db, "id", "revision_id = ?", revision)
}

// RepliesOf lists the replies to the remarks of a revision, the oldest first.
func (r Reads) RepliesOf(revision int64) ([]Reply, error) {
	return many[Reply](r.db, "id", "remark_id IN (SELECT id FROM remarks WHERE revision_id = ?)", revision)
}

// RemarkByID finds a remark.
func (r Reads) RemarkByID(id int64) (*Remark, error) { return one[Remark](r.db, "id = ?", id) }

// ReviewsOf lists the due dates and takers of a revision's latches.
func (r Reads) ReviewsOf(revision int64) ([]Review, error) {
	return many[Review](r.db, "latch", "revision_id = ?", revision)
}

// WithdrawalOf says how a revision was withdrawn, nil where it was not.
func (r Reads) WithdrawalOf(revision int64) (*Withdrawal, error) {
	return optional(one[Withdrawal](r.db, "revision_id = ?", revision))
}

// ReadNow notes what a person has read of the draft's procedure.
func (d *Draft) ReadNow(person int64, page string) error {
	v := Reading{d.Revision.ProcedureID, person, page, Now(), d.s.seal("readings", fmt.Sprint(d.Revision.ProcedureID), fmt.Sprint(person), page)}
	if err := d.db.Exec("DELETE FROM reading_marks WHERE procedure_id = ? AND person_id = ?", v.ProcedureID, person).Error; err != nil {
		return err
	}
	return d.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&v).Error
}

// ReadMore notes one thing more that a person has read, the nth since their page was
// written whole.
func (d *Draft) ReadMore(person int64, n int, mark string) error {
	p := d.Revision.ProcedureID
	return d.db.Exec("INSERT INTO reading_marks (procedure_id, person_id, n, mark, seal) VALUES (?, ?, ?, ?, ?)",
		p, person, n, mark, d.s.seal("reading_marks", fmt.Sprint(p), fmt.Sprint(person), fmt.Sprint(n), mark)).Error
}

// Say keeps a remark and tells everybody watching.
func (d *Draft) Say(m *Remark, named []int64) error {
	m.RevisionID, m.Version, m.State, m.At = d.Revision.ID, d.Revision.Version, "open", Now().UTC().Truncate(time.Microsecond)
	if err := d.db.Omit("sheet_id").Create(m).Error; err != nil {
		return err
	}
	d.touch("remarks", m.ID)
	if err := d.name(m.ID, named); err != nil {
		return err
	}
	return d.told(line{person: m.PersonID, what: m.Kind, payload: map[string]any{"remark": m.ID, "step": m.StepID, "place": m.Place, "says": sum(remarkText(m))}})
}

// remarkText is what of a remark the record vouches for.
func remarkText(m *Remark) string {
	return m.Kind + "\n" + m.StepID + "\n" + m.Part + "\n" + m.Said + "\n" + m.Body + "\n" + m.Line + "\n" + m.Edits
}

// replyText is what of a reply the record vouches for.
func replyText(v *Reply) string { return v.Act + "\n" + v.Body }

// Reply keeps an answer to a remark, which is in state after it.
func (d *Draft) Reply(m *Remark, v *Reply, state string, named []int64) error {
	v.RemarkID, v.At = m.ID, Now().UTC().Truncate(time.Microsecond)
	if err := d.db.Create(v).Error; err != nil {
		return err
	}
	d.touch("replies", v.ID)
	if m.State != state {
		d.touch("remarks", m.ID)
		if err := d.db.Model(&Remark{}).Where("id = ?", m.ID).Update("state", state).Error; err != nil {
			return err
		}
		m.State = state
	}
	if err := d.name(m.ID, named); err != nil {
		return err
	}
	what := map[string]string{"reply": "answer", "settle": "settle", "reopen": "reopen", "take": "take", "decline": "decline", "waive": "waive"}[v.Act] + " " + m.Kind
	return d.told(line{person: v.PersonID, what: what, payload: map[string]any{"remark": m.ID, "reply": v.ID, "step": m.StepID, "says": sum(replyText(v))}})
}

func (d *Draft) name(remark int64, who []int64) error {
	for _, id := range who {
		m := Mention{remark, id, Now()}
		d.touch("mentions", remark, id)
		if err := d.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&m).Error; err != nil {
			return err
		}
	}
	return nil
}

// told puts a line about the draft into the record that leaves its steps as they
// are, and tells everybody watching that something was said.
func (d *Draft) told(l line) error {
	l.revision = d.Revision.ID
	if err := d.notify(Event{Revision: d.Revision.ID, Talk: true}); err != nil {
		return err
	}
	return d.append(l)
}

// Arrange sets by when a latch is to close and who has taken it over.
func (d *Draft) Arrange(by int64, what string, v Review) error {
	v.RevisionID = d.Revision.ID
	d.touch("reviews", v.RevisionID, v.Latch)
	if err := d.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&v).Error; err != nil {
		return err
	}
	p := map[string]any{"for": v.Latch}
	if v.Due != nil {
		p["due"] = v.Due.Format(time.DateOnly)
	}
	if v.PersonID != nil {
		p["taken"] = *v.PersonID
	}
	return d.told(line{person: by, what: what, payload: p})
}

// Withdraw takes a release back.
func (d *Draft) Withdraw(person int64, reason string) error {
	if err := d.Lock(); err != nil {
		return err
	}
	w := Withdrawal{d.Revision.ID, reason, person, Now()}
	if err := d.db.Create(&w).Error; err != nil {
		return err
	}
	d.touch("withdrawals", d.Revision.ID)
	d.touch("revisions", d.Revision.ID)
	if err := d.db.Exec("UPDATE revisions SET state = 'withdrawn' WHERE id = ?", d.Revision.ID).Error; err != nil {
		return err
	}
	d.Revision.State = "withdrawn"
	if err := d.notify(Event{Revision: d.Revision.ID, Version: d.Revision.Version}); err != nil {
		return err
	}
	return d.append(line{person: person, revision: d.Revision.ID, what: "withdraw", payload: map[string]any{"reason": reason, "number": d.Revision.Number}, anchor: true})
}

// afterwards are the lines of the record that may stand behind the one that
// latches a revision.
var afterwards = []string{"withdraw", "field note", "photo of a field note", "answer field note"}

// holdTalk holds remarks and replies against the record.
func (r Reads) holdTalk(out *Report, t *told) error {
	ms, err := many[Remark](r.db, "id", "true")
	if err != nil {
		return err
	}
	for i := range ms {
		if t.remarks[ms[i].ID] != sum(remarkText(&ms[i])) {
			out.say("Remark %d is not what the record says was said.", ms[i].ID)
		}
		delete(t.remarks, ms[i].ID)
	}
	vs, err := many[Reply](r.db, "id", "true")
	if err != nil {
		return err
	}
	for i := range vs {
		if t.replies[vs[i].ID] != sum(replyText(&vs[i])) {
			out.say("Answer %d to remark %d is not what the record says was said.", vs[i].ID, vs[i].RemarkID)
		}
		delete(t.replies, vs[i].ID)
	}
	for id := range t.remarks {
		out.say("Remark %d is in the record and nowhere else.", id)
	}
	for id := range t.replies {
		out.say("Answer %d is in the record and nowhere else.", id)
	}
	if err := r.holdNotes(out, t); err != nil {
		return err
	}
	ws, err := many[Withdrawal](r.db, "revision_id", "true")
	if err != nil {
		return err
	}
	for i := range ws {
		if v := t.revisions[ws[i].RevisionID]; v == nil || !v.Withdrawn {
			out.say("Revision %d was withdrawn without a line in the record.", ws[i].RevisionID)
		}
	}
	return nil
}

// Colleague is somebody as others who work on pages see them.
type Colleague struct {
	ID        int64
	Name      string
	Roles     string
	AwayFrom  *time.Time
	AwayUntil *time.Time
}

// Colleagues lists everybody who can sign in, by name.
func (r Reads) Colleagues() ([]Colleague, error) {
	var out []Colleague
	err := r.db.Raw("SELECT id, name, roles, away_from, away_until FROM people WHERE NOT locked ORDER BY lower(name), id").Scan(&out).Error
	return out, err
}

// Away reports whether the colleague is away on a day.
func (c *Colleague) Away(on time.Time) bool {
	day := on.UTC().Truncate(24 * time.Hour)
	return c.AwayUntil != nil && !day.After(*c.AwayUntil) && (c.AwayFrom == nil || !day.Before(*c.AwayFrom))
}
