// Package lang puts what steps say into a language. A language is a table, one entry
// for a verb with its phrases by role; what is the same in all of them, how names
// are joined, where figures stand in a row, is here.
package lang

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
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

// Brief is a step as a row shows it: words, and the figures for a column of their own.
type Brief struct {
	Spans []Span
	Value string
}

// Text is a row as it is read: its words, then its figures.
func (b Brief) Text() string {
	var out strings.Builder
	for _, s := range b.Spans {
		out.WriteString(s.Text)
	}
	if b.Value != "" {
		out.WriteString(" " + b.Value)
	}
	return out.String()
}

// Style is where a step is said.
type Style uint8

// The styles. A row has its figures apart; a line is what an author types, and reads
// back; a sentence has articles and torques in both unit systems.
const (
	Row Style = iota
	Line
	Sentence
)

// Language is how steps are said. The zero value says nothing.
type Language struct {
	// Verbs are by verb, and by verb and form: "remove", "remove/lead". What the entry of
	// a form lacks is taken from its verb.
	Verbs map[string]Verb
	// Roles are phrases that all verbs share.
	Roles map[step.Role]Phrase
	// Choices are words of closed sets where they are not said as they are kept.
	Choices map[string]string
	// And stands before the last of several.
	And string
	// Crank is what the crank is called.
	Crank string
	// VerbLast puts the verb behind everything else.
	VerbLast bool
	// The puts a thing into a sentence, with its article; New says that it is a new one.
	The, New func(name string) string
	// Several reports whether names take their verb in the plural.
	Several func(names []string) bool
	// Turns are turns of a shaft or bolt, Count a number of bolts.
	Turns, Count func(n float64) string
	// When says for which engines a value is.
	When func(engine.When) string
}

// Verb is how a verb is said: in a sentence, and elsewhere where that is another word.
type Verb struct {
	Verb, Brief, Line string
	Roles             map[step.Role]Phrase
	// Lead stands before what is said first, Next before what follows: that, and that.
	Lead, Next string
}

// Phrase is a pattern for a part, with a place %s for what it names. Not said where
// the pattern is "-".
type Phrase struct {
	// One is running text, More that of several, where it is another.
	One, More string
	// Row and Line are patterns of these styles where they are others.
	Row, Line string
	// Sentence is that of a sentence alone.
	Sentence string
	// Beside are patterns of running text where the step has such a part too.
	Beside map[step.Role]string
	// Figure is set for what stands in the column of values of a row; there it stands
	// alone, or in Row.
	Figure bool
	// Plain names things as words of the text; Join stands between them, in a row RowJoin.
	Plain         bool
	Join, RowJoin string
	// Says is what stands in the place of a part whose role says it all.
	Says string
	// By picks the pattern by what is named.
	By func(style Style, named string) string
}

// Row is a step as a row shows it.
func (g *Language) Row(x *engine.Index, a step.Action) Brief {
	w := g.say(x, a, Row)
	return Brief{w.spans, strings.Join(w.values, " ")}
}

// Text is a step in one of the styles that are one text, without a stop.
func (g *Language) Text(x *engine.Index, a step.Action, style Style) string {
	var b strings.Builder
	for _, s := range g.say(x, a, style).spans {
		b.WriteString(s.Text)
	}
	return strings.TrimSpace(b.String())
}

// Lacks are the parts of what a step says that the language has no words for, as verb
// and role: "tighten held". A part it lacks is left out where the step is said, so a
// language that lacks any is not one to print a page in.
func (g *Language) Lacks(c step.Clause) []string {
	verb, base := g.Verbs[string(c.Verb)+"/"+string(c.Form)], g.Verbs[string(c.Verb)]
	var out []string
	if verb.Verb == "" && base.Verb == "" && c.Verb != "do" {
		out = append(out, string(c.Verb))
	}
	for _, p := range c.Parts {
		if _, ok := phrase(p, verb.Roles, base.Roles, g.Roles); !ok {
			out = append(out, string(c.Verb)+" "+string(p.Role))
		}
	}
	return out
}

