package pageproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
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

// try runs the page with each mend made and keeps those that settle their
// finding and raise none that blocks. What a mend settles beside its own finding
// follows from it.
func try(x *engine.Index, p *procedure.Procedure, house finding.House, fs []Finding) {
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
		// A step is only taken away where nothing else settles as much: what it speaks of
		// was never needed.
		for _, k := range slices.Clone(kept) {
			if !onlyTakes(k.m) {
				kept = slices.DeleteFunc(kept, func(o tried) bool { return onlyTakes(o.m) && o.n >= k.n })
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
	left counts
	n    int
}

func count(left counts) int {
	n := 0
	for _, k := range left {
		n += k
	}
	return n
}

// trial makes a mend and gives what is found then, by subject; false where it
// cannot be made, leaves its finding, or raises one that blocks. Every rule is looked
// through, those of words where the finding is of words; what costs a run is tried
// last, once all else is well.
func trial(x *engine.Index, p *procedure.Procedure, house finding.House, f *Finding, m Mend, had counts) (counts, bool) {
	q, _, err := procedure.Apply(p, m.Edits)
	if err != nil {
		return nil, false
	}
	if takes(m) && loses(x, p, q) {
		return nil, false
	}
	look := newFinder(x, q, nil, house, true)
	reads := reads(f.Rule)
	var left counts
	seen := false
	words := func() {
		if reads == finding.Words {
			look.words() // else they stay as they are
		}
	}
	for _, stage := range []struct {
		look  func()
		shows bool // the rule of the finding has been looked through with it
	}{
		{look.straight, reads == finding.Run || reads == finding.Written},
		{words, reads == finding.Words},
		{look.ways, false},
		{look.starts, reads == finding.Starts},
		{look.engines, reads == finding.Engines},
		{look.tools, false},
	} {
		stage.look()
		fs := look.found()
		left = subjects(fs)
		seen = seen || stage.shows
		if raises(fs, had) || seen && stays(f, fs, left, had) {
			return nil, false
		}
	}
	return left, true
}

// stays reports whether a finding is there still, or another of its kind has come in
// its place.
func stays(f *Finding, fs []Finding, left, had counts) bool {
	if left[f.Subject()] >= had[f.Subject()] {
		return true
	}
	return slices.ContainsFunc(fs, func(g Finding) bool { return g.key() == f.key() })
}

// onlyTakes reports whether all a mend does is to take steps away.
func onlyTakes(m Mend) bool {
	return !slices.ContainsFunc(m.Edits, func(e procedure.Edit) bool { return e.Op != procedure.Remove })
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
func raises(fs []Finding, had counts) bool {
	n := counts{}
	for i := range fs {
		if fs[i].Severity != finding.Blocks || fs[i].Accepted != "" {
			continue
		}
		s := fs[i].Subject()
		if n[s]++; n[s] > had[s] {
			return true
		}
	}
	return false
}

// follow hangs under finding i what its mend settles too and comes no earlier.
func follow(fs []Finding, i int, left counts) {
	words := reads(fs[i].Rule) == finding.Words
	for k := range fs {
		f := &fs[k]
		if k == i || f.Cause != "" || fs[i].Cause != "" || f.Subject() == fs[i].Subject() {
			continue
		}
		if !words && reads(f.Rule) == finding.Words {
			continue // nobody looked
		}
		if f.Severity.Rank() >= fs[i].Severity.Rank() && left[f.Subject()] == 0 && !causes(fs, f.ID) {
			f.Cause = fs[i].ID
		}
	}
}

// reads is what the rule of an id reads.
func reads(id string) finding.Reads {
	r, _ := finding.ReadBy(families, id)
	return r
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

// counts are how many findings there are of each subject: what a mend that adds a
// step moves, it does not make another.
type counts map[finding.Subject]int

func subjects(fs []Finding) counts {
	out := make(counts, len(fs))
	for i := range fs {
		out[fs[i].Subject()]++
	}
	return out
}
