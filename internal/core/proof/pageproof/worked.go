package pageproof

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// workedRules find work at things that are not there, are not free, or are
// behind something.
var workedRules = finding.Family[*proving]{
	{ID: "slack-already", Family: "access and order", Severity: finding.ShouldFix, Check: slackAlready,
		Doc: "a bolt slackened that is slack or out: another one was meant"},
	{ID: "tight-already", Family: "access and order", Severity: finding.ShouldFix, Check: tightAlready,
		Doc: "a bolt tightened that nothing loosened: an angle goes in once"},
	{ID: "part-gone", Family: "access and order", Severity: finding.Blocks, Check: partGone,
		Doc: "work at a bolt or a tensioner whose part is off"},
	{ID: "bolt-tight", Family: "access and order", Severity: finding.ShouldFix, Check: boltTight,
		Doc: "a part pulled off against a bolt that was never slackened and held"},
	{ID: "wrong-hold", Family: "tightening", Severity: finding.Blocks, Check: wrongHold,
		Doc: "a bolt held by a tool that does not grip its shaft: the drive takes the torque"},
	{ID: "tensioner-clamped", Family: "loop and tension", Severity: finding.Blocks, Check: tensionerClamped,
		Doc: "a tensioner forced while its bolts clamp it"},
	{ID: "pin-still-in", Family: "loop and tension", Severity: finding.Blocks, Check: pinStillIn,
		Doc: "a tensioner set against its own pin"},
	{ID: "not-held-back", Family: "loop and tension", Severity: finding.ShouldFix, Check: notHeldBack,
		Doc: "a tensioner that springs out when the belt or chain comes off"},
	{ID: "slack-turned", Family: "loop and tension", Severity: finding.Blocks, Check: slackTurned,
		Doc: "teeth jumped: the engine turned on a belt or chain that nothing tensions"},
	{ID: "mark-hidden", Family: "locks and turning", Severity: finding.Blocks, Check: markHidden,
		Doc: "a mark read through the cover before it"},
	{ID: "not-a-mark", Family: "locks and turning", Severity: finding.Blocks, Check: notAMark,
		Doc: "a drilling or old paint taken for the timing mark"},
	{ID: "under-loop", Family: "access and order", Severity: finding.Blocks, Check: underLoop,
		Doc: "a roller taken off or put back under a belt that is on"},
	{ID: "wheel-missing", Family: "access and order", Severity: finding.Blocks, Check: wheelMissing,
		Doc: "a belt or chain tensioned or turned without a roller that it runs over"},
	{ID: "hole-shut", Family: "access and order", Severity: finding.Blocks, Check: holeShut,
		Doc: "a plug or cover closed on a tool that is in"},
	{ID: "tried-while-in", Family: "turns and proof", Severity: finding.ShouldFix, Check: triedWhileIn,
		Doc: "a proof by a tool that has been in all the time"},
	{ID: "turned-by-nothing", Family: "locks and turning", Severity: finding.Blocks, Check: turnedByNothing,
		Doc: "the engine turned by a bolt that is slack or gone"},
	{ID: "not-come-up", Family: "locks and turning", Severity: finding.ShouldFix, Check: notComeUp,
		Doc: "a stop fitted when the crank is past or on it: the slack is on the wrong run"},
	{ID: "started-open", Family: "access and order", Severity: finding.Blocks, Check: startedOpen,
		Doc: "the first start with something off or not tight"},
	{ID: "renewed-in-place", Family: "tools and parts", Severity: finding.ShouldFix, Check: renewedInPlace,
		Doc: "a part renewed that never came off"},
	{ID: "slack-elsewhere", Family: "loop and tension", Severity: finding.Blocks, Check: slackElsewhere,
		Doc: "slack left on the pulling run: the cams are late by it when tension comes on"},
	{ID: "hold-not-in", Family: "tightening", Severity: finding.Blocks, Check: holdNotIn,
		Doc: "a bolt held by a lock that is not fitted yet, or out again"},
	{ID: "renewed-again", Family: "tools and parts", Severity: finding.ShouldFix, Check: renewedAgain,
		Doc: "one new part asked for twice, and another not at all"},
	{ID: "let-go-loose", Family: "loop and tension", Severity: finding.Blocks, Check: letGoLoose,
		Doc: "a tensioner let go against bolts that do not hold it: it tilts"},
	{ID: "turned-loose", Family: "access and order", Severity: finding.Blocks, Check: turnedLoose,
		Doc: "the engine turned on a roller that is only finger tight"},
	{ID: "covered", Family: "access and order", Severity: finding.Blocks, Check: covered,
		Doc: "work at a belt or chain through the cover before it"},
	{ID: "clamped-early", Family: "loop and tension", Severity: finding.Blocks, Check: clampedEarly,
		Doc: "a floating sprocket clamped before its belt is on: it cannot find its place any more"},
	{ID: "no-proof", Family: "turns and proof", Severity: finding.ShouldFix, Check: noProof,
		Doc: "a proof by a tool that goes in anywhere"},
	{ID: "sprung-out", Family: "loop and tension", Severity: finding.Blocks, Check: sprungOut,
		Doc: "a plunger that flies out when its tensioner is unbolted"},
	{ID: "screws-loose", Family: "locks and turning", Severity: finding.Blocks, Check: screwsLoose,
		Doc: "a lock that can move: its own screws were never tightened"},
}

