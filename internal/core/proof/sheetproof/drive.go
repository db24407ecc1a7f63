package sheetproof

import (
	"fmt"
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
)

var driveRules = finding.Family[*looking]{
	{ID: "no-crank", Family: "drive", Severity: finding.Blocks, Check: noCrank,
		Doc: "a sheet on which no ratio can be worked out"},
	{ID: "nothing-drawn", Family: "drive", Severity: finding.Blocks, Check: nothingDrawn,
		Doc: "an empty sheet that is put into use because nothing on it is wrong"},
	{ID: "not-driven", Family: "drive", Severity: finding.Blocks, Check: notDriven,
		Doc: "a cam the virtual engine would never turn"},
	{ID: "shaft-kind", Family: "drive", Severity: finding.Blocks, Check: shaftKind,
		Doc: "a camshaft taken for a shaft without valves"},
	{ID: "drives-disagree", Family: "drive", Severity: finding.Blocks, Check: drivesDisagree,
		Doc: "a shaft that two loops would turn at different speeds"},
	{ID: "cam-ratio", Family: "drive", Severity: finding.Blocks, Check: camRatio,
		Doc: "tooth counts that do not make one cam turn for two of the crank"},
	{ID: "no-size", Family: "drive", Severity: finding.Blocks, Check: noSize,
		Doc: "a wheel without teeth or diameter, which no belt or chain can be laid over"},
	{ID: "nothing-on-it", Family: "drive", Severity: finding.Look, Check: nothingOnIt,
		Doc: "a wheel drawn for nothing, left from another engine"},
	{ID: "gear-centres", Family: "drive", Severity: finding.ShouldFix, Check: gearCentres,
		Doc: "two gears drawn in mesh that do not meet"},
	{ID: "piston", Family: "drive", Severity: finding.ShouldFix, Check: pistonGiven,
		Doc: "bore, stroke and rod no piston can move with"},
	{ID: "firing-order", Family: "drive", Severity: finding.ShouldFix, Check: firingOrder,
		Doc: "a firing order that leaves a cylinder out"},
	{ID: "sides", Family: "drive", Severity: finding.ShouldFix, Check: sides,
		Doc: "left and right taken for each other"},
	{ID: "interference", Family: "drive", Severity: finding.Look, Check: interference,
		Doc: "a safe window nobody knows is needed"},
}

func noCrank(t *looking) {
	if t.x.Shaft(engine.CrankID) == nil {
		t.find("shafts", message.F("The sheet has no crank"), message.F("Every ratio is measured against it."),
			set(message.F("Add the crank"), "shafts/crank", engine.Shaft{ID: engine.CrankID, Name: "crank", Kind: engine.Crankshaft}))
	}
}

func nothingDrawn(t *looking) {
	switch {
	case len(t.s.Wheels) == 0:
		t.find("wheels", message.F("Nothing is drawn on this sheet"), message.F("A procedure would run on an engine without a drive, and nothing in it could go wrong."))
	case len(t.s.Loops) == 0 && len(t.s.Gears) == 0:
		t.find("loops", message.F("No belt or chain and no pair of gears ties the wheels together"), message.F("Nothing would turn with the crank, and no timing could be lost."))
	case len(t.s.Shafts) < 2:
		t.find("shafts", message.F("There is no shaft beside the crank"), message.F("Timing is how two shafts stand to each other."))
	}
}

func notDriven(t *looking) {
	if t.x.Shaft(engine.CrankID) == nil {
		return
	}
	for i := range t.s.Shafts {
		sh := &t.s.Shafts[i]
		if t.x.Drive(i).Driven {
			continue
		}
		sev := finding.ShouldFix
		if sh.Kind.IsCam() {
			sev = finding.Blocks
		}
		why := "No wheel sits on it. Place one and lead a loop or a gear pair to it."
		for k := range t.s.Wheels {
			if t.s.Wheels[k].Shaft == sh.ID {
				why = fmt.Sprintf("Its %s is on no loop or gear pair that comes from the crank.", t.wheel(t.s.Wheels[k].ID))
			}
		}
		t.findAs(sev, "shafts/"+string(sh.ID), message.F("Nothing drives the %s", sh.Name), message.As(why))
	}
}

