package redline

import (
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
)

// Risk is how much a row can do to an engine, 0 the gravest.
type Risk int

// The risks. Gravest is a step of weight that is gone, new or does something else; of a
// first revision every step that turns, locks, lays, tightens, tensions or starts.
const (
	Gravest Risk = iota
	Grave
	Light
)

// riskOf is the risk of a row whose step was b and is a, which are one where it is new
// or gone. Where nothing has changed, it is that of the step itself.
func riskOf(w *Row, b, a *step.Step) Risk {
	weighs := func(s *step.Step) bool {
		spec := step.SpecOf(s.Action.Verb())
		return spec != nil && spec.Weighs()
	}
	heavy := weighs(a) || weighs(b)
	value := slices.ContainsFunc(w.Parts, func(p Part) bool { return p.Weight == latch.Value })
	switch {
	case w.Kind == Same && heavy:
		return Gravest
	case w.Kind == Same && (len(a.Cautions) > 0 || a.Action.Verb() == "do" || a.Wording != ""):
		return Grave
	case w.Kind == Same:
		return Light
	case heavy && value:
		return Gravest
	case value:
		return Grave
	case heavy && w.Kind == Moved:
		return Grave
	}
	return Light
}

// counted says how much lies between the two, by kind, the gravest first. A step that
// is new or gone counts once, each part of one that changed by itself.
func (r *Redline) counted() string {
	n := map[string]int{}
	for _, ps := range [][]Part{r.Header, r.Sheet} {
		for _, p := range ps {
			n[string(p.Weight)]++
		}
	}
	for _, w := range r.Rows {
		switch w.Kind {
		case Same:
		case Changed, Moved:
			for _, p := range w.Parts {
				n[string(p.Weight)]++
			}
		default:
			n[string(w.Kind)]++
		}
	}
	var out []string
	for _, k := range []struct{ kind, one, more string }{
		{string(Gone), "gone", "gone"}, {string(New), "new", "new"}, {string(latch.Value), "value", "values"},
		{string(Split), "split", "split"}, {string(Joined), "joined", "joined"}, {string(latch.Order), "place", "places"},
		{string(latch.Wording), "wording", "wordings"},
	} {
		switch n[k.kind] {
		case 0:
		case 1:
			out = append(out, "1 "+k.one)
		default:
			out = append(out, fmt.Sprintf("%d %s", n[k.kind], k.more))
		}
	}
	return strings.Join(out, ", ")
}

// ofSheet is what two engine sheets make of a step in one respect, in words; false
// where it is none of what a sheet says.
func ofSheet(before, after State, s *step.Step, what string) (was, now string, ok bool) {
	b, a := document.Stands(before.Index, s), document.Stands(after.Index, s)
	for i := range a {
		if a[i].What == what {
			return b[i].Text, a[i].Text, true
		}
	}
	return "", "", false
}
