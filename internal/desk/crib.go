package desk

import (
	"context"
	"fmt"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/store"
)

// CribVariant is what some sheets say of a tool.
type CribVariant struct {
	Name        string   `json:"name"`
	Does        string   `json:"does"`
	Equivalents string   `json:"equivalents"`
	Codes       int      `json:"codes"`
	Some        []string `json:"some"`
}

// CribRow is a tool of the crib: what the sheets in use say of it, one variant for each way.
type CribRow struct {
	Number   string        `json:"number"`
	Kit      string        `json:"kit"`
	Variants []CribVariant `json:"variants"`
	// Needed is set where the code that was asked for has it; without a code it is always set.
	Needed bool `json:"needed"`
	// Pages and Places are on how many pages its number stands, and how often.
	Pages  int `json:"pages"`
	Places int `json:"places"`
	// Picture and Calibrated are what the house keeps of it, nil for none.
	Picture    *KeptFile    `json:"picture,omitempty"`
	Calibrated *Calibration `json:"calibrated,omitempty"`
}

// Crib is one page of the tools of all sheets in use.
type Crib struct {
	Rows  []CribRow `json:"rows"`
	Total int       `json:"total"`
}

// CribQuery says which tools are listed.
type CribQuery struct {
	Filter, Engine string
	Offset, Limit  int
}

// mostCrib is how many tools one answer has.
const mostCrib = 200

// Crib lists the special and torque tools that sheets in use name, by kit.
func (d *Shelves) Crib(ctx context.Context, u *User, q CribQuery) (*Crib, error) {
	if err := holdText(q.Filter, "q", 200); err != nil {
		return nil, err
	}
	if q.Limit <= 0 || q.Limit > mostCrib {
		q.Limit = mostCrib
	}
	found, err := d.store.Reads(ctx).Crib(store.CribQuery{Words: strings.Fields(q.Filter), Engine: q.Engine, Drafts: !isReader(u), Offset: q.Offset, Limit: q.Limit})
	if err != nil {
		return nil, err
	}
	out := &Crib{Rows: []CribRow{}}
	for i := range found {
		f := &found[i]
		out.Total = f.Total
		n := len(out.Rows)
		if n == 0 || out.Rows[n-1].Number != f.Number || out.Rows[n-1].Kit != f.Kit {
			out.Rows = append(out.Rows, CribRow{Number: f.Number, Kit: f.Kit, Needed: q.Engine == "", Pages: f.Pages, Places: f.Places})
			n++
		}
		row := &out.Rows[n-1]
		row.Needed = row.Needed || f.Here
		row.Variants = append(row.Variants, CribVariant{f.Name, f.Does, f.Equivalents, f.Codes, strings.Fields(f.Some)})
	}
	var numbers []string
	for i := range out.Rows {
		numbers = append(numbers, strings.ToLower(out.Rows[i].Number))
	}
	pictures, err := d.keptOf(ctx, "tool", numbers)
	if err != nil {
		return nil, err
	}
	checks, err := d.calibrations(ctx, numbers)
	for i := range out.Rows {
		out.Rows[i].Picture, out.Rows[i].Calibrated = pictures[numbers[i]], checks[numbers[i]]
	}
	return out, err
}

// toolsOf are the tools of a sheet as a crib lists them.
func toolsOf(k *known) []store.SheetTool {
	out := make([]store.SheetTool, 0, len(k.sheet.Tools))
	for i := range k.sheet.Tools {
		t := &k.sheet.Tools[i]
		var same []string
		for _, e := range t.Equivalents {
			same = append(same, fmt.Sprintf("%s ±%s°", e.Number, unit.Number(e.Play)))
		}
		out = append(out, store.SheetTool{Number: t.Number, Name: t.Name, Kit: t.Kit, Does: does(k.sheet, t), Equivalents: strings.Join(same, ", ")})
	}
	return out
}

// does is what a tool is for, in words: the torques it gives, the locks it is, the tensioners
// it pins.
func does(s *engine.Sheet, t *engine.Tool) string {
	var out []string
	switch {
	case !t.Least.IsZero() && !t.Most.IsZero():
		out = append(out, fmt.Sprintf("torques from %s to %s", t.Least, t.Most))
	case !t.Most.IsZero():
		out = append(out, fmt.Sprintf("torques up to %s", t.Most))
	}
	if t.Reach > 0 {
		says := fmt.Sprintf("reaches %s mm further than the wrench", unit.Number(t.Reach))
		if t.Bend != 0 {
			says += fmt.Sprintf(", at %s° to it", unit.Number(t.Bend))
		}
		out = append(out, says)
	}
	if t.Ratio > 0 {
		out = append(out, fmt.Sprintf("multiplies a torque %s times", unit.Number(t.Ratio)))
	}
	for i := range s.Locks {
		l := &s.Locks[i]
		if l.Tool != t.ID {
			continue
		}
		var holds []string
		for _, h := range l.Holds {
			for k := range s.Shafts {
				if s.Shafts[k].ID == h {
					holds = append(holds, s.Shafts[k].Name)
				}
			}
		}
		says := "holds " + strings.Join(holds, " and ")
		if len(holds) == 0 {
			says = l.Name
		}
		if l.Play > 0 {
			says += fmt.Sprintf(" ±%s°", unit.Number(l.Play))
		}
		if l.CarriesTorque {
			says += ", carries torque"
		}
		out = append(out, says)
	}
	for i := range s.Tensioners {
		if s.Tensioners[i].Pin == t.ID {
			out = append(out, "pins the "+s.Tensioners[i].Name)
		}
	}
	return strings.Join(out, "; ")
}
