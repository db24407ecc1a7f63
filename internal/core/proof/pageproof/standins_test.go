package pageproof_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof/pageproof"
)

// A looser tool that the sheet lets stand in is gone through the page with as well: what it
// leaves open is said of it, and one that is tight enough, or that no step uses, says nothing.
func TestAToolThatStandsInMustBeTightEnough(t *testing.T) {
	with := func(play float64, also ...engine.Equivalent) []pageproof.Finding {
		b := clean(t)
		b.sheet(func(s *engine.Sheet) {
			for i := range s.Tools {
				s.Tools[i].Equivalents = nil
				if s.Tools[i].ID == "tl-102" {
					s.Tools[i].Equivalents = append(also, engine.Equivalent{Number: "TL-909", Play: play})
				}
			}
			s.Limits.CamError = 1
		})
		return b.prove()
	}
	said := func(fs []pageproof.Finding) (out []string) {
		for i := range fs {
			if strings.HasPrefix(fs[i].What, "With TL-909") {
				out = append(out, fs[i].What)
			}
		}
		return out
	}
	own := with(0)
	require.Empty(t, said(own))
	assert.Empty(t, said(with(0.9)), "within what the code passes")
	loose := with(2.4)
	require.Len(t, said(loose), 2, "%v", said(loose))
	for _, s := range said(loose) {
		assert.Contains(t, s, "may stand 2.4° off")
	}
	assert.Len(t, loose, len(own)+2, "nothing else is found otherwise")
	assert.Len(t, said(with(2.4, engine.Equivalent{Number: "TL-908", Play: 1.2})), 2, "the loosest stands for all")
}
