// Package quickline reads what an author types or pastes, a line of English into a
// step: the words of each verb, one file each, the trade's words for the same thing,
// the names of a sheet, what is near, and what may be typed next. A line of which one
// word is not understood is no step, and says so.
package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// Line is a quick line while a verb reads it from left to right. Every word is
// taken by one of the verb's clauses or is left unread; a line with one word
// unread is no step.
type Line struct {
	x      *engine.Index
	lex    *Lexicon
	text   string
	tokens []token
	// phrase is the verb phrase the line opens with, particle the second word of
	// one that is parted: take the crank pin out.
	phrase   string
	particle string
	pos      int
	left     []int
	asks     []asked
	problem  string
	// loose is set when words went into a field of free text.
	loose bool
	// short counts how far names were shortened: an exact name is taken before a
	// shorter form of another.
	short int
	// clock is set when a way round was said as clockwise or counterclockwise.
	clock bool
	// fresh lets "new" stand before each of several names.
	fresh bool
	open  int
	// may are words that a free text may have beside those of a noun phrase, figured
	// lets it have a figure.
	may     []string
	figured bool
	// manner are words that say how something is done; they become a note of the step.
	manner []string
}

// asked is a stretch of the line that fits several things.
type asked struct {
	start, end int
	why        string
	with       []string
}

func (l *Line) asking() bool { return len(l.asks) > 0 || l.problem != "" }

// ask notes that the words of some tokens could be several things.
func (l *Line) ask(from, to int, why string, with ...string) {
	if from < to && to <= len(l.tokens) {
		l.asks = append(l.asks, asked{l.tokens[from].start, l.tokens[to-1].end, why, with})
	}
}

// refuse says why a line that was read word by word is no step.
func (l *Line) refuse(why string) {
	if l.problem == "" {
		l.problem = why
	}
}

func (l *Line) unread(i int) {
	if i < len(l.tokens) && !slices.Contains(l.left, i) {
		l.left = append(l.left, i)
	}
}

func (l *Line) end() bool { return l.pos >= len(l.tokens) }

// Clauses reads the line to its end: at each place the first clause that reads
// something goes on. Commas, semicolons and "and" may stand between clauses.
func (l *Line) Clauses(clauses ...func() bool) {
	for !l.end() {
		if l.particle != "" && !l.tokens[l.pos].mark && l.tokens[l.pos].word == l.particle {
			l.particle = ""
			l.pos++
			continue
		}
		from, asks, problem, left := l.pos, len(l.asks), l.problem, len(l.left)
		read := false
		for _, c := range clauses {
			if c() && l.pos > from {
				read = true
				break
			}
			l.pos, l.asks, l.problem, l.left = from, l.asks[:asks], problem, l.left[:left]
		}
		if read || l.how() {
			continue
		}
		if !l.between(l.tokens[l.pos]) {
			l.unread(l.pos)
		}
		l.pos++
	}
	if l.open != 0 {
		l.refuse("a bracket is not closed")
	}
	l.trailing()
}

func (l *Line) between(t token) bool {
	switch t.word {
	case ",", ";", ":":
		return t.mark && l.pos+1 < len(l.tokens)
	case "(":
		l.open++
		return t.mark
	case ")":
		l.open--
		return t.mark
	case "and":
		return l.pos+1 < len(l.tokens)
	}
	return false
}

// trailing leaves an "and" or a comma unread that nothing follows.
func (l *Line) trailing() {
	if n := len(l.tokens); n > 0 && l.tokens[n-1].word == "and" {
		l.unread(n - 1)
	}
}

// Say reads the longest of some phrases at the cursor; words are the term list's.
func (l *Line) Say(phrases ...string) bool {
	most := 0
	for _, p := range phrases {
		most = max(most, l.at(l.pos, p))
	}
	l.pos += most
	return most > 0
}

