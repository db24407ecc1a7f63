package engine_test

import (
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
)

// Every list of things with identifiers of their own type has its kind, and every kind
// its list: who adds one to the sheet is told here.
func TestEveryListHasItsKind(t *testing.T) {
	sheet := reflect.TypeFor[engine.Sheet]()
	seen := 0
	for i := range sheet.NumField() {
		f := sheet.Field(i)
		if f.Type.Kind() != reflect.Slice || f.Type.Elem().Kind() != reflect.Struct {
			continue
		}
		id, ok := f.Type.Elem().FieldByName("ID")
		if !ok || id.Type == reflect.TypeFor[string]() {
			continue // names and cases, which nothing names
		}
		list, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		k := engine.KindOn(list)
		if !assert.NotNil(t, k, "the list %s has no kind in engine.Kinds", list) {
			continue
		}
		seen++
		assert.Equal(t, id.Type, k.ID, list)
		assert.Same(t, k, engine.KindOf(id.Type))
		assert.Same(t, k, k.Kind.Of())
		assert.Equal(t, list, k.Kind.List())
	}
	assert.Len(t, engine.Kinds, seen)
}

// What each thing of the demo is called and where it stands is found by its kind.
func TestAThingByItsKind(t *testing.T) {
	f := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&f.Engine)
	for _, k := range engine.Kinds {
		v := reflect.ValueOf(x.Sheet).Elem()
		for i := range v.NumField() {
			if list, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ","); list != k.List {
				continue
			}
			for n := range v.Field(i).Len() {
				r := engine.Ref{Kind: k.Kind, ID: v.Field(i).Index(n).FieldByName("ID").String()}
				assert.NotEmpty(t, x.Name(r), r)
				assert.Contains(t, x.Name(r), v.Field(i).Index(n).FieldByName("Name").String())
				back, ok := engine.RefAt(r.Path() + "/name")
				assert.True(t, ok)
				assert.Equal(t, r, back)
			}
		}
		assert.Empty(t, x.Name(engine.Ref{Kind: k.Kind, ID: "none of that"}))
	}
	_, ok := engine.RefAt("limits/backOff")
	assert.False(t, ok)
	assert.Empty(t, x.Name(engine.Ref{Kind: "spring", ID: "x"}))
	assert.Empty(t, engine.Kind("spring").List())
}
