package proof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/say"
	"inklatch/internal/core/step"
)

// purposeRules hold what the page is for, as its header says it, against what it
// does.
var purposeRules = []Rule{
	{"task-not-done", "wording", Blocks, "a page whose own purpose is left undone: the old belt, the old setting stays", taskNotDone},
	{"check-undoes", "wording", Blocks, "a page to check the timing only that undoes it", checkUndoes},
	{"check-sees-nothing", "turns and proof", Blocks, "a page to check the timing that leaves a shaft unseen", checkSeesNothing},
	{"task-unknown", "wording", Blocks, "a purpose that names something this engine does not have", taskUnknown},
}

func taskNotDone(c *proving) {
	t := &c.whole.Task
	for _, id := range t.Renews {
		k := c.x.PartAt(id)
		if k < 0 {
			continue
		}
		loop := slices.IndexFunc(c.x.Sheet.Loops, func(l engine.Loop) bool { return l.Part == id })
		if loop >= 0 && c.renewsLoop(loop) || loop < 0 && c.t.Last().Parts[k].Fresh {
			continue
		}
		var m Mend
		if loop >= 0 {
			m = c.renewLoop(loop)
		} else {
			m = c.refitNew(id)
		}
		c.find(say.F("The page is to renew the %s, and does not", c.part(id)), say.F("Its purpose says so."), nil, m)
	}
	for _, id := range t.Sets {
		if k := c.x.TensionerAt(id); k >= 0 && !c.setSomewhere(id) && (c.x.Sheet.Tensioners[k].Method.ByBolts() || c.touchedLast(k) < 0) {
			c.find(say.F("The page is to set the %s, and does not", c.tensioner(id)), say.F("Its purpose says so."), nil)
		}
	}
	for _, id := range t.Homes {
		if c.x.WheelAt(id) >= 0 && !slices.ContainsFunc(c.p.Steps, func(s step.Step) bool { a, ok := s.Action.(*step.Set); return ok && a.Phaser == id }) {
			c.find(say.F("The page is to bring the %s to its home stop, and does not", c.x.NameOf("wheels", string(id))), say.F("Its purpose says so."), nil)
		}
	}
}

func (c *proving) setSomewhere(id engine.TensionerID) bool {
	return slices.ContainsFunc(c.p.Steps, func(s step.Step) bool { a, ok := s.Action.(*step.Set); return ok && slices.Contains(a.All(), id) })
}

// refitNew makes the step that puts a part back put back a new one.
func (c *proving) refitNew(id engine.PartID) Mend {
	for i := range c.p.Steps {
		if a, ok := c.p.Steps[i].Action.(*step.Refit); ok && slices.Equal(a.Parts, []engine.PartID{id}) && !a.New {
			n := *a
			n.New = true
			return c.change(i, "Refit a new one", &n)
		}
	}
	return Mend{}
}

func checkUndoes(c *proving) {
	if !c.whole.Task.Checks {
		return
	}
	for i := range c.t.Steps {
		was, is := c.t.Before(i), &c.t.Steps[i].After
		for l := range is.Loops {
			if was.Loops[l].On && !is.Loops[l].On {
				c.find(say.F("%s takes the %s off, and the page is to check only", c.num(i), c.x.Sheet.Loops[l].Name), say.F("A page that undoes the timing is no check of it."), []int{i}, c.drop(i))
				return
			}
		}
		for w := range is.Free {
			if !was.Free[w] && is.Free[w] {
				c.find(say.F("%s lets the %s go on its shaft, and the page is to check only", c.num(i), c.x.NameOf("wheels", string(c.x.Sheet.Wheels[w].ID))), say.F("A page that undoes the timing is no check of it."), []int{i}, c.drop(i))
				return
			}
		}
	}
}

func checkSeesNothing(c *proving) {
	if !c.whole.Task.Checks {
		return
	}
	_, by, _ := c.looks(-1)
	for k := range c.x.Sheet.Shafts {
		s := &c.x.Sheet.Shafts[k]
		if !s.Kind.IsCam() || by[k] {
			continue
		}
		lock, mark := c.proofOf(k)
		var mends []Mend
		last := -1
		for i := range c.t.Steps {
			if abs(c.t.Steps[i].After.Crank-c.t.Before(i).Crank) > 1 {
				last = i
			}
		}
		switch {
		case last < 0:
		case lock != "":
			mends = append(mends, c.after(c.homeAgain(last), &step.Check{Locks: []engine.LockID{lock}}))
		case mark != "":
			mends = append(mends, c.after(c.homeAgain(last), &step.Check{Marks: []engine.MarkID{mark}}))
		}
		c.find(say.F("The page is to check the timing, and nobody looks at the %s", s.Name), say.F("By a lock, or a mark that shows less than half a tooth."), nil, mends...)
	}
}

func taskUnknown(c *proving) {
	t := &c.whole.Task
	say := func(id string) {
		c.find(say.F("The purpose of the page names “%s”, which is not on the sheet of %s", id, c.x.Sheet.Code), say.F("Choose it again among the things of this engine."), nil)
	}
	for _, id := range t.Renews {
		if c.x.PartAt(id) < 0 {
			say(string(id))
		}
	}
	for _, id := range t.Sets {
		if c.x.TensionerAt(id) < 0 {
			say(string(id))
		}
	}
	for _, id := range t.Homes {
		if w := c.x.Wheel(id); w == nil || w.Mount != engine.Phaser {
			say(string(id))
		}
	}
}
