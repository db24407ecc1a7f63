package step

import (
	"reflect"

	"inklatch/internal/core/engine"
)

// kindOf tells which kind of thing a field of an action names.
var kindOf = map[reflect.Type]ObjectKind{
	reflect.TypeFor[engine.LockID]():      LockObject,
	reflect.TypeFor[engine.PartID]():      PartObject,
	reflect.TypeFor[engine.FastenerID]():  FastenerObject,
	reflect.TypeFor[engine.LoopID]():      LoopObject,
	reflect.TypeFor[engine.WheelID]():     WheelObject,
	reflect.TypeFor[engine.MarkID]():      MarkObject,
	reflect.TypeFor[engine.TensionerID](): TensionerObject,
	reflect.TypeFor[engine.ShaftID]():     ShaftObject,
	reflect.TypeFor[engine.FluidID]():     FluidObject,
}

// Refs are the things an action names, kind and identifier, in the order of its
// fields.
func Refs(a Action) []Ref {
	var out []Ref
	v := reflect.ValueOf(a).Elem()
	for i := range v.NumField() {
		f := v.Field(i)
		if k, ok := kindOf[f.Type()]; ok && f.String() != "" {
			out = append(out, Ref{k, f.String()})
		}
		if f.Kind() != reflect.Slice {
			continue
		}
		if k, ok := kindOf[f.Type().Elem()]; ok {
			for j := range f.Len() {
				out = append(out, Ref{k, f.Index(j).String()})
			}
		}
	}
	return out
}

// Ref names a thing on the sheet.
type Ref struct {
	Kind ObjectKind
	ID   string
}
