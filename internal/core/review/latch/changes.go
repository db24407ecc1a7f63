package latch

import (
	"reflect"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// Weight is how much one change weighs, which decides the latches it opens.
type Weight string

// The weights, the heaviest first.
const (
	Value   Weight = "value"
	Order   Weight = "order"
	Wording Weight = "wording"
)

// scopes are the latches a change of each weight opens. Values are wording too.
var scopes = map[Weight][]Latch{
	Value:   {ByAuthor, ByTechnical, ByEditorial, ByBench},
	Order:   {ByAuthor, ByTechnical, ByBench},
	Wording: {ByAuthor, ByEditorial},
}

// Opens are the latches that a change of a weight opens.
func Opens(w Weight) []Latch { return slices.Clone(scopes[w]) }

// Change is one thing that differs between two states of a procedure.
type Change struct {
	// Step is the step it is about, empty for the header.
	Step step.ID `json:"step,omitzero"`
	// Kind is "added", "taken out", "moved", "changed" or "header".
	Kind   Kind   `json:"kind"`
	Weight Weight `json:"weight"`
	// What names the part that changed: "torque and angle", "caution", "wording".
	What string `json:"what"`
}

// Kind says in which way something changed.
type Kind string

// The kinds.
const (
	Added    Kind = "added"
	TakenOut Kind = "taken out"
	Moved    Kind = "moved"
	Changed  Kind = "changed"
	Headed   Kind = "header"
)

// Changes lists what lies between two states of a procedure, each with its own
// weight. A step that was moved and worded anew is two changes: one opens the
// technical latch and the other the editorial one.
func Changes(before, after *procedure.Procedure) []Change {
	out := headerChanges(&before.Header, &after.Header)
	old := make(map[step.ID]*step.Step, len(before.Steps))
	for i := range before.Steps {
		old[before.Steps[i].ID] = &before.Steps[i]
	}
	now := make(map[step.ID]bool, len(after.Steps))
	for i := range after.Steps {
		now[after.Steps[i].ID] = true
	}
	for i := range before.Steps {
		if id := before.Steps[i].ID; !now[id] {
			out = append(out, Change{id, TakenOut, Value, "step"})
		}
	}
	moved := MovedSteps(before, after)
	for i := range after.Steps {
		a := &after.Steps[i]
		b := old[a.ID]
		if b == nil {
			out = append(out, Change{a.ID, Added, Value, "step"})
			continue
		}
		if moved[a.ID] || a.Phase != b.Phase {
			out = append(out, Change{a.ID, Moved, Order, "place"})
		}
		out = append(out, stepChanges(b, a)...)
	}
	return out
}

// stepChanges are the parts of one step that differ. What a caution says is a
// value: it keeps a hand out of the drive.
func stepChanges(b, a *step.Step) []Change {
	var out []Change
	add := func(differs bool, w Weight, what string) {
		if differs {
			out = append(out, Change{a.ID, Changed, w, what})
		}
	}
	add(!step.SameAction(a.Action, b.Action), Value, "what it does")
	add(!slices.Equal(a.Cautions, b.Cautions), Value, "caution")
	add(!slices.Equal(a.Tools, b.Tools), Value, "tools")
	add(!slices.Equal(a.Accept, b.Accept), Value, "what is accepted")
	add(!reflect.DeepEqual(a.When, b.When), Value, "which engines it is for")
	add(a.IfNot != b.IfNot, Value, "when it is done")
	add(!reflect.DeepEqual(a.Again, b.Again), Value, "where to go on")
	add(a.Wording != b.Wording, ofWords(b, a, b.Wording, a.Wording), "wording")
	add(a.Note != b.Note, ofWords(b, a, b.Note, a.Note), "note")
	add(a.Picture != b.Picture, Wording, "picture")
	add(a.Pair != b.Pair, Wording, "pair of pictures")
	return out
}

// ofWords is the weight of an author's own words at a step: those of one that locks,
// turns, lays, tightens, tensions or starts can send a hand wrong, and so can any that
// give a figure or an instruction.
func ofWords(b, a *step.Step, before, after string) Weight {
	for _, s := range []*step.Step{b, a} {
		if spec := step.SpecOf(s.Action.Verb()); spec != nil && spec.Weighs() {
			return Value
		}
	}
	return ofText(before, after)
}

// ofText is the weight of words by what they say.
func ofText(before, after string) Weight {
	return value(quickline.Instructs(before) || quickline.Instructs(after))
}

// ofTitle is the weight of a title or a purpose, which name work without asking for it.
func ofTitle(before, after string) Weight {
	return value(quickline.Directs(before) || quickline.Directs(after))
}

func value(yes bool) Weight {
	if yes {
		return Value
	}
	return Wording
}

func headerChanges(a, b *procedure.Header) []Change {
	var out []Change
	add := func(differs bool, w Weight, what string) {
		if differs {
			out = append(out, Change{"", Headed, w, what})
		}
	}
	add(a.Engine != b.Engine, Value, "engine code")
	add(a.Applies != b.Applies, Value, "applicability")
	add(!slices.Equal(a.Prelims.Tools, b.Prelims.Tools), Value, "tools")
	add(!slices.Equal(a.Prelims.Conditions, b.Prelims.Conditions), Value, "conditions")
	add(!reflect.DeepEqual(a.Begins, b.Begins), Value, "how it begins")
	add(!reflect.DeepEqual(a.Ends, b.Ends), Value, "how it ends")
	add(a.After != b.After || a.Before != b.Before, Value, "the pages beside it")
	add(!slices.Equal(a.Prelims.Supplies, b.Prelims.Supplies), Value, "supplies")
	add(!reflect.DeepEqual(a.Task, b.Task), Value, "what it is to do")
	add(a.Title != b.Title, ofTitle(a.Title, b.Title), "title")
	add(a.Purpose != b.Purpose, ofTitle(a.Purpose, b.Purpose), "purpose")
	add(a.Prelims.People != b.Prelims.People, Wording, "people")
	add(a.Prelims.Time != b.Prelims.Time, Wording, "time")
	return out
}

// MovedSteps are the fewest steps that must be taken up and put down elsewhere
// to come from one order to the other: all but a longest run of steps that
// follow each other in both.
func MovedSteps(before, after *procedure.Procedure) map[step.ID]bool {
	at := make(map[step.ID]int, len(before.Steps))
	for i := range before.Steps {
		at[before.Steps[i].ID] = i
	}
	var ids []step.ID
	for i := range after.Steps {
		if _, ok := at[after.Steps[i].ID]; ok {
			ids = append(ids, after.Steps[i].ID)
		}
	}
	// Longest increasing subsequence by patience: tails[k] ends the best of k+1.
	var tails []int
	prev := make([]int, len(ids))
	for i, id := range ids {
		k, _ := slices.BinarySearchFunc(tails, at[id], func(t, want int) int { return at[ids[t]] - want })
		if prev[i] = -1; k > 0 {
			prev[i] = tails[k-1]
		}
		if k == len(tails) {
			tails = append(tails, i)
		} else {
			tails[k] = i
		}
	}
	moved := make(map[step.ID]bool, len(ids))
	for _, id := range ids {
		moved[id] = true
	}
	if len(tails) > 0 {
		for i := tails[len(tails)-1]; i >= 0; i = prev[i] {
			delete(moved, ids[i])
		}
	}
	return moved
}

// Page is a procedure on its engine sheet.
type Page struct {
	Index     *engine.Index
	Procedure *procedure.Procedure
}

// Between lists what lies between two pages as they are printed: their own changes, and
// at each step that says the same on both what its engine sheet makes of it.
func Between(before, after Page) []Change {
	out := Changes(before.Procedure, after.Procedure)
	if before.Index == after.Index {
		return out
	}
	for i := range after.Procedure.Steps {
		s := &after.Procedure.Steps[i]
		k := before.Procedure.At(s.ID)
		if k < 0 || !step.SameAction(before.Procedure.Steps[k].Action, s.Action) {
			continue // it is a change of the page already
		}
		was, now := document.Stands(before.Index, s), document.Stands(after.Index, s)
		for n := range now {
			if was[n] != now[n] {
				out = append(out, Change{s.ID, Changed, ofSheet(s, now[n].What), now[n].What})
			}
		}
	}
	return out
}

// ofSheet is the weight of what a sheet says otherwise at a step: another name for a
// thing that is only taken off or looked at is wording, all else a value.
func ofSheet(s *step.Step, what string) Weight {
	if spec := step.SpecOf(s.Action.Verb()); what == document.InSentence && spec != nil && !spec.Weighs() {
		return Wording
	}
	return Value
}

// Reopened are the closed latches that any of the changes opens again.
func Reopened(changes []Change, closed []Closed) []Latch {
	var out []Latch
	for _, c := range closed {
		if slices.ContainsFunc(changes, func(ch Change) bool { return slices.Contains(scopes[ch.Weight], c.Latch) }) {
			out = append(out, c.Latch)
		}
	}
	return out
}
