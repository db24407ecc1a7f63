package pageproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// pathRules hold the steps for when another one fails, and those for some engines
// only, against the rest of the page.
var pathRules = []Rule{
	{"if-not-of-nothing", "when it fails", Blocks, "steps for when a step fails that is not there, or cannot fail", ifNotOfNothing},
	{"if-not-given-up", "when it fails", Blocks, "a page that goes on after a failed look without looking again", ifNotGivenUp},
	{"if-not-same", "when it fails", Blocks, "a step that is tried again with nothing changed", ifNotSame},
	{"again-astray", "when it fails", Blocks, "a way back that leads nowhere", againAstray},
	{"for-no-engine", "applicability", Blocks, "a step for engines the page is not for, or that the sheet does not know", forNoEngine},
}

// onPage are the families that look at the page as it is written. All others look
// at what is done on one engine, one way through it at a time.
var onPage = [][]Rule{listRules, toolRules, cautionRules, wordRules, pathRules}

// ofPage parts families into those that look at a way and those that look at the
// page.
func ofPage(rules [][]Rule) (way, page [][]Rule) {
	for _, f := range rules {
		if slices.ContainsFunc(onPage, func(g []Rule) bool { return &g[0] == &f[0] }) {
			page = append(page, f)
		} else {
			way = append(way, f)
		}
	}
	return way, page
}

// find makes the findings of some families of rules, their mends untried: on the
// page as it is gone through, then with each step failing that says what is done
// then. t is the run of a plain page where there is one.
func find(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, house House, trying bool, rules [][]Rule) []Finding {
	f := newFinder(x, p, t, house, trying)
	if f.plain {
		return f.c.look(rules)
	}
	f.straight(rules)
	f.ways(rules)
	return f.found()
}

// finder looks at one page by and by: what costs a run is looked at last, and no run
// is made twice.
type finder struct {
	c     *proving
	whole *proving
	plain bool
}

func newFinder(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, house House, trying bool) *finder {
	c := &proving{x: x, raw: x, p: p, whole: p, t: t, house: house, trying: trying}
	f := &finder{c: c, whole: &proving{x: x, raw: x, p: p, whole: p, house: house, trying: trying}, plain: p.Plain()}
	if f.plain {
		if t == nil {
			c.t = virtual.Run(x, p)
		}
		return f
	}
	c.car = p.First(x.Sheet)
	if one, err := c.forCar(c.car); err == nil {
		c.x = one
	}
	w, run := p.Go(c.x, 0, c.car)
	c.p, c.at, c.t = w.Procedure, w.At, run
	return f
}

// straight looks at the page as it should go, and at what is written.
func (f *finder) straight(rules [][]Rule) {
	if f.plain {
		f.c.run(rules)
		return
	}
	way, page := ofPage(rules)
	f.c.run(slices.DeleteFunc(slices.Clone(way), func(r []Rule) bool { return &r[0] == &caseRules[0] }))
	f.whole.run(page)
}

// ways looks at what is done when a step fails, and at the other kinds of engine.
func (f *finder) ways(rules [][]Rule) {
	if f.plain {
		return
	}
	way, _ := ofPage(rules)
	f.c.branches(slices.DeleteFunc(slices.Clone(way), func(r []Rule) bool { return &r[0] == &caseRules[0] }))
	f.c.run(slices.DeleteFunc(way, func(r []Rule) bool { return &r[0] != &caseRules[0] }))
}

// found is what was found so far.
func (f *finder) found() []Finding {
	return ordered(append(slices.Clone(f.c.out), f.whole.out...), f.whole.p)
}

