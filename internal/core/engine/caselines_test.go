package engine_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
)

func withCases(t *testing.T) *engine.Sheet {
	t.Helper()
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	s, err := engine.Apply(s, []engine.Edit{
		{Path: "varies/idler", Value: json.RawMessage(`{"id":"idler","of":"fasteners/idler-bolt","cases":[{"when":{},"set":{}}]}`)},
		{Path: "varies/bar", Value: json.RawMessage(`{"id":"bar","of":"locks/cam-bar","cases":[{"when":{},"set":{}}]}`)},
	})
	require.NoError(t, err)
	return s
}

// A case typed as lines is the same case as one written out, and its lines read
// back.
func TestCasesAreTypedAsLines(t *testing.T) {
	s, err := engine.Apply(withCases(t), []engine.Edit{
		{Path: "varies/idler/cases", Value: json.RawMessage(`[{"when":{"years":"2019-2021","with":"cold pack, winch"},"set":"40"},{"when":{"years":"2022–","builds":"–500"},"set":"42 Nm + 30°"}]`)},
		{Path: "varies/bar/cases", Value: json.RawMessage(`[{"when":{"years":"2020"},"set":"play 0.6, note short bar"}]`)},
	})
	require.NoError(t, err)
	v := s.Varies[0]
	assert.Equal(t, engine.When{Years: engine.Years{From: 2019, To: 2021}, With: []string{"cold pack", "winch"}}, v.Cases[0].When)
	assert.Equal(t, engine.When{Years: engine.Years{From: 2022}, Builds: engine.Builds{To: 500}}, v.Cases[1].When)
	lines := v.Lines()
	assert.Equal(t, "40 N·m", lines[0].Then)
	assert.Equal(t, "42 N·m + 30°", lines[1].Then)
	assert.Equal(t, []string{"2019–2021", "2022–", "–500"}, []string{lines[0].Years, lines[1].Years, lines[1].Builds})
	assert.Equal(t, "cold pack, winch", lines[0].With)
	assert.Equal(t, "note short bar, play 0.6", s.Varies[1].Lines()[0].Then)
	for i := range v.Cases {
		line, err := json.Marshal(map[string]any{"when": map[string]any{"years": lines[i].Years, "builds": lines[i].Builds, "with": lines[i].With, "without": lines[i].Without}, "set": lines[i].Then})
		require.NoError(t, err)
		again, err := engine.Apply(s, []engine.Edit{{Path: "varies/idler/cases", Value: json.RawMessage("[" + string(line) + "]")}})
		require.NoError(t, err)
		assert.Equal(t, v.Cases[i].When, again.Varies[0].Cases[0].When)
	}
}

func TestCasesThatCannotBeRead(t *testing.T) {
	s := withCases(t)
	for line, why := range map[string]string{
		`[{"when":{"years":"a while"},"set":{}}]`:   "no range",
		`[{"when":{"years":"2022–2019"},"set":{}}]`: "ends before it begins",
		`[{"when":{},"set":"colour red"}]`:          "it has",
		`[{"when":{},"set":"play"}]`:                "needs its value",
	} {
		_, err := engine.Apply(s, []engine.Edit{{Path: "varies/bar/cases", Value: json.RawMessage(line)}})
		require.Error(t, err, line)
		assert.Contains(t, err.Error(), why, line)
	}
}

// Names of values are exact, capitals and all.
func TestNamesOfValuesAreExact(t *testing.T) {
	s := withCases(t)
	for _, p := range []string{"Bore", "wheels/crank-wheel/X", "locks/cam-bar/Play"} {
		_, err := engine.Apply(s, []engine.Edit{{Path: p, Value: json.RawMessage(`1`)}})
		assert.Error(t, err, p)
	}
}

func TestFirstCasesCoverTheYears(t *testing.T) {
	for _, y := range []engine.Years{{From: 2019, To: 2024}, {From: 2019}, {From: 2019, To: 2019}, {From: 2019, To: 2020}} {
		s := withCases(t)
		s.Years = y
		c := engine.FirstCases(s)
		require.Len(t, c, 2)
		assert.Equal(t, y.From, c[0].When.Years.From)
		assert.Equal(t, c[0].When.Years.To+1, c[1].When.Years.From)
		assert.Equal(t, y.To, c[1].When.Years.To)
	}
}
