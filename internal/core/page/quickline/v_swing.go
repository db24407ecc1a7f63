package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var swingGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Swing{}
		l.Clauses(
			func() bool {
				if a.Shaft != "" {
					return false
				}
				if l.turned() {
					return true
				}
				named := l.shaftsNamed()
				if len(named) != 1 {
					return false
				}
				a.Shaft = named[0]
				return true
			},
			l.Value(&a.By, []string{"by", "through", "over"}, unit.KindAngle),
			l.Filler("to and fro", "back and forth", "either way", "both ways", "by hand", "to and fro by hand", "each way"),
		)
		if a.Shaft == engine.CrankID {
			a.Shaft = ""
		}
		if a.By.IsZero() && len(l.left) == 0 {
			l.refuse("it does not say how far")
		}
		return a
	},
	next: func(_ *engine.Index, a step.Action) []string {
		return when(a.(*step.Swing).By.IsZero(), "5 deg to and fro")
	},
}
