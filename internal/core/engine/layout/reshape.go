package layout

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
)

// Reshape is something that is done to a whole drive at once.
type Reshape string

// The ways to reshape a drive.
const (
	// Mirror makes it the other hand: left is right, and it runs the other way round.
	Mirror Reshape = "mirror"
	// TurnView has the same engine seen from its other end.
	TurnView Reshape = "turn view"
	// Balancers adds a pair of balance shafts that turn against each other: at twice the
	// speed of the crank from three cylinders on, at its own speed below that. Common
	// practice, no source.
	Balancers Reshape = "balancer pair"
)

// Choices are the ways to reshape a drive.
func (Reshape) Choices() []string {
	return []string{string(Mirror), string(TurnView), string(Balancers)}
}

// ErrNoOtherEnd is a view turned that has no other end to be seen from.
var ErrNoOtherEnd = errors.New("the sheet does not say what the other end is called; write it beside “seen from”")

// Edits reshape a sheet. It is an error to turn the view of a sheet that does not name its
// other end, or to ask for what is no way to reshape.
func (r Reshape) Edits(s *engine.Sheet) ([]engine.Edit, error) {
	switch r {
	case Mirror:
		return mirrored(s), nil
	case TurnView:
		if strings.TrimSpace(s.OtherView) == "" {
			return nil, ErrNoOtherEnd
		}
		return append(mirrored(s), edit("view", s.OtherView), edit("otherView", s.View)), nil
	case Balancers:
		return balancers(s), nil
	}
	return nil, fmt.Errorf("there is no way to reshape a drive called “%s”", r)
}

func edit(path string, v any) engine.Edit {
	b, _ := json.Marshal(v) // text and numbers
	return engine.Edit{Path: path, Value: b}
}

// mirrored has left and right exchanged. Angles of shafts, which count in their own running
// direction, and the order a loop travels in stay as they are.
func mirrored(s *engine.Sheet) []engine.Edit {
	out := []engine.Edit{edit("running", s.Running.Opposite())}
	for i := range s.Wheels {
		if w := &s.Wheels[i]; w.X != 0 {
			out = append(out, edit("wheels/"+string(w.ID)+"/x", -w.X))
		}
	}
	for i := range s.Marks {
		if m := &s.Marks[i]; m.Clock != 0 {
			out = append(out, edit("marks/"+string(m.ID)+"/clock", otherClock(m.Clock)))
		}
	}
	for i := range s.Tensioners {
		t := &s.Tensioners[i]
		if t.Turn != "" {
			out = append(out, edit("tensioners/"+string(t.ID)+"/turn", t.Turn.Opposite()))
		}
		if t.Moves != 0 {
			out = append(out, edit("tensioners/"+string(t.ID)+"/moves", otherClock(t.Moves)))
		}
	}
	for i := range s.Fasteners {
		f := &s.Fasteners[i]
		if len(f.Places) == 0 {
			continue
		}
		out = append(out, edit("fasteners/"+string(f.ID)+"/places", mirroredPlaces(f.Places)))
	}
	for i := range s.Varies {
		if v, any := mirroredCases(s.Varies[i]); any {
			out = append(out, edit("varies/"+v.ID, v))
		}
	}
	return out
}

// mirroredCases are the cases of a thing with left and right exchanged in what they set; any
// is false where they set nothing that has a side.
func mirroredCases(v engine.Variation) (out engine.Variation, any bool) {
	list, _, _ := strings.Cut(v.Of, "/")
	v.Cases = slices.Clone(v.Cases)
	for i := range v.Cases {
		set := map[string]json.RawMessage{}
		for key, raw := range v.Cases[i].Set {
			set[key] = raw
			var n float64
			var way engine.Way
			var places []engine.Place
			switch list + "/" + key {
			case "wheels/x":
				if json.Unmarshal(raw, &n) == nil && n != 0 {
					set[key], any = edit("", -n).Value, true
				}
			case "marks/clock", "tensioners/moves":
				if json.Unmarshal(raw, &n) == nil && n != 0 {
					set[key], any = edit("", otherClock(n)).Value, true
				}
			case "tensioners/turn":
				if json.Unmarshal(raw, &way) == nil && way != "" {
					set[key], any = edit("", way.Opposite()).Value, true
				}
			case "fasteners/places":
				if json.Unmarshal(raw, &places) == nil {
					set[key], any = edit("", mirroredPlaces(places)).Value, true
				}
			}
		}
		v.Cases[i].Set = set
	}
	return v, any
}

func mirroredPlaces(places []engine.Place) []engine.Place {
	out := slices.Clone(places)
	for k := range out {
		out[k].X = 0 - out[k].X
	}
	return out
}

// balancers adds the pair: a gear on the crank, one balance gear in mesh with it, and the
// other in mesh with that. Their marks are places to be filled.
func balancers(s *engine.Sheet) []engine.Edit {
	const module, teeth = 2, 30
	crank := engine.Wheel{}
	for i := range s.Wheels {
		if s.Wheels[i].Shaft == engine.CrankID {
			crank = s.Wheels[i]
			break
		}
	}
	ratio := 1
	if s.Cylinders >= 3 {
		ratio = 2
	}
	id := fresh(s)
	one, two := engine.ShaftID(id("shafts", "balance-1")), engine.ShaftID(id("shafts", "balance-2"))
	drive := toothed(id("wheels", "balance-drive"), "balance drive", engine.CrankID, teeth*ratio, crank.X, crank.Y)
	first := meshed(id("wheels", "balance-gear-1"), "first balance", one, teeth, module, drive, -115)
	second := meshed(id("wheels", "balance-gear-2"), "second balance", two, teeth, module, first, -10)
	gears := []engine.Gear{
		{ID: engine.GearID(id("gears", "balance-drive-gears")), Name: "balance drive gears", Driver: drive.ID, Driven: first.ID, Module: module},
		{ID: engine.GearID(id("gears", "balance-gears")), Name: "balance gears", Driver: first.ID, Driven: second.ID, Module: module},
	}
	out := []engine.Edit{
		edit("shafts/"+string(one), shaft(string(one), "first balance shaft", engine.Balance, "")),
		edit("shafts/"+string(two), shaft(string(two), "second balance shaft", engine.Balance, "")),
	}
	for _, w := range []engine.Wheel{drive, first, second} {
		out = append(out, edit("wheels/"+string(w.ID), w))
	}
	for _, g := range gears {
		out = append(out, edit("gears/"+string(g.ID), g))
	}
	for _, w := range []engine.Wheel{first, second} {
		m := engine.Mark{ID: engine.MarkID(id("marks", string(w.ID)+"-mark")), Name: w.Name + " mark", Kind: engine.TimingMark, Wheel: w.ID}
		out = append(out, edit("marks/"+string(m.ID), m))
	}
	return out
}

// fresh gives ids that no thing of a list has yet.
func fresh(s *engine.Sheet) func(list, id string) string {
	x := engine.NewIndex(s)
	return func(list, id string) string {
		got := id
		for n := 2; x.NameOf(list, got) != ""; n++ {
			got = fmt.Sprintf("%s-%d", id, n)
		}
		return got
	}
}

// otherClock is a place on a dial seen in the mirror, degrees to a ten-thousandth.
func otherClock(deg float64) float64 { return math.Round(math.Mod(360-deg, 360)*1e4) / 1e4 }
