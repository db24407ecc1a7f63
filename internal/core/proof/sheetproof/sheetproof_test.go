package sheetproof_test

import (
	"encoding/json"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/layout"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/unit"
)

const (
	tq4 = "renew-timing-belt-r3.latch.json"
	tq3 = "renew-belt-in-oil-r1.latch.json"
	tv6 = "renew-belt-both-banks-r1.latch.json"
	tc4 = "renew-timing-chain-r1.latch.json"
	tb2 = "renew-both-belts-r1.latch.json"
	ts1 = "renew-cam-chain-r1.latch.json"
)

func prove(s *engine.Sheet) []sheetproof.Finding {
	return sheetproof.Prove(engine.NewIndex(s), finding.DefaultHouse())
}

func TestTheDemosSheetsFitTogether(t *testing.T) {
	for _, f := range []string{tq4, tq3, tv6, tc4, tb2, ts1} {
		for _, v := range prove(&fixture.Document(f).Engine) {
			assert.Equal(t, finding.Look, v.Severity, "%s: %s %s", f, v.On, v.What)
		}
	}
}

// spoils are mistakes, one for each rule at least: what is done to which sheet,
// the place the finding names, and whether taking its first mend settles it.
var spoils = []struct {
	rule, file, on string
	mend           bool
	do             func(*engine.Sheet)
}{
	{"no-crank", tq4, "shafts", true, func(s *engine.Sheet) { s.Shafts = s.Shafts[1:] }},
	{"nothing-drawn", tq4, "wheels", false, func(s *engine.Sheet) { s.Wheels = nil }},
	{"nothing-drawn", tq4, "loops", false, func(s *engine.Sheet) { s.Loops, s.Gears = nil, nil }},
	{"nothing-drawn", tq4, "shafts", false, func(s *engine.Sheet) { s.Shafts = s.Shafts[:1] }},
	{"not-driven", tq4, "shafts/inlet", false, func(s *engine.Sheet) { s.Wheels[3].Shaft = "" }},
	{"drives-disagree", tc4, "shafts/balance-b", false, func(s *engine.Sheet) {
		s.Gears = append(s.Gears, engine.Gear{ID: "again", Name: "again", Driver: "crank-wheel", Driven: "balance-gear-b"})
	}},
	{"no-thread", tq4, "fasteners/idler-bolt/thread", true, func(s *engine.Sheet) { fastener(s, "idler-bolt").Thread = "M10×2" }},
	{"no-thread", tq4, "fasteners/idler-bolt/thread", false, func(s *engine.Sheet) { fastener(s, "idler-bolt").Thread = "as the pump" }},
	{"no-thread", tq4, "fasteners/idler-bolt/class", false, func(s *engine.Sheet) { fastener(s, "idler-bolt").Class = "10,8" }},
	{"torque-breaks", tq4, "fasteners/upper-cover-bolt/spec", true, func(s *engine.Sheet) { spec(s, "upper-cover-bolt", "90 N·m") }},
	{"torque-odd", tq4, "fasteners/idler-bolt/spec", true, func(s *engine.Sheet) { spec(s, "idler-bolt", "3.9 N·m") }},
	{"torque-odd", tq4, "fasteners/idler-bolt/spec", true, func(s *engine.Sheet) { spec(s, "idler-bolt", "115 N·m") }},
	{"stages-fall", tq4, "fasteners/idler-bolt/spec", false, func(s *engine.Sheet) { spec(s, "idler-bolt", "39 N·m", "20 N·m") }},
	{"stages-fall", tq4, "fasteners/idler-bolt/spec", false, func(s *engine.Sheet) {
		spec(s, "idler-bolt", "39 N·m")
		fastener(s, "idler-bolt").Spec = append(fastener(s, "idler-bolt").Spec, engine.Stage{Slacken: true})
	}},
	{"no-wrench", tq4, "fasteners/idler-bolt/spec", false, func(s *engine.Sheet) { spec(s, "idler-bolt", "700 N·m") }},
	{"source-replaced", tq4, "evidence/inlet-sprocket-bolt/in", true, func(s *engine.Sheet) {
		s.Sources = []engine.Source{{ID: "old", Number: "EL-0418", Kind: engine.Letter, Replaced: "new"}, {ID: "new", Number: "EL-0601", Kind: engine.Letter}}
		s.Evidence["inlet-sprocket-bolt"] = engine.Proof{Source: "letter EL-0418, table 3", In: "old", Place: "table 3"}
	}},
	{"source-odd", tq4, "sources/a/replaced", false, func(s *engine.Sheet) {
		s.Sources = []engine.Source{{ID: "a", Number: "A", Kind: engine.Letter, Replaced: "b"}, {ID: "b", Number: "B", Kind: engine.Letter, Replaced: "a"}}
	}},
	{"source-odd", tq4, "sources/a/on", false, func(s *engine.Sheet) {
		s.Sources = []engine.Source{{ID: "a", Number: "A", Kind: engine.Letter, On: "last spring"}}
	}},
	{"strips", tq4, "fasteners/idler-bolt/spec", false, func(s *engine.Sheet) {
		f := fastener(s, "idler-bolt")
		f.Engaged, f.Into = 4, bolt.Magnesium
	}},
	{"drawn-out", tq4, "fasteners/inlet-sprocket-bolt/spec", false, func(s *engine.Sheet) {
		fastener(s, "inlet-sprocket-bolt").Grip = 20
		fastener(s, "inlet-sprocket-bolt").Spec[1].Angle = unit.Of(900, unit.Degree)
	}},
	{"used-again", tq4, "fasteners/inlet-sprocket-bolt/singleUse", true, func(s *engine.Sheet) { fastener(s, "inlet-sprocket-bolt").Grip = 30 }},
	{"condition-unsaid", tq4, "fasteners/inlet-sprocket-bolt/lubricant", true, func(s *engine.Sheet) { fastener(s, "inlet-sprocket-bolt").Lubricant = "" }},
	{"grip-figures", tq4, "fasteners/inlet-sprocket-bolt/plain", false, func(s *engine.Sheet) {
		f := fastener(s, "inlet-sprocket-bolt")
		f.Grip, f.Plain, f.SingleUse = 30, 40, true
	}},
	{"grip-figures", tq4, "fasteners/idler-bolt/engaged", false, func(s *engine.Sheet) { fastener(s, "idler-bolt").Engaged = 1 }},
	{"grip-figures", tq4, "fasteners/idler-bolt/engaged", false, func(s *engine.Sheet) { fastener(s, "idler-bolt").Engaged = 60 }},
	{"pattern-unsaid", tq4, "fasteners/rear-cover-bolt/pattern", true, func(s *engine.Sheet) { fastener(s, "rear-cover-bolt").Pattern = "" }},
	{"pattern-places", tq4, "fasteners/upper-cover-bolt/places", true, func(s *engine.Sheet) {
		f := fastener(s, "upper-cover-bolt")
		f.Places = []engine.Place{{X: 0, Y: 0}, {X: 90, Y: 0}, {X: 180, Y: 0}, {X: 180, Y: 110}, {X: 90, Y: 110}, {X: 0, Y: 110}}
	}},
	{"tolerance-odd", tq4, "fasteners/idler-bolt/spec", false, func(s *engine.Sheet) { spec(s, "idler-bolt", "39 ±0.2 N·m") }},
	{"tolerance-odd", tq4, "fasteners/idler-bolt/spec", false, func(s *engine.Sheet) { spec(s, "idler-bolt", "39 ±20 N·m") }},
	{"reading-open", tq4, "readings/end-play/value", false, func(s *engine.Sheet) {
		s.Readings = []engine.Reading{{ID: "end-play", Name: "end play", Shaft: "inlet"}}
	}},
	{"reading-open", tq4, "readings/end-play", false, func(s *engine.Sheet) {
		s.Readings = []engine.Reading{{ID: "end-play", Name: "end play", Value: unit.Of(0.1, unit.Millimetre)}}
	}},
	{"empty-place", tq4, "locks/cam-lock", true, func(s *engine.Sheet) {
		a, _ := layout.Named("twin-cam-belt")
		s.Archetype, s.Locks = a.ID, append(s.Locks, a.Sheet("").Locks[1])
		s.Locks[len(s.Locks)-1].Holds = []engine.ShaftID{"inlet", "exhaust"}
	}},
	{"cam-ratio", tq4, "wheels/inlet-wheel/teeth", true, func(s *engine.Sheet) { s.Wheels[3].Teeth = 40 }},
	{"no-size", tq4, "wheels/idler-wheel", false, func(s *engine.Sheet) { s.Wheels[5].Diameter = 0 }},
	{"nothing-on-it", tq4, "wheels/left-over", true, func(s *engine.Sheet) {
		s.Wheels = append(s.Wheels, engine.Wheel{ID: "left-over", Name: "left over", Diameter: 30})
	}},
	{"holds-nothing", tq4, "fasteners/left-over", true, func(s *engine.Sheet) {
		s.Fasteners = append(s.Fasteners, engine.Fastener{ID: "left-over", Name: "left over bolt", Count: 2})
	}},
	{"holds-nothing", tq4, "parts/upper-cover/held", false, func(s *engine.Sheet) {
		for i := range s.Parts {
			if s.Parts[i].ID == "upper-cover" {
				s.Parts[i].Held = nil
			}
		}
	}},
	{"pulling-run", tq4, "tensioners/tensioner/wheel", true, func(s *engine.Sheet) {
		s.Loops[0].Route = slices.Clone(s.Loops[0].Route)
		slices.Reverse(s.Loops[0].Route[1:])
	}},
	{"gear-centres", tc4, "gears/balance-gears", true, func(s *engine.Sheet) { wheel(s, "balance-gear-b").X -= 4 }},
	{"piston", tq4, "rod", false, func(s *engine.Sheet) { s.Rod = unit.Of(40, unit.Millimetre) }},
	{"piston", tq4, "stroke", false, func(s *engine.Sheet) { s.Stroke = unit.Quantity{} }},
	{"firing-order", tq4, "firingOrder", false, func(s *engine.Sheet) { s.FiringOrder = []int{1, 3, 3, 2} }},
	{"firing-order", tq4, "firingOrder", false, func(s *engine.Sheet) { s.FiringOrder = []int{1, 3} }},
	{"sides", tq4, "sides", true, func(s *engine.Sheet) { s.Sides = "" }},
	{"sides", tv6, "shafts/left-inlet", false, func(s *engine.Sheet) { s.Banks = nil }},
	{"interference", tq4, "interference", true, func(s *engine.Sheet) { s.Interference = engine.Unknown }},
	{"interference", tq4, "limits/safeWindow", false, func(s *engine.Sheet) { s.Limits.SafeWindow = 0 }},

	{"cannot-be-laid", tq4, "loops/timing-belt/route", false, func(s *engine.Sheet) { s.Loops[0].Route = s.Loops[0].Route[:1] }},
	{"impossible-route", tq4, "loops/timing-belt/route", true, func(s *engine.Sheet) { s.Loops[0].Route[3].Side = engine.Back }},
	{"does-not-close", tq4, "loops/timing-belt/teeth", true, func(s *engine.Sheet) { s.Loops[0].Teeth = 111 }},
	{"does-not-close", tc4, "loops/timing-chain/teeth", true, func(s *engine.Sheet) { s.Loops[0].Teeth = 113 }},
	{"take-up", tq4, "tensioners/tensioner/travel", true, func(s *engine.Sheet) { s.Tensioners[0].Travel = -s.Tensioners[0].Travel }},
	{"take-up", tq4, "tensioners/tensioner/travel", false, func(s *engine.Sheet) { s.Tensioners[0].Travel = 900 }},
	{"take-up", tq4, "tensioners/tensioner/moves", true, func(s *engine.Sheet) {
		s.Tensioners[0].Travel = 6
		x := engine.NewIndex(s)
		p, err := route.Of(x, &s.Loops[0])
		if err != nil {
			panic(err)
		}
		for _, a := range p.Arcs {
			if a.Wheel == s.Tensioners[0].Wheel { // straight out of the loop
				s.Tensioners[0].Moves = 90 - (a.Start+a.Sweep/2)*180/math.Pi + 180
			}
		}
	}},
	{"end-of-travel", tq4, "tensioners/tensioner/travel", false, func(s *engine.Sheet) { wheel(s, "pump-wheel").X += 5.4 }},
	{"few-teeth", tq4, "wheels/crank-wheel", false, func(s *engine.Sheet) { wheel(s, "crank-wheel").Teeth = 10 }},
	{"no-room", tq4, "wheels/c", false, rubbing},
	{"pitch", tv6, "loops/timing-belt/pitch", true, func(s *engine.Sheet) { s.Loops[0].Pitch = 9.5 }},
	{"pitch", tv6, "loops/timing-belt/pitch", false, func(s *engine.Sheet) { s.Loops[0].Pitch = 0 }},
	{"no-thickness", tq4, "loops/timing-belt/thickness", false, func(s *engine.Sheet) { s.Loops[0].Thickness = 0 }},
	{"links", tc4, "marks/inlet-link/link", true, func(s *engine.Sheet) { mark(s, "inlet-link").Link = 48 }},
	{"links", tc4, "marks/inlet-link/clock", false, func(s *engine.Sheet) { mark(s, "inlet-link").Clock = 120 }},
	{"links", tc4, "loops/timing-chain", false, func(s *engine.Sheet) { mark(s, "inlet-link").Wheel = "balance-a-wheel" }},

	{"stroke-untold", tq4, "locks", false, func(s *engine.Sheet) { s.Locks, s.Marks = s.Locks[:1], s.Marks[:1] }},
	{"tooth-unseen", tq4, "shafts/inlet", false, func(s *engine.Sheet) {
		s.Locks[1].Play = 6
		mark(s, "inlet-mark").Shows = 9
	}},
	{"tooth-unseen", tb2, "shafts/left-cam", false, func(s *engine.Sheet) { s.Locks, s.Marks = s.Locks[:1], s.Marks[:1] }},
	{"coarser-than-limit", tq4, "limits/camError", false, func(s *engine.Sheet) { s.Limits.CamError = 0.5 }},
	{"coarser-than-limit", tq4, "limits/camError", false, func(s *engine.Sheet) { s.Limits.CamError = 0 }},
	{"pin-for-torque", tq4, "locks/crank-pin/carriesTorque", true, func(s *engine.Sheet) { s.Locks[0].CarriesTorque = true }},
	{"no-play", tq4, "locks/crank-pin/play", false, func(s *engine.Sheet) { s.Locks[0].Play = 0 }},
	{"no-tool", tq4, "locks/cam-bar/tool", false, func(s *engine.Sheet) { s.Locks[1].Tool = "" }},
	{"no-pointer", tq4, "marks/crank-mark/pointer", false, func(s *engine.Sheet) { s.Marks[0].Pointer = "" }},
	{"no-pointer", tq4, "marks/drilling/look", false, func(s *engine.Sheet) { mark(s, "drilling").Look = "" }},
	{"equivalents", tq4, "tools/tl-102", false, func(s *engine.Sheet) {
		s.Tools[1].Equivalents = []engine.Equivalent{{Number: "TL-999", Play: 5}}
	}},

	{"no-tensioner", tq4, "loops/timing-belt/tensioner", false, func(s *engine.Sheet) { s.Loops[0].Tensioner = "" }},
	{"tension-numbers", tq4, "tensioners/tensioner/pointer", false, func(s *engine.Sheet) { s.Tensioners[0].Pointer = nil }},
	{"tension-numbers", tq4, "tensioners/tensioner/turn", false, func(s *engine.Sheet) { s.Tensioners[0].Turn = "" }},
	{"tension-numbers", tv6, "tensioners/tensioner/settle", false, func(s *engine.Sheet) { s.Tensioners[0].Settle = 0 }},
	{"tension-numbers", tv6, "tensioners/tensioner/pin", false, func(s *engine.Sheet) { s.Tensioners[0].Pin = "" }},
	{"tension-numbers", tb2, "tensioners/left-adjuster/frequency", false, func(s *engine.Sheet) { s.Tensioners[0].Frequency = nil }},
	{"tension-numbers", tq4, "tensioners/tensioner/hold", false, func(s *engine.Sheet) { s.Tensioners[0].Method = engine.PreLoad }},
	{"frequency-run", tb2, "tensioners/left-adjuster/frequency", false, func(s *engine.Sheet) { s.Tensioners[0].Frequency.To = "right-wheel" }},
	{"frequency-run", tb2, "tensioners/left-adjuster/frequency/note", false, func(s *engine.Sheet) { s.Tensioners[0].Frequency.Note = unit.Of(60, unit.NewtonMetre) }},
	{"frequency-run", tb2, "loops/left-belt/mass", false, func(s *engine.Sheet) { s.Loops[0].Mass = 0 }},

	{"units-disagree", tb2, "fasteners/left-adjuster-bolt/spec", false, func(s *engine.Sheet) { fastener(s, "left-adjuster-bolt").Spec[0].Torque.Also = 25 }},
	{"units-disagree", tq4, "fasteners/crank-bolt/spec", false, func(s *engine.Sheet) { s.Fasteners[0].Spec[1].Angle.TolUnit = unit.NewtonMetre }},
	{"no-torque", tq4, "fasteners/idler-bolt/spec", false, func(s *engine.Sheet) { fastener(s, "idler-bolt").Spec = nil }},
	{"held-by-nothing", tq4, "fasteners/crank-bolt/holdWith", true, func(s *engine.Sheet) { s.Fasteners[0].HoldWith = "" }},
	{"held-by-nothing", tq4, "fasteners/crank-bolt/holdWith", true, func(s *engine.Sheet) { s.Fasteners[0].HoldWith = "crank-pin" }},
	{"clamped-by-nothing", tq4, "wheels/inlet-wheel/clamps", true, func(s *engine.Sheet) { wheel(s, "inlet-wheel").Clamps = nil }},
	{"names-nothing", tq4, "locks/cam-bar/tool", true, func(s *engine.Sheet) { s.Locks[1].Tool = "tl-x" }},
	{"names-nothing", tq4, "wheels/pump-wheel/part", true, func(s *engine.Sheet) { wheel(s, "pump-wheel").Part = "x" }},
	{"names-nothing", tq4, "loops/timing-belt/part", true, func(s *engine.Sheet) { s.Loops[0].Part = "x" }},
	{"names-nothing", tq4, "fasteners/crank-bolt/onShaft", true, func(s *engine.Sheet) { s.Fasteners[0].OnShaft = "x" }},
	{"names-nothing", tq4, "tensioners/tensioner/pin", true, func(s *engine.Sheet) { s.Tensioners[0].Pin = "x" }},
	{"comes-off-in-circles", tq4, "parts/engine-mount/after", false, func(s *engine.Sheet) {
		part(s, "engine-mount").After = []engine.PartID{"upper-cover"}
	}},

	{"years", tq4, "years", true, func(s *engine.Sheet) { s.Years = engine.Years{From: 2024, To: 2019} }},
	{"years", tq4, "years", false, func(s *engine.Sheet) { s.Years = engine.Years{} }},
	{"names", tq3, "names/a/of", true, func(s *engine.Sheet) { s.Names = []engine.OwnName{{ID: "a", Say: "bell", Of: "parts/nothing"}} }},
	{"names", tq3, "names/a/say", true, func(s *engine.Sheet) { s.Names = []engine.OwnName{{ID: "a", Of: "parts/cam-cover"}} }},
	{"names", tq3, "names/b/say", true, func(s *engine.Sheet) {
		s.Names = []engine.OwnName{{ID: "a", Say: "lid", Of: "parts/cam-cover"}, {ID: "b", Say: "lid", Of: "parts/timing-cover"}}
	}},
	{"cases", tq3, "varies/idler-torque", true, func(s *engine.Sheet) { s.Varies[0].Cases[0].When.Years.To = 2021 }},
	{"cases", tq3, "varies/idler-torque", false, func(s *engine.Sheet) { s.Varies[0].Cases[0].When.Years.To = 2023 }},
	{"cases", tq3, "varies/idler-torque/of", true, func(s *engine.Sheet) { s.Varies[0].Of = "fasteners/nothing" }},
	{"cases", tq3, "varies/idler-torque", false, func(s *engine.Sheet) {
		s.Varies[0].Cases[0].Set = map[string]json.RawMessage{"spec": json.RawMessage(`"much"`)}
	}},
	{"valves-unfinished", tq4, "shafts/inlet/valves", false, func(s *engine.Sheet) { s.Shafts[1].Valves = &engine.Valves{Opens: -8, Closes: 228} }},
	{"valves-unfinished", tq4, "shafts/crank/valves", true, func(s *engine.Sheet) { s.Shafts[0].Valves = &engine.Valves{} }},
	{"meets-in-step", tq4, "shafts/inlet/valves", false, func(s *engine.Sheet) {
		v := *s.Shafts[1].Valves
		v.Opens = -60
		s.Shafts[1].Valves = &v
	}},
	{"interference-differs", tq4, "interference", true, func(s *engine.Sheet) { s.Interference = engine.No }},
	{"interference-differs", tq4, "interference", false, func(s *engine.Sheet) {
		for i := range s.Shafts {
			if s.Shafts[i].Valves != nil {
				v := *s.Shafts[i].Valves
				v.Clear = unit.Of(20, unit.Millimetre)
				s.Shafts[i].Valves = &v
			}
		}
	}},
	{"rest-meets", tq4, "limits/rest", false, func(s *engine.Sheet) { s.Limits.Rest = 170 }},
	{"limit-of-contact", tq4, "limits/camError", false, func(s *engine.Sheet) { s.Limits.CamError = 15 }},
	{"limit-of-contact", tv6, "limits/camError", false, func(s *engine.Sheet) { s.Shafts[1].Contact = 0.5 }},
	{"places-count", tq4, "fasteners/upper-cover-bolt/places", false, func(s *engine.Sheet) { f := fastener(s, "upper-cover-bolt"); f.Places = f.Places[1:] }},
	{"half-link", tc4, "loops/timing-chain/half", true, func(s *engine.Sheet) { s.Loops[0].Teeth++ }},
	{"half-link", tc4, "loops/timing-chain/half", true, func(s *engine.Sheet) { s.Loops[0].Half = true }},
	{"then-tensioners", tc4, "loops/timing-chain/then", false, func(s *engine.Sheet) { s.Loops[0].Then = []engine.TensionerID{"ratchet"} }},
	{"then-tensioners", tc4, "loops/timing-chain/then", false, func(s *engine.Sheet) {
		s.Loops[0].Tensioner, s.Loops[0].Then = "", []engine.TensionerID{"ratchet"}
	}},
	{"no-amount", tq3, "fluids/engine-oil/amount", false, func(s *engine.Sheet) { s.Fluids[0].Amount = unit.Quantity{} }},
	{"mark-on-nothing", tq4, "marks/crank-mark/wheel", false, func(s *engine.Sheet) { mark(s, "crank-mark").Wheel = "idler-wheel" }},
	{"order-in-circles", tq4, "fasteners/crank-bolt/after", false, func(s *engine.Sheet) {
		fastener(s, "crank-bolt").After = []engine.FastenerID{"idler-bolt"}
		fastener(s, "idler-bolt").After = []engine.FastenerID{"crank-bolt"}
	}},
	{"shaft-kind", tq4, "shafts/inlet/kind", true, func(s *engine.Sheet) { s.Shafts[1].Kind = "" }},
	{"shaft-kind", tv6, "shafts/hp-pump/kind", true, func(s *engine.Sheet) { engine.NewIndex(s).Shaft("hp-pump").Kind = "" }},
	{"shaft-kind", tb2, "shafts/jack/kind", false, func(s *engine.Sheet) { engine.NewIndex(s).Shaft("jack").Kind = "" }},
	{"no-maker", tq4, "maker", false, func(s *engine.Sheet) { s.Maker = "" }},
	{"archetype", tq4, "evidence/drive/source", false, func(s *engine.Sheet) { s.Archetype = "twin-cam-belt" }},
	{"archetype", tq4, "wheels", false, func(s *engine.Sheet) {
		s.Archetype, s.Evidence = "single-cam-belt", map[string]engine.Proof{engine.DriveEvidence: {Source: "drawing"}}
		a, _ := layout.Named("single-cam-belt")
		s.Loops[0].Pitch, s.Loops[0].Teeth = a.Sheet("").Loops[0].Pitch, a.Sheet("").Loops[0].Teeth
	}},
	{"does-not-close", tq4, "loops/timing-belt/teeth", true, func(s *engine.Sheet) { s.Tensioners[0].Travel = 0.4; s.Wheels[5].X += 5 }},
	{"no-source", tv6, "limits", false, func(s *engine.Sheet) { delete(s.Evidence, "limits") }},
}

