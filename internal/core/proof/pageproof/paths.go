package pageproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/facts"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// pathRules hold the steps for when another one fails, and those for some engines
// only, against the rest of the page.
var pathRules = finding.Family[*proving]{
	{ID: "if-not-of-nothing", Family: "when it fails", Severity: finding.Blocks, Reads: finding.Written, Check: ifNotOfNothing,
		Doc: "steps for when a step fails that is not there, or cannot fail"},
	{ID: "if-not-given-up", Family: "when it fails", Severity: finding.Blocks, Reads: finding.Written, Check: ifNotGivenUp,
		Doc: "a page that goes on after a failed look without looking again"},
	{ID: "if-not-same", Family: "when it fails", Severity: finding.Blocks, Reads: finding.Written, Check: ifNotSame,
		Doc: "a step that is tried again with nothing changed"},
	{ID: "branch-in-vain", Family: "when it fails", Severity: finding.ShouldFix, Reads: finding.Starts, Check: branchInVain,
		Doc: "the wrong sprocket slackened when a look fails: the error stays, and the page goes round in a circle"},
	{ID: "again-astray", Family: "when it fails", Severity: finding.Blocks, Reads: finding.Written, Check: againAstray,
		Doc: "a way back that leads nowhere"},
	{ID: "for-no-engine", Family: "applicability", Severity: finding.Blocks, Reads: finding.Written, Check: forNoEngine,
		Doc: "a step for engines the page is not for, or that the sheet does not know"},
}

// find makes the findings of a page, their mends untried. t is the run of a plain
// page where there is one.
func find(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, house finding.House) []Finding {
	f := newFinder(x, p, t, house, false)
	f.straight()
	f.words()
	f.ways()
	f.starts()
	f.engines()
	f.tools()
	return f.found()
}

// finder looks at one page by and by: what costs a run is looked at last, and no run
// is made twice.
type finder struct {
	// way is the page as it should go on the engine it is shown for, whole the page as
	// it is written: one and the same where it is plain.
	way, whole *proving
}

func newFinder(x *engine.Index, p *procedure.Procedure, t *virtual.Trace, house finding.House, trying bool) *finder {
	c := &proving{Facts: facts.Facts{Index: x, Page: p, Run: t}, raw: x, whole: p, house: house, rules: families, trying: trying}
	if p.Plain() {
		if t == nil {
			c.Run = virtual.Run(x, p)
		}
		return &finder{c, c}
	}
	whole := *c
	whole.Run = nil
	c.car = p.First(x.Sheet)
	if one, err := c.forCar(c.car); err == nil {
		c.Index = one
	}
	w, run := p.Go(c.Index, 0, c.car)
	c.Page, c.at, c.Run = w.Procedure, w.At, run
	return &finder{c, &whole}
}

// straight looks at the page as it should go, and at what is written.
func (f *finder) straight() {
	if f.way == f.whole {
		f.way.through(finding.Run, finding.Written)
		return
	}
	f.way.through(finding.Run)
	f.whole.through(finding.Written)
}

// words looks at what people wrote themselves.
func (f *finder) words() { f.whole.through(finding.Words) }

// ways looks at what is done when a step fails.
func (f *finder) ways() { f.way.branches() }

// starts looks at the page on an engine that is found elsewhere in its cycle.
func (f *finder) starts() { f.way.through(finding.Starts) }

// engines looks at the page on the other kinds of engine.
func (f *finder) engines() { f.way.through(finding.Engines) }

// tools looks at the page with the tools that may stand in for those of the sheet.
func (f *finder) tools() { f.way.standIns() }

// found is what was found so far.
func (f *finder) found() []Finding {
	out := slices.Clone(f.way.out)
	if f.way != f.whole {
		out = append(out, f.whole.out...)
	}
	return ordered(out, f.whole.Page)
}

// branches takes every way through a step that fails, and finds what is amiss on
// it and not on the page as it should go.
func (c *proving) branches() {
	had := subjects(c.out)
	for _, k := range c.whole.Failing() {
		branch := c.whole.Branch(k)
		if slices.ContainsFunc(c.Page.Steps, func(s step.Step) bool { return s.ID == c.whole.Steps[branch[0]].ID }) {
			continue // it was gone through already
		}
		way, ok := c.failing(k, branch)
		if !ok {
			continue
		}
		one := &proving{Facts: facts.Facts{Index: c.Index, Page: way.w.Procedure, Run: way.t}, raw: c.raw, at: way.w.At, whole: c.whole, car: c.car, house: c.house, rules: c.rules, trying: c.trying}
		c.elsewise(one, had, message.F("If step %d fails: ", c.noWhole(k)))
	}
}

