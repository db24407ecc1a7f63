package unit_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/unit"
)

// conversion is one that a general-purpose units library is asked for too: web/src/units.test.ts
// holds every one of them against mathjs.
type conversion struct {
	Value float64   `json:"value"`
	From  unit.Unit `json:"from"`
	To    unit.Unit `json:"to"`
	Is    float64   `json:"is"`
}

// Every conversion of the package stands in the file that the second opinion reads.
func TestConversionsForASecondOpinion(t *testing.T) {
	var out []conversion
	for _, k := range []unit.Kind{unit.KindTorque, unit.KindAngle, unit.KindLength, unit.KindTime, unit.KindTemperature, unit.KindFrequency, unit.KindVolume} {
		us := k.Units()
		require.NotEmpty(t, us)
		for _, from := range us {
			for _, to := range us {
				for _, v := range []float64{1, 10, 37.5, -40} {
					is, err := unit.Convert(v, from, to)
					require.NoError(t, err)
					out = append(out, conversion{v, from, to, is})
				}
			}
		}
	}
	want, err := json.MarshalIndent(out, "", " ")
	require.NoError(t, err)
	const file = "testdata/conversions.json"
	if os.Getenv("UPDATE") != "" {
		require.NoError(t, os.WriteFile(file, want, 0o600))
	}
	got, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.JSONEq(t, string(want), string(got), "UPDATE=1 writes it anew")
}
