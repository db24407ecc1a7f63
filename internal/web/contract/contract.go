// Package contract writes the schemas of api/openapi.yaml whose shape a Go type
// owns, read off that type, so that contract, server and screens cannot drift
// apart. What is asked for in requests alone stays written by hand beside it.
package contract

import (
	"bytes"
	"encoding"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// The lines of the contract between which the schemas stand.
const (
	begin = "    # Schemas of Go types: written by make generate, never by hand."
	end   = "    # End of the schemas of Go types."
)

// Splice puts the schemas of Schemas between their two lines of a contract.
func Splice(file []byte) ([]byte, error) {
	i, j := bytes.Index(file, []byte(begin)), bytes.Index(file, []byte(end))
	if i < 0 || j < i {
		return nil, errors.New("the contract has no place for the schemas of Go types")
	}
	text, err := Schemas()
	if err != nil {
		return nil, err
	}
	return slices.Concat(file[:i], []byte(begin+"\n"+text), file[j:]), nil
}

// Schemas are the components of types, a line each, in OpenAPI 3.0. It is an
// error when a type writes its own JSON in a way this package does not know.
func Schemas() (string, error) {
	var b strings.Builder
	for _, c := range types {
		o, err := object(c.of, c.name)
		if err != nil {
			return "", fmt.Errorf("%s: %w", c.name, err)
		}
		pkg, name := c.of.PkgPath(), c.of.Name()
		if c.pkg != "" {
			pkg, name = c.pkg, c.called
		}
		fmt.Fprintf(&b, "    %s: {type: object, x-go-type: %s.%s, x-go-type-import: {path: %s}, %s}\n", c.name, pkg[strings.LastIndex(pkg, "/")+1:], name, pkg, o)
	}
	return b.String(), nil
}

// refs are the components by their type.
var refs = func() map[reflect.Type]string {
	m := map[reflect.Type]string{}
	for _, c := range types {
		m[c.of] = c.name
	}
	return m
}()

// object is what stands in the braces of a struct's schema after its type; at
// is its place, for bounds.
func object(t reflect.Type, at string) (string, error) {
	if t == reflect.TypeFor[step.Step]() {
		// A step is flat: what every step has, and the fields of its verb.
		inner, err := object(step.Common(), at)
		return inner + ", additionalProperties: true", err
	}
	var required, props []string
	if err := fields(t, at, &required, &props); err != nil {
		return "", err
	}
	out := "properties: {" + strings.Join(props, ", ") + "}"
	if len(required) > 0 {
		out = "required: [" + strings.Join(required, ", ") + "], " + out
	}
	return out, nil
}

func fields(t reflect.Type, at string, required, props *[]string) error {
	for i := range t.NumField() {
		f := t.Field(i)
		tag := f.Tag.Get("json")
		name, options, _ := strings.Cut(tag, ",")
		switch {
		case f.Anonymous && tag == "":
			e := f.Type
			if e.Kind() == reflect.Pointer {
				e = e.Elem()
			}
			if e.Kind() == reflect.Struct {
				if err := fields(e, at, required, props); err != nil {
					return err
				}
			}
			continue
		case !f.IsExported() || name == "" || name == "-":
			continue
		}
		s, err := schema(f.Type, at+"."+name)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		name = word(name)
		*props = append(*props, name+": "+s)
		if !strings.Contains(options, "omit") {
			*required = append(*required, name)
		}
	}
	return nil
}

// word is a word as YAML reads it in each of its versions: some take "on", "no" and "y" for
// a truth (YAML 1.1, bool), and a comma ends it.
func word(w string) string {
	switch strings.ToLower(w) {
	case "y", "n", "yes", "no", "on", "off", "true", "false", "null", "":
		return strconv.Quote(w)
	}
	if strings.ContainsAny(w, ",:#[]{}\"'") {
		return strconv.Quote(w)
	}
	return w
}

var kinds = map[reflect.Kind]string{
	reflect.String: "type: string", reflect.Bool: "type: boolean", reflect.Int: "type: integer", reflect.Int64: "type: integer, format: int64",
	reflect.Float64: "type: number",
}

// schema is the schema of a value at a place such as "SheetEdit.path".
func schema(t reflect.Type, at string) (string, error) {
	more := ""
	if b := bounds[at]; b != "" {
		more = ", " + b
	}
	switch {
	case t.Kind() == reflect.Pointer:
		return schema(t.Elem(), at)
	case refs[t] != "":
		return `{$ref: "#/components/schemas/` + refs[t] + `"}`, nil
	case t == reflect.TypeFor[unit.Quantity]():
		return "{type: string" + more + "}", nil
	case t == reflect.TypeFor[time.Time]():
		return "{type: string, format: date-time}", nil
	case t == reflect.TypeFor[jsontext.Value](), t.Kind() == reflect.Slice && t.Elem().Kind() == reflect.Uint8, t.Kind() == reflect.Interface:
		return "{description: any JSON}", nil
	case t.Implements(reflect.TypeFor[encoding.TextMarshaler]()):
		return "{type: string" + more + "}", nil
	case t.Implements(reflect.TypeFor[json.MarshalerTo]()), t.Implements(reflect.TypeFor[json.Marshaler]()):
		return "", fmt.Errorf("%s writes its own JSON", t)
	}
	if e := engine.ChoicesOf(t); e != nil {
		words := make([]string, len(e))
		for i, w := range e {
			words[i] = word(w)
		}
		return "{type: string, enum: [" + strings.Join(words, ", ") + "]}", nil
	}
	if k := kinds[t.Kind()]; k != "" {
		return "{" + k + more + "}", nil
	}
	switch t.Kind() {
	case reflect.Slice, reflect.Array:
		if t.Kind() == reflect.Array {
			more += fmt.Sprintf(", minItems: %d, maxItems: %d", t.Len(), t.Len())
		}
		s, err := schema(t.Elem(), at+"[]")
		return "{type: array, items: " + s + more + "}", err
	case reflect.Map:
		s, err := schema(t.Elem(), at+"{}")
		return "{type: object, additionalProperties: " + s + "}", err
	case reflect.Struct:
		s, err := object(t, at)
		return "{type: object, " + s + "}", err
	}
	return "", fmt.Errorf("no schema for %s", t)
}
