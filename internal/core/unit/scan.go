package unit

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Match is a quantity found in running text: text[Start:End].
type Match struct {
	Start, End int
	Quantity   Quantity
	// Problem says why the figure cannot be taken as it is typed, empty for
	// nothing: below zero, a tolerance larger than the value, a limit on one
	// side only, or a comma that could stand between thousands.
	Problem string
	// Choices are ways to type it that can be taken.
	Choices []string
}

// Find lists the quantities in running text, from left to right. A number
// without a unit is not a quantity.
func Find(text string) []Match {
	var out []Match
	for i := 0; i < len(text); {
		m, ok := Match{}, false
		if startsFigure(text, i) {
			m, ok = scan(text, i, false)
		}
		if ok {
			out = append(out, m)
			i = m.End
			continue
		}
		_, w := utf8.DecodeRuneInString(text[i:])
		if !isDigit(text[i]) {
			i += w
			continue
		}
		for i < len(text) && (isDigit(text[i]) || text[i] == '.' || text[i] == ',') {
			i++
		}
	}
	return out
}

// startsFigure reports whether a figure may begin at i: a digit, a fraction or a
// number word that does not belong to a word such as M8 or TL-101, with its sign
// before it.
func startsFigure(t string, i int) bool {
	if i > 0 {
		r, w := utf8.DecodeLastRuneInString(t[:i])
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r == '.' || r == ',' {
			return false
		}
		if (r == '-' || r == '−' || r == '–') && i > w {
			p, _ := utf8.DecodeLastRuneInString(t[:i-w])
			return !unicode.IsLetter(p) && !unicode.IsDigit(p)
		}
	}
	r, w := utf8.DecodeRuneInString(t[i:])
	if strings.ContainsRune("-−+<>≤≥", r) {
		j := i + w
		if strings.ContainsRune("<>≤≥", r) {
			j = spaces(t, j)
		}
		return j < len(t) && isDigit(t[j])
	}
	if unicode.IsDigit(r) && r < 0x80 {
		return true
	}
	if _, ok := vulgar[r]; ok {
		return true
	}
	_, _, ok := worded(t, i)
	return ok
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

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

// scan reads a quantity that starts at i. strict also takes "in" for inch.
func scan(t string, i int, strict bool) (Match, bool) {
	m := Match{Start: i}
	q := &m.Quantity
	limit := ""
	if r, w := utf8.DecodeRuneInString(t[i:]); strings.ContainsRune("<>≤≥", r) {
		limit = string(r)
		i = spaces(t, i+w)
	}
	v, p, ok := number(t, i, true)
	if !ok {
		return m, false
	}
	q.Value = v.value
	signed := v.value < 0
	either := v.either
	// A range: 18–22 N·m, 15 to 20 min, 18 N·m to 22 N·m.
	if high, end, ok := upper(t, p); ok {
		if _, _, hasUnit := unitAt(t, skip(t, end), strict); hasUnit {
			q.High, q.Range, p = high.value, true, end
			either = either || high.either
		}
	}
	hasTol := !q.Range && q.tolerance(t, &p)
	u, end, ok := unitAt(t, skip(t, p), strict)
	if !ok || u == Percent || v.word && u != Turn && u.Kind() != KindTime && u != Degree {
		return m, false
	}
	q.Unit, p = u, end
	if !q.Range && !hasTol {
		if high, end, ok := upper(t, p); ok && high.value > q.Value {
			if hu, end, ok := unitAt(t, spaces(t, end), strict); ok && hu == u {
				q.High, q.Range, p = high.value, true, end
			}
		}
	}
	if hasTol {
		q.TolUnit = u
	} else if !q.Range {
		if q.tolerance(t, &p) {
			hasTol = true
			q.TolUnit = u
			if tu, end, ok := unitAt(t, spaces(t, p), strict); ok {
				q.TolUnit, p = tu, end
			}
			if at := spaces(t, m.Start); at < len(t) && bracketed(t, m.Start, p) && spaces(t, p) < len(t) && t[spaces(t, p)] == ')' {
				p = spaces(t, p) + 1
			}
		}
	}
	if q.Tol == 0 && q.Less == 0 {
		q.TolUnit, q.Uneven = "", false
	}
	q.second(t, &p, strict)
	m.End = p
	m.judge(t, limit, signed, either)
	return m, true
}

// bracketed reports whether a bracket is open between from and to.
func bracketed(t string, from, to int) bool {
	return strings.Count(t[from:to], "(") > strings.Count(t[from:to], ")")
}

// judge says what keeps the figure from being taken.
func (m *Match) judge(t, limit string, signed, either bool) {
	q := m.Quantity
	typed := t[m.Start:m.End]
	plain := q
	plain.Value, plain.High = math.Abs(q.Value), math.Abs(q.High)
	switch {
	case limit != "":
		m.Problem = fmt.Sprintf("“%s” is a limit on one side. Write the value to work to, or a range", typed)
	case signed && q.Kind() != KindTemperature:
		m.Problem = fmt.Sprintf("“%s” is below zero", typed)
		if q.Kind() == KindAngle {
			m.Problem += ". Write the way it turns instead: clockwise or counterclockwise"
		}
	case q.Range && q.High <= q.Value:
		m.Problem = fmt.Sprintf("“%s” runs from more to less", typed)
		m.Choices = append(m.Choices, Quantity{Value: q.High, High: q.Value, Range: true, Unit: q.Unit}.String())
	case q.tolTooLarge():
		m.Problem = fmt.Sprintf("The tolerance of “%s” is larger than the value", typed)
	case math.Abs(q.Value) > maxValue || math.Abs(q.High) > maxValue:
		m.Problem = fmt.Sprintf("“%s” is larger than any value on an engine", typed)
	case either:
		m.Problem = fmt.Sprintf("“%s”: is the mark between the figures a decimal one, or between thousands?", typed)
		big := q
		big.Value, big.High = big.Value*1000, big.High*1000
		m.Choices = append(m.Choices, big.String(), q.String())
	}
}

func (q Quantity) tolTooLarge() bool {
	if q.Kind() == KindTemperature || q.Tol == 0 && q.Less == 0 || !q.TolFits() {
		return false
	}
	worst := q.Tol
	if q.Uneven {
		worst = q.Less
	}
	if q.TolUnit == Percent {
		return worst > 100
	}
	return worst*definitions[q.TolUnit].factor > math.Abs(q.Value)*definitions[q.Unit].factor
}

// skip passes spaces and the words that may stand between a figure and its
// unit: 2 full turns, one more turn.
func skip(t string, i int) int {
	i = spaces(t, i)
	for {
		j, ok := wordOf(t, i, "full", "complete", "whole", "more", "further", "extra", "additional")
		if !ok {
			return i
		}
		if u, _, ok := unitAt(t, spaces(t, j), false); !ok || u != Turn {
			if _, again := wordOf(t, spaces(t, j), "full", "complete", "whole"); !again {
				return i
			}
		}
		i = spaces(t, j)
	}
}

// wordOf reads one of some words at i, whatever the case.
func wordOf(t string, i int, words ...string) (int, bool) {
	for _, w := range words {
		if len(t)-i >= len(w) && strings.EqualFold(t[i:i+len(w)], w) && wordEnds(t, i+len(w), w) {
			return i + len(w), true
		}
	}
	return i, false
}

// upper reads the upper end of a range at i: "–22", "to 22", "… 0.3".
func upper(t string, i int) (figure, int, bool) {
	i = spaces(t, i)
	j, ok := wordOf(t, i, "to", "through")
	if !ok {
		for _, dash := range []string{"–", "-", "−", "…", "..."} {
			if strings.HasPrefix(t[i:], dash) {
				j, ok = i+len(dash), true
				break
			}
		}
	}
	if !ok {
		return figure{}, i, false
	}
	return number(t, spaces(t, j), true)
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

// tolerance reads a tolerance at *p: ±2, +2/−1, (±2).
func (q *Quantity) tolerance(t string, p *int) bool {
	i := spaces(t, *p)
	if i < len(t) && t[i] == '(' {
		if strings.HasPrefix(t[i+1:], "±") || strings.HasPrefix(t[i+1:], "+/-") {
			i++
		}
	}
	for _, sign := range []string{"±", "+/-", "+-", "+/−", "+ / -", "plus or minus", "plus/minus"} {
		if len(t)-i >= len(sign) && strings.EqualFold(t[i:i+len(sign)], sign) {
			v, end, ok := number(t, spaces(t, i+len(sign)), false)
			if !ok {
				return false
			}
			q.Tol, *p = v.value, end
			return true
		}
	}
	// +2/−1, +2 −1, +2 / -1.
	if i < len(t) && t[i] == '+' {
		up, j, ok := digits(t, i+1)
		if !ok {
			return false
		}
		j = spaces(t, j)
		if j < len(t) && t[j] == '/' {
			j = spaces(t, j+1)
		}
		for _, minus := range []string{"−", "-", "–"} {
			if !strings.HasPrefix(t[j:], minus) {
				continue
			}
			if down, end, ok := digits(t, j+len(minus)); ok {
				q.Tol, q.Less, q.Uneven, *p = up.value, down.value, up.value != down.value, end
				if !q.Uneven {
					q.Less = 0
				}
				return true
			}
		}
	}
	return false
}

// second reads the same value in another unit at *p: (16.2 lbf·ft), = 16.2
// lbf·ft, / 15 lbf·ft, or 88.5 lb in.
func (q *Quantity) second(t string, p *int, strict bool) {
	i := spaces(t, *p)
	if i >= len(t) {
		return
	}
	loose := true
	j, closing := i, byte(0)
	switch {
	case t[i] == '(' || t[i] == '[':
		j, closing = i+1, map[byte]byte{'(': ')', '[': ']'}[t[i]]
		loose = t[i] == '['
	case t[i] == '=':
		j, loose = i+1, false
	case t[i] == '/' || t[i] == ',':
		j = i + 1
	case strings.HasPrefix(t[i:], "≈"):
		j = i + len("≈")
	default:
		var ok bool
		if j, ok = wordOf(t, i, "or", "resp."); !ok {
			return
		}
	}
	var o Quantity
	v, end, ok := number(t, spaces(t, j), false)
	if !ok || v.either || v.word {
		return
	}
	o.Value = v.value
	if high, k, ok := upper(t, end); ok && q.Range {
		o.High, o.Range, end = high.value, true, k
	}
	hasTol := !o.Range && o.tolerance(t, &end)
	u, end, ok := unitAt(t, spaces(t, end), strict)
	if !ok || loose && (u.Kind() != q.Kind() || u == q.Unit) {
		return
	}
	if !hasTol && !o.Range {
		k := end
		if o.tolerance(t, &k) {
			tu, stop, ok := unitAt(t, spaces(t, k), strict)
			if ok && tu == u {
				k = stop
			}
			end = k
		}
	}
	if (o.Tol != 0 || o.Less != 0) && o.Uneven != q.Uneven || o.Range && !q.Range {
		return
	}
	if closing != 0 {
		if end = spaces(t, end); end >= len(t) || t[end] != closing {
			return
		}
		end++
	}
	q.Also, q.AlsoUnit, q.AlsoTol, q.AlsoLess, q.AlsoHigh = o.Value, u, o.Tol, o.Less, o.High
	*p = end
}
