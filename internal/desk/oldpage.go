package desk

import (
	"context"
	"errors"
	"fmt"

	"inklatch/internal/core/page/bring"
	"inklatch/internal/core/page/step"
	"inklatch/internal/format/oldpage"
)

// OldPage is a page that was written elsewhere, as it would come into a revision. Nothing of it
// is written yet.
type OldPage struct {
	// Name is the file it was read from, SHA256 of its bytes, hexadecimal.
	Name   string `json:"name"`
	SHA256 string `json:"sha256"`
	// Title is its title, empty where it has none.
	Title string `json:"title"`
	// Lines is how many lines it has.
	Lines int `json:"lines"`
	// Readings are its lines that become steps, cautions and notes, in their order.
	Readings []Reading `json:"readings"`
	// Left are the lines that are not taken, or that say something of the engine sheet.
	Left []OldLine `json:"left"`
}

// OldLine is a line of an old page that becomes no step.
type OldLine struct {
	// Number is the line's, from 1.
	Number  int           `json:"number"`
	Text    string        `json:"text"`
	Outcome bring.Outcome `json:"outcome"`
	Why     string        `json:"why"`
}

// mostBrought bounds what is brought at once.
const mostBrought = 500

// OldPage reads a file, or what was copied from a word processor, for a draft.
func (d *Drafts) OldPage(ctx context.Context, u *User, id int64, name string, b []byte) (*OldPage, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	if err := holdText(name, "name", 200); err != nil {
		return nil, err
	}
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	return worked(func() (*OldPage, error) {
		p, err := oldpage.Read(name, b)
		if err != nil {
			var e *oldpage.Error
			if errors.As(err, &e) {
				return nil, &Problem{Status: 422, Title: e.Says, Field: "name"}
			}
			return nil, err
		}
		r := bring.Page(o.k.index, o.k.lex, p.Lines)
		out := &OldPage{Name: p.Name, SHA256: p.SHA256, Lines: len(r.Rows), Readings: []Reading{}, Left: []OldLine{}}
		at := map[step.ID]*step.Step{}
		for i := range r.Procedure.Steps {
			at[r.Procedure.Steps[i].ID] = &r.Procedure.Steps[i]
		}
		for i := range r.Rows {
			row := &r.Rows[i]
			switch {
			case row.Outcome == bring.Titled && row.Text == r.Procedure.Title:
				out.Title = row.Text
			case row.Outcome == bring.Beside:
				one := readLine(o.k, string(row.Kind)+": "+row.Text, "")
				one.Ahead = row.Kind == bring.Caution
				out.Readings = append(out.Readings, *one)
			case len(row.Steps) > 0:
				for k, line := range row.Parts() {
					one := readLine(o.k, line, "")
					one.Step.Phase = at[row.Steps[k]].Phase
					out.Readings = append(out.Readings, *one)
				}
			case row.Outcome != bring.Titled:
				out.Left = append(out.Left, OldLine{i + 1, row.Text, row.Outcome, row.Says})
			}
			if len(out.Readings) > mostBrought {
				return nil, problem(422, "That page has more than %d steps. Bring its chapters one by one.", mostBrought)
			}
		}
		if len(out.Readings) == 0 && len(out.Left) == 0 {
			return nil, &Problem{Status: 422, Title: fmt.Sprintf("Nothing of %s can be taken.", p.Name), Field: "name"}
		}
		return out, nil
	})
}
