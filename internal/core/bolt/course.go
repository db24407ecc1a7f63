package bolt

import (
	"math"
	"strings"

	"inklatch/internal/core/unit"
)

// Joint is what a bolt clamps and is screwed into.
type Joint struct {
	// Grip is the length that is clamped under the head, 0 where nobody says; Plain how much
	// of it is shank without thread.
	Grip, Plain unit.Length
	// Engaged is the length of thread in the tapped part, 0 where nobody says.
	Engaged unit.Length
	// Clamped and Into are what the clamped and the tapped part are made of.
	Clamped, Into Material
}

// steelBolt is Young's modulus of a steel bolt, N/mm² (VDI 2230 part 1; from memory).
const steelBolt = 205 * gigapascal

// resilience is how much a bolt is drawn out by a load, mm/N: head, shank, free thread and
// the thread in the part, each a bar (the form of VDI 2230 part 1, section 5.1; from
// memory). The head counts half its diameter, the thread within the part half of it at the
// core and a third of it in the part.
func (b Bolt) resilience(j Joint) float64 {
	d := b.Thread.D
	core := math.Pi / 4 * math.Pow(float64(b.Thread.Minor()), 2)
	whole := math.Pi / 4 * d * d
	plain := math.Min(float64(j.Plain), float64(j.Grip))
	into := float64(j.Into.Elastic().High)
	return 0.5*d/(steelBolt*whole) + plain/(steelBolt*whole) + (float64(j.Grip)-plain)/(steelBolt*core) + 0.5*d/(steelBolt*core) + 0.33*d/(into*whole)
}

// stiffness is that of the clamped parts, N/mm, at a modulus: two frusta of 30° under a head
// of 1.5 d (the closed form of machine-design textbooks, k = 0.5774·π·E·d / 2 ln(5·(0.5774·l +
// 0.5·d)/(0.5774·l + 2.5·d)); from memory).
func (b Bolt) stiffness(j Joint, e unit.Stress) float64 {
	d, l := b.Thread.D, float64(j.Grip)
	return 0.5774 * math.Pi * float64(e) * d / (2 * math.Log(5*(0.5774*l+0.5*d)/(0.5774*l+2.5*d)))
}

// scatter is how far the stiffness of a joint may lie off its figure, a share: an assumption.
const scatter = 0.08

// spring is the load that a joint takes up for each degree the bolt is turned on, N/°, from
// the softest to the stiffest.
func (b Bolt) spring(j Joint) Band[float64] {
	at := func(e unit.Stress) float64 {
		return b.Thread.P / 360 / (b.resilience(j) + 1/b.stiffness(j, e))
	}
	e := j.Clamped.Elastic()
	return Band[float64]{at(e.Low) * (1 - scatter), at(e.High) * (1 + scatter)}
}

// uniform is how far a bolt of a class is drawn out evenly before it necks, a share of what
// yields: about half of what its class asks for at the break. An assumption.
func (c Class) uniform() float64 {
	switch {
	case c.Tensile >= 1200:
		return 0.03
	case c.Tensile >= 1000:
		return 0.04
	case strings.HasPrefix(c.Name, "A"): // stainless
		return 0.12
	}
	return 0.06
}

// Step is one movement of the wrench: to a torque, or on through an angle. An angle of zero
// is a torque. Back turns it back: by the angle, or until the bolt is loose.
type Step struct {
	Torque Band[unit.Torque]
	Angle  Band[unit.Angle]
	Back   bool
}

// Point is the clamp load at an angle after the first torque, N.
type Point struct {
	Angle unit.Angle
	Load  Band[unit.Force]
}

// Reuse is what becomes of a bolt that is taken off again.
type Reuse string

// The ends a bolt comes to; the empty one where that is not known.
const (
	NotKnown Reuse = ""
	// MayReuse: it stays a spring.
	MayReuse Reuse = "springs back"
	// MayHaveYielded: it yields at some friction and not at another.
	MayHaveYielded Reuse = "may be past yield"
	// HasYielded: it is past yield at any friction.
	HasYielded Reuse = "past yield"
	// WillBreak: it is drawn out further than it goes.
	WillBreak Reuse = "breaks"
)

// Choices are the ends.
func (Reuse) Choices() []string {
	return []string{string(NotKnown), string(MayReuse), string(MayHaveYielded), string(HasYielded), string(WillBreak)}
}

// Course is the clamp load through the stages.
type Course struct {
	// Points are the loads by angle; without an angle there is one.
	Points []Point
	// Turned is the angle through which it is turned after its first torque, nominal.
	Turned unit.Angle
	// Seated is the load after the first torque, Final that after the last stage.
	Seated, Final Band[unit.Force]
	// Set is how much longer the bolt stays, mm; Drawn how much longer it is while tight.
	Set, Drawn Band[unit.Length]
	// Used is which share of the stretch it has before it necks is used up.
	Used  Band[float64]
	Reuse Reuse
}

