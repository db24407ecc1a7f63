package sheetproof

import (
	"encoding/json"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
)

var tensionRules = finding.Family[*looking]{
	{ID: "no-tensioner", Family: "tension", Severity: finding.Look, Check: noTensioner,
		Doc: "a belt nothing keeps tight"},
	{ID: "pulling-run", Family: "tension", Severity: finding.ShouldFix, Check: pullingRun,
		Doc: "a tensioner on the run that pulls: it yields under load, and the cams come late"},
	{ID: "tension-numbers", Family: "tension", Severity: finding.ShouldFix, Check: tensionNumbers,
		Doc: "a tensioner whose numbers the page has to invent"},
	{ID: "frequency-run", Family: "tension", Severity: finding.Blocks, Check: frequencyRun,
		Doc: "a tone read on a run that is not there"},
}

var fastenerRules = finding.Family[*looking]{
	{ID: "units-disagree", Family: "fasteners and parts", Severity: finding.Blocks, Check: unitsDisagree,
		Doc: "a torque whose two figures are not the same"},
	{ID: "no-torque", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: noTorque,
		Doc: "a bolt every page has to guess the torque of"},
	{ID: "held-by-nothing", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: heldByNothing,
		Doc: "bolt torque that goes into the belt"},
	{ID: "holds-nothing", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: holdsNothing,
		Doc: "a bolt of which nobody knows when it is loose, or a cover that falls off by itself"},
	{ID: "clamped-by-nothing", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: clampedByNothing,
		Doc: "a floating wheel no bolt clamps"},
	{ID: "names-nothing", Family: "fasteners and parts", Severity: finding.Blocks, Check: namesNothing,
		Doc: "a thing that names another the sheet does not have"},
	{ID: "comes-off-in-circles", Family: "fasteners and parts", Severity: finding.Blocks, Check: inCircles,
		Doc: "parts that each must come off before the other"},
}

func noTensioner(t *looking) {
	for i := range t.s.Loops {
		if l := &t.s.Loops[i]; t.x.Tensioner(l.Tensioner) == nil {
			t.find(on(l)+"/tensioner", message.F("Nothing tensions the %s", l.Name), message.F("Name its tensioner, or one with the method fixed."))
		}
	}
}

// pullingRun finds a tensioner that sits where its loop runs into the driver: the driver
// pulls there, and the slack is on the other side of it.
func pullingRun(t *looking) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		d := t.x.Driver(i)
		ten := t.x.Tensioner(l.Tensioner)
		if d < 0 || ten == nil || ten.Method == engine.Fixed || ten.Wheel == "" {
			continue
		}
		n := len(l.Route)
		at := slices.IndexFunc(l.Route, func(s engine.Stop) bool { return s.Wheel == t.s.Wheels[d].ID })
		before, after := 0, 0 // timed wheels on the way from the driver to it, and from it on
		seen := false
		for k := 1; k < n && at >= 0; k++ {
			w := t.x.Wheel(l.Route[(at+k)%n].Wheel)
			switch {
			case w == nil:
			case w.ID == ten.Wheel:
				seen = true
			case w.Teeth == 0 || t.x.Shaft(w.Shaft) == nil || !t.x.Shaft(w.Shaft).Kind.IsCam():
			case seen:
				after++
			default:
				before++
			}
		}
		if seen && before > 0 && after == 0 {
			t.find("tensioners/"+string(ten.ID)+"/wheel", message.F("The %s sits on the run that the %s wheel pulls", ten.Name, t.s.Wheels[d].Name), message.F("The slack of the %s leaves that wheel on its other side. The route may be written against its travel.", l.Name), t.turnedRound(l))
		}
	}
}

// holdsNothing finds fasteners that nothing on the sheet is held by, and covers that
// nothing holds.
func holdsNothing(t *looking) {
	used := map[engine.FastenerID]bool{}
	use := func(ids []engine.FastenerID) {
		for _, id := range ids {
			used[id] = true
		}
	}
	for i := range t.s.Parts {
		use(t.s.Parts[i].Held)
	}
	for i := range t.s.Wheels {
		use(t.s.Wheels[i].Clamps)
	}
	for i := range t.s.Tensioners {
		use(t.s.Tensioners[i].Bolts)
	}
	for i := range t.s.Locks {
		use(t.s.Locks[i].Screws)
	}
	for i := range t.s.Fasteners {
		if f := &t.s.Fasteners[i]; !used[f.ID] && f.OnShaft == "" { // one on a shaft is there to turn it by
			t.find("fasteners/"+string(f.ID), message.F("Nothing is held by the %s", f.Words()), message.F("Say what it holds, or take it off the sheet: nobody knows what is loose with it."), finding.MendOf(message.F("Remove it"), []engine.Edit{{Path: "fasteners/" + string(f.ID)}}))
		}
	}
	for i := range t.s.Parts {
		if p := &t.s.Parts[i]; p.Kind == engine.Cover && len(p.Held) == 0 {
			t.find("parts/"+string(p.ID)+"/held", message.F("Nothing holds the %s", p.Name), message.F("A cover has its bolts or clips: name them, so that a page tightens them."))
		}
	}
}

func tensionNumbers(t *looking) {
	for i := range t.s.Tensioners {
		v := &t.s.Tensioners[i]
		at := "tensioners/" + string(v.ID)
		for _, o := range v.Method.Of().Owes {
			if o.Missing(v) {
				t.find(at+"/"+o.Field, message.F("The %s %s", v.Name, o.What), message.As(o.Why))
			}
		}
	}
}

