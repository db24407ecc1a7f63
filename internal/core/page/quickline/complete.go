package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
)

// Completion is one way to go on with a quick line.
type Completion struct {
	// Line is the whole line once taken.
	Line string `json:"line"`
	// Label is what is added, Hint what it is.
	Label string `json:"label"`
	Hint  string `json:"hint,omitzero"`
}

// maxCompletions is how many ways a line offers at once.
const maxCompletions = 8

// fragmentWords is how many words at the end of a line may be half typed.
const fragmentWords = 6

// Complete offers ways to go on from what was typed so far. Whatever is offered
// was read with the line it belongs to.
func Complete(lex *Lexicon, typed string) []Completion {
	typed = strings.TrimLeft(strings.ToValidUTF8(typed, ""), " ")
	if len(typed) > maxLine {
		return nil
	}
	ts := tokens(typed)
	ways := openings(ts, 0)
	if len(ways) == 0 || ways[0].pos == len(ts) && !strings.HasSuffix(typed, " ") {
		return verbs(strings.ToLower(typed))
	}
	var out []Completion
	for k := 0; k <= min(fragmentWords, len(ts)-1) && len(out) == 0; k++ {
		cut := len(typed)
		if k > 0 {
			cut = ts[len(ts)-k].start
		}
		stem, fragment := strings.TrimRight(typed[:cut], " "), strings.ToLower(typed[cut:])
		for _, w := range openings(tokens(stem), 0) {
			if w.particle == "" {
				out = append(out, lex.goOn(w.spec, stem, fragment, w)...)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Completion) int { return rank(a.Label, typed) - rank(b.Label, typed) })
	seen := map[string]bool{}
	out = slices.DeleteFunc(out, func(c Completion) bool {
		gone := seen[c.Line]
		seen[c.Line] = true
		return gone
	})
	if len(out) > maxCompletions {
		out = out[:maxCompletions]
	}
	return out
}

// goOn offers what may follow a stem that a verb reads, where it begins like the
// fragment.
func (lex *Lexicon) goOn(spec *step.Spec, stem, fragment string, w opening) []Completion {
	a, clean := lex.as(spec, w, stem)
	if !clean {
		return nil
	}
	var out []Completion
	add := func(label, hint string) {
		line := stem + " " + label
		if strings.HasPrefix(label, ",") {
			line = stem + label
		}
		if _, ok := lex.as(spec, w, line); ok {
			out = append(out, Completion{line, label, hint})
		}
	}
	named := len(step.Refs(a)) > 0
	if next := grammars[spec.Verb].next; next != nil && (named || spec.Takes == nil) {
		for _, n := range next(lex.x, a) {
			if strings.HasPrefix(strings.ToLower(n), fragment) {
				add(n, "")
			}
		}
	}
	join, rest := "", fragment
	for _, j := range []string{"and ", ", ", "→ ", "to ", "onto ", "with ", "against ", "hold with ", "slack at ", "that ", "over ", "the "} {
		if after, ok := strings.CutPrefix(fragment, j); ok && len(j) > len(join) {
			join, rest = j, after
		}
	}
	if named && join == "" {
		return out
	}
	kinds := spec.Takes
	if named || len(kinds) == 0 {
		kinds = spec.Kinds()
	}
	for _, t := range lex.names(kinds) {
		if begins(t.name, rest) {
			add(join+t.name, string(t.kind))
		}
	}
	return out
}

// as reads a line as one verb; clean is false where a word is left.
func (lex *Lexicon) as(spec *step.Spec, w opening, line string) (step.Action, bool) {
	ts := tokens(line)
	if w.pos > len(ts) {
		return nil, false
	}
	l := &Line{x: lex.x, lex: lex, text: line, tokens: ts, pos: w.pos, phrase: w.phrase}
	a := grammars[spec.Verb].read(l)
	// A line that is only opened by a verb is clean whatever it lacks.
	return a, len(l.left) == 0 && l.end() || w.pos == len(ts)
}

func verbs(typed string) []Completion {
	var out []Completion
	seen := map[string]bool{}
	for _, s := range step.Specs {
		for i, p := range s.Phrases {
			if strings.HasPrefix(p, typed) && !seen[p] && (i == 0 || typed != "" && len(typed) > 1) {
				seen[p] = true
				out = append(out, Completion{p + " ", p, s.Example})
			}
		}
	}
	if len(out) > maxCompletions {
		out = out[:maxCompletions]
	}
	return out
}

// rank puts names that begin like the last word typed before those that have it
// further in.
func rank(name, typed string) int {
	last := strings.ToLower(typed[strings.LastIndexByte(typed, ' ')+1:])
	if strings.HasPrefix(name, last) {
		return 0
	}
	return 1
}

// begins reports whether some word of the name begins like the fragment.
func begins(name, frag string) bool {
	if frag == "" || strings.HasPrefix(name, frag) {
		return true
	}
	for i := range name {
		if name[i] == ' ' && strings.HasPrefix(name[i+1:], frag) {
			return true
		}
	}
	return false
}

// Examples are quick lines of this engine's own, made from its sheet: what an
// empty page shows. Each of them reads.
func Examples(lex *Lexicon) []string {
	x, s := lex.x, lex.x.Sheet
	var out []string
	add := func(a step.Action) {
		if line := en.Typed(x, a); line != "" {
			if r := read(lex, line); r.Read() {
				out = append(out, line)
			}
		}
	}
	for i := range s.Parts {
		if s.Parts[i].Kind == engine.Cover {
			add(&step.Remove{Parts: []engine.PartID{s.Parts[i].ID}})
			break
		}
	}
	for i := range s.Locks {
		if s.Locks[i].Kind.ForPosition() {
			add(&step.Lock{Lock: s.Locks[i].ID})
			break
		}
	}
	for i := range s.Fasteners {
		// A value by case is no example: it is another one on another engine.
		f := &s.Fasteners[i]
		if stages, _ := step.SpecFor(x, f.ID); len(stages) > 0 && (f.HoldWith != "" || i == len(s.Fasteners)-1) {
			add(&step.Tighten{Fasteners: []engine.FastenerID{f.ID}, Stages: stages, Hold: f.HoldWith})
			break
		}
	}
	add(&step.Turn{Turns: 2, Way: s.Running})
	for i := range s.Locks {
		if s.Locks[i].Kind.ForPosition() {
			add(&step.Check{Locks: []engine.LockID{s.Locks[i].ID}})
			break
		}
	}
	return out
}