// corner is one bolt of the band: a friction, a joint, a tool.
type corner struct {
	mu, spring      float64
	yield, tensile  float64 // loads, N
	perNewton, left float64 // springing mm/N; stretch until it necks, mm
	load, set       float64
}

// broken is how far past its stretch a bolt counts that has broken, a share.
const broken = 0.01

// turn takes a corner on through an angle.
func (c *corner) turn(deg, pitch float64) {
	if free := math.Max(0, c.yield-c.load) / c.spring; c.load < c.yield && deg <= free {
		c.load += deg * c.spring
		return
	} else if c.load < c.yield {
		c.load, deg = c.yield, deg-free
	}
	// Past yield a turn goes into springing, joint and lasting stretch, the last at the
	// hardening rate from yield to tensile strength.
	harden := (c.tensile - c.yield) / c.left
	joint := 1 / (c.spring * 360 / pitch)
	per := pitch / 360 / (joint + 1/harden)
	c.load = math.Min(c.load+deg*per, c.tensile)
	c.set += deg * per / harden
}

// back slackens a corner by an angle, 0 until it is loose: bolt and joint spring back as they
// sprang, what was drawn out stays.
func (c *corner) back(deg float64) {
	if deg <= 0 {
		c.load = 0
	}
	c.load = math.Max(0, c.load-deg*c.spring)
}

// torqued takes a corner to a torque, N·m.
func (c *corner) torqued(b Bolt, t float64) {
	want := t * 1000 / b.arm(c.mu)
	if want <= c.load {
		return
	}
	if want > c.tensile { // it breaks on the way: the wrench never clicks
		c.load, c.set = c.tensile, c.left*(1+broken)
		return
	}
	if want > c.yield {
		harden := (c.tensile - c.yield) / c.left
		c.set = math.Max(c.set, (want-c.yield)/harden)
	}
	c.load = want
}

// corners are the ends of everything that is not known: friction, joint.
func (b Bolt) corners(j Joint) []*corner {
	var out []*corner
	s := b.spring(j)
	// What yields is the thread that is free, and half a diameter of it in the part.
	yields := float64(j.Grip) - math.Min(float64(j.Plain), float64(j.Grip)) + 0.5*b.Thread.D
	for _, mu := range []float64{b.Friction.Low, b.Friction.High} {
		for _, k := range []float64{s.Low, s.High} {
			out = append(out, &corner{
				mu: mu, spring: k, perNewton: b.resilience(j), left: b.Class.uniform() * yields,
				yield: float64(b.until(b.Class.Yield, mu, rim)), tensile: float64(b.until(b.Class.Tensile, mu, whole)),
			})
		}
	}
	return out
}

// around are the least and the greatest of something over corners.
func around(cs []*corner, of func(*corner) float64) (low, high float64) {
	low, high = math.Inf(1), math.Inf(-1)
	for _, c := range cs {
		low, high = math.Min(low, of(c)), math.Max(high, of(c))
	}
	return low, high
}

func load(c *corner) float64 { return c.load }

func force(cs []*corner) Band[unit.Force] {
	l, h := around(cs, load)
	return Band[unit.Force]{unit.Force(l), unit.Force(h)}
}

// pointsOf is how many points a stage of an angle is drawn with.
const pointsOf = 24

// Through is the course of a bolt through its stages: a torque gives a load by friction, an
// angle adds what pitch and the springs of bolt and joint make of it, and past yield what the
// bolt hardens, as a straight line from yield to tensile strength (assumption). Settling of
// faces is left out. False where an angle follows and the clamped length is not said: then
// nothing is known of the load behind it.
func (b Bolt) Through(j Joint, stages []Step) (*Course, bool) {
	angles := false
	for _, s := range stages {
		angles = angles || s.Angle.High > 0
	}
	if len(stages) > 0 && stages[len(stages)-1].Back {
		return nil, false // it ends loose: that is no tightening
	}
	if angles && j.Grip <= 0 {
		return nil, false
	}
	var cs []*corner
	for _, tool := range []bool{false, true} { // what the wrench gives least, and most
		for _, c := range b.corners(j) {
			b.run(c, stages, tool)
			cs = append(cs, c)
		}
	}
	out := &Course{Final: force(cs)}
	l, h := around(cs, func(c *corner) float64 { return c.set })
	out.Set = Band[unit.Length]{unit.Length(l), unit.Length(h)}
	l, h = around(cs, func(c *corner) float64 { return c.set + c.load*c.perNewton })
	out.Drawn = Band[unit.Length]{unit.Length(l), unit.Length(h)}
	out.Used.Low, out.Used.High = around(cs, func(c *corner) float64 { return c.set / c.left })
	least, _ := around(cs, func(c *corner) float64 { return c.load - c.yield })
	_, most := around(cs, func(c *corner) float64 { return c.load - c.yield })
	switch {
	case out.Used.Low > 1:
		out.Reuse = WillBreak
	case least > 0:
		out.Reuse = HasYielded
	case most > 0:
		out.Reuse = MayHaveYielded
	default:
		out.Reuse = MayReuse
	}
	b.draw(out, j, stages)
	return out, true
}

