package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
)

// thing is something on the sheet by one of its names.
type thing struct {
	kind engine.Kind
	id   string
	// name is as the sheet has it; words are the term list's, singular.
	name  string
	words []string
	// count is how many there are of it, plural whether its own name says so.
	count  int
	plural bool
	// tool marks a tool's number.
	tool bool
}

// Lexicon is every name on an engine sheet the way authors type it. Build it
// once for a sheet.
type Lexicon struct {
	x      *engine.Index
	things []thing
	// shafts are the names of shafts, which no part goes by.
	shafts map[string]engine.ShaftID
	// verbs are the verbs a line may open with.
	verbs []*step.Spec
	// ends are the words that what names a thing may end with.
	ends map[string]bool
}

// byPart lets a wheel and a tensioner go by the name of the part they are, and
// that part by the tensioner's.
func (l *Lexicon) byPart() {
	s := l.x.Sheet
	also := func(kind engine.Kind, id, name string) {
		l.add(kind, id, name, 1)
		l.things[len(l.things)-1].name = l.own(kind, id)
	}
	for i := range s.Wheels {
		if p := l.x.Part(s.Wheels[i].Part); p != nil {
			also(engine.KindWheel, string(s.Wheels[i].ID), p.Name)
		}
	}
	for i := range s.Tensioners {
		t := &s.Tensioners[i]
		if p := l.x.Part(t.Part); p != nil && p.Name != t.Name {
			also(engine.KindTensioner, string(t.ID), p.Name)
			also(engine.KindPart, string(p.ID), t.Name)
		}
	}
	// A bolt that alone holds a part or clamps a wheel goes by that too: the
	// crank pulley bolt, the inlet sprocket bolt.
	bolt := func(of []engine.FastenerID, name string) {
		if len(of) != 1 || name == "" {
			return
		}
		f := l.x.Fastener(of[0])
		if f == nil {
			return
		}
		own := nameWords(f.Name)
		if len(own) == 0 || own[len(own)-1] != "bolt" && own[len(own)-1] != "nut" {
			return
		}
		name += " " + own[len(own)-1]
		if words := nameWords(name); slices.ContainsFunc(l.things, func(t thing) bool { return t.kind == engine.KindFastener && slices.Equal(t.words, words) }) {
			return
		}
		l.add(engine.KindFastener, string(f.ID), name, max(f.Count, 1))
		l.things[len(l.things)-1].name = l.own(engine.KindFastener, string(f.ID))
	}
	for i := range s.Parts {
		bolt(s.Parts[i].Held, s.Parts[i].Name)
	}
	for i := range s.Wheels {
		if w := &s.Wheels[i]; w.Teeth > 0 {
			bolt(w.Clamps, w.Name+" sprocket")
		}
	}
}

// timing reports whether a mark is a timing mark.
func (l *Lexicon) timing(id string) bool {
	m := l.x.Mark(engine.MarkID(id))
	return m != nil && m.Kind == engine.TimingMark
}

// NewLexicon reads the names off a sheet.
func NewLexicon(x *engine.Index) *Lexicon {
	l := &Lexicon{x: x, shafts: map[string]engine.ShaftID{}, verbs: step.Specs}
	s := x.Sheet
	for i := range s.Locks {
		l.add(engine.KindLock, string(s.Locks[i].ID), s.Locks[i].Name, 1)
		l.tool(engine.KindLock, string(s.Locks[i].ID), x.Tool(s.Locks[i].Tool))
	}
	loops := map[engine.PartID]bool{}
	for i := range s.Loops {
		loops[s.Loops[i].Part] = true
		l.add(engine.KindLoop, string(s.Loops[i].ID), s.Loops[i].Name, 1)
	}
	for i := range s.Parts {
		kind := engine.KindPart
		if loops[s.Parts[i].ID] {
			kind = loopPart
		}
		l.add(kind, string(s.Parts[i].ID), s.Parts[i].Name, 1)
	}
	for i := range s.Fasteners {
		l.add(engine.KindFastener, string(s.Fasteners[i].ID), s.Fasteners[i].Name, max(s.Fasteners[i].Count, 1))
	}
	for i := range s.Wheels {
		l.add(engine.KindWheel, string(s.Wheels[i].ID), s.Wheels[i].Name, 1)
	}
	for i := range s.Marks {
		l.add(engine.KindMark, string(s.Marks[i].ID), s.Marks[i].Name, 1)
	}
	for i := range s.Tensioners {
		l.add(engine.KindTensioner, string(s.Tensioners[i].ID), s.Tensioners[i].Name, 1)
		l.tool(engine.KindTensioner, string(s.Tensioners[i].ID), x.Tool(s.Tensioners[i].Pin))
	}
	for i := range s.Fluids {
		l.add(engine.KindFluid, string(s.Fluids[i].ID), s.Fluids[i].Name, 1)
	}
	for i := range s.Readings {
		l.add(engine.KindReading, string(s.Readings[i].ID), s.Readings[i].Name, 1)
	}
	l.byPart()
	for _, n := range s.Names {
		if kind, id, count := l.of(n.Of); kind != "" {
			l.add(kind, id, n.Say, count)
			l.things[len(l.things)-1].name = l.own(kind, id)
		}
	}
	for i := range s.Shafts {
		l.shafts[strings.Join(nameWords(s.Shafts[i].Name), " ")] = s.Shafts[i].ID
	}
	l.ends = map[string]bool{}
	for i := range l.things {
		t := &l.things[i]
		n := len(t.words)
		l.ends[t.words[n-1]] = true
		if n > 1 && slices.Contains(heads, t.words[n-1]) {
			l.ends[t.words[n-2]] = true
		}
		if t.kind == engine.KindWheel {
			for _, w := range extraHeads {
				l.ends[w] = true
			}
		}
	}
	return l
}

