package quickline

import (
	"slices"
	"strings"
	"unicode"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
)

// turning are the words that turn a sentence round: a line that has one unread
// is never offered without it.
var turning = []string{"not", "never", "no", "without", "except", "unless", "only", "leave", "keep", "both", "either", "all", "each", "every", "before", "after", "until", "if", "don't", "don’t", "cannot", "can't", "avoid", "nor", "neither", "instead", "when", "while", "unlike", "but", "or"}

// nearby offers whole lines near one that was not read: a slip of the finger
// mended, a word that means nothing to the verb left out. Each is read before it
// is offered.
func (lex *Lexicon) nearby(r *Reading) []string {
	ts := tokens(r.Line)
	if len(ts) == 0 {
		return nil
	}
	if slices.ContainsFunc(r.Words(), func(w string) bool {
		return slices.ContainsFunc(strings.Fields(strings.ToLower(w)), func(w string) bool { return slices.Contains(turning, strings.Trim(w, ",.;:")) })
	}) {
		return nil
	}
	var out []string
	offer := func(line string) bool {
		line = strings.Join(strings.Fields(line), " ")
		if line == "" || slices.Contains(out, line) {
			return false
		}
		got := read(lex, line)
		if !got.Read() {
			out = slices.DeleteFunc(out, func(s string) bool { return s == line })
			return false
		}
		if _, text := got.Action.(*step.Do); text {
			return false
		}
		out = append(out, line)
		return true
	}
	if len(openings(ts, 0)) == 0 {
		for _, v := range nearVerbs(ts[0].word) {
			offer(v + r.Line[ts[0].end:])
		}
		return out
	}
	if len(r.Unread) == 0 {
		return out
	}
	u := r.Unread[0]
	typed := r.Line[u[0]:u[1]]
	lower := strings.ToLower(typed)
	// The unread words, and with them a neighbour or two, as a name.
	for _, span := range around(ts, u) {
		words := strings.ToLower(r.Line[span[0]:span[1]])
		plain := strings.TrimSuffix(words, "s")
		for _, kind := range anyObject {
			for _, w := range []string{words, plain} {
				if t, ok := lex.nearest(w, []engine.Kind{kind}); ok {
					offer(r.Line[:span[0]] + t.name + r.Line[span[1]:])
				}
			}
		}
		if len(out) > 0 {
			return out
		}
	}
	for _, w := range commonWords {
		if distance(lower, w, 2) == 1 && len(w) > 3 {
			offer(r.Line[:u[0]] + w + r.Line[u[1]:])
		}
	}
	if len(out) > 0 || slices.ContainsFunc(r.Words(), func(w string) bool { return !spareWord(strings.ToLower(w)) }) {
		return out
	}
	// Without the words that mean nothing to the verb.
	bare := r.Line
	for i := len(r.Unread) - 1; i >= 0; i-- {
		bare = bare[:r.Unread[i][0]] + bare[r.Unread[i][1]:]
	}
	if got := read(lex, strings.Trim(bare, " ,")); got.Read() {
		offer(en.Typed(lex.x, got.Action))
	}
	return out
}

// spareWord reports whether a line says the same without a word. One that says how far
// or how often something is done, or on which of two, does not.
func spareWord(w string) bool {
	return slices.Contains([]string{"well", "now", "just", "carefully", "firmly", "properly", "correctly", "securely", "easily", "simply"}, w)
}

// commonWords are words a slip of the finger is mended to.
var commonWords = []string{"clockwise", "counterclockwise", "turns", "turn", "hold", "with", "holding", "running", "direction", "short", "finger", "tight", "nipped", "crosswise", "sealant", "grease", "slack", "hand"}

// around are stretches of the line that take in the unread one, the widest
// first.
func around(ts []token, u [2]int) [][2]int {
	first, last := -1, -1
	for i, t := range ts {
		if t.start >= u[0] && t.end <= u[1] {
			if first < 0 {
				first = i
			}
			last = i
		}
	}
	if first < 0 {
		return nil
	}
	var out [][2]int
	for before := 2; before >= 0; before-- {
		for after := 2; after >= 0; after-- {
			i, j := first-before, last+after
			if i < 1 || j >= len(ts) || slices.ContainsFunc(ts[i:j+1], func(t token) bool { return t.mark || t.figure != nil }) {
				continue
			}
			out = append(out, [2]int{ts[i].start, ts[j].end})
		}
	}
	return out
}

// nearVerbs are verb phrases a slip away from a word. The opposite of a word is
// never near it.
func nearVerbs(word string) []string {
	limit := 2
	if len(word) > 7 {
		limit = 3
	}
	var out []string
	for _, s := range step.Specs {
		for _, p := range s.Phrases {
			if len(p) < 4 || len(word) < 3 || p[0] != word[0] || slices.Contains(out, p) || opposite(p, word) {
				continue
			}
			if distance(word, p, limit) < limit {
				out = append(out, p)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b string) int { return distance(word, a, 9) - distance(word, b, 9) })
	return out
}

func opposite(a, b string) bool {
	for _, p := range []string{"un", "dis", "de", "re"} {
		if a == p+b || b == p+a {
			return true
		}
	}
	return false
}

// wrapped is how long a line is at least that was wrapped on its page.
const wrapped = 40

// Split cuts a pasted page into lines that can each become a step: numbered or
// bulleted items, or plain lines. On a numbered page what is indented under an
// item, or goes on from a long line in small letters, belongs to the item.
func Split(page string) []string {
	raw := strings.FieldsFunc(page, func(r rune) bool { return r == '\n' || r == '\r' })
	numbered := slices.ContainsFunc(raw, numbering.MatchString)
	var out []string
	for _, line := range raw {
		t := strings.TrimFunc(line, unicode.IsSpace)
		if t == "" {
			continue
		}
		if n := len(out); numbered && n > 0 && !numbering.MatchString(line) {
			first := []rune(t)[0]
			last := out[n-1][len(out[n-1])-1]
			if kind, _ := aside(t); kind == "" && (unicode.IsSpace([]rune(line)[0]) || unicode.IsLower(first) && len(out[n-1]) >= wrapped && last != '.') {
				out[n-1] += " " + t
				continue
			}
		}
		out = append(out, t)
	}
	return out
}
