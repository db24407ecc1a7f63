package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"unicode"
	"unicode/utf8"
)

// Lead are the words that stand before a step on a page: for which engines it is,
// and that it is done only if the one above fails. Empty for one that is always
// done.
func (s *Step) Lead() string {
	said := Capital(s.When.Said())
	switch {
	case s.IfNot && said != "":
		return said + ", if not:"
	case s.IfNot:
		return "If not:"
	case said != "":
		return said + ":"
	}
	return ""
}

// Full is the sentence of a step as a page has it: what stands before it, then the
// author's own wording or the one made from its action.
func (s *Step) Full(x *engine.Index) string {
	text := s.Wording
	if text == "" {
		text = Sentence(x, s.Action)
	}
	if l := s.Lead(); l != "" {
		return l + " " + lowerVerb(text)
	}
	return text
}

// lowerVerb is a sentence as it goes on behind a colon.
func lowerVerb(s string) string {
	r, w := utf8.DecodeRuneInString(s)
	next, _ := utf8.DecodeRuneInString(s[w:])
	if w == 0 || !unicode.IsUpper(r) || unicode.IsUpper(next) || unicode.IsDigit(next) {
		return s
	}
	return string(unicode.ToLower(r)) + s[w:]
}

// Often is how often a step may fail and be tried again, in words.
func Often(times int) string {
	switch times {
	case 0, 1:
		return "once"
	case 2:
		return "twice at most"
	}
	return unit.Number(float64(times)) + " times at most"
}
