package engine_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
)

func TestStagesInOneLine(t *testing.T) {
	for line, want := range map[string]string{
		"60 Nm + 90 deg":        `[{"torque":"60 N·m"},{"angle":"90°"}]`,
		"42 Nm":                 `[{"torque":"42 N·m"}]`,
		"35 N·m+190°":           `[{"torque":"35 N·m"},{"angle":"190°"}]`,
		"140 ±5 Nm + 90 ±5 deg": `[{"torque":"140 ±5 N·m"},{"angle":"90 ±5°"}]`,
		"20 +2/−1 Nm + 90°":     `[{"torque":"20 +2/−1 N·m"},{"angle":"90°"}]`,
		"18–22 Nm + ¼ turn":     `[{"torque":"18–22 N·m"},{"angle":"0.25 turns"}]`,
		"72 Nm (53 lbf·ft)":     `[{"torque":"72 N·m (53 lbf·ft)"}]`,

		"60 Nm + slacken + 40 Nm + 90°":          `[{"torque":"60 N·m"},{"slacken":true},{"torque":"40 N·m"},{"angle":"90°"}]`,
		"60 Nm, then slacken by 90°, then 40 Nm": `[{"torque":"60 N·m"},{"angle":"90°","slacken":true},{"torque":"40 N·m"}]`,
		"60 Nm, slacken, 90°":                    `[{"torque":"60 N·m"},{"slacken":true},{"angle":"90°"}]`,
		"60 Nm + wait 10 min + 90°":              `[{"torque":"60 N·m"},{"angle":"90°","wait":"10 min"}]`,
		"60 Nm + wait 5 min + slacken + 40 Nm":   `[{"torque":"60 N·m"},{"slacken":true,"wait":"5 min"},{"torque":"40 N·m"}]`,
	} {
		got, err := engine.ParseStages(line)
		require.NoError(t, err, line)
		b, err := json.Marshal(got)
		require.NoError(t, err)
		assert.JSONEq(t, want, string(b), line)
		again, err := engine.ParseStages(engine.StagesText(got))
		require.NoError(t, err, line)
		assert.Equal(t, got, again, line)
	}
	for _, bad := range []string{"", "a lot", "60 Nm + ", "60", "1,200 Nm", "-20 Nm", "20 mm", "60 Nm or so", "60 Nm + 10 min + 90°", "60 Nm + wait 10 min", "60 Nm + wait + 90°", "60 Nm by 90°", "wait 10 mm + 60 Nm"} {
		_, err := engine.ParseStages(bad)
		assert.Error(t, err, "%q", bad)
	}
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	out, err := engine.Apply(s, []engine.Edit{edit("fasteners/idler-bolt/spec", `"30 Nm + 60 deg"`)})
	require.NoError(t, err)
	assert.Len(t, engine.NewIndex(out).Fastener("idler-bolt").Spec, 2)
	_, err = engine.Apply(s, []engine.Edit{edit("fasteners/idler-bolt/spec", `"a lot"`)})
	var bad *engine.EditError
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "fasteners/idler-bolt/spec", bad.Path)
}

func TestACaseMaySayItsStagesInOneLine(t *testing.T) {
	s := sheet(t, "renew-belt-in-oil-r1.latch.json")
	s.Varies[0].Cases[1].Set["spec"] = json.RawMessage(`"30 Nm + 60 deg"`)
	one, err := s.For(engine.Car{Year: 2024})
	require.NoError(t, err)
	assert.Len(t, engine.NewIndex(one).Fastener("idler-bolt").Spec, 2)
}

func TestCasesAlongTheYears(t *testing.T) {
	s := &engine.Sheet{Years: engine.Years{From: 2019, To: 2022}}
	v := engine.Variation{Cases: []engine.Case{{When: years(2019, 2020)}, {When: years(2020, 2021)}}}
	assert.Equal(t, []engine.YearCases{{2019, []int{0}}, {2020, []int{0, 1}}, {2021, []int{1}}, {2022, []int{}}}, v.ByYear(s))
	s.Years.To = 0
	got := v.ByYear(s)
	assert.Equal(t, 2022, got[len(got)-1].Year, "one past the last year named")
	v.Cases[0].When.With = []string{"cold pack"}
	assert.Nil(t, v.ByYear(s), "a year alone does not tell")
	assert.Nil(t, (&engine.Variation{}).ByYear(&engine.Sheet{}))
}

func TestSafetyRelevant(t *testing.T) {
	var ids []string
	for _, r := range sheet(t, "renew-timing-belt-r3.latch.json").SafetyRelevant() {
		ids = append(ids, r.ID)
	}
	assert.Equal(t, []string{"crank-pin", "cam-bar", "tensioner", "crank-bolt", "inlet-sprocket-bolt", "exhaust-sprocket-bolt", "limits"}, ids)
	assert.Empty(t, (&engine.Sheet{}).SafetyRelevant())
}

// A number typed without its unit takes that of its place; one that could be read
// in two ways is asked about, one below zero refused.
func TestBareNumbersOfASheet(t *testing.T) {
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	for _, c := range []struct{ path, typed, want string }{
		{"bore", `"79"`, "79 mm"}, {"bore", `"79,5"`, "79.5 mm"}, {"stroke", `"3.5 in"`, "3.5 in"}, {"rod", `"138 ±0.1"`, "138 ±0.1 mm"},
	} {
		out, err := engine.Apply(s, []engine.Edit{edit(c.path, c.typed)})
		require.NoError(t, err, c.typed)
		got := map[string]string{"bore": out.Bore.String(), "stroke": out.Stroke.String(), "rod": out.Rod.String()}[c.path]
		assert.Equal(t, c.want, got)
	}
	out, err := engine.Apply(s, []engine.Edit{edit("tensioners/tensioner/wait", `"15"`)})
	require.NoError(t, err)
	assert.Equal(t, "15 min", out.Tensioners[0].Wait.String())
	for _, bad := range []string{`"1,200 mm"`, `"-79 mm"`, `"-79"`, `"wide"`, `"<80 mm"`} {
		_, err := engine.Apply(s, []engine.Edit{edit("bore", bad)})
		assert.Error(t, err, bad)
	}
}
