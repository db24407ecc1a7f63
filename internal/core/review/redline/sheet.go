package redline

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/review/latch"
)

// SheetChange is one thing of an engine sheet that is not as it was.
type SheetChange struct {
	// Thing is its list and id, "fasteners/idler-bolt"; the path of a value that belongs
	// to no thing.
	Thing string `json:"thing"`
	// Name is what it is called, Kind what became of it: new, gone or changed.
	Name string `json:"name"`
	Kind Kind   `json:"kind"`
	// Parts are the values of it that differ, before and after in words; of a thing that
	// is new or gone all it has.
	Parts []Part `json:"parts"`
}

// Line says one change in a line: "idler bolt: torque and angle 42 N·m → 44 N·m".
func (c *SheetChange) Line() string {
	if c.Kind != Changed {
		return c.Name + ": " + string(c.Kind)
	}
	var parts []string
	for _, p := range c.Parts {
		parts = append(parts, strings.TrimSpace(p.What+" "+orNone(p.Before)+" → "+orNone(p.After)))
	}
	return c.Name + ": " + strings.Join(parts, "; ")
}

// Sheets is what lies between two states of an engine sheet, thing by thing, those
// first of which a wrong value can do most.
func Sheets(was, now *engine.Index) []SheetChange {
	a, b := object(was.Sheet), object(now.Sheet)
	said := func(x *engine.Index, v map[string]any) map[string]string { return names(x, v) }
	before, after := said(was, a), said(now, b)
	out := []SheetChange{}
	for _, e := range engine.Diff(was.Sheet, now.Sheet) {
		list, id, thing := strings.Cut(e.Path, "/")
		c := SheetChange{Thing: e.Path, Name: nameAt(list, id, thing, now, was), Kind: Changed, Parts: []Part{}}
		p, q := a[list], b[list]
		if thing {
			id, _, _ = strings.Cut(id, "/")
			c.Thing = list + "/" + id
			p, q = item(p, id), item(q, id)
			switch {
			case p == nil:
				c.Kind = New
			case q == nil:
				c.Kind = Gone
			}
		}
		if slices.ContainsFunc(out, func(o SheetChange) bool { return o.Thing == c.Thing }) {
			continue
		}
		f, g := flat(before, "", p), flat(after, "", q)
		keys := slices.AppendSeq(slices.Collect(maps.Keys(f)), maps.Keys(g))
		slices.Sort(keys)
		for _, k := range slices.Compact(keys) {
			if f[k] != g[k] {
				c.Parts = append(c.Parts, of(label(list, k, thing), latch.Value, f[k], g[k]))
			}
		}
		if len(c.Parts) > 0 || c.Kind != Changed {
			out = append(out, c)
		}
	}
	slices.SortStableFunc(out, func(a, b SheetChange) int {
		return cmp.Or(grave(a.Thing)-grave(b.Thing), strings.Compare(a.Thing, b.Thing))
	})
	return out
}

// gravest are the lists of a sheet by what a wrong value in them can do, the gravest
// first; the sheet's own values stand between.
var gravest = []string{"locks", "limits", "shafts", "wheels", "loops", "gears", "marks", "tensioners", "readings", "fasteners", "interference", "running", "varies", "parts", "tools", "fluids", "banks", "sources"}

func grave(thing string) int {
	list, _, _ := strings.Cut(thing, "/")
	if i := slices.Index(gravest, list); i >= 0 {
		return i
	}
	return len(gravest)
}

// SheetLines are Sheets, a line each.
func SheetLines(was, now *engine.Index) []string {
	out := []string{}
	for _, c := range Sheets(was, now) {
		out = append(out, c.Line())
	}
	return out
}

// nameAt is what a thing, or a value of the sheet itself, is called.
func nameAt(list, id string, thing bool, xs ...*engine.Index) string {
	if !thing {
		return strings.ToLower(label(list, "", false))
	}
	id, _, _ = strings.Cut(id, "/")
	for _, x := range xs {
		if name := x.NameOf(list, id); name != "" {
			return name
		}
	}
	return strings.TrimSuffix(list, "s") + " " + id
}

