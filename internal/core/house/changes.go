package house

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
)

// Changes says in words what other rules have otherwise, in the order of the screen; none for
// the same.
func (r *Rules) Changes(other *Rules) []string {
	out := []string{}
	add := func(what, was, is string) {
		if was != is {
			out = append(out, fmt.Sprintf("%s: %s → %s", what, was, is))
		}
	}
	for i := range Questions {
		add(Questions[i].Asks, Questions[i].of(r), Questions[i].of(other))
	}
	for i := range Limits {
		l := &Limits[i]
		add(l.Says, l.number(r), l.number(other))
	}
	add("Author and editorial latch by one person", yes(r.Latches.AuthorMayEdit), yes(other.Latches.AuthorMayEdit))
	add("The last latch releases", yes(r.Latches.LastReleases), yes(other.Latches.LastReleases))
	for _, w := range r.Proof.Vague {
		if !slices.Contains(other.Proof.Vague, w) {
			out = append(out, fmt.Sprintf("“%s” may be written again", w))
		}
	}
	for _, w := range other.Proof.Vague {
		if !slices.Contains(r.Proof.Vague, w) {
			out = append(out, fmt.Sprintf("“%s” is not written any more", w))
		}
	}
	for _, w := range Severities() {
		add("“"+w.Doc+"”", Said(weighs(r, &w)), Said(weighs(other, &w)))
	}
	for i := range drill.Families {
		f := &drill.Families[i]
		was, is := r.family(f), other.family(f)
		switch {
		case was.Off != is.Off:
			add(f.Name, drilled(was.Off), drilled(is.Off))
		case is.Off:
		default:
			add(f.Name+", at least", fmt.Sprintf("%d %% caught", was.Least), fmt.Sprintf("%d %% caught", is.Least))
			add(f.Name+", occurrence", fmt.Sprint(was.Occurrence), fmt.Sprint(is.Occurrence))
			add(f.Name+", made", sizes(f, was.Sizes), sizes(f, is.Sizes))
		}
	}
	return out
}

// Same reports whether other rules choose the same.
func (r *Rules) Same(other *Rules) bool { return len(r.Changes(other)) == 0 }

func (l *Limit) number(r *Rules) string { return unit.Number(l.of(r)) + " " + l.Unit }

// family is what rules say of a family, ours where they say nothing.
func (r *Rules) family(f *drill.Family) drill.HouseFamily {
	v, ok := r.Drill[f.ID]
	if !ok {
		v = drill.HouseFamily{Least: f.Least, Occurrence: f.Occurrence}
	}
	if len(v.Sizes) == 0 {
		v.Sizes = f.Sizes
	}
	return v
}

func weighs(r *Rules, w *Weighed) finding.Severity {
	if s, ok := r.Proof.Severities[w.ID]; ok {
		return s
	}
	return w.Severity
}

// Said is a severity as a sentence has it.
func Said(s finding.Severity) string {
	switch s {
	case finding.Blocks:
		return "blocks"
	case finding.ShouldFix:
		return "should fix"
	}
	return "check"
}

func yes(v bool) string {
	if v {
		return "yes"
	}
	return "no"
}

func drilled(off bool) string {
	if off {
		return "not made"
	}
	return "made"
}

func sizes(f *drill.Family, all []float64) string {
	var out []string
	for _, n := range all {
		out = append(out, unit.Number(n))
	}
	return strings.TrimSpace(strings.Join(out, ", ") + " " + f.Unit)
}

// Tidied are rules without what they say as it is by itself: a severity that a rule has, a
// family that is as ours, spaces around words.
func (r *Rules) Tidied() Rules {
	out := *r
	out.Proof.Severities = nil
	for _, w := range Severities() {
		if s, ok := r.Proof.Severities[w.ID]; ok && s != w.Severity {
			if out.Proof.Severities == nil {
				out.Proof.Severities = map[string]finding.Severity{}
			}
			out.Proof.Severities[w.ID] = s
		}
	}
	out.Drill = maps.Clone(r.Drill)
	for i := range drill.Families {
		f := &drill.Families[i]
		if v, ok := r.Drill[f.ID]; ok && !v.Off && v.Least == f.Least && v.Occurrence == f.Occurrence && (len(v.Sizes) == 0 || slices.Equal(v.Sizes, f.Sizes)) {
			delete(out.Drill, f.ID)
		}
	}
	if len(out.Drill) == 0 {
		out.Drill = nil
	}
	out.Proof.Vague = nil
	for _, w := range r.Proof.Vague {
		out.Proof.Vague = append(out.Proof.Vague, strings.Join(strings.Fields(w), " "))
	}
	return out
}
