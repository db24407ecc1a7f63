package pageproof

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/virtual"
)

// owedRules are the debts of what the page touched: open when the engine is
// started or the page ends, they are findings.
var owedRules = finding.Family[*proving]{
	{ID: "shaft-not-looked", Family: "turns and proof", Severity: finding.Blocks, Check: shaftNotLooked,
		Doc: "a shaft whose timing was undone and that nobody looks at after the turns"},
	{ID: "clamped-after-turns", Family: "turns and proof", Severity: finding.Blocks, Check: clampedAfterTurns,
		Doc: "a sprocket clamped anew after the last turns, on which nothing ever pulled"},
	{ID: "lock-not-tried", Family: "turns and proof", Severity: finding.ShouldFix, Check: lockNotTried,
		Doc: "a shaft proved by eye alone where the code has a tool for it"},
	{ID: "tension-not-seen", Family: "loop and tension", Severity: finding.ShouldFix, Check: tensionNotSeen,
		Doc: "a tension that moved while the engine was turned, and nobody looked"},
	{ID: "settling", Family: "loop and tension", Severity: finding.Blocks, Check: settling,
		Doc: "a tensioner judged before it has settled: turns or a wait too few"},
	{ID: "tools-not-counted", Family: "tools and parts", Severity: finding.ShouldFix, Check: toolsNotCounted,
		Doc: "a tool left in the engine: nobody counts them"},
	{ID: "battery", Family: "access and order", Severity: finding.ShouldFix, Check: battery,
		Doc: "an engine that cranks while hands are in it"},
	{ID: "always-new-stays", Family: "tools and parts", Severity: finding.ShouldFix, Check: alwaysNewStays,
		Doc: "a part that is always new, within reach, and left as old as it is"},
	{ID: "companion", Family: "tools and parts", Severity: finding.ShouldFix, Check: companion,
		Doc: "a part renewed beside the old one it has run with"},
	{ID: "not-inspected", Family: "tools and parts", Severity: finding.ShouldFix, Check: notInspected,
		Doc: "a worn roller or pump left under a new belt"},
	{ID: "renew-contradicts", Family: "tools and parts", Severity: finding.ShouldFix, Check: renewContradicts,
		Doc: "a part to be renewed if found so that the sheet says is always new, or goes back"},
	{ID: "fit-not-checked", Family: "loop and tension", Severity: finding.Blocks, Check: fitNotChecked,
		Doc: "a chain laid a link out on fixed sprockets, and nobody counted"},
	{ID: "sealant-owed", Family: "tools and parts", Severity: finding.Blocks, Check: sealantOwed,
		Doc: "a leak: a joint closed without its sealant"},
	{ID: "purpose-not-met", Family: "wording", Severity: finding.Blocks, Check: purposeNotMet,
		Doc: "a page to renew something on which it is not renewed"},
	{ID: "nothing-followed", Family: "wording", Severity: finding.Blocks, Check: nothingFollowed,
		Doc: "a page of free text, of which the virtual engine follows nothing"},
	{ID: "caution-without-words", Family: "cautions", Severity: finding.ShouldFix, Check: cautionWithoutWords,
		Doc: "a caution that warns of nothing"},
}

func tensionNotSeen(c *proving) {
	for k := range c.Index.Sheet.Tensioners {
		ten := &c.Index.Sheet.Tensioners[k]
		at := c.TouchedLast(k)
		if at < 0 || !ten.Seen() {
			continue
		}
		// Seen when nothing turns the engine a turn or more afterwards, or when
		// somebody looks after the last such turn.
		turned := -1
		for i := at + 1; i < len(c.Run.Steps); i++ {
			if math.Abs(c.Run.Steps[i].After.Crank-c.Run.Before(i).Crank) > 350 {
				turned = i
			}
		}
		from := turned
		if ten.Method.Of().ByNote {
			from = at // the note is read while the engine is turned on between readings
		}
		if turned < 0 || c.Run.Last().Tensioners[k].Seen || c.TensionSeen(ten, from) {
			continue
		}
		var mends []Mend
		switch {
		case len(ten.Pointer) > 0:
			mends = append(mends, c.after(c.HomeAgain(turned), &step.Check{Tensioner: ten.ID}))
		case ten.Pin != "":
			mends = append(mends, c.after(c.HomeAgain(turned), &step.Check{Pins: []engine.TensionerID{ten.ID}}))
		}
		c.find(message.F("Nobody looks at the %s after the turns of step %d", ten.Name, c.no(turned)), message.F("A belt or chain settles while it is turned, and its tensioner moves."), []int{turned}, mends...)
	}
}

