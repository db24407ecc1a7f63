package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var resetGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Reset{}
		l.Skip("the")
		for i := range l.x.Sheet.Parts {
			p := &l.x.Sheet.Parts[i]
			if p.Reset == "" || a.Part != "" {
				continue
			}
			if words := wordsIn(p.Reset); l.Say(words) {
				a.Part = p.ID
			}
		}
		if a.Part == "" && l.Say("counter of") {
			id, ok := l.One(engine.KindPart)
			if !ok {
				l.pos--
			}
			a.Part = engine.PartID(id)
		}
		if a.Part != "" {
			l.Clauses(l.Filler("to zero", "with the tester", "in the control unit"))
			return a
		}
		l.unread(l.pos)
		return a
	},
}

// wordsIn are the words of a text as a line has them.
func wordsIn(text string) string {
	out := ""
	for _, t := range tokens(text) {
		out += t.word + " "
	}
	return out
}
