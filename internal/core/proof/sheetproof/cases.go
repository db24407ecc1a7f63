package sheetproof

import (
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/layout"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
)

var caseRules = finding.Family[*looking]{
	{ID: "years", Family: "applicability", Severity: finding.Blocks, Check: years,
		Doc: "a code made before it was made"},
	{ID: "cases", Family: "applicability", Severity: finding.Blocks, Check: cases,
		Doc: "a value that is missing for some engines, or two for the same one"},
	{ID: "names", Family: "applicability", Severity: finding.ShouldFix, Check: ownNames,
		Doc: "a name of the house’s own that stands for nothing, or for two things"},
	{ID: "no-maker", Family: "applicability", Severity: finding.ShouldFix, Check: noMaker,
		Doc: "a sheet that cannot be traced to whose engine it is"},
	{ID: "archetype", Family: "evidence", Severity: finding.Blocks, Check: asTheArchetype,
		Doc: "measures of a layout to start from taken for those of the engine"},
	{ID: "empty-place", Family: "evidence", Severity: finding.Blocks, Check: emptyPlace,
		Doc: "a mark or lock of a layout to start from taken for one of the engine"},
	{ID: "no-source", Family: "evidence", Severity: finding.Look, Check: noSource,
		Doc: "a safety-relevant value nobody can trace"},
	{ID: "source-replaced", Family: "evidence", Severity: finding.ShouldFix, Check: sourceReplaced,
		Doc: "a value that rests on a document another has replaced"},
	{ID: "source-odd", Family: "evidence", Severity: finding.ShouldFix, Check: sourceOdd,
		Doc: "documents that replace one another in a circle, and dates that are none"},
}

func years(t *looking) {
	if y := t.s.Years; y.From == 0 {
		t.findAs(finding.ShouldFix, "years", message.F("The years of this code are missing"), message.F("Procedures take theirs from here."))
	} else if y.To > 0 && y.To < y.From {
		t.find("years", message.F("The code ends in %d before it begins in %d", y.To, y.From), message.F("Swap them, or leave the end open."), set(message.F("Swap them"), "years", engine.Years{From: y.To, To: y.From}))
	}
}

// ownNames holds the names that people of this code use against what they stand
// for.
func ownNames(t *looking) {
	said := map[string]string{}
	for i := range t.s.Names {
		n := &t.s.Names[i]
		at := "names/" + n.ID
		out := finding.MendOf(message.F("Take the name out"), []engine.Edit{{Path: at}})
		name := strings.ToLower(strings.TrimSpace(n.Say))
		switch {
		case name == "":
			t.find(at+"/say", message.F("A name of your own is empty"), message.F("Nobody can type it."), out)
		case t.thing(n.Of) == "":
			t.find(at+"/of", message.F("“%s” stands for “%s”, which the sheet does not have", n.Say, n.Of), message.F("It was taken out or misspelt."), out)
		case said[name] != "" && said[name] != n.Of:
			t.find(at+"/say", message.F("“%s” stands for two things", n.Say), message.F("A line that uses it is asked about every time."), out)
		}
		said[name] = n.Of
	}
}

func cases(t *looking) {
	for i := range t.s.Varies {
		v := &t.s.Varies[i]
		at := "varies/" + v.ID
		what := t.thing(v.Of)
		if what == "" {
			t.find(at+"/of", message.F("The list of cases is for “%s”, which the sheet does not have", v.Of), message.F("It was taken out or misspelt."), finding.MendOf(message.F("Take the cases out"), []engine.Edit{{Path: at}}))
			continue
		}
		for k := range v.Cases {
			for key := range v.Cases[k].Set {
				if _, err := engine.Apply(t.s, []engine.Edit{{Path: v.Of + "/" + key, Value: v.Cases[k].Set[key]}}); err != nil {
					t.find(at, message.F("Case %d of the %s cannot be taken", k+1, what), message.F("%s.", message.Capital(err.Error())))
				}
			}
		}
		gap, overlap, err := v.Check(t.s)
		switch {
		case err != nil:
			t.find(at, message.As(message.Capital(err.Error())), message.F("Split the list."))
		case gap != nil:
			t.find(at, message.F("No case of the %s is for %s", what, gap.Car), message.F("Somebody with that engine finds no value."), t.stretch(v, gap.Car))
		}
		if err == nil && overlap != nil {
			t.find(at, message.F("Cases %d and %d of the %s are both for %s", overlap.Cases[0]+1, overlap.Cases[1]+1, what, overlap.Car), message.F("Two values for one engine; one page in two is wrong."))
		}
	}
}

// stretch lets the case that ends right before a gap run on to its end.
func (t *looking) stretch(v *engine.Variation, car engine.Car) Mend {
	for i := range v.Cases {
		w := v.Cases[i].When
		if w.Years.To == 0 || w.Years.To != car.Year-1 {
			continue
		}
		to := t.s.Years.To
		for k := range v.Cases {
			if f := v.Cases[k].When.Years.From; k != i && f > car.Year && (to == 0 || f-1 < to) {
				to = f - 1
			}
		}
		n := *v
		n.Cases = append([]engine.Case(nil), v.Cases...)
		n.Cases[i].When.Years.To = to
		label := message.F("Let case %d run on to %d", i+1, to)
		if to == 0 {
			label = message.F("Let case %d run on", i+1)
		}
		return set(label, "varies/"+v.ID, n)
	}
	return Mend{}
}

