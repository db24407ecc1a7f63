package quickline

import (
	"regexp"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// Reading is what became of a quick line. A line is read whole or not at all:
// with one word unread the action is free text with the line as it was typed.
type Reading struct {
	Action step.Action
	// Phase is where such a step usually stands.
	Phase step.Phase
	// Problem says why the line stays free text, empty where it was read.
	Problem string
	// Unread are the stretches of the line that were not read, as byte offsets
	// into Line.
	Unread [][2]int
	// Line is the line without its number or bullet.
	Line string
	// Aside is set for a line that is no step but a note or a caution on the step
	// above it; the action then holds its text.
	Aside Aside
	// Choices are whole lines that read and were probably meant, the nearest
	// first.
	Choices []string
	// Parts are the lines a line with several instructions can be taken apart
	// into; each reads, and no word of it is lost.
	Parts []string
	// When says for which engines the line says the step is; IfNot is set for a
	// step that is done when the one above fails, and Times how often the line says
	// that is tried again, 0 where it does not say.
	When  engine.When
	IfNot bool
	Times int
	// Note are the words of the line that say how it is done, for a note of the step.
	Note string
	best *attempt
}

// Aside is what a line adds to the step above it instead of being one.
type Aside string

// The two asides.
const (
	NoteAside    Aside = "note"
	CautionAside Aside = "caution"
)

// asides are the words an aside begins with, each followed by a colon.
var asides = []struct {
	word  string
	aside Aside
}{{"note", NoteAside}, {"nb", NoteAside}, {"remark", NoteAside}, {"caution", CautionAside}, {"warning", CautionAside}, {"danger", CautionAside}, {"attention", CautionAside}}

// aside cuts a line such as "caution: hot parts" into what it is and its text;
// the word before the colon is not said twice.
func aside(line string) (Aside, string) {
	word, text, ok := strings.Cut(line, ":")
	if !ok {
		return "", line
	}
	for _, a := range asides {
		if strings.EqualFold(strings.TrimSpace(word), a.word) {
			text = strings.TrimSpace(text)
			if k, rest := aside(text); k == a.aside {
				text = rest
			}
			return a.aside, text
		}
	}
	return "", line
}

// Read reports whether the line became a step.
func (r *Reading) Read() bool { return r.Problem == "" }

// Step is the step a line becomes, with an id and in a phase.
func (r *Reading) Step(id step.ID, phase step.Phase) step.Step {
	s := step.Step{ID: id, Phase: phase, Action: r.Action, When: r.When, IfNot: r.IfNot, Note: r.Note}
	if r.Times > 0 {
		s.Again = &step.Again{Times: r.Times}
	}
	return s
}

// Words are the unread stretches as they were typed.
func (r *Reading) Words() []string {
	var out []string
	for _, u := range r.Unread {
		out = append(out, r.Line[u[0]:u[1]])
	}
	return out
}

var numbering = regexp.MustCompile(`^\s*(?:\(?\d{1,3}[.):]\s+|(?i:step)\s+\d{1,3}\s*[.):]\s+|\(?[a-z][.)]\s+|[-*•–]\s+)`)

var anyObject = []engine.Kind{engine.KindLock, engine.KindPart, engine.KindFastener, engine.KindLoop, engine.KindWheel, engine.KindMark, engine.KindTensioner, engine.KindFluid}

// maxLine is the longest quick line that is read as a step.
const maxLine = 500

// Plain is a typed line without its number or bullet and the stop at its end.
func Plain(text string) string {
	text = strings.ToValidUTF8(text, "�")
	text = strings.Map(func(r rune) rune {
		if r == '\t' || r == '\n' || r == '\r' {
			return ' '
		}
		return r
	}, text)
	return strings.TrimRight(strings.TrimSpace(numbering.ReplaceAllString(text, "")), " .")
}

// Read turns a typed line into a step. It never fails: a line that is not read
// whole stays as free text and says so.
func Read(lex *Lexicon, text string) Reading {
	line := Plain(text)
	if kind, words := aside(line); kind != "" {
		if words == "" {
			return Reading{Action: &step.Do{Text: line, Unread: true}, Line: line, Problem: "the " + string(kind) + " has no words"}
		}
		return Reading{Action: &step.Do{Text: message.Capital(words)}, Line: line, Aside: kind}
	}
	if r, ok := lex.led(line); ok {
		return r
	}
	r := read(lex, line)
	if r.Read() || len(r.Line) > maxLine {
		return r
	}
	if r.best != nil {
		r.Choices = r.best.choices(lex)
	}
	if len(r.Choices) == 0 {
		if r.Parts = lex.parts(line); r.Parts != nil {
			r.Problem = "it gives " + unit.Number(float64(len(r.Parts))) + " instructions, and a step is one"
		}
	}
	if len(r.Choices) == 0 && r.Parts == nil {
		if f, ok := lex.formed(line); ok {
			return f
		}
		r.Choices = lex.nearby(&r)
	}
	r.best = nil
	return r
}

func read(lex *Lexicon, text string) Reading {
	free := Reading{Action: &step.Do{Text: text, Unread: true}, Line: text}
	if text == "" {
		free.Problem = "nothing was typed"
		return free
	}
	if len(text) > maxLine {
		free.Problem = "the line is too long for one step"
		return free
	}
	ts := tokens(text)
	if forbids(ts) {
		if at := lex.alsoAsks(text, ts); at > 0 {
			free.Problem, free.Unread = "it forbids one thing and may ask for another", [][2]int{{ts[at].start, len(text)}}
			return free
		}
		return Reading{Action: &step.Do{Text: text}, Line: text}
	}
	best := lex.attempts(text, ts)
	if best == nil {
		if r, ok := lex.ledByHold(text, ts); ok {
			return r
		}
		if r, ok := lex.tableLine(text, ts); ok {
			return r
		}
		free.Problem = "it does not start with a verb this page knows"
		if len(ts) > 0 {
			free.Unread = [][2]int{{ts[0].start, ts[0].end}}
			if slices.Contains([]string{"the", "a", "an", "both", "all", "each"}, ts[0].word) {
				free.Problem, free.Unread = "it begins with a thing: write first what is done to it", [][2]int{{0, len(text)}}
			}
		}
		return free
	}
	if best.whole() {
		return Reading{Action: best.action, Phase: best.spec.Phase, Line: text, Note: best.note()}
	}
	free.Problem, free.Unread = strings.TrimRight(best.problem(), "."), best.stretches()
	free.best = best
	return free
}

// note are the words that say how a step is done and that its sentence does not say.
func (a *attempt) note() string {
	said := strings.ToLower(en.Sentence(a.x, a.action))
	var out []string
	for _, m := range a.manner {
		m = strings.TrimSuffix(m, " of")
		if !strings.Contains(said, m) {
			out = append(out, m)
		}
	}
	if len(out) == 0 {
		return ""
	}
	return message.Capital(strings.Join(out, ", ")) + "."
}

// forbids reports whether a line says what not to do: it is kept to the letter.
func forbids(ts []token) bool {
	for len(ts) > 2 && (slices.Contains(leads, ts[0].word) || ts[0].mark && ts[0].word == ",") {
		ts = ts[1:]
	}
	if len(ts) < 2 || ts[0].mark {
		return false
	}
	if ts[0].word == "do" && ts[1].word == "not" {
		return true
	}
	return slices.Contains([]string{"never", "don't", "don’t"}, ts[0].word)
}

// alsoAsks is where a line that forbids something goes on with a step of its own,
// 0 where it does not: "Do not turn the crank; take out the crank pin".
func (lex *Lexicon) alsoAsks(text string, ts []token) int {
	for i := 2; i < len(ts); i++ {
		if slices.Contains([]string{"and", "then", "but", ";", "."}, ts[i-1].word) && len(openings(ts, i)) > 0 && !forbids(ts[i:]) {
			if r := read(lex, text[ts[i].start:]); r.Read() {
				return i
			}
		}
	}
	return 0
}

// attempt is a line read as one verb.
type attempt struct {
	*Line
	spec   *step.Spec
	action step.Action
}

func (a *attempt) whole() bool {
	return len(a.left) == 0 && len(a.asks) == 0 && a.Line.problem == "" && a.particle == ""
}

// weight orders attempts: what is whole first, then what only has to be asked,
// then what leaves the fewest words.
func (a *attempt) weight() int {
	n := 1000 * len(a.left)
	if a.particle != "" {
		n += 1000
	}
	n += 10 * len(a.asks)
	if a.Line.problem != "" {
		n += 20
	}
	if a.loose {
		n += 5
	}
	if n < 10 {
		n = n*100 + min(a.short, 99)
	}
	return n
}

// blamed is the attempt that says why a line is not read: where another reads the thing that stands
// behind the verb and this one leaves it, the other one knows what the line is about.
func (a *attempt) blamed(all []*attempt) *attempt {
	if len(a.left) == 0 || a.speaks() {
		return a
	}
	out := a
	for _, o := range all {
		if !o.speaks() || len(o.left) == 0 || !slices.ContainsFunc(a.left, func(i int) bool { return !slices.Contains(o.left, i) && a.lex.knows(a.tokens[i].word) }) {
			continue
		}
		if out == a || o.weight() < out.weight() {
			out = o
		}
	}
	return out
}

// attempts reads a line as every verb whose phrase opens it and gives the best
// reading, nil for none. Two verbs that both read it whole are asked about.
func (lex *Lexicon) attempts(text string, ts []token) *attempt {
	from := 0
	for from < len(ts)-1 && slices.Contains(leads, ts[from].word) {
		from++
		if ts[from].word == "," {
			from++
		}
	}
	if from >= len(ts) {
		return nil
	}
	var best, all []*attempt
	for _, o := range openings(ts, from) {
		l := &Line{x: lex.x, lex: lex, text: text, tokens: ts, pos: o.pos, phrase: o.phrase, particle: o.particle}
		a := &attempt{Line: l, spec: o.spec}
		a.action = grammars[o.spec.Verb].read(l)
		for !l.end() {
			l.unread(l.pos)
			l.pos++
		}
		if len(l.left) == 0 && !a.speaks() {
			l.refuse("it does not say what to " + o.phrase)
		}
		slices.Sort(l.left)
		all = append(all, a)
		switch {
		case len(best) == 0 || a.weight() < best[0].weight():
			best = []*attempt{a}
		case a.weight() == best[0].weight() && !slices.ContainsFunc(best, func(b *attempt) bool { return b.spec == a.spec }):
			best = append(best, a)
		}
	}
	if len(best) == 0 {
		return nil
	}
	first := best[0].blamed(all)
	if first.whole() && len(best) > 1 {
		var ways []string
		for _, a := range best {
			if a.whole() {
				ways = append(ways, en.Typed(lex.x, a.action))
			}
		}
		first.asks = append(first.asks, asked{0, len(text), "it can be read in more than one way", ways})
	}
	return first
}

// ledByHold reads a line that says first what it is done with and then what:
// "Using the sprocket holder, slacken …", "Hold the inlet sprocket with TL-104
// and slacken its bolt". It reads as the same step with the holder behind.
func (lex *Lexicon) ledByHold(text string, ts []token) (Reading, bool) {
	l := &Line{x: lex.x, lex: lex, text: text, tokens: ts}
	var wheel [2]int
	led := l.Say("using", "with")
	if !led {
		if !l.Say("hold", "counterhold", "lock") {
			return Reading{}, false
		}
		from := l.pos
		if ns, ok := l.Things(true, engine.KindWheel); !ok || l.asking() || len(ns) == 0 || l.end() {
			return Reading{}, false
		}
		wheel = [2]int{ts[from].start, ts[l.pos-1].end}
		if !l.Say("with", "using") {
			return Reading{}, false
		}
	}
	from := l.pos
	id, ok := l.One(engine.KindLock)
	if !ok || l.asking() {
		return Reading{}, false
	}
	if led {
		l.Say("fitted", "in place", "engaged", "in position")
	}
	name := text[ts[from].start:ts[l.pos-1].end]
	if led {
		l.Say(",")
	} else {
		l.Skip(",", "and", "then")
	}
	if l.end() || l.pos == from {
		return Reading{}, false
	}
	rest := text[ts[l.pos].start:]
	if !led {
		// Its bolt is that wheel's, which is said anew.
		for i := l.pos; i+1 < len(ts); i++ {
			if (ts[i].word == "its" || ts[i].word == "their" || ts[i].word == "the") && (ts[i+1].word == "bolt" || ts[i+1].word == "bolts") {
				rest = text[ts[l.pos].start:ts[i].start] + text[wheel[0]:wheel[1]] + text[ts[i].end:]
				break
			}
		}
	}
	r := read(lex, rest+", with "+name)
	if !r.Read() {
		r = read(lex, rest+" with "+name)
	}
	if !r.Read() {
		return Reading{}, false
	}
	held := slices.ContainsFunc(step.Refs(r.Action), func(r engine.Ref) bool { return r.Kind == engine.KindLock && r.ID == id })
	if !held || r.Action.Verb() == "do" {
		return Reading{}, false
	}
	return Reading{Action: r.Action, Phase: r.Phase, Line: text}, true
}

// tableLine reads a line of a torque table, "Crank bolt: 120 N·m + 90°", as the
// step that tightens so.
func (lex *Lexicon) tableLine(text string, ts []token) (Reading, bool) {
	l := &Line{x: lex.x, lex: lex, text: text, tokens: ts}
	if _, ok := l.Things(true, engine.KindFastener); !ok || l.asking() || !l.Say(":") {
		return Reading{}, false
	}
	if l.end() || l.tokens[l.pos].figure == nil {
		return Reading{}, false
	}
	r := read(lex, "tighten "+text[:ts[l.pos-1].start]+" "+text[ts[l.pos].start:])
	if !r.Read() || r.Action.Verb() != "tighten" {
		return Reading{}, false
	}
	return Reading{Action: r.Action, Phase: r.Phase, Line: text}, true
}

// leads are words that may stand before the verb and add nothing to it.
var leads = []string{"then", "now", "next", "finally", "lastly", "please", "carefully", "afterwards"}

// speaks reports whether a verb that takes something got it.
func (a *attempt) speaks() bool {
	if a.spec.Takes == nil {
		return true
	}
	return slices.ContainsFunc(step.Refs(a.action), func(r engine.Ref) bool { return slices.Contains(a.spec.Takes, r.Kind) })
}

type opening struct {
	spec             *step.Spec
	phrase, particle string
	pos              int
}

// openings are the verbs whose phrase opens the line, longer phrases first.
// A phrase of verb and particle may be parted: take the crank pin out.
func openings(ts []token, from int) []opening {
	l := &Line{tokens: ts}
	var out []opening
	for _, s := range step.Specs {
		for _, p := range s.Phrases {
			if n := l.at(from, p); n > 0 {
				out = append(out, opening{s, p, "", from + n})
				continue
			}
			verb, particle, ok := strings.Cut(p, " ")
			if !ok || !slices.Contains(particles, particle) || l.at(from, verb) == 0 {
				continue
			}
			switch {
			case slices.ContainsFunc(ts[from+1:], func(t token) bool { return t.word == particle }):
				out = append(out, opening{s, p, particle, from + 1})
			case particle == "in" && slices.ContainsFunc(ts[from+1:], func(t token) bool { return t.word == "into" }):
				out = append(out, opening{s, p, "", from + 1}) // screw the pin into the block
			}
		}
	}
	slices.SortStableFunc(out, func(a, b opening) int { return len(b.phrase) - len(a.phrase) })
	return out
}

var particles = []string{"out", "off", "back", "up", "in", "on", "over", "down", "away", "go"}

// stretches are the unread words, neighbours joined.
func (a *attempt) stretches() [][2]int {
	var out [][2]int
	last := -2
	for _, i := range a.left {
		t := a.tokens[i]
		if i == last+1 && len(out) > 0 {
			out[len(out)-1][1] = max(out[len(out)-1][1], t.end)
		} else {
			out = append(out, [2]int{t.start, t.end})
		}
		last = i
	}
	for _, k := range a.asks {
		if len(a.left) == 0 {
			out = append(out, [2]int{k.start, k.end})
		}
	}
	return out
}

func (a *attempt) problem() string {
	switch {
	case len(a.left) > 0:
		return a.leftOver()
	case a.particle != "":
		return "“" + a.phrase + "” is not whole"
	case len(a.asks) > 0:
		k := a.asks[0]
		return sentenceOf("“"+a.text[k.start:k.end]+"”", k.why)
	}
	return a.Line.problem
}

// leftOver says why words of the line were not read: whether they are on the engine
// sheet, and that they are no part of the verb.
func (a *attempt) leftOver() string {
	var there, not []string
	for _, s := range a.stretches() {
		known := true
		for _, i := range a.left {
			t := a.tokens[i]
			if t.start < s[0] || t.end > s[1] || t.mark || t.figure != nil {
				continue
			}
			if t.word == "about" || t.word == "approximately" {
				return "“" + a.text[t.start:t.end] + "” is not read: write the value with its tolerance"
			}
			if slices.Contains(turning, t.word) || slices.Contains(guarded, t.word) || slices.Contains(functionWords, t.word) || a.lex.knows(t.word) {
				continue
			}
			known = false
			not = append(not, "“"+a.text[t.start:t.end]+"”")
		}
		if known {
			there = append(there, "“"+a.text[s[0]:s[1]]+"”")
		}
	}
	var out []string
	if len(not) > 0 {
		out = append(out, upTo(not, 3)+en.Plural(len(not), " is", " are")+" not on this engine’s sheet and no part of “"+a.phrase+" …”")
	}
	if len(there) > 0 {
		out = append(out, upTo(there, 3)+en.Plural(len(there), " is", " are")+" no part of “"+a.phrase+" …” as it is written here")
	}
	return strings.Join(out, "; ")
}

// functionWords are on no sheet and need not be.
var functionWords = []string{"and", "then", "to", "at", "in", "on", "of", "with", "by", "for", "from", "so", "that", "as", "there", "it", "them", "its", "their", "again", "also", "too", "the", "a", "an", "same", "other", "back", "up", "off", "out", "is", "are", "be", "been", "was", "were", "your", "you", "can", "must", "should", "may", "until", "while", "when", "if", "after", "before", "only", "just", "any", "all", "both", "each", "this", "these"}

// knows reports whether a word is part of a name on the sheet.
func (lex *Lexicon) knows(word string) bool {
	w := en.Singular(word)
	for i := range lex.things {
		if slices.Contains(lex.things[i].words, w) {
			return true
		}
	}
	for name := range lex.shafts {
		if slices.Contains(strings.Fields(name), w) {
			return true
		}
	}
	return false
}

func sentenceOf(quote, why string) string {
	if strings.HasPrefix(why, "“") {
		return why
	}
	return quote + ": " + why
}

// choices are the lines the first question can be answered with.
func (a *attempt) choices(lex *Lexicon) []string {
	if len(a.left) > 0 || len(a.asks) == 0 {
		return nil
	}
	k := a.asks[0]
	var out []string
	for _, w := range k.with {
		line := a.text[:k.start] + w + a.text[k.end:]
		r := read(lex, line)
		if r.Read() && r.Note == "" { // a note is no part of the action
			line = en.Typed(lex.x, r.Action)
		}
		if r.Read() || r.best != nil && len(r.best.left) == 0 && len(r.best.asks) < len(a.asks) {
			out = append(out, line)
		}
	}
	return out
}
