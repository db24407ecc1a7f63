package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Slacken loosens fasteners.
type Slacken struct {
	action
	Fasteners []engine.FastenerID `json:"fasteners,omitempty"`
	// Some is how many of the set are loosened, 0 for all.
	Some  int           `json:"some,omitzero"`
	Turns float64       `json:"turns,omitzero"`
	Hold  engine.LockID `json:"hold,omitzero"`
}

var slackenSpec = &Spec{
	Verb: "slacken", Phrases: []string{"slacken", "loosen", "release", "undo", "slack off", "back off", "slacken off", "ease off", "crack", "unscrew", "crack off", "crack loose"}, Takes: []engine.Kind{engine.KindFastener},
	Fields: []Field{
		{Key: "fasteners", Label: "what", Kind: Things, Of: []engine.Kind{engine.KindFastener}}, {Key: "turns", Label: "turns", Kind: NumberIn},
		{Key: "hold", Label: "hold with", Kind: OneThing, Of: []engine.Kind{engine.KindLock}, Beside: true},
		{Key: "some", Label: "only so many", Kind: NumberIn, With: "some"},
	},
	Example: "slacken inlet sprocket bolt one turn hold with sprocket holder", Phase: "relieve", Bolts: true,
	New: func() Action { return &Slacken{} },
}

// someOf reports whether so many are not all of a set: the others hold on as they are.
func someOf(x *engine.Index, id engine.FastenerID, n int) bool {
	f := x.Fastener(id)
	return f != nil && n > 0 && n < f.Count
}

// FastenerCount is how many bolts and nuts stand behind some fasteners of the sheet.
func FastenerCount(x *engine.Index, ids []engine.FastenerID) int {
	n := 0
	for _, id := range ids {
		if f := x.Fastener(id); f != nil {
			n += max(f.Count, 1)
		}
	}
	return n
}

// Verb is "slacken".
func (*Slacken) Verb() Verb { return "slacken" }

// Act loosens each.
func (a *Slacken) Act(m *virtual.Machine) {
	for _, f := range a.Fasteners {
		if someOf(m.Index, f, a.Some) {
			m.WorkSome(f, a.Hold)
			continue
		}
		m.Slacken(f, a.Hold)
	}
}

// Clause: "Slacken the inlet sprocket bolt 1 turn, held with the sprocket holder".
func (a *Slacken) Clause(x *engine.Index) Clause {
	count := bolts(x, a.Fasteners)
	if a.Turns > 0 || a.Some > 0 {
		count = Part{}
	}
	return clause(a.Verb(), "", number(RoleSome, float64(a.Some)), things(RoleWhat, named(engine.KindFastener, a.Fasteners...)), number(RoleTurns, a.Turns), things(RoleHeld, named(engine.KindLock, a.Hold)), count)
}

func (a *Slacken) hold() engine.LockID { return a.Hold }

func (a *Slacken) tools(x *engine.Index) []engine.ToolID { return lockTool(x, a.Hold) }

func (a *Slacken) hazards(x *engine.Index) []engine.Hazard {
	var out []engine.Hazard
	for _, id := range a.Fasteners {
		f := x.Fastener(id)
		if f == nil {
			continue
		}
		if f.Hazard != "" && len(out) == 0 {
			out = append(out, f.Hazard)
		}
		if f.LeftHand {
			out = append(out, engine.HazardLeftHand)
		}
	}
	return out
}
