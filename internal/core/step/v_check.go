package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// Check looks, without changing anything: marks stand, a lock goes in, a
// tensioner's pointer, the tools are all back, or something in words.
type Check struct {
	action
	Marks     []engine.MarkID    `json:"marks,omitempty"`
	Locks     []engine.LockID    `json:"locks,omitempty"`
	Tensioner engine.TensionerID `json:"tensioner,omitzero"`
	// Tools asks for the tools to be counted.
	Tools bool   `json:"countTools,omitzero"`
	That  string `json:"that,omitzero"`
}

var checkSpec = &Spec{
	Verb: "check", Phrases: []string{"check that", "check", "make sure that", "make sure", "see that", "look at"},
	Fields: []Field{
		{Key: "marks", Label: "marks", Kind: Things, Of: []ObjectKind{MarkObject}}, {Key: "locks", Label: "locks go in", Kind: Things, Of: []ObjectKind{LockObject}},
		{Key: "tensioner", Label: "pointer of", Kind: OneThing, Of: []ObjectKind{TensionerObject}},
		{Key: "countTools", Label: "count tools", Kind: Tick}, {Key: "that", Label: "that", Kind: TextIn},
	},
	Example: "check that cam bar goes in", Phase: "prove",
	New: func() Action { return &Check{} },
	Read: func(l *Line) Action {
		a := &Check{Tools: l.Word("tools are counted back into the kit", "tools counted", "count of tools", "tools"), Locks: ids[engine.LockID](l.All(LockObject)), Marks: ids[engine.MarkID](l.All(MarkObject))}
		if l.Word("pointer") {
			a.Tensioner = engine.TensionerID(l.One(TensionerObject))
			l.Word("in the notch", "is in the notch", "in notch", "of")
		}
		if len(a.Locks)+len(a.Marks) > 0 {
			l.Word("by hand")
			l.Word("goes in", "go in", "stands", "stand", "line up", "lines up")
			l.Word("by hand")
		}
		a.That = l.Remains()
		return a
	},
}

// Verb is "check".
func (*Check) Verb() Verb { return "check" }

// Act looks at each.
func (a *Check) Act(m *bench.Machine) {
	for _, id := range a.Marks {
		m.CheckMark(id)
	}
	for _, id := range a.Locks {
		m.CheckLock(id)
	}
}

// Say: "Check that the inlet cam mark stands".
func (a *Check) Say(w *Words) {
	w.verb("Check")
	sep := func() {
		if len(w.spans) > 1 {
			w.text(", and that")
		} else {
			w.text("that")
		}
	}
	if len(a.Marks) > 0 {
		sep()
		each(w, a.Marks, w.mark)
		w.text(plural(len(a.Marks), "stands", "stand"))
	}
	if len(a.Locks) > 0 {
		sep()
		each(w, a.Locks, w.lock)
		w.text(plural(len(a.Locks), "goes in by hand", "go in by hand"))
	}
	if a.Tensioner != "" {
		sep()
		w.text("the pointer of")
		w.tensioner(a.Tensioner)
		w.text("stands in its notch")
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

func plural(n int, one, more string) string {
	if n == 1 {
		return one
	}
	return more
}

func (a *Check) tools(x *engine.Index) []engine.ToolID {
	var out []engine.ToolID
	for _, id := range a.Locks {
		out = append(out, lockTool(x, id)...)
	}
	return out
}
