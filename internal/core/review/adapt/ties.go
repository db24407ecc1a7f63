package adapt

import (
	"reflect"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
)

// tie is how a thing hangs on another: what it does to it, and the thing.
type tie struct{ is, list, id string }

// side is one of the two sheets, with what a match asks of it over and over.
type side struct {
	x    *engine.Index
	ids  map[string][]string
	ties map[string][]tie
}

func sideOf(x *engine.Index) *side {
	s := &side{x: x, ids: map[string][]string{}, ties: map[string][]tie{}}
	for _, l := range lists {
		s.ids[l] = idsOf(x, l)
	}
	add := func(list, id, is, of, what string) {
		if is != "" {
			s.ties[list+"/"+id] = append(s.ties[list+"/"+id], tie{is, of, what})
		}
	}
	// What a thing names, and what names it, each by its own word, so that two things
	// are only alike that hang together in the same way.
	for _, r := range x.Sheet.Namings() {
		list, rest, _ := strings.Cut(r.Path, "/")
		id, key, _ := strings.Cut(rest, "/")
		w := words[list+"/"+key]
		add(list, id, w[0], r.List, r.ID)
		add(r.List, r.ID, w[1], list, id)
	}
	for i := range x.Sheet.Loops {
		l := &x.Sheet.Loops[i]
		for _, stop := range l.Route {
			add("loops", string(l.ID), "runs over", "wheels", string(stop.Wheel))
			add("wheels", string(stop.Wheel), "is on the route of", "loops", string(l.ID))
		}
	}
	return s
}

// has reports whether the sheet has a thing.
func (s *side) has(list, id string) bool { return slices.Contains(s.ids[list], id) }

func (s *side) name(list, id string) string { return nameOn(s.x, list, id) }

// words are what a value of a thing says of it and of what it names: "locks/holds" is
// that a lock holds a shaft, and that a shaft is held by a lock.
var words = map[string][2]string{
	"shafts/bank": {"belongs to", ""}, "wheels/shaft": {"is on", "carries"}, "wheels/clamps": {"is clamped by", "clamps"}, "wheels/part": {"is", "is"},
	"loops/tensioner": {"is tensioned by", "tensions"}, "loops/then": {"is then tensioned by", "then tensions"}, "loops/part": {"is", "is"},
	"gears/driver": {"is driven by", "drives"}, "gears/driven": {"drives", "is driven by"},
	"marks/wheel": {"is on", "has on it"}, "marks/shaft": {"is on", "has on it"}, "marks/loop": {"is on", "has on it"}, "marks/behind": {"is behind", "hides"},
	"locks/holds": {"holds", "is held by"}, "locks/tool": {"is", "is"}, "locks/access": {"is behind", "gives access to"}, "locks/wheel": {"grips", "is gripped by"}, "locks/screws": {"is screwed on by", "screws on"},
	"tensioners/wheel": {"moves", "is moved by"}, "tensioners/pin": {"is pinned by", "pins"}, "tensioners/bolts": {"is clamped by", "clamps"}, "tensioners/part": {"is", "is"},
	"fasteners/onShaft": {"is on", "has in its end"}, "fasteners/holdWith": {"is held against by", "holds against"}, "fasteners/part": {"is", "is"}, "fasteners/access": {"is behind", "gives access to"},
	"parts/held": {"is held by", "holds"}, "parts/seal": {"is sealed by", "seals"}, "parts/with": {"is renewed with", "is renewed with"}, "parts/hides": {"hides", "is hidden by"}, "parts/spills": {"lets out", "is let out by"},
	"fluids/drain": {"is drained by", "drains"},
}

// idsOf are the ids of a list of a sheet; the options by their names.
func idsOf(x *engine.Index, list string) []string {
	if list == "options" {
		return slices.Clone(x.Sheet.Options)
	}
	v := reflect.ValueOf(x.Sheet).Elem()
	for i := range v.NumField() {
		if name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("json"), ","); name == list {
			out := make([]string, v.Field(i).Len())
			for k := range out {
				out[k] = v.Field(i).Index(k).FieldByName("ID").String()
			}
			return out
		}
	}
	return nil
}

// kind is what kind of thing something is, for what a page may do with it; empty for
// lists that have none, and for what is not on the sheet.
func (s *side) kind(list, id string) string {
	x := s.x
	if !s.has(list, id) {
		return ""
	}
	switch list {
	case "shafts":
		return string(x.Shaft(engine.ShaftID(id)).Kind)
	case "loops":
		return string(x.Loop(engine.LoopID(id)).Kind) + s.drives(engine.LoopID(id))
	case "wheels":
		return x.Wheel(engine.WheelID(id)).Mount.Of().Alike + s.moves(engine.WheelID(id))
	case "marks":
		return string(x.Mark(engine.MarkID(id)).Kind)
	case "locks":
		return string(x.Lock(engine.LockID(id)).Kind)
	case "tensioners":
		return string(x.Tensioner(engine.TensionerID(id)).Method)
	case "parts":
		return string(x.Part(engine.PartID(id)).Kind)
	}
	return ""
}

// drives says of a loop whether cams hang on it: a chain of the cams is not the chain of
// an oil pump.
func (s *side) drives(id engine.LoopID) string {
	for i := range s.x.Sheet.Shafts {
		if s.x.Sheet.Shafts[i].Kind.IsCam() && slices.Contains(s.x.Drive(i).Loops, s.x.LoopAt(id)) {
			return " that drives cams"
		}
	}
	return ""
}

// moves says what a wheel moves: what moves otherwise is not the same thing.
func (s *side) moves(id engine.WheelID) string {
	if sh := s.x.Shaft(s.x.Wheel(id).Shaft); sh != nil {
		if sh.Kind.IsCam() {
			return " on a cam"
		}
		return " on a shaft of the kind " + string(sh.Kind)
	}
	for i := range s.x.Sheet.Tensioners {
		if s.x.Sheet.Tensioners[i].Wheel == id {
			return " of a tensioner"
		}
	}
	return ""
}
