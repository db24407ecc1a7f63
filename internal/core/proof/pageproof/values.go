package pageproof

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// valueRules hold every value of the page against the one on the sheet.
var valueRules = finding.Family[*proving]{
	{ID: "tension-value", Family: "loop and tension", Severity: finding.Blocks, Check: tensionValue,
		Doc: "a tensioner set to a place, a tone, a length or a torque that is not the sheet’s"},
	{ID: "tension-way", Family: "loop and tension", Severity: finding.Blocks, Check: tensionWay,
		Doc: "an eccentric turned the wrong way: the belt is slack at its notch"},
	{ID: "not-held-while", Family: "loop and tension", Severity: finding.ShouldFix, Check: notHeldWhile,
		Doc: "a tensioner that its bolt drags along as it is tightened: its setting is lost"},
	{ID: "phaser-stop", Family: "loop and tension", Severity: finding.Blocks, Check: phaserStop,
		Doc: "a phaser brought to the wrong end of its range"},
	{ID: "readings-few", Family: "loop and tension", Severity: finding.ShouldFix, Check: readingsFew,
		Doc: "a tone judged by too few readings"},
	{ID: "tension-vague", Family: "loop and tension", Severity: finding.ShouldFix, Check: tensionVague,
		Doc: "a setting that leaves its place or its way to memory"},
	{ID: "measure-differs", Family: "loop and tension", Severity: finding.Blocks, Check: measureDiffers,
		Doc: "a reading passed at another value than the sheet’s"},
	{ID: "length-not-measured", Family: "loop and tension", Severity: finding.ShouldFix, Check: lengthNotMeasured,
		Doc: "a plunger fitted without its length being measured"},
	{ID: "tolerance-differs", Family: "tightening", Severity: finding.ShouldFix, Check: toleranceDiffers,
		Doc: "a tolerance wider or narrower than the sheet’s"},
	{ID: "pattern-differs", Family: "tightening", Severity: finding.ShouldFix, Check: patternDiffers,
		Doc: "a cover bent because its bolts were tightened in another order"},
	{ID: "open-time-differs", Family: "tools and parts", Severity: finding.ShouldFix, Check: openTimeDiffers,
		Doc: "sealant left open longer than it may be"},
}

// placeAt is where a tensioner's pointer belongs at a temperature; empty where
// the sheet does not say.
func placeAt(t *engine.Tensioner, at unit.Quantity) string {
	place := ""
	for _, p := range t.Pointer {
		from, errA := p.From.In(unit.Celsius)
		now, errB := at.In(unit.Celsius)
		if errA == nil && errB == nil && now.Value >= from.Value {
			place = p.Place
		}
	}
	return place
}

