package sheetproof

import (
	"math"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
)

var routeRules = finding.Family[*looking]{
	{ID: "cannot-be-laid", Family: "route", Severity: finding.Blocks, Check: cannotBeLaid,
		Doc: "a route no belt or chain can take"},
	{ID: "impossible-route", Family: "route", Severity: finding.Blocks, Check: impossibleRoute,
		Doc: "wheels on the wrong side, in each other’s place, or runs that cross"},
	{ID: "does-not-close", Family: "route", Severity: finding.Blocks, Check: doesNotClose,
		Doc: "a belt or chain of a length that does not fit round its wheels"},
	{ID: "take-up", Family: "route", Severity: finding.Blocks, Check: takeUp,
		Doc: "a tensioner that cannot move as the sheet says, or the wrong way"},
	{ID: "end-of-travel", Family: "route", Severity: finding.ShouldFix, Check: endOfTravel,
		Doc: "a new belt that leaves its tensioner no room to move"},
	{ID: "few-teeth", Family: "route", Severity: finding.ShouldFix, Check: fewTeeth,
		Doc: "a belt that jumps: too few teeth carry the load"},
	{ID: "no-room", Family: "route", Severity: finding.ShouldFix, Check: noRoom,
		Doc: "a run that rubs on a wheel it should pass"},
	{ID: "pitch", Family: "route", Severity: finding.ShouldFix, Check: pitch,
		Doc: "a pitch mistyped: no belt or chain is made with it"},
	{ID: "no-thickness", Family: "route", Severity: finding.ShouldFix, Check: noThickness,
		Doc: "back-side wheels worked out as if the belt had no back"},
	{ID: "links", Family: "route", Severity: finding.Blocks, Check: links,
		Doc: "coloured links counted wrong: the chain goes on a tooth out"},
}

func on(l *engine.Loop) string { return "loops/" + string(l.ID) }

func cannotBeLaid(t *looking) {
	for i := range t.s.Loops {
		if err := t.laid[i].err; err != nil {
			t.find(on(&t.s.Loops[i])+"/route", message.As(message.Capital(err.Error())), message.F("Until it can be laid, nothing of this belt or chain can be worked out."))
		}
	}
}

func impossibleRoute(t *looking) {
	for i := range t.s.Loops {
		l, v := &t.s.Loops[i], t.laid[i]
		if v.path == nil {
			continue
		}
		for _, tr := range route.Troubles(t.x, l, v.circles, v.path) {
			at := on(l) + "/route"
			switch tr.Kind {
			case route.Overlap:
				t.find("wheels/"+string(tr.A), message.F("The %s and the %s overlap by %s mm", t.wheel(tr.A), t.wheel(tr.B), fixed(-tr.Gap, 1)), message.F("They run in one plane; one of the centres or sizes is wrong."))
			case route.Unreached:
				t.find(at, message.F("The %s cannot reach the %s from that side", l.Name, t.wheel(tr.A)), message.F("It would have to go nearly all the way round. The wheel belongs to the other side of the belt or chain, or to another place in the route."), t.otherSide(l, tr.A))
			case route.Crossing:
				t.find(at, message.F("The run after the %s crosses the run after the %s", t.wheel(tr.A), t.wheel(tr.B)), message.F("A belt or chain in one plane cannot cross itself; two wheels of the route are swapped or on the wrong side."))
			case route.Inverted:
				t.find(at, message.F("The route of the %s does not make one ring", l.Name), message.F("Put the wheels in the order the belt or chain travels, inside and back as it touches them."), t.turnedRound(l))
			}
		}
	}
}

func (t *looking) otherSide(l *engine.Loop, id engine.WheelID) Mend {
	r := slices.Clone(l.Route)
	for i := range r {
		if r[i].Wheel == id {
			if r[i].Side == engine.Inside {
				r[i].Side = engine.Back
			} else {
				r[i].Side = engine.Inside
			}
			return set(message.F("Put the %s on the %s", t.wheel(id), r[i].Side), on(l)+"/route", r)
		}
	}
	return Mend{}
}

