package step

import (
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
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
	// By are the stages by case, instead of Stages, where they are not the same on
	// every engine.
	By []StagesFor `json:"by,omitempty"`
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

// Choices are how far a bolt may be taken before its final torque.
func (Reach) Choices() []string {
	return []string{string(ToFinger), string(ToSnug), string(ToPart)}
}

func (r Reach) stage() virtual.Stage {
	switch r {
	case ToFinger:
		return virtual.Finger
	case ToSnug:
		return virtual.Snug
	case ToPart:
		return virtual.Partial
	}
	return virtual.Final
}

var tightenSpec = &Spec{
	Verb: "tighten", Phrases: []string{"tighten", "torque", "nip up", "torque up", "tighten up", "torque tighten", "tighten down", "torque down", "do up", "nip", "take up", "retighten"}, Takes: []engine.Kind{engine.KindFastener},
	Fields: []Field{
		{Key: "fasteners", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindFastener}},
		{Key: "stages", Label: "to", Kind: StagesIn, Hint: "60 N·m + 90°", Unit: unit.NewtonMetre},
		{Key: "by", Label: "by case", Kind: StagesByIn, Hint: "45 N·m up to 2021; 60 N·m from 2022", Unit: unit.NewtonMetre},
		{Key: "to", Label: "how far", Kind: ChoiceIn, Choices: []string{"", string(ToFinger), string(ToSnug), string(ToPart)}},
		{Key: "hold", Label: "hold with", Kind: OneThing, Of: []engine.Kind{engine.KindLock}, Beside: true},
		{Key: "pattern", Label: "pattern", Kind: ChoiceIn, Choices: []string{"", "alternating", "crosswise", "from the middle out"}},
	},
	Example: "tighten exhaust sprocket bolt 60 Nm + 90 deg hold with sprocket holder", Phase: "tighten", Bolts: true,
	New:  func() Action { return &Tighten{} },
	Read: readTighten,
	Next: func(x *engine.Index, a Action) []string {
		t := a.(*Tighten)
		var out []string
		if len(t.Stages) == 0 && t.To == ToFinal && len(t.Fasteners) > 0 {
			out = append(out, when(specText(x, t.Fasteners[0]) != "", specText(x, t.Fasteners[0]))...)
			out = append(out, string(ToFinger), string(ToSnug))
		}
		return append(out, holdNext(x, t.Fasteners, t.Hold)...)
	},
}

func readTighten(l *Line) Action {
	a := &Tighten{}
	said := 0
	l.withoutThreads()
	l.Clauses(
		Several(l, &a.Fasteners, engine.KindFastener),
		l.hold(&a.Hold),
		l.leftHand(func() []engine.FastenerID { return a.Fasteners }),
		func() bool { return a.readReach(l) },
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
		func() bool { return a.readCondition(l) },
		func() bool { return a.readCase(l) },
		func() bool { return a.readStage(l) },
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
		l.counted(func() int { return fastenerCount(l.x, a.Fasteners) }),
	)
	if a.To == ToFinger && len(a.Stages)+len(a.By) > 0 && len(l.left) == 0 {
		l.refuse("it says finger tight and gives a value: write the two as two steps")
	}
	if said > 0 && said != len(a.Stages) && len(l.left) == 0 {
		l.refuse(fmt.Sprintf("it says %d stages and gives %d", said, len(a.Stages)))
	}
	if len(a.By) > 0 && len(a.Stages) > 0 && len(l.left) == 0 {
		l.refuse("one of its values does not say for which engines it is")
	}
	switch l.phrase {
	case "nip up", "nip":
		a.To = ToSnug
	}
	return a
}

// readReach reads how far a step tightens where it is not to the end.
func (a *Tighten) readReach(l *Line) bool {
	if a.To != ToFinal {
		return false
	}
	l.Optional("until", "to", "so that it is", "so it is")
	switch {
	case l.Say("finger tight", "hand tight", "by hand", "by finger", "finger", "with the fingers", "with your fingers"):
		a.To = ToFinger
	case l.Say("nipped up", "snug", "lightly", "just nipped", "hand nipped"):
		a.To = ToSnug
	case l.Say("part way", "partly"):
		a.To = ToPart
	default:
		return false
	}
	l.Say("only")
	return true
}

// readCase reads for which engines the stages just read are: "up to 2021", "from
// 2022", "with cold pack".
func (a *Tighten) readCase(l *Line) bool {
	if len(a.Stages) == 0 {
		return false
	}
	from := l.tokens[l.pos].start
	for end := min(l.pos+8, len(l.tokens)); end > l.pos; end-- {
		text := strings.TrimPrefix(l.text[from:l.tokens[end-1].end], "for ")
		if w, ok := engine.ReadWhen(text, l.x.Sheet.Options); ok {
			a.By, a.Stages = append(a.By, StagesFor{w, a.Stages}), nil
			l.pos = end
			return true
		}
	}
	return false
}