// branches takes every way through a step that fails, and finds what is amiss on
// it and not on the page as it should go.
func (c *proving) branches(rules [][]Rule) {
	had := subjects(c.out)
	for _, k := range c.whole.Failing() {
		branch := c.whole.Branch(k)
		if slices.ContainsFunc(c.p.Steps, func(s step.Step) bool { return s.ID == c.whole.Steps[branch[0]].ID }) {
			continue // it was gone through already
		}
		way, ok := c.through(k, branch)
		if !ok {
			continue
		}
		one := &proving{x: c.x, raw: c.raw, p: way.w.Procedure, at: way.w.At, whole: c.whole, car: c.car, t: way.t, house: c.house, trying: c.trying}
		one.run(slices.DeleteFunc(slices.Clone(rules), func(f []Rule) bool { return &f[0] == &startRules[0] }))
		said := map[string]bool{}
		for _, f := range one.out {
			what := subject(&f)
			if had[what] > 0 || said[what] {
				continue
			}
			said[what] = true
			f.says(message.F("If step %d fails: ", k+1))
			c.out = append(c.out, f)
		}
	}
}

// through is a way through the steps for when one fails: from a position in which
// it does fail and comes out afterwards, or, where it fails from none of them, as
// if it had. False where another rule speaks of it: it never comes out, or is for
// other engines.
func (c *proving) through(k int, branch []int) (gone, bool) {
	fails := false
	for start := int64(1); start < min(c.starts(), mostStarts); start++ {
		g := c.from(start)
		if !slices.ContainsFunc(g.w.At, func(i int) bool { return slices.Contains(branch, i) }) {
			continue
		}
		fails = true
		if last := lastOf(g.w.At, k); last < 0 || !g.t.Steps[last].Failed() {
			return g, true
		}
	}
	if fails {
		return gone{}, false
	}
	w := c.whole.Along(c.car, k)
	if !slices.ContainsFunc(w.At, func(i int) bool { return slices.Contains(branch, i) }) {
		return gone{}, false
	}
	return gone{w, virtual.Run(c.x, w)}, true
}

func lastOf(at []int, k int) int {
	for i, v := range slices.Backward(at) {
		if v == k {
			return i
		}
	}
	return -1
}

func ifNotOfNothing(c *proving) {
	for i := range c.p.Steps {
		s := c.p.Steps[i]
		if !s.IfNot || i > 0 && c.p.Steps[i-1].IfNot {
			continue
		}
		s.IfNot = false
		m := c.put("Always do it", s)
		switch {
		case i == 0:
			c.find(message.F("%s is for when the step above it fails, and there is none", c.num(i)), message.F("Nobody will ever do it."), []int{i}, m)
		case !c.p.Steps[i-1].CanFail():
			c.find(message.F("%s is for when step %d fails, which tries nothing", c.num(i), i), message.F("What goes in, what stands and what is measured can come out otherwise; that step cannot."), []int{i, i - 1}, m)
		}
	}
}

// ifNotGivenUp finds branches that go on with the next step: what failed is never
// tried again.
func ifNotGivenUp(c *proving) {
	for _, k := range c.whole.Failing() {
		s := c.p.Steps[k]
		if s.Again != nil || c.triedIn(k) {
			continue
		}
		var mends []Mend
		for n := 1; n <= 3; n++ {
			again := s
			again.Again = &step.Again{Times: n}
			mends = append(mends, c.put("Try it again, "+step.Often(n), again))
		}
		c.find(message.F("When step %d fails, it is never tried again", k+1), message.F("The page goes on with what it was to find out still open."), []int{k}, mends...)
	}
}

// triedIn reports whether the steps for when step k fails try the same again.
func (c *proving) triedIn(k int) bool {
	return slices.ContainsFunc(c.p.Branch(k), func(i int) bool {
		return step.SameAction(c.p.Steps[i].Action, c.p.Steps[k].Action)
	})
}

// ifNotSame finds branches that change nothing on the engine before the step is
// tried again.
func ifNotSame(c *proving) {
	for _, k := range c.whole.Failing() {
		if c.p.Steps[k].Again == nil || c.p.Steps[k].Again.From != "" && c.p.Steps[k].Again.From != c.p.Steps[k].ID {
			continue
		}
		does := slices.ContainsFunc(c.p.Branch(k), func(i int) bool {
			v := step.SpecOf(c.p.Steps[i].Action.Verb())
			return v == nil || !v.Looks()
		})
		if !does {
			c.find(message.F("Step %d is tried again with nothing changed", k+1), message.F("It will fail as it did. Say what is to be done first."), []int{k})
		}
	}
}

