package pageproof

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

var turnRules = finding.Family[*proving]{
	{ID: "proving-turns", Family: "turns and proof", Severity: finding.Blocks, Check: provingTurns,
		Doc: "an engine closed up without having been turned by hand, or not far enough"},
	{ID: "proved-by-nothing", Family: "turns and proof", Severity: finding.Blocks, Check: provedByNothing,
		Doc: "turns after which nobody looks whether the timing came home"},
	{ID: "not-home", Family: "turns and proof", Severity: finding.Blocks, Check: notHome,
		Doc: "a count of turns at which what is checked afterwards does not stand home"},
	{ID: "after-run", Family: "turns and proof", Severity: finding.Blocks, Check: afterRun,
		Doc: "a mark read, or a tool tried, where the engine happened to stop"},
	{ID: "backwards", Family: "turns and proof", Severity: finding.ShouldFix, Check: backwards,
		Doc: "a jumped tooth: the crank turned back beyond the allowed back-off"},
	{ID: "loop-marks", Family: "turns and proof", Severity: finding.Blocks, Check: loopMarks,
		Doc: "belt paint used as proof after the engine has turned"},
}

func provingTurns(c *proving) {
	at := c.Fits()
	if at < 0 {
		return
	}
	at = max(at, c.lastFromStop())
	end := c.Start()
	if c.partOfJob() && (c.leftSlack() || c.leftUnproved()) {
		return // it must not be turned yet: the page that goes on owes it
	}
	turned := float64(c.Turned(at, end)) / 360
	want := float64(c.house.MinTurns)
	if turned >= want-0.1 {
		return
	}
	n := float64(c.homeCount(at))
	if t := c.LastTurn(end); t > at {
		c.find(message.F("The engine is turned only %s by hand after the %s", turns(turned), c.fitted(at)), message.F("House rule asks for %s at least, so that every cam comes round once.", turns(want)), []int{t}, c.betterCount(t))
		return
	}
	last := at
	for i := at; i < len(c.Page.Steps); i++ {
		if ph := c.Page.Steps[i].Phase; ph == "fit" || ph == "tension" || ph == "tighten" {
			last = i
		}
	}
	for i := range c.Run.Steps {
		if _, ok := c.Page.Steps[i].Action.(*step.Unlock); ok && i > last && i < end {
			last = i
			break
		}
	}
	m := c.after(last, &step.Turn{Turns: n, Way: c.Index.Sheet.Running, Short: c.HasStop()})
	if !c.trying {
		m.Edits[0].Step.Phase = "prove"
	}
	c.find(message.F("The engine is never turned by hand after the %s", c.fitted(at)), message.F("%s bring every mark and lock home and show whether it turns freely.", turns(n)), []int{at}, m)
}

// lastFromStop is the last step that sets a tensioner of a belt or chain the page laid
// which goes to its stop first, −1 for none: the turns that settle it there prove nothing
// of where it is set.
func (c *proving) lastFromStop() int {
	last := -1
	for l := range c.RefittedLoops() {
		for _, id := range c.Index.Sheet.Loops[l].Tensioners() {
			t := c.Index.Tensioner(id)
			if t == nil || !t.Method.Of().StopFirst {
				continue
			}
			c.Sets(func(i int, a *step.Set, v *engine.Tensioner) {
				if v == t && !a.Eases() {
					last = max(last, i)
				}
			})
		}
	}
	return last
}

// leftSlack reports whether a loop that the page laid hangs slack at its end.
func (c *proving) leftSlack() bool {
	st := c.Run.Last()
	for l := range c.RefittedLoops() {
		if st.Loops[l].On && st.LooseTension(c.Index, l) != "" {
			return true
		}
	}
	return false
}

// leftUnproved reports whether the page says of every loop it laid that the page which
// goes on proves it.
func (c *proving) leftUnproved() bool {
	loops := c.RefittedLoops()
	for l := range loops {
		if !slices.Contains(c.whole.Ends.Unproved, c.Index.Sheet.Loops[l].ID) {
			return false
		}
	}
	return len(loops) > 0
}