// saying is a step while it is said.
type saying struct {
	*Language
	x      *engine.Index
	style  Style
	spans  []Span
	values []string
}

func (g *Language) say(x *engine.Index, a step.Action, style Style) *saying {
	w := &saying{Language: g, x: x, style: style}
	c := a.Clause(x)
	verb, base := g.Verbs[string(c.Verb)+"/"+string(c.Form)], g.Verbs[string(c.Verb)]
	if verb.Verb == "" {
		verb.Verb, verb.Brief, verb.Line = base.Verb, base.Brief, base.Line
	}
	if !g.VerbLast {
		w.verb(verb)
	}
	has := func(r step.Role) bool {
		return slices.ContainsFunc(c.Parts, func(p step.Part) bool { return p.Role == r })
	}
	said := 0
	for _, p := range c.Parts {
		ph, ok := phrase(p, verb.Roles, base.Roles, g.Roles)
		if !ok {
			continue
		}
		if base.Lead != "" {
			lead := base.Lead
			if said > 0 {
				lead = base.Next
			}
			w.put(TextSpan, lead, "")
		}
		w.part(p, ph, has)
		said++
	}
	if g.VerbLast {
		w.verb(verb)
	}
	return w
}

// phrase is that of a part: by its role and choice, else by its role.
func phrase(p step.Part, tables ...map[step.Role]Phrase) (Phrase, bool) {
	for _, key := range []step.Role{p.Role + "/" + step.Role(p.Choice), p.Role} {
		for _, t := range tables {
			if ph, ok := t[key]; ok {
				return ph, true
			}
		}
	}
	return Phrase{}, false
}

func (w *saying) verb(v Verb) {
	word := v.Verb
	switch {
	case w.style == Row && v.Brief != "":
		word = v.Brief
	case w.style == Line && v.Line != "":
		word = v.Line
	}
	w.put(VerbSpan, word, "")
}

func (w *saying) put(k SpanKind, text, ref string) {
	if text == "" {
		return
	}
	if len(w.spans) > 0 && !strings.ContainsAny(text[:1], ",.;:") {
		w.spans[len(w.spans)-1].Text += " "
	}
	w.spans = append(w.spans, Span{k, text, ref})
}

// part says one part in its pattern.
func (w *saying) part(p step.Part, ph Phrase, has func(step.Role) bool) {
	names := make([]string, len(p.Things))
	for i, t := range p.Things {
		names[i] = w.name(t)
	}
	content := w.content(p, ph)
	pattern := w.pattern(p, ph, names, content, has)
	if pattern == "-" {
		return
	}
	before, after, place := strings.Cut(pattern, "%s")
	if ph.Figure && w.style == Row {
		if len(names) > 0 {
			content = w.joined(names, ph)
		}
		if v := before + content + after; v != "" {
			w.values = append(w.values, v)
		}
		return
	}
	if len(names) > 0 && ph.Plain {
		content = w.joined(names, ph)
	}
	if !place {
		content, after = "", ""
	}
	if !place || len(names) == 0 && !ph.Figure || ph.Plain {
		w.put(TextSpan, strings.TrimSpace(before+content+after), "")
		return
	}
	w.put(TextSpan, strings.TrimSpace(before), "")
	if len(names) > 0 {
		w.things(p, names)
	} else {
		w.put(ValueSpan, content, "")
	}
	w.put(TextSpan, strings.TrimSpace(after), "")
}

// joined are the names of things as words of the text.
func (w *saying) joined(names []string, ph Phrase) string {
	switch {
	case w.style == Row && ph.RowJoin != "":
		return strings.Join(names, ph.RowJoin)
	case ph.Join != "":
		return strings.Join(names, ph.Join)
	}
	return List(names, w.And)
}