func againAstray(c *proving) {
	for i := range c.p.Steps {
		s := c.p.Steps[i]
		if s.Again == nil {
			continue
		}
		here := s
		here.Again = &step.Again{Times: s.Again.Times}
		from := c.p.At(s.Again.From)
		switch {
		case len(c.p.Branch(i)) == 0:
			here.Again = nil
			c.find(message.F("%s is to be tried again when it fails, and nothing is done before", c.num(i)), message.F("Say what is done when it fails, or remove the condition."), []int{i}, c.put("Leave it out", here))
		case s.Again.From != "" && from < 0:
			c.find(message.F("%s leads back to a step that is not there", c.num(i)), message.F("Nobody can go on from it."), []int{i}, c.put("Back to the step itself", here))
		case from > i:
			c.find(message.F("%s leads on to step %d, past what failed", c.num(i), from+1), message.F("What failed would never be tried again."), []int{i, from}, c.put("Back to the step itself", here))
		case from >= 0 && c.p.Steps[from].IfNot:
			c.find(message.F("%s leads back to step %d, which is for when another fails", c.num(i), from+1), message.F("It is gone on from a step that is always done."), []int{i, from}, c.put("Back to the step itself", here))
		case s.Again.Times < 0 || s.Again.Times > step.MostTimes:
			c.find(message.F("%s is to be tried %d times more", c.num(i), s.Again.Times), message.F("At most %d; who gets no further stops and asks.", step.MostTimes), []int{i})
		}
	}
}

// byNobody finds values by case that leave an engine of the page without one, or
// that no engine has.
func (c *proving) byNobody(i int, cells []engine.Car) {
	s := c.p.Steps[i]
	whens := s.Whens()
	if len(whens) == 0 {
		return
	}
	for _, w := range whens {
		for _, o := range append(slices.Clone(w.With), w.Without...) {
			if !slices.Contains(c.raw.Sheet.Options, o) {
				c.find(message.F("%s has a value for engines by “%s”, an option the sheet does not have", c.num(i), o), message.F("Nobody can tell whether the value is for the engine in front of them."), []int{i})
			}
		}
		if !slices.ContainsFunc(cells, w.Covers) {
			c.find(message.F("%s has a value for %s, and the page is for none of those", c.num(i), w), message.F("Nobody will ever use it."), []int{i})
		}
	}
	for _, car := range cells {
		n := 0
		for _, w := range whens {
			if w.Covers(car) {
				n++
			}
		}
		if n != 1 {
			c.find(message.F("%s has %s for engines of %s", c.num(i), map[bool]string{true: "no value", false: "two values"}[n == 0], car), message.F("Every engine the page is for has one value."), []int{i})
			return
		}
	}
}

func forNoEngine(c *proving) {
	cells, _ := c.p.Cells(c.raw.Sheet)
	for i := range c.p.Steps {
		s := c.p.Steps[i]
		if s.When.All() {
			c.byNobody(i, cells)
			continue
		}
		for _, o := range append(slices.Clone(s.When.With), s.When.Without...) {
			if !slices.Contains(c.raw.Sheet.Options, o) {
				c.find(message.F("%s is for engines by “%s”, an option the sheet does not have", c.num(i), o), message.F("Nobody can tell whether the step is for the engine in front of them."), []int{i})
			}
		}
		hits := 0
		for _, car := range cells {
			if s.When.Covers(car) {
				hits++
			}
		}
		all := s
		all.When = engine.When{}
		switch {
		case hits == 0:
			c.find(message.F("%s is for %s, and the page is for none of those", c.num(i), s.When), message.F("Nobody will ever do it."), []int{i}, c.put("For every engine", all))
		case hits == len(cells) && len(cells) > 0:
			c.findAs(Look, message.F("%s is for %s, which every engine of the page is", c.num(i), s.When), message.F("It needs no saying."), []int{i}, c.put("For every engine", all))
		}
	}
}
