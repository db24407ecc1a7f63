package pageproof

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/facts"
	"inklatch/internal/core/proof/finding"
)

// FoundAsWritten is what the rules find that read what is written, with no run made.
func FoundAsWritten(x *engine.Index, p *procedure.Procedure, house finding.House) []Finding {
	c := &proving{Facts: facts.Facts{Index: x, Page: p}, raw: x, whole: p, house: house, rules: families}
	c.through(finding.Written, finding.Words)
	return ordered(c.out, p)
}

// Reads is what the rule of an id reads.
func Reads(id string) finding.Reads { return reads(id) }

// Family is the rules of a family, by the name of its file.
func Family(name string) []string {
	var out []string
	for _, r := range map[string]finding.Family[*proving]{
		"condition": conditionRules,
		"readings":  readingRules,
		"locks":     lockRules, "worked": workedRules, "owed": owedRules, "values": valueRules, "lists": listRules, "starts": startRules, "parts": partRules,
		"loops": loopRules, "torque": torqueRules, "turns": turnRules, "ends": endRules, "tools": toolRules, "cautions": cautionRules, "words": wordRules,
		"paths": pathRules, "cases": caseRules, "purpose": purposeRules, "fluids": fluidRules, "order": orderRules, "paint": paintRules,
	}[name] {
		out = append(out, r.ID)
	}
	return out
}
