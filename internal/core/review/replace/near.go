package replace

import (
	"reflect"
	"slices"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// Near are the values of a page that come near the one that is changed and are left
// alone: the same amount with a tolerance, in a range, or in another unit. None for a
// term.
func (c *Change) Near(p *procedure.Procedure) []string {
	var out []string
	if !c.value {
		return nil
	}
	see := func(q unit.Quantity) {
		if _, same := c.quantity(q); same || q.IsZero() || q.Kind() != c.was.Kind() {
			return
		}
		in := q.SameValue(c.was)
		if here, err := q.In(c.was.Unit); err == nil && !in {
			least, most := here.Bounds()
			in = least <= c.was.Value && c.was.Value <= most
		}
		if s := q.String(); in && !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	text := func(s string) string {
		for _, m := range unit.Find(s) {
			see(m.Quantity)
		}
		return s
	}
	for i := range p.Steps {
		s := &p.Steps[i]
		each(reflect.ValueOf(s.Action).Elem(), see)
		for _, t := range step.FreeTexts(s.Action) {
			text(t)
		}
		text(s.Wording)
		text(s.Note)
		for _, k := range s.Cautions {
			text(k.Text)
		}
	}
	return out
}

// each calls f for every quantity within a value.
func each(v reflect.Value, f func(unit.Quantity)) {
	switch v.Kind() {
	case reflect.Struct:
		if q, ok := v.Interface().(unit.Quantity); ok {
			f(q)
			return
		}
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				each(v.Field(i), f)
			}
		}
	case reflect.Slice:
		for i := range v.Len() {
			each(v.Index(i), f)
		}
	}
}
