// Package redline says what lies between two states of a procedure by meaning:
// which steps are new, gone, moved, split, joined or changed, what of each changed
// and how much that weighs, what changed above the steps, in the lists gathered from
// them, and on the engine sheet behind the page.
package redline

import (
	"reflect"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
)

// Kind says what became of a step.
type Kind string

// The kinds. A step can be moved and changed at once: it is Moved then, with its
// changes beside it.
const (
	Same    Kind = "same"
	Changed Kind = "changed"
	Moved   Kind = "moved"
	New     Kind = "new"
	Gone    Kind = "gone"
	// Split is a step that is gone and whose work several others do now; Joined are
	// steps that are gone and whose work one other does now.
	Split  Kind = "split"
	Joined Kind = "joined"
)

// Redline is what lies between two states.
type Redline struct {
	// Header are the changes above the steps.
	Header []Part `json:"header"`
	// Rows are the steps in the order of the later state, those that are gone where
	// they stood.
	Rows []Row `json:"rows"`
	// Lists are the changes of the tools and parts gathered from the steps, in words.
	Lists []Part `json:"lists"`
	// Sheet are the values of the engine sheet that differ between the two.
	Sheet []Part `json:"sheet"`
	// Counted says how much changed, by kind: "2 values, 1 place, 1 new"; empty for
	// nothing.
	Counted string `json:"counted"`

	// was is the earlier state, before the same with its steps called as those of the
	// later one that they became.
	was, before, after *procedure.Procedure
}

// Row is one step in both states. Was and Now are its numbers, 0 where it is not.
type Row struct {
	Kind   Kind    `json:"kind"`
	Step   step.ID `json:"step"`
	Was    int     `json:"was,omitzero"`
	Now    int     `json:"now,omitzero"`
	Before string  `json:"before,omitzero"`
	After  string  `json:"after,omitzero"`
	// Cautions stand before the step, Beside stands with it beside its sentence: its note,
	// values by case, special tools and what was accepted, as they are now, or as they
	// were where it is gone.
	Cautions []string `json:"cautions,omitempty"`
	Beside   []Said   `json:"beside,omitempty"`
	// Of are the steps it was split from or joined from, or into.
	Of []step.ID `json:"of,omitempty"`
	// Parts are what of it changed, each with its own weight.
	Parts []Part `json:"parts,omitempty"`
	// Words are the sentence with what went out and what came in.
	Words []Word `json:"words,omitempty"`
	// Risk orders rows by what they can do to an engine, the gravest first.
	Risk Risk `json:"risk"`
	// Free says which words of it the virtual engine knows nothing of: "free text", "own
	// wording", "note"; empty for none.
	Free []string `json:"free,omitempty"`
}

// Said is one thing that stands on a page, in words.
type Said struct {
	What string `json:"what"`
	Text string `json:"text"`
}

// Part is one thing that changed, before and after in words.
type Part struct {
	What   string       `json:"what"`
	Weight latch.Weight `json:"weight"`
	Before string       `json:"before,omitzero"`
	After  string       `json:"after,omitzero"`
	// Words are both with what went out and what came in, where there is something of
	// both.
	Words []Word `json:"words,omitempty"`
	// Opens are the latches that such a change opens again.
	Opens []latch.Latch `json:"opens"`
}

// of is one change with the latches it opens.
func of(what string, w latch.Weight, before, after string) Part {
	return Part{What: what, Weight: w, Before: before, After: after, Opens: latch.Opens(w)}
}

// State is one state of a procedure on its engine sheet.
type State struct {
	Index     *engine.Index
	Procedure *procedure.Procedure
}

// Between draws the redline from one state to a later one.
func Between(before, after State) *Redline {
	r := &Redline{Header: []Part{}, Rows: []Row{}, Lists: []Part{}, Sheet: []Part{}, was: before.Procedure, after: after.Procedure}
	r.before = paired(before.Procedure, after.Procedure)
	before.Procedure = r.before
	changes := latch.Between(latch.Page(before), latch.Page(after))
	for _, c := range changes {
		if c.Kind == latch.Headed {
			r.Header = append(r.Header, of(c.What, c.Weight, headed(before, c.What), headed(after, c.What)))
		}
	}
	r.rows(before, after, changes)
	r.splits()
	r.lists(before, after)
	r.sheet(before.Index, after.Index)
	r.Counted = r.counted()
	return r
}

// Empty reports whether nothing lies between the two.
func (r *Redline) Empty() bool {
	return len(r.Header)+len(r.Lists)+len(r.Sheet) == 0 && !slices.ContainsFunc(r.Rows, func(w Row) bool { return w.Kind != Same })
}

