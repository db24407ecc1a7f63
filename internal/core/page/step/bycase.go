package step

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/unit"
)

// StagesFor are the stages of a tightening for some engines of the code.
type StagesFor struct {
	When   engine.When    `json:"when"`
	Stages []engine.Stage `json:"stages"`
}

// byCase is an action that has other values for some engines.
type byCase interface {
	whens() []engine.When
	on(car engine.Car) Action
}

// Whens are the cases a step speaks of: its own, and those its values have.
func (s *Step) Whens() []engine.When {
	var out []engine.When
	if !s.When.All() {
		out = append(out, s.When)
	}
	if b, ok := s.Action.(byCase); ok {
		out = append(out, b.whens()...)
	}
	return out
}

// ForSome reports whether the step, or a value of it, is not for every engine of
// the code.
func (s *Step) ForSome() bool { return len(s.Whens()) > 0 }

// On is the step as it is done on one engine, with that engine's values.
func (s *Step) On(car engine.Car) Step {
	n := *s
	if b, ok := s.Action.(byCase); ok && len(b.whens()) > 0 {
		n.Action = b.on(car)
	}
	return n
}

func (a *Tighten) whens() []engine.When {
	out := make([]engine.When, len(a.By))
	for i := range a.By {
		out[i] = a.By[i].When
	}
	return out
}

func (a *Tighten) on(car engine.Car) Action {
	n := *a
	n.By, n.Stages = nil, a.Stages
	for i := range a.By {
		if a.By[i].When.Covers(car) {
			n.Stages = a.By[i].Stages
		}
	}
	return &n
}

// SpecFor is the torque and angle of a fastener on a sheet: the same on every engine, or
// by case, never one case's for all.
func SpecFor(x *engine.Index, id engine.FastenerID) ([]engine.Stage, []StagesFor) {
	f := x.Fastener(id)
	if f == nil {
		return nil, nil
	}
	for k := range x.Sheet.Varies {
		v := &x.Sheet.Varies[k]
		if v.Of != "fasteners/"+string(id) || !slices.ContainsFunc(v.Cases, func(c engine.Case) bool { return c.Set["spec"] != nil }) {
			continue
		}
		var by []StagesFor
		for i := range v.Cases {
			if v.Cases[i].Unfitted {
				continue
			}
			stages := f.Spec
			if raw := v.Cases[i].Set["spec"]; raw != nil {
				stages = nil
				if json.Unmarshal(raw, &stages) != nil {
					return nil, nil
				}
			}
			by = append(by, StagesFor{When: v.Cases[i].When, Stages: stages})
		}
		return nil, by
	}
	return f.Spec, nil
}

// ByText writes values by case as ParseBy reads them: "45 N·m up to 2021, 60 N·m
// from 2022".
func ByText(by []StagesFor) string {
	var parts []string
	for i := range by {
		parts = append(parts, engine.StagesText(by[i].Stages)+" "+by[i].When.Said())
	}
	return strings.Join(parts, "; ")
}

// ParseBy reads values by case, with semicolons between; a bare figure is in u.
// The options are those of the sheet; nil takes any.
func ParseBy(text string, u unit.Unit, options []string) ([]StagesFor, error) {
	out := []StagesFor{}
	for part := range strings.SplitSeq(text, ";") {
		if part = strings.TrimSpace(part); part == "" {
			continue
		}
		cut, when := -1, engine.When{}
		for i := range part {
			if part[i] != ' ' {
				continue
			}
			opts := options
			if opts == nil {
				opts = optionsIn(part[i+1:])
			}
			if w, ok := engine.ReadWhen(strings.TrimSpace(part[i+1:]), opts); ok {
				cut, when = i, w
				break
			}
		}
		if cut < 0 {
			return nil, fmt.Errorf("“%s” does not say for which engines; write “45 N·m up to 2021; 60 N·m from 2022”", part)
		}
		stages, err := engine.ParseStages(unit.Bare(strings.TrimSpace(part[:cut]), u))
		if err != nil {
			return nil, err
		}
		if len(stages) == 0 {
			return nil, errors.New("a value stands before its engines, such as 45 N·m up to 2021")
		}
		out = append(out, StagesFor{when, stages})
	}
	return out, nil
}

// optionsIn are the words behind "with" and "without", for a field that does not
// know the sheet; the proof says where the sheet has no such option.
func optionsIn(text string) []string {
	var out []string
	for part := range strings.SplitSeq(text, ",") {
		part = strings.TrimSpace(part)
		for _, w := range []string{"with ", "without "} {
			if o, ok := strings.CutPrefix(part, w); ok {
				out = append(out, strings.TrimSpace(o))
			}
		}
	}
	return out
}
