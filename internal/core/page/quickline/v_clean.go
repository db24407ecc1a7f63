package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var cleanGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Clean{}
		named := false
		switch l.phrase {
		case "clean", "clean off", "degrease":
		default: // old sealant is on faces
			a.Faces = true
		}
		l.Clauses(
			func() bool {
				if a.Faces || named || !l.Say("the faces of", "faces of", "the joint faces of", "joint faces of", "the sealing faces of", "sealing faces of", "the mating faces of", "mating faces of", "the face of", "the joint face of", "the sealing face of", "the mating face of", "the sealing surfaces of", "sealing surfaces of", "the mating surfaces of", "mating surfaces of", "the seat of", "seat of", "the seats of", "seats of", "the joint of", "joint of") {
					return false
				}
				a.Faces = true
				return true
			},
			func() bool {
				l.Say("the threads of", "threads of", "the thread of")
				if named {
					return false
				}
				ns, ok := l.Things(true, engine.KindPart, engine.KindFastener)
				if !ok {
					return false
				}
				named = true
				a.Parts, a.Fasteners = pick[engine.PartID](ns, engine.KindPart), pick[engine.FastenerID](ns, engine.KindFastener)
				l.Say("threads", "thread")
				if l.Say("faces", "joint faces", "sealing faces", "mating faces", "seat", "seats", "joint face", "sealing surfaces", "mating surfaces") {
					a.Faces = true
				}
				return true
			},
			l.Kept("thoroughly", "carefully", "with a clean rag", "with a lint-free cloth", "with solvent", "with cleaner", "with brake cleaner", "and dry", "and degrease", "and dry them", "and dry it"),
		)
		return a
	},
}
