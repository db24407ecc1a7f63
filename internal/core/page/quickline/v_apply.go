package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var applyGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Apply{}
		switch l.phrase {
		case "oil the", "lubricate":
			a.What = step.Oil
		case "grease the":
			a.What = step.Grease
		}
		l.Clauses(
			func() bool {
				if a.What != "" {
					return false
				}
				l.Skip("with")
				for l.Skip("some", "clean", "fresh", "a bead of", "new", "the") || l.Kept("a little", "a thin bead of", "a film of", "a thin film of", "a thin coat of", "a drop of", "a thin layer of")() {
				}
				for _, s := range step.Stuff("").Choices() {
					if l.Say(s) {
						a.What = step.Stuff(s)
						return true
					}
				}
				if l.Say("oil") {
					a.What = step.Oil
				} else if l.Say("threadlock", "locking compound", "thread locking compound", "thread locker", "threadlocker") {
					a.What = step.ThreadLock
				}
				return a.What != ""
			},
			func() bool {
				l.Say("the threads of", "threads of", "to the threads of", "to threads of", "on the threads of", "to the joint of", "to the joint face of", "to", "on", "onto", "of")
				if a.Part != "" || a.Fastener != "" {
					return false
				}
				ns, ok := l.Things(false, engine.KindPart, engine.KindFastener)
				if !ok {
					return false
				}
				l.Say("threads", "thread")
				if p := pick[engine.PartID](ns, engine.KindPart); len(p) > 0 {
					a.Part = p[0]
				} else {
					a.Fastener = pick[engine.FastenerID](ns, engine.KindFastener)[0]
				}
				return true
			},
			func() bool {
				if !a.Open.IsZero() {
					return false
				}
				l.Say("open time", "and close within", "close within", "and close the joint within", "close the joint within", "within", "and fit it within")
				l.Say("of")
				q, ok := l.Figure(unit.KindTime)
				a.Open = q
				return ok
			},
		)
		if a.What == "" && len(l.left) == 0 {
			l.refuse("it does not say what to apply")
		}
		return a
	},
	next: func(_ *engine.Index, a step.Action) []string {
		if a.(*step.Apply).What == "" {
			return step.Stuff("").Choices()
		}
		return nil
	},
}
