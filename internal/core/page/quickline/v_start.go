package quickline

import (
	"strings"

	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var startGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Start{}
		engine := strings.Contains(l.phrase, "run")
		l.Clauses(
			l.Flag(&engine, "the engine", "engine", "it"),
			func() bool {
				if strings.Contains(l.phrase, "run") && !a.For.IsZero() {
					return false
				}
				l.Say("and let it run for", ", run it for", "let it run for", "and run it for", "run it for", "run for", "and let it run", "let it run", "run it", "for")
				if !a.For.IsZero() {
					return false
				}
				q, ok := l.Figure(unit.KindTime)
				a.For = q
				return ok
			},
			func() bool {
				if a.Then != "" || l.pos == 0 {
					return false
				}
				before := l.tokens[l.pos-1].word
				if before != "and" && before != "," && before != ";" && l.at(l.pos, "briefly") == 0 && l.at(l.pos, "then") == 0 {
					return false
				}
				l.Skip("then")
				a.Then = l.FreeWith(nil, "no")
				return a.Then != ""
			},
		)
		return a
	},
}
