package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Everything that is linked into the program, and everything its screens are made of,
// stands in the notices with its version, a licence and a text.
func TestNoticesNameWhatIsShipped(t *testing.T) {
	raw, err := os.ReadFile("../../THIRD-PARTY.md")
	require.NoError(t, err)
	notices := string(raw)
	deps, err := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}} | {{.Version}} |{{end}}{{end}}", ".").Output()
	require.NoError(t, err)
	n := 0
	for line := range strings.Lines(string(deps)) {
		if line = strings.TrimSpace(line); line != "" {
			n++
			assert.Contains(t, notices, "| "+line+" ", "run make notices")
		}
	}
	assert.Greater(t, n, 50)

	lock, err := os.ReadFile("../../web/package-lock.json")
	require.NoError(t, err)
	var screens struct {
		Packages map[string]struct {
			Version                    string
			Dev, Optional, DevOptional bool
		}
	}
	require.NoError(t, json.Unmarshal(lock, &screens))
	for at, p := range screens.Packages {
		if at == "" || p.Dev || p.Optional || p.DevOptional || strings.Contains(at, "@types/") {
			continue
		}
		name := at[strings.LastIndex(at, "node_modules/")+len("node_modules/"):]
		assert.Contains(t, notices, fmt.Sprintf("| %s | %s |", name, p.Version), "run make notices")
	}
	texts := strings.Count(notices, "\n### Text ")
	assert.Greater(t, texts, 30)
	assert.Contains(t, notices, fmt.Sprintf("(#text-%d)", texts))
	assert.NotContains(t, notices, fmt.Sprintf("(#text-%d)", texts+1))
	assert.Contains(t, notices, "SIL OPEN FONT LICENSE", "of the fonts")
	assert.NotContains(t, notices, "see the text")
}
