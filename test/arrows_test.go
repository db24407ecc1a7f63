package test

import (
	"os/exec"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Imports point down: web → desk → store, format → core; the core knows the
// standard library, gonum, its JSON library and itself.
func TestImportsPointDown(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "inklatch/internal/...", "inklatch/demo").Output()
	require.NoError(t, err)
	may := map[string][]string{
		"inklatch/internal/core":   {"inklatch/internal/core", "github.com/go-json-experiment/json", "gonum.org/v1/gonum"},
		"inklatch/internal/format": {"inklatch/internal/core", "inklatch/internal/format"},
		"inklatch/internal/store":  {"inklatch/internal/core", "inklatch/internal/format", "inklatch/internal/store"},
		"inklatch/internal/desk":   {"inklatch/internal/core", "inklatch/internal/format", "inklatch/internal/store", "inklatch/internal/desk"},
		"inklatch/internal/web":    {"inklatch/internal"},
		"inklatch/demo":            {"inklatch/internal"},
	}
	within := func(p string, roots []string) bool {
		for _, r := range roots {
			if p == r || strings.HasPrefix(p, r+"/") {
				return true
			}
		}
		return false
	}
	seen := 0
	for line := range strings.Lines(string(out)) {
		f := strings.Fields(line)
		for layer, allowed := range may {
			if !within(f[0], []string{layer}) {
				continue
			}
			seen++
			for _, imp := range f[1:] {
				ours := strings.HasPrefix(imp, "inklatch/")
				foreign := strings.Contains(strings.SplitN(imp, "/", 2)[0], ".")
				if ours || foreign && layer == "inklatch/internal/core" {
					assert.True(t, within(imp, allowed), "%s imports %s", f[0], imp)
				}
			}
		}
	}
	assert.Greater(t, seen, 12)
}

// The districts of the core lie one above the other: what a team does with pages, what
// is found in them, what is written, how an engine behaves, what it is.
func TestTheDistrictsOfTheCore(t *testing.T) {
	order := []string{"unit", "bolt", "tool", "message", "engine", "virtual", "page", "proof", "drill", "review", "house"}
	at := func(path string) int {
		path, ok := strings.CutPrefix(path, "inklatch/internal/core/")
		if !ok {
			return -1
		}
		district, _, _ := strings.Cut(path, "/")
		return slices.Index(order, district)
	}
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "inklatch/internal/core/...").Output()
	require.NoError(t, err)
	seen := map[int]bool{}
	for line := range strings.Lines(string(out)) {
		f := strings.Fields(line)
		from := at(f[0])
		if strings.HasSuffix(f[0], "/fixture") {
			continue // it reads the demo's files for the tests of all of them
		}
		require.GreaterOrEqual(t, from, 0, "%s is in no district", f[0])
		seen[from] = true
		for _, imp := range f[1:] {
			if to := at(imp); to >= 0 {
				assert.LessOrEqual(t, to, from, "%s imports %s", f[0], imp)
			}
		}
	}
	assert.Len(t, seen, len(order))
}

// The core is tested on its own: its tests import nothing of ours above it.
func TestTheCoreIsTestedOnItsOwn(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .TestImports " "}} {{join .XTestImports " "}}`, "inklatch/internal/core/...").Output()
	require.NoError(t, err)
	for line := range strings.Lines(string(out)) {
		f := strings.Fields(line)
		for _, imp := range f[1:] {
			if strings.HasPrefix(imp, "inklatch/") {
				assert.True(t, strings.HasPrefix(imp, "inklatch/internal/core/"), "the tests of %s import %s", f[0], imp)
			}
		}
	}
}
