// Package view puts a run of the virtual engine into the form the screens draw:
// rows in words, the latch chart, the findings and the engine at every step.
package view

import (
	"encoding/json"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/virtual"
)

// View is everything Write shows of one state of a procedure.
type View struct {
	Version  int64               `json:"version"`
	Header   procedure.Header    `json:"header"`
	Rows     []Row               `json:"rows"`
	Chart    []virtual.Lifeline  `json:"chart"`
	Findings []pageproof.Finding `json:"findings"`
	Blocking int                 `json:"blocking"`
	// States has one more than Rows: before the first step, then after each.
	States []State `json:"states"`
	// Cars are the kinds of engine the page is not the same for, in words, and Car
	// the place of the one it is shown for; none where it is the same for all.
	// Tried says on what the page was proved.
	Tried string `json:"tried"`
	// Begins and Ends are how the engine stands at both ends, in words; empty for a
	// page that is a whole job. Last is how the last step leaves it.
	Begins string           `json:"begins,omitzero"`
	Ends   string           `json:"ends,omitzero"`
	Last   virtual.Standing `json:"last"`
	Cars   []string         `json:"cars"`
	Car    int              `json:"car"`

	sealed json.RawMessage
}

// Seal writes the view as JSON once, for all who will be sent it. After that it
// must not be changed.
func (v *View) Seal() error {
	b, err := v.MarshalJSON()
	v.sealed = b
	return err
}

// MarshalJSON is the sealed JSON, or what it would be.
func (v *View) MarshalJSON() ([]byte, error) {
	if v.sealed != nil {
		return v.sealed, nil
	}
	type plain View
	return json.Marshal((*plain)(v))
}

// Row is one step as it is listed.
type Row struct {
	Step     step.Step   `json:"step"`
	Spans    []lang.Span `json:"spans"`
	Value    string      `json:"value"`
	Sentence string      `json:"sentence"`
	// Crosses is set where the step turns the crank, Clashes the chart columns
	// it should not have crossed.
	Crosses  bool             `json:"crosses"`
	Clashes  []string         `json:"clashes"`
	Severity finding.Severity `json:"severity,omitzero"`
	// Lead stands before the step: for which engines it is, and that it is done only
	// if another fails. Back is, behind the last step for when one fails, where to go
	// on; BackTo the place of that step, and Fails of the one that failed, −1 for
	// none.
	Lead   string `json:"lead,omitzero"`
	Back   string `json:"back,omitzero"`
	BackTo int    `json:"backTo"`
	Fails  int    `json:"fails"`
	// Under is the place of the step above that this one could be for when it fails,
	// −1 for none.
	Under int `json:"under"`
	// Aside is set for a step that is not for the engine the page is shown for.
	Aside bool `json:"aside,omitzero"`
	// By are the values by case as they are written.
	By string `json:"by,omitzero"`
	// When says for which engines the step is, as it is written.
	When string `json:"when,omitzero"`
	// Stages are the step's torques and angles as they are written.
	Stages string `json:"stages,omitzero"`
}

// State is the engine at one moment, as it is drawn.
type State struct {
	Crank   float64  `json:"crank"`
	Cycle   float64  `json:"cycle"`
	Shafts  []Shaft  `json:"shafts"`
	Locks   []string `json:"locks"`
	On      []string `json:"on"`
	Free    []string `json:"free"`
	Tension []string `json:"tension"`
	Minutes float64  `json:"minutes"`
	// Slack are the loops that are on and that something leaves slack. Covered are the
	// wheels behind a cover, with its name. Met are the shafts whose valves met pistons,
	// Jumped the loops on which a tooth may have jumped, in the step that led here.
	Slack   []string          `json:"slack"`
	Covered map[string]string `json:"covered,omitempty"`
	Met     []string          `json:"met,omitempty"`
	Jumped  []string          `json:"jumped,omitempty"`
}

// Shaft is where a shaft stands, degrees of its own turn, and whether a lock
// holds it there, with that lock's play.
type Shaft struct {
	ID    string  `json:"id"`
	Angle float64 `json:"angle"`
	Fixed bool    `json:"fixed"`
	Play  float64 `json:"play,omitzero"`
	// Doubt is how far off it may stand, degrees either way within a tooth, and Teeth
	// how many whole teeth.
	Doubt float64 `json:"doubt,omitzero"`
	Teeth int     `json:"teeth,omitzero"`
}

// Of runs and proves a procedure and lays the result out.
func Of(x *engine.Index, p *procedure.Procedure, version int64, house finding.House) *View {
	return From(x, p, version, house, Place{})
}

// Place is the engine a page is shown on: found so many turns of the crank before
// the usual position, and of which of the kinds the page is not the same for.
type Place struct {
	Turns int64
	Car   int
}

