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

var hazardNames = map[engine.Hazard]string{
	engine.HazardBattery: "battery and ignition", engine.HazardSupport: "an engine without its support", engine.HazardHot: "hot parts",
	engine.HazardSpring: "stored spring force", engine.HazardTaper: "a sprocket leaving its taper", engine.HazardBreaker: "a slipping breaker bar",
	engine.HazardHands: "hands in the drive", engine.HazardLeftHand: "a left-hand thread", engine.HazardLocksOut: "locks left in",
	engine.HazardSealant: "sealant", engine.HazardFirstTime: "a running engine with covers off",
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
			c.find(message.F("%s needs a caution: %s", c.num(i), hazardNames[h]), message.F("It stands before the step it belongs to."), []int{i}, c.put("Add the caution", n))
		}
	}
}
