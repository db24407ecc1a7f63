package quickline

import (
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
)

var pinGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Pin{}
		var all []engine.TensionerID
		pinned := l.phrase == "pin" || l.phrase == "retract and pin" || l.phrase == "compress and pin"
		l.Clauses(
			Several(l, &all, engine.KindTensioner),
			func() bool {
				if !l.Say(andPin...) {
					return false
				}
				pinned = true
				return true
			},
			func() bool {
				if pinned || len(all) == 0 || !l.Say("and secure it", "secure it", "and lock it", "lock it", "and hold it", "hold it", "and retain it", "retain it") {
					return false
				}
				pinned = l.pinNumber(all)
				return pinned
			},
			l.Filler("plunger"),
			func() bool { return l.pinNumber(all) },
		)
		a.Tensioner, a.Also = parted(all)
		if !pinned && len(l.left) == 0 && len(step.PinTools(l.x, all)) > 0 {
			l.ask(0, len(l.tokens), "it does not say that the pin goes in", en.Typed(l.x, a))
		}
		return a
	},
}

var andPin = []string{"and hold it with its pin", "and hold them with their pins", "and hold it with the pin", "and pin it", "and pin them", "pin it", "pin them", "then pin it", "and fit its pin", "and fit the pin", "and insert the pin", "and insert its pin", "and lock it with its pin", "and lock it with the pin", "and secure it with its pin", "and secure it with the pin", "with its pin", "with the pin", "with their pins"}

// pinNumber reads the number of a tensioner's pin.
func (l *Line) pinNumber(of []engine.TensionerID) bool {
	return l.toolNumber(step.PinTools(l.x, of)...)
}

// toolNumber reads the number of one of some tools: "with TL-105".
func (l *Line) toolNumber(of ...engine.ToolID) bool {
	from := l.pos
	l.Say("with", "using")
	l.Say("the tool", "tool", "special tool", "the special tool")
	if l.end() {
		return false
	}
	for _, id := range of {
		if tool := l.x.Tool(id); tool != nil && strings.EqualFold(tool.Number, l.tokens[l.pos].word) {
			l.pos++
			return true
		}
	}
	l.pos = from
	return false
}
