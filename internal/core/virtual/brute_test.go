package virtual_test

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// teeth is a second drive, made of nothing but teeth: every wheel counts the teeth
// that went by it, a loop and a gear pair carry whole teeth from wheel to wheel,
// and a shaft stands where the teeth of its own wheel say. It shares nothing with
// the ratios of package engine. Angles are in teeth of the crank's first wheel,
// times the product of all tooth counts, so that everything is a whole number.
type teeth struct {
	s *engine.Sheet
	// one is a full turn of any shaft; at is where each shaft stands.
	one int
	at  map[engine.ShaftID]int
	off map[engine.LoopID]bool
	// free are wheels that are loose on their shaft.
	free map[engine.WheelID]bool
}

// turn moves a shaft, then whatever its teeth move.
func (d *teeth) turn(shaft engine.ShaftID, by int) {
	for id, m := range d.moved(shaft, by) {
		d.at[id] += m
	}
}

// moved is how far each shaft goes that the teeth of one move, each once.
func (d *teeth) moved(shaft engine.ShaftID, by int) map[engine.ShaftID]int {
	moved := map[engine.ShaftID]int{shaft: by}
	for changed := true; changed; {
		changed = false
		carry := func(from, to *engine.Wheel, way int) {
			m, ok := moved[from.Shaft]
			if _, already := moved[to.Shaft]; !ok || already || to.Shaft == "" || d.free[from.ID] || d.free[to.ID] {
				return
			}
			moved[to.Shaft] = way * m * from.Teeth / to.Teeth
			changed = true
		}
		for i := range d.s.Loops {
			l := &d.s.Loops[i]
			if d.off[l.ID] {
				continue
			}
			for _, a := range l.Route {
				for _, b := range l.Route {
					way := 1
					if a.Side != b.Side {
						way = -1
					}
					carry(d.wheel(a.Wheel), d.wheel(b.Wheel), way)
				}
			}
		}
		for _, g := range d.s.Gears {
			way := -1
			if g.Idlers%2 == 1 {
				way = 1
			}
			carry(d.wheel(g.Driver), d.wheel(g.Driven), way)
			carry(d.wheel(g.Driven), d.wheel(g.Driver), way)
		}
	}
	return moved
}

func (d *teeth) wheel(id engine.WheelID) *engine.Wheel {
	return &d.s.Wheels[slices.IndexFunc(d.s.Wheels, func(w engine.Wheel) bool { return w.ID == id })]
}

// degrees is where a shaft stands in its own turn.
func (d *teeth) degrees(id engine.ShaftID) float64 {
	return float64(((d.at[id]%d.one)+d.one)%d.one) * 360 / float64(d.one)
}

// home draws a shaft that a wheel fixed to it hangs on a loop to whole teeth from where
// the crank has it; what is half a tooth off goes the way of the engine.
func (d *teeth) home(id engine.ShaftID, wheel engine.WheelID, stands float64) {
	x := engine.NewIndex(d.s)
	w := x.Wheel(wheel)
	if w.Mount != engine.Keyed {
		return
	}
	tooth := d.one / w.Teeth
	off := d.at[id] - d.moved(engine.CrankID, d.at[engine.CrankID])[id]
	off = ((off % d.one) + d.one) % d.one // 0 … a turn
	if off > d.one/2 {
		off -= d.one
	}
	left := off % tooth
	switch {
	case 2*left == tooth || 2*left == -tooth:
		d.at[id] = int(math.Round(stands / 360 * float64(d.one)))
		return
	case 2*left > tooth:
		left -= tooth
	case 2*left < -tooth:
		left += tooth
	}
	d.at[id] -= left
}

// steps is how many parts of a turn a shaft is turned by: of each, whole teeth of
// every wheel can be counted.
const steps = 40

// drawDrive makes a drive of two loops behind one another and a pair of gears, with
// floating wheels and a lock for every shaft.
func drawDrive(t *rapid.T) (*engine.Sheet, int) {
	z := func(name string) int {
		return rapid.SampledFrom([]int{10, 12, 15, 16, 18, 20, 24, 30, 36}).Draw(t, name)
	}
	mount := func(name string) engine.Mount {
		return rapid.SampledFrom([]engine.Mount{engine.Keyed, engine.Floating}).Draw(t, name)
	}
	s := &engine.Sheet{
		Cycle: engine.FourStroke, Running: engine.Clockwise, Interference: engine.No,
		Shafts: []engine.Shaft{{ID: "crank"}, {ID: "one", Kind: engine.InletCam}, {ID: "two", Kind: engine.ExhaustCam}, {ID: "three", Kind: engine.Pump}, {ID: "four", Kind: engine.Balance}},
		Wheels: []engine.Wheel{
			{ID: "a", Shaft: "crank", Mount: engine.Keyed, Teeth: z("a")}, {ID: "b", Shaft: "one", Mount: mount("mount b"), Teeth: z("b"), Clamps: []engine.FastenerID{"b-bolt"}},
			{ID: "b2", Shaft: "two", Mount: mount("mount b2"), Teeth: z("b2"), Clamps: []engine.FastenerID{"b2-bolt"}},
			{ID: "c", Shaft: "one", Mount: engine.Keyed, Teeth: z("c")}, {ID: "d", Shaft: "three", Mount: mount("mount d"), Teeth: z("d"), Clamps: []engine.FastenerID{"d-bolt"}},
			{ID: "e", Shaft: "three", Mount: engine.Keyed, Teeth: z("e")}, {ID: "f", Shaft: "four", Mount: engine.Keyed, Teeth: z("f")},
		},
		Gears: []engine.Gear{{ID: "g", Driver: "e", Driven: "f", Idlers: rapid.IntRange(0, 2).Draw(t, "idlers")}},
	}
	side := func(name string) engine.Side {
		return rapid.SampledFrom([]engine.Side{engine.Inside, engine.Back}).Draw(t, name)
	}
	s.Loops = []engine.Loop{
		{ID: "l", Teeth: 90, Pitch: 8, Route: []engine.Stop{{Wheel: "a", Side: engine.Inside}, {Wheel: "b", Side: side("side b")}, {Wheel: "b2", Side: side("side b2")}}},
		{ID: "m", Teeth: 70, Pitch: 8, Route: []engine.Stop{{Wheel: "c", Side: engine.Inside}, {Wheel: "d", Side: side("side d")}}},
	}
	one := steps
	for i := range s.Wheels {
		one *= s.Wheels[i].Teeth
		for _, f := range s.Wheels[i].Clamps {
			s.Fasteners = append(s.Fasteners, engine.Fastener{ID: f, Count: 1})
		}
	}
	for i := range s.Shafts {
		s.Locks = append(s.Locks, engine.Lock{ID: engine.LockID("lock-" + string(s.Shafts[i].ID)), Kind: engine.PinLock, Holds: []engine.ShaftID{s.Shafts[i].ID}, Repeats: 1, Play: 0.4})
	}
	return s, one
}