func tensionValue(c *proving) {
	c.Sets(func(i int, a *step.Set, t *engine.Tensioner) {
		n := *a
		if !c.LastSet(i, t.ID) {
			// A first setting on the way to the last may be another; not twice it or half.
			if t.Frequency != nil && !t.Frequency.First.IsZero() && !a.At.IsZero() && a.At.Kind() == unit.KindFrequency {
				if first := t.Frequency.First; !alike(a.At, first) {
					n.At = first
					c.find(message.F("%s sets the %s to %s first; the sheet says %s", c.num(i), t.Name, a.At, first), message.F("One of the two is wrong."), []int{i}, c.change(i, message.F("Make it %s", first), &n))
				}
				return
			}
			for _, v := range c.ValuesOf(t) {
				if a.At.IsZero() || a.At.Kind() != v.Kind() {
					continue
				}
				if now, err := a.At.In(v.Unit); err == nil && (now.Value > 2*v.Value || now.Value < v.Value/2) {
					n.At = v
					c.find(message.F("%s sets the %s to %s first; the sheet says %s", c.num(i), t.Name, a.At, v), message.F("A first setting may be off the last, not by so much."), []int{i}, c.change(i, message.F("Make it %s", v), &n))
				}
			}
			return
		}
		switch kind := a.At.Kind(); {
		case !a.At.IsZero() && kind == unit.KindTemperature && len(t.Pointer) > 0:
			place := placeAt(t, a.At)
			if place == "" {
				c.find(message.F("%s sets the %s at %s, for which the sheet has no place", c.num(i), t.Name, a.At), message.F("The sheet’s places begin at %s.", t.Pointer[0].From), []int{i})
			} else if a.To != "" && !t.SaysPlace(a.To, place) {
				n.To = place
				c.find(message.F("%s sets the %s to “%s” at %s", c.num(i), t.Name, a.To, a.At), message.F("At that temperature the sheet says: %s.", place), []int{i}, c.change(i, message.F("Set it to “%s”", place), &n))
			}
		case len(t.Pointer) > 0 && a.To != "" && !t.KnowsPlace(a.To):
			n.To = pointer(t)
			c.find(message.F("%s sets the %s to “%s”, which is no place of its pointer", c.num(i), t.Name, a.To), message.F("The sheet says: %s.", pointer(t)), []int{i}, c.change(i, message.F("Set it to “%s”", pointer(t)), &n))
		}
		for _, v := range c.ValuesOf(t) {
			if a.At.IsZero() || a.At.Kind() != v.Kind() || alike(a.At, v) {
				continue
			}
			n.At = v
			c.find(message.F("%s sets the %s to %s; the sheet says %s", c.num(i), t.Name, a.At, v), message.F("One of the two is wrong."), []int{i}, c.change(i, message.F("Make it %s", v), &n))
		}
	})
}

// alike reports whether two values and their tolerances say the same.
func alike(a, b unit.Quantity) bool {
	return amount(a, b) && sameTolerance(a, b)
}

// sameTolerance compares tolerances where both have one, in one unit.
func sameTolerance(a, b unit.Quantity) bool {
	lo, hi, ok := spreadOf(a, b.Unit)
	lo2, hi2, ok2 := spreadOf(b, b.Unit)
	if !ok || !ok2 {
		return ok == ok2
	}
	// A tolerance is rounded hard when it is converted: ±5 N·m is ±4 lbf·ft.
	near := func(x, y float64) bool { return abs(x-y) < 0.15*abs(y)+1e-9 }
	return near(lo, lo2) && near(hi, hi2)
}

func abs(v float64) float64 {
	if v < 0 {
		return -v
	}
	return v
}

// spreadOf is how far a value may lie below and above its nominal, in a unit;
// false for a value without a tolerance.
func spreadOf(q unit.Quantity, u unit.Unit) (below, above float64, ok bool) {
	if q.Tol == 0 && q.Less == 0 && !q.Uneven && !q.Range {
		return 0, 0, false
	}
	lo, hi := q.Bounds()
	l, errL := unit.Convert(lo, q.Unit, u)
	h, errH := unit.Convert(hi, q.Unit, u)
	n, errN := unit.Convert(q.Nominal(), q.Unit, u)
	if errL != nil || errH != nil || errN != nil {
		return 0, 0, false
	}
	return n - l, h - n, true
}

func tensionWay(c *proving) {
	c.Sets(func(i int, a *step.Set, t *engine.Tensioner) {
		if a.Way == "" || t.Turn == "" || a.Way == t.Turn || a.Eases() || c.fromStop(i, t) {
			return
		}
		n := *a
		n.Way = t.Turn
		c.find(message.F("%s turns the %s %s; the sheet says %s", c.num(i), t.Name, a.Way, t.Turn), message.F("Turned the other way, it slackens the belt or chain, or holds it the wrong way round."), []int{i}, c.change(i, message.F("Turn it %s", string(t.Turn)), &n))
	})
}

