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

// readingRules hold what is measured against the readings of the sheet.
var readingRules = finding.Family[*proving]{
	{ID: "reading-off", Family: "turns and proof", Severity: finding.Blocks, Check: readingOff,
		Doc: "a lift or a gap that cannot be what the page says, for its shaft stands elsewhere"},
	{ID: "reading-hidden", Family: "access and order", Severity: finding.Blocks, Check: readingHidden,
		Doc: "something measured with a part before it"},
	{ID: "reading-differs", Family: "turns and proof", Severity: finding.Blocks, Check: readingDiffers,
		Doc: "a backlash, an end play or a lift passed that the sheet does not pass"},
	{ID: "reading-vague", Family: "turns and proof", Severity: finding.ShouldFix, Check: readingVague,
		Doc: "something measured that the page does not say what passes"},
	{ID: "reading-owed", Family: "turns and proof", Severity: finding.ShouldFix, Check: readingOwed,
		Doc: "what the sheet has measured after the work, left to chance"},
}

func (c *proving) reading(id engine.ReadingID) message.Arg {
	return named("readings", string(id), c.Index.Name(engine.Ref{Kind: engine.KindReading, ID: string(id)}))
}

func readingOff(c *proving) {
	each(c, func(i int, e virtual.ReadingOff) {
		c.find(message.F("The %s does not read so at step %d", c.reading(e.Reading), c.no(i)), message.F("The %s stands %s° from where the sheet has it read.", c.shaft(e.Shaft), tidy(abs(float64(e.Degrees)))), []int{i})
	})
}

func readingHidden(c *proving) {
	each(c, func(i int, e virtual.ReadingHidden) {
		c.find(message.F("%s measures the %s with the %s before it", c.num(i), c.reading(e.Reading), c.part(e.Part)), message.F("Nobody gets at it."), []int{i}, c.before(i, &step.Remove{Parts: []engine.PartID{e.Part}}))
	})
}

// passes reports whether all that a page lets pass does by the sheet.
func passes(page, sheet unit.Quantity) bool {
	if page.Kind() != sheet.Kind() {
		return false
	}
	_, _, bounded := spreadOf(page, page.Unit)
	if _, _, ok := spreadOf(sheet, sheet.Unit); !ok || !bounded {
		return amount(page, sheet) && (!bounded || ok)
	}
	lo, hi := page.Bounds()
	l, h := sheet.Bounds()
	lo, errL := unit.Convert(lo, page.Unit, sheet.Unit)
	hi, errH := unit.Convert(hi, page.Unit, sheet.Unit)
	near := 0.02 * abs(h-l) // a limit that was converted is rounded
	return errL == nil && errH == nil && lo >= l-near-1e-9 && hi <= h+near+1e-9
}

// taken calls f for every step that takes a reading of the sheet, with the value it is to
// have there and the step as it would be with another.
func (c *proving) taken(f func(i int, r *engine.Reading, v unit.Quantity, with func(unit.Quantity) step.Action)) {
	for i := range c.Page.Steps {
		switch a := c.Page.Steps[i].Action.(type) {
		case *step.Measure:
			if r := c.Index.Reading(a.Reading); r != nil {
				f(i, r, a.Value, func(q unit.Quantity) step.Action { n := *a; n.Value = q; return &n })
			}
		case *step.Turn:
			if r := c.Index.Reading(a.Until); r != nil {
				f(i, r, a.Reads, func(q unit.Quantity) step.Action { n := *a; n.Reads = q; return &n })
			}
		}
	}
}

func readingDiffers(c *proving) {
	c.taken(func(i int, r *engine.Reading, v unit.Quantity, with func(unit.Quantity) step.Action) {
		if v.IsZero() || r.Value.IsZero() || passes(v, r.Value) {
			return
		}
		c.find(message.F("%s passes the %s at %s; the sheet says %s", c.num(i), c.reading(r.ID), v, r.Value), message.F("One of the two is wrong."), []int{i}, c.change(i, message.F("Make it %s", r.Value), with(r.Value)))
	})
}

