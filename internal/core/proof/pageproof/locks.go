package pageproof

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

var lockRules = finding.Family[*proving]{
	{ID: "unknown-thing", Family: "locks and turning", Severity: finding.Blocks, Check: unknownThing,
		Doc: "a step that speaks of something this engine does not have"},
	{ID: "turned-against-lock", Family: "locks and turning", Severity: finding.Blocks, Check: turnedAgainst,
		Doc: "a broken pin or block: the crank turned with a lock in"},
	{ID: "lock-will-not-go-in", Family: "locks and turning", Severity: finding.Blocks, Check: wouldNotGoIn,
		Doc: "a tool forced where the crank stands wrong, or on the wrong stroke"},
	{ID: "lock-left-in", Family: "locks and turning", Severity: finding.Blocks, Check: lockLeftIn,
		Doc: "an engine started or turned with a lock or holder left in"},
	{ID: "access-shut", Family: "locks and turning", Severity: finding.Blocks, Check: accessShut,
		Doc: "a tool that cannot be fitted because its plug or cover is still on"},
	{ID: "nothing-to-meet", Family: "locks and turning", Severity: finding.Blocks, Check: nothingToMeet,
		Doc: "turning onto a stop that is not there"},
	{ID: "found-otherwise", Family: "locks and turning", Severity: finding.Blocks, Check: foundOtherwise,
		Doc: "a check that what is in is out, or the other way round"},
	{ID: "lock-twice", Family: "locks and turning", Severity: finding.ShouldFix, Check: lockTwice,
		Doc: "a lock fitted that is in already, or taken out that is not"},
	{ID: "out-never-in", Family: "locks and turning", Severity: finding.ShouldFix, Check: outNeverIn,
		Doc: "a look whether a tool is out that was never in: another one was meant, and stays in"},
	{ID: "out-look-partial", Family: "locks and turning", Severity: finding.Look, Check: outLookPartial,
		Doc: "a look whether the tools are out that forgets one of them"},
}

// outLooks calls f for every step that looks whether locks are out.
func (c *proving) outLooks(f func(i int, a *step.Check)) {
	for i := range c.Page.Steps {
		if a, ok := c.Page.Steps[i].Action.(*step.Check); ok && a.Found == step.FoundOut && len(a.Locks) > 0 {
			f(i, a)
		}
	}
}

// outNeverIn reports a look whether a lock is out that was not in at any step before it, where
// one that came out is not looked at.
func outNeverIn(c *proving) {
	c.outLooks(func(i int, a *step.Check) {
		for _, id := range a.Locks {
			k := c.Index.LockAt(id)
			if k < 0 {
				continue
			}
			was := c.Run.First.Locks[k].In
			for j := 0; j < i && !was; j++ {
				was = c.Run.Steps[j].After.Locks[k].In || c.Page.Steps[j].HoldsWith() == id
			}
			n := *a
			n.Locks = c.cameOut(i)
			if was || !slices.ContainsFunc(n.Locks, func(o engine.LockID) bool { return !slices.Contains(a.Locks, o) }) {
				continue // one tool more that is looked for is care
			}
			m := c.change(i, message.F("Look at what came out"), &n)
			c.find(message.F("%s looks whether the %s is out, which was never in", c.num(i), c.lock(id)), message.F("Another one was meant, and nobody looks whether that is out."), []int{i}, m)
			return
		}
	})
}

// cameOut are the locks that came out since the engine was last turned before a step, or since
// the page began.
func (c *proving) cameOut(i int) []engine.LockID {
	from := i
	for from > 0 {
		switch c.Page.Steps[from-1].Action.(type) {
		case *step.Turn, *step.Start:
			return c.outBetween(from, i)
		}
		from--
	}
	return c.outBetween(0, i)
}

func (c *proving) outBetween(from, to int) (out []engine.LockID) {
	for k := range c.Index.Sheet.Locks {
		for j := from; j < to; j++ {
			if c.Run.Before(j).Locks[k].In && !c.Run.Steps[j].After.Locks[k].In && !c.Run.Before(to).Locks[k].In {
				out = append(out, c.Index.Sheet.Locks[k].ID)
				break
			}
		}
	}
	return out
}

