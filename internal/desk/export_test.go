package desk

import (
	"context"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/store"
)

// Again is again with the default house, for the benchmark.
func Again(old, now *engine.Index, p *procedure.Procedure) store.ReproofRow {
	return again(old, now, p, finding.DefaultHouse())
}

// WriteLetters writes the letters of what waits now.
func (d *Jobs) WriteLetters(ctx context.Context) error { return d.writeLetters(ctx) }

// UsesEdition is the edition by which uses are found.
const UsesEdition = usesEdition
