package engine

import (
	"slices"
	"strconv"
	"sync"
)

// Index finds things on a sheet by identifier and knows how the shafts hang
// together. Build it once for a sheet and share it: but for the kinds of engine and the
// stand-ins of tools that it has worked out, it is never written again.
type Index struct {
	Sheet      *Sheet
	shafts     map[ShaftID]int
	wheels     map[WheelID]int
	loops      map[LoopID]int
	marks      map[MarkID]int
	locks      map[LockID]int
	tensioners map[TensionerID]int
	fasteners  map[FastenerID]int
	parts      map[PartID]int
	tools      map[ToolID]int
	gears      map[GearID]int
	banks      map[BankID]int
	fluids     map[FluidID]int
	readings   map[ReadingID]int
	sources    map[SourceID]int
	drives     []Drive
	odd        []Disagreement
	geared     []bool // shaft by shaft
	sits       [][]int
	clamped    [][]int
	covers     map[WheelID][]int

	mu    sync.Mutex
	kinds map[string]*Index
	with  map[StandIn]*Index
}

// For is the index of the sheet as it holds for one engine; x itself where no value of
// the sheet has cases. It is worked out once for each kind of engine. It is an error
// when the cases leave a value open, or give it twice.
func (x *Index) For(car Car) (*Index, error) {
	if len(x.Sheet.Varies) == 0 {
		return x, nil
	}
	var key []byte
	for i := range x.Sheet.Varies {
		for _, hit := range x.Sheet.Varies[i].covering(car) {
			key = strconv.AppendInt(append(key, ','), int64(hit), 10)
		}
		key = append(key, ';')
	}
	x.mu.Lock()
	defer x.mu.Unlock()
	if of := x.kinds[string(key)]; of != nil && x.Sheet.madeIn(car.Year) {
		return of, nil
	}
	s, err := x.Sheet.For(car)
	if err != nil {
		return nil, err
	}
	if x.kinds == nil {
		x.kinds = map[string]*Index{}
	}
	x.kinds[string(key)] = NewIndex(s)
	return x.kinds[string(key)], nil
}

func places[K comparable, T any](items []T, id func(*T) K) map[K]int {
	m := make(map[K]int, len(items))
	for i := range items {
		m[id(&items[i])] = i
	}
	return m
}

// NewIndex builds the index of s, which must not be changed afterwards.
func NewIndex(s *Sheet) *Index {
	x := &Index{
		Sheet:      s,
		shafts:     places(s.Shafts, func(v *Shaft) ShaftID { return v.ID }),
		wheels:     places(s.Wheels, func(v *Wheel) WheelID { return v.ID }),
		loops:      places(s.Loops, func(v *Loop) LoopID { return v.ID }),
		marks:      places(s.Marks, func(v *Mark) MarkID { return v.ID }),
		locks:      places(s.Locks, func(v *Lock) LockID { return v.ID }),
		tensioners: places(s.Tensioners, func(v *Tensioner) TensionerID { return v.ID }),
		fasteners:  places(s.Fasteners, func(v *Fastener) FastenerID { return v.ID }),
		parts:      places(s.Parts, func(v *Part) PartID { return v.ID }),
		gears:      places(s.Gears, func(v *Gear) GearID { return v.ID }),
		banks:      places(s.Banks, func(v *Bank) BankID { return v.ID }),
		fluids:     places(s.Fluids, func(v *Fluid) FluidID { return v.ID }),
		sources:    places(s.Sources, func(v *Source) SourceID { return v.ID }),
		readings:   places(s.Readings, func(v *Reading) ReadingID { return v.ID }),
		tools:      places(s.Tools, func(v *Tool) ToolID { return v.ID }),
	}
	x.drives, x.odd = drives(x)
	n := len(x.drives)
	x.geared = make([]bool, n*n)
	for i := range x.geared {
		x.geared[i] = x.GearedBut(i/n, i%n, func(int) bool { return false })
	}
	x.sits = make([][]int, len(s.Wheels))
	for w := range s.Wheels {
		if p := x.PartAt(s.Wheels[w].Part); p >= 0 {
			x.sits[w] = append(x.sits[w], p)
		}
		if sh := x.Shaft(s.Wheels[w].Shaft); sh != nil {
			if p := x.PartAt(sh.Part); p >= 0 {
				x.sits[w] = append(x.sits[w], p)
			}
		}
	}
	x.covers = covers(s)
	x.clamped = make([][]int, len(s.Fasteners))
	for w := range s.Wheels {
		for _, f := range s.Wheels[w].Clamps {
			if i, ok := x.fasteners[f]; ok {
				x.clamped[i] = append(x.clamped[i], w)
			}
		}
	}
	return x
}

