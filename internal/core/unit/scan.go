package unit

import (
	"sort"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Match is a quantity found in running text: text[Start:End].
type Match struct {
	Start, End int
	Quantity   Quantity
}

// aliases are the spellings people type, lower case; the longest one that fits
// wins. The bare "in" is an inch only where a unit must stand (Parse), since in
// a sentence it is a preposition.
var aliases = map[string]Unit{
	"n·m": NewtonMetre, "n.m": NewtonMetre, "n-m": NewtonMetre, "nm": NewtonMetre, "n m": NewtonMetre, "n⋅m": NewtonMetre, "newton metres": NewtonMetre, "newton meters": NewtonMetre,
	"lbf·ft": PoundForceFoot, "lbf-ft": PoundForceFoot, "lbf ft": PoundForceFoot, "lb·ft": PoundForceFoot, "lb-ft": PoundForceFoot, "lb ft": PoundForceFoot, "lbs ft": PoundForceFoot, "ft·lbf": PoundForceFoot, "ft-lbf": PoundForceFoot, "ft lbf": PoundForceFoot, "ft·lb": PoundForceFoot, "ft-lb": PoundForceFoot, "ft-lbs": PoundForceFoot, "ft lb": PoundForceFoot, "ft lbs": PoundForceFoot, "foot pounds": PoundForceFoot, "foot-pounds": PoundForceFoot, "lbf⋅ft": PoundForceFoot,
	"lbf·in": PoundForceInch, "lbf-in": PoundForceInch, "lbf in": PoundForceInch, "lb·in": PoundForceInch, "lb-in": PoundForceInch, "in·lbf": PoundForceInch, "in-lbf": PoundForceInch, "in lbf": PoundForceInch, "in·lb": PoundForceInch, "in-lb": PoundForceInch, "in-lbs": PoundForceInch, "in lb": PoundForceInch, "in lbs": PoundForceInch, "inch pounds": PoundForceInch, "inch-pounds": PoundForceInch, "lbf⋅in": PoundForceInch,
	"kgf·m": KilogramForceMetr, "kgf-m": KilogramForceMetr, "kgf m": KilogramForceMetr, "kgfm": KilogramForceMetr, "kg·m": KilogramForceMetr, "kgm": KilogramForceMetr, "kg-m": KilogramForceMetr, "kgf⋅m": KilogramForceMetr,
	"°": Degree, "deg": Degree, "degs": Degree, "degree": Degree, "degrees": Degree,
	"turn": Turn, "turns": Turn, "rev": Turn, "revs": Turn, "revolution": Turn, "revolutions": Turn,
	"mm": Millimetre, "inch": Inch, "inches": Inch, "″": Inch, "\"": Inch,
	"s": Second, "sec": Second, "second": Second, "seconds": Second,
	"min": Minute, "mins": Minute, "minute": Minute, "minutes": Minute,
	"h": Hour, "hr": Hour, "hour": Hour, "hours": Hour,
	"°c": Celsius, "deg c": Celsius, "degc": Celsius, "° c": Celsius,
	"°f": Fahrenheit, "deg f": Fahrenheit, "degf": Fahrenheit, "° f": Fahrenheit,
	"hz": Hertz, "hertz": Hertz,
}

var aliasOrder = func() []string {
	keys := make([]string, 0, len(aliases))
	for k := range aliases {
		keys = append(keys, k)
	}
	sort.Slice(keys, func(i, j int) bool {
		if len(keys[i]) != len(keys[j]) {
			return len(keys[i]) > len(keys[j])
		}
		return keys[i] < keys[j]
	})
	return keys
}()

// Find lists the quantities in running text, from left to right. A number
// without a unit is not a quantity.
func Find(text string) []Match {
	var out []Match
	for i := 0; i < len(text); {
		r, w := utf8.DecodeRuneInString(text[i:])
		if !unicode.IsDigit(r) || (i > 0 && wordBefore(text, i)) {
			i += w
			continue
		}
		if m, ok := scan(text, i, false); ok {
			out = append(out, m)
			i = m.End
			continue
		}
		for i < len(text) && (isDigit(text[i]) || text[i] == '.' || text[i] == ',') {
			i++
		}
	}
	return out
}

// wordBefore reports whether the digit at i belongs to a word such as M8 or
// TL-101.
func wordBefore(text string, i int) bool {
	r, w := utf8.DecodeLastRuneInString(text[:i])
	if r == '-' && i > w {
		p, _ := utf8.DecodeLastRuneInString(text[:i-w])
		return unicode.IsLetter(p) || unicode.IsDigit(p)
	}
	return unicode.IsLetter(r) || unicode.IsDigit(r) || r == '.' || r == ','
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// scan reads a quantity that starts at i. strict also takes "in" for inch and a
// leading minus sign.
func scan(t string, i int, strict bool) (Match, bool) {
	m := Match{Start: i}
	v, p, ok := number(t, i, strict)
	if !ok {
		return m, false
	}
	m.Quantity.Value = v
	tol, q, hasTol := tolerance(t, p)
	if hasTol {
		m.Quantity.Tol = tol
		p = q
	}
	u, q, ok := unitAt(t, spaces(t, p), strict)
	if !ok {
		return m, false
	}
	m.Quantity.Unit, p = u, q
	if hasTol {
		m.Quantity.TolUnit = u
	} else if tol, q, ok = tolerance(t, p); ok {
		m.Quantity.Tol, m.Quantity.TolUnit, p = tol, u, q
		if tu, q, ok := unitAt(t, spaces(t, p), strict); ok {
			m.Quantity.TolUnit, p = tu, q
		}
	}
	if m.Quantity.Tol == 0 {
		m.Quantity.TolUnit = ""
	}
	if also, au, q, ok := second(t, p, strict); ok {
		m.Quantity.Also, m.Quantity.AlsoUnit, p = also, au, q
	}
	m.End = p
	return m, true
}

func number(t string, i int, signed bool) (float64, int, bool) {
	j := i
	neg := false
	if signed && j < len(t) && (t[j] == '-' || strings.HasPrefix(t[j:], "−")) {
		neg = true
		j += map[bool]int{true: 1, false: len("−")}[t[j] == '-']
	}
	start := j
	for j < len(t) && isDigit(t[j]) {
		j++
	}
	if j == start || j-start > 9 {
		return 0, i, false
	}
	if j+1 < len(t) && (t[j] == '.' || t[j] == ',') && isDigit(t[j+1]) {
		j++
		for j < len(t) && isDigit(t[j]) {
			j++
		}
	}
	v, err := strconv.ParseFloat(strings.Replace(t[start:j], ",", ".", 1), 64)
	if err != nil {
		return 0, i, false
	}
	if neg && v != 0 {
		v = -v
	}
	return v, j, true
}

func spaces(t string, i int) int {
	for i < len(t) {
		r, w := utf8.DecodeRuneInString(t[i:])
		if r != ' ' && r != '\t' && r != '\u00a0' && r != '\u202f' {
			break
		}
		i += w
	}
	return i
}

func tolerance(t string, i int) (float64, int, bool) {
	i = spaces(t, i)
	for _, sign := range []string{"±", "+/-", "+-", "+/−"} {
		if strings.HasPrefix(t[i:], sign) {
			return number(t, spaces(t, i+len(sign)), false)
		}
	}
	return 0, i, false
}

func unitAt(t string, i int, strict bool) (Unit, int, bool) {
	if i >= len(t) {
		return "", i, false
	}
	for _, a := range aliasOrder {
		if len(t)-i >= len(a) && strings.EqualFold(t[i:i+len(a)], a) && wordEnds(t, i+len(a), a) {
			return aliases[a], i + len(a), true
		}
	}
	if strict && strings.EqualFold(t[i:min(i+2, len(t))], "in") && wordEnds(t, i+2, "in") {
		return Inch, i + 2, true
	}
	return "", i, false
}

func wordEnds(t string, i int, alias string) bool {
	if i >= len(t) || alias == "°" || alias == "\"" || alias == "″" {
		return true
	}
	r, _ := utf8.DecodeRuneInString(t[i:])
	return !unicode.IsLetter(r) && !unicode.IsDigit(r)
}

func second(t string, i int, strict bool) (float64, Unit, int, bool) {
	i = spaces(t, i)
	if i >= len(t) || (t[i] != '(' && t[i] != '=') {
		return 0, "", i, false
	}
	v, p, ok := number(t, spaces(t, i+1), false)
	if !ok {
		return 0, "", i, false
	}
	u, p, ok := unitAt(t, spaces(t, p), strict)
	if !ok {
		return 0, "", i, false
	}
	if t[i] == '(' {
		p = spaces(t, p)
		if p >= len(t) || t[p] != ')' {
			return 0, "", i, false
		}
		p++
	}
	return v, u, p, true
}
