package unit

import (
	"sort"
	"strings"
	"unicode"
	"unicode/utf8"
)

// aliases are the spellings people type, lower case; the longest one that fits
// wins. The bare "in" is an inch only where a unit must stand (Parse), since in
// a sentence it is a preposition.
var aliases = func() map[string]Unit {
	m := map[string]Unit{
		"%": Percent, "per cent": Percent, "percent": Percent,
		"°": Degree, "º": Degree, "˚": Degree, "deg": Degree, "deg.": Degree, "degs": Degree, "degree": Degree, "degrees": Degree,
		"turn": Turn, "turns": Turn, "rev": Turn, "revs": Turn, "revolution": Turn, "revolutions": Turn, "rotation": Turn, "rotations": Turn,
		"mm": Millimetre, "millimetre": Millimetre, "millimetres": Millimetre, "millimeter": Millimetre, "millimeters": Millimetre,
		"inch": Inch, "inches": Inch, "″": Inch, "\"": Inch,
		"s": Second, "sec": Second, "secs": Second, "second": Second, "seconds": Second,
		"min": Minute, "mins": Minute, "minute": Minute, "minutes": Minute,
		"h": Hour, "hr": Hour, "hrs": Hour, "hour": Hour, "hours": Hour,
		"°c": Celsius, "º c": Celsius, "ºc": Celsius, "deg c": Celsius, "degc": Celsius, "deg. c": Celsius, "° c": Celsius, "℃": Celsius, "degrees c": Celsius, "degrees celsius": Celsius, "celsius": Celsius,
		"°f": Fahrenheit, "º f": Fahrenheit, "ºf": Fahrenheit, "deg f": Fahrenheit, "degf": Fahrenheit, "deg. f": Fahrenheit, "° f": Fahrenheit, "℉": Fahrenheit, "degrees f": Fahrenheit, "degrees fahrenheit": Fahrenheit, "fahrenheit": Fahrenheit,
		"l": Litre, "litre": Litre, "litres": Litre, "liter": Litre, "liters": Litre, "ltr": Litre, "ml": Millilitre, "millilitre": Millilitre, "millilitres": Millilitre, "milliliters": Millilitre, "cc": Millilitre,
		"qt": Quart, "quart": Quart, "quarts": Quart, "us qt": Quart, "us quart": Quart, "us quarts": Quart,
		"hz": Hertz, "hertz": Hertz,
	}
	seps := []string{"", "·", "⋅", "•", "*", "×", ".", "-", "‑", "–", " ", ". ", " · ", "\u00a0", "\u202f", "\u2009"}
	product := func(a, b []string, u Unit) {
		for _, x := range a {
			for _, y := range b {
				for _, s := range seps {
					m[x+s+y] = u
				}
			}
		}
	}
	pounds, feet, inches := []string{"lbf", "lb", "lbs", "pound", "pounds"}, []string{"ft", "foot", "feet"}, []string{"in", "inch", "inches", "in."}
	product(pounds, feet, PoundForceFoot)
	product(feet, pounds, PoundForceFoot)
	product(pounds, inches, PoundForceInch)
	product(inches, pounds, PoundForceInch)
	product([]string{"n", "newton"}, []string{"m", "metre", "metres", "meter", "meters"}, NewtonMetre)
	product([]string{"n"}, []string{"cm"}, NewtonCentimetre)
	product([]string{"kgf", "kg", "kp"}, []string{"m"}, KilogramForceMetr)
	product([]string{"kgf", "kg", "kp"}, []string{"cm"}, KilogramForceCentimetre)
	return m
}()

// byFirst are the spellings by their first letter, the longest first.
var byFirst = func() map[rune][]string {
	m := map[rune][]string{}
	for k := range aliases {
		r, _ := utf8.DecodeRuneInString(k)
		m[r] = append(m[r], k)
	}
	for _, keys := range m {
		sort.Slice(keys, func(i, j int) bool {
			if len(keys[i]) != len(keys[j]) {
				return len(keys[i]) > len(keys[j])
			}
			return keys[i] < keys[j]
		})
	}
	return m
}()

// unitAt reads a unit that starts at i. strict also takes "in" for inch.
func unitAt(t string, i int, strict bool) (Unit, int, bool) {
	if i >= len(t) {
		return "", i, false
	}
	first, _ := utf8.DecodeRuneInString(t[i:])
	for _, a := range byFirst[unicode.ToLower(first)] {
		if len(t)-i >= len(a) && strings.EqualFold(t[i:i+len(a)], a) && wordEnds(t, i+len(a), a) {
			return aliases[a], i + len(a), true
		}
	}
	// A lone capital: 50 F.
	if (t[i] == 'F' || t[i] == 'C') && wordEnds(t, i+1, "f") {
		return map[byte]Unit{'F': Fahrenheit, 'C': Celsius}[t[i]], i + 1, true
	}
	if strict && strings.EqualFold(t[i:min(i+2, len(t))], "in") && wordEnds(t, i+2, "in") {
		return Inch, i + 2, true
	}
	return "", i, false
}

func wordEnds(t string, i int, alias string) bool {
	if i >= len(t) {
		return true
	}
	last, _ := utf8.DecodeLastRuneInString(alias)
	if !unicode.IsLetter(last) {
		return true
	}
	r, _ := utf8.DecodeRuneInString(t[i:])
	return !unicode.IsLetter(r) && !unicode.IsDigit(r)
}

func spaces(t string, i int) int {
	for i < len(t) {
		r, w := utf8.DecodeRuneInString(t[i:])
		if r != ' ' && r != '\t' && !thin(r) {
			break
		}
		i += w
	}
	return i
}

// thin are the spaces that stand inside a figure, between it and its unit, or
// between its thousands (SI Brochure, 5.4.4).
func thin(r rune) bool { return r == '\u00a0' || r == '\u202f' || r == '\u2009' || r == '\u200a' }
