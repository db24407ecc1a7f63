package pageproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/virtual"
)

// conditionRules hold the state in which bolts and parts go on against the sheet.
var conditionRules = finding.Family[*proving]{
	{ID: "stretched-twice", Family: "tightening", Severity: finding.ShouldFix, Check: stretchedTwice,
		Doc: "a bolt taken through its angle a second time: it yields further than it was made for"},
	{ID: "again-owed", Family: "tightening", Severity: finding.ShouldFix, Check: againOwed,
		Doc: "a bolt that settles in the turns and is never taken to its torque again"},
	{ID: "nip-owed", Family: "tightening", Severity: finding.ShouldFix, Check: nipOwed,
		Doc: "a sprocket that moves while its bolt is pulled tight in one go, or is nipped so hard that it is tight"},
	{ID: "face-owed", Family: "tools and parts", Severity: finding.ShouldFix, Check: faceOwed,
		Doc: "lobes or a lip that run dry at the first start, or oil in a joint that has to be dry"},
	{ID: "wrench-range", Family: "tools and parts", Severity: finding.Blocks, Check: wrenchRange,
		Doc: "a torque taken with a wrench that does not show it"},
	{ID: "setting-unknown", Family: "tools and parts", Severity: finding.ShouldFix, Check: settingUnknown,
		Doc: "an adapter or a multiplier, and nobody knows what the wrench is set to"},
	{ID: "multiplier-unheld", Family: "tightening", Severity: finding.ShouldFix, Check: multiplierUnheld,
		Doc: "a multiplied torque on a shaft that nothing holds"},
}

func stretchedTwice(c *proving) {
	first := map[engine.FastenerID]step.ID{}
	for i := range c.Run.Steps {
		s := &c.Page.Steps[i]
		a, ok := s.Action.(*step.Tighten)
		if !ok {
			continue
		}
		for _, id := range a.Fasteners {
			was, again := first[id]
			if first[id] = s.ID; !again || was == s.ID || s.IfNot || !slices.Contains(c.Run.Steps[i].Events, virtual.Event(virtual.StretchedTwice{Fastener: id})) {
				continue
			}
			c.find(message.F("%s takes the %s through its angle a second time", c.num(i), c.fastener(id)), message.F("What the angle puts into a bolt stays in it. Renew it, or tighten the first time by torque alone."), []int{i}, c.before(i, &step.Renew{Fasteners: []engine.FastenerID{id}}))
		}
	}
}

// nipOwed holds that a bolt which the sheet has nipped up first is, and with its value.
func nipOwed(c *proving) {
	said := map[engine.FastenerID]bool{}
	c.Tightenings(func(i int, a *step.Tighten) {
		for _, id := range a.Fasteners {
			k := c.Index.FastenerAt(id)
			if k < 0 || c.Index.Sheet.Fasteners[k].Nip.IsZero() || said[id] {
				continue
			}
			nip := c.Index.Sheet.Fasteners[k].Nip
			n := *a
			switch was := c.Run.Before(i).Fasteners[k]; {
			case a.To == step.ToFinal && was.Stage < virtual.Snug:
				said[id] = true
				c.find(message.F("%s takes the %s to the end and it was not nipped up first", c.num(i), c.fastener(id)), message.F("The sheet has it nipped up to %s: by that it clamps.", nip), []int{i},
					c.before(i, &step.Tighten{Fasteners: []engine.FastenerID{id}, To: step.ToSnug, Stages: []engine.Stage{{Torque: nip}}, Hold: c.Index.Sheet.Fasteners[k].HoldWith}))
			case a.To == step.ToSnug && len(a.Stages) > 0 && !a.Stages[0].Torque.IsZero() && !alike(a.Stages[0].Torque, nip):
				said[id] = true
				n.Stages = []engine.Stage{{Torque: nip}}
				c.find(message.F("%s nips the %s up to %s; the sheet says %s", c.num(i), c.fastener(id), a.Stages[0].Torque, nip), message.F("One of the two is wrong."), []int{i}, c.change(i, message.F("Make it %s", nip), &n))
			}
		}
	})
}

// againOwed holds that a bolt which the sheet has tightened once more is, after the last
// turn over.
func againOwed(c *proving) {
	for k := range c.Index.Sheet.Fasteners {
		f := &c.Index.Sheet.Fasteners[k]
		if !f.Again || !c.Run.Last().Fasteners[k].Touched {
			continue
		}
		turned, tight, again := -1, -1, false
		for i := range c.Run.Steps {
			a, ok := c.Page.Steps[i].Action.(*step.Tighten)
			switch {
			case ok && a.To == step.ToFinal && slices.Contains(a.Fasteners, f.ID):
				tight, again = i, again || turned >= 0
			case tight >= 0 && abs(c.Run.Steps[i].After.Crank-c.Run.Before(i).Crank) > 340:
				turned = i
			case c.Run.Steps[i].After.Fasteners[k].Stage < c.Run.Before(i).Fasteners[k].Stage:
				turned, tight, again = -1, -1, false
			}
		}
		if turned >= 0 && !again {
			c.find(message.F("The %s is not tightened once more after the turns", c.fastener(f.ID)), message.F("The sheet has it taken to its torque again: it settles."), []int{turned}, c.after(turned, c.tightening(f.ID)))
		}
	}
}

// faceOwed holds the state of a part that goes back against the sheet.
func faceOwed(c *proving) {
	on, old := map[engine.PartID]step.Stuff{}, map[engine.PartID]bool{}
	sealant := func(i int, id engine.PartID) {
		if p := c.Index.Part(id); p != nil && p.Face == engine.FaceCleaned && old[id] {
			delete(old, id)
			clean := &step.Clean{Parts: []engine.PartID{id}, Faces: true}
			c.find(message.F("%s closes the %s over its old sealant", c.num(i), c.part(id)), message.F("The sheet has it cleaned off first."), []int{i}, c.before(i, clean))
		}
	}
	for i := range c.Page.Steps {
		switch a := c.Page.Steps[i].Action.(type) {
		case *step.Apply:
			if a.Part == "" {
				break
			}
			if a.What == step.Sealant {
				sealant(i, a.Part)
			}
			on[a.Part] = a.What
		case *step.Clean:
			for _, id := range a.Parts {
				delete(on, id)
				delete(old, id)
			}
		}
		for k := range c.Index.Sheet.Parts {
			p := &c.Index.Sheet.Parts[k]
			if was, is := c.Run.Before(i).Parts[k].Off, c.Run.Steps[i].After.Parts[k].Off; p.Face == "" || was == is {
				continue
			} else if is {
				old[p.ID] = true
				continue
			}
			sealant(i, p.ID)
			stuff := on[p.ID]
			delete(on, p.ID)
			switch {
			case p.Face == engine.FaceOiled && stuff != step.Oil && stuff != step.Grease:
				c.find(message.F("%s fits the %s, and nobody has oiled it", c.num(i), c.part(p.ID)), message.F("The sheet says it goes on oiled."), []int{i}, c.before(i, &step.Apply{What: step.Oil, Part: p.ID}))
			case p.Face == engine.FaceDry && (stuff == step.Oil || stuff == step.Grease):
				c.find(message.F("%s fits the %s with %s on it", c.num(i), c.part(p.ID), stuff), message.F("The sheet says it goes on clean and dry."), []int{i})
			}
		}
	}
}

// wrenchRange holds every torque against the range of the wrench that its step names.
