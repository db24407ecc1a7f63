package engine

import "slices"

// forget takes out whatever speaks of a thing that has gone.
func (s *Sheet) forget(kind, id string) {
	switch kind {
	case "shafts":
		s.forgetShaft(ShaftID(id))
	case "wheels":
		s.forgetWheel(WheelID(id))
	case "loops":
		s.Marks = slices.DeleteFunc(s.Marks, func(m Mark) bool { return m.Loop == LoopID(id) })
	case "locks":
		for i := range s.Fasteners {
			drop(&s.Fasteners[i].HoldWith, LockID(id))
		}
	case "tensioners":
		for i := range s.Loops {
			drop(&s.Loops[i].Tensioner, TensionerID(id))
		}
	case "fasteners":
		s.forgetFastener(FastenerID(id))
	case "parts":
		s.forgetPart(PartID(id))
	case "tools":
		for i := range s.Locks {
			drop(&s.Locks[i].Tool, ToolID(id))
		}
		for i := range s.Tensioners {
			drop(&s.Tensioners[i].Pin, ToolID(id))
		}
	case "banks":
		for i := range s.Shafts {
			drop(&s.Shafts[i].Bank, BankID(id))
		}
	}
	s.Varies = slices.DeleteFunc(s.Varies, func(v Variation) bool { return v.Of == kind+"/"+id })
	s.Names = slices.DeleteFunc(s.Names, func(n OwnName) bool { return n.Of == kind+"/"+id })
	if s.Evidence != nil {
		delete(s.Evidence, id)
	}
}

func drop[T ~string](at *T, id T) {
	if *at == id {
		*at = ""
	}
}

func without[T comparable](items []T, id T) []T {
	return slices.DeleteFunc(items, func(v T) bool { return v == id })
}

func (s *Sheet) forgetShaft(id ShaftID) {
	for i := range s.Wheels {
		drop(&s.Wheels[i].Shaft, id)
	}
	for i := range s.Fasteners {
		drop(&s.Fasteners[i].OnShaft, id)
	}
	for i := range s.Locks {
		s.Locks[i].Holds = without(s.Locks[i].Holds, id)
	}
	s.Locks = slices.DeleteFunc(s.Locks, func(l Lock) bool { return len(l.Holds) == 0 })
}

func (s *Sheet) forgetWheel(id WheelID) {
	for i := range s.Loops {
		s.Loops[i].Route = slices.DeleteFunc(s.Loops[i].Route, func(st Stop) bool { return st.Wheel == id })
	}
	s.Gears = slices.DeleteFunc(s.Gears, func(g Gear) bool { return g.Driver == id || g.Driven == id })
	s.Marks = slices.DeleteFunc(s.Marks, func(m Mark) bool { return m.Wheel == id })
	for i := range s.Tensioners {
		t := &s.Tensioners[i]
		drop(&t.Wheel, id)
		if f := t.Frequency; f != nil && (f.From == id || f.To == id) {
			t.Frequency = nil
		}
	}
}

func (s *Sheet) forgetFastener(id FastenerID) {
	for i := range s.Wheels {
		s.Wheels[i].Clamps = without(s.Wheels[i].Clamps, id)
	}
	for i := range s.Tensioners {
		s.Tensioners[i].Bolts = without(s.Tensioners[i].Bolts, id)
	}
	for i := range s.Parts {
		s.Parts[i].Held = without(s.Parts[i].Held, id)
	}
	for i := range s.Locks {
		s.Locks[i].Screws = without(s.Locks[i].Screws, id)
	}
}

func (s *Sheet) forgetPart(id PartID) {
	for i := range s.Parts {
		s.Parts[i].After = without(s.Parts[i].After, id)
		drop(&s.Parts[i].Seal, id)
	}
	for i := range s.Wheels {
		drop(&s.Wheels[i].Part, id)
	}
	for i := range s.Loops {
		drop(&s.Loops[i].Part, id)
	}
	for i := range s.Locks {
		drop(&s.Locks[i].Access, id)
	}
	for i := range s.Tensioners {
		drop(&s.Tensioners[i].Part, id)
	}
	for i := range s.Marks {
		drop(&s.Marks[i].Behind, id)
	}
	for i := range s.Fasteners {
		drop(&s.Fasteners[i].Part, id)
	}
}