func slackAlready(c *proving) {
	each(c, func(i int, e virtual.SlackAlready) {
		how := message.F("slack already")
		if e.Part != "" {
			how = message.F("out with the %s", c.part(e.Part))
		}
		c.find(message.F("%s slackens the %s, which %s %s", c.num(i), c.fastener(e.Fastener), c.are(e.Fastener), how), message.F("Another fastener may be meant, or the step is not needed."), []int{i}, c.drop(i))
	})
}

// are is the verb that goes with a fastener's name.
func (c *proving) are(id engine.FastenerID) message.Text {
	if f := c.Index.Fastener(id); f != nil {
		return plural(f)
	}
	return message.F("is")
}

func tightAlready(c *proving) {
	each(c, func(i int, e virtual.TightAlready) {
		f := c.Index.Fastener(e.Fastener)
		if !c.Fastens(f) {
			return // the sheet does not say what it holds, so nobody knows whether it is in
		}
		angle := false
		for _, s := range f.Spec {
			angle = angle || !s.Angle.IsZero()
		}
		why, mends := "Either a step that slackens it is missing, or this one is not needed.", []Mend{c.drop(i)}
		if angle {
			why = "Its angle goes in once: turned on from where it stands, the bolt is stretched twice. " + why
		}
		if m := c.slackening(i, f); len(m.Edits) > 0 {
			if mends = append([]Mend{m}, mends...); c.floats(f) {
				mends = mends[:1] // what it clamps is to find its place: it has to come loose
			}
		}
		c.find(message.F("%s tightens the %s, which nothing has loosened", c.num(i), c.fastener(e.Fastener)), message.As(why), []int{i}, mends...)
	})
}

// slackening offers to slacken a fastener where the loop comes off, held as the
// sheet says; nothing where no loop comes off before step i.
func (c *proving) slackening(i int, f *engine.Fastener) Mend {
	locked := -1
	for k := range c.Run.Steps {
		if k >= i {
			break
		}
		if a, ok := c.Page.Steps[k].Action.(*step.Lock); ok && c.Index.Lock(a.Lock) != nil && locked < 0 {
			locked = k
		}
		for l := range c.Index.Sheet.Loops {
			if c.Run.Before(k).Loops[l].On && !c.Run.Steps[k].After.Loops[l].On {
				return c.before(k, &step.Slacken{Fasteners: []engine.FastenerID{f.ID}, Hold: f.HoldWith})
			}
		}
	}
	if locked >= 0 && c.floats(f) {
		return c.after(locked, &step.Slacken{Fasteners: []engine.FastenerID{f.ID}, Hold: f.HoldWith})
	}
	return Mend{}
}

// floats reports whether a fastener clamps a wheel that finds its place on its shaft.
func (c *proving) floats(f *engine.Fastener) bool {
	return slices.ContainsFunc(c.Index.ClampedBy(c.Index.FastenerAt(f.ID)), func(w int) bool { return !c.Index.Sheet.Wheels[w].Fast() })
}