func rubbing(s *engine.Sheet) {
	s.Wheels = []engine.Wheel{{ID: "a", Name: "crank", Shaft: "crank", Teeth: 20}, {ID: "b", Name: "inlet", Shaft: "inlet", Teeth: 20, Y: 300}, {ID: "c", Name: "roller", Diameter: 52, X: 1.5, Y: 150}}
	s.Loops[0] = engine.Loop{ID: "l", Name: "belt", Kind: engine.Belt, Pitch: 8, Teeth: 95, Route: []engine.Stop{{Wheel: "a", Side: engine.Inside}, {Wheel: "b", Side: engine.Inside}, {Wheel: "c", Side: engine.Inside}}}
}

func wheel(s *engine.Sheet, id engine.WheelID) *engine.Wheel { return engine.NewIndex(s).Wheel(id) }
func mark(s *engine.Sheet, id engine.MarkID) *engine.Mark    { return engine.NewIndex(s).Mark(id) }
func part(s *engine.Sheet, id engine.PartID) *engine.Part    { return engine.NewIndex(s).Part(id) }

func TestEveryRuleFindsItsMistake(t *testing.T) {
	tried := map[string]bool{}
	for _, c := range spoils {
		tried[c.rule] = true
		s := &fixture.Document(c.file).Engine
		had := whats(prove(s))
		c.do(s)
		fs := prove(s)
		i := slices.IndexFunc(fs, func(f sheetproof.Finding) bool { return f.Rule == c.rule && f.On == c.on && !had[f.What] })
		if !assert.GreaterOrEqual(t, i, 0, "%s at %s: found %v", c.rule, c.on, whats(fs)) {
			continue
		}
		assert.NotEmpty(t, fs[i].Why)
		if !assert.Equal(t, c.mend, len(fs[i].Mends) > 0, "%s at %s has mends %v", c.rule, c.on, fs[i].Mends) || !c.mend {
			continue
		}
		for _, m := range fs[i].Mends {
			assert.NotEmpty(t, m.Label)
			mended, err := engine.Apply(s, m.Edits)
			require.NoError(t, err, m.Label)
			assert.NotContains(t, whats(prove(mended)), fs[i].What, "%s: %q does not settle it", c.rule, m.Label)
		}
	}
	for _, r := range sheetproof.Rules() {
		assert.True(t, tried[r.ID], "no mistake tries %s", r.ID)
		assert.NotEmpty(t, r.Doc, r.ID)
		assert.NotEmpty(t, r.Family, r.ID)
	}
}

