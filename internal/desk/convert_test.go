package desk_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/desk"
)

// Pairs of torque that the trade writes beside one another (common practice, no source), and
// NIST SP 811 for the rest.
func TestConvertOf(t *testing.T) {
	for value, want := range map[string][]string{
		"42": {"42 N·m", "31 lbf·ft"}, "10 Nm": {"10 N·m", "88.5 lbf·in"}, "25.4 mm": {"25.4 mm", "1 in"}, "212 °F": {"212 °F", "100 °C"}, "2 turns": {"2 turns", "720°"}, "116 ±8 Hz": {"116 ±8 Hz"},
	} {
		a, err := desk.ConvertOf(desk.ConvertAsk{Value: value})
		require.NoError(t, err, value)
		var all []string
		for _, c := range a.Same {
			all = append(all, c.Is)
		}
		for _, w := range want {
			assert.Contains(t, all, w, value)
		}
		assert.Equal(t, want[0], all[0], "its own first")
	}
	a, err := desk.ConvertOf(desk.ConvertAsk{Value: "39 ±2 N·m"})
	require.NoError(t, err)
	assert.Equal(t, desk.Converted{Is: "28.8 ±1.5 lbf·ft", Set: ""}, a.Same[1])
	assert.Equal(t, desk.Converted{Is: "345 ±18 lbf·in", Set: "346 lbf·in"}, a.Same[2], "as a scale has it, within the tolerance")
	for _, value := range []string{"", "a lot", "12 blows", "1e400 Nm"} {
		_, err := desk.ConvertOf(desk.ConvertAsk{Value: value})
		assert.Error(t, err, value)
	}
}
