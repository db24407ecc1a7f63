package redline

import (
	"fmt"
	"slices"
	"strings"
)

// Lines are what a printed sheet lists of a redline, a line each change, the gravest
// first.
func (r *Redline) Lines() []string {
	var rows []*Row
	for i := range r.Rows {
		if r.Rows[i].Kind != Same {
			rows = append(rows, &r.Rows[i])
		}
	}
	slices.SortStableFunc(rows, func(a, b *Row) int { return int(a.Risk) - int(b.Risk) })
	var out []string
	for _, w := range rows {
		out = append(out, w.line())
	}
	for _, p := range r.Sheet {
		line := "Engine sheet: " + p.What
		if p.Before != "" || p.After != "" {
			line += fmt.Sprintf(" %s → %s", orNone(p.Before), orNone(p.After))
		}
		out = append(out, line)
	}
	for _, p := range r.Header {
		out = append(out, "Above the steps: "+p.What)
	}
	return out
}

func orNone(s string) string {
	if s == "" {
		return "none"
	}
	return s
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
