package quickline

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/unit"
)

// token is a word, a figure or a mark of punctuation of a line: text[start:end].
type token struct {
	// word is the term list's word for it, lower case; a figure's canonical form;
	// the mark itself.
	word string
	// plural is set where the word was typed in the plural.
	plural     bool
	start, end int
	// figure is set for a value with its unit.
	figure *unit.Match
	mark   bool
}

// tokens cuts a text into words, figures and marks, with the trade's words for
// the same thing made one.
func tokens(text string) []token {
	return terms(split(text))
}

func split(text string) []token {
	figures := unit.Find(text)
	var out []token
	for i := 0; i < len(text); {
		if len(figures) > 0 && figures[0].Start <= i {
			f := figures[0]
			figures = figures[1:]
			if f.Start < i {
				continue
			}
			out = append(out, token{word: f.Quantity.String(), start: f.Start, end: f.End, figure: &f})
			i = f.End
			continue
		}
		r, w := utf8.DecodeRuneInString(text[i:])
		limit := len(text)
		if len(figures) > 0 {
			limit = figures[0].Start
		}
		switch {
		case letter(r):
			j := wordEnd(text, i, limit)
			out = append(out, token{word: strings.ToLower(text[i:j]), start: i, end: j})
			i = j
		case unicode.IsSpace(r) || hyphen(text, i):
			i += w
		default:
			m := string(r)
			if strings.HasPrefix(text[i:], "->") {
				m = "->"
			}
			out = append(out, token{word: m, start: i, end: i + len(m), mark: true})
			i += len(m)
		}
	}
	return out
}

func letter(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// hyphen reports whether a hyphen inside a word stands at i: finger-tight.
func hyphen(text string, i int) bool {
	if text[i] != '-' || i == 0 || i+1 >= len(text) {
		return false
	}
	a, _ := utf8.DecodeLastRuneInString(text[:i])
	b, _ := utf8.DecodeRuneInString(text[i+1:])
	return letter(a) && letter(b)
}

// wordEnd is the end of the word that starts at i. A number such as TL-101 keeps
// its hyphens, an abbreviation such as t.d.c. its points, a word its apostrophe.
func wordEnd(text string, i, limit int) int {
	run := func(j int) int {
		for j < limit {
			r, w := utf8.DecodeRuneInString(text[j:])
			if !letter(r) {
				break
			}
			j += w
		}
		return j
	}
	j := run(i)
	if j-i == 1 && j+1 < limit && text[j] == '.' { // t.d.c., L.H.
		k := i
		for k+1 < limit && letter(rune(text[k])) && text[k+1] == '.' {
			k += 2
		}
		if k-i >= 4 {
			return k
		}
	}
	for j+1 < limit && (text[j] == '-' || text[j] == '\'' || text[j] == '/') {
		k := run(j + 1)
		if k == j+1 {
			break
		}
		digits := strings.ContainsFunc(text[i:j], unicode.IsDigit) || strings.ContainsFunc(text[j:k], unicode.IsDigit)
		if text[j] != '\'' && !digits {
			break
		}
		j = k
	}
	return j
}

// terms puts the term list's words for what was typed.
func terms(in []token) []token {
	out := in[:0:0]
	for i := 0; i < len(in); {
		if in[i].figure != nil || in[i].mark {
			if in[i].word == "&" {
				in[i].word, in[i].mark = "and", false
			}
			out = append(out, in[i])
			i++
			continue
		}
		n, words := termAt(in[i:])
		if n == 0 {
			t := in[i]
			if s := en.Singular(t.word); s != t.word {
				t.plural = true
			}
			out = append(out, t)
			i++
			continue
		}
		last := in[i+n-1]
		for k, w := range words {
			out = append(out, token{word: w, start: in[i].start, end: last.end, plural: k == len(words)-1 && strings.HasSuffix(last.word, "s") && en.Singular(last.word) != last.word})
		}
		i += n
	}
	return out
}

// termAt finds the longest entry of the term list at the start of some tokens.
func termAt(in []token) (int, []string) {
	for n := min(maxTerm, len(in)); n > 0; n-- {
		words := make([]string, n)
		for k := range words {
			if in[k].mark || in[k].figure != nil {
				words = nil
				break
			}
			words[k] = in[k].word
		}
		if words == nil {
			continue
		}
		if to, ok := termList[strings.Join(words, " ")]; ok {
			return n, to
		}
	}
	return 0, nil
}
