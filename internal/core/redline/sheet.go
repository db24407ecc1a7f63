package redline

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"sync"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/latch"
)

// labels are what the values of the things of a sheet are called on the screens, by
// list and path.
var labels = sync.OnceValue(func() map[string]string {
	out := map[string]string{}
	for _, f := range engine.Fields(func(reflect.Type) []string { return nil }) {
		out[f.List+"/"+f.Key] = f.Label
	}
	return out
})

// sheet are the values of the engine sheet that differ, each by its thing and its
// name: "inlet wheel: teeth".
func (r *Redline) sheet(was, now *engine.Index) {
	a, b := object(was.Sheet), object(now.Sheet)
	for _, e := range engine.Diff(was.Sheet, now.Sheet) {
		list, id, thing := strings.Cut(e.Path, "/")
		name := e.Path
		before, after := a[list], b[list]
		if thing {
			if name = now.NameOf(list, id); name == "" {
				name = was.NameOf(list, id)
			}
			if name == "" {
				name = e.Path
			}
			before, after = item(before, id), item(after, id)
		}
		p, q := flat("", before), flat("", after)
		if thing && (len(p) == 0 || len(q) == 0) { // the whole of it is new, or gone
			one := of(name, latch.Value, "", "")
			if len(p) > 0 {
				one.Before = "on the sheet"
			} else {
				one.After = "on the sheet"
			}
			r.Sheet = append(r.Sheet, one)
			continue
		}
		keys := slices.AppendSeq(slices.Collect(maps.Keys(p)), maps.Keys(q))
		slices.Sort(keys)
		for _, k := range slices.Compact(keys) {
			if p[k] == q[k] {
				continue
			}
			what := name
			if label := labels()[list+"/"+k]; label != "" {
				what += ": " + strings.ToLower(label[:1]) + label[1:]
			} else if k != "" {
				what += ": " + strings.ReplaceAll(k, "/", " ")
			}
			r.Sheet = append(r.Sheet, of(what, latch.Value, p[k], q[k]))
		}
	}
}

// object is a value as its JSON says it.
func object(v any) map[string]any {
	out := map[string]any{}
	if b, err := json.Marshal(v); err == nil {
		_ = json.Unmarshal(b, &out) // what was written can be read
	}
	return out
}

// item is the thing of a list with an id, nil for none.
func item(list any, id string) any {
	items, _ := list.([]any)
	for _, v := range items {
		if m, ok := v.(map[string]any); ok && m["id"] == id {
			return m
		}
	}
	return nil
}

// flat are the values of a thing by their paths in it, in words; a value by itself
// stands under the empty path.
func flat(at string, v any) map[string]string {
	out := map[string]string{}
	switch v := v.(type) {
	case nil:
	case map[string]any:
		for k, w := range v {
			if k == "id" && at == "" {
				continue
			}
			maps.Copy(out, flat(strings.TrimPrefix(at+"/"+k, "/"), w))
		}
	case []any:
		var parts []string
		for _, w := range v {
			if s, ok := w.(string); ok {
				parts = append(parts, s)
				continue
			}
			b, _ := json.Marshal(w)
			parts = append(parts, string(b))
		}
		out[at] = strings.Join(parts, ", ")
	case float64:
		out[at] = strings.Replace(fmt.Sprint(v), "-", "−", 1)
	case string:
		out[at] = v
	default:
		out[at] = fmt.Sprint(v)
	}
	return out
}
