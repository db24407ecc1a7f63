package quickline

import (
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"inklatch/internal/core/page/step"
)

// Instructs reports whether running text tells its reader to do more than look: it
// gives a figure with its unit, a verb of a step that weighs, or a word that turns a
// sentence round or sends its reader elsewhere.
func Instructs(text string) bool {
	if known, ok := instructs.Load(text); ok {
		return known.(bool)
	}
	out := instruct(text)
	if instructed.Add(1) > mostInstructed {
		instructs.Clear()
		instructed.Store(0)
	}
	instructs.Store(text, out)
	return out
}

// instructs is what was found of texts: the notes of a page are asked about with every
// save of it. It begins anew when it has grown to so many.
var (
	instructs  sync.Map
	instructed atomic.Int64
)

const mostInstructed = 20_000

func instruct(text string) bool {
	ts := tokens(text)
	if directs(ts) {
		return true
	}
	l := &Line{tokens: ts}
	for i := range ts {
		if slices.ContainsFunc(weighty[ts[i].word], func(p string) bool { return l.at(i, p) > 0 }) {
			return true
		}
	}
	return false
}

// Directs reports whether running text gives a figure with its unit, or a word that turns
// a sentence round or sends its reader elsewhere.
func Directs(text string) bool { return directs(tokens(text)) }

func directs(ts []token) bool {
	return slices.ContainsFunc(ts, func(t token) bool {
		return t.figure != nil || slices.Contains(forbidding, t.word) || slices.Contains(leadsAway, t.word)
	})
}

// weighty are the phrases that only verbs of weight open, by their first word: turn,
// lock, tighten.
var weighty = func() map[string][]string {
	out := map[string][]string{}
	for _, s := range step.Specs {
		for _, p := range s.Phrases {
			shared := slices.ContainsFunc(step.Specs, func(o *step.Spec) bool { return !o.Weighs() && slices.Contains(o.Phrases, p) })
			if s.Weighs() && !shared {
				first, _, _ := strings.Cut(p, " ")
				out[first] = append(out[first], p)
			}
		}
	}
	return out
}()

// forbidding are words that take back what stands before or behind them.
var forbidding = []string{"not", "never", "no", "without", "except", "unless", "instead", "only", "don't", "don’t", "cannot", "can't", "avoid"}

// leadsAway are words that send a reader past what the page says.
var leadsAway = []string{"skip", "omit", "ignore", "disregard", "bypass", "continue", "repeat", "jump"}

// keptAt are words that say where a thing is kept that is not on the engine.
var keptAt = []string{"aside", "out", "down", "ready", "away", "box", "bench", "tray", "bag", "rack", "shelf", "table", "cloth", "floor", "order"}

// putsAway reports whether the clause at i puts something where it is kept, and lays no
// belt: “lay them into the box”.
func (l *Line) putsAway(i int) bool {
	for _, t := range l.tokens[i:] {
		if t.mark {
			return false
		}
		if slices.Contains(keptAt, t.word) {
			return true
		}
	}
	return false
}

// Others are the verbs beside its own that a sentence of an author's own tells to do,
// as the phrases it does so with, in their order. A verb counts where an instruction
// may begin: at the start, or behind a stop, a comma, "and", "then" or "but".
func Others(own step.Verb, text string) []string {
	ts := tokens(text)
	l := &Line{tokens: ts}
	spec := step.SpecOf(own)
	var out []string
	for i := range ts {
		if i > 0 && !slices.Contains([]string{".", ";", ":", ",", "and", "then", "but", "or", "now", "next", "–", "—", "("}, ts[i-1].word) {
			continue
		}
		if i == 0 || spec != nil && slices.ContainsFunc(spec.Phrases, func(p string) bool {
			verb, _, _ := strings.Cut(p, " ")
			return l.at(i, p) > 0 || l.at(i, verb) > 0
		}) {
			continue
		}
		for _, s := range step.Specs {
			if s.Verb == own || s.Verb == "do" || s.Looks() {
				continue
			}
			if s.Lays && l.putsAway(i) {
				continue
			}
			if k := slices.IndexFunc(s.Phrases, func(p string) bool { return l.at(i, p) > 0 }); k >= 0 && !slices.Contains(out, s.Phrases[k]) {
				out = append(out, s.Phrases[k])
				break
			}
		}
	}
	return out
}