func (t *looking) turnedRound(l *engine.Loop) Mend {
	r := slices.Clone(l.Route)
	slices.Reverse(r[1:])
	return set(message.F("Travel the other way round"), on(l)+"/route", r)
}

func doesNotClose(t *looking) {
	for i := range t.s.Loops {
		l, k := &t.s.Loops[i], t.laid[i].take
		if k == nil || k.Closes || l.Pitch <= 0 || t.upset(i) {
			continue
		}
		tooth := message.F("teeth")
		if l.Kind == engine.Chain {
			tooth = message.F("links")
		}
		mends := t.closings(l, tooth)
		why := message.F("%d × %s mm is %s mm; the way round the wheels is %s mm.", l.Teeth, fixed(l.Pitch, 3), fixed(k.Length, 1), fixed(k.Path, 1))
		if k.Most > k.Least {
			why = message.F("%d × %s mm is %s mm; with the tensioner the way round goes from %s to %s mm.", l.Teeth, fixed(l.Pitch, 3), fixed(k.Length, 1), fixed(k.Least, 1), fixed(k.Most, 1))
		}
		t.find(on(l)+"/teeth", message.F("The %s does not close: %s %s off", l.Name, fixed(float64(k.Off())/l.Pitch, 1), tooth), why, mends...)
	}
}

// closings are the ways in which a loop closes after all: the count nearest to its
// own that closes where the wheels stand, or, where none does, the roller moved to
// where one would.
func (t *looking) closings(l *engine.Loop, tooth message.Text) []Mend {
	cs, err := route.Closings(t.x, l)
	if err != nil {
		return nil
	}
	slices.SortStableFunc(cs, func(a, b route.Closing) int {
		return max(a.Teeth-l.Teeth, l.Teeth-a.Teeth) - max(b.Teeth-l.Teeth, l.Teeth-b.Teeth)
	})
	var out []Mend
	for _, c := range cs {
		if c.Fits && len(out) == 0 {
			out = append(out, set(message.F("Make it %d %s", c.Teeth, tooth), on(l)+"/teeth", c.Teeth))
		}
	}
	if len(out) > 0 {
		return out
	}
	for _, c := range cs {
		if !c.Found {
			continue
		}
		w := t.x.Tensioner(l.Tensioner).Wheel
		out = append(out, finding.MendOf(message.F("Move the %s by %s mm for %d %s", t.wheel(w), fixed(math.Abs(c.Sits), 1), c.Teeth, tooth), []engine.Edit{
			edit("wheels/"+string(w)+"/x", round(c.At.X)), edit("wheels/"+string(w)+"/y", round(c.At.Y)), edit(on(l)+"/teeth", c.Teeth)}))
	}
	return out
}

// upset reports whether loop i has troubles that make its length meaningless.
func (t *looking) upset(i int) bool {
	v := t.laid[i]
	return slices.ContainsFunc(route.Troubles(t.x, &t.s.Loops[i], v.circles, v.path), func(r route.Trouble) bool { return r.Kind != route.Touches })
}

// A new loop should leave the tensioner this share of its travel at either end,
// and room for this stretch, per cent: assumptions of ours.
const (
	endShare     = 0.9
	leastStretch = 0.1
)

// takeUp holds the travel of a tensioner against what the wheels let it do.
func takeUp(t *looking) {
	for i := range t.s.Loops {
		l, v := &t.s.Loops[i], t.laid[i]
		ten := t.x.Tensioner(l.Tensioner)
		if ten == nil || v.path == nil {
			continue
		}
		at := "tensioners/" + string(ten.ID)
		switch k := v.take; {
		case ten.Travel < 0:
			t.find(at+"/travel", message.F("The %s moves by less than nothing: %s mm", ten.Name, fixed(ten.Travel, 1)), message.F("The travel is how far its wheel’s centre moves either side, above zero."), set(message.F("Make it %s mm", fixed(-ten.Travel, 1)), at+"/travel", -ten.Travel))
		case ten.Travel == 0 || t.upset(i):
		case k != nil && k.Back:
			t.find(at+"/moves", message.F("The %s moves the wrong way", ten.Name), message.F("Where it should take up, the way round gets shorter: from %s to %s mm.", fixed(k.Most, 1), fixed(k.Least, 1)), t.moveBack(ten))
		case k == nil || k.Short:
			sev := finding.Blocks
			if k != nil && k.Closes {
				sev = finding.ShouldFix // it closes somewhere in its travel, or does-not-close says so
			}
			t.findAs(sev, at+"/travel", message.F("The %s cannot move by ±%s mm", ten.Name, fixed(ten.Travel, 1)), message.F("At an end of that travel the %s does not lie round its wheels any more.", l.Name))
		}
	}
}

