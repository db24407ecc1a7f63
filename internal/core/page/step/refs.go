package step

import (
	"reflect"
	"strings"
	"unicode"

	"inklatch/internal/core/engine"
)

// Refs are the things an action names, kind and identifier, in the order of its
// fields.
func Refs(a Action) []engine.Ref { return refs(a, func(string) bool { return true }) }

func refs(a Action, wanted func(key string) bool) []engine.Ref {
	var out []engine.Ref
	v := reflect.ValueOf(a).Elem()
	for i := range v.NumField() {
		f := v.Field(i)
		if key, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ","); !wanted(key) {
			continue
		}
		if k := engine.KindOf(f.Type()); k != nil && f.String() != "" {
			out = append(out, engine.Ref{Kind: k.Kind, ID: f.String()})
		}
		if f.Kind() != reflect.Slice {
			continue
		}
		if k := engine.KindOf(f.Type().Elem()); k != nil {
			for j := range f.Len() {
				out = append(out, engine.Ref{Kind: k.Kind, ID: f.Index(j).String()})
			}
		}
	}
	return out
}

// Rename gives the things an action names other names, as engine.Rename does, and moves
// what stands beside the first thing up where the first is gone, or is the same.
func Rename(a Action, f func(list, id string) string) {
	engine.Rename(a, f)
	v := reflect.ValueOf(a).Elem()
	also := v.FieldByName("Also")
	if !also.IsValid() || also.Len() == 0 {
		return
	}
	for i := range v.NumField() {
		one := v.Field(i)
		if one.Type() != also.Type().Elem() || !one.CanSet() {
			continue
		}
		if one.String() == "" {
			one.Set(also.Index(0))
		}
		rest := reflect.Zero(also.Type())
		for k := range also.Len() {
			if also.Index(k).String() != one.String() {
				rest = reflect.Append(rest, also.Index(k))
			}
		}
		also.Set(rest)
		return
	}
}

// FreeTexts are the words of an action that are typed freely, without those that are
// empty.
func FreeTexts(a Action) []string {
	var out []string
	EachText(a, func(s string) string {
		out = append(out, s)
		return s
	})
	return out
}

// EachText gives every text of an action that is typed freely the words that f has for
// it.
func EachText(a Action, f func(string) string) {
	free := map[string]bool{}
	for _, field := range SpecOf(a.Verb()).Fields {
		free[field.Key] = field.Kind == TextIn
	}
	v := reflect.ValueOf(a).Elem()
	for i := range v.NumField() {
		key, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		if s := v.Field(i); free[key] && s.Kind() == reflect.String && s.String() != "" {
			s.SetString(f(s.String()))
		}
	}
}

// WordsOf are the words and figures of a text in small letters, without what stands
// between them.
func WordsOf(s string) []string {
	return strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '-' })
}

// Worked are the things an action works at, without those it names beside: what holds
// against, what the wrench goes on.
func Worked(a Action) []engine.Ref {
	beside := map[string]bool{}
	for _, f := range SpecOf(a.Verb()).Fields {
		beside[f.Key] = f.Beside
	}
	return refs(a, func(key string) bool { return !beside[key] })
}

// Clone is an action that shares no field with the one it is of; its lists are shared
// until one is written anew.
func Clone(a Action) Action {
	v := reflect.New(reflect.TypeOf(a).Elem())
	v.Elem().Set(reflect.ValueOf(a).Elem())
	return v.Interface().(Action)
}

// EachTurns gives every count of turns of an action the one that f has for it.
func EachTurns(a Action, f func(float64) float64) {
	if v := reflect.ValueOf(a).Elem().FieldByName("Turns"); v.IsValid() && v.Kind() == reflect.Float64 && v.Float() != 0 {
		v.SetFloat(f(v.Float()))
	}
}

// Twice is a thing that an action names two times where it names several: within one
// list, or first and beside it. The order in which a loop is laid is not one of these.
func Twice(a Action) (engine.Ref, bool) {
	v := reflect.ValueOf(a).Elem()
	for i := range v.NumField() {
		f := v.Field(i)
		if f.Kind() != reflect.Slice || f.Type() == reflect.TypeFor[[]engine.WheelID]() {
			continue
		}
		k := engine.KindOf(f.Type().Elem())
		if k == nil {
			continue
		}
		seen := map[string]bool{}
		if v.Type().Field(i).Name == "Also" {
			for n := range v.NumField() {
				if v.Field(n).Type() == f.Type().Elem() {
					seen[v.Field(n).String()] = true
				}
			}
		}
		for n := range f.Len() {
			id := f.Index(n).String()
			if seen[id] {
				return engine.Ref{Kind: k.Kind, ID: id}, true
			}
			seen[id] = true
		}
	}
	return engine.Ref{}, false
}
