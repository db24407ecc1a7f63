// Package layout makes engine sheets to start from: common layouts of a timing
// drive whose geometry closes, to be pulled into the shape of a real engine. All
// their measures are invented; a sheet started from one says so in
// engine.Sheet.Archetype until it names where its own measures come from.
package layout

import (
	"math"
	"reflect"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/route"
)

// Archetype is one layout.
type Archetype struct {
	// ID names it in a sheet; Name is what people call the layout, Says what is on it.
	ID, Name, Says string
	draw           func(*engine.Sheet)
}

// All lists the layouts, the plainest first. The layouts are common practice, no
// source.
func All() []Archetype { return all }

var all = []Archetype{
	{"single-cam-belt", "Single cam, belt", "Four cylinders in line, one camshaft, a belt with a roller and the coolant pump", singleCamBelt},
	{"twin-cam-belt", "Twin cam, belt", "Four cylinders in line, inlet and exhaust camshaft, a belt with a roller, an idler and the coolant pump", twinCamBelt},
	{"twin-cam-chain", "Twin cam, chain", "Four cylinders in line, inlet and exhaust camshaft, a chain between a tensioner rail and a guide rail", twinCamChain},
	{"vee-gears", "V, belt and cam gears", "Six cylinders in two banks, a belt over the inlet camshafts, a gear pair to the exhaust camshaft in each head", veeGears},
	{"twin-two-belts", "V twin, two belts", "Two cylinders, a jackshaft geared to half the speed of the crank, a belt to the camshaft of each head", twinTwoBelts},
	{"vee-chains", "V, secondary chains", "Six cylinders in two banks, a chain over the inlet camshafts, a short chain to the exhaust camshaft in each head", veeChains},
	{"boxer", "Boxer, belt", "Four cylinders lying opposite, a camshaft for each side, a belt with a roller and an idler", boxer},
	{"gear-train", "Gear train", "Four cylinders in line, an idler gear between crank, camshaft and injection pump", gearTrain},
	{"pushrods", "Single, pushrods", "One cylinder, a camshaft beside the crank on a pair of gears, a balance shaft on another", pushrods},
	{"single", "Single, chain", "One cylinder, one camshaft, a chain with a tensioner rail", single},
}

// Named finds a layout by its id; false where there is none.
func Named(id string) (Archetype, bool) {
	for _, a := range all {
		if a.ID == id {
			return a, true
		}
	}
	return Archetype{}, false
}

// Sheet draws the layout: shafts, wheels, belts and chains, tensioners, gears and
// banks, and nothing of what only a maker can say. Each call gives a sheet of its
// own.
func (a Archetype) Sheet(code string) *engine.Sheet {
	s := &engine.Sheet{
		Code: code, Archetype: a.ID, Cycle: engine.FourStroke, Interference: engine.Unknown, Running: engine.Clockwise,
		View:   "front, looking at the timing drive",
		Shafts: []engine.Shaft{{ID: engine.CrankID, Name: "crank", Kind: engine.Crankshaft}},
		Wheels: []engine.Wheel{}, Loops: []engine.Loop{},
	}
	a.draw(s)
	for i := range s.Loops {
		settle(s, &s.Loops[i])
	}
	usual(s)
	return s
}

