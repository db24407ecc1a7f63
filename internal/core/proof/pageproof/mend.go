package pageproof

import (
	"fmt"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
)

// before inserts a step before step i, with the cautions its hazards ask for.
func (c *proving) before(i int, a step.Action) Mend {
	after, phase := step.ID(""), step.Phase("close")
	if i > 0 {
		after = c.Page.Steps[i-1].ID
		phase = c.Page.Steps[i-1].Phase
	}
	if i < len(c.Page.Steps) {
		phase = c.Page.Steps[i].Phase
		// Along a way where a step fails that step itself is not there: just before means on
		// the whole page, among the steps for its failing.
		if k := c.whole.At(c.Page.Steps[i].ID); k > 0 {
			after = c.whole.Steps[k-1].ID
		}
	}
	return c.insert(after, phase, a)
}

// after inserts a step after step i; −1 is the top.
func (c *proving) after(i int, a step.Action) Mend {
	if i < 0 {
		return c.before(0, a)
	}
	return c.insert(c.Page.Steps[i].ID, c.Page.Steps[i].Phase, a)
}

func (c *proving) insert(after step.ID, phase step.Phase, a step.Action) Mend {
	if c.trying {
		return Mend{}
	}
	s := step.Step{ID: c.freshID(after), Phase: phase, Action: a}
	if next := c.whole.At(after) + 1; after != "" && next < len(c.whole.Steps) {
		s.IfNot = c.whole.Steps[next].IfNot // among the steps for when one fails it is one of them
	}
	for _, h := range s.Hazards(c.Index) {
		if !s.Warns(h) {
			s.Cautions = append(s.Cautions, step.CautionFor(h))
		}
	}
	return finding.MendOf(c.adds(after, a), []procedure.Edit{{Op: procedure.Insert, After: after, Step: &s}})
}

// adds says where a step goes that is inserted after another.
func (c *proving) adds(after step.ID, a step.Action) message.Text {
	next := 0
	if after != "" {
		next = c.whole.At(after) + 1
	}
	if next >= len(c.whole.Steps) {
		return message.F("Add “%s” at the end", en.Typed(c.Index, a))
	}
	return message.F("Add “%s” before step %s", en.Typed(c.Index, a), c.noWhole(next))
}

// sequence inserts steps one after another before step i, as one mend.
func (c *proving) sequence(i int, as ...step.Action) Mend {
	if c.trying {
		return Mend{}
	}
	var m Mend
	says := message.Text{}
	for k, a := range as {
		one := c.before(i, a)
		if k > 0 {
			one.Edits[0].After = m.Edits[k-1].Step.ID
			one.Edits[0].Step.ID = step.ID(fmt.Sprintf("%s.%d", m.Edits[0].Step.ID, k))
		} else {
			says = one.Says
		}
		m.Edits = append(m.Edits, one.Edits...)
	}
	if n := len(as) - 1; n > 0 {
		says = says.And(message.F(" and %d more", n))
	}
	return finding.MendOf(says, m.Edits)
}

// and joins mends into one, under the label of the first.
func and(m Mend, others ...Mend) Mend {
	for _, o := range others {
		now := map[step.ID]step.ID{} // ids that another part of the mend may have too
		for _, e := range o.Edits {
			if id, ok := now[e.After]; ok {
				e.After = id
			}
			if e.Op == procedure.Insert && e.Step != nil {
				s := *e.Step
				s.ID += step.ID(fmt.Sprintf("-%d", len(m.Edits)))
				now[e.Step.ID] = s.ID
				e.Step = &s
			}
			m.Edits = append(m.Edits, e)
		}
	}
	return m
}

// backOn are the steps that put a part back: with a new seal where it has one,
// and its fasteners to the sheet's values.
func (c *proving) backOn(p *engine.Part) []step.Action {
	out := []step.Action{&step.Refit{Parts: []engine.PartID{p.ID}, New: p.Policy == engine.AlwaysNew, NewSeal: p.Seal != ""}}
	for _, id := range p.Held {
		f := c.Index.Fastener(id)
		if f == nil {
			continue
		}
		if f.SingleUse {
			out = append(out, &step.Renew{Fasteners: []engine.FastenerID{id}})
		}
		if len(f.Spec) > 0 {
			out = append(out, c.tightening(id))
		}
	}
	return out
}

