package engine

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	exact "github.com/go-json-experiment/json"
)

// Edit changes one value of a sheet. Path names it, things of a list by their
// id: "bore", "limits/backOff", "wheels/crank-wheel/x", "marks/dot". A nil Value
// takes the value, or the whole thing, out; what spoke of the thing is taken
// out along with it.
type Edit struct {
	Path  string          `json:"path"`
	Value json.RawMessage `json:"value,omitempty"`
	// Before is the id of the thing a new one is put before; at the end when
	// empty.
	Before string `json:"before,omitzero"`
}

// EditError is an edit that cannot be made, with the place it is about.
type EditError struct {
	Path string
	Why  string
}

// Error is a sentence with the place.
func (e *EditError) Error() string { return e.Path + ": " + e.Why }

// lists are the members of a sheet that are lists of things with ids.
var lists = func() []string {
	out := []string{"varies", "names"}
	for i := range Kinds {
		out = append(out, Kinds[i].List)
	}
	return out
}()

type object = map[string]any

// Apply makes edits on a copy of s, which stays as it is. Every error is an
// *EditError.
func Apply(s *Sheet, edits []Edit) (*Sheet, error) {
	root, err := toObject(s)
	if err != nil {
		return nil, &EditError{"", err.Error()}
	}
	var removed []string
	for i := range edits {
		gone, err := applyOne(root, &edits[i])
		if err != nil {
			return nil, err
		}
		if gone {
			removed = append(removed, edits[i].Path)
		}
	}
	out, err := fromObject(root)
	if err != nil {
		path := ""
		if len(edits) == 1 {
			path = edits[0].Path
		}
		return nil, &EditError{path, plainError(err)}
	}
	for _, r := range removed {
		kind, id, _ := strings.Cut(r, "/")
		out.forget(kind, id)
	}
	return out, nil
}

func toObject(s *Sheet) (object, error) {
	b, err := json.Marshal(s)
	if err != nil {
		return nil, err
	}
	var o object
	return o, json.Unmarshal(b, &o)
}

func fromObject(o object) (*Sheet, error) {
	b, err := json.Marshal(o)
	if err != nil {
		return nil, err
	}
	// Names of fields are exact: encoding/json would take “X” for “x”.
	var s Sheet
	return &s, exact.Unmarshal(b, &s, exact.RejectUnknownMembers(true))
}

// plainError puts an error of the JSON decoder into words.
func plainError(err error) string {
	var bad *exact.SemanticError
	if !errors.As(err, &bad) {
		return strings.TrimPrefix(err.Error(), "json: ")
	}
	field := string(bad.JSONPointer)
	field = strings.ReplaceAll(field[strings.LastIndex(field, "/")+1:], "~1", "/")
	if errors.Is(bad.Err, exact.ErrUnknownName) {
		return fmt.Sprintf("there is no value “%s” there", field)
	}
	if bad.Err != nil && bad.JSONKind == '"' {
		return bad.Err.Error()
	}
	want := "something else"
	if bad.GoType != nil {
		switch bad.GoType.Kind() {
		case reflect.Int, reflect.Int64:
			want = "a whole number"
		case reflect.Float64:
			want = "a number"
		case reflect.String:
			want = "words"
		case reflect.Slice:
			want = "a list"
		case reflect.Bool:
			want = "yes or no"
		case reflect.Struct, reflect.Map:
			want = "words or parts of its own"
		}
	}
	return fmt.Sprintf("%s takes %s, not a %s", field, want, bad.JSONKind)
}

// applyOne makes one edit; it reports whether a whole thing went.
func applyOne(root object, e *Edit) (bool, error) {
	keys := strings.Split(e.Path, "/")
	if e.Path == "" || slices.Contains(keys, "") || len(keys) > 6 {
		return false, &EditError{e.Path, "this is not the place of a value on an engine sheet"}
	}
	var value any
	if len(e.Value) > 0 {
		if err := json.Unmarshal(e.Value, &value); err != nil {
			return false, &EditError{e.Path, "the value is not JSON"}
		}
		var err error
		if value, err = asWritten(e.Path, value); err != nil {
			return false, err
		}
		if len(keys) == 3 && keys[0] == "varies" && keys[2] == "cases" {
			if err := caseWritten(e.Path, ofVariation(root, keys[1]), value); err != nil {
				return false, err
			}
			value = again(value)
		}
	}
	if slices.Contains(lists, keys[0]) && len(keys) > 1 {
		items, _ := root[keys[0]].([]any)
		if len(keys) == 2 {
			return setItem(root, keys[0], keys[1], items, value, e.Before, e.Path)
		}
		i := itemAt(items, keys[1])
		if i < 0 {
			return false, &EditError{e.Path, fmt.Sprintf("there is no %q among the %s", keys[1], keys[0])}
		}
		if keys[2] == "id" {
			return false, &EditError{e.Path, "an id stays as it is; change the name"}
		}
		return false, setIn(items[i].(object), keys[2:], value, e.Path)
	}
	if keys[0] == "code" && len(keys) == 1 {
		if name, _ := value.(string); strings.TrimSpace(name) == "" {
			return false, &EditError{e.Path, "an engine sheet needs its code"}
		}
	}
	return false, setIn(root, keys, value, e.Path)
}