// shaftKind wants to know what a shaft is for: whether valves hang on it decides what
// its timing can break. Where its name tells, that is offered, never taken.
func shaftKind(t *looking) {
	for i := range t.s.Shafts {
		sh := &t.s.Shafts[i]
		if sh.Kind != "" || sh.ID == engine.CrankID {
			continue
		}
		at := "shafts/" + string(sh.ID)
		var mends []Mend
		if k := engine.KindCalled(sh.Name); k != "" {
			mends = append(mends, set(message.F("It is a shaft of the kind “%s”", string(k)), at+"/kind", k))
		}
		t.find(at+"/kind", message.F("It is not said what the %s is for", sh.Name), message.F("Whether valves hang on it decides what a tooth on it can break."), mends...)
	}
}

func drivesDisagree(t *looking) {
	for _, d := range t.x.Disagreements() {
		t.find("shafts/"+string(d.Shaft), message.F("Two drives turn the %s differently: %s and %s of a crank turn", t.x.Shaft(d.Shaft).Name, d.A, d.B), message.F("One of the tooth counts or sides is wrong; the drive would lock up."))
	}
}

func camRatio(t *looking) {
	once := int64(t.s.Cycle.Degrees() / 360)
	for i := range t.s.Shafts {
		sh, d := &t.s.Shafts[i], t.x.Drive(i)
		turns := once * int64(max(sh.Lobes, 1))
		want, says := engine.NewRatio(1, turns), message.F("once for %d turns of the crank", turns)
		switch turns {
		case 1:
			says = message.F("once for each turn of the crank")
		case 2:
			says = message.F("once for two turns of the crank")
		}
		if sh.Lobes > 1 {
			says = message.F("with %d lobes for each valve %s", sh.Lobes, says)
		}
		if !sh.Kind.IsCam() || !d.Driven || d.Ratio.Abs() == want || len(d.Wheels) < 2 {
			continue
		}
		w := &t.s.Wheels[d.Wheels[len(d.Wheels)-1]]
		var m Mend
		if z := d.Ratio.Abs().Mul(want.Inverse()).Mul(engine.NewRatio(int64(w.Teeth), 1)); z.Den == 1 && z.Num > 0 && z.Num <= 1000 {
			m = set(message.F("Make the %s %d teeth", t.wheel(w.ID), z.Num), "wheels/"+string(w.ID)+"/teeth", z.Num)
		}
		t.find("wheels/"+string(w.ID)+"/teeth", message.F("The %s turns %s of a crank turn", sh.Name, d.Ratio.Abs()), message.F("A cam of a %s turns %s.", t.s.Cycle, says), m)
	}
}

func noSize(t *looking) {
	for i := range t.s.Wheels {
		if w := &t.s.Wheels[i]; w.Teeth == 0 && w.Diameter <= 0 {
			t.find("wheels/"+string(w.ID), message.F("The %s has neither teeth nor a diameter", t.wheel(w.ID)), message.F("Give one of the two; the belt or chain is laid over it."))
		}
	}
}

func nothingOnIt(t *looking) {
	used := map[engine.WheelID]bool{}
	for i := range t.s.Loops {
		for _, s := range t.s.Loops[i].Route {
			used[s.Wheel] = true
		}
	}
	for i := range t.s.Gears {
		used[t.s.Gears[i].Driver], used[t.s.Gears[i].Driven] = true, true
	}
	for i := range t.s.Marks {
		used[t.s.Marks[i].Wheel] = true
	}
	for i := range t.s.Locks {
		used[t.s.Locks[i].Wheel] = true
	}
	for i := range t.s.Wheels {
		if w := &t.s.Wheels[i]; !used[w.ID] {
			t.find("wheels/"+string(w.ID), message.F("No belt or chain, gear or mark uses the %s", t.wheel(w.ID)), message.F("Put it on a route, or remove it."), finding.MendOf(message.F("Remove it"), []engine.Edit{{Path: "wheels/" + string(w.ID)}}))
		}
	}
}

// meshSlack is how far drawn centres may lie from the module's, mm.
const meshSlack = 0.5