// openFirst takes off what stands before something at step i: earlier, where the
// page takes it off later anyway; otherwise there, and back on before the end.
func (c *proving) openFirst(i int, id engine.PartID) Mend {
	if c.trying {
		return Mend{}
	}
	k := c.Index.PartAt(id)
	if k < 0 {
		return Mend{}
	}
	for n := i + 1; n < len(c.Run.Steps); n++ {
		if !c.Run.Before(n).Parts[k].Off && c.Run.Steps[n].After.Parts[k].Off {
			return c.moveBefore(n, i)
		}
	}
	p := &c.Index.Sheet.Parts[k]
	off := []step.Action{}
	for _, id := range p.Held {
		if f := c.Index.Fastener(id); f != nil && (f.OnShaft != "" || f.HoldWith != "") {
			off = append(off, &step.Slacken{Fasteners: []engine.FastenerID{id}, Hold: f.HoldWith})
		}
	}
	m := c.sequence(i, append(off, &step.Remove{Parts: []engine.PartID{id}})...)
	return and(m, c.sequence(c.BackAt(p), c.backOn(p)...))
}

// freshID makes an id for an inserted step that is the same each time the same
// procedure is proved and is not taken.
func (c *proving) freshID(after step.ID) step.ID {
	base := string(after)
	if base == "" {
		base = "top"
	}
	if cut := strings.Index(base, "+"); cut > 0 {
		base = base[:cut]
	}
	base = base[:min(len(base), 56)] // an id has 64 letters at most
	for n := 1; ; n++ {
		id := step.ID(fmt.Sprintf("%s+%d", base, n))
		if c.whole.At(id) < 0 {
			return id
		}
	}
}

// change replaces step i's action.
func (c *proving) change(i int, label message.Text, a step.Action) Mend {
	if c.trying {
		return Mend{}
	}
	s := c.Page.Steps[i]
	s.Action = a
	return c.put(label, s)
}

func (c *proving) put(label message.Text, s step.Step) Mend {
	if c.trying {
		return Mend{}
	}
	s.Accept = nil
	return finding.MendOf(label, []procedure.Edit{{Op: procedure.Replace, Step: &s}})
}

// moveBefore takes step from to just before step i.
func (c *proving) moveBefore(from, i int) Mend {
	if c.trying {
		return Mend{}
	}
	e := procedure.Edit{Op: procedure.Move, ID: c.Page.Steps[from].ID, Phase: c.Page.Steps[i].Phase}
	if i > 0 {
		e.After = c.Page.Steps[i-1].ID
	}
	return finding.MendOf(message.F("Move step %s up, before step %s", c.no(from), c.no(i)), []procedure.Edit{e})
}

func (c *proving) drop(i int) Mend {
	if c.trying {
		return Mend{}
	}
	return finding.MendOf(message.F("Remove step %s", c.no(i)), []procedure.Edit{{Op: procedure.Remove, ID: c.Page.Steps[i].ID}})
}

func (c *proving) header(label message.Text, f func(*procedure.Header)) Mend {
	if c.trying {
		return Mend{}
	}
	h := c.Page.Header
	f(&h)
	return finding.MendOf(label, []procedure.Edit{{Op: procedure.SetHeader, Header: &h}})
}

func list[T ~string](names []T) string {
	s := make([]string, len(names))
	for i, n := range names {
		s[i] = string(n)
	}
	if len(s) < 2 {
		return strings.Join(s, "")
	}
	return strings.Join(s[:len(s)-1], ", ") + " and " + s[len(s)-1]
}

func setYears(y engine.Years) func(*procedure.Header) {
	return func(h *procedure.Header) { h.Applies.Years = y }
}
