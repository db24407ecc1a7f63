package latchjson

import (
	"fmt"
	"reflect"
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
	if s.Running != engine.Clockwise && s.Running != engine.Counterclockwise {
		return &Error{at + "running", "the running direction is clockwise or counterclockwise"}
	}
	if s.Cycle != engine.FourStroke && s.Cycle != engine.TwoStroke {
		return &Error{at + "cycle", "the cycle is four-stroke or two-stroke"}
	}
	if err := sheetFits(s, strings.TrimSuffix(at, ".")); err != nil {
		return err
	}
	if err := ids(s, at); err != nil {
		return err
	}
	for i := range reflect.ValueOf(s).Elem().NumField() {
		list := reflect.ValueOf(s).Elem().Field(i)
		if list.Kind() != reflect.Slice || list.Type().Elem().Kind() != reflect.Struct {
			continue
		}
		if _, ok := list.Type().Elem().FieldByName("ID"); !ok {
			continue
		}
		name, _, _ := strings.Cut(reflect.TypeOf(*s).Field(i).Tag.Get("json"), ",")
		if err := unique(at+name, list); err != nil {
			return err
		}
	}
	if err := casesWithin(s, at); err != nil {
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

func unique(at string, list reflect.Value) error {
	seen := make(map[string]int, list.Len())
	for i := range list.Len() {
		k := list.Index(i).FieldByName("ID").String()
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