func partGone(c *proving) {
	each(c, func(i int, e virtual.PartGone) {
		what := message.F("tightens the %s", c.fastener(e.Fastener))
		if e.Tensioner != "" {
			what = message.F("works at the %s", c.tensioner(e.Tensioner))
		}
		mends := []Mend{}
		if k := c.RefitAfter(i, e.Part); k >= 0 {
			mends = append(mends, c.moveBefore(k, i))
		} else if q := c.Index.Part(e.Part); q != nil {
			mends = append(mends, c.before(i, &step.Refit{Parts: []engine.PartID{q.ID}, New: q.Policy == engine.AlwaysNew, NewSeal: q.Seal != ""}))
		}
		c.find(message.F("%s %s while the %s is off", c.num(i), what, c.part(e.Part)), message.F("It has to be on before anything about it can be done."), []int{i}, mends...)
	})
}

func boltTight(c *proving) {
	each(c, func(i int, e virtual.BoltTight) {
		f := c.Index.Fastener(e.Fastener)
		why := message.F("Slackening it needs a step of its own")
		if f.HoldWith != "" {
			why = why.And(message.F(", held with the %s", c.lock(f.HoldWith)))
		}
		c.find(message.F("%s takes off the %s with the %s still tight", c.num(i), c.part(e.Part), c.fastener(e.Fastener)), message.F("%s.", why), []int{i},
			c.before(i, &step.Slacken{Fasteners: []engine.FastenerID{f.ID}, Hold: f.HoldWith}))
	})
}

func wrongHold(c *proving) {
	each(c, func(i int, e virtual.WrongHold) {
		c.find(message.F("%s holds with the %s, which does not grip the %s", c.num(i), c.lock(e.Lock), c.shaft(e.Shaft)), message.F("The %s would turn with the %s.", c.shaft(e.Shaft), c.fastener(e.Fastener)), []int{i}, c.holding(i, e.Fastener)...)
	})
}

func tensionerClamped(c *proving) {
	each(c, func(i int, e virtual.TensionerClamped) {
		t := c.Index.Tensioner(e.Tensioner)
		c.find(message.F("%s moves the %s with the %s tight", c.num(i), c.tensioner(e.Tensioner), c.fastener(e.Fastener)), message.F("Clamped, it cannot move."), []int{i}, c.before(i, &step.Slacken{Fasteners: t.Bolts}))
	})
}

func pinStillIn(c *proving) {
	each(c, func(i int, e virtual.PinStillIn) {
		c.find(message.F("%s sets the %s with its pin in", c.num(i), c.tensioner(e.Tensioner)), message.F("Pull the pin first: it holds the tensioner retracted."), []int{i}, c.before(i, &step.Release{Tensioner: e.Tensioner}))
	})
}

func notHeldBack(c *proving) {
	each(c, func(i int, e virtual.NotHeldBack) {
		if k := c.Index.PartAt(c.Index.Tensioner(e.Tensioner).Part); k >= 0 && c.Run.Last().Parts[k].Fresh {
			return // a new one comes pinned; this one may move where it likes
		}
		if t := c.Index.Tensioner(e.Tensioner); t.Pin == "" {
			c.find(message.F("%s takes the %s off with the %s pushed back and not clamped", c.num(i), c.loop(e.Loop), c.tensioner(e.Tensioner)), message.F("Its spring brings it out as soon as nobody holds it."), []int{i}, c.before(i, &step.Tighten{Fasteners: t.Bolts, To: step.ToSnug}))
			return
		}
		c.find(message.F("%s takes the %s off with the %s slack and not pinned", c.num(i), c.loop(e.Loop), c.tensioner(e.Tensioner)), message.F("The sheet has a pin for it. Without the belt or chain it moves out to its end."), []int{i}, c.before(i, &step.Pin{Tensioner: e.Tensioner}))
	})
}

func slackTurned(c *proving) {
	said := map[engine.LoopID]bool{}
	each(c, func(i int, e virtual.SlackTurned) {
		if said[e.Loop] {
			return
		}
		said[e.Loop] = true
		t := c.Index.Tensioner(e.Tensioner)
		set := &step.Set{Tensioner: t.ID, Way: t.Turn, To: pointer(t)}
		if len(t.Pointer) > 1 {
			set.At = unit.Of(20, unit.Celsius)
			set.To = placeAt(t, set.At)
		}
		let := &step.Release{Tensioner: t.ID}
		mends := []Mend{c.before(i, let), c.before(i, set)}
		if !t.Method.Of().SetOwed {
			mends = mends[:1]
		}
		if at := c.FitOf(t.ID, 0) + 1; at > 1 && t.Method.Of().ByBolts {
			mends = append(mends, c.sequence(at, let, set), c.sequence(at, set))
		}
		c.find(message.F("%s turns the crank with the %s slack", c.num(i), c.loop(e.Loop)), message.F("The %s does not tension it yet; a tooth can jump on any wheel.%s", t.Name, c.toothRoom(e.Loop)), []int{i}, mends...)
	})
}