func frequencyRun(t *looking) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		ten := t.x.Tensioner(l.Tensioner)
		if ten == nil || ten.Frequency == nil || t.laid[i].path == nil {
			continue
		}
		f := ten.Frequency
		at := "tensioners/" + string(ten.ID) + "/frequency"
		found := false
		for _, r := range t.laid[i].path.Runs {
			found = found || r.From == f.From && r.To == f.To || r.From == f.To && r.To == f.From
		}
		if !found {
			t.find(at, message.F("The %s has no run from %s to %s", l.Name, t.wheel(f.From), t.wheel(f.To)), message.F("The tone is read on a free run between two wheels that follow each other."))
		}
		if f.Note.Kind() != unit.KindFrequency {
			t.find(at+"/note", message.F("The tone is not a frequency"), message.F("Give it in Hz, with its tolerance."))
		}
		if l.Mass <= 0 {
			t.findAs(finding.ShouldFix, on(l)+"/mass", message.F("The mass of a metre of the %s is missing", l.Name), message.F("Without it the tone cannot be turned into a tension."))
		}
	}
}

func unitsDisagree(t *looking) {
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		at := "fasteners/" + string(f.ID) + "/spec"
		for _, g := range f.Spec {
			for _, q := range []unit.Quantity{g.Torque, g.Angle} {
				switch {
				case q.IsZero():
				case !q.Agrees():
					t.find(at, message.F("%s: %s are not the same", message.Capital(f.Name), q), message.F("One of the two figures is wrong; a reader takes whichever unit they work in."))
				case !q.TolFits():
					t.find(at, message.F("%s: %s has a tolerance in another quantity", message.Capital(f.Name), q), message.F("An angle’s tolerance is in degrees, a torque’s in N·m."))
				}
			}
		}
	}
}

func noTorque(t *looking) {
	for i := range t.s.Fasteners {
		if f := &t.s.Fasteners[i]; len(f.Spec) == 0 {
			t.find("fasteners/"+string(f.ID)+"/spec", message.F("The %s has no torque", f.Name), message.F("Every page that tightens it has to bring its own figure."))
		}
	}
}

func heldByNothing(t *looking) {
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		if f.OnShaft == "" {
			continue
		}
		at := "fasteners/" + string(f.ID) + "/holdWith"
		l := t.x.Lock(f.HoldWith)
		var m Mend
		for k := range t.s.Locks {
			if h := &t.s.Locks[k]; h.CarriesTorque && slices.Contains(h.Holds, f.OnShaft) {
				m = set(message.F("Hold it with the %s", h.Name), at, h.ID)
				break
			}
		}
		switch {
		case l == nil:
			t.find(at, message.F("Nothing is named to hold the %s against its torque", f.Name), message.F("Neither the %s nor a thin lock tool may take it.", strings.TrimSuffix(t.x.Drives(), "s")), m)
		case !l.CarriesTorque:
			t.findAs(finding.Blocks, at, message.F("The %s is held with the %s, which may not carry torque", f.Name, l.Name), message.F("It is for position: it breaks, or the block does."), m)
		}
	}
}

func clampedByNothing(t *looking) {
	for i := range t.s.Wheels {
		if w := &t.s.Wheels[i]; w.Mount.Floats() && len(w.Clamps) == 0 {
			t.find("wheels/"+string(w.ID)+"/clamps", message.F("The %s floats and no bolt clamps it", t.wheel(w.ID)), message.F("Name the bolts, or make it keyed."), set(message.F("It is keyed"), "wheels/"+string(w.ID)+"/mount", engine.Keyed))
		}
	}
}

func namesNothing(t *looking) {
	said := map[string]bool{}
	for _, r := range t.s.Namings() {
		if t.x.Has(r.Ref()) || said[r.Path+r.ID] {
			continue
		}
		said[r.Path+r.ID] = true
		e := engine.Edit{Path: r.Path}
		if r.Several {
			kept := []string{}
			for _, o := range t.s.Namings() {
				if o.Path == r.Path && t.x.Has(o.Ref()) {
					kept = append(kept, o.ID)
				}
			}
			if raw, err := json.Marshal(kept); err == nil && len(kept) > 0 {
				e.Value = raw
			}
		}
		t.find(r.Path, message.F("“%s” is on no list of this sheet", r.ID), message.F("It was taken out or misspelt."), finding.MendOf(message.F("Remove it"), []engine.Edit{e}))
	}
}

func inCircles(t *looking) {
	const (
		fresh = iota
		open
		done
	)
	state := make([]int, len(t.s.Parts))
	var walk func(i int) bool
	walk = func(i int) bool {
		switch state[i] {
		case open:
			return true
		case done:
			return false
		}
		state[i] = open
		for _, a := range t.s.Parts[i].After {
			if k := t.x.PartAt(a); k >= 0 && walk(k) {
				return true
			}
		}
		state[i] = done
		return false
	}
	for i := range t.s.Parts {
		if state[i] == fresh && walk(i) {
			t.find("parts/"+string(t.s.Parts[i].ID)+"/after", message.F("The %s can never come off", t.s.Parts[i].Name), message.F("What must come off before it waits, in the end, for it."))
			return
		}
	}
}