// usual puts what such an engine commonly has on a sheet as empty places, to be filled or
// taken out: a mark on the crank and on every camshaft, a lock for the crank and one for the
// camshafts, a cover, the belt or chain as a part, the bolts of the crank and of what sets
// the tension. Common practice, no source.
func usual(s *engine.Sheet) {
	var cams []engine.ShaftID
	marked := map[engine.ShaftID]bool{}
	for i := range s.Wheels {
		w := &s.Wheels[i]
		k := slices.IndexFunc(s.Shafts, func(h engine.Shaft) bool { return h.ID == w.Shaft })
		if k < 0 || w.Teeth == 0 || marked[w.Shaft] || w.Shaft != engine.CrankID && !s.Shafts[k].Kind.IsCam() {
			continue
		}
		marked[w.Shaft] = true
		if w.Shaft == engine.CrankID {
			w.Clamps = []engine.FastenerID{"crank-bolt"}
		}
		s.Marks = append(s.Marks, engine.Mark{ID: engine.MarkID(string(w.Shaft) + "-mark"), Name: s.Shafts[k].Name + " mark", Kind: engine.TimingMark, Wheel: w.ID})
		if w.Shaft != engine.CrankID {
			cams = append(cams, w.Shaft)
		}
	}
	s.Locks = append(s.Locks, engine.Lock{ID: "crank-lock", Name: "crank pin", Kind: engine.PinLock, Holds: []engine.ShaftID{engine.CrankID}, Repeats: 1})
	if len(cams) > 0 && len(s.Loops) > 0 {
		s.Locks = append(s.Locks, engine.Lock{ID: "cam-lock", Name: "cam lock", Kind: engine.BarLock, Holds: cams, Repeats: 1})
	}
	s.Parts = append(s.Parts, engine.Part{ID: "cover", Name: "timing cover", Kind: engine.Cover, Policy: engine.Reuse, Held: []engine.FastenerID{"cover-bolt"}})
	s.Fasteners = append(s.Fasteners,
		engine.Fastener{ID: "cover-bolt", Name: "timing cover bolt", Count: 1},
		engine.Fastener{ID: "crank-bolt", Name: "crank bolt", Count: 1, OnShaft: engine.CrankID})
	for i := range s.Loops {
		l := &s.Loops[i]
		policy := engine.AlwaysNew
		if l.Kind == engine.Chain {
			policy = engine.NewIfFoundSo
		}
		s.Parts = append(s.Parts, engine.Part{ID: engine.PartID(l.ID), Name: l.Name, Kind: engine.LoopPart, Policy: policy, After: []engine.PartID{"cover"}})
		l.Part = engine.PartID(l.ID)
	}
	for i := range s.Tensioners {
		t := &s.Tensioners[i]
		bolt := engine.Fastener{ID: engine.FastenerID(string(t.ID) + "-bolt"), Name: t.Name + " bolt", Count: 1}
		s.Fasteners = append(s.Fasteners, bolt)
		t.Bolts = append(t.Bolts, bolt.ID)
	}
}

// settle gives a loop the nearest count that closes, an even one for a chain, and
// moves its roller to where the loop sits in the middle of the travel, to a tenth
// of a millimetre.
func settle(s *engine.Sheet, l *engine.Loop) {
	x := engine.NewIndex(s)
	p, err := route.Of(x, l)
	if err != nil {
		return
	}
	step := 1.0
	if l.Kind == engine.Chain {
		step = 2
	}
	l.Teeth = int(step * math.Round(float64(p.Length())/l.Pitch/step))
	for range 4 { // each move turns the way the roller moves a little
		cs, err := route.Closings(engine.NewIndex(s), l)
		if err != nil {
			return
		}
		for _, c := range cs {
			if c.Teeth != l.Teeth || !c.Found {
				continue
			}
			w := x.Wheel(x.Tensioner(l.Tensioner).Wheel)
			w.X, w.Y = math.Round(c.At.X*10)/10, math.Round(c.At.Y*10)/10
		}
	}
}

func shaft(id, name string, kind engine.ShaftKind, bank engine.BankID) engine.Shaft {
	return engine.Shaft{ID: engine.ShaftID(id), Name: name, Kind: kind, Bank: bank}
}

func toothed(id, name string, shaft engine.ShaftID, teeth int, x, y float64) engine.Wheel {
	return engine.Wheel{ID: engine.WheelID(id), Name: name, Shaft: shaft, Mount: engine.Keyed, Teeth: teeth, X: x, Y: y}
}

func roller(id, name string, diameter, x, y float64) engine.Wheel {
	return engine.Wheel{ID: engine.WheelID(id), Name: name, Mount: engine.Idle, Diameter: diameter, X: x, Y: y}
}

func rail(id, name string, diameter, x, y float64) engine.Wheel {
	return engine.Wheel{ID: engine.WheelID(id), Name: name, Mount: engine.Rail, Diameter: diameter, X: x, Y: y}
}

