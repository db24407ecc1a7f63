// Package procedure is the document an author writes: header, prelims and
// steps, and the edits that change it one step at a time.
package procedure

import (
	"fmt"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

// Header is everything that stands above the steps.
type Header struct {
	Title   string  `json:"title"`
	Engine  string  `json:"engine"`
	Applies Applies `json:"applies,omitzero"`
	Purpose string  `json:"purpose,omitzero"`
	Task    Task    `json:"task,omitzero"`
	Prelims Prelims `json:"prelims,omitzero"`
	// Begins and Ends are how the engine stands before the first step and after the
	// last, for a page that is part of a job; After and Before the titles of the
	// pages it goes on from and that go on from it.
	Begins virtual.Standing `json:"begins,omitzero"`
	Ends   virtual.Standing `json:"ends,omitzero"`
	After  string           `json:"after,omitzero"`
	Before string           `json:"before,omitzero"`
}

// Applies says for which engines of the code the page is written.
type Applies struct {
	Years engine.Years `json:"years,omitzero"`
	Note  string       `json:"note,omitzero"`
}

// Prelims is what must be there before the first step.
type Prelims struct {
	Conditions []string        `json:"conditions,omitempty"`
	People     string          `json:"people,omitzero"`
	Time       unit.Quantity   `json:"time,omitzero"`
	Tools      []engine.ToolID `json:"tools,omitempty"`
	Supplies   []string        `json:"supplies,omitempty"`
}

// Procedure is a header and its steps in order.
type Procedure struct {
	Header
	Steps []step.Step `json:"steps"`
}

// Stands is how the engine stands before the first step.
func (p *Procedure) Stands() virtual.Standing { return p.Begins }

// Len is the number of steps.
func (p *Procedure) Len() int { return len(p.Steps) }

// Act lets step i act on the virtual engine. A step with no time of its own
// takes one minute, an assumption of ours for open times.
func (p *Procedure) Act(i int, m *virtual.Machine) {
	p.Steps[i].Action.Act(m)
	m.Wait(1)
}

// Holds are the holders step i uses within itself.
func (p *Procedure) Holds(i int) []engine.LockID {
	if h := p.Steps[i].HoldsWith(); h != "" {
		return []engine.LockID{h}
	}
	return nil
}

// At is the place of a step, −1 when it is not there.
func (p *Procedure) At(id step.ID) int {
	return slices.IndexFunc(p.Steps, func(s step.Step) bool { return s.ID == id })
}

// Op says what an edit does.
type Op string

// The edits.
const (
	// Insert puts Step after the step After, at the top when After is empty.
	Insert Op = "insert"
	// Replace puts Step in the place of the step with its ID.
	Replace Op = "set"
	// Move takes the step ID to after the step After, into Phase.
	Move Op = "move"
	// Remove takes the step ID out.
	Remove Op = "remove"
	// SetHeader replaces the header.
	SetHeader Op = "header"
)

// Choices are the kinds of edit.
func (Op) Choices() []string {
	return []string{string(Insert), string(Replace), string(Move), string(Remove), string(SetHeader)}
}

// Edit is one change of a procedure.
type Edit struct {
	Op     Op         `json:"op"`
	ID     step.ID    `json:"id,omitzero"`
	After  step.ID    `json:"after,omitzero"`
	Phase  step.Phase `json:"phase,omitzero"`
	Step   *step.Step `json:"step,omitzero"`
	Header *Header    `json:"header,omitzero"`
	// Exact puts a step just where the edit says and moves nothing with it, as an
	// edit that leads back does. Otherwise a step and what is done when it fails
	// stay together.
	Exact bool `json:"exact,omitzero"`
}

// Target is the step an edit touches; empty for the header.
func (e *Edit) Target() step.ID {
	if e.Step != nil {
		return e.Step.ID
	}
	return e.ID
}

// maxSteps keeps a document within what a page can be.
const maxSteps = 2000

// Check says what is wrong with an edit by itself, whatever it is applied to.
func (e *Edit) Check() error {
	switch e.Op {
	case Insert, Replace:
		if e.Step == nil || e.Step.Action == nil {
			return fmt.Errorf("the edit %q has no step", e.Op)
		}
		if e.Step.ID == "" {
			return fmt.Errorf("the edit %q gives its step no id", e.Op)
		}
	case Move, Remove:
		if e.ID == "" {
			return fmt.Errorf("the edit %q names no step", e.Op)
		}
		if e.Phase != "" && !e.Phase.Known() {
			return fmt.Errorf("there is no phase %q", e.Phase)
		}
	case SetHeader:
		if e.Header == nil {
			return fmt.Errorf("the edit %q has no header", e.Op)
		}
	default:
		return fmt.Errorf("there is no edit %q", e.Op)
	}
	return nil
}

// Gone is the error of an edit to a step that is no longer there.
type Gone struct{ ID step.ID }

// Error says so.
func (g Gone) Error() string { return fmt.Sprintf("step %q is no longer there", g.ID) }

// Apply makes edits one after another on a copy of p. It gives the new
// procedure and the edits that lead back. When one of them cannot be made, p
// stands as it was and the error says why.
func Apply(p *Procedure, edits []Edit) (*Procedure, []Edit, error) {
	n := &Procedure{Header: p.Header, Steps: slices.Clone(p.Steps)}
	var back []Edit
	for i := range edits {
		inv, err := n.apply(&edits[i])
		if err != nil {
			return nil, nil, err
		}
		back = append(back, inv...)
	}
	slices.Reverse(back)
	return n, back, nil
}

// apply makes one edit and gives those that lead back, the last one first.
func (p *Procedure) apply(e *Edit) ([]Edit, error) {
	if err := e.Check(); err != nil {
		return nil, err
	}
	one := func(inv Edit, err error) ([]Edit, error) { return []Edit{inv}, err }
	switch e.Op {
	case Insert:
		return p.insert(e)
	case Replace:
		return one(p.replace(e))
	case Move:
		return p.move(e)
	case Remove:
		return p.remove(e)
	}
	old := p.Header
	p.Header = *e.Header
	p.Engine = old.Engine
	return []Edit{{Op: SetHeader, Header: &old}}, nil
}

// remove takes a step out, and what is done when it fails with it.
func (p *Procedure) remove(e *Edit) ([]Edit, error) {
	i := p.At(e.ID)
	if i < 0 {
		return nil, Gone{e.ID}
	}
	var back []Edit
	out := []int{i}
	if !e.Exact {
		out = append(out, p.Branch(i)...)
		if k := p.above(i); p.Steps[i].IfNot && k >= 0 && len(p.Branch(k)) == 1 && p.Steps[k].Again != nil {
			was := p.Steps[k] // with nothing done before, it is not tried again
			p.Steps[k].Again = nil
			back = append(back, Edit{Op: Replace, Step: &was})
		}
	}
	for _, k := range slices.Backward(out) {
		old := p.Steps[k]
		back = append(back, Edit{Op: Insert, After: p.before(k), Step: &old, Exact: true})
		p.Steps = slices.Delete(p.Steps, k, k+1)
	}
	return back, nil
}

// past is the first place from i on that does not part a step from what is done
// when it fails, for a step that is not part of that.
func (p *Procedure) past(i int, s *step.Step) int {
	for !s.IfNot && i > 0 && i < len(p.Steps) && p.Steps[i].IfNot {
		i++
	}
	return i
}

// Under is the place of the step that step i could be for when it fails: the one
// above it that tries something, −1 where there is none.
func (p *Procedure) Under(i int) int {
	if len(p.Branch(i)) > 0 {
		return -1 // a way of its own hangs on it
	}
	if k := p.above(i); k >= 0 && (p.Steps[i].IfNot || p.Steps[k].CanFail()) {
		return k
	}
	return -1
}

// above is the nearest step above place i that is always done, −1 for none.
func (p *Procedure) above(i int) int {
	for i--; i >= 0 && p.Steps[i].IfNot; i-- {
	}
	return i
}

func (p *Procedure) insert(e *Edit) ([]Edit, error) {
	if p.At(e.Step.ID) >= 0 {
		return nil, fmt.Errorf("there is a step %q already", e.Step.ID)
	}
	if len(p.Steps) >= maxSteps {
		return nil, fmt.Errorf("a procedure has at most %d steps", maxSteps)
	}
	i, err := p.after(e.After)
	if err != nil {
		return nil, err
	}
	s := *e.Step
	back := []Edit{{Op: Remove, ID: s.ID, Exact: true}}
	if !e.Exact {
		i = p.past(i, &s)
		back = append(back, p.triedAgain(i, &s)...)
	}
	p.Steps = slices.Insert(p.Steps, i, s)
	return back, nil
}

// triedAgain lets the step above try again, once its failing has a step that comes
// to stand at i; how often is said by that step, or once.
func (p *Procedure) triedAgain(i int, s *step.Step) []Edit {
	if !s.IfNot {
		return nil
	}
	times := s.Again
	s.Again = nil
	k := p.above(i)
	if k < 0 || !p.Steps[k].CanFail() || p.Steps[k].Again != nil && times == nil {
		return nil
	}
	was := p.Steps[k]
	if p.Steps[k].Again = times; times == nil {
		p.Steps[k].Again = &step.Again{Times: 1}
	}
	return []Edit{{Op: Replace, Step: &was}}
}

func (p *Procedure) replace(e *Edit) (Edit, error) {
	i := p.At(e.Step.ID)
	if i < 0 {
		return Edit{}, Gone{e.Step.ID}
	}
	old, now := p.Steps[i], *e.Step
	if !step.SameAction(old.Action, now.Action) && slices.Equal(old.Accept, now.Accept) {
		now.Accept = nil // accepted for what the step said before
	}
	if !step.SameAction(old.Action, now.Action) && old.Pair == now.Pair {
		now.Pair = "" // it showed what the step looked at before
	}
	p.Steps[i] = now
	return Edit{Op: Replace, Step: &old}, nil
}

// move takes a step elsewhere, and what is done when it fails with it.
func (p *Procedure) move(e *Edit) ([]Edit, error) {
	i := p.At(e.ID)
	if i < 0 {
		return nil, Gone{e.ID}
	}
	if e.After == e.ID {
		return nil, fmt.Errorf("step %q cannot stand after itself", e.ID)
	}
	s := p.Steps[i]
	out := []int{i}
	if !e.Exact {
		out = append(out, p.Branch(i)...)
	}
	was := slices.Clone(p.Steps)
	var back []Edit
	var moved []step.Step
	for _, k := range out {
		back = append(back, Edit{Op: Move, ID: p.Steps[k].ID, After: p.before(k), Phase: p.Steps[k].Phase, Exact: true})
		moved = append(moved, p.Steps[k])
	}
	slices.Reverse(back)
	p.Steps = slices.DeleteFunc(p.Steps, func(o step.Step) bool {
		return slices.ContainsFunc(moved, func(m step.Step) bool { return m.ID == o.ID })
	})
	to, err := p.after(e.After)
	if err != nil {
		if p.Steps = was; p.At(e.After) >= 0 {
			err = fmt.Errorf("step %q cannot stand among what is done when it fails", e.ID)
		}
		return nil, err
	}
	if !e.Exact {
		to = p.past(to, &s)
	}
	for k := range moved {
		if e.Phase != "" {
			moved[k].Phase = e.Phase
		}
	}
	p.Steps = slices.Insert(p.Steps, to, moved...)
	return back, nil
}

func (p *Procedure) before(i int) step.ID {
	if i == 0 {
		return ""
	}
	return p.Steps[i-1].ID
}

func (p *Procedure) after(id step.ID) (int, error) {
	if id == "" {
		return 0, nil
	}
	i := p.At(id)
	if i < 0 {
		return 0, Gone{id}
	}
	return i + 1, nil
}
