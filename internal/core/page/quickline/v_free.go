package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var freeGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Free{}
		l.Clauses(Several(l, &a.Wheels, engine.KindWheel), l.Filler("from its seat", "from their seats", "from its taper", "from their tapers", "from the taper", "from its shaft", "from the shaft", "on its shaft", "on its taper", "off its taper", "off the taper", "with a puller", "with the puller", "with a soft hammer", "with a light knock", "with a knock"), func() bool { return l.toolNumber(step.Tools(l.x, a)...) })
		return a
	},
}