// over is a loop over wheels in the order it travels; those whose id begins with a
// minus are met with its back.
func over(id, name string, kind engine.LoopKind, pitch float64, tensioner engine.TensionerID, wheels ...string) engine.Loop {
	l := engine.Loop{ID: engine.LoopID(id), Name: name, Kind: kind, Pitch: pitch, Tensioner: tensioner}
	if kind == engine.Belt {
		l.Thickness = 1.4
	}
	for _, w := range wheels {
		side := engine.Inside
		if w[0] == '-' {
			w, side = w[1:], engine.Back
		}
		l.Route = append(l.Route, engine.Stop{Wheel: engine.WheelID(w), Side: side})
	}
	return l
}

func tensioner(id, name string, m engine.Method, wheel engine.WheelID, travel float64) engine.Tensioner {
	return engine.Tensioner{ID: engine.TensionerID(id), Name: name, Method: m, Wheel: wheel, Travel: travel}
}

func singleCamBelt(s *engine.Sheet) {
	s.Cylinders = 4
	s.Shafts = append(s.Shafts, shaft("cam", "cam", engine.Camshaft, ""))
	s.Wheels = append(s.Wheels,
		toothed("crank-wheel", "crank", engine.CrankID, 20, 0, 0),
		roller("tensioner-wheel", "tensioner", 54, -46, 118),
		toothed("cam-wheel", "cam", "cam", 40, 0, 252),
		roller("pump-wheel", "coolant pump", 60, 54, 110))
	s.Loops = append(s.Loops, over("timing-belt", "timing belt", engine.Belt, 8, "tensioner", "crank-wheel", "-tensioner-wheel", "cam-wheel", "-pump-wheel"))
	s.Tensioners = append(s.Tensioners, tensioner("tensioner", "tensioner", engine.Eccentric, "tensioner-wheel", 6))
}

func twinCamBelt(s *engine.Sheet) {
	s.Cylinders = 4
	s.Shafts = append(s.Shafts, shaft("inlet", "inlet cam", engine.InletCam, ""), shaft("exhaust", "exhaust cam", engine.ExhaustCam, ""))
	s.Wheels = append(s.Wheels,
		toothed("crank-wheel", "crank", engine.CrankID, 22, 0, 0),
		roller("tensioner-wheel", "tensioner", 54, -44, 62),
		roller("pump-wheel", "coolant pump", 62, -72, 148),
		toothed("inlet-wheel", "inlet cam", "inlet", 44, -66, 270),
		toothed("exhaust-wheel", "exhaust cam", "exhaust", 44, 66, 270),
		roller("idler-wheel", "idler", 46, 66, 112))
	s.Loops = append(s.Loops, over("timing-belt", "timing belt", engine.Belt, 8, "tensioner", "crank-wheel", "-tensioner-wheel", "-pump-wheel", "inlet-wheel", "exhaust-wheel", "-idler-wheel"))
	s.Tensioners = append(s.Tensioners, tensioner("tensioner", "tensioner", engine.Eccentric, "tensioner-wheel", 6))
}

func twinCamChain(s *engine.Sheet) {
	s.Cylinders = 4
	s.Shafts = append(s.Shafts, shaft("inlet", "inlet cam", engine.InletCam, ""), shaft("exhaust", "exhaust cam", engine.ExhaustCam, ""))
	s.Wheels = append(s.Wheels,
		toothed("crank-wheel", "crank", engine.CrankID, 20, 0, 0),
		rail("tensioner-rail", "tensioner rail", 330, -209, 112),
		toothed("inlet-wheel", "inlet cam", "inlet", 40, -62, 300),
		toothed("exhaust-wheel", "exhaust cam", "exhaust", 40, 62, 300),
		rail("guide-rail", "guide rail", 560, 325, 60))
	s.Loops = append(s.Loops, over("timing-chain", "timing chain", engine.Chain, 8, "tensioner", "crank-wheel", "-tensioner-rail", "inlet-wheel", "exhaust-wheel", "-guide-rail"))
	s.Tensioners = append(s.Tensioners, tensioner("tensioner", "tensioner", engine.Ratchet, "tensioner-rail", 12))
}

