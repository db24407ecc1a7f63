package step

import (
	"slices"
	"strings"
	"unicode"

	"inklatch/internal/core/engine"
)

// term is a name as it may be typed and what it stands for.
type term struct {
	text string
	kind ObjectKind
	ids  []string
	// own marks the thing's own name, not a short or combined form.
	own bool
}

// Lexicon is every name on an engine sheet the way authors type it. Build it
// once for a sheet.
type Lexicon struct {
	x *engine.Index
	// terms are sorted with the longest first, so that the first fit is the
	// most particular.
	terms []term
}

// NewLexicon reads the names off a sheet.
func NewLexicon(x *engine.Index) *Lexicon {
	l := &Lexicon{x: x}
	s := x.Sheet
	for i := range s.Locks {
		l.add(LockObject, string(s.Locks[i].ID), s.Locks[i].Name)
		if t := x.Tool(s.Locks[i].Tool); t != nil {
			l.terms = append(l.terms, term{strings.ToLower(t.Number), LockObject, []string{string(s.Locks[i].ID)}, false})
		}
	}
	for i := range s.Parts {
		l.add(PartObject, string(s.Parts[i].ID), s.Parts[i].Name)
	}
	for i := range s.Fasteners {
		l.add(FastenerObject, string(s.Fasteners[i].ID), s.Fasteners[i].Name)
	}
	for i := range s.Loops {
		l.add(LoopObject, string(s.Loops[i].ID), s.Loops[i].Name)
		l.terms = append(l.terms, term{string(s.Loops[i].Kind), LoopObject, []string{string(s.Loops[i].ID)}, false})
	}
	for i := range s.Wheels {
		l.add(WheelObject, string(s.Wheels[i].ID), s.Wheels[i].Name)
	}
	for i := range s.Marks {
		l.add(MarkObject, string(s.Marks[i].ID), s.Marks[i].Name)
	}
	for i := range s.Tensioners {
		l.add(TensionerObject, string(s.Tensioners[i].ID), s.Tensioners[i].Name)
		if t := x.Tool(s.Tensioners[i].Pin); t != nil {
			l.terms = append(l.terms, term{strings.ToLower(t.Number), TensionerObject, []string{string(s.Tensioners[i].ID)}, false})
		}
	}
	l.combine()
	l.tails()
	slices.SortStableFunc(l.terms, func(a, b term) int {
		if d := len(b.text) - len(a.text); d != 0 {
			return d
		}
		return strings.Compare(a.text, b.text)
	})
	return l
}

func (l *Lexicon) add(kind ObjectKind, id, name string) {
	if name = strings.ToLower(strings.TrimSpace(name)); name != "" {
		l.terms = append(l.terms, term{name, kind, []string{id}, true})
	}
}

// combine adds the short ways to name two like things: from "inlet sprocket
// bolt" and "exhaust sprocket bolt" it makes "inlet and exhaust sprocket bolt"
// and "both sprocket bolt".
func (l *Lexicon) combine() {
	own := l.terms
	for i, a := range own {
		for _, b := range own[i+1:] {
			if a.kind != b.kind || !a.own || !b.own {
				continue
			}
			headA, tailA, okA := strings.Cut(a.text, " ")
			headB, tailB, okB := strings.Cut(b.text, " ")
			if !okA || !okB || tailA != tailB {
				continue
			}
			both := []string{a.ids[0], b.ids[0]}
			l.terms = append(l.terms,
				term{headA + " and " + headB + " " + tailA, a.kind, both, false},
				term{headB + " and " + headA + " " + tailA, a.kind, []string{both[1], both[0]}, false},
				term{"both " + tailA, a.kind, both, false})
		}
	}
}

// tails lets a part go by the end of its name where no other part ends so:
// "tensioner" for "belt tensioner". Seals keep their whole name.
func (l *Lexicon) tails() {
	seen := map[string]int{}
	tail := func(t term) string {
		if t.kind != PartObject || !t.own {
			return ""
		}
		if p := l.x.Part(engine.PartID(t.ids[0])); p == nil || p.Kind == engine.Seal {
			return "" // "with new seal" speaks of the seal of what goes back
		}
		return t.text[strings.LastIndexByte(t.text, ' ')+1:]
	}
	for _, t := range l.terms {
		seen[tail(t)]++
	}
	for _, t := range l.terms {
		if w := tail(t); w != "" && w != t.text && seen[w] == 1 {
			l.terms = append(l.terms, term{w, t.kind, t.ids, false})
		}
	}
}

// names are the things' own names of the given kinds, in the sheet's order of
// kinds, alphabetically.
func (l *Lexicon) names(kinds []ObjectKind) []term {
	var out []term
	for _, t := range l.terms {
		if t.own && slices.Contains(kinds, t.kind) {
			out = append(out, t)
		}
	}
	slices.SortFunc(out, func(a, b term) int { return strings.Compare(a.text, b.text) })
	return out
}

// matchAt finds the longest name of one of the kinds at position i of lower-case
// text, with or without a plural s; of several things with that name the one
// whose kind comes first. It gives the end of the name.
func (l *Lexicon) matchAt(text string, i int, kinds []ObjectKind) (term, int, bool) {
	var best term
	at, rank := -1, len(kinds)
	for _, t := range l.terms {
		if at >= 0 && len(t.text) < len(best.text) {
			break
		}
		k := slices.Index(kinds, t.kind)
		if k < 0 || k >= rank || !strings.HasPrefix(text[i:], t.text) {
			continue
		}
		end := i + len(t.text)
		if strings.HasPrefix(text[end:], "s") && boundary(text, end+1) {
			end++
		}
		if boundary(text, end) {
			best, at, rank = t, end, k
		}
	}
	if at < 0 {
		return term{}, i, false
	}
	return best, at, true
}

// boundary reports whether a word may end or begin at i.
func boundary(text string, i int) bool {
	if i <= 0 || i >= len(text) {
		return true
	}
	a, b := rune(text[i-1]), rune(text[i])
	return !(wordRune(a) && wordRune(b))
}

func wordRune(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || r >= 0x80 }

// nearest finds the name closest to what was typed, by edits of one letter;
// false when nothing is near.
func (l *Lexicon) nearest(typed string, kinds []ObjectKind) (term, bool) {
	best, at := term{}, len(typed)/3+1
	for _, t := range l.names(kinds) {
		if d := distance(typed, t.text, at); d < at {
			best, at = t, d
		}
	}
	return best, best.text != ""
}

// distance is the number of letters inserted, dropped, changed or swapped with
// a neighbour between a and b (optimal string alignment), or limit when it is
// not below it.
func distance(a, b string, limit int) int {
	ra, rb := []rune(a), []rune(b)
	if d := len(ra) - len(rb); d >= limit || -d >= limit {
		return limit
	}
	prev2, prev, cur := make([]int, len(rb)+1), make([]int, len(rb)+1), make([]int, len(rb)+1)
	for j := range prev {
		prev[j] = j
	}
	for i := 1; i <= len(ra); i++ {
		cur[0] = i
		for j := 1; j <= len(rb); j++ {
			cost := 1
			if ra[i-1] == rb[j-1] {
				cost = 0
			}
			cur[j] = min(prev[j]+1, cur[j-1]+1, prev[j-1]+cost)
			if i > 1 && j > 1 && ra[i-1] == rb[j-2] && ra[i-2] == rb[j-1] {
				cur[j] = min(cur[j], prev2[j-2]+1)
			}
		}
		prev2, prev, cur = prev, cur, prev2
	}
	return min(prev[len(rb)], limit)
}
