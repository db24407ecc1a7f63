package test

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// terms reads the words of docs/terms.md that are not to be written.
func terms(t *testing.T) []*regexp.Regexp {
	b, err := os.ReadFile("../docs/terms.md")
	require.NoError(t, err)
	var out []*regexp.Regexp
	rows := 0
	for line := range strings.Lines(string(b)) {
		cells := strings.Split(strings.Trim(strings.TrimSpace(line), "|"), "|")
		if !strings.HasPrefix(line, "|") || len(cells) != 3 || strings.Contains(line, "---") {
			continue
		}
		rows++
		for _, m := range regexp.MustCompile("`([^`]+)`").FindAllStringSubmatch(cells[2], -1) {
			out = append(out, regexp.MustCompile(`(?i)(^|[^\pL])`+regexp.QuoteMeta(m[1])+`($|[^\pL])`))
		}
	}
	require.Greater(t, rows, 20)
	return out
}

// shown is what people read of a source file of the screens: the text of its strings
// and of its elements, not its comments and names.
func shown(src string) []string {
	src = regexp.MustCompile(`(?s)/\*.*?\*/`).ReplaceAllString(src, "")
	src = regexp.MustCompile(`(?m)(^|[^:])//.*$`).ReplaceAllString(src, "$1")
	src = regexp.MustCompile(`(?m)^import .*$`).ReplaceAllString(src, "")
	var out []string
	for _, m := range regexp.MustCompile("\"((?:[^\"\\\\\n]|\\\\.)*)\"|`([^`]*)`|>([^<>{}]+)<|\n\\s*([\\pL][^<>=;\"`]*)\n").FindAllStringSubmatch(src, -1) {
		for _, s := range m[1:] {
			// Texts have words with spaces between; a single word may be the name of something.
			if s = strings.Join(strings.Fields(s), " "); strings.HasSuffix(s, "{") {
				continue // code
			}
			if strings.Contains(s, " ") || strings.HasPrefix(m[0], ">") {
				out = append(out, s)
			}
		}
	}
	return out
}

// The screens and the findings say what docs/terms.md says, and nothing else for it.
func TestTheScreensUseTheTerms(t *testing.T) {
	not := terms(t)
	hold := func(place, text string) {
		for _, re := range not {
			assert.NotRegexp(t, re, text, "%s: see docs/terms.md", place)
		}
	}
	files := 0
	err := filepath.WalkDir("../web/src", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".tsx") {
			return err
		}
		files++
		b, err := os.ReadFile(path)
		for _, s := range shown(string(b)) {
			hold(filepath.Base(path), s)
		}
		return err
	})
	require.NoError(t, err)
	require.Greater(t, files, 40)
	b, err := os.ReadFile("../docs/messages.txt")
	require.NoError(t, err)
	for line := range strings.Lines(string(b)) {
		hold("docs/messages.txt", strings.TrimSpace(line))
	}
}

// What is held to the terms is what people read.
func TestWhatIsShownIsFound(t *testing.T) {
	got := shown("import x from \"a loop\";\n// not now\nconst a = \"Read a file…\"; /* leave it */\nreturn <p title={`Take out the ${x}`}>Keep with a reason</p>;\n  <b>\n    Leave it out\n  </b>")
	assert.Contains(t, got, "Read a file…")
	assert.Contains(t, got, "Take out the ${x}")
	assert.Contains(t, got, "Keep with a reason")
	assert.Contains(t, got, "Leave it out")
	for _, s := range got {
		assert.NotContains(t, s, "not now")
		assert.NotContains(t, s, "a loop")
	}
}