// fitted says what is fitted at a step: "timing chain is fitted".
func (c *proving) fitted(at int) message.Text {
	if a, ok := c.Page.Steps[at].Action.(*step.Fit); ok {
		if l := c.Index.Loop(a.Loop); l != nil {
			return message.F("%s is fitted", l.Name)
		}
	}
	if a, ok := c.Page.Steps[at].Action.(*step.Refit); ok && len(a.Parts) > 0 {
		return message.F("%s is refitted", c.part(a.Parts[0]))
	}
	if a, ok := c.Page.Steps[at].Action.(*step.Set); ok && a.Phaser == "" {
		return message.F("%s is set", c.tensioner(a.Tensioner))
	}
	return message.F("%s is fitted", c.Index.Drives())
}

func turns(n float64) message.Text {
	if n == 1 {
		return message.F("1 turn")
	}
	return message.F("%s turns", unit.Number(unit.Round(n)))
}

// homeCount is the least count of turns, at least the house's, at which all
// that is looked at after step i stands home; with nothing looked at, all
// position locks and timing marks.
func (c *proving) homeCount(i int) int64 {
	n := int64(1)
	any := false
	add := func(every int64) {
		if every > 0 {
			n, any = engine.LCM(n, every), true
		}
	}
	for k := i + 1; k < len(c.Page.Steps); k++ {
		switch a := c.Page.Steps[k].Action.(type) {
		case *step.Lock:
			for _, id := range a.All() {
				c.LockEvery(id, add)
			}
		case *step.Check:
			locks, marks := a.Proves()
			for _, id := range locks {
				c.LockEvery(id, add)
			}
			for _, id := range marks {
				if m := c.Index.Mark(id); m != nil && m.Kind == engine.TimingMark {
					add(c.Index.MarkHomeEvery(m))
				}
			}
		}
	}
	if !any {
		for k := range c.Index.Sheet.Locks {
			add(c.Index.LockHomeEvery(&c.Index.Sheet.Locks[k]))
		}
	}
	least := int64(max(c.house.MinTurns, 1))
	return (least + n - 1) / n * n
}

// betterCount changes a turning step to a count that brings all home.
func (c *proving) betterCount(i int) Mend {
	n := float64(c.homeCount(i))
	switch a := c.Page.Steps[i].Action.(type) {
	case *step.Turn:
		t := *a
		t.Turns = n
		return c.change(i, message.F("Make it %s", turns(n)), &t)
	case *step.Settle:
		return c.change(i, message.F("Make it %s", turns(n)), &step.Settle{Turns: n})
	}
	return Mend{}
}

func provedByNothing(c *proving) {
	at := c.Fits()
	t := c.LastTurn(len(c.Page.Steps))
	if at < 0 || t < at {
		return
	}
	for i := t + 1; i < len(c.Run.Steps); i++ {
		for _, e := range c.Run.Steps[i].Events {
			id := engine.LockID("")
			switch e := e.(type) {
			case virtual.MarkStood, virtual.MarkAway:
				return
			case virtual.WentIn:
				id = e.Lock
			case virtual.WouldNotGoIn:
				id = e.Lock
			}
			if l := c.Index.Lock(id); l != nil && (l.Kind == engine.BarLock || l.Kind == engine.PinLock) {
				return
			}
		}
	}
	var m Mend
	var used, first []engine.LockID
	for k := range c.Index.Sheet.Locks {
		if l := &c.Index.Sheet.Locks[k]; l.Kind == engine.BarLock || l.Kind == engine.PinLock {
			if first = append(first, l.ID); c.WentIn(len(c.Run.Steps), l.ID) >= 0 {
				used = append(used, l.ID)
			}
		}
	}
	switch {
	case len(used) > 0: // what held it while it was open tells how it stands now
		m = c.after(c.HomeAgain(t), &step.Check{Locks: used})
	case len(first) > 0:
		m = c.after(c.HomeAgain(t), &step.Check{Locks: first[:1]})
	}
	c.find(message.F("Nothing is checked after the turns of step %d", c.no(t)), message.F("A %s a tooth out would go unnoticed.", strings.TrimSuffix(c.Index.Drives(), "s")), []int{t}, m)
}

