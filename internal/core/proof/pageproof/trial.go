package pageproof

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// What is tried, so that findings follow a key: so many runs, fewer on a long
// page, the gravest findings first. What has not been tried is not offered.
const (
	mostTrials  = 50
	leastTrials = 6
	trialSteps  = 1500
	mostMends   = 3
)

// onEngine are the families that a mend can change: all but the words, which a
// trial of a finding about words takes in. The other starting positions, which
// cost a run each, are tried last, once all else is well.
func onEngine(f *Finding) [][]Rule {
	out := [][]Rule{lockRules, workedRules, owedRules, valueRules, listRules, partRules, loopRules, torqueRules, turnRules, endRules, toolRules, pathRules}
	for _, words := range [][]Rule{wordRules, cautionRules} {
		if slices.ContainsFunc(words, func(r Rule) bool { return r.ID == f.Rule }) {
			out = append(out, words)
		}
	}
	return out
}

// try runs the page with each mend made and keeps those that settle their
// finding and raise none that blocks. What a mend settles beside its own finding
// follows from it.
func try(x *engine.Index, p *procedure.Procedure, house House, fs []Finding) {
	if len(fs) == 0 {
		return
	}
	budget := min(max(trialSteps/max(len(p.Steps), 1), leastTrials), mostTrials)
	had := subjects(fs)
	for i := range fs {
		f := &fs[i]
		var kept []tried
		for _, m := range f.Mends {
			if budget == 0 || len(kept) == mostMends {
				break
			}
			if slices.ContainsFunc(kept, func(k tried) bool { return k.m.Label == m.Label }) {
				continue // two that read alike are one to whoever takes one
			}
			budget--
			if left, ok := trial(x, p, house, f, m, had); ok {
				kept = append(kept, tried{m, left, count(left)})
			}
		}
		// What settles most comes first.
		slices.SortStableFunc(kept, func(a, b tried) int { return a.n - b.n })
		f.Mends = make([]Mend, len(kept))
		for k := range kept {
			f.Mends[k] = kept[k].m
		}
		if len(kept) > 0 {
			follow(fs, i, kept[0].left)
		}
	}
}

// tried is a mend that came out, with what it leaves: by subject, and how many.
type tried struct {
	m    Mend
	left map[string]int
	n    int
}

func count(left map[string]int) int {
	n := 0
	for _, k := range left {
		n += k
	}
	return n
}

// trial makes a mend and gives what is found then, by subject; false where it
// cannot be made, leaves its finding, or raises one that blocks.
func trial(x *engine.Index, p *procedure.Procedure, house House, f *Finding, m Mend, had map[string]int) (map[string]int, bool) {
	q, _, err := procedure.Apply(p, m.Edits)
	if err != nil {
		return nil, false
	}
	if takes(m) && loses(x, p, q) {
		return nil, false
	}
	look := newFinder(x, q, nil, house, true)
	rules := onEngine(f)
	var out map[string]int
	for _, further := range []func([][]Rule){look.straight, look.ways} {
		further(rules)
		fs := look.found()
		out = subjects(fs)
		if f.Rule != startRules[0].ID && out[subject(f)] >= had[subject(f)] || raises(fs, had) {
			return nil, false
		}
	}
	// The other starting positions, which cost a run each, are tried last.
	look.c.out, look.whole.out = nil, nil
	look.straight([][]Rule{startRules})
	if starts := look.found(); raises(starts, had) || f.Rule == startRules[0].ID && len(starts) > 0 {
		return nil, false
	}
	return out, true
}

// takes reports whether a mend takes a step away or puts another in its place; only
// such a one can undo what the page was for.
func takes(m Mend) bool {
	return slices.ContainsFunc(m.Edits, func(e procedure.Edit) bool {
		return e.Op == procedure.Remove || e.Op == procedure.Replace
	})
}

// loses reports whether a page that is changed no longer does what it was for: a
// belt or chain it laid is not new at its end any more. What a page says itself that
// it renews is held by the rules of purpose.
func loses(x *engine.Index, p, q *procedure.Procedure) bool {
	had, has := virtual.Run(x, p).Last(), virtual.Run(x, q).Last()
	for k := range had.Loops {
		if had.Loops[k].New && !has.Loops[k].New {
			return true
		}
	}
	// A step that says what is new is what the page is for, even where it cannot be
	// done as it stands.
	now := news(x, q)
	for name := range news(x, p) {
		if !now[name] {
			return true
		}
	}
	return false
}

// news are the belts and chains that a page lays new, and the parts it is to renew
// and does, by their names.
func news(x *engine.Index, p *procedure.Procedure) map[string]bool {
	out := map[string]bool{}
	for i := range p.Steps {
		if f, ok := p.Steps[i].Action.(*step.Fit); ok && f.New {
			out["loop "+string(f.Loop)] = true
		}
		parts, _ := p.Steps[i].NewParts(x)
		for _, id := range parts {
			if slices.Contains(p.Task.Renews, id) {
				out["part "+string(id)] = true
			}
		}
	}
	return out
}

// raises reports whether findings that block are among fs that were not there
// before, or more of one kind.
func raises(fs []Finding, had map[string]int) bool {
	n := map[string]int{}
	for i := range fs {
		if fs[i].Severity != Blocks || fs[i].Accepted != "" {
			continue
		}
		s := subject(&fs[i])
		if n[s]++; n[s] > had[s] {
			return true
		}
	}
	return false
}

// follow hangs under finding i what its mend settles too and comes no earlier.
func follow(fs []Finding, i int, left map[string]int) {
	looked := map[string]bool{}
	for _, family := range onEngine(&fs[i]) {
		for k := range family {
			looked[family[k].ID] = true
		}
	}
	for k := range fs {
		f := &fs[k]
		if k == i || f.Cause != "" || fs[i].Cause != "" || f.Rule == fs[i].Rule && subject(f) == subject(&fs[i]) {
			continue
		}
		if f.Severity.rank() >= fs[i].Severity.rank() && left[subject(f)] == 0 && looked[f.Rule] && !causes(fs, f.ID) {
			f.Cause = fs[i].ID
		}
	}
}

// causes reports whether something hangs under a finding already.
func causes(fs []Finding, id string) bool {
	for i := range fs {
		if fs[i].Cause == id {
			return true
		}
	}
	return false
}

func subjects(fs []Finding) map[string]int {
	out := make(map[string]int, len(fs))
	for i := range fs {
		out[subject(&fs[i])]++
	}
	return out
}

// subject is what a finding says of which things, whatever the numbers of the
// steps: a mend that adds a step moves them all.
func subject(f *Finding) string {
	var b strings.Builder
	b.WriteString(f.Rule + " ")
	words := strings.Fields(f.What)
	for i, w := range words {
		if i > 0 && strings.EqualFold(words[i-1], "step") {
			w = strings.TrimLeft(w, "0123456789")
		}
		b.WriteString(strings.ToLower(w) + " ")
	}
	return b.String()
}
