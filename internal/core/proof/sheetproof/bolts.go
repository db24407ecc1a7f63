package sheetproof

import (
	"encoding/json"
	"slices"
	"strings"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
)

// boltRules hold what the sheet says of a fastener against what it is made of.
var boltRules = finding.Family[*looking]{
	{ID: "no-thread", Family: "fasteners and parts", Severity: finding.Look, Check: noThread,
		Doc: "a thread or a property class that there is not"},
	{ID: "torque-breaks", Family: "fasteners and parts", Severity: finding.Blocks, Check: torqueBreaks,
		Doc: "a torque at which the bolt breaks before the wrench clicks"},
	{ID: "torque-odd", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: torqueOdd,
		Doc: "a torque a bolt like this yields under, or that hardly holds anything: a slip of the unit or of the decimal mark"},
	{ID: "stages-fall", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: stagesFall,
		Doc: "a stage below the one before it, at which the wrench clicks at once"},
	{ID: "strips", Family: "fasteners and parts", Severity: finding.Blocks, Check: strips,
		Doc: "a torque at which the thread is torn out of the part before the wrench clicks"},
	{ID: "drawn-out", Family: "fasteners and parts", Severity: finding.Blocks, Check: drawnOut,
		Doc: "an angle that draws the bolt out further than it goes"},
	{ID: "used-again", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: usedAgain,
		Doc: "a bolt taken past yield that the sheet lets be used again"},
	{ID: "condition-unsaid", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: conditionUnsaid,
		Doc: "a bolt turned on through an angle, dry or oiled as it may be: its clamp load rests on it"},
	{ID: "grip-figures", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: gripFigures,
		Doc: "lengths of a bolt that do not fit together"},
	{ID: "pattern-unsaid", Family: "fasteners and parts", Severity: finding.Look, Check: patternUnsaid,
		Doc: "four bolts or more of one joint, tightened in any order: the part is bent or leaks"},
	{ID: "pattern-places", Family: "fasteners and parts", Severity: finding.ShouldFix, Check: patternPlaces,
		Doc: "bolts numbered in another order than the sheet’s words have it"},
	{ID: "no-wrench", Family: "fasteners and parts", Severity: finding.Look, Check: noWrench,
		Doc: "a torque that no wrench of the sheet reaches, with an adapter or a multiplier or without"},
	{ID: "tolerance-odd", Family: "fasteners and parts", Severity: finding.Look, Check: toleranceOdd,
		Doc: "a tolerance that no wrench keeps, or one so wide that it says nothing"},
}

func noThread(t *looking) {
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		on := "fasteners/" + string(f.ID)
		if f.Thread == "" || bolt.Pipe(f.Thread) {
			continue
		}
		th, err := bolt.Parse(f.Thread)
		if err != nil {
			no := err.(*bolt.NoThread) // its only error
			why := message.F("What the torque does to it cannot be worked out.")
			if no.Nearest == "" {
				t.find(on+"/thread", message.F("“%s” of the %s is not read as a thread", f.Thread, f.Words()), why)
				continue
			}
			t.find(on+"/thread", message.F("“%s” of the %s is no thread; the nearest is %s", f.Thread, f.Words(), no.Nearest), why, set(message.F("Make it %s", no.Nearest), on+"/thread", no.Nearest))
			continue
		}
		if _, ok := bolt.ClassOf(f.Class, th); f.Class != "" && !ok {
			t.find(on+"/class", message.F("“%s” of the %s is no property class", f.Class, f.Words()), message.F("Those of ISO 898-1 are 4.6 to 12.9, of stainless steel A2 and A4 in 50, 70 and 80."))
		}
	}
}

// judged is one stage of a fastener with what its torque is for the bolt. on is where it
// stands: with the fastener, or with the cases of it.
type judged struct {
	f       *engine.Fastener
	spec    []engine.Stage
	on      string
	bolt    bolt.Bolt
	stage   int
	verdict bolt.Verdict
}

