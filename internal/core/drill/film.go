package drill

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Frame is the engine after a step of a page on which a mistake was made, beside the engine as
// it stands there without.
type Frame struct {
	Step step.ID
	// Place is where the step stands in the whole page, from 0.
	Place        int
	Wrong, Right virtual.State
	// Events are what the step met on the wrong engine.
	Events []virtual.Event
	// Off are shafts that stand otherwise, or will once they are let go, degrees of each;
	// Held those that a lock still holds where they belong.
	Off  map[engine.ShaftID]unit.Angle
	Held map[engine.ShaftID]bool
	// Says is what is seen there, empty where nothing is; Sure as in Look.
	Says message.Text
	Sure bool
	// Breaks says that something breaks there.
	Breaks bool
}

// mostFrames bounds a film.
const mostFrames = 400

// Film is a mistake of a report of a page step by step, from the one it is made at to the one
// that is sure to show it, that breaks something, or behind which nothing of it is left.
func Film(x *engine.Index, p *procedure.Procedure, m *Mistake) []Frame {
	g := made(x, p, m.world)
	own := g.again(m)
	if own == nil {
		return nil
	}
	var out []Frame
	b := g.bench(virtual.Resume(g.x, *g.before(own.at)))
	for k := own.at; k < len(g.way.Steps) && len(out) < mostFrames; k++ {
		seen := len(b.seen)
		b.goes(own, k)
		f := Frame{Step: g.way.Steps[b.of].ID, Place: g.way.Place(b.of), Wrong: *b.m.State(), Right: *b.after(k), Events: b.events, Off: map[engine.ShaftID]unit.Angle{}, Held: map[engine.ShaftID]bool{}}
		for i := range g.x.Sheet.Shafts {
			id := g.x.Sheet.Shafts[i].ID
			off := engine.Wrap(f.Wrong.Shafts[i]-f.Right.Shafts[i], 360)
			if off > hair || off < -hair {
				f.Off[id] = unit.Angle(off)
			}
		}
		for id, by := range b.held {
			f.Off[id], f.Held[id] = by, true
		}
		if len(b.seen) > seen {
			f.Says, f.Sure = b.seen[seen].Says, b.seen[seen].Sure
		}
		if b.force >= 0 {
			f.Says, f.Sure, f.Breaks = b.broke, true, true
		}
		out = append(out, f)
		if f.Sure || k > own.at && b.clear(k) {
			break
		}
	}
	return out
}

// Telling is the frame of a film at which a mistake is sure to be seen, nil where it is not: by
// the two engines of it the one is told from the other.
func Telling(frames []Frame) *Frame {
	for i := range frames {
		if f := &frames[i]; f.Sure && !f.Breaks && len(f.Off) > 0 {
			return f
		}
	}
	return nil
}

// Wheels are the wheels that show what a frame is about: those that the shafts which stand
// otherwise are timed by.
func (f *Frame) Wheels(x *engine.Index) []engine.WheelID {
	var out []engine.WheelID
	for i := range x.Sheet.Shafts {
		id := x.Sheet.Shafts[i].ID
		if _, off := f.Off[id]; !off || id == engine.CrankID && len(f.Off) > 1 {
			continue
		}
		if w := x.TimedBy(id); w != nil {
			out = append(out, w.ID)
		}
	}
	return out
}