// From is Of with the page shown on another engine; what is found stays the same.
func From(x *engine.Index, p *procedure.Procedure, version int64, house finding.House, at Place) *View {
	var car *engine.Car
	cars := []string{}
	if p.First(x.Sheet) != nil {
		cells, _ := p.Cells(x.Sheet)
		cars = x.Sheet.CellNames(cells, p.Applies.Years)
		at.Car = min(max(at.Car, 0), len(cells)-1)
		car = &cells[at.Car]
	} else {
		at.Car = 0
	}
	on := x
	if car != nil {
		if of, err := x.For(*car); err == nil {
			on = of
		}
	}
	t := p.Trace(on, at.Turns, car)
	run := t
	if at.Turns > 0 {
		run = nil
	}
	fs := pageproof.Findings(x, p, run, house)
	v := &View{
		Tried: pageproof.Tried(x, p), Cars: cars, Car: at.Car, Begins: p.Begins.Says(x.NameOf), Ends: p.Ends.Says(x.NameOf), Last: virtual.StandingOf(on, t.Last()),
		Version: version, Header: p.Header, Chart: t.Lifelines(p), Findings: fs, Blocking: pageproof.Blocking(fs),
		Rows: make([]Row, len(p.Steps)), States: make([]State, len(p.Steps)+1),
	}
	if v.Findings == nil {
		v.Findings = []pageproof.Finding{}
	}
	v.States[0] = StateOf(x, &t.First)
	worst := severities(fs)
	for i := range p.Steps {
		s := &p.Steps[i]
		words := en.Row(x, s.Action)
		r := Row{Step: *s, Spans: words.Spans, Value: words.Value, Sentence: en.Full(x, s), Lead: en.Lead(s), Severity: worst[s.ID], Clashes: []string{}, BackTo: -1, Fails: -1}
		r.Aside = car != nil && !s.When.Covers(*car)
		r.Back, r.BackTo = p.Back(i)
		if s.IfNot {
			r.Fails = p.Under(i)
		}
		r.Under, r.When = p.Under(i), s.When.Said()
		if a, ok := s.Action.(*step.Tighten); ok {
			r.By = step.ByText(a.By)
		}
		if s.Wording != "" {
			r.Spans = []lang.Span{{Kind: lang.TextSpan, Text: s.Wording}}
		}
		if r.Spans == nil {
			r.Spans = []lang.Span{}
		}
		if v := s.Torques(); len(v) > 0 && r.By == "" {
			r.Stages = engine.StagesText(v[0].Stages)
		}
		r.Crosses = t.Before(i).Crank != t.Steps[i].After.Crank
		for _, e := range t.Steps[i].Events {
			if id := clash(e); id != "" && !slices.Contains(r.Clashes, string(id)) {
				r.Clashes = append(r.Clashes, string(id))
			}
		}
		v.Rows[i] = r
		v.States[i+1] = StateOf(x, &t.Steps[i].After)
		v.States[i+1].mishaps(x, t.Steps[i].Events)
	}
	return v
}

func severities(fs []pageproof.Finding) map[step.ID]finding.Severity {
	out := map[step.ID]finding.Severity{}
	for i := range fs {
		if fs[i].Accepted != "" || len(fs[i].Steps) == 0 {
			continue
		}
		if id := fs[i].Steps[0]; out[id] == "" {
			out[id] = fs[i].Severity
		}
	}
	return out
}

// StateOf lays one state out.
func StateOf(x *engine.Index, st *virtual.State) State {
	s := x.Sheet
	out := State{Crank: st.Crank, Cycle: float64(s.Cycle.Degrees()), Locks: []string{}, On: []string{}, Free: []string{}, Tension: []string{}, Slack: []string{}, Minutes: float64(st.Minutes), Shafts: make([]Shaft, len(s.Shafts))}
	for i := range s.Shafts {
		out.Shafts[i] = Shaft{ID: string(s.Shafts[i].ID), Angle: st.Shafts[i], Doubt: round(st.Doubts[i].Angle, 2), Teeth: st.Doubts[i].Teeth}
		for k := range s.Locks {
			l := &s.Locks[k]
			met := l.Kind.ForPosition() && st.Locks[k].Holds(l.Kind)
			if met && slices.Contains(l.Holds, s.Shafts[i].ID) {
				out.Shafts[i].Fixed, out.Shafts[i].Play = true, round(float64(l.Freedom()), 2)
			}
		}
	}
	for i := range s.Locks {
		if st.Locks[i].In {
			out.Locks = append(out.Locks, string(s.Locks[i].ID))
		}
	}
	for i := range s.Loops {
		if st.Loops[i].On {
			out.On = append(out.On, string(s.Loops[i].ID))
			if st.SlackOn(x, i) {
				out.Slack = append(out.Slack, string(s.Loops[i].ID))
			}
		}
	}
	for i := range s.Wheels {
		if p := x.Part(st.Before(x, s.Wheels[i].ID)); p != nil {
			if out.Covered == nil {
				out.Covered = map[string]string{}
			}
			out.Covered[string(s.Wheels[i].ID)] = p.Name
		}
		if st.Free[i] {
			out.Free = append(out.Free, string(s.Wheels[i].ID))
		}
	}
	for _, t := range st.Tensioners {
		out.Tension = append(out.Tension, t.String())
	}
	return out
}

// clash is the lock that an event says is in the way of its step, empty for none.
func clash(e virtual.Event) engine.LockID {
	switch e := e.(type) {
	case virtual.TurnedAgainst:
		return e.Lock
	case virtual.WouldNotGoIn:
		return e.Lock
	case virtual.StartedWithLock:
		return e.Lock
	}
	return ""
}

// mishaps are what a step did to valves and teeth, for the drawing of where it led.
func (s *State) mishaps(x *engine.Index, events []virtual.Event) {
	add := func(list *[]string, id string) {
		if id != "" && !slices.Contains(*list, id) {
			*list = append(*list, id)
		}
	}
	for _, e := range events {
		switch e := e.(type) {
		case virtual.CamContact:
			add(&s.Met, string(e.Shaft))
		case virtual.Contact:
			add(&s.Met, string(e.Shaft))
			if l := x.LoopAt(e.Loop); l >= 0 && e.Shaft == "" {
				for k := range x.Sheet.Shafts {
					if x.Sheet.Shafts[k].Kind.IsCam() && slices.Contains(x.Drive(k).Loops, l) {
						add(&s.Met, string(x.Sheet.Shafts[k].ID))
					}
				}
			}
		case virtual.SlackTurned:
			add(&s.Jumped, string(e.Loop))
		case virtual.SlackElsewhere:
			add(&s.Jumped, string(e.Loop))
		}
	}
}
