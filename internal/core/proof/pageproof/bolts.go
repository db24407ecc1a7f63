package pageproof

import (
	"slices"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
)

// boltRules hold the torques of a page against what its bolts are made of, where the sheet
// does not say otherwise.
var boltRules = finding.Family[*proving]{
	{ID: "breaks-bolt", Family: "tightening", Severity: finding.Blocks, Check: breaksBolt,
		Doc: "a torque at which the bolt breaks, or that is a slip of the unit or of the decimal mark"},
	{ID: "odd-torque", Family: "tightening", Severity: finding.ShouldFix, Check: oddTorque,
		Doc: "a torque a bolt like this yields under, or that hardly holds anything, where the sheet gives none"},
}

// against calls f for every torque of a page that something speaks against, and that the
// sheet does not call wrong already: it gives none, or one that is as wrong.
func (c *proving) against(f func(i int, t *step.Tighten, of *engine.Fastener, b *bolt.Bolt, k int, v bolt.Verdict)) {
	c.Tightenings(func(i int, t *step.Tighten) {
		for _, id := range t.Fasteners {
			of := c.Index.Fastener(id)
			if of == nil {
				continue
			}
			b, known := of.Bolt()
			if b == nil {
				continue
			}
			for k := range t.Stages {
				low, high, ok := bolt.Ends(t.Stages[k].Torque)
				if !ok {
					continue
				}
				last := k == len(t.Stages)-1
				v := b.Judge(low, high, !last || t.To != step.ToFinal)
				switch {
				case v == bolt.Fine, v != bolt.BreaksIt && c.Index.IsPlug(id), v == bolt.SlackIt && (!known || len(of.Spec) > 0), v == bolt.YieldsIt && len(of.Spec) > 0:
				case v == bolt.BreaksIt && len(of.Spec) > 0 && !same(of.Spec, t.Stages):
				default:
					f(i, t, of, b, k, v)
				}
			}
		}
	})
}

// slips are a step with what may have been meant in place of a torque of it.
func (c *proving) slips(i int, t *step.Tighten, b *bolt.Bolt, k int) (out []Mend) {
	for _, q := range b.Slips(t.Stages[k].Torque) {
		n := *t
		n.Stages = slices.Clone(t.Stages)
		n.Stages[k].Torque = q
		out = append(out, c.change(i, message.F("Make it %s", q), &n))
	}
	return out
}

func breaksBolt(c *proving) {
	c.against(func(i int, t *step.Tighten, of *engine.Fastener, b *bolt.Bolt, k int, v bolt.Verdict) {
		if v == bolt.BreaksIt {
			c.find(message.F("%s takes the %s to %s, and it breaks", c.num(i), c.fastener(of.ID), t.Stages[k].Torque), message.F("%s breaks at %s at the latest, whatever is on the thread.", message.As(b.Thread.String()), b.Breaks().High.Said()), []int{i}, c.slips(i, t, b, k)...)
		}
	})
}

func oddTorque(c *proving) {
	c.against(func(i int, t *step.Tighten, of *engine.Fastener, b *bolt.Bolt, k int, v bolt.Verdict) {
		switch v {
		case bolt.YieldsIt:
			c.find(message.F("%s takes the %s to %s, and it yields", c.num(i), c.fastener(of.ID), t.Stages[k].Torque), message.F("%s yields at %s at the latest, and no angle follows.", message.As(b.Thread.String()), b.Yields().High.Said()), []int{i}, c.slips(i, t, b, k)...)
		case bolt.SlackIt:
			c.find(message.F("%s takes the %s to %s, which hardly holds it", c.num(i), c.fastener(of.ID), t.Stages[k].Torque), message.F("%s yields from %s on; this is less than a fifth of that.", message.As(b.Thread.String()), b.Yields().Low.Said()), []int{i}, c.slips(i, t, b, k)...)
		}
	})
}
