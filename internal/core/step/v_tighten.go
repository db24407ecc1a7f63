package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Tighten takes fasteners up: finger tight, nipped up, part way, or final.
type Tighten struct {
	action
	Fasteners []engine.FastenerID `json:"fasteners,omitempty"`
	Stages    []engine.Stage      `json:"stages,omitempty"`
	// To is how far: empty means final.
	To      Reach         `json:"to,omitzero"`
	Hold    engine.LockID `json:"hold,omitzero"`
	Pattern string        `json:"pattern,omitzero"`
}

// Reach is how far a tightening step goes.
type Reach string

// How far.
const (
	ToFinal  Reach = ""
	ToFinger Reach = "finger tight"
	ToSnug   Reach = "nipped up"
	ToPart   Reach = "part way"
)

func (r Reach) stage() bench.Stage {
	switch r {
	case ToFinger:
		return bench.Finger
	case ToSnug:
		return bench.Snug
	case ToPart:
		return bench.Partial
	}
	return bench.Final
}

var tightenSpec = &Spec{
	Verb: "tighten", Phrases: []string{"tighten", "torque", "nip up"}, Takes: []ObjectKind{FastenerObject},
	Fields: []Field{
		{Key: "fasteners", Label: "what", Kind: Things, Of: []ObjectKind{FastenerObject}},
		{Key: "stages", Label: "to", Kind: StagesIn, Hint: "60 N·m + 90°"},
		{Key: "to", Label: "how far", Kind: ChoiceIn, Choices: []string{"", string(ToFinger), string(ToSnug), string(ToPart)}},
		{Key: "hold", Label: "hold with", Kind: OneThing, Of: []ObjectKind{LockObject}},
		{Key: "pattern", Label: "pattern", Kind: ChoiceIn, Choices: []string{"", "alternating", "crosswise", "from the middle out"}},
	},
	Example: "tighten exhaust sprocket bolt 60 Nm + 90 deg hold with sprocket holder", Phase: "tighten",
	New:  func() Action { return &Tighten{} },
	Read: readTighten,
	Next: func(l *Line, a Action) []string {
		t := a.(*Tighten)
		var out []string
		if len(t.Stages) == 0 && t.To == ToFinal && len(t.Fasteners) > 0 {
			out = append(out, when(specText(l.x, t.Fasteners[0]) != "", specText(l.x, t.Fasteners[0]))...)
			out = append(out, string(ToFinger), string(ToSnug))
		}
		return append(out, holdNext(l, t.Fasteners, t.Hold)...)
	},
}

func readTighten(l *Line) Action {
	a := &Tighten{Hold: engine.LockID(l.After(holdWords, LockObject)), Fasteners: ids[engine.FastenerID](l.All(FastenerObject))}
	switch {
	case l.Word("finger tight", "finger-tight", "by hand"):
		a.To = ToFinger
	case l.Word("nipped up", "snug", "lightly") || l.phrase == "nip up":
		a.To = ToSnug
	case l.Word("part way"):
		a.To = ToPart
	}
	for _, p := range []string{"alternating", "crosswise", "from the middle out"} {
		if l.Word(p) {
			a.Pattern = p
		}
	}
	for {
		if q, ok := l.Quantity(unit.KindTorque); ok {
			a.Stages = append(a.Stages, engine.Stage{Torque: q})
		} else if q, ok := l.Quantity(unit.KindAngle); ok {
			a.Stages = append(a.Stages, engine.Stage{Angle: q})
		} else {
			break
		}
	}
	l.Word("in one movement")
	for l.Word("+", "plus", "then", "to", "in stages", ";") {
		continue
	}
	return a
}

// Verb is "tighten".
func (*Tighten) Verb() Verb { return "tighten" }

// Act takes each up to its stage.
func (a *Tighten) Act(m *bench.Machine) {
	for _, f := range a.Fasteners {
		m.Tighten(f, a.To.stage(), a.Hold)
	}
}

// Say: "Tighten the tensioner bolt to 20 ±2 N·m (14.8 ±1.5 lbf·ft)".
func (a *Tighten) Say(w *Words) {
	w.verb("Tighten")
	each(w, a.Fasteners, w.fastener)
	w.text(string(a.To))
	w.stages("to", a.Stages)
	w.text(a.Pattern)
	if a.Hold != "" {
		w.text(", held with")
		w.lock(a.Hold)
	}
}

func (a *Tighten) hold() engine.LockID { return a.Hold }

func (a *Tighten) tools(x *engine.Index) []engine.ToolID { return lockTool(x, a.Hold) }

func (a *Tighten) hazards(x *engine.Index) []engine.Hazard {
	for _, id := range a.Fasteners {
		if f := x.Fastener(id); f != nil && f.LeftHand {
			return []engine.Hazard{engine.HazardLeftHand}
		}
	}
	return nil
}
