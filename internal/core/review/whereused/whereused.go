// Package whereused finds what a page and an engine sheet speak of: which tools, parts,
// fasteners, locks, marks and values stand in which step, and what each step says,
// so that it can be told where a thing is used.
package whereused

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// Kind is what a term is.
type Kind string

// The kinds.
const (
	Tool     Kind = "tool"
	Part     Kind = "part"
	Fastener Kind = "fastener"
	Value    Kind = "value"
	Lock     Kind = "lock"
	Mark     Kind = "mark"
	Other    Kind = "other"
	Words    Kind = "words"
)

// Kinds are all of them, in the order they are offered.
var Kinds = []Kind{Tool, Part, Fastener, Value, Lock, Mark, Other, Words}

// Use is one place at which a term stands.
type Use struct {
	Kind Kind
	// Term is the name, number or value as it is written; of words, where they stand:
	// "step", "note", "caution", "title".
	Term string
	// Step is the step it stands in, empty for what stands above the steps, or for an
	// engine sheet.
	Step step.ID
	// Said is the sentence it stands in.
	Said string
}

// Key is a term as it is looked up: in small letters, with single spaces, a value as it is
// printed however it was typed: 20Nm, 20 N*m and 20 N·m are one.
func Key(term string) string {
	if ms := unit.Find(term); len(ms) == 1 && ms[0].Problem == "" && strings.TrimSpace(term[:ms[0].Start]+term[ms[0].End:]) == "" {
		term = ms[0].Quantity.First().String()
	}
	return strings.ToLower(strings.Join(strings.Fields(term), " "))
}

// KeysOf are the keys a term is found by: a value by itself, without its tolerance, and
// a torque in the units it is typed in elsewhere.
func KeysOf(kind Kind, term string) []string {
	keys := []string{Key(term)}
	if kind != Value {
		return keys
	}
	q, err := unit.Judge(term)
	if err != nil || q.Range {
		return keys
	}
	add := func(q unit.Quantity) {
		if k := Key(q.String()); k != "" && !slices.Contains(keys, k) {
			keys = append(keys, k)
		}
	}
	plain := unit.Of(q.Value, q.Unit)
	add(plain)
	if q.Kind() == unit.KindTorque {
		for _, u := range []unit.Unit{unit.NewtonMetre, unit.PoundForceFoot, unit.PoundForceInch} {
			if o, err := plain.In(u); err == nil {
				add(o)
			}
		}
	}
	return keys
}

// kindOf is what a term is that names a thing; what is laid and set is a part to who
// looks for it.
func kindOf(k engine.Kind) Kind {
	switch k {
	case engine.KindLoop, engine.KindTensioner:
		return Part
	}
	if own := Kind(k); slices.Contains(Kinds, own) {
		return own
	}
	return Other
}

// OfPage lists the uses of a page, by the steps in their order.
func OfPage(x *engine.Index, p *procedure.Procedure) []Use {
	out := OfHeader(x, p)
	for i := range p.Steps {
		out = append(out, OfStep(x, &p.Steps[i])...)
	}
	return out
}

// OfHeader lists the uses above the steps of a page.
func OfHeader(x *engine.Index, p *procedure.Procedure) []Use {
	g := gatherer{}
	g.words("title", p.Title)
	g.words("purpose", p.Purpose)
	for _, c := range p.Prelims.Conditions {
		g.words("condition", c)
	}
	for _, c := range p.Prelims.Supplies {
		g.words("supply", c)
	}
	g.said = "Special tools of the page"
	for _, id := range p.Prelims.Tools {
		g.tool(x, id)
	}
	return g.out
}

// OfStep lists the uses of one step.
func OfStep(x *engine.Index, s *step.Step) []Use {
	g := gatherer{step: s.ID, said: en.Full(x, s)}
	g.words("step", g.said)
	g.words("note", s.Note)
	for _, c := range s.Cautions {
		g.words("caution", c.Text)
	}
	for _, span := range en.Row(x, s.Action).Spans {
		kind, id, ok := strings.Cut(span.Ref, ":")
		if !ok {
			continue
		}
		r := engine.Ref{Kind: engine.Kind(kind), ID: id}
		if r.Kind.Of() == nil {
			continue
		}
		if r.Kind == engine.KindTool {
			g.tool(x, engine.ToolID(id))
			continue
		}
		of := kindOf(r.Kind)
		g.add(of, x.Name(r))
		if of == Part {
			if q := x.Part(engine.PartID(id)); q != nil {
				g.add(Part, q.Number)
			}
		}
		if of == Lock {
			if k := x.Lock(engine.LockID(id)); k != nil {
				g.tool(x, k.Tool)
			}
		}
	}
	for _, id := range s.ToolsUsed(x) {
		g.tool(x, id)
	}
	for _, t := range s.Torques() {
		for i := range t.Stages {
			if !t.Stages[i].Torque.IsZero() {
				g.add(Value, t.Stages[i].Torque.String())
			}
			if !t.Stages[i].Angle.IsZero() {
				g.add(Value, t.Stages[i].Angle.String())
			}
		}
	}
	return g.out
}