// stageLeads are the words between the stages of a tightening.
var stageLeads = []string{"to a final torque of", "to a torque of", "to the final torque of", "a torque of", "torque of", "to", "at", "+", "plus", "then", "followed by", "first", "finally", "a further", "further", "another", "an additional", "additional", "through", "by", "turn", "turn it", "turn them", "turn each", "turn each bolt", "turn both", "tighten them", "tighten it", "rotate them", "rotate it", "angle tighten", "tighten", "rotate", "and", ",", ";", "angle", "an angle of", "again by", "more"}

func (a *Tighten) readStage(l *Line) bool {
	from := l.pos
	further := false
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

// patterns are the orders bolts are tightened in, with the ways to say them.
var patterns = []struct {
	name string
	said []string
}{
	{"alternating", []string{"alternating", "alternately", "alternate"}},
	{"crosswise", []string{"crosswise", "cross", "criss cross", "crisscross", "diagonally", "diagonal", "star"}},
	{"from the middle out", []string{"from the centre out", "from the centre outwards", "from centre outwards", "from the inside out", "working outwards from the centre", "from the centre to the outside", "from the centre to the edge"}},
}

// Verb is "tighten".
func (*Tighten) Verb() Verb { return "tighten" }

// Act takes each up to its stage.
func (a *Tighten) Act(m *virtual.Machine) {
	for _, f := range a.Fasteners {
		m.Tighten(f, a.To.stage(), a.Hold)
	}
}

// Say: "Tighten the tensioner bolt to 20 ±2 N·m (14.8 ±1.5 lbf·ft)".
func (a *Tighten) Say(w *Words) {
	if a.To == ToSnug && w.inline() {
		w.verb("Nip up")
	} else {
		w.verb("Tighten")
	}
	each(w, a.Fasteners, w.fastener)
	if a.To != ToSnug || !w.inline() {
		w.text(string(a.To))
	}
	if len(a.By) > 0 {
		w.by(a.By)
	} else {
		w.stages("to", a.Stages)
	}
	w.text(a.Pattern)
	if a.Hold != "" {
		w.text(", held with")
		w.lock(a.Hold)
	}
}

// condition is how the threads of all it takes to the end are when the sheet's
// torque holds, in words; empty where the sheet does not say, or not the same of all.
func (a *Tighten) condition(x *engine.Index) string {
	said := ""
	for i, id := range a.Fasteners {
		f := x.Fastener(id)
		if f == nil || a.To != ToFinal || i > 0 && f.Lubricant != said {
			return ""
		}
		said = f.Lubricant
	}
	if said == "" {
		return ""
	}
	threads := "thread "
	if len(a.Fasteners) > 1 || fastenerCount(x, a.Fasteners) > 1 {
		threads = "threads "
	}
	return threads + ThreadIs(said)
}

// ThreadIs is the state of a thread as the sheet has it, in words.
func ThreadIs(condition string) string {
	if condition == "thread lock" {
		return "coated with thread lock"
	}
	return condition
}

// StuffOn is what is put on a thread for a state of the sheet; empty for dry, and for
// one that nothing is known of.
func StuffOn(condition string) Stuff {
	for _, c := range conditions {
		if c.name == condition {
			return c.stuff
		}
	}
	return ""
}

// Condition is how the threads of what a step tightens are when the sheet’s torque
// holds, a short sentence; empty for other steps, and where the sheet does not say.
func (s *Step) Condition(x *engine.Index) string {
	a, ok := s.Action.(*Tighten)
	if !ok {
		return ""
	}
	out := ""
	if c := a.condition(x); c != "" {
		out = Capital(c) + "."
	}
	for _, id := range a.Fasteners {
		if f := x.Fastener(id); f != nil && f.LeftHand {
			return strings.TrimSpace(out + " Left-hand thread: it tightens counterclockwise.")
		}
	}
	return out
}

// readCondition reads how the threads are: what the sheet says of them, and
// nothing else, since its torque is for that.
func (a *Tighten) readCondition(l *Line) bool {
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
	name  string
	stuff Stuff
	said  []string
}{
	{"oiled", Oil, []string{"oiled", "engine oil", "clean engine oil", "oil"}},
	{"dry", "", []string{"dry", "clean and dry"}},
	{"greased", Grease, []string{"greased", "grease"}},
	{"thread lock", ThreadLock, []string{"coated with thread lock", "thread lock", "threadlock", "thread locker"}},
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
