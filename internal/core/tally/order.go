package tally

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/say"
)

// orderRules look at orders, places and what runs out.
var orderRules = []Rule{
	{"places-count", "fasteners and parts", proof.ShouldFix, "a figure of a pattern with a bolt too few", placesCount},
	{"half-link", "route", proof.ShouldFix, "a chain with an odd number of links that cannot be joined", oddLinks},
	{"then-tensioners", "tension", proof.Blocks, "a belt whose second tensioner is its first, or comes on before there is one", thenTensioners},
	{"no-amount", "fasteners and parts", proof.Look, "a fluid every page has to guess the amount of", noAmount},
	{"mark-on-nothing", "marks and locks", proof.Blocks, "a mark that no shaft brings round", markOnNothing},
	{"order-in-circles", "fasteners and parts", proof.Blocks, "bolts that are each tightened after the other", orderInCircles},
}

func placesCount(t *tallying) {
	for i := range t.s.Fasteners {
		if f := &t.s.Fasteners[i]; len(f.Places) > 0 && len(f.Places) != f.Count {
			t.find("fasteners/"+string(f.ID)+"/places", say.F("The %s are %d, and %d places are given", f.Words(), f.Count, len(f.Places)), say.F("The figure on the page would number another set."))
		}
	}
}

// oddLinks: a roller or silent chain of whole links has an even number of them; an
// odd one takes a cranked half link (common practice, no source).
func oddLinks(t *tallying) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		on := "loops/" + string(l.ID) + "/half"
		switch {
		case l.Kind == engine.Chain && l.Teeth%2 == 1 && !l.Half:
			t.find(on, say.F("The %s has %d links, an odd number", l.Name, l.Teeth), say.F("Inner and outer links take turns: an odd number takes a cranked half link, or is mistyped."), set("It has a half link", on, true))
		case l.Half && (l.Kind != engine.Chain || l.Teeth%2 == 0):
			t.find(on, say.F("The %s has a half link and an even number of teeth or links", l.Name), say.F("A half link makes the number odd."), Mend{"It has none", []engine.Edit{{Path: on}}})
		}
	}
}

func thenTensioners(t *tallying) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		on := "loops/" + string(l.ID) + "/then"
		if len(l.Then) > 0 && l.Tensioner == "" {
			t.find(on, say.F("The %s has a second tensioner and no first", l.Name), say.F("The one that comes on first is the tensioner of the belt or chain."))
		}
		for k, id := range l.Then {
			if id == l.Tensioner || slices.Contains(l.Then[:k], id) {
				t.find(on, say.F("The %s names one tensioner twice", l.Name), say.F("Each comes on once."))
				break
			}
		}
	}
}

func noAmount(t *tallying) {
	for i := range t.s.Fluids {
		if f := &t.s.Fluids[i]; f.Amount.IsZero() {
			t.find("fluids/"+string(f.ID)+"/amount", say.F("The %s has no amount", f.Name), say.F("Every page that fills it in has to bring its own figure."))
		}
	}
}

func markOnNothing(t *tallying) {
	for i := range t.s.Marks {
		if m := &t.s.Marks[i]; m.Kind == engine.TimingMark && t.x.MarkShaft(m) == "" {
			t.find("marks/"+string(m.ID)+"/wheel", say.F("The %s is on no wheel that turns with a shaft, and on no shaft", m.Name), say.F("Nothing brings it to its pointer."))
		}
	}
}

func orderInCircles(t *tallying) {
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		for _, id := range f.After {
			if o := t.x.Fastener(id); o != nil && (o.ID == f.ID || slices.Contains(o.After, f.ID)) {
				t.find("fasteners/"+string(f.ID)+"/after", say.F("The %s and the %s are each tightened after the other", f.Words(), o.Words()), say.F("One of them comes first."))
				return
			}
		}
	}
}
