package engine_test

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
)

// Every value of every thing can be typed: a field that is added to a type and
// has no label is named here. What is dragged, led or kept is not typed.
func TestEveryValueOfASheetCanBeTyped(t *testing.T) {
	have := map[string]bool{}
	for _, f := range engine.Fields() {
		have[f.List+"/"+f.Key] = true
		assert.NotEmpty(t, f.Label, f.Key)
		if f.Kind == engine.OneField || f.Kind == engine.SeveralField {
			assert.NotEmpty(t, f.Of, f.Key)
		}
	}
	elsewhere := map[string]bool{"wheels/x": true, "wheels/y": true, "loops/route": true}
	s := reflect.TypeFor[engine.Sheet]()
	n := 0
	for i := range s.NumField() {
		list, _, _ := strings.Cut(s.Field(i).Tag.Get("json"), ",")
		e := s.Field(i).Type
		if e.Kind() != reflect.Slice || e.Elem().Kind() != reflect.Struct || list == "varies" || list == "names" {
			continue
		}
		for k := range e.Elem().NumField() {
			key, _, _ := strings.Cut(e.Elem().Field(k).Tag.Get("json"), ",")
			if key == "id" || elsewhere[list+"/"+key] {
				continue
			}
			n++
			nested := list == "tensioners" && key == "frequency" || list == "shafts" && key == "valves"
			assert.True(t, have[list+"/"+key] || nested, "%s/%s has no label: nobody can type it", list, key)
		}
	}
	assert.Greater(t, n, 70)
}

// Lists that are typed as one line are read back as they are written.
func TestListsTypedAsOneLine(t *testing.T) {
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	for path, text := range s.Texts() {
		if text == "" {
			continue
		}
		b, err := json.Marshal(text)
		require.NoError(t, err)
		again, err := engine.Apply(s, []engine.Edit{{Path: path, Value: b}})
		require.NoError(t, err, path)
		assert.Equal(t, text, again.Texts()[path], path)
	}
	edit := func(path, line string) (*engine.Sheet, error) {
		b, _ := json.Marshal(line)
		return engine.Apply(s, []engine.Edit{{Path: path, Value: b}})
	}
	one, err := edit("tensioners/tensioner/pointer", "-20: low; 10 °C: in the notch")
	require.NoError(t, err)
	assert.Equal(t, "-20 °C: low; 10 °C: in the notch", strings.ReplaceAll(one.Texts()["tensioners/tensioner/pointer"], "−", "-"))
	one, err = edit("tools/tl-101/equivalents", "TL-901 ±0.4, TL-902 ±0.6°")
	require.NoError(t, err)
	assert.Equal(t, []engine.Equivalent{{Number: "TL-901", Play: 0.4}, {Number: "TL-902", Play: 0.6}}, one.Tools[0].Equivalents)
	for path, line := range map[string]string{"tensioners/tensioner/pointer": "when it is warm", "tools/tl-101/equivalents": "TL-9 ±0,4"} {
		_, err := edit(path, line)
		assert.Error(t, err, line)
	}
}
