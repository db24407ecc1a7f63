package step_test

import (
	"slices"
	"testing"

	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// maker draws steps of one engine: every verb, every field.
type maker struct {
	t *rapid.T
	s *engine.Sheet
	x *engine.Index
}

func (m maker) bool(label string) bool { return rapid.Bool().Draw(m.t, label) }

func some[T any](m maker, label string, from []T, least, most int) []T {
	n := min(rapid.IntRange(least, most).Draw(m.t, label+" n"), len(from))
	if n == 0 {
		return nil
	}
	return rapid.Permutation(from).Draw(m.t, label)[:n]
}

func idsOf[T any, I ~string](items []T, id func(*T) I, keep func(*T) bool) []I {
	var out []I
	for i := range items {
		if keep == nil || keep(&items[i]) {
			out = append(out, id(&items[i]))
		}
	}
	return out
}

func first[T ~string](in []T) (T, []T) {
	if len(in) == 0 {
		return "", nil
	}
	if len(in) == 1 {
		return in[0], nil
	}
	return in[0], in[1:]
}

func (m maker) locks(keep func(*engine.Lock) bool) []engine.LockID {
	return idsOf(m.s.Locks, func(l *engine.Lock) engine.LockID { return l.ID }, keep)
}

func (m maker) parts() []engine.PartID {
	return idsOf(m.s.Parts, func(p *engine.Part) engine.PartID { return p.ID }, func(p *engine.Part) bool { return p.Kind != engine.LoopPart })
}

func (m maker) fasteners() []engine.FastenerID {
	return idsOf(m.s.Fasteners, func(f *engine.Fastener) engine.FastenerID { return f.ID }, nil)
}

func (m maker) loops() []engine.LoopID {
	return idsOf(m.s.Loops, func(l *engine.Loop) engine.LoopID { return l.ID }, nil)
}

func (m maker) wheels(keep func(*engine.Wheel) bool) []engine.WheelID {
	return idsOf(m.s.Wheels, func(w *engine.Wheel) engine.WheelID { return w.ID }, keep)
}

func (m maker) marks() []engine.MarkID {
	return idsOf(m.s.Marks, func(k *engine.Mark) engine.MarkID { return k.ID }, nil)
}

func (m maker) tensioners() []engine.TensionerID {
	return idsOf(m.s.Tensioners, func(v *engine.Tensioner) engine.TensionerID { return v.ID }, nil)
}

func (m maker) hold() engine.LockID {
	if m.bool("hold?") {
		if l := some(m, "hold", m.locks(nil), 1, 1); len(l) > 0 {
			return l[0]
		}
	}
	return ""
}

func (m maker) turns() float64 {
	return rapid.SampledFrom([]float64{0.25, 0.5, 0.75, 1, 1.5, 2, 2.375, 6, 12}).Draw(m.t, "turns")
}

func (m maker) way() engine.Way {
	return rapid.SampledFrom([]engine.Way{"", engine.Clockwise, engine.Counterclockwise}).Draw(m.t, "way")
}

// value draws a quantity of one unit: plain, with a tolerance of any shape, or a
// range.
func (m maker) value(units ...unit.Unit) unit.Quantity {
	u := rapid.SampledFrom(units).Draw(m.t, "unit")
	v := float64(rapid.IntRange(20, 99999).Draw(m.t, "value")) / rapid.SampledFrom([]float64{1, 10, 100, 1000}).Draw(m.t, "scale")
	q := unit.Of(v, u)
	switch rapid.IntRange(0, 5).Draw(m.t, "shape") {
	case 1:
		q.Tol, q.TolUnit = unit.Round(v/10), u
	case 2:
		q.Tol, q.Less, q.Uneven, q.TolUnit = unit.Round(v/10), unit.Round(v/20), true, u
	case 3:
		q.Range, q.High = true, v+1
	case 4:
		q.Tol, q.TolUnit = 10, unit.Percent
	}
	return q
}

func (m maker) torque() unit.Quantity {
	q := m.value(unit.NewtonMetre, unit.PoundForceFoot, unit.PoundForceInch, unit.KilogramForceMetr, unit.NewtonCentimetre)
	if m.bool("second figure?") {
		u := unit.PoundForceFoot
		if q.Unit == u {
			u = unit.NewtonMetre
		}
		q.Also, q.AlsoUnit = 33.33, u
	}
	return q
}

func (m maker) text(label string) string {
	return rapid.SampledFrom([]string{"the engine is cold", "play, rough running", "leaks", "pointer in notch", "listen", "oil drips from nowhere"}).Draw(m.t, label)
}

func (m maker) stages() []engine.Stage {
	var out []engine.Stage
	for range rapid.IntRange(0, 3).Draw(m.t, "stages") {
		if m.bool("angle?") {
			out = append(out, engine.Stage{Angle: m.value(unit.Degree)})
		} else {
			out = append(out, engine.Stage{Torque: m.torque()})
		}
	}
	return out
}

// action draws a step that says something; nil where this engine has nothing to
// say it of.
func (m maker) action() step.Action {
	switch v := rapid.SampledFrom(step.Specs).Draw(m.t, "verb").Verb; v {
	case "remove":
		return &step.Remove{Parts: some(m, "parts", m.parts(), 1, 3)}
	case "refit":
		return &step.Refit{Parts: some(m, "parts", m.parts(), 1, 3), New: m.bool("new"), NewSeal: m.bool("new seal")}
	case "renew":
		all := idsOf(m.s.Parts, func(p *engine.Part) engine.PartID { return p.ID }, nil)
		return &step.Renew{Parts: some(m, "parts", all, 1, 3), Fasteners: some(m, "fasteners", m.fasteners(), 0, 2)}
	case "turn":
		a := &step.Turn{Way: m.way(), Short: m.bool("short")}
		switch rapid.IntRange(0, 5).Draw(m.t, "how far") {
		case 5:
			if len(m.s.Readings) == 0 {
				a.Turns = m.turns()
				break
			}
			a.Until, a.Short = "lift", false
			if m.bool("reads?") {
				a.Reads = m.value(unit.Millimetre)
			}
		case 0:
			a.Turns = m.turns()
		case 1:
			a.Degrees = m.value(unit.Degree)
		case 2:
			a.To = rapid.SampledFrom(m.marks()).Draw(m.t, "to")
			for _, id := range some(m, "also", m.marks(), 0, 2) {
				if id != a.To {
					a.Also = append(a.Also, id)
				}
			}
		case 3:
			a.Turns = m.turns()
			a.To = rapid.SampledFrom(m.marks()).Draw(m.t, "to")
		case 4:
			a.Turns = m.turns()
			if l := some(m, "onto", m.locks(func(l *engine.Lock) bool { return l.Kind == engine.StopLock }), 1, 1); len(l) > 0 {
				a.Onto = l[0]
			}
		}
		if m.bool("on?") {
			a.On = rapid.SampledFrom(m.fasteners()).Draw(m.t, "on")
		}
		return a
	case "lock":
		a := &step.Lock{}
		a.Lock, a.Also = first(some(m, "locks", m.locks(nil), 1, 3))
		return a
	case "unlock":
		return &step.Unlock{Locks: some(m, "locks", m.locks(nil), 1, 3)}
	case "slacken":
		a := &step.Slacken{Fasteners: some(m, "fasteners", m.fasteners(), 1, 3), Hold: m.hold()}
		if m.bool("turns?") {
			a.Turns = m.turns()
		}
		return a
	case "tighten":
		a := &step.Tighten{
			Fasteners: some(m, "fasteners", m.fasteners(), 1, 3), Stages: m.stages(), Hold: m.hold(),
			To:      rapid.SampledFrom([]step.Reach{step.ToFinal, step.ToFinger, step.ToSnug, step.ToPart}).Draw(m.t, "reach"),
			Pattern: rapid.SampledFrom([]string{"", "alternating", "crosswise", "from the middle out"}).Draw(m.t, "pattern"),
		}
		if a.To == step.ToFinger {
			a.Stages = nil // by hand there is no value
		}
		return a
	case "take-off":
		a := &step.TakeOff{}
		a.Loop, a.Also = first(some(m, "loops", m.loops(), 1, 2))
		return a
	case "fit":
		a := &step.Fit{Loop: rapid.SampledFrom(m.loops()).Draw(m.t, "loop"), New: m.bool("new"), Order: some(m, "order", m.wheels(nil), 0, 6)}
		if m.bool("slack?") {
			a.Slack = rapid.SampledFrom(m.wheels(nil)).Draw(m.t, "slack")
		}
		return a
	case "pin":
		a := &step.Pin{}
		a.Tensioner, a.Also = first(some(m, "tensioners", m.tensioners(), 1, 2))
		return a
	case "release":
		a := &step.Release{}
		a.Tensioner, a.Also = first(some(m, "tensioners", m.tensioners(), 1, 2))
		return a
	case "set":
		a := &step.Set{Way: m.way()}
		phasers := m.wheels(func(w *engine.Wheel) bool { return w.Mount == engine.Phaser })
		if len(phasers) > 0 && m.bool("phaser?") {
			a.Phaser = phasers[0]
		} else {
			a.Tensioner, a.Also = first(some(m, "tensioners", m.tensioners(), 1, 2))
		}
		if m.bool("to?") {
			a.To = rapid.SampledFrom([]string{"pointer in the notch", "the far edge", "with feeler gauge", "until the pointer is past the notch"}).Draw(m.t, "to")
		} else if m.bool("goal?") {
			goals := []step.SetGoal{step.GoalStop, step.GoalZero}
			if a.Phaser != "" {
				goals = []step.SetGoal{step.GoalStop, step.GoalRetarded, step.GoalAdvanced}
			}
			a.Goal = rapid.SampledFrom(goals).Draw(m.t, "goal")
		}
		if a.To == "" && a.Goal == "" || m.bool("at?") {
			a.At = m.value(unit.Celsius, unit.Hertz, unit.Millimetre)
		}
		return a
	case "settle":
		a := &step.Settle{Turns: m.turns()}
		if len(m.s.Loops) > 1 && m.bool("loop?") {
			a.Loop = m.s.Loops[0].ID
		}
		return a
	case "clean":
		if m.bool("bolts?") {
			return &step.Clean{Fasteners: some(m, "fasteners", m.fasteners(), 1, 2)}
		}
		return &step.Clean{Parts: some(m, "parts", m.parts(), 1, 2), Faces: m.bool("faces?")}
	case "free":
		return &step.Free{Wheels: some(m, "wheels", m.wheels(nil), 1, 2)}
	case "wait":
		a := &step.Wait{For: m.value(unit.Minute, unit.Second, unit.Hour)}
		if m.bool("until?") {
			a.Until = m.text("until")
		}
		return a
	case "measure":
		a := &step.Measure{What: rapid.SampledFrom([]string{"frequency of left run", "coolant temperature", "length of the plunger", "gap"}).Draw(m.t, "what")}
		a.Value = m.value(unit.Hertz, unit.Millimetre, unit.Celsius)
		a.Readings = rapid.SampledFrom([]int{0, 2, 5}).Draw(m.t, "readings")
		if len(m.s.Readings) > 0 && m.bool("of the sheet?") {
			a.What, a.Reading = "", rapid.SampledFrom([]engine.ReadingID{"end-play", "lift"}).Draw(m.t, "reading")
		}
		return a
	case "check":
		return m.check()
	case "apply":
		a := &step.Apply{What: rapid.SampledFrom([]step.Stuff{step.Sealant, step.Oil, step.Grease, step.ThreadLock}).Draw(m.t, "stuff")}
		if m.bool("part?") {
			a.Part = rapid.SampledFrom(m.parts()).Draw(m.t, "part")
		} else {
			a.Fastener = rapid.SampledFrom(m.fasteners()).Draw(m.t, "fastener")
		}
		if m.bool("open?") {
			a.Open = m.value(unit.Minute)
		}
		return a
	case "inspect":
		a := &step.Inspect{Parts: some(m, "parts", m.parts(), 1, 2), For: m.text("for")}
		if m.bool("then?") {
			a.Then = "renew if found so"
		}
		return a
	case "paint":
		if m.bool("copy?") {
			return &step.Paint{Copy: true, Loop: rapid.SampledFrom(m.loops()).Draw(m.t, "loop")}
		}
		a := &step.Paint{Wheels: some(m, "wheels", m.wheels(nil), 1, 3)}
		if m.bool("loop?") {
			a.Loop = rapid.SampledFrom(m.loops()).Draw(m.t, "loop")
		}
		return a
	case "swing":
		a := &step.Swing{By: m.value(unit.Degree)}
		if m.bool("shaft?") {
			a.Shaft = rapid.SampledFrom(m.s.Shafts).Draw(m.t, "shaft").ID
		}
		if a.Shaft == engine.CrankID {
			a.Shaft = ""
		}
		return a
	case "drain", "fill":
		all := idsOf(m.s.Fluids, func(f *engine.Fluid) engine.FluidID { return f.ID }, nil)
		if len(all) == 0 {
			return nil
		}
		if v == "drain" {
			return &step.Drain{Fluids: some(m, "fluids", all, 1, 2)}
		}
		a := &step.Fill{Fluid: rapid.SampledFrom(all).Draw(m.t, "fluid")}
		if m.bool("amount?") {
			a.Amount = m.value(unit.Litre, unit.Millilitre)
		}
		return a
	case "reset":
		return &step.Reset{Part: rapid.SampledFrom(m.parts()).Draw(m.t, "part")}
	case "start":
		a := &step.Start{}
		if m.bool("for?") {
			a.For = m.value(unit.Second)
		}
		if m.bool("then?") {
			a.Then = m.text("then")
		}
		return a
	case "do":
		return &step.Do{Text: rapid.SampledFrom([]string{"Do not turn the crank", "Never pull on the lead", "Do not let the belt touch oil"}).Draw(m.t, "text")}
	default:
		m.t.Fatalf("the generator does not know the verb %s", v)
		return nil
	}
}

func (m maker) check() *step.Check {
	a := &step.Check{}
	switch rapid.IntRange(0, 6).Draw(m.t, "what") {
	case 0:
		a.Marks = some(m, "marks", m.marks(), 1, 3)
		a.Found = rapid.SampledFrom([]step.Found{"", step.FoundOut, step.FoundHidden}).Draw(m.t, "found")
	case 1:
		a.Locks = some(m, "locks", m.locks(nil), 1, 3)
		a.Found = rapid.SampledFrom([]step.Found{"", step.FoundIn, step.FoundOut}).Draw(m.t, "found")
	case 2:
		a.Parts = some(m, "parts", m.parts(), 1, 3)
		a.Found = rapid.SampledFrom([]step.Found{step.FoundIn, step.FoundOut}).Draw(m.t, "found")
	case 3:
		a.Loops = some(m, "loops", m.loops(), 1, 2)
		a.Found = rapid.SampledFrom([]step.Found{step.FoundIn, step.FoundOut}).Draw(m.t, "found")
	case 4:
		a.Tensioner = rapid.SampledFrom(m.tensioners()).Draw(m.t, "tensioner")
		a.Tools = m.bool("tools")
	case 5:
		a.Marks, a.Locks = some(m, "marks", m.marks(), 1, 2), some(m, "locks", m.locks(nil), 1, 2)
	case 6:
		a.That = rapid.SampledFrom([]string{"the engine is cold", "no warning lamp stays on", "oil drips from nowhere"}).Draw(m.t, "that")
	}
	if len(a.Marks)+len(a.Locks)+len(a.Parts)+len(a.Loops) == 0 {
		a.Found = "" // an engine without locks has nothing to be found
	}
	return a
}

// furnished are the demo's files with an engine that has something for every verb.
func furnished() []string {
	return slices.DeleteFunc(fixture.Documents(), func(f string) bool {
		s := fixture.Document(f).Engine
		return len(s.Loops)*len(s.Marks)*len(s.Tensioners)*len(s.Locks) == 0
	})
}

// Every step that can be made, of every verb on every demo engine, is read back
// the same from its sentence and from its quick line.
func TestEveryStepReadsBack(t *testing.T) {
	var xs []*engine.Index
	var lexs []*quickline.Lexicon
	for _, f := range furnished() {
		d := fixture.Document(f)
		d.Engine.Readings = []engine.Reading{{ID: "end-play", Name: "end play of the camshaft"}, {ID: "lift", Name: "plunger lift", Shaft: d.Engine.Shafts[1].ID}}
		xs = append(xs, engine.NewIndex(&d.Engine))
		lexs = append(lexs, quickline.NewLexicon(xs[len(xs)-1]))
	}
	rapid.Check(t, func(t *rapid.T) {
		i := rapid.IntRange(0, len(xs)-1).Draw(t, "engine")
		m := maker{t, xs[i].Sheet, xs[i]}
		a := m.action()
		if a == nil {
			t.Skip("this engine has none")
		}
		if len(step.Refs(a)) == 0 && slices.Contains([]step.Verb{"lock", "unlock", "pin", "release", "set"}, a.Verb()) {
			t.Skip("this engine has none")
		}
		if lacks := en.English.Lacks(a.Clause(xs[i])); len(lacks) > 0 {
			t.Fatalf("English has no words for %v", lacks)
		}
		for _, line := range []string{en.Sentence(xs[i], a), en.Typed(xs[i], a)} {
			r := quickline.Read(lexs[i], line)
			if !r.Read() {
				t.Fatalf("%s: %q is not read: %s", xs[i].Sheet.Code, line, r.Problem)
			}
			if !step.SameAction(r.Action, a) {
				t.Fatalf("%s: %q\nis read as %q\n%+v\nwant %+v", xs[i].Sheet.Code, line, en.Sentence(xs[i], r.Action), r.Action, a)
			}
		}
	})
}

// Two steps said in one line are no step; where the line is taken apart, it is
// into those two.
func TestTwoStepsInOneLineComeApart(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	apart := 0
	rapid.Check(t, func(t *rapid.T) {
		m := maker{t, x.Sheet, x}
		a, b := m.action(), m.action()
		if a == nil || b == nil {
			t.Skip("nothing to name")
		}
		if len(step.Refs(a)) == 0 || len(step.Refs(b)) == 0 || a.Verb() == "do" || b.Verb() == "do" {
			t.Skip("nothing named")
		}
		line := en.Typed(x, a) + rapid.SampledFrom([]string{", then ", " and ", "; ", ". ", ", "}).Draw(t, "between") + en.Typed(x, b)
		r := quickline.Read(lex, line)
		if r.Read() {
			t.Fatalf("%q is read as one: %s", line, en.Sentence(x, r.Action))
		}
		if len(r.Parts) != 2 {
			return
		}
		apart++
		for i, want := range []step.Action{a, b} {
			if got := quickline.Read(lex, r.Parts[i]); !got.Read() || !step.SameAction(got.Action, want) {
				t.Fatalf("%q comes apart into %q, which is %q and not %q", line, r.Parts[i], en.Sentence(x, got.Action), en.Sentence(x, want))
			}
		}
	})
	if apart == 0 {
		t.Fatal("no line came apart")
	}
}

// What a verb says it does is what its steps do on the bench: one that does not turn
// leaves the crank, one that neither opens nor closes leaves parts, loops and fluids,
// one that does not hold leaves the locks, and one that looks changes nothing.
func TestVerbsDoWhatTheySay(t *testing.T) {
	for _, f := range furnished() {
		d := fixture.Document(f)
		x := engine.NewIndex(&d.Engine)
		whole := virtual.Run(x, &d.Procedure)
		rapid.Check(t, func(t *rapid.T) {
			m := maker{t, x.Sheet, x}
			a := m.action()
			if a == nil {
				t.Skip("this engine has none")
			}
			before := *whole.Before(rapid.IntRange(0, len(whole.Steps)).Draw(t, "at"))
			p := &procedure.Procedure{Steps: []step.Step{{ID: "a", Action: a}}}
			after := virtual.Resume(x, before).Do(p, 0).After
			does := step.SpecOf(a.Verb())
			into := false
			if v, ok := a.(*step.Turn); ok {
				into = v.Into != ""
			}
			off := func(s virtual.State) (out []bool) {
				for _, v := range s.Parts {
					out = append(out, v.Off)
				}
				for _, v := range s.Loops {
					out = append(out, v.On)
				}
				for _, v := range s.Fluids {
					out = append(out, v.Out)
				}
				return out
			}
			in := func(s virtual.State) (out []bool) {
				for _, v := range s.Locks {
					out = append(out, v.In)
				}
				return out
			}
			now := func(s virtual.State) (out []virtual.Tension) {
				for _, v := range s.Tensioners {
					out = append(out, v.Now)
				}
				return out
			}
			switch {
			case !does.Turns && after.Crank != before.Crank:
				t.Fatalf("%s turns the crank", a.Verb())
			case !does.Opens && !does.Closes && !slices.Equal(off(before), off(after)):
				t.Fatalf("%s opens or closes", a.Verb())
			case !does.Holds && !into && !slices.Equal(in(before), in(after)):
				t.Fatalf("%s holds or lets go", a.Verb())
			case !does.Bolts && !does.Tensions && !does.Closes && !does.Opens && !slices.Equal(now(before), now(after)):
				t.Fatalf("%s moves a tensioner", a.Verb())
			case !does.Bolts && !does.Opens && !does.Closes && !does.Holds && a.Verb() != "renew" && !slices.Equal(before.Fasteners, after.Fasteners):
				t.Fatalf("%s works at bolts", a.Verb())
			case does.Looks() && (does.Turns || does.Opens || does.Closes || does.Holds || does.Bolts || does.Tensions || does.Runs):
				t.Fatalf("%s looks and does something", a.Verb())
			}
		})
	}
}