func notHome(c *proving) {
	said := -1
	each(c, func(i int, e virtual.MarkAway) {
		t := c.LastTurn(i)
		if said == i {
			return
		}
		said = i
		var m Mend
		why := fmt.Sprintf("It stands %s° away from its pointer there.", tidy(math.Abs(float64(e.Degrees))))
		if t >= 0 {
			m = c.betterCount(t)
			if n := c.homeCount(t); n > 0 {
				why += fmt.Sprintf(" All that is checked afterwards is home together every %s.", turns(float64(n)))
			}
		}
		mends := []Mend{m}
		if mark := c.Index.Mark(e.Mark); mark != nil && mark.Kind == engine.TimingMark && c.Index.MarkShaft(mark) != "" {
			mends = append(mends, c.bring(i, []engine.ShaftID{c.Index.MarkShaft(mark)}, mark.At, 360))
		}
		c.find(message.F("The %s does not stand at step %d", c.looked(e), c.no(i)), message.As(why), []int{i, t}, mends...)
	})
}

func afterRun(c *proving) {
	said := -1
	each(c, func(i int, e virtual.AfterRun) {
		if said == i {
			return
		}
		said = i
		ran := 0
		for k := range i {
			if c.Does(k).Runs {
				ran = k
			}
		}
		what := c.mark(e.Mark)
		if e.Reading != "" {
			what = c.reading(e.Reading)
		}
		var mend Mend
		if m := c.Index.Mark(e.Mark); m != nil && m.Kind == engine.TimingMark {
			mend = c.before(i, &step.Turn{Way: c.Index.Sheet.Running, To: m.ID})
		}
		if e.Lock != "" {
			what, mend = c.lock(e.Lock), Mend{}
		}
		c.find(message.F("%s goes by the %s, and the engine has run since step %d", c.num(i), what, c.no(ran)), message.F("Its crank stands anywhere then. Bring it to a mark or a stop first."), []int{i, ran}, mend)
	})
}

func backwards(c *proving) {
	limit := c.house.BackOff
	if l := c.Index.Sheet.Limits.BackOff; l > 0 {
		limit = l
	}
	if c.house.Backwards == finding.NeverBackwards {
		limit = 0
	}
	each(c, func(i int, e virtual.Backwards) {
		if float64(e.Degrees) <= limit+1e-6 || c.backOnto(i, e.Degrees) {
			return
		}
		var m Mend
		if t, ok := c.Page.Steps[i].Action.(*step.Turn); ok && t.Crank() && t.Way != "" && t.Way != c.Index.Sheet.Running {
			n := *t
			n.Way = c.Index.Sheet.Running
			m = c.change(i, message.F("Turn it %s", string(n.Way)), &n)
		}
		sev := finding.ShouldFix
		if e.Degrees >= 360 {
			sev = finding.Blocks // no slack is taken back by a whole turn
		}
		why := message.F("At most %s° are allowed: slack moves to the wrong run and a tooth can jump.", tidy(limit))
		if limit == 0 {
			why = message.F("House rule: never. Slack moves to the wrong run and a tooth can jump.")
		}
		c.findAs(sev, message.F("%s turns the crank %s° backwards", c.num(i), tidy(float64(e.Degrees))), why, []int{i}, m)
	})
}

func loopMarks(c *proving) {
	each(c, func(i int, e virtual.LoopMarkMoved) {
		var m Mend
		if a, ok := c.Page.Steps[i].Action.(*step.Check); ok {
			n := *a
			n.Marks = slices.DeleteFunc(slices.Clone(a.Marks), func(id engine.MarkID) bool { return id == e.Mark })
			for k := range c.Index.Sheet.Marks {
				if mk := &c.Index.Sheet.Marks[k]; mk.Kind == engine.TimingMark && !slices.Contains(n.Marks, mk.ID) && c.InView(i, mk) {
					n.Marks = append(n.Marks, mk.ID)
				}
			}
			m = c.change(i, message.F("Check the timing marks instead"), &n)
		}
		every := c.Index.MarkHomeEvery(c.Index.Mark(e.Mark))
		if e.AsFound {
			c.find(message.F("%s reads the %s on an engine as it is found", c.num(i), c.mark(e.Mark)), message.F("They stand there once in %d turns. They are for fitting.", every), []int{i}, m)
			return
		}
		c.find(message.F("%s uses the %s as proof after turning", c.num(i), c.mark(e.Mark)), message.F("They are home again only after %d turns. They are for fitting.", every), []int{i}, m)
	})
}
