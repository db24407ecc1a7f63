package tally

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/contact"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/say"
)

// contactRules hold what the sheet says of valves and pistons against the
// slider-crank.
var contactRules = []Rule{
	{"valves-unfinished", "drive", proof.ShouldFix, "valves of which too little is written to work out where they meet pistons", valvesUnfinished},
	{"meets-in-step", "drive", proof.Blocks, "a lift, a timing or a clearance mistyped: the engine as written bends its valves", meetsInStep},
	{"interference-differs", "drive", proof.ShouldFix, "an engine taken for one that forgives a slipped belt", interferenceDiffers},
	{"rest-meets", "drive", proof.Blocks, "a rest position at which a cam turned by hand meets a piston", restMeets},
	{"limit-of-contact", "marks and locks", proof.Blocks, "a limit that passes a cam whose valves meet the pistons", limitOfContact},
}

// orderRules look at orders, places and what runs out.
var orderRules = []Rule{
	{"places-count", "fasteners and parts", proof.ShouldFix, "a figure of a pattern with a bolt too few", placesCount},
	{"half-link", "route", proof.ShouldFix, "a chain with an odd number of links that cannot be joined", oddLinks},
	{"then-tensioners", "tension", proof.Blocks, "a belt whose second tensioner is its first, or comes on before there is one", thenTensioners},
	{"no-amount", "fasteners and parts", proof.Look, "a fluid every page has to guess the amount of", noAmount},
	{"mark-on-nothing", "marks and locks", proof.Blocks, "a mark that no shaft brings round", markOnNothing},
	{"order-in-circles", "fasteners and parts", proof.Blocks, "bolts that are each tightened after the other", orderInCircles},
}

// trains calls f for every cam with valves that can be worked out.
func (t *tallying) trains(f func(cam *engine.Shaft, on string, v *contact.Train)) {
	for i := range t.s.Shafts {
		if v, ok := contact.Of(t.s, &t.s.Shafts[i]); ok {
			f(&t.s.Shafts[i], "shafts/"+string(t.s.Shafts[i].ID)+"/valves", v)
		}
	}
}

func valvesUnfinished(t *tallying) {
	for i := range t.s.Shafts {
		s := &t.s.Shafts[i]
		on := "shafts/" + string(s.ID) + "/valves"
		if s.Valves == nil {
			continue
		}
		if !s.Kind.IsCam() {
			t.find(on, say.F("The %s has valves and is no cam", s.Name), say.F("Only a cam opens valves."), Mend{"Leave them out", []engine.Edit{{Path: on}}})
			continue
		}
		if _, ok := contact.Of(t.s, s); !ok {
			t.find(on, say.F("Where the valves of the %s meet pistons cannot be worked out", s.Name), say.F("It takes stroke and rod of the engine, and of the valves where they open and close, the lift, and the clearance to the piston at top dead centre."))
		}
	}
}

func meetsInStep(t *tallying) {
	t.trains(func(cam *engine.Shaft, on string, v *contact.Train) {
		if room, at := v.Least(0); room < 0 {
			t.find(on, say.F("The valves of the %s would meet the pistons with the engine in step", cam.Name), say.F("%s° from top dead centre of the gas exchange they would be %s mm in one another: opening, closing, lift or clearance is wrong.", fixed(at, 0), fixed(-room, 1)))
		}
	})
}

func interferenceDiffers(t *tallying) {
	meets, any := false, false
	t.trains(func(_ *engine.Shaft, _ string, v *contact.Train) {
		_, late := v.From(false)
		_, early := v.From(true)
		any, meets = true, meets || late || early
	})
	switch {
	case !any:
	case meets && t.s.Interference != engine.Yes:
		t.find("interference", say.F("Valves can meet pistons on this engine, and the sheet does not say so"), say.F("By stroke, rod, lift and clearance they do when a cam is out of step far enough."), set("It is an interference engine", "interference", engine.Yes))
	case !meets && t.s.Interference == engine.Yes:
		t.find("interference", say.F("The sheet says valves can meet pistons, and by its own figures they never do"), say.F("Either a figure of the valves is wrong, or the engine forgives."))
	}
}

func restMeets(t *tallying) {
	if t.s.Limits.Rest == 0 {
		return
	}
	t.trains(func(cam *engine.Shaft, _ string, v *contact.Train) {
		worst := math.Inf(1)
		for a := 0.0; a < 360; a++ {
			worst = math.Min(worst, v.Now(t.s.Limits.Rest, a))
		}
		if worst < 0 {
			t.find("limits/rest", say.F("With the crank at its rest position, the %s can still meet a piston", cam.Name), say.F("Turned round once by hand, its valves and a piston would be %s mm in one another.", fixed(-worst, 1)))
		}
	})
}

func limitOfContact(t *tallying) {
	most := t.s.Limits.CamError
	if most == 0 {
		return
	}
	for i := range t.s.Shafts {
		s := &t.s.Shafts[i]
		from := s.Contact
		if v, ok := contact.Of(t.s, s); ok {
			for _, early := range []bool{false, true} {
				if d, meets := v.From(early); meets && (from == 0 || math.Abs(d)/2 < from) {
					from = math.Abs(d) / 2
				}
			}
		}
		if from > 0 && from <= most {
			t.find("limits/camError", say.F("The limit passes %s°, and the valves of the %s meet pistons from %s°", fixed(most, 1), s.Name, fixed(from, 1)), say.F("A cam that passes has to keep clear of the pistons."))
		}
	}
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
			t.find(on, say.F("The %s has a second tensioner and no first", l.Name), say.F("The one that comes on first is the tensioner of the loop."))
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

// follows are the rules whose findings come from another's, on the same thing or
// anywhere: settled, that one settles these too.
var follows = map[string][]string{
	"not-driven": {"no-crank", "no-size"}, "cam-ratio": {"no-crank", "drives-disagree"}, "stroke-untold": {"no-crank", "not-driven", "cam-ratio"},
	"tooth-unseen": {"no-crank", "not-driven", "cam-ratio"}, "does-not-close": {"no-size", "impossible-route"}, "take-up": {"does-not-close", "impossible-route"},
	"end-of-travel": {"does-not-close", "impossible-route", "take-up"}, "few-teeth": {"impossible-route", "does-not-close"}, "no-room": {"impossible-route"},
	"links": {"does-not-close", "impossible-route", "cannot-be-laid"}, "frequency-run": {"cannot-be-laid", "impossible-route"}, "impossible-route": {"no-size", "cannot-be-laid"},
	"no-tensioner": {"cannot-be-laid"}, "interference-differs": {"meets-in-step"}, "rest-meets": {"meets-in-step"}, "limit-of-contact": {"meets-in-step"},
}

// causes hangs every finding that follows from another under that one.
func causes(fs []Finding) {
	seen := map[string]int{}
	for i := range fs {
		f := &fs[i]
		f.ID = f.Rule + "@" + f.On
		if seen[f.ID]++; seen[f.ID] > 1 {
			f.ID += fmt.Sprintf(".%d", seen[f.ID])
		}
	}
	for i := range fs {
		for _, rule := range follows[fs[i].Rule] {
			if k := slices.IndexFunc(fs, func(c Finding) bool { return c.Rule == rule && c.Cause == "" }); k >= 0 && k != i {
				fs[i].Cause = fs[k].ID
				break
			}
		}
	}
}
