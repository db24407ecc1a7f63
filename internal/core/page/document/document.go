// Package document lays a procedure out as a technician reads it: its steps in full
// words under their phases, and the tables that stand before them. The sheet on
// the screen, the print and every export take them from here.
package document

import (
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Page is a procedure laid out.
type Page struct {
	Tools  []Tool   `json:"tools"`
	Parts  []Part   `json:"parts"`
	Torque []Torque `json:"torque"`
	Phases []Phase  `json:"phases"`
	// Begins and Ends are how the engine stands before the first step and after the
	// last; empty for a whole job.
	Begins string `json:"begins,omitzero"`
	Ends   string `json:"ends,omitzero"`
}

// Tool is a special tool and the steps that use it.
type Tool struct {
	Number string `json:"number"`
	Name   string `json:"name"`
	Kit    string `json:"kit,omitzero"`
	Steps  []int  `json:"steps"`
}

// Part is a part to have ready.
type Part struct {
	Name  string `json:"name"`
	Count int    `json:"count"`
	Why   string `json:"why"`
	// Number is its part number, with those it replaces; Every when it is due.
	Number string `json:"number,omitzero"`
	Every  string `json:"every,omitzero"`
}

// Torque is a line of the torque table, in both unit systems.
type Torque struct {
	Step      int    `json:"step"`
	Name      string `json:"name"`
	Count     int    `json:"count"`
	Thread    string `json:"thread,omitzero"`
	Value     string `json:"value"`
	Other     string `json:"other"`
	Lubricant string `json:"lubricant,omitzero"`
	// For says for which engines the value is; empty for all.
	For string `json:"for,omitzero"`
}

// Phase is a heading and its steps.
type Phase struct {
	Name  string `json:"name"`
	Steps []Step `json:"steps"`
}

// Step is one step in full words; Reading asks for a figure to be written
// in.
type Step struct {
	ID       step.ID  `json:"id"`
	Number   int      `json:"number"`
	Text     string   `json:"text"`
	Note     string   `json:"note,omitzero"`
	Cautions []string `json:"cautions"`
	Reading  string   `json:"reading,omitzero"`
	// Free says which words of it the virtual engine knows nothing of: "free text", "own
	// wording"; none for a step in the house's words.
	Free []string `json:"free,omitempty"`
	// Condition is how the threads are when the torque holds; Figures the places of
	// bolts in the order they are tightened.
	Condition string   `json:"condition,omitzero"`
	Figures   []Figure `json:"figures,omitempty"`
	// Picture is the engine after the step, close up, as SVG; Shows says what it shows.
	Picture string `json:"picture,omitzero"`
	Shows   string `json:"shows,omitzero"`
	// Pair is how it looks there as it should, and how with a mistake, nil for none.
	Pair *Pair `json:"pair,omitempty"`
	// Changed says that the step is not as it was in the last release: new, changed or
	// moved; empty where it is, or where none was released.
	Changed string `json:"changed,omitzero"`
	// Fails is, for a step that is done only when another one fails, the number of
	// that; Back says behind the last of them where to go on.
	Fails int    `json:"fails,omitzero"`
	Back  string `json:"back,omitzero"`
}

// Pair is the engine at a step, close up and as SVG: Right as it should stand, Wrong as it stands
// once somebody made a mistake, which When says; Shows is what is seen then.
type Pair struct {
	Right string `json:"right"`
	Wrong string `json:"wrong"`
	When  string `json:"when"`
	Shows string `json:"shows"`
}

// Figure is a set of bolts where they sit, numbered in the order of tightening.
type Figure struct {
	Name   string         `json:"name"`
	Places []engine.Place `json:"places"`
}

// Of lays a procedure out.
func Of(x *engine.Index, p *procedure.Procedure) *Page {
	return &Page{tools(x, p), parts(x, p), torque(x, p), phases(x, p), p.Begins.Says(x.NameOf), p.Ends.Says(x.NameOf)}
}

// Step is a step by its place in the procedure, nil where the page has none there.
func (p *Page) Step(at int) *Step {
	for i := range p.Phases {
		for k := range p.Phases[i].Steps {
			if s := &p.Phases[i].Steps[k]; s.Number == at+1 {
				return s
			}
		}
	}
	return nil
}

// Swapped puts the other unit system first in the torque table.
func (p *Page) Swapped() {
	for i := range p.Torque {
		p.Torque[i].Value, p.Torque[i].Other = p.Torque[i].Other, p.Torque[i].Value
	}
}

// Held is the state the drive of a page is drawn in: with most locks in, the first of
// those.
func Held(x *engine.Index, t *virtual.Trace) *virtual.State {
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

func tools(x *engine.Index, p *procedure.Procedure) []Tool {
	out := []Tool{}
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
			out = append(out, Tool{Number: t.Number, Name: t.Name, Kit: t.Kit, Steps: []int{}})
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
func parts(x *engine.Index, p *procedure.Procedure) []Part {
	out := []Part{}
	add := func(q Part) {
		if !slices.ContainsFunc(out, func(o Part) bool { return o.Name == q.Name }) {
			out = append(out, q)
		}
	}
	for i := range p.Steps {
		ps, fs := p.Steps[i].NewParts(x)
		for _, id := range ps {
			if q := x.Part(id); q != nil {
				one := Part{Name: q.Name, Count: 1, Why: string(q.Policy), Number: q.Number, Every: q.Every}
				if q.Number != "" && q.Replaces != "" {
					one.Number += ", for " + q.Replaces
				}
				add(one)
			}
		}
		for _, id := range p.Steps[i].NewLoops(x) {
			add(Part{Name: x.Loop(id).Name, Count: 1, Why: "as the step says"})
		}
		for _, id := range fs {
			if f := x.Fastener(id); f != nil {
				one := Part{Name: f.Name, Count: max(f.Count, 1), Why: "as the step says"}
				if f.SingleUse {
					one.Why = "single use"
				}
				if q := x.Part(f.Part); q != nil {
					one.Number = q.Number
				}
				add(one)
			}
		}
	}
	return out
}

// torque lists every value of every fastener; Other is the same in the other
// unit system, the author's own second figure where there is one.
func torque(x *engine.Index, p *procedure.Procedure) []Torque {
	out := []Torque{}
	for i := range p.Steps {
		for _, v := range p.Steps[i].Torques() {
			value, other := inBoth(v.Stages)
			for _, id := range v.Fasteners {
				if f := x.Fastener(id); f != nil {
					out = append(out, Torque{i + 1, f.Name, max(f.Count, 1), threadOf(f), value, other, f.Lubricant, v.When.Said()})
				}
			}
		}
	}
	return out
}

func inBoth(stages []engine.Stage) (value, other string) {
	value = engine.StagesSaid(stages, func(q unit.Quantity) string { return q.First().String() })
	other = engine.StagesSaid(stages, func(q unit.Quantity) string {
		if q.Kind() != unit.KindTorque {
			return q.String()
		}
		if two := q.Second(); !two.IsZero() {
			return two.String()
		}
		return step.OtherTorque(q).String()
	})
	return value, other
}

// figures are the bolts of a tightening step whose places the sheet has.
func figures(x *engine.Index, s *step.Step) []Figure {
	var out []Figure
	a, ok := s.Action.(*step.Tighten)
	if !ok || a.To == step.ToFinger {
		return nil
	}
	for _, id := range a.Fasteners {
		if f := x.Fastener(id); f != nil && len(f.Places) > 0 {
			out = append(out, Figure{f.Words(), f.Places})
		}
	}
	return out
}

func phases(x *engine.Index, p *procedure.Procedure) []Phase {
	out := []Phase{}
	for i := range p.Steps {
		s := &p.Steps[i]
		if i == 0 || p.Steps[i-1].Phase != s.Phase {
			name := string(s.Phase)
			for _, ph := range step.Phases {
				if ph.Phase == s.Phase {
					name = ph.Name
				}
			}
			out = append(out, Phase{Name: name})
		}
		line := Step{ID: s.ID, Number: i + 1, Text: message.Capital(en.Full(x, s)), Note: message.Capital(s.Note), Cautions: []string{}}
		if s.IfNot {
			line.Fails = p.Under(i) + 1
			line.Back, _ = p.Back(i)
		}
		for _, c := range s.Cautions {
			line.Cautions = append(line.Cautions, message.Capital(c.Text))
		}
		line.Free = s.Free()
		line.Reading, line.Condition, line.Figures = s.Reading(), en.Condition(x, s), figures(x, s)
		last := &out[len(out)-1]
		last.Steps = append(last.Steps, line)
	}
	return out
}
