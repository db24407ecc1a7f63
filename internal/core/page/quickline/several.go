package quickline

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/unit"
)

// settle decides which of the things that fit are meant, or asks.
func (n *naming) settle(fits []*thing, how quantifier, from int, ts []token) []named {
	l := n.l
	plural := ts[len(ts)-1].plural
	if i := slices.IndexFunc(ts, func(t token) bool { return t.word == "of" }); i > 0 {
		plural = ts[i-1].plural
	}
	count := 0
	for _, t := range fits {
		count += t.count
	}
	take := func() []named {
		if len(fits) > 1 && !n.many {
			return n.ask(fits, from, false)
		}
		var out []named
		for _, t := range fits {
			out = put(out, t.kind, t.id)
		}
		return out
	}
	switch {
	case how.count > 0 && how.count != count && how.count != len(fits), how.both && count != 2 && len(fits) != 2:
		if len(fits) == 1 {
			l.ask(from, l.pos, "the sheet has "+unit.Number(float64(count)), fits[0].name)
			return put(nil, fits[0].kind, fits[0].id)
		}
		return n.ask(fits, from, n.many)
	case len(fits) == 1:
		if t := fits[0]; plural && t.count == 1 && !t.plural && t.kind != engine.KindPart && !t.tool || (how.all || how.each) && count == 1 && !t.plural {
			l.ask(from, l.pos, "the sheet has one", t.name)
		}
		return take()
	case how.both, how.all, how.each, how.count == len(fits), how.count == count, plural && alike(fits):
		return take()
	}
	return n.ask(fits, from, n.many && plural)
}

// alike reports whether things differ only in the side they are on.
func alike(ts []*thing) bool {
	for _, t := range ts[1:] {
		a, b := ts[0].words, t.words
		if len(a) != len(b) || t.kind != ts[0].kind {
			return false
		}
		for i := range a {
			if a[i] != b[i] && (!slices.Contains(sideWords, a[i]) || !slices.Contains(sideWords, b[i])) {
				return false
			}
		}
	}
	return true
}

func (n *naming) ask(fits []*thing, from int, all bool) []named {
	var names []string
	for _, t := range fits {
		names = append(names, t.name)
	}
	with := names
	if all || n.many && len(fits) == 2 {
		with = append([]string{en.List(names)}, names...)
	}
	n.l.ask(from, n.l.pos, "the sheet has the "+en.List(names), with...)
	return put(nil, fits[0].kind, fits[0].id)
}

// distributed reads "inlet and exhaust sprocket bolts", "left and right cam
// plate": several first words with one rest.
func (n *naming) distributed(how quantifier) ([]named, bool) {
	l := n.l
	at := l.pos
	var firsts []int
	cams := 0
	i := at
	for i < len(l.tokens) {
		if l.tokens[i].mark || l.tokens[i].figure != nil {
			return nil, false
		}
		firsts = append(firsts, i)
		i++
		if i < len(l.tokens) && l.tokens[i].word == "cam" {
			i++ // inlet cam and exhaust cam marks, not left cam and right drive
			cams++
		}
		sep := false
		for i < len(l.tokens) && (l.tokens[i].word == "," || l.tokens[i].word == "and") {
			sep = true
			i++
		}
		if !sep {
			break
		}
		for i < len(l.tokens) && l.tokens[i].word == "the" {
			i++
		}
	}
	if len(firsts) < 2 {
		return nil, false
	}
	if !n.many {
		return nil, false
	}
	rest := firsts[len(firsts)-1] + 1
	for size := min(5, len(l.tokens)-rest); size > 0; size-- {
		tail := l.tokens[rest : rest+size]
		if cams > 0 && tail[0].word != "cam" {
			continue
		}
		var out []named
		var found []*thing
		for _, f := range firsts {
			fits := n.fits(slices.Concat(l.tokens[f:f+1], tail))
			if len(fits) != 1 {
				found = nil
				break
			}
			found = append(found, fits[0])
			out = put(out, fits[0].kind, fits[0].id)
		}
		if found == nil || !alikeKinds(found) {
			continue
		}
		if how.both && len(firsts) != 2 || how.count > 0 && how.count != len(firsts) && how.count != found[0].count*len(firsts) {
			return nil, false
		}
		if slices.ContainsFunc(firsts[:len(firsts)-1], func(f int) bool { return len(n.fits(l.tokens[f:f+1])) > 0 }) {
			return nil, false // the camshaft and the sprocket bolts: the first is a thing by itself
		}
		l.pos = rest + size
		return out, true
	}
	return nil, false
}

func alikeKinds(ts []*thing) bool {
	for i, t := range ts {
		if t.kind != ts[0].kind || slices.ContainsFunc(ts[:i], func(o *thing) bool { return o.id == t.id }) {
			return false
		}
	}
	return true
}
