package pageproof

import (
	"slices"
	"strings"
	"unicode"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// schoolRules hold what a house chose where practitioners disagree. Each is silent until a
// house chooses its school.
var schoolRules = finding.Family[*proving]{
	{ID: "sprockets-otherwise", Family: "house", Severity: finding.ShouldFix, Check: sprocketsOtherwise,
		Doc: "a belt or chain laid with its sprockets clamped where the house has them float, or the other way round"},
	{ID: "hold-otherwise", Family: "house", Severity: finding.ShouldFix, Check: holdOtherwise,
		Doc: "a crank bolt held by another tool than the house holds it with"},
	{ID: "rollers-stay", Family: "house", Severity: finding.ShouldFix, Check: rollersStay,
		Doc: "a tensioner or roller that stays as old as the belt was"},
	{ID: "used-belt", Family: "house", Severity: finding.ShouldFix, Check: usedBelt,
		Doc: "a belt that has run, back on an engine, where the house always renews it"},
	{ID: "then-turns", Family: "house", Severity: finding.ShouldFix, Check: thenTurns,
		Doc: "a tension that has settled only after the first turns, and was never turned through again"},
	{ID: "vague-word", Family: "house", Severity: finding.Look, Reads: finding.Words, Check: vagueWord,
		Doc: "a word that leaves the instruction to whoever reads it"},
}

func sprocketsOtherwise(c *proving) {
	if c.house.Sprockets != finding.Floated && c.house.Sprockets != finding.Clamped {
		return
	}
	each(c, func(i int, e virtual.Laid) {
		l := c.Index.Loop(e.Loop)
		if l == nil {
			return
		}
		var names []string
		for _, s := range l.Route {
			w := c.Index.WheelAt(s.Wheel)
			if w >= 0 && c.Index.Sheet.Wheels[w].Mount.Floats() && c.Run.Before(i).Free[w] != (c.house.Sprockets == finding.Floated) {
				names = append(names, c.Index.Sheet.Wheels[w].Name)
			}
		}
		switch {
		case len(names) == 0:
		case c.house.Sprockets == finding.Floated:
			c.find(message.F("%s lays the %s with the %s sprocket clamped", c.num(i), l.Name, list(names)), message.F("House rule: sprockets that can float are free while a belt or chain is laid, so that it finds its own place."), []int{i})
		default:
			c.find(message.F("%s lays the %s with the %s sprocket free", c.num(i), l.Name, list(names)), message.F("House rule: sprockets stay clamped while a belt or chain is laid, so that none can slip."), []int{i})
		}
	})
}

func holdOtherwise(c *proving) {
	var wants engine.LockKind
	switch c.house.CrankHold {
	case finding.LockOnly:
		wants = engine.FlywheelLock
	case finding.HolderOnly:
		wants = engine.Holder
	default:
		return
	}
	var has []engine.LockID
	for k := range c.Index.Sheet.Locks {
		if l := &c.Index.Sheet.Locks[k]; l.Kind == wants && slices.Contains(l.Holds, engine.CrankID) {
			has = append(has, l.ID)
		}
	}
	if len(has) == 0 {
		return // the code has no such tool
	}
	for i := range c.Page.Steps {
		var bolts []engine.FastenerID
		var hold engine.LockID
		switch a := c.Page.Steps[i].Action.(type) {
		case *step.Slacken:
			bolts, hold = a.Fasteners, a.Hold
		case *step.Tighten:
			bolts, hold = a.Fasteners, a.Hold
		}
		l := c.Index.Lock(hold)
		if l == nil || l.Kind == wants || l.Kind != engine.FlywheelLock && l.Kind != engine.Holder {
			continue
		}
		for _, id := range bolts {
			if f := c.Index.Fastener(id); f != nil && f.OnShaft == engine.CrankID {
				c.find(message.F("%s holds the %s with the %s", c.num(i), c.shaft(engine.CrankID), c.lock(hold)), message.F("House rule: the crank is held with a %s, and the code has the %s.", string(wants), c.lock(has[0])), []int{i}, c.heldWith(i, has[0]))
				break
			}
		}
	}
}

// heldWith is a tightening or slackening step held with another lock.
func (c *proving) heldWith(i int, id engine.LockID) Mend {
	label := message.F("Hold with %s", c.lock(id))
	switch a := c.Page.Steps[i].Action.(type) {
	case *step.Slacken:
		n := *a
		n.Hold = id
		return c.change(i, label, &n)
	case *step.Tighten:
		n := *a
		n.Hold = id
		return c.change(i, label, &n)
	}
	return Mend{}
}

func rollersStay(c *proving) {
	if c.house.Rollers != finding.AlwaysRenewed {
		return
	}
	c.RouteParts(func(k, loop, fit int) {
		p := &c.Index.Sheet.Parts[k]
		if p.Policy != engine.WhileThere && p.Policy != engine.NewIfFoundSo || c.Run.Last().Parts[k].Fresh || !c.RenewsLoop(loop) {
			return
		}
		var m Mend
		for i := range c.Page.Steps {
			if a, ok := c.Page.Steps[i].Action.(*step.Refit); ok && slices.Equal(a.Parts, []engine.PartID{p.ID}) && !a.New {
				n := *a
				n.New = true
				m = c.change(i, message.F("Fit the new %s", c.part(p.ID)), &n)
			}
		}
		c.find(message.F("The old %s stays under the new %s", p.Name, c.Index.Sheet.Loops[loop].Name), message.F("House rule: tensioners and rollers are always renewed with it. They are as old as it was."), []int{fit}, m)
	})
}

func usedBelt(c *proving) {
	if c.house.UsedBelt != finding.NeverBack {
		return
	}
	each(c, func(i int, e virtual.Laid) {
		l := c.Index.LoopAt(e.Loop)
		if l < 0 || c.Index.Sheet.Loops[l].Kind != engine.Belt || c.RenewsLoop(l) {
			return
		}
		a, ok := c.Page.Steps[i].Action.(*step.Fit)
		if p := c.Index.Part(c.Index.Sheet.Loops[l].Part); p != nil && p.Policy == engine.AlwaysNew {
			return // its sheet says so, and another rule does
		}
		var m Mend
		if ok {
			n := *a
			n.New = true
			m = c.change(i, message.F("Fit a new one"), &n)
		}
		c.find(message.F("%s lays the old %s", c.num(i), c.loop(e.Loop)), message.F("House rule: a belt that has run never goes back."), []int{i}, m)
	})
}

func thenTurns(c *proving) {
	at := c.Fits()
	if at < 0 || c.house.ThenTurns <= 0 {
		return
	}
	at = max(at, c.lastFromStop())
	end := c.Start()
	if c.partOfJob() && (c.leftSlack() || c.leftUnproved()) {
		return
	}
	last := -1 // the last look after the first turns
	for i := at + 1; i < end && i < len(c.Run.Steps); i++ {
		if looks(c.Run.Steps[i].Events) && float64(c.Turned(at, i))/360 >= float64(c.house.MinTurns)-0.1 {
			if last < 0 {
				last = i
			}
			if after := float64(c.Turned(last, i)) / 360; i > last && after >= float64(c.house.ThenTurns)-0.1 {
				return
			}
		}
	}
	if last < 0 {
		return // not turned, or not looked at: other rules say so
	}
	n := message.F("House rule: %s, a look, and then %s more before the last look.", turns(float64(c.house.MinTurns)), turns(float64(c.house.ThenTurns)))
	c.find(message.F("The engine is not turned again after what step %d shows", c.no(last)), n, []int{last})
}

// looks reports whether something was looked at, or tried and went in.
func looks(events []virtual.Event) bool {
	return slices.ContainsFunc(events, func(e virtual.Event) bool {
		switch e.(type) {
		case virtual.MarkStood, virtual.Looked, virtual.MetStop, virtual.TensionSeen:
			return true
		}
		return false
	})
}

func vagueWord(c *proving) {
	for i := range c.Page.Steps {
		s := &c.Page.Steps[i]
		texts := []string{s.Wording, s.Note}
		if d, ok := s.Action.(*step.Do); ok {
			texts = append(texts, d.Text)
		}
		for _, k := range s.Cautions {
			texts = append(texts, k.Text)
		}
		for _, v := range c.house.Vague {
			if slices.ContainsFunc(texts, func(t string) bool { return says(t, v) }) {
				c.find(message.F("%s says “%s”", c.num(i), v), message.F("The house does not write that: it leaves the instruction to whoever reads it. Say how much, how far or until when."), []int{i})
			}
		}
	}
}

// says reports whether a text has a word or phrase, whole, however it is written.
func says(text, phrase string) bool {
	text, phrase = strings.Join(strings.Fields(strings.ToLower(text)), " "), strings.Join(strings.Fields(strings.ToLower(phrase)), " ")
	if phrase == "" {
		return false
	}
	for at := 0; ; {
		k := strings.Index(text[at:], phrase)
		if k < 0 {
			return false
		}
		k += at
		before, after := []rune(text[:k]), []rune(text[k+len(phrase):])
		if (len(before) == 0 || !letter(before[len(before)-1])) && (len(after) == 0 || !letter(after[0])) {
			return true
		}
		at = k + len(phrase)
	}
}

func letter(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || r == '-' }

// fixedByPaint reports whether a house that paints and does not move has a shaft's own marks
// painted before step i, and nothing throws it there.
func (c *proving) fixedByPaint(i int, id engine.ShaftID) bool {
	return c.house.TakingOff == finding.WithPaint && !c.Thrown(i, id) && slices.ContainsFunc(c.Run.Before(i).Paints, func(p virtual.Paint) bool {
		w := c.Index.Wheel(p.Wheel)
		return w != nil && w.Shaft == id
	})
}

// backOnto reports whether a turn backwards comes onto a stop that was passed, in a house that
// meets stops so.
func (c *proving) backOnto(i int, by unit.Angle) bool {
	a, ok := c.Page.Steps[i].Action.(*step.Turn)
	return ok && c.house.Meeting == finding.PassAndBack && a.Onto != "" && float64(by) <= c.house.PassBy+1e-6
}
