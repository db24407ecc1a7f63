package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func call(args ...string) (string, error) {
	c := root()
	var out bytes.Buffer
	c.SetOut(&out)
	c.SetErr(&out)
	c.SetArgs(args)
	err := c.Execute()
	return out.String(), err
}

const folder = "../../demo/"

func TestCheck(t *testing.T) {
	out, err := call("check", folder+"renew-timing-belt-r3.latch.json")
	require.NoError(t, err)
	assert.Contains(t, out, "no findings in 62 steps")

	out, err = call("check", "--json", folder+"renew-timing-belt-r3.latch.json", folder+"renew-timing-belt-r4.latch.json")
	assert.Equal(t, exit(1), err, "something blocks")
	dec := json.NewDecoder(bytes.NewBufferString(out))
	var clean, draft struct {
		File     string
		Findings []struct {
			Rule, Severity, What, Why string
			Steps                     []string
			Mends                     []any
		}
	}
	require.NoError(t, dec.Decode(&clean))
	require.NoError(t, dec.Decode(&draft))
	assert.NotNil(t, clean.Findings)
	assert.Empty(t, clean.Findings)
	require.NotEmpty(t, draft.Findings)
	assert.Equal(t, "blocks", draft.Findings[0].Severity)
	assert.NotEmpty(t, draft.Findings[0].Mends)

	bad := filepath.Join(t.TempDir(), "bad.latch.json")
	require.NoError(t, os.WriteFile(bad, []byte(`{"format":"ink-latch/1","engine":7}`), 0o600))
	out, err = call("check", bad, folder+"renew-timing-belt-r4.latch.json")
	assert.Equal(t, exit(2), err, "one is unreadable")
	assert.Contains(t, out, "engine:")
	_, err = call("check", "nowhere.latch.json")
	assert.Equal(t, exit(2), err)
}

func TestRun(t *testing.T) {
	out, err := call("run", folder+"check-valve-timing-r1.latch.json")
	require.NoError(t, err)
	assert.Contains(t, out, "Fit the crank pin by hand (TL-101).")
	out, err = call("run", "--json", folder+"check-valve-timing-r1.latch.json")
	require.NoError(t, err)
	var trace struct {
		Steps     []struct{ After struct{ Crank float64 } }
		Lifelines []struct{ Name string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &trace))
	assert.Len(t, trace.Steps, 21)
	assert.NotEmpty(t, trace.Lifelines)
	_, err = call("run", "nowhere")
	assert.Error(t, err)
}

func TestSchemaIsTheOneInTheDocs(t *testing.T) {
	out, err := call("schema")
	require.NoError(t, err)
	doc, err := os.ReadFile("../../docs/ink-latch-1.schema.json")
	require.NoError(t, err)
	assert.Equal(t, string(doc), out)
}