// loopPart is the part a loop is: it is fitted and taken off as a loop, and
// renewed as a part.
const loopPart engine.Kind = "loop part"

func (l *Lexicon) add(kind engine.Kind, id, name string, count int) {
	words := nameWords(name)
	if len(words) == 0 {
		return
	}
	ts := tokens(name)
	l.things = append(l.things, thing{kind: kind, id: id, name: strings.ToLower(strings.TrimSpace(name)), words: words, count: count, plural: ts[len(ts)-1].plural})
}

func (l *Lexicon) tool(kind engine.Kind, id string, t *engine.Tool) {
	if t == nil || t.Number == "" {
		return
	}
	l.add(kind, id, t.Number, 1)
	l.things[len(l.things)-1].tool = true
	l.things[len(l.things)-1].name = l.own(kind, id)
}

// own is a thing's own name on the sheet.
func (l *Lexicon) own(kind engine.Kind, id string) string {
	for _, t := range l.things {
		if t.kind == kind && t.id == id && !t.tool {
			return t.name
		}
	}
	return id
}

// of finds what a name of the sheet's own stands for: "parts/battery-lead".
func (l *Lexicon) of(path string) (engine.Kind, string, int) {
	r, ok := engine.RefAt(path)
	if !ok {
		return "", "", 0
	}
	for _, t := range l.things {
		if t.id == r.ID && (t.kind == r.Kind || r.Kind == engine.KindPart && t.kind == loopPart) {
			return t.kind, r.ID, t.count
		}
	}
	return "", "", 0
}

// nameWords are the words of a name as they are compared.
func nameWords(name string) []string { return wordsOf(tokens(name)) }

func wordsOf(ts []token) []string {
	var out []string
	for i, t := range ts {
		if t.mark {
			continue
		}
		w := normal(&t)
		// The inlet cam is the inlet, wherever something else follows.
		if w == "cam" && len(out) > 0 && i < len(ts)-1 && (out[len(out)-1] == "inlet" || out[len(out)-1] == "exhaust") {
			continue
		}
		out = append(out, w)
	}
	return out
}

// normal is a word as it is compared: singular, and the house's for the same thing.
func normal(t *token) string {
	if t.figure != nil {
		return t.word
	}
	w := en.Singular(t.word)
	if n, ok := nouns[w]; ok {
		return n
	}
	return w
}

// fit is how well typed words name a thing: 4 exactly, 3 but for words that say
// nothing more, 2 by a shorter form with its last word, 1 without its last word,
// 0 not at all.
func (l *Lexicon) fit(t *thing, typed []string) int {
	if slices.Equal(t.words, typed) {
		return 4
	}
	if t.tool || !t.endsLike(typed) {
		return 0
	}
	bare := slices.Clone(typed)
	for i := 0; i < len(bare)-1; {
		if w := bare[i]; !slices.Contains(t.words, w) && l.saysNoMore(t, w) {
			bare = slices.Delete(bare, i, i+1)
			continue
		}
		i++
	}
	if t.kind == engine.KindWheel && len(bare) > 1 && slices.Contains(extraHeads, bare[len(bare)-1]) && !slices.Contains(t.words, bare[len(bare)-1]) {
		bare = bare[:len(bare)-1]
	}
	if slices.Equal(t.words, bare) {
		return 3
	}
	last := t.words[len(t.words)-1]
	if bare[len(bare)-1] == last && subsequence(bare, t.words) {
		return 2
	}
	if slices.Contains(heads, last) && len(t.words) > 1 && len(bare) == len(t.words)-1 && slices.Equal(bare, t.words[:len(t.words)-1]) {
		if _, shaft := l.shafts[strings.Join(bare, " ")]; !shaft {
			return 1
		}
	}
	return 0
}

