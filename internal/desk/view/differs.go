package view

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/engine"
)

// Differs says in what an engine stands otherwise than it did, a phrase for each: what
// is in, on, loose and slack, how tensioners are, where the crank stands and what is in
// doubt. Things are called as the sheet of now has them.
func Differs(x, before *engine.Index, now, was *State) []string {
	out := []string{}
	lists := []struct {
		list      string
		now, was  []string
		is, isNot string
	}{
		{"locks", now.Locks, was.Locks, "in", "out"}, {"loops", now.On, was.On, "on", "off"},
		{"wheels", now.Free, was.Free, "loose on its shaft", "fast on its shaft"}, {"loops", now.Slack, was.Slack, "slack", "not slack"},
		{"shafts", now.Met, was.Met, "meets pistons", "clear of the pistons"}, {"loops", now.Jumped, was.Jumped, "may have jumped a tooth", "has not jumped"},
	}
	for _, l := range lists {
		for _, id := range sorted(l.now, l.was) {
			a, b := slices.Contains(l.now, id), slices.Contains(l.was, id)
			switch {
			case a && !b:
				out = append(out, named(x, l.list, id)+": "+l.is+", was "+l.isNot)
			case b && !a:
				out = append(out, named(x, l.list, id)+": "+l.isNot+", was "+l.is)
			}
		}
	}
	if d := math.Abs(engine.Wrap(now.Crank-was.Crank, now.Cycle)); d > 0.05 {
		out = append(out, fmt.Sprintf("crank: at %s°, was at %s°", degree(now.Crank, now.Cycle), degree(was.Crank, was.Cycle)))
	}
	for i := range now.Shafts {
		a := &now.Shafts[i]
		k := slices.IndexFunc(was.Shafts, func(s Shaft) bool { return s.ID == a.ID })
		if k < 0 {
			continue
		}
		b := &was.Shafts[k]
		if a.Fixed != b.Fixed {
			out = append(out, named(x, "shafts", a.ID)+": "+pickWord(a.Fixed, "held, was free", "free, was held"))
		}
		if a.Teeth != b.Teeth {
			out = append(out, named(x, "shafts", a.ID)+": "+teeth(a.Teeth)+", was "+teeth(b.Teeth))
		} else if a.Doubt != b.Doubt {
			out = append(out, fmt.Sprintf("%s: known to ±%g°, was to ±%g°", named(x, "shafts", a.ID), a.Doubt, b.Doubt))
		}
	}
	for i, a := range now.Tension {
		t := &x.Sheet.Tensioners[i]
		if k := before.TensionerAt(t.ID); k >= 0 && a != was.Tension[k] {
			out = append(out, t.Name+": "+a+", was "+was.Tension[k])
		}
	}
	return out
}

// teeth is by how many whole teeth a shaft may be out, in words.
func teeth(n int) string {
	switch n {
	case 0:
		return "sure to the tooth"
	case 1:
		return "in doubt by a tooth"
	}
	return fmt.Sprintf("in doubt by %d teeth", n)
}

func named(x *engine.Index, list, id string) string {
	if n := x.NameOf(list, id); n != "" {
		return n
	}
	return id
}

func pickWord(yes bool, a, b string) string {
	if yes {
		return a
	}
	return b
}

// degree is an angle within a cycle, to a tenth.
func degree(v, cycle float64) string {
	if v = math.Mod(math.Mod(v, cycle)+cycle, cycle); v > cycle-0.05 {
		v = 0
	}
	return fmt.Sprintf("%.1f", v)
}

// sorted are the members of both lists, each once.
func sorted(a, b []string) []string {
	out := slices.Concat(a, b)
	slices.Sort(out)
	return slices.Compact(out)
}
