package step

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Remove takes parts, covers and plugs off, with what holds them.
type Remove struct {
	action
	Parts []engine.PartID `json:"parts,omitempty"`
}

var removeSpec = &Spec{
	Verb: "remove", Phrases: []string{"remove", "take out", "take off", "disconnect", "undo", "unplug", "unbolt", "unscrew", "lift off", "lift out", "pull off", "detach", "dismount", "unclip", "withdraw"}, Takes: []engine.Kind{engine.KindPart},
	Fields:  []Field{{Key: "parts", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindPart}}},
	Example: "remove upper timing cover", Phase: "strip", Opens: true,
	New: func() Action { return &Remove{} },
	Read: func(l *Line) Action {
		a := &Remove{}
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

// Verb is "remove".
func (*Remove) Verb() Verb { return "remove" }

// Act takes each part off.
func (a *Remove) Act(m *virtual.Machine) {
	for _, p := range a.Parts {
		m.RemovePart(p)
	}
}

// Say: "Remove the upper timing cover", "Take out the block plug", "Disconnect
// the battery lead".
func (a *Remove) Say(w *Words) {
	v := "Remove"
	if len(a.Parts) > 0 {
		if p := w.x.Part(a.Parts[0]); p != nil {
			switch p.Kind {
			case engine.Plug, engine.Seal:
				v = "Take out"
			case engine.Lead:
				v = "Disconnect"
			}
		}
	}
	w.verb(v)
	each(w, a.Parts, w.part)
	if !w.inline() && len(a.Parts) == 1 {
		if p := w.x.Part(a.Parts[0]); p != nil {
			w.value("", count(w.x, p.Held))
		}
	}
}

func (a *Remove) hazards(x *engine.Index) []engine.Hazard { return partHazards(x, a.Parts) }

func partHazards(x *engine.Index, parts []engine.PartID) []engine.Hazard {
	var out []engine.Hazard
	for _, id := range parts {
		if p := x.Part(id); p != nil && p.Hazard != "" {
			out = append(out, p.Hazard)
		}
	}
	return out
}
