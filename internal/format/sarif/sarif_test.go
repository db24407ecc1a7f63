package sarif_test

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/go-json-experiment/json/jsontext"
	std "github.com/owenrumney/go-sarif/v3/pkg/report/v210/sarif"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/format/sarif"
	"inklatch/internal/format/sarif/sariftest"
)

// walk calls f for every value of a document with its pointer.
func walk(v any, at string, f func(at string, v any)) {
	f(at, v)
	switch v := v.(type) {
	case map[string]any:
		for k, e := range v {
			walk(e, at+"/"+strings.NewReplacer("~", "~0", "/", "~1").Replace(k), f)
		}
	case []any:
		for i, e := range v {
			walk(e, at+"/"+strconv.Itoa(i), f)
		}
	}
}

// offset is the byte at which a place stands.
func offset(t *testing.T, text []byte, p sarif.Place) int {
	lines := bytes.Split(text, []byte("\n"))
	require.LessOrEqual(t, p.Line, len(lines))
	at := 0
	for _, l := range lines[:p.Line-1] {
		at += len(l) + 1
	}
	n := 1
	for _, r := range string(lines[p.Line-1]) {
		if n == p.Column {
			break
		}
		n += utf16.RuneLen(r)
		at += len(string(r))
	}
	return at
}

// Read from its place on, every value of a file is that value: of the demo's files, which are
// one line, and laid out over many.
func TestPlaces(t *testing.T) {
	files, err := filepath.Glob("../../../demo/*.latch.json")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	texts := [][]byte{[]byte(`{"a~/b":[1,{"é😀":"x","c":[]}, null ,{} ],"":{"d":true}}`)}
	for _, f := range files[:4] {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		var wide bytes.Buffer
		require.NoError(t, json.Indent(&wide, b, "", "\t"))
		texts = append(texts, b, wide.Bytes())
	}
	for _, text := range texts {
		var doc any
		require.NoError(t, json.Unmarshal(text, &doc))
		want := map[string]any{}
		var all []string
		walk(doc, "", func(at string, v any) {
			want[at] = v
			all = append(all, at)
		})
		slices.Sort(all)
		got := sarif.Places(text, all)
		require.Len(t, got, len(all))
		step := max(1, len(all)/400)
		for i := 0; i < len(all); i += step {
			var v any
			raw, err := jsontext.NewDecoder(bytes.NewReader(text[offset(t, text, got[all[i]]):])).ReadValue()
			require.NoError(t, err, all[i])
			require.NoError(t, json.Unmarshal(raw, &v), all[i])
			assert.Equal(t, want[all[i]], v, all[i])
		}
	}
	assert.Empty(t, sarif.Places([]byte(`{"a":`), []string{"/b"}))
	assert.Empty(t, sarif.Places(nil, []string{"/b"}))
}

// What is written is SARIF 2.1.0 by its published schema.
func TestWrite(t *testing.T) {
	text := []byte("{\n \"procedure\": {\"steps\": [{\"id\": \"s1\"},\n  {\"id\": \"s2\"}]}}")
	var out bytes.Buffer
	require.NoError(t, sarif.Write(&out, "1.2", []sarif.Rule{{"lock-left-in", "an engine started with a lock in"}}, []sarif.File{
		{Name: "pages/é one.latch.json", Text: text, Results: []sarif.Result{
			{Rule: "lock-left-in", Level: sarif.Error, Says: "Step 2 starts the engine", At: []string{"/procedure/steps/1", "/procedure/steps/0/accept/3"}, Key: "k"},
			{Rule: "other", Level: sarif.Note, Says: "The file", Accepted: "because"},
		}},
		{Name: "-", Error: "it is no latch file"},
	}))
	var r std.Report
	require.NoError(t, json.Unmarshal(out.Bytes(), &r))
	require.NoError(t, sariftest.Valid(out.Bytes()))
	require.Error(t, sariftest.Valid(bytes.ReplaceAll(out.Bytes(), []byte(`"2.1.0"`), []byte(`"2.2.0"`))), "it does look")
	run := r.Runs[0]
	assert.Equal(t, "pages/%C3%A9%20one.latch.json", *run.Results[0].Locations[0].PhysicalLocation.ArtifactLocation.URI)
	region := run.Results[0].Locations[0].PhysicalLocation.Region
	assert.Equal(t, []int{3, 3}, []int{*region.StartLine, *region.StartColumn})
	beside := run.Results[0].RelatedLocations[0].PhysicalLocation.Region
	assert.Equal(t, []int{2, 26}, []int{*beside.StartLine, *beside.StartColumn}, "what is not written stands where its holder does")
	assert.Equal(t, "because", *run.Results[1].Suppressions[0].Justification)
	assert.False(t, *run.Invocations[0].ExecutionSuccessful)
	assert.Equal(t, "An engine started with a lock in.", *run.Tool.Driver.Rules[0].ShortDescription.Text)
}