// settling holds the turns and the wait after a tensioner was let go against
// what the sheet asks for.
func settling(c *proving) {
	for k := range c.Index.Sheet.Tensioners {
		ten := &c.Index.Sheet.Tensioners[k]
		wait, _ := ten.Wait.Minutes()
		at := c.TouchedLast(k)
		if ten.Method.Of().StopFirst {
			at = c.AtStop(k) // it settles there, before it is set
		}
		if at < 0 || ten.Settle == 0 && wait == 0 || !c.LoopOnAt(ten.ID, at) {
			continue
		}
		turned, waited, last := 0.0, 0.0, at
		seen := c.LastSeen(ten, at) // what comes after the last look is too late
		for i := at + 1; i < len(c.Run.Steps); i++ {
			if ten.Method.Of().BySpring && c.boltedUp(i, ten) {
				break // clamped, its spring sets nothing any more
			}
			if ten.Method.Of().StopFirst && c.sets(i, ten.ID) {
				break // the turns after it is set prove it, and do not count twice
			}
			turned += math.Abs(c.Run.Steps[i].After.Crank-c.Run.Before(i).Crank) / 360
			if math.Abs(c.Run.Steps[i].After.Crank-c.Run.Before(i).Crank) > 350 && last == at {
				last = i
			}
			if w, ok := c.Page.Steps[i].Action.(*step.Wait); ok && turned+0.05 >= float64(ten.Settle) && i < seen {
				m, _ := w.For.Minutes()
				waited += float64(m)
			}
		}
		if turned+0.05 < float64(ten.Settle) {
			c.find(message.F("The %s has only %s to settle", ten.Name, turns(math.Round(turned*10)/10)), message.F("The sheet asks for %d.", ten.Settle), []int{last, at}, c.betterCount(last))
		}
		if waited+0.01 < float64(wait) {
			why := fmt.Sprintf("The sheet asks for %s after its turns, before it is looked at.", ten.Wait)
			var mends []Mend
			for i := last; i < len(c.Page.Steps); i++ {
				if w, ok := c.Page.Steps[i].Action.(*step.Wait); ok && !w.For.IsZero() {
					n := *w
					n.For = ten.Wait
					mends = append(mends, c.change(i, message.F("Make it %s", ten.Wait), &n))
				}
			}
			mends = append(mends, c.after(last, &step.Wait{For: ten.Wait}))
			c.find(message.F("The %s is given %s min to settle", ten.Name, tidy(waited)), message.As(why), []int{last, at}, mends...)
		}
	}
}

// sets reports whether a step sets a tensioner.
func (c *proving) sets(i int, id engine.TensionerID) bool {
	a, ok := c.Page.Steps[i].Action.(*step.Set)
	return ok && slices.Contains(a.All(), id)
}

// boltedUp reports whether a step clamps a tensioner.
func (c *proving) boltedUp(i int, t *engine.Tensioner) bool {
	return slices.ContainsFunc(t.Bolts, func(id engine.FastenerID) bool {
		k := c.Index.FastenerAt(id)
		return k >= 0 && c.Run.Before(i).Fasteners[k].Stage < virtual.Snug && c.Run.Steps[i].After.Fasteners[k].Stage >= virtual.Snug
	})
}

func toolsNotCounted(c *proving) {
	last := -1
	for i := range c.Run.Steps {
		if c.Page.Holds(i) != nil {
			last = i
		}
		for k := range c.Index.Sheet.Locks {
			if c.Run.Before(i).Locks[k].In != c.Run.Steps[i].After.Locks[k].In {
				last = i
			}
		}
	}
	if last < 0 || c.partOfJob() && len(c.whole.Ends.In) > 0 {
		return // those that are in are counted where they come out
	}
	early := -1
	for i := range c.Run.Steps {
		counted := slices.Contains(c.Run.Steps[i].Events, virtual.Event(virtual.Counted{}))
		if d, ok := c.Page.Steps[i].Action.(*step.Do); ok && strings.Contains(strings.ToLower(d.Text), "tool") {
			counted = true
		}
		if counted && i > last {
			return
		}
		if counted {
			early = i
		}
	}
	if early >= 0 {
		c.find(message.F("The tools are counted at step %d, and used again at step %d", c.no(early), c.no(last)), message.F("They are counted once, after the last of them is out."), []int{early, last}, c.moveAfter(early, last))
		return
	}
	at := c.Start()
	for i := last + 1; i < at; i++ {
		if c.IsLead(i) {
			at = i
		}
	}
	c.find(message.F("The tools are never counted"), message.F("The last of them is used at step %d. One left in breaks the engine at the first start.", c.no(last)), []int{last}, c.before(at, &step.Check{Tools: true}))
}

// moveAfter takes step from to just after step to.
func (c *proving) moveAfter(from, to int) Mend {
	if c.trying {
		return Mend{}
	}
	if to+1 < len(c.Page.Steps) {
		m := c.moveBefore(from, to+1)
		m.Label = fmt.Sprintf("Move step %d down, after step %d", c.place(from)+1, c.place(to)+1)
		return m
	}
	m := c.moveBefore(from, to)
	m.Edits[0].After = c.Page.Steps[to].ID
	return m
}

