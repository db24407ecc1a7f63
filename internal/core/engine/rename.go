package engine

import "reflect"

// Rename gives every identifier within v, a pointer to a struct, the name that f has
// for it; an empty name takes it out of what names it, and of those in a list that get
// one name the first stays. f is told the list of the sheet that the identifier names a
// thing of. Lists are written anew, so that what shares them is left as it was.
func Rename(v any, f func(list, id string) string) { rename(reflect.ValueOf(v).Elem(), f) }

func rename(v reflect.Value, f func(list, id string) string) {
	switch v.Kind() {
	case reflect.String:
		if list := listNamed(v.Type()); list != "" && v.String() != "" {
			v.SetString(f(list, v.String()))
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				rename(v.Field(i), f)
			}
		}
	case reflect.Slice:
		renameEach(v, f)
	case reflect.Pointer:
		if !v.IsNil() && v.Elem().Kind() == reflect.Struct {
			own := reflect.New(v.Elem().Type())
			own.Elem().Set(v.Elem())
			rename(own.Elem(), f)
			v.Set(own)
		}
	}
}

// holds reports whether a list of identifiers has one.
func holds(list reflect.Value, id string) bool {
	for i := range list.Len() {
		if list.Index(i).String() == id {
			return true
		}
	}
	return false
}

func renameEach(v reflect.Value, f func(list, id string) string) {
	isID := listNamed(v.Type().Elem()) != ""
	if v.Len() == 0 || !isID && v.Type().Elem().Kind() != reflect.Struct {
		return
	}
	kept := reflect.MakeSlice(v.Type(), 0, v.Len())
	for i := range v.Len() {
		e := reflect.New(v.Type().Elem()).Elem()
		e.Set(v.Index(i))
		rename(e, f)
		if !isID || e.String() != "" && !holds(kept, e.String()) {
			kept = reflect.Append(kept, e)
		}
	}
	if kept.Len() == 0 {
		kept = reflect.Zero(v.Type())
	}
	v.Set(kept)
}
