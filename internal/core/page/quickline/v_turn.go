package quickline

import (
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var turnGrammar = &grammar{
	read: readTurn,
	next: func(x *engine.Index, a step.Action) []string {
		t := a.(*step.Turn)
		var out []string
		if t.Way == "" {
			out = append(out, string(x.Sheet.Running))
		}
		if t.Shaft == "" && t.Turns == 0 && t.To == "" && t.Onto == "" && t.Into == "" {
			out = append(out, "2 turns")
			for i := range x.Sheet.Marks {
				if m := &x.Sheet.Marks[i]; m.Kind == engine.TimingMark {
					out = append(out, "to "+m.Name)
				}
			}
		}
		if t.Shaft == "" && t.Onto == "" && t.Into == "" && !t.Short {
			for i := range x.Sheet.Locks {
				if k := &x.Sheet.Locks[i]; k.Kind == engine.StopLock {
					out = append(out, "onto "+k.Name)
				}
			}
			out = append(out, "and stop just short")
		}
		return out
	},
}

func readTurn(l *Line) step.Action {
	a := &step.Turn{}
	l.Clauses(
		func() bool {
			if a.Way != "" || a.Crank() || !l.Say("in running direction", "in the running direction", "in its running direction") {
				return false
			}
			a.Way = l.x.Running(a.Shaft)
			return true
		},
		l.Filler("with a spanner on its hexagon", "with an open spanner on its hexagon", "with a spanner", "with an open spanner", "by its hexagon", "at its hexagon", "on its hexagon", "by hand", "carefully", "again"),
		func() bool { return readShaft(a, l) },
		l.Way(&a.Way),
		l.View(&a.OtherEnd),
		func() bool {
			l.Skip("by", "through", "a further", "another", "for", "further")
			q, ok := l.Figure(unit.KindAngle)
			switch {
			case !ok || !a.Degrees.IsZero():
				return false
			case q.Unit != unit.Turn:
				a.Degrees = q
			case a.Turns != 0 || !q.Plain():
				return false
			default:
				a.Turns = q.Value
				l.few(q.Value)
			}
			if deg, ok := a.Degrees.Angle(); ok {
				l.few(float64(deg) / 360)
			}
			l.Say("of the crank", "of crank", "of the engine", "further", "more")
			return true
		},
		func() bool { return readTarget(a, l) },
		func() bool {
			if a.Short || !l.Say("and stop just short", "stop just short", "stopping just short", "and stop short", "stop short", "stopping short", "just short", "and stop just before", "stop just before", "stopping just before") {
				return false
			}
			if a.To == "" && l.Say("of") {
				at := l.pos
				if id, ok := l.One(engine.KindMark); ok {
					a.To = engine.MarkID(id)
				} else {
					l.pos = at - 1
				}
			}
			l.Say("of it", "of the mark", "of that", "of the pin", "of the stop", "of tdc", "it", "of the target")
			a.Short = true
			return true
		},
		func() bool {
			if a.On != "" || !l.Say("on", "by", "with", "using", "at") {
				return false
			}
			l.Say("a wrench on", "a spanner on", "a socket on", "a ratchet on", "a wrench at", "a spanner at", "the wrench on", "wrench on")
			id, ok := l.One(engine.KindFastener)
			a.On = engine.FastenerID(id)
			return ok
		},
	)
	l.seenFrom(&a.Way, a.OtherEnd)
	if len(l.left) == 0 {
		switch {
		case a.Turns == 0 && a.Degrees.IsZero() && a.To == "" && a.Onto == "" && a.Into == "" && a.Until == "" && !a.Painted:
			l.refuse("it does not say how far to turn: “2 turns”, “90°”, “to …” a mark or “onto …” a stop")
		case a.Painted && (a.To != "" || a.Onto != "" || a.Into != ""), a.To != "" && a.Onto != "", a.Into != "" && (a.To != "" || a.Onto != "" || a.Short):
			l.refuse("it names two places to stop at")
		case a.Shaft != "" && (a.Onto != "" || a.Short || len(a.Also) > 0):
			l.refuse("only the crank comes up to a stop, stops short of one, or is turned until several marks stand")
		}
	}
	return a
}

// readShaft reads what is turned: the crank, the engine, or another shaft.
func readShaft(a *step.Turn, l *Line) bool {
	if l.turned() {
		return true
	}
	if a.Shaft != "" {
		return false
	}
	named := l.shaftsNamed()
	if len(named) != 1 {
		return false
	}
	a.Shaft = named[0]
	return true
}

// turned reads that the crank is turned: the crank, the engine.
func (l *Line) turned() bool {
	return l.Say("the crank over", "crank over", "the engine over", "engine over", "over the engine", "over the crank", "the crank", "crank", "the engine", "engine")
}

// readTarget reads a mark to come to or a stop to come up to.
func readTarget(a *step.Turn, l *Line) bool {
	if a.To != "" || a.Onto != "" || a.Into != "" || a.Until != "" || a.Painted {
		return false
	}
	if from := l.pos; l.Say("until", "till", "to") {
		if a.Painted = l.ownMarks(); a.Painted {
			l.Say(stands...)
			l.Say("again")
			return true
		}
		l.pos = from
	}
	if readInto(a, l) || readUntil(a, l) {
		return true
	}
	stop := false
	switch {
	case l.Say("until", "till", "so that"):
		at := l.pos
		l.Say("it", "the crank", "the engine", "the web", "its web", "the crank web", "the web of the crank")
		if l.Say("just touches", "touches", "meets", "rests against", "rests on", "comes up to", "comes up against", "stops against", "stops at", "stops on", "contacts", "bears against", "abuts") {
			stop = true
		} else {
			l.pos = at
		}
	case l.Say("onto", "up to", "up against", "against", "to rest against", "to the stop of", "to rest on"):
		stop = true
	case l.Say("to just short of", "to just before", "until just short of", "until just before"):
		a.Short = true
	case l.Say("to"):
	default:
		return false
	}
	from := l.pos
	if id, ok := l.One(engine.KindLock); ok {
		if k := l.x.Lock(engine.LockID(id)); k != nil && k.Kind == engine.StopLock || l.asking() {
			a.Onto = engine.LockID(id)
			l.Say("is met", "is touched")
			return true
		}
	}
	l.pos = from
	if stop {
		return false
	}
	at, asks, problem := l.pos, len(l.asks), l.problem
	if ns, ok := l.Things(true, engine.KindMark); ok && !l.asking() && len(pick[engine.MarkID](ns, engine.KindMark)) > 1 {
		marks := pick[engine.MarkID](ns, engine.KindMark)
		a.To, a.Also = marks[0], marks[1:]
		l.standing(a.To)
		return true
	}
	l.pos, l.asks, l.problem = at, l.asks[:asks], problem
	id, ok := l.One(engine.KindMark)
	if !ok {
		return false
	}
	a.To = engine.MarkID(id)
	for !l.end() {
		at := l.pos
		comma := l.Say(",")
		if !l.Say("and") && !comma || l.end() || strings.HasPrefix(l.tokens[l.pos].word, "stop") {
			l.pos = at
			break
		}
		id, ok := l.One(engine.KindMark)
		if !ok {
			l.pos = at
			break
		}
		a.Also = append(a.Also, engine.MarkID(id))
		l.Say("too", "as well")
	}
	l.standing(a.To)
	return true
}

// readUntil reads a reading of the sheet that the turn ends at: "until the plunger lift
// reads 1.05 mm".
func readUntil(a *step.Turn, l *Line) bool {
	from, asks, problem := l.pos, len(l.asks), l.problem
	if !l.Say("until", "till", "so that") {
		return false
	}
	l.Say("the gauge shows", "the dial gauge shows", "the gauge reads", "the dial gauge reads")
	value := func() bool {
		q, ok := l.Figure(measurable...)
		a.Reads = q
		return ok
	}
	before := value()
	if before {
		l.Say("of")
	}
	id, ok := l.One(engine.KindReading)
	if !ok || l.asking() {
		l.pos, l.asks, l.problem, a.Reads = from, l.asks[:asks], problem, unit.Quantity{}
		return false
	}
	if a.Until = engine.ReadingID(id); !before {
		l.Say("reads so", "is right", "reads", "shows", "is", "stands at", "comes to", "measures", "has come to", "of")
		value()
	}
	return true
}

// readInto reads a lock that goes in where the turn ends: "until the crank pin
// drops in".
func readInto(a *step.Turn, l *Line) bool {
	from, asks := l.pos, len(l.asks)
	l.Say("while pushing lightly on", "while pressing lightly on", "pressing lightly on", "while pushing on", "while pressing on")
	if l.pos == from && !l.Say("until", "till", "so that") {
		return false
	}
	id, ok := l.One(engine.KindLock)
	// A stop goes in anywhere before its place, and a holder everywhere.
	if k := l.x.Lock(engine.LockID(id)); !ok || len(l.asks) > asks || k == nil || !k.Kind.ForPosition() || k.Kind == engine.StopLock {
		l.pos, l.asks = from, l.asks[:asks]
		return false
	}
	if at := l.pos; l.Say("until it", "until") && at == from {
		l.pos = from
		return false
	}
	if !l.Say("goes in", "drops in", "drops into place", "slides in", "engages", "can be fitted", "can be inserted", "enters", "goes home", "slips in", "goes into its hole", "drops into its hole", "slides into its hole", "will go in", "fits") {
		l.pos = from
		return false
	}
	l.Say("by hand")
	a.Into = engine.LockID(id)
	return true
}

// standing reads that a mark stands where it belongs.
func (l *Line) standing(id engine.MarkID) bool {
	from := l.pos
	l.Say("again")
	if !l.Say(stands...) {
		l.pos = from
		return false
	}
	at := l.pos
	l.Say("with", "at", "to", "against", "opposite", "up with")
	if l.Say("its pointer", "the pointer", "pointer", "its mark", "their pointers", "its notch", "the pointers") {
		l.Say("again")
		return true
	}
	if m := l.x.Mark(id); m != nil && m.Pointer != "" {
		l.Skip("the", "its")
		n := 0
		for _, t := range tokens(m.Pointer) {
			if l.pos+n >= len(l.tokens) || l.tokens[l.pos+n].word != t.word {
				n = -1
				break
			}
			n++
		}
		if n > 0 {
			l.pos += n
			return true
		}
	}
	l.pos = at
	l.Say("again")
	return true
}

// stands are the ways to say that marks stand at their pointers.
var stands = []string{"stands", "stand", "lines up", "line up", "is lined up", "are lined up", "is aligned", "are aligned", "aligns", "align", "is in line", "are in line", "is home", "are home", "is at", "are at", "meets", "meet", "matches", "match", "coincides", "coincide", "points", "is opposite", "comes", "stands true", "stand true", "is set", "comes up"}
