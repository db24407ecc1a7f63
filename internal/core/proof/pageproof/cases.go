package pageproof

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/facts"
	"inklatch/internal/core/proof/finding"
)

// caseRules prove the page for every engine it claims.
var caseRules = finding.Family[*proving]{
	{ID: "case", Family: "applicability", Severity: finding.Blocks, Reads: finding.Engines, Check: caseByCase,
		Doc: "a page that gives one value where the sheet has one for each year, build or option"},
	{ID: "not-fitted", Family: "applicability", Severity: finding.Blocks, Reads: finding.Written, Check: notFitted,
		Doc: "a step at something that some of the engines it is done on do not have"},
	{ID: "not-every-engine", Family: "applicability", Severity: finding.ShouldFix, Reads: finding.Written, Check: notEveryEngine,
		Doc: "a page trusted for engines on which it was never proved"},
	{ID: "applies-outside", Family: "applicability", Severity: finding.ShouldFix, Reads: finding.Written, Check: appliesOutside,
		Doc: "a page for years in which the code was not made"},
	{ID: "other-engine", Family: "applicability", Severity: finding.Blocks, Reads: finding.Written, Check: otherEngine,
		Doc: "a page written for another engine code"},
}

// caseByCase proves the page with the sheet as it holds for each kind of engine
// the page is for, and finds what is amiss on some of them and not on others.
func caseByCase(c *proving) {
	cars, _ := c.whole.Cells(c.raw.Sheet)
	if len(cars) == 0 {
		return
	}
	called := c.raw.Sheet.CellNames(cars, c.whole.Applies.Years)
	// What is found on the sheet without its cases needs no case to be said.
	had := subjects(c.out)
	type found struct {
		f    Finding
		cars []int
	}
	var all []*found
	at := map[finding.Subject]*found{}
	tried := 0
	for n, car := range cars {
		x, err := c.forCar(&car)
		if err != nil {
			continue // the sheet’s own proof says that its cases leave gaps
		}
		tried++
		w, t := c.whole.Go(x, 0, &car)
		one := &proving{Facts: facts.Facts{Index: x, Page: w.Procedure, Run: t}, raw: c.raw, at: w.At, whole: c.whole, car: &car, house: c.house, rules: c.rules, trying: true}
		one.through(finding.Run)
		if c.car != nil {
			one.through(finding.Starts) // the steps themselves are not the same for all
		}
		one.branches()
		seen := map[finding.Subject]bool{}
		for _, f := range ordered(one.out, one.whole) {
			k := f.Subject()
			if seen[k] || f.Accepted != "" {
				continue
			}
			seen[k] = true
			if at[k] == nil {
				at[k] = &found{f: f}
				all = append(all, at[k])
			}
			at[k].cars = append(at[k].cars, n)
		}
	}
	for _, v := range all {
		k := v.f.Subject()
		everywhere := len(v.cars) == tried
		if everywhere && had[k] > 0 {
			continue
		}
		names := make([]string, len(v.cars))
		for i, n := range v.cars {
			names[i] = called[n]
		}
		cells := slices.Clone(names)
		if everywhere {
			cells = nil
		}
		which := message.As(strings.Join(names[:min(len(names), 3)], "; "))
		if len(names) > 3 {
			which = which.And(message.F(" and %d more", len(names)-3))
		}
		if everywhere {
			which = message.F("every year, build and option")
		}
		whom := message.F("For engines of %s: ", which)
		if optional(names[0]) && !everywhere {
			whom = message.F("For engines %s: ", which)
		}
		if c.car != nil && had[k] > 0 {
			// It was found on the engine the page is shown for: said once, with whom it
			// is about.
			for i := range c.out {
				if f := &c.out[i]; f.Subject() == k {
					f.Says(whom)
					f.Cells = cells
				}
			}
			continue
		}
		n := len(c.out)
		c.findAt(v.f.Message.What, v.f.Message.Why, v.f.Steps, c.eachItsValue(&v.f)...)
		c.out[n].Says(whom)
		c.out[n].Cells = cells
		if _, house := c.house.Severities[c.rule.ID]; !house {
			c.out[n].Severity = v.f.Severity
		}
	}
}

