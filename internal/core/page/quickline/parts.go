package quickline

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

// maxCuts is at how many places a line is at most taken apart; a line with more
// instructions is a page.
const maxCuts = 6

// parts takes a line that gives several instructions apart into lines that each
// read whole: "Fit the new idler and tighten its bolt to 42 N·m". It gives nil
// where a word of it would be lost or where it is not sure. The fewest parts are
// taken.
func (lex *Lexicon) parts(line string) []string {
	ts := tokens(line)
	starts, ends := []int{0}, []int{}
	joins := []string{"and", "then", "but", ",", ";", "."}
	for i := 1; i < len(ts); i++ {
		last := i
		if slices.Contains(joins, ts[i].word) {
			continue
		}
		for last > 0 && slices.Contains(joins, ts[last-1].word) {
			last--
		}
		if last == i || last == 0 || !lex.begins(ts, i) {
			continue
		}
		starts, ends = append(starts, ts[i].start), append(ends, ts[last-1].end)
	}
	if len(ends) == 0 || len(ends) > maxCuts {
		return nil
	}
	ends = append(ends, len(line))
	// upTo[k] are the parts of the line up to its kth end.
	upTo := make([][]string, len(ends))
	for k := range ends {
		for from := 0; from <= k; from++ {
			rest := line[starts[from]:ends[k]]
			var first []string
			if from > 0 {
				if first = upTo[from-1]; first == nil {
					continue
				}
				before := read(lex, first[len(first)-1])
				// What the lead speaks of is the step above.
				_, at, _, led := lex.leadOf(rest)
				if !led {
					at = 0
				}
				named, ok := lex.named(rest[at:], before.Action)
				if !ok {
					continue
				}
				rest = rest[:at] + named
			}
			if upTo[k] != nil && len(upTo[k]) <= len(first)+1 {
				continue
			}
			if lex.reads(rest) {
				upTo[k] = append(slices.Clone(first), rest)
			}
		}
	}
	if out := upTo[len(ends)-1]; len(out) > 1 {
		return out
	}
	return nil
}

// begins reports whether an instruction can begin at a token.
func (lex *Lexicon) begins(ts []token, i int) bool {
	return len(openings(ts, i)) > 0 || forbids(ts[i:]) || i+1 < len(ts) && ts[i].word == "if"
}

// reads reports whether a part of a line is a step by itself.
func (lex *Lexicon) reads(text string) bool {
	if r, ok := lex.led(text); ok {
		return r.Read()
	}
	r := read(lex, text)
	return r.Read()
}

// named says anew what "it" and "its bolt" stand for: the one thing the step
// before speaks of. With several things there it is not sure.
func (lex *Lexicon) named(line string, before step.Action) (string, bool) {
	line = lex.elliptic(line, before)
	ts := tokens(line)
	if !slices.ContainsFunc(ts, pronoun) {
		return line, true
	}
	// Where the line names something first, the word speaks of that; the crank, that
	// is turned up to it, is none.
	i := slices.IndexFunc(ts, pronoun)
	for at := range i {
		probe := &Line{x: lex.x, lex: lex, text: line, tokens: ts[:i], pos: at}
		if _, ok := probe.Things(false, engine.KindLock, engine.KindPart, engine.KindFastener, engine.KindLoop, engine.KindMark, engine.KindTensioner); ok {
			return line, true
		}
	}
	refs := step.Refs(before)
	if len(refs) != 1 {
		return "", false
	}
	kind := refs[0].Kind
	name := lex.own(kind, refs[0].ID)
	if name == refs[0].ID && kind == engine.KindPart {
		name = lex.own(loopPart, refs[0].ID)
	}
	if p := lex.x.Part(engine.PartID(refs[0].ID)); kind == engine.KindPart && p != nil && len(p.Held) == 1 && (ts[i].word == "it" || ts[i].word == "them") && turnsBolts(ts) {
		// What is tightened of a part is what holds it. A tensioner that is released may be let
		// go as well as its bolt: nobody can tell.
		if slices.ContainsFunc(openings(ts, 0), func(o opening) bool { return o.spec == step.SpecOf("release") }) && slices.ContainsFunc(lex.x.Sheet.Tensioners, func(t engine.Tensioner) bool { return t.Part == p.ID }) {
			return "", false
		}
		name = lex.own(engine.KindFastener, string(p.Held[0]))
	}
	// Only the first stands for the thing before; what follows speaks of that.
	return line[:ts[i].start] + "the " + name + line[ts[i].end:], true
}

// turnsBolts reports whether a line begins with tightening or slackening.
func turnsBolts(ts []token) bool {
	return slices.ContainsFunc(openings(ts, 0), func(o opening) bool { return o.spec == step.SpecOf("tighten") || o.spec == step.SpecOf("slacken") })
}

// elliptic puts the word in that a second instruction leaves out: "tighten to
// 42 N·m" is tighten it, "tighten the bolt" its bolt.
func (lex *Lexicon) elliptic(line string, before step.Action) string {
	ts, it := tokens(line), "it "
	if refs := step.Refs(before); len(refs) == 1 && refs[0].Kind == engine.KindPart {
		it = "its bolt "
		if p := lex.x.Part(engine.PartID(refs[0].ID)); p != nil && heldCount(lex.x, []engine.PartID{p.ID}) > 1 {
			it = "its bolts "
		}
	}
	for _, o := range openings(ts, 0) {
		if o.particle != "" || o.pos >= len(ts) || o.spec != step.SpecOf("tighten") && o.spec != step.SpecOf("slacken") {
			continue
		}
		at := ts[o.pos].start
		switch {
		case ts[o.pos].figure != nil, ts[o.pos].word == "to":
			return line[:at] + it + line[at:]
		case ts[o.pos].word == "the" && o.pos+1 < len(ts) && slices.Contains([]string{"bolt", "bolts", "nut", "nuts"}, ts[o.pos+1].word) && (o.pos+2 == len(ts) || !slices.Contains([]string{"of", "on", "in", "at"}, ts[o.pos+2].word)):
			return line[:at] + "its" + line[ts[o.pos].end:]
		}
	}
	return line
}

func pronoun(t token) bool { return slices.Contains([]string{"it", "its", "them", "their"}, t.word) }