// at reports how many tokens a phrase takes at i, 0 for none.
func (l *Line) at(i int, phrase string) int {
	if i >= len(l.tokens) || !strings.HasPrefix(phrase, l.tokens[i].word) {
		return 0 // most phrases begin otherwise
	}
	n := 0
	for w := range strings.FieldsSeq(phrase) {
		if i+n >= len(l.tokens) || l.tokens[i+n].word != w || l.tokens[i+n].figure != nil {
			return 0
		}
		n++
	}
	return n
}

// Skip passes any of some phrases, as often as they stand there.
func (l *Line) Skip(phrases ...string) bool {
	any := false
	for l.Say(phrases...) {
		any = true
	}
	return any
}

// Optional reads phrases that may be missing; it is always true.
func (l *Line) Optional(phrases ...string) bool {
	l.Say(phrases...)
	return true
}

// Figure reads a value of one of some kinds at the cursor. A figure that cannot
// be taken as it stands refuses the line.
func (l *Line) Figure(kinds ...unit.Kind) (unit.Quantity, bool) {
	if l.end() || l.tokens[l.pos].figure == nil {
		return unit.Quantity{}, false
	}
	m := l.tokens[l.pos].figure
	if !slices.Contains(kinds, m.Quantity.Kind()) {
		return unit.Quantity{}, false
	}
	switch {
	case m.Problem == "":
	case len(m.Choices) > 0:
		l.ask(l.pos, l.pos+1, m.Problem, m.Choices...)
	default:
		l.refuse(m.Problem)
	}
	l.pos++
	return plainSecond(m.Quantity), true
}

// plainSecond drops a second figure that a page prints by itself.
func plainSecond(q unit.Quantity) unit.Quantity {
	if q.AlsoUnit == "" || q.Kind() != unit.KindTorque {
		return q
	}
	one := q.First()
	if step.WithOther(one) == q {
		return one
	}
	return q
}

// One reads one name of a kind.
func (l *Line) One(kind engine.Kind) (string, bool) {
	ns, ok := l.Things(false, kind)
	if !ok || len(ns) == 0 || len(ns[0].ids) == 0 {
		return "", false
	}
	return ns[0].ids[0], true
}

// Thing is a clause that reads one name of a kind into *at, once.
func Thing[T ~string](l *Line, at *T, kind engine.Kind) func() bool {
	return func() bool {
		if *at != "" {
			return false
		}
		id, ok := l.One(kind)
		*at = T(id)
		return ok
	}
}

// Several is a clause that reads names of a kind into *at, once.
func Several[T ~string](l *Line, at *[]T, kind engine.Kind, more ...engine.Kind) func() bool {
	return func() bool {
		if len(*at) > 0 {
			return false
		}
		ns, ok := l.Things(true, append(more, kind)...)
		*at = pick[T](ns, kind)
		return ok && len(*at) > 0
	}
}

// Flag is a clause that sets a flag by a phrase, once.
func (l *Line) Flag(at *bool, phrases ...string) func() bool {
	return func() bool {
		if *at || !l.Say(phrases...) {
			return false
		}
		*at = true
		return true
	}
}

// Filler is a clause of words that the verb knows and that add nothing to it.
func (l *Line) Filler(phrases ...string) func() bool {
	return func() bool { return l.Say(phrases...) }
}

// Value is a clause that reads a value into *at, once, after one of some words.
func (l *Line) Value(at *unit.Quantity, lead []string, kinds ...unit.Kind) func() bool {
	return func() bool {
		if !at.IsZero() {
			return false
		}
		l.Skip(lead...)
		q, ok := l.Figure(kinds...)
		*at = q
		return ok
	}
}

// Way is a clause that reads a sense of rotation into *at, once.
func (l *Line) Way(at *engine.Way) func() bool {
	return func() bool {
		if *at != "" {
			return false
		}
		l.Optional("in a", "in the", "in its", "in")
		switch {
		case l.Say("counterclockwise direction", "counterclockwise"):
			*at, l.clock = engine.Counterclockwise, true
		case l.Say("clockwise direction", "clockwise"):
			*at, l.clock = engine.Clockwise, true
		case l.Say("running direction", "normal running direction"):
			*at = l.x.Sheet.Running
		case l.Say("backwards", "backward", "against the running direction", "against running direction", "opposite to the running direction", "opposite to running direction", "back"):
			*at = l.x.Sheet.Running.Opposite()
		default:
			return false
		}
		return true
	}
}

