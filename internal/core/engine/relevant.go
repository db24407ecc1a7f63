package engine

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/unit"
)

// Relevant is something on a sheet whose values bear on safety, so that each
// should say where it comes from. ID is its key in Sheet.Evidence.
type Relevant struct{ Path, ID, Name string }

// DriveEvidence is the key of Sheet.Evidence under which a sheet that was started
// from an archetype says where its own measures come from.
const DriveEvidence = "drive"

// SafetyRelevant lists them: locks for position, tensioners, readings that show the place
// of a shaft, bolts that would
// turn a shaft or are used once, and the limits; for a sheet that was started from
// an archetype also the measures of its drive.
func (s *Sheet) SafetyRelevant() []Relevant {
	var out []Relevant
	if s.Archetype != "" {
		out = append(out, Relevant{"wheels", DriveEvidence, "measures of the drive"})
	}
	for i := range s.Locks {
		if l := &s.Locks[i]; l.Kind.ForPosition() {
			out = append(out, Relevant{"locks/" + string(l.ID), string(l.ID), l.Name})
		}
	}
	for i := range s.Tensioners {
		t := &s.Tensioners[i]
		out = append(out, Relevant{"tensioners/" + string(t.ID), string(t.ID), t.Name})
	}
	for i := range s.Readings {
		if r := &s.Readings[i]; r.Shaft != "" {
			out = append(out, Relevant{"readings/" + string(r.ID), string(r.ID), r.Name})
		}
	}
	for i := range s.Fasteners {
		if f := &s.Fasteners[i]; f.OnShaft != "" || f.SingleUse {
			out = append(out, Relevant{"fasteners/" + string(f.ID), string(f.ID), f.Name})
		}
	}
	if len(out) == 0 {
		return nil
	}
	return append(out, Relevant{"limits", "limits", "limits"})
}

// ParseStages reads the stages of a fastener as people write them, with a plus
// between: "60 Nm + 90 deg". What cannot be read, or could be read in two ways,
// is an error that says so.
func ParseStages(text string) ([]Stage, error) {
	out := []Stage{}
	at := 0
	between := func(to int) error {
		if rest := strings.Trim(text[at:to], " +,;\u00a0\u202f"); rest != "" {
			_, err := unit.Parse(rest)
			if err == nil {
				err = fmt.Errorf("%q cannot stand between two stages", rest)
			}
			return err
		}
		return nil
	}
	for _, m := range unit.Find(text) {
		if err := between(m.Start); err != nil {
			return nil, err
		}
		if m.Problem != "" {
			return nil, errors.New(m.Problem)
		}
		switch m.Quantity.Kind() {
		case unit.KindAngle:
			out = append(out, Stage{Angle: m.Quantity})
		case unit.KindTorque:
			out = append(out, Stage{Torque: m.Quantity})
		default:
			return nil, fmt.Errorf("“%s” is neither a torque nor an angle", text[m.Start:m.End])
		}
		at = m.End
	}
	if err := between(len(text)); err != nil {
		return nil, err
	}
	if len(out) == 0 || strings.HasSuffix(strings.TrimSpace(text), "+") {
		_, err := unit.Parse(text)
		return nil, err
	}
	return out, nil
}

// StagesText writes stages as ParseStages reads them: "60 N·m + 90°".
func StagesText(stages []Stage) string {
	var out []string
	for _, s := range stages {
		for _, q := range []unit.Quantity{s.Torque, s.Angle} {
			if !q.IsZero() {
				out = append(out, q.String())
			}
		}
	}
	return strings.Join(out, " + ")
}

// BareUnits are what a bare number means at the places of the sheet that take a
// value with a unit, "*" standing for the id of a thing.
var BareUnits = map[string]unit.Unit{
	"bore": unit.Millimetre, "stroke": unit.Millimetre, "rod": unit.Millimetre,
	"fasteners/*/spec":  unit.NewtonMetre,
	"tensioners/*/wait": unit.Minute, "tensioners/*/length": unit.Millimetre, "tensioners/*/hold": unit.NewtonMetre, "tensioners/*/gap": unit.Millimetre,
	"tensioners/*/frequency/note": unit.Hertz, "tensioners/*/frequency/first": unit.Hertz, "tensioners/*/frequency/within": unit.Hertz,
	"parts/*/sealant":      unit.Minute,
	"fluids/*/amount":      unit.Litre,
	"shafts/*/valves/lift": unit.Millimetre, "shafts/*/valves/clear": unit.Millimetre,
	"tools/*/least": unit.NewtonMetre, "tools/*/most": unit.NewtonMetre,
}

// unitOf is the unit of a place; empty where it has to be said.
func unitOf(path string) unit.Unit {
	if keys := strings.Split(path, "/"); len(keys) > 2 {
		keys[1] = "*"
		path = strings.Join(keys, "/")
	}
	return BareUnits[path]
}

// asWritten turns a value that an edit gives in words into what the sheet
// holds: the stages of a fastener, "spec", may be one line; a bare number takes
// the unit of its place; a figure that could be read in two ways is refused.
func asWritten(path string, value any) (any, error) {
	line, ok := value.(string)
	if !ok {
		return value, nil
	}
	if v, is, err := lineWritten(path, line); is {
		return v, err
	}
	spec := strings.HasPrefix(path, "fasteners/") && strings.HasSuffix(path, "/spec")
	if u := unitOf(path); u != "" {
		line = unit.Bare(line, u)
		if spec {
			return stagesWritten(path, line)
		}
		for _, m := range unit.Find(line) {
			if m.Problem != "" && m.Quantity.Kind() == u.Kind() {
				return nil, &EditError{path, m.Problem}
			}
		}
		return line, nil
	}
	return value, nil
}

func stagesWritten(path, line string) (any, error) {
	stages, err := ParseStages(line)
	if err != nil {
		return nil, &EditError{path, err.Error()}
	}
	var out any
	return out, json.Unmarshal(raw(stages), &out)
}

// YearCases are the cases of a variation that cover one model year.
type YearCases struct {
	Year  int   `json:"year"`
	Cases []int `json:"cases"`
}

// ByYear lays the cases along the model years of the sheet; nil when a case
// asks for a build or an option too, for then a year alone does not tell. Where
// the code is still made it goes on to the year after the last that any case
// names.
func (v *Variation) ByYear(s *Sheet) []YearCases {
	last := s.Years.To
	for i := range v.Cases {
		w := &v.Cases[i].When
		if w.Builds != (Builds{}) || len(w.With)+len(w.Without) > 0 {
			return nil
		}
		if s.Years.To == 0 {
			last = max(last, w.Years.From+1, w.Years.To+1)
		}
	}
	const most = 60
	var out []YearCases
	for y := s.Years.From; y > 0 && y <= min(last, s.Years.From+most); y++ {
		out = append(out, YearCases{y, slices.Clone(v.covering(Car{Year: y}))})
	}
	return out
}
