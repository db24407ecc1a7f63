package pageproof

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

var loopRules = finding.Family[*proving]{
	{ID: "loop-off-unfixed", Family: "loop and tension", Severity: finding.Blocks, Check: loopUnfixed,
		Doc: "cams that jump when the belt or chain comes off before the position is fixed"},
	{ID: "loop-tight", Family: "loop and tension", Severity: finding.ShouldFix, Check: loopTight,
		Doc: "a belt or chain levered off or on against its tensioner"},
	{ID: "contact", Family: "loop and tension", Severity: finding.Blocks, Check: loopOffContact,
		Doc: "bent valves: the crank turned with the belt or chain off outside the safe window"},
	{ID: "cam-contact", Family: "loop and tension", Severity: finding.Blocks, Check: camContact,
		Doc: "bent valves: a cam turned by hand into a piston"},
	{ID: "elsewhere-mark", Family: "locks and turning", Severity: finding.Blocks, Check: elsewhereMark,
		Doc: "a shaft turned to a mark or a lock of another shaft, which never comes"},
	{ID: "caps-loose", Family: "loop and tension", Severity: finding.Blocks, Check: capsLoose,
		Doc: "a belt or chain laid over a shaft whose caps do not hold it yet"},
	{ID: "mesh-not-looked", Family: "turns and proof", Severity: finding.Blocks, Check: meshNotLooked,
		Doc: "gears brought together a tooth out, and nobody looked at their dots"},
	{ID: "loop-left-off", Family: "loop and tension", Severity: finding.Blocks, Check: loopLeftOff,
		Doc: "a belt or chain that is never fitted"},
	{ID: "released-unchecked", Family: "loop and tension", Severity: finding.Blocks, Check: releasedEarly,
		Doc: "tension brought on before anybody looked at marks or locks"},
	{ID: "tension-missing", Family: "loop and tension", Severity: finding.Blocks, Check: tensionMissing,
		Doc: "a tensioner left slack, or let go with the belt or chain off"},
	{ID: "phaser-not-home", Family: "loop and tension", Severity: finding.Blocks, Check: phaserAway,
		Doc: "a belt fitted over a phaser off its home stop: that cam is out by the whole range"},
	{ID: "loose-wheel-turned", Family: "loop and tension", Severity: finding.Blocks, Check: looseWheel,
		Doc: "timing lost: the crank turned with a sprocket free on its shaft"},
}

func loopUnfixed(c *proving) {
	for i := range c.Run.Steps {
		var off, on []engine.ShaftID
		var loop engine.LoopID
		for _, e := range c.Run.Steps[i].Events {
			switch e := e.(type) {
			case virtual.LoopOffUnlocked:
				off, loop = append(off, e.Shaft), e.Loop
			case virtual.LoopOnUnlocked:
				on, loop = append(on, e.Shaft), e.Loop
			}
		}
		off = slices.DeleteFunc(off, func(id engine.ShaftID) bool { // thrown where it meets nothing, it is brought back
			return c.Thrown(i, id) && c.BroughtBack(i, loop, id) || c.fixedByPaint(i, id)
		})
		on = slices.DeleteFunc(on, func(id engine.ShaftID) bool { return c.fixedByPaint(i, id) })
		if c.AtRest(i, off) || len(off) == 1 && off[0] == engine.CrankID && !c.Lockable(off) {
			off = nil // a crank alone is thrown by nothing
		}
		if c.AtRest(i, on) {
			on = nil
		}
		if len(off) > 0 {
			c.findAs(c.unfixedWeighs(off), message.F("%s takes the %s off with the %s not fixed", c.num(i), c.loop(loop), c.shafts(off)), message.F("The valve springs can throw a cam round as soon as the belt or chain is off.%s", c.unlockable(off)), []int{i}, c.fixing(i, off)...)
		}
		if len(on) > 0 && !c.UnfixedBefore(i, loop) && c.Lockable(on) {
			c.find(message.F("%s fits the %s with the %s not fixed", c.num(i), c.loop(loop), c.shafts(on)), message.F("The belt or chain may go on a tooth out and nothing would show it."), []int{i}, c.fixing(i, on)...)
		}
	}
}

func (c *proving) shafts(ids []engine.ShaftID) string {
	names := make([]string, len(ids))
	for i, id := range ids {
		names[i] = c.shaft(id).String()
	}
	return list(names)
}

