package pageproof

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/facts"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// startRules run the page on an engine that is found elsewhere in its cycle.
var startRules = finding.Family[*proving]{
	{ID: "start-position", Family: "locks and turning", Severity: finding.Blocks, Reads: finding.Starts, Check: startPosition,
		Doc: "a page that works on the one stroke and not on the other"},
	{ID: "not-every-start", Family: "locks and turning", Severity: finding.ShouldFix, Reads: finding.Starts, Check: notEveryStart,
		Doc: "a page trusted from positions it was never tried from"},
}

// mostStarts bounds the positions that are tried: a drive that comes home later
// is tried at its first ones, both strokes among them.
const mostStarts = 24

// Tried says on what a page is proved: from how many positions, through how many
// ways where a step fails, on how many kinds of engine.
func Tried(x *engine.Index, p *procedure.Procedure) string {
	c := &proving{Facts: facts.Facts{Index: x}}
	n := min(c.Starts(), mostStarts)
	out := "Run from the one position its engine can be found in"
	if n > 1 {
		out = fmt.Sprintf("Run from %d positions its engine may be found in", n)
	}
	if k := len(p.Failing()); k == 1 {
		out += ", through what is done when a step fails"
	} else if k > 1 {
		out += fmt.Sprintf(", through %d ways where a step fails", k)
	}
	if cells, _ := p.Cells(x.Sheet); len(cells) > 1 {
		out += fmt.Sprintf(", on %d kinds of engine", len(cells))
	}
	return out + "."
}

// notEveryStart says where the positions an engine can be found in are more than
// are tried.
func notEveryStart(c *proving) {
	if n := c.Starts(); n > mostStarts && c.LooksAtPosition() {
		c.find(message.F("The page is tried from %d of %d positions the engine may be found in", mostStarts, n), message.F("Its drive is all home again only after that many turns. Marks that tell the stroke make it come out from any of them."), nil)
	}
}

// gone is a way that was gone through, and its run.
type gone struct {
	w *procedure.Path
	t *virtual.Trace
}

// from is the page gone through on an engine found elsewhere, once.
func (c *proving) from(start int64) gone {
	g, ok := c.elsewhere[start]
	if !ok {
		g.w, g.t = c.whole.Go(c.Index, start, c.car)
		if c.elsewhere == nil {
			c.elsewhere = map[int64]gone{}
		}
		c.elsewhere[start] = g
	}
	return g
}

// failure is a step that does not come out from some positions; step is its place
// in the whole page.
type failure struct {
	step int
	missed
	from []int64
}

// missed is what does not come out: a lock that will not go in, or a mark that stands
// away.
type missed struct {
	lock    engine.LockID
	mark    engine.MarkID
	wheel   engine.WheelID
	shaft   engine.ShaftID
	degrees float64
}

// missedBy is what an event says does not come out, false for any other.
func missedBy(e virtual.Event) (missed, bool) {
	switch e := e.(type) {
	case virtual.WouldNotGoIn:
		return missed{lock: e.Lock, shaft: e.Shaft, degrees: float64(e.Degrees)}, true
	case virtual.MarkAway:
		return missed{mark: e.Mark, wheel: e.Wheel, shaft: e.Shaft, degrees: float64(e.Degrees)}, true
	}
	return missed{}, false
}

// tries is what was tried at which step of the whole page.
type tries struct {
	step  int
	lock  engine.LockID
	mark  engine.MarkID
	wheel engine.WheelID
}

func (m *missed) at(step int) tries { return tries{step, m.lock, m.mark, m.wheel} }

