package pageproof

import (
	"slices"

	"fmt"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/virtual"
)

var partRules = finding.Family[*proving]{
	{ID: "plug-left-out", Family: "tools and parts", Severity: finding.Blocks, Check: plugLeftOut,
		Doc: "oil on the floor: a plug taken out for a pin and never refitted"},
	{ID: "part-left-off", Family: "tools and parts", Severity: finding.Blocks, Check: partLeftOff,
		Doc: "a part taken off and never refitted"},
	{ID: "seal-not-renewed", Family: "tools and parts", Severity: finding.Blocks, Check: oldSeal,
		Doc: "a leak: a plug or cover refitted on its old seal"},
	{ID: "single-use", Family: "tools and parts", Severity: finding.Blocks, Check: oldPart,
		Doc: "a single-use part or bolt used again"},
	{ID: "in-the-way", Family: "tools and parts", Severity: finding.Blocks, Check: inTheWay,
		Doc: "a part that must come off first, which only the technician finds out"},
	{ID: "already-off", Family: "tools and parts", Severity: finding.ShouldFix, Check: alreadyOff,
		Doc: "a part taken off twice or refitted without having come off"},
	{ID: "sealant-dry", Family: "tools and parts", Severity: finding.ShouldFix, Check: sealantDry,
		Doc: "sealant left open too long before its joint is closed"},
}

func plugLeftOut(c *proving) {
	c.leftOff(func(p *engine.Part) bool { return p.Kind == engine.Plug }, "The %s %s never refitted", "is", "are", "Oil or coolant runs out of the open hole.")
}

func partLeftOff(c *proving) {
	c.leftOff(func(p *engine.Part) bool {
		return p.Kind != engine.Plug && p.Kind != engine.Seal && p.Kind != engine.LoopPart
	}, "The %s never %s back on", "goes", "go", "It comes off and no later step refits it.")
}

func (c *proving) leftOff(want func(*engine.Part) bool, what, one, more, why string) {
	last := c.Run.Last()
	for k := range c.Index.Sheet.Parts {
		p := &c.Index.Sheet.Parts[k]
		if !last.Parts[k].Off || !want(p) || handsOn(c, c.whole.Ends.Off, p.ID) {
			continue
		}
		off := -1
		for i := range c.Run.Steps {
			if c.Run.Steps[i].After.Parts[k].Off && !c.Run.Before(i).Parts[k].Off {
				off = i
			}
		}
		if en.PluralName(p.Name) {
			one = more
		}
		c.find(message.As(fmt.Sprintf(what, p.Name, one)), message.As(why), []int{off}, c.sequence(c.BackAt(p), c.backOn(p)...), c.before(c.BackAt(p), c.backOn(p)[0]))
	}
}

func oldSeal(c *proving) {
	each(c, func(i int, e virtual.OldSeal) {
		r, ok := c.Page.Steps[i].Action.(*step.Refit)
		if !ok {
			return
		}
		n := *r
		n.NewSeal = true
		c.find(message.F("%s refits the %s on its old seal", c.num(i), c.part(e.Part)), message.F("The seal is always new on this engine."), []int{i}, c.change(i, message.F("With a new seal"), &n))
	})
}

func oldPart(c *proving) {
	each(c, func(i int, e virtual.OldPart) {
		if e.Fastener != "" {
			c.find(message.F("%s tightens the old %s again", c.num(i), c.fastener(e.Fastener)), message.F("It is single-use: once stretched it no longer clamps as it should."), []int{i},
				c.before(i, &step.Renew{Fasteners: []engine.FastenerID{e.Fastener}}))
			return
		}
		var m Mend
		switch a := c.Page.Steps[i].Action.(type) {
		case *step.Refit:
			n := *a
			n.New = true
			m = c.change(i, message.F("Fit a new one"), &n)
		case *step.Fit:
			n := *a
			n.New = true
			m = c.change(i, message.F("Fit a new one"), &n)
		}
		c.find(message.F("%s refits the old %s", c.num(i), c.part(e.Part)), message.F("The sheet says always new."), []int{i}, m)
	})
}

func inTheWay(c *proving) {
	said := map[engine.PartID]bool{}
	each(c, func(i int, e virtual.InTheWay) {
		if said[e.Part] {
			return
		}
		said[e.Part] = true
		if e.Refit {
			c.refitBehind(i, e.Part)
			return
		}
		c.find(message.F("%s cannot be done with the %s still on", c.num(i), c.part(e.Part)), message.F("It has to come off first; the page forgets it."), []int{i}, c.openFirst(i, e.Part), c.before(i, &step.Remove{Parts: []engine.PartID{e.Part}}))
	})
}

