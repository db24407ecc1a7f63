package procedure

import (
	"encoding/json"
	"fmt"
	"reflect"
)

// headerFields are the parts of a header that are taken back each by itself, by
// the names people know them by.
var headerFields = []struct {
	name string
	of   func(*Header) any
}{
	{"title", func(h *Header) any { return &h.Title }},
	{"years it applies to", func(h *Header) any { return &h.Applies.Years }},
	{"note on what it applies to", func(h *Header) any { return &h.Applies.Note }},
	{"purpose", func(h *Header) any { return &h.Purpose }},
	{"task", func(h *Header) any { return &h.Task }},
	{"conditions", func(h *Header) any { return &h.Prelims.Conditions }},
	{"people", func(h *Header) any { return &h.Prelims.People }},
	{"time", func(h *Header) any { return &h.Prelims.Time }},
	{"tools", func(h *Header) any { return &h.Prelims.Tools }},
	{"beginning", func(h *Header) any { return &h.Begins }},
	{"end", func(h *Header) any { return &h.Ends }},
	{"page before", func(h *Header) any { return &h.After }},
	{"page after", func(h *Header) any { return &h.Before }},
	{"supplies", func(h *Header) any { return &h.Prelims.Supplies }},
}

// HeaderBack takes one change of a header back from where the header stands now:
// the change led from before to after, and only what it changed goes back. It is
// an error when such a field says something else again by now.
func HeaderBack(now, before, after *Header) (*Header, error) {
	if after == nil {
		return before, nil
	}
	raw, err := json.Marshal(now)
	if err != nil {
		return nil, err
	}
	out := &Header{}
	if err := json.Unmarshal(raw, out); err != nil {
		return nil, err
	}
	for _, f := range headerFields {
		was, then, is := value(f.of(before)), value(f.of(after)), value(f.of(now))
		if same(was, then) {
			continue
		}
		if !same(is, then) {
			return nil, fmt.Errorf("the %s has been changed again since", f.name)
		}
		reflect.ValueOf(f.of(out)).Elem().Set(was)
	}
	return out, nil
}

func value(p any) reflect.Value { return reflect.ValueOf(p).Elem() }

// same lets an empty list be as good as none.
func same(a, b reflect.Value) bool {
	if a.Kind() == reflect.Slice && a.Len() == 0 && b.Len() == 0 {
		return true
	}
	return reflect.DeepEqual(a.Interface(), b.Interface())
}
