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

// asSet is how a pointer is found whose place is not its one notch.
const asSet = "as set"

// Clause: "Check that the inlet cam mark stands", "Check that the crank pin is out".
func (a *Check) Clause(x *engine.Index) Clause {
	pointer := things(RolePointer, named(engine.KindTensioner, a.Tensioner))
	if t := x.Tensioner(a.Tensioner); t != nil && !t.OneNotch() {
		pointer.Choice = asSet
	}
	found := func(r Role, of []engine.Ref) Part {
		p := things(r, of)
		p.Choice = string(a.Found)
		if a.Found == FoundHidden && r != RoleMarks {
			p.Choice = string(FoundIn) // only marks can be hidden
		}
		return p
	}
	return clause(a.Verb(), "",
		found(RoleMarks, named(engine.KindMark, a.Marks...)), found(RoleLocks, named(engine.KindLock, a.Locks...)), found(RoleParts, named(engine.KindPart, a.Parts...)), found(RoleLoops, named(engine.KindLoop, a.Loops...)),
		pointer, things(RolePins, named(engine.KindTensioner, a.Pins...)),
		only(RolePainted, a.Painted), only(RoleKit, a.Tools), words(RoleThat, a.That))
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
