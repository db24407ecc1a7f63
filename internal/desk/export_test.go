package desk

import (
	"context"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/store"
)

// Again is again with the default house, for the benchmark.
func Again(old, now *engine.Index, p *procedure.Procedure) store.ReproofRow {
	return again(old, now, p, proof.DefaultHouse())
}

// WriteLetters writes the letters of what waits now.
func (d *Desk) WriteLetters(ctx context.Context) error { return d.writeLetters(ctx) }

// UsesEdition is the edition by which uses are found.
const UsesEdition = usesEdition