// moveBack turns the way a tensioner moves round.
func (t *looking) moveBack(ten *engine.Tensioner) Mend {
	if ten.Moves == 0 {
		return Mend{}
	}
	m := math.Mod(ten.Moves+180, 360)
	if m == 0 {
		m = 360
	}
	return set(message.F("Make it %s°", fixed(m, 1)), "tensioners/"+string(ten.ID)+"/moves", m)
}

func endOfTravel(t *looking) {
	for i := range t.s.Loops {
		l, k := &t.s.Loops[i], t.laid[i].take
		ten := t.x.Tensioner(l.Tensioner)
		if k == nil || !k.Closes || ten == nil || ten.Travel <= 0 {
			continue
		}
		at := "tensioners/" + string(ten.ID) + "/travel"
		if math.Abs(k.Sits) > endShare*ten.Travel {
			t.find(at, message.F("With a new %s the %s stands %s mm from the middle of ±%s mm", l.Name, ten.Name, fixed(k.Sits, 1), fixed(ten.Travel, 1)), message.F("It stands at the end of its travel from the start. A wheel’s place or the tooth count is a little out."))
		} else if k.Stretch < leastStretch {
			t.find(at, message.F("The %s can take up only %s %% of stretch", ten.Name, fixed(k.Stretch, 2)), message.F("A belt or chain that settles a little is slack then."))
		}
	}
}

// leastInMesh: fewer teeth than six in mesh share the load badly (common
// practice, no source).
const leastInMesh = 6

func fewTeeth(t *looking) {
	for i := range t.s.Loops {
		l, v := &t.s.Loops[i], t.laid[i]
		if l.Kind != engine.Belt || v.path == nil {
			continue
		}
		for _, m := range route.Meetings(t.x, v.path) {
			if m.InMesh > 0 && m.InMesh < leastInMesh {
				t.find("wheels/"+string(m.Wheel), message.F("Only %s teeth of the %s are in the %s", fixed(m.InMesh, 1), t.wheel(m.Wheel), l.Name), message.F("It wraps %s°. Under six teeth the belt may jump; an idler nearby wraps it further.", fixed(m.Wrap, 0)))
			}
		}
	}
}

func noRoom(t *looking) {
	for i := range t.s.Loops {
		l, v := &t.s.Loops[i], t.laid[i]
		if v.path == nil || t.upset(i) {
			continue
		}
		for _, tr := range route.Troubles(t.x, l, v.circles, v.path) {
			r := v.path.Runs[max(tr.Run, 0)]
			sev, says := finding.ShouldFix, message.F("passes the %s with %s mm to spare", t.wheel(tr.A), fixed(tr.Gap, 1))
			if tr.Gap < 0 {
				sev, says = finding.Blocks, message.F("runs into the %s by %s mm", t.wheel(tr.A), fixed(-tr.Gap, 1))
			}
			t.findAs(sev, "wheels/"+string(tr.A), message.F("The run from %s to %s %s", t.wheel(r.From), t.wheel(r.To), says), message.F("It needs %d mm and more. Move the wheel, or lead the belt or chain over it.", route.LeastRoom))
		}
	}
}