// vee is what six cylinders in two banks have alike: the banks, and an inlet and an exhaust
// camshaft for each.
func vee(s *engine.Sheet) {
	s.Cylinders = 6
	s.Banks = []engine.Bank{{ID: "left", Name: "left"}, {ID: "right", Name: "right"}}
	s.Shafts = append(s.Shafts,
		shaft("left-inlet", "left inlet cam", engine.InletCam, "left"), shaft("left-exhaust", "left exhaust cam", engine.ExhaustCam, "left"),
		shaft("right-inlet", "right inlet cam", engine.InletCam, "right"), shaft("right-exhaust", "right exhaust cam", engine.ExhaustCam, "right"))
}

func veeGears(s *engine.Sheet) {
	vee(s)
	s.Wheels = append(s.Wheels,
		toothed("crank-wheel", "crank", engine.CrankID, 24, 0, 0),
		roller("tensioner-wheel", "tensioner", 58, -64, 74),
		toothed("left-wheel", "left cam", "left-inlet", 48, -140, 276),
		roller("valley-wheel", "valley idler", 64, 0, 248),
		toothed("right-wheel", "right cam", "right-inlet", 48, 140, 276),
		roller("idler-wheel", "idler", 58, 64, 74),
		toothed("left-gear-a", "left inlet gear", "left-inlet", 36, -140, 276),
		toothed("left-gear-b", "left exhaust gear", "left-exhaust", 36, -212, 276),
		toothed("right-gear-a", "right inlet gear", "right-inlet", 36, 140, 276),
		toothed("right-gear-b", "right exhaust gear", "right-exhaust", 36, 212, 276))
	s.Loops = append(s.Loops, over("timing-belt", "timing belt", engine.Belt, 8, "tensioner", "crank-wheel", "-tensioner-wheel", "left-wheel", "-valley-wheel", "right-wheel", "-idler-wheel"))
	s.Tensioners = append(s.Tensioners, tensioner("tensioner", "tensioner", engine.Hydraulic, "tensioner-wheel", 8))
	s.Gears = []engine.Gear{
		{ID: "left-gears", Name: "left cam gears", Driver: "left-gear-a", Driven: "left-gear-b", Module: 2, Inside: true},
		{ID: "right-gears", Name: "right cam gears", Driver: "right-gear-a", Driven: "right-gear-b", Module: 2, Inside: true},
	}
}

func twinTwoBelts(s *engine.Sheet) {
	s.Cylinders = 2
	s.Banks = []engine.Bank{{ID: "left", Name: "left"}, {ID: "right", Name: "right"}}
	s.Shafts = append(s.Shafts, engine.Shaft{ID: "jack", Name: "jackshaft", Kind: engine.Pump},
		shaft("left-cam", "left cam", engine.Camshaft, "left"), shaft("right-cam", "right cam", engine.Camshaft, "right"))
	s.Wheels = append(s.Wheels,
		toothed("crank-gear", "crank gear", engine.CrankID, 32, 0, 0),
		toothed("jack-gear", "jackshaft gear", "jack", 64, 0, 72),
		toothed("left-drive", "left drive", "jack", 20, 0, 72),
		toothed("right-drive", "right drive", "jack", 20, 0, 72),
		toothed("left-wheel", "left cam", "left-cam", 20, -123, 248.6),
		toothed("right-wheel", "right cam", "right-cam", 20, 123, 248.6),
		roller("left-fixed", "left idler", 34, -90, 148),
		roller("left-roller", "left tensioner", 34, -38, 158),
		roller("right-fixed", "right idler", 34, 38, 158),
		roller("right-roller", "right tensioner", 34, 86, 148))
	s.Loops = append(s.Loops,
		over("left-belt", "left belt", engine.Belt, 8, "left-tensioner", "left-drive", "-left-roller", "left-wheel", "-left-fixed"),
		over("right-belt", "right belt", engine.Belt, 8, "right-tensioner", "right-drive", "-right-roller", "right-wheel", "-right-fixed"))
	s.Tensioners = append(s.Tensioners,
		tensioner("left-tensioner", "left tensioner", engine.Eccentric, "left-roller", 5),
		tensioner("right-tensioner", "right tensioner", engine.Eccentric, "right-roller", 5))
	s.Gears = []engine.Gear{{ID: "jack-gears", Name: "jackshaft gears", Driver: "crank-gear", Driven: "jack-gear", Module: 1.5, Inside: true}}
}

