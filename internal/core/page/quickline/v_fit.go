package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var fitGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Fit{}
		l.Skip("the", "a", "an")
		if a.New = l.Say("new"); !a.New {
			for _, w := range []string{"old", "used", "same"} {
				if l.Say(w) {
					l.Manner("the " + w + " one")
				}
			}
		}
		l.Clauses(
			Thing(l, &a.Loop, engine.KindLoop),
			func() bool {
				if a.Slack != "" || !l.Say(slackLeads...) {
					return false
				}
				id, ok := l.One(engine.KindWheel)
				a.Slack = engine.WheelID(id)
				l.Say("side", "run")
				return ok
			},
			func() bool { return readOrder(a, l) },
		)
		return a
	},
	next: func(x *engine.Index, a step.Action) []string {
		f := a.(*step.Fit)
		loop := x.Loop(f.Loop)
		if loop == nil {
			return nil
		}
		var out []string
		if len(f.Order) == 0 {
			out = append(out, "over "+fittingOrder(x, loop))
		}
		if f.Slack == "" {
			if t := x.Tensioner(loop.Tensioner); t != nil && x.Wheel(t.Wheel) != nil {
				out = append(out, "slack at "+x.Wheel(t.Wheel).Name)
			}
		}
		return out
	},
}

var slackLeads = []string{"and leave the slack at", "and leave all the slack at", "and leave all slack at", "leave the slack at", "leave all the slack at", "leave all slack at", "leaving the slack at", "leaving all the slack at", "leaving all slack at", "leaving slack at", "leave slack at", "with the slack at", "with all the slack at", "with all slack at", "with slack at", "all slack at", "slack at the", "slack at", "slack on the", "slack on", "leaving the slack on", "leaving all the slack on", "leave the slack on", "and leave the slack on", "with the slack on", "keeping the slack at"}

// readOrder reads the wheels in the order they are served.
func readOrder(a *step.Fit, l *Line) bool {
	if len(a.Order) > 0 {
		return false
	}
	led := l.pos > 0 && slices.Contains([]string{",", ":"}, l.tokens[l.pos-1].word)
	led = l.Say("in the order", "in this order", "over", "onto", "around", "round", "on to", "from", "starting at", "starting from", "starting with", "beginning at", "in order") || led || !l.end() && slices.Contains([]string{",", ":"}, l.tokens[l.pos].word)
	if !led {
		return false
	}
	for {
		at := l.pos
		l.Skip(",", "→", "->", ">", "then", "and", "then the", "over", "to", "then over", "then onto", "followed by")
		ns, ok := l.Things(false, engine.KindWheel)
		if !ok {
			l.pos = at
			break
		}
		a.Order = append(a.Order, pick[engine.WheelID](ns, engine.KindWheel)...)
		if len(a.Order) == 1 {
			l.Say("first")
		}
	}
	return len(a.Order) > 0
}

// fittingOrder serves the pulling run first: from the driver against the way
// the loop travels, so that the slack ends at the tensioner.
func fittingOrder(x *engine.Index, l *engine.Loop) string {
	var names []string
	for i := range l.Route {
		if w := x.Wheel(l.Route[(len(l.Route)-i)%len(l.Route)].Wheel); w != nil {
			names = append(names, w.Name)
		}
	}
	return strings.Join(names, " → ")
}
