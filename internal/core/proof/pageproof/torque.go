package pageproof

import (
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

var torqueRules = finding.Family[*proving]{
	{ID: "pin-carries-torque", Family: "tightening", Severity: finding.Blocks, Check: pinCarriesTorque,
		Doc: "a bent or broken timing pin: bolt torque taken by a lock made for position"},
	{ID: "sprocket-unheld", Family: "tightening", Severity: finding.Blocks, Check: sprocketUnheld,
		Doc: "a sprocket bolt worked with neither the cam locked nor the sprocket held"},
	{ID: "sprocket-unfixed", Family: "tightening", Severity: finding.ShouldFix, Check: sprocketUnfixed,
		Doc: "a floating sprocket clamped while its cam can still move"},
	{ID: "still-clamped", Family: "tightening", Severity: finding.ShouldFix, Check: stillClamped,
		Doc: "a sprocket hammered at with its bolt tight"},
	{ID: "taper-not-broken", Family: "tightening", Severity: finding.Blocks, Check: taperNotBroken,
		Doc: "a sprocket that sat fast on its taper all the while: it carries the old error on, or strains the pin"},
	{ID: "wheel-unplaced", Family: "tightening", Severity: finding.Blocks, Check: wheelUnplaced,
		Doc: "a pulley or sprocket clamped out of its own place: what is read at it is wrong from then on"},
	{ID: "wheel-not-looked", Family: "turns and proof", Severity: finding.ShouldFix, Check: wheelNotLooked,
		Doc: "a wheel that was pulled tight and may have turned with its bolt, and nobody looked"},
	{ID: "not-final", Family: "tightening", Severity: finding.Blocks, Check: notFinal,
		Doc: "a bolt nipped up early and never taken to its final torque"},
	{ID: "no-value", Family: "tightening", Severity: finding.Blocks, Check: noValue,
		Doc: "a tightening step that leaves the value to memory"},
	{ID: "units-disagree", Family: "tightening", Severity: finding.Blocks, Check: unitsDisagree,
		Doc: "a torque with two units that do not say the same"},
	{ID: "wrong-quantity", Family: "tightening", Severity: finding.Blocks, Check: wrongQuantity,
		Doc: "an angle with a tolerance in newton metres, or a value of the wrong kind"},
	{ID: "differs-from-sheet", Family: "tightening", Severity: finding.ShouldFix, Check: differsFromSheet,
		Doc: "a page and a sheet that give two values for one bolt"},
}

func pinCarriesTorque(c *proving) {
	each(c, func(i int, e virtual.PinCarriedTorque) {
		c.find(message.F("At step %d the %s takes the torque of the %s", c.no(i), c.lock(e.Lock), c.fastener(e.Fastener)), message.F("It is made for position. Hold with a tool that may carry torque."), []int{i}, c.holding(i, e.Fastener)...)
	})
}

// article is a noun with its indefinite article.
func article(noun string) string {
	if strings.ContainsAny(noun[:1], "aeiou") {
		return "an " + noun
	}
	return "a " + noun
}

func sprocketUnheld(c *proving) {
	each(c, func(i int, e virtual.Unheld) {
		verb, sev := message.F("slackens"), finding.Blocks
		if c.Page.Steps[i].Action.Verb() == "tighten" {
			verb = message.F("tightens")
		} else if e.Shaft == engine.CrankID {
			if c.house.CrankHold == finding.GunToSlacken {
				return
			}
			sev = finding.ShouldFix // the whole engine turns with it, unless an impact gun cracks it
		}
		c.findAs(sev, message.F("%s %s the %s with nothing holding the %s", c.num(i), verb, c.fastener(e.Fastener), c.shaft(e.Shaft)), message.F("The shaft turns with the bolt, or the %s takes the torque.", strings.TrimSuffix(c.Index.Drives(), "s")), []int{i}, c.holding(i, e.Fastener)...)
	})
}

// holding sets what the sheet says the fastener is held with.
func (c *proving) holding(i int, id engine.FastenerID) []Mend {
	f := c.Index.Fastener(id)
	if f == nil || f.HoldWith == "" {
		return nil
	}
	return []Mend{c.heldWith(i, f.HoldWith)}
}

func sprocketUnfixed(c *proving) {
	type clamping struct {
		step     int
		fastener engine.FastenerID
	}
	loose := map[clamping][]engine.ShaftID{}
	var order []clamping
	each(c, func(i int, e virtual.NotFixed) {
		if c.byReading(i, e.Shaft) {
			return
		}
		at := clamping{i, e.Fastener}
		if loose[at] == nil {
			order = append(order, at)
		}
		if !slices.Contains(loose[at], e.Shaft) {
			loose[at] = append(loose[at], e.Shaft)
		}
	})
	for _, at := range order {
		c.find(message.F("%s clamps the %s with the %s not locked", c.num(at.step), c.fastener(at.fastener), c.shafts(loose[at])), message.F("What is not held can move while the sprocket is being clamped, and stays where it then stands."), []int{at.step}, c.fixing(at.step, loose[at])...)
	}
}

func stillClamped(c *proving) {
	each(c, func(i int, e virtual.StillClamped) {
		c.find(message.F("%s frees the %s with the %s still tight", c.num(i), c.wheel(e.Wheel), c.fastener(e.Fastener)), message.F("Slacken it first: it holds the sprocket on its seat."), []int{i}, c.before(i, &step.Slacken{Fasteners: []engine.FastenerID{e.Fastener}, Hold: c.Index.Fastener(e.Fastener).HoldWith}))
	})
}

// taperNotBroken finds wheels on a taper whose bolts were slackened and tightened again
// with nobody breaking them loose between: what they clamp has not moved on its shaft.
func taperNotBroken(c *proving) {
	for w := range c.Index.Sheet.Wheels {
		wheel := &c.Index.Sheet.Wheels[w]
		if !wheel.Taper || wheel.Fast() || len(wheel.Clamps) == 0 {
			continue
		}
		slack, freed := -1, false
		for i := range c.Run.Steps {
			before, after := c.tightestOf(c.Run.Before(i), wheel), c.tightestOf(&c.Run.Steps[i].After, wheel)
			if before > virtual.Finger && after <= virtual.Finger {
				slack, freed = i, false
			}
			freed = freed || c.Run.Steps[i].After.Free[w]
			if slack < 0 || freed || before > virtual.Finger || after <= virtual.Finger {
				continue
			}
			c.find(message.F("%s tightens the %s, and nobody has broken it loose since step %d", c.num(i), c.wheel(wheel.ID), c.no(slack)), message.F("It sits fast on its taper with its bolts slack: it has not found its place."), []int{i}, c.after(slack, &step.Free{Wheels: []engine.WheelID{wheel.ID}}))
			slack = -1
		}
	}
}

// tightestOf is how far the bolts that clamp a wheel are taken, the tightest of them.
func (c *proving) tightestOf(st *virtual.State, w *engine.Wheel) virtual.Stage {
	most := virtual.Out
	for _, id := range w.Clamps {
		if k := c.Index.FastenerAt(id); k >= 0 {
			most = max(most, st.Fasteners[k].Stage)
		}
	}
	return most
}

func wheelUnplaced(c *proving) {
	said := map[engine.WheelID]bool{}
	each(c, func(i int, e virtual.Unplaced) {
		if said[e.Wheel] {
			return
		}
		said[e.Wheel] = true
		c.find(message.F("%s clamps the %s with the %s not in", c.num(i), c.wheel(e.Wheel), c.lock(e.Lock)), message.F("It finds its place by that alone: only the %s holds it until it is tight.", c.lock(e.Lock)), []int{i}, c.before(i, &step.Lock{Lock: e.Lock}))
	})
}

// wheelNotLooked holds that a wheel with a place of its own is looked at once its bolts
// are tight.
func wheelNotLooked(c *proving) {
	for k := range c.Index.Sheet.Locks {
		l := &c.Index.Sheet.Locks[k]
		w := c.Index.WheelAt(l.Wheel)
		if w < 0 || !l.Kind.ForPosition() || !c.Index.Alone(l.Wheel) {
			continue
		}
		freed, at := false, -1
		for i := range c.Run.Steps {
			freed = freed || c.Run.Steps[i].After.Free[w]
			for _, id := range c.Index.Sheet.Wheels[w].Clamps {
				if f := c.Index.FastenerAt(id); f >= 0 && freed && c.Run.Before(i).Fasteners[f].Stage < c.Run.Steps[i].After.Fasteners[f].Stage {
					at = i
				}
			}
		}
		if at < 0 || c.Run.Last().Free[w] {
			continue // another rule says that it is loose
		}
		looked := false
		for i := at + 1; i < len(c.Run.Steps); i++ {
			looked = looked || slices.Contains(c.Run.Steps[i].Events, virtual.Event(virtual.Looked{Shaft: l.Holds[0], Lock: l.ID}))
		}
		if t := c.LastTurn(len(c.Page.Steps)); !looked {
			c.find(message.F("Nobody looks at the %s after step %d", c.wheel(l.Wheel), c.no(at)), message.F("Pulled tight, it can turn with its bolt. The %s goes in only where it stands right.", c.lock(l.ID)), []int{at}, c.after(max(at, c.HomeAgain(t)), &step.Check{Locks: []engine.LockID{l.ID}}))
		}
	}
}

// tightening is a final tightening to the sheet's values.
func (c *proving) tightening(ids ...engine.FastenerID) *step.Tighten {
	t := &step.Tighten{Fasteners: ids}
	if f := c.Index.Fastener(ids[0]); f != nil {
		t.Hold, t.Pattern = f.HoldWith, f.Pattern
		t.Stages, t.By = step.SpecFor(c.raw, ids[0]) // each case its own value
	}
	return t
}

// allStages makes a step that stops part way take the fastener to the end.
func (c *proving) allStages(i int, f *engine.Fastener, done int) []Mend {
	if done == 0 || i < 0 {
		return nil
	}
	t, ok := c.Page.Steps[i].Action.(*step.Tighten)
	if !ok || !same(f.Spec[:min(len(t.Stages), len(f.Spec))], t.Stages) {
		return nil
	}
	n := *t
	n.Stages, n.By = step.SpecFor(c.raw, f.ID)
	return []Mend{c.change(i, message.F("Use %s", engine.StagesText(f.Spec)), &n)}
}

// rest is a final tightening through the stages that are not done yet.
func (c *proving) rest(f *engine.Fastener, done int) *step.Tighten {
	t := c.tightening(f.ID)
	if done > 0 && done < len(t.Stages) && len(t.By) == 0 {
		t.Stages = t.Stages[done:]
	}
	return t
}

func notFinal(c *proving) {
	last := c.Run.Last()
	for k := range c.Index.Sheet.Fasteners {
		st := last.Fasteners[k]
		if !st.Touched || st.Stage == virtual.Final || st.Stage == virtual.Out || handsOn(c, c.whole.Ends.Slack, c.Index.Sheet.Fasteners[k].ID) {
			continue
		}
		f := &c.Index.Sheet.Fasteners[k]
		at, loosened := -1, -1
		for i := range c.Run.Steps {
			before, after := c.Run.Before(i).Fasteners[k].Stage, c.Run.Steps[i].After.Fasteners[k].Stage
			if before != after {
				at = i
			}
			if after < before {
				loosened = i
			}
			if v := c.Page.Steps[i].Torques(); len(v) > 0 && slices.Contains(v[0].Fasteners, f.ID) {
				at = i
			}
		}
		for n := range c.Index.Sheet.Tensioners {
			if t := &c.Index.Sheet.Tensioners[n]; t.Method.Of().ByBolts && slices.Contains(t.Bolts, f.ID) {
				at = max(at, c.TouchedLast(n)) // clamped once it is set
			}
		}
		since := message.F("Loosened at step %s", c.no(loosened))
		if loosened < 0 {
			since = message.F("It is slack when the page begins")
		}
		c.find(message.F("The %s %s never taken to the final torque", c.fastener(f.ID), plural(f)), message.F("%s; the last step leaves it %s.", since, st.Stage), []int{at}, append(c.allStages(at, f, st.Reached), c.after(at, c.rest(f, st.Reached)))...)
	}
}

func plural(f *engine.Fastener) message.Text {
	if f.Plural() {
		return message.F("are")
	}
	return message.F("is")
}

func noValue(c *proving) {
	c.Tightenings(func(i int, t *step.Tighten) {
		if t.To != step.ToFinal || len(t.Fasteners) == 0 {
			return
		}
		if slices.ContainsFunc(t.Stages, func(s engine.Stage) bool { return s.Tightens() }) {
			return
		}
		var mends []Mend
		if f := c.Index.Fastener(t.Fasteners[0]); f != nil && len(f.Spec) > 0 {
			n := *t
			n.Stages = f.Spec
			mends = append(mends, c.change(i, message.F("Use the sheet’s %s", engine.StagesText(f.Spec)), &n))
		}
		c.find(message.F("%s tightens the %s without a value", c.num(i), c.fastener(t.Fasteners[0])), message.F("A technician would have to know it by heart."), []int{i}, mends...)
	})
}

// restage replaces one stage of a tightening step.
func (c *proving) restage(i int, t *step.Tighten, k int, label message.Text, s engine.Stage) Mend {
	n := *t
	n.Stages = slices.Clone(t.Stages)
	n.Stages[k] = s
	return c.change(i, label, &n)
}

func unitsDisagree(c *proving) {
	c.Tightenings(func(i int, t *step.Tighten) {
		for k, s := range t.Stages {
			q := s.Torque
			if q.IsZero() || q.Agrees() {
				continue
			}
			one, two := q.First(), q.Second()
			why := "The two do not measure the same thing."
			var mends []Mend
			mends = append(mends, c.restage(i, t, k, message.F("Keep %s", one), engine.Stage{Torque: one}))
			if a, err := one.In(two.Unit); err == nil {
				back, _ := two.In(one.Unit)
				why = fmt.Sprintf("%s is %s; %s is %s.", one, a, two, back)
				mends = append(mends, c.restage(i, t, k, message.F("Keep %s", two), engine.Stage{Torque: two}))
			}
			c.find(message.F("%s says %s and %s", c.num(i), one, two), message.As(why), []int{i}, mends...)
		}
	})
}

func wrongQuantity(c *proving) {
	c.Tightenings(func(i int, t *step.Tighten) {
		for k, s := range t.Stages {
			for _, q := range []unit.Quantity{s.Torque, s.Angle} {
				if q.IsZero() || q.TolFits() {
					continue
				}
				fixed := q
				fixed.TolUnit = q.Unit
				n := s
				if q == s.Torque {
					n.Torque = fixed
				} else {
					n.Angle = fixed
				}
				c.find(message.F("%s gives %s with a tolerance in %s", c.num(i), article(q.Kind().String()), q.TolUnit), message.F("“%s” cannot be measured.", q), []int{i}, c.restage(i, t, k, message.F("Make it %s", fixed), n))
			}
			if (!s.Torque.IsZero() && s.Torque.Kind() != unit.KindTorque) || (!s.Angle.IsZero() && s.Angle.Kind() != unit.KindAngle) {
				c.find(message.F("%s gives a value of the wrong kind", c.num(i)), message.F("“%s” is no torque and angle.", engine.StagesText(t.Stages)), []int{i})
			}
		}
	})
}

func differsFromSheet(c *proving) {
	c.Tightenings(func(i int, t *step.Tighten) {
		if t.To != step.ToFinal || len(t.Stages) == 0 {
			return
		}
		for _, id := range t.Fasteners {
			f := c.Index.Fastener(id)
			if f == nil || len(f.Spec) == 0 {
				continue
			}
			stages := c.waited(i, id, t.Stages)
			if same(f.Spec, stages) || same(c.stagesHere(i, f, stages), stages) {
				continue
			}
			n := *t
			n.Stages = f.Spec
			if spec := c.stagesHere(i, f, t.Stages); len(spec) == len(t.Stages) && c.Run.Before(i).Fasteners[c.Index.FastenerAt(id)].Reached > 0 {
				n.Stages = spec
			}
			sev := finding.ShouldFix
			if spec := c.stagesHere(i, f, t.Stages); beyond(stages, spec, c.house.TorqueOff) {
				sev = finding.Blocks
			}
			c.findAs(sev, message.F("%s says %s for the %s; the sheet says %s", c.num(i), engine.StagesText(t.Stages), c.fastener(id), engine.StagesText(f.Spec)), message.F("One of the two is wrong. The sheet carries the evidence."), []int{i}, c.change(i, message.F("Use %s", engine.StagesText(n.Stages)), &n))
			return
		}
	})
}

// waited are the stages of a step, the first of them after the time that the page has let
// pass since it last had that fastener.
func (c *proving) waited(i int, id engine.FastenerID, stages []engine.Stage) []engine.Stage {
	k := c.Index.FastenerAt(id)
	if !stages[0].Wait.IsZero() {
		return stages
	}
	for j := i - 1; j >= 0; j-- {
		if c.Run.Before(j).Fasteners[k] == c.Run.Steps[j].After.Fasteners[k] {
			continue
		}
		if d := c.Run.Before(i).Minutes - c.Run.Steps[j].After.Minutes; d > 0 {
			out := slices.Clone(stages)
			out[0].Wait = unit.Of(float64(d), unit.Minute)
			return out
		}
		break
	}
	return stages
}

// stagesHere are the stages of a fastener that a step takes it through, where a page
// does them one after another; all of them otherwise.
func (c *proving) stagesHere(i int, f *engine.Fastener, page []engine.Stage) []engine.Stage {
	k := c.Index.FastenerAt(f.ID)
	n, ok := engine.Reach(f.Spec, c.Run.Before(i).Fasteners[k].Reached, page)
	if !ok || n == len(f.Spec) && len(page) == n {
		return f.Spec
	}
	return f.Spec[n-len(page) : n]
}

// beyond reports whether a value lies outside the tolerance that the sheet gives for it,
// by more than off percent where it gives none, or stages are missing.
func beyond(page, sheet []engine.Stage, off float64) bool {
	if len(page) != len(sheet) {
		return true
	}
	out := func(p, q unit.Quantity) bool {
		if p.IsZero() || q.IsZero() {
			return p.IsZero() != q.IsZero()
		}
		lo, hi, ok := spreadOf(q, q.Unit)
		if !ok {
			lo = q.Nominal() * off / 100
			hi = lo
		}
		v, err := unit.Convert(p.Nominal(), p.Unit, q.Unit)
		return err != nil || v < q.Nominal()-lo-1e-9 || v > q.Nominal()+hi+1e-9
	}
	for i := range sheet {
		if page[i].Slacken != sheet[i].Slacken || out(page[i].Torque, sheet[i].Torque) || out(page[i].Angle, sheet[i].Angle) || hurried(page[i].Wait, sheet[i].Wait) {
			return true
		}
	}
	return false
}

// hurried reports whether a page waits less than the sheet.
func hurried(page, sheet unit.Quantity) bool {
	if sheet.IsZero() || page.IsZero() {
		return !sheet.IsZero()
	}
	v, err := unit.Convert(page.Nominal(), page.Unit, sheet.Unit)
	return err != nil || v < sheet.Nominal()-1e-9
}

// same compares the sheet’s values with a page’s, not how they are written.
func same(a, b []engine.Stage) bool {
	return slices.EqualFunc(a, b, func(p, q engine.Stage) bool {
		return p.Slacken == q.Slacken && amount(p.Torque, q.Torque) && amount(p.Angle, q.Angle) && !hurried(q.Wait, p.Wait)
	})
}

func amount(p, q unit.Quantity) bool {
	if p.IsZero() || q.IsZero() {
		return p.IsZero() == q.IsZero()
	}
	if p.Unit == q.Unit {
		return p.SameValue(q)
	}
	r, err := p.In(q.Unit)
	return err == nil && unit.Quantity{Value: q.Value, Unit: q.Unit, Also: r.Value, AlsoUnit: q.Unit}.Agrees()
}
