package pageproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/virtual"
)

// paintRules find own marks that tell nothing.
var paintRules = finding.Family[*proving]{
	{ID: "paint-missing", Family: "turns and proof", Severity: finding.Blocks, Check: paintMissing,
		Doc: "own marks trusted that nobody painted, or that the new belt does not have"},
	{ID: "paint-moved", Family: "turns and proof", Severity: finding.Blocks, Check: paintMoved,
		Doc: "own marks across a belt read after it has travelled"},
	{ID: "paint-tells-nothing", Family: "turns and proof", Severity: finding.ShouldFix, Check: paintTellsNothing,
		Doc: "a mark painted on a plain roller, or across a belt where it does not run: it tells nothing"},
}

func paintMissing(c *proving) {
	each(c, func(i int, e virtual.PaintMissing) {
		switch {
		case e.New:
			c.find(message.F("%s looks for paint marks on a new %s, to which nobody copied them", c.num(i), c.loop(e.Loop)), message.F("Count the teeth between the marks on the old one, and copy them before it is laid."), []int{i}, c.before(max(c.FitStep(e.Loop), 0), &step.Paint{Copy: true, Loop: e.Loop}))
		case e.Off:
			c.find(message.F("%s looks for paint marks across the %s, which is off", c.num(i), c.loop(e.Loop)), message.F("They stand only while it lies."), []int{i})
		case !c.whole.Begins.Whole():
			c.findAs(finding.ShouldFix, message.F("%s uses paint marks that no step of this page makes", c.num(i)), message.F("The page before has to paint them: keep this with that reason."), []int{i})
		default:
			c.find(message.F("%s uses paint marks that no step makes", c.num(i)), message.F("Paint them before the drive is opened, while it still stands right."), []int{i})
		}
	})
}

func paintMoved(c *proving) {
	each(c, func(i int, e virtual.PaintMoved) {
		c.find(message.F("%s looks at the paint marks across the %s after turning", c.num(i), c.loop(e.Loop)), message.F("They belong to the fitting and have moved on with it."), []int{i})
	})
}

func paintTellsNothing(c *proving) {
	each(c, func(i int, e virtual.Painted) {
		w := c.Index.Wheel(e.Wheel)
		if w == nil {
			return
		}
		a, _ := c.Page.Steps[i].Action.(*step.Paint)
		var m Mend
		if a != nil && len(a.Wheels) > 1 {
			n := *a
			n.Wheels = slices.DeleteFunc(slices.Clone(a.Wheels), func(id engine.WheelID) bool { return id == e.Wheel })
			m = c.change(i, message.F("Leave the %s out", w.Name), &n)
		}
		l := c.Index.Loop(e.Loop)
		switch {
		case l != nil && !slices.ContainsFunc(l.Route, func(s engine.Stop) bool { return s.Wheel == e.Wheel }):
			c.find(message.F("%s paints a mark across the %s and the %s, over which it does not run", c.num(i), l.Name, w.Name), message.F("Its route is on the engine sheet."), []int{i}, m)
		case w.Teeth == 0:
			c.find(message.F("%s paints a mark on the %s, which has no teeth", c.num(i), w.Name), message.F("It stands anywhere: nothing holds it to the timing."), []int{i}, m)
		}
	})
}
