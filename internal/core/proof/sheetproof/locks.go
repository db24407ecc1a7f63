package sheetproof

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/resolution"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
)

var lockRules = finding.Family[*looking]{
	{ID: "stroke-untold", Family: "marks and locks", Severity: finding.ShouldFix, Check: strokeUntold,
		Doc: "cams locked on the wrong stroke, with nothing to notice it by"},
	{ID: "tooth-unseen", Family: "marks and locks", Severity: finding.ShouldFix, Check: toothUnseen,
		Doc: "a belt one tooth out that no lock or mark of the code can show"},
	{ID: "coarser-than-limit", Family: "marks and locks", Severity: finding.ShouldFix, Check: coarser,
		Doc: "a limit that nothing on the engine can check"},
	{ID: "pin-for-torque", Family: "marks and locks", Severity: finding.ShouldFix, Check: pinForTorque,
		Doc: "bolt torque taken by a pin that breaks"},
	{ID: "no-play", Family: "marks and locks", Severity: finding.Look, Check: noPlay,
		Doc: "errors nobody can size: a tool without play"},
	{ID: "no-tool", Family: "marks and locks", Severity: finding.Look, Check: noTool,
		Doc: "a lock the page cannot name a tool for"},
	{ID: "no-pointer", Family: "marks and locks", Severity: finding.Look, Check: noPointer,
		Doc: "a mark without the thing it should meet"},
	{ID: "reading-open", Family: "marks and locks", Severity: finding.ShouldFix, Check: readingOpen,
		Doc: "something to be measured without what passes, or that no page will ever owe"},
	{ID: "equivalents", Family: "marks and locks", Severity: finding.ShouldFix, Check: equivalents,
		Doc: "an equivalent tool that lets one tooth pass"},
}

// readingOpen holds that a reading says what passes, and what it tells of.
func readingOpen(t *looking) {
	for i := range t.s.Readings {
		r := &t.s.Readings[i]
		on := "readings/" + string(r.ID)
		if r.Value.IsZero() {
			t.find(on+"/value", message.F("The %s has no value that passes", r.Name), message.F("Whatever is measured would do. Give it with its tolerance, or as a range."))
		}
		if r.Shaft == "" && r.Gear == "" && r.Loop == "" && r.Part == "" {
			t.findAs(finding.Look, on, message.F("The %s tells of nothing on the sheet", r.Name), message.F("Say of which shaft, gears, belt, chain or part: a page owes it when that was disturbed."))
		}
	}
}

func strokeUntold(t *looking) {
	if t.s.Cycle != engine.FourStroke {
		return
	}
	any := false
	for i := range t.s.Locks {
		l := &t.s.Locks[i]
		any = any || l.Kind.ForPosition()
		if t.s.TellsStroke(t.x.LockHomeEvery(l)) {
			return
		}
	}
	for i := range t.s.Marks {
		m := &t.s.Marks[i]
		any = any || m.Kind == engine.TimingMark
		if m.Kind == engine.TimingMark && t.s.TellsStroke(t.x.MarkHomeEvery(m)) {
			return
		}
	}
	if any {
		t.find("locks", message.F("No lock or mark tells TDC firing from TDC exhaust"), message.F("All of them stand home at both. A page for this code must tell the stroke another way, by the lobes of number one."))
	}
}

func toothUnseen(t *looking) {
	table := t.table()
	for _, v := range resolution.Teeth(t.x) {
		i := t.x.ShaftAt(v.Shaft)
		if !t.s.Shafts[i].Kind.IsCam() {
			continue
		}
		least, ok := table.Smallest(v.Shaft)
		switch {
		case !ok:
			t.find("shafts/"+string(v.Shaft), message.F("Nothing on the sheet shows where the %s stands", t.s.Shafts[i].Name), message.F("One tooth on its wheel is %s° and would go unseen. Add a lock point or a mark.", fixed(v.OfShaft, 1)))
		case float64(least) > v.OfShaft:
			t.find("shafts/"+string(v.Shaft), message.F("One tooth on the %s is %s°; the finest look shows %s°", t.wheel(v.Wheel), fixed(v.OfShaft, 1), fixed(least, 1)), message.F("A tooth out may pass every check of this code."))
		}
	}
}

func coarser(t *looking) {
	limit := t.s.Limits.CamError
	if limit <= 0 {
		t.findAs(finding.Look, "limits/camError", message.F("No greatest cam error is given"), message.F("The bench then has nothing to hold a reading against."))
		return
	}
	table := t.table()
	for i := range t.s.Shafts {
		if !t.s.Shafts[i].Kind.IsCam() {
			continue
		}
		if least, ok := table.Smallest(t.s.Shafts[i].ID); ok && float64(least) > limit {
			t.find("limits/camError", message.F("The limit for the cams is %s°; on the %s nothing shows less than %s°", fixed(limit, 2), t.s.Shafts[i].Name, fixed(least, 2)), message.F("Give the tool with less play, or the limit that can be checked."))
		}
	}
}

func pinForTorque(t *looking) {
	for i := range t.s.Locks {
		if l := &t.s.Locks[i]; l.Kind.ForPosition() && l.CarriesTorque {
			at := "locks/" + string(l.ID) + "/carriesTorque"
			t.find(at, message.F("The %s is for position and may carry bolt torque", l.Name), message.F("Timing pins are for position; torque goes against a flywheel lock or a holder."), set(message.F("It may not"), at, false))
		}
	}
}

func noPlay(t *looking) {
	for i := range t.s.Locks {
		if l := &t.s.Locks[i]; l.Kind.ForPosition() && l.Freedom() <= 0 {
			t.find("locks/"+string(l.ID)+"/play", message.F("The play of the %s is missing", l.Name), message.F("Degrees, or millimetres at a radius; what it can see comes from it."))
		}
	}
}

func noTool(t *looking) {
	for i := range t.s.Locks {
		if l := &t.s.Locks[i]; l.Tool == "" {
			t.find("locks/"+string(l.ID)+"/tool", message.F("No tool is named for the %s", l.Name), message.F("The tool list of every procedure is made from the locks."))
		}
	}
}

func noPointer(t *looking) {
	for i := range t.s.Marks {
		m := &t.s.Marks[i]
		switch {
		case m.Kind == engine.TimingMark && m.Pointer == "":
			t.find("marks/"+string(m.ID)+"/pointer", message.F("The %s meets nothing", m.Name), message.F("Say which rib, notch or line it stands against."))
		case m.Kind == engine.LookAlike && m.Look == "":
			t.find("marks/"+string(m.ID)+"/look", message.F("The %s is no mark, and the sheet does not say what it looks like", m.Name), message.F("Whoever reads the page must be able to tell it from the mark."))
		}
	}
}

func equivalents(t *looking) {
	for i := range t.s.Locks {
		l := &t.s.Locks[i]
		tool := t.x.Tool(l.Tool)
		if tool == nil || !l.Kind.ForPosition() {
			continue
		}
		for _, v := range resolution.Teeth(t.x) {
			if !slices.Contains(l.Holds, v.Shaft) {
				continue
			}
			for _, e := range tool.Equivalents {
				if e.Play*2 > v.OfShaft {
					t.find("tools/"+string(tool.ID), message.F("%s in place of %s lets one tooth on the %s pass", e.Number, tool.Number, t.wheel(v.Wheel)), message.F("It has %s° either side; a tooth is %s°.", fixed(e.Play, 1), fixed(v.OfShaft, 1)))
				}
			}
		}
	}
}
