package latch

import (
	"reflect"
	"slices"

	"inklatch/internal/core/procedure"
	"inklatch/internal/core/step"
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
	add(a.Wording != b.Wording, Wording, "wording")
	add(a.Note != b.Note, Wording, "note")
	add(a.Picture != b.Picture, Wording, "picture")
	return out
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
	add(a.Title != b.Title, Wording, "title")
	add(a.Purpose != b.Purpose, Wording, "purpose")
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
