package engine

// Drive is how one shaft is driven from the crank.
type Drive struct {
	// Driven is false for a shaft that nothing on the sheet drives.
	Driven bool
	Ratio  Ratio
	// Loops and Gears are those between crank and shaft, as places on the sheet.
	Loops []int
	Gears []int
	// Wheels are the wheels that must be clamped for the shaft to follow, in
	// pairs of driver and driven from the crank outwards.
	Wheels []int
}

// Running is the way a shaft turns in running direction; "" stands for the crank.
func (x *Index) Running(id ShaftID) Way {
	if i := x.ShaftAt(id); i >= 0 && id != CrankID && x.Direction(i) != "" {
		return x.Direction(i)
	}
	return x.Sheet.Running
}

// Disagreement is a shaft that two ways of driving it would turn differently.
type Disagreement struct {
	Shaft ShaftID
	A, B  Ratio
}

// hop is one step outwards from a driven shaft.
type hop struct {
	to, driver, driven int
	ratio              Ratio
	loop, gear         int
}

// drives walks loops and gear pairs outwards from the crank.
func drives(x *Index) ([]Drive, []Disagreement) {
	out := make([]Drive, len(x.Sheet.Shafts))
	crank, ok := x.shafts[CrankID]
	if !ok {
		return out, nil
	}
	var odd []Disagreement
	out[crank] = Drive{Driven: true, Ratio: One}
	queue := []int{crank}
	for len(queue) > 0 {
		from := queue[0]
		queue = queue[1:]
		for _, h := range append(loopHops(x, from), gearHops(x, from)...) {
			d := out[from]
			r := d.Ratio.Mul(h.ratio)
			if out[h.to].Driven {
				if out[h.to].Ratio != r {
					odd = append(odd, Disagreement{x.Sheet.Shafts[h.to].ID, out[h.to].Ratio, r})
				}
				continue
			}
			next := Drive{Driven: true, Ratio: r, Loops: clip(d.Loops), Gears: clip(d.Gears), Wheels: append(clip(d.Wheels), h.driver, h.driven)}
			if h.loop >= 0 {
				next.Loops = append(next.Loops, h.loop)
			} else {
				next.Gears = append(next.Gears, h.gear)
			}
			out[h.to] = next
			queue = append(queue, h.to)
		}
	}
	return out, odd
}

// clip makes appending to a shared slice copy it.
func clip(s []int) []int { return s[:len(s):len(s)] }

func loopHops(x *Index, from int) []hop {
	s := x.Sheet
	var out []hop
	for l := range s.Loops {
		driver := x.WheelOn(l, s.Shafts[from].ID)
		if driver < 0 {
			continue
		}
		sides := map[int]Side{}
		for _, stop := range s.Loops[l].Route {
			if w, ok := x.wheels[stop.Wheel]; ok {
				sides[w] = stop.Side
			}
		}
		for _, stop := range s.Loops[l].Route {
			w, ok := x.wheels[stop.Wheel]
			if !ok || s.Wheels[w].Teeth == 0 || w == driver {
				continue
			}
			to, ok := x.shafts[s.Wheels[w].Shaft]
			if !ok || to == from {
				continue
			}
			sign := int64(1)
			if sides[w] != sides[driver] {
				sign = -1
			}
			out = append(out, hop{to, driver, w, NewRatio(sign*int64(s.Wheels[driver].Teeth), int64(s.Wheels[w].Teeth)), l, -1})
		}
	}
	return out
}

func gearHops(x *Index, from int) []hop {
	s := x.Sheet
	var out []hop
	for g := range s.Gears {
		a, okA := x.wheels[s.Gears[g].Driver]
		b, okB := x.wheels[s.Gears[g].Driven]
		if !okA || !okB || s.Wheels[a].Teeth == 0 || s.Wheels[b].Teeth == 0 {
			continue
		}
		sign := int64(-1)
		if s.Gears[g].Idlers%2 == 1 {
			sign = 1
		}
		for _, pair := range [2][2]int{{a, b}, {b, a}} {
			if s.Wheels[pair[0]].Shaft != s.Shafts[from].ID {
				continue
			}
			if to, ok := x.shafts[s.Wheels[pair[1]].Shaft]; ok && to != from {
				out = append(out, hop{to, pair[0], pair[1], NewRatio(sign*int64(s.Wheels[pair[0]].Teeth), int64(s.Wheels[pair[1]].Teeth)), -1, g})
			}
		}
	}
	return out
}

// WheelOn is the toothed wheel of a shaft on loop l, or −1.
func (x *Index) WheelOn(l int, id ShaftID) int {
	for _, stop := range x.Sheet.Loops[l].Route {
		if w, ok := x.wheels[stop.Wheel]; ok && x.Sheet.Wheels[w].Shaft == id && x.Sheet.Wheels[w].Teeth > 0 {
			return w
		}
	}
	return -1
}

// Driver is the toothed wheel that drives loop l: of its wheels, the one whose
// shaft is fewest loops and gears away from the crank; −1 for none.
func (x *Index) Driver(l int) int {
	best, least := -1, 1<<30
	for _, stop := range x.Sheet.Loops[l].Route {
		w, ok := x.wheels[stop.Wheel]
		if !ok || x.Sheet.Wheels[w].Teeth == 0 {
			continue
		}
		sh, ok := x.shafts[x.Sheet.Wheels[w].Shaft]
		if !ok || !x.drives[sh].Driven {
			continue
		}
		if n := len(x.drives[sh].Wheels); n < least {
			best, least = w, n
		}
	}
	return best
}

// Drive is how shaft i hangs on the crank.
func (x *Index) Drive(i int) *Drive { return &x.drives[i] }

// Disagreements are the shafts that two ways of driving would turn differently.
func (x *Index) Disagreements() []Disagreement { return x.odd }
