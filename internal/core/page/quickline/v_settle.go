package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var settleGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Settle{}
		l.Clauses(
			func() bool {
				if a.Loop != "" {
					return false
				}
				if l.Say(l.drive()...) {
					return true
				}
				id, ok := l.One(engine.KindLoop)
				a.Loop = engine.LoopID(id)
				return ok
			},
			func() bool {
				l.Say("turn the crank", "turning the crank", "by turning the crank", "turn crank")
				l.Say("with", "over", "by", "for", "through")
				if a.Turns != 0 {
					return false
				}
				n, ok := l.Turns()
				a.Turns = n
				return ok
			},
			l.Filler(string(l.x.Sheet.Running), "in running direction", "in the running direction", "of the crank"),
		)
		if a.Turns == 0 && len(l.left) == 0 {
			l.refuse("it does not say how many turns")
		}
		return a
	},
	next: func(_ *engine.Index, a step.Action) []string { return when(a.(*step.Settle).Turns == 0, "6 turns") },
}

// drive are the words for all of an engine's loops together: the belt, the
// chains.
func (l *Line) drive() []string {
	w := l.x.Drives()
	return []string{"the " + w, w}
}
