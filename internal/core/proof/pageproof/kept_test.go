package pageproof_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
)

// Many lines that were not understood are one finding with all of its steps, and all are kept at
// once; a few are each asked about.
func TestManyLinesOfTextAreAskedAboutOnce(t *testing.T) {
	with := func(n int) *bench {
		b := clean(t)
		for k := range n {
			b.p.Steps = append(b.p.Steps, step.Step{ID: step.ID(fmt.Sprint("x", k)), Phase: "close", Action: &step.Do{Text: fmt.Sprintf("Admire view %c", 'a'+k), Unread: true}})
		}
		return b
	}
	count := func(b *bench) (n, mends int) {
		fs := b.prove()
		for i := range fs {
			if fs[i].Rule == "not-understood" {
				n++
				mends += len(fs[i].Mends)
			}
		}
		return n, mends
	}
	n, mends := count(with(3))
	assert.Equal(t, []int{3, 3}, []int{n, mends})
	b := with(6)
	n, mends = count(b)
	assert.Equal(t, []int{1, 1}, []int{n, mends})
	f := has(b.prove(), "not-understood")
	require.NotNil(t, f)
	assert.Len(t, f.Steps, 6)
	assert.Equal(t, "6 lines from step 64 on are free text: they were not understood", f.What)
	q, _, err := procedure.Apply(b.p, f.Mends[0].Edits)
	require.NoError(t, err)
	b.p = q
	n, _ = count(b)
	assert.Zero(t, n)
}
