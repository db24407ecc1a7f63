package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var refitGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Refit{}
		l.Skip("the", "a", "an")
		a.New = l.Say("new")
		l.fresh = a.New
		l.Clauses(Several(l, &a.Parts, engine.KindPart), l.Flag(&a.NewSeal, "with a new seal", "with new seal", "with new seals", "using a new seal", "using new seal", "new seal"), l.Filler("to the engine", "on the engine", "to the block", "into the block", "in the block"), l.needs(func() []engine.PartID { return a.Parts }))
		return a
	},
	next: func(x *engine.Index, a step.Action) []string {
		r := a.(*step.Refit)
		if len(r.Parts) == 1 && !r.NewSeal {
			if p := x.Part(r.Parts[0]); p != nil && p.Seal != "" {
				return []string{"with new seal"}
			}
		}
		return nil
	},
}

// needs reads what the sheet says a part needs, which a sentence prints.
func (l *Line) needs(parts func() []engine.PartID) func() bool {
	return func() bool {
		for _, id := range parts() {
			p := l.x.Part(id)
			if p == nil || p.Needs == "" {
				continue
			}
			at := l.pos
			ok := true
			for _, t := range tokens(p.Needs) {
				ok = ok && at < len(l.tokens) && l.tokens[at].word == t.word
				at++
			}
			if ok {
				l.pos = at
				return true
			}
		}
		return false
	}
}
