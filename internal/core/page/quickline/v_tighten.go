package quickline

import (
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var tightenGrammar = &grammar{
	read: readTighten,
	next: func(x *engine.Index, a step.Action) []string {
		t := a.(*step.Tighten)
		var out []string
		if len(t.Stages) == 0 && t.To == step.ToFinal && len(t.Fasteners) > 0 {
			out = append(out, when(specText(x, t.Fasteners[0]) != "", specText(x, t.Fasteners[0]))...)
			out = append(out, string(step.ToFinger), string(step.ToSnug))
		}
		return append(out, holdNext(x, t.Fasteners, t.Hold)...)
	},
}

func readTighten(l *Line) step.Action {
	a := &step.Tighten{}
	said := 0
	l.withoutThreads()
	l.Clauses(
		l.someOf(&a.Some), Several(l, &a.Fasteners, engine.KindFastener),
		func() bool { return readHolding(a, l) },
		l.hold(&a.Hold),
		l.leftHand(func() []engine.FastenerID { return a.Fasteners }),
		func() bool { return readReach(a, l) },
		func() bool {
			if a.Pattern != "" {
				return false
			}
			l.Optional("in an", "in a", "in")
			for _, p := range patterns {
				if l.Say(p.said...) {
					a.Pattern = p.name
					l.Say("pattern", "order", "sequence")
					return true
				}
			}
			return false
		},
		func() bool { return readCondition(a, l) },
		func() bool { return readCase(a, l) },
		func() bool { return readStage(a, l) },
		func() bool {
			if said > 0 || !l.Say("in") || l.end() {
				return false
			}
			v, ok := wholeNumber(l.tokens[l.pos].word)
			l.pos++
			if !ok || !l.Say("stages", "steps", "stage") {
				return false
			}
			said = v
			return true
		},
		l.Filler("in one movement", "in one go", "in a single movement", "in one sweep"),
		l.counted(func() int { return counted(l.x, a.Fasteners, a.Some) }),
	)
	l.fewerThanAll(a.Fasteners, a.Some)
	if a.To == step.ToFinger && len(a.Stages)+len(a.By) > 0 && len(l.left) == 0 {
		l.refuse("it says finger tight and gives a value: write the two as two steps")
	}
	if n := len(a.Stages); n > 0 && a.Stages[n-1].Slacken && len(l.left) == 0 {
		l.refuse("it ends slackened: write what slackens it as a step of its own")
	}
	if said > 0 && said != len(a.Stages) && len(l.left) == 0 {
		l.refuse(fmt.Sprintf("it says %d stages and gives %d", said, len(a.Stages)))
	}
	if len(a.By) > 0 && len(a.Stages) > 0 && len(l.left) == 0 {
		l.refuse("one of its values does not say for which engines it is")
	}
	switch l.phrase {
	case "nip up", "nip":
		a.To = step.ToSnug
	}
	return a
}

// readHolding reads the tensioner that is held where it was set while its bolt is
// tightened: "while holding the tensioner at 15 Nm", "with the tensioner held".
func readHolding(a *step.Tighten, l *Line) bool {
	from, asks, problem := l.pos, len(l.asks), l.problem
	if a.Holding != "" {
		return false
	}
	back := func() bool {
		l.pos, l.asks, l.problem = from, l.asks[:asks], problem
		return false
	}
	says := l.Say("while holding", "whilst holding", "holding", "while you hold", "while keeping", "keeping", "and hold", "and keep")
	if !says && !l.Say("with", "while", "whilst") {
		return back()
	}
	id, ok := l.One(engine.KindTensioner)
	if !ok || l.asking() || !l.Say("is held", "held", "in place", "where it is", "there", "in its place", "is held there", "steady", "still") && !says {
		return back()
	}
	a.Holding = engine.TensionerID(id)
	at := l.pos
	if l.Say("with", "at", "with a torque of", "at a torque of") {
		if q, ok := l.Figure(unit.KindTorque); ok {
			a.At = q
		} else {
			l.pos = at
		}
	}
	return true
}

// readReach reads how far a step tightens where it is not to the end.
func readReach(a *step.Tighten, l *Line) bool {
	if a.To != step.ToFinal {
		return false
	}
	l.Optional("until", "to", "so that it is", "so it is")
	switch {
	case l.Say("finger tight", "hand tight", "by hand", "by finger", "finger", "with the fingers", "with your fingers"):
		a.To = step.ToFinger
	case l.Say("nipped up", "snug", "lightly", "just nipped", "hand nipped"):
		a.To = step.ToSnug
	case l.Say("part way", "partly"):
		a.To = step.ToPart
	default:
		return false
	}
	l.Say("only")
	return true
}

// readCase reads for which engines the stages just read are: "up to 2021", "from
// 2022", "with cold pack".
func readCase(a *step.Tighten, l *Line) bool {
	if len(a.Stages) == 0 {
		return false
	}
	from := l.tokens[l.pos].start
	for end := min(l.pos+8, len(l.tokens)); end > l.pos; end-- {
		text := strings.TrimPrefix(l.text[from:l.tokens[end-1].end], "for ")
		if w, ok := engine.ReadWhen(text, l.x.Sheet.Options); ok {
			a.By, a.Stages = append(a.By, step.StagesFor{When: w, Stages: a.Stages}), nil
			l.pos = end
			return true
		}
	}
	return false
}

// stageLeads are the words between the stages of a tightening.
var stageLeads = []string{"to between", "between", "to a final torque of", "to a torque of", "to the final torque of", "a torque of", "torque of", "to", "at", "+", "plus", "then", "followed by", "first", "finally", "a further", "further", "another", "an additional", "additional", "through", "by", "turn", "turn it", "turn them", "turn each", "turn each bolt", "turn both", "tighten them", "tighten it", "rotate them", "rotate it", "angle tighten", "tighten", "rotate", "and", ",", ";", "angle", "an angle of", "again by", "more"}

func readStage(a *step.Tighten, l *Line) bool {
	from := l.pos
	further := false
	if readBack(a, l) {
		return true
	}
	for {
		if more := []string{"by", "again by", "a further", "further", "another", "an additional", "additional", "more"}; l.Say(more...) {
			further = true
			continue
		}
		if l.Say("stage", "step") {
			if l.end() {
				return false
			}
			if v, ok := wholeNumber(l.tokens[l.pos].word); !ok || v != len(a.Stages)+1 {
				return false
			}
			l.pos++
			l.Say(":")
			continue
		}
		if !l.Say(stageLeads...) {
			break
		}
	}
	if q, ok := l.Figure(unit.KindTorque); ok {
		if further {
			l.refuse("a torque is tightened to, not by: write the torque the wrench shows at the end")
		}
		// "20 N·m and 40 N·m" may be one value each.
		if n := len(a.Stages); n > 0 && a.Stages[n-1].Angle.IsZero() && (l.at(from, "and") > 0 && l.pos-from == 2 || l.pos-from == 1) {
			return false
		}
		a.Stages = append(a.Stages, engine.Stage{Torque: q})
		return true
	}
	q, ok := l.Figure(unit.KindAngle)
	if ok {
		a.Stages = append(a.Stages, engine.Stage{Angle: q})
		l.Say("more", "further", "on top", "in addition")
	}
	return ok
}

// readBack reads a bolt turned back between two stages, "then slacken them", "slacken by 90°",
// and what is waited before the next: "wait 10 min". Both stand behind a value.
func readBack(a *step.Tighten, l *Line) bool {
	from, asks, problem := l.pos, len(l.asks), l.problem
	no := func() bool {
		l.pos, l.asks, l.problem = from, l.asks[:asks], problem
		return false
	}
	for l.Say("+", ",", ";", "and", "then") {
	}
	if len(a.Stages) == 0 {
		return no()
	}
	if l.Say("wait", "after", "leave for", "leave it for", "leave them for") {
		q, ok := l.Figure(unit.KindTime)
		if !ok {
			return no()
		}
		for l.Say("+", ",", ";", "and", "then", "later") {
		}
		n := len(a.Stages)
		if l.end() || !readStage(a, l) || n == len(a.Stages) {
			return no()
		}
		a.Stages[n].Wait = q
		return true
	}
	if !l.Say("slacken", "loosen", "slackened", "loosened", "back off", "undo", "release") {
		return no()
	}
	l.Say("it", "them", "each", "all", "each bolt")
	l.Say("again", "fully", "completely", "again fully", "by")
	s := engine.Stage{Slacken: true}
	at := l.pos
	l.Say("by")
	if q, ok := l.Figure(unit.KindAngle); ok {
		s.Angle = q
	} else {
		l.pos = at
	}
	if !l.end() && !slices.ContainsFunc([]string{"+", ",", ";", "then", "and", "wait", "to"}, func(w string) bool { return l.at(l.pos, w) > 0 }) {
		return no() // the slackening of something else
	}
	a.Stages = append(a.Stages, s)
	return true
}

// patterns are the orders bolts are tightened in, with the ways to say them.
var patterns = []struct {
	name string
	said []string
}{
	{"alternating", []string{"alternating", "alternately", "alternate"}},
	{"crosswise", []string{"crosswise", "cross", "criss cross", "crisscross", "diagonally", "diagonal", "star"}},
	{"from the middle out", []string{"from the centre out", "from the centre outwards", "from centre outwards", "from the inside out", "working outwards from the centre", "from the centre to the outside", "from the centre to the edge"}},
}

// readCondition reads how the threads are: what the sheet says of them, and
// nothing else, since its torque is for that.
func readCondition(a *step.Tighten, l *Line) bool {
	l.Say("with the", "with its", "with their", "the", "its", "their", "with")
	l.Say("threads", "thread")
	l.Say("lightly", "slightly", "clean and")
	said := ""
	for _, c := range conditions {
		if l.Say(c.said...) {
			said = c.name
			break
		}
	}
	if said == "" {
		return false
	}
	for _, id := range a.Fasteners {
		f := l.x.Fastener(id)
		switch {
		case f == nil || f.Lubricant == said:
		case f.Lubricant == "":
			l.refuse("the sheet does not say that the thread of the " + f.Words() + " is " + said)
		default:
			l.refuse("the sheet’s torque of the " + f.Words() + " is for a thread that is " + f.Lubricant)
		}
	}
	return true
}

// withoutThreads leaves out the word thread where it only says what is oiled or dry:
// on a sheet it is the name of a plug’s own thread.
func (l *Line) withoutThreads() {
	is := func(i int) bool {
		return i >= 0 && i < len(l.tokens) && slices.Contains([]string{"oiled", "dry", "greased"}, l.tokens[i].word)
	}
	for i := len(l.tokens) - 1; i >= l.pos; i-- {
		if w := l.tokens[i].word; w != "thread" && w != "threads" {
			continue
		}
		next := i + 1
		if next < len(l.tokens) && (l.tokens[next].word == "lightly" || l.tokens[next].word == "slightly" || l.tokens[next].word == "is" || l.tokens[next].word == "are") {
			next++
		}
		if is(i-1) || is(next) {
			l.tokens = slices.Concat(l.tokens[:i], l.tokens[next:])
			if is(i - 1) {
				continue
			}
		}
	}
}

// conditions are the states of a thread, with the ways to say them.
var conditions = []struct {
	name string
	said []string
}{
	{"oiled", []string{"oiled", "engine oil", "clean engine oil", "oil"}},
	{"dry", []string{"dry", "clean and dry"}},
	{"greased", []string{"greased", "grease"}},
	{"thread lock", []string{"coated with thread lock", "thread lock", "threadlock", "thread locker"}},
}