func markHidden(c *proving) {
	said := map[engine.MarkID]bool{}
	each(c, func(i int, e virtual.MarkHidden) {
		if said[e.Mark] {
			return
		}
		said[e.Mark] = true
		c.find(message.F("%s reads the %s, and the %s is before it", c.num(i), c.mark(e.Mark), c.part(e.Part)), message.F("Nobody can see it there."), []int{i}, c.openFirst(i, e.Part), c.before(i, &step.Remove{Parts: []engine.PartID{e.Part}}))
	})
}

func notAMark(c *proving) {
	each(c, func(i int, e virtual.NotAMark) {
		look := message.Text{}
		if m := c.Index.Mark(e.Mark); m != nil && m.Look != "" {
			look = message.F(" The sheet says: %s.", m.Look)
		}
		c.find(message.F("%s takes the %s for a mark", c.num(i), c.mark(e.Mark)), message.F("It only looks like one.%s", look), []int{i}, c.trueMark(i, e.Mark)...)
	})
}

// trueMark offers the timing marks that are in view instead of a look-alike.
func (c *proving) trueMark(i int, id engine.MarkID) []Mend {
	like := c.Index.Mark(id)
	var out []Mend
	for k := range c.Index.Sheet.Marks {
		m := &c.Index.Sheet.Marks[k]
		if m.Kind != engine.TimingMark || !c.InView(i, m) || c.Page.Steps[i].Action.Verb() == "check" && m.Wheel != like.Wheel {
			continue
		}
		switch a := c.Page.Steps[i].Action.(type) {
		case *step.Turn:
			n := *a
			n.To = m.ID
			out = append(out, c.change(i, message.F("Turn to the %s", m.Name), &n))
		case *step.Check:
			n := *a
			n.Marks = nil
			for _, v := range a.Marks {
				if v == id {
					v = m.ID
				}
				n.Marks = append(n.Marks, v)
			}
			out = append(out, c.change(i, message.F("Check the %s", m.Name), &n))
		}
	}
	return out
}

func underLoop(c *proving) {
	each(c, func(i int, e virtual.UnderLoop) {
		off := c.before(i, &step.TakeOff{Loop: e.Loop})
		if k := c.TakenOffAfter(i, e.Loop); k >= 0 {
			off = c.moveBefore(k, i)
		}
		c.find(message.F("%s works at the %s with the %s on it", c.num(i), c.part(e.Part), c.loop(e.Loop)), message.F("The belt or chain runs over it: it comes off first, and goes on last."), []int{i}, off)
	})
}

func wheelMissing(c *proving) {
	said := map[engine.PartID]bool{}
	each(c, func(i int, e virtual.WheelMissing) {
		var mends []Mend
		if k := c.RefitAfter(i, e.Part); k >= 0 {
			mends = append(mends, c.moveBefore(k, i))
		} else if q := c.Index.Part(e.Part); q != nil {
			mends = append(mends, c.before(i, &step.Refit{Parts: []engine.PartID{q.ID}, New: q.Policy == engine.AlwaysNew}))
		}
		if said[e.Part] {
			return
		}
		said[e.Part] = true
		c.find(message.F("%s brings the %s under load with the %s off", c.num(i), c.loop(e.Loop), c.part(e.Part)), message.F("The belt or chain runs over it: tensioned or turned without it, it jumps."), []int{i}, mends...)
	})
}

func holeShut(c *proving) {
	each(c, func(i int, e virtual.HoleShut) {
		c.find(message.F("%s closes the %s with the %s in", c.num(i), c.part(e.Part), c.lock(e.Lock)), message.F("A hole cannot be closed on a tool."), []int{i}, c.before(i, &step.Unlock{Locks: []engine.LockID{e.Lock}}))
	})
}

func triedWhileIn(c *proving) {
	each(c, func(i int, e virtual.TriedWhileIn) {
		if e.Tensioner != "" {
			c.find(message.F("%s tries the pin of the %s, and it is in", c.num(i), c.tensioner(e.Tensioner)), message.F("A pin that has been in all the time proves nothing."), []int{i}, c.before(i, &step.Release{Tensioner: e.Tensioner}), c.drop(i))
			return
		}
		c.find(message.F("%s checks that the %s goes in, and it is in", c.num(i), c.lock(e.Lock)), message.F("A tool that has been in all the time proves nothing."), []int{i}, c.before(i, &step.Unlock{Locks: []engine.LockID{e.Lock}}), c.drop(i))
	})
}

