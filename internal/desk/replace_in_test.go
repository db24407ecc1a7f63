package desk

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Two plan at a time; a third waits for its turn, and hears so where it does not come.
func TestPlansWaitForTheirTurn(t *testing.T) {
	d := New(nil)
	first, err := d.Engines.plans(t.Context())
	require.NoError(t, err)
	second, err := d.Engines.plans(t.Context())
	require.NoError(t, err)
	soon, cancel := context.WithTimeout(t.Context(), 20*time.Millisecond)
	defer cancel()
	_, err = d.Engines.plans(soon)
	p, ok := err.(*Problem)
	require.True(t, ok)
	assert.Equal(t, 503, p.Status)
	first()
	third, err := d.Engines.plans(t.Context())
	require.NoError(t, err)
	second()
	third()
}
