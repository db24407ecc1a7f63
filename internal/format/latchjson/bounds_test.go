package latchjson

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/unit"
)

// numbers calls f with every number that a sheet has a place for.
func numbers(t reflect.Type, path string, f func(path string)) {
	switch {
	case t == reflect.TypeFor[unit.Quantity](), t == reflect.TypeFor[json.RawMessage]():
	case t.Kind() == reflect.Int, t.Kind() == reflect.Int64, t.Kind() == reflect.Float64:
		f(path)
	case t.Kind() == reflect.Slice:
		numbers(t.Elem(), path+"/*", f)
	case t.Kind() == reflect.Pointer:
		numbers(t.Elem(), path, f)
	case t.Kind() == reflect.Struct:
		for i := range t.NumField() {
			if name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ","); name != "" {
				numbers(t.Field(i).Type, strings.TrimPrefix(path+"/"+name, "/"), f)
			}
		}
	}
}

// A number that is added to the sheet without bounds of its own fails here, and so does a
// bound of nothing.
func TestEveryNumberHasBounds(t *testing.T) {
	met := map[string]bool{}
	numbers(reflect.TypeFor[engine.Sheet](), "", func(path string) {
		met[path] = true
		b, ok := bounds[path]
		assert.True(t, ok, "%s has no bounds", path)
		assert.Less(t, b.least, b.most, path)
	})
	for path := range bounds {
		assert.True(t, met[path], "nothing is at %s", path)
	}
}

// Whatever number of a sheet is set beyond its bounds, by itself or by a case, is refused
// with its place, and at its bounds it is taken.
func TestNoNumberBeyondItsBounds(t *testing.T) {
	s := fixture.Document("renew-timing-belt-r3.latch.json").Engine
	require.NoError(t, CheckSheet(&s))
	for path, b := range bounds {
		if strings.Contains(path, "*") {
			continue
		}
		for _, c := range []struct {
			value float64
			fits  bool
		}{{b.most, true}, {b.most + 1, false}, {b.least - 1, false}, {1e12, false}} {
			raw, err := json.Marshal(s)
			require.NoError(t, err)
			var m map[string]any
			require.NoError(t, json.Unmarshal(raw, &m))
			keys := strings.Split(path, "/")
			in := m
			for _, k := range keys[:len(keys)-1] {
				in, _ = in[k].(map[string]any)
			}
			if in == nil {
				continue
			}
			in[keys[len(keys)-1]] = c.value
			raw, err = json.Marshal(m)
			require.NoError(t, err)
			_, err = DecodeSheet(raw)
			if c.fits {
				assert.NoError(t, err, path)
				continue
			}
			var e *Error
			require.ErrorAs(t, err, &e, path)
			assert.Equal(t, strings.ReplaceAll(path, "/", "."), e.Place)
		}
	}
	for path, set := range map[string]string{
		"fasteners/idler-bolt/count":  "100000000",
		"wheels/inlet/teeth":          "-3",
		"shafts/inlet/valves":         `{"opens": 1e9}`,
		"fasteners/idler-bolt/places": `[{"x": 0, "y": 1e7}]`,
		"shafts/inlet/rests":          "[" + strings.Repeat("1,", 300) + "1]",
		"tensioners/tensioner/settle": "101",
		"locks/crank-pin/repeats":     "361",
		"marks/crank-mark/at":         "-3601",
		"fasteners/idler-bolt/across": "5001",
		"wheels/inlet/diameter":       "10001",
		"tools/crank-pin/equivalents": `[{"number":"A","play":1e8}]`,
		"tensioners/tensioner/travel": "-1",
		"fasteners/crank-bolt/count":  "501",
		"wheels/exhaust/x":            "5001",
		"tensioners/tensioner/moves":  "1e300",
		"locks/cam-bar/playMM":        "99999",
		"shafts/exhaust/contact":      "1e7",
		"wheels/exhaust/range":        "-99999",
	} {
		at := strings.LastIndex(path, "/")
		v := s
		v.Varies = []engine.Variation{{ID: "bad", Of: path[:at], Cases: []engine.Case{{Set: map[string]json.RawMessage{path[at+1:]: json.RawMessage(set)}}}}}
		var e *Error
		require.ErrorAs(t, CheckSheet(&v), &e, path)
		assert.Contains(t, e.Place, "varies[0].cases[0].set."+path[at+1:])
	}
	long := s
	long.Parts = nil
	for i := range mostThings + 1 {
		long.Parts = append(long.Parts, engine.Part{ID: engine.PartID(fmt.Sprint("part-", i)), Name: fmt.Sprint("part ", i), Kind: engine.PartKind("cover")})
	}
	assert.ErrorContains(t, CheckSheet(&long), "at most 300")
}