// elsewise adds, once each, what another run of the page shows and what was not found before, with
// when it is so.
func (c *proving) elsewise(one *proving, had counts, when message.Text) {
	one.through(finding.Run)
	said := map[finding.Subject]bool{}
	for _, f := range one.out {
		what := f.Subject()
		if had[what] > 0 || said[what] {
			continue
		}
		said[what] = true
		f.Says(when)
		c.out = append(c.out, f)
	}
}

// failing is a way through the steps for when one fails: from a position in which
// it does fail and comes out afterwards, or, where it fails from none of them, as
// if it had. False where another rule speaks of it: it never comes out, or is for
// other engines.
func (c *proving) failing(k int, branch []int) (gone, bool) {
	fails := false
	for start := int64(1); start < min(c.Starts(), mostStarts); start++ {
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
	if g, right := c.amiss(k, branch); right {
		return g, true
	}
	w := c.whole.Along(c.car, k)
	if !slices.ContainsFunc(w.At, func(i int) bool { return slices.Contains(branch, i) }) {
		return gone{}, false
	}
	return gone{w, virtual.Run(c.Index, w)}, true
}

// amiss is a way through the steps for when one fails on an engine where it does: the shaft
// that it looks at stands off, by a tooth, or by what a wheel that floats may be clamped off.
// True where what is done then brings the shaft right.
func (c *proving) amiss(k int, branch []int) (gone, bool) {
	for _, off := range c.couldStandOff(&c.whole.Steps[k]) {
		if g, right := c.offBy(k, branch, off.shaft, off.by); right {
			return g, true
		}
	}
	return gone{}, false
}

// off is a shaft that stands off its place.
type off struct {
	shaft engine.ShaftID
	by    unit.Angle
}

// offBy is the way through the steps for when step k fails with a shaft off; true where
// it comes right.
func (c *proving) offBy(k int, branch []int, id engine.ShaftID, by unit.Angle) (gone, bool) {
	once := false
	w, t := c.whole.GoAmiss(c.Index, 0, c.car, func(i int, m *virtual.Machine) {
		if i == k && !once {
			once = true
			m.Slip(id, by)
		}
	})
	g := gone{w, t}
	if !slices.ContainsFunc(w.At, func(i int) bool { return slices.Contains(branch, i) }) {
		return gone{}, false
	}
	last := lastOf(w.At, k)
	return g, last >= 0 && !t.Steps[last].Failed()
}

// couldStandOff are the shafts that a step looks at and that may stand off their place
// there, and by how much.
func (c *proving) couldStandOff(s *step.Step) []off {
	a, ok := s.Action.(*step.Check)
	if !ok || a.Found != "" {
		return nil
	}
	var out []off
	var ids []engine.ShaftID
	for _, id := range a.Locks {
		if l := c.Index.Lock(id); l != nil {
			ids = append(ids, l.Holds...)
		}
	}
	for _, id := range a.Marks {
		if m := c.Index.Mark(id); m != nil && m.Kind == engine.TimingMark {
			ids = append(ids, c.Index.MarkShaft(m))
		}
	}
	for _, id := range ids {
		k := c.Index.ShaftAt(id)
		if k < 0 || id == engine.CrankID || len(c.Index.Drive(k).Loops) == 0 {
			continue
		}
		by := c.ToothOf(k)
		for _, w := range c.Index.Drive(k).Wheels {
			if !c.Index.Sheet.Wheels[w].Fast() {
				by = 4 // more than any tool's play
			}
		}
		out = append(out, off{id, by})
	}
	return out
}

// branchInVain finds what is done when a look at a shaft fails and does not bring that
// shaft right, though it works at the drive.
func branchInVain(c *proving) {
	for _, k := range c.whole.Failing() {
		branch := c.whole.Branch(k)
		works := false
		for _, i := range branch {
			switch a := c.whole.Steps[i].Action.(type) {
			case *step.Slacken:
				works = works || slices.ContainsFunc(a.Fasteners, func(id engine.FastenerID) bool { return len(c.Index.ClampedBy(max(c.Index.FastenerAt(id), 0))) > 0 })
			case *step.TakeOff:
				works = true
			}
		}
		if !works || slices.ContainsFunc(branch, func(i int) bool { _, free := c.whole.Steps[i].Action.(*step.Do); return free }) || c.whole.Steps[k].Again == nil {
			continue
		}
		all := c.couldStandOff(&c.whole.Steps[k])
		if len(all) == 0 {
			continue
		}
		if _, right := c.amiss(k, branch); right {
			continue
		}
		if g, _ := c.offBy(k, branch, all[0].shaft, all[0].by); g.t != nil {
			names := make([]engine.ShaftID, len(all))
			for i := range all {
				names[i] = all[i].shaft
			}
			c.find(message.F("What is done when step %d fails does not bring the %s right", c.noWhole(k), c.shafts(names)), message.F("With it %s° off, the step fails again after it.", tidy(float64(all[0].by))), []int{k})
		}
	}
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
	for i := range c.Page.Steps {
		s := c.Page.Steps[i]
		if !s.IfNot || i > 0 && c.Page.Steps[i-1].IfNot {
			continue
		}
		s.IfNot = false
		m := c.put(message.F("Always do it"), s)
		switch {
		case i == 0:
			c.find(message.F("%s is for when the step above it fails, and there is none", c.num(i)), message.F("Nobody will ever do it."), []int{i}, m)
		case !c.Page.Steps[i-1].CanFail():
			c.find(message.F("%s is for when step %d fails, which tries nothing", c.num(i), c.no(i-1)), message.F("What goes in, what stands and what is measured can come out otherwise; that step cannot."), []int{i, i - 1}, m)
		}
	}
}

// ifNotGivenUp finds branches that go on with the next step: what failed is never
// tried again.
func ifNotGivenUp(c *proving) {
	for _, k := range c.whole.Failing() {
		s := c.Page.Steps[k]
		if s.Again != nil || c.TriedIn(k) {
			continue
		}
		var mends []Mend
		for n := 1; n <= 3; n++ {
			again := s
			again.Again = &step.Again{Times: n}
			mends = append(mends, c.put(message.F("Try it again, %s", en.Often(n)), again))
		}
		c.find(message.F("When step %d fails, it is never tried again", c.no(k)), message.F("The page goes on with what it was to find out still open."), []int{k}, mends...)
	}
}

// ifNotSame finds branches that change nothing on the engine before the step is
// tried again.
func ifNotSame(c *proving) {
	for _, k := range c.whole.Failing() {
		if c.Page.Steps[k].Again == nil || c.Page.Steps[k].Again.From != "" && c.Page.Steps[k].Again.From != c.Page.Steps[k].ID {
			continue
		}
		does := slices.ContainsFunc(c.Page.Branch(k), func(i int) bool {
			v := step.SpecOf(c.Page.Steps[i].Action.Verb())
			return v == nil || !v.Looks()
		})
		if !does {
			c.find(message.F("Step %d is tried again with nothing changed", c.no(k)), message.F("It will fail as it did. Say what is to be done first."), []int{k})
		}
	}
}

func againAstray(c *proving) {
	for i := range c.Page.Steps {
		s := c.Page.Steps[i]
		if s.Again == nil {
			continue
		}
		here := s
		here.Again = &step.Again{Times: s.Again.Times}
		from := c.Page.At(s.Again.From)
		switch {
		case len(c.Page.Branch(i)) == 0:
			here.Again = nil
			c.find(message.F("%s is to be tried again when it fails, and nothing is done before", c.num(i)), message.F("Say what is done when it fails, or remove the condition."), []int{i}, c.put(message.F("Remove the condition"), here))
		case s.Again.From != "" && from < 0:
			c.find(message.F("%s leads back to a step that is not there", c.num(i)), message.F("Nobody can go on from it."), []int{i}, c.put(message.F("Back to the step itself"), here))
		case from > i:
			c.find(message.F("%s leads on to step %d, past what failed", c.num(i), c.no(from)), message.F("What failed would never be tried again."), []int{i, from}, c.put(message.F("Back to the step itself"), here))
		case from >= 0 && c.Page.Steps[from].IfNot:
			c.find(message.F("%s leads back to step %d, which is for when another fails", c.num(i), c.no(from)), message.F("It is gone on from a step that is always done."), []int{i, from}, c.put(message.F("Back to the step itself"), here))
		case s.Again.Times < 0 || s.Again.Times > step.MostTimes:
			c.find(message.F("%s is to be tried %d times more", c.num(i), s.Again.Times), message.F("At most %d; who gets no further stops and asks.", step.MostTimes), []int{i})
		}
	}
}

// byNobody finds values by case that leave an engine of the page without one, or
// that no engine has.
func (c *proving) byNobody(i int, cells []engine.Car) {
	s := c.Page.Steps[i]
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
			c.find(message.F("%s has %s for engines of %s", c.num(i), map[bool]message.Text{true: message.F("no value"), false: message.F("two values")}[n == 0], car), message.F("Every engine the page is for has one value."), []int{i})
			return
		}
	}
}

func forNoEngine(c *proving) {
	cells, _ := c.Page.Cells(c.raw.Sheet)
	for i := range c.Page.Steps {
		s := c.Page.Steps[i]
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
			c.find(message.F("%s is for %s, and the page is for none of those", c.num(i), s.When), message.F("Nobody will ever do it."), []int{i}, c.put(message.F("For every engine"), all))
		case hits == len(cells) && len(cells) > 0:
			c.findAs(finding.Look, message.F("%s is for %s, which every engine of the page is", c.num(i), s.When), message.F("It needs no saying."), []int{i}, c.put(message.F("For every engine"), all))
		}
	}
}
