package pageproof

import (
	"fmt"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
)

// listRules look at what a step lists.
var listRules = finding.Family[*proving]{
	{ID: "named-twice", Family: "wording", Severity: finding.ShouldFix, Reads: finding.Written, Check: namedTwice,
		Doc: "a list that names one thing twice: another was meant"},
	{ID: "fit-order", Family: "loop and tension", Severity: finding.Blocks, Reads: finding.Written, Check: fitOrder,
		Doc: "a belt laid in an order that leaves its slack on the pulling run"},
	{ID: "fit-order-owed", Family: "loop and tension", Severity: finding.ShouldFix, Reads: finding.Written, Check: fitOrderOwed,
		Doc: "a belt or chain begun at the wrong wheel: over the lip of the last it does not go"},
	{ID: "not-renewed-so", Family: "tools and parts", Severity: finding.Look, Reads: finding.Written, Check: newThatGoesBack,
		Doc: "a part called new that the sheet says goes back"},
	{ID: "no-such-seal", Family: "tools and parts", Severity: finding.ShouldFix, Reads: finding.Written, Check: noSuchSeal,
		Doc: "a new seal where there is none"},
	{ID: "names-nothing", Family: "wording", Severity: finding.Blocks, Reads: finding.Written, Check: namesNothing,
		Doc: "a step that names none of what its verb is for"},
}

func twice[T ~string](ids []T) (T, bool) {
	for i, id := range ids {
		if slices.Contains(ids[:i], id) {
			return id, true
		}
	}
	return "", false
}

func namedTwice(c *proving) {
	for i := range c.Page.Steps {
		if r, again := step.Twice(c.Page.Steps[i].Action); again {
			c.find(message.F("%s names the %s twice", c.num(i), message.Named(r.Path(), c.Index.Name(r))), message.F("Another one may be meant."), []int{i})
		}
	}
}

// fitOrder holds the order in which a loop is laid against its route: every
// wheel of the list on the loop, each once, one after another along it, and the
// tensioner last, so that the slack gathers there.
func fitOrder(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Fit)
		l := (*engine.Loop)(nil)
		if ok {
			l = c.Index.Loop(a.Loop)
		}
		if l == nil || len(a.Order) == 0 {
			continue
		}
		var m Mend
		if good := c.goodOrder(l, a.Order[0]); good != nil {
			n := *a
			n.Order = good
			m = c.change(i, message.F("Along the %s, the tensioner last", l.Name), &n)
		}
		switch what, why := c.orderTrouble(l, a); {
		case what != "":
			c.find(message.F("%s %s", c.num(i), what), message.As(why), []int{i}, m)
		case c.leftOut(l, a) != "":
			c.find(message.F("%s does not lead the %s over the %s", c.num(i), l.Name, c.leftOut(l, a)), message.F("It is a wheel of its route."), []int{i}, m)
		}
	}
}

// fitOrderOwed holds where a loop is begun, and that its slack is named, where the sheet
// says at which wheel it is laid first; and that wheels with a lip come before the others.
func fitOrderOwed(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Fit)
		l := (*engine.Loop)(nil)
		if ok {
			l = c.Index.Loop(a.Loop)
		}
		if l != nil && !c.begunElsewhere(i, a, l) {
			c.lipLate(i, a, l)
		}
	}
}

