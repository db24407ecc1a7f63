package virtual

import (
	"slices"

	"inklatch/internal/core/engine"
)

// Script is a list of steps that can act on a machine. One that also has a method
// Stands begins with an engine that stands so.
type Script interface {
	// Len is the number of steps.
	Len() int
	// Act lets step i act on the machine.
	Act(i int, m *Machine)
	// Holds are the locks and holders used within step i alone.
	Holds(i int) []engine.LockID
}

// StepTrace is one step on the virtual engine.
type StepTrace struct {
	After  State
	Events []Event
	// Aside is set for a step beside the run: it is for when another one fails, or
	// not for this engine.
	Aside bool
}

// Failed reports whether what the step tries did not go in, or what it looks at
// does not stand.
func (s *StepTrace) Failed() bool {
	return slices.ContainsFunc(s.Events, func(e Event) bool {
		switch e.(type) {
		case WouldNotGoIn, MarkAway, FoundOtherwise:
			return true
		}
		return false
	})
}

// Trace is a whole run: what stood before the first step, and each step.
type Trace struct {
	Index *engine.Index
	First State
	Steps []StepTrace
}

// Run lets a script act on a complete engine from its first step to its last.
// It is deterministic and never fails: what cannot be done is an event.
func Run(x *engine.Index, s Script) *Trace { return RunFrom(x, s, 0) }

// RunFrom is Run on an engine that is found so many turns of the crank earlier
// in its cycle: at another stroke, with pumps and balance shafts elsewhere.
func RunFrom(x *engine.Index, s Script, turns int64) *Trace {
	var from Standing
	if p, ok := s.(interface{ Stands() Standing }); ok {
		from = p.Stands()
	}
	m, _ := Stood(x, turns, from) // the proof says where nothing can stand so
	t := &Trace{Index: x, First: m.cur, Steps: make([]StepTrace, s.Len())}
	for i := range t.Steps {
		t.Steps[i] = m.Do(s, i)
	}
	return t
}

// Found is a complete engine as it is found so many turns of the crank earlier in
// its cycle than it usually is.
func Found(x *engine.Index, turns int64) *Machine {
	m := NewMachine(x)
	m.cur.Crank -= 360 * float64(turns)
	for i := range m.cur.Shafts {
		if d := x.Drive(i); d.Driven {
			m.cur.Shafts[i] -= 360 * float64(turns) * d.Ratio.Float()
		}
	}
	return m
}

// Resume is an engine that stands as a state says; the state stays as it is.
func Resume(x *engine.Index, st State) *Machine { return &Machine{Index: x, cur: st} }

// Do lets step i of a script act, and gives what it met and what stands then.
func (m *Machine) Do(s Script, i int) StepTrace {
	m.own = 0
	from := len(m.events)
	s.Act(i, m)
	return StepTrace{After: m.cur, Events: m.events[from:len(m.events):len(m.events)]}
}

// Before is the state before step i; i may be Len for the state at the end. What
// stands beside the run changes nothing for a step of the run.
func (t *Trace) Before(i int) *State {
	for i--; i >= 0; i-- {
		if !t.Steps[i].Aside || i+1 < len(t.Steps) && t.Steps[i+1].Aside {
			return &t.Steps[i].After
		}
	}
	return &t.First
}

// Last is the state after the last step.
func (t *Trace) Last() *State { return t.Before(len(t.Steps)) }

// Fixed reports whether a shaft is held in position in a state of the trace.
func (t *Trace) Fixed(st *State, id engine.ShaftID) bool { return fixed(t.Index, st, id) }

// LineKind says what a lifeline follows.
type LineKind string

// The kinds of lifeline, in the order of the chart.
const (
	PlugLine   LineKind = "plug"
	LockLine   LineKind = "lock"
	HolderLine LineKind = "holder"
	PinLine    LineKind = "pin"
	LoopLine   LineKind = "loop"
)

// Span is a stretch of steps: it begins with step From and ends with step To.
// From −1 means before the first step; To equal to the number of steps means it
// is never ended.
type Span struct {
	From int `json:"from"`
	To   int `json:"to"`
}

// Lifeline is one column of the latch chart. For a plug the spans are where it
// is out, for a loop where it is on, otherwise where the thing is in.
type Lifeline struct {
	Kind  LineKind `json:"kind"`
	ID    string   `json:"id"`
	Name  string   `json:"name"`
	Spans []Span   `json:"spans"`
}

// Lifelines reads the latch chart off the trace. Columns that stay empty are
// left out, but loops are always there.
func (t *Trace) Lifelines(s Script) []Lifeline {
	sh := t.Index.Sheet
	out := []Lifeline{}
	add := func(kind LineKind, id, name string, always bool, on func(*State) bool, within func(int) bool) {
		spans := t.spans(on, within)
		if always || len(spans) > 0 {
			out = append(out, Lifeline{kind, id, name, spans})
		}
	}
	for i := range sh.Parts {
		if sh.Parts[i].Kind == engine.Plug {
			add(PlugLine, string(sh.Parts[i].ID), sh.Parts[i].Name, false, func(st *State) bool { return st.Parts[i].Off }, nil)
		}
	}
	for i := range sh.Locks {
		kind := LockLine
		if !sh.Locks[i].Kind.ForPosition() {
			kind = HolderLine
		}
		used := make([]bool, s.Len())
		for k := range used {
			for _, h := range s.Holds(k) {
				used[k] = used[k] || h == sh.Locks[i].ID
			}
		}
		add(kind, string(sh.Locks[i].ID), sh.Locks[i].Name, false, func(st *State) bool { return st.Locks[i].In }, func(k int) bool { return used[k] })
	}
	for i := range sh.Tensioners {
		add(PinLine, string(sh.Tensioners[i].ID), sh.Tensioners[i].Name+" pin", false, func(st *State) bool { return st.Tensioners[i].Now == Pinned }, nil)
	}
	for i := range sh.Loops {
		add(LoopLine, string(sh.Loops[i].ID), sh.Loops[i].Name, true, func(st *State) bool { return st.Loops[i].On }, nil)
	}
	return out
}

func (t *Trace) spans(on func(*State) bool, within func(int) bool) []Span {
	spans := []Span{}
	open := -2
	if on(&t.First) {
		open = -1
	}
	for i := range t.Steps {
		if t.Steps[i].Aside {
			continue
		}
		now := on(&t.Steps[i].After)
		switch {
		case now && open == -2:
			open = i
		case !now && open != -2:
			spans = append(spans, Span{open, i})
			open = -2
		case !now && within != nil && within(i):
			spans = append(spans, Span{i, i})
		}
	}
	if open != -2 {
		spans = append(spans, Span{open, len(t.Steps)})
	}
	return spans
}