// outLookPartial reports a look whether locks are out that leaves out one that came out with
// them, where no other look before the next turn has it.
func outLookPartial(c *proving) {
	c.outLooks(func(i int, a *step.Check) {
		all := c.cameOut(i)
		if !slices.ContainsFunc(all, func(id engine.LockID) bool { return slices.Contains(a.Locks, id) }) {
			return
		}
		var left []engine.LockID
		for _, id := range all {
			if !slices.Contains(a.Locks, id) && !c.lookedOut(i, id) {
				left = append(left, id)
			}
		}
		if len(left) == 0 {
			return
		}
		n := *a
		n.Locks = slices.Concat(a.Locks, left)
		c.find(message.F("%s looks whether the %s is out, and not the %s", c.num(i), c.lock(a.Locks[0]), c.lock(left[0])), message.F("It came out for the same turn, and is as easily left in."), []int{i}, c.change(i, message.F("Look at all of them"), &n))
	})
}

// lookedOut reports whether another look than step i has a lock before the engine is turned
// next, or had it since it was turned.
func (c *proving) lookedOut(i int, id engine.LockID) bool {
	looks := func(j int) bool {
		a, ok := c.Page.Steps[j].Action.(*step.Check)
		return ok && (a.Tools || a.Found == step.FoundOut && slices.Contains(a.Locks, id))
	}
	turns := func(j int) bool {
		switch c.Page.Steps[j].Action.(type) {
		case *step.Turn, *step.Start:
			return true
		}
		return false
	}
	for j := i - 1; j >= 0 && !turns(j); j-- {
		if looks(j) {
			return true
		}
	}
	for j := i + 1; j < len(c.Page.Steps) && !turns(j); j++ {
		if looks(j) {
			return true
		}
	}
	return false
}

func unknownThing(c *proving) {
	each(c, func(i int, e virtual.UnknownThing) {
		if c.notOnThis(e.Name) {
			return // found with the engines that do not have it
		}
		if e.Name == "" {
			c.find(message.F("%s does not say what it acts on", c.num(i)), message.F("Without it the step does nothing on the virtual engine."), []int{i})
			return
		}
		c.find(message.F("%s speaks of “%s”, which is not on the sheet of %s", c.num(i), e.Name, c.Index.Sheet.Code), message.F("The virtual engine cannot follow the step."), []int{i})
	})
}

// foundAs is how things are found, in words.
var foundAs = map[virtual.Finding]message.Text{
	virtual.FoundIn: message.F("in"), virtual.FoundOut: message.F("out"), virtual.FoundFitted: message.F("fitted"), virtual.FoundOn: message.F("on"), virtual.FoundOff: message.F("off"),
	virtual.FoundInView: message.F("in view"), virtual.FoundAtPointer: message.F("at its pointer"), virtual.FoundRelieved: message.F("relieved"),
}

// foundOtherwise reports a check that comes out the other way than it says.
func foundOtherwise(c *proving) {
	each(c, func(i int, e virtual.FoundOtherwise) {
		var m Mend
		if e.Thing.Kind == engine.KindLock && e.Found == virtual.FoundIn {
			m = c.before(i, &step.Unlock{Locks: []engine.LockID{engine.LockID(e.Thing.ID)}})
		}
		c.find(message.F("%s checks the %s, and it is %s", c.num(i), named(e.Thing.Kind.List(), e.Thing.ID, c.Index.Name(e.Thing)), foundAs[e.Found]), message.F("The check and the steps before it do not fit together."), []int{i}, m)
	})
}

