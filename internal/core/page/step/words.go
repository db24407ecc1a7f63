package step

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// SpanKind tells a screen how to set a piece of a sentence.
type SpanKind string

// The kinds of span.
const (
	VerbSpan   SpanKind = "verb"
	ObjectSpan SpanKind = "object"
	TextSpan   SpanKind = "text"
	ValueSpan  SpanKind = "value"
)

// Span is a piece of a sentence; Ref names the thing an object span speaks of,
// as "lock:crank-pin".
type Span struct {
	Kind SpanKind `json:"kind"`
	Text string   `json:"text"`
	Ref  string   `json:"ref,omitzero"`
}

// Words collects a step's sentence. In brief form the values stand apart, for a
// column of their own; in full form they stand in the sentence, with articles
// and the torque in both unit systems.
type Words struct {
	x *engine.Index
	// full is a sentence, typed a quick line; otherwise it is a row.
	full   bool
	typed  bool
	fresh  bool
	spans  []Span
	values []string
}

// Brief is a step as a row shows it.
type Brief struct {
	Spans []Span
	Value string
}

// Row puts an action into a row's words.
func Row(x *engine.Index, a Action) Brief {
	w := &Words{x: x}
	a.Say(w)
	return Brief{w.spans, strings.Join(w.values, " ")}
}

// Sentence puts an action into one full sentence.
func Sentence(x *engine.Index, a Action) string {
	w := &Words{x: x, full: true}
	a.Say(w)
	var b strings.Builder
	for _, s := range w.spans {
		b.WriteString(s.Text)
	}
	t := Capital(strings.TrimSpace(b.String()))
	if t != "" && !strings.ContainsAny(t[len(t)-1:], ".!?") {
		t += "."
	}
	return t
}

func (w *Words) put(k SpanKind, text, ref string) {
	if text == "" {
		return
	}
	if len(w.spans) > 0 && !strings.ContainsAny(text[:1], ",.;:") {
		w.spans[len(w.spans)-1].Text += " "
	}
	w.spans = append(w.spans, Span{k, text, ref})
}

func (w *Words) verb(v string) { w.put(VerbSpan, v, "") }

// Text adds plain words.
func (w *Words) text(s string) {
	if s != "" {
		w.put(TextSpan, s, "")
	}
}

// value adds a figure: after prep in a full sentence, in the value column of a
// row.
func (w *Words) value(prep, v string) {
	if v == "" {
		return
	}
	if !w.inline() {
		w.values = append(w.values, v)
		return
	}
	w.text(prep)
	w.put(ValueSpan, v, "")
}

// inline reports whether values stand among the words.
func (w *Words) inline() bool { return w.full || w.typed }

func (w *Words) object(kind engine.Kind, id, name string) {
	if name == "" {
		name = "“" + id + "”"
	}
	if w.fresh {
		name = "new " + name
	}
	if w.full {
		name = "the " + name
	}
	w.put(ObjectSpan, name, string(kind)+":"+id)
}

func (w *Words) lock(id engine.LockID) {
	name := ""
	if l := w.x.Lock(id); l != nil {
		name = l.Name
	}
	w.object(engine.KindLock, string(id), name)
}

func (w *Words) part(id engine.PartID) {
	name := ""
	if p := w.x.Part(id); p != nil {
		name = p.Name
	}
	w.object(engine.KindPart, string(id), name)
}

func (w *Words) fastener(id engine.FastenerID) {
	name := ""
	if f := w.x.Fastener(id); f != nil {
		name = f.Words()
	}
	w.object(engine.KindFastener, string(id), name)
}

func (w *Words) loop(id engine.LoopID) {
	name := ""
	if l := w.x.Loop(id); l != nil {
		name = l.Name
	}
	w.object(engine.KindLoop, string(id), name)
}

func (w *Words) shaft(id engine.ShaftID) {
	if id == "" {
		id = engine.CrankID
	}
	name := "crank"
	if s := w.x.Shaft(id); s != nil && id != engine.CrankID {
		name = s.Name
	}
	w.object(engine.KindShaft, string(id), name)
}

func (w *Words) wheel(id engine.WheelID) {
	name := ""
	if l := w.x.Wheel(id); l != nil {
		name = l.Name
	}
	w.object(engine.KindWheel, string(id), name)
}

