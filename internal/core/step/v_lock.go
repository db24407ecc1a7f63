package step

import (
	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
)

// Lock fits a lock, holder or flywheel lock.
type Lock struct {
	action
	Lock engine.LockID `json:"lock,omitzero"`
}

var lockSpec = &Spec{
	Verb: "lock", Phrases: []string{"fit", "lock with", "lock", "insert", "screw in", "refit", "put in"}, Takes: []ObjectKind{LockObject},
	Fields:  []Field{{Key: "lock", Label: "lock", Kind: OneThing, Of: []ObjectKind{LockObject}}},
	Example: "fit crank pin", Phase: "lock",
	New: func() Action { return &Lock{} },
	Read: func(l *Line) Action {
		a := &Lock{Lock: engine.LockID(l.One(LockObject))}
		l.Word("by hand")
		return a
	},
}

// Verb is "lock".
func (*Lock) Verb() Verb { return "lock" }

// Act puts it in where the shafts stand.
func (a *Lock) Act(m *bench.Machine) { m.FitLock(a.Lock) }

// Say: "Fit the cam bar by hand (TL-102)".
func (a *Lock) Say(w *Words) {
	w.verb("Fit")
	w.lock(a.Lock)
	if l := w.x.Lock(a.Lock); l != nil {
		if w.full && l.Kind.ForPosition() {
			w.text("by hand")
		}
		if t := w.x.Tool(l.Tool); t != nil {
			if w.full {
				w.text("(" + t.Number + ")")
			} else {
				w.value("", t.Number)
			}
		}
	}
}

func (a *Lock) tools(x *engine.Index) []engine.ToolID { return lockTool(x, a.Lock) }