// begunElsewhere finds a loop that is not laid as its sheet says where to begin.
func (c *proving) begunElsewhere(i int, a *step.Fit, l *engine.Loop) bool {
	if c.Index.Wheel(l.Starts) == nil {
		return false
	}
	n := *a
	n.Order = c.goodOrder(l, l.Starts)
	if t := c.Index.Tensioner(l.Tensioner); t != nil && n.Slack == "" {
		n.Slack = t.Wheel
	}
	m := c.change(i, message.F("From the %s on", c.wheel(l.Starts)), &n)
	switch {
	case len(a.Order) == 0:
		c.find(message.F("%s does not say in which order the %s is laid", c.num(i), c.loop(l.ID)), message.F("The sheet has it laid on the %s first.", c.wheel(l.Starts)), []int{i}, m)
	case a.Order[0] != l.Starts:
		c.find(message.F("%s lays the %s on the %s first", c.num(i), c.loop(l.ID), c.wheel(a.Order[0])), message.F("The sheet has it laid on the %s first.", c.wheel(l.Starts)), []int{i}, m)
	case a.Slack != n.Slack:
		n.Order = a.Order
		c.find(message.F("%s does not say where the slack of the %s is left", c.num(i), c.loop(l.ID)), message.F("It belongs to the run that its tensioner takes up."), []int{i}, c.change(i, message.F("Slack at the %s", c.wheel(n.Slack)), &n))
	default:
		return false
	}
	return true
}

// lipLate finds a loop that is laid on a wheel with a lip after one without.
func (c *proving) lipLate(i int, a *step.Fit, l *engine.Loop) {
	for k, id := range a.Order {
		w := c.Index.Wheel(id)
		if w == nil || !w.Lip || k == 0 {
			continue
		}
		if before := c.Index.Wheel(a.Order[k-1]); before != nil && !before.Lip && before.Mount != engine.Rail {
			n := *a
			n.Order = c.goodOrder(l, id)
			c.find(message.F("%s lays the %s on the %s after the %s", c.num(i), c.loop(l.ID), c.wheel(id), c.wheel(before.ID)), message.F("Its lip has to be passed while there is slack: it comes first."), []int{i}, c.change(i, message.F("From the %s on", c.wheel(id)), &n))
			return
		}
	}
}

func (c *proving) wheelName(id engine.WheelID) string {
	if w := c.Index.Wheel(id); w != nil {
		return w.Name
	}
	return string(id)
}

func (c *proving) orderTrouble(l *engine.Loop, a *step.Fit) (what, why string) {
	at := func(id engine.WheelID) int {
		return slices.IndexFunc(l.Route, func(s engine.Stop) bool { return s.Wheel == id })
	}
	if id, again := twice(a.Order); again {
		return fmt.Sprintf("leads the %s over the %s twice", l.Name, c.wheelName(id)), "Another wheel is meant."
	}
	var places []int
	for _, id := range a.Order {
		if at(id) < 0 {
			return fmt.Sprintf("leads the %s over the %s, which it does not run over", l.Name, c.wheelName(id)), "Its route is on the engine sheet."
		}
		places = append(places, at(id))
	}
	if !runsAlong(places, len(l.Route)) {
		return fmt.Sprintf("leads the %s over its wheels out of their order", l.Name), "It is laid from wheel to wheel along its route, one way or the other."
	}
	if t := c.Index.Tensioner(l.Tensioner); t != nil && t.Wheel != "" && c.laidEarly(l, a.Order, t.Wheel) {
		return fmt.Sprintf("lays the %s on the %s before the last wheel", l.Name, t.Name), "Laid last, the tensioner’s run takes up all the slack; laid earlier, it stays on another run."
	}
	return "", ""
}

// laidEarly reports whether a wheel is laid after the tensioner's that is not between it
// and the driver on the slack side: there the loop may be laid last.
func (c *proving) laidEarly(l *engine.Loop, order []engine.WheelID, tensioner engine.WheelID) bool {
	n := len(l.Route)
	at := func(id engine.WheelID) int {
		return slices.IndexFunc(l.Route, func(s engine.Stop) bool { return s.Wheel == id })
	}
	from := 0
	if d := c.Index.Driver(c.Index.LoopAt(l.ID)); d >= 0 {
		from = max(at(c.Index.Sheet.Wheels[d].ID), 0)
	}
	travel := func(id engine.WheelID) int { return (at(id) - from + n) % n }
	k := slices.Index(order, tensioner)
	return k >= 0 && slices.ContainsFunc(order[k+1:], func(id engine.WheelID) bool {
		return travel(id) == 0 || travel(id) > travel(tensioner)
	})
}

