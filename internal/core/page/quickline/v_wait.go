package quickline

import (
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var waitGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Wait{}
		if strings.Contains(l.phrase, "cool") {
			switch {
			case l.end():
				a.Until = "the engine is cold"
			case l.Say("to below", "below", "until it is below"):
				l.figured = true
				if t := l.Free(nil); t != "" {
					a.Until = "the engine is below " + t
				}
				l.figured = false
			}
		}
		l.Clauses(
			l.Value(&a.For, []string{"for"}, unit.KindTime),
			func() bool {
				if a.Until != "" || !l.Say("until", "till") {
					return false
				}
				l.figured = true
				a.Until = l.FreeWith(nil, "no")
				l.figured = false
				return a.Until != ""
			},
			l.Filler("for the sealant to set", "for the sealant to cure", "for the sealant to skin over", "for the sealant", "for the belt to settle", "for the thread lock to cure"),
		)
		if a.For.IsZero() && a.Until == "" && len(l.left) == 0 {
			l.refuse("it does not say how long")
		}
		return a
	},
	next: func(_ *engine.Index, a step.Action) []string { return when(a.(*step.Wait).For.IsZero(), "15 min") },
}
