package desk

import (
	"context"
	"fmt"
	"strings"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// StepBolt is a fastener that a step tightens, and what that does to it.
type StepBolt struct {
	Fastener string `json:"fastener"`
	Name     string `json:"name"`
	Count    int    `json:"count"`
	// Pattern is the order in which several are tightened, Held what takes the torque, empty
	// for nothing, and Trouble that something should and does not.
	Pattern   string         `json:"pattern"`
	Places    []engine.Place `json:"places"`
	Held      string         `json:"held"`
	Unheld    bool           `json:"unheld"`
	SingleUse bool           `json:"singleUse"`
	Course    CourseAnswer   `json:"course"`
}

// mostStepBolts is how many fasteners of a step are worked out.
const mostStepBolts = 6

// Bolts are the fasteners that a step of a revision tightens, as the step stands or as it is
// typed, each through its stages: those of the step, or the sheet’s where it says none.
func (d *Drafts) Bolts(ctx context.Context, u *User, id int64, s *step.Step) ([]StepBolt, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	out := []StepBolt{}
	t, ok := s.Action.(*step.Tighten)
	if !ok || t.To == step.ToFinger {
		return out, nil
	}
	x := o.k.index
	for _, fid := range t.Fasteners {
		f := x.Fastener(fid)
		if f == nil || len(out) == mostStepBolts {
			continue
		}
		of := *f
		if len(t.Stages) > 0 {
			of.Spec = t.Stages
		}
		c, err := CourseOf(CourseAsk{Fastener: of, Tools: x.Sheet.Tools})
		if err != nil {
			return nil, err
		}
		b := StepBolt{Fastener: string(f.ID), Name: f.Words(), Count: f.Count, Pattern: t.Pattern, Places: f.Places, SingleUse: f.SingleUse, Course: *c}
		if b.Places == nil {
			b.Places = []engine.Place{}
		}
		if l := x.Lock(t.Hold); l != nil {
			b.Held = l.Name
		}
		b.Unheld = f.OnShaft != "" && b.Held == ""
		out = append(out, b)
	}
	return out, nil
}

// inShort is what the torques of a step come to, in a few words: the clamp load, what
// was likely meant, the wrench that reaches; bad where the bolt does not bear it. Empty for a step that
// tightens nothing to a value.
func inShort(x *engine.Index, s *step.Step) (says string, bad bool) {
	t, ok := s.Action.(*step.Tighten)
	if !ok || len(t.Stages) == 0 || len(t.Fasteners) == 0 {
		return "", false
	}
	f := x.Fastener(t.Fasteners[0])
	if f == nil {
		return "", false
	}
	var out []string
	if b, known := f.Bolt(); b != nil {
		var c CourseAnswer
		c.judged(b, f, t.Stages, known)
		switch {
		case c.Verdict == bolt.BreaksIt:
			out, bad = append(out, "the bolt breaks"), true
		case c.Verdict == bolt.YieldsIt && t.To == step.ToFinal:
			out, bad = append(out, "the bolt yields"), true
		case c.Verdict == bolt.SlackIt && t.To == step.ToFinal:
			out, bad = append(out, "hardly holds"), true
		case known && f.Lubricant != "":
			if steps, ok := engine.WrenchSteps(t.Stages); ok {
				if course, ok := b.Through(f.Joint(), steps); ok {
					out = append(out, strings.TrimSuffix(fmt.Sprintf("%s kN, %s", span(kilo(course.Final)), course.Reuse), ", "+string(bolt.MayReuse)))
				}
			}
		}
		if bad && len(c.Meant) > 0 {
			out = append(out, c.Meant[0]+" meant?")
		}
	}
	if w := wrenches(x.Sheet.Tools, t.Stages); len(w) > 0 {
		if w[0].Why == "" {
			says := strings.TrimSpace(w[0].Tool + " " + w[0].Name)
			if w[0].With != "" {
				says += ", with the " + w[0].With
			}
			out = append(out, says)
		} else {
			out = append(out, "no wrench of the sheet reaches it")
		}
	}
	return message.Capital(strings.Join(out, " · ")), bad
}

func span(e Ends) string {
	return unit.Number(unit.Round(e.Low)) + "–" + unit.Number(unit.Round(e.High))
}
