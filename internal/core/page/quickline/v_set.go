package quickline

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var setGrammar = &grammar{
	read: readSet,
	next: func(x *engine.Index, a step.Action) []string {
		s := a.(*step.Set)
		t := x.Tensioner(s.Tensioner)
		if t == nil {
			return nil
		}
		var out []string
		if s.Way == "" && t.Turn != "" {
			out = append(out, string(t.Turn))
		}
		if s.To == "" && s.Goal == step.GoalPlace {
			for _, p := range t.Pointer {
				out = append(out, "to "+p.Place+" at "+p.From.String())
			}
		}
		return out
	},
}

var settable = []unit.Kind{unit.KindTemperature, unit.KindFrequency, unit.KindLength, unit.KindTorque}

func readSet(l *Line) step.Action {
	a := &step.Set{}
	var all []engine.TensionerID
	l.Clauses(
		Several(l, &all, engine.KindTensioner),
		func() bool {
			if a.Phaser != "" || len(all) > 0 {
				return false
			}
			id, ok := l.One(engine.KindWheel)
			w := l.x.Wheel(engine.WheelID(id))
			if !ok || w == nil || w.Mount != engine.Phaser {
				return false
			}
			a.Phaser = w.ID
			l.Say("phaser")
			return true
		},
		l.Way(&a.Way),
		l.View(&a.OtherEnd),
		func() bool {
			l.Say("to", "at", "with", "for")
			if !a.At.IsZero() {
				return false
			}
			q, ok := l.Figure(settable...)
			a.At = q
			return ok
		},
		func() bool {
			if a.To != "" {
				return false
			}
			if !l.Say("to") && !slices.ContainsFunc(en.SetLeads, func(p string) bool { return l.at(l.pos, p) > 0 }) {
				return false
			}
			// A figure behind "at" is the temperature or the tone; there is one.
			a.To = l.FreeWith(func() bool {
				return l.viewAt(l.pos) || l.Say("at") && !l.end() && l.tokens[l.pos].figure != nil && (l.pos == len(l.tokens)-1 || l.viewAt(l.pos+1))
			}, "until", "till")
			return a.To != ""
		},
	)
	a.Tensioner, a.Also = parted(all)
	l.seenFrom(&a.Way, a.OtherEnd)
	a.Understand(l.x)
	if a.To == "" && a.Goal == step.GoalPlace && a.At.IsZero() && len(l.left) == 0 {
		l.refuse("it does not say to what it is set")
	}
	return a
}