// SitsOn are the places of the parts that a wheel comes off with: its own, and its shaft.
func (x *Index) SitsOn(wheel int) []int { return x.sits[wheel] }

// Alone reports whether no loop runs over a wheel and no gear meshes with it: it has its
// place by itself, as a pulley has.
func (x *Index) Alone(id WheelID) bool {
	return !slices.ContainsFunc(x.Sheet.Loops, func(l Loop) bool {
		return slices.ContainsFunc(l.Route, func(s Stop) bool { return s.Wheel == id })
	}) && !slices.ContainsFunc(x.Sheet.Gears, func(g Gear) bool { return g.Driver == id || g.Driven == id })
}

// ClampedBy are the wheels a fastener clamps.
func (x *Index) ClampedBy(fastener int) []int { return x.clamped[fastener] }

func at(m int, ok bool) int {
	if !ok {
		return -1
	}
	return m
}

// The places of things on the sheet, −1 for an identifier it does not have.

// ShaftAt is the place of a shaft in Sheet.Shafts.
func (x *Index) ShaftAt(id ShaftID) int { i, ok := x.shafts[id]; return at(i, ok) }

// WheelAt is the place of a wheel in Sheet.Wheels.
func (x *Index) WheelAt(id WheelID) int { i, ok := x.wheels[id]; return at(i, ok) }

// LoopAt is the place of a loop in Sheet.Loops.
func (x *Index) LoopAt(id LoopID) int { i, ok := x.loops[id]; return at(i, ok) }

// MarkAt is the place of a mark in Sheet.Marks.
func (x *Index) MarkAt(id MarkID) int { i, ok := x.marks[id]; return at(i, ok) }

// TimedBy is the wheel that a shaft is timed by: the first with teeth on it, nil for
// none.
func (x *Index) TimedBy(id ShaftID) *Wheel {
	for i := range x.Sheet.Wheels {
		if w := &x.Sheet.Wheels[i]; w.Shaft == id && w.Teeth > 0 {
			return w
		}
	}
	return nil
}

// LockAt is the place of a lock point in Sheet.Locks.
func (x *Index) LockAt(id LockID) int { i, ok := x.locks[id]; return at(i, ok) }

// TensionerAt is the place of a tensioner in Sheet.Tensioners.
func (x *Index) TensionerAt(id TensionerID) int { i, ok := x.tensioners[id]; return at(i, ok) }

// FastenerAt is the place of a fastener in Sheet.Fasteners.
func (x *Index) FastenerAt(id FastenerID) int { i, ok := x.fasteners[id]; return at(i, ok) }

// PartAt is the place of a part in Sheet.Parts.
func (x *Index) PartAt(id PartID) int { i, ok := x.parts[id]; return at(i, ok) }

// ToolAt is the place of a tool in Sheet.Tools.
func (x *Index) ToolAt(id ToolID) int { i, ok := x.tools[id]; return at(i, ok) }

// GearAt is the place of a gear pair in Sheet.Gears.
func (x *Index) GearAt(id GearID) int { i, ok := x.gears[id]; return at(i, ok) }

// FluidAt is the place of a fluid in Sheet.Fluids.
func (x *Index) FluidAt(id FluidID) int { i, ok := x.fluids[id]; return at(i, ok) }

// The things themselves, nil for an identifier the sheet does not have.

// Shaft finds a shaft.
func (x *Index) Shaft(id ShaftID) *Shaft { return pick(x.Sheet.Shafts, x.ShaftAt(id)) }

// Wheel finds a wheel.
func (x *Index) Wheel(id WheelID) *Wheel { return pick(x.Sheet.Wheels, x.WheelAt(id)) }

// Loop finds a loop.
func (x *Index) Loop(id LoopID) *Loop { return pick(x.Sheet.Loops, x.LoopAt(id)) }

// Mark finds a mark.
func (x *Index) Mark(id MarkID) *Mark { return pick(x.Sheet.Marks, x.MarkAt(id)) }

// Lock finds a lock point.
func (x *Index) Lock(id LockID) *Lock { return pick(x.Sheet.Locks, x.LockAt(id)) }

// Tensioner finds a tensioner.
func (x *Index) Tensioner(id TensionerID) *Tensioner {
	return pick(x.Sheet.Tensioners, x.TensionerAt(id))
}

