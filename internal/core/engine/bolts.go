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

// Joint is what a fastener clamps and is screwed into, as far as the sheet says.
func (f *Fastener) Joint() bolt.Joint {
	return bolt.Joint{Grip: unit.Length(f.Grip), Plain: unit.Length(f.Plain), Engaged: unit.Length(f.Engaged), Clamped: f.Clamped, Into: f.Into}
}

// WrenchSteps are stages as movements of a wrench, with their tolerances; false where one is
// neither a torque nor an angle.
func WrenchSteps(spec []Stage) ([]bolt.Step, bool) {
	out := make([]bolt.Step, 0, len(spec))
	for _, s := range spec {
		if s.Slacken && s.Angle.IsZero() {
			out = append(out, bolt.Step{Back: true})
			continue
		}
		if low, high, ok := bolt.Ends(s.Torque); ok {
			out = append(out, bolt.Step{Torque: bolt.Band[unit.Torque]{Low: low, High: high}})
			continue
		}
		l, h := s.Angle.First().Bounds()
		low, errL := unit.Convert(l, s.Angle.Unit, unit.Degree)
		high, errH := unit.Convert(h, s.Angle.Unit, unit.Degree)
		if s.Angle.Kind() != unit.KindAngle || errL != nil || errH != nil || low < 0 || high <= 0 {
			return nil, false
		}
		out = append(out, bolt.Step{Angle: bolt.Band[unit.Angle]{Low: unit.Angle(low), High: unit.Angle(high)}, Back: s.Slacken})
	}
	return out, len(out) > 0
}

// Spots are where the single bolts of a set sit, in the order they are tightened.
func Spots(places []Place) []bolt.Spot {
	out := make([]bolt.Spot, len(places))
	for i, p := range places {
		out[i] = bolt.Spot{X: unit.Length(p.X), Y: unit.Length(p.Y)}
	}
	return out
}

// Numbered are places in the order of a pattern.
func Numbered(places []Place, p bolt.Pattern) []Place {
	out := make([]Place, 0, len(places))
	for _, i := range p.Order(Spots(places)) {
		out = append(out, places[i])
	}
	return out
}

// IsPlug reports whether a fastener is the thread of a plug, which seals and clamps nothing.
func (x *Index) IsPlug(id FastenerID) bool {
	return slices.ContainsFunc(x.Sheet.Parts, func(p Part) bool { return p.Kind == Plug && slices.Contains(p.Held, id) })
}
