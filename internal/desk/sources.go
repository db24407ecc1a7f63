package desk

import (
	"context"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/store"
)

// SourceOnCode is a document as the sheet of one code has it.
type SourceOnCode struct {
	Code string `json:"code"`
	// Rests are the things whose values come from it.
	Rests []string `json:"rests"`
	// Replaced is what the sheet says stands in its place, empty where it holds.
	Replaced string `json:"replaced"`
	// Late is set where values rest on it that another sheet says is replaced.
	Late bool `json:"late"`
}

// SourceRow is a document of the house.
type SourceRow struct {
	Number string `json:"number"`
	Kind   string `json:"kind"`
	Name   string `json:"name"`
	Issuer string `json:"issuer"`
	On     string `json:"on"`
	// Replaced is what stands in its place, on any sheet; Late on how many codes values
	// still rest on it then.
	Replaced string         `json:"replaced"`
	Late     int            `json:"late"`
	Codes    []SourceOnCode `json:"codes"`
	// File is the document itself, nil where nobody has put it there.
	File *KeptFile `json:"file,omitempty"`
}

// SourceList is one page of the documents of all sheets in use.
type SourceList struct {
	Rows  []SourceRow `json:"rows"`
	Total int         `json:"total"`
}

// Sources lists the documents that sheets in use name, and where one that another has replaced
// is still rested on.
func (d *Shelves) Sources(ctx context.Context, u *User, q CribQuery) (*SourceList, error) {
	if err := holdText(q.Filter, "q", 200); err != nil {
		return nil, err
	}
	if q.Limit <= 0 || q.Limit > mostCrib {
		q.Limit = mostCrib
	}
	found, err := d.store.Reads(ctx).Sources(strings.Fields(q.Filter), q.Engine, q.Offset, q.Limit)
	if err != nil {
		return nil, err
	}
	out := &SourceList{Rows: []SourceRow{}}
	for i := range found {
		f := &found[i]
		out.Total = f.Total
		n := len(out.Rows)
		if n == 0 || out.Rows[n-1].Number != f.Number {
			out.Rows = append(out.Rows, SourceRow{Number: f.Number, Codes: []SourceOnCode{}})
			n++
		}
		row := &out.Rows[n-1]
		for _, v := range []struct {
			to   *string
			from string
		}{{&row.Kind, f.Kind}, {&row.Name, f.Name}, {&row.Issuer, f.Issuer}, {&row.On, f.Dated}, {&row.Replaced, f.Replaced}} {
			if *v.to == "" {
				*v.to = v.from
			}
		}
		row.Codes = append(row.Codes, SourceOnCode{Code: f.Code, Rests: listed(f.Rests), Replaced: f.Replaced})
	}
	for i := range out.Rows {
		row := &out.Rows[i]
		for k := range row.Codes {
			c := &row.Codes[k]
			if c.Late = row.Replaced != "" && len(c.Rests) > 0; c.Late {
				row.Late++
			}
		}
	}
	var numbers []string
	for i := range out.Rows {
		numbers = append(numbers, strings.ToLower(out.Rows[i].Number))
	}
	files, err := d.keptOf(ctx, "source", numbers)
	for i := range out.Rows {
		out.Rows[i].File = files[numbers[i]]
	}
	return out, err
}

func listed(s string) []string {
	if s == "" {
		return []string{}
	}
	return strings.Split(s, ", ")
}

// sourcesOf are the documents of a sheet as the house lists them.
func sourcesOf(k *known) []store.SheetSource {
	out := make([]store.SheetSource, 0, len(k.sheet.Sources))
	for i := range k.sheet.Sources {
		s := &k.sheet.Sources[i]
		v := store.SheetSource{Number: s.Number, Kind: string(s.Kind), Name: s.Name, Issuer: s.Issuer, Dated: s.On}
		if now := k.index.HoldsNow(s.ID); now != s.ID {
			v.Replaced = k.index.Source(now).Words()
		}
		v.Rests = strings.Join(restsOn(k.sheet, s.ID), ", ")
		v.Owners = strings.Join(entered(k.sheet, s.ID), "\n")
		out = append(out, v)
	}
	return out
}

// entered are the people who entered values that come from a document.
func entered(s *engine.Sheet, id engine.SourceID) (out []string) {
	for _, p := range s.Evidence {
		if p.In == id && p.By != "" && !slices.Contains(out, p.By) {
			out = append(out, p.By)
		}
	}
	slices.Sort(out)
	return out
}

// restsOn are the things whose values come from a document.
func restsOn(s *engine.Sheet, id engine.SourceID) (out []string) {
	for _, r := range s.SafetyRelevant() {
		if s.Evidence[r.ID].In == id {
			out = append(out, r.Name)
		}
	}
	return out
}