// run takes a corner through the stages, at the least or the most its tool gives.
func (b Bolt) run(c *corner, stages []Step, most bool) {
	pick := func(low, high float64) float64 {
		if most {
			return high
		}
		return low
	}
	for _, s := range stages {
		if s.Back {
			c.back(pick(float64(s.Angle.Low), float64(s.Angle.High)))
			continue
		}
		if s.Angle.High > 0 {
			c.turn(pick(float64(s.Angle.Low), float64(s.Angle.High)), b.Thread.P)
			continue
		}
		c.torqued(b, pick(float64(s.Torque.Low), float64(s.Torque.High)))
	}
}

// draw fills in the loads by angle, the angles at their nominal.
func (b Bolt) draw(out *Course, j Joint, stages []Step) {
	var cs []*corner
	for range 2 {
		cs = append(cs, b.corners(j)...)
	}
	first := true
	for _, s := range stages {
		if s.Back && s.Angle.High <= 0 { // what counts is what comes after it
			for _, c := range cs {
				c.back(0)
			}
			out.Points, out.Turned, first = nil, 0, true
			continue
		}
		if s.Angle.High <= 0 {
			for i, c := range cs {
				b.run(c, []Step{s}, i >= len(cs)/2)
			}
			if first {
				out.Seated = force(cs)
			}
			first = false
			out.Points = append(out.Points, Point{out.Turned, force(cs)})
			continue
		}
		if first { // turned on from hand tight
			out.Points = append(out.Points, Point{})
			first = false
		}
		part := float64(s.Angle.Low+s.Angle.High) / 2 / pointsOf
		for range pointsOf {
			for _, c := range cs {
				if s.Back {
					c.back(part)
				} else {
					c.turn(part, b.Thread.P)
				}
			}
			if s.Back {
				out.Turned -= unit.Angle(part)
			} else {
				out.Turned += unit.Angle(part)
			}
			out.Points = append(out.Points, Point{out.Turned, force(cs)})
		}
	}
}

// Strips is the load at which the thread is torn out of the tapped part, N, and of the bolt:
// shear areas at the basic profile, π·d·m·0.875 within and π·D1·m·0.75 outside (the form of
// FED-STD-H28 and VDI 2230; from memory), over the length that is engaged less one pitch
// for its runouts, at the shear strength of the material and 0.6 of the bolt's tensile
// strength. False where length or material are not said.
func (b Bolt) Strips(j Joint) (tapped Band[unit.Force], own unit.Force, ok bool) {
	shear, known := j.Into.Shear()
	m := float64(j.Engaged) - b.Thread.P
	if !known || m <= 0 {
		return Band[unit.Force]{}, 0, false
	}
	within := math.Pi * b.Thread.D * m * 0.875
	inner := b.Thread.D - 1.082532*b.Thread.P
	outside := math.Pi * inner * m * 0.75
	return Band[unit.Force]{unit.Force(within * float64(shear.Low)), unit.Force(within * float64(shear.High))}, unit.Force(outside * 0.6 * float64(b.Class.Tensile)), true
}

// StripsAt is the torque at which the tapped thread is torn out, N·m: the least at the least
// friction and in the weakest material. False where it is not known, or the bolt gives way
// first at any friction.
func (b Bolt) StripsAt(j Joint) (Band[unit.Torque], bool) {
	tapped, _, ok := b.Strips(j)
	if !ok || float64(tapped.Low) > float64(b.until(b.Class.Tensile, b.Friction.Low, whole)) {
		return Band[unit.Torque]{}, false
	}
	return Band[unit.Torque]{
		unit.Torque(float64(tapped.Low) * b.arm(b.Friction.Low) / 1000),
		unit.Torque(float64(tapped.High) * b.arm(b.Friction.High) / 1000),
	}, true
}

// dryFaces is the friction between faces that carry a torque, steel on steel or iron without
// oil and with it: an assumption.
var dryFaces = Band[float64]{0.10, 0.20}

// Carries is the torque that a joint of one bolt passes on by friction between its faces,
// N·m: T = F·μ·r for each face (the mean radius of the ring that bears, mm).
func Carries(clamp Band[unit.Force], radius unit.Length, faces int) Band[unit.Torque] {
	at := func(f unit.Force, mu float64) unit.Torque {
		return unit.Torque(float64(f) * mu * float64(radius) * float64(faces) / 1000)
	}
	return Band[unit.Torque]{at(clamp.Low, dryFaces.Low), at(clamp.High, dryFaces.High)}
}
