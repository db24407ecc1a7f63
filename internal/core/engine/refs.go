package engine

import (
	"reflect"
	"strings"
)

// Naming is a value on the sheet that names a thing of one of its lists.
type Naming struct {
	// Path is the value, as an edit names it: "parts/upper-cover/after".
	Path string
	// List and ID are the thing it names; Several is set where the value is a list
	// of such.
	List, ID string
	Several  bool
}

// Ref is the thing it names.
func (n Naming) Ref() Ref { return Ref{KindOn(n.List).Kind, n.ID} }

// Namings are all values of the sheet that name a thing, read off the types: a new
// field that names one is among them.
func (s *Sheet) Namings() []Naming {
	var out []Naming
	s.things(func(path string, v reflect.Value) {
		switch {
		case listNamed(v.Type()) != "":
			if v.String() != "" {
				out = append(out, Naming{path, listNamed(v.Type()), v.String(), false})
			}
		default:
			for i := range v.Len() {
				out = append(out, Naming{path, listNamed(v.Type().Elem()), v.Index(i).String(), true})
			}
		}
	})
	return out
}

// Has reports whether a list of the sheet has a thing.
func (s *Sheet) Has(list, id string) bool {
	found := false
	s.eachList(func(name string, v reflect.Value) {
		for i := range v.Len() {
			found = found || name == list && v.Index(i).FieldByName("ID").String() == id
		}
	})
	return found
}

// drop takes a thing out of every value that names it.
func (s *Sheet) drop(list, id string) {
	s.things(func(_ string, v reflect.Value) {
		if v.Kind() == reflect.String {
			if listNamed(v.Type()) == list && v.String() == id {
				v.SetString("")
			}
			return
		}
		if listNamed(v.Type().Elem()) != list || v.Len() == 0 {
			return
		}
		kept := reflect.MakeSlice(v.Type(), 0, v.Len())
		for i := range v.Len() {
			if v.Index(i).String() != id {
				kept = reflect.Append(kept, v.Index(i))
			}
		}
		if kept.Len() != v.Len() {
			v.Set(kept)
		}
	})
}

// eachList calls f for every list of things on the sheet, by its name.
func (s *Sheet) eachList(f func(name string, v reflect.Value)) {
	v := reflect.ValueOf(s).Elem()
	for i := range v.NumField() {
		name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		if KindOn(name) != nil {
			f(name, v.Field(i))
		}
	}
}

// things calls f for every value of a thing that names another, or a list of such.
func (s *Sheet) things(f func(path string, v reflect.Value)) {
	s.eachList(func(list string, v reflect.Value) {
		for i := range v.Len() {
			within(list+"/"+v.Index(i).FieldByName("ID").String(), v.Index(i), f)
		}
	})
}

func within(path string, v reflect.Value, f func(path string, v reflect.Value)) {
	for i := range v.NumField() {
		field := v.Type().Field(i)
		key, _, _ := strings.Cut(field.Tag.Get("json"), ",")
		if key == "" || field.Name == "ID" {
			continue
		}
		switch ft := field.Type; {
		case listNamed(ft) != "", ft.Kind() == reflect.Slice && listNamed(ft.Elem()) != "":
			f(path+"/"+key, v.Field(i))
		case ft.Kind() == reflect.Pointer && ft.Elem().Kind() == reflect.Struct && !v.Field(i).IsNil():
			within(path+"/"+key, v.Field(i).Elem(), f)
		}
	}
}
