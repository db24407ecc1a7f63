package latchjson_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/format/latchjson"
)

var files = []string{
	"renew-timing-belt-r3.latch.json", "renew-timing-belt-r4.latch.json", "check-valve-timing-r1.latch.json", "renew-belt-in-oil-r1.latch.json",
	"renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-cam-chain-r1.latch.json",
	"renew-belts-at-rest-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
}

func TestWhatWasWrittenReadsBackToTheSameBytes(t *testing.T) {
	for _, f := range files {
		raw, err := demo.Files.ReadFile(f)
		require.NoError(t, err)
		d, err := latchjson.Decode(raw)
		require.NoError(t, err)
		again, err := latchjson.Encode(d)
		require.NoError(t, err)
		assert.Equal(t, string(raw), string(again), f)
	}
}

func TestFilesFitTheirSchema(t *testing.T) {
	var schema any
	b, err := json.Marshal(latchjson.Schema())
	require.NoError(t, err)
	schema, err = jsonschema.UnmarshalJSON(bytes.NewReader(b))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("latch.json", schema))
	s, err := c.Compile("latch.json")
	require.NoError(t, err)
	for _, f := range files {
		raw, err := demo.Files.ReadFile(f)
		require.NoError(t, err)
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
		require.NoError(t, err)
		assert.NoError(t, s.Validate(doc), f)
	}
	bad, err := jsonschema.UnmarshalJSON(strings.NewReader(`{"format":"ink-latch/1","engine":{},"procedure":{}}`))
	require.NoError(t, err)
	assert.Error(t, s.Validate(bad))
}

func TestBadFilesSayWhere(t *testing.T) {
	raw, err := demo.Files.ReadFile(files[0])
	require.NoError(t, err)
	good := string(raw)
	swap := func(old, new string) string {
		require.Contains(t, good, old)
		return strings.Replace(good, old, new, 1)
	}
	last := func(old, new string) string {
		i := strings.LastIndex(good, old)
		require.Positive(t, i)
		return good[:i] + new + good[i+len(old):]
	}
	for name, c := range map[string]struct{ file, place, says string }{
		"empty":            {"", "", "empty"},
		"truncated":        {good[:len(good)/2], "", "cut off"},
		"not JSON":         {"steps: none", "", "not JSON"},
		"wrong type":       {last(`"torque":"39 N·m"`, `"torque":42`), "procedure.steps[25].stages[0].torque", ""},
		"unknown unit":     {last(`"torque":"39 N·m"`, `"torque":"42 stone"`), "procedure.steps[25].stages[0].torque", "value with a unit"},
		"unknown verb":     {swap(`"verb":"take-off"`, `"verb":"yank-off"`), "procedure.steps[20].verb", "yank-off"},
		"unknown field":    {swap(`"loop":"timing-belt","phase":"take-off"`, `"rope":"timing-belt","phase":"take-off"`), "procedure.steps[20].rope", "no such field"},
		"unknown phase":    {swap(`"phase":"take-off"`, `"phase":"lunch"`), "procedure.steps[20].phase", "lunch"},
		"duplicate ids":    {swap(`"id":"s02"`, `"id":"s01"`), "procedure.steps[1].id", "already"},
		"duplicate field":  {swap(`"id":"s02"`, `"id":"s02","id":"s03"`), "procedure.steps[1].id", ""},
		"invalid UTF-8":    {swap(`"Tarn"`, "\"T\xffrn\""), "engine.maker", "UTF-8"},
		"another format":   {swap("ink-latch/1", "ink-latch/9"), "format", "ink-latch/9"},
		"another engine":   {swap(`"engine":"TQ4-18P"`, `"engine":"TQ9"`), "procedure.engine", "TQ9"},
		"a missing wheel":  {swap(`"wheel":"pump-wheel"`, `"wheel":"moon-wheel"`), "engine.loops[0].route[2].wheel", "moon-wheel"},
		"deeply nested":    {strings.Repeat(`{"engine":`, 500) + "1" + strings.Repeat("}", 500), "engine", "deep"},
		"50 MB":            {`{"format":"` + strings.Repeat("x", 50<<20) + `"}`, "", "at most 8 MB"},
		"a list":           {"[]", "", ""},
		"null":             {"null", "format", ""},
		"more than one":    {good + good, "", ""},
		"zero cycle":       {swap(`"cycle":"four-stroke"`, `"cycle":"six-stroke"`), "engine.cycle", "four-stroke"},
		"negative teeth":   {swap(`"teeth":21`, `"teeth":-21`), "engine.wheels[0].teeth", "teeth"},
		"lock without end": {swap(`"holds":["crank"]`, `"holds":["crunk"]`), "engine.locks[0].holds[0]", "crunk"},
	} {
		_, err := latchjson.Decode([]byte(c.file))
		var e *latchjson.Error
		if !assert.ErrorAs(t, err, &e, name) {
			continue
		}
		if c.place != "" {
			assert.True(t, strings.HasPrefix(e.Place, c.place), "%s: at %q, want %q (%v)", name, e.Place, c.place, e)
		}
		assert.Contains(t, e.Error(), c.says, name)
		assert.NotContains(t, e.Error(), "jsontext", name)
	}
}

func TestASumIsTheSHA256OfTheBytes(t *testing.T) {
	// FIPS 180-4 example: SHA-256 of "abc".
	assert.Equal(t, "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad", latchjson.Sum([]byte("abc")))
}

