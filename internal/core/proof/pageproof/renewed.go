package pageproof

import (
	"inklatch/internal/core/proof/finding"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// Parts that are renewed, or should be, while their loop is off.

// companion finds parts that are renewed without those the sheet renews with them.
// inspected reports whether a part is looked at somewhere on the page.
func (c *proving) inspected(id engine.PartID) bool {
	found := false
	each(c, func(_ int, e virtual.Inspected) { found = found || e.Part == id })
	return found
}

func companion(c *proving) {
	last := c.Run.Last()
	for k := range c.Index.Sheet.Parts {
		p := &c.Index.Sheet.Parts[k]
		if !last.Parts[k].Fresh {
			continue
		}
		for _, id := range p.With {
			o := c.Index.PartAt(id)
			if o < 0 || last.Parts[o].Fresh {
				continue
			}
			at := -1
			for i := range c.Run.Steps {
				if c.Run.Steps[i].After.Parts[k].Fresh && !c.Run.Before(i).Parts[k].Fresh {
					at = i
				}
			}
			var m Mend
			for i := range c.Page.Steps {
				if a, ok := c.Page.Steps[i].Action.(*step.Refit); ok && slices.Equal(a.Parts, []engine.PartID{id}) && !a.New {
					n := *a
					n.New = true
					m = c.change(i, message.F("Fit the new %s", c.part(id)), &n)
				}
			}
			c.find(message.F("%s renews the %s and not the %s", c.num(at), p.Name, c.part(id)), message.F("The sheet renews them together: they have run together."), []int{at}, m)
		}
	}
}

func alwaysNewStays(c *proving) {
	c.RouteParts(func(k, loop, fit int) {
		p := &c.Index.Sheet.Parts[k]
		if p.Policy != engine.AlwaysNew || c.Run.Last().Parts[k].Touched || c.house.Rollers == finding.IfWorn && c.inspected(p.ID) {
			return
		}
		c.find(message.F("The %s stays as it is", p.Name), message.F("The sheet says always new, and the %s comes off at it: it is as old as the belt or chain.", c.Index.Sheet.Loops[loop].Name), []int{fit})
	})
}

func notInspected(c *proving) {
	seen := map[engine.PartID]bool{}
	each(c, func(_ int, e virtual.Inspected) { seen[e.Part] = true })
	for i := range c.Page.Steps { // a measured plunger is a tensioner that was looked at
		if a, ok := c.Page.Steps[i].Action.(*step.Measure); ok && c.OfTensioner(a.What) {
			for k := range c.Index.Sheet.Tensioners {
				seen[c.Index.Sheet.Tensioners[k].Part] = true
			}
		}
	}
	c.RouteParts(func(k, loop, fit int) {
		p := &c.Index.Sheet.Parts[k]
		if p.If == "" || p.Policy != engine.WhileThere && p.Policy != engine.NewIfFoundSo || c.Run.Last().Parts[k].Fresh || seen[p.ID] {
			return
		}
		off := c.OffBefore(loop, fit)
		c.find(message.F("The %s is never looked at", p.Name), message.F("The sheet says %s, and with the %s off it is within reach.", p.Policy, c.Index.Sheet.Loops[loop].Name), []int{off},
			c.after(off, &step.Inspect{Parts: []engine.PartID{p.ID}, For: p.If, Then: "renew if found so"}))
	})
	each(c, func(i int, e virtual.Inspected) {
		p := c.Index.Part(e.Part)
		a, ok := c.Page.Steps[i].Action.(*step.Inspect)
		if !ok || p.If == "" || a.For == "" {
			return
		}
		if w := missingWord(p.If, a.For); w != "" {
			n := *a
			n.For = p.If
			c.find(message.F("%s does not look for %s at the %s", c.num(i), w, p.Name), message.F("The sheet says: %s.", p.If), []int{i}, c.change(i, message.F("Look for %s", p.If), &n))
		}
	})
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
		p := c.Index.Part(e.Part)
		a, ok := c.Page.Steps[i].Action.(*step.Inspect)
		if !ok || !strings.Contains(strings.ToLower(a.Then), "renew") || p.Policy != engine.AlwaysNew && p.Policy != engine.Reuse {
			return
		}
		if c.house.Rollers == finding.IfWorn && p.Policy == engine.AlwaysNew {
			return
		}
		c.find(message.F("%s renews the %s if found so", c.num(i), p.Name), message.F("The sheet says: %s. Another part may be meant.", p.Policy), []int{i})
	})
}
