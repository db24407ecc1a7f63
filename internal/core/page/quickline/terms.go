package quickline

import (
	"strings"

	"inklatch/internal/core/engine"
)

// termGroups is the trade's term list: the word the house uses, and what else
// people call it. It is used wherever words are compared: to read a line, to hold
// a sentence of the author's own against its step, and to write in house wording.
// Common practice, no source.
var termGroups = []struct {
	House string
	Also  []string
}{
	{"crank", []string{"crankshaft", "crank shaft"}},
	{"cam", []string{"camshaft", "cam shaft"}},
	{"cams", []string{"camshafts", "cam shafts"}},
	{"inlet", []string{"intake", "induction"}},
	{"exhaust", []string{"exh"}},
	{"left", []string{"lh", "l.h.", "left hand", "lefthand"}},
	{"right", []string{"rh", "r.h.", "right hand", "righthand"}},
	{"tdc", []string{"t.d.c.", "top dead centre", "top dead center"}},
	{"bdc", []string{"b.d.c.", "bottom dead centre", "bottom dead center"}},
	{"clockwise", []string{"cw", "clock wise"}},
	{"counterclockwise", []string{"ccw", "acw", "anticlockwise", "anti clockwise", "counter clockwise", "anti clock wise"}},
	{"timing belt", []string{"cambelt", "cam belt", "toothed belt", "toothed timing belt"}},
	{"timing belts", []string{"cambelts", "cam belts", "toothed belts"}},
	{"accessory", []string{"auxiliary", "ancillary", "aux"}},
	{"timing cover", []string{"timing belt cover"}},
	{"accessory belt", []string{"accessory drive belt", "auxiliary drive belt", "ancillary drive belt", "auxiliary belt drive"}},
	{"battery lead", []string{"battery negative lead", "negative battery lead", "battery earth lead", "negative battery cable", "battery negative cable", "battery ground lead"}},
	{"tensioner", []string{"tightener"}},
	{"counterhold", []string{"counter hold", "counterholding", "counter holding"}},
	{"centre", []string{"center", "middle"}},
	{"seal", []string{"gasket", "sealing ring", "seal ring", "o ring", "oring", "sealing washer"}},
	{"seals", []string{"gaskets", "sealing rings", "o rings", "orings", "sealing washers"}},
	{"coloured", []string{"colored"}},
	{"flywheel", []string{"fly wheel"}},
	{"running direction", []string{"direction of rotation", "normal direction of rotation", "engine rotation", "direction of engine rotation", "normal rotation", "direction of running", "normal running direction", "direction of normal rotation", "normal engine rotation", "normal direction", "normal direction of travel"}},
}

// nouns are the words for the same thing where a thing is named.
var nouns = map[string]string{"screw": "bolt", "capscrew": "bolt", "gear": "sprocket", "guard": "cover", "colour": "coloured", "terminal": "lead", "cable": "lead"}

// maxTerm is how many words an entry of the term list may have.
const maxTerm = 4

var termList = func() map[string][]string {
	m := map[string][]string{}
	for _, g := range termGroups {
		for _, a := range g.Also {
			m[a] = strings.Fields(g.House)
		}
	}
	return m
}()

// spare are words that may stand before the name of a kind of thing without
// saying more than the name does: the locking bar, the timing pin, the cam belt.
var spare = map[engine.Kind][]string{
	engine.KindLock:      {"locking", "timing", "setting", "alignment", "lock", "special", "tool", "locating", "aligning", "positioning"},
	engine.KindLoop:      {"timing", "drive"},
	engine.KindTensioner: {"belt", "chain", "timing", "drive", "hydraulic"},
	engine.KindMark:      {"timing"},
}

// heads are last words of names that are often left out: the battery (lead), the
// idler (roller).
var heads = []string{"roller", "pulley", "wheel", "sprocket", "lead", "cable", "assembly", "thread"}

// extraHeads may stand behind the name of a wheel: the inlet sprocket.
var extraHeads = []string{"sprocket", "wheel", "pulley", "roller"}

// sides tell like things apart: the left and the right cam plate.
var sideWords = []string{"left", "right", "inlet", "exhaust", "front", "rear", "upper", "lower", "inner", "outer", "primary", "secondary", "first", "second"}
