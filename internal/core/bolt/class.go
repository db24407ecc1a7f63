package bolt

import (
	"strings"

	"inklatch/internal/core/unit"
)

// Class is what a bolt is made of.
type Class struct {
	Name string
	// Tensile is Rm, Yield Rp0.2 or the lower yield stress, Proof the stress under proof
	// load, N/mm², the least that the standard asks for.
	Tensile, Yield, Proof unit.Stress
}

// ClassOf is the property class of a bolt of a thread: those of ISO 898-1 (4.6 to 12.9; 8.8
// is a little stronger above 16 mm) and of stainless steel, ISO 3506-1 (A2 and A4 in 50, 70
// and 80, whose proof stress is taken to be its yield). Figures from memory. False for a
// word that is none of them.
func ClassOf(name string, t Thread) (Class, bool) {
	key := strings.ToUpper(strings.Join(strings.Fields(strings.NewReplacer(",", ".", "–", "-").Replace(name)), ""))
	for _, lead := range []string{"CLASS", "GRADE"} {
		key = strings.TrimPrefix(key, lead)
	}
	if key == "8.8" && t.D > 16 {
		return Class{"8.8", 830, 660, 600}, true
	}
	for _, c := range classes {
		if c.Name == key {
			return c, true
		}
	}
	return Class{}, false
}

var classes = []Class{
	{"4.6", 400, 240, 225}, {"4.8", 420, 340, 310}, {"5.6", 500, 300, 280}, {"5.8", 520, 420, 380}, {"6.8", 600, 480, 440},
	{"8.8", 800, 640, 580}, {"9.8", 900, 720, 650}, {"10.9", 1040, 940, 830}, {"12.9", 1220, 1100, 970},
	{"A2-50", 500, 210, 210}, {"A2-70", 700, 450, 450}, {"A2-80", 800, 600, 600},
	{"A4-50", 500, 210, 210}, {"A4-70", 700, 450, 450}, {"A4-80", 800, 600, 600},
}

// Strongest is the strongest class there is: a bolt whose class nobody says is not stronger.
var Strongest = classes[8]

// Names are the classes, the weakest first, stainless steel last.
func Names() []string {
	out := make([]string, len(classes))
	for i, c := range classes {
		out[i] = c.Name
	}
	return out
}

// Band is two ends of what lies between, the lesser first.
type Band[T ~float64] struct{ Low, High T }

// FrictionOf is the friction in the thread and under the head of a bolt in a condition:
// dry, oiled, greased, thread lock, or nothing said. The bands are the classes C and B of
// VDI 2230 part 1, table A5, from memory, for dry and oiled; greased and thread lock are
// assumptions of ours. Nothing said spans all of them.
func FrictionOf(condition string) Band[float64] {
	switch c := strings.ToLower(condition); {
	case strings.Contains(c, "dry"):
		return Band[float64]{0.14, 0.24}
	case strings.Contains(c, "greas"):
		return Band[float64]{0.06, 0.12}
	case strings.Contains(c, "lock"):
		return Band[float64]{0.10, 0.20}
	case strings.Contains(c, "oil"):
		return Band[float64]{0.08, 0.16}
	}
	return Band[float64]{0.06, 0.24}
}