// unfixedWeighs is how grave it is that shafts are not fixed: where the code has no lock
// for them and no angle at which they rest, a hand holds them, and the page says so.
func (c *proving) unfixedWeighs(loose []engine.ShaftID) finding.Severity {
	rests := c.Index.Sheet.Limits.Rest != 0 || slices.ContainsFunc(loose, func(id engine.ShaftID) bool {
		s := c.Index.Shaft(id)
		return s != nil && len(s.Rests) > 0
	})
	if c.Lockable(loose) || rests {
		return finding.Blocks
	}
	return finding.ShouldFix
}

// unlockable says so where the code has no lock for any of the shafts.
func (c *proving) unlockable(loose []engine.ShaftID) message.Text {
	if c.Lockable(loose) {
		return message.Text{}
	}
	return message.F(" The code has no lock for it: say how it is held, and accept this with that reason.")
}

// fixing offers the lock that holds the loose shafts.
func (c *proving) fixing(i int, loose []engine.ShaftID) []Mend {
	st := c.Run.Before(i)
	for k := range c.Index.Sheet.Locks {
		l := &c.Index.Sheet.Locks[k]
		if !l.Kind.ForPosition() || !slices.ContainsFunc(l.Holds, func(s engine.ShaftID) bool { return slices.Contains(loose, s) }) {
			continue
		}
		if st.Locks[k].In {
			return []Mend{c.before(i, &step.Turn{Way: c.Index.Sheet.Running, Onto: l.ID})}
		}
		return []Mend{c.before(i, &step.Lock{Lock: l.ID})}
	}
	return nil
}

func loopTight(c *proving) {
	each(c, func(i int, e virtual.LoopTight) {
		t := c.Index.Tensioner(e.Tensioner)
		var relieve []step.Action
		if t.Method.Of().BySpring {
			c.find(message.F("%s handles the %s with the %s still working", c.num(i), c.loop(e.Loop), c.tensioner(e.Tensioner)), message.F("Relieve the tension first: levered over a wheel, it is spoilt."), []int{i},
				c.sequence(i, &step.Slacken{Fasteners: t.Bolts}, &step.Pin{Tensioner: t.ID}, &step.Tighten{Fasteners: t.Bolts, To: step.ToSnug}))
			return
		}
		if len(t.Bolts) > 0 && (t.Method.Of().ByBolts || t.Pin == "") {
			relieve = append(relieve, &step.Slacken{Fasteners: t.Bolts})
		}
		if t.Pin != "" || len(relieve) == 0 {
			relieve = append(relieve, &step.Pin{Tensioner: t.ID})
		}
		m := c.sequence(i, relieve...)
		if fit := c.FitOf(t.ID, i); t.Pin != "" && !c.ReleasedAfter(fit, t.ID) {
			m = and(m, c.before(fit+1, &step.Release{Tensioner: t.ID}))
		}
		c.find(message.F("%s handles the %s with the %s still working", c.num(i), c.loop(e.Loop), c.tensioner(e.Tensioner)), message.F("Relieve the tension first: levered over a wheel, it is spoilt."), []int{i}, m)
	})
}

func loopOffContact(c *proving) {
	apart := -1
	said, met := -1, map[engine.ShaftID]bool{}
	each(c, func(i int, e virtual.Contact) {
		if e.Gear != "" {
			if apart == i {
				return
			}
			apart = i
		}
		if e.Shaft != "" && e.Loop == "" && met[e.Shaft] || said >= 0 && e.Loop != "" && c.SameLoopOff(said, i, e.Loop) {
			return
		}
		if met[e.Shaft] = true; e.Loop != "" {
			said = i
		}
		if s := c.Index.Shaft(e.Shaft); s != nil && s.Valves == nil {
			c.find(message.F("%s turns the crank and the %s does not follow", c.num(i), s.Name), message.F("Out of step by more than %s°, its valves meet the pistons near their top.", tidy(s.Contact)), []int{i}, c.drop(i))
			return
		}
		if e.Shaft != "" { // worked out from stroke, rod and valves
			mends := []Mend{c.drop(i)}
			for k := range c.Index.Sheet.Wheels {
				if w := &c.Index.Sheet.Wheels[k]; w.Shaft == e.Shaft && c.Run.Before(i).Free[k] && len(w.Clamps) > 0 {
					mends = append([]Mend{c.before(i, c.tightening(w.Clamps...))}, mends...)
				}
			}
			c.find(message.F("%s turns the crank and the %s does not follow", c.num(i), c.shaft(e.Shaft)), message.F("After %s° of it a valve meets its piston, by stroke, rod and lift.", tidy(math.Max(float64(e.Degrees), 1))), []int{i}, mends...)
			return
		}
		what := message.F("%s off", c.loop(e.Loop))
		if g := c.Index.GearAt(e.Gear); g >= 0 {
			what = message.F("%s apart", c.Index.Sheet.Gears[g].Name)
		}
		c.find(message.F("%s turns the crank %s° with the %s", c.num(i), tidy(float64(e.Degrees)), what),
			message.F("The safe window is %s° either way; beyond it pistons meet valves.", tidy(c.Index.Sheet.Limits.SafeWindow)), []int{i}, c.drop(i))
	})
}

