// Package en says what steps do in English: the words of each verb by the roles of
// its parts, and how a page joins them.
package en

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// English is the language of the house: what a page is typed and printed in.
var English = &lang.Language{
	Verbs: verbs, Roles: shared, And: "and", Crank: "crank",
	The:     func(name string) string { return "the " + name },
	New:     func(name string) string { return "new " + name },
	Several: func(names []string) bool { return len(names) != 1 || PluralName(names[0]) },
	Turns:   turns,
	Count:   func(n float64) string { return unit.Number(n) + " bolts" },
	When:    func(w engine.When) string { return w.Said() },
}

func turns(n float64) string {
	if n > 0 && n <= 1 {
		return unit.Number(n) + " turn"
	}
	return unit.Number(n) + " turns"
}

// Row is an action as a row shows it.
func Row(x *engine.Index, a step.Action) lang.Brief { return English.Row(x, a) }

// Sentence puts an action into one full sentence.
func Sentence(x *engine.Index, a step.Action) string {
	t := message.Capital(English.Text(x, a, lang.Sentence))
	if t != "" && !strings.ContainsAny(t[len(t)-1:], ".!?") {
		t += "."
	}
	return t
}

// Typed is an action as a quick line, which reads back as the same action.
func Typed(x *engine.Index, a step.Action) string {
	if d, ok := a.(*step.Do); ok {
		return d.Text
	}
	s := English.Text(x, a, lang.Line)
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

// Lead are the words that stand before a step on a page: for which engines it is,
// and that it is done only if the one above fails. Empty for one that is always
// done.
func Lead(s *step.Step) string {
	said := message.Capital(s.When.Said())
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
func Full(x *engine.Index, s *step.Step) string {
	text := s.Wording
	if text == "" {
		text = Sentence(x, s.Action)
	}
	if l := Lead(s); l != "" {
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

// LeadsItself reports whether a place to set to begins with a word that leads to it:
// until the pointer stands in its notch.
func LeadsItself(place string) bool {
	first, _, _ := strings.Cut(place, " ")
	return slices.Contains(SetLeads, first)
}

// Condition is how the threads of what a step tightens are when the sheet’s torque
// holds, a short sentence; empty for other steps, and where the sheet does not say.
func Condition(x *engine.Index, s *step.Step) string {
	a, ok := s.Action.(*step.Tighten)
	if !ok {
		return ""
	}
	out := ""
	if c := a.Condition(x); c != "" {
		threads := "Thread "
		if len(a.Fasteners) > 1 || step.FastenerCount(x, a.Fasteners) > 1 {
			threads = "Threads "
		}
		out = threads + step.ThreadIs(c) + "."
	}
	for _, id := range a.Fasteners {
		if f := x.Fastener(id); f != nil && f.LeftHand {
			out = strings.TrimSpace(out + " Left-hand thread: it tightens counterclockwise.")
			break
		}
	}
	return strings.TrimSpace(out + " " + setting(x, s, a))
}

// setting is what the wrench is set to where an adapter or a multiplier stands between it and
// the bolt.
func setting(x *engine.Index, s *step.Step, a *step.Tighten) string {
	w := x.WrenchingWith(s.Tools)
	if !w.Changes() {
		return ""
	}
	var sets, with []string
	for _, st := range a.Stages {
		if st.Torque.IsZero() {
			continue
		}
		q, err := w.Setting(st.Torque)
		if err != nil {
			return ""
		}
		sets = append(sets, q.String())
	}
	if len(sets) == 0 {
		return ""
	}
	for _, t := range []*engine.Tool{w.Adapter, w.Multiplier} {
		if t != nil {
			with = append(with, t.Number)
		}
	}
	return fmt.Sprintf("With the %s the %s is set to %s.", List(with), w.Wrench.Number, strings.Join(sets, ", then "))
}

// List joins names as a sentence does: "a, b and c".
func List(names []string) string { return lang.List(names, "and") }

// Plural is the words for one thing or for more.
func Plural(n int, one, more string) string {
	if n == 1 {
		return one
	}
	return more
}

// PluralName reports whether a name is plural already: belt lines, pulley bolts.
func PluralName(name string) bool {
	w := strings.ToLower(name[strings.LastIndexByte(name, ' ')+1:])
	return Singular(w) != w
}

// Singular is a word without its plural ending; words that only look plural
// stay.
func Singular(w string) string {
	switch {
	case len(w) < 4 || !strings.HasSuffix(w, "s") || strings.HasSuffix(w, "ss") || strings.HasSuffix(w, "us") || strings.HasSuffix(w, "is") || slices.Contains(notPlural, w):
		return w
	case strings.HasSuffix(w, "ies"):
		return w[:len(w)-3] + "y"
	}
	return w[:len(w)-1]
}

// notPlural end like a plural and are none.
var notPlural = []string{"crosswise", "lens", "gas", "always", "backwards", "upwards", "clockwise", "across", "towards", "its", "lengthways"}
