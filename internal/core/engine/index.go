package engine

// Index finds things on a sheet by identifier and knows how the shafts hang
// together. Build it once for a sheet and share it: it is never written again.
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
	drives     []Drive
	clamped    [][]int
}

// Drive is how one shaft is driven from the crank.
type Drive struct {
	// Driven is false for a shaft no loop reaches.
	Driven bool
	Ratio  Ratio
	// Loops are the loops between crank and shaft, as places in Sheet.Loops.
	Loops []int
	// Wheels are the wheels that must be clamped for the shaft to follow.
	Wheels []int
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
		tools:      places(s.Tools, func(v *Tool) ToolID { return v.ID }),
	}
	x.drives = drives(x)
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

// drives walks the loops outwards from the crank.
func drives(x *Index) []Drive {
	s := x.Sheet
	out := make([]Drive, len(s.Shafts))
	crank, ok := x.shafts[CrankID]
	if !ok {
		return out
	}
	out[crank] = Drive{Driven: true, Ratio: One}
	queue := []int{crank}
	for len(queue) > 0 {
		from := queue[0]
		queue = queue[1:]
		for l := range s.Loops {
			driver := x.wheelOn(l, s.Shafts[from].ID)
			if driver < 0 {
				continue
			}
			for _, stop := range s.Loops[l].Route {
				w, ok := x.wheels[stop.Wheel]
				if !ok || s.Wheels[w].Teeth == 0 {
					continue
				}
				to, ok := x.shafts[s.Wheels[w].Shaft]
				if !ok || out[to].Driven {
					continue
				}
				sign := int64(1)
				if stop.Side == Back {
					sign = -1
				}
				d := out[from]
				out[to] = Drive{
					Driven: true,
					Ratio:  d.Ratio.Mul(NewRatio(sign*int64(s.Wheels[driver].Teeth), int64(s.Wheels[w].Teeth))),
					Loops:  append(append([]int(nil), d.Loops...), l),
					Wheels: append(append([]int(nil), d.Wheels...), driver, w),
				}
				queue = append(queue, to)
			}
		}
	}
	return out
}

// wheelOn is the toothed wheel of a shaft on loop l, or −1.
func (x *Index) wheelOn(l int, id ShaftID) int {
	for _, stop := range x.Sheet.Loops[l].Route {
		if w, ok := x.wheels[stop.Wheel]; ok && x.Sheet.Wheels[w].Shaft == id && x.Sheet.Wheels[w].Teeth > 0 {
			return w
		}
	}
	return -1
}

// Drive is how shaft i hangs on the crank.
func (x *Index) Drive(i int) *Drive { return &x.drives[i] }

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

func pick[T any](items []T, i int) *T {
	if i < 0 {
		return nil
	}
	return &items[i]
}

// MarkHomeEvery is the number of crank turns between two homes of mark m: by
// its shaft for a timing mark, by lcm for a mark on the loop; 0 when unknown.
func (x *Index) MarkHomeEvery(m *Mark) int64 {
	if m.Kind == LoopMark {
		l := x.Loop(m.Loop)
		if l == nil {
			return 0
		}
		w := x.wheelOn(x.LoopAt(m.Loop), CrankID)
		if w < 0 {
			return 0
		}
		return LoopReturns(l.Teeth, x.Sheet.Wheels[w].Teeth)
	}
	w := x.Wheel(m.Wheel)
	if w == nil {
		return 0
	}
	return x.ShaftHomeEvery(w.Shaft, 1)
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
