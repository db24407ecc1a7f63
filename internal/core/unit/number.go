package unit

import (
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

var vulgar = map[rune]float64{'½': 1. / 2, '¼': 1. / 4, '¾': 3. / 4, '⅓': 1. / 3, '⅔': 2. / 3, '⅛': 1. / 8, '⅜': 3. / 8, '⅝': 5. / 8, '⅞': 7. / 8}

// figure is a number as it was typed.
type figure struct {
	value float64
	// word is set for a number in words, which needs its unit behind it.
	word bool
	// either is set when a comma or point may stand between thousands: the
	// value is then the decimal reading.
	either bool
}

// number reads a figure at i: digits with a decimal point or comma, thousands
// set apart, a fraction, or words where words may stand.
func number(t string, i int, signed bool) (figure, int, bool) {
	if f, end, ok := worded(t, i); ok {
		return f, end, true
	}
	j, neg := i, false
	if signed && j < len(t) {
		switch {
		case t[j] == '-':
			neg, j = true, j+1
		case strings.HasPrefix(t[j:], "−"):
			neg, j = true, j+len("−")
		case t[j] == '+':
			j++
		}
	}
	f, j, ok := digits(t, j)
	if !ok {
		return f, i, false
	}
	if neg && f.value != 0 {
		f.value = -f.value
	}
	return f, j, true
}

func digits(t string, j int) (figure, int, bool) {
	if r, w := utf8.DecodeRuneInString(t[j:]); w > 0 {
		if v, ok := vulgar[r]; ok {
			return figure{value: v}, j + w, true
		}
	}
	start := j
	for j < len(t) && isDigit(t[j]) {
		j++
	}
	if j == start || j-start > 9 {
		return figure{}, j, false
	}
	text := t[start:j]
	// Thousands set apart by a thin space: 1 200.
	for {
		r, w := utf8.DecodeRuneInString(t[j:])
		if !thin(r) || len(text) > 6 || !threeDigits(t, j+w) {
			break
		}
		text += t[j+w : j+w+3]
		j += w + 3
	}
	either := false
	if j+1 < len(t) && (t[j] == '.' || t[j] == ',') && isDigit(t[j+1]) {
		var ok bool
		if text, either, j, ok = marks(t, start, j, text); !ok {
			return figure{}, j, false
		}
	}
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return figure{}, j, false
	}
	f := figure{value: v, either: either}
	// 1½, 1 1/2, 1/2.
	at := spaces(t, j)
	if r, w := utf8.DecodeRuneInString(t[at:]); w > 0 && v == math.Trunc(v) && !either {
		if part, ok := vulgar[r]; ok {
			return figure{value: v + part}, at + w, true
		}
	}
	if part, end, ok := slashed(t, at); ok && at > j && v == math.Trunc(v) {
		return figure{value: v + part}, end, true
	}
	if part, end, ok := slashed(t, start); ok && end > j {
		return figure{value: part}, end, true
	}
	return f, j, true
}

// marks reads the part of a number behind its first point or comma at j: the
// decimals, or more thousands.
func marks(t string, start, j int, text string) (out string, either bool, end int, ok bool) {
	mark := t[j]
	thousands := 0
	for k := j; k < len(t) && t[k] == mark && threeDigits(t, k+1); k += 4 {
		thousands++
		j, end = k, k+4
	}
	lead := strings.TrimLeft(t[start:start+len(text)], "0")
	if thousands > 1 || thousands == 1 && end+1 < len(t) && (t[end] == '.' || t[end] == ',') && t[end] != mark && isDigit(t[end+1]) {
		text = strings.ReplaceAll(t[start:end], string(mark), "")
		if end+1 < len(t) && (t[end] == '.' || t[end] == ',') && isDigit(t[end+1]) {
			text += "."
			for end++; end < len(t) && isDigit(t[end]); end++ {
				text += string(t[end])
			}
		}
		return text, false, end, true
	}
	either = thousands == 1 && lead != "" && len(text) <= 3
	text += "."
	for j++; j < len(t) && isDigit(t[j]); j++ {
		text += string(t[j])
	}
	if j < len(t) && (t[j] == '.' || t[j] == ',') && j+1 < len(t) && isDigit(t[j+1]) {
		return text, false, j, false
	}
	return text, either, j, true
}

// threeDigits reports whether exactly three digits stand at i.
func threeDigits(t string, i int) bool {
	if i+3 > len(t) || !isDigit(t[i]) || !isDigit(t[i+1]) || !isDigit(t[i+2]) {
		return false
	}
	return i+3 == len(t) || !isDigit(t[i+3])
}

// slashed reads a fraction such as 1/2 at i.
func slashed(t string, i int) (float64, int, bool) {
	if i+2 >= len(t) || !isDigit(t[i]) || !isDigit(t[i+2]) || i+3 < len(t) && isDigit(t[i+3]) {
		return 0, i, false
	}
	if t[i+1] != '/' || t[i+2] == '0' || t[i] >= t[i+2] {
		return 0, i, false
	}
	return float64(t[i]-'0') / float64(t[i+2]-'0'), i + 3, true
}

var numberWords = map[string]float64{"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "eleven": 11, "twelve": 12, "thirteen": 13, "fourteen": 14, "sixteen": 16, "seventeen": 17, "eighteen": 18, "nineteen": 19, "fifteen": 15, "twenty": 20, "thirty": 30, "forty-five": 45, "sixty": 60, "ninety": 90}

// WordNumber is the number a word stands for: "six" is 6; false for none.
func WordNumber(w string) (float64, bool) { v, ok := numberWords[strings.ToLower(w)]; return v, ok }

// worded reads a number in words that a unit follows: two turns, half a turn,
// a quarter turn, one and a half turns, three quarters of a turn.
func worded(t string, i int) (figure, int, bool) {
	part := func(i int) (float64, int, bool) {
		for _, w := range []struct {
			words []string
			value float64
		}{{[]string{"half"}, .5}, {[]string{"three quarters", "three-quarters", "three quarter"}, .75}, {[]string{"quarter"}, .25}, {[]string{"third"}, 1. / 3}} {
			if j, ok := wordOf(t, i, w.words...); ok {
				return w.value, j, true
			}
		}
		return 0, i, false
	}
	of := func(j int) int {
		if k, ok := wordOf(t, spaces(t, j), "of a", "of an", "a", "an", "of one"); ok {
			return k
		}
		return j
	}
	j, article := wordOf(t, i, "a", "an")
	if article {
		j = spaces(t, j)
	}
	if v, end, ok := part(j); ok {
		return figure{value: v, word: true}, of(end), true
	}
	if article {
		// "a full turn", "a turn": one.
		if u, _, ok := unitAt(t, skip(t, j), false); ok && u == Turn {
			return figure{value: 1, word: true}, j, true
		}
		return figure{}, i, false
	}
	end := i
	for end < len(t) && (t[end] == '-' || unicode.IsLetter(rune(t[end])) && t[end] < 0x80) {
		end++
	}
	v, ok := numberWords[strings.ToLower(t[i:end])]
	if !ok {
		return figure{}, i, false
	}
	f := figure{value: v, word: true}
	if k, ok := wordOf(t, spaces(t, end), "and a", "and one"); ok {
		if p, stop, ok := part(spaces(t, k)); ok {
			f.value += p
			end = of(stop)
		}
	}
	return f, end, true
}

// WordsFor are the words for a whole number that WordNumber reads; none for most.
func WordsFor(n float64) []string {
	var out []string
	for w, v := range numberWords {
		if v == n {
			out = append(out, w)
		}
	}
	return out
}
