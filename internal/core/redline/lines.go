package redline

import (
	"fmt"
	"strings"
)

// Lines are what a printed sheet lists of a redline, a line each change.
func (r *Redline) Lines() []string {
	var out []string
	for _, p := range r.Header {
		out = append(out, "Above the steps: "+p.What)
	}
	for _, w := range r.Rows {
		if w.Kind != Same {
			out = append(out, w.line())
		}
	}
	for _, p := range r.Sheet {
		out = append(out, "Engine sheet: "+p.What)
	}
	return out
}

// line says what became of a step: "Step 31 changed: what it does, note".
func (w *Row) line() string {
	if w.Now == 0 {
		return fmt.Sprintf("No longer (step %d then): %s", w.Was, w.Before)
	}
	line := fmt.Sprintf("Step %d %s", w.Now, w.Kind)
	if w.Kind == Moved && w.Was != w.Now {
		line += fmt.Sprintf(" from %d", w.Was)
	}
	var what []string
	for _, p := range w.Parts {
		if p.What != "step" && p.What != "place" { // the kind says those
			what = append(what, p.What)
		}
	}
	if len(what) > 0 {
		line += ": " + strings.Join(what, ", ")
	}
	return line
}
