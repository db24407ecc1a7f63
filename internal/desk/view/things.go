package view

import (
	"fmt"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/drawing"
)

// Drawing is the drive as it is drawn, with everything on the sheet that a step
// can name.
type Drawing struct {
	*drawing.Drawing
	Things []Thing `json:"things"`
	// Behind are the wheels behind each part that hides some, by its id.
	Behind map[string][]string `json:"behind"`
}

// DrawingOf draws a sheet.
func DrawingOf(x *engine.Index) *Drawing {
	behind := map[string][]string{}
	for i := range x.Sheet.Wheels {
		for _, p := range x.Covers(x.Sheet.Wheels[i].ID) {
			id := string(x.Sheet.Parts[p].ID)
			behind[id] = append(behind[id], string(x.Sheet.Wheels[i].ID))
		}
	}
	return &Drawing{drawing.Of(x), things(x), behind}
}

// Thing is something a step can name.
type Thing struct {
	Ref    string `json:"ref"`
	Kind   string `json:"kind"`
	ID     string `json:"id"`
	Name   string `json:"name"`
	Detail string `json:"detail,omitzero"`
}

func things(x *engine.Index) []Thing {
	s := x.Sheet
	out := []Thing{}
	add := func(kind, id, name, detail string) {
		out = append(out, Thing{kind + ":" + id, kind, id, name, detail})
	}
	for _, v := range s.Locks {
		d := string(v.Kind)
		if t := x.Tool(v.Tool); t != nil {
			d += ", " + t.Number
		}
		add("lock", string(v.ID), v.Name, d)
	}
	for _, v := range s.Parts {
		add("part", string(v.ID), v.Name, string(v.Policy))
	}
	for _, v := range s.Fasteners {
		add("fastener", string(v.ID), v.Name, v.Thread)
	}
	for _, v := range s.Loops {
		add("loop", string(v.ID), v.Name, fmt.Sprintf("%d teeth", v.Teeth))
	}
	for _, v := range s.Wheels {
		add("wheel", string(v.ID), v.Name, "")
	}
	for _, v := range s.Marks {
		add("mark", string(v.ID), v.Name, v.Look)
	}
	for _, v := range s.Tensioners {
		add("tensioner", string(v.ID), v.Name, string(v.Method))
	}
	for _, v := range s.Readings {
		add("reading", string(v.ID), v.Name, v.Value.String())
	}
	for _, v := range s.Fluids {
		add("fluid", string(v.ID), v.Name, v.Grade)
	}
	for _, v := range s.Shafts {
		add("shaft", string(v.ID), v.Name, string(v.Kind))
	}
	for _, v := range s.Tools {
		add("tool", string(v.ID), v.Number+" "+v.Name, "")
	}
	return out
}