// ofVariation is the thing a variation of the sheet is of.
func ofVariation(root object, id string) string {
	items, _ := root["varies"].([]any)
	if i := itemAt(items, id); i >= 0 {
		of, _ := items[i].(object)["of"].(string)
		return of
	}
	return ""
}

// again is a value as JSON would give it.
func again(v any) any {
	var out any
	if json.Unmarshal(raw(v), &out) != nil {
		return v
	}
	return out
}

func itemAt(items []any, id string) int {
	return slices.IndexFunc(items, func(v any) bool { o, ok := v.(object); return ok && o["id"] == id })
}

func setItem(root object, list, id string, items []any, value any, before, path string) (bool, error) {
	i := itemAt(items, id)
	if value == nil {
		if i < 0 {
			return false, &EditError{path, fmt.Sprintf("there is no %q among the %s", id, list)}
		}
		root[list] = slices.Delete(items, i, i+1)
		return true, nil
	}
	o, ok := value.(object)
	if !ok {
		return false, &EditError{path, "a thing of the sheet is an object"}
	}
	o["id"] = id
	if i >= 0 {
		items[i] = o
		return false, nil
	}
	at := len(items)
	if k := itemAt(items, before); before != "" && k >= 0 {
		at = k
	}
	root[list] = slices.Insert(items, at, any(o))
	return false, nil
}

func setIn(o object, keys []string, value any, path string) error {
	for _, k := range keys[:len(keys)-1] {
		child, ok := o[k].(object)
		if !ok {
			if o[k] != nil {
				return &EditError{path, fmt.Sprintf("%q has no parts", k)}
			}
			child = object{}
			o[k] = child
		}
		o = child
	}
	last := keys[len(keys)-1]
	if value == nil {
		delete(o, last)
	} else {
		o[last] = value
	}
	return nil
}

// Diff are the edits that lead from one sheet to another, thing by thing: for
// any two sheets Apply(from, Diff(from, to)) is to.
func Diff(from, to *Sheet) []Edit {
	a, errA := toObject(from)
	b, errB := toObject(to)
	if errA != nil || errB != nil {
		return nil
	}
	var out []Edit
	keys := []string{}
	for k := range a {
		keys = append(keys, k)
	}
	for k := range b {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	for _, k := range slices.Compact(keys) {
		if reflect.DeepEqual(a[k], b[k]) {
			continue
		}
		if slices.Contains(lists, k) {
			x, _ := a[k].([]any)
			y, _ := b[k].([]any)
			if each, ok := diffList(k, x, y); ok {
				out = append(out, each...)
				continue
			}
		}
		out = append(out, Edit{Path: k, Value: raw(b[k])})
	}
	// What goes goes first: taking a thing out also takes out what speaks of it,
	// and the edits after it put that right.
	slices.SortStableFunc(out, func(x, y Edit) int { return weightOf(&x) - weightOf(&y) })
	return out
}

func weightOf(e *Edit) int {
	if e.Value == nil {
		return 0
	}
	return 1
}

func raw(v any) json.RawMessage {
	if v == nil {
		return nil
	}
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // it came from JSON
	}
	return b
}

// diffList gives up when things that stay change their order.
func diffList(list string, a, b []any) ([]Edit, bool) {
	id := func(v any) string { s, _ := v.(object)["id"].(string); return s }
	var out []Edit
	var kept []string
	for _, v := range a {
		if k := itemAt(b, id(v)); k < 0 {
			out = append(out, Edit{Path: list + "/" + id(v)})
		} else {
			kept = append(kept, id(v))
		}
	}
	n := 0
	for _, v := range b {
		if itemAt(a, id(v)) >= 0 {
			if n >= len(kept) || kept[n] != id(v) {
				return nil, false
			}
			n++
		}
	}
	// Every thing is written whole, for a thing of another list that goes may
	// have taken a part of it along.
	for i := len(b) - 1; i >= 0; i-- {
		k := itemAt(a, id(b[i]))
		if k >= 0 && reflect.DeepEqual(a[k], b[i]) {
			continue
		}
		e := Edit{Path: list + "/" + id(b[i]), Value: raw(b[i])}
		if k < 0 && i+1 < len(b) {
			e.Before = id(b[i+1])
		}
		out = append(out, e)
	}
	return out, true
}

// NamedBy are the ids of the things on a sheet that name the thing id.
func NamedBy(s *Sheet, id string) []string {
	root, err := toObject(s)
	if err != nil {
		return nil
	}
	var out []string
	for _, list := range lists {
		things, _ := root[list].([]any)
		for _, t := range things {
			o, _ := t.(object)
			own, _ := o["id"].(string)
			if own != "" && own != id && mentions(o, id) {
				out = append(out, own)
			}
		}
	}
	return out
}

// mentions reports whether id is one of the texts in a value.
func mentions(v any, id string) bool {
	switch v := v.(type) {
	case string:
		return v == id
	case []any:
		return slices.ContainsFunc(v, func(e any) bool { return mentions(e, id) })
	case object:
		for _, e := range v {
			if mentions(e, id) {
				return true
			}
		}
	}
	return false
}