func turnedByNothing(c *proving) {
	each(c, func(i int, e virtual.TurnedByNothing) {
		why := message.F("It has to be tight to turn anything.")
		if e.Part != "" {
			why = message.F("The %s it belongs to is off.", c.part(e.Part))
		}
		c.find(message.F("%s turns the crank by the %s, which %s slack", c.num(i), c.fastener(e.Fastener), c.are(e.Fastener)), why, []int{i})
	})
}

func notComeUp(c *proving) {
	each(c, func(i int, e virtual.NotComeUp) {
		if c.Run.Before(i).Locks[c.Index.LockAt(e.Lock)].Met {
			why := message.F("It is met already: the step turns nothing.")
			c.find(message.F("%s turns onto the %s, and the crank stands on it", c.num(i), c.lock(e.Lock)), message.F("%s Stop short before it is fitted, so that the crank comes up to it and the pulling run stays tight.", why), []int{i}, c.stopShort(i))
		}
	})
}

// stopShort makes the turn before step i stop short.
func (c *proving) stopShort(i int) Mend {
	for k := i - 1; k >= 0; k-- {
		a, ok := c.Page.Steps[k].Action.(*step.Turn)
		if !ok || !a.Crank() {
			continue
		}
		n := *a
		n.Short = true
		return c.change(k, message.F("Stop short at step %d", c.place(k)+1), &n)
	}
	return Mend{}
}

func startedOpen(c *proving) {
	each(c, func(i int, e virtual.StartedOpen) {
		if f := c.Index.Fluid(e.Fluid); f != nil {
			c.find(message.F("%s starts the engine without its %s", c.num(i), f.Name), message.F("It was let out and is not filled in."), []int{i}, c.before(i, &step.Fill{Fluid: f.ID, Amount: f.Amount}))
			return
		}
		if e.Part != "" {
			weighs := c.openWeighs(i, e.Part)
			if c.house.FirstLook == finding.BriefStart && weighs != finding.Blocks && len(c.Page.Steps[i].Cautions) > 0 {
				return // the house looks so, and the step warns
			}
			if k := c.RefitAfter(i, e.Part); k >= 0 {
				c.findAs(weighs, message.F("%s starts the engine with the %s off", c.num(i), c.part(e.Part)), message.F("It goes back at step %d.", c.no(k)), []int{i}, c.moveBefore(k, i))
			}
			return // one that never goes back is found by its own rule
		}
		if t := c.Index.TensionerAt(e.Tensioner); t >= 0 {
			for k := i + 1; k < len(c.Run.Steps); k++ {
				if !c.Run.Steps[k].After.Tensioners[t].Slack() {
					c.find(message.F("%s starts the engine with the %s slack", c.num(i), c.tensioner(e.Tensioner)), message.F("Step %d brings its tension on.", c.no(k)), []int{i, k}, c.moveBefore(k, i))
					return
				}
			}
			return // one that stays slack is found by its own rule
		}
		f := c.Index.FastenerAt(e.Fastener)
		for k := i + 1; k < len(c.Run.Steps); k++ {
			if c.Run.Steps[k].After.Fasteners[f].Stage == virtual.Final {
				c.find(message.F("%s starts the engine before the %s %s tight", c.num(i), c.fastener(e.Fastener), c.are(e.Fastener)), message.F("The final torque comes at step %d.", c.no(k)), []int{i}, c.moveBefore(k, i))
				return
			}
		}
	})
}

// briefly is the longest first look at a running engine with its covers off, minutes.
const briefly = 0.5

// openWeighs is how grave it is that a part is off at a start: a cover may be, where the
// engine only runs for a moment to be looked at. That is one of the schools of the trade,
// and needs a caution of its own.
func (c *proving) openWeighs(i int, id engine.PartID) finding.Severity {
	a, ok := c.Page.Steps[i].Action.(*step.Start)
	p := c.Index.Part(id)
	if !ok || p == nil || p.Kind != engine.Cover {
		return finding.Blocks
	}
	if m, ok := a.For.Minutes(); !ok || m <= 0 || float64(m) > briefly {
		return finding.Blocks
	}
	return finding.ShouldFix
}