func readingVague(c *proving) {
	c.taken(func(i int, r *engine.Reading, v unit.Quantity, with func(unit.Quantity) step.Action) {
		if v.IsZero() && !r.Value.IsZero() {
			c.find(message.F("%s does not say at what the %s passes", c.num(i), c.reading(r.ID)), message.F("The sheet says %s.", r.Value), []int{i}, c.change(i, message.F("It passes at %s", r.Value), with(r.Value)))
		}
	})
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Measure)
		if !ok || a.Readings > 0 && a.Reading == "" {
			continue
		}
		if r := c.Index.Reading(a.Reading); r != nil && r.Readings > 1 && a.Readings < r.Readings {
			n := *a
			n.Readings = r.Readings
			c.find(message.F("%s measures the %s at fewer places than the sheet", c.num(i), c.reading(r.ID)), message.F("The sheet says %d.", r.Readings), []int{i}, c.change(i, message.F("Take %d", r.Readings), &n))
		}
	}
}

// readingOwed holds that what the sheet has measured is measured once the work has
// disturbed it: the shaft set anew, the gears brought together, the belt or chain laid, the
// part back on.
func readingOwed(c *proving) {
	for k := range c.Index.Sheet.Readings {
		r := &c.Index.Sheet.Readings[k]
		at := c.disturbed(r)
		if at < 0 || c.partOfJob() && at == len(c.Run.Steps)-1 {
			continue
		}
		taken := slices.ContainsFunc(c.Run.Steps[at:], func(s virtual.StepTrace) bool {
			return slices.Contains(s.Events, virtual.Event(virtual.Gauged{Reading: r.ID}))
		})
		if taken {
			continue
		}
		m := &step.Measure{Reading: r.ID, Value: r.Value}
		if r.Readings > 1 {
			m.Readings = r.Readings
		}
		sev := finding.ShouldFix
		if r.Shaft != "" {
			sev = finding.Blocks
		}
		c.findAs(sev, message.F("Nobody measures the %s after step %d", c.reading(r.ID), c.no(at)), message.F("The sheet has it at %s.", r.Value), []int{at}, c.after(at, m), c.after(max(at, c.HomeAgain(c.LastTurn(len(c.Page.Steps)))), m))
	}
}

// byReading reports whether a shaft that nothing fixes is set by a reading of the sheet
// just before step i clamps it, and is measured again after that: held where it reads so
// it stands within what the reading shows.
func (c *proving) byReading(i int, id engine.ShaftID) bool {
	met := func(k int) bool {
		return slices.ContainsFunc(c.Run.Steps[k].Events, func(e virtual.Event) bool {
			g, ok := e.(virtual.Gauged)
			r := c.Index.Reading(g.Reading)
			return ok && r != nil && r.Shaft == id
		})
	}
	k, before := c.Index.ShaftAt(id), false
	if k < 0 {
		return false
	}
	for n := i - 1; n >= 0 && !before; n-- {
		if before = met(n); !before && c.Run.Steps[n].After.Shafts[k] != c.Run.Before(n).Shafts[k] {
			return false
		}
	}
	for n := i + 1; before && n < len(c.Run.Steps); n++ {
		if met(n) {
			return true
		}
	}
	return false
}

// disturbed is the last step after which a reading of the sheet is owed, −1 for none.
func (c *proving) disturbed(r *engine.Reading) int {
	at := -1
	for i := range c.Run.Steps {
		was, is := c.Run.Before(i), &c.Run.Steps[i].After
		for w := range c.Index.Sheet.Wheels {
			if r.Shaft != "" && c.Index.Sheet.Wheels[w].Shaft == r.Shaft && was.Free[w] && !is.Free[w] {
				at = i
			}
		}
		for g := range c.Index.Sheet.Gears {
			if c.Index.Sheet.Gears[g].ID == r.Gear && was.Meshes[g].Apart && !is.Meshes[g].Apart {
				at = i
			}
		}
		for l := range c.Index.Sheet.Loops {
			if c.Index.Sheet.Loops[l].ID != r.Loop || !is.Loops[l].Refitted {
				continue
			}
			for t := range c.Index.Sheet.Tensioners {
				if c.Index.Sheet.Loops[l].Tensions(c.Index.Sheet.Tensioners[t].ID) && was.Tensioners[t].Slack() && !is.Tensioners[t].Slack() {
					at = i
				}
			}
		}
		if p := c.Index.PartAt(r.Part); p >= 0 && was.Parts[p].Off && !is.Parts[p].Off {
			at = i
		}
	}
	return at
}
