package unit

import (
	"fmt"
	"math"
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
	if high, end, ok := upper(t, p, between(t, m.Start)); ok {
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
		if high, end, ok := upper(t, p, between(t, m.Start)); ok && high.value > q.Value {
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
	case either && !decimalOnly(q):
		m.Problem = fmt.Sprintf("“%s”: is the mark between the figures a decimal one, or between thousands?", typed)
		big := q
		big.Value, big.High = big.Value*1000, big.High*1000
		m.Choices = append(m.Choices, big.String(), q.String())
	}
}

// decimalOnly reports whether a mark between figures can only be a decimal one: thousands
// of the unit are on no engine. "4.020 in" is a bore, and 4020 in are a hundred metres.
func decimalOnly(q Quantity) bool {
	return (q.Unit == Inch || q.Unit == Litre) && math.Abs(q.Value) >= 1
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

// between reports whether the word before i is "between": "and" then leads to the upper
// end of a range.
func between(t string, i int) bool {
	before := strings.TrimRight(t[:i], " ")
	const word = "between"
	if len(before) == i || len(before) < len(word) || !strings.EqualFold(before[len(before)-len(word):], word) {
		return false
	}
	r, _ := utf8.DecodeLastRuneInString(before[:len(before)-len(word)])
	return !unicode.IsLetter(r)
}

// upper reads the upper end of a range at i: "–22", "to 22", "… 0.3"; after "between",
// "and 22".
func upper(t string, i int, and bool) (figure, int, bool) {
	i = spaces(t, i)
	words := []string{"to", "through"}
	if and {
		words = append(words, "and")
	}
	j, ok := wordOf(t, i, words...)
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
	if high, k, ok := upper(t, end, false); ok && q.Range {
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
