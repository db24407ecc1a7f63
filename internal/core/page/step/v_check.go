package step

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Check looks, without changing anything: marks stand, a lock goes in, something
// is in its place or is not, a tensioner's pointer, the tools are all back, or
// something in words.
type Check struct {
	action
	Marks []engine.MarkID `json:"marks,omitempty"`
	Locks []engine.LockID `json:"locks,omitempty"`
	Parts []engine.PartID `json:"parts,omitempty"`
	Loops []engine.LoopID `json:"loops,omitempty"`
	// Found is how they are to be found; empty means that marks stand and locks
	// go in by hand.
	Found     Found              `json:"found,omitzero"`
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
	// Pins are tensioners whose pin is tried: it goes into its hole by hand where the
	// tension is right.
	Pins []engine.TensionerID `json:"pins,omitempty"`
	// Painted asks whether the technician's own marks stand.
	Painted bool `json:"painted,omitzero"`
	// Tools asks for the tools to be counted.
	Tools bool   `json:"countTools,omitzero"`
	That  string `json:"that,omitzero"`
}

// Found is how a check is to find something.
type Found string

// How things are found.
const (
	// FoundIn: the lock is in, the part fitted, the loop on.
	FoundIn Found = "in place"
	// FoundOut: the lock is out, the part and the loop off, the mark away.
	FoundOut Found = "out"
	// FoundHidden: the mark cannot be seen.
	FoundHidden Found = "hidden"
)

var checkSpec = &Spec{
	Verb: "check", looks: true, Phrases: []string{"check that", "check", "make sure that", "make sure", "see that", "ensure that", "ensure", "verify that", "verify", "confirm that", "confirm", "count"},
	Fields: []Field{
		{Key: "marks", Label: "marks", Kind: Things, Of: []engine.Kind{engine.KindMark}}, {Key: "locks", Label: "locks go in", Kind: Things, Of: []engine.Kind{engine.KindLock}},
		{Key: "parts", Label: "parts", Kind: Things, Of: []engine.Kind{engine.KindPart}}, {Key: "loops", Label: "loops", Kind: Things, Of: []engine.Kind{engine.KindLoop}},
		{Key: "found", Label: "found", Kind: ChoiceIn, Choices: []string{"", string(FoundIn), string(FoundOut), string(FoundHidden)}},
		{Key: "tensioner", Label: "pointer of", Kind: OneThing, Of: []engine.Kind{engine.KindTensioner}},
		{Key: "pins", Label: "pin goes in of", Kind: Things, Of: []engine.Kind{engine.KindTensioner}},
		{Key: "painted", Label: "paint marks stand", Kind: Tick},
		{Key: "countTools", Label: "count tools", Kind: Tick}, {Key: "that", Label: "that", Kind: TextIn},
	},
	Example: "check that cam bar goes in", Phase: "prove", Fails: true,
	New: func() Action { return &Check{} },
}

// Proves are the locks that are tried and the marks that must stand: what tells
// that the timing is right. A look whether a lock is out tells nothing of it.
func (a *Check) Proves() ([]engine.LockID, []engine.MarkID) {
	if a.Found != "" {
		return nil, nil
	}
	return a.Locks, a.Marks
}

// Verb is "check".
func (*Check) Verb() Verb { return "check" }

// Act looks at each.
func (a *Check) Act(m *virtual.Machine) {
	for _, id := range a.Marks {
		switch a.Found {
		case FoundHidden:
			m.FindHidden(id)
		case FoundOut:
			m.FindMarkAway(id)
		default:
			m.CheckMark(id)
		}
	}
	in := a.Found == FoundIn
	for _, id := range a.Locks {
		if a.Found == "" {
			m.CheckLock(id)
		} else {
			m.FindLock(id, in)
		}
	}
	for _, id := range a.Parts {
		m.FindPart(id, in || a.Found == "")
	}
	for _, id := range a.Loops {
		m.FindLoop(id, in || a.Found == "")
	}
	if a.Tensioner != "" {
		m.SeeTensioner(a.Tensioner)
	}
	for _, id := range a.Pins {
		m.TryPin(id)
	}
	if a.Painted {
		m.CheckPaints()
	}
	if a.Tools {
		m.CountTools()
	}
}

// Say: "Check that the inlet cam mark stands", "Check that the crank pin is out".
func (a *Check) Say(w *Words) {
	w.verb("Check")
	sep := func() {
		if len(w.spans) > 1 {
			w.text(", and that")
		} else {
			w.text("that")
		}
	}
	// found says how things are found: "is fitted", "are not fitted".
	found := func(names []string, in, out string) {
		is := "is "
		if several(names...) {
			is = "are "
		}
		if a.Found == FoundOut {
			in = out
		}
		w.text(is + in)
	}
	if len(a.Marks) > 0 {
		sep()
		each(w, a.Marks, w.mark)
		one, more := "stands", "stand"
		switch a.Found {
		case FoundHidden:
			one, more = "is hidden", "are hidden"
		case FoundOut:
			one, more = "does not stand", "do not stand"
		}
		if several(namesOf(w.x, "marks", a.Marks)...) {
			one = more
		}
		w.text(one)
	}
	if len(a.Locks) > 0 {
		sep()
		each(w, a.Locks, w.lock)
		switch names := namesOf(w.x, "locks", a.Locks); {
		case a.Found != "":
			found(names, "in", "out")
		case several(names...):
			w.text("go in by hand")
		default:
			w.text("goes in by hand")
		}
	}
	if len(a.Parts) > 0 {
		sep()
		each(w, a.Parts, w.part)
		found(namesOf(w.x, "parts", a.Parts), "fitted", "not fitted")
	}
	if len(a.Loops) > 0 {
		sep()
		each(w, a.Loops, w.loop)
		found(namesOf(w.x, "loops", a.Loops), "on", "off")
	}
	if a.Tensioner != "" {
		sep()
		w.text(map[bool]string{true: "pointer of", false: "the pointer of"}[w.typed])
		w.tensioner(a.Tensioner)
		w.text("stands in its notch")
	}
	if len(a.Pins) > 0 {
		sep()
		each(w, a.Pins, w.tensioner)
		if len(a.Pins) > 1 {
			w.text("pins go into their holes by hand")
		} else {
			w.text("pin goes into its hole by hand")
		}
	}
	if a.Painted {
		sep()
		w.text(map[bool]string{true: "paint marks stand", false: "the paint marks stand"}[w.typed])
	}
	if a.Tools {
		sep()
		w.text("every tool is back in its kit")
	}
	if a.That != "" {
		sep()
		w.text(a.That)
	}
}

// namesOf are the names of things on one of the sheet's lists.
func namesOf[T ~string](x *engine.Index, list string, ids []T) []string {
	var out []string
	for _, id := range ids {
		out = append(out, x.NameOf(list, string(id)))
	}
	return out
}

// Plural is the words for one thing or for more.
func Plural(n int, one, more string) string {
	if n == 1 {
		return one
	}
	return more
}

func (a *Check) tools(x *engine.Index) []engine.ToolID {
	if a.Found != "" {
		return nil
	}
	var out []engine.ToolID
	for _, id := range a.Locks {
		for _, t := range lockTool(x, id) {
			if !slices.Contains(out, t) {
				out = append(out, t)
			}
		}
	}
	return append(out, PinTools(x, a.Pins)...)
}
