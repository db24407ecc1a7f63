package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Unlock takes locks out.
type Unlock struct {
	action
	Locks []engine.LockID `json:"locks,omitempty"`
}

var unlockSpec = &Spec{
	Verb: "unlock", Phrases: []string{"take out", "remove", "unlock", "take off", "pull out", "unscrew", "withdraw", "extract", "slide out", "lift off", "lift out"}, Takes: []engine.Kind{engine.KindLock},
	Fields:  []Field{{Key: "locks", Label: "locks", Kind: Things, Of: []engine.Kind{engine.KindLock}}},
	Example: "take out crank pin", Phase: "prove", Holds: true,
	New: func() Action { return &Unlock{} },
}

// Verb is "unlock".
func (*Unlock) Verb() Verb { return "unlock" }

// Act takes each out.
func (a *Unlock) Act(m *virtual.Machine) {
	for _, l := range a.Locks {
		m.TakeLock(l)
	}
}

// Clause: "Take out the crank pin and the cam bar".
func (a *Unlock) Clause(_ *engine.Index) Clause {
	return clause(a.Verb(), "", things(RoleWhat, named(engine.KindLock, a.Locks...)))
}

func (a *Unlock) tools(x *engine.Index) []engine.ToolID {
	var out []engine.ToolID
	for _, id := range a.Locks {
		out = append(out, lockTool(x, id)...)
	}
	return out
}
