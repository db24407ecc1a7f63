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
// between: "60 Nm + 90 deg", "60 Nm + slacken + 40 Nm + wait 10 min + 90 deg". What cannot
// be read, or could be read in two ways, is an error that says so.
func ParseStages(text string) ([]Stage, error) {
	r := stageReader{text: text}
	for _, m := range unit.Find(text) {
		if err := r.between(m.Start); err != nil {
			return nil, err
		}
		if m.Problem != "" {
			return nil, errors.New(m.Problem)
		}
		if err := r.value(m.Quantity, text[m.Start:m.End]); err != nil {
			return nil, err
		}
		r.at = m.End
	}
	if err := r.between(len(text)); err != nil {
		return nil, err
	}
	r.loose()
	if r.wait != (unit.Quantity{}) || r.waits {
		return nil, errors.New("a wait comes before the stage that it waits for")
	}
	end := strings.TrimSpace(text)
	if strings.HasSuffix(end, "then") {
		return nil, errors.New("nothing follows “then”")
	}
	if len(r.out) == 0 || strings.HasSuffix(end, "+") {
		_, err := unit.Parse(text)
		return nil, err
	}
	return r.out, nil
}

// stageReader is how far a text of stages is read.
type stageReader struct {
	text string
	at   int
	out  []Stage
	// slackens is set behind a word for slackening, shut once something parts it from what
	// follows; waits behind one for waiting, wait is what it waits for the next.
	slackens, shut, waits bool
	wait                  unit.Quantity
}

// between reads what stands before the next value.
func (r *stageReader) between(to int) error {
	rest := strings.Map(func(c rune) rune {
		if c == '\u00a0' || c == '\u202f' {
			return ' '
		}
		return c
	}, r.text[r.at:to])
	for _, mark := range []string{"+", ",", ";"} {
		rest = strings.ReplaceAll(rest, mark, " "+mark+" ")
	}
	for _, w := range strings.Fields(rest) {
		switch strings.ToLower(w) {
		case "+", ",", ";", "then":
			r.shut = true
		case "slacken", "slackened", "loosen", "loosened":
			r.loose()
			r.slackens, r.shut = true, false
		case "by", "fully", "completely", "again":
			if !r.slackens {
				return fmt.Errorf("%q cannot stand between two stages", strings.TrimSpace(rest))
			}
		case "wait", "after":
			r.waits = true
		default:
			rest = strings.Trim(rest, " +,;")
			_, err := unit.Parse(rest)
			if err == nil {
				err = fmt.Errorf("%q cannot stand between two stages", rest)
			}
			return err
		}
	}
	return nil
}

// loose puts in a slackening that says no angle.
func (r *stageReader) loose() {
	if r.slackens {
		r.out = append(r.out, Stage{Slacken: true, Wait: r.wait})
		r.slackens, r.wait = false, unit.Quantity{}
	}
}

// value takes the next value.
func (r *stageReader) value(q unit.Quantity, text string) error {
	back := r.slackens && !r.shut && q.Kind() == unit.KindAngle
	if !back {
		r.loose()
	}
	if q.Kind() == unit.KindTime && r.waits {
		r.wait, r.waits = q, false
		return nil
	}
	s := Stage{Wait: r.wait}
	switch q.Kind() {
	case unit.KindAngle:
		s.Angle, s.Slacken = q, back
	case unit.KindTorque:
		s.Torque = q
	default:
		return fmt.Errorf("“%s” is neither a torque nor an angle", text)
	}
	r.out = append(r.out, s)
	r.slackens, r.wait = false, unit.Quantity{}
	return nil
}

// StagesText writes stages as ParseStages reads them: "60 N·m + 90°".
func StagesText(stages []Stage) string {
	return StagesSaid(stages, unit.Quantity.String)
}

// StagesSaid writes stages with values as they are said somewhere; what is said of none is
// left out.
func StagesSaid(stages []Stage, value func(unit.Quantity) string) string {
	var out []string
	for _, s := range stages {
		if !s.Wait.IsZero() {
			out = append(out, "wait "+value(s.Wait))
		}
		if s.Slacken && s.Angle.IsZero() {
			out = append(out, "slacken")
		}
		for _, q := range []unit.Quantity{s.Torque, s.Angle} {
			switch said := value(q); {
			case q.IsZero() || said == "":
			case s.Slacken:
				out = append(out, "slacken "+said)
			default:
				out = append(out, said)
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
