package desk

import (
	"context"
	"fmt"
	"slices"

	"inklatch/internal/core/bench"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/proof"
	"inklatch/internal/core/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/format/svg"
)

// Safety is the sentence that stands on every sheet.
const Safety = "This sheet does not replace the maker’s own data, local rules or the judgement of a licensed technician."

// Sheet is what a technician reads and prints.
type Sheet struct {
	Meta    *Meta            `json:"meta"`
	Header  procedure.Header `json:"header"`
	Code    string           `json:"code"`
	Maker   string           `json:"maker"`
	View    string           `json:"view"`
	Sides   string           `json:"sides"`
	Running string           `json:"running"`
	// Drawing is the drive with its locks in, as SVG; empty where the sheet has
	// no wheel.
	Drawing string        `json:"drawing"`
	Safety  string        `json:"safety"`
	Tools   []SheetTool   `json:"tools"`
	Parts   []SheetPart   `json:"parts"`
	Torque  []SheetTorque `json:"torque"`
	Phases  []SheetPhase  `json:"phases"`
	Kept    []Kept        `json:"kept,omitzero"`
	// Anchor is the entry of the record a released sheet can be held against, and
	// Signer who signed it; both empty before release.
	Anchor string `json:"anchor,omitzero"`
	Signer string `json:"signer,omitzero"`
}

// SheetTool is a special tool and the steps that use it.
type SheetTool struct {
	Number string `json:"number"`
	Name   string `json:"name"`
	Kit    string `json:"kit,omitzero"`
	Steps  []int  `json:"steps"`
}

// SheetPart is a part to have ready.
type SheetPart struct {
	Name  string `json:"name"`
	Count int    `json:"count"`
	Why   string `json:"why"`
}

// SheetTorque is a line of the torque table, in both unit systems.
type SheetTorque struct {
	Step      int    `json:"step"`
	Name      string `json:"name"`
	Count     int    `json:"count"`
	Thread    string `json:"thread,omitzero"`
	Value     string `json:"value"`
	Other     string `json:"other"`
	Lubricant string `json:"lubricant,omitzero"`
}

// SheetPhase is a heading and its steps.
type SheetPhase struct {
	Name  string      `json:"name"`
	Steps []SheetStep `json:"steps"`
}

// SheetStep is one step in full words; Reading asks for a figure to be written
// in.
type SheetStep struct {
	Number   int      `json:"number"`
	Text     string   `json:"text"`
	Note     string   `json:"note,omitzero"`
	Cautions []string `json:"cautions"`
	Reading  string   `json:"reading,omitzero"`
}

// Kept is a finding somebody accepted.
type Kept struct {
	Step   int    `json:"step"`
	Rule   string `json:"rule"`
	What   string `json:"what"`
	Reason string `json:"reason"`
}

// Sheet lays a revision out for the bench.
func (d *Desk) Sheet(ctx context.Context, u *User, id int64) (*Sheet, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	t := bench.Run(o.k.index, o.p)
	fs := proof.Findings(o.k.index, o.p, t, d.house)
	m, err := d.meta(ctx, u, o, proof.Blocking(fs))
	if err != nil {
		return nil, err
	}
	x := o.k.index
	s := &Sheet{Meta: m, Safety: Safety, Header: o.p.Header, Code: x.Sheet.Code, Maker: x.Sheet.Maker, View: x.Sheet.View, Sides: x.Sheet.Sides, Running: string(x.Sheet.Running)}
	if b, err := svg.Draw(x, svg.Options{Labels: true, State: locked(x, t)}); err == nil {
		s.Drawing = string(b)
	}
	s.Tools, s.Parts, s.Torque = tools(x, o.p), parts(x, o.p), torque(x, o.p)
	s.Phases = phases(x, o.p)
	if u.Units == Imperial {
		for i := range s.Torque {
			s.Torque[i].Value, s.Torque[i].Other = s.Torque[i].Other, s.Torque[i].Value
		}
	}
	anchor, err := d.store.Reads(ctx).AnchorOf(id)
	if err != nil {
		return nil, err
	}
	if anchor != nil {
		s.Anchor, s.Signer = anchor.Mark(), anchor.Signer()
	}
	for _, f := range fs {
		if f.Accepted != "" {
			s.Kept = append(s.Kept, Kept{o.p.At(f.Steps[0]) + 1, f.Rule, f.What, f.Accepted})
		}
	}
	return s, nil
}

// locked is the state the drive is drawn in: with most locks in, the first of
// those.
func locked(x *engine.Index, t *bench.Trace) *bench.State {
	best, most := &t.First, -1
	for i := range t.Steps {
		n := 0
		for k, l := range t.Steps[i].After.Locks {
			if l.In && x.Sheet.Locks[k].Kind.ForPosition() {
				n++
			}
		}
		if n > most {
			best, most = &t.Steps[i].After, n
		}
	}
	return best
}

