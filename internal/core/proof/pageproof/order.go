package pageproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// orderRules find what is done before what comes first, and what is done otherwise
// than the sheet has it.
var orderRules = finding.Family[*proving]{
	{ID: "pointer-off", Family: "locks and turning", Severity: finding.Blocks, Check: pointerOff,
		Doc: "a mark read against a pointer that is on the bench"},
	{ID: "stop-skipped", Family: "loop and tension", Severity: finding.Blocks, Check: stopSkipped,
		Doc: "a tensioner set without going to its stop first: the belt never seats"},
	{ID: "tension-order", Family: "loop and tension", Severity: finding.Blocks, Check: tensionOrder,
		Doc: "the second tensioner let go before the first: it takes up what the first should"},
	{ID: "screw-order", Family: "locks and turning", Severity: finding.ShouldFix, Check: screwOrder,
		Doc: "a lock screwed to the head before it sits on the cam: it holds the cam where it is, not where it should be"},
	{ID: "bolt-order", Family: "tightening", Severity: finding.Blocks, Check: boltOrder,
		Doc: "a bolt taken to the end before the one that seats its part"},
	{ID: "beyond-limit", Family: "turns and proof", Severity: finding.ShouldFix, Check: beyondLimit,
		Doc: "a sprocket clamped by a tool with more play than the code passes"},
	{ID: "readings-within", Family: "loop and tension", Severity: finding.ShouldFix, Check: readingsWithin,
		Doc: "readings that lie apart taken for one, or thrown away without need"},
	{ID: "thread-condition", Family: "tightening", Severity: finding.Blocks, Check: threadCondition,
		Doc: "a bolt oiled that is measured dry, or the other way: the force is out by a third"},
	{ID: "reading-place", Family: "loop and tension", Severity: finding.ShouldFix, Check: readingPlace,
		Doc: "a tone read at another place of the crank, where another force is in the belt"},
}

func pointerOff(c *proving) {
	each(c, func(i int, e virtual.PointerOff) {
		var mends []Mend
		if k := c.RefitAfter(i, e.Part); k >= 0 {
			mends = append(mends, c.moveAfter(i, k))
		}
		c.find(message.F("%s reads the %s, and its pointer is on the %s, which is off", c.num(i), c.mark(e.Mark), c.part(e.Part)), message.F("There is nothing to read it against."), []int{i}, mends...)
	})
}

func stopSkipped(c *proving) {
	each(c, func(i int, e virtual.StopSkipped) {
		t := c.Index.Tensioner(e.Tensioner)
		c.find(message.F("%s sets the %s without taking it to its stop first", c.num(i), t.Name), message.F("It is a tensioner of the kind “%s”.", t.Method), []int{i}, c.before(i, &step.Set{Tensioner: t.ID, Way: t.Turn, Goal: step.GoalStop}))
	})
}

func tensionOrder(c *proving) {
	each(c, func(i int, e virtual.TensionOrder) {
		c.find(message.F("%s brings the %s on before the %s", c.num(i), c.tensioner(e.Tensioner), c.tensioner(e.Before)), message.F("The sheet has them in that order: the first sets the belt, the second takes up after it."), []int{i})
	})
}

func screwOrder(c *proving) {
	each(c, func(i int, e virtual.ScrewOrder) {
		c.find(message.F("%s tightens the %s of the %s before the %s", c.num(i), c.fastener(e.Fastener), c.lock(e.Lock), c.fastener(e.After)), message.F("The sheet has its screws in that order."), []int{i})
	})
}

func boltOrder(c *proving) {
	each(c, func(i int, e virtual.BoltOrder) {
		var mends []Mend
		f := c.Index.Fastener(e.Fastener)
		for k := i + 1; k < len(c.Page.Steps); k++ {
			if a, ok := c.Page.Steps[k].Action.(*step.Tighten); ok && a.To == step.ToFinal && slices.ContainsFunc(f.After, func(id engine.FastenerID) bool { return slices.Contains(a.Fasteners, id) }) {
				mends = append(mends, c.moveAfter(i, k))
				break
			}
		}
		c.find(message.F("%s takes the %s to the end before the %s", c.num(i), c.fastener(e.Fastener), c.fastener(e.After)), message.F("The sheet says which of them comes first."), []int{i}, mends...)
	})
}

func beyondLimit(c *proving) {
	each(c, func(i int, e virtual.BeyondLimit) {
		c.find(message.F("%s clamps the %s where the %s may stand %s° off", c.num(i), c.wheel(e.Wheel), c.shaft(e.Shaft), tidy(float64(e.Degrees))), message.F("The code passes %s°; what holds the shaft has more play than that.", tidy(c.Index.Sheet.Limits.CamError)), []int{i})
	})
}

func readingsWithin(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Measure)
		if !ok || a.Value.Kind() != unit.KindFrequency {
			continue
		}
		for k := range c.Index.Sheet.Tensioners {
			f := c.Index.Sheet.Tensioners[k].Frequency
			if f == nil || f.Within.IsZero() || !c.OfLoop(a, k) || !a.Within.IsZero() && alike(a.Within, f.Within) {
				continue
			}
			n := *a
			n.Within = f.Within
			what := message.F("%s does not say how far the readings may lie apart", c.num(i))
			if !a.Within.IsZero() {
				what = message.F("%s lets the readings lie %s apart; the sheet says %s", c.num(i), a.Within, f.Within)
			}
			c.find(what, message.F("The sheet says %s.", f.Within), []int{i}, c.change(i, message.F("Within %s", f.Within), &n))
			break
		}
	}
}

// threadCondition holds what is put on a thread before it is tightened to the end
// against the sheet, whose torque is for a thread that is so; the page prints what
// the sheet says with the torque.
func threadCondition(c *proving) {
	on := map[engine.FastenerID]step.Stuff{}
	for i := range c.Page.Steps {
		switch a := c.Page.Steps[i].Action.(type) {
		case *step.Apply:
			if a.Fastener != "" {
				on[a.Fastener] = a.What
			}
		case *step.Clean:
			for _, id := range a.Fasteners {
				delete(on, id)
			}
		case *step.Tighten:
			for _, id := range a.Fasteners {
				f := c.Index.Fastener(id)
				if f == nil || f.Lubricant == "" || on[id] == "" || a.To != step.ToFinal || on[id] == step.StuffOn(f.Lubricant) {
					continue
				}
				c.find(message.F("%s tightens the %s with %s on the thread", c.num(i), c.fastener(id), on[id]), message.F("The sheet’s torque is for a thread that is %s.", step.ThreadIs(f.Lubricant)), []int{i})
			}
		}
	}
}

// readingPlace holds where the crank stands when a note is read against the sheet.
func readingPlace(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Measure)
		if !ok || a.Value.Kind() != unit.KindFrequency || a.Readings > 1 {
			continue // between readings the crank is turned on
		}
		for k := range c.Index.Sheet.Tensioners {
			f := c.Index.Sheet.Tensioners[k].Frequency
			if f == nil || f.At == 0 || !c.OfLoop(a, k) {
				continue
			}
			if off := engine.Wrap(c.Run.Before(i).Crank-f.At, 360); off > 5 || off < -5 {
				c.find(message.F("%s reads the tone with the crank %s° from where the sheet has it read", c.num(i), tidy(abs(off))), message.F("The sheet says at %s°.", tidy(f.At)), []int{i})
			}
			break
		}
	}
}
