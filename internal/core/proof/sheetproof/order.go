package sheetproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
)

// orderRules look at orders, places and what runs out.
var orderRules = finding.Family[*looking]{
	{ID: "places-count", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: placesCount,
		Doc: "a figure of a pattern with a bolt too few"},
	{ID: "half-link", Family: "route", Severity: finding.ShouldFix, Check: oddLinks,
		Doc: "a chain with an odd number of links that cannot be joined"},
	{ID: "then-tensioners", Family: "tension", Severity: finding.Blocks, Check: thenTensioners,
		Doc: "a belt whose second tensioner is its first, or comes on before there is one"},
	{ID: "no-amount", Family: "fasteners and parts", Severity: finding.Look, Check: noAmount,
		Doc: "a fluid every page has to guess the amount of"},
	{ID: "mark-on-nothing", Family: "marks and locks", Severity: finding.Blocks, Check: markOnNothing,
		Doc: "a mark that no shaft brings round"},
	{ID: "order-in-circles", Family: "fasteners and parts", Severity: finding.Blocks, Check: orderInCircles,
		Doc: "bolts that are each tightened after the other"},
}

func placesCount(t *looking) {
	for i := range t.s.Fasteners {
		if f := &t.s.Fasteners[i]; len(f.Places) > 0 && len(f.Places) != f.Count {
			t.find("fasteners/"+string(f.ID)+"/places", message.F("The %s are %d, and %d places are given", f.Words(), f.Count, len(f.Places)), message.F("The figure on the page would number another set."))
		}
	}
}

// oddLinks: a roller or silent chain of whole links has an even number of them; an
// odd one takes a cranked half link (common practice, no source).
func oddLinks(t *looking) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		on := "loops/" + string(l.ID) + "/half"
		switch {
		case l.Kind == engine.Chain && l.Teeth%2 == 1 && !l.Half:
			t.find(on, message.F("The %s has %d links, an odd number", l.Name, l.Teeth), message.F("Inner and outer links take turns: an odd number takes a cranked half link, or is mistyped."), set(message.F("It has a half link"), on, true))
		case l.Half && (l.Kind != engine.Chain || l.Teeth%2 == 0):
			t.find(on, message.F("The %s has a half link and an even number of teeth or links", l.Name), message.F("A half link makes the number odd."), finding.MendOf(message.F("It has none"), []engine.Edit{{Path: on}}))
		}
	}
}

func thenTensioners(t *looking) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		on := "loops/" + string(l.ID) + "/then"
		if len(l.Then) > 0 && l.Tensioner == "" {
			t.find(on, message.F("The %s has a second tensioner and no first", l.Name), message.F("The one that comes on first is the tensioner of the belt or chain."))
		}
		for k, id := range l.Then {
			if id == l.Tensioner || slices.Contains(l.Then[:k], id) {
				t.find(on, message.F("The %s names one tensioner twice", l.Name), message.F("Each comes on once."))
				break
			}
		}
	}
}

func noAmount(t *looking) {
	for i := range t.s.Fluids {
		if f := &t.s.Fluids[i]; f.Amount.IsZero() {
			t.find("fluids/"+string(f.ID)+"/amount", message.F("The %s has no amount", f.Name), message.F("Every page that fills it in has to bring its own figure."))
		}
	}
}

func markOnNothing(t *looking) {
	for i := range t.s.Marks {
		if m := &t.s.Marks[i]; m.Kind == engine.TimingMark && t.x.MarkShaft(m) == "" {
			t.find("marks/"+string(m.ID)+"/wheel", message.F("The %s is on no wheel that turns with a shaft, and on no shaft", m.Name), message.F("Nothing brings it to its pointer."))
		}
	}
}

func orderInCircles(t *looking) {
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		for _, id := range f.After {
			if o := t.x.Fastener(id); o != nil && (o.ID == f.ID || slices.Contains(o.After, f.ID)) {
				t.find("fasteners/"+string(f.ID)+"/after", message.F("The %s and the %s are each tightened after the other", f.Words(), o.Words()), message.F("One of them comes first."))
				return
			}
		}
	}
}
