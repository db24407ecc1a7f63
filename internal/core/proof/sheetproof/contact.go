package sheetproof

import (
	"math"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
)

// contactRules hold what the sheet says of valves and pistons against the
// slider-crank.
var contactRules = finding.Family[*looking]{
	{ID: "valves-unfinished", Family: "drive", Severity: finding.ShouldFix, Check: valvesUnfinished,
		Doc: "valves of which too little is written to work out where they meet pistons"},
	{ID: "meets-in-step", Family: "drive", Severity: finding.Blocks, Check: meetsInStep,
		Doc: "a lift, a timing or a clearance mistyped: the engine as written bends its valves"},
	{ID: "interference-differs", Family: "drive", Severity: finding.ShouldFix, Check: interferenceDiffers,
		Doc: "an engine taken for one that forgives a slipped belt"},
	{ID: "rest-meets", Family: "drive", Severity: finding.Blocks, Check: restMeets,
		Doc: "a rest position at which a cam turned by hand meets a piston"},
	{ID: "limit-of-contact", Family: "marks and locks", Severity: finding.Blocks, Check: limitOfContact,
		Doc: "a limit that passes a cam whose valves meet the pistons"},
}

// train is the valves of a cam with how far it may be late and early before they meet
// the pistons, worked out once for all that asks.
type train struct {
	*piston.Train
	late, early met
}

// met is how far a cam may be out before its valves meet the pistons; meets is false
// where they never do.
type met struct {
	from  unit.Angle
	meets bool
}

// trainsOf are the valves of every shaft of a sheet, nil for one without.
func trainsOf(x *engine.Index) []*train {
	s := x.Sheet
	out := make([]*train, len(s.Shafts))
	for i := range s.Shafts {
		if v, ok := piston.TrainOf(x, i); ok {
			out[i] = &train{Train: v}
			out[i].late.from, out[i].late.meets = v.From(false)
			out[i].early.from, out[i].early.meets = v.From(true)
		}
	}
	return out
}

// eachTrain calls f for every cam with valves that can be worked out.
func (t *looking) eachTrain(f func(cam *engine.Shaft, on string, v *train)) {
	for i, v := range t.trains {
		if v != nil {
			f(&t.s.Shafts[i], "shafts/"+string(t.s.Shafts[i].ID)+"/valves", v)
		}
	}
}

func valvesUnfinished(t *looking) {
	for i := range t.s.Shafts {
		s := &t.s.Shafts[i]
		on := "shafts/" + string(s.ID) + "/valves"
		if s.Valves == nil {
			continue
		}
		if !s.Kind.IsCam() {
			t.find(on, message.F("The %s has valves and is no cam", s.Name), message.F("Only a cam opens valves."), finding.MendOf(message.F("Remove them"), []engine.Edit{{Path: on}}))
			continue
		}
		if t.trains[i] == nil {
			t.find(on, message.F("Where the valves of the %s meet pistons cannot be worked out", s.Name), message.F("It takes stroke and rod of the engine, and of the valves where they open and close, the lift, and the clearance to the piston at top dead centre."))
		}
	}
}

func meetsInStep(t *looking) {
	t.eachTrain(func(cam *engine.Shaft, on string, v *train) {
		if room, at := v.Least(0); room < 0 {
			t.find(on, message.F("The valves of the %s would meet the pistons with the engine in step", cam.Name), message.F("%s° from top dead centre of the gas exchange they would be %s mm in one another: opening, closing, lift or clearance is wrong.", fixed(at, 0), fixed(-room, 1)))
		}
	})
}

func interferenceDiffers(t *looking) {
	meets, any := false, false
	t.eachTrain(func(_ *engine.Shaft, _ string, v *train) {
		any, meets = true, meets || v.late.meets || v.early.meets
	})
	switch {
	case !any:
	case meets && t.s.Interference != engine.Yes:
		t.find("interference", message.F("Valves can meet pistons on this engine, and the sheet does not say so"), message.F("By stroke, rod, lift and clearance they do when a cam is out of step far enough."), set(message.F("It is an interference engine"), "interference", engine.Yes))
	case !meets && t.s.Interference == engine.Yes:
		t.find("interference", message.F("The sheet says valves can meet pistons, and by its own figures they never do"), message.F("Either a figure of the valves is wrong, or the engine forgives."))
	}
}

func restMeets(t *looking) {
	if t.s.Limits.Rest == 0 {
		return
	}
	t.eachTrain(func(cam *engine.Shaft, _ string, v *train) {
		worst := math.Inf(1)
		for a := 0.0; a < 360; a++ {
			worst = math.Min(worst, float64(v.Now(unit.Angle(t.s.Limits.Rest), unit.Angle(a))))
		}
		if worst < 0 {
			t.find("limits/rest", message.F("With the crank at its rest position, the %s can still meet a piston", cam.Name), message.F("Turned round once by hand, its valves and a piston would be %s mm in one another.", fixed(-worst, 1)))
		}
	})
}

func limitOfContact(t *looking) {
	most := t.s.Limits.CamError
	if most == 0 {
		return
	}
	for i := range t.s.Shafts {
		s := &t.s.Shafts[i]
		from := s.Contact
		if v := t.trains[i]; v != nil {
			for _, m := range []met{v.early, v.late} {
				if of := math.Abs(float64(m.from)) / v.Turns(); m.meets && (from == 0 || of < from) {
					from = of
				}
			}
		}
		if from > 0 && from <= most {
			t.find("limits/camError", message.F("The limit passes %s°, and the valves of the %s meet pistons from %s°", fixed(most, 1), s.Name, fixed(from, 1)), message.F("A cam that passes has to keep clear of the pistons."))
		}
	}
}
