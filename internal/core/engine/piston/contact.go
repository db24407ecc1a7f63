package piston

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// Train is one cam's valves over their pistons. Angles are degrees of the crank,
// lengths millimetres.
type Train struct {
	gear Gear
	// opens and closes are from the top dead centre of the gas exchange.
	opens, closes float64
	lift, clear   float64
	// offsets are where the pistons stand behind that of number one.
	offsets []float64
	cycle   float64
	// zero is the crank angle of the sheet at which number one is at top dead centre,
	// firing.
	zero float64
	// turns is how far the crank turns for a turn of the cam, negative for a cam that runs
	// against it.
	turns float64
	// rooms and lifts are the gap without lift, and the lift, by whole degrees of one
	// cycle; made when they are first asked for.
	rooms, lifts []float64
}

// TrainOf is the train of a cam, the shaft at a place of the sheet; false where the sheet
// does not give stroke, rod, opening, closing, lift and clearance, or gives what no engine
// has.
func TrainOf(x *engine.Index, cam int) (*Train, bool) {
	s := x.Sheet
	v := s.Shafts[cam].Valves
	g, ok := GearOf(s)
	if v == nil || !ok || g.Check() != nil || v.Closes <= v.Opens || v.Closes-v.Opens >= float64(s.Cycle.Degrees()) {
		return nil, false
	}
	lift, errL := v.Lift.In(unit.Millimetre)
	gap, errC := v.Clear.In(unit.Millimetre)
	if errL != nil || errC != nil || lift.Value <= 0 || gap.Value < 0 || v.Clear.IsZero() {
		return nil, false
	}
	t := &Train{gear: g, opens: v.Opens, closes: v.Closes, lift: lift.Value, clear: gap.Value, cycle: float64(s.Cycle.Degrees()), zero: s.Limits.TDC}
	t.turns = t.cycle / 360 * float64(max(s.Shafts[cam].Lobes, 1))
	if d := x.Drive(cam); d.Driven && d.Ratio.Float() < 0 {
		t.turns = -t.turns // by a gear that meshes with one of the crank’s side
	}
	for _, k := range tops(s, s.Shafts[cam].Bank) {
		t.offsets = append(t.offsets, float64(s.Fires(k)))
	}
	return t, true
}

// Turns is how far the crank turns for a turn of the cam.
func (t *Train) Turns() float64 { return math.Abs(t.turns) }

// tops are the places in the cycle, counted in firings, at which the cylinders that a cam
// works have their top dead centre: those of its bank, where the sheet names them and the
// firing order; all of them otherwise.
func tops(s *engine.Sheet, bank engine.BankID) []int {
	n := max(s.Cylinders, 1)
	var out []int
	for i := range s.Banks {
		if s.Banks[i].ID != bank || bank == "" {
			continue
		}
		for _, cylinder := range s.Banks[i].Cylinders {
			if k := slices.Index(s.FiringOrder, cylinder); k >= 0 && k < n {
				out = append(out, k)
			}
		}
		if len(out) == len(s.Banks[i].Cylinders) && len(out) > 0 {
			return out
		}
	}
	out = out[:0]
	for k := range n {
		out = append(out, k)
	}
	return out
}

// Lift is the valve's lift at a crank angle from the top dead centre of the gas
// exchange, mm: simple harmonic motion, s = h/2·(1 − cos 2πu) with u from 0 at
// opening to 1 at closing (handbooks of machine design, cams, simple harmonic motion;
// from memory). Real cams rise faster near the middle and slower at the ends, where
// pistons are met: the figure errs on the side of contact there.
func (t *Train) Lift(deg unit.Angle) unit.Length {
	u := (math.Mod(math.Mod(float64(deg)-t.opens, t.cycle)+t.cycle, t.cycle)) / (t.closes - t.opens)
	if u >= 1 {
		return 0
	}
	return unit.Length(t.lift / 2 * (1 - math.Cos(2*math.Pi*u)))
}

// steepest is the greatest rise of the lift for a degree of the crank, mm/°: that of
// s = h/2·(1 − cos 2πu) at u = 1/4.
func (t *Train) steepest() float64 { return math.Pi * t.lift / (t.closes - t.opens) }

// Room is what is left between a valve and its piston, mm, with the piston's crank
// so many degrees from its top dead centre of the gas exchange and the cam late by
// so many degrees of the crank; below zero the two would be in one place.
func (t *Train) Room(deg, late unit.Angle) unit.Length {
	return unit.Length(t.clear) + t.gear.Drop(deg) - t.Lift(deg-late)
}

// Least is the least room over a whole cycle with the cam late by so many degrees of
// the crank, negative for early, and the crank angle where it is, from the top dead
// centre of the gas exchange, in whole degrees.
func (t *Train) Least(late unit.Angle) (room unit.Length, at unit.Angle) {
	n := int(t.cycle)
	if t.rooms == nil {
		t.rooms, t.lifts = make([]float64, n), make([]float64, n)
		for d := range n {
			t.rooms[d], t.lifts[d] = t.clear+float64(t.gear.Drop(unit.Angle(d))), float64(t.Lift(unit.Angle(d)))
		}
	}
	least, where := math.Inf(1), 0.0
	whole := float64(late) == math.Trunc(float64(late))
	for d := range n {
		lift := 0.0
		if whole {
			lift = t.lifts[((d-int(late))%n+n)%n]
		} else {
			lift = float64(t.Lift(unit.Angle(d) - late))
		}
		if r := t.rooms[d] - lift; r < least {
			least, where = r, float64(d)
		}
	}
	if where >= t.cycle/2 {
		where -= t.cycle
	}
	return unit.Length(least), unit.Angle(where)
}

// From is how far the cam may be late before its valves meet the pistons, degrees
// of the crank to a tenth; early as a negative figure; 0 and false where they never
// do within half a cycle.
func (t *Train) From(early bool) (unit.Angle, bool) {
	way := 1.0
	if early {
		way = -1
	}
	steepest := t.steepest()
	for late := 0.0; late <= t.cycle/2; {
		if room, _ := t.Least(unit.Angle(way * late)); room >= 0 {
			// No valve opens faster than the steepest place of its lift, so that so many
			// degrees further on there is room still.
			late += math.Max(1, math.Floor(float64(room)/steepest))
			continue
		}
		lo, hi := math.Max(late-1, 0), late
		for hi-lo > 0.05 {
			mid := (lo + hi) / 2
			if room, _ := t.Least(unit.Angle(way * mid)); room < 0 {
				hi = mid
			} else {
				lo = mid
			}
		}
		return unit.Angle(way * math.Round(hi*10) / 10), true
	}
	return 0, false
}

// Now is the least room with crank and cam where they stand, degrees of the sheet:
// over all pistons, those of an engine that fires evenly.
func (t *Train) Now(crank, cam unit.Angle) unit.Length {
	least := math.Inf(1)
	for _, o := range t.offsets {
		// From the top dead centre of the gas exchange, half a cycle after firing.
		piston := float64(crank) - t.zero - o - t.cycle/2
		valve := float64(cam)*t.turns - t.zero - o - t.cycle/2
		least = math.Min(least, t.clear+float64(t.gear.Drop(unit.Angle(piston)))-float64(t.Lift(unit.Angle(valve))))
	}
	return unit.Length(least)
}
