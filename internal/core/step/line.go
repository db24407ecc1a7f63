package step

import (
	"regexp"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Line is a quick line while a verb reads it. What is understood is struck out
// of it; what is left over at the end was not understood.
type Line struct {
	x      *engine.Index
	lex    *Lexicon
	text   string
	lower  string
	phrase string
	done   []bool
	found  []found
	quants []unit.Match
}

type found struct {
	term
	start, end int
	used       bool
}

// Reading is what became of a quick line.
type Reading struct {
	Action Action
	// Phase is where such a step usually stands.
	Phase Phase
	// Problem says what was not understood, empty for nothing; the action is
	// then free text with the line as it was typed.
	Problem string
	// Near are whole lines that were probably meant.
	Near []string
}

var numbering = regexp.MustCompile(`^\s*(?:\(?\d{1,3}[.):]\s+|[-*•–]\s+)`)

var anyObject = []ObjectKind{LockObject, PartObject, FastenerObject, LoopObject, WheelObject, MarkObject, TensionerObject}

// maxLine is the longest quick line that is read as a step.
const maxLine = 500

// Read turns a typed line into a step. It never fails: a line that is not
// understood stays as free text and says so.
func Read(lex *Lexicon, text string) Reading {
	text = strings.TrimSpace(numbering.ReplaceAllString(strings.ToValidUTF8(text, "�"), ""))
	text = strings.TrimRight(text, " .")
	free := func(problem string, near ...string) Reading {
		return Reading{Action: &Do{Text: text, Unread: true}, Phase: "", Problem: problem, Near: near}
	}
	if text == "" {
		return free("nothing was typed")
	}
	if len(text) > maxLine {
		return free("the line is too long for one step; it stays as free text")
	}
	specs, phrase := openings(strings.ToLower(text))
	if len(specs) == 0 {
		return free("it does not start with a verb this page knows", nearVerb(text)...)
	}
	l := newLine(lex, text, phrase)
	spec := l.choose(specs)
	l.only(spec)
	a := spec.Read(l)
	if left := l.left(); left != "" && spec != doSpec {
		return free("“"+left+"” is not on this engine's sheet or not part of this step", l.near(left, specs)...)
	}
	if spec.Takes != nil && !l.any(spec.Takes) {
		return free("it does not say what to " + phrase)
	}
	return Reading{Action: a, Phase: spec.Phase}
}

// openings are the verbs whose phrase opens the line, longest phrase first.
func openings(lower string) ([]*Spec, string) {
	var out []*Spec
	best := ""
	for _, s := range Specs {
		for _, p := range s.Phrases {
			if len(p) < len(best) || !strings.HasPrefix(lower, p) || !boundary(lower, len(p)) {
				continue
			}
			if len(p) > len(best) {
				best, out = p, out[:0]
			}
			out = append(out, s)
		}
	}
	return out, best
}

func newLine(lex *Lexicon, text, phrase string) *Line {
	lower := strings.ToLower(text)
	if len(lower) != len(text) { // a letter whose lower case has another length
		text = lower
	}
	l := &Line{x: lex.x, lex: lex, text: text, lower: lower, phrase: phrase, done: make([]bool, len(lower))}
	l.strike(0, len(phrase))
	for _, m := range unit.Find(text[len(phrase):]) {
		m.Start += len(phrase)
		m.End += len(phrase)
		l.quants = append(l.quants, m)
	}
	l.scan(anyObject)
	return l
}

// scan finds the names in the line from left to right.
func (l *Line) scan(kinds []ObjectKind) {
	l.found = l.found[:0]
	for i := len(l.phrase); i < len(l.lower); {
		if l.lower[i] == ' ' || !boundary(l.lower, i) {
			i++
			continue
		}
		if t, end, ok := l.lex.matchAt(l.lower, i, kinds); ok {
			l.found = append(l.found, found{term: t, start: i, end: end})
			i = end
			continue
		}
		i++
	}
}

// choose picks the verb whose kind of thing comes first in the line.
func (l *Line) choose(specs []*Spec) *Spec {
	var best *Spec
	at, size := len(l.lower)+1, 0
	for _, s := range specs {
		l.scan(s.kinds())
		for _, f := range l.found {
			better := f.start < at || f.start == at && (f.end-f.start > size || f.end-f.start == size && f.kind == LoopObject)
			if slices.Contains(s.Takes, f.kind) && better {
				best, at, size = s, f.start, f.end-f.start
				break
			}
		}
	}
	if best != nil {
		return best
	}
	for _, s := range specs {
		if s.Takes == nil {
			return s
		}
	}
	return specs[0]
}

// kinds are the kinds of thing a verb can speak of.
func (s *Spec) kinds() []ObjectKind {
	out := slices.Clone(s.Takes)
	for _, f := range s.Fields {
		for _, k := range f.Of {
			if !slices.Contains(out, k) {
				out = append(out, k)
			}
		}
	}
	return out
}

// only reads the names again as the chosen verb means them: a name that stands
// for a part and a loop is the loop to a verb that takes loops.
func (l *Line) only(s *Spec) { l.scan(s.kinds()) }

func (l *Line) strike(from, to int) {
	for i := from; i < to && i < len(l.done); i++ {
		l.done[i] = true
	}
}

// All takes every name of a kind that is left.
func (l *Line) All(kind ObjectKind) []string {
	var out []string
	for i := range l.found {
		f := &l.found[i]
		if f.kind == kind && !f.used {
			f.used = true
			l.strike(f.start, f.end)
			out = append(out, f.ids...)
		}
	}
	return out
}

// One takes the first name of a kind that is left.
func (l *Line) One(kind ObjectKind) string {
	for i := range l.found {
		f := &l.found[i]
		if f.kind == kind && !f.used {
			f.used = true
			l.strike(f.start, f.end)
			l.again(f.ids[0], kind)
			return f.ids[0]
		}
	}
	return ""
}

// again takes every other name of the same thing: "crank pin TL-101" names its
// lock twice.
func (l *Line) again(id string, kind ObjectKind) {
	for i := range l.found {
		if f := &l.found[i]; f.kind == kind && !f.used && len(f.ids) == 1 && f.ids[0] == id {
			f.used = true
			l.strike(f.start, f.end)
		}
	}
}

// After takes the name of a kind that follows one of some words.
func (l *Line) After(words []string, kind ObjectKind) string {
	for i := range l.found {
		f := &l.found[i]
		if f.kind != kind || f.used {
			continue
		}
		before := strings.TrimRight(l.lower[:f.start], " ")
		for _, w := range words {
			at := len(before) - len(w)
			if at >= len(l.phrase) && before[at:] == w && boundary(before, at) {
				f.used = true
				l.strike(at, f.end)
				return f.ids[0]
			}
		}
	}
	return ""
}

// Word takes the first of some words that stands in the line.
func (l *Line) Word(words ...string) bool {
	for _, w := range words {
		for i := len(l.phrase); i+len(w) <= len(l.lower); i++ {
			if l.lower[i:i+len(w)] == w && boundary(l.lower, i) && boundary(l.lower, i+len(w)) && !slices.Contains(l.done[i:i+len(w)], true) {
				l.strike(i, i+len(w))
				return true
			}
		}
	}
	return false
}

// Way takes a sense of rotation; empty for none.
func (l *Line) Way() engine.Way {
	switch {
	case l.Word("counter-clockwise", "counterclockwise", "anticlockwise", "anti-clockwise", "ccw"):
		return engine.Counterclockwise
	case l.Word("clockwise", "cw"):
		return engine.Clockwise
	case l.Word("in running direction", "in the running direction"):
		return l.x.Sheet.Running
	case l.Word("backwards", "back", "against running direction"):
		return l.x.Sheet.Running.Opposite()
	}
	return ""
}

// Quantity takes the first value of a kind that is left.
func (l *Line) Quantity(k unit.Kind) (unit.Quantity, bool) {
	for _, m := range l.quants {
		if m.Quantity.Kind() == k && !l.done[m.Start] {
			if k == unit.KindTorque || k == unit.KindAngle {
				// Stages keep their order: nothing of the other kind may stand before.
				if l.earlier(m.Start) {
					continue
				}
			}
			l.strike(m.Start, m.End)
			return m.Quantity, true
		}
	}
	return unit.Quantity{}, false
}

func (l *Line) earlier(at int) bool {
	for _, m := range l.quants {
		k := m.Quantity.Kind()
		if m.Start < at && !l.done[m.Start] && (k == unit.KindTorque || k == unit.KindAngle) {
			return true
		}
	}
	return false
}

var wordNumbers = []string{"half a", "one", "two", "three", "four", "five", "six", "seven", "eight"}

// CountedTurns takes a number of turns in figures or words.
func (l *Line) CountedTurns() float64 {
	if q, ok := l.Quantity(unit.KindAngle); ok {
		if q.Unit == unit.Turn {
			return q.Value
		}
		return q.Value / 360
	}
	for i, w := range wordNumbers {
		if l.Word(w+" turns", w+" turn", w+" full turns", w+" full turn") {
			if i == 0 {
				return 0.5
			}
			return float64(i)
		}
	}
	return 0
}

// Remains takes all that is left as plain text, without one of the given words
// in front.
func (l *Line) Remains(lead ...string) string {
	var b strings.Builder
	for i, d := range l.done {
		if !d {
			b.WriteByte(l.text[i])
		} else if b.Len() > 0 {
			b.WriteByte(' ')
		}
		l.done[i] = true
	}
	s := strings.Join(strings.Fields(strings.ToValidUTF8(b.String(), "")), " ")
	s = strings.Trim(s, " ,;:")
	if !slices.ContainsFunc(strings.Fields(strings.ToLower(s)), func(w string) bool { return !filler[w] }) {
		return ""
	}
	for _, w := range lead {
		if rest, ok := strings.CutPrefix(strings.ToLower(s), w+" "); ok {
			return s[len(s)-len(rest):]
		}
	}
	return s
}

var filler = map[string]bool{"the": true, "a": true, "an": true, "and": true, "with": true, "to": true, "at": true, "on": true, "then": true, "new": true, "it": true, "of": true, "using": true}

// left is the first stretch that was not understood, empty for none.
func (l *Line) left() string {
	var words []string
	for i := 0; i < len(l.lower); {
		if l.done[i] || !wordRune(rune(l.lower[i])) && l.lower[i] != '&' {
			if len(words) > 0 && (l.done[i] || l.lower[i] != ' ' && l.lower[i] != '-') {
				break
			}
			i++
			continue
		}
		j := i
		for j < len(l.lower) && !l.done[j] && (wordRune(rune(l.lower[j])) || l.lower[j] == '-' || l.lower[j] == '&') {
			j++
		}
		if w := l.lower[i:j]; !filler[w] || len(words) > 0 {
			words = append(words, w)
		}
		i = j
	}
	for len(words) > 0 && filler[words[len(words)-1]] {
		words = words[:len(words)-1]
	}
	return strings.Join(words, " ")
}

func (l *Line) any(kinds []ObjectKind) bool {
	for _, f := range l.found {
		if f.used && slices.Contains(kinds, f.kind) {
			return true
		}
	}
	return false
}

func ids[T ~string](in []string) []T {
	var out []T
	for _, s := range in {
		if !slices.Contains(out, T(s)) {
			out = append(out, T(s))
		}
	}
	return out
}

func cutWord(s, sep string) (before, after string, ok bool) {
	i := strings.Index(strings.ToLower(s), sep)
	if i < 0 {
		return s, "", false
	}
	return strings.TrimSpace(s[:i]), strings.TrimSpace(s[i+len(sep):]), true
}
