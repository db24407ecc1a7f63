package pageproof_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
)

// other is an engine that the demo knows nothing of, with pages as a bench would do
// them.
type other struct {
	name  string
	x     *engine.Index
	pages []small
}

// others reads the engines of testdata/others: a sheet, a line of dashes, and pages as
// the fixtures of the rules have them.
func others(t testing.TB) []other {
	files, err := filepath.Glob("testdata/others/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	var out []other
	for _, file := range files {
		raw, err := os.ReadFile(file)
		require.NoError(t, err)
		sheet, pages, _ := strings.Cut(string(raw), "\n----\n")
		var s engine.Sheet
		require.NoError(t, json.Unmarshal([]byte(sheet), &s, json.RejectUnknownMembers(true)), file)
		x := engine.NewIndex(&s)
		out = append(out, other{strings.TrimSuffix(filepath.Base(file), ".txt"), x, smallPages(t, filepath.Base(file), pages, strings.Count(sheet, "\n")+2, x)})
	}
	return out
}

// A page as a bench would do it on an engine that the demo knows nothing of is clean.
func TestOtherEnginesAreClean(t *testing.T) {
	for _, o := range others(t) {
		for _, v := range o.pages {
			checkSmall(t, o.x, v, func(string) bool { return true })
			for _, f := range pageproof.Prove(o.x, &v.p, finding.DefaultHouse()) {
				assert.NotEmpty(t, f.What)
			}
		}
	}
}