func veeChains(s *engine.Sheet) {
	vee(s)
	s.Wheels = append(s.Wheels,
		toothed("crank-wheel", "crank", engine.CrankID, 21, 0, 0),
		rail("primary-rail", "tensioner rail", 500, -334, 20.5),
		toothed("left-wheel", "left inlet", "left-inlet", 42, -150, 302.3),
		roller("valley-wheel", "valley idler", 70, 0, 150),
		toothed("right-wheel", "right inlet", "right-inlet", 42, 150, 302.3),
		toothed("left-second", "left inlet secondary", "left-inlet", 28, -150, 302.3),
		rail("left-shoe", "left shoe", 60, -179.9, 213.3),
		toothed("left-end", "left exhaust secondary", "left-exhaust", 28, -268.7, 242.3),
		toothed("right-second", "right inlet secondary", "right-inlet", 28, 150, 302.3),
		rail("right-shoe", "right shoe", 60, 238.9, 331.3),
		toothed("right-end", "right exhaust secondary", "right-exhaust", 28, 268.7, 242.3))
	s.Loops = append(s.Loops,
		over("primary-chain", "primary chain", engine.Chain, 9.525, "primary-tensioner", "crank-wheel", "-primary-rail", "left-wheel", "-valley-wheel", "right-wheel"),
		over("left-chain", "left secondary chain", engine.Chain, 9.525, "left-tensioner", "left-second", "-left-shoe", "left-end"),
		over("right-chain", "right secondary chain", engine.Chain, 9.525, "right-tensioner", "right-second", "-right-shoe", "right-end"))
	s.Tensioners = append(s.Tensioners,
		tensioner("primary-tensioner", "tensioner", engine.Ratchet, "primary-rail", 12),
		tensioner("left-tensioner", "left tensioner", engine.SpringArm, "left-shoe", 6),
		tensioner("right-tensioner", "right tensioner", engine.SpringArm, "right-shoe", 6))
}

func boxer(s *engine.Sheet) {
	s.Cylinders = 4
	s.Banks = []engine.Bank{{ID: "left", Name: "left"}, {ID: "right", Name: "right"}}
	s.Shafts = append(s.Shafts, shaft("left-cam", "left cam", engine.Camshaft, "left"), shaft("right-cam", "right cam", engine.Camshaft, "right"))
	s.Wheels = append(s.Wheels,
		toothed("crank-wheel", "crank", engine.CrankID, 24, 0, 0),
		roller("tensioner-wheel", "tensioner", 54, -72, -4),
		toothed("left-wheel", "left cam", "left-cam", 48, -230, 70),
		toothed("right-wheel", "right cam", "right-cam", 48, 230, 70),
		roller("idler-wheel", "idler", 54, 72, -4))
	s.Loops = append(s.Loops, over("timing-belt", "timing belt", engine.Belt, 8, "tensioner", "crank-wheel", "-tensioner-wheel", "left-wheel", "right-wheel", "-idler-wheel"))
	s.Tensioners = append(s.Tensioners, tensioner("tensioner", "tensioner", engine.Hydraulic, "tensioner-wheel", 8))
}

// meshed is a gear whose wheel meshes with another of the same module, so many degrees
// counterclockwise from the right of it.
func meshed(id, name string, shaft engine.ShaftID, teeth int, module float64, of engine.Wheel, at float64) engine.Wheel {
	sin, cos := math.Sincos(at * math.Pi / 180)
	d := module * float64(of.Teeth+teeth) / 2
	return toothed(id, name, shaft, teeth, math.Round((of.X+d*cos)*10)/10, math.Round((of.Y+d*sin)*10)/10)
}

func gearTrain(s *engine.Sheet) {
	s.Cylinders = 4
	s.Shafts = append(s.Shafts, shaft("idler", "idler", engine.Intermediate, ""), shaft("cam", "cam", engine.Camshaft, ""), shaft("pump", "injection pump", engine.Pump, ""))
	crank := toothed("crank-gear", "crank", engine.CrankID, 32, 0, 0)
	idler := meshed("idler-gear", "idler", "idler", 46, 3, crank, 72)
	s.Wheels = append(s.Wheels, crank, idler, meshed("cam-gear", "cam", "cam", 64, 3, idler, 128), meshed("pump-gear", "injection pump", "pump", 64, 3, idler, 22))
	s.Gears = []engine.Gear{
		{ID: "crank-idler", Name: "crank and idler gears", Driver: "crank-gear", Driven: "idler-gear", Module: 3},
		{ID: "idler-cam", Name: "idler and cam gears", Driver: "idler-gear", Driven: "cam-gear", Module: 3},
		{ID: "idler-pump", Name: "idler and pump gears", Driver: "idler-gear", Driven: "pump-gear", Module: 3},
	}
}

