package engine

import (
	"slices"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/unit"
)

// Bolt is a fastener as a bolt, nil where its thread is none that is known; known is false
// where its class is not, and it is taken to be of the strongest there is.
func (f *Fastener) Bolt() (b *bolt.Bolt, known bool) {
	th, err := bolt.Parse(f.Thread)
	if err != nil {
		return nil, false
	}
	class, known := bolt.ClassOf(f.Class, th)
	if !known {
		class = bolt.Strongest
	}
	return &bolt.Bolt{Thread: th, Class: class, Friction: bolt.FrictionOf(f.Lubricant), Across: unit.Length(f.Across)}, known
}

// IsPlug reports whether a fastener is the thread of a plug, which seals and clamps nothing.
func (x *Index) IsPlug(id FastenerID) bool {
	return slices.ContainsFunc(x.Sheet.Parts, func(p Part) bool { return p.Kind == Plug && slices.Contains(p.Held, id) })
}
