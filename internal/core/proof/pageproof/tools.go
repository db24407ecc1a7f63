package pageproof

import (
	"maps"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/facts"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/virtual"
)

var toolRules = finding.Family[*proving]{
	{ID: "tool-not-listed", Family: "tools and parts", Severity: finding.ShouldFix, Reads: finding.Written, Check: toolNotListed,
		Doc: "a tool the technician finds missing half way through"},
	{ID: "tool-not-used", Family: "tools and parts", Severity: finding.Look, Reads: finding.Written, Check: toolNotUsed,
		Doc: "a tool on the list that no step uses"},
	{ID: "kit-for-one", Family: "tools and parts", Severity: finding.Look, Reads: finding.Written, Check: kitForOne,
		Doc: "a whole kit fetched for one tool of it"},
}

func toolNotListed(c *proving) {
	said := map[engine.ToolID]bool{}
	for i := range c.Page.Steps {
		for _, id := range c.Page.Steps[i].ToolsUsed(c.Index) {
			if said[id] || slices.Contains(c.Page.Prelims.Tools, id) {
				continue
			}
			said[id] = true
			t := c.Index.Tool(id)
			if t != nil && slices.ContainsFunc(c.Page.Prelims.Tools, func(l engine.ToolID) bool { return c.Index.IsKitOf(l, t) }) {
				continue // it comes with its kit
			}
			if t == nil {
				c.find(message.F("%s uses a tool “%s” that is not on the sheet", c.num(i), id), message.F("Nobody can look it up."), []int{i})
				continue
			}
			c.find(message.F("%s uses %s, which is not on the tool list", c.num(i), t.Number), message.F("The %s would be missed half way through.", t.Name), []int{i},
				c.header(message.F("Put %s on the list", t.Number), func(h *procedure.Header) { h.Prelims.Tools = append(slices.Clone(h.Prelims.Tools), id) }))
		}
	}
}

func toolNotUsed(c *proving) {
	used := c.toolsUsed()
	for _, id := range c.Page.Prelims.Tools {
		if used[id] || c.ofKit(id, used) != nil {
			continue
		}
		name := string(id)
		if t := c.Index.Tool(id); t != nil {
			name = t.Number
		}
		c.find(message.F("%s is on the tool list and no step uses it", name), message.F("Either a step has lost it or the list is too long."), nil,
			c.header(message.F("Take %s off the list", name), func(h *procedure.Header) {
				h.Prelims.Tools = slices.DeleteFunc(slices.Clone(h.Prelims.Tools), func(t engine.ToolID) bool { return t == id })
			}))
	}
}

// toolsUsed are the tools that the steps use.
func (c *proving) toolsUsed() map[engine.ToolID]bool {
	used := map[engine.ToolID]bool{}
	for i := range c.Page.Steps {
		for _, id := range c.Page.Steps[i].ToolsUsed(c.Index) {
			used[id] = true
		}
	}
	return used
}

// ofKit are the tools used that come in a kit.
func (c *proving) ofKit(kit engine.ToolID, used map[engine.ToolID]bool) (out []*engine.Tool) {
	for k := range c.Index.Sheet.Tools {
		if t := &c.Index.Sheet.Tools[k]; used[t.ID] && c.Index.IsKitOf(kit, t) {
			out = append(out, t)
		}
	}
	return out
}

// kitForOne finds a kit on the list of which the steps use a single tool.
func kitForOne(c *proving) {
	used := c.toolsUsed()
	for _, id := range c.Page.Prelims.Tools {
		of := c.ofKit(id, used)
		if len(of) != 1 || used[id] {
			continue
		}
		c.find(message.F("Kit %s is on the tool list, and of it only %s is used", c.Index.Tool(id).Number, of[0].Number), message.F("Whoever has that tool and not the kit thinks that the work cannot be done."), nil,
			c.header(message.F("List %s in its place", of[0].Number), func(h *procedure.Header) {
				h.Prelims.Tools = slices.Clone(h.Prelims.Tools)
				for k, t := range h.Prelims.Tools {
					if t == id {
						h.Prelims.Tools[k] = of[0].ID
					}
				}
			}))
	}
}

// standIns goes through the page with each tool that the sheet lets stand in for one of its own
// and that is looser, and finds what is amiss with it and not with the tool itself.
func (c *proving) standIns() {
	used := c.toolsUsed()
	in := c.Index.StandIns(slices.Collect(maps.Keys(used)))
	if len(in) == 0 {
		return
	}
	had := subjects(c.out)
	for _, v := range in {
		x := c.Index.With(v)
		one := &proving{Facts: facts.Facts{Index: x, Page: c.Page, Run: virtual.Run(x, c.Page)}, raw: c.raw, at: c.at, whole: c.whole, car: c.car, house: c.house, rules: c.rules, trying: c.trying}
		c.elsewise(one, had, message.F("With %s in place of %s: ", v.Number, c.Index.Tool(v.Tool).Number))
	}
}