// bring is a turn before step i that brings shafts round to an angle, where one
// turn of the crank brings them all there; nothing where none does.
func (c *proving) bring(i int, shafts []engine.ShaftID, at, period float64) Mend {
	st := c.Run.Before(i)
	if !st.Found {
		return Mend{} // nobody knows how far it is from where the engine was found
	}
	if slices.ContainsFunc(st.Locks, func(l virtual.LockState) bool { return l.In }) {
		return Mend{} // nothing is turned against a lock
	}
	need := -1.0
	for _, id := range shafts {
		k := c.Index.ShaftAt(id)
		if k < 0 {
			return Mend{}
		}
		d := c.Index.Drive(k)
		ratio := math.Abs(d.Ratio.Float())
		if ratio == 0 || slices.ContainsFunc(d.Loops, func(l int) bool { return !st.Loops[l].On }) {
			return Mend{}
		}
		n := math.Mod(at-st.Shafts[k], period)
		if n < 0 {
			n += period
		}
		if n /= ratio; need >= 0 && math.Abs(n-need) > 0.05 {
			return Mend{}
		}
		need = n
	}
	if need < 0.05 || need > float64(c.Index.Sheet.Cycle.Degrees())*2 {
		return Mend{}
	}
	a := &step.Turn{Way: c.Index.Sheet.Running, Turns: math.Floor(need/360 + 1e-6)}
	if rest := math.Round((need-360*a.Turns)*100) / 100; rest > 0 {
		a.Degrees = unit.Of(rest, unit.Degree)
	}
	return c.before(i, a)
}

// turnedAgainst reports each fitted lock at the first turn made against it.
func turnedAgainst(c *proving) {
	said := make([]bool, len(c.Index.Sheet.Locks))
	for i := range c.Run.Steps {
		var against []engine.LockID
		for _, e := range c.Run.Steps[i].Events {
			switch e := e.(type) {
			case virtual.CameOut:
				if l := c.Index.LockAt(e.Lock); l >= 0 {
					said[l] = false
				}
			case virtual.TurnedAgainst:
				if l := c.Index.LockAt(e.Lock); !said[l] {
					said[l] = true
					against = append(against, e.Lock)
				}
			}
		}
		if len(against) > 0 {
			c.turnedOne(i, against)
		}
	}
}

func (c *proving) turnedOne(i int, against []engine.LockID) {
	names := make([]string, len(against))
	for k, id := range against {
		names[k] = c.lock(id).String()
	}
	var mends []Mend
	later := -1
	for k := i + 1; k < len(c.Page.Steps) && later < 0; k++ {
		if u, ok := c.Page.Steps[k].Action.(*step.Unlock); ok && containsAll(u.Locks, against) {
			later = k
		}
	}
	if later > 0 {
		mends = append(mends, c.moveBefore(later, i))
	}
	mends = append(mends, c.before(i, &step.Unlock{Locks: against}))
	if later > 0 {
		// What needs it later has it again.
		again := &step.Lock{Lock: against[0], Also: against[1:]}
		out := and(c.before(i, &step.Unlock{Locks: against}), c.after(i, again))
		out.Label += " and fit it again after the turn"
		mends = append(mends, out)
	}
	mends = append(mends, c.drop(i)) // a turn that nothing needs
	in := c.WentIn(i, against[0])
	since := fmt.Sprintf("It went in at step %d", c.place(in)+1)
	if in < 0 {
		since = "It is in when the page begins"
	}
	why := since + " and nothing takes it out. The pin or the block will break."
	if len(against) > 1 {
		why = "Nothing takes them out before. The tools or what they sit in will break."
	} else if later > 0 {
		why = fmt.Sprintf("%s and comes out only at step %d. The pin or the block will break.", since, c.place(later)+1)
	}
	c.find(message.F("%s turns the %s with the %s fitted", c.num(i), c.turned(i), list(names)), message.As(why), []int{i, in}, mends...)
}

// turned is what step i turns.
func (c *proving) turned(i int) string {
	if t, ok := c.Page.Steps[i].Action.(*step.Turn); ok && !t.Crank() {
		return c.shaft(t.Shaft).String()
	}
	return "crank"
}

func containsAll[T comparable](have, want []T) bool {
	for _, w := range want {
		if !slices.Contains(have, w) {
			return false
		}
	}
	return true
}

