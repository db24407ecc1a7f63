package engine

// NameOf is the name of the thing with an id on one of the sheet's lists;
// empty for nothing.
func (x *Index) NameOf(list, id string) string {
	switch list {
	case "banks":
		if i, ok := x.banks[BankID(id)]; ok {
			return x.Sheet.Banks[i].Name
		}
	case "shafts":
		if v := x.Shaft(ShaftID(id)); v != nil {
			return v.Name
		}
	case "wheels":
		if v := x.Wheel(WheelID(id)); v != nil {
			return v.Name + " wheel"
		}
	case "loops":
		if v := x.Loop(LoopID(id)); v != nil {
			return v.Name
		}
	case "gears":
		if i := x.GearAt(GearID(id)); i >= 0 {
			return x.Sheet.Gears[i].Name
		}
	case "marks":
		if v := x.Mark(MarkID(id)); v != nil {
			return v.Name
		}
	case "locks":
		if v := x.Lock(LockID(id)); v != nil {
			return v.Name
		}
	case "tensioners":
		if v := x.Tensioner(TensionerID(id)); v != nil {
			return v.Name
		}
	case "fasteners":
		if v := x.Fastener(FastenerID(id)); v != nil {
			return v.Name
		}
	case "parts":
		if v := x.Part(PartID(id)); v != nil {
			return v.Name
		}
	case "tools":
		if v := x.Tool(ToolID(id)); v != nil {
			return v.Number + " " + v.Name
		}
	case "fluids":
		if v := x.Fluid(FluidID(id)); v != nil {
			return v.Name
		}
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
