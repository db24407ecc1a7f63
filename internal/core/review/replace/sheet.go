package replace

import (
	"encoding/json"
	"math"
	"reflect"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// OnSheet lists the things of an engine sheet at which it stands, and the sheet with
// those changed that wanted says yes to; nil stands for all. The sheet that is given is
// not changed. It is an error when a sheet cannot be written and read again.
func (c *Change) OnSheet(s *engine.Sheet, wanted func(key string) bool) ([]Place, *engine.Sheet, error) {
	b, err := json.Marshal(s)
	if err != nil {
		return nil, nil, err
	}
	n := &engine.Sheet{}
	if err := json.Unmarshal(b, n); err != nil {
		return nil, nil, err
	}
	x := engine.NewIndex(s)
	places := c.itself(s, n, wanted)
	v := reflect.ValueOf(n).Elem()
	for i := range v.NumField() {
		list, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		if f := v.Field(i); f.Kind() == reflect.Slice && f.Type().Elem().Kind() == reflect.Struct {
			for k := range f.Len() {
				places = c.thing(x, places, list, f.Index(k), wanted)
			}
		}
	}
	for i := range n.Tools {
		places = c.standsIn(places, s, n, i, wanted)
	}
	return places, n, nil
}

// standsIn takes over the play of a tool that comes in place of one which it may stand in for:
// the locks that it is have it, and the tool that goes becomes the one that may stand in.
func (c *Change) standsIn(places []Place, s, n *engine.Sheet, i int, wanted func(key string) bool) []Place {
	t := &s.Tools[i]
	k := slices.IndexFunc(t.Equivalents, func(e engine.Equivalent) bool { return strings.EqualFold(e.Number, c.words(t.Number)) })
	key := "tools/" + string(t.ID)
	at := slices.IndexFunc(places, func(p Place) bool { return p.Key == key })
	if c.words(t.Number) == t.Number || k < 0 || at < 0 {
		return places
	}
	own := -1.0
	for j := range s.Locks {
		l := &s.Locks[j]
		if l.Tool != t.ID || !l.Kind.ForPosition() {
			continue
		}
		is := math.Round(float64(l.Freedom())*100) / 100
		own = max(own, is)
		places[at].Texts = append(places[at].Texts, Became("play of the "+l.Name, unit.Number(is)+"°", unit.Number(t.Equivalents[k].Play)+"°"))
		if wanted == nil || wanted(key) {
			n.Locks[j].Play, n.Locks[j].PlayMM = t.Equivalents[k].Play, 0
		}
	}
	if own >= 0 && (wanted == nil || wanted(key)) {
		n.Tools[i].Equivalents[k] = engine.Equivalent{Number: t.Number, Play: own}
	}
	return places
}

// itself is what the sheet says of the engine as a whole.
func (c *Change) itself(s, n *engine.Sheet, wanted func(key string) bool) []Place {
	var texts []Text
	for _, f := range []struct {
		what    string
		was, is *string
	}{{"use", &s.Use, &n.Use}, {"seen from", &s.View, &n.View}, {"other end", &s.OtherView, &n.OtherView}, {"sides", &s.Sides, &n.Sides}} {
		after := c.words(*f.was)
		if after == *f.was {
			continue
		}
		texts = append(texts, Became(f.what, *f.was, after))
		if wanted == nil || wanted(Itself) {
			*f.is = after
		}
	}
	for _, f := range []struct {
		what    string
		was, is *unit.Quantity
	}{{"bore", &s.Bore, &n.Bore}, {"stroke", &s.Stroke, &n.Stroke}, {"rod", &s.Rod, &n.Rod}} {
		after, ok := c.quantity(*f.was)
		if !ok {
			continue
		}
		texts = append(texts, Became(f.what, f.was.String(), after.String()))
		if wanted == nil || wanted(Itself) {
			*f.is = after
		}
	}
	if len(texts) == 0 {
		return nil
	}
	return []Place{{Key: Itself, Name: "the engine", Texts: texts}}
}

// Itself is the key of what a sheet says of the engine as a whole.
const Itself = "sheet"

func (c *Change) thing(x *engine.Index, places []Place, list string, v reflect.Value, wanted func(key string) bool) []Place {
	id := v.FieldByName("ID")
	if !id.IsValid() {
		return places
	}
	key := list + "/" + id.String()
	now := reflect.New(v.Type()).Elem()
	now.Set(v)
	var texts []Text
	if vary, ok := now.Addr().Interface().(*engine.Variation); ok {
		texts = c.cases(vary)
	} else {
		texts = c.fields(list, now)
	}
	if len(texts) == 0 {
		return places
	}
	if wanted == nil || wanted(key) {
		v.Set(now)
	}
	return append(places, Place{Key: key, Name: x.NameOf(list, id.String()), Texts: texts})
}

// fields changes the texts and values of one thing.
func (c *Change) fields(list string, v reflect.Value) []Text {
	var texts []Text
	for i := range v.NumField() {
		key, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		f := v.Field(i)
		switch {
		case key == "" || key == "id" || key == "of" && list == "names":
		case f.Type() == reflect.TypeFor[string](): // a named type is a choice or an id
			if after := c.words(f.String()); after != f.String() {
				texts = append(texts, Became(engine.Label(list, key), f.String(), after))
				f.SetString(after)
			}
		default:
			was := said(f)
			if c.quantities(f) {
				texts = append(texts, Became(engine.Label(list, key), was, said(f)))
			}
		}
	}
	return texts
}

// said is a value of a sheet in words.
func said(f reflect.Value) string {
	switch v := f.Interface().(type) {
	case unit.Quantity:
		return v.String()
	case []engine.Stage:
		return engine.StagesText(v)
	}
	b, err := json.Marshal(f.Interface())
	if err != nil {
		return ""
	}
	return string(b)
}

// cases changes what holds for some engines only: values and texts as they stand in
// the cases.
func (c *Change) cases(v *engine.Variation) []Text {
	var texts []Text
	list, _, _ := strings.Cut(v.Of, "/")
	own := make([]engine.Case, len(v.Cases))
	for i := range v.Cases {
		own[i] = v.Cases[i]
		own[i].Set = map[string]json.RawMessage{}
		for key, raw := range v.Cases[i].Set {
			own[i].Set[key] = raw
			var any any
			if json.Unmarshal(raw, &any) != nil {
				continue
			}
			after, hit := c.any(key, any)
			if !hit {
				continue
			}
			b, err := json.Marshal(after)
			if err != nil {
				continue
			}
			own[i].Set[key] = b
			texts = append(texts, Became(engine.Label(list, key)+", "+v.Cases[i].When.String(), plainly(raw), plainly(b)))
		}
	}
	if len(texts) > 0 {
		v.Cases = own
	}
	return texts
}

// any changes strings within a value of a case: values where they are that value, and
// texts of a key that is typed freely.
func (c *Change) any(key string, v any) (any, bool) {
	switch t := v.(type) {
	case string:
		if c.value {
			q, err := unit.Judge(t)
			if err != nil {
				return v, false
			}
			after, ok := c.quantity(q)
			return after.String(), ok
		}
		if !free[key] {
			return v, false
		}
		after := c.words(t)
		return after, after != t
	case []any:
		hit := false
		out := make([]any, len(t))
		for i := range t {
			var h bool
			out[i], h = c.any(key, t[i])
			hit = hit || h
		}
		return out, hit
	case map[string]any:
		hit := false
		out := map[string]any{}
		for k := range t {
			var h bool
			out[k], h = c.any(k, t[k])
			hit = hit || h
		}
		return out, hit
	}
	return v, false
}

// free are the keys of a thing that are typed freely.
var free = func() map[string]bool {
	out := map[string]bool{}
	t := reflect.TypeFor[engine.Sheet]()
	for i := range t.NumField() {
		if e := t.Field(i).Type; e.Kind() == reflect.Slice && e.Elem().Kind() == reflect.Struct {
			for k := range e.Elem().NumField() {
				if f := e.Elem().Field(k); f.Type == reflect.TypeFor[string]() && f.Name != "ID" {
					key, _, _ := strings.Cut(f.Tag.Get("json"), ",")
					out[key] = true
				}
			}
		}
	}
	return out
}()

// plainly is a value of a case in words.
func plainly(raw []byte) string {
	var stages []engine.Stage
	if json.Unmarshal(raw, &stages) == nil {
		if t := engine.StagesText(stages); t != "" {
			return t
		}
	}
	var s string
	if json.Unmarshal(raw, &s) == nil {
		return s
	}
	return string(raw)
}