// thing names what a path is about; empty for nothing on the sheet.
func (t *looking) thing(path string) string {
	kind, id, _ := strings.Cut(path, "/")
	return t.x.NameOf(kind, id)
}

func noMaker(t *looking) {
	if strings.TrimSpace(t.s.Maker) == "" {
		t.find("maker", message.F("The sheet does not say whose engine it is"), message.F("Two makers may use the same code; the maker stands on every printed sheet."))
	}
}

// emptyPlace holds that what a layout put on the sheet to be filled is filled, or taken out.
func emptyPlace(t *looking) {
	for _, ref := range layout.Empty(t.s) {
		at := ref.Kind.List() + "/" + ref.ID
		why := message.F("Say where its pointer is and at what angle of the shaft it stands there, or remove it.")
		if ref.Kind == engine.KindLock {
			why = message.F("Say at what angle of the shaft it goes in, its play and its tool, or remove it.")
		}
		t.find(at, message.F("The %s is a place of the layout that nobody has filled", t.x.Name(ref)), why, finding.MendOf(message.F("Remove it"), []engine.Edit{{Path: at}}))
	}
}

// asTheArchetype keeps a sheet that was started from a layout out of use until it
// says where its own measures come from; what still measures as the layout does is
// named after that too.
func asTheArchetype(t *looking) {
	a, ok := layout.Named(t.s.Archetype)
	if !ok {
		return
	}
	wheels, loops := layout.Left(t.s)
	var names []string
	at := "wheels"
	for _, w := range wheels {
		names = append(names, t.wheel(w))
		if at == "wheels" {
			at = "wheels/" + string(w)
		}
	}
	for _, l := range loops {
		names = append(names, t.x.Loop(l).Name)
	}
	if t.s.Evidence[engine.DriveEvidence].Source == "" {
		why := message.F("It was started from “%s”. Say under Limits which drawing or measurement its wheels, belts and chains come from.", a.Name)
		if len(names) > 0 {
			why = message.F("It was started from “%s”; these still measure as that does: %s. Bring them to the engine’s, and say under Limits where the measures come from.", a.Name, strings.Join(names, ", "))
		}
		t.find("evidence/"+engine.DriveEvidence+"/source", message.F("The measures of the drive are not this engine’s yet"), why)
		return
	}
	why := message.F("They are: %s. Should the engine measure the same, nothing is wrong.", strings.Join(names, ", "))
	switch len(names) {
	case 0:
	case 1:
		t.findAs(finding.Look, at, message.F("The %s measures as in the layout it was started from", names[0]), message.F("Should the engine measure the same, nothing is wrong."))
	default:
		t.findAs(finding.Look, at, message.F("%d things of the drive measure as in the layout it was started from", len(names)), why)
	}
}

// sourceReplaced holds that no value rests on a document that another has replaced.
func sourceReplaced(t *looking) {
	for _, r := range t.s.SafetyRelevant() {
		e := t.s.Evidence[r.ID]
		was, now := t.x.Source(e.In), t.x.HoldsNow(e.In)
		if was == nil || now == e.In {
			continue
		}
		by := t.x.Source(now)
		t.find("evidence/"+r.ID+"/in", message.F("The values of the %s rest on %s, which %s has replaced", r.Name, was.Words(), by.Words()), message.F("Look whether they still hold there."), set(message.F("They stand in %s too", by.Words()), "evidence/"+r.ID+"/in", now))
	}
}

// sourceOdd holds documents against sense: one in its own place, a date that is none.
func sourceOdd(t *looking) {
	for i := range t.s.Sources {
		s := &t.s.Sources[i]
		on := "sources/" + string(s.ID)
		if t.x.Source(s.Replaced) != nil && t.x.HoldsNow(s.ID) == s.ID {
			t.find(on+"/replaced", message.F("%s is replaced in a circle", message.Capital(s.Words())), message.F("Nobody can tell which of them holds."))
		}
		if _, err := time.Parse(time.DateOnly, s.On); s.On != "" && err != nil {
			t.find(on+"/on", message.F("“%s” is no date of %s", s.On, s.Words()), message.F("Write year, month and day: 2024-02-12."))
		}
	}
}

// noSource counts the safety-relevant values that say no source.
func noSource(t *looking) {
	all, without, first := t.s.SafetyRelevant(), 0, ""
	for _, r := range all {
		if _, ok := t.s.Evidence[r.ID]; !ok {
			if without++; first == "" {
				first = r.Path
			}
		}
	}
	if without > 0 {
		t.find(first, message.F("%d of %d safety-relevant values name no source", without, len(all)), message.F("Say which drawing or letter each came from, so that the next author need not ask."))
	}
}
