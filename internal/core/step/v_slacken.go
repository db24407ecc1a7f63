package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// Slacken loosens fasteners.
type Slacken struct {
	action
	Fasteners []engine.FastenerID `json:"fasteners,omitempty"`
	Turns     float64             `json:"turns,omitzero"`
	Hold      engine.LockID       `json:"hold,omitzero"`
}

var slackenSpec = &Spec{
	Verb: "slacken", Phrases: []string{"slacken", "loosen", "release", "undo", "slack off"}, Takes: []ObjectKind{FastenerObject},
	Fields: []Field{
		{Key: "fasteners", Label: "what", Kind: Things, Of: []ObjectKind{FastenerObject}}, {Key: "turns", Label: "turns", Kind: NumberIn},
		{Key: "hold", Label: "hold with", Kind: OneThing, Of: []ObjectKind{LockObject}},
	},
	Example: "slacken inlet sprocket bolt one turn hold with sprocket holder", Phase: "relieve",
	New: func() Action { return &Slacken{} },
	Read: func(l *Line) Action {
		return &Slacken{
			Hold:      engine.LockID(l.After(holdWords, LockObject)),
			Fasteners: ids[engine.FastenerID](l.All(FastenerObject)), Turns: l.CountedTurns(),
		}
	},
	Next: func(l *Line, a Action) []string {
		s := a.(*Slacken)
		return append(holdNext(l, s.Fasteners, s.Hold), when(s.Turns == 0, "one turn")...)
	},
}

var holdWords = []string{"hold with the", "hold with", "held with the", "held with", "holding with", "against the", "against", "with the", "with"}

func when(ok bool, s string) []string {
	if ok {
		return []string{s}
	}
	return nil
}

func holdNext(l *Line, fs []engine.FastenerID, hold engine.LockID) []string {
	if hold != "" || len(fs) == 0 {
		return nil
	}
	f := l.x.Fastener(fs[0])
	if f == nil || f.HoldWith == "" {
		return nil
	}
	if k := l.x.Lock(f.HoldWith); k != nil {
		return []string{"hold with " + k.Name}
	}
	return nil
}

// Verb is "slacken".
func (*Slacken) Verb() Verb { return "slacken" }

// Act loosens each.
func (a *Slacken) Act(m *bench.Machine) {
	for _, f := range a.Fasteners {
		m.Slacken(f, a.Hold)
	}
}

// Say: "Slacken the inlet sprocket bolt 1 turn, held with the sprocket holder".
func (a *Slacken) Say(w *Words) {
	w.verb("Slacken")
	each(w, a.Fasteners, w.fastener)
	if a.Turns == 1 {
		w.value("", "1 turn")
	} else if a.Turns > 0 {
		w.text("by")
		w.text(turnsText(a.Turns))
	}
	if a.Hold != "" {
		w.text(", held with")
		w.lock(a.Hold)
	}
	if !w.full && a.Turns == 0 {
		w.value("", count(w.x, a.Fasteners))
	}
}

func (a *Slacken) hold() engine.LockID { return a.Hold }

func (a *Slacken) tools(x *engine.Index) []engine.ToolID { return lockTool(x, a.Hold) }

func (a *Slacken) hazards(x *engine.Index) []engine.Hazard {
	var out []engine.Hazard
	for _, id := range a.Fasteners {
		f := x.Fastener(id)
		if f == nil {
			continue
		}
		if f.Hazard != "" && len(out) == 0 {
			out = append(out, f.Hazard)
		}
		if f.LeftHand {
			out = append(out, engine.HazardLeftHand)
		}
	}
	return out
}
