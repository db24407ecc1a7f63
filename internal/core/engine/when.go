package engine

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Said is the case as a line says it, for ReadWhen to read; empty for every engine.
func (w When) Said() string {
	if w.All() {
		return ""
	}
	return w.String()
}

var (
	fromPart  = regexp.MustCompile(`^from (build )?(\d{1,9})(?: on| onwards)?$`)
	toPart    = regexp.MustCompile(`^(?:up to|to|until|till) (build )?(\d{1,9})$`)
	rangePart = regexp.MustCompile(`^(?:from )?(builds? )?(\d{1,9}) ?(?:to|–|-|until) ?(\d{1,9})$`)
	onePart   = regexp.MustCompile(`^(?:in |only )?(build )?(\d{1,9})$`)
)

// ReadWhen reads a case as people write it, its parts with commas between: years
// ("from 2022", "up to 2021", "2019–2021"), builds ("from build 1200") and
// options the sheet has ("with cold pack"). False where a word of it is not
// understood, or two parts say the same.
func ReadWhen(text string, options []string) (When, bool) {
	var w When
	for part := range strings.SplitSeq(text, ",") {
		part = strings.ToLower(strings.Join(strings.Fields(part), " "))
		if o, ok := strings.CutPrefix(part, "with "); ok {
			if o = optionNamed(o, options); o == "" || slices.Contains(w.With, o) {
				return When{}, false
			}
			w.With = append(w.With, o)
			continue
		}
		if o, ok := strings.CutPrefix(part, "without "); ok {
			if o = optionNamed(o, options); o == "" || slices.Contains(w.Without, o) {
				return When{}, false
			}
			w.Without = append(w.Without, o)
			continue
		}
		build, from, to, ok := spanOf(part)
		if !ok || !build && !isYear(from) || !build && !isYear(to) {
			return When{}, false
		}
		if build {
			if w.Builds != (Builds{}) {
				return When{}, false
			}
			w.Builds = Builds{from, to}
			continue
		}
		if w.Years != (Years{}) {
			return When{}, false
		}
		w.Years = Years{from, to}
	}
	return w, !w.All()
}

// isYear keeps a count or a torque from being taken for a year; 0 stands for open.
func isYear(n int) bool { return n == 0 || n >= 1900 && n <= 2199 }

func spanOf(part string) (build bool, from, to int, ok bool) {
	number := func(s string) int {
		n, err := strconv.Atoi(s)
		ok = ok && err == nil && n > 0
		return n
	}
	ok = true
	switch {
	case fromPart.MatchString(part):
		m := fromPart.FindStringSubmatch(part)
		return m[1] != "", number(m[2]), 0, ok
	case toPart.MatchString(part):
		m := toPart.FindStringSubmatch(part)
		return m[1] != "", 0, number(m[2]), ok
	case rangePart.MatchString(part):
		m := rangePart.FindStringSubmatch(part)
		from, to = number(m[2]), number(m[3])
		return m[1] != "", from, to, ok && from <= to
	case onePart.MatchString(part):
		m := onePart.FindStringSubmatch(part)
		n := number(m[2])
		return m[1] != "", n, n, ok
	}
	return false, 0, 0, false
}

func optionNamed(said string, options []string) string {
	for _, o := range options {
		if strings.EqualFold(o, said) || strings.EqualFold("the "+o, said) {
			return o
		}
	}
	return ""
}
