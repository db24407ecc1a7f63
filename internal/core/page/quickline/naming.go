package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/unit"
)

// named is what a stretch of a line names.
type named struct {
	kind engine.Kind
	ids  []string
}

// naming reads names of things out of a line, several of them where the verb
// takes several. Where a name fits several things and the line does not say
// which, it is asked about: the first is never taken.
type naming struct {
	l     *Line
	kinds []engine.Kind
	many  bool
}

// Things reads one or more names of some kinds at the cursor: "the crank pin and
// the cam bar", "both sprocket bolts", "inlet and exhaust sprocket bolts". It
// reports whether there were any; what was asked about counts.
func (l *Line) Things(many bool, kinds ...engine.Kind) ([]named, bool) {
	n := naming{l, kinds, many}
	from := l.pos
	both := l.pos < len(l.tokens) && l.tokens[l.pos].word == "both"
	out, ok := n.one()
	if !ok {
		if !both {
			l.pos = from
			return nil, false
		}
		l.pos = from + 1
		if out, ok = n.one(); !ok {
			l.pos = from
			return nil, false
		}
	} else {
		both = false
	}
	parts := 1
	for many {
		at := l.pos
		sep := false
		for l.pos < len(l.tokens) && (l.tokens[l.pos].word == "," || l.tokens[l.pos].word == "and") {
			l.pos++
			sep = true
		}
		if !sep {
			break
		}
		more, ok := n.one()
		if !ok {
			l.pos = at
			break
		}
		parts++
		for _, m := range more {
			out = put(out, m.kind, m.ids...)
		}
	}
	if both && parts != 2 && !l.asking() {
		l.unread(from)
	}
	return out, true
}

func put(out []named, kind engine.Kind, ids ...string) []named {
	if kind == loopPart {
		kind = engine.KindPart
	}
	for i := range out {
		if out[i].kind == kind {
			for _, id := range ids {
				if !slices.Contains(out[i].ids, id) {
					out[i].ids = append(out[i].ids, id)
				}
			}
			return out
		}
	}
	return append(out, named{kind, ids})
}

// one reads one name, a distributed pair of names, or a quantified name.
func (n *naming) one() ([]named, bool) {
	l := n.l
	from := l.pos
	how := quantifier{}
	how.read(l)
	at := l.pos
	if out, ok := n.distributed(how); ok {
		return out, true
	}
	l.pos = at
	for size := min(8, len(l.tokens)-at); size > 0; size-- {
		ts := l.tokens[at : at+size]
		fits := n.fits(ts)
		if len(fits) == 0 {
			fits = n.turnedRound(ts)
		}
		if class := n.marksOf(ts); len(class) > 1 && (how.several() || len(ts) == 2 && ts[1].plural) {
			fits = class
			if !how.several() {
				how.all = true
			}
		}
		if len(fits) == 0 {
			continue
		}
		l.pos = at + size
		l.short += 4 - l.lex.fit(fits[0], wordsOf(ts))
		n.number(fits)
		return n.settle(fits, how, from, ts), true
	}
	l.pos = from
	return nil, false
}

// quantifier is what stands before a name and says how many of it are meant.
type quantifier struct {
	both, all, each bool
	count           int
}

func (q quantifier) several() bool { return q.both || q.all || q.each || q.count > 1 }

func (q *quantifier) read(l *Line) {
	for l.pos < len(l.tokens) {
		t := l.tokens[l.pos]
		switch {
		case t.mark || t.figure != nil:
			return
		case t.word == "both" && !q.several():
			q.both = true
		case t.word == "all" && !q.several():
			q.all = true
		case (t.word == "each" || t.word == "every") && !q.several():
			q.each = true
		case t.word == "the" || t.word == "a" || t.word == "an" || t.word == "new" && l.fresh:
		case t.word == "of" && (q.all || q.both || q.each):
		default:
			n, ok := wholeNumber(t.word)
			if !ok || q.count > 0 || n < 1 || n > 99 {
				return
			}
			q.count = n
		}
		l.pos++
	}
}

// wholeNumber is a number of things in figures or in a word.
func wholeNumber(w string) (int, bool) {
	if v, ok := unit.WordNumber(w); ok {
		return int(v), true
	}
	n := 0
	for _, r := range w {
		if r < '0' || r > '9' || n > 99 {
			return 0, false
		}
		n = n*10 + int(r-'0')
	}
	return n, w != ""
}

// fits are the things some words name, the best fitting ones only.
func (n *naming) fits(ts []token) []*thing {
	if slices.ContainsFunc(ts, func(t token) bool { return t.mark }) {
		return nil
	}
	if !n.l.lex.ends[normal(&ts[len(ts)-1])] {
		return nil // no name ends like this
	}
	words := wordsOf(ts)
	for len(words) > 1 && (words[0] == "tool" || words[0] == "special") {
		words = words[1:]
	}
	if len(words) == 1 && slices.Contains(classes, words[0]) {
		return nil
	}
	best := 0
	var out []*thing
	for i := range n.l.lex.things {
		t := &n.l.lex.things[i]
		if !slices.Contains(n.kinds, t.kind) {
			continue
		}
		f := n.l.lex.fit(t, words)
		if f == 0 || f < best {
			continue
		}
		if f > best {
			best, out = f, out[:0]
		}
		if !slices.ContainsFunc(out, func(o *thing) bool { return o.kind == t.kind && o.id == t.id }) {
			out = append(out, t)
		}
	}
	if out = n.firstKind(out); best < 4 && len(out) > 0 {
		out = append(out, n.others(words, best)...)
	}
	return out
}