// notHeldWhile holds that a tensioner which its bolt drags along is held while that is
// tightened, with the torque of the sheet.
func notHeldWhile(c *proving) {
	c.Tightenings(func(i int, a *step.Tighten) {
		if a.To == step.ToFinger || a.To == step.ToSnug {
			return // so little drags nothing
		}
		for k := range c.Index.Sheet.Tensioners {
			t := &c.Index.Sheet.Tensioners[k]
			set := c.Run.Before(i).Tensioners[k].Now == virtual.Set
			if !t.Drags || !set || !slices.ContainsFunc(a.Fasteners, func(id engine.FastenerID) bool {
				return slices.Contains(t.Bolts, id) && c.Run.Before(i).Fasteners[max(c.Index.FastenerAt(id), 0)].Stage < virtual.Final
			}) {
				continue
			}
			n := *a
			n.Holding, n.At = t.ID, unit.Quantity{}
			if t.Hold.Kind() == unit.KindTorque {
				n.At = t.Hold
			}
			switch {
			case a.Holding != t.ID:
				c.find(message.F("%s tightens the %s with nobody holding the %s", c.num(i), c.fastener(a.Fasteners[0]), c.tensioner(t.ID)), message.F("Its bolt drags it along."), []int{i}, c.change(i, message.F("Hold the %s meanwhile", c.tensioner(t.ID)), &n))
			case !n.At.IsZero() && !a.At.IsZero() && !alike(a.At, n.At):
				c.find(message.F("%s holds the %s with %s; the sheet says %s", c.num(i), c.tensioner(t.ID), a.At, n.At), message.F("One of the two is wrong."), []int{i}, c.change(i, message.F("Make it %s", n.At), &n))
			}
		}
	})
}

// fromStop reports whether a tensioner comes from its stop at step i: it goes back from
// there, or is set anew.
func (c *proving) fromStop(i int, t *engine.Tensioner) bool {
	return t.Method.Of().StopFirst && c.Run.Before(i).Tensioners[c.Index.TensionerAt(t.ID)].Stop
}

func tensionVague(c *proving) {
	c.Sets(func(i int, a *step.Set, t *engine.Tensioner) {
		if !c.LastSet(i, t.ID) {
			if t.Frequency != nil && !t.Frequency.First.IsZero() && a.At.Kind() != unit.KindFrequency {
				n := *a
				n.At = t.Frequency.First
				c.find(message.F("%s does not say to which first tone the %s is set", c.num(i), t.Name), message.F("The sheet says %s.", n.At), []int{i}, c.change(i, message.F("Set it to %s", n.At), &n))
			}
			return
		}
		n := *a
		switch {
		case len(t.Pointer) > 0 && a.To == "":
			n.To = pointer(t)
			c.find(message.F("%s does not say where the %s is set to", c.num(i), t.Name), message.F("The sheet says: %s.", pointer(t)), []int{i}, c.change(i, message.F("Set it to “%s”", pointer(t)), &n))
		case len(t.Pointer) > 1 && a.At.Kind() != unit.KindTemperature:
			n.At = unit.Of(20, unit.Celsius)
			c.find(message.F("%s does not say at which temperature the %s stands so", c.num(i), t.Name), message.F("The sheet’s places depend on it."), []int{i}, c.change(i, message.F("At 20 °C"), &n))
		case t.Turn != "" && a.Way == "" && c.fromStop(i, t):
			n.Way = t.Turn.Opposite()
			c.find(message.F("%s does not say which way the %s is turned", c.num(i), t.Name), message.F("From its stop it goes back %s.", string(n.Way)), []int{i}, c.change(i, message.F("Turn it %s", string(n.Way)), &n))
		case t.Turn != "" && a.Way == "":
			n.Way = t.Turn
			c.find(message.F("%s does not say which way the %s is turned", c.num(i), t.Name), message.F("The sheet says %s.", t.Turn), []int{i}, c.change(i, message.F("Turn it %s", string(t.Turn)), &n))
		case !t.Hold.IsZero() && a.At.Kind() != unit.KindTorque:
			n.At = t.Hold
			c.find(message.F("%s does not say with which torque the %s is held", c.num(i), t.Name), message.F("The sheet says %s.", t.Hold), []int{i}, c.change(i, message.F("Hold it with %s", t.Hold), &n))
		case t.Frequency != nil && a.At.Kind() != unit.KindFrequency:
			n.At = t.Frequency.Note
			c.find(message.F("%s does not say to which tone the %s is set", c.num(i), t.Name), message.F("The sheet says %s.", t.Frequency.Note), []int{i}, c.change(i, message.F("Set it to %s", t.Frequency.Note), &n))
		}
	})
}

