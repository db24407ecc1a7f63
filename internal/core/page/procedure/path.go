package procedure

import (
	"fmt"
	"slices"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// Path is one way through a procedure, as somebody goes it on one engine: steps
// done one after another.
type Path struct {
	*Procedure
	// At is the place of each step in the whole procedure; nil where the way is
	// the whole procedure. A step that is come back to stands here twice.
	At []int
}

// put goes on with step i of the whole procedure, as it is done on an engine.
func (w *Path) put(p *Procedure, i int, car *engine.Car) {
	s := p.Steps[i]
	if car != nil {
		s = s.On(*car)
	}
	w.Steps, w.At = append(w.Steps, s), append(w.At, i)
}

// Place is where step i of the way stands in the whole procedure.
func (w *Path) Place(i int) int {
	if w.At == nil || i < 0 || i >= len(w.At) {
		return i
	}
	return w.At[i]
}

// Plain reports whether every engine goes through the procedure in the same way:
// no step is for some engines only, or for when another one fails.
func (p *Procedure) Plain() bool {
	return !slices.ContainsFunc(p.Steps, func(s step.Step) bool { return s.IfNot || s.ForSome() })
}

// Branch are the places of the steps that are done when step k fails: those for
// that which follow it.
func (p *Procedure) Branch(k int) []int {
	var out []int
	if k < 0 || p.Steps[k].IfNot {
		return nil
	}
	for i := k + 1; i < len(p.Steps) && p.Steps[i].IfNot; i++ {
		out = append(out, i)
	}
	return out
}

// Failing are the places of the steps that can fail and say what is done then.
func (p *Procedure) Failing() []int {
	var out []int
	for i := range p.Steps {
		if p.Steps[i].CanFail() && len(p.Branch(i)) > 0 {
			out = append(out, i)
		}
	}
	return out
}

// done reports whether step i is done on an engine as the page should go; car is
// nil for any.
func (p *Procedure) done(i int, car *engine.Car) bool {
	return !p.Steps[i].IfNot && p.forCar(i, car)
}

func (p *Procedure) forCar(i int, car *engine.Car) bool {
	return car == nil || p.Steps[i].When.Covers(*car)
}

// back is the place to go on from once the steps for a failing step k are done.
func (p *Procedure) back(k int) int {
	a := p.Steps[k].Again
	if a == nil {
		return k + 1
	}
	if i := p.At(a.From); a.From != "" && i >= 0 && i < k {
		return i
	}
	return k
}

// Back says behind the last step for when another fails where to go on, and the
// place of that step; "" and −1 elsewhere.
func (p *Procedure) Back(i int) (says string, to int) {
	k := p.above(i)
	if !p.Steps[i].IfNot || k < 0 || i+1 < len(p.Steps) && p.Steps[i+1].IfNot || p.Steps[k].Again == nil {
		return "", -1
	}
	if to = p.back(k); to == k {
		return fmt.Sprintf("then step %d again, %s", k+1, en.Often(p.Steps[k].Most())), to
	}
	return fmt.Sprintf("then go on from step %d, %s", to+1, en.Often(p.Steps[k].Most())), to
}

// Along is the way through the procedure on one engine, nil for any. With a step
// fails that fails, −1 for none, it is the way that leads through the steps for
// that: up to it, what is done then, and on from where they lead back to, once.
func (p *Procedure) Along(car *engine.Car, fails int) *Path {
	if fails < 0 && p.Plain() {
		return &Path{Procedure: p}
	}
	w := &Path{Procedure: &Procedure{Header: p.Header}, At: []int{}}
	put := func(i int) { w.put(p, i, car) }
	k := len(p.Steps)
	if fails >= 0 {
		k = fails
	}
	for i := range k {
		if p.done(i, car) {
			put(i)
		}
	}
	if k == len(p.Steps) {
		return w
	}
	for _, i := range p.Branch(fails) {
		if p.forCar(i, car) {
			put(i)
		}
	}
	for i := p.back(k); i < len(p.Steps); i++ {
		if p.done(i, car) {
			put(i)
		}
	}
	return w
}

// Go lets an engine that is found some turns of the crank earlier in its cycle go
// through the procedure: where a step fails that says what is done then, that is
// done, and it is gone on from where it leads back to, as often as it may.
func (p *Procedure) Go(x *engine.Index, turns int64, car *engine.Car) (*Path, *virtual.Trace) {
	if p.Plain() {
		return &Path{Procedure: p}, virtual.RunFrom(x, p, turns)
	}
	return p.GoAmiss(x, turns, car, nil)
}

// GoAmiss is Go on an engine where something goes wrong: amiss may change it before a
// step is done, each time it is come to, which it gets the place of; nil for nothing.
func (p *Procedure) GoAmiss(x *engine.Index, turns int64, car *engine.Car, amiss func(i int, m *virtual.Machine)) (*Path, *virtual.Trace) {
	n := len(p.Steps) + 8
	w := &Path{Procedure: &Procedure{Header: p.Header, Steps: make([]step.Step, 0, n)}, At: make([]int, 0, n)}
	m, _ := virtual.Stood(x, turns, p.Begins) // the proof says where nothing can stand so
	t := &virtual.Trace{Index: x, First: *m.State(), Steps: make([]virtual.StepTrace, 0, n)}
	do := func(i int) {
		w.put(p, i, car)
		t.Steps = append(t.Steps, m.Do(w, len(w.Steps)-1))
	}
	tries := make([]int, len(p.Steps))
	for i := 0; i < len(p.Steps); {
		if !p.done(i, car) {
			i++
			continue
		}
		if amiss != nil {
			amiss(i, m)
		}
		before := *m.State()
		do(i)
		last := len(t.Steps) - 1
		branch := p.Branch(i)
		if len(branch) == 0 || !p.Steps[i].CanFail() || !t.Steps[last].Failed() || tries[i] == p.Steps[i].Most() {
			i++
			continue
		}
		tries[i]++
		// What does not go in stays out.
		m = virtual.Resume(x, before)
		t.Steps, w.Steps, w.At = t.Steps[:last], w.Steps[:last], w.At[:last]
		for _, k := range branch {
			if p.forCar(k, car) {
				do(k)
			}
		}
		i = p.back(i)
	}
	return w, t
}

// Trace is the run of the whole procedure, step by step in its own order: what is
// done as the page should go, from an engine found so many turns earlier. Steps
// for when another one fails stand beside it, as if that one had; steps that are
// not for this engine change nothing.
func (p *Procedure) Trace(x *engine.Index, turns int64, car *engine.Car) *virtual.Trace {
	w, run := p.Go(x, turns, car)
	if w.At == nil {
		return run
	}
	t := &virtual.Trace{Index: x, First: run.First, Steps: make([]virtual.StepTrace, len(p.Steps))}
	gone := make([]bool, len(p.Steps))
	for k, i := range w.At {
		t.Steps[i] = run.Steps[k]
		gone[i] = true
	}
	last := t.First
	for i := range p.Steps {
		if gone[i] {
			last = t.Steps[i].After
			continue
		}
		t.Steps[i] = virtual.StepTrace{After: last, Aside: true}
	}
	for _, k := range p.Failing() {
		m := virtual.Resume(x, *t.Before(k))
		for _, i := range p.Branch(k) {
			if p.forCar(i, car) && !gone[i] {
				t.Steps[i] = m.Do(p, i)
				t.Steps[i].Aside = true
			}
		}
	}
	return t
}

// Cells are engines that stand for all that the procedure is for: those between
// which neither its steps nor the sheet differ. None where nothing does; all is
// how many there are, of which the first are given.
func (p *Procedure) Cells(s *engine.Sheet) (cells []engine.Car, all int) {
	var whens []engine.When
	for i := range p.Steps {
		whens = append(whens, p.Steps[i].Whens()...)
	}
	return s.Cells(p.Applies.Years, whens...)
}

// First is the engine a procedure is shown and proved for before any other: nil
// where all its steps are for every engine of its code.
func (p *Procedure) First(s *engine.Sheet) *engine.Car {
	if !slices.ContainsFunc(p.Steps, func(s step.Step) bool { return s.ForSome() }) {
		return nil
	}
	if cells, _ := p.Cells(s); len(cells) > 0 {
		return &cells[0]
	}
	return nil
}