// Turned by any shaft, with loops off and on again, wheels loose on their shafts
// and clamped anew, every shaft of the virtual engine stands where its teeth say,
// and a lock goes in exactly where they say it does. Whole teeth are laid: a cam that
// was moved between is drawn to the nearest.
func TestStandingAgainstBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, one := drawDrive(t)
		x := engine.NewIndex(s)
		m := virtual.NewMachine(x)
		d := &teeth{s: s, one: one, at: map[engine.ShaftID]int{}, off: map[engine.LoopID]bool{}, free: map[engine.WheelID]bool{}}
		met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Degrees: -virtual.StartAngle}) }) // both stand home
		for i := range rapid.IntRange(1, 14).Draw(t, "how often") {
			switch rapid.IntRange(0, 6).Draw(t, fmt.Sprintf("kind %d", i)) {
			case 0, 1, 2:
				shaft := rapid.SampledFrom(s.Shafts).Draw(t, "shaft").ID
				by := rapid.IntRange(-120, 120).Draw(t, "nine degrees") * one / steps
				deg := float64(by) * 360 / float64(one)
				met(m, func(m *virtual.Machine) { m.Turn(virtual.Turning{Shaft: shaft, Degrees: unit.Angle(deg)}) })
				d.turn(shaft, by)
			case 3:
				id := rapid.SampledFrom([]engine.LoopID{"l", "m"}).Draw(t, "loop")
				if !d.off[id] {
					met(m, func(m *virtual.Machine) { m.LoopOff(id) })
					d.off[id] = true
				}
			case 4:
				w := rapid.SampledFrom(s.Wheels).Draw(t, "wheel")
				if len(w.Clamps) == 0 || w.Mount != engine.Floating {
					continue
				}
				if d.free[w.ID] {
					met(m, func(m *virtual.Machine) { m.Tighten(w.Clamps[0], virtual.Final, "") })
				} else {
					met(m, func(m *virtual.Machine) { m.Slacken(w.Clamps[0], "") })
				}
				d.free[w.ID] = !d.free[w.ID]
			case 6:
				id := rapid.SampledFrom([]engine.LoopID{"l", "m"}).Draw(t, "loop on")
				if !d.off[id] {
					continue
				}
				met(m, func(m *virtual.Machine) { m.LoopOn(id, true, "") })
				d.off[id] = false
				if id == "l" {
					d.home("one", "b", m.State().Shafts[1])
					d.home("two", "b2", m.State().Shafts[2])
				}
			case 5:
				l := rapid.SampledFrom(s.Locks).Draw(t, "lock")
				at := d.degrees(l.Holds[0])
				away := math.Abs(engine.Wrap(at, 360))
				got := met(m, func(m *virtual.Machine) { m.CheckLock(l.ID) })
				// A shaft that the crank does not drive is brought to its lock by hand, up to
				// twenty degrees.
				reach := l.Play
				if _, tied := d.moved(engine.CrankID, 0)[l.Holds[0]]; !tied {
					reach = 20
				}
				if in := slices.Contains(got, "WentIn"); in != (away <= reach+1e-6) {
					t.Fatalf("%s goes in: %v; its shaft stands %v° away", l.ID, in, away)
				} else if in && away > l.Play {
					d.at[l.Holds[0]] = int(math.Round(float64(d.at[l.Holds[0]])/float64(one))) * one
				}
			}
			for k := range s.Shafts {
				id := s.Shafts[k].ID
				if off := math.Abs(engine.Wrap(m.State().Shafts[k]-d.degrees(id), 360)); off > 1e-6 {
					t.Fatalf("%s stands at %v°, its teeth say %v°", id, m.State().Shafts[k], d.degrees(id))
				}
			}
		}
	})
}

// BenchmarkTrace1000 is the run of a procedure of a thousand steps; its bytes are
// what the whole trace takes.
func BenchmarkTrace1000(b *testing.B) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	p := d.Procedure
	for len(p.Steps) < 1000 {
		p.Steps = append(p.Steps, d.Procedure.Steps...)
	}
	p.Steps = p.Steps[:1000]
	b.ReportAllocs()
	for b.Loop() {
		virtual.Run(x, &p)
	}
}
