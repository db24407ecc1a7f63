package desk

import (
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/tool"
	"inklatch/internal/core/unit"
)

// CourseAsk asks what the stages of a fastener do to it.
type CourseAsk struct {
	Fastener engine.Fastener `json:"fastener"`
	// Spec are stages as they are typed, in place of the fastener's own; empty for those.
	Spec string `json:"spec"`
	// Tools are what there is to tighten it with.
	Tools []engine.Tool `json:"tools"`
}

// CoursePoint is the clamp load, kN, at an angle after the first torque, degrees, or where no
// angle follows at a torque, N·m.
type CoursePoint struct {
	At   float64 `json:"at"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Otherwise is the same bolt when a stage goes wrong. Loads are kN.
type Otherwise struct {
	Says   string     `json:"says"`
	Seated Ends       `json:"seated"`
	Final  Ends       `json:"final"`
	Reuse  bolt.Reuse `json:"reuse"`
}

// OnWrench is a torque tool and whether it does all stages.
type OnWrench struct {
	Tool string `json:"tool"`
	Name string `json:"name"`
	// With is the adapter or multiplier between it and the bolt, empty for none.
	With string `json:"with"`
	// Shows are the stages as they are set on it; Share is how far up its scale the greatest
	// lies, percent.
	Shows string  `json:"shows"`
	Share float64 `json:"share"`
	// Why is why it does not, empty where it does.
	Why string `json:"why"`
}

// CourseAnswer is a fastener through its stages. Loads are kN, torques N·m, angles degrees,
// lengths mm.
type CourseAnswer struct {
	// Trouble is why nothing can be said, empty where something can; what is left then is
	// what stands beside it.
	Trouble string `json:"trouble"`
	Title   string `json:"title"`
	// Notes are what it rests on and what is missing.
	Notes     []string `json:"notes"`
	Spec      string   `json:"spec"`
	Thread    string   `json:"thread"`
	Class     string   `json:"class"`
	Friction  Ends     `json:"friction"`
	YieldLoad Ends     `json:"yieldLoad"`
	Proof     float64  `json:"proof"`
	// Torque is that of the first torque stage.
	Torque float64       `json:"torque"`
	Turned float64       `json:"turned"`
	Seated Ends          `json:"seated"`
	Final  Ends          `json:"final"`
	Points []CoursePoint `json:"points"`
	Set    Ends          `json:"set"`
	Drawn  Ends          `json:"drawn"`
	Used   Ends          `json:"used"`
	// Reuse is empty where the course is not known.
	Reuse     bolt.Reuse   `json:"reuse"`
	Verdict   bolt.Verdict `json:"verdict"`
	Meant     []string     `json:"meant"`
	Otherwise []Otherwise  `json:"otherwise"`
	Wrench    []OnWrench   `json:"wrench"`
	// Units are the torques in the other units, as they can be set.
	Units []string `json:"units"`
}

// CourseOf answers a CourseAsk.
func CourseOf(a CourseAsk) (*CourseAnswer, error) {
	f := a.Fastener
	spec := f.Spec
	if strings.TrimSpace(a.Spec) != "" {
		read, err := engine.ParseStages(a.Spec)
		if err != nil {
			return nil, bad("spec", fullStop(err.Error()))
		}
		spec = read
	}
	if len(spec) > mostStages {
		return nil, bad("spec", fmt.Sprintf("A bolt has %d stages at the most.", mostStages))
	}
	for field, v := range map[string]float64{"grip": f.Grip, "plain": f.Plain, "engaged": f.Engaged, "ring": f.Ring, "across": f.Across} {
		if !(v >= 0) || v > 10_000 {
			return nil, bad(field, "A length lies between 0 and 10 000 mm.")
		}
	}
	out := &CourseAnswer{Spec: engine.StagesText(spec), Notes: []string{}, Points: []CoursePoint{}, Meant: []string{}, Otherwise: []Otherwise{}, Wrench: wrenches(a.Tools, spec), Units: inUnits(spec)}
	b, known := f.Bolt()
	steps, ok := engine.WrenchSteps(spec)
	switch {
	case len(spec) == 0:
		out.Trouble = "It is tightened to nothing yet: type a torque, and an angle where one follows."
	case !ok:
		out.Trouble = "A stage is a torque or an angle; this is neither."
	case b == nil && strings.TrimSpace(f.Thread) == "":
		out.Trouble = "Its thread is not said. With thread and class the clamp load is worked out."
	case b == nil:
		out.Trouble = "“" + f.Thread + "” is not read as a thread, so nothing can be worked out of it."
	}
	if out.Trouble != "" {
		return out, nil
	}
	out.Thread, out.Class, out.Friction, out.YieldLoad, out.Proof = b.Thread.String(), b.Class.Name, endsOf(b.Friction), kilo(b.YieldLoad()), float64(b.ProofLoad())/1000
	out.judged(b, &f, spec, known)
	for _, s := range steps {
		if s.Torque.High > 0 {
			out.Torque = float64(s.Torque.Low+s.Torque.High) / 2
			break
		}
	}
	c, ok := b.Through(f.Joint(), steps)
	if !ok {
		// Up to the first angle it is known.
		until := slices.IndexFunc(steps, func(s bolt.Step) bool { return s.Angle.High > 0 })
		if c, ok = b.Through(f.Joint(), steps[:until]); ok && until > 0 {
			out.took(c)
			out.byTorque(b, f.Joint(), steps[:until])
		}
		out.Reuse = ""
		out.Title = "How far the angle takes it is not known"
		out.Notes = append(out.Notes, "The clamped length is missing: the load behind an angle rests on it.")
		out.rests(&f, known)
		return out, nil
	}
	out.took(c)
	out.byTorque(b, f.Joint(), steps)
	out.title(&f, steps)
	out.against(b, f.Joint(), spec, steps)
	out.joint(b, &f, c)
	out.rests(&f, known)
	if f.Lubricant == "" && out.Turned == 0 && out.Verdict == bolt.Fine {
		out.Reuse = "" // greased it may yield, dry it does not
	}
	return out, nil
}

// mostStages is how many stages are worked out.
const mostStages = 12

// took is a course as an answer.
func (o *CourseAnswer) took(c *bolt.Course) {
	o.Turned, o.Seated, o.Final, o.Reuse, o.Used = float64(c.Turned), kilo(c.Seated), kilo(c.Final), c.Reuse, endsOf(c.Used)
	o.Set, o.Drawn = endsOf(c.Set), endsOf(c.Drawn)
	for _, p := range c.Points {
		o.Points = append(o.Points, CoursePoint{float64(p.Angle), float64(p.Load.Low) / 1000, float64(p.Load.High) / 1000})
	}
}

// pointsOfTorque is how many points a torque is drawn with.
const pointsOfTorque = 32

// byTorque draws what no angle follows over its last torque.
func (o *CourseAnswer) byTorque(b *bolt.Bolt, j bolt.Joint, steps []bolt.Step) {
	if len(steps) == 0 || o.Turned > 0 {
		return
	}
	to := steps[len(steps)-1].Torque
	o.Torque, o.Points = float64(to.Low+to.High)/2, []CoursePoint{{}}
	for k := 1; k <= pointsOfTorque; k++ {
		part := unit.Torque(k) / pointsOfTorque
		if c, ok := b.Through(j, []bolt.Step{{Torque: bolt.Band[unit.Torque]{Low: to.Low * part, High: to.High * part}}}); ok {
			o.Points = append(o.Points, CoursePoint{o.Torque * float64(part), float64(c.Final.Low) / 1000, float64(c.Final.High) / 1000})
		}
	}
}

// judged holds every torque against the bolt and keeps the first that something speaks
// against, with what may have been meant.
func (o *CourseAnswer) judged(b *bolt.Bolt, f *engine.Fastener, spec []engine.Stage, known bool) {
	for k := range spec {
		low, high, ok := bolt.Ends(spec[k].Torque)
		if !ok {
			continue
		}
		v := b.Judge(low, high, k < len(spec)-1)
		if v == bolt.Fine || v == bolt.SlackIt && !known {
			continue
		}
		o.Verdict = v
		for _, q := range b.Slips(spec[k].Torque) {
			n := slices.Clone(spec)
			n[k].Torque = q
			o.Meant = append(o.Meant, engine.StagesText(n))
		}
		return
	}
}

// title says in a sentence what the stages come to.
func (o *CourseAnswer) title(f *engine.Fastener, steps []bolt.Step) {
	angle := steps[len(steps)-1].Angle.High > 0
	switch {
	case o.Verdict == bolt.BreaksIt:
		o.Title = "It breaks before the wrench clicks"
	case o.Reuse == bolt.WillBreak:
		o.Title = "The angle draws it out until it breaks"
	case o.Verdict == bolt.YieldsIt:
		o.Title = "It yields, and no angle follows"
	case o.Verdict == bolt.SlackIt:
		o.Title = "This hardly holds anything"
	case o.Reuse == bolt.HasYielded && f.SingleUse:
		o.Title = "The angle takes it past yield, and it is used once"
	case o.Reuse == bolt.HasYielded:
		o.Title = "The angle takes it past yield: it is never used again"
	case o.Reuse == bolt.MayHaveYielded && angle:
		o.Title = "The angle may take it past yield: measure its length, or renew it"
	case f.Lubricant == "":
		o.Title = "Whether it goes in dry or oiled is not said"
	case o.Reuse == bolt.MayHaveYielded:
		o.Title = "At the least friction it yields a little"
	case angle:
		o.Title = "It stays a spring through the angle"
	default:
		o.Title = "It stays a spring"
	}
}

// against is what happens when a stage goes wrong: an angle left out, gone through twice or
// taken for a torque, a figure in another unit.
func (o *CourseAnswer) against(b *bolt.Bolt, j bolt.Joint, spec []engine.Stage, steps []bolt.Step) {
	try := func(says string, wrong []bolt.Step) {
		if c, ok := b.Through(j, wrong); ok && len(wrong) > 0 {
			o.Otherwise = append(o.Otherwise, Otherwise{Says: says, Seated: kilo(c.Seated), Final: kilo(c.Final), Reuse: c.Reuse})
		}
	}
	last := len(steps) - 1
	if angle := steps[last].Angle; angle.High > 0 {
		try("the angle left out", steps[:last])
		try("the angle gone through twice", append(slices.Clone(steps), steps[last]))
		if q := spec[last].Angle; q.Value > 0 {
			asTorque := slices.Clone(steps)
			asTorque[last] = bolt.Step{Torque: bolt.Band[unit.Torque]{Low: unit.Torque(q.Value), High: unit.Torque(q.Value)}}
			try(fmt.Sprintf("%s N·m in place of %s", unit.Number(q.Value), q), asTorque)
		}
	} else if last > 0 {
		try("the last stage left out", steps[:last])
	}
	for k := range spec {
		q := spec[k].Torque
		if q.Kind() != unit.KindTorque {
			continue
		}
		for _, u := range []unit.Unit{unit.PoundForceFoot, unit.PoundForceInch, unit.NewtonMetre} {
			if u == q.Unit {
				continue
			}
			n := q.First()
			n.Unit = u
			if n.TolUnit == q.Unit {
				n.TolUnit = u
			}
			if low, high, ok := bolt.Ends(n); ok {
				wrong := slices.Clone(steps)
				wrong[k] = bolt.Step{Torque: bolt.Band[unit.Torque]{Low: low, High: high}}
				try(fmt.Sprintf("%s %s in place of %s", unit.Number(n.Value), u, q.Unit), wrong)
			}
		}
		return
	}
}

// joint is what the joint says: when its thread strips, and what it passes on.
func (o *CourseAnswer) joint(b *bolt.Bolt, f *engine.Fastener, c *bolt.Course) {
	tapped, _, known := b.Strips(f.Joint())
	at, strips := b.StripsAt(f.Joint())
	switch {
	case known && !strips:
		o.Notes = append(o.Notes, fmt.Sprintf("%s mm of thread in %s hold longer than the bolt.", unit.Number(f.Engaged), f.Into))
	case strips && c.Final.High > tapped.Low:
		o.Notes = append(o.Notes, fmt.Sprintf("Its thread in %s may be torn out: it holds %s to %s kN.", f.Into, kN(tapped.Low), kN(tapped.High)))
	case strips:
		o.Notes = append(o.Notes, fmt.Sprintf("Its thread in %s is torn out from %s to %s on, by friction and casting.", f.Into, at.Low.Said(), at.High.Said()))
	}
	if f.Ring > 0 {
		t := bolt.Carries(c.Final, unit.Length(f.Ring), 1)
		o.Notes = append(o.Notes, fmt.Sprintf("Each face that it presses passes on %s to %s before it slips.", t.Low.Said(), t.High.Said()))
	}
}

func kN(f unit.Force) string { return unit.Number(unit.Round(float64(f) / 1000)) }

// rests are the assumptions that the answer rests on.
func (o *CourseAnswer) rests(f *engine.Fastener, known bool) {
	condition := f.Lubricant
	if condition == "" {
		condition = "dry or oiled, not said"
	}
	s := fmt.Sprintf("Friction %s to %s in thread and under the head (%s)", unit.Number(o.Friction.Low), unit.Number(o.Friction.High), condition)
	if o.Turned > 0 {
		s += ", stiffness of the joint ±8 %"
		if f.Clamped == "" {
			s += ", clamped parts of any metal"
		}
	}
	if !known {
		s += "; its class is not said, so the strongest there is"
	}
	o.Notes = append(o.Notes, s+".")
}

// wrenches are the ways to tighten to some stages with the tools there are.
func wrenches(tools []engine.Tool, spec []engine.Stage) []OnWrench {
	out := []OnWrench{}
	for _, a := range engine.Arrangements(tools, spec) {
		w := OnWrench{Share: a.Share * 100}
		if a.Wrench != nil {
			w.Tool, w.Name = a.Wrench.Number, a.Wrench.Name
		}
		for _, t := range []*engine.Tool{a.Adapter, a.Multiplier} {
			if t != nil {
				w.With = strings.TrimSpace(t.Number + " " + t.Name)
			}
		}
		var sets []string
		for _, q := range a.Sets {
			sets = append(sets, q.String())
		}
		w.Shows = strings.Join(sets, ", then ")
		if a.Why != nil {
			w.Why = a.Why.Error()
		}
		out = append(out, w)
	}
	return out
}

// inUnits are the torques of stages in the other units, as they can be set on a wrench and
// within their tolerance.
func inUnits(spec []engine.Stage) []string {
	out := []string{}
	for k := range spec {
		q := spec[k].Torque
		low, high, ok := bolt.Ends(q)
		if !ok || low <= 0 {
			continue
		}
		mid := (low + high) / 2
		var same []string
		for _, u := range []unit.Unit{unit.NewtonMetre, unit.PoundForceFoot, unit.PoundForceInch} {
			if u == q.Unit || u == unit.PoundForceInch && mid > 20 || u == unit.PoundForceFoot && mid < 12 {
				continue
			}
			same = append(same, tool.SetIn(low, high, u).String())
		}
		out = append(out, q.First().String()+" = "+strings.Join(same, " = "))
	}
	return out
}
