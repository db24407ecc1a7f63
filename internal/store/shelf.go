package store

import (
	"context"
	"time"
)

// ShelfFile is the picture of a tool or the file of a document; an empty type is one that was
// taken off. The newest of a number holds.
type ShelfFile struct {
	ID       int64 `gorm:"primaryKey"`
	Kind     string
	Number   string
	Name     string
	Type     string
	Body     []byte
	PersonID int64
	At       time.Time
}

// ToolCheck is a calibration of a tool: Done is its day as 2026-05-31, empty where it is not
// calibrated any more, Months how long it holds.
type ToolCheck struct {
	ID       int64 `gorm:"primaryKey"`
	Number   string
	Done     string
	Months   int
	PersonID int64
	At       time.Time
}

// Due is the day by which it is calibrated again, as 2026-05-31; empty for none.
func (c *ToolCheck) Due() string {
	day, err := time.Parse(time.DateOnly, c.Done)
	if err != nil || c.Months <= 0 {
		return ""
	}
	return day.AddDate(0, c.Months, 0).Format(time.DateOnly)
}

// OnShelf reports whether a sheet names a tool or a document of a number.
func (r Reads) OnShelf(kind, number string) (bool, error) {
	table := map[string]string{"tool": "sheet_tools", "source": "sheet_sources"}[kind]
	if table == "" {
		return false, nil
	}
	var is bool
	err := r.db.Raw("SELECT EXISTS (SELECT 1 FROM "+table+" WHERE lower(number) = lower(?))", number).Scan(&is).Error
	return is, err
}

// ShelfFiles are the files that hold for some numbers, in lower case, without what is in them.
func (r Reads) ShelfFiles(kind string, numbers []string) ([]ShelfFile, error) {
	var out []ShelfFile
	err := r.db.Raw(`SELECT * FROM (SELECT DISTINCT ON (lower(number)) id, kind, lower(number) AS number, name, type, person_id, at FROM shelf_files
		WHERE kind = ? AND lower(number) IN ? ORDER BY lower(number), id DESC) f WHERE type <> ''`, kind, numbers).Scan(&out).Error
	return out, err
}

// ShelfFileOf is the file of a number.
func (r Reads) ShelfFileOf(kind, number string) (*ShelfFile, error) {
	return one[ShelfFile](r.db.Order("id DESC"), "kind = ? AND lower(number) = lower(?)", kind, number)
}

// ToolChecks are the calibrations that hold for some numbers, in lower case.
func (r Reads) ToolChecks(numbers []string) ([]ToolCheck, error) {
	var out []ToolCheck
	err := r.db.Raw(`SELECT * FROM (SELECT DISTINCT ON (lower(number)) id, lower(number) AS number, done, months, person_id, at FROM tool_checks
		WHERE lower(number) IN ? ORDER BY lower(number), id DESC) c WHERE done <> ''`, numbers).Scan(&out).Error
	return out, err
}

// KeepShelfFile keeps a file with the number it belongs to.
func (s *Store) KeepShelfFile(ctx context.Context, f *ShelfFile) error {
	f.At = Now().UTC().Truncate(time.Microsecond)
	if f.Body == nil {
		f.Body = []byte{}
	}
	what := "keep a file"
	if f.Type == "" {
		what = "take a file off"
	}
	return s.in(ctx, func(t *tx) error {
		if err := t.db.Create(f).Error; err != nil {
			return err
		}
		t.touch("shelf_files", f.ID)
		return t.append(line{person: f.PersonID, what: what, payload: map[string]any{"kind": f.Kind, "name": f.Number, "file": f.Name, "says": sum(string(f.Body))}})
	})
}

// KeepToolCheck keeps when a tool was calibrated.
func (s *Store) KeepToolCheck(ctx context.Context, c *ToolCheck) error {
	c.At = Now().UTC().Truncate(time.Microsecond)
	return s.in(ctx, func(t *tx) error {
		if err := t.db.Create(c).Error; err != nil {
			return err
		}
		t.touch("tool_checks", c.ID)
		return t.append(line{person: c.PersonID, what: "note a calibration of", payload: map[string]any{"name": c.Number, "done": c.Done, "months": c.Months}})
	})
}
