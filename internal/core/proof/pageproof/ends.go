package pageproof

import (
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/virtual"
)

// endRules hold what a page that is part of a job says of its beginning and end
// against what the engine does.
var endRules = finding.Family[*proving]{
	{ID: "begins-impossible", Family: "part of a job", Severity: finding.Blocks, Check: beginsImpossible,
		Doc: "a page that begins with an engine that can stand so nowhere"},
	{ID: "ends-otherwise", Family: "part of a job", Severity: finding.Blocks, Check: endsOtherwise,
		Doc: "a page that hands an engine on otherwise than it says"},
	{ID: "goes-on-from-nothing", Family: "part of a job", Severity: finding.Blocks, Check: goesOnFromNothing,
		Doc: "a page that begins or ends in the middle of a job and names no page beside it"},
	{ID: "started-handed-on", Family: "part of a job", Severity: finding.Blocks, Check: startedAndHandedOn,
		Doc: "a page that hands on an open engine after starting it"},
}

// Meet says what the end of a page and the beginning of the one that goes on from
// it do not have in common, a phrase for each.
func Meet(x *engine.Index, before, after *procedure.Header) []string {
	var out []string
	for _, d := range before.Ends.Differs(after.Begins, x.NameOf) {
		out = append(out, fmt.Sprintf("%s where “%s” ends, and not where “%s” begins", d, before.Title, after.Title))
	}
	for _, d := range after.Begins.Differs(before.Ends, x.NameOf) {
		out = append(out, fmt.Sprintf("%s where “%s” begins, and not where “%s” ends", d, after.Title, before.Title))
	}
	return out
}

// Beside holds a page against the pages it says it goes on from, and that go on
// from it; page gives one by its title, nil where it is not known.
func Beside(x *engine.Index, h *procedure.Header, page func(title string) *procedure.Header) []Finding {
	var out []Finding
	add := func(rule string, sev finding.Severity, what, why string) {
		f := Finding{Steps: []step.ID{}, Mends: []Mend{}}
		f.Finding = finding.Finding{ID: fmt.Sprintf("%s.%d", rule, len(out)), Rule: rule, Severity: sev, What: what, Why: why}
		out = append(out, f)
	}
	for _, title := range []string{h.After, h.Before} {
		if title != "" && page(title) == nil {
			add("beside-not-seen", finding.Look, fmt.Sprintf("“%s” is not among these files", title), "Whether the two pages meet was not looked at. Name both files.")
		}
	}
	if before := page(h.After); h.After != "" && before != nil {
		if d := Meet(x, before, h); len(d) > 0 {
			add("halves-apart", finding.Blocks, fmt.Sprintf("The page does not begin as “%s” ends: %s", before.Title, strings.Join(d, "; ")), "Whoever does one after the other meets another engine than the page speaks of.")
		}
	}
	return out
}

func beginsImpossible(c *proving) {
	if _, err := virtual.Stood(c.Index, 0, c.whole.Begins); err != nil {
		c.find(message.F("The page begins with an engine that cannot stand so: %s", err.Error()), message.F("Nobody can begin with it."), nil)
	}
	if b := c.whole.Begins; !b.Whole() {
		for _, id := range b.Slack {
			if f := c.Index.FastenerAt(id); f >= 0 && c.OutWith(id, b) {
				c.find(message.F("The page begins with the %s slack, and what it holds is off", c.fastener(id)), message.F("It is out with it, and belongs to it."), nil)
			}
		}
	}
}

// endsOtherwise says what is not as the page says it leaves it. What is left open
// and not said is found by the rules of each thing.
func endsOtherwise(c *proving) {
	if c.whole.Ends.Whole() {
		return
	}
	is := virtual.StandingOf(c.Index, c.Run.Last())
	more := c.whole.Ends.Differs(is, c.Index.NameOf)
	if len(more) == 0 {
		return
	}
	h := c.header(message.F("Say how the last step leaves it"), func(h *procedure.Header) { h.Ends = is })
	c.find(message.F("The page does not end as it says: %s; it is not so after the last step", strings.Join(more, ", ")), message.F("The page that goes on from it would begin with another engine."), c.LastStep(), h)
}

func goesOnFromNothing(c *proving) {
	if !c.whole.Begins.Whole() && c.whole.After == "" {
		c.find(message.F("The page begins in the middle of a job and does not say which page comes before it"), message.F("Whoever opens it cannot know what has been done."), nil)
	}
	if !c.whole.Ends.Whole() && c.whole.Before == "" {
		c.find(message.F("The page ends in the middle of a job and does not say which page comes after it"), message.F("An engine is left open."), nil)
	}
}

func startedAndHandedOn(c *proving) {
	if end := c.Start(); end < len(c.Page.Steps) && !c.whole.Ends.Whole() {
		c.find(message.F("%s starts the engine, and the page says that it is left open", c.num(end)), message.F("What is started is closed before."), []int{end}, c.header(message.F("It ends with everything on and tight"), func(h *procedure.Header) { h.Ends = virtual.Standing{} }))
	}
}

// handsOn reports whether the page says that it leaves a thing as it is, for the
// page that goes on from it.
func handsOn[T ~string](c *proving, list []T, id T) bool {
	return slices.Contains(list, id) && c.Start() == len(c.Page.Steps)
}

// partOfJob reports whether the page leaves an open engine to another: what the
// job as a whole owes is that page's debt.
func (c *proving) partOfJob() bool { return !c.whole.Ends.Whole() && c.Start() == len(c.Page.Steps) }