// classes are words for a whole kind of thing, which name none of it.
var classes = []string{"lock", "tool", "part"}

// others are loops and parts that a short name fits as well and that the verb
// does not take: "the belt" of two is asked about whatever the verb.
func (n *naming) others(words []string, best int) []*thing {
	bodies := []engine.Kind{engine.KindPart, loopPart, engine.KindLoop}
	if !slices.ContainsFunc(n.kinds, func(k engine.Kind) bool { return slices.Contains(bodies, k) }) {
		return nil
	}
	var out []*thing
	for i := range n.l.lex.things {
		t := &n.l.lex.things[i]
		if t.kind != engine.KindLoop && t.kind != engine.KindPart || slices.Contains(n.kinds, t.kind) || t.kind == engine.KindLoop && slices.Contains(n.kinds, loopPart) {
			continue
		}
		if n.l.lex.fit(t, words) >= best {
			out = append(out, t)
		}
	}
	return out
}

// firstKind keeps, of things with one name, those of the kind the verb asks for
// first: a part and a loop, a wheel and its tensioner.
func (n *naming) firstKind(ts []*thing) []*thing {
	if len(ts) < 2 {
		return ts
	}
	same := true
	for _, t := range ts[1:] {
		same = same && slices.Equal(t.words, ts[0].words)
	}
	if !same {
		return ts
	}
	for _, k := range n.kinds {
		var out []*thing
		for _, t := range ts {
			if t.kind == k {
				out = append(out, t)
			}
		}
		if len(out) > 0 {
			return out
		}
	}
	return ts
}

// turnedRound reads "bolt of the inlet sprocket" as the inlet sprocket bolt.
func (n *naming) turnedRound(ts []token) []*thing {
	for i := 1; i < len(ts)-1; i++ {
		if ts[i].word != "of" && ts[i].word != "for" && ts[i].word != "on" {
			continue
		}
		tail := ts[i+1:]
		for len(tail) > 1 && tail[0].word == "the" {
			tail = tail[1:]
		}
		return n.fits(slices.Concat(tail, ts[:i]))
	}
	return nil
}

// marksOf reads "timing marks" as all timing marks of the sheet.
func (n *naming) marksOf(ts []token) []*thing {
	if len(ts) > 2 || !slices.Contains(n.kinds, engine.KindMark) {
		return nil
	}
	words := wordsOf(ts)
	if !slices.Equal(words, []string{"timing", "mark"}) && !slices.Equal(words, []string{"mark"}) {
		return nil
	}
	var out []*thing
	wheels := map[engine.WheelID]bool{}
	for i := range n.l.lex.things {
		t := &n.l.lex.things[i]
		if m := n.l.x.Mark(engine.MarkID(t.id)); t.kind == engine.KindMark && m != nil && m.Kind == engine.TimingMark {
			if wheels[m.Wheel] {
				return nil // two marks of one wheel do not stand at once
			}
			wheels[m.Wheel] = true
		}
		if t.kind == engine.KindMark && n.l.lex.timing(t.id) && !slices.ContainsFunc(out, func(o *thing) bool { return o.id == t.id }) {
			out = append(out, t)
		}
	}
	return out
}

// number takes the tool's number that stands behind a lock's name, with or
// without brackets, where it is that lock's.
func (n *naming) number(fits []*thing) {
	l := n.l
	at := l.pos
	open := at < len(l.tokens) && l.tokens[at].word == "("
	if open {
		at++
	}
	for at < len(l.tokens) && (l.tokens[at].word == "tool" || l.tokens[at].word == "special") {
		at++
	}
	if at >= len(l.tokens) || len(fits) != 1 {
		return
	}
	ok := false
	for i := range l.lex.things {
		t := &l.lex.things[i]
		ok = ok || t.tool && t.id == fits[0].id && t.kind == fits[0].kind && slices.Equal(t.words, []string{l.tokens[at].word})
	}
	if !ok {
		return
	}
	at++
	if open {
		if at >= len(l.tokens) || l.tokens[at].word != ")" {
			return
		}
		at++
	}
	l.pos = at
}

// pick are the ids of a kind among what was named.
func pick[T ~string](ns []named, kind engine.Kind) []T {
	var out []T
	for _, n := range ns {
		if n.kind == kind {
			for _, id := range n.ids {
				out = append(out, T(id))
			}
		}
	}
	return out
}

// upTo is a list of names as part of a message.
func upTo(names []string, most int) string {
	if len(names) > most {
		return strings.Join(names[:most], ", ") + " …"
	}
	return en.List(names)
}