func renewedInPlace(c *proving) {
	each(c, func(i int, e virtual.RenewedInPlace) {
		c.find(message.F("%s renews the %s, which never comes off", c.num(i), c.part(e.Part)), message.F("A step that takes it off is missing, or another part is meant."), []int{i}, c.drop(i))
	})
}

func slackElsewhere(c *proving) {
	each(c, func(i int, e virtual.SlackElsewhere) {
		a, ok := c.Page.Steps[i].Action.(*step.Fit)
		t := c.Index.Tensioner(e.Tensioner)
		if !ok || t == nil {
			return
		}
		n := *a
		n.Slack = t.Wheel
		name := string(e.Wheel)
		if w := c.Index.Wheel(e.Wheel); w != nil {
			name = w.Name
		}
		bare := strings.TrimPrefix(t.Name, "the ")
		c.find(message.F("%s leaves the slack at the %s, not at the %s", c.num(i), name, t.Name), message.F("Only the tensioner’s run can take it up; slack elsewhere is drawn over the wheels, and the shafts between come late."), []int{i}, c.change(i, message.F("Slack at the %s", bare), &n))
	})
}

func holdNotIn(c *proving) {
	each(c, func(i int, e virtual.HoldNotIn) {
		fitted := false
		for k := range c.Page.Steps {
			if a, ok := c.Page.Steps[k].Action.(*step.Lock); ok {
				for _, id := range a.All() {
					fitted = fitted || id == e.Lock
				}
			}
		}
		if !fitted {
			return // the page fits it within the step that holds with it
		}
		c.find(message.F("%s holds with the %s, which is not in", c.num(i), c.lock(e.Lock)), message.F("Nothing keeps the %s from turning with the bolt.", c.shaft(e.Shaft)), []int{i}, c.holdUntil(i, e.Lock), c.before(i, &step.Lock{Lock: e.Lock}))
	})
}

// holdUntil takes a lock that came out too early out after step i.
func (c *proving) holdUntil(i int, id engine.LockID) Mend {
	k := c.Index.LockAt(id)
	for n := i - 1; n >= 0; n-- {
		if c.Run.Before(n).Locks[k].In && !c.Run.Steps[n].After.Locks[k].In {
			return c.moveAfter(n, i)
		}
	}
	return Mend{}
}

func renewedAgain(c *proving) {
	each(c, func(i int, e virtual.RenewedAgain) {
		name := c.fastener(e.Fastener)
		if e.Part != "" {
			name = c.part(e.Part)
		}
		c.find(message.F("%s renews the %s once more", c.num(i), name), message.F("Another one may be meant."), []int{i}, c.drop(i))
	})
}

func sprungOut(c *proving) {
	each(c, func(i int, e virtual.SprungOut) {
		c.find(message.F("%s takes the %s off while it pushes on the %s", c.num(i), c.tensioner(e.Tensioner), c.loop(e.Loop)), message.F("The sheet has a pin for it. Unpinned, it springs out as its bolts let go."), []int{i}, c.before(i, &step.Pin{Tensioner: e.Tensioner}))
	})
}

func letGoLoose(c *proving) {
	each(c, func(i int, e virtual.LetGoLoose) {
		if e.Part != "" {
			c.find(message.F("%s brings tension on the %s with the %s not tight", c.num(i), c.part(e.Part), c.fastener(e.Fastener)), message.F("It is pulled askew before it is bolted down."), []int{i}, c.tightenFirst(i, e.Fastener)...)
			return
		}
		c.find(message.F("%s lets the %s go with the %s not tight", c.num(i), c.tensioner(e.Tensioner), c.fastener(e.Fastener)), message.F("Its force comes on at once, and only its bolts hold it."), []int{i}, c.tightenFirst(i, e.Fastener)...)
	})
}

// tightenFirst brings the tightening of a fastener before step i, or adds it.
func (c *proving) tightenFirst(i int, id engine.FastenerID) []Mend {
	for k := i + 1; k < len(c.Page.Steps); k++ {
		a, ok := c.Page.Steps[k].Action.(*step.Tighten)
		if !ok || a.To != step.ToFinal {
			continue
		}
		for _, f := range a.Fasteners {
			if f == id {
				return []Mend{c.moveBefore(k, i)}
			}
		}
	}
	return []Mend{c.before(i, c.tightening(id))}
}