// homeStop is the stop a phaser rests at.
func homeStop(home engine.PhaserHome) step.SetGoal {
	switch home {
	case engine.Retarded:
		return step.GoalRetarded
	case engine.Advanced:
		return step.GoalAdvanced
	}
	return step.GoalStop
}

func phaserStop(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Set)
		w := (*engine.Wheel)(nil)
		if ok {
			w = c.Index.Wheel(a.Phaser)
		}
		if w == nil || w.Home == "" {
			continue
		}
		goal, _ := a.Reaches()
		if a.To != "" && goal == step.GoalPlace || goal == step.GoalStop || goal == homeStop(w.Home) {
			continue
		}
		n := *a
		n.To, n.Goal = "", homeStop(w.Home)
		what := message.F("%s does not say to which stop the %s phaser is brought", c.num(i), w.Name)
		if goal != step.GoalPlace {
			what = message.F("%s brings the %s phaser to its %s", c.num(i), w.Name, string(goal))
		}
		c.find(what, message.F("Its spring rests it at the %s stop.", w.Home), []int{i}, c.change(i, message.F("To its %s stop", string(w.Home)), &n))
	}
}

func readingsFew(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Measure)
		if !ok || a.Readings == 0 || a.Value.Kind() != unit.KindFrequency {
			continue
		}
		for k := range c.Index.Sheet.Tensioners {
			f := c.Index.Sheet.Tensioners[k].Frequency
			if f == nil || a.Readings >= f.Readings || !c.OfLoop(a, k) {
				continue
			}
			n := *a
			n.Readings = f.Readings
			c.find(message.F("%s takes %d readings; the sheet says %d", c.num(i), a.Readings, f.Readings), message.F("Readings of one belt move while it settles."), []int{i}, c.change(i, message.F("Take %d", f.Readings), &n))
			break
		}
	}
}

func measureDiffers(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Measure)
		if !ok {
			continue
		}
		if a.Value.Kind() != unit.KindFrequency && !c.OfTensioner(a.What) {
			continue
		}
		want := c.Measured(a.Value.Kind())
		if a.Value.IsZero() {
			if c.OfTensioner(a.What) && len(c.Measured(unit.KindLength)) > 0 {
				n := *a
				n.Value = c.Measured(unit.KindLength)[0]
				c.find(message.F("%s does not say at what the reading passes", c.num(i)), message.F("The sheet says %s.", n.Value), []int{i}, c.change(i, message.F("It passes at %s", n.Value), &n))
			}
			continue
		}
		if len(want) == 0 || slices.ContainsFunc(want, func(v unit.Quantity) bool { return amount(a.Value, v) && toleranceWithin(a.Value, v) }) {
			continue
		}
		n := *a
		n.Value = want[0]
		c.find(message.F("%s passes the reading at %s; the sheet says %s", c.num(i), a.Value, want[0]), message.F("One of the two is wrong."), []int{i}, c.change(i, message.F("Make it %s", want[0]), &n))
	}
}

// toleranceWithin accepts any tolerance where the sheet gives none.
func toleranceWithin(a, sheet unit.Quantity) bool {
	if _, _, ok := spreadOf(sheet, sheet.Unit); !ok {
		return true
	}
	return sameTolerance(a, sheet)
}

func lengthNotMeasured(c *proving) {
	for k := range c.Index.Sheet.Tensioners {
		t := &c.Index.Sheet.Tensioners[k]
		part := c.Index.PartAt(t.Part)
		if t.Length.IsZero() || part < 0 || !c.Run.Last().Parts[part].Touched {
			continue
		}
		fit := -1
		for i := range c.Run.Steps {
			if c.Run.Before(i).Parts[part].Off && !c.Run.Steps[i].After.Parts[part].Off {
				fit = i
			}
		}
		if fit < 0 {
			continue
		}
		measured := false
		for i := range c.Page.Steps {
			a, ok := c.Page.Steps[i].Action.(*step.Measure)
			measured = measured || ok && i < fit && c.OfTensioner(a.What)
		}
		if !measured {
			c.find(message.F("%s fits the %s without its length being measured", c.num(fit), t.Name), message.F("The sheet says %s before it is fitted.", t.Length), []int{fit}, c.before(fit, &step.Measure{What: "plunger length", Value: t.Length}))
		}
	}
}

