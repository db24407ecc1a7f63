package pageproof_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
)

// What is offered settles what it is offered for, whichever rule found it, and raises
// nothing that blocks: on every ninth damaged page of the demo each first mend is taken
// and the page proved anew, by itself.
func TestWhatIsOfferedSettles(t *testing.T) {
	taken := map[string]int{}
	for _, name := range procedures {
		f := fixture.Document(name)
		x := engine.NewIndex(&f.Engine)
		for i, d := range damages(x, &f.Procedure) {
			if i%9 != 0 {
				continue
			}
			fs := pageproof.Prove(x, &d.p, finding.DefaultHouse())
			for k := range fs {
				if len(fs[k].Mends) == 0 {
					continue
				}
				taken[fs[k].Rule]++
				q, _, err := procedure.Apply(&d.p, fs[k].Mends[0].Edits)
				require.NoError(t, err)
				after := pageproof.Found(x, q, nil, finding.DefaultHouse())
				same := func(g pageproof.Finding) bool { return g.Rule == fs[k].Rule && g.What == fs[k].What }
				if slices.ContainsFunc(after, same) {
					assert.Fail(t, "it stays", "%s, %s: %q after %q", name, d.says, fs[k].What, fs[k].Mends[0].Label)
				}
				assert.LessOrEqual(t, pageproof.Blocking(after), pageproof.Blocking(fs), "%s, %s: %q", name, d.says, fs[k].Mends[0].Label)
			}
		}
	}
	n := 0
	for _, k := range taken {
		n += k
	}
	t.Logf("%d mends of %d rules taken", n, len(taken))
	assert.Greater(t, len(taken), 45, "rules whose mends were tried")
}

// A rule that says it reads what is written needs no engine: without a run it finds
// the same.
func TestRulesSayWhatTheyRead(t *testing.T) {
	n := 0
	for _, name := range procedures {
		f := fixture.Document(name)
		x := engine.NewIndex(&f.Engine)
		for i, d := range damages(x, &f.Procedure) {
			if i%25 != 0 {
				continue
			}
			var want []string
			for _, g := range pageproof.Found(x, &d.p, nil, finding.DefaultHouse()) {
				if r := pageproof.Reads(g.Rule); r == finding.Written || r == finding.Words {
					want = append(want, g.ID+" "+g.What)
				}
			}
			var got []string
			for _, g := range pageproof.FoundAsWritten(x, &d.p, finding.DefaultHouse()) {
				got = append(got, g.ID+" "+g.What)
			}
			assert.Equal(t, want, got, "%s: %s", name, d.says)
			n += len(got)
		}
	}
	assert.Greater(t, n, 50)
}
