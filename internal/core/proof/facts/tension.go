package facts

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// TouchedLast is the last step that let go or set a tensioner, −1 for none.
func (c *Facts) TouchedLast(k int) int {
	for i := len(c.Run.Steps) - 1; i >= 0; i-- {
		was, is := c.Run.Before(i).Tensioners[k].Now, c.Run.Steps[i].After.Tensioners[k].Now
		if is != was && (is == virtual.Working || is == virtual.Set) {
			return i
		}
	}
	return -1
}

// AtStop is the last step that took a tensioner to its stop, −1 for none.
func (c *Facts) AtStop(k int) int {
	for i := len(c.Run.Steps) - 1; i >= 0; i-- {
		if !c.Run.Before(i).Tensioners[k].Stop && c.Run.Steps[i].After.Tensioners[k].Stop {
			return i
		}
	}
	return -1
}

// TensionSeen reports whether a step behind one looks at a tensioner: its pointer, a
// reading, or words that speak of it.
func (c *Facts) TensionSeen(ten *engine.Tensioner, from int) bool {
	for i := from + 1; i < len(c.Run.Steps); i++ {
		for _, e := range c.Run.Steps[i].Events {
			if e == (virtual.TensionSeen{Tensioner: ten.ID}) {
				return true
			}
		}
		switch a := c.Page.Steps[i].Action.(type) {
		case *step.Measure:
			if c.reads(a, ten) {
				return true
			}
		case *step.Do:
			if speaksOf(a.Text, ten) {
				return true
			}
		case *step.Check:
			if speaksOf(a.That, ten) {
				return true
			}
		}
	}
	return false
}

// reads reports whether a measurement is a look at a tensioner: of its kind of value, or
// of its loop, or named after it.
func (c *Facts) reads(a *step.Measure, ten *engine.Tensioner) bool {
	if l := c.Index.Loop(a.Loop); l != nil {
		return l.Tensions(ten.ID)
	}
	for _, v := range c.ValuesOf(ten) {
		if v.Kind() == a.Value.Kind() && a.Value.Kind() != unit.KindLength {
			return true
		}
	}
	return speaksOf(" "+a.What+" ", ten)
}

// speaksOf reports whether words speak of a tensioner, its pin or the tension.
func speaksOf(text string, ten *engine.Tensioner) bool {
	text = strings.ToLower(text)
	return strings.Contains(text, strings.ToLower(ten.Name)) || strings.Contains(text, "tension") || strings.Contains(text, " pin ")
}

// LastSeen is the last step after at that looks at a tensioner; the end where
// none does.
func (c *Facts) LastSeen(ten *engine.Tensioner, at int) int {
	for i := len(c.Page.Steps) - 1; i > at; i-- {
		if c.TensionSeen(ten, i-1) {
			return i
		}
	}
	return len(c.Page.Steps)
}

// LoopOnAt reports whether the loop of a tensioner is on after a step.
func (c *Facts) LoopOnAt(id engine.TensionerID, i int) bool {
	for l := range c.Index.Sheet.Loops {
		if c.Index.Sheet.Loops[l].Tensions(id) {
			return c.Run.Steps[i].After.Loops[l].On
		}
	}
	return false
}

// Lead is the place of the battery's lead on the sheet, −1 for none.
func (c *Facts) Lead() int {
	return slices.IndexFunc(c.Index.Sheet.Parts, func(p engine.Part) bool { return p.Hazard == engine.HazardBattery })
}

// IsLead reports whether a step connects the battery again.
func (c *Facts) IsLead(i int) bool {
	k := c.Lead()
	return k >= 0 && c.Run.Before(i).Parts[k].Off && !c.Run.Steps[i].After.Parts[k].Off
}

// FirstWork is the first step that is not preparation.
func (c *Facts) FirstWork() int {
	for i := range c.Page.Steps {
		if c.Page.Steps[i].Phase != "prepare" {
			return i
		}
	}
	return 0
}

// LastWork is the last step before the first start that changes the engine.
func (c *Facts) LastWork(but int) int {
	last := but
	for i := range min(c.Start(), len(c.Run.Steps)) {
		if i != but && c.Does(i).Works() {
			last = max(last, i)
		}
	}
	return last
}

// AllLocked reports whether every shaft of a loop that a lock can hold is held
// while the loop is laid: then it lies right or not at all.
func (c *Facts) AllLocked(l *engine.Loop, fit int) bool {
	for _, s := range l.Route {
		w := c.Index.Wheel(s.Wheel)
		if w == nil || w.Shaft == "" || c.Index.ShaftAt(w.Shaft) < 0 {
			continue
		}
		if !c.Run.Fixed(c.Run.Before(fit), w.Shaft) {
			return false
		}
	}
	return true
}

// FixedWheels reports whether every toothed wheel of a loop is keyed to its
// shaft.
func (c *Facts) FixedWheels(l *engine.Loop) bool {
	for _, s := range l.Route {
		if w := c.Index.Wheel(s.Wheel); w != nil && w.Teeth > 0 && w.Mount != engine.Idle && !w.Fast() {
			return false
		}
	}
	return true
}

// OfLoop reports whether a reading is of a loop that a tensioner tensions.
func (c *Facts) OfLoop(a *step.Measure, tensioner int) bool {
	if a.Loop == "" {
		return true
	}
	l := c.Index.Loop(a.Loop)
	return l != nil && l.Tensions(c.Index.Sheet.Tensioners[tensioner].ID)
}

// Sets calls f for every tensioner that a step sets.
func (c *Facts) Sets(f func(i int, a *step.Set, t *engine.Tensioner)) {
	for i := range c.Page.Steps {
		a, ok := c.Page.Steps[i].Action.(*step.Set)
		if !ok || a.Phaser != "" {
			continue
		}
		for _, id := range a.All() {
			if t := c.Index.Tensioner(id); t != nil {
				f(i, a, t)
			}
		}
	}
}

// LastSet reports whether no later step sets a tensioner again.
func (c *Facts) LastSet(i int, id engine.TensionerID) bool {
	for k := i + 1; k < len(c.Page.Steps); k++ {
		if a, ok := c.Page.Steps[k].Action.(*step.Set); ok && slices.Contains(a.All(), id) {
			return false
		}
	}
	return true
}

// ValuesOf are the values the sheet gives a tensioner to be set to.
func (c *Facts) ValuesOf(t *engine.Tensioner) []unit.Quantity {
	out := []unit.Quantity{}
	if t.Frequency != nil && !t.Frequency.Note.IsZero() {
		out = append(out, t.Frequency.Note)
	}
	for _, q := range []unit.Quantity{t.Length, t.Hold, t.Gap} {
		if !q.IsZero() {
			out = append(out, q)
		}
	}
	return out
}

// Measured are the values the sheet gives for what is measured in a kind of
// unit: notes and lengths of its tensioners.
func (c *Facts) Measured(kind unit.Kind) []unit.Quantity {
	var out []unit.Quantity
	for k := range c.Index.Sheet.Tensioners {
		for _, v := range c.ValuesOf(&c.Index.Sheet.Tensioners[k]) {
			if v.Kind() == kind {
				out = append(out, v)
			}
		}
	}
	return out
}

// OfTensioner reports whether what is measured speaks of a tensioner or its
// plunger.
func (c *Facts) OfTensioner(what string) bool {
	what = strings.ToLower(what)
	if strings.Contains(what, "plunger") || strings.Contains(what, "tensioner") {
		return true
	}
	for k := range c.Index.Sheet.Tensioners {
		if strings.Contains(what, strings.ToLower(c.Index.Sheet.Tensioners[k].Name)) {
			return true
		}
	}
	return false
}