// specs calls f for what every fastener is tightened to, on every engine and on some.
func (t *looking) specs(f func(v *engine.Fastener, spec []engine.Stage, on string)) {
	for i := range t.s.Fasteners {
		f(&t.s.Fasteners[i], t.s.Fasteners[i].Spec, "fasteners/"+string(t.s.Fasteners[i].ID)+"/spec")
	}
	for i := range t.s.Varies {
		v := &t.s.Varies[i]
		ref := v.Thing()
		of := t.x.Fastener(engine.FastenerID(ref.ID))
		if ref.Kind != engine.KindFastener || of == nil {
			continue
		}
		for k := range v.Cases {
			var spec []engine.Stage
			if raw := v.Cases[k].Set["spec"]; raw != nil && json.Unmarshal(raw, &spec) == nil {
				f(of, spec, "varies/"+v.ID)
			}
		}
	}
}

// judge calls f for every torque of the sheet that something speaks against. A bolt whose
// class nobody says is judged as the strongest there is, and is never called slack; nor is a
// plug, which only seals.
func (t *looking) judge(f func(j judged)) {
	t.specs(func(v *engine.Fastener, spec []engine.Stage, on string) {
		b, known := v.Bolt()
		if b == nil {
			return
		}
		plug := t.x.IsPlug(v.ID)
		for k := range spec {
			low, high, ok := bolt.Ends(spec[k].Torque)
			if !ok {
				continue
			}
			last := k == len(spec)-1
			switch verdict := b.Judge(low, high, !last); {
			case verdict == bolt.Fine, plug && verdict != bolt.BreaksIt, verdict == bolt.SlackIt && !(known && last):
			default:
				f(judged{v, spec, on, *b, k, verdict})
			}
		}
	})
}

// meant are the mends of a torque by what may have been meant.
func (j *judged) meant() (out []Mend) {
	if !strings.HasPrefix(j.on, "fasteners/") {
		return nil // cases are written as lines
	}
	for _, q := range j.bolt.Slips(j.spec[j.stage].Torque) {
		spec := slices.Clone(j.spec)
		spec[j.stage].Torque = q
		out = append(out, set(message.F("Make it %s", q), j.on, spec))
	}
	return out
}

// made is the bolt in words: M6, 8.8; the strongest where the class is not said.
func (j *judged) made() message.Text {
	if _, known := j.f.Bolt(); !known {
		return message.F("%s of the strongest class there is", j.bolt.Thread)
	}
	return message.F("%s of class %s", j.bolt.Thread, j.bolt.Class.Name)
}

func torqueBreaks(t *looking) {
	t.judge(func(j judged) {
		if j.verdict == bolt.BreaksIt {
			t.find(j.on, message.F("The %s breaks at %s", j.f.Words(), j.spec[j.stage].Torque), message.F("%s breaks at %s at the latest, whatever is on the thread.", j.made(), j.bolt.Breaks().High.Said()), j.meant()...)
		}
	})
}

func torqueOdd(t *looking) {
	t.judge(func(j judged) {
		on, q := j.on, j.spec[j.stage].Torque
		switch j.verdict {
		case bolt.YieldsIt:
			t.find(on, message.F("The %s yields at %s, and no angle follows", j.f.Words(), q), message.F("%s yields at %s at the latest, whatever is on the thread.", j.made(), j.bolt.Yields().High.Said()), j.meant()...)
		case bolt.SlackIt:
			t.find(on, message.F("%s hardly holds the %s", q, j.f.Words()), message.F("%s yields from %s on; this is less than a fifth of that.", j.made(), j.bolt.Yields().Low.Said()), j.meant()...)
		}
	})
}