func whats(fs []sheetproof.Finding) map[string]bool {
	out := map[string]bool{}
	for _, f := range fs {
		out[f.What] = true
	}
	return out
}

func TestSeveritiesAndOrder(t *testing.T) {
	s := &fixture.Document(tq4).Engine
	s.Sides, s.Loops[0].Teeth, s.Locks[1].Tool = "", 111, ""
	fs := prove(s)
	rank := map[finding.Severity]int{finding.Blocks: 0, finding.ShouldFix: 1, finding.Look: 2}
	assert.True(t, slices.IsSortedFunc(fs, func(a, b sheetproof.Finding) int { return rank[a.Severity] - rank[b.Severity] }))
	assert.Equal(t, 1, sheetproof.Blocking(fs))
	house := finding.DefaultHouse()
	house.Severities = map[string]finding.Severity{"sheet:sides": finding.Blocks}
	assert.Equal(t, 2, sheetproof.Blocking(sheetproof.Prove(engine.NewIndex(s), house)))
}

// A sheet with nothing on it, and one with everything taken out piece by piece,
// is proved without falling over.
func TestBareSheets(t *testing.T) {
	assert.NotEmpty(t, prove(&engine.Sheet{}))
	for _, f := range []string{tq3, tv6, tc4, tb2, ts1} {
		s := &fixture.Document(f).Engine
		for len(s.Wheels) > 0 {
			out, err := engine.Apply(s, []engine.Edit{{Path: "wheels/" + string(s.Wheels[0].ID)}})
			require.NoError(t, err)
			prove(out)
			s = out
		}
		s.Shafts = nil
		prove(s)
	}
}

