package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var takeOffGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.TakeOff{}
		var loops []engine.LoopID
		l.Clauses(Several(l, &loops, engine.KindLoop), l.Filler("by hand", "carefully", "from the sprockets", "from its sprockets", "from the wheels", "from its wheels", "from the engine", "off the sprockets", "from the sprockets and rollers", "the sprockets", "its sprockets", "the wheels", "from all sprockets", "all sprockets"))
		a.Loop, a.Also = parted(loops)
		return a
	},
}
