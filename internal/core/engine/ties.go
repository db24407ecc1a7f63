package engine

import "slices"

// Geared reports whether gears alone tie two shafts: no loop drives the one and
// not the other, so that they always move together.
func (x *Index) Geared(i, k int) bool {
	n := len(x.drives)
	if i < 0 || k < 0 || i >= n || k >= n {
		return false
	}
	return x.geared[i*n+k]
}

// GearedBut is Geared by gears none of which has a wheel that was undone: what was apart,
// or loose on its shaft, tells nothing of the shaft behind it.
func (x *Index) GearedBut(i, k int, undone func(wheel int) bool) bool {
	if i < 0 || k < 0 {
		return false
	}
	if i == k {
		return true
	}
	a, b := &x.drives[i], &x.drives[k]
	if !a.Driven || !b.Driven || len(a.Loops) != len(b.Loops) {
		return false
	}
	for _, l := range a.Loops {
		if !slices.Contains(b.Loops, l) {
			return false
		}
	}
	return x.meshed(i, k, undone)
}

// meshed reports whether a chain of gear pairs leads from one shaft to another.
func (x *Index) meshed(from, to int, undone func(wheel int) bool) bool {
	seen := []int{from}
	for at := 0; at < len(seen); at++ {
		for g := range x.Sheet.Gears {
			if undone(x.WheelAt(x.Sheet.Gears[g].Driver)) || undone(x.WheelAt(x.Sheet.Gears[g].Driven)) {
				continue
			}
			a, b := x.gearShafts(g)
			for _, next := range [][2]int{{a, b}, {b, a}} {
				if next[0] == seen[at] && next[1] >= 0 && !slices.Contains(seen, next[1]) {
					if next[1] == to {
						return true
					}
					seen = append(seen, next[1])
				}
			}
		}
	}
	return false
}

func (x *Index) gearShafts(g int) (driver, driven int) {
	at := func(id WheelID) int {
		if w := x.Wheel(id); w != nil {
			return x.ShaftAt(w.Shaft)
		}
		return -1
	}
	return at(x.Sheet.Gears[g].Driver), at(x.Sheet.Gears[g].Driven)
}
