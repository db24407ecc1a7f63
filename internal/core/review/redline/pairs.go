package redline

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
)

// paired is the earlier state with its steps called as those of the later one they
// became. A step keeps its id through every edit, so the same id is the same step;
// but files that were written apart share ids by chance. Where a step of one id does
// something else altogether and a step that does what it did stands under another
// id, those two are the same.
func paired(before, after *procedure.Procedure) *procedure.Procedure {
	out := &procedure.Procedure{Header: before.Header, Steps: slices.Clone(before.Steps)}
	named := make([]step.ID, len(before.Steps)) // what each step of before is called in after
	taken := make([]bool, len(after.Steps))
	byID := func(fits func(a, b *step.Step) bool) {
		for i := range before.Steps {
			if k := after.At(before.Steps[i].ID); named[i] == "" && k >= 0 && !taken[k] && fits(&before.Steps[i], &after.Steps[k]) {
				named[i], taken[k] = after.Steps[k].ID, true
			}
		}
	}
	byID(like)
	// The steps that are left over on both sides and do the same, in the order in which
	// most of them follow each other.
	var left, right []int
	for i := range before.Steps {
		if named[i] == "" {
			left = append(left, i)
		}
	}
	for k := range after.Steps {
		if !taken[k] {
			right = append(right, k)
		}
	}
	for _, m := range common(len(left), len(right), func(a, b int) bool {
		return step.SameAction(before.Steps[left[a]].Action, after.Steps[right[b]].Action)
	}) {
		i, k := left[m[0]], right[m[1]]
		named[i], taken[k] = after.Steps[k].ID, true
	}
	// Whatever is left over under one id was changed into something else.
	byID(func(a, b *step.Step) bool { return true })
	free := func(id step.ID) step.ID { // an id that no step of the later state has
		for after.At(id) >= 0 {
			id += "~"
		}
		return id
	}
	for i := range out.Steps {
		if named[i] == "" {
			named[i] = free(before.Steps[i].ID)
		}
		out.Steps[i].ID = named[i]
	}
	return out
}

// like reports whether two steps of one id are plainly the same step: they do the
// same kind of thing, with some of the same things.
func like(a, b *step.Step) bool {
	if a.Action.Verb() != b.Action.Verb() {
		return false
	}
	return len(step.Refs(a.Action))+len(step.Refs(b.Action)) == 0 || slices.ContainsFunc(step.Refs(a.Action), func(r engine.Ref) bool { return slices.Contains(step.Refs(b.Action), r) })
}

// common are the pairs of a longest common subsequence of two lists, in order.
func common(n, m int, same func(a, b int) bool) [][2]int {
	long := make([][]int, n+1)
	for i := range long {
		long[i] = make([]int, m+1)
	}
	is := make([][]bool, n)
	for i := n - 1; i >= 0; i-- {
		is[i] = make([]bool, m)
		for j := m - 1; j >= 0; j-- {
			if is[i][j] = same(i, j); is[i][j] {
				long[i][j] = long[i+1][j+1] + 1
			} else {
				long[i][j] = max(long[i+1][j], long[i][j+1])
			}
		}
	}
	var out [][2]int
	for i, j := 0, 0; i < n && j < m; {
		switch {
		case is[i][j]:
			out = append(out, [2]int{i, j})
			i, j = i+1, j+1
		case long[i+1][j] >= long[i][j+1]:
			i++
		default:
			j++
		}
	}
	return out
}
