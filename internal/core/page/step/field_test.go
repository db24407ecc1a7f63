package step_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

func TestWhatIsTypedIntoAField(t *testing.T) {
	for _, c := range []struct {
		verb, field, typed string
		text, problem      string
	}{
		{"tighten", "stages", "27", "27 N·m", ""},
		{"tighten", "stages", "60 Nm + 90°", "60 N·m + 90°", ""},
		{"tighten", "stages", "60 Nm then", "", "then"},
		{"tighten", "stages", "1,200 Nm", "", "between thousands?"},
		{"wait", "for", "15 min", "15 min", ""},
		{"wait", "for", "later", "", "not a value with a unit"},
		{"turn", "degrees", "45", "45°", ""},
		{"turn", "turns", "½", "0.5", ""},
		{"turn", "turns", "2", "2", ""},
		{"turn", "turns", "a few", "", "number"},
		{"turn", "turns", "-2", "", "number"},
		{"measure", "readings", "2.5", "", "number"},
		{"measure", "value", "20 ±30 Hz", "", "tolerance"},
		{"measure", "what", " the note ", "the note", ""},
	} {
		r, err := step.ReadField(step.Verb(c.verb), c.field, c.typed)
		require.NoError(t, err, c.typed)
		if c.problem != "" {
			assert.Contains(t, r.Problem, c.problem, "%s: %q", c.field, c.typed)
			continue
		}
		assert.Empty(t, r.Problem, "%s: %q", c.field, c.typed)
		assert.Equal(t, c.text, r.Text, "%s: %q", c.field, c.typed)
	}
	r, err := step.ReadField("tighten", "stages", "")
	require.NoError(t, err)
	assert.Equal(t, []engine.Stage{}, r.Value, "nothing typed empties it")
	_, err = step.ReadField("tighten", "colour", "red")
	assert.Error(t, err)
	_, err = step.ReadField("dance", "stages", "60 Nm")
	assert.Error(t, err)
	r, err = step.ReadField("lock", "lock", "crank pin")
	require.NoError(t, err)
	assert.Contains(t, r.Problem, "chosen")
}