func gearCentres(t *looking) {
	for i := range t.s.Gears {
		g := &t.s.Gears[i]
		a, b := t.x.Wheel(g.Driver), t.x.Wheel(g.Driven)
		if g.Inside || g.Module <= 0 || g.Idlers > 0 || a == nil || b == nil {
			continue
		}
		want := g.Module * float64(a.Teeth+b.Teeth) / 2
		have := math.Hypot(a.X-b.X, a.Y-b.Y)
		if near(want, have, meshSlack) || have == 0 {
			continue
		}
		k := want / have
		t.find("gears/"+string(g.ID), message.F("The %s and the %s stand %s mm apart", t.wheel(a.ID), t.wheel(b.ID), fixed(have, 1)),
			message.F("With module %s and %d + %d teeth they mesh at %s mm.", fixed(g.Module, 3), a.Teeth, b.Teeth, fixed(want, 1)),
			finding.MendOf(message.F("Move the %s", t.wheel(b.ID)), []engine.Edit{
				edit("wheels/"+string(b.ID)+"/x", round(a.X+(b.X-a.X)*k)), edit("wheels/"+string(b.ID)+"/y", round(a.Y+(b.Y-a.Y)*k))}))
	}
}

func round(v float64) float64 { return math.Round(v*100) / 100 }

func pistonGiven(t *looking) {
	if t.s.Stroke.IsZero() || t.s.Rod.IsZero() {
		t.findAs(finding.Look, "stroke", message.F("Stroke or rod length is missing"), message.F("Without them the sheet cannot tell what a dial gauge shows near top dead centre."))
		return
	}
	if _, ok := piston.GearOf(t.s); !ok {
		t.find("rod", message.F("A rod of %s does not go with a stroke of %s", t.s.Rod, t.s.Stroke), message.F("The rod must be longer than half the stroke, in units of length."))
	}
}

func firingOrder(t *looking) {
	if len(t.s.FiringOrder) == 0 && t.s.Cylinders <= 1 {
		return
	}
	seen := map[int]bool{}
	for _, c := range t.s.FiringOrder {
		if c < 1 || c > t.s.Cylinders || seen[c] {
			t.find("firingOrder", message.F("The firing order names cylinder %d twice, or an engine with %d has no such cylinder", c, t.s.Cylinders), message.F("Each cylinder fires once a cycle."))
			return
		}
		seen[c] = true
	}
	if at := t.s.FiringAngles; len(at) > 0 {
		switch cycle := float64(t.s.Cycle.Degrees()); {
		case len(at) != t.s.Cylinders:
			t.find("firingAngles", message.F("The firing angles are those of %s of %d", cylinders(len(at)), t.s.Cylinders), message.F("Each cylinder fires once a cycle."))
		case at[0] != 0 || !slices.IsSorted(at) || at[len(at)-1] >= cycle:
			t.find("firingAngles", message.F("The firing angles do not run from 0° up to less than %s°", unit.Number(cycle)), message.F("They are counted from the first cylinder of the firing order, within one cycle."))
		}
	}
	if len(seen) != t.s.Cylinders {
		t.find("firingOrder", message.F("The firing order names %s of %d", cylinders(len(seen)), t.s.Cylinders), message.F("Each cylinder fires once a cycle."))
	}
}

func sides(t *looking) {
	if t.s.Sides == "" {
		t.find("sides", message.F("No sentence fixes left and right for this code"), message.F("A page that says left or right is read from the driver’s seat by one and from the front by another."),
			set(message.F("Say it: looking at the timing drive"), "sides", "Left and right are seen looking at the timing drive."))
	}
	if len(t.s.Banks) > 0 {
		return
	}
	for i := range t.s.Shafts {
		if b := t.s.Shafts[i].Bank; b != "" {
			t.find("shafts/"+string(t.s.Shafts[i].ID), message.F("The %s is on a bank the sheet does not name", t.s.Shafts[i].Name), message.F("Name the banks first."))
		}
	}
}

func interference(t *looking) {
	if t.s.Interference == engine.Unknown || t.s.Interference == "" {
		t.find("interference", message.F("It is not known whether valves meet pistons"), message.F("Until somebody knows, the virtual engine takes it that they do."), set(message.F("They do"), "interference", engine.Yes), set(message.F("They do not"), "interference", engine.No))
	}
	if t.s.Interference != engine.No && t.s.Limits.SafeWindow <= 0 {
		t.findAs(finding.ShouldFix, "limits/safeWindow", message.F("No safe window is given for turning with the belt or chain off"), message.F("Every degree then counts as contact."))
	}
}
