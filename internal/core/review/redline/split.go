package redline

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
)

// splits finds steps that are gone and whose things others do now, with the same
// verb: one split into several, or several joined into one.
func (r *Redline) splits() {
	refs := func(p *procedure.Procedure, id step.ID) (step.Verb, []engine.Ref) {
		s := &p.Steps[p.At(id)]
		return s.Action.Verb(), step.Refs(s.Action)
	}
	for i := range r.Rows {
		if r.Rows[i].Kind == Gone {
			r.match(i, New, Split, func(id step.ID) (step.Verb, []engine.Ref) { return refs(r.before, id) }, func(id step.ID) (step.Verb, []engine.Ref) { return refs(r.after, id) })
		}
	}
	for i := range r.Rows {
		if r.Rows[i].Kind == New {
			r.match(i, Gone, Joined, func(id step.ID) (step.Verb, []engine.Ref) { return refs(r.after, id) }, func(id step.ID) (step.Verb, []engine.Ref) { return refs(r.before, id) })
		}
	}
}

// match looks beside row i, among those of a kind, for steps that share its things
// out among them: together they name all of its things and no other, and none of
// them twice but what all of them name, such as what holds. They and it become one
// change then.
func (r *Redline) match(i int, among, as Kind, whole, part func(step.ID) (step.Verb, []engine.Ref)) {
	verb, things := whole(r.Rows[i].Step)
	if len(things) < 2 {
		return
	}
	count := map[engine.Ref]int{}
	var found []int
	for k := max(0, i-len(things)-2); k < len(r.Rows) && k <= i+len(things)+2; k++ {
		if r.Rows[k].Kind != among {
			continue
		}
		v, of := part(r.Rows[k].Step)
		if v != verb || len(of) == 0 || slices.ContainsFunc(of, func(t engine.Ref) bool { return !slices.Contains(things, t) }) {
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
