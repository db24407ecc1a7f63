package engine_test

import (
	"encoding/json"
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"reflect"
	"strconv"
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

// Choices are offered as their types say them, those of the sheet itself too, and what
// a choice is called is one of them.
func TestChoicesAreSaidOnce(t *testing.T) {
	have := map[string]engine.Field{}
	for _, f := range engine.Fields() {
		have[strings.TrimPrefix(f.List+"/"+f.Key, "/")] = f
		for v := range f.Called {
			assert.Contains(t, f.Choices, v, f.Key)
		}
	}
	assert.Equal(t, []string{"clockwise", "counterclockwise"}, have["running"].Choices)
	assert.Equal(t, engine.Method("").Choices(), have["tensioners/method"].Choices)
	assert.Equal(t, []string{"dry", "oiled", "greased", "thread lock"}, have["fasteners/lubricant"].Choices)
	for _, m := range engine.Methods {
		for _, o := range m.Owes {
			assert.Contains(t, have, "tensioners/"+o.Field+map[bool]string{true: "/note"}[o.Field == "frequency"], m.Method)
		}
	}
}

// Every constant of a type that is a choice is one of its choices: who adds a method or
// a kind of lock without saying what there is to know of it is told here.
func TestEveryConstantIsAChoice(t *testing.T) {
	set := token.NewFileSet()
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	types := map[string]engine.Choice{
		"Method": engine.Method(""), "Mount": engine.Mount(""), "LockKind": engine.LockKind(""), "MarkKind": engine.MarkKind(""), "PartKind": engine.PartKind(""),
		"Policy": engine.Policy(""), "ShaftKind": engine.ShaftKind(""), "LoopKind": engine.LoopKind(""), "Side": engine.Side(""), "PhaserHome": engine.PhaserHome(""),
		"Meets": engine.Meets(""), "Way": engine.Way(""), "Known": engine.Known(""), "Cycle": engine.Cycle(""),
	}
	n := 0
	for _, name := range files {
		tree, err := parser.ParseFile(set, name, nil, 0)
		require.NoError(t, err)
		ast.Inspect(tree, func(node ast.Node) bool {
			spec, ok := node.(*ast.ValueSpec)
			if !ok || len(spec.Values) != 1 {
				return true
			}
			of, ok := spec.Type.(*ast.Ident)
			lit, isLit := spec.Values[0].(*ast.BasicLit)
			if !ok || !isLit || types[of.Name] == nil {
				return true
			}
			v, err := strconv.Unquote(lit.Value)
			require.NoError(t, err)
			if v != "" {
				n++
				assert.Contains(t, types[of.Name].Choices(), v, "%s is no choice of %s", spec.Names[0].Name, of.Name)
			}
			return true
		})
	}
	assert.Greater(t, n, 40)
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
