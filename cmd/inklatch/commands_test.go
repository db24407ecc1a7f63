package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/owenrumney/go-sarif/v3/pkg/report/v210/sarif"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/format/sarif/sariftest"
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
	assert.Contains(t, out, "no findings in 63 steps")

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

// SARIF is valid by its published schema, names the rule and the place, and the exit is as
// without it.
func TestSARIF(t *testing.T) {
	read := func(out string) *sarif.Run {
		var r sarif.Report
		require.NoError(t, json.Unmarshal([]byte(out), &r))
		require.NoError(t, sariftest.Valid([]byte(out)))
		require.Len(t, r.Runs, 1)
		return r.Runs[0]
	}
	draft := folder + "renew-timing-belt-r4.latch.json"
	text, err := os.ReadFile(draft)
	require.NoError(t, err)
	bad := filepath.Join(t.TempDir(), "bad.latch.json")
	require.NoError(t, os.WriteFile(bad, []byte(`{`), 0o600))

	out, err := call("check", "--format", "sarif", draft, folder+"strip-head-r1.latch.json", bad)
	assert.Equal(t, exit(2), err)
	run := read(out)
	require.NotEmpty(t, run.Results)
	first := run.Results[0]
	assert.Equal(t, "error", first.Level)
	require.NotEmpty(t, first.Locations)
	at := *first.Locations[0].LogicalLocations[0].FullyQualifiedName
	assert.Regexp(t, `^/procedure/steps/\d+$`, at)
	region := first.Locations[0].PhysicalLocation.Region
	assert.Equal(t, 1, *region.StartLine)
	var step struct{ ID string }
	require.NoError(t, json.NewDecoder(bytes.NewBufferString(string([]rune(string(text))[*region.StartColumn-1:]))).Decode(&step))
	assert.NotEmpty(t, step.ID, "there begins the step")
	assert.True(t, slices.ContainsFunc(run.Results, func(r *sarif.Result) bool { return len(r.Suppressions) == 1 }), "accepted on the page that strips the head")
	assert.False(t, *run.Invocations[0].ExecutionSuccessful)

	out, err = call("drill", "--format", "sarif", "--only", "left-in", draft)
	assert.Equal(t, exit(1), err)
	run = read(out)
	require.Len(t, run.Results, 1)
	assert.Equal(t, "drill/left-in", *run.Results[0].RuleID)
	assert.NotEmpty(t, run.Results[0].RelatedLocations, "where it shows")

	out, err = call("engine", "--format", "sarif", folder)
	require.NoError(t, err)
	assert.NotEmpty(t, read(out).Artifacts)
	_, err = call("check", "--json", "--format", "sarif", draft)
	require.ErrorContains(t, err, "two forms")
	_, err = call("drill", "--format", "xml", draft)
	require.ErrorContains(t, err, "--format is")
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

func TestEngine(t *testing.T) {
	out, err := call("engine", folder+"renew-belt-both-banks-r1.latch.json")
	require.NoError(t, err)
	assert.Contains(t, out, "high-pressure pump  2/3")
	assert.Contains(t, out, "The order of bolts is not said for 2 sets of four and more")
	out, err = call("engine", folder+"tq4-18p.engine.json")
	require.NoError(t, err, "a sheet on its own is read too")
	assert.Contains(t, out, "closes with the tensioner")

	raw, err := os.ReadFile(folder + "tq4-18p.engine.json")
	require.NoError(t, err)
	bad := filepath.Join(t.TempDir(), "bad.engine.json")
	require.NoError(t, os.WriteFile(bad, bytes.Replace(raw, []byte(`"teeth": 109`), []byte(`"teeth": 111`), 1), 0o600))
	out, err = call("engine", "--json", bad)
	assert.Equal(t, exit(1), err)
	var v struct {
		Code     string
		Derived  struct{ Loops []struct{ Closes bool } }
		Findings []struct {
			Rule, On string
			Mends    []struct{ Label string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &v))
	assert.Equal(t, "TQ4-18P", v.Code)
	assert.False(t, v.Derived.Loops[0].Closes)
	assert.Equal(t, "does-not-close", v.Findings[0].Rule)
	assert.Equal(t, "Make it 109 teeth", v.Findings[0].Mends[0].Label)
	for _, f := range []string{"nowhere.json", "commands.go"} {
		_, err = call("engine", f)
		assert.Error(t, err)
	}
}

// Two pages of one job are held against each other where both are named; where one
// is not, that is said.
func TestPagesOfOneJob(t *testing.T) {
	first, second := folder+"open-timing-drive-r1.latch.json", folder+"close-timing-drive-r1.latch.json"
	out, err := call("check", first)
	require.NoError(t, err)
	assert.Contains(t, out, "“Close the timing drive after work on the head” is not among these files")
	out, err = call("check", first, second)
	require.NoError(t, err)
	assert.Equal(t, 2, strings.Count(out, "no findings"), out)
	raw, err := os.ReadFile(second)
	require.NoError(t, err)
	other := filepath.Join(t.TempDir(), "other.latch.json")
	require.NoError(t, os.WriteFile(other, bytes.Replace(raw, []byte(`"loopsOff":["timing-belt"],`), nil, 1), 0o600))
	out, err = call("check", first, other)
	assert.Equal(t, exit(1), err)
	assert.Contains(t, out, "The page does not begin as “Open the timing drive for work on the head” ends: timing belt off")
}

// A job sheet in words: the title strip, what a file cannot say, every step and value.
func TestSheetInWords(t *testing.T) {
	out, err := call("sheet", folder+"renew-timing-belt-r3.latch.json")
	require.NoError(t, err)
	for _, says := range []string{"| Tarn | TQ4-18P | Renew timing belt and tensioner | from a file |", "whether it is released, and holds, is not known here", "# Renew timing belt", "- [ ] **1.** Disconnect the battery lead", "> **Caution.**", "## Torque table", "| 60 N·m + 90 ±5° | 44.3 lbf·ft + 90 ±5° |"} {
		assert.Contains(t, out, says)
	}
	out, err = call("sheet", "--imperial", folder+"renew-timing-belt-r3.latch.json")
	require.NoError(t, err)
	assert.Contains(t, out, "| 44.3 lbf·ft + 90 ±5° | 60 N·m + 90 ±5° |")
	_, err = call("sheet", folder+"nothing.latch.json")
	assert.Error(t, err)
}

func TestTurns(t *testing.T) {
	out, err := call("turns", folder+"renew-belt-both-banks-r1.latch.json")
	require.NoError(t, err)
	assert.Contains(t, out, "Prove at 6 turns. Past it, go on to 12.")
	assert.Contains(t, out, "●")

	raw, err := os.ReadFile(folder + "renew-belt-both-banks-r1.latch.json")
	require.NoError(t, err)
	bad := filepath.Join(t.TempDir(), "bad.latch.json")
	require.NoError(t, os.WriteFile(bad, bytes.Replace(raw, []byte(`"turns":6`), []byte(`"turns":5`), 1), 0o600))
	out, err = call("turns", bad)
	assert.Equal(t, exit(1), err)
	assert.Contains(t, out, "mend: Make step 40 6 turns")
	out, err = call("turns", "--json", bad)
	assert.Equal(t, exit(1), err)
	var p struct {
		Home bool
		Best int
	}
	require.NoError(t, json.Unmarshal([]byte(out), &p))
	assert.False(t, p.Home)
	assert.Equal(t, 6, p.Best)
	_, err = call("turns", folder+"tq4-18p.engine.json")
	assert.Error(t, err, "a plan needs a procedure")
}

// A drill says what the page does not catch, the gravest first, and with which looks it would;
// a folder is all the pages in it.
func TestDrill(t *testing.T) {
	file := folder + "renew-timing-belt-r3.latch.json"
	draft := folder + "renew-timing-belt-r4.latch.json"
	out, err := call("drill", draft)
	assert.Equal(t, exit(1), err)
	assert.Contains(t, out, "step 15: the flywheel lock is left in: by force, needed: the engine is turned against the flywheel lock")
	assert.Contains(t, out, "2 missed that it needs to catch")
	out, err = call("drill", "--only", "tooth,left-in", folder+"renew-belt-in-oil-r1.latch.json")
	require.NoError(t, err, "what is accepted is not missed")
	assert.Contains(t, out, "late, accepted (The engine is turned by its pulley")
	out, err = call("drill", "--only", "tooth,stroke", "--min-caught", "100", file)
	require.NoError(t, err, "teeth and strokes are all caught")
	assert.Contains(t, out, "nothing is missed that the page needs to catch")
	_, err = call("drill", "--only", "bolt", "--min-caught", "90", file)
	assert.Equal(t, exit(1), err)

	out, err = call("drill", "--json", draft)
	assert.Equal(t, exit(1), err)
	var d struct {
		File     string
		Mistakes []struct {
			ID, Family, What, Size, MadeAt, Outcome, Consequence string
			SeenAt                                               []struct {
				Step, Says string
				Sure       bool
			}
			Mends []struct {
				Label string
				Edits []any
			}
		}
		Caught, Of int
	}
	require.NoError(t, json.Unmarshal([]byte(out), &d))
	assert.Len(t, d.Mistakes, d.Of)
	mends := 0
	for _, m := range d.Mistakes {
		assert.NotEmpty(t, m.MadeAt+m.Consequence)
		if len(m.Mends) > 0 {
			mends++
		}
	}
	assert.Equal(t, 2, mends, "each that is missed has a mend")

	out, err = call("drill", "--pairs", "40", "--only", "tooth", file)
	require.NoError(t, err)
	assert.Contains(t, out, "of 40 pairs that are each noticed alone get through")
	out, err = call("drill", folder)
	assert.Equal(t, exit(1), err)
	assert.GreaterOrEqual(t, strings.Count(out, "mistakes come to no harm"), 18)
	out, err = call("drill", "--families")
	require.NoError(t, err)
	assert.Contains(t, out, "360° over its teeth")

	_, err = call("drill", "--only", "goblins", file)
	assert.ErrorContains(t, err, "--families lists them")
	_, err = call("drill", folder+"nothing.latch.json")
	assert.Equal(t, exit(2), err)
	_, err = call("drill", t.TempDir())
	assert.ErrorContains(t, err, "no latch file in this folder")
	house := filepath.Join(t.TempDir(), "house.json")
	require.NoError(t, os.WriteFile(house, []byte(`{"minTurns": 4, "goblins": 1}`), 0o600))
	_, err = call("drill", "--house", house, file)
	assert.ErrorContains(t, err, "no house rules")
}

func TestDraw(t *testing.T) {
	to := filepath.Join(t.TempDir(), "drive.svg")
	_, err := call("draw", folder+"renew-timing-chain-r1.latch.json", "-o", to, "--step", "12")
	require.NoError(t, err)
	b, err := os.ReadFile(to)
	require.NoError(t, err)
	assert.Contains(t, string(b), "after step 12")
	assert.Contains(t, string(b), "<text")
	out, err := call("draw", folder+"tq4-18p.engine.json", "--bare")
	require.NoError(t, err)
	assert.NotContains(t, out, "<text")
	_, err = call("draw", folder+"renew-timing-chain-r1.latch.json", "--step", "900")
	assert.ErrorContains(t, err, "no step 900")
}

// rules lists every rule with what it protects from, as text and as JSON.
func TestRulesAreListed(t *testing.T) {
	out, err := call("rules")
	require.NoError(t, err)
	assert.Contains(t, out, "start-position")
	assert.Contains(t, out, "procedure: loop and tension")
	assert.Contains(t, out, "sheet: ")
	out, err = call("rules", "--json")
	require.NoError(t, err)
	var rules []map[string]string
	require.NoError(t, json.Unmarshal([]byte(out), &rules))
	assert.Greater(t, len(rules), 130)
	for _, r := range rules {
		assert.NotEmpty(t, r["protects"], r["id"])
		assert.Contains(t, []string{"blocks", "should-fix", "look"}, r["severity"], r["id"])
	}
}

func TestDiff(t *testing.T) {
	a, b := folder+"renew-timing-belt-r3.latch.json", folder+"renew-timing-belt-r4.latch.json"
	out, err := call("diff", a, a)
	require.NoError(t, err)
	assert.Equal(t, "nothing differs\n", out)

	out, err = call("diff", a, b)
	assert.Equal(t, exit(1), err, "they differ")
	assert.Contains(t, out, "the same")
	assert.Contains(t, out, "− ")
	out, err = call("diff", "--json", a, b)
	assert.Equal(t, exit(1), err)
	var r struct {
		Rows []struct{ Kind, Before, After string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &r))
	assert.Greater(t, len(r.Rows), 50)

	_, err = call("diff", a, folder+"nothing.latch.json")
	assert.ErrorContains(t, err, "nothing.latch.json")
}
