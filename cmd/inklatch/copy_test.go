package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A page is copied step by step: what is asked is told, answered, and the copy is a file
// that can be checked.
func TestCopy(t *testing.T) {
	page, to := folder+"renew-timing-belt-r3.latch.json", folder+"renew-belt-both-banks-r1.latch.json"
	out, err := call("copy", page, to)
	assert.Equal(t, exit(1), err, "something is not matched")
	assert.Contains(t, out, "✓  battery lead → battery lead")
	assert.Contains(t, out, "~  block plug (parts/block-plug) → bell housing plug (bell-plug). It gives access to the crank pin, as there.")
	assert.Contains(t, out, "?  engine mount (parts/engine-mount) is not found on TV6-27D")
	assert.Contains(t, out, "things are still to be matched")

	answers := map[string]bool{}
	args := []string{"copy", "--proposed", "--json", page, to}
	var r struct {
		From, To   string
		Open       []string
		Pairs      []struct{ List, ID, How, To string }
		Left, Asks []struct{ Says, Why string }
		Taken      []struct{ Says string }
	}
	for range 6 {
		out, err = call(args...)
		require.NoError(t, json.Unmarshal([]byte(out), &r))
		if err == nil {
			break
		}
		require.Equal(t, exit(1), err)
		for _, p := range r.Pairs {
			if ref := p.List + "/" + p.ID; p.How == "asked" && !answers[ref] {
				answers[ref] = true
				args = append(args, "--is", ref+"=-")
			}
		}
	}
	require.NoError(t, err)
	assert.Equal(t, []string{"TQ4-18P", "TV6-27D"}, []string{r.From, r.To})
	assert.Empty(t, r.Open)
	assert.NotEmpty(t, r.Left)
	assert.NotEmpty(t, r.Asks)
	file := filepath.Join(t.TempDir(), "copy.latch.json")
	out, err = call(append(args, "-o", file)...)
	require.NoError(t, err, out)
	out, err = call("check", file)
	assert.Equal(t, exit(1), err, "it is not done by copying alone")
	assert.Contains(t, out, "cannot be done with the fan still on")
	out, err = call("copy", "--proposed", file, to) // onto its own sheet everything is the same
	require.NoError(t, err, out)
	assert.NotContains(t, out, "~")
	assert.NotContains(t, out, "Left out")

	for _, wrong := range []string{"crank-pin", "locks/crank-pin", "locks/none=-", "locks/crank-pin=nothing"} {
		_, err = call("copy", "--is", wrong, page, to)
		assert.Error(t, err, wrong)
		assert.NotEqual(t, exit(1), err, wrong)
	}
	_, err = call("copy", page, folder+"nothing.json")
	assert.ErrorContains(t, err, "nothing.json")
}

// A value is changed in files: first told, then written, one place or all.
func TestChange(t *testing.T) {
	b, err := os.ReadFile(folder + "renew-timing-belt-r3.latch.json")
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "page.latch.json")
	require.NoError(t, os.WriteFile(file, b, 0o600))
	out, err := call("change", "39 Nm", "45", file)
	require.NoError(t, err)
	assert.Contains(t, out, "  idler bolt, torque and angle: 39 N·m → 45 N·m\n  step 26, step: Tighten the idler bolt to 39 N·m (28.8 lbf·ft). → Tighten the idler bolt to 45 N·m (33.2 lbf·ft).\n")
	same, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, string(b), string(same), "nothing is written unasked")

	_, err = call("change", "--write", "--only", "s26", "39 Nm", "45", file)
	require.NoError(t, err)
	out, err = call("change", "--json", "39 Nm", "45", file)
	require.NoError(t, err)
	var r struct {
		File        string
		Page, Sheet []struct{ Key string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &r))
	assert.Empty(t, r.Page)
	require.Len(t, r.Sheet, 1)
	assert.Equal(t, "fasteners/idler-bolt", r.Sheet[0].Key)
	_, err = call("change", "--write", "39 Nm", "45", file)
	require.NoError(t, err)
	out, err = call("change", "39 Nm", "45", file)
	assert.Equal(t, exit(1), err)
	assert.Contains(t, out, "it stands nowhere")
	out, err = call("check", file)
	require.NoError(t, err, out)
	assert.Contains(t, out, "no findings")

	_, err = call("change", "39 Nm", "bolt", file)
	assert.ErrorContains(t, err, "is a value")
	_, err = call("change", "a", "b", "nowhere.json")
	assert.ErrorContains(t, err, "nowhere.json")
	assert.False(t, strings.Contains(out, "39 N·m"))
}
