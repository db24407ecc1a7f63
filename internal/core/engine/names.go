package engine

// NameOf is the name of the thing with an id on one of the sheet's lists;
// empty for nothing.
func (x *Index) NameOf(list, id string) string {
	if k := KindOn(list); k != nil {
		return x.Name(Ref{k.Kind, id})
	}
	switch list {
	case "names":
		for i := range x.Sheet.Names {
			if n := &x.Sheet.Names[i]; n.ID == id {
				return "name “" + n.Say + "”"
			}
		}
	case "varies":
		for i := range x.Sheet.Varies {
			if v := &x.Sheet.Varies[i]; v.ID == id {
				list, of := cut(v.Of)
				return "cases of the " + x.NameOf(list, of)
			}
		}
	}
	return ""
}

// Drives is the word for all of the engine's loops together: belt, belts, chain,
// chains, or drive where it has both.
func (x *Index) Drives() string {
	kinds := map[LoopKind]int{}
	for i := range x.Sheet.Loops {
		kinds[x.Sheet.Loops[i].Kind]++
	}
	switch {
	case len(kinds) > 1:
		return "drive"
	case kinds[Chain] > 1:
		return "chains"
	case kinds[Chain] == 1:
		return "chain"
	case kinds[Belt] > 1:
		return "belts"
	}
	return "belt"
}

func cut(path string) (list, id string) {
	for i := range path {
		if path[i] == '/' {
			return path[:i], path[i+1:]
		}
	}
	return path, ""
}
