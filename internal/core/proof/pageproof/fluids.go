package pageproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/virtual"
)

// fluidRules look after what runs out, and what is counted.
var fluidRules = finding.Family[*proving]{
	{ID: "fluid-spilled", Family: "tools and parts", Severity: finding.ShouldFix, Check: fluidSpilled,
		Doc: "coolant or oil over the drive: a part taken off with its fluid in"},
	{ID: "fluid-left-out", Family: "tools and parts", Severity: finding.Blocks, Check: fluidLeftOut,
		Doc: "an engine started without its oil or coolant"},
	{ID: "filled-open", Family: "tools and parts", Severity: finding.Blocks, Check: filledOpen,
		Doc: "oil on the floor: filled while its plug is out"},
	{ID: "fluid-not-out", Family: "tools and parts", Severity: finding.ShouldFix, Check: fluidNotOut,
		Doc: "an engine overfilled: fluid put in on top of what is in"},
	{ID: "fluid-amount", Family: "tools and parts", Severity: finding.ShouldFix, Check: fluidAmount,
		Doc: "too much or too little filled in"},
	{ID: "reset-owed", Family: "tools and parts", Severity: finding.ShouldFix, Check: resetOwed,
		Doc: "a counter that goes on from the old belt: the new one is due too early, or the next reader trusts it"},
	{ID: "reset-too-much", Family: "tools and parts", Severity: finding.ShouldFix, Check: resetTooMuch,
		Doc: "a counter set back for a part that was not renewed"},
}

func fluidSpilled(c *proving) {
	each(c, func(i int, e virtual.Spilled) {
		f := c.Index.Fluid(e.Fluid)
		drain := []step.Action{&step.Drain{Fluids: []engine.FluidID{f.ID}}}
		c.find(message.F("%s takes the %s off with the %s in", c.num(i), c.part(e.Part), c.fluid(e.Fluid)), message.F("It runs out over the drive."), []int{i}, c.sequence(i, drain...))
	})
}

func fluidLeftOut(c *proving) {
	for k := range c.Index.Sheet.Fluids {
		f := &c.Index.Sheet.Fluids[k]
		if !c.Run.Last().Fluids[k].Out || handsOn(c, c.whole.Ends.Drained, f.ID) {
			continue
		}
		sev, on := finding.Blocks, []Mend(nil)
		if c.partOfJob() { // the page that goes on has to know
			sev, on = finding.ShouldFix, []Mend{c.header(message.F("Say that it is handed on drained"), func(h *procedure.Header) { h.Ends.Drained = append(slices.Clone(h.Ends.Drained), f.ID) })}
		}
		out := 0
		for i := range c.Run.Steps {
			if !c.Run.Before(i).Fluids[k].Out && c.Run.Steps[i].After.Fluids[k].Out {
				out = i
			}
		}
		fill := &step.Fill{Fluid: f.ID, Amount: f.Amount}
		mends := []Mend{c.before(c.Start(), fill)}
		if p := c.Index.Part(f.Drain); p != nil && c.Run.Last().Parts[c.Index.PartAt(f.Drain)].Off {
			mends = []Mend{c.sequence(c.Start(), append(c.backOn(p), fill)...)}
		}
		c.findAs(sev, message.F("The %s is let out and never filled in", f.Name), message.F("The engine is started without it."), []int{out}, append(on, mends...)...)
	}
}

func filledOpen(c *proving) {
	each(c, func(i int, e virtual.FilledOpen) {
		var mends []Mend
		if k := c.RefitAfter(i, e.Part); k >= 0 {
			mends = append(mends, c.moveAfter(i, k))
		} else if p := c.Index.Part(e.Part); p != nil {
			mends = append(mends, c.sequence(i, c.backOn(p)...))
		}
		if e.Drained {
			c.findAs(finding.ShouldFix, message.F("%s fills in the %s before the %s is back", c.num(i), c.fluid(e.Fluid), c.part(e.Part)), message.F("It was opened to drain it."), []int{i}, mends...)
			return
		}
		c.find(message.F("%s fills in the %s with the %s off", c.num(i), c.fluid(e.Fluid), c.part(e.Part)), message.F("It runs out again."), []int{i}, mends...)
	})
}

func fluidNotOut(c *proving) {
	each(c, func(i int, e virtual.NotDrained) {
		c.find(message.F("%s fills in the %s, which nobody let out", c.num(i), c.fluid(e.Fluid)), message.F("Either the step that drains it is missing, or it is only topped up: then say to which level."), []int{i}, c.drop(i))
	})
}

func fluidAmount(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Fill)
		f := (*engine.Fluid)(nil)
		if ok {
			f = c.Index.Fluid(a.Fluid)
		}
		if f == nil || f.Amount.IsZero() || !a.Amount.IsZero() && alike(a.Amount, f.Amount) {
			continue
		}
		n := *a
		n.Amount = f.Amount
		what := message.F("%s does not say how much %s goes in", c.num(i), f.Name)
		if !a.Amount.IsZero() {
			what = message.F("%s fills in %s of %s; the sheet says %s", c.num(i), a.Amount, f.Name, f.Amount)
		}
		c.find(what, message.F("The sheet says %s.", f.Amount), []int{i}, c.change(i, message.F("Make it %s", f.Amount), &n))
	}
}

func resetOwed(c *proving) {
	for k := range c.Index.Sheet.Parts {
		p := &c.Index.Sheet.Parts[k]
		if p.Reset == "" || c.partOfJob() || slices.Contains(c.Run.Last().Resets, p.ID) {
			continue
		}
		loop := slices.IndexFunc(c.Index.Sheet.Loops, func(l engine.Loop) bool { return l.Part == p.ID })
		if loop >= 0 && c.RenewsLoop(loop) || loop < 0 && c.Run.Last().Parts[k].Fresh {
			c.find(message.F("The %s is renewed and the %s is not reset", p.Name, p.Reset), message.F("It goes on counting from the old one."), nil, c.after(len(c.Page.Steps)-1, &step.Reset{Part: p.ID}))
		}
	}
}

func resetTooMuch(c *proving) {
	each(c, func(i int, e virtual.Reset) {
		k := c.Index.PartAt(e.Part)
		loop := slices.IndexFunc(c.Index.Sheet.Loops, func(l engine.Loop) bool { return l.Part == e.Part })
		if c.partOfJob() || loop >= 0 && c.RenewsLoop(loop) || loop < 0 && c.Run.Last().Parts[k].Fresh {
			return
		}
		c.find(message.F("%s resets the counter of the %s, which is not renewed", c.num(i), c.part(e.Part)), message.F("The old one goes on unnoticed past its time."), []int{i}, c.drop(i))
	})
}
