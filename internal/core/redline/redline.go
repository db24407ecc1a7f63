// Package redline says what lies between two states of a procedure by meaning:
// which steps are new, gone, moved, split, joined or changed, what of each changed
// and how much that weighs, what changed above the steps, in the lists gathered from
// them, and on the engine sheet behind the page.
package redline

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/latch"
	"inklatch/internal/core/page"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/step"
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
	// Of are the steps it was split from or joined from, or into.
	Of []step.ID `json:"of,omitempty"`
	// Parts are what of it changed, each with its own weight.
	Parts []Part `json:"parts,omitempty"`
	// Words are the sentence with what went out and what came in.
	Words []Word `json:"words,omitempty"`
}

// Part is one thing that changed, before and after in words.
type Part struct {
	What   string       `json:"what"`
	Weight latch.Weight `json:"weight"`
	Before string       `json:"before,omitzero"`
	After  string       `json:"after,omitzero"`
	// Opens are the latches that such a change opens again.
	Opens []latch.Latch `json:"opens"`
}

// of is one change with the latches it opens.
func of(what string, w latch.Weight, before, after string) Part {
	return Part{what, w, before, after, latch.Opens(w)}
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
	changes := latch.Changes(before.Procedure, after.Procedure)
	for _, c := range changes {
		if c.Kind == latch.Headed {
			r.Header = append(r.Header, of(c.What, c.Weight, headed(before, c.What), headed(after, c.What)))
		}
	}
	r.rows(before, after, changes)
	r.splits()
	r.lists(before, after)
	r.sheet(before.Index.Sheet, after.Index.Sheet)
	return r
}

// Empty reports whether nothing lies between the two.
func (r *Redline) Empty() bool {
	return len(r.Header)+len(r.Lists)+len(r.Sheet) == 0 && !slices.ContainsFunc(r.Rows, func(w Row) bool { return w.Kind != Same })
}

// Weights counts the changes by how much they weigh, those of the sheet as values.
func (r *Redline) Weights() map[latch.Weight]int {
	out := map[latch.Weight]int{}
	for _, ps := range [][]Part{r.Header, r.Sheet} {
		for _, p := range ps {
			out[p.Weight]++
		}
	}
	for _, w := range r.Rows {
		for _, p := range w.Parts {
			out[p.Weight]++
		}
	}
	return out
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
			r.Rows = append(r.Rows, Row{Kind: Gone, Step: s.ID, Was: from + 1, Before: s.Full(before.Index), Parts: []Part{of("step", latch.Value, s.Full(before.Index), "")}})
		}
		return from
	}
	gone(0)
	for i := range a.Steps {
		s := &a.Steps[i]
		row := Row{Kind: Same, Step: s.ID, Now: i + 1, After: s.Full(after.Index)}
		k, stayed := at[s.ID]
		if !stayed {
			row.Kind, row.Parts = New, []Part{of("step", latch.Value, "", row.After)}
			r.Rows = append(r.Rows, row)
			continue
		}
		row.Was, row.Before = k+1, b.Steps[k].Full(before.Index)
		for _, c := range about[s.ID] {
			switch c.Kind {
			case latch.Moved:
				row.Kind = Moved
				row.Parts = append(row.Parts, of(c.What, c.Weight, phaseName(b.Steps[k].Phase), phaseName(s.Phase)))
			case latch.Changed:
				if row.Kind == Same {
					row.Kind = Changed
				}
				p := partOf(c, &b.Steps[k], s, row.Before, row.After)
				if c.What == "tools" {
					p.Before, p.After = tools(before.Index, b.Steps[k].Tools), tools(after.Index, s.Tools)
				}
				row.Parts = append(row.Parts, p)
			}
		}
		if row.Before != row.After {
			row.Words = Words(row.Before, row.After)
			if row.Kind == Same { // the sheet says it in other words
				row.Kind = Changed
				row.Parts = append(row.Parts, of("words of the engine sheet", latch.Wording, row.Before, row.After))
			}
		}
		r.Rows = append(r.Rows, row)
		gone(k + 1)
	}
}

// phaseName is what a phase is called on a page.
func phaseName(p step.Phase) string {
	for _, q := range step.Phases {
		if q.Phase == p {
			return q.Name
		}
	}
	return string(p)
}

// partOf says one change of a step in words.
func partOf(c latch.Change, b, a *step.Step, before, after string) Part {
	p := of(c.What, c.Weight, "", "")
	switch c.What {
	case "what it does":
		p.Before, p.After = before, after
	case "wording":
		p.Before, p.After = b.Wording, a.Wording
	case "note":
		p.Before, p.After = b.Note, a.Note
	case "caution":
		p.Before, p.After = cautions(b), cautions(a)
	default:
		p.Before, p.After = words(field(b, c.What)), words(field(a, c.What))
	}
	return p
}

func cautions(s *step.Step) string {
	out := ""
	for i, c := range s.Cautions {
		if i > 0 {
			out += " "
		}
		out += c.Text
	}
	return out
}

