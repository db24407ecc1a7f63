package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var releaseGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Release{}
		var all []engine.TensionerID
		// "Take out" and "remove" speak of the tensioner itself unless they name
		// its pin; "let" needs its second half.
		said := !slices.Contains([]string{"pull", "pull out", "remove", "take out", "withdraw", "let", "pull the pin and let", "pull the pins and let", "pull the pin out and let", "pull out the pin and let", "take the pin out and let", "draw the pin and let"}, l.phrase)
		l.Clauses(
			func() bool {
				if len(all) > 0 {
					return false
				}
				from := l.pos
				ns, ok := l.Things(true, engine.KindTensioner)
				all = pick[engine.TensionerID](ns, engine.KindTensioner)
				// Its tool's number, and nothing else, is the pin.
				if ok && l.pos-from == 1 && len(all) == 1 && l.pinNumberAt(from, all[0]) {
					said = true
				}
				if ok && l.Say("pin", "pins", "locking pin", "'s pin") {
					said = true
				}
				return ok
			},
			func() bool {
				if !l.Say("move out slowly", "move out", "go slowly", "go", "extend slowly", "extend", "come out slowly", "work") {
					return false
				}
				said = true
				return true
			},
			func() bool { return l.pinNumber(all) },
		)
		a.Tensioner, a.Also = parted(all)
		if !said && len(l.left) == 0 {
			l.unread(0)
		}
		return a
	},
}

// pinNumberAt reports whether the token at i is the number of a tensioner's pin.
func (l *Line) pinNumberAt(i int, id engine.TensionerID) bool {
	t := l.x.Tensioner(id)
	if t == nil {
		return false
	}
	tool := l.x.Tool(t.Pin)
	return tool != nil && strings.EqualFold(tool.Number, l.tokens[i].word)
}