func (w *Words) mark(id engine.MarkID) {
	name := ""
	if l := w.x.Mark(id); l != nil {
		name = l.Name
	}
	w.object(engine.KindMark, string(id), name)
}

func (w *Words) tensioner(id engine.TensionerID) {
	name := ""
	if l := w.x.Tensioner(id); l != nil {
		name = l.Name
	}
	w.object(engine.KindTensioner, string(id), name)
}

// each writes several things with commas and "and".
func each[T any](w *Words, ids []T, say func(T)) {
	for i, id := range ids {
		switch {
		case i == 0:
		case i == len(ids)-1:
			w.text("and")
		default:
			w.spans[len(w.spans)-1].Text += ","
		}
		say(id)
	}
}

// stages are the tightening values in the value column or the sentence.
func (w *Words) stages(prep string, st []engine.Stage) {
	if len(st) > 0 && st[0].Torque.IsZero() && prep != "" {
		prep = "by a further"
	}
	w.value(prep, w.stagesText(st))
}

func (w *Words) stagesText(st []engine.Stage) string {
	var parts []string
	for _, s := range st {
		if !s.Torque.IsZero() {
			parts = append(parts, w.torque(s.Torque))
		}
		if !s.Angle.IsZero() {
			parts = append(parts, s.Angle.String())
		}
	}
	return strings.Join(parts, " + ")
}

// torque prints a torque; a full sentence adds the other unit system.
func (w *Words) torque(q unit.Quantity) string {
	if !w.full || q.AlsoUnit != "" || q.Kind() != unit.KindTorque {
		return q.String()
	}
	return WithOther(q).String()
}

// WithOther is a torque with its figure in the other unit system beside it.
func WithOther(q unit.Quantity) unit.Quantity {
	o := OtherTorque(q)
	if o.Unit == q.Unit {
		return q
	}
	q.Also, q.AlsoHigh, q.AlsoUnit = o.Value, o.High, o.Unit
	if o.TolUnit == o.Unit {
		q.AlsoTol, q.AlsoLess = o.Tol, o.Less
	}
	return q
}

// OtherTorque is a torque in the other unit system: small ones in lbf·in, the
// rest in lbf·ft, and imperial ones in N·m.
func OtherTorque(q unit.Quantity) unit.Quantity {
	u := unit.PoundForceFoot
	if t, _ := q.Torque(); t < 15 {
		u = unit.PoundForceInch
	}
	if q.Unit != unit.NewtonMetre && q.Unit != unit.NewtonCentimetre {
		u = unit.NewtonMetre
	}
	o, err := q.In(u)
	if err != nil {
		return q
	}
	return o
}

// several reports whether what was named takes a verb in the plural: more than
// one thing, or one whose own name is plural.
func several(names ...string) bool {
	return len(names) != 1 || PluralName(names[0])
}

// PluralName reports whether a name is plural already: belt lines, pulley bolts.
func PluralName(name string) bool {
	w := strings.ToLower(name[strings.LastIndexByte(name, ' ')+1:])
	return Singular(w) != w
}

// count mentions how many of some fasteners there are.
func count(x *engine.Index, ids []engine.FastenerID) string {
	n := FastenerCount(x, ids)
	if n < 2 {
		return ""
	}
	return unit.Number(float64(n)) + " bolts"
}

// Capital is a sentence with a capital at its start.
func Capital(s string) string {
	r, w := utf8.DecodeRuneInString(s)
	if w == 0 || !unicode.IsLower(r) {
		return s
	}
	return string(unicode.ToUpper(r)) + s[w:]
}

// Singular is a word without its plural ending; words that only look plural
// stay.
func Singular(w string) string {
	switch {
	case len(w) < 4 || !strings.HasSuffix(w, "s") || strings.HasSuffix(w, "ss") || strings.HasSuffix(w, "us") || strings.HasSuffix(w, "is") || slices.Contains(notPlural, w):
		return w
	case strings.HasSuffix(w, "ies"):
		return w[:len(w)-3] + "y"
	}
	return w[:len(w)-1]
}

// notPlural end like a plural and are none.
var notPlural = []string{"crosswise", "lens", "gas", "always", "backwards", "upwards", "clockwise", "across", "towards", "its", "lengthways"}