// viewLeads stand before the end of the engine from which a way round is meant.
var viewLeads = []string{"seen from", "as seen from", "when seen from", "viewed from", "as viewed from", "when viewed from", "looking from", "when looking from", "looked at from", "if seen from", "if viewed from"}

// View is a clause that reads from where a way round is meant, once, and sets *other where
// that is not the view of the sheet.
func (l *Line) View(other *bool) func() bool {
	seen := false
	return func() bool {
		from := l.pos
		if seen || !l.Say(viewLeads...) {
			return false
		}
		l.Say("the", "its")
		ends := func(view string) []string {
			view, _, _ = strings.Cut(strings.ToLower(view), ",")
			core := strings.TrimSpace(strings.TrimPrefix(view, "the "))
			for _, end := range []string{" end", " side"} {
				core = strings.TrimSuffix(core, end)
			}
			if core == "" {
				return nil
			}
			out := []string{core, core + " end", core + " side", core + " of the engine", core + " end of the engine", core + " side of the engine"}
			return out
		}
		here, there := ends(l.x.Sheet.View), append(ends(l.x.Sheet.OtherView), "other end", "other side", "other end of the engine", "other side of the engine")
		for _, pair := range [][2]string{{"front", "rear"}, {"front", "back"}} {
			if slices.Contains(here, pair[0]) {
				there = append(there, ends(pair[1])...)
			} else if slices.Contains(here, pair[1]) {
				there = append(there, ends(pair[0])...)
			}
		}
		switch {
		case l.Say(here...):
		case l.Say(there...):
			*other = true
		default:
			l.pos = from
			return false
		}
		seen = true
		return true
	}
}

// viewAt reports whether the view from which something is meant is named at i.
func (l *Line) viewAt(i int) bool {
	return slices.ContainsFunc(viewLeads, func(p string) bool { return l.at(i, p) > 0 })
}

// seenFrom settles a way round that was said as it is seen from the other end.
func (l *Line) seenFrom(way *engine.Way, other bool) {
	switch {
	case !other:
	case *way == "":
		l.refuse("it says from where it is seen and not which way it is turned")
	case l.clock:
		*way = way.Opposite()
	}
}

// Turns reads a plain number of turns; a range or a tolerance is none.
func (l *Line) Turns() (float64, bool) {
	from := l.pos
	q, ok := l.Figure(unit.KindAngle)
	if !ok || !q.Plain() {
		l.pos = from
		return 0, false
	}
	n := q.Value
	if q.Unit != unit.Turn {
		n /= 360
	}
	l.few(n)
	return n, true
}

// few refuses more turns than anybody makes.
func (l *Line) few(n float64) {
	if n > step.MostTurns {
		l.refuse("nobody turns an engine that often in one step")
	}
}

// manners are words that say how something is done and change nothing on the engine.
var manners = []string{"slowly", "gently", "smoothly", "evenly", "completely"}

// how reads a word that says how something is done; it becomes a note of the step.
func (l *Line) how() bool {
	if l.end() || l.tokens[l.pos].mark || !slices.Contains(manners, l.tokens[l.pos].word) {
		return false
	}
	l.Manner(l.tokens[l.pos].word)
	l.pos++
	return true
}

// Manner keeps words that say how something is done, for a note of the step.
func (l *Line) Manner(words string) {
	if !slices.Contains(l.manner, words) {
		l.manner = append(l.manner, words)
	}
}

// Kept is a clause that reads one of some phrases and keeps it as a note of the step.
func (l *Line) Kept(phrases ...string) func() bool {
	return func() bool {
		for _, p := range phrases {
			if n := l.at(l.pos, p); n > 0 {
				l.Manner(p)
				l.pos += n
				return true
			}
		}
		return false
	}
}

