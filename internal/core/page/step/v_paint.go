package step

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// Paint makes marks of the technician's own, on wheels and what is beside them or
// across a loop and its wheels, or copies those across a loop to the new one.
type Paint struct {
	action
	Wheels []engine.WheelID `json:"wheels,omitempty"`
	// Loop is set for marks across it.
	Loop engine.LoopID `json:"loop,omitzero"`
	// Copy takes the marks of Loop over to the new one.
	Copy bool `json:"copy,omitzero"`
}

var paintSpec = &Spec{
	Verb: "paint", Phrases: []string{"paint", "mark", "copy", "transfer"}, Takes: []engine.Kind{engine.KindWheel, engine.KindLoop},
	Fields: []Field{
		{Key: "wheels", Label: "on", Kind: Things, Of: []engine.Kind{engine.KindWheel}},
		{Key: "loop", Label: "across", Kind: OneThing, Of: []engine.Kind{engine.KindLoop}},
		{Key: "copy", Label: "copy to the new one", Kind: Tick},
	},
	Example: "paint marks on crank", Phase: "find",
	New: func() Action { return &Paint{} },
}

// Verb is "paint".
func (*Paint) Verb() Verb { return "paint" }

// Act paints them, or copies them.
func (a *Paint) Act(m *virtual.Machine) {
	if a.Copy {
		m.CopyPaint(a.Loop)
		return
	}
	for _, id := range a.Wheels {
		m.PaintMark(id, a.Loop)
	}
}

// Clause: "Paint marks across the timing belt and the crank".
func (a *Paint) Clause(_ *engine.Index) Clause {
	loop, wheels := named(engine.KindLoop, a.Loop), named(engine.KindWheel, a.Wheels...)
	n := float64(max(len(a.Wheels), 1))
	switch {
	case a.Copy:
		to := things(RoleTo, loop)
		to.Fresh = true
		if a.Loop == "" {
			to = Part{}
		}
		return clause(a.Verb(), FormCopy, only(RolePainted, true), to)
	case a.Loop != "":
		return clause(a.Verb(), "", Part{Role: RoleAcross, Things: loop, Number: n}, things(RoleAlso, wheels))
	}
	return clause(a.Verb(), "", Part{Role: RoleOn, Things: wheels, Number: n})
}