func toleranceDiffers(c *proving) {
	c.Tightenings(func(i int, t *step.Tighten) {
		if t.To != step.ToFinal || len(t.Stages) == 0 {
			return
		}
		for _, id := range t.Fasteners {
			f := c.Index.Fastener(id)
			if f == nil || len(f.Spec) == 0 {
				continue
			}
			spec := c.stagesHere(i, f, t.Stages)
			if len(spec) != len(t.Stages) || !same(spec, t.Stages) {
				continue // another rule says that the values differ
			}
			for k := range spec {
				if sameTolerance(t.Stages[k].Torque, spec[k].Torque) && sameTolerance(t.Stages[k].Angle, spec[k].Angle) {
					continue
				}
				if tighter(t.Stages[k].Torque, spec[k].Torque) && tighter(t.Stages[k].Angle, spec[k].Angle) {
					continue // care, not an error
				}
				n := *t
				n.Stages = spec
				sev := finding.ShouldFix
				if wider(t.Stages[k].Torque, spec[k].Torque) || wider(t.Stages[k].Angle, spec[k].Angle) {
					sev = finding.Blocks
				}
				c.findAs(sev, message.F("%s gives the %s another tolerance than the sheet", c.num(i), c.fastener(id)), message.F("The sheet says %s.", engine.StagesText(spec)), []int{i}, c.change(i, message.F("Use %s", engine.StagesText(spec)), &n))
				return
			}
		}
	})
}

// tighter reports whether all that a page lets pass lies within what the sheet does.
func tighter(page, sheet unit.Quantity) bool {
	if sameTolerance(page, sheet) {
		return true
	}
	lo, hi, ok := spreadOf(page, sheet.Unit)
	lo2, hi2, ok2 := spreadOf(sheet, sheet.Unit)
	return ok && ok2 && lo <= lo2+1e-9 && hi <= hi2+1e-9
}

// wider reports whether a page lets pass what the sheet, which gives a tolerance, does
// not.
func wider(page, sheet unit.Quantity) bool {
	_, _, has := spreadOf(page, sheet.Unit)
	_, _, gives := spreadOf(sheet, sheet.Unit)
	return has && gives && !tighter(page, sheet)
}

func patternDiffers(c *proving) {
	c.Tightenings(func(i int, t *step.Tighten) {
		if t.To != step.ToFinal {
			return
		}
		for _, id := range t.Fasteners {
			f := c.Index.Fastener(id)
			if f == nil || f.Pattern == "" || strings.EqualFold(strings.TrimSpace(f.Pattern), strings.TrimSpace(t.Pattern)) {
				continue
			}
			n := *t
			n.Pattern = f.Pattern
			says := message.F("does not say in which order")
			if t.Pattern != "" {
				says = message.F("says “%s” for", t.Pattern)
			}
			c.find(message.F("%s %s the %s", c.num(i), says, c.fastener(id)), message.F("The sheet says: %s.", f.Pattern), []int{i}, c.change(i, message.F("Tighten them %s", f.Pattern), &n))
			return
		}
	})
}

func openTimeDiffers(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Apply)
		if !ok || a.What != step.Sealant {
			continue
		}
		p := c.Index.Part(a.Part)
		if p == nil {
			continue
		}
		n := *a
		if want := p.Sealant; !want.IsZero() {
			if n.Open = want; a.Open.IsZero() || !amount(a.Open, want) {
				c.find(message.F("%s does not keep the open time of the sealant at the %s", c.num(i), p.Name), message.F("The sheet says %s.", want), []int{i}, c.change(i, message.F("Within %s", want), &n))
			}
		}
	}
}