func stagesFall(t *looking) {
	t.specs(func(f *engine.Fastener, spec []engine.Stage, on string) {
		before := 0.0
		if n := len(spec); n > 0 && spec[n-1].Slacken {
			t.find(on, message.F("The %s end slackened", f.Words()), message.F("The last stage turns them back, and nothing tightens them after it."))
			return
		}
		for k := range spec {
			if spec[k].Slacken {
				before = 0
			}
			m, ok := spec[k].Torque.Torque()
			if !ok {
				continue
			}
			if float64(m) < before-1e-9 {
				t.find(on, message.F("The %s goes to %s after it was tighter", f.Words(), spec[k].Torque), message.F("The wrench clicks at once. Where it is slackened between, say so: 60 N·m + slacken + 40 N·m."))
				return
			}
			before = float64(m)
		}
	})
}

// course calls f for every fastener’s course through its stages, on every engine and on some,
// where it is a bolt that is known.
func (t *looking) course(f func(v *engine.Fastener, on string, b *bolt.Bolt, c *bolt.Course)) {
	t.specs(func(v *engine.Fastener, spec []engine.Stage, on string) {
		b, known := v.Bolt()
		steps, ok := engine.WrenchSteps(spec)
		if b == nil || !known || !ok {
			return
		}
		if c, ok := b.Through(v.Joint(), steps); ok {
			f(v, on, b, c)
		}
	})
}

func strips(t *looking) {
	t.course(func(v *engine.Fastener, on string, b *bolt.Bolt, c *bolt.Course) {
		tapped, _, ok := b.Strips(v.Joint())
		if !ok || c.Final.Low <= tapped.High {
			return
		}
		t.find(on, message.F("The thread of the %s is torn out of the %s", v.Words(), string(v.Into)), message.F("%s mm of thread hold %s kN at the most; the bolt pulls with %s kN at the least.", unit.Number(v.Engaged), kilonewtons(tapped.High), kilonewtons(c.Final.Low)))
	})
}

// kilonewtons is a force as a figure, kN.
func kilonewtons(f unit.Force) string { return unit.Number(unit.Round(float64(f) / 1000)) }

func drawnOut(t *looking) {
	t.course(func(v *engine.Fastener, on string, _ *bolt.Bolt, c *bolt.Course) {
		if c.Reuse == bolt.WillBreak {
			t.find(on, message.F("The %s breaks before its angle is reached", v.Name), message.F("It would have to be drawn out by %s mm at the least; it necks sooner.", unit.Number(unit.Round(float64(c.Set.Low)))))
		}
	})
}

func usedAgain(t *looking) {
	t.course(func(v *engine.Fastener, on string, b *bolt.Bolt, c *bolt.Course) {
		if c.Reuse != bolt.HasYielded || v.SingleUse || !v.Stretches() {
			return
		}
		at := "fasteners/" + string(v.ID) + "/singleUse"
		t.find(at, message.F("The %s is past yield when it is tight, and is used again", v.Name), message.F("Tightened it stays %s mm longer at the least, at any friction.", unit.Number(unit.Round(float64(c.Set.Low)))), set(message.F("It is used once"), at, true))
	})
}

func conditionUnsaid(t *looking) {
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		if f.Lubricant == "" && f.Stretches() {
			on := "fasteners/" + string(f.ID) + "/lubricant"
			t.find(on, message.F("Whether the %s goes in dry or oiled is not said, and an angle follows its torque", f.Name), message.F("The torque before the angle gives between one and three times the clamp load."), set(message.F("Oiled"), on, "oiled"), set(message.F("Dry"), on, "dry"))
		}
	}
}

func gripFigures(t *looking) {
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		on := "fasteners/" + string(f.ID)
		b, _ := f.Bolt()
		switch {
		case f.Grip > 0 && f.Plain > f.Grip:
			t.find(on+"/plain", message.F("The shank of the %s is longer than what it clamps", f.Words()), message.F("Of the %s mm that are clamped, %s mm cannot be shank.", unit.Number(f.Grip), unit.Number(f.Plain)))
		case b != nil && f.Engaged > 0 && f.Engaged < b.Thread.P*1.5:
			t.find(on+"/engaged", message.F("The %s has hardly a turn of thread in its part", f.Name), message.F("%s mm are less than a turn and a half of %s.", unit.Number(f.Engaged), b.Thread.String()))
		case b != nil && f.Engaged > 5*b.Thread.D:
			t.find(on+"/engaged", message.F("The %s has %s mm of thread in its part", f.Name, unit.Number(f.Engaged)), message.F("More than five times its diameter: the whole length of the bolt?"))
		}
	}
}

