package step

import (
	"slices"
	"strings"
	"unicode"
)

func nearVerb(text string) []string {
	first, rest, _ := strings.Cut(text, " ")
	best, at := "", 3
	for _, s := range Specs {
		for _, p := range s.Phrases {
			if d := distance(strings.ToLower(first), p, at); d < at {
				best, at = p, d
			}
		}
	}
	if best == "" {
		return nil
	}
	return []string{strings.TrimSpace(best + " " + rest)}
}

// near offers the line with what was not understood replaced by the nearest
// name.
func (l *Line) near(left string, specs []*Spec) []string {
	var kinds []ObjectKind
	for _, s := range specs {
		kinds = append(kinds, s.kinds()...)
	}
	words := strings.Fields(left)
	for n := len(words); n > 0; n-- {
		for i := 0; i+n <= len(words); i++ {
			typed := strings.Join(words[i:i+n], " ")
			if len(typed) < 3 {
				continue
			}
			if t, ok := l.lex.nearest(strings.TrimSuffix(typed, "s"), kinds); ok {
				if at := strings.Index(l.lower, typed); at >= 0 {
					return []string{l.text[:at] + t.text + l.text[at+len(typed):]}
				}
			}
		}
	}
	return nil
}

// Split cuts a pasted page into lines that can each become a step: numbered or
// bulleted items, or plain lines. Wrapped lines of a numbered item are joined.
func Split(page string) []string {
	raw := strings.FieldsFunc(page, func(r rune) bool { return r == '\n' || r == '\r' })
	numbered := slices.ContainsFunc(raw, numbering.MatchString)
	var out []string
	for _, line := range raw {
		t := strings.TrimFunc(line, unicode.IsSpace)
		switch {
		case t == "":
		case numbered && len(out) > 0 && !numbering.MatchString(line):
			out[len(out)-1] += " " + t
		default:
			out = append(out, t)
		}
	}
	return out
}
