package pageproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
)

var cautionRules = finding.Family[*proving]{
	{ID: "caution-missing", Family: "cautions", Severity: finding.ShouldFix, Reads: finding.Words, Check: cautionMissing,
		Doc: "a step that can hurt somebody, without its caution"},
}

var hazardNames = map[engine.Hazard]message.Text{
	engine.HazardBattery: message.F("battery and ignition"), engine.HazardSupport: message.F("an engine without its support"), engine.HazardHot: message.F("hot parts"),
	engine.HazardSpring: message.F("stored spring force"), engine.HazardTaper: message.F("a sprocket leaving its taper"), engine.HazardBreaker: message.F("a slipping breaker bar"),
	engine.HazardHands: message.F("hands in the drive"), engine.HazardLeftHand: message.F("a left-hand thread"), engine.HazardLocksOut: message.F("locks left in"),
	engine.HazardSealant: message.F("sealant"), engine.HazardFirstTime: message.F("a running engine with covers off"),
}

func cautionMissing(c *proving) {
	for i := range c.Page.Steps {
		s := &c.Page.Steps[i]
		for _, h := range s.Hazards(c.Index) {
			if s.Warns(h) {
				continue
			}
			n := *s
			n.Cautions = append(slices.Clone(s.Cautions), step.CautionFor(h))
			c.find(message.F("%s needs a caution: %s", c.num(i), hazardNames[h]), message.F("It stands before the step it belongs to."), []int{i}, c.put(message.F("Add the caution"), n))
		}
	}
}