func BenchmarkProveV6(b *testing.B) {
	s := &fixture.Document(tv6).Engine
	for b.Loop() {
		sheetproof.Prove(engine.NewIndex(s), finding.DefaultHouse())
	}
}

// BenchmarkProveValves is a sheet whose valves and pistons are worked out.
func BenchmarkProveValves(b *testing.B) {
	s := &fixture.Document("renew-timing-belt-r3.latch.json").Engine
	for b.Loop() {
		sheetproof.Prove(engine.NewIndex(s), finding.DefaultHouse())
	}
}

// What follows from another finding hangs under it, and under nothing that is gone.
func TestCausesOfASheetsFindings(t *testing.T) {
	for _, m := range spoils {
		d := fixture.Document(m.file)
		m.do(&d.Engine)
		fs := prove(&d.Engine)
		ids := map[string]bool{}
		for _, f := range fs {
			assert.False(t, ids[f.ID], "%s: two findings go by %s", m.rule, f.ID)
			ids[f.ID] = true
		}
		for _, f := range fs {
			assert.True(t, f.Cause == "" || ids[f.Cause] && f.Cause != f.ID, "%s: %s hangs under %s", m.rule, f.ID, f.Cause)
		}
	}
	d := fixture.Document(tq4)
	d.Engine.Shafts = d.Engine.Shafts[1:]
	follow := 0
	for _, f := range prove(&d.Engine) {
		if f.Cause != "" {
			follow++
		}
	}
	assert.Greater(t, follow, 0, "without a crank nothing is driven")
}

