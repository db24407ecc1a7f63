package document

import (
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// Picture is the engine as a step leaves it, close up, for the printed sheet.
type Picture struct {
	// Step is the place of the step in the page.
	Step  int
	State *virtual.State
	// Wheels are what it shows; empty for the whole drive.
	Wheels []engine.WheelID
	// Says is what it shows, in words.
	Says string
}

// Pictures are the drawings of a page: at each step that puts in a lock, lays a
// loop, leaves one slack or reads a mark, unless its author says otherwise.
func Pictures(x *engine.Index, p *procedure.Procedure, t *virtual.Trace) []Picture {
	var out []Picture
	for i := range p.Steps {
		s := &p.Steps[i]
		if s.Picture == step.NeverPicture {
			continue
		}
		before, after := t.Before(i), &t.Steps[i].After
		v := Picture{Step: i, State: after}
		switch {
		case v.locked(x, before, after), v.laid(x, before, after), v.marked(x, s), v.slack(x, before, after):
		case s.Picture == step.AlwaysPicture:
			v.Says = fmt.Sprintf("The drive after step %d", i+1)
		default:
			continue
		}
		out = append(out, v)
	}
	return out
}

// locked shows the locks for position that went in.
func (v *Picture) locked(x *engine.Index, before, after *virtual.State) bool {
	var names []string
	for k := range x.Sheet.Locks {
		l := &x.Sheet.Locks[k]
		if !l.Kind.ForPosition() || !after.Locks[k].In || before.Locks[k].In {
			continue
		}
		names = append(names, l.Name)
		for _, shaft := range l.Holds {
			if w := x.TimedBy(shaft); w != nil {
				v.show(w.ID)
			}
		}
	}
	v.Says = says(names, "in place")
	return len(names) > 0
}

// laid shows the whole way of a loop that was laid.
func (v *Picture) laid(x *engine.Index, before, after *virtual.State) bool {
	var names []string
	for k := range x.Sheet.Loops {
		if after.Loops[k].On && !before.Loops[k].On {
			names = append(names, x.Sheet.Loops[k].Name)
			v.along(&x.Sheet.Loops[k])
		}
	}
	v.Says = says(names, "as it is laid")
	return len(names) > 0
}

// slack shows the wheels beside the run of a loop that was left slack.
func (v *Picture) slack(x *engine.Index, before, after *virtual.State) bool {
	var names []string
	for k := range x.Sheet.Loops {
		l := &x.Sheet.Loops[k]
		if !after.Loops[k].On || !before.Loops[k].On || !after.SlackOn(x, k) || before.SlackOn(x, k) {
			continue
		}
		names = append(names, l.Name)
		v.along(l)
	}
	v.Says = says(names, "left slack")
	return len(names) > 0
}

// marked shows the wheels of the marks that are read.
func (v *Picture) marked(x *engine.Index, s *step.Step) bool {
	var names []string
	for _, id := range s.Reads() {
		m := x.Mark(id)
		if m == nil || x.Wheel(m.Wheel) == nil {
			continue
		}
		names = append(names, m.Name)
		v.show(m.Wheel)
	}
	v.Says = says(names, map[bool]string{true: "against its pointer", false: "against their pointers"}[len(names) == 1])
	return len(names) > 0
}

func (v *Picture) along(l *engine.Loop) {
	for _, s := range l.Route {
		v.show(s.Wheel)
	}
}

func (v *Picture) show(w engine.WheelID) {
	if !slices.Contains(v.Wheels, w) {
		v.Wheels = append(v.Wheels, w)
	}
}

// says is a caption: "crank pin, cam bar in place".
func says(names []string, how string) string {
	if len(names) == 0 {
		return ""
	}
	return strings.Join(names, ", ") + " " + how
}
