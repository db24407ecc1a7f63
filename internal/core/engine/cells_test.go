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
	cells, all := s.Cells(engine.Years{})
	assert.Len(t, cells, 8)
	assert.Equal(t, 8, all, "none is left out")
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
	later, _ := s.Cells(engine.Years{From: 2023})
	for _, c := range later {
		assert.GreaterOrEqual(t, c.Year, 2023)
	}
	none, _ := (&engine.Sheet{}).Cells(engine.Years{})
	assert.Empty(t, none)
	for i := range 7 {
		s.Varies[0].Cases[0].When.With = append(s.Varies[0].Cases[0].When.With, "pack "+string(rune('a'+i)))
	}
	most, all := s.Cells(engine.Years{})
	assert.Len(t, most, 48)
	assert.Greater(t, all, len(most), "what is left out is counted")
}
