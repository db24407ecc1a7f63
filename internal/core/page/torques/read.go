package torques

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/engine"
)

// Change is one value that a table would change.
type Change struct {
	// Row is the line of the table, counted from 1 with its head.
	Row      int
	Fastener engine.FastenerID
	Name     string
	// Column is the name of the value, Was and Now what it says.
	Column, Was, Now string
	Edit             engine.Edit
}

// Trouble is what keeps a cell, a row or the whole table from being taken.
type Trouble struct {
	// Row and Column are where, 0 and empty for the whole table.
	Row    int
	Column string
	Says   string
}

// Changes are what a table of texts, its head first, would change on the sheet; empty cells
// leave a value as it is. Rows are told by the name of their fastener. What is read and what
// is not stand beside one another: nothing is guessed, and nothing is left out silently.
func Changes(x *engine.Index, table [][]string) (changes []Change, troubles []Trouble) {
	if len(table) == 0 {
		return nil, []Trouble{{Says: "The table is empty."}}
	}
	at := -1
	heads := make([]*Column, len(table[0]))
	for c, head := range table[0] {
		heads[c] = columnOf(head)
		switch col := heads[c]; {
		case strings.TrimSpace(head) == "":
		case col == nil:
			troubles = append(troubles, Trouble{1, head, fmt.Sprintf("No value of a fastener is called “%s”; the column is passed by.", head)})
		case slices.Contains(heads[:c], col):
			troubles = append(troubles, Trouble{1, head, fmt.Sprintf("There are two columns “%s”; the second is passed by.", head)})
			heads[c] = nil
		case col.Key == "fastener":
			at = c
		}
	}
	if at < 0 {
		return nil, append([]Trouble{{1, "", "No column is called “Fastener”: the rows cannot be told."}}, troubles...)
	}
	seen := map[engine.FastenerID]int{}
	by := names(x)
	for i, cells := range table[1:] {
		line := i + 2
		cell := func(c int) string {
			if c < len(cells) {
				return strings.TrimSpace(cells[c])
			}
			return ""
		}
		name := cell(at)
		if !slices.ContainsFunc(cells, func(s string) bool { return strings.TrimSpace(s) != "" }) {
			continue
		}
		f := by[fold(name)]
		switch {
		case name == "":
			troubles = append(troubles, Trouble{line, "Fastener", "The row names no fastener."})
			continue
		case f == nil:
			troubles = append(troubles, Trouble{line, "Fastener", fmt.Sprintf("The sheet has no fastener “%s”.", name)})
			continue
		case cellOf(heads, cells, "when") != "":
			continue // a value of some engines only is changed among the cases
		case seen[f.ID] > 0:
			troubles = append(troubles, Trouble{line, "Fastener", fmt.Sprintf("“%s” stands in row %d already.", name, seen[f.ID])})
			continue
		}
		seen[f.ID] = line
		for c, col := range heads {
			text := cell(c)
			if col == nil || !col.Reads() || text == "" {
				continue
			}
			change, trouble := changed(x, f, col, text)
			switch {
			case trouble != "":
				troubles = append(troubles, Trouble{line, col.Name, trouble})
			case change != nil:
				change.Row = line
				changes = append(changes, *change)
			}
		}
	}
	return changes, troubles
}

// changed is one cell as a change of a fastener; nil where it says what the sheet says.
func changed(x *engine.Index, f *engine.Fastener, col *Column, text string) (*Change, string) {
	was := col.of(&row{x: x, f: f, spec: f.Spec})
	if fold(text) == fold(was) {
		return nil, ""
	}
	v, err := col.read(x, text)
	if err != nil {
		return nil, message(err)
	}
	value, err := json.Marshal(v)
	if err != nil {
		return nil, message(err)
	}
	edit := engine.Edit{Path: "fasteners/" + string(f.ID) + "/" + col.Key, Value: value}
	// Tried on the fastener alone: a sheet is written and read whole for every edit.
	s, err := engine.Apply(&engine.Sheet{Fasteners: []engine.Fastener{*f}, Locks: x.Sheet.Locks}, []engine.Edit{edit})
	if err != nil {
		return nil, message(err)
	}
	after := engine.NewIndex(s)
	g := after.Fastener(f.ID)
	now := col.of(&row{x: after, f: g, spec: g.Spec})
	if now == was {
		return nil, ""
	}
	return &Change{Fastener: f.ID, Name: f.Name, Column: col.Name, Was: was, Now: now, Edit: edit}, ""
}

// message is an error as a sentence.
func message(err error) string {
	s := err.Error()
	if s == "" {
		return s
	}
	return strings.TrimSuffix(strings.ToUpper(s[:1])+s[1:], ".") + "."
}

func cellOf(heads []*Column, cells []string, key string) string {
	for c, h := range heads {
		if h != nil && h.Key == key && c < len(cells) {
			return strings.TrimSpace(cells[c])
		}
	}
	return ""
}

// fold makes two spellings of one thing alike: case, spaces, the signs a spreadsheet changes.
func fold(s string) string {
	s = strings.NewReplacer("\u00a0", " ", "\u202f", " ", "−", "-", "·", "", "*", "").Replace(strings.ToLower(s))
	return strings.Join(strings.Fields(s), " ")
}

func columnOf(head string) *Column {
	for c := range Columns {
		if fold(Columns[c].Name) == fold(head) || fold(Columns[c].Key) == fold(head) {
			return &Columns[c]
		}
	}
	return nil
}

// names are the fasteners by name and id; a name that two have stands for none.
func names(x *engine.Index) map[string]*engine.Fastener {
	out := map[string]*engine.Fastener{}
	twice := map[string]bool{}
	for i := range x.Sheet.Fasteners {
		f := &x.Sheet.Fasteners[i]
		for _, n := range []string{f.Name, f.Words(), string(f.ID)} {
			k := fold(n)
			if had := out[k]; had != nil && had != f {
				twice[k] = true
			}
			out[k] = f
		}
	}
	for k := range twice {
		delete(out, k)
	}
	return out
}

func words(_ *engine.Index, text string) (any, error) { return text, nil }

func whole(_ *engine.Index, text string) (any, error) {
	n, err := strconv.Atoi(text)
	if err != nil || n < 1 || n > 500 {
		return nil, fmt.Errorf("“%s” is no count between 1 and 500", text)
	}
	return n, nil
}

func figure(_ *engine.Index, text string) (any, error) {
	v, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
	if err != nil || !(v >= 0 && v <= 10_000) {
		return nil, fmt.Errorf("“%s” is no length between 0 and 10 000 mm", text)
	}
	return v, nil
}

func tick(_ *engine.Index, text string) (any, error) {
	switch fold(text) {
	case "yes", "y", "x", "true", "1":
		return true, nil
	case "no", "n", "false", "0", "-", "–":
		return false, nil
	}
	return nil, fmt.Errorf("“%s” is neither yes nor no", text)
}

func stages(_ *engine.Index, text string) (any, error) {
	out, err := engine.ParseStages(text)
	if err == nil && len(out) == 0 {
		err = fmt.Errorf("“%s” is no torque and no angle", text)
	}
	return out, err
}

func holder(x *engine.Index, text string) (any, error) {
	for i := range x.Sheet.Locks {
		if l := &x.Sheet.Locks[i]; fold(l.Name) == fold(text) || fold(string(l.ID)) == fold(text) {
			return l.ID, nil
		}
	}
	return nil, fmt.Errorf("the sheet has no lock “%s”", text)
}