func tools(x *engine.Index, p *procedure.Procedure) []SheetTool {
	out := []SheetTool{}
	at := map[engine.ToolID]int{}
	add := func(id engine.ToolID, step int) {
		k, ok := at[id]
		if !ok {
			t := x.Tool(id)
			if t == nil {
				return
			}
			k = len(out)
			at[id] = k
			out = append(out, SheetTool{Number: t.Number, Name: t.Name, Kit: t.Kit, Steps: []int{}})
		}
		if step > 0 && !slices.Contains(out[k].Steps, step) {
			out[k].Steps = append(out[k].Steps, step)
		}
	}
	for _, id := range p.Prelims.Tools {
		add(id, 0)
	}
	for i := range p.Steps {
		for _, id := range p.Steps[i].ToolsUsed(x) {
			add(id, i+1)
		}
	}
	return out
}

// parts are the new parts the steps ask for.
func parts(x *engine.Index, p *procedure.Procedure) []SheetPart {
	out := []SheetPart{}
	add := func(name string, count int, why string) {
		if !slices.ContainsFunc(out, func(q SheetPart) bool { return q.Name == name }) {
			out = append(out, SheetPart{name, count, why})
		}
	}
	part := func(id engine.PartID) {
		if q := x.Part(id); q != nil {
			add(q.Name, 1, string(q.Policy))
		}
	}
	for i := range p.Steps {
		switch a := p.Steps[i].Action.(type) {
		case *step.Fit:
			if l := x.Loop(a.Loop); l != nil && a.New {
				part(l.Part)
			}
		case *step.Refit:
			for _, id := range a.Parts {
				if a.New {
					part(id)
				}
				if q := x.Part(id); q != nil && a.NewSeal && q.Seal != "" {
					part(q.Seal)
				}
			}
		case *step.Renew:
			for _, id := range a.Parts {
				part(id)
			}
			for _, id := range a.Fasteners {
				if f := x.Fastener(id); f != nil {
					why := "as the step says"
					if f.SingleUse {
						why = "single use"
					}
					add(f.Name, max(f.Count, 1), why)
				}
			}
		}
	}
	return out
}

func torque(x *engine.Index, p *procedure.Procedure) []SheetTorque {
	out := []SheetTorque{}
	for i := range p.Steps {
		a, ok := p.Steps[i].Action.(*step.Tighten)
		if !ok || len(a.Stages) == 0 {
			continue
		}
		value, other := "", ""
		plus := func(s *string, q string) {
			if *s != "" {
				*s += " + "
			}
			*s += q
		}
		for _, st := range a.Stages {
			if !st.Torque.IsZero() {
				two := st.Torque.Second()
				if two.IsZero() {
					two = step.OtherTorque(st.Torque)
				}
				plus(&value, st.Torque.First().String())
				plus(&other, two.String())
			}
			if !st.Angle.IsZero() {
				plus(&value, st.Angle.String())
				plus(&other, st.Angle.String())
			}
		}
		for _, id := range a.Fasteners {
			if f := x.Fastener(id); f != nil {
				out = append(out, SheetTorque{i + 1, f.Name, max(f.Count, 1), f.Thread, value, other, f.Lubricant})
			}
		}
	}
	return out
}

func phases(x *engine.Index, p *procedure.Procedure) []SheetPhase {
	out := []SheetPhase{}
	for i := range p.Steps {
		s := &p.Steps[i]
		if i == 0 || p.Steps[i-1].Phase != s.Phase {
			name := string(s.Phase)
			for _, ph := range step.Phases {
				if ph.Phase == s.Phase {
					name = ph.Name
				}
			}
			out = append(out, SheetPhase{Name: name})
		}
		line := SheetStep{Number: i + 1, Text: s.Wording, Note: s.Note, Cautions: []string{}}
		if line.Text == "" {
			line.Text = step.Sentence(x, s.Action)
		}
		for _, c := range s.Cautions {
			line.Cautions = append(line.Cautions, c.Text)
		}
		line.Reading = readingField(s.Action)
		last := &out[len(out)-1]
		last.Steps = append(last.Steps, line)
	}
	return out
}

// readingField is the unit of the figure a technician writes in, with its
// number of readings; empty for none.
func readingField(a step.Action) string {
	switch a := a.(type) {
	case *step.Measure:
		u := string(a.Value.Unit)
		if a.Readings > 1 {
			return fmt.Sprintf("%d × %s", a.Readings, u)
		}
		return u
	case *step.Tighten:
		if a.To == step.ToFinal && len(a.Stages) > 0 && !a.Stages[0].Torque.IsZero() {
			return string(a.Stages[0].Torque.Unit)
		}
	case *step.Set:
		if a.At.Kind() == unit.KindTemperature {
			return string(unit.Celsius)
		}
	}
	return ""
}