func camContact(c *proving) {
	each(c, func(i int, e virtual.CamContact) {
		var m Mend
		if rest := c.Index.Sheet.Limits.Rest; rest != 0 {
			turn := &step.Turn{Way: c.Index.Sheet.Running}
			turn.Degrees = unit.Of(math.Abs(engine.Wrap(rest-c.Run.Before(i).Crank, 360)), unit.Degree)
			m = c.before(i, turn)
		}
		c.find(message.F("%s turns the %s %s° by hand where pistons can be in its way", c.num(i), c.shaft(e.Shaft), tidy(float64(e.Degrees))), message.F("Its valves open as it turns. The crank stands at its rest position first, where the code has one."), []int{i}, m)
	})
}

func elsewhereMark(c *proving) {
	each(c, func(i int, e virtual.ElsewhereMark) {
		what := c.mark(e.Mark)
		if e.Lock != "" {
			what = c.lock(e.Lock)
		}
		if e.Reading != "" {
			what = c.reading(e.Reading)
		}
		c.find(message.F("%s turns the %s to the %s, which does not turn with it", c.num(i), c.shaft(e.Shaft), what), message.F("However far it is turned, that never comes to stand."), []int{i})
	})
}

func capsLoose(c *proving) {
	each(c, func(i int, e virtual.CapsLoose) {
		c.find(message.F("%s lays the %s with the %s of the %s not tight", c.num(i), c.loop(e.Loop), c.fastener(e.Fastener), c.shaft(e.Shaft)), message.F("Its caps hold it where it turns; without them it tilts under the belt or chain."), []int{i}, c.tightenFirst(i, e.Fastener)...)
	})
}

// meshNotLooked holds that somebody looks at gears that were brought together before the
// engine is turned on: afterwards their dots are apart.
func meshNotLooked(c *proving) {
	said := map[int]bool{}
	relaid := c.Relaid()
	for _, g := range slices.Sorted(maps.Keys(relaid)) {
		at := relaid[g]
		if said[at] {
			continue
		}
		pair := &c.Index.Sheet.Gears[g]
		behind := c.BehindGear(g)
		if d := c.Index.Wheel(pair.Driver); d != nil && c.Index.Shaft(d.Shaft) != nil && c.Index.Shaft(d.Shaft).Kind == engine.Intermediate {
			behind = append(behind, c.Index.ShaftAt(d.Shaft))
		}
		if c.Run.Fixed(&c.Run.Steps[at].After, engine.CrankID) && slices.ContainsFunc(behind, func(k int) bool { return c.Run.Fixed(&c.Run.Steps[at].After, c.Index.Sheet.Shafts[k].ID) }) {
			continue // tooth to tooth between two that are held, it lies right or not at all
		}
		var marks []engine.MarkID
		for k := range c.Index.Sheet.Marks {
			if m := &c.Index.Sheet.Marks[k]; m.Kind == engine.TimingMark && slices.Contains(behind, c.Index.ShaftAt(c.Index.MarkShaft(m))) {
				marks = append(marks, m.ID)
			}
		}
		if c.lookedBeforeTurn(at, behind, pair.Driver, pair.Driven) || len(marks) == 0 && !slices.ContainsFunc(behind, c.Index.IsRead) {
			continue
		}
		said[at] = true
		var mends []Mend
		if len(marks) > 0 {
			mends = append(mends, c.after(at, &step.Check{Marks: marks}))
		}
		c.find(message.F("%s brings the %s together, and nobody looks how they stand", c.num(at), pair.Name), message.F("They are laid whole teeth, by their marks; once the engine is turned, those are apart."), []int{at}, mends...)
	}
}