// pattern is the one for the style, for one or for more.
func (w *saying) pattern(p step.Part, ph Phrase, names []string, content string, has func(step.Role) bool) string {
	if ph.By != nil {
		named := content
		if len(names) > 0 {
			named = names[0]
		}
		return ph.By(w.style, named)
	}
	switch {
	case w.style == Row && ph.Row != "":
		return ph.Row
	case w.style == Row && ph.Figure:
		return "%s"
	case w.style == Line && ph.Line != "":
		return ph.Line
	case w.style == Sentence && ph.Sentence != "":
		return ph.Sentence
	}
	if w.style != Row {
		for r, alt := range ph.Beside {
			if has(r) {
				return alt
			}
		}
	}
	more := p.Number != 0 && p.Number != 1 || p.Number == 0 && len(names) > 0 && w.Several(names)
	if more && ph.More != "" {
		return ph.More
	}
	return ph.One
}

// content is what stands in the place of a part that names no things, and of one that
// has words for them.
func (w *saying) content(p step.Part, ph Phrase) string {
	switch {
	case p.Words != "":
		return p.Words
	case !p.Value.IsZero():
		return p.Value.String()
	case len(p.Stages) > 0:
		return w.stages(p.Stages)
	case len(p.By) > 0:
		return w.by(p)
	case p.Role == step.RoleTurns:
		return w.Turns(p.Number)
	case p.Role == step.RoleBolts:
		return w.Count(p.Number)
	case p.Number != 0:
		return unit.Number(p.Number)
	case p.Choice != "":
		if said, ok := w.Choices[p.Choice]; ok {
			return said
		}
		return p.Choice
	}
	return ph.Says
}

// name is what a thing is called; in quotes its id where the sheet has no such thing.
func (w *saying) name(r engine.Ref) string {
	name := ""
	switch r.Kind {
	case engine.KindTool:
		if t := w.x.Tool(engine.ToolID(r.ID)); t != nil {
			name = t.Number
		}
	case engine.KindFastener:
		if f := w.x.Fastener(engine.FastenerID(r.ID)); f != nil {
			name = f.Words()
		}
	case engine.KindWheel:
		if wh := w.x.Wheel(engine.WheelID(r.ID)); wh != nil {
			name = wh.Name
		}
	default:
		name = w.x.Name(r)
	}
	if r == (engine.Ref{Kind: engine.KindShaft, ID: string(engine.CrankID)}) {
		name = w.Crank
	}
	if name == "" {
		name = "“" + r.ID + "”"
	}
	return name
}

// things writes names with commas, the last behind "and".
func (w *saying) things(p step.Part, names []string) {
	for i, t := range p.Things {
		switch {
		case i == 0:
		case i == len(names)-1:
			w.put(TextSpan, w.And, "")
		default:
			w.spans[len(w.spans)-1].Text += ","
		}
		name := names[i]
		if p.Words != "" {
			name = p.Words
		}
		if p.Fresh {
			name = w.New(name)
		}
		if w.style == Sentence {
			name = w.The(name)
		}
		w.put(ObjectSpan, name, string(t.Kind)+":"+t.ID)
	}
}

// List joins names as a sentence does: "a, b and c".
func List(names []string, and string) string {
	switch len(names) {
	case 0:
		return ""
	case 1:
		return names[0]
	}
	return strings.Join(names[:len(names)-1], ", ") + " " + and + " " + names[len(names)-1]
}

// stages are the values of a tightening; a sentence has torques in both unit systems.
func (w *saying) stages(st []engine.Stage) string {
	return engine.StagesSaid(st, func(q unit.Quantity) string {
		if w.style == Sentence && q.AlsoUnit == "" && q.Kind() == unit.KindTorque {
			q = step.WithOther(q)
		}
		return q.String()
	})
}

// by are the values for each case; a quick line parts them with semicolons.
func (w *saying) by(p step.Part) string {
	to := ""
	if w.style == Sentence {
		// What stands before the first is said before each.
		ph := w.Roles[p.Role]
		to, _, _ = strings.Cut(ph.One, "%s")
	}
	var parts []string
	for i := range p.By {
		v := w.stages(p.By[i].Stages) + " " + w.When(p.By[i].When)
		if i > 0 {
			v = to + v
		}
		parts = append(parts, v)
	}
	if w.style == Line {
		return strings.Join(parts, "; ")
	}
	return strings.Join(parts, ", ")
}
