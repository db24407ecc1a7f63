package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var drainGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Drain{}
		l.Clauses(Several(l, &a.Fluids, engine.KindFluid), l.Filler("off", "out", "into a clean pan", "into a pan", "into a clean container"))
		return a
	},
}

var fillGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Fill{}
		l.Clauses(
			l.Value(&a.Amount, []string{"with", "in", "to"}, unit.KindVolume),
			func() bool {
				l.Say("the engine with", "engine with", "with", "of", "in", "up")
				l.Skip("new", "fresh", "clean", "of")
				return Thing(l, &a.Fluid, engine.KindFluid)()
			},
			l.Filler("again", "in", "up", "the engine with", "engine with", "into the engine", "into engine"),
		)
		return a
	},
	next: func(x *engine.Index, a step.Action) []string {
		f := x.Fluid(a.(*step.Fill).Fluid)
		if f == nil || f.Amount.IsZero() || !a.(*step.Fill).Amount.IsZero() {
			return nil
		}
		return []string{f.Amount.String()}
	},
}