// lookedBeforeTurn reports whether one of some shafts, or a mark of one of some wheels, is
// looked at after a step and before the crank is turned on.
func (c *proving) lookedBeforeTurn(at int, shafts []int, wheels ...engine.WheelID) bool {
	for i := at; i < len(c.Run.Steps); i++ {
		if i > at && math.Abs(c.Run.Steps[i].After.Crank-c.Run.Before(i).Crank) > 20 {
			return false
		}
		for _, e := range c.Run.Steps[i].Events {
			l, ok := e.(virtual.Looked)
			if !ok || i <= at {
				continue
			}
			m := c.Index.Mark(l.Mark)
			if slices.Contains(shafts, c.Index.ShaftAt(l.Shaft)) || m != nil && m.Wheel != "" && slices.Contains(wheels, m.Wheel) {
				return true
			}
		}
	}
	return false
}

func loopLeftOff(c *proving) {
	for k := range c.Index.Sheet.Loops {
		l := &c.Index.Sheet.Loops[k]
		if c.Run.Last().Loops[k].On || handsOn(c, c.whole.Ends.LoopsOff, l.ID) {
			continue
		}
		off := -1
		for i := range c.Run.Steps {
			if c.Run.Before(i).Loops[k].On && !c.Run.Steps[i].After.Loops[k].On {
				off = i
			}
		}
		fit := &step.Fit{Loop: l.ID, New: true}
		for i := range l.Route {
			fit.Order = append(fit.Order, l.Route[(len(l.Route)-i)%len(l.Route)].Wheel)
		}
		if t := c.Index.Tensioner(l.Tensioner); t != nil {
			fit.Slack = t.Wheel
		}
		c.find(message.F("The %s is never fitted", l.Name), message.F("It comes off and no later step puts one on."), []int{off}, c.after(c.LayAt(k, off), fit), c.after(off, fit))
	}
}

func releasedEarly(c *proving) {
	part := map[int][]engine.ShaftID{}
	each(c, func(i int, e virtual.ReleasedUnchecked) {
		if e.Shaft != "" {
			part[i] = append(part[i], e.Shaft)
			return
		}
		var marks []engine.MarkID
		for k := range c.Index.Sheet.Marks {
			if c.Index.Sheet.Marks[k].Kind == engine.TimingMark {
				marks = append(marks, c.Index.Sheet.Marks[k].ID)
			}
		}
		var m Mend
		if len(marks) > 0 {
			m = c.before(i, &step.Check{Marks: marks})
		}
		c.find(message.F("%s brings on the tension before anything was checked", c.num(i)), message.F("With the locks out, only a look at the marks tells whether a tooth has slipped while fitting."), []int{i}, m)
	})
	for _, i := range slices.Sorted(maps.Keys(part)) {
		var marks []engine.MarkID
		for k := range c.Index.Sheet.Marks {
			if m := &c.Index.Sheet.Marks[k]; m.Kind == engine.TimingMark && slices.Contains(part[i], c.Index.MarkShaft(m)) && c.InView(i, m) {
				marks = append(marks, m.ID)
			}
		}
		var m Mend
		if len(marks) > 0 {
			m = c.before(i, &step.Check{Marks: marks})
		}
		c.findAs(finding.ShouldFix, message.F("%s brings on the tension with nobody having looked at the %s", c.num(i), c.shafts(part[i])), message.F("Nothing holds it, and it can have moved while the belt or chain was laid."), []int{i}, m)
	}
}

