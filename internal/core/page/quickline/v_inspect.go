package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var inspectGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Inspect{}
		l.Clauses(
			Several(l, &a.Parts, engine.KindPart, loopPart),
			func() bool {
				if a.For != "" || !l.Say("for") {
					return false
				}
				a.For = l.Free(func() bool {
					l.Skip(",", "and", "then")
					return l.at(l.pos, "renew") > 0 || l.at(l.pos, "replace") > 0
				})
				return a.For != ""
			},
			func() bool { return readThen(a, l) },
		)
		if strings.HasPrefix(l.phrase, "check") && a.For == "" && len(l.left) == 0 {
			l.unread(0)
		}
		return a
	},
	next: func(x *engine.Index, a step.Action) []string {
		i := a.(*step.Inspect)
		if i.For == "" && len(i.Parts) > 0 {
			if p := x.Part(i.Parts[0]); p != nil && p.If != "" {
				return []string{"for " + p.If}
			}
		}
		return nil
	},
}

// readThen reads what is done with what is found, and nothing but that: "renew it if
// worn". Renewing without a condition is a step of its own.
func readThen(a *step.Inspect, l *Line) bool {
	if a.Then != "" {
		return false
	}
	l.Skip("and", "then", ",")
	from := l.pos
	if !l.Say("renew", "replace") {
		return false
	}
	l.Say("it", "them", "both", "the part", "the parts", "it as a set", "them as a set", "them as a pair", "them together")
	if !l.Say("if", "when", "where", "as") {
		return false
	}
	is := l.pos
	for !l.end() && l.pos-is < 6 && !l.tokens[l.pos].mark && l.tokens[l.pos].figure == nil && !slices.Contains(guarded, l.tokens[l.pos].word) && !l.instruction(l.pos) && !l.commands(l.pos) {
		l.pos++
	}
	if l.pos == is {
		return false
	}
	a.Then = strings.ToLower(l.text[l.tokens[from].start:l.tokens[from].end]) + strings.Join(append([]string{""}, strings.Fields(l.text[l.tokens[from].end:l.tokens[l.pos-1].end])...), " ")
	l.loose = true
	return true
}
