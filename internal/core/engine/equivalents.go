package engine

import (
	"cmp"
	"slices"
)

// StandIn is a tool that the sheet lets stand in for another, and is looser than it: what is
// locked or tried with it may stand further off.
type StandIn struct {
	Tool   ToolID
	Number string
	// Play is its freedom either side, degrees of the shaft it holds.
	Play float64
}

// StandIns are, for each of some tools, the loosest that may be used instead, where that is
// looser than the tool itself at a lock for position.
func (x *Index) StandIns(tools []ToolID) []StandIn {
	var out []StandIn
	for i := range x.Sheet.Tools {
		t := &x.Sheet.Tools[i]
		if !slices.Contains(tools, t.ID) || len(t.Equivalents) == 0 {
			continue
		}
		e := slices.MaxFunc(t.Equivalents, func(a, b Equivalent) int { return cmp.Compare(a.Play, b.Play) })
		if slices.ContainsFunc(x.Sheet.Locks, func(l Lock) bool { return l.loosenedBy(t.ID, e.Play) }) {
			out = append(out, StandIn{t.ID, e.Number, e.Play})
		}
	}
	return out
}

// loosenedBy reports whether a lock for position has more play once its tool has so much.
func (l *Lock) loosenedBy(tool ToolID, play float64) bool {
	return l.Tool == tool && l.Kind.ForPosition() && play > float64(l.Freedom())
}

// With is the index of the sheet with a tool in place of another: the locks that it is have its
// play. It is worked out once for each.
func (x *Index) With(in StandIn) *Index {
	x.mu.Lock()
	defer x.mu.Unlock()
	if of := x.with[in]; of != nil {
		return of
	}
	s := *x.Sheet
	s.Locks = slices.Clone(s.Locks)
	for i := range s.Locks {
		if l := &s.Locks[i]; l.loosenedBy(in.Tool, in.Play) {
			l.Play, l.PlayMM = in.Play, 0
		}
	}
	if x.with == nil {
		x.with = map[StandIn]*Index{}
	}
	x.with[in] = NewIndex(&s)
	return x.with[in]
}
