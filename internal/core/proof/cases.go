package proof

import (
	"fmt"
	"strings"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// caseRules prove the page for every engine it claims.
var caseRules = []Rule{
	{"case", "applicability", Blocks, "a page that gives one value where the sheet has one for each year, build or option", caseByCase},
	{"not-every-engine", "applicability", ShouldFix, "a page trusted for engines on which it was never proved", notEveryEngine},
	{"applies-outside", "applicability", ShouldFix, "a page for years in which the code was not made", appliesOutside},
	{"other-engine", "applicability", Blocks, "a page written for another engine code", otherEngine},
}

// inCase are the families whose findings a value of the sheet can change.
var inCase = [][]Rule{lockRules, workedRules, owedRules, valueRules, torqueRules, loopRules, turnRules}

// caseByCase proves the page with the sheet as it holds for each kind of engine
// the page is for, and finds what is amiss on some of them and not on others.
func caseByCase(c *proving) {
	cars, _ := c.x.Sheet.Cells(c.p.Applies.Years)
	if len(cars) == 0 {
		return
	}
	// What is found on the sheet without its cases needs no case to be said.
	had := subjects((&proving{x: c.x, p: c.p, t: c.t, house: c.house, trying: true}).look(inCase))
	type found struct {
		f    Finding
		cars []engine.Car
	}
	var all []*found
	at := map[string]*found{}
	tried := 0
	for _, car := range cars {
		s, err := c.x.Sheet.For(car)
		if err != nil {
			continue // the sheet’s own proof says that its cases leave gaps
		}
		tried++
		x := engine.NewIndex(s)
		one := &proving{x: x, p: c.p, t: bench.Run(x, c.p), house: c.house, trying: true}
		seen := map[string]bool{}
		for _, f := range one.look(inCase) {
			k := subject(&f)
			if seen[k] || f.Accepted != "" {
				continue
			}
			seen[k] = true
			if at[k] == nil {
				at[k] = &found{f: f}
				all = append(all, at[k])
			}
			at[k].cars = append(at[k].cars, car)
		}
	}
	for _, v := range all {
		everywhere := len(v.cars) == tried
		if everywhere && had[subject(&v.f)] > 0 {
			continue
		}
		steps := []int{}
		for _, id := range v.f.Steps {
			steps = append(steps, c.p.At(id))
		}
		names := make([]string, len(v.cars))
		for i, car := range v.cars {
			names[i] = car.String()
		}
		which := strings.Join(names[:min(len(names), 3)], "; ")
		if len(names) > 3 {
			which += fmt.Sprintf(" and %d more", len(names)-3)
		}
		if everywhere {
			which = "every year, build and option"
		}
		c.findAs(v.f.Severity, fmt.Sprintf("For engines of %s: %s", which, lowerFirst(v.f.What)), v.f.Why, steps)
	}
}

// notEveryEngine says where the combinations of cases are more than are tried.
func notEveryEngine(c *proving) {
	if cars, all := c.x.Sheet.Cells(c.p.Applies.Years); len(cars) < all {
		c.find(fmt.Sprintf("The page is proved on %d of the %d kinds of engine it is for", len(cars), all), "The sheet’s years, builds and options make more of them than are tried. A page for fewer years leaves fewer.", nil)
	}
}

func lowerFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

func appliesOutside(c *proving) {
	page, code := c.p.Applies.Years, c.x.Sheet.Years
	early := page.From > 0 && page.From < code.From
	late := code.To > 0 && page.To > code.To
	if page != (engine.Years{}) && (early || late) {
		h := c.header("Make it the code’s years", setYears(code))
		c.find("The page is for years in which the code was not made", fmt.Sprintf("%s was made %s.", c.x.Sheet.Code, yearsText(code)), nil, h)
	}
}

func yearsText(y engine.Years) string {
	if y.To == 0 {
		return fmt.Sprintf("from %d on", y.From)
	}
	return fmt.Sprintf("%d to %d", y.From, y.To)
}

func otherEngine(c *proving) {
	if c.p.Engine != "" && c.x.Sheet.Code != "" && c.p.Engine != c.x.Sheet.Code {
		c.find(fmt.Sprintf("The page is written for %s and stands with the sheet of %s", c.p.Engine, c.x.Sheet.Code), "Every value, tool and mark on it may be another engine’s.", nil)
	}
}
