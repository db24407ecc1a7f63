package tally

import (
	"fmt"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof"
)

var caseRules = []Rule{
	{"years", "applicability", proof.Blocks, "a code made before it was made", years},
	{"cases", "applicability", proof.Blocks, "a value that is missing for some engines, or two for the same one", cases},
	{"names", "applicability", proof.ShouldFix, "a name of the house’s own that stands for nothing, or for two things", ownNames},
	{"no-source", "evidence", proof.Look, "a safety-relevant value nobody can trace", noSource},
}

func years(t *tallying) {
	if y := t.s.Years; y.From == 0 {
		t.findAs(proof.ShouldFix, "years", "The years of this code are missing", "Procedures take theirs from here.")
	} else if y.To > 0 && y.To < y.From {
		t.find("years", fmt.Sprintf("The code ends in %d before it begins in %d", y.To, y.From), "Swap them, or leave the end open.", set("Swap them", "years", engine.Years{From: y.To, To: y.From}))
	}
}

// ownNames holds the names that people of this code use against what they stand
// for.
func ownNames(t *tallying) {
	said := map[string]string{}
	for i := range t.s.Names {
		n := &t.s.Names[i]
		at := "names/" + n.ID
		out := Mend{"Take the name out", []engine.Edit{{Path: at}}}
		say := strings.ToLower(strings.TrimSpace(n.Say))
		switch {
		case say == "":
			t.find(at+"/say", "A name of your own is empty", "Nobody can type it.", out)
		case t.thing(n.Of) == "":
			t.find(at+"/of", fmt.Sprintf("“%s” stands for “%s”, which the sheet does not have", n.Say, n.Of), "It was taken out or misspelt.", out)
		case said[say] != "" && said[say] != n.Of:
			t.find(at+"/say", fmt.Sprintf("“%s” stands for two things", n.Say), "A line that uses it is asked about every time.", out)
		}
		said[say] = n.Of
	}
}

func cases(t *tallying) {
	for i := range t.s.Varies {
		v := &t.s.Varies[i]
		at := "varies/" + v.ID
		what := t.thing(v.Of)
		if what == "" {
			t.find(at+"/of", fmt.Sprintf("The list of cases is for “%s”, which the sheet does not have", v.Of), "It was taken out or misspelt.", Mend{"Take the cases out", []engine.Edit{{Path: at}}})
			continue
		}
		for k := range v.Cases {
			for key := range v.Cases[k].Set {
				if _, err := engine.Apply(t.s, []engine.Edit{{Path: v.Of + "/" + key, Value: v.Cases[k].Set[key]}}); err != nil {
					t.find(at, fmt.Sprintf("Case %d of the %s cannot be taken", k+1, what), capital(err.Error())+".")
				}
			}
		}
		gap, overlap, err := v.Check(t.s)
		switch {
		case err != nil:
			t.find(at, capital(err.Error()), "Split the list.")
		case gap != nil:
			t.find(at, fmt.Sprintf("No case of the %s is for %s", what, gap.Car), "Somebody with that engine finds no value.", t.stretch(v, gap.Car))
		}
		if err == nil && overlap != nil {
			t.find(at, fmt.Sprintf("Cases %d and %d of the %s are both for %s", overlap.Cases[0]+1, overlap.Cases[1]+1, what, overlap.Car), "Two values for one engine; one page in two is wrong.")
		}
	}
}

// stretch lets the case that ends right before a gap run on to its end.
func (t *tallying) stretch(v *engine.Variation, car engine.Car) Mend {
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
		label := fmt.Sprintf("Let case %d run on to %d", i+1, to)
		if to == 0 {
			label = fmt.Sprintf("Let case %d run on", i+1)
		}
		return set(label, "varies/"+v.ID, n)
	}
	return Mend{}
}

// thing names what a path is about; empty for nothing on the sheet.
func (t *tallying) thing(path string) string {
	kind, id, _ := strings.Cut(path, "/")
	return t.x.NameOf(kind, id)
}

// noSource counts the safety-relevant values that say no source.
func noSource(t *tallying) {
	all, without, first := t.s.SafetyRelevant(), 0, ""
	for _, r := range all {
		if _, ok := t.s.Evidence[r.ID]; !ok {
			if without++; first == "" {
				first = r.Path
			}
		}
	}
	if without > 0 {
		t.find(first, fmt.Sprintf("%d of %d safety-relevant values name no source", without, len(all)), "Say which drawing or letter each came from, so that the next author need not ask.")
	}
}