// endsLike reports whether words end as a name of the thing may: with its last word, with
// the one before where the last is often left out, or a wheel with a head of its own.
// Everything else names it by no rule of fit.
func (t *thing) endsLike(typed []string) bool {
	end, n := typed[len(typed)-1], len(t.words)
	return end == t.words[n-1] ||
		n > 1 && end == t.words[n-2] && slices.Contains(heads, t.words[n-1]) ||
		t.kind == engine.KindWheel && slices.Contains(extraHeads, end)
}

// saysNoMore reports whether a word before a name tells nothing of the thing
// that is not so anyway: the locking bar, the crank pin of a lock that holds the
// crank, the inlet sprocket's mark.
func (l *Lexicon) saysNoMore(t *thing, word string) bool {
	if slices.Contains(spare[t.kind], word) {
		return true
	}
	switch t.kind {
	case engine.KindLock:
		return slices.Contains(l.held(t.id), word)
	case engine.KindMark:
		m := l.x.Mark(engine.MarkID(t.id))
		if m == nil {
			return false
		}
		w := l.x.Wheel(m.Wheel)
		if w == nil {
			return word == "cam" && l.cam(l.x.MarkShaft(m))
		}
		return word == "cam" && l.cam(w.Shaft) || word == "sprocket" && w.Teeth > 0 || slices.Contains(nameWords(w.Name), word)
	case engine.KindWheel:
		w := l.x.Wheel(engine.WheelID(t.id))
		return word == "cam" && w != nil && l.cam(w.Shaft)
	case engine.KindFastener:
		f := l.x.Fastener(engine.FastenerID(t.id))
		if word != "cam" || f == nil {
			return false
		}
		return l.cam(f.OnShaft) || slices.ContainsFunc(l.x.Sheet.Wheels, func(w engine.Wheel) bool {
			return l.cam(w.Shaft) && slices.Contains(w.Clamps, f.ID)
		})
	case engine.KindPart:
		return word == "blanking" && t.words[len(t.words)-1] == "plug"
	}
	return false
}

// cam reports whether a shaft is a cam.
func (l *Lexicon) cam(id engine.ShaftID) bool {
	s := l.x.Shaft(id)
	return s != nil && s.Kind.IsCam()
}

// held are the words for the kinds of shaft a lock holds: the crank locking pin
// of a lock that holds the crank.
func (l *Lexicon) held(id string) []string {
	k := l.x.Lock(engine.LockID(id))
	if k == nil || !k.Kind.ForPosition() {
		return nil
	}
	var out []string
	for _, h := range k.Holds {
		s := l.x.Shaft(h)
		switch {
		case h == engine.CrankID:
			out = append(out, "crank")
		case s != nil && s.Kind.IsCam():
			out = append(out, "cam", "cams")
		}
	}
	return out
}

// subsequence reports whether the words of a stand in b in the same order.
func subsequence(a, b []string) bool {
	i := 0
	for _, w := range b {
		if i < len(a) && a[i] == w {
			i++
		}
	}
	return i == len(a)
}

// names are the things' own names of the given kinds, alphabetically.
func (l *Lexicon) names(kinds []engine.Kind) []thing {
	var out []thing
	seen := map[string]bool{}
	for _, t := range l.things {
		if !t.tool && slices.Contains(kinds, t.kind) && !seen[t.name] {
			seen[t.name] = true
			out = append(out, t)
		}
	}
	slices.SortFunc(out, func(a, b thing) int { return strings.Compare(a.name, b.name) })
	return out
}

// nearest finds the name closest to what was typed, by edits of one letter;
// false when nothing is near or two are equally so.
func (l *Lexicon) nearest(typed string, kinds []engine.Kind) (thing, bool) {
	best, at := thing{}, len(typed)/4+1
	for _, t := range l.names(kinds) {
		if d := distance(typed, t.name, at); d < at && d > 0 {
			best, at = t, d
		}
	}
	return best, best.name != ""
}

// distance is the number of letters inserted, dropped, changed or swapped with
// a neighbour between a and b (optimal string alignment), or limit when it is
// not below it.
func distance(a, b string, limit int) int {
	ra, rb := []rune(a), []rune(b)
	if d := len(ra) - len(rb); d >= limit || -d >= limit {
		return limit
	}
	prev2, prev, cur := make([]int, len(rb)+1), make([]int, len(rb)+1), make([]int, len(rb)+1)
	for j := range prev {
		prev[j] = j
	}
	for i := 1; i <= len(ra); i++ {
		cur[0] = i
		for j := 1; j <= len(rb); j++ {
			cost := 1
			if ra[i-1] == rb[j-1] {
				cost = 0
			}
			cur[j] = min(prev[j]+1, cur[j-1]+1, prev[j-1]+cost)
			if i > 1 && j > 1 && ra[i-1] == rb[j-2] && ra[i-2] == rb[j-1] {
				cur[j] = min(cur[j], prev2[j-2]+1)
			}
		}
		prev2, prev, cur = prev, cur, prev2
	}
	return min(prev[len(rb)], limit)
}