func wouldNotGoIn(c *proving) {
	each(c, func(i int, e virtual.WouldNotGoIn) {
		l := c.Index.Lock(e.Lock)
		name, shaft := c.lock(e.Lock), c.shaft(e.Shaft)
		off := message.F("The %s stands %s° away from where it goes in.", shaft, tidy(math.Abs(float64(e.Degrees))))
		prove := c.LastTurn(i)
		switch {
		case l.Kind == engine.StopLock:
			c.find(message.F("The %s cannot go in at step %d", name, c.no(i)), message.F("%s The web has passed its hole: turn on and stop short.", off), []int{i},
				c.before(i, &step.Turn{Turns: 1, Way: c.Index.Sheet.Running, Short: true}))
		case prove >= 0 && c.Refitted(i):
			c.find(message.F("The %s will not go in at step %d", name, c.no(i)), message.F("%s The count of turns before it does not bring it home.", off), []int{i, prove}, c.betterCount(prove))
		case e.WrongStroke:
			c.find(message.F("The %s will not go in at step %d: wrong stroke", name, c.no(i)), message.F("%s One more turn of the crank brings the other stroke.", off), []int{i},
				c.before(i, &step.Turn{Turns: 1, Way: c.Index.Sheet.Running, Short: c.StopIn(i) == ""}))
		default:
			c.find(message.F("The %s will not go in at step %d", name, c.no(i)), message.F("%s Bring the crank to the timing position first.", off), []int{i}, c.bring(i, l.Holds, l.At, float64(l.Period())), c.toPosition(i, l))
		}
	})
}

// toPosition turns onto a fitted stop, or to a mark that tells the stroke.
func (c *proving) toPosition(i int, l *engine.Lock) Mend {
	if stop := c.StopIn(i); stop != "" {
		return c.before(i, &step.Turn{Way: c.Index.Sheet.Running, Onto: stop})
	}
	for k := range c.Index.Sheet.Marks {
		m := &c.Index.Sheet.Marks[k]
		if m.Kind == engine.TimingMark && slices.Contains(l.Holds, c.Index.MarkShaft(m)) {
			return c.before(i, &step.Turn{Way: c.Index.Sheet.Running, To: m.ID})
		}
	}
	return Mend{}
}

func tidy(v float64) string { return fmt.Sprintf("%.4g", v) }

func lockLeftIn(c *proving) {
	startedAgain(c)
	end := c.Start()
	st := c.Run.Before(end)
	for k := range c.Index.Sheet.Locks {
		l := &c.Index.Sheet.Locks[k]
		if !st.Locks[k].In || handsOn(c, c.whole.Ends.In, l.ID) {
			continue
		}
		in := c.WentIn(end, l.ID)
		if c.TurnedSince(in, l.ID) {
			continue // said already, with the mend that settles both
		}
		why := "Nothing takes it out before the procedure ends."
		if end < len(c.Page.Steps) {
			why = fmt.Sprintf("The engine is started at step %d with it in place.", c.place(end)+1)
		}
		c.find(message.F("The %s is left in", l.Name), message.As(why), []int{in}, c.before(end, &step.Unlock{Locks: []engine.LockID{l.ID}}))
	}
	for k := range c.Index.Sheet.Tensioners {
		t := &c.Index.Sheet.Tensioners[k]
		if st.Tensioners[k].Now != virtual.Pinned || handsOn(c, c.whole.Ends.Pinned, t.ID) {
			continue
		}
		in := -1
		for i := range end {
			if c.Run.Steps[i].After.Tensioners[k].Now == virtual.Pinned && c.Run.Before(i).Tensioners[k].Now != virtual.Pinned {
				in = i
			}
		}
		at := end
		for i := range c.Page.Steps {
			if f, ok := c.Page.Steps[i].Action.(*step.Fit); ok && i > in && c.Index.Loop(f.Loop) != nil && c.Index.Loop(f.Loop).Tensions(t.ID) {
				at = i + 1
			}
		}
		if t.Pin == "" {
			mends := []Mend{c.before(at, &step.Release{Tensioner: t.ID})}
			if t.Method.Of().BySpring {
				mends = []Mend{c.before(at, &step.Slacken{Fasteners: t.Bolts})}
			}
			c.find(message.F("The %s is pushed back and never let go", t.Name), message.F("The belt or chain runs without tension and jumps a tooth at the first start."), []int{in}, mends...)
			continue
		}
		c.find(message.F("The pin of the %s is never pulled", t.Name), message.F("The belt or chain runs without tension and jumps a tooth at the first start."), []int{in}, c.before(at, &step.Release{Tensioner: t.ID}))
	}
}