// runsAlong reports whether places follow one another round a ring of n, one way
// or the other, with some left out.
func runsAlong(places []int, n int) bool {
	if len(places) < 3 {
		return true
	}
	for _, way := range []int{1, n - 1} {
		travel := 0
		for i := 1; i < len(places); i++ {
			travel += ((places[i]-places[i-1])*way%n + n) % n
		}
		if travel < n {
			return true
		}
	}
	return false
}

// leftOut is a wheel of the route that the order does not name, of the kinds it
// names: toothed wheels always, rollers where it names one, rails where it names
// one.
func (c *proving) leftOut(l *engine.Loop, a *step.Fit) string {
	kind := func(w *engine.Wheel) int {
		switch {
		case w.Mount == engine.Rail:
			return 2
		case w.Teeth > 0 && w.Mount != engine.Idle: // a toothed idler times nothing
			return 0
		}
		return 1
	}
	named := [3]bool{true}
	for _, id := range a.Order {
		if w := c.Index.Wheel(id); w != nil {
			named[kind(w)] = true
		}
	}
	out, rollers := "", 0
	for _, s := range l.Route {
		w := c.Index.Wheel(s.Wheel)
		if w == nil || !named[kind(w)] || slices.Contains(a.Order, s.Wheel) {
			continue
		}
		if kind(w) == 0 {
			return w.Name
		}
		out = w.Name
		rollers++
	}
	if rollers > 1 {
		return "" // a page that names some of the rollers names them as landmarks
	}
	return out
}

// goodOrder is the route from a wheel on, the way round that ends at the
// tensioner; nil where neither does.
func (c *proving) goodOrder(l *engine.Loop, from engine.WheelID) []engine.WheelID {
	t := c.Index.Tensioner(l.Tensioner)
	start := slices.IndexFunc(l.Route, func(s engine.Stop) bool { return s.Wheel == from })
	if start < 0 || t != nil && from == t.Wheel {
		start = 0
	}
	n := len(l.Route)
	if n == 0 {
		return nil
	}
	for _, way := range []int{1, n - 1} {
		var out []engine.WheelID
		for k := range n {
			out = append(out, l.Route[(start+k*way)%n].Wheel)
		}
		if t == nil || t.Wheel == "" || out[n-1] == t.Wheel {
			return out
		}
	}
	return nil
}

func newThatGoesBack(c *proving) {
	for i := range c.Page.Steps {
		parts, _ := c.Page.Steps[i].NewParts(c.Index)
		for _, id := range parts {
			if p := c.Index.Part(id); p != nil && p.Policy == engine.Reuse {
				c.find(message.F("%s calls the %s new; the sheet says it goes back", c.num(i), p.Name), message.F("Where it is always renewed, the sheet should say so."), []int{i})
				break
			}
		}
	}
}

func noSuchSeal(c *proving) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Refit)
		if !ok || !a.NewSeal {
			continue
		}
		if slices.ContainsFunc(a.Parts, func(id engine.PartID) bool { p := c.Index.Part(id); return p != nil && p.Seal != "" }) {
			continue
		}
		n := *a
		n.NewSeal = false
		c.find(message.F("%s asks for a new seal, and the sheet has none for it", c.num(i)), message.F("Either the seal is missing on the sheet, or another part is meant."), []int{i}, c.change(i, message.F("Without it"), &n))
	}
}

// namesNothing finds steps whose verb takes things and that name none.
func namesNothing(c *proving) {
	for i := range c.Page.Steps {
		if a, ok := c.Page.Steps[i].Action.(*step.Wait); ok && a.For.IsZero() && a.Until == "" {
			c.find(message.F("%s does not say how long", c.num(i)), message.F("A wait without a time ends at once."), []int{i})
		}
	}
}
