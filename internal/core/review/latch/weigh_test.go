package latch_test

import (
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/unit"
)

// Whatever of a header or of a step differs is a change with a weight, so that no
// latch stays closed over it.
func TestEveryFieldWeighs(t *testing.T) {
	var h procedure.Header
	leaves(reflect.ValueOf(&h).Elem(), "", func(path string, v reflect.Value) {
		if path == "Engine" { // a page keeps its code
			return
		}
		h = procedure.Header{}
		other := h
		stir(v)
		got := latch.Changes(&procedure.Procedure{Header: other}, &procedure.Procedure{Header: h})
		assert.NotEmpty(t, got, "%s of a header weighs nothing", path)
		h = procedure.Header{}
	})
	s := step.Step{ID: "a", Phase: "fit", Action: &step.Wait{}}
	leaves(reflect.ValueOf(&s).Elem(), "", func(path string, v reflect.Value) {
		if path == "ID" || path == "Action" || strings.HasPrefix(path, "Action.") {
			return
		}
		before := s
		stir(v)
		got := latch.Changes(&procedure.Procedure{Steps: []step.Step{before}}, &procedure.Procedure{Steps: []step.Step{s}})
		assert.NotEmpty(t, got, "%s of a step weighs nothing", path)
		s = before
	})
}

// leaves calls f with every value of a struct that is not a struct of this program.
func leaves(v reflect.Value, path string, f func(string, reflect.Value)) {
	for i := range v.NumField() {
		name := v.Type().Field(i).Name
		if !v.Type().Field(i).IsExported() {
			continue
		}
		at := strings.TrimPrefix(path+"."+name, ".")
		if q := v.Field(i); q.Kind() == reflect.Struct && q.Type() != reflect.TypeFor[unit.Quantity]() {
			leaves(q, at, f)
		} else {
			f(at, q)
		}
	}
}

// stir gives a value another one.
func stir(v reflect.Value) {
	switch v.Kind() {
	case reflect.String:
		v.SetString("stirred")
	case reflect.Bool:
		v.SetBool(!v.Bool())
	case reflect.Int:
		v.SetInt(v.Int() + 7)
	case reflect.Float64:
		v.SetFloat(v.Float() + 7)
	case reflect.Slice:
		v.Set(reflect.Append(reflect.MakeSlice(v.Type(), 0, 1), reflect.Zero(v.Type().Elem())))
		if v.Type().Elem().Kind() == reflect.String {
			v.Index(0).SetString("stirred")
		}
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
	case reflect.Struct:
		q, err := unit.Parse("7 min")
		if err == nil && v.Type() == reflect.TypeOf(q) {
			v.Set(reflect.ValueOf(q))
		}
	}
}
