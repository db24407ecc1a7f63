package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Turn turns the crank by hand.
type Turn struct {
	action
	// Turns are whole or part turns; Degrees an angle on top.
	Turns   float64       `json:"turns,omitzero"`
	Degrees unit.Quantity `json:"degrees,omitzero"`
	// Way is the sense in the sheet's view; empty means running direction.
	Way engine.Way `json:"way,omitzero"`
	// To is a mark to bring to its pointer; Onto a stop to come up to.
	To   engine.MarkID `json:"to,omitzero"`
	Onto engine.LockID `json:"onto,omitzero"`
	// Short stops just short of the target.
	Short bool `json:"short,omitzero"`
	// On is the fastener the wrench goes on.
	On engine.FastenerID `json:"on,omitzero"`
}

var turnSpec = &Spec{
	Verb: "turn", Phrases: []string{"turn", "rotate"},
	Fields: []Field{
		{Key: "turns", Label: "turns", Kind: NumberIn}, {Key: "degrees", Label: "degrees", Kind: QuantityIn, Hint: "30°"},
		{Key: "way", Label: "way", Kind: ChoiceIn, Choices: []string{string(engine.Clockwise), string(engine.Counterclockwise)}},
		{Key: "to", Label: "to mark", Kind: OneThing, Of: []ObjectKind{MarkObject}},
		{Key: "onto", Label: "onto stop", Kind: OneThing, Of: []ObjectKind{LockObject}},
		{Key: "short", Label: "stop short", Kind: Tick}, {Key: "on", Label: "on", Kind: OneThing, Of: []ObjectKind{FastenerObject}},
	},
	Example: "turn crank 2 turns clockwise, stop short", Phase: "prove",
	New: func() Action { return &Turn{} },
	Read: func(l *Line) Action {
		a := &Turn{Way: l.Way(), Short: l.Word("stop just short of tdc", "stop short of tdc", "just short of tdc", "stop just short", "stop short", "just short", "short of tdc", "short")}
		if o := l.After([]string{"onto", "up to", "against"}, LockObject); o != "" {
			a.Onto = engine.LockID(o)
		}
		if o := l.After([]string{"to the", "to", "until"}, MarkObject); o != "" {
			a.To = engine.MarkID(o)
			l.Word("stands", "lines up", "is home")
		}
		if o := l.After([]string{"on the", "on", "with", "by the", "by"}, FastenerObject); o != "" {
			a.On = engine.FastenerID(o)
		}
		l.Word("the crankshaft", "crankshaft", "the crank", "crank", "the engine", "engine")
		l.Word("by hand")
		if q, ok := l.Quantity(unit.KindAngle); ok {
			if q.Unit == unit.Turn {
				a.Turns = q.Value
			} else {
				a.Degrees = q
			}
		} else {
			a.Turns = l.CountedTurns()
		}
		return a
	},
	Next: func(l *Line, a Action) []string {
		t := a.(*Turn)
		var out []string
		if t.Way == "" {
			out = append(out, string(l.x.Sheet.Running))
		}
		if t.Turns == 0 && t.To == "" && t.Onto == "" {
			out = append(out, "2 turns")
			for i := range l.x.Sheet.Marks {
				if m := &l.x.Sheet.Marks[i]; m.Kind == engine.TimingMark {
					out = append(out, "to "+m.Name)
				}
			}
		}
		if t.Onto == "" && !t.Short {
			for i := range l.x.Sheet.Locks {
				if k := &l.x.Sheet.Locks[i]; k.Kind == engine.StopLock {
					out = append(out, "onto "+k.Name)
				}
			}
			out = append(out, "stop short")
		}
		return out
	},
}

// Verb is "turn".
func (*Turn) Verb() Verb { return "turn" }

// Act turns the crank; the way decides whether it goes backwards.
func (a *Turn) Act(m *bench.Machine) {
	deg, _ := a.Degrees.Angle()
	m.Turn(bench.Turning{
		Turns: a.Turns, Degrees: float64(deg), To: a.To, Onto: a.Onto, Short: a.Short,
		Backwards: a.Way != "" && a.Way != m.Index.Sheet.Running,
	})
}

// Say: "Turn the crank 2 turns clockwise and stop just short".
func (a *Turn) Say(w *Words) {
	w.verb("Turn")
	w.put(ObjectSpan, map[bool]string{true: "the crank", false: "crank"}[w.full], "shaft:crank")
	switch {
	case a.Turns == 1:
		w.value("", "1 turn")
	case a.Turns != 0:
		w.value("", unit.Number(a.Turns)+" turns")
	}
	w.value("", textOf(a.Degrees))
	w.text(string(a.Way))
	if a.On != "" && w.full {
		w.text("on")
		w.fastener(a.On)
	}
	if a.To != "" {
		w.text("to")
		w.mark(a.To)
	}
	if a.Onto != "" {
		w.text("onto")
		w.lock(a.Onto)
	}
	if a.Short {
		w.text("and stop just short")
	}
}

func textOf(q unit.Quantity) string {
	if q.IsZero() {
		return ""
	}
	return q.String()
}

func (a *Turn) hazards(*engine.Index) []engine.Hazard {
	if a.Turns >= 1 {
		return []engine.Hazard{engine.HazardHands}
	}
	return nil
}
