package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var renewGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Renew{}
		l.Clauses(func() bool {
			if len(a.Parts)+len(a.Fasteners) > 0 {
				return false
			}
			// A new part is fitted; a new bolt is only laid out until it is tightened.
			kinds := []engine.Kind{loopPart, engine.KindPart, engine.KindFastener}
			if w, _, _ := strings.Cut(l.phrase, " "); slices.Contains([]string{"fit", "insert", "screw"}, w) {
				kinds = kinds[2:]
			}
			ns, ok := l.Things(true, kinds...)
			a.Parts, a.Fasteners = pick[engine.PartID](ns, engine.KindPart), pick[engine.FastenerID](ns, engine.KindFastener)
			return ok
		}, l.Filler("with new ones", "with new parts", "with a new one", "with a new part", "by a new one", "by new ones", "with new", "for new ones", "for a new one"), l.counted(func() int { return step.FastenerCount(l.x, a.Fasteners) }))
		return a
	},
}