// eachItsValue offers a tightening the sheet's values of all its cases.
func (c *proving) eachItsValue(f *Finding) []Mend {
	if c.trying || len(f.Steps) == 0 {
		return nil
	}
	i := c.whole.At(f.Steps[0])
	if i < 0 {
		return nil
	}
	s := c.whole.Steps[i]
	a, ok := s.Action.(*step.Tighten)
	if !ok || len(a.Fasteners) != 1 || a.To != step.ToFinal {
		return nil
	}
	n := *a
	n.Stages, n.By = nil, nil
	for k := range c.raw.Sheet.Varies {
		v := &c.raw.Sheet.Varies[k]
		if v.Of != "fasteners/"+string(a.Fasteners[0]) {
			continue
		}
		for _, one := range v.Cases {
			var stages []engine.Stage
			if raw, ok := one.Set["spec"]; !ok || json.Unmarshal(raw, &stages) != nil || len(stages) == 0 {
				return nil
			}
			n.By = append(n.By, step.StagesFor{When: one.When, Stages: stages})
		}
	}
	if len(n.By) == 0 {
		return nil
	}
	s.Action = &n
	return []Mend{c.put(message.F("Give every case its value"), s)}
}

// notFitted holds the steps against the engines that do not have what they name.
func notFitted(c *proving) {
	cars, _ := c.whole.Cells(c.raw.Sheet)
	for k := range c.raw.Sheet.Varies {
		v := &c.raw.Sheet.Varies[k]
		ref := v.Thing()
		for i := range c.whole.Steps {
			s := &c.whole.Steps[i]
			if !slices.Contains(step.Refs(s.Action), ref) {
				continue
			}
			at := slices.IndexFunc(cars, func(car engine.Car) bool { return s.When.Covers(car) && v.Lacking(car) != nil })
			if at < 0 {
				continue
			}
			c.findAt(message.F("%s is done on engines that have no %s", message.StepAt(string(s.ID), "Step "+strconv.Itoa(i+1)), named(ref.Kind.List(), ref.ID, c.raw.Name(ref))), message.F("The sheet has it not fitted there: %s.", message.As(v.Lacking(cars[at]).When.String())), []step.ID{s.ID}, c.onlyThose(s, v)...)
		}
	}
}

// onlyThose is a step done on the engines alone that have what it is about; nothing where
// it is about more, or several cases have it.
func (c *proving) onlyThose(s *step.Step, v *engine.Variation) []Mend {
	fitted := slices.DeleteFunc(slices.Clone(v.Cases), func(one engine.Case) bool { return one.Unfitted })
	if !s.When.All() || len(fitted) != 1 || len(step.Refs(s.Action)) > 1 {
		return nil
	}
	n := *s
	n.When = fitted[0].When
	which := message.As(n.When.String())
	label := message.F("Do it on engines of %s only", which)
	if optional(n.When.String()) {
		label = message.F("Do it on engines %s only", which)
	}
	return []Mend{c.put(label, n)}
}

// optional reports whether engines are told by their options alone: “with cold pack”.
func optional(when string) bool {
	return strings.HasPrefix(when, "with ") || strings.HasPrefix(when, "without ")
}

// notOnThis reports whether the engine the page is run on is one that does not have a thing
// of the sheet.
func (c *proving) notOnThis(id string) bool {
	return c.car != nil && slices.ContainsFunc(c.raw.Sheet.Varies, func(v engine.Variation) bool {
		return v.Thing().ID == id && v.Lacking(*c.car) != nil
	})
}

// forCar is the sheet as it holds for one engine.
func (c *proving) forCar(car *engine.Car) (*engine.Index, error) {
	if car == nil {
		return c.raw, nil
	}
	return c.raw.For(*car)
}

// notEveryEngine says where the combinations of cases are more than are tried.
func notEveryEngine(c *proving) {
	if cars, all := c.whole.Cells(c.raw.Sheet); len(cars) < all {
		c.find(message.F("The page is proved on %d of the %d kinds of engine it is for", len(cars), all), message.F("The sheet’s years, builds and options make more of them than are tried. A page for fewer years leaves fewer."), nil)
	}
}

func appliesOutside(c *proving) {
	page, code := c.Page.Applies.Years, c.Index.Sheet.Years
	early := page.From > 0 && page.From < code.From
	late := code.To > 0 && page.To > code.To
	if page != (engine.Years{}) && (early || late) {
		h := c.header(message.F("Make it the code’s years"), setYears(code))
		c.find(message.F("The page is for years in which the code was not made"), message.F("%s was made %s.", c.Index.Sheet.Code, yearsText(code)), nil, h)
	}
}

func yearsText(y engine.Years) message.Text {
	if y.To == 0 {
		return message.F("from %d on", y.From)
	}
	return message.F("%d to %d", y.From, y.To)
}

func otherEngine(c *proving) {
	if c.Page.Engine != "" && c.Index.Sheet.Code != "" && c.Page.Engine != c.Index.Sheet.Code {
		c.find(message.F("The page is written for %s and stands with the sheet of %s", c.Page.Engine, c.Index.Sheet.Code), message.F("Every value, tool and mark on it may be another engine’s."), nil)
	}
}
