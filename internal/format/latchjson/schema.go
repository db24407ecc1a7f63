package latchjson

import (
	"encoding/json"
	"reflect"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// Schema is the JSON Schema (draft 2020-12) of a latch file, read off the types
// that read it, so that the two cannot drift apart.
func Schema() map[string]any {
	s := &schemas{defs: map[string]any{}}
	procedureSchema := s.object(reflect.TypeFor[procedure.Procedure]())
	engineSchema := s.object(reflect.TypeFor[engine.Sheet]())
	return map[string]any{
		"$schema":     "https://json-schema.org/draft/2020-12/schema",
		"title":       "Ink Latch file",
		"description": "An engine sheet with a timing procedure. Canonical form is RFC 8785.",
		"type":        "object",
		"required":    []string{"format", "engine", "procedure"},
		"properties": map[string]any{
			"format": map[string]any{"const": Format}, "engine": engineSchema, "procedure": procedureSchema,
			"anchor": map[string]any{"type": "string", "description": "A signed head of the record the file was written beside: entry, hash, time, key, signature."},
		},
		"additionalProperties": false,
		"$defs":                s.defs,
	}
}

type schemas struct{ defs map[string]any }

func (s *schemas) of(t reflect.Type) map[string]any {
	switch t {
	case reflect.TypeFor[unit.Quantity]():
		s.defs["quantity"] = map[string]any{"type": "string", "description": "A value with its unit, such as “60 N·m”, “20 ±2 N·m”, “90°” or “22 N·m (16.2 lbf·ft)”."}
		return map[string]any{"$ref": "#/$defs/quantity"}
	case reflect.TypeFor[step.Step]():
		s.step()
		return map[string]any{"$ref": "#/$defs/step"}
	case reflect.TypeFor[step.Phase]():
		var names []string
		for _, p := range step.Phases {
			names = append(names, string(p.Phase))
		}
		return map[string]any{"enum": names}
	}
	if e := engine.ChoicesOf(t); e != nil {
		return map[string]any{"enum": e}
	}
	if t == reflect.TypeFor[json.RawMessage]() {
		return map[string]any{}
	}
	switch t.Kind() {
	case reflect.String:
		return map[string]any{"type": "string"}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Int, reflect.Int64:
		return map[string]any{"type": "integer"}
	case reflect.Float64:
		return map[string]any{"type": "number"}
	case reflect.Slice:
		return map[string]any{"type": "array", "items": s.of(t.Elem())}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": s.of(t.Elem())}
	case reflect.Pointer:
		return s.of(t.Elem())
	}
	return s.object(t)
}

// object is the schema of a struct; a field without omit option is required.
func (s *schemas) object(t reflect.Type) map[string]any {
	props, required := map[string]any{}, []string{}
	s.fields(t, props, &required)
	out := map[string]any{"type": "object", "properties": props, "additionalProperties": false}
	if len(required) > 0 {
		out["required"] = required
	}
	return out
}

func (s *schemas) fields(t reflect.Type, props map[string]any, required *[]string) {
	for i := range t.NumField() {
		f := t.Field(i)
		tag := f.Tag.Get("json")
		switch {
		case f.Anonymous && tag == "":
			if f.Type.Kind() == reflect.Struct {
				s.fields(f.Type, props, required)
			}
			continue
		case !f.IsExported() || tag == "":
			continue
		}
		name, options, _ := strings.Cut(tag, ",")
		props[name] = s.of(f.Type)
		if !strings.Contains(options, "omit") {
			*required = append(*required, name)
		}
	}
}

// step is one schema for each verb, told apart by the verb.
func (s *schemas) step() {
	if _, done := s.defs["step"]; done {
		return
	}
	s.defs["step"] = nil
	var each []any
	for _, spec := range step.Specs {
		o := s.object(reflect.TypeOf(spec.New()).Elem())
		props := o["properties"].(map[string]any)
		props["verb"] = map[string]any{"const": string(spec.Verb)}
		props["id"] = map[string]any{"type": "string", "minLength": 1, "maxLength": 64}
		props["phase"] = s.of(reflect.TypeFor[step.Phase]())
		common := step.Common()
		for i := range common.NumField() {
			f := common.Field(i)
			key, rest, _ := strings.Cut(f.Tag.Get("json"), ",")
			if _, own := props[key]; !own && key != "" && !strings.Contains(rest, "embed") {
				props[key] = s.of(f.Type)
			}
		}
		o["required"] = []string{"id", "phase", "verb"}
		o["title"] = spec.Example
		each = append(each, o)
	}
	s.defs["step"] = map[string]any{"oneOf": each}
}