// Edits lead from the earlier state to the later one, step by step as they are
// called.
func (r *Redline) Edits() []procedure.Edit {
	var out []procedure.Edit
	if len(r.Header) > 0 {
		h := r.after.Header
		out = append(out, procedure.Edit{Op: procedure.SetHeader, Header: &h})
	}
	moved := map[step.ID]bool{}
	for _, c := range latch.Changes(r.was, r.after) {
		switch c.Kind {
		case latch.TakenOut:
			out = append(out, procedure.Edit{Op: procedure.Remove, ID: c.Step, Exact: true})
		case latch.Moved:
			moved[c.Step] = true
		}
	}
	last := step.ID("")
	for i := range r.after.Steps {
		s := r.after.Steps[i]
		k := r.was.At(s.ID)
		switch {
		case k < 0:
			out = append(out, procedure.Edit{Op: procedure.Insert, After: last, Step: &s, Exact: true})
		case moved[s.ID]:
			out = append(out, procedure.Edit{Op: procedure.Move, ID: s.ID, After: last, Phase: s.Phase, Exact: true})
		}
		if k >= 0 && !reflect.DeepEqual(r.was.Steps[k], s) {
			out = append(out, procedure.Edit{Op: procedure.Replace, Step: &s, Exact: true})
		}
		last = s.ID
	}
	return out
}

// rows lays the steps of both states into one list.
func (r *Redline) rows(before, after State, changes []latch.Change) {
	about := map[step.ID][]latch.Change{}
	for _, c := range changes {
		about[c.Step] = append(about[c.Step], c)
	}
	b, a := before.Procedure, after.Procedure
	at := make(map[step.ID]int, len(b.Steps))
	for i := range b.Steps {
		at[b.Steps[i].ID] = i
	}
	now := make(map[step.ID]bool, len(a.Steps))
	for i := range a.Steps {
		now[a.Steps[i].ID] = true
	}
	gone := func(from int) int { // those gone that stood from a place on, until one that stayed
		for ; from < len(b.Steps) && !now[b.Steps[from].ID]; from++ {
			s := &b.Steps[from]
			row := Row{Kind: Gone, Step: s.ID, Was: from + 1, Before: en.Full(before.Index, s), Parts: []Part{of("step", latch.Value, en.Full(before.Index, s), "")}}
			row.stand(before.Index, s)
			row.Risk = riskOf(&row, s, s)
			r.Rows = append(r.Rows, row)
		}
		return from
	}
	gone(0)
	for i := range a.Steps {
		s := &a.Steps[i]
		row := Row{Kind: Same, Step: s.ID, Now: i + 1, After: en.Full(after.Index, s)}
		row.stand(after.Index, s)
		k, stayed := at[s.ID]
		if !stayed {
			row.Kind, row.Parts = New, []Part{of("step", latch.Value, "", row.After)}
			row.Risk = riskOf(&row, s, s)
			r.Rows = append(r.Rows, row)
			continue
		}
		row.Was, row.Before = k+1, en.Full(before.Index, &b.Steps[k])
		for _, c := range about[s.ID] {
			switch c.Kind {
			case latch.Moved:
				row.Kind = Moved
				was, now := places(before, k, after, i)
				row.Parts = append(row.Parts, of(c.What, c.Weight, was, now))
			case latch.Changed:
				if row.Kind == Same {
					row.Kind = Changed
				}
				p := partOf(c, &b.Steps[k], s, row.Before, row.After)
				if was, now, ok := ofSheet(before, after, s, c.What); ok {
					p.Before, p.After = was, now
				}
				if c.What == "tools" {
					p.Before, p.After = tools(before.Index, b.Steps[k].Tools), tools(after.Index, s.Tools)
				}
				if p.Before != "" && p.After != "" {
					p.Words = Words(p.Before, p.After)
				}
				row.Parts = append(row.Parts, p)
			}
		}
		if row.Before != row.After {
			row.Words = Words(row.Before, row.After)
			if row.Kind == Same { // its lead says it: another step stands above it
				row.Kind = Changed
				row.Parts = append(row.Parts, of("when it is done", latch.Value, row.Before, row.After))
			}
		}
		row.Risk = riskOf(&row, &b.Steps[k], s)
		r.Rows = append(r.Rows, row)
		gone(k + 1)
	}
}

// lists are the tools and parts that are gathered from the steps.
func (r *Redline) lists(before, after State) {
	b, a := document.Of(before.Index, before.Procedure), document.Of(after.Index, after.Procedure)
	was, now := map[string]string{}, map[string]string{}
	for _, t := range b.Tools {
		was["tool "+t.Number] = t.Number + " " + t.Name
	}
	for _, t := range a.Tools {
		now["tool "+t.Number] = t.Number + " " + t.Name
	}
	for _, q := range b.Parts {
		was["new part "+q.Name] = part(q)
	}
	for _, q := range a.Parts {
		now["new part "+q.Name] = part(q)
	}
	r.Lists = append(r.Lists, differing(was, now)...)
}

func part(q document.Part) string {
	out := q.Name
	if q.Number != "" {
		out += " " + q.Number
	}
	return out + ": " + q.Why
}

// differing are the entries of two lists that are not in both alike, by name.
func differing(was, now map[string]string) []Part {
	var names []string
	for k, v := range was {
		if now[k] != v {
			names = append(names, k)
		}
	}
	for k := range now {
		if _, ok := was[k]; !ok {
			names = append(names, k)
		}
	}
	slices.Sort(names)
	out := []Part{}
	for _, k := range names {
		out = append(out, of(k, latch.Value, was[k], now[k]))
	}
	return out
}
