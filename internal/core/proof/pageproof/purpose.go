package pageproof

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
)

// purposeRules hold what the page is for, as its header says it, against what it
// does.
var purposeRules = finding.Family[*proving]{
	{ID: "task-not-done", Family: "wording", Severity: finding.Blocks, Check: taskNotDone,
		Doc: "a page whose own purpose is left undone: the old belt, the old setting stays"},
	{ID: "check-undoes", Family: "wording", Severity: finding.Blocks, Check: checkUndoes,
		Doc: "a page to check the timing only that undoes it"},
	{ID: "check-sees-nothing", Family: "turns and proof", Severity: finding.Blocks, Check: checkSeesNothing,
		Doc: "a page to check the timing that leaves a shaft unseen"},
	{ID: "task-unknown", Family: "wording", Severity: finding.Blocks, Check: taskUnknown,
		Doc: "a purpose that names something this engine does not have"},
}

func taskNotDone(c *proving) {
	t := &c.whole.Task
	for _, id := range t.Renews {
		k := c.Index.PartAt(id)
		if k < 0 {
			continue
		}
		loop := slices.IndexFunc(c.Index.Sheet.Loops, func(l engine.Loop) bool { return l.Part == id })
		if loop >= 0 && c.RenewsLoop(loop) || loop < 0 && c.Run.Last().Parts[k].Fresh {
			continue
		}
		var m Mend
		if loop >= 0 {
			m = c.renewLoop(loop)
		} else {
			m = c.refitNew(id)
		}
		c.find(message.F("The page is to renew the %s, and does not", c.part(id)), message.F("Its purpose says so."), nil, m)
	}
	for _, id := range t.Sets {
		if k := c.Index.TensionerAt(id); k >= 0 && !c.SetSomewhere(id) && (c.Index.Sheet.Tensioners[k].Method.Of().ByBolts || c.TouchedLast(k) < 0) {
			c.find(message.F("The page is to set the %s, and does not", c.tensioner(id)), message.F("Its purpose says so."), nil)
		}
	}
	for _, id := range t.Homes {
		if c.Index.WheelAt(id) >= 0 && !slices.ContainsFunc(c.Page.Steps, func(s step.Step) bool { a, ok := s.Action.(*step.Set); return ok && a.Phaser == id }) {
			c.find(message.F("The page is to bring the %s to its home stop, and does not", c.wheel(id)), message.F("Its purpose says so."), nil)
		}
	}
}

// refitNew makes the step that puts a part back put back a new one.
func (c *proving) refitNew(id engine.PartID) Mend {
	for i := range c.Page.Steps {
		if a, ok := c.Page.Steps[i].Action.(*step.Refit); ok && slices.Equal(a.Parts, []engine.PartID{id}) && !a.New {
			n := *a
			n.New = true
			return c.change(i, message.F("Refit a new one"), &n)
		}
	}
	return Mend{}
}

func checkUndoes(c *proving) {
	if !c.whole.Task.Checks {
		return
	}
	for i := range c.Run.Steps {
		was, is := c.Run.Before(i), &c.Run.Steps[i].After
		for l := range is.Loops {
			if was.Loops[l].On && !is.Loops[l].On {
				c.find(message.F("%s takes the %s off, and the page is to check only", c.num(i), c.Index.Sheet.Loops[l].Name), message.F("A page that undoes the timing is no check of it."), []int{i}, c.drop(i))
				return
			}
		}
		for w := range is.Free {
			if !was.Free[w] && is.Free[w] {
				c.find(message.F("%s lets the %s go on its shaft, and the page is to check only", c.num(i), c.wheel(c.Index.Sheet.Wheels[w].ID)), message.F("A page that undoes the timing is no check of it."), []int{i}, c.drop(i))
				return
			}
		}
	}
}