// startPosition runs the page from every other position and finds what comes
// out from some of them only.
func startPosition(c *proving) {
	n := min(c.Starts(), mostStarts)
	if n < 2 || !c.LooksAtPosition() {
		return
	}
	base := map[tries]bool{}
	for i := range c.Run.Steps {
		for _, e := range c.Run.Steps[i].Events {
			if m, ok := missedBy(e); ok {
				base[m.at(c.place(i))] = true
			}
		}
	}
	var failures []failure
	bad := map[int64]bool{}
	for start := int64(1); start < n; start++ {
		run := c.from(start)
		for k := range run.t.Steps {
			i := run.w.Place(k)
			for _, e := range run.t.Steps[k].Events {
				m, ok := missedBy(e)
				if !ok || base[m.at(i)] {
					continue
				}
				bad[start] = true
				at := slices.IndexFunc(failures, func(f failure) bool { return f.at(f.step) == m.at(i) })
				if at < 0 {
					at = len(failures)
					failures = append(failures, failure{step: i, missed: m})
				}
				if !slices.Contains(failures[at].from, start) {
					failures[at].from = append(failures[at].from, start)
				}
			}
		}
	}
	if len(failures) == 0 {
		return
	}
	slices.SortStableFunc(failures, func(a, b failure) int { return a.step - b.step })
	f := failures[0]
	what := message.F("the %s stands away", c.looked(virtual.MarkAway{Mark: f.mark, Wheel: f.wheel}))
	if f.lock != "" {
		what = message.F("the %s will not go in", c.lock(f.lock))
	}
	mends := c.fromEverywhere(f)
	why := message.F("Found %s elsewhere in its cycle, the engine has its %s %s° away there.", turns(float64(f.from[0])), c.shaft(f.shaft), tidy(math.Abs(f.degrees)))
	if more := len(failures) - 1; more > 0 {
		why = why.And(message.F(" %d more %s after it.", more, map[bool]message.Text{true: message.F("thing follows"), false: message.F("things follow")}[more == 1]))
	}
	c.startsFrom = nil
	for s := int64(0); s < n; s++ {
		if bad[s] {
			c.startsFrom = append(c.startsFrom, s)
		}
	}
	c.findAt(message.F("Step %d works from %d of %d %s: %s", c.noWhole(f.step), n-int64(len(bad)), n, map[bool]message.Text{true: message.F("strokes"), false: message.F("positions")}[n == 2], what), why, []step.ID{c.whole.Steps[f.step].ID}, mends...)
}

// fromEverywhere offers to turn, before what fails, until marks stand that tell
// where the engine is: those of the shaft that stands away beside the ones that
// are turned to now.
func (c *proving) fromEverywhere(f failure) []Mend {
	shafts := []engine.ShaftID{f.shaft}
	if l := c.Index.Lock(f.lock); l != nil {
		shafts = l.Holds
	}
	at := slices.IndexFunc(c.Page.Steps, func(s step.Step) bool { return s.ID == c.whole.Steps[f.step].ID })
	if at < 0 {
		return nil // it is done only when another step fails
	}
	out := c.ifNot(at)
	for k := range c.Index.Sheet.Marks {
		m := &c.Index.Sheet.Marks[k]
		if m.Kind != engine.TimingMark || !slices.Contains(shafts, c.Index.MarkShaft(m)) {
			continue
		}
		for i := at; i >= 0; i-- {
			a, ok := c.Page.Steps[i].Action.(*step.Turn)
			if !ok || !a.Crank() {
				continue
			}
			n := *a
			switch {
			case a.To == "" && a.Onto == "":
				n.To, n.Turns, n.Degrees = m.ID, 0, unit.Quantity{}
				out = append(out, c.change(i, message.F("Turn to the %s", m.Name), &n))
			case a.To != "" && a.To != m.ID && !slices.Contains(a.Also, m.ID):
				n.Also = append(slices.Clone(a.Also), m.ID)
				out = append(out, c.change(i, message.F("Turn until the %s stands too", m.Name), &n))
			default:
				continue
			}
			break
		}
		for i := range c.Page.Steps {
			if c.Page.Steps[i].Action.Verb() == "lock" {
				out = append(out, c.before(i, &step.Turn{Way: c.Index.Sheet.Running, To: m.ID, Short: c.HasStop()}))
				break
			}
		}
	}
	return out
}

// ifNot offers to say, where step i fails, that the crank is turned on and the
// step tried again, as often as it takes to meet every position.
func (c *proving) ifNot(i int) []Mend {
	s := c.Page.Steps[i]
	if c.trying || !s.CanFail() || s.IfNot || len(c.whole.Branch(c.place(i))) > 0 {
		return nil
	}
	var out []Mend
	n := int(min(c.Starts(), mostStarts))
	for _, more := range []int{1, 2, 3} {
		if n <= more {
			break
		}
		again := s
		again.Again = &step.Again{Times: min((n+more-1)/more-1, step.MostTimes)}
		on := step.Step{ID: c.freshID(s.ID), Phase: s.Phase, IfNot: true, Action: &step.Turn{Turns: float64(more), Way: c.Index.Sheet.Running}}
		for _, h := range on.Hazards(c.Index) {
			on.Cautions = append(on.Cautions, step.CautionFor(h))
		}
		out = append(out, finding.MendOf(message.F("If not, %s more and again", turns(float64(more))), []procedure.Edit{
			{Op: procedure.Replace, Step: &again}, {Op: procedure.Insert, After: s.ID, Step: &on}}))
	}
	return out
}
