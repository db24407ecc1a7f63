package pageproof

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/finding"
)

// Found is Prove without trying the mends, for tests that prove thousands of
// pages and take none.
func Found(x *engine.Index, p *procedure.Procedure, house finding.House) []Finding {
	return find(x, p, nil, house)
}

// FoundAsWritten is what the rules find that read what is written, with no run made.
func FoundAsWritten(x *engine.Index, p *procedure.Procedure, house finding.House) []Finding {
	c := &proving{x: x, raw: x, p: p, whole: p, house: house, rules: families}
	c.through(finding.Written, finding.Words)
	return ordered(c.out, p)
}

// Reads is what the rule of an id reads.
func Reads(id string) finding.Reads { return reads(id) }
