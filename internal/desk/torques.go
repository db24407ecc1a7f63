package desk

import (
	"context"
	"fmt"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/torques"
	"inklatch/internal/format/grid"
)

// TorqueColumn is a column of a torque table.
type TorqueColumn struct {
	Key   string `json:"key"`
	Name  string `json:"name"`
	Right bool   `json:"right"`
	// Reads is set for what a changed table may change.
	Reads bool `json:"reads"`
}

// TorqueRow is a fastener of a torque table.
type TorqueRow struct {
	Fastener engine.FastenerID `json:"fastener"`
	Cells    []string          `json:"cells"`
}

// TorqueTable is that of a code or of a procedure.
type TorqueTable struct {
	Code    string         `json:"code"`
	Title   string         `json:"title"`
	Columns []TorqueColumn `json:"columns"`
	Rows    []TorqueRow    `json:"rows"`
	// Editable is set where a changed table may be taken.
	Editable bool `json:"editable"`
}

// TorqueChange is one value that a table would change.
type TorqueChange struct {
	Row      int               `json:"row"`
	Fastener engine.FastenerID `json:"fastener"`
	Name     string            `json:"name"`
	Column   string            `json:"column"`
	Was      string            `json:"was"`
	Now      string            `json:"now"`
	Edit     engine.Edit       `json:"edit"`
}

// TorqueTrouble is what is not taken from a table, and why; row 0 for the whole of it.
type TorqueTrouble struct {
	Row    int    `json:"row"`
	Column string `json:"column"`
	Says   string `json:"says"`
}

// TorqueChanges are what a table would change on a sheet; nothing is written. More counts the
// troubles that are not listed.
type TorqueChanges struct {
	Rows     int             `json:"rows"`
	Changes  []TorqueChange  `json:"changes"`
	Troubles []TorqueTrouble `json:"troubles"`
	More     int             `json:"more"`
}

// Torques is the torque table of a code.
func (d *Shelves) Torques(ctx context.Context, u *User, code string, number int) (*TorqueTable, error) {
	v, _, k, err := d.numbered(d.store.Reads(ctx), u, code, number)
	if err != nil {
		return nil, err
	}
	out := tableOf(torques.OfSheet(k.index))
	out.Code, out.Title, out.Editable = code, fmt.Sprintf("%s, engine sheet %d", code, v.Number), u.Writes() && v.State == "draft"
	return out, nil
}

// Torques is the torque table of a revision.
func (d *Drafts) Torques(ctx context.Context, u *User, id int64) (*TorqueTable, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	out := tableOf(torques.OfPage(o.k.index, o.p))
	out.Code, out.Title = o.k.sheet.Code, fmt.Sprintf("%s, %s, revision %d", o.k.sheet.Code, o.p.Title, o.rev.Number)
	return out, nil
}

func tableOf(t *torques.Table) *TorqueTable {
	out := &TorqueTable{Columns: make([]TorqueColumn, len(t.Columns)), Rows: make([]TorqueRow, len(t.Rows))}
	for i := range t.Columns {
		c := &t.Columns[i]
		out.Columns[i] = TorqueColumn{c.Key, c.Name, c.Right, c.Reads()}
	}
	for i := range t.Rows {
		out.Rows[i] = TorqueRow{t.IDs[i], t.Rows[i]}
	}
	return out
}

// File is a torque table as a file, csv or xlsx, and its name.
func (t *TorqueTable) File(format string) ([]byte, string, error) {
	s := grid.Sheet{Title: t.Title}
	for _, c := range t.Columns {
		s.Head, s.Right = append(s.Head, c.Name), append(s.Right, c.Right)
	}
	for _, r := range t.Rows {
		s.Rows = append(s.Rows, r.Cells)
	}
	name := fmt.Sprintf("%s torques.%s", t.Code, format)
	if format == "xlsx" {
		b, err := s.XLSX()
		return b, name, err
	}
	b, err := s.CSV()
	return b, name, err
}

// mostTroubles is how many are listed.
const mostTroubles = 100

// TorqueChanges are what a CSV or XLSX file would change on the draft of a sheet.
func (d *Shelves) TorqueChanges(ctx context.Context, u *User, code string, file []byte) (*TorqueChanges, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	v, _, k, err := d.numbered(d.store.Reads(ctx), u, code, 0)
	if err != nil {
		return nil, err
	}
	if v.State != "draft" {
		return nil, problem(409, "The sheet is in use and is not changed. Start its next version first.")
	}
	rows, err := grid.Read(file)
	if err != nil {
		return nil, bad("file", fullStop(message.Capital(err.Error())))
	}
	return worked(func() (*TorqueChanges, error) {
		changes, troubles := torques.Changes(k.index, rows)
		out := &TorqueChanges{Rows: max(len(rows)-1, 0), Changes: []TorqueChange{}, Troubles: []TorqueTrouble{}}
		for _, c := range changes {
			out.Changes = append(out.Changes, TorqueChange(c))
		}
		out.More = max(len(troubles)-mostTroubles, 0)
		for _, t := range troubles[:len(troubles)-out.More] {
			out.Troubles = append(out.Troubles, TorqueTrouble(t))
		}
		return out, nil
	})
}
