package engine

import "slices"

// forget takes out whatever speaks of a thing that has gone: what is nothing
// without it, and every value that names it.
func (s *Sheet) forget(kind, id string) {
	switch kind {
	case "wheels":
		wheel := WheelID(id)
		for i := range s.Loops {
			s.Loops[i].Route = slices.DeleteFunc(s.Loops[i].Route, func(st Stop) bool { return st.Wheel == wheel })
		}
		s.Gears = slices.DeleteFunc(s.Gears, func(g Gear) bool { return g.Driver == wheel || g.Driven == wheel })
		s.Marks = slices.DeleteFunc(s.Marks, func(m Mark) bool { return m.Wheel == wheel })
		for i := range s.Tensioners {
			if f := s.Tensioners[i].Frequency; f != nil && (f.From == wheel || f.To == wheel) {
				s.Tensioners[i].Frequency = nil
			}
		}
	case "loops":
		s.Marks = slices.DeleteFunc(s.Marks, func(m Mark) bool { return m.Loop == LoopID(id) })
	}
	s.drop(kind, id)
	s.Locks = slices.DeleteFunc(s.Locks, func(l Lock) bool { return kind == "shafts" && len(l.Holds) == 0 })
	s.Varies = slices.DeleteFunc(s.Varies, func(v Variation) bool { return v.Of == kind+"/"+id })
	s.Names = slices.DeleteFunc(s.Names, func(n OwnName) bool { return n.Of == kind+"/"+id })
	if s.Evidence != nil && kind != "sources" {
		delete(s.Evidence, id)
	}
	for of, e := range s.Evidence {
		if kind == "sources" && e.In == SourceID(id) {
			e.In, e.Place = "", "" // the words stay
			s.Evidence[of] = e
		}
	}
}
