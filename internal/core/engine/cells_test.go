package engine_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
)

// Whatever engine of the code somebody has, one of the cells has the same sheet.
func TestCellsStandForEveryEngine(t *testing.T) {
	s := withCases(t)
	s, err := engine.Apply(s, []engine.Edit{
		{Path: "varies/idler/cases", Value: []byte(`[{"when":{"years":"2019–2021"},"set":"40"},{"when":{"years":"2022–2024"},"set":"42"}]`)},
		{Path: "varies/bar/cases", Value: []byte(`[{"when":{"with":"winch"},"set":"play 0.6"},{"when":{"without":"winch","builds":"–500"},"set":"play 0.5"},{"when":{"without":"winch","builds":"501–"},"set":"play 0.4"}]`)},
		{Path: "options", Value: []byte(`["winch"]`)},
	})
	require.NoError(t, err)
	cells := s.Cells(engine.Years{})
	assert.Len(t, cells, 8)
	key := func(c engine.Car) string {
		one, err := s.For(c)
		require.NoError(t, err, c.String())
		x := engine.NewIndex(one)
		return engine.StagesText(x.Fastener("idler-bolt").Spec) + " " + string(rune('0'+int(x.Lock("cam-bar").Play*10)))
	}
	have := map[string]bool{}
	for _, c := range cells {
		have[key(c)] = true
	}
	rapid.Check(t, func(t *rapid.T) {
		c := engine.Car{Year: rapid.IntRange(2019, 2024).Draw(t, "year"), Build: rapid.IntRange(1, 900).Draw(t, "build")}
		if rapid.Bool().Draw(t, "winch") {
			c.Options = []string{"winch"}
		}
		assert.True(t, have[key(c)], c.String())
	})
	for _, c := range s.Cells(engine.Years{From: 2023}) {
		assert.GreaterOrEqual(t, c.Year, 2023)
	}
	assert.Empty(t, (&engine.Sheet{}).Cells(engine.Years{}))
}
