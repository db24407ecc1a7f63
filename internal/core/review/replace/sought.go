package replace

import (
	"math"
	"strconv"
	"strings"
	"unicode"

	"inklatch/internal/core/unit"
)

// Sought says by what a search finds whatever may have the term or value, and more: the
// beginning of the value or name as it is kept; words of the ways to write it, one way
// each, of which all stand in the text, a last one with * perhaps longer; and a text that stands
// there letter by letter, empty where the words tell enough.
func (c *Change) Sought() (prefix string, words []string, literal string) {
	if !c.value {
		if strings.ContainsFunc(c.from, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != ' ' }) {
			literal = c.from // what is no word is cut in ways of its own
		}
		return c.from, []string{c.from + "*"}, literal
	}
	whole, part := math.Modf(math.Abs(c.was.Value))
	digits := strconv.FormatFloat(math.Abs(c.was.Value), 'f', -1, 64)
	words = []string{digits}
	for _, r := range "abcdefghijklmnopqrstuvwxyzµ" { // 42Nm
		words = append(words, digits+string(r)+"*")
	}
	if i, d, ok := strings.Cut(digits, "."); ok { // 42,5 and 42.5Nm
		words = append(words, i+" "+d, i+" "+d+"*")
		digits = i
	}
	if n := len(digits); n > 3 { // 1,200 and 1 200
		words = append(words, digits[:n-3]+" "+digits[n-3:], digits[:n-3]+" "+digits[n-3:]+"*")
	}
	words = append(words, unit.WordsFor(whole)...)
	if part != 0 {
		words = append(words, "half", "quarter", "quarters", "third")
	}
	if c.was.Unit == unit.Turn && (part != 0 || whole == 1) {
		words = append(words, "turn") // “a full turn”, “½ turn”
	}
	return c.from, words, ""
}
