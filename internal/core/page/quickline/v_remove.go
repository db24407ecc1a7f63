package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

var removeGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Remove{}
		bolts := l.boltsOf()
		l.Clauses(Several(l, &a.Parts, engine.KindPart), l.Filler("from the engine", "from engine", "from the block", "from the cylinder block", "out of the way"), l.counted(func() int { return heldCount(l.x, a.Parts) }),
			l.Filler("and take it off", "and take it out", "and remove it", "and lift it off", "and take off", "take it off", "remove it"))
		if bolts > 0 && len(a.Parts) > 0 && bolts != heldCount(l.x, a.Parts) && !l.asking() {
			l.refuse("the sheet has " + unit.Number(float64(heldCount(l.x, a.Parts))) + " bolts there")
		}
		return a
	},
}

// boltsOf reads that a part comes off with its bolts, where the part itself is
// taken off too, and says how many: "the five bolts of the cover and take it off".
func (l *Line) boltsOf() int {
	from := l.pos
	if !slices.ContainsFunc([]string{"and take it off", "and remove it", "and take it out", "and lift it off"}, func(p string) bool {
		n := len(strings.Fields(p))
		return len(l.tokens) > n && l.at(len(l.tokens)-n, p) > 0
	}) {
		return 0
	}
	l.Skip("the", "all", "its")
	n := 0
	if !l.end() {
		if v, ok := wholeNumber(l.tokens[l.pos].word); ok {
			n = v
			l.pos++
		}
	}
	if l.Say("bolts", "screws", "nuts", "bolt", "screw") && l.Say("of", "from", "holding", "securing") {
		return n
	}
	l.pos = from
	return 0
}
