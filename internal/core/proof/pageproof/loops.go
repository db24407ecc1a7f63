package pageproof

import (
	"fmt"
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
	for i := range c.t.Steps {
		var off, on []engine.ShaftID
		var loop engine.LoopID
		for _, e := range c.t.Steps[i].Events {
			switch e := e.(type) {
			case virtual.LoopOffUnlocked:
				off, loop = append(off, e.Shaft), e.Loop
			case virtual.LoopOnUnlocked:
				on, loop = append(on, e.Shaft), e.Loop
			}
		}
		if c.atRest(i, off) {
			off = nil
		}
		if c.atRest(i, on) {
			on = nil
		}
		if len(off) > 0 {
			c.find(message.F("%s takes the %s off with the %s not fixed", c.num(i), c.loop(loop), c.shafts(off)), message.F("The valve springs can throw a cam round as soon as the belt or chain is off.%s", c.unlockable(off)), []int{i}, c.fixing(i, off)...)
		}
		if len(on) > 0 && !c.unfixedBefore(i, loop) {
			c.find(message.F("%s fits the %s with the %s not fixed", c.num(i), c.loop(loop), c.shafts(on)), message.F("The belt or chain may go on a tooth out and nothing would show it."), []int{i}, c.fixing(i, on)...)
		}
	}
}

// atRest reports whether a code that has no lock for any of the shafts stands at
// the rest position its sheet gives, where the valve springs do not throw them.
func (c *proving) atRest(i int, loose []engine.ShaftID) bool {
	own := len(loose) > 0
	for _, id := range loose {
		own = own && (id == engine.CrankID || c.t.Before(i).CamAtRest(c.x, id))
	}
	return own || len(loose) > 0 && c.unlockable(loose) != "" && c.t.Before(i).AtRest(c.x)
}

func (c *proving) unfixedBefore(i int, loop engine.LoopID) bool {
	for k := range i {
		for _, e := range c.t.Steps[k].Events {
			if off, ok := e.(virtual.LoopOffUnlocked); ok && off.Loop == loop {
				return true
			}
		}
	}
	return false
}

func (c *proving) shafts(ids []engine.ShaftID) string {
	names := make([]string, len(ids))
	for i, id := range ids {
		names[i] = c.shaft(id).String()
	}
	return list(names)
}

// unlockable says so where the code has no lock for any of the shafts.
func (c *proving) unlockable(loose []engine.ShaftID) string {
	for i := range c.x.Sheet.Locks {
		l := &c.x.Sheet.Locks[i]
		if l.Kind.ForPosition() && slices.ContainsFunc(l.Holds, func(s engine.ShaftID) bool { return slices.Contains(loose, s) }) {
			return ""
		}
	}
	return " The code has no lock for it: say how it is held, and accept this with that reason."
}

// fixing offers the lock that holds the loose shafts.
func (c *proving) fixing(i int, loose []engine.ShaftID) []Mend {
	st := c.t.Before(i)
	for k := range c.x.Sheet.Locks {
		l := &c.x.Sheet.Locks[k]
		if !l.Kind.ForPosition() || !slices.ContainsFunc(l.Holds, func(s engine.ShaftID) bool { return slices.Contains(loose, s) }) {
			continue
		}
		if st.Locks[k].In {
			return []Mend{c.before(i, &step.Turn{Way: c.x.Sheet.Running, Onto: l.ID})}
		}
		return []Mend{c.before(i, &step.Lock{Lock: l.ID})}
	}
	return nil
}

func loopTight(c *proving) {
	each(c, func(i int, e virtual.LoopTight) {
		t := c.x.Tensioner(e.Tensioner)
		var relieve []step.Action
		if len(t.Bolts) > 0 && (t.Method.Of().ByBolts || t.Pin == "") {
			relieve = append(relieve, &step.Slacken{Fasteners: t.Bolts})
		}
		if t.Pin != "" || len(relieve) == 0 {
			relieve = append(relieve, &step.Pin{Tensioner: t.ID})
		}
		m := c.sequence(i, relieve...)
		if fit := c.fitOf(t.ID, i); t.Pin != "" && !c.releasedAfter(fit, t.ID) {
			m = and(m, c.before(fit+1, &step.Release{Tensioner: t.ID}))
		}
		c.find(message.F("%s handles the %s with the %s still working", c.num(i), c.loop(e.Loop), c.tensioner(e.Tensioner)), message.F("Relieve the tension first: levered over a wheel, it is spoilt."), []int{i}, m)
	})
}

