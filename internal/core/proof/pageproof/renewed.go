package pageproof

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// Parts that are renewed, or should be, while their loop is off.

// routeParts are the parts of the wheels that refitted loops run over.
func (c *proving) routeParts(f func(k, loop, fit int)) {
	loops := c.refittedLoops()
	said := map[int]bool{}
	for l := range c.x.Sheet.Loops {
		fit, ok := loops[l]
		if !ok {
			continue
		}
		loop := &c.x.Sheet.Loops[l]
		var ids []engine.PartID
		for _, s := range loop.Route {
			if w := c.x.Wheel(s.Wheel); w != nil {
				ids = append(ids, w.Part)
			}
		}
		if t := c.x.Tensioner(loop.Tensioner); t != nil {
			ids = append(ids, t.Part)
		}
		for _, id := range ids {
			if k := c.x.PartAt(id); k >= 0 && !said[k] {
				said[k] = true
				f(k, l, fit)
			}
		}
	}
}

// companion finds parts that are renewed without those the sheet renews with them.
func companion(c *proving) {
	last := c.t.Last()
	for k := range c.x.Sheet.Parts {
		p := &c.x.Sheet.Parts[k]
		if !last.Parts[k].Fresh {
			continue
		}
		for _, id := range p.With {
			o := c.x.PartAt(id)
			if o < 0 || last.Parts[o].Fresh {
				continue
			}
			at := -1
			for i := range c.t.Steps {
				if c.t.Steps[i].After.Parts[k].Fresh && !c.t.Before(i).Parts[k].Fresh {
					at = i
				}
			}
			var m Mend
			for i := range c.p.Steps {
				if a, ok := c.p.Steps[i].Action.(*step.Refit); ok && slices.Equal(a.Parts, []engine.PartID{id}) && !a.New {
					n := *a
					n.New = true
					m = c.change(i, "Fit the new "+c.part(id).String(), &n)
				}
			}
			c.find(message.F("%s renews the %s and not the %s", c.num(at), p.Name, c.part(id)), message.F("The sheet renews them together: they have run together."), []int{at}, m)
		}
	}
}

func alwaysNewStays(c *proving) {
	c.routeParts(func(k, loop, fit int) {
		p := &c.x.Sheet.Parts[k]
		if p.Policy != engine.AlwaysNew || c.t.Last().Parts[k].Touched {
			return
		}
		c.find(message.F("The %s stays as it is", p.Name), message.F("The sheet says always new, and the %s comes off at it: it is as old as the belt or chain.", c.x.Sheet.Loops[loop].Name), []int{fit})
	})
}

func notInspected(c *proving) {
	seen := map[engine.PartID]bool{}
	each(c, func(_ int, e virtual.Inspected) { seen[e.Part] = true })
	for i := range c.p.Steps { // a measured plunger is a tensioner that was looked at
		if a, ok := c.p.Steps[i].Action.(*step.Measure); ok && c.ofTensioner(a.What) {
			for k := range c.x.Sheet.Tensioners {
				seen[c.x.Sheet.Tensioners[k].Part] = true
			}
		}
	}
	c.routeParts(func(k, loop, fit int) {
		p := &c.x.Sheet.Parts[k]
		if p.If == "" || p.Policy != engine.WhileThere && p.Policy != engine.NewIfFoundSo || c.t.Last().Parts[k].Fresh || seen[p.ID] {
			return
		}
		off := c.offBefore(loop, fit)
		c.find(message.F("The %s is never looked at", p.Name), message.F("The sheet says %s, and with the %s off it is within reach.", p.Policy, c.x.Sheet.Loops[loop].Name), []int{off},
			c.after(off, &step.Inspect{Parts: []engine.PartID{p.ID}, For: p.If, Then: "renew if found so"}))
	})
	each(c, func(i int, e virtual.Inspected) {
		p := c.x.Part(e.Part)
		a, ok := c.p.Steps[i].Action.(*step.Inspect)
		if !ok || p.If == "" || a.For == "" {
			return
		}
		if w := missingWord(p.If, a.For); w != "" {
			n := *a
			n.For = p.If
			c.find(message.F("%s does not look for %s at the %s", c.num(i), w, p.Name), message.F("The sheet says: %s.", p.If), []int{i}, c.change(i, "Look for "+p.If, &n))
		}
	})
}

// offBefore is the step before fit at which a loop comes off.
func (c *proving) offBefore(loop, fit int) int {
	for i := fit; i >= 0; i-- {
		if c.t.Before(i).Loops[loop].On && !c.t.Steps[i].After.Loops[loop].On {
			return i
		}
	}
	return fit
}

// missingWord is a word of weight in one text that another lacks, in any of its
// endings.
func missingWord(want, have string) string {
	have = strings.ToLower(have)
	for w := range strings.FieldsSeq(strings.ToLower(want)) {
		w = strings.Trim(w, ",.;:")
		if len(w) > 3 && !strings.Contains(have, strings.TrimSuffix(w, "s")) && w != "with" && w != "from" {
			return w
		}
	}
	return ""
}

func renewContradicts(c *proving) {
	each(c, func(i int, e virtual.Inspected) {
		p := c.x.Part(e.Part)
		a, ok := c.p.Steps[i].Action.(*step.Inspect)
		if !ok || !strings.Contains(strings.ToLower(a.Then), "renew") || p.Policy != engine.AlwaysNew && p.Policy != engine.Reuse {
			return
		}
		c.find(message.F("%s renews the %s if found so", c.num(i), p.Name), message.F("The sheet says: %s. Another part may be meant.", p.Policy), []int{i})
	})
}
