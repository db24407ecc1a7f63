package step

import (
	"slices"
	"strings"
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

// Complete offers ways to go on from what was typed so far.
func Complete(lex *Lexicon, typed string) []Completion {
	lower := strings.ToLower(strings.TrimLeft(typed, " "))
	typed = strings.TrimLeft(typed, " ")
	specs, phrase := openings(lower)
	if len(specs) == 0 || len(lower) == len(phrase) && !strings.HasSuffix(lower, " ") {
		return verbs(lower)
	}
	if len(typed) > maxLine || len(lower) != len(typed) {
		return nil
	}
	stem, fragment := cutFragment(lex, typed, specs)
	if unread(lex, stem, specs) {
		return nil
	}
	out := lex.complete(typed, stem, fragment, specs)
	if strings.TrimSpace(fragment) == "" {
		out = append(next(lex, typed, specs), out...)
	} else {
		for _, c := range next(lex, stem, specs) {
			if strings.HasPrefix(strings.ToLower(c.Label), strings.ToLower(fragment)) {
				out = append(out, c)
			}
		}
	}
	if len(out) > maxCompletions {
		out = out[:maxCompletions]
	}
	return out
}

func verbs(typed string) []Completion {
	var out []Completion
	seen := map[string]bool{}
	for _, s := range Specs {
		for i, p := range s.Phrases {
			if strings.HasPrefix(p, typed) && !seen[p] && (typed != "" || i == 0) {
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

// cutFragment cuts the words at the end that are not a whole name or value yet.
func cutFragment(lex *Lexicon, typed string, specs []*Spec) (stem, fragment string) {
	l := newLine(lex, typed, phraseOf(typed))
	spec := l.choose(specs)
	l.only(spec)
	spec.Read(l)
	end := len(l.phrase)
	for _, f := range l.found {
		end = max(end, f.end)
	}
	for _, q := range l.quants {
		end = max(end, q.End)
	}
	if !slices.ContainsFunc(spec.Fields, func(f Field) bool { return f.Kind == TextIn }) {
		for i, d := range l.done {
			if d && l.lower[i] != ' ' && boundary(l.lower, i+1) {
				end = max(end, i+1)
			}
		}
	}
	for _, w := range slices.Concat(holdWords, []string{"onto", "to", "slack at", "on", "→", "and", ","}) {
		if i := strings.LastIndex(l.lower, " "+w+" "); i >= 0 {
			end = max(end, i+len(w)+1)
		}
		if w == "," || w == "→" {
			if i := strings.LastIndex(l.lower, w); i >= 0 {
				end = max(end, i+len(w))
			}
		}
	}
	return typed[:end], strings.TrimLeft(typed[end:], " ")
}

// unread reports whether something before the last word was not understood.
func unread(lex *Lexicon, stem string, specs []*Spec) bool {
	l := newLine(lex, stem, phraseOf(stem))
	spec := l.choose(specs)
	l.only(spec)
	spec.Read(l)
	left := l.left()
	return left != "" && !slices.Contains(holdWords, left) && !filler[left] && left != "onto" && left != "hold" && left != "slack"
}

func phraseOf(typed string) string {
	_, p := openings(strings.ToLower(typed))
	return p
}

// complete offers names whose words begin like the fragment.
func (l *Lexicon) complete(typed, stem, fragment string, specs []*Spec) []Completion {
	kinds := map[ObjectKind]bool{}
	line := newLine(l, stem, phraseOf(stem))
	spec := line.choose(specs)
	line.only(spec)
	if len(line.found) == 0 {
		for _, s := range specs {
			for _, k := range s.kinds() {
				kinds[k] = true
			}
		}
	} else {
		for _, k := range spec.kinds() {
			kinds[k] = true
		}
	}
	var want []ObjectKind
	for _, k := range anyObject {
		if kinds[k] {
			want = append(want, k)
		}
	}
	var out []Completion
	frag := strings.ToLower(strings.TrimSpace(fragment))
	bare := frag == ""
	if bare && len(line.found) > 0 && !opensName(stem) {
		return nil
	}
	for _, t := range l.names(want) {
		if strings.Contains(strings.ToLower(stem), t.text) || !begins(t.text, frag) {
			continue
		}
		out = append(out, Completion{strings.TrimRight(stem, " ") + " " + t.text, t.text, string(t.kind)})
	}
	slices.SortStableFunc(out, func(a, b Completion) int {
		return rank(a.Label, frag) - rank(b.Label, frag)
	})
	return out
}

// opensName reports whether a name is expected after these words.
func opensName(stem string) bool {
	s := strings.ToLower(strings.TrimRight(stem, " "))
	for _, w := range []string{"with", "onto", " to", " at", " and", "→", " on", ","} {
		if strings.HasSuffix(s, w) {
			return true
		}
	}
	return false
}

func rank(name, frag string) int {
	if strings.HasPrefix(name, frag) {
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

func next(lex *Lexicon, typed string, specs []*Spec) []Completion {
	l := newLine(lex, typed, phraseOf(typed))
	spec := l.choose(specs)
	l.only(spec)
	a := spec.Read(l)
	if spec.Next == nil || spec.Takes != nil && !l.any(spec.Takes) {
		return nil
	}
	var out []Completion
	for _, n := range spec.Next(l, a) {
		out = append(out, Completion{strings.TrimRight(typed, " ") + " " + n, n, ""})
	}
	return out
}
