package step

import (
	"slices"
	"strings"

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

// Say: "Fit the cam bar by hand (TL-102)".
func (a *Lock) Say(w *Words) {
	w.verb("Fit")
	each(w, a.All(), w.lock)
	position := false
	var numbers []string
	for _, id := range a.All() {
		l := w.x.Lock(id)
		if l == nil {
			continue
		}
		position = position || l.Kind.ForPosition()
		if t := w.x.Tool(l.Tool); t != nil && !slices.Contains(numbers, t.Number) {
			numbers = append(numbers, t.Number)
		}
	}
	if w.full && position {
		w.text("by hand")
	}
	switch {
	case len(numbers) == 0 || w.typed:
	case w.full:
		w.text("(" + strings.Join(numbers, ", ") + ")")
	default:
		w.value("", strings.Join(numbers, ", "))
	}
}

func (a *Lock) tools(x *engine.Index) []engine.ToolID {
	var out []engine.ToolID
	for _, id := range a.All() {
		out = append(out, lockTool(x, id)...)
	}
	return out
}