// releasedAfter reports whether a step from i on lets a tensioner go.
func (c *proving) releasedAfter(i int, id engine.TensionerID) bool {
	for k := max(i, 0); k < len(c.p.Steps); k++ {
		if a, ok := c.p.Steps[k].Action.(*step.Release); ok && slices.Contains(a.All(), id) {
			return true
		}
	}
	return false
}

func loopOffContact(c *proving) {
	said, met := -1, map[engine.ShaftID]bool{}
	each(c, func(i int, e virtual.Contact) {
		if e.Shaft != "" && e.Loop == "" && met[e.Shaft] || said >= 0 && e.Loop != "" && c.sameLoopOff(said, i, e.Loop) {
			return
		}
		if met[e.Shaft] = true; e.Loop != "" {
			said = i
		}
		if s := c.x.Shaft(e.Shaft); s != nil && s.Valves == nil {
			c.find(message.F("%s turns the crank and the %s does not follow", c.num(i), s.Name), message.F("Out of step by more than %s°, its valves meet the pistons near their top.", tidy(s.Contact)), []int{i}, c.drop(i))
			return
		}
		if e.Shaft != "" { // worked out from stroke, rod and valves
			mends := []Mend{c.drop(i)}
			for k := range c.x.Sheet.Wheels {
				if w := &c.x.Sheet.Wheels[k]; w.Shaft == e.Shaft && c.t.Before(i).Free[k] && len(w.Clamps) > 0 {
					mends = append([]Mend{c.before(i, c.tightening(w.Clamps...))}, mends...)
				}
			}
			c.find(message.F("%s turns the crank and the %s does not follow", c.num(i), c.shaft(e.Shaft)), message.F("After %s° of it a valve meets its piston, by stroke, rod and lift.", tidy(math.Max(e.Degrees, 1))), []int{i}, mends...)
			return
		}
		c.find(message.F("%s turns the crank %s° with the %s off", c.num(i), tidy(e.Degrees), c.loop(e.Loop)),
			message.F("The safe window is %s° either way; beyond it pistons meet valves.", tidy(c.x.Sheet.Limits.SafeWindow)), []int{i}, c.drop(i))
	})
}

func camContact(c *proving) {
	each(c, func(i int, e virtual.CamContact) {
		var m Mend
		if rest := c.x.Sheet.Limits.Rest; rest != 0 {
			turn := &step.Turn{Way: c.x.Sheet.Running}
			turn.Degrees = unit.Of(math.Abs(engine.Wrap(rest-c.t.Before(i).Crank, 360)), unit.Degree)
			m = c.before(i, turn)
		}
		c.find(message.F("%s turns the %s %s° by hand where pistons can be in its way", c.num(i), c.shaft(e.Shaft), tidy(e.Degrees)), message.F("Its valves open as it turns. The crank stands at its rest position first, where the code has one."), []int{i}, m)
	})
}

func elsewhereMark(c *proving) {
	each(c, func(i int, e virtual.ElsewhereMark) {
		what := c.mark(e.Mark)
		if e.Lock != "" {
			what = c.lock(e.Lock)
		}
		c.find(message.F("%s turns the %s to the %s, which does not turn with it", c.num(i), c.shaft(e.Shaft), what), message.F("However far it is turned, that never comes to stand."), []int{i})
	})
}

func (c *proving) sameLoopOff(a, b int, loop engine.LoopID) bool {
	l := c.x.LoopAt(loop)
	if l < 0 {
		return true
	}
	for i := a; i <= b; i++ {
		if c.t.Steps[i].After.Loops[l].On {
			return false
		}
	}
	return true
}

func loopLeftOff(c *proving) {
	for k := range c.x.Sheet.Loops {
		l := &c.x.Sheet.Loops[k]
		if c.t.Last().Loops[k].On || handsOn(c, c.whole.Ends.LoopsOff, l.ID) {
			continue
		}
		off := -1
		for i := range c.t.Steps {
			if c.t.Before(i).Loops[k].On && !c.t.Steps[i].After.Loops[k].On {
				off = i
			}
		}
		fit := &step.Fit{Loop: l.ID, New: true}
		for i := range l.Route {
			fit.Order = append(fit.Order, l.Route[(len(l.Route)-i)%len(l.Route)].Wheel)
		}
		if t := c.x.Tensioner(l.Tensioner); t != nil {
			fit.Slack = t.Wheel
		}
		c.find(message.F("The %s is never fitted", l.Name), message.F("It comes off and no later step puts one on."), []int{off}, c.after(c.layAt(k, off), fit), c.after(off, fit))
	}
}

// layAt is the step after which a loop can be laid: the last that puts back a
// part it runs over.
func (c *proving) layAt(loop, off int) int {
	at := off
	for _, s := range c.x.Sheet.Loops[loop].Route {
		w := c.x.Wheel(s.Wheel)
		if w == nil || w.Part == "" {
			continue
		}
		if k := c.refitAfter(off, w.Part); k > at {
			at = k
		}
	}
	return at
}