// Mends of a sheet that are taken one after another never lead back to a sheet that there
// was before: from every mistake, and from two at once, taking the first that is offered, or
// the last.
func TestMendsNeverRunInACircle(t *testing.T) {
	chains, longest := 0, 0
	for i, a := range spoils {
		for _, k := range []int{i, (i + 7) % len(spoils), (i + 31) % len(spoils)} {
			b := spoils[k]
			if a.file != b.file {
				continue
			}
			for _, last := range []bool{false, true} {
				s := &fixture.Document(a.file).Engine
				a.do(s)
				if k != i && !tries(func() { b.do(s) }) {
					continue // the first has taken away what the second is about
				}
				chains++
				been := map[string]bool{plain(t, s): true}
				var took []string
				for range 30 {
					var m *sheetproof.Mend
					for _, f := range prove(s) {
						if len(f.Mends) > 0 {
							if m = &f.Mends[0]; last {
								m = &f.Mends[len(f.Mends)-1]
							}
							break
						}
					}
					if m == nil {
						break
					}
					next, err := engine.Apply(s, m.Edits)
					if err != nil {
						break // the mistake is a value that no file has
					}
					s, took = next, append(took, m.Label)
					if now := plain(t, s); !assert.False(t, been[now], "%s and %s: %v leads back", a.rule, b.rule, took) {
						break
					} else {
						been[now] = true
					}
				}
				longest = max(longest, len(took))
				assert.Less(t, len(took), 30, "%s and %s: %v", a.rule, b.rule, took)
			}
		}
	}
	t.Logf("%d chains, the longest of %d mends", chains, longest)
}

func plain(t *testing.T, s *engine.Sheet) string {
	b, err := json.Marshal(s)
	require.NoError(t, err)
	return string(b)
}

// tries reports whether something can be done.
func tries(do func()) (ok bool) {
	defer func() { ok = recover() == nil }()
	do()
	return true
}

func fastener(s *engine.Sheet, id engine.FastenerID) *engine.Fastener {
	for i := range s.Fasteners {
		if s.Fasteners[i].ID == id {
			return &s.Fasteners[i]
		}
	}
	panic("there is no " + id)
}

// spec gives a fastener torques, one stage each.
func spec(s *engine.Sheet, id engine.FastenerID, torques ...string) {
	f := fastener(s, id)
	f.Spec = nil
	for _, text := range torques {
		q, err := unit.Parse(text)
		if err != nil {
			panic(err)
		}
		f.Spec = append(f.Spec, engine.Stage{Torque: q})
	}
}