func tensionMissing(c *proving) {
	each(c, func(i int, e virtual.ReleasedWithoutLoop) {
		c.find(message.F("%s lets the %s go with the %s off", c.num(i), c.tensioner(e.Tensioner), c.loop(e.Loop)), message.F("It runs out of its travel and has to be retracted again."), []int{i}, c.drop(i))
	})
	each(c, func(i int, e virtual.NotPinned) {
		c.find(message.F("%s pulls the pin of the %s, which is not in", c.num(i), c.tensioner(e.Tensioner)), message.F("No step before it pins the tensioner."), []int{i}, append(c.pinning(i, e.Tensioner), c.drop(i))...)
	})
	c.letGoOnly()
	for k := range c.Index.Sheet.Tensioners {
		t := &c.Index.Sheet.Tensioners[k]
		if c.Run.Last().Tensioners[k].Now != virtual.Relieved || handsOn(c, c.whole.Ends.Relieved, t.ID) || t.Part != "" && handsOn(c, c.whole.Ends.Off, t.Part) {
			continue
		}
		at := -1
		for i := range c.Run.Steps {
			if c.Run.Steps[i].After.Tensioners[k].Now == virtual.Relieved && c.Run.Before(i).Tensioners[k].Now != virtual.Relieved {
				at = i
			}
		}
		c.find(message.F("The %s is left slack", t.Name), message.F("No step sets it after it was relieved."), []int{at}, c.after(c.FitOf(t.ID, at), c.tensioning(t)))
	}
}

// tensioning is what brings a tensioner on: it is set, or let go where that is all.
func (c *proving) tensioning(t *engine.Tensioner) step.Action {
	if !t.Method.Of().SetOwed && !t.Method.Of().BySpring {
		return &step.Release{Tensioner: t.ID}
	}
	return &step.Set{Tensioner: t.ID, Way: t.Turn, To: pointer(t)}
}

// pinning offers to pin a tensioner whose pin step i pulls: before its loop comes off, or
// just before.
func (c *proving) pinning(i int, id engine.TensionerID) []Mend {
	pin := &step.Pin{Tensioner: id}
	var out []Mend
	for l := range c.Index.Sheet.Loops {
		if !c.Index.Sheet.Loops[l].Tensions(id) {
			continue
		}
		for k := range i {
			if c.Run.Before(k).Loops[l].On && !c.Run.Steps[k].After.Loops[l].On {
				out = append(out, c.before(k, pin))
				break
			}
		}
	}
	return append(out, c.before(i, pin))
}

// letGoOnly finds tensioners that were retracted and only let go again, where
// their method asks for setting.
func (c *proving) letGoOnly() {
	for k := range c.Index.Sheet.Tensioners {
		t := &c.Index.Sheet.Tensioners[k]
		if !t.Method.Of().SetOwed || c.Run.Last().Tensioners[k].Now != virtual.Working {
			continue
		}
		let := -1
		for i := range c.Run.Steps {
			if was := c.Run.Before(i).Tensioners[k].Now; was != virtual.Working && c.Run.Steps[i].After.Tensioners[k].Now == virtual.Working {
				let = i
			}
		}
		if let >= 0 {
			c.find(message.F("The %s is let go and never set", t.Name), message.F("It is a tensioner of the kind “%s”: let go, it stands anywhere.", t.Method), []int{let}, c.after(let, &step.Set{Tensioner: t.ID, Way: t.Turn, To: pointer(t)}))
		}
	}
}

func pointer(t *engine.Tensioner) string {
	if len(t.Pointer) == 0 {
		return ""
	}
	return t.Pointer[len(t.Pointer)/2].Place
}

func looseWheel(c *proving) {
	said := map[engine.WheelID]bool{}
	each(c, func(i int, e virtual.LooseWheelTurned) {
		if said[e.Wheel] {
			return
		}
		said[e.Wheel] = true
		w := c.Index.Wheel(e.Wheel)
		var m Mend
		if len(w.Clamps) > 0 {
			m = c.before(i, c.tightening(w.Clamps...))
		}
		c.find(message.F("%s turns the crank with the %s sprocket free on its shaft", c.num(i), w.Name), message.F("The crank turns and the cam does not: timing is lost, and valves may meet pistons."), []int{i}, m)
	})
}

func phaserAway(c *proving) {
	each(c, func(i int, e virtual.PhaserAway) {
		w := c.Index.Wheel(e.Wheel)
		why := "With the loop off its spring or a hand may have moved it."
		if w.Range > 0 {
			why = fmt.Sprintf("With the loop off it may stand anywhere in its range of %s°.", tidy(w.Range))
		}
		c.find(message.F("%s fits the %s with the %s phaser not brought to its home stop", c.num(i), c.loop(e.Loop), w.Name), message.As(why), []int{i}, c.before(i, &step.Set{Phaser: e.Wheel, Goal: homeStop(w.Home)}))
	})
}