// guarded are the words that a free text does not have unless its field lets it: those
// that take back, bind to a condition or ask for work that no field would do.
var guarded = []string{
	"not", "never", "no", "without", "except", "unless", "only", "leave", "keep", "before", "after", "until", "till", "if", "don't", "don’t",
	"cannot", "can't", "avoid", "nor", "neither", "instead", "when", "while", "unlike", "but", "hold", "let", "skip", "repeat", "rather", "than", "otherwise", "or", "either", "nobody", "none", "nothing", "excluding", "lest",
}

// objects are words that make a verb before them an instruction.
var objects = []string{"it", "them", "the", "a", "an", "its", "their", "each", "both", "all", "this", "that", "these", "those", "one"}

// commands reports whether a verb with its object stands at i, "turn the crank", and not
// what something is for, "the torque to turn the crank".
func (l *Line) commands(i int) bool {
	if i > 0 && l.tokens[i-1].word == "to" {
		return false
	}
	for _, s := range l.lex.verbs {
		if s.Verb == "do" {
			continue
		}
		for _, p := range s.Phrases {
			n := l.at(i, p)
			if n == 0 || i+n >= len(l.tokens) {
				continue
			}
			if next := l.tokens[i+n]; !next.mark && (slices.Contains(objects, next.word) && !s.Looks() || !s.Looks() && l.namesAt(i+n, anyObject...) && !l.namesAt(i, anyObject...)) {
				return true
			}
		}
	}
	return false
}

// Free takes what is left up to a stop as it was typed, as far as it is a noun phrase. A
// second sentence or instruction, a negation, a condition or a figure ends it: those words
// stay unread, and with them the line is text.
func (l *Line) Free(stop func() bool) string {
	from := l.pos
	for !l.end() {
		at := l.pos
		if stop != nil && stop() {
			l.pos = at
			break
		}
		l.pos = at
		t := l.tokens[l.pos]
		if t.mark && (t.word == "." || t.word == ";" || t.word == "!" || t.word == "?") || l.instruction(l.pos) || l.commands(l.pos) {
			break
		}
		if slices.Contains(guarded, t.word) && t.figure == nil && !slices.Contains(l.may, t.word) || t.figure != nil && !l.figured {
			break
		}
		if m := t.figure; m != nil && m.Problem != "" {
			l.refuse(m.Problem)
		}
		l.pos++
	}
	if l.pos == from {
		return ""
	}
	s := strings.Trim(l.text[l.tokens[from].start:l.tokens[l.pos-1].end], " ,:")
	if s == "" {
		l.pos = from
		return ""
	}
	l.loose = true
	return strings.Join(strings.Fields(s), " ")
}

// FreeWith is Free that may have some of the guarded words.
func (l *Line) FreeWith(stop func() bool, may ...string) string {
	had := l.may
	l.may = may
	defer func() { l.may = had }()
	return l.Free(stop)
}

// instruction reports whether another instruction begins at i: "and take out the
// pin", ", then turn". A look is one where it says at what, or names a lock, a tensioner or a
// mark, which tell whether the timing is right.
func (l *Line) instruction(i int) bool {
	if i == 0 {
		return false
	}
	before := l.tokens[i-1].word
	if before != "and" && before != "," && before != "then" {
		return false
	}
	for _, s := range l.lex.verbs {
		if s.Verb == "do" {
			continue
		}
		for _, p := range s.Phrases {
			if n := l.at(i, p); n > 0 && (!s.Looks() || l.namesAt(i+n, anyObject...) || l.looksAtTiming(i)) {
				return true
			}
		}
	}
	return false
}

// namesAt reports whether a thing is named at i.
func (l *Line) namesAt(i int, kinds ...engine.Kind) bool {
	probe := &Line{x: l.x, lex: l.lex, text: l.text, tokens: l.tokens, pos: i}
	_, ok := probe.Things(false, kinds...)
	return ok
}

// looksAtTiming reports whether a lock or a mark is named from i on.
func (l *Line) looksAtTiming(i int) bool {
	for ; i < len(l.tokens); i++ {
		if l.namesAt(i, engine.KindLock, engine.KindMark, engine.KindTensioner) {
			return true
		}
	}
	return false
}