// OfSheet lists the uses of an engine sheet: what it names, and its values.
func OfSheet(s *engine.Sheet) []Use {
	g := gatherer{}
	g.words("use", s.Use)
	g.words("view", s.View)
	g.words("sides", s.Sides)
	for i := range s.Tools {
		t := &s.Tools[i]
		g.said = t.Number + " " + t.Name
		g.add(Tool, t.Number)
		g.add(Tool, t.Name)
		for _, e := range t.Equivalents {
			g.add(Tool, e.Number)
		}
	}
	for i := range s.Parts {
		q := &s.Parts[i]
		g.said = strings.TrimSpace(q.Name + " " + q.Number)
		g.add(Part, q.Name)
		g.add(Part, q.Number)
	}
	for i := range s.Fasteners {
		f := &s.Fasteners[i]
		g.said = f.Name
		g.add(Fastener, f.Name)
		for k := range f.Spec {
			if !f.Spec[k].Torque.IsZero() {
				g.said = f.Name + " " + f.Spec[k].Torque.String()
				g.add(Value, f.Spec[k].Torque.String())
			}
		}
	}
	g.things(s)
	for i := range s.Locks {
		g.said = s.Locks[i].Name
		g.add(Lock, s.Locks[i].Name)
	}
	for i := range s.Marks {
		g.said = s.Marks[i].Name
		g.add(Mark, s.Marks[i].Name)
	}
	return g.out
}

// things are all values of the sheet that are typed: words as words, quantities and
// torques as values, those of single cases too.
func (g *gatherer) things(s *engine.Sheet) {
	v := reflect.ValueOf(s).Elem()
	for i := range v.NumField() {
		if f := v.Field(i); f.Kind() == reflect.Slice && f.Type().Elem().Kind() == reflect.Struct {
			for k := range f.Len() {
				g.said = ""
				if name := f.Index(k).FieldByName("Name"); name.IsValid() {
					g.said = name.String()
				}
				g.typed(f.Index(k))
			}
		}
	}
	for i := range s.Varies {
		for _, c := range s.Varies[i].Cases {
			for key, raw := range c.Set {
				g.said = strings.Join([]string{strings.ReplaceAll(s.Varies[i].Of, "/", " "), key, c.When.String()}, ", ")
				g.raw(raw)
			}
		}
	}
}

// raw are the values within a value of a case.
func (g *gatherer) raw(raw []byte) {
	var v any
	if json.Unmarshal(raw, &v) != nil {
		return
	}
	switch t := v.(type) {
	case string:
		g.text("case", t)
	case []any:
		for _, e := range t {
			b, err := json.Marshal(e)
			if err == nil {
				g.raw(b)
			}
		}
	case map[string]any:
		for _, e := range t {
			b, err := json.Marshal(e)
			if err == nil {
				g.raw(b)
			}
		}
	}
}

// text is a value where it is one, and words where it is none.
func (g *gatherer) text(place, s string) {
	if q, err := unit.Judge(s); err == nil {
		g.said = strings.TrimSpace(g.said + " " + q.String())
		g.add(Value, q.String())
		return
	}
	g.words(place, s)
}

// typed are the texts and values of a thing.
func (g *gatherer) typed(v reflect.Value) {
	name := g.said
	for i := range v.NumField() {
		f := v.Field(i)
		key, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ",")
		g.said = strings.TrimSpace(name + " " + key)
		switch {
		case key == "" || key == "id" || key == "name":
		case f.Type() == reflect.TypeFor[unit.Quantity]():
			if q := f.Interface().(unit.Quantity); !q.IsZero() {
				g.said = strings.TrimSpace(name + " " + q.String())
				g.add(Value, q.String())
			}
		case f.Type() == reflect.TypeFor[string]():
			if f.String() != "" {
				g.words(key, strings.TrimSpace(name+", "+f.String()))
			}
		case f.Kind() == reflect.Pointer && !f.IsNil() && f.Elem().Kind() == reflect.Struct:
			g.said = name
			g.typed(f.Elem())
		case f.Kind() == reflect.Slice && f.Type().Elem().Kind() == reflect.Struct:
			for k := range f.Len() {
				g.said = name
				g.typed(f.Index(k))
			}
		}
	}
	g.said = name
}

type gatherer struct {
	step step.ID
	said string
	out  []Use
}

func (g *gatherer) add(k Kind, term string) {
	u := Use{k, term, g.step, g.said}
	if term != "" && !slices.Contains(g.out, u) {
		g.out = append(g.out, u)
	}
}

func (g *gatherer) words(place, said string) {
	if said != "" {
		g.out = append(g.out, Use{Words, place, g.step, said})
	}
}

func (g *gatherer) tool(x *engine.Index, id engine.ToolID) {
	if t := x.Tool(id); t != nil {
		g.add(Tool, t.Number)
		g.add(Tool, t.Name)
	}
}
