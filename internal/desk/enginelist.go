package desk

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/review/latch"
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
	// Trouble says why the sheet cannot be read; the row says little else then.
	Trouble string `json:"trouble,omitzero"`
}

// card is what a list says of a sheet, kept as JSON beside it.
type card struct {
	Maker     string `json:"maker"`
	Use       string `json:"use"`
	Years     string `json:"years"`
	Cylinders int    `json:"cylinders"`
	Shafts    int    `json:"shafts"`
	Drive     string `json:"drive"`
	Blocking  int    `json:"blocking"`
	Findings  int    `json:"findings"`
}

// EngineQuery says which engine codes a list shows.
type EngineQuery struct {
	// Filter are words that must each be found in the code, its maker, its use or its
	// drive.
	Filter string
	Sort   store.ShelfSort
	Down   bool
	Offset int
	// Limit is how many at most, 0 for all.
	Limit int
	// InUse keeps codes with a sheet in use, Drafts those with a draft.
	InUse, Drafts bool
}

// EnginePage is one page of the engine codes.
type EnginePage struct {
	Rows  []EngineRow `json:"rows"`
	Total int         `json:"total"`
}

// List lists the engine codes, each by its draft where there is one and the
// person may see it.
func (d *Engines) List(ctx context.Context, u *User) ([]EngineRow, error) {
	p, err := d.Page(ctx, u, EngineQuery{})
	if err != nil {
		return nil, err
	}
	return p.Rows, nil
}

// Page lists the engine codes a query asks for.
func (d *Engines) Page(ctx context.Context, u *User, q EngineQuery) (*EnginePage, error) {
	r := d.store.Reads(ctx)
	all, err := r.SheetShelves(store.SheetQuery{
		Words: strings.Fields(q.Filter), Drafts: !isReader(u), InUse: q.InUse, OfDraft: q.Drafts,
		Sort: q.Sort, Down: q.Down, Offset: q.Offset, Limit: q.Limit, Edition: d.sheetEdition(),
	})
	if err != nil {
		return nil, err
	}
	out := &EnginePage{Rows: []EngineRow{}}
	for i := range all {
		v := &all[i]
		out.Total = v.Total
		c, err := d.cardOf(ctx, r, v)
		trouble := ""
		if err != nil {
			if trouble, err = troubleOf(err); err != nil {
				return nil, err
			}
			c = &card{Blocking: 1, Findings: 1}
		}
		row := EngineRow{
			Code: v.Code, Maker: c.Maker, Use: c.Use, Years: c.Years, Cylinders: c.Cylinders, Shafts: c.Shafts, Drive: c.Drive,
			Procedures: v.Procedures, InUse: v.InUse, Blocking: c.Blocking, Findings: c.Findings, At: v.ChangedAt, Trouble: trouble,
		}
		if v.State == "draft" {
			row.Draft = v.Number
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// cardOf is the card that was kept for a version, or a new one.
func (d *library) cardOf(ctx context.Context, r store.Reads, v *store.SheetShelf) (*card, error) {
	c := &card{}
	if v.Card != "" {
		return c, json.Unmarshal([]byte(v.Card), c)
	}
	k, err := d.knowSheet(r, &store.Sheet{ID: v.SheetID, Code: v.Code, Number: v.Number, Version: v.Version})
	if err != nil {
		return nil, err
	}
	shown, err := d.laidSheet(k)
	if err != nil {
		return nil, err
	}
	fs := shown.Findings
	c = &card{
		Maker: k.sheet.Maker, Use: k.sheet.Use, Years: k.sheet.Years.Said(), Cylinders: k.sheet.Cylinders, Shafts: len(k.sheet.Shafts),
		Drive: driveText(k), Blocking: sheetproof.Blocking(fs),
	}
	for i := range fs {
		if fs[i].Severity != finding.Look {
			c.Findings++
		}
	}
	return c, d.store.KeepSheetStanding(ctx, store.SheetStanding{SheetID: v.SheetID, Version: v.Version, Edition: d.sheetEdition(), Card: text(c)}, toolsOf(k), sourcesOf(k))
}

func driveText(k *known) string {
	switch n := len(k.sheet.Loops); n {
	case 0:
		if len(k.sheet.Gears) > 0 {
			return "gears"
		}
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
func (d *Engines) SheetsOnDesk(ctx context.Context, u *User) ([]EngineRow, error) {
	if !slices.ContainsFunc(u.Roles, func(r latch.Role) bool { return r == latch.Author || r == latch.TechnicalEditor || r == latch.Lead }) {
		return []EngineRow{}, nil
	}
	p, err := d.Page(ctx, u, EngineQuery{Drafts: true, Limit: mostOnDesk})
	if err != nil {
		return nil, err
	}
	return p.Rows, nil
}
