package proof

import (
	"slices"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/say"
	"inklatch/internal/core/step"
)

// paintRules find own marks that tell nothing.
var paintRules = []Rule{
	{"paint-missing", "turns and proof", Blocks, "own marks trusted that nobody painted, or that the new belt does not have", paintMissing},
	{"paint-moved", "turns and proof", Blocks, "own marks across a belt read after it has travelled", paintMoved},
	{"paint-tells-nothing", "turns and proof", ShouldFix, "a mark painted on a plain roller, or across a belt where it does not run: it tells nothing", paintTellsNothing},
}

func paintMissing(c *proving) {
	c.each(bench.PaintMissing, func(i int, e *bench.Event) {
		switch {
		case e.Name == "new":
			c.find(say.F("%s looks for paint marks on a new %s, to which nobody copied them", c.num(i), c.loop(e.Loop)), say.F("Count the teeth between the marks on the old one, and copy them before it is laid."), []int{i}, c.before(max(c.fitStep(e.Loop), 0), &step.Paint{Copy: true, Loop: e.Loop}))
		case e.Name == "off":
			c.find(say.F("%s looks for paint marks across the %s, which is off", c.num(i), c.loop(e.Loop)), say.F("They stand only while it lies."), []int{i})
		case !c.whole.Begins.Whole():
			c.findAs(ShouldFix, say.F("%s uses paint marks that no step of this page makes", c.num(i)), say.F("The page before has to paint them: keep this with that reason."), []int{i})
		default:
			c.find(say.F("%s uses paint marks that no step makes", c.num(i)), say.F("Paint them before the drive is opened, while it still stands right."), []int{i})
		}
	})
}

// fitStep is the last step that lays a loop, −1 for none.
func (c *proving) fitStep(id engine.LoopID) int {
	for i := range slices.Backward(c.p.Steps) {
		if f, ok := c.p.Steps[i].Action.(*step.Fit); ok && f.Loop == id {
			return i
		}
	}
	return -1
}

func paintMoved(c *proving) {
	c.each(bench.PaintMoved, func(i int, e *bench.Event) {
		c.find(say.F("%s looks at the paint marks across the %s after turning", c.num(i), c.loop(e.Loop)), say.F("They belong to the fitting and have moved on with it."), []int{i})
	})
}

func paintTellsNothing(c *proving) {
	c.each(bench.Painted, func(i int, e *bench.Event) {
		w := c.x.Wheel(e.Wheel)
		if w == nil {
			return
		}
		a, _ := c.p.Steps[i].Action.(*step.Paint)
		var m Mend
		if a != nil && len(a.Wheels) > 1 {
			n := *a
			n.Wheels = slices.DeleteFunc(slices.Clone(a.Wheels), func(id engine.WheelID) bool { return id == e.Wheel })
			m = c.change(i, "Leave the "+w.Name+" out", &n)
		}
		l := c.x.Loop(e.Loop)
		switch {
		case l != nil && !slices.ContainsFunc(l.Route, func(s engine.Stop) bool { return s.Wheel == e.Wheel }):
			c.find(say.F("%s paints a mark across the %s and the %s, over which it does not run", c.num(i), l.Name, w.Name), say.F("Its route is on the engine sheet."), []int{i}, m)
		case w.Teeth == 0:
			c.find(say.F("%s paints a mark on the %s, which has no teeth", c.num(i), w.Name), say.F("It stands anywhere: nothing holds it to the timing."), []int{i}, m)
		}
	})
}