// Standards are the pitch series a sheet may name, with the pitches they list,
// mm: synchronous belts of industry in ISO 5296:2012 (trapezoidal, pitch codes
// MXL, XXL, XL, L, H, XH, XXH), ISO 17396:2014 (metric T and AT) and ISO
// 13050:2014 (curvilinear G, H, R and S); those of automotive engines in ISO
// 9010:1997 (ZA and ZB trapezoidal, ZH, ZR and ZS curvilinear at 9.525 mm; YH, YR
// and YS at 8 mm); chains in ISO 606:2015 (04C, 05B, 06B and C, 08A and B, 10A and
// B, 12A and B). All of it from memory of the tables.
var Standards = []Standard{
	{"ISO 9010", engine.Belt, []float64{8, 9.525}},
	{"ISO 5296", engine.Belt, []float64{2.032, 3.175, 5.08, 9.525, 12.7, 22.225, 31.75}},
	{"ISO 13050", engine.Belt, []float64{3, 5, 8, 14, 20}},
	{"ISO 17396", engine.Belt, []float64{2.5, 3, 5, 10, 20}},
	{"ISO 606", engine.Chain, []float64{6.35, 8, 9.525, 12.7, 15.875, 19.05}},
}

// Standard is a published pitch series.
type Standard struct {
	Name    string
	For     engine.LoopKind
	Pitches []float64
}

func pitchesOf(name string) []float64 {
	for _, s := range Standards {
		if s.Name == name {
			return s.Pitches
		}
	}
	return nil
}

func pitch(t *looking) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		if l.Pitch <= 0 {
			t.findAs(finding.Blocks, on(l)+"/pitch", message.F("The %s has no pitch", l.Name), message.F("Length, ratios along the belt or chain and every run come from it."))
			continue
		}
		list := pitchesOf(l.Standard)
		if len(list) == 0 || slices.ContainsFunc(list, func(p float64) bool { return near(p, l.Pitch, 1e-6) }) {
			continue
		}
		best := slices.MinFunc(list, func(a, b float64) int {
			if math.Abs(a-l.Pitch) < math.Abs(b-l.Pitch) {
				return -1
			}
			return 1
		})
		t.find(on(l)+"/pitch", message.F("%s has no pitch of %s mm", l.Standard, fixed(l.Pitch, 3)), message.F("The nearest is %s mm.", fixed(best, 3)), set(message.F("Make it %s mm", fixed(best, 3)), on(l)+"/pitch", best))
	}
}

func noThickness(t *looking) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		if l.Kind == engine.Belt && l.Thickness <= 0 && slices.ContainsFunc(l.Route, func(s engine.Stop) bool { return s.Side == engine.Back }) {
			t.find(on(l)+"/thickness", message.F("The %s runs over wheels with its back, and its thickness is missing", l.Name), message.F("From pitch line to back it is a millimetre or two: each such wheel carries the belt that much further out."))
		}
	}
}

// halfLink is how far a count may lie from the geometry, links: half of one is
// still the nearest.
const halfLink = 0.5

func links(t *looking) {
	for i := range t.s.Loops {
		l := &t.s.Loops[i]
		if t.laid[i].path == nil {
			continue
		}
		got, err := route.Coloured(t.x, l)
		if err != nil {
			t.find(on(l), message.As(message.Capital(err.Error())), message.F("A mark on the belt or chain meets the wheel it names."))
			continue
		}
		for _, k := range got {
			m := t.x.Mark(k.Mark)
			at := "marks/" + string(k.Mark)
			switch off := k.Off(l.Teeth); {
			case !k.Reached:
				t.findAs(finding.ShouldFix, at+"/clock", message.F("The %s meets the %s where the %s does not touch it", m.Name, t.wheel(m.Wheel), l.Name), message.F("At %s° from twelve o’clock the wheel is bare.", fixed(m.Clock, 1)))
			case math.Abs(off) > halfLink:
				n := ((int(math.Round(k.Want)) % l.Teeth) + l.Teeth) % l.Teeth
				t.find(at+"/link", message.F("The %s is counted as link %d; the geometry puts it at %s", m.Name, m.Link, fixed(k.Want, 1)), message.F("Fitted by these marks the %s would go on out of time.", l.Name), set(message.F("Make it link %d", n), at+"/link", n))
			}
		}
	}
}
