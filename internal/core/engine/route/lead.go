package route

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
)

// Lead is the route of a loop over wheels in the order somebody took them. A
// toothed wheel is met with the inside, a plain one with the back; a wheel that is
// taken again turns over to its other side. Wheels the sheet does not have are left
// out.
func Lead(x *engine.Index, wheels []engine.WheelID) []engine.Stop {
	out := []engine.Stop{}
	for _, id := range wheels {
		w := x.Wheel(id)
		at := slices.IndexFunc(out, func(s engine.Stop) bool { return s.Wheel == id })
		switch {
		case w == nil:
		case at >= 0 && out[at].Side == engine.Inside:
			out[at].Side = engine.Back
		case at >= 0:
			out[at].Side = engine.Inside
		case w.Teeth > 0:
			out = append(out, engine.Stop{Wheel: id, Side: engine.Inside})
		default:
			out = append(out, engine.Stop{Wheel: id, Side: engine.Back})
		}
	}
	return out
}

// A new loop starts from a common pitch, mm, and a belt's pitch line lies this
// far from its back: assumptions of ours, to be typed over. Where another loop of
// the same kind is on the sheet, its own are taken.
const (
	beltPitch, chainPitch = 8, 9.525
	beltThickness         = 1.4
)

// Begin is a new loop over a route: its pitch and thickness as the sheet's other
// loops of that kind have them, its count of teeth or links the nearest that
// closes, for a chain an even one.
func Begin(x *engine.Index, kind engine.LoopKind, stops []engine.Stop) engine.Loop {
	s := x.Sheet
	l := engine.Loop{Kind: kind, Name: "timing " + string(kind), Pitch: chainPitch, Route: stops}
	if kind == engine.Belt {
		l.Pitch, l.Thickness = beltPitch, beltThickness
	}
	if len(s.Loops) > 0 {
		l.Name = fmt.Sprintf("%s %d", kind, len(s.Loops)+1)
	}
	for i := range s.Loops {
		if o := &s.Loops[i]; o.Kind == kind && o.Pitch > 0 {
			l.Pitch, l.Thickness, l.Standard = o.Pitch, o.Thickness, o.Standard
			break
		}
	}
	l.ID = engine.LoopID(freeID(s, strings.ReplaceAll(l.Name, " ", "-")))
	l.Teeth = 100 // until it can be laid
	with := *s
	with.Loops = append(slices.Clone(s.Loops), l)
	y := engine.NewIndex(&with)
	if p, err := Of(y, &with.Loops[len(with.Loops)-1]); err == nil {
		step := 1.0
		if kind == engine.Chain {
			step = 2 // an odd count needs a cranked link
		}
		if n := step * math.Round(float64(p.Length())/l.Pitch/step); n >= 1 {
			l.Teeth = int(n)
		}
	}
	return l
}

func freeID(s *engine.Sheet, base string) string {
	id := base
	for n := 2; slices.ContainsFunc(s.Loops, func(l engine.Loop) bool { return string(l.ID) == id }); n++ {
		id = fmt.Sprintf("%s-%d", base, n)
	}
	return id
}
