package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var slackenGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Slacken{}
		l.Clauses(
			l.someOf(&a.Some), Several(l, &a.Fasteners, engine.KindFastener), l.hold(&a.Hold), l.leftHand(func() []engine.FastenerID { return a.Fasteners }), l.counted(func() int { return counted(l.x, a.Fasteners, a.Some) }),
			func() bool {
				l.Say("by")
				if a.Turns != 0 {
					return false
				}
				n, ok := l.Turns()
				a.Turns = n
				return ok
			},
		)
		l.fewerThanAll(a.Fasteners, a.Some)
		return a
	},
	next: func(x *engine.Index, a step.Action) []string {
		s := a.(*step.Slacken)
		return append(holdNext(x, s.Fasteners, s.Hold), when(s.Turns == 0, "one turn")...)
	},
}

// someOf is a clause that reads how many of a set are meant: "two of the six".
func (l *Line) someOf(at *int) func() bool {
	return func() bool {
		if *at != 0 || l.pos+2 >= len(l.tokens) || l.tokens[l.pos+1].word != "of" {
			return false
		}
		n, ok := wholeNumber(l.tokens[l.pos].word)
		if !ok || n < 1 {
			return false
		}
		l.pos += 2
		*at = n
		return true
	}
}

// counted is how many bolts a line may count: those that are meant, or all of the set.
func counted(x *engine.Index, of []engine.FastenerID, some int) int {
	if some > 0 {
		return some
	}
	return step.FastenerCount(x, of)
}

// fewerThanAll refuses some of a set that are all of it or more, or of several sets.
func (l *Line) fewerThanAll(of []engine.FastenerID, some int) {
	if some == 0 || len(l.left) > 0 || l.asking() {
		return
	}
	if len(of) != 1 || some >= step.FastenerCount(l.x, of) {
		l.refuse("the sheet has " + unit.Number(float64(step.FastenerCount(l.x, of))) + " of them: leave the number out where all are meant")
	}
}

var holdWords = []string{"hold with", "held with", "holding with", "held by", "counterhold with", "counterheld with", "while holding with", "against", "with", "using", "hold it with", "holding it with", "hold the sprocket with", "holding the sprocket with", "while holding the sprocket with", "hold the crank with", "holding the crank with", "while holding the crank with", "hold the pulley with", "holding the pulley with", "while holding the pulley with", "hold the sprockets with", "holding the sprockets with", "while holding the sprockets with", "hold the wheel with", "holding the wheel with", "hold the cam with", "holding the cam with", "while holding it with", "while counterhold with", "while holding the cam with", "and hold with", "by holding with"}

// hold is a clause that reads what holds against the wrench.
func (l *Line) hold(at *engine.LockID) func() bool {
	return func() bool {
		if *at != "" || !l.Say(holdWords...) {
			return false
		}
		id, ok := l.One(engine.KindLock)
		*at = engine.LockID(id)
		if ok && l.Say("fitted", "in place", "engaged", "in position") && !l.carries(*at) {
			// With the cam bar fitted: that says where the engine stands, not what holds.
			*at = ""
			return false
		}
		return ok
	}
}

// carries reports whether a lock may hold against a wrench.
func (l *Line) carries(id engine.LockID) bool {
	k := l.x.Lock(id)
	return k != nil && k.CarriesTorque
}

// leftHand is a clause that reads that a thread is left-handed, where it is.
func (l *Line) leftHand(of func() []engine.FastenerID) func() bool {
	return func() bool {
		l.Say("which has a", "it has a", "a")
		if !l.Say("left thread", "left threaded", "left hand thread") {
			return false
		}
		for _, id := range of() {
			if f := l.x.Fastener(id); f == nil || !f.LeftHand {
				l.refuse("the sheet has no left-hand thread there")
			}
		}
		return len(of()) > 0
	}
}

// counted is a clause that reads how many bolts there are, where that is right.
func (l *Line) counted(n func() int) func() bool {
	return func() bool {
		if l.end() {
			return false
		}
		v, ok := wholeNumber(l.tokens[l.pos].word)
		if !ok || v != n() || v < 1 {
			return false
		}
		l.pos++
		return l.Say("bolts", "screws", "nuts", "bolt")
	}
}

func heldCount(x *engine.Index, parts []engine.PartID) int {
	n := 0
	for _, id := range parts {
		if p := x.Part(id); p != nil {
			n += step.FastenerCount(x, p.Held)
		}
	}
	return n
}

func when(ok bool, s string) []string {
	if ok {
		return []string{s}
	}
	return nil
}

func holdNext(x *engine.Index, fs []engine.FastenerID, hold engine.LockID) []string {
	if hold != "" || len(fs) == 0 {
		return nil
	}
	f := x.Fastener(fs[0])
	if f == nil || f.HoldWith == "" {
		return nil
	}
	if k := x.Lock(f.HoldWith); k != nil {
		return []string{"hold with " + k.Name}
	}
	return nil
}
