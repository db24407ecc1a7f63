package quickline

import (
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var checkGrammar = &grammar{
	read: readCheck,
	next: func(_ *engine.Index, a step.Action) []string {
		if c := a.(*step.Check); len(c.Locks) > 0 && c.Found == "" {
			return []string{"goes in by hand"}
		}
		return nil
	},
}

var (
	goesIn   = []string{"goes in", "go in", "fits", "fit", "slides in", "slide in", "can be fitted", "can be inserted", "will go in", "enters", "enter", "goes in easily", "can be pushed in", "fits in"}
	foundIn  = []string{"is still in place", "are still in place", "is in place", "are in place", "is still in", "are still in", "is in", "are in", "is fitted", "are fitted", "is still fitted", "are still fitted", "is installed", "are installed", "is on", "are on", "is back on", "are back on", "is back", "are back", "is back in place", "are back in place", "is inserted", "are inserted", "is connected", "are connected", "is engaged", "are engaged"}
	foundOut = []string{"is not in place", "are not in place", "is not in", "are not in", "is not fitted", "are not fitted", "is not installed", "is out", "are out", "is off", "are off", "is removed", "are removed", "has been removed", "have been removed", "is taken out", "are taken out", "has been taken out", "have been taken out", "is taken off", "are taken off", "is not on", "are not on", "is withdrawn", "are withdrawn", "is disconnected", "are disconnected", "is no longer in", "are no longer in"}
	away     = []string{"does not stand", "do not stand", "is not aligned", "are not aligned", "does not line up", "do not line up", "is away", "are away"}
	hidden   = []string{"is hidden", "are hidden", "cannot be seen", "is covered", "are covered", "is not visible", "are not visible"}
	counts   = []string{"every tool is back in its kit", "the tools are counted back into the kit", "tools are counted back into the kit", "all tools are counted back into the kit", "all the tools are counted back into the kit", "all tools are back in the kit", "all the tools are back in the kit", "all special tools are back in the kit", "every tool is back in the kit", "tools counted", "the tools are counted", "tools are counted", "all tools are counted"}
)

func readCheck(l *Line) step.Action {
	a := &step.Check{}
	from := l.pos
	if l.phrase == "count" {
		if !l.Say("the tools", "tools", "all tools", "all the tools", "the special tools") {
			return a
		}
		l.Say("back into the kit", "back into their kit", "back in", "back into its kit", "back into their kits")
		a.Tools = true
		l.Clauses(l.Filler("again"))
		return a
	}
	l.Clauses(l.Filler("that", "again"), func() bool { return readOne(a, l) })
	if len(l.left) == 0 && !l.asking() {
		return a
	}
	if that := checkWords(a, l, from); that != nil {
		return that
	}
	return a
}

// words takes all that follows as it was typed, where it names nothing that the
// check could look at by itself: then it would have been meant so.
func checkWords(a *step.Check, l *Line, from int) *step.Check {
	switch l.phrase {
	case "check", "verify", "confirm":
		return nil // something in words is said with “that”
	case "make sure", "ensure":
		// "make sure to …", "make sure you …" are no things to look at.
		if l.at(from, "that") > 0 || l.at(from, "to") > 0 || l.at(from, "not") > 0 || l.at(from, "you") > 0 || l.at(from, "it") > 0 || l.at(from, "if") > 0 {
			return nil
		}
	}
	for i := from; i < len(l.tokens); i++ {
		probe := &Line{x: l.x, lex: l.lex, text: l.text, tokens: l.tokens, pos: i}
		if w := l.tokens[i].word; w == "the" || w == "a" || w == "an" || w == "all" || w == "both" || w == "each" || w == "every" {
			continue
		}
		if _, ok := probe.Things(true, engine.KindLock, engine.KindMark, engine.KindTensioner); ok {
			return nil
		}
	}
	// What is looked at in words is kept to the letter, whatever words those are.
	free := &Line{x: l.x, lex: l.lex, text: l.text, tokens: l.tokens, pos: from, phrase: l.phrase, may: guarded, figured: true}
	that := free.Free(nil)
	if that == "" || !free.end() || free.problem != "" || !strings.Contains(that, " ") {
		return nil
	}
	l.left, l.asks, l.problem, l.loose = nil, nil, "", true
	return &step.Check{That: that}
}

// readOne reads one thing that is looked at, with how it is to be found.
func readOne(a *step.Check, l *Line) bool {
	if !a.Tools && l.Say(counts...) {
		a.Tools = true
		return true
	}
	if !a.Painted && l.ownMarks() {
		l.Say("still", "all")
		if !l.Say("are still aligned", "are still lined up", "are still in line", "are all aligned") && !l.Say(stands...) && !l.end() {
			return false
		}
		l.Say("again")
		a.Painted = true
		return true
	}
	if a.Tensioner == "" && readPointer(a, l) {
		return true
	}
	if len(a.Pins) == 0 && readPins(a, l) {
		return true
	}
	from := l.pos
	ns, ok := l.Things(true, engine.KindLock, engine.KindMark, engine.KindLoop, engine.KindPart)
	if !ok {
		return false
	}
	marks, locks := pick[engine.MarkID](ns, engine.KindMark), pick[engine.LockID](ns, engine.KindLock)
	parts, loops := pick[engine.PartID](ns, engine.KindPart), pick[engine.LoopID](ns, engine.KindLoop)
	found, ok := foundAs(l, marks, locks, parts, loops)
	any := len(a.Marks)+len(a.Locks)+len(a.Parts)+len(a.Loops) > 0
	if !ok || any && found != a.Found {
		l.pos = from
		return false
	}
	a.Found = found
	a.Marks, a.Locks = append(a.Marks, marks...), append(a.Locks, locks...)
	a.Parts, a.Loops = append(a.Parts, parts...), append(a.Loops, loops...)
	return true
}

// foundAs reads how things are to be found.
func foundAs(l *Line, marks []engine.MarkID, locks []engine.LockID, parts []engine.PartID, loops []engine.LoopID) (step.Found, bool) {
	only := func(n int) bool { return n == len(marks)+len(locks)+len(parts)+len(loops) }
	l.Say("all", "both")
	switch {
	case only(len(locks)) && l.Say(goesIn...):
		l.Say("easily", "freely", "without force", "without forcing it", "without forcing them")
		l.Say("by hand")
		return "", true
	case only(len(marks)) && l.Say(away...):
		return step.FoundOut, true
	case only(len(marks)) && l.Say(hidden...):
		return step.FoundHidden, true
	case only(len(marks)) && len(marks) > 0 && (l.standing(marks[0]) || l.end()):
		return "", true
	case len(marks) == 0 && l.Say(foundOut...):
		return step.FoundOut, true
	case len(marks) == 0 && l.Say(foundIn...):
		return step.FoundIn, true
	}
	return "", false
}

// ownMarks reads the marks that the technician painted.
func (l *Line) ownMarks() bool {
	return l.Say("the paint marks", "paint marks", "the painted marks", "painted marks", "your own marks", "own marks", "the paint mark", "paint mark", "the marks painted", "your paint marks")
}

// readPins reads that the pins of tensioners go into their holes.
func readPins(a *step.Check, l *Line) bool {
	from, asks, problem := l.pos, len(l.asks), l.problem
	back := func() bool {
		l.pos, l.asks, l.problem = from, l.asks[:asks], problem
		return false
	}
	l.Say("the")
	of := l.Say("pin of", "pins of", "retaining pin of", "locking pin of")
	ns, ok := l.Things(true, engine.KindTensioner)
	ids := pick[engine.TensionerID](ns, engine.KindTensioner)
	if !ok || len(ids) == 0 || l.asking() || len(step.PinTools(l.x, ids)) == 0 || !of && !l.Say("pin", "pins", "locking pin", "retaining pin") {
		return back()
	}
	if !l.Say("slides freely in and out of", "slides freely in and out", "slides in and out of", "slides in and out", "goes in and out of", "goes in and out") && !l.Say(goesIn...) && !l.Say("slides", "slide", "goes into", "go into", "fits into", "fit into") {
		return back()
	}
	l.Say("freely", "easily")
	l.Say("into its hole", "into their holes", "into the hole", "into the holes", "its hole", "their holes", "the hole", "into place", "home")
	l.Say("again")
	l.Say("freely", "easily")
	l.Say("by hand", "freely by hand")
	l.Say("again")
	a.Pins = ids
	return true
}

// readPointer reads that a tensioner's pointer stands in its notch.
func readPointer(a *step.Check, l *Line) bool {
	from, asks, problem := l.pos, len(l.asks), l.problem
	l.Skip("the", "position of", "place of")
	lead := l.Say("pointer of", "pointer on")
	id, ok := l.One(engine.KindTensioner)
	if !ok || !lead && !l.Say("pointer") {
		l.pos, l.asks, l.problem = from, l.asks[:asks], problem
		return false
	}
	if !l.Say("stands where it was set", "is where it was set", "stands as it was set", "stands as set", "is still where it was set", "still stands where it was set", "has not moved", "stands in its notch", "is in its notch", "is in the notch", "stands in the notch", "in the notch", "is at the notch", "is still in the notch", "is still in its notch", "stands at its notch", "is opposite the notch", "lines up with the notch", "is aligned with the notch", "is centred in the notch", "is centred in notch", "centred in the notch", "is in notch", "in notch") && !l.end() {
		l.pos, l.asks, l.problem = from, l.asks[:asks], problem
		return false
	}
	a.Tensioner = engine.TensionerID(id)
	return true
}
