package step

import (
	"fmt"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// What a verb puts into the tables of a page.
type (
	renewer interface {
		fresh(x *engine.Index) (parts []engine.PartID, fasteners []engine.FastenerID)
	}
	reader  interface{ reading() string }
	torquer interface {
		torques() ([]engine.FastenerID, []engine.Stage)
	}
)

// NewParts are the parts and fasteners a step needs new.
func (s *Step) NewParts(x *engine.Index) ([]engine.PartID, []engine.FastenerID) {
	if r, ok := s.Action.(renewer); ok {
		return r.fresh(x)
	}
	return nil, nil
}

// NewLoops are the belts and chains a step lays new that are not on the sheet's list
// of parts, so that NewParts does not name them.
func (s *Step) NewLoops(x *engine.Index) []engine.LoopID {
	a, ok := s.Action.(*Fit)
	if !ok || !a.New {
		return nil
	}
	if l := x.Loop(a.Loop); l == nil || x.Part(l.Part) != nil {
		return nil
	}
	return []engine.LoopID{a.Loop}
}

// Free names the words of a step that the virtual engine knows nothing of: "free text",
// "own wording"; none where a step is in the house's own words.
func (s *Step) Free() []string {
	var out []string
	if s.Action.Verb() == "do" {
		out = append(out, "free text")
	}
	if s.Wording != "" {
		out = append(out, "own wording")
	}
	return out
}

// Reading is the unit of the figure a technician writes in at a step, with the
// number of readings where it is more than one; empty for none.
func (s *Step) Reading() string {
	if r, ok := s.Action.(reader); ok {
		return r.reading()
	}
	return ""
}

// Torqued are fasteners that a step brings to a torque or angle, on some engines.
type Torqued struct {
	Fasteners []engine.FastenerID
	Stages    []engine.Stage
	When      engine.When
}

// Torques are the fasteners a step brings to a torque or angle, with the stages
// for each of the engines that have their own.
func (s *Step) Torques() []Torqued {
	t, ok := s.Action.(torquer)
	if !ok {
		return nil
	}
	fs, stages := t.torques()
	var out []Torqued
	if len(stages) > 0 {
		out = append(out, Torqued{fs, stages, s.When})
	}
	if a, ok := s.Action.(*Tighten); ok {
		for _, v := range a.By {
			out = append(out, Torqued{fs, v.Stages, v.When})
		}
	}
	return out
}

func (a *Fit) fresh(x *engine.Index) ([]engine.PartID, []engine.FastenerID) {
	if l := x.Loop(a.Loop); l != nil && a.New && l.Part != "" {
		return []engine.PartID{l.Part}, nil
	}
	return nil, nil
}

func (a *Refit) fresh(x *engine.Index) ([]engine.PartID, []engine.FastenerID) {
	var out []engine.PartID
	for _, id := range a.Parts {
		if a.New {
			out = append(out, id)
		}
		if q := x.Part(id); q != nil && a.NewSeal && q.Seal != "" {
			out = append(out, q.Seal)
		}
	}
	return out, nil
}

func (a *Renew) fresh(*engine.Index) ([]engine.PartID, []engine.FastenerID) {
	return a.Parts, a.Fasteners
}

// reading of a wait is the time at which it is over.
func (a *Wait) reading() string {
	if a.For.IsZero() {
		return ""
	}
	return "o’clock"
}

func (a *Measure) reading() string {
	u := string(a.Value.Unit)
	if a.Readings > 1 {
		return fmt.Sprintf("%d × %s", a.Readings, u)
	}
	return u
}

func (a *Tighten) reading() string {
	if a.To == ToFinal && len(a.By) > 0 && len(a.By[0].Stages) > 0 && !a.By[0].Stages[0].Torque.IsZero() {
		return string(a.By[0].Stages[0].Torque.Unit)
	}
	if a.To == ToFinal && len(a.Stages) > 0 && !a.Stages[0].Torque.IsZero() {
		return string(a.Stages[0].Torque.Unit)
	}
	return ""
}

func (a *Set) reading() string {
	if a.At.Kind() == unit.KindTemperature {
		return string(unit.Celsius)
	}
	return ""
}

func (a *Tighten) torques() ([]engine.FastenerID, []engine.Stage) { return a.Fasteners, a.Stages }
