package desk

import (
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/store"
)

// reanchor lets an edit that stands after a step since taken out stand after
// the one before it.
func reanchor(rows []store.Step, p *procedure.Procedure, edits []procedure.Edit) []procedure.Edit {
	coming := map[step.ID]bool{}
	out := make([]procedure.Edit, len(edits))
	for i, e := range edits {
		if e.Op == procedure.Insert {
			coming[e.Step.ID] = true
		}
		if e.After != "" && p.At(e.After) < 0 && !coming[e.After] {
			alive := step.ID("")
			for r := range rows {
				if rows[r].StepID == string(e.After) {
					break
				}
				if !rows[r].Gone && rows[r].StepID != string(e.ID) {
					alive = step.ID(rows[r].StepID)
				}
			}
			e.After = alive
		}
		out[i] = e
	}
	return out
}

// saveRows writes the rows that a batch touched: those its edits name, and those
// the edits that lead back name.
func saveRows(w *store.Draft, u *User, before, after *procedure.Procedure, edits []procedure.Edit, client string) error {
	pos := map[string]float64{}
	bodies := map[string]string{}
	for i := range w.Steps {
		pos[w.Steps[i].StepID] = w.Steps[i].Pos
		bodies[w.Steps[i].StepID] = w.Steps[i].Body
	}
	touched := map[step.ID]bool{}
	for i := range edits {
		if edits[i].Op == procedure.SetHeader {
			w.Revision.Header, w.Revision.HeaderBy, w.Revision.HeaderAt = text(after.Header), client, w.Revision.Version
			continue
		}
		touched[edits[i].Target()] = true
	}
	if !place(after, touched, pos) {
		for i := range after.Steps {
			pos[string(after.Steps[i].ID)] = float64(i + 1)
		}
		for i := range after.Steps { // no room between two steps: number them anew
			if id := after.Steps[i].ID; !touched[id] {
				for r := range w.Steps {
					if w.Steps[r].StepID == string(id) {
						s := w.Steps[r]
						s.Pos = pos[string(id)]
						if err := w.SaveStep(s); err != nil {
							return err
						}
					}
				}
			}
		}
	}
	for id := range touched {
		row := store.Step{StepID: string(id), Pos: pos[string(id)], Version: w.Revision.Version, Client: client, ChangedBy: u.ID}
		if i := after.At(id); i >= 0 {
			row.Body = text(after.Steps[i])
		} else if k := before.At(id); k >= 0 {
			row.Gone, row.Body = true, text(before.Steps[k])
		} else {
			continue
		}
		if err := w.SaveStep(row); err != nil {
			return err
		}
	}
	return nil
}

// place gives touched steps a position between their neighbours; false when
// there is no room left.
func place(p *procedure.Procedure, touched map[step.ID]bool, pos map[string]float64) bool {
	last := 0.0
	for i := range p.Steps {
		id := string(p.Steps[i].ID)
		own, known := pos[id]
		if touched[p.Steps[i].ID] {
			next := last + 2
			for k := i + 1; k < len(p.Steps); k++ {
				if !touched[p.Steps[k].ID] {
					next = pos[string(p.Steps[k].ID)]
					break
				}
			}
			if !known || own <= last || own >= next {
				if next-last < 1e-7 {
					return false
				}
				pos[id] = last + (next-last)/2
			}
		}
		if pos[id] <= last {
			return false
		}
		last = pos[id]
	}
	return true
}
