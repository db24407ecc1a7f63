package latchjson

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
)

// check holds a document that reads well against what the core relies on.
func check(d *Document) error {
	if err := checkSheet(&d.Engine, "engine."); err != nil {
		return err
	}
	if d.Procedure.Engine != d.Engine.Code {
		return &Error{"procedure.engine", fmt.Sprintf("the procedure is for %q and the sheet for %q", d.Procedure.Engine, d.Engine.Code)}
	}
	return checkProcedure(&d.Procedure, "procedure.")
}

// CheckSheet holds a sheet against what the core relies on: ids that are there and
// differ, routes and locks that name what the sheet has. Every error is an *Error.
func CheckSheet(s *engine.Sheet) error { return checkSheet(s, "") }

func checkSheet(s *engine.Sheet, at string) error {
	if s.Code == "" {
		return &Error{at + "code", "an engine sheet needs its code"}
	}
	if err := CheckCode(s.Code); err != nil {
		err.(*Error).Place = at + "code"
		return err
	}
	if err := fits(reflect.ValueOf(s), strings.TrimSuffix(at, ".")); err != nil {
		return err
	}
	if err := ids(s, at); err != nil {
		return err
	}
	if s.Running != engine.Clockwise && s.Running != engine.Counterclockwise {
		return &Error{at + "running", "the running direction is clockwise or counterclockwise"}
	}
	if s.Cycle != engine.FourStroke && s.Cycle != engine.TwoStroke {
		return &Error{at + "cycle", "the cycle is four-stroke or two-stroke"}
	}
	for _, e := range []error{
		unique(at+"shafts", s.Shafts, func(v *engine.Shaft) string { return string(v.ID) }),
		unique(at+"wheels", s.Wheels, func(v *engine.Wheel) string { return string(v.ID) }),
		unique(at+"loops", s.Loops, func(v *engine.Loop) string { return string(v.ID) }),
		unique(at+"marks", s.Marks, func(v *engine.Mark) string { return string(v.ID) }),
		unique(at+"locks", s.Locks, func(v *engine.Lock) string { return string(v.ID) }),
		unique(at+"tensioners", s.Tensioners, func(v *engine.Tensioner) string { return string(v.ID) }),
		unique(at+"fasteners", s.Fasteners, func(v *engine.Fastener) string { return string(v.ID) }),
		unique(at+"parts", s.Parts, func(v *engine.Part) string { return string(v.ID) }),
		unique(at+"fluids", s.Fluids, func(v *engine.Fluid) string { return string(v.ID) }),
		unique(at+"gears", s.Gears, func(v *engine.Gear) string { return string(v.ID) }),
		unique(at+"banks", s.Banks, func(v *engine.Bank) string { return string(v.ID) }),
		unique(at+"names", s.Names, func(v *engine.OwnName) string { return v.ID }),
		unique(at+"varies", s.Varies, func(v *engine.Variation) string { return v.ID }),
		unique(at+"tools", s.Tools, func(v *engine.Tool) string { return string(v.ID) }),
	} {
		if e != nil {
			return e
		}
	}
	if err := words(reflect.ValueOf(s).Elem(), strings.TrimSuffix(at, ".")); err != nil {
		return err
	}
	if err := within(s, at); err != nil {
		return err
	}
	x := engine.NewIndex(s)
	for i, l := range s.Loops {
		for k, stop := range l.Route {
			if x.Wheel(stop.Wheel) == nil {
				return &Error{fmt.Sprintf("%sloops[%d].route[%d].wheel", at, i, k), fmt.Sprintf("there is no wheel %q", stop.Wheel)}
			}
		}
	}
	for i, l := range s.Locks {
		if len(l.Holds) == 0 {
			return &Error{fmt.Sprintf("%slocks[%d].holds", at, i), "a lock holds at least one shaft"}
		}
		for k, id := range l.Holds {
			if x.Shaft(id) == nil {
				return &Error{fmt.Sprintf("%slocks[%d].holds[%d]", at, i, k), fmt.Sprintf("there is no shaft %q", id)}
			}
		}
	}
	return nil
}

// words holds every value that has a fixed list of words to that list; empty is
// left to the proof.
func words(v reflect.Value, at string) error {
	if list, ok := enums[v.Type()]; ok {
		if s := v.String(); s != "" && !slices.Contains(list, s) {
			return &Error{at, fmt.Sprintf("%q is none of: %s", s, strings.Join(list, ", "))}
		}
		return nil
	}
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
			if name == "" {
				continue
			}
			place := name
			if at != "" {
				place = at + "." + name
			}
			if err := words(v.Field(i), place); err != nil {
				return err
			}
		}
	case reflect.Slice:
		for i := range v.Len() {
			if err := words(v.Index(i), fmt.Sprintf("%s[%d]", at, i)); err != nil {
				return err
			}
		}
	case reflect.Pointer:
		if !v.IsNil() {
			return words(v.Elem(), at)
		}
	}
	return nil
}

func unique[T any](at string, items []T, id func(*T) string) error {
	seen := make(map[string]int, len(items))
	for i := range items {
		k := id(&items[i])
		if k == "" {
			return &Error{fmt.Sprintf("%s[%d].id", at, i), "it needs an id"}
		}
		if first, dup := seen[k]; dup {
			return &Error{fmt.Sprintf("%s[%d].id", at, i), fmt.Sprintf("%q is the id of %s[%d] already", k, at, first)}
		}
		seen[k] = i
	}
	return nil
}
