package desk

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/store"
)

// Again is again with the default house, for the benchmark.
func Again(old, now *engine.Index, p *procedure.Procedure) store.ReproofRow {
	return again(old, now, p, proof.DefaultHouse())
}