// field is the value of a step that a change is about.
func field(s *step.Step, what string) any {
	switch what {
	case "what is accepted":
		return s.Accept
	case "which engines it is for":
		return s.When.Said()
	case "when it is done":
		return map[bool]string{true: "only when the step above fails", false: "always"}[s.IfNot]
	case "where to go on":
		return s.Again
	case "picture":
		return string(s.Picture)
	}
	return nil
}

// headed is the value of a header that a change is about, in words.
func headed(st State, what string) string {
	h := &st.Procedure.Header
	switch what {
	case "engine code":
		return h.Engine
	case "applicability":
		return words(h.Applies)
	case "tools":
		return tools(st.Index, h.Prelims.Tools)
	case "conditions":
		return words(h.Prelims.Conditions)
	case "how it begins":
		return words(h.Begins)
	case "how it ends":
		return words(h.Ends)
	case "the pages beside it":
		return words([]string{h.After, h.Before})
	case "supplies":
		return words(h.Prelims.Supplies)
	case "title":
		return h.Title
	case "purpose":
		return h.Purpose
	case "what it is to do":
		return words(h.Task)
	case "people":
		return h.Prelims.People
	case "time":
		return h.Prelims.Time.String()
	}
	return ""
}

// tools are special tools by their numbers.
func tools(x *engine.Index, ids []engine.ToolID) string {
	var out []string
	for _, id := range ids {
		if t := x.Tool(id); t != nil {
			out = append(out, t.Number)
		} else {
			out = append(out, string(id))
		}
	}
	return strings.Join(out, ", ")
}

// words writes a value as people can read it: text as it is, a list with commas,
// anything else as its JSON.
func words(v any) string {
	if v == nil || reflect.ValueOf(v).IsZero() {
		return ""
	}
	if s, ok := v.(string); ok {
		return s
	}
	if rv := reflect.ValueOf(v); rv.Kind() == reflect.Slice && rv.Type().Elem().Kind() == reflect.String {
		out := ""
		for i := range rv.Len() {
			if i > 0 {
				out += ", "
			}
			out += rv.Index(i).String()
		}
		return out
	}
	b, err := json.Marshal(v)
	if err != nil {
		return ""
	}
	return string(b)
}

// splits finds steps that are gone and whose things others do now, with the same
// verb: one split into several, or several joined into one.
func (r *Redline) splits() {
	refs := func(p *procedure.Procedure, id step.ID) (step.Verb, []step.Ref) {
		s := &p.Steps[p.At(id)]
		return s.Action.Verb(), step.Refs(s.Action)
	}
	for i := range r.Rows {
		if r.Rows[i].Kind == Gone {
			r.match(i, New, Split, func(id step.ID) (step.Verb, []step.Ref) { return refs(r.before, id) }, func(id step.ID) (step.Verb, []step.Ref) { return refs(r.after, id) })
		}
	}
	for i := range r.Rows {
		if r.Rows[i].Kind == New {
			r.match(i, Gone, Joined, func(id step.ID) (step.Verb, []step.Ref) { return refs(r.after, id) }, func(id step.ID) (step.Verb, []step.Ref) { return refs(r.before, id) })
		}
	}
}

// match looks beside row i, among those of a kind, for steps that share its things
// out among them: together they name all of its things and no other, and none of
// them twice but what all of them name, such as what holds. They and it become one
// change then.
func (r *Redline) match(i int, among, as Kind, whole, part func(step.ID) (step.Verb, []step.Ref)) {
	verb, things := whole(r.Rows[i].Step)
	if len(things) < 2 {
		return
	}
	count := map[step.Ref]int{}
	var found []int
	for k := max(0, i-len(things)-2); k < len(r.Rows) && k <= i+len(things)+2; k++ {
		if r.Rows[k].Kind != among {
			continue
		}
		v, of := part(r.Rows[k].Step)
		if v != verb || len(of) == 0 || slices.ContainsFunc(of, func(t step.Ref) bool { return !slices.Contains(things, t) }) {
			continue
		}
		found = append(found, k)
		for _, t := range of {
			count[t]++
		}
	}
	if len(found) < 2 {
		return
	}
	for _, t := range things {
		if n := count[t]; n != 1 && n != len(found) {
			return
		}
	}
	id := r.Rows[i].Step
	r.Rows[i].Kind = as
	for _, k := range found {
		r.Rows[k].Kind = as
		r.Rows[k].Of = []step.ID{id}
		r.Rows[i].Of = append(r.Rows[i].Of, r.Rows[k].Step)
	}
}

// lists are the tools and parts that are gathered from the steps.
func (r *Redline) lists(before, after State) {
	b, a := page.Of(before.Index, before.Procedure), page.Of(after.Index, after.Procedure)
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

func part(q page.Part) string {
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

// sheet are the values of the engine sheet that differ.
func (r *Redline) sheet(was, now *engine.Sheet) {
	for _, e := range engine.Diff(was, now) {
		p := of(e.Path, latch.Value, "", string(e.Value))
		if p.After == "null" {
			p.After = ""
		}
		r.Sheet = append(r.Sheet, p)
	}
	for _, back := range engine.Diff(now, was) {
		for k := range r.Sheet {
			if r.Sheet[k].What == back.Path && string(back.Value) != "null" {
				r.Sheet[k].Before = string(back.Value)
			}
		}
	}
}
