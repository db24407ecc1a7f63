package desk

import (
	"crypto/rand"
	"encoding/json"
	"fmt"
	"strings"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
)

// suggested reads the line of a suggestion, tries it on the page and proves that,
// and fills in the edits it comes to and what they would change.
func (d *Review) suggested(o *opened, s *Said, m *store.Remark) error {
	at := o.p.At(s.Step)
	if at < 0 {
		return problem(409, "That step is not on the page any more: there is nothing a line could stand in place of.")
	}
	old := &o.p.Steps[at]
	r := readLine(o.k, s.Line, old.Phase)
	if r.Problem != "" {
		return &Problem{Status: 422, Title: fullStop(r.Problem), Field: "line"}
	}
	if r.Aside != "" {
		return &Problem{Status: 422, Title: "That line is a note or a caution, not a step. Say it as a remark.", Field: "line"}
	}
	line := r.Step
	edit := procedure.Edit{Op: procedure.Replace, Step: &line}
	if s.Behind {
		line.ID = step.ID("s-" + strings.ToLower(rand.Text()[:10]))
		edit = procedure.Edit{Op: procedure.Insert, After: s.Step, Step: &line}
	} else { // what the line does not say stays as it is
		line.ID, line.Phase, line.Note, line.Picture, line.Pair = old.ID, old.Phase, old.Note, old.Picture, old.Pair
		line.IfNot, line.Again = old.IfNot, old.Again
		for _, c := range old.Cautions {
			if !line.Warns(c.Hazard) || c.Hazard == "" {
				line.Cautions = append(line.Cautions, c)
			}
		}
	}
	if edit.Op == procedure.Replace && text(line) == text(old) {
		return &Problem{Status: 422, Title: "That is what the step says already.", Field: "line"}
	}
	after, _, err := procedure.Apply(o.p, []procedure.Edit{edit})
	if err != nil {
		return &Problem{Status: 422, Title: fullStop(err.Error()), Field: "line"}
	}
	if err := held(latchjson.CheckProcedure(after), ""); err != nil {
		return err
	}
	was, now := pageproof.Prove(o.k.index, o.p, d.house()), pageproof.Prove(o.k.index, after, d.house())
	e := Effect{Sentence: sentence(o.k, &line), New: sayings(now, was), Settled: sayings(was, now), Blocks: pageproof.Blocking(now) > pageproof.Blocking(was)}
	m.Edits, m.Effect = text([]procedure.Edit{edit}), text(e)
	return nil
}

// take makes a suggestion an edit of whoever takes it. A step that was changed
// since the suggestion was made is left alone.
func (d *Review) take(w *store.Draft, u *User, o *opened, m *store.Remark, client string, out *Saved) error {
	if err := mayTake(u, m); err != nil {
		return err
	}
	if !nameShape.MatchString(client) {
		client = "review"
	}
	for i := range w.Steps {
		if s := &w.Steps[i]; s.StepID == m.StepID && (s.Gone || s.Version > m.Version) {
			return problem(409, "The step has changed since this was suggested. Suggest it again as the step is now, or write it by hand.")
		}
	}
	var edits []procedure.Edit
	if err := json.Unmarshal([]byte(m.Edits), &edits); err != nil {
		return fmt.Errorf("reading suggestion %d: %w", m.ID, err)
	}
	b := Batch{Name: fmt.Sprintf("take:%d:%d", m.ID, w.Revision.Version), Client: client, Edits: edits, Also: map[string]any{"suggestion": m.ID, "suggested by": m.PersonID}}
	return d.rooms.Drafts.write(w, u, o, b, "edit", "", out)
}
