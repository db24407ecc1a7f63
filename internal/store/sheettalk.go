package store

import (
	"fmt"
	"time"

	"gorm.io/gorm/clause"
)

// SheetReading is what somebody has read of a draft of an engine sheet, thing by thing,
// as the desk writes it.
type SheetReading struct {
	SheetID  int64 `gorm:"primaryKey"`
	PersonID int64 `gorm:"primaryKey"`
	Things   string
	At       time.Time
	// Seal is over the others, by a key that stands outside the database.
	Seal string
}

// SheetReadBy is what a person has read of a draft of a sheet, empty for nothing.
func (r Reads) SheetReadBy(sheet, person int64) (string, error) {
	var things string
	err := r.db.Raw("SELECT things FROM sheet_readings WHERE sheet_id = ? AND person_id = ?", sheet, person).Scan(&things).Error
	return things, err
}

// SheetRemarks lists what was said of a sheet, the oldest first.
func (r Reads) SheetRemarks(sheet int64) ([]Remark, error) {
	return many[Remark](r.db, "id", "sheet_id = ?", sheet)
}

// SheetReplies lists the replies to the remarks of a sheet, the oldest first.
func (r Reads) SheetReplies(sheet int64) ([]Reply, error) {
	return many[Reply](r.db, "id", "remark_id IN (SELECT id FROM remarks WHERE sheet_id = ?)", sheet)
}

// SheetByID finds a version of a sheet without its text.
func (r Reads) SheetByID(id int64) (*Sheet, error) {
	return one[Sheet](r.db.Omit("sheet"), "id = ?", id)
}

// SheetWorkers are those by whose hand the record has anything in a draft of a sheet.
func (r Reads) SheetWorkers(sheet int64) ([]int64, error) {
	var out []int64
	err := r.db.Raw("SELECT DISTINCT person_id FROM record WHERE sheet_id = ? AND "+work, sheet).Scan(&out).Error
	return out, err
}

// ReadNow notes what a person has read of the draft.
func (d *SheetDraft) ReadNow(person int64, things string) error {
	v := SheetReading{d.Sheet.ID, person, things, Now(), d.s.seal("sheet_readings", fmt.Sprint(d.Sheet.ID), fmt.Sprint(person), things)}
	return d.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&v).Error
}

// Say keeps what somebody says of the draft.
func (d *SheetDraft) Say(m *Remark, named []int64) error {
	m.SheetID, m.Version, m.State, m.At = d.Sheet.ID, d.Sheet.Version, "open", Now().UTC().Truncate(time.Microsecond)
	if err := d.db.Omit("revision_id").Create(m).Error; err != nil {
		return err
	}
	d.touch("remarks", m.ID)
	for _, id := range named {
		v := Mention{m.ID, id, Now()}
		d.touch("mentions", m.ID, id)
		if err := d.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&v).Error; err != nil {
			return err
		}
	}
	return d.told(m.PersonID, m.Kind, map[string]any{"remark": m.ID, "thing": m.Part, "says": sum(remarkText(m))})
}

// Reply keeps an answer to a remark, which is in state after it.
func (d *SheetDraft) Reply(m *Remark, v *Reply, state string) error {
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
	return d.told(v.PersonID, v.Act+" "+m.Kind, map[string]any{"remark": m.ID, "reply": v.ID, "thing": m.Part, "says": sum(replyText(v))})
}

// Ask notes who wants the draft looked at; a person of 0 that nobody does any more.
func (d *SheetDraft) Ask(by, person int64, what string, payload map[string]any) error {
	at := Now()
	d.Sheet.AskedBy, d.Sheet.AskedAt = &person, &at
	if person == 0 {
		d.Sheet.AskedBy, d.Sheet.AskedAt = nil, nil
	}
	d.touch("sheets", d.Sheet.ID)
	if err := d.db.Model(&Sheet{}).Where("id = ?", d.Sheet.ID).Select("asked_by", "asked_at").Updates(d.Sheet).Error; err != nil {
		return err
	}
	return d.told(by, what, payload)
}

func (d *SheetDraft) told(person int64, what string, payload map[string]any) error {
	if err := d.notify(Event{Code: d.Sheet.Code, Talk: true}); err != nil {
		return err
	}
	payload["code"] = d.Sheet.Code
	return d.append(line{person: person, sheet: d.Sheet.ID, what: what, payload: payload})
}