// patternFrom is the number of bolts from which an order is looked for.
const patternFrom = 4

func patternUnsaid(t *looking) {
	var edits []engine.Edit
	var names []string
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		if f.Count >= patternFrom && f.Pattern == "" && len(f.Places) == 0 && len(f.Spec) > 0 {
			edits, names = append(edits, edit("fasteners/"+string(f.ID)+"/pattern", "crosswise")), append(names, f.Words())
		}
	}
	why := message.F("Tightened one beside the other, the first are slack when the last are tight.")
	switch len(edits) {
	case 0:
	case 1:
		t.find(edits[0].Path, message.F("The order of the %s is not said", names[0]), why, finding.MendOf(message.F("Crosswise"), edits))
	default:
		t.find(edits[0].Path, message.F("The order of bolts is not said for %d sets of four and more", len(edits)), message.F("They are: %s. Tightened one beside the other, the first are slack when the last are tight.", strings.Join(names, ", ")), finding.MendOf(message.F("All of them crosswise"), edits))
	}
}

func patternPlaces(t *looking) {
	for i := range t.s.Fasteners {
		f := &t.s.Fasteners[i]
		p := bolt.Pattern(f.Pattern)
		if len(f.Places) != f.Count || p.Kept(engine.Spots(f.Places)) {
			continue
		}
		on := "fasteners/" + string(f.ID) + "/places"
		t.find(on, message.F("The %s are not numbered %s", f.Words(), f.Pattern), message.F("The figure would show another order than the sentence says."), set(message.F("Number them %s", f.Pattern), on, engine.Numbered(f.Places, p)))
	}
}

// noWrench lists the fasteners that no torque wrench of the sheet can take to their torque;
// nothing where the sheet names none.
func noWrench(t *looking) {
	if !slices.ContainsFunc(t.s.Tools, func(v engine.Tool) bool { return v.IsWrench() }) {
		return
	}
	var names []string
	on := ""
	t.specs(func(v *engine.Fastener, spec []engine.Stage, at string) {
		all := engine.Arrangements(t.s.Tools, spec)
		if len(all) == 0 || all[0].Why == nil || slices.Contains(names, v.Words()) {
			return // those that do come first
		}
		if on == "" {
			on = at
		}
		names = append(names, v.Words())
	})
	if on != "" {
		t.find(on, message.F("No torque wrench of the sheet reaches: %s", strings.Join(names, ", ")), message.F("The sheet names torque wrenches, and their ranges lie elsewhere."))
	}
}

// Tolerances that are hardly meant: closer than a torque wrench keeps (4 %, ISO 6789-1;
// electronic ones reach 1 %; from memory), and wider than a third of the value, an assumption.
const (
	closest = 0.01
	widest  = 1.0 / 3
)

func toleranceOdd(t *looking) {
	t.specs(func(v *engine.Fastener, spec []engine.Stage, on string) {
		for k := range spec {
			low, high, ok := bolt.Ends(spec[k].Torque)
			if !ok || high <= low || spec[k].Torque.Range {
				continue
			}
			mid := float64(low+high) / 2
			switch half := float64(high-low) / 2; {
			case half < closest*mid:
				t.find(on, message.F("No torque wrench keeps the %s of the %s", spec[k].Torque, v.Words()), message.F("A click wrench is good for 4 %%, an electronic one for 1 %%."))
			case half > widest*mid:
				t.find(on, message.F("%s of the %s is hardly a value", spec[k].Torque, v.Words()), message.F("Its ends are further apart than two thirds of it: another unit in the tolerance?"))
			}
		}
	})
}
