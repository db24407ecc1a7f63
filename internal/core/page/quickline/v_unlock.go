package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var unlockGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Unlock{}
		l.Clauses(Several(l, &a.Locks, engine.KindLock), l.numbersOf(func() []engine.LockID { return a.Locks }), l.Filler("by hand", "from the block", "out of the block", "out of block", "of the block", "of block", "from block", "from the cylinder block", "from its hole", "from the engine", "again", "from the slots", "from its slots"))
		return a
	},
}