// RFC 8785, section 3.2.3: members are sorted by UTF-16 code units and nothing is
// spaced.
func TestCanonicalForm(t *testing.T) {
	b, err := latchjson.Canonical(map[string]any{"\u20ac": "Euro Sign", "\r": "Carriage Return", "1": "One", "\u00f6": "Latin Small Letter O With Diaeresis", "a": []int{3, 1}})
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprintf("{\"\\r\":\"Carriage Return\",\"1\":\"One\",\"a\":[3,1],\"%c\":\"Latin Small Letter O With Diaeresis\",\"%c\":\"Euro Sign\"}\n", 0xf6, 0x20ac), string(b))
}

func FuzzDecode(f *testing.F) {
	d := demo.Document(files[2])
	d.Procedure.Steps = d.Procedure.Steps[:3]
	d.Engine = engine.Sheet{Code: d.Engine.Code, Cycle: d.Engine.Cycle, Running: d.Engine.Running, Wheels: d.Engine.Wheels[:1], Fasteners: d.Engine.Fasteners[:1]}
	raw, err := latchjson.Encode(d)
	require.NoError(f, err)
	f.Add(raw)
	f.Add([]byte(`{"format":"ink-latch/1","engine":{},"procedure":{"steps":[{"verb":"turn"}]}}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		d, err := latchjson.Decode(raw)
		if err != nil {
			return
		}
		one, err := latchjson.Encode(d)
		if err != nil {
			t.Fatal(err)
		}
		back, err := latchjson.Decode(one)
		if err != nil {
			t.Fatalf("what was written does not read: %v", err)
		}
		two, err := latchjson.Encode(back)
		if err != nil || !bytes.Equal(one, two) {
			t.Fatalf("written twice differs: %v", err)
		}
	})
}

func TestBadSheetsSayWhere(t *testing.T) {
	raw, err := demo.Files.ReadFile("tq4-18p.engine.json")
	require.NoError(t, err)
	_, err = latchjson.DecodeSheet(raw)
	require.NoError(t, err)
	for _, c := range []struct{ old, new, place, says string }{
		{`"mount": "keyed"`, `"mount": "welded"`, "wheels[0].mount", "keyed, dowelled, floating, slotted, friction, phaser, idle, rail"},
		{`"kind": "belt"`, `"kind": "rope"`, "loops[0].kind", "belt, chain"},
		{`"side": "back"`, `"side": "under"`, "loops[0].route[1].side", "inside, back"},
		{`"kind": "stop"`, `"kind": "wedge"`, "locks[0].kind", "stop, pin, bar"},
		{`"kind": "timing"`, `"kind": "old"`, "marks[0].kind", "timing, loop, look-alike"},
		{`"method": "eccentric with pointer"`, `"method": "by feel"`, "tensioners[0].method", "hydraulic with pin"},
		{`"policy": "goes back"`, `"policy": "maybe"`, "parts[0].policy", "always new"},
		{`"interference": "yes"`, `"interference": "rarely"`, "interference", "yes, no, unknown"},
		{`"running": "clockwise"`, `"running": "forwards"`, "running", "clockwise or counterclockwise"},
		{`"x": -45`, `"x": -45000`, "wheels[1]", "between -5000 and 5000"},
		{`"diameter": 56`, `"diameter": -56`, "wheels[1].diameter", "between 0 and 10000"},
		{`"pitch": 9.525`, `"pitch": 9525`, "loops[0].pitch", "between 0 and 100"},
		{`"teeth": 109`, `"teeth": 109000`, "loops[0].teeth", "between 0 and 5000"},
		{`"repeats": 1`, `"repeats": -1`, "locks[0].repeats", "between 0 and 360"},
		{`"id": "inlet", "name"`, `"id": "crank", "name"`, "shafts[1].id", "already"},
		{`"id": "idler-wheel"`, `"id": ""`, "wheels[5].id", "needs an id"},
		{`"code": "TQ4-18P"`, `"code": ""`, "code", "needs its code"},
		{`"bore": "82 mm"`, `"bore": "82 miles"`, "bore", "value with a unit"},
		{`"family": "TQ"`, `"famly": "TQ"`, "famly", "no such field"},
	} {
		require.Contains(t, string(raw), c.old)
		_, err := latchjson.DecodeSheet([]byte(strings.Replace(string(raw), c.old, c.new, 1)))
		var e *latchjson.Error
		if !assert.ErrorAs(t, err, &e, c.new) {
			continue
		}
		assert.True(t, strings.HasPrefix(e.Place, c.place), "%s: at %q (%v)", c.new, e.Place, e)
		assert.Contains(t, e.Error(), c.says, c.new)
	}
}

func TestASheetOnItsOwnOrInAFile(t *testing.T) {
	for _, f := range []string{"tq4-18p.engine.json", "renew-belt-both-banks-r1.latch.json"} {
		raw, err := demo.Files.ReadFile(f)
		require.NoError(t, err)
		s, err := latchjson.DecodeAnySheet(raw)
		require.NoError(t, err)
		assert.NotEmpty(t, s.Code)
	}
	for _, bad := range []string{"", "{", `{"format":"ink-latch/1"}`, `{"format":7}`, `[]`, `"x"`} {
		_, err := latchjson.DecodeAnySheet([]byte(bad))
		var e *latchjson.Error
		assert.ErrorAs(t, err, &e, bad)
	}
}

// A sheet with gears, cases, phasers and notes goes out and in unchanged, and
// fits the published schema.
func TestEveryDemoSheetSurvives(t *testing.T) {
	all, err := demo.Files.ReadDir(".")
	require.NoError(t, err)
	n := 0
	for _, f := range all {
		if !strings.HasSuffix(f.Name(), ".latch.json") {
			continue
		}
		n++
		s := &demo.Document(f.Name()).Engine
		b, err := latchjson.Canonical(s)
		require.NoError(t, err)
		back, err := latchjson.DecodeSheet(b)
		require.NoError(t, err, f.Name())
		assert.Equal(t, s, back, f.Name())
	}
	assert.Equal(t, 18, n)
}
