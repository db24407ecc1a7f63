package desk

import (
	"context"
	"slices"
	"time"

	"inklatch/internal/core/latch"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/tally"
	"inklatch/internal/store"
)

// EngineRow is an engine code in a list.
type EngineRow struct {
	Code       string `json:"code"`
	Maker      string `json:"maker"`
	Use        string `json:"use"`
	Years      string `json:"years"`
	Cylinders  int    `json:"cylinders"`
	Shafts     int    `json:"shafts"`
	Procedures int    `json:"procedures"`
	// Drive is what drives the cams: "belt", "chain, 2 loops".
	Drive string `json:"drive"`
	// InUse and Draft are sheet numbers, 0 for none.
	InUse    int       `json:"inUse"`
	Draft    int       `json:"draft"`
	Blocking int       `json:"blocking"`
	Findings int       `json:"findings"`
	At       time.Time `json:"at"`
}

// Engines lists the engine codes, each by its draft where there is one and the
// person may see it.
func (d *Desk) Engines(ctx context.Context, u *User) ([]EngineRow, error) {
	all, err := d.store.Sheets(ctx)
	if err != nil {
		return nil, err
	}
	ps, err := d.store.Procedures(ctx)
	if err != nil {
		return nil, err
	}
	count := map[string]int{}
	for _, p := range ps {
		count[p.Engine]++
	}
	out := []EngineRow{}
	for i := range all {
		v := &all[i]
		if v.State == "draft" && isReader(u) {
			continue
		}
		if n := len(out); n > 0 && out[n-1].Code == v.Code {
			out[n-1].InUse = v.Number
			continue
		}
		row, err := d.engineRow(v)
		if err != nil {
			return nil, err
		}
		row.Procedures = count[v.Code]
		out = append(out, *row)
	}
	return out, nil
}

func (d *Desk) engineRow(v *store.Sheet) (*EngineRow, error) {
	k, err := d.knowSheet(v)
	if err != nil {
		return nil, err
	}
	fs := tally.Prove(k.index, d.house)
	row := &EngineRow{
		Code: v.Code, Maker: k.sheet.Maker, Use: k.sheet.Use, Years: yearsText(k.sheet.Years), Cylinders: k.sheet.Cylinders, Shafts: len(k.sheet.Shafts),
		Drive: driveText(k), Blocking: tally.Blocking(fs), At: v.ChangedAt,
	}
	for i := range fs {
		if fs[i].Severity != proof.Look {
			row.Findings++
		}
	}
	if v.State == "draft" {
		row.Draft = v.Number
	} else {
		row.InUse = v.Number
	}
	return row, nil
}

func driveText(k *known) string {
	switch n := len(k.sheet.Loops); n {
	case 0:
		return "no loop"
	case 1:
		return string(k.sheet.Loops[0].Kind)
	case 2:
		if k.sheet.Loops[0].Kind == k.sheet.Loops[1].Kind {
			return "two " + string(k.sheet.Loops[0].Kind) + "s"
		}
		return string(k.sheet.Loops[0].Kind) + " and " + string(k.sheet.Loops[1].Kind)
	default:
		return "several loops"
	}
}

// SheetsOnDesk are the drafts of engine sheets that concern somebody: those who
// write them, and those who may put them into use.
func (d *Desk) SheetsOnDesk(ctx context.Context, u *User) ([]EngineRow, error) {
	rows, err := d.Engines(ctx, u)
	if err != nil {
		return nil, err
	}
	concerns := slices.ContainsFunc(u.Roles, func(r latch.Role) bool { return r == latch.Author || r == latch.TechnicalEditor || r == latch.Lead })
	return slices.DeleteFunc(rows, func(r EngineRow) bool { return !concerns || r.Draft == 0 }), nil
}
