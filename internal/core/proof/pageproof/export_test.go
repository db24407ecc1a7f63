package pageproof

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
)

// Found is Prove without trying the mends, for tests that prove thousands of
// pages and take none.
func Found(x *engine.Index, p *procedure.Procedure, house House) []Finding {
	return find(x, p, nil, house, false, families)
}