func pushrods(s *engine.Sheet) {
	s.Cylinders = 1
	s.Shafts = append(s.Shafts, shaft("cam", "cam", engine.Camshaft, ""), shaft("balance", "balance shaft", engine.Balance, ""))
	crank := toothed("crank-gear", "crank", engine.CrankID, 25, 0, 0)
	drive := toothed("drive-gear", "balance drive", engine.CrankID, 38, 0, 0)
	s.Wheels = append(s.Wheels, crank, drive, meshed("cam-gear", "cam", "cam", 50, 2, crank, 40), meshed("balance-gear", "balance", "balance", 38, 2, drive, 170))
	s.Gears = []engine.Gear{
		{ID: "cam-gears", Name: "cam gears", Driver: "crank-gear", Driven: "cam-gear", Module: 2},
		{ID: "balance-gears", Name: "balance gears", Driver: "drive-gear", Driven: "balance-gear", Module: 2},
	}
}

func single(s *engine.Sheet) {
	s.Cylinders = 1
	s.Shafts = append(s.Shafts, shaft("cam", "cam", engine.Camshaft, ""))
	s.Wheels = append(s.Wheels,
		toothed("crank-wheel", "crank", engine.CrankID, 16, 0, 0),
		rail("tensioner-rail", "tensioner rail", 240, -134, 92),
		toothed("cam-wheel", "cam", "cam", 32, 0, 188.6))
	s.Loops = append(s.Loops, over("cam-chain", "cam chain", engine.Chain, 6.35, "tensioner", "crank-wheel", "-tensioner-rail", "cam-wheel"))
	s.Tensioners = append(s.Tensioners, tensioner("tensioner", "tensioner", engine.Ratchet, "tensioner-rail", 7))
}

// Empty are the marks and locks of a sheet that are as its layout has them: places that
// nobody has filled yet. Empty for a sheet that was not started from one.
func Empty(s *engine.Sheet) (out []engine.Ref) {
	a, ok := Named(s.Archetype)
	if !ok {
		return nil
	}
	was := engine.NewIndex(a.Sheet(s.Code))
	for i := range s.Marks {
		if o := was.Mark(s.Marks[i].ID); o != nil && *o == s.Marks[i] {
			out = append(out, engine.Ref{Kind: engine.KindMark, ID: string(o.ID)})
		}
	}
	for i := range s.Locks {
		if o := was.Lock(s.Locks[i].ID); o != nil && reflect.DeepEqual(*o, s.Locks[i]) {
			out = append(out, engine.Ref{Kind: engine.KindLock, ID: string(o.ID)})
		}
	}
	return out
}

// Left are the wheels, belts and chains of a sheet that still measure exactly what
// its archetype gave them, by their ids, in the mirror too; the crank’s own wheel is where it is on
// every engine and does not count by its place. Empty for a sheet that was not
// started from one.
func Left(s *engine.Sheet) (wheels []engine.WheelID, loops []engine.LoopID) {
	a, ok := Named(s.Archetype)
	if !ok {
		return nil, nil
	}
	was := a.Sheet(s.Code)
	x := engine.NewIndex(was)
	for i := range s.Wheels {
		w := &s.Wheels[i]
		if o := x.Wheel(w.ID); o != nil && math.Abs(o.X) == math.Abs(w.X) && o.Y == w.Y && o.Teeth == w.Teeth && o.Diameter == w.Diameter {
			wheels = append(wheels, w.ID)
		}
	}
	for i := range s.Loops {
		l := &s.Loops[i]
		if o := x.Loop(l.ID); o != nil && o.Pitch == l.Pitch && o.Teeth == l.Teeth {
			loops = append(loops, l.ID)
		}
	}
	return wheels, loops
}
