package test

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	// example is a block of docs/extending.md; its first line says where it goes.
	example = regexp.MustCompile("(?ms)^```(?:go|text)\n// ([^\n]+)\n(.*?)^```$")
	// where is a place in a file that is there: below or in place of a line, or before the
	// line that begins so.
	where = regexp.MustCompile(`^(\S+)(?:, (below|in) “(.*)”(, before)?)?$`)
	held  = regexp.MustCompile("(?m)^Held by: `go ((?:test|build) [^`]+)`$")
)

// What docs/extending.md tells a newcomer to write is laid over the source, builds, and
// passes the tests that the page names.
func TestTheExamplesOfExtendingHold(t *testing.T) {
	root, err := filepath.Abs("..")
	require.NoError(t, err)
	page, err := os.ReadFile(filepath.Join(root, "docs", "extending.md"))
	require.NoError(t, err)
	over := map[string]string{} // files of the source as the examples make them
	for _, m := range example.FindAllStringSubmatch(string(page), -1) {
		at := where.FindStringSubmatch(m[1])
		require.NotNil(t, at, "%q says no place", m[1])
		file, body := filepath.Join(root, at[1]), m[2]
		if at[2] == "" {
			require.NoFileExists(t, file)
			over[file] = body
			continue
		}
		was, ok := over[file]
		if !ok {
			b, err := os.ReadFile(file)
			require.NoError(t, err)
			was = string(b)
		}
		over[file] = put(t, was, at[2], at[3], at[4] != "", body)
	}
	dir := t.TempDir()
	replace := map[string]string{}
	for file, text := range over {
		if filepath.Ext(file) == ".txt" {
			// The tool overlays sources only; the fixtures of rules are read from here.
			require.NoError(t, os.WriteFile(filepath.Join(dir, filepath.Base(file)), []byte(text), 0o644))
			continue
		}
		own := filepath.Join(dir, strings.ReplaceAll(strings.TrimPrefix(file, root), string(filepath.Separator), "_"))
		require.NoError(t, os.WriteFile(own, []byte(text), 0o644))
		replace[file] = own
	}
	b, err := json.Marshal(map[string]any{"Replace": replace})
	require.NoError(t, err)
	overlay := filepath.Join(dir, "overlay.json")
	require.NoError(t, os.WriteFile(overlay, b, 0o644))
	tests := held.FindAllStringSubmatch(string(page), -1)
	require.Len(t, tests, 7)
	for _, m := range tests {
		args := strings.Fields(strings.ReplaceAll(m[1], "'", ""))
		own := []string{args[0], "-overlay", overlay}
		if args[0] == "test" {
			own = append(own, "-count=1", "-vet=off")
		}
		args = append(own, args[1:]...)
		c := exec.Command("go", args...)
		c.Dir, c.Env = root, append(os.Environ(), "RULE_FIXTURES="+dir)
		out, err := c.CombinedOutput()
		assert.NoError(t, err, "%s\n%s", m[1], out)
		assert.NotContains(t, string(out), "no tests to run", m[1])
	}
}

// put puts a body into a file: below the first line that begins so, before it, or in
// place of words.
func put(t *testing.T, file, how, line string, before bool, body string) string {
	if how == "in" {
		require.Equal(t, 1, strings.Count(file, line), line)
		return strings.Replace(file, line, strings.TrimSuffix(body, "\n"), 1)
	}
	lines := strings.SplitAfter(file, "\n")
	for i, l := range lines {
		if strings.HasPrefix(l, line) {
			if !before {
				i++
			}
			return strings.Join(lines[:i], "") + body + strings.Join(lines[i:], "")
		}
	}
	require.Fail(t, "no line begins so", line)
	return ""
}