func turnedLoose(c *proving) {
	said := map[engine.FastenerID]bool{}
	each(c, func(i int, e virtual.TurnedLoose) {
		if said[e.Fastener] {
			return
		}
		said[e.Fastener] = true
		why := "Slack, it may not be turned over: what it holds works loose."
		if e.Loop != "" {
			why = fmt.Sprintf("The %s runs over what it holds.", c.loop(e.Loop))
		}
		c.find(message.F("%s turns the crank with the %s not tight", c.num(i), c.fastener(e.Fastener)), message.As(why), []int{i}, c.tightenFirst(i, e.Fastener)...)
	})
}

func covered(c *proving) {
	said := map[engine.PartID]int{}
	each(c, func(i int, e virtual.Covered) {
		if n, ok := said[e.Part]; ok && n != i && c.OnSince(n, i, e.Part) {
			return // the same cover, still on
		}
		said[e.Part] = i
		mends := []Mend{c.openFirst(i, e.Part)}
		for n := i - 1; n >= 0; n-- { // one that went back too early
			k := c.Index.PartAt(e.Part)
			if c.Run.Before(n).Parts[k].Off && !c.Run.Steps[n].After.Parts[k].Off {
				mends = append([]Mend{c.moveAfter(n, c.LastCovered(e.Part))}, mends...)
				break
			}
		}
		c.find(message.F("%s works at the %s through the %s", c.num(i), c.loop(e.Loop), c.part(e.Part)), message.F("It hides a wheel of it, and is on."), []int{i}, mends...)
	})
}

func clampedEarly(c *proving) {
	said := map[engine.WheelID]bool{}
	each(c, func(i int, e virtual.ClampedEarly) {
		if said[e.Wheel] {
			return
		}
		said[e.Wheel] = true
		var m Mend
		l := c.Index.LoopAt(e.Loop)
		for n := i + 1; n < len(c.Run.Steps); n++ {
			if st := &c.Run.Steps[n].After; st.Loops[l].On && st.LooseTension(c.Index, l) == "" {
				m = c.moveAfter(i, n)
				break
			}
		}
		if t := c.Index.Tensioner(e.Tensioner); t != nil {
			c.find(message.F("%s clamps the %s sprocket before the %s holds the %s tight", c.num(i), c.wheelName(e.Wheel), c.tensioner(t.ID), c.loop(e.Loop)), message.F("It floats so that it finds its place when the belt or chain is laid and tensioned."), []int{i}, m)
			return
		}
		c.find(message.F("%s clamps the %s sprocket before the %s is on", c.num(i), c.wheelName(e.Wheel), c.loop(e.Loop)), message.F("It floats so that it finds its place when the belt or chain is laid and tensioned."), []int{i}, m)
	})
}

func noProof(c *proving) {
	each(c, func(i int, e virtual.NoProof) {
		c.find(message.F("%s tries whether the %s goes in", c.num(i), c.lock(e.Lock)), message.F("It goes in anywhere, and shows nothing."), []int{i}, c.drop(i))
	})
}

func screwsLoose(c *proving) {
	each(c, func(i int, e virtual.ScrewsLoose) {
		c.find(message.F("%s lets the drive go with the %s of the %s not tight", c.num(i), c.fastener(e.Fastener), c.lock(e.Lock)), message.F("It can move until its own screws are tight, and so can what it holds."), []int{i}, c.before(i, c.tightening(e.Fastener)))
	})
}

// toothRoom says what a tooth on a loop does to the valves behind it, where the sheet
// lets that be worked out.
func (c *proving) toothRoom(id engine.LoopID) message.Text {
	least, any := math.Inf(1), false
	for i := range c.Index.Sheet.Shafts {
		v, ok := piston.TrainOf(c.Index, i)
		d := c.Index.Drive(i)
		if tooth := float64(c.ToothOf(i)); ok && d.Driven && tooth > 0 && slices.Contains(d.Loops, c.Index.LoopAt(id)) {
			of := tooth / math.Abs(d.Ratio.Float())
			late, _ := v.Least(unit.Angle(of))
			early, _ := v.Least(unit.Angle(-of))
			least, any = math.Min(least, float64(min(late, early))), true
		}
	}
	switch {
	case !any:
		return message.Text{}
	case least < 0:
		return message.F(" One tooth out, valves meet pistons.")
	}
	return message.F(" One tooth out, valves and pistons still clear one another by %s mm.", unit.Number(math.Round(least*10)/10))
}