func releasedEarly(c *proving) {
	each(c, func(i int, e virtual.ReleasedUnchecked) {
		var marks []engine.MarkID
		for k := range c.x.Sheet.Marks {
			if c.x.Sheet.Marks[k].Kind == engine.TimingMark {
				marks = append(marks, c.x.Sheet.Marks[k].ID)
			}
		}
		var m Mend
		if len(marks) > 0 {
			m = c.before(i, &step.Check{Marks: marks})
		}
		c.find(message.F("%s brings on the tension before anything was checked", c.num(i)), message.F("With the locks out, only a look at the marks tells whether a tooth has slipped while fitting."), []int{i}, m)
	})
}

func tensionMissing(c *proving) {
	each(c, func(i int, e virtual.ReleasedWithoutLoop) {
		c.find(message.F("%s lets the %s go with the %s off", c.num(i), c.tensioner(e.Tensioner), c.loop(e.Loop)), message.F("It runs out of its travel and has to be retracted again."), []int{i}, c.drop(i))
	})
	each(c, func(i int, e virtual.NotPinned) {
		c.find(message.F("%s pulls the pin of the %s, which is not in", c.num(i), c.tensioner(e.Tensioner)), message.F("No step before it pins the tensioner."), []int{i}, c.drop(i))
	})
	c.letGoOnly()
	for k := range c.x.Sheet.Tensioners {
		t := &c.x.Sheet.Tensioners[k]
		if c.t.Last().Tensioners[k].Now != virtual.Relieved || handsOn(c, c.whole.Ends.Relieved, t.ID) {
			continue
		}
		at := -1
		for i := range c.t.Steps {
			if c.t.Steps[i].After.Tensioners[k].Now == virtual.Relieved && c.t.Before(i).Tensioners[k].Now != virtual.Relieved {
				at = i
			}
		}
		c.find(message.F("The %s is left slack", t.Name), message.F("No step sets it after it was relieved."), []int{at}, c.after(c.fitOf(t.ID, at), &step.Set{Tensioner: t.ID, Way: t.Turn, To: pointer(t)}))
	}
}

// letGoOnly finds tensioners that were retracted and only let go again, where
// their method asks for setting.
func (c *proving) letGoOnly() {
	for k := range c.x.Sheet.Tensioners {
		t := &c.x.Sheet.Tensioners[k]
		if !t.Method.Of().SetOwed || c.t.Last().Tensioners[k].Now != virtual.Working {
			continue
		}
		let := -1
		for i := range c.t.Steps {
			if was := c.t.Before(i).Tensioners[k].Now; was != virtual.Working && c.t.Steps[i].After.Tensioners[k].Now == virtual.Working {
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

// fitOf is the step that fits the loop of a tensioner, at or after step i.
func (c *proving) fitOf(id engine.TensionerID, i int) int {
	for k := max(i, 0); k < len(c.p.Steps); k++ {
		if f, ok := c.p.Steps[k].Action.(*step.Fit); ok && c.x.Loop(f.Loop) != nil && c.x.Loop(f.Loop).Tensions(id) {
			return k
		}
	}
	return i
}

func looseWheel(c *proving) {
	said := map[engine.WheelID]bool{}
	each(c, func(i int, e virtual.LooseWheelTurned) {
		if said[e.Wheel] {
			return
		}
		said[e.Wheel] = true
		w := c.x.Wheel(e.Wheel)
		var m Mend
		if len(w.Clamps) > 0 {
			m = c.before(i, c.tightening(w.Clamps...))
		}
		c.find(message.F("%s turns the crank with the %s sprocket free on its shaft", c.num(i), w.Name), message.F("The crank turns and the cam does not: timing is lost, and valves may meet pistons."), []int{i}, m)
	})
}

func phaserAway(c *proving) {
	each(c, func(i int, e virtual.PhaserAway) {
		w := c.x.Wheel(e.Wheel)
		why := "With the loop off its spring or a hand may have moved it."
		if w.Range > 0 {
			why = fmt.Sprintf("With the loop off it may stand anywhere in its range of %s°.", tidy(w.Range))
		}
		to := "its home stop"
		if w.Home != "" {
			to = fmt.Sprintf("its %s stop", w.Home)
		}
		c.find(message.F("%s fits the %s with the %s phaser not brought to its home stop", c.num(i), c.loop(e.Loop), w.Name), message.As(why), []int{i}, c.before(i, &step.Set{Phaser: e.Wheel, To: to}))
	})
}