// refitBehind finds a part that goes back when what stands before it is back
// already.
func (c *proving) refitBehind(i int, id engine.PartID) {
	k := c.Index.PartAt(id)
	for n := i - 1; n >= 0; n-- {
		if c.Run.Before(n).Parts[k].Off && !c.Run.Steps[n].After.Parts[k].Off {
			c.find(message.F("%s goes behind the %s, which is back since step %d", c.num(i), c.part(id), c.no(n)), message.F("What had to come off for it goes back after it."), []int{i, n}, c.moveBefore(i, n))
			return
		}
	}
	c.find(message.F("%s goes behind the %s, which is on", c.num(i), c.part(id)), message.F("It has to be off for it."), []int{i})
}

func alreadyOff(c *proving) {
	thing := func(loop engine.LoopID, part engine.PartID) message.Arg {
		if loop != "" {
			return c.loop(loop)
		}
		return c.part(part)
	}
	each(c, func(i int, e virtual.AlreadyOff) {
		c.find(message.F("%s takes off the %s, which is off already", c.num(i), thing(e.Loop, e.Part)), message.F("Either it went back on before and the page does not say so, or the step is not needed."), []int{i}, c.drop(i))
	})
	each(c, func(i int, e virtual.NotOff) {
		if k := c.Index.LoopAt(e.Loop); k >= 0 && !e.Painted {
			off := c.before(c.slackSince(i, k), &step.TakeOff{Loop: e.Loop})
			c.findAs(finding.Blocks, message.F("%s fits the %s, which never came off", c.num(i), c.loop(e.Loop)), message.F("A step that takes it off is missing, or this one is not needed."), []int{i}, off)
			return
		}
		var mends []Mend
		if e.Part != "" && !e.Painted {
			mends = append(mends, c.before(c.offBefore(i, e.Part), &step.Remove{Parts: []engine.PartID{e.Part}}))
		}
		c.find(message.F("%s refits the %s, which never came off", c.num(i), thing(e.Loop, e.Part)), message.F("A step that takes it off is missing, or this one is not needed."), []int{i}, append(mends, c.drop(i))...)
	})
}

// offBefore is the step before which a part that goes back at step i belongs off: the
// first that takes off what has to wait for it, or, under a loop, the one after that came
// off; otherwise the first after the last one that strips before it goes back.
func (c *proving) offBefore(i int, id engine.PartID) int {
	at := -1
	for l := range c.Index.Sheet.Loops {
		if !slices.ContainsFunc(c.Index.Sheet.Loops[l].Route, func(s engine.Stop) bool { w := c.Index.Wheel(s.Wheel); return w != nil && w.Part == id }) {
			continue
		}
		if k := c.OffBefore(l, i); k < i {
			at = max(at, k+1)
		}
	}
	if at >= 0 {
		return at
	}
	last := 0
	for k := range i {
		r, ok := c.Page.Steps[k].Action.(*step.Remove)
		if !ok {
			continue
		}
		last = k + 1
		if slices.ContainsFunc(r.Parts, func(p engine.PartID) bool {
			part := c.Index.Part(p)
			return part != nil && slices.Contains(part.After, id)
		}) {
			return k
		}
	}
	return last
}

// slackSince is the step from which on a loop is slack before step i, and every shaft on
// it held: there it comes off.
func (c *proving) slackSince(i, loop int) int {
	at := i
	for k := i; k > 0 && c.Run.Before(k).SlackOn(c.Index, loop); k-- {
		if !slices.ContainsFunc(c.Index.Sheet.Loops[loop].Route, func(s engine.Stop) bool {
			w := c.Index.Wheel(s.Wheel)
			return w != nil && w.Shaft != "" && c.Lockable([]engine.ShaftID{w.Shaft}) && !c.Run.Fixed(c.Run.Before(k), w.Shaft)
		}) {
			at = k
		}
	}
	return at
}

func sealantDry(c *proving) {
	each(c, func(i int, e virtual.SealantDry) {
		c.find(message.F("%s closes the %s %s min after the sealant went on", c.num(i), c.part(e.Part), tidy(float64(e.Minutes))), message.F("That is past its open time. Put fewer steps in between."), []int{i})
	})
}