func checkSeesNothing(c *proving) {
	if !c.whole.Task.Checks {
		return
	}
	_, by, _ := c.Looks(-1)
	for k := range c.Index.Sheet.Shafts {
		s := &c.Index.Sheet.Shafts[k]
		if !s.Kind.IsCam() || by[k] {
			continue
		}
		lock, mark := c.ProofOf(k)
		var mends []Mend
		last := -1
		for i := range c.Run.Steps {
			if abs(c.Run.Steps[i].After.Crank-c.Run.Before(i).Crank) > 1 {
				last = i
			}
		}
		switch {
		case last < 0:
		case lock != "":
			mends = append(mends, c.after(c.HomeAgain(last), &step.Check{Locks: []engine.LockID{lock}}))
		case mark != "":
			mends = append(mends, c.after(c.HomeAgain(last), &step.Check{Marks: []engine.MarkID{mark}}))
		}
		c.find(message.F("The page is to check the timing, and nobody looks at the %s", s.Name), message.F("By a lock, or a mark that shows less than half a tooth."), nil, mends...)
	}
}

func taskUnknown(c *proving) {
	t := &c.whole.Task
	say := func(id string) {
		c.find(message.F("The purpose of the page names “%s”, which is not on the sheet of %s", id, c.Index.Sheet.Code), message.F("Choose it again among the things of this engine."), nil)
	}
	for _, id := range t.Renews {
		if c.Index.PartAt(id) < 0 {
			say(string(id))
		}
	}
	for _, id := range t.Sets {
		if c.Index.TensionerAt(id) < 0 {
			say(string(id))
		}
	}
	for _, id := range t.Homes {
		if w := c.Index.Wheel(id); w == nil || w.Mount != engine.Phaser {
			say(string(id))
		}
	}
}

// purposeNotMet holds a title that says renew against what the page renews.
func purposeNotMet(c *proving) {
	if !c.whole.Task.None() {
		return // what was chosen counts before the words of a title
	}
	title := strings.ToLower(c.Page.Title)
	if !strings.HasPrefix(title, "renew") && !strings.HasPrefix(title, "replace") || len(c.Page.Steps) == 0 {
		return
	}
	fresh, chain := false, false
	for l := range c.Index.Sheet.Loops {
		loop := &c.Index.Sheet.Loops[l]
		chain = chain || loop.Kind == engine.Chain
		renewed := c.RenewsLoop(l)
		fresh = fresh || renewed
		if titled(title, loop.Name) && !renewed {
			c.find(message.F("The page is to renew the %s, and does not", loop.Name), message.F("Its title says so."), nil, c.renewLoop(l))
			return
		}
	}
	if !fresh && (strings.Contains(title, "belt") || strings.Contains(title, "chain")) {
		c.find(message.F("The page is to renew a belt or chain, and renews none"), message.F("Its title says so."), nil)
	}
	for k := range c.Index.Sheet.Parts {
		p := &c.Index.Sheet.Parts[k]
		name := strings.ToLower(p.Name)
		for i := range c.Index.Sheet.Tensioners {
			if t := &c.Index.Sheet.Tensioners[i]; t.Part == p.ID && titled(title, t.Name) {
				name = strings.ToLower(t.Name)
			}
		}
		if p.Kind == engine.LoopPart || !titled(title, name) || c.Run.Last().Parts[k].Fresh {
			continue
		}
		c.find(message.F("The page is to renew the %s, and does not", p.Name), message.F("Its title says so."), nil)
	}
}

// titled reports whether a title names a thing by itself: “timing belt” and not
// the “timing belt tensioner”.
func titled(title, name string) bool {
	if strings.TrimSpace(name) == "" {
		return false
	}
	title, name = " "+title+" ", strings.ToLower(name)
	for at := 0; ; {
		i := strings.Index(title[at:], " "+name)
		if i < 0 {
			return false
		}
		at += i + 1 + len(name)
		rest := title[at:]
		if rest[0] != ' ' && !strings.ContainsRune(",.;:()", rune(rest[0])) {
			continue
		}
		next := strings.Fields(strings.Trim(rest, ",.;:() "))
		if len(next) == 0 || rest[0] != ' ' || slices.Contains([]string{"and", "with", "in", "on", "for", "of", "as", "at", "by", "from", "without", "or"}, next[0]) {
			return true
		}
	}
}

// renewLoop makes a fitting step fit a new loop.
func (c *proving) renewLoop(l int) Mend {
	for i := range c.Page.Steps {
		if f, ok := c.Page.Steps[i].Action.(*step.Fit); ok && c.Index.LoopAt(f.Loop) == l {
			n := *f
			n.New = true
			return c.change(i, message.F("Fit a new one"), &n)
		}
	}
	return Mend{}
}
