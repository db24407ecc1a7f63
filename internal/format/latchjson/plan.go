package latchjson

import (
	"fmt"
	"math"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"sync"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

// A plan is how the values of a type are held against what is taken in: texts that can
// be kept, finite figures, lists that are not too long, choices among their words, and
// the numbers of a sheet within their bounds. It is made once for a type. The place of
// what is wrong is put together on the way out, so that a value that is right costs
// none.
type plan struct {
	kind reflect.Kind
	// fields are those of a struct, elem the plan of an entry or of what is pointed to.
	fields []planned
	elem   *plan
	// choices are the words a value may be, nil for any.
	choices []string
	// bound is what a number may be; of a figure anything that is one.
	bound *bound
	// most is the longest a list may be.
	most int
	// raw is set for bytes that are not looked into.
	raw bool
}

type planned struct {
	index int
	name  string
	of    *plan
}

var (
	plans     sync.Map // by type
	sheetPlan = sync.OnceValue(func() *plan { return planOf(reflect.TypeFor[engine.Sheet](), "", true) })
	figure    = &bound{-maxFigure, maxFigure}
	aTurn     = &bound{-maxTurns, maxTurns}
	count     = &bound{-float64(maxCount), float64(maxCount)}
)

// planFor is the plan of a type that is no sheet.
func planFor(t reflect.Type) *plan {
	if p, ok := plans.Load(t); ok {
		return p.(*plan)
	}
	p := planOf(t, "", false)
	plans.Store(t, p)
	return p
}

// planOf makes the plan of a type at a path of a sheet, or of anything else.
func planOf(t reflect.Type, path string, sheet bool) *plan {
	p := &plan{kind: t.Kind(), choices: engine.ChoicesOf(t), most: maxList}
	if !sheet {
		p.choices = nil // what a page says is held by its verbs
	}
	switch p.kind {
	case reflect.Float64, reflect.Float32:
		p.bound = figure
		if strings.HasSuffix(path, "turns") && !sheet {
			p.bound = aTurn
		}
		if b, ok := bounds[path]; ok && sheet {
			p.bound = &b
		}
	case reflect.Int, reflect.Int64, reflect.Int32, reflect.Int16, reflect.Int8:
		p.bound = count
		if b := bounds[path]; sheet && path != "" {
			p.bound = &b // a number of a sheet without bounds is none: a test names it
		}
	case reflect.Slice:
		p.raw = t.Elem().Kind() == reflect.Uint8
		if sheet && path != "" && !p.raw {
			p.most = longest(path)
		}
		if !p.raw {
			p.elem = planOf(t.Elem(), star(path), sheet)
		}
	case reflect.Map:
		p.elem = planOf(t.Elem(), "", false)
	case reflect.Pointer:
		if sheet || t.Elem().Kind() != reflect.Struct {
			p.elem = planOf(t.Elem(), path, sheet)
		} else {
			p.elem = planFor(t.Elem())
		}
	case reflect.Struct:
		for i := range t.NumField() {
			f := t.Field(i)
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			if t == reflect.TypeFor[step.Step]() && f.Name != "Action" {
				name = strings.ToLower(f.Name[:1]) + f.Name[1:] // a step writes its own JSON
			}
			under := planOf(f.Type, strings.TrimPrefix(path+"/"+name, "/"), sheet && name != "")
			p.fields = append(p.fields, planned{i, name, under})
		}
	}
	return p
}

func star(path string) string {
	if path == "" {
		return ""
	}
	return path + "/*"
}

// longest is how long a list at a path of a sheet may be.
func longest(path string) int {
	if strings.Contains(path, "/") {
		return mostEntries
	}
	if lists[path] > 0 {
		return lists[path]
	}
	return mostThings
}

// hold holds everything in a value against a plan; the place of an error is within it.
func (p *plan) hold(v reflect.Value) *Error {
	switch p.kind {
	case reflect.String:
		if p.choices != nil {
			if s := v.String(); s != "" && !slices.Contains(p.choices, s) {
				return &Error{"", fmt.Sprintf("%q is none of: %s", s, strings.Join(p.choices, ", "))}
			}
			return nil
		}
		return textFits(v.String(), maxText)
	case reflect.Float64, reflect.Float32:
		return p.number(v.Float())
	case reflect.Int, reflect.Int64, reflect.Int32, reflect.Int16, reflect.Int8:
		return p.number(float64(v.Int()))
	case reflect.Struct:
		for i := range p.fields {
			if err := p.fields[i].of.hold(v.Field(p.fields[i].index)); err != nil {
				return err.in(p.fields[i].name)
			}
		}
	case reflect.Slice:
		if v.Len() > p.most {
			return &Error{"", fmt.Sprintf("this list is too long: at most %d", p.most)}
		}
		if p.raw {
			return nil
		}
		for i := range v.Len() {
			if err := p.elem.hold(v.Index(i)); err != nil {
				return err.in("[" + strconv.Itoa(i) + "]")
			}
		}
	case reflect.Map:
		if v.Len() > p.most {
			return &Error{"", fmt.Sprintf("this list is too long: at most %d", p.most)}
		}
		for m := v.MapRange(); m.Next(); {
			if err := textFits(m.Key().String(), maxText); err != nil {
				return err
			}
			if err := p.elem.hold(m.Value()); err != nil {
				return err.in(m.Key().String())
			}
		}
	case reflect.Pointer:
		if !v.IsNil() {
			return p.elem.hold(v.Elem())
		}
	case reflect.Interface:
		if !v.IsNil() {
			return planFor(v.Elem().Type()).hold(v.Elem())
		}
	}
	return nil
}

func (p *plan) number(f float64) *Error {
	switch b := p.bound; {
	case !math.IsNaN(f) && f >= b.least && f <= b.most:
		return nil
	case b == figure, b == aTurn:
		return &Error{"", fmt.Sprintf("%g is no figure of an engine: at most %g", f, b.most)}
	case b == count:
		return &Error{"", fmt.Sprintf("%.0f is no figure of an engine", f)}
	default:
		return b.holds(f, "").(*Error)
	}
}

// in says that a place is within another: the name of a value, or [3] for an entry.
func (e *Error) in(name string) *Error {
	switch {
	case name == "":
	case e.Place == "" || e.Place[0] == '[':
		e.Place = name + e.Place
	default:
		e.Place = name + "." + e.Place
	}
	return e
}

// fits holds everything in a value that is no sheet; at is where it stands.
func fits(v any, at string) error {
	r := reflect.ValueOf(v)
	if err := planFor(r.Type()).hold(r); err != nil {
		return err.in(at)
	}
	return nil
}

// sheetFits holds everything on a sheet.
func sheetFits(s *engine.Sheet, at string) error {
	if err := sheetPlan().hold(reflect.ValueOf(s).Elem()); err != nil {
		return err.in(at)
	}
	return nil
}