// label is what a value is called on the screens, in small letters: that of a thing, of
// the sheet itself, or of all of it.
func label(list, key string, thing bool) string {
	l := engine.Label(list, key)
	switch {
	case l != key:
		return l
	case key != "":
		return strings.ReplaceAll(key, "/", " ")
	case thing:
		return ""
	}
	return list
}

// sheet are the values of the engine sheet that differ, each by its thing and its
// name: "inlet wheel: teeth".
func (r *Redline) sheet(was, now *engine.Index) {
	for _, c := range Sheets(was, now) {
		if c.Kind != Changed {
			one := of(c.Name, latch.Value, "", "on the sheet")
			if c.Kind == Gone {
				one.Before, one.After = one.After, ""
			}
			r.Sheet = append(r.Sheet, one)
			continue
		}
		for _, p := range c.Parts {
			if p.What = strings.TrimSpace(c.Name + ": " + p.What); c.Name == p.What || strings.HasSuffix(p.What, ":") {
				p.What = c.Name
			}
			r.Sheet = append(r.Sheet, p)
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

// names are the names of all things of a sheet by their ids; an id that things of two
// lists share stays an id.
func names(x *engine.Index, sheet map[string]any) map[string]string {
	out, shared := map[string]string{}, map[string]bool{}
	for list, v := range sheet {
		items, _ := v.([]any)
		for _, m := range items {
			thing, _ := m.(map[string]any)
			if id, _ := thing["id"].(string); id != "" {
				name := x.NameOf(list, id)
				if had, ok := out[id]; ok && had != name {
					shared[id] = true
				}
				out[id] = name
			}
		}
	}
	for id := range shared {
		delete(out, id)
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

// flat are the values of a thing by their paths in it, in words, the things it names
// by their names; a value by itself stands under the empty path.
func flat(names map[string]string, at string, v any) map[string]string {
	out := map[string]string{}
	switch v := v.(type) {
	case nil:
	case map[string]any:
		for k, w := range v {
			if k == "id" && at == "" {
				continue
			}
			maps.Copy(out, flat(names, strings.TrimPrefix(at+"/"+k, "/"), w))
		}
	case []any:
		var parts []string
		by := ", "
		for _, w := range v {
			m, _ := w.(map[string]any)
			if m["torque"] != nil || m["angle"] != nil {
				by = " + "
			}
			parts = append(parts, phrase(names, w))
		}
		out[at] = strings.Join(parts, by)
	default:
		out[at] = phrase(names, v)
	}
	return out
}

// first are the values of a thing within a list that stand before its others.
var first = []string{"id", "name", "torque", "wheel", "from", "x", "place"}

// phrase is a value of a list in words: "pump wheel outside", "60 N·m 90°".
func phrase(names map[string]string, v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		if n := names[v]; n != "" {
			return n
		}
		return v
	case float64:
		return strings.Replace(fmt.Sprint(v), "-", "−", 1)
	case bool:
		return map[bool]string{true: "yes", false: "no"}[v]
	case []any:
		var parts []string
		for _, w := range v {
			parts = append(parts, phrase(names, w))
		}
		return strings.Join(parts, ", ")
	case map[string]any:
		keys := slices.Sorted(maps.Keys(v))
		slices.SortStableFunc(keys, func(a, b string) int { return rank(a) - rank(b) })
		var parts []string
		for _, k := range keys {
			s := phrase(names, v[k])
			switch {
			case s == "" || s == "no":
			case s == "yes":
				parts = append(parts, k)
			case rank(k) < len(first) || k == "angle":
				parts = append(parts, s)
			default:
				parts = append(parts, k+" "+s)
			}
		}
		return strings.Join(parts, " ")
	}
	return fmt.Sprint(v)
}

func rank(key string) int {
	if i := slices.Index(first, key); i >= 0 {
		return i
	}
	return len(first)
}