func battery(c *proving) {
	k := c.Lead()
	if k < 0 {
		return
	}
	name := c.Index.Sheet.Parts[k].Name
	on, ran := -1, false
	for i := range c.Run.Steps {
		if c.IsLead(i) {
			on = i
		}
		if c.Run.Before(i).Parts[k].Off || c.Run.Steps[i].After.Parts[k].Off {
			continue
		}
		turned := math.Abs(c.Run.Steps[i].After.Crank-c.Run.Before(i).Crank) > 0.1
		if c.Does(i).Runs {
			ran = true
			continue
		}
		worked := on >= 0 && i > on && c.Does(i).Works() && !ran // what is closed up behind a first look needs no lead off
		switch {
		case turned && on < 0:
			c.find(message.F("%s turns the engine by hand with the %s connected", c.num(i), name), message.F("The engine can crank or start by itself."), []int{i},
				and(c.before(c.FirstWork(), &step.Remove{Parts: []engine.PartID{c.Index.Sheet.Parts[k].ID}}), c.before(c.Start(), &step.Refit{Parts: []engine.PartID{c.Index.Sheet.Parts[k].ID}})))
			return
		case turned || worked:
			c.find(message.F("The %s is connected at step %d, before the work is done", name, c.no(on)), message.F("Step %d comes after it. It goes on last.", c.no(i)), []int{on, i}, c.moveAfter(on, c.LastWork(on)))
			return
		}
	}
}

// fitNotChecked: on sprockets that cannot move, only the marks of the loop tell
// whether it lies right, and only until the engine is turned.
func fitNotChecked(c *proving) {
	for l, fit := range c.RefittedLoops() {
		loop := &c.Index.Sheet.Loops[l]
		if !c.FixedWheels(loop) || c.AllLocked(loop, fit) {
			continue
		}
		var owed []engine.MarkID
		for k := range c.Index.Sheet.Marks {
			if m := &c.Index.Sheet.Marks[k]; m.Kind == engine.LoopMark && m.Loop == loop.ID {
				owed = append(owed, m.ID)
			}
		}
		for i := fit + 1; i < len(c.Run.Steps); i++ {
			for _, e := range c.Run.Steps[i].Events {
				if stood, ok := e.(virtual.MarkStood); ok {
					owed = slices.DeleteFunc(owed, func(id engine.MarkID) bool { return id == stood.Mark })
				}
			}
			if math.Abs(c.Run.Steps[i].After.Crank-c.Run.Before(i).Crank) > 1 {
				break
			}
		}
		if len(owed) == 0 {
			continue
		}
		names := make([]string, len(owed))
		for i, id := range owed {
			names[i] = c.mark(id).String()
		}
		c.find(message.F("Nobody looks at the %s after the %s is fitted at step %d", list(names), loop.Name, c.no(fit)), message.F("Its sprockets are fixed: only these marks tell whether it lies right, and only until the engine is turned."), []int{fit}, c.after(fit, &step.Check{Marks: owed}))
	}
}

func sealantOwed(c *proving) {
	for k := range c.Index.Sheet.Parts {
		p := &c.Index.Sheet.Parts[k]
		if p.Sealant.IsZero() {
			continue
		}
		on := false
		for i := range c.Run.Steps {
			on = (on || slices.Contains(c.Run.Steps[i].Events, virtual.Event(virtual.SealantOn{Part: p.ID}))) && !slices.Contains(c.Run.Steps[i].Events, virtual.Event(virtual.Cleaned{Part: p.ID}))
			if c.Run.Before(i).Parts[k].Off && !c.Run.Steps[i].After.Parts[k].Off {
				if !on {
					c.find(message.F("%s closes the %s without sealant", c.num(i), p.Name), message.F("The sheet says sealant, closed within %s.", p.Sealant), []int{i}, c.before(i, &step.Apply{What: step.Sealant, Part: p.ID, Open: p.Sealant}))
				}
				on = false
			}
		}
	}
}

func cautionWithoutWords(c *proving) {
	for i := range c.Page.Steps {
		s := &c.Page.Steps[i]
		for k := range s.Cautions {
			if strings.TrimSpace(s.Cautions[k].Text) != "" {
				continue
			}
			n := *s
			n.Cautions = slices.Clone(s.Cautions)
			if h := s.Cautions[k].Hazard; h != "" {
				n.Cautions[k] = step.CautionFor(h)
			} else {
				n.Cautions = slices.Delete(n.Cautions, k, k+1)
			}
			c.find(message.F("%s has a caution without words", c.num(i)), message.F("It warns of nothing."), []int{i}, c.put(message.F("Use the house’s words"), n))
			break
		}
	}
}

func nothingFollowed(c *proving) {
	if len(c.Page.Steps) == 0 {
		return
	}
	for i := range c.Page.Steps {
		if c.Page.Steps[i].Action.Verb() != "do" {
			return
		}
	}
	c.find(message.F("Every step is free text"), message.F("The virtual engine followed none of them, so that nothing on this page was tried."), []int{0})
}