// startedAgain finds locks that are in at a start that is not the first.
func startedAgain(c *proving) {
	each(c, func(i int, e virtual.StartedWithLock) {
		if i > c.Start() {
			c.find(message.F("The %s is left in", c.lock(e.Lock)), message.F("The engine is started at step %d with it in place.", c.no(i)), []int{i}, c.before(i, &step.Unlock{Locks: []engine.LockID{e.Lock}}))
		}
	})
}

func accessShut(c *proving) {
	said := map[engine.PartID]bool{}
	each(c, func(i int, e virtual.AccessShut) {
		if said[e.Part] {
			return
		}
		said[e.Part] = true
		what := c.fastener(e.Fastener)
		if e.Lock != "" {
			what = c.lock(e.Lock)
		}
		c.find(message.F("%s cannot reach the %s: the %s is still on", c.num(i), what, c.part(e.Part)), message.F("A step that takes it off is missing before this one."), []int{i}, c.openFirst(i, e.Part), c.before(i, &step.Remove{Parts: []engine.PartID{e.Part}}))
	})
}

func nothingToMeet(c *proving) {
	each(c, func(i int, e virtual.NothingToMeet) {
		t, ok := c.Page.Steps[i].Action.(*step.Turn)
		if !ok {
			return
		}
		var m Mend
		if t.Turns >= 1 && !c.trying {
			first, then := *t, step.Turn{Way: t.Way, Onto: t.Onto, On: t.On}
			first.Onto, first.Short = "", true
			m = c.change(i, message.F("Split it: stop short, fit, turn onto it"), &first)
			lock := c.after(i, &step.Lock{Lock: e.Lock})
			onto := c.insert(lock.Edits[0].Step.ID, c.Page.Steps[i].Phase, &then)
			onto.Edits[0].Step.ID += "b"
			m.Edits = append(m.Edits, lock.Edits[0], onto.Edits[0])
		} else {
			m = c.before(i, &step.Lock{Lock: e.Lock})
		}
		c.find(message.F("%s turns onto the %s, which is not fitted", c.num(i), c.lock(e.Lock)), message.F("There is nothing for the crank to meet."), []int{i}, m)
	})
}

// putIn offers to fit a lock that a step takes out: where it first goes in and is needed,
// before the drive is undone; or where the crank comes to it last.
func (c *proving) putIn(i int, id engine.LockID) []Mend {
	var out []Mend
	fit := &step.Lock{Lock: id}
	if k := c.FirstUndone(); k >= 0 && k < i {
		out = append(out, c.before(k, fit))
	}
	for k := i - 1; k >= 0; k-- {
		if c.Does(k).Turns {
			return append(out, c.after(k, fit))
		}
	}
	return out
}

func lockTwice(c *proving) {
	each(c, func(i int, e virtual.AlreadyIn) {
		if c.TurnedSince(c.WentIn(i, e.Lock), e.Lock) {
			return // the step that should have taken it out is what is missing
		}
		c.find(message.F("%s fits the %s, which is in already", c.num(i), c.lock(e.Lock)), message.F("Either it came out before and the page does not say so, or the step is not needed."), []int{i}, c.drop(i))
	})
	each(c, func(i int, e virtual.NotIn) {
		c.find(message.F("%s takes out the %s, which is not in", c.num(i), c.lock(e.Lock)), message.F("No step before it fits it."), []int{i}, append(c.putIn(i, e.Lock), c.drop(i))...)
	})
}