// Fastener finds a fastener.
func (x *Index) Fastener(id FastenerID) *Fastener { return pick(x.Sheet.Fasteners, x.FastenerAt(id)) }

// Part finds a part.
func (x *Index) Part(id PartID) *Part { return pick(x.Sheet.Parts, x.PartAt(id)) }

// Tool finds a tool.
func (x *Index) Tool(id ToolID) *Tool { return pick(x.Sheet.Tools, x.ToolAt(id)) }

// Fluid finds a fluid.
func (x *Index) Fluid(id FluidID) *Fluid { return pick(x.Sheet.Fluids, x.FluidAt(id)) }

// covers are the parts that hide each wheel: those that list it, and covers that hide
// a mark on it.
func covers(s *Sheet) map[WheelID][]int {
	out := map[WheelID][]int{}
	for i := range s.Parts {
		p := &s.Parts[i]
		hides := slices.Clone(p.Hides)
		for k := range s.Marks {
			if m := &s.Marks[k]; m.Behind == p.ID && p.Kind == Cover && m.Kind != LoopMark && m.Wheel != "" {
				hides = append(hides, m.Wheel)
			}
		}
		for k, w := range hides {
			if !slices.Contains(hides[:k], w) {
				out[w] = append(out[w], i)
			}
		}
	}
	return out
}

// Covers are the places of the parts that hide a wheel while they are on.
func (x *Index) Covers(id WheelID) []int { return x.covers[id] }

// MarkShaft is the shaft a timing mark turns with: that of its wheel, or the one
// it is on itself; empty for none that the sheet has.
func (x *Index) MarkShaft(m *Mark) ShaftID {
	id := m.Shaft
	if w := x.Wheel(m.Wheel); w != nil {
		id = w.Shaft
	}
	if x.ShaftAt(id) < 0 {
		return ""
	}
	return id
}

func pick[T any](items []T, i int) *T {
	if i < 0 {
		return nil
	}
	return &items[i]
}

// MarkHomeEvery is the number of crank turns between two homes of mark m: by
// its shaft for a timing mark; for a mark on a loop the least count at which
// both its tooth of the loop and the wheel it is read at are back; 0 when
// unknown.
func (x *Index) MarkHomeEvery(m *Mark) int64 {
	if m.Kind == LoopMark {
		l := x.Loop(m.Loop)
		if l == nil {
			return 0
		}
		w := x.Driver(x.LoopAt(m.Loop))
		if w < 0 {
			return 0
		}
		n := x.loopHome(w, l)
		if at := x.Wheel(m.Wheel); at != nil && n > 0 {
			n = LCM(n, x.ShaftHomeEvery(at.Shaft, 1))
		}
		return n
	}
	return x.ShaftHomeEvery(x.MarkShaft(m), 1)
}

// LockHomeEvery is the number of crank turns between two counts at which lock l
// goes in; 0 for a lock that fits anywhere or holds no driven shaft.
func (x *Index) LockHomeEvery(l *Lock) int64 {
	if !l.Kind.ForPosition() {
		return 0
	}
	n := int64(1)
	for _, s := range l.Holds {
		h := x.ShaftHomeEvery(s, l.Repeats)
		if h == 0 {
			return 0
		}
		n = LCM(n, h)
	}
	return n
}

// ShaftHomeEvery is Ratio.HomeEvery for a shaft of the sheet; 0 when no loop
// drives it.
func (x *Index) ShaftHomeEvery(id ShaftID, repeats int) int64 {
	i := x.ShaftAt(id)
	if i < 0 || !x.drives[i].Driven {
		return 0
	}
	return x.drives[i].Ratio.HomeEvery(repeats)
}

// loopHome is the number of whole crank turns after which loop l and its driver
// w stand tooth for tooth as at the timing position: with r the driver's turns
// for one of the crank and z its teeth, the least n with n·|r|·z a multiple of
// the loop's teeth and n·|r| whole. Driven by the crank it is lcm(loop, z)/z.
func (x *Index) loopHome(w int, l *Loop) int64 {
	d := x.Drive(x.ShaftAt(x.Sheet.Wheels[w].Shaft))
	if l.Teeth < 1 || d.Ratio.Num == 0 {
		return 0
	}
	n := d.Ratio.Abs().Mul(NewRatio(int64(x.Sheet.Wheels[w].Teeth), int64(l.Teeth))).Den
	return LCM(n, max(d.Ratio.HomeEvery(1), 1)) // the loop is back, and so is the wheel
}
