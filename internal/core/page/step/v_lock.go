package step

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Lock fits a lock, holder or flywheel lock.
type Lock struct {
	action
	Lock engine.LockID `json:"lock,omitzero"`
	// Also are more of them fitted in the same step: both cam plates.
	Also []engine.LockID `json:"also,omitempty"`
}

// All are the locks the step fits.
func (a *Lock) All() []engine.LockID { return both(a.Lock, a.Also) }

// both is one thing and what stands beside it, without what is not filled in.
func both[T ~string](one T, also []T) []T {
	if one == "" {
		return also
	}
	return append([]T{one}, also...)
}

var lockSpec = &Spec{
	Verb: "lock", Phrases: []string{"fit", "lock with", "insert", "install", "screw in", "screw", "refit", "put in", "put back", "slide in", "push in", "place", "reinsert", "mount", "lock"}, Takes: []engine.Kind{engine.KindLock},
	Fields:  []Field{{Key: "lock", Label: "lock", Kind: OneThing, Of: []engine.Kind{engine.KindLock}}, {Key: "also", Label: "and", Kind: Things, Of: []engine.Kind{engine.KindLock}}},
	Example: "fit crank pin", Phase: "lock", Holds: true, Fails: true,
	New: func() Action { return &Lock{} },
}

// Verb is "lock".
func (*Lock) Verb() Verb { return "lock" }

// Act puts it in where the shafts stand.
func (a *Lock) Act(m *virtual.Machine) {
	for _, id := range a.All() {
		m.FitLock(id)
	}
}

// Clause: "Fit the cam bar by hand (TL-102)".
func (a *Lock) Clause(x *engine.Index) Clause {
	position := false
	var tools []engine.ToolID
	for _, id := range a.All() {
		l := x.Lock(id)
		if l == nil {
			continue
		}
		position = position || l.Kind.ForPosition()
		if l.Tool != "" && !slices.Contains(tools, l.Tool) {
			tools = append(tools, l.Tool)
		}
	}
	return clause(a.Verb(), "", things(RoleWhat, named(engine.KindLock, a.All()...)), only(RoleByHand, position), things(RoleTools, named(engine.KindTool, tools...)))
}

func (a *Lock) tools(x *engine.Index) []engine.ToolID {
	var out []engine.ToolID
	for _, id := range a.All() {
		out = append(out, lockTool(x, id)...)
	}
	return out
}
