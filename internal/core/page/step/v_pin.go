package step

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Pin retracts a tensioner and holds it with its pin.
type Pin struct {
	action
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
	// Also are more that are pinned in the same step.
	Also []engine.TensionerID `json:"also,omitempty"`
}

// All are the tensioners that are pinned.
func (a *Pin) All() []engine.TensionerID { return both(a.Tensioner, a.Also) }

var andPin = []string{"and hold it with its pin", "and hold them with their pins", "and hold it with the pin", "and pin it", "and pin them", "pin it", "pin them", "then pin it", "and fit its pin", "and fit the pin", "and insert the pin", "and insert its pin", "and lock it with its pin", "and lock it with the pin", "and secure it with its pin", "and secure it with the pin", "with its pin", "with the pin", "with their pins"}

var pinSpec = &Spec{
	Verb: "pin", Phrases: []string{"pin", "retract and pin", "compress and pin", "retract", "compress", "squeeze", "push back", "push in"}, Takes: []engine.Kind{engine.KindTensioner},
	Fields:  []Field{{Key: "tensioner", Label: "tensioner", Kind: OneThing, Of: []engine.Kind{engine.KindTensioner}}, {Key: "also", Label: "and", Kind: Things, Of: []engine.Kind{engine.KindTensioner}}},
	Example: "pin tensioner", Phase: "relieve", Holds: true, Tensions: true, Fails: true,
	New: func() Action { return &Pin{} },
	Read: func(l *Line) Action {
		a := &Pin{}
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
		if !pinned && len(l.left) == 0 && len(pinTools(l.x, all)) > 0 {
			l.ask(0, len(l.tokens), "it does not say that the pin goes in", Typed(l.x, a))
		}
		return a
	},
}

// pinNumber reads the number of a tensioner's pin.
func (l *Line) pinNumber(of []engine.TensionerID) bool {
	l.Say("with")
	l.Say("tool")
	if l.end() {
		return false
	}
	for _, id := range of {
		t := l.x.Tensioner(id)
		if t == nil {
			continue
		}
		if tool := l.x.Tool(t.Pin); tool != nil && strings.EqualFold(tool.Number, l.tokens[l.pos].word) {
			l.pos++
			return true
		}
	}
	return false
}

// Verb is "pin".
func (*Pin) Verb() Verb { return "pin" }

// Act pins it.
func (a *Pin) Act(m *virtual.Machine) {
	for _, id := range a.All() {
		m.PinTensioner(id)
	}
}

// Say: "Retract the tensioner and pin it (TL-105)".
func (a *Pin) Say(w *Words) {
	w.verb(map[bool]string{true: "Retract", false: "Pin"}[w.full])
	each(w, a.All(), w.tensioner)
	if w.full && len(pinTools(w.x, a.All())) > 0 {
		w.text(plural(len(a.All()), "and hold it with its pin", "and hold them with their pins"))
	}
	w.pins(a.All())
}

// pins adds the numbers of tensioners' pins.
func (w *Words) pins(of []engine.TensionerID) {
	var numbers []string
	for _, id := range pinTools(w.x, of) {
		if t := w.x.Tool(id); t != nil {
			numbers = append(numbers, t.Number)
		}
	}
	switch {
	case len(numbers) == 0 || w.typed:
	case w.full:
		w.text("(" + strings.Join(numbers, ", ") + ")")
	default:
		w.value("", strings.Join(numbers, ", "))
	}
}

func (a *Pin) tools(x *engine.Index) []engine.ToolID { return pinTools(x, a.All()) }

func pinTools(x *engine.Index, of []engine.TensionerID) []engine.ToolID {
	var out []engine.ToolID
	for _, id := range of {
		if t := x.Tensioner(id); t != nil && t.Pin != "" && !slices.Contains(out, t.Pin) {
			out = append(out, t.Pin)
		}
	}
	return out
}

func (a *Pin) hazards(*engine.Index) []engine.Hazard { return []engine.Hazard{engine.HazardSpring} }
