package desk

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/store"
)

// RecordLine is one entry of the record in words.
type RecordLine struct {
	Seq int64     `json:"seq"`
	At  time.Time `json:"at"`
	By  string    `json:"by"`
	// What is the kind of the entry as it is kept, Says what was done in words.
	What string `json:"what"`
	Says string `json:"says"`
	// Detail are further lines: each step that an edit touched.
	Detail []string `json:"detail"`
	Hash   string   `json:"hash"`
	// Revision and Engine are what it was done to.
	Revision int64  `json:"revision,omitzero"`
	Engine   string `json:"engine,omitzero"`
	Title    string `json:"title,omitzero"`
	Number   int    `json:"number,omitzero"`
	Sheet    int    `json:"sheet,omitzero"`
}

// RecordAsk says which entries of the record somebody wants to see.
type RecordAsk struct {
	Person    int64
	Procedure int64
	Engine    string
	Kind      string
	// From and Until are days as 2006-01-02; Until is the last day.
	From, Until string
	Before      int64
	Limit       int
}

// mostRecord is how many entries one page of the record has.
const mostRecord = 200

// RecordOf lists entries of the record in words, the newest first: those on pages
// and sheets for whoever works on them, those on people for an administrator too.
func (d *Review) RecordOf(ctx context.Context, u *User, a RecordAsk) ([]RecordLine, error) {
	if isReader(u) {
		return nil, forbidden("The record is for those who work on pages. What was released stands on its sheet.")
	}
	q := store.RecordQuery{
		Person: a.Person, Procedure: a.Procedure, Engine: a.Engine, Kind: store.RecordKind(a.Kind), Before: a.Before,
		Limit: min(max(a.Limit, 1), mostRecord), People: u.Administers(),
	}
	var err error
	if q.From, err = dayOf(a.From, "from"); err != nil {
		return nil, err
	}
	if q.Until, err = dayOf(a.Until, "until"); err != nil {
		return nil, err
	}
	if !q.Until.IsZero() {
		q.Until = q.Until.AddDate(0, 0, 1)
	}
	r := d.store.Reads(ctx)
	rows, err := r.RecordRows(q)
	if err != nil {
		return nil, err
	}
	w := wording{d: d, r: r, steps: map[int64]map[string]string{}}
	out := make([]RecordLine, len(rows))
	for i := range rows {
		if out[i], err = w.line(&rows[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// dayOf reads a day as 2006-01-02; empty is none.
func dayOf(s, field string) (time.Time, error) {
	if s == "" {
		return time.Time{}, nil
	}
	t, err := time.ParseInLocation(time.DateOnly, s, time.UTC)
	if err != nil {
		return t, &Problem{Status: 422, Title: "A day is written as 2026-05-31.", Field: field}
	}
	return t, nil
}

// Record is what was done to a revision, the newest first.
func (d *Review) Record(ctx context.Context, u *User, id int64) ([]RecordLine, error) {
	if _, err := d.readable(ctx, u, id); err != nil {
		return nil, err
	}
	r := d.store.Reads(ctx)
	es, err := r.Record(id)
	if err != nil {
		return nil, err
	}
	var who []int64
	for i := range es {
		who = append(who, es[i].PersonID)
	}
	names, err := r.Names(who...)
	if err != nil {
		return nil, err
	}
	w := wording{d: d, r: r, steps: map[int64]map[string]string{}}
	out := make([]RecordLine, len(es))
	for i := range es {
		if out[i], err = w.line(&store.RecordRow{Entry: es[i], By: names[es[i].PersonID]}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// ExportRecord writes the whole record as JSON lines, for an administrator or a
// lead: it speaks of everybody.
func (d *Review) ExportRecord(ctx context.Context, u *User, w io.Writer) error {
	if err := MayExportRecord(u); err != nil {
		return err
	}
	return d.store.ExportRecord(ctx, w)
}

// MayExportRecord says why somebody may not export the record.
func MayExportRecord(u *User) error {
	if u.Administers() || u.Leads() {
		return nil
	}
	return forbidden("The whole record is exported by an administrator or a lead: it speaks of everybody.")
}

// wording puts entries of the record into words.
type wording struct {
	d *Review
	r store.Reads
	// steps are the sentences of the steps of a revision, those that are gone along.
	steps map[int64]map[string]string
}

// tells is what the entries say.
type tells struct {
	Edits       []procedure.Edit `json:"edits"`
	Reason      string           `json:"reason"`
	Title       string           `json:"title"`
	SHA256      string           `json:"sha256"`
	Latch       string           `json:"latch"`
	For         string           `json:"for"`
	Due         string           `json:"due"`
	Taken       int64            `json:"taken"`
	Reopened    []string         `json:"reopened"`
	Remark      int64            `json:"remark"`
	Step        string           `json:"step"`
	Note        int64            `json:"note"`
	Name        string           `json:"name"`
	Points      int              `json:"points"`
	File        string           `json:"file"`
	Done        string           `json:"done"`
	SuggestedBy int64            `json:"suggested by"`
	Everywhere  string           `json:"everywhere"`
	Code        string           `json:"code"`
	Supersedes  int              `json:"supersedes"`
	Changes     string           `json:"changes"`
	Rules       int64            `json:"rules"`
	House       int64            `json:"house"`
	Why         string           `json:"why"`
}

func (w *wording) line(e *store.RecordRow) (RecordLine, error) {
	out := RecordLine{
		Seq: e.Seq, At: e.At, By: e.By, What: e.What, Hash: e.Hash, Detail: []string{},
		Revision: e.RevisionID, Engine: e.Engine, Title: e.Title, Number: e.Number, Sheet: e.SheetNumber,
	}
	var then struct {
		By string `json:"by"`
	}
	if json.Unmarshal([]byte(e.Payload), &then) == nil && then.By != "" {
		out.By = then.By // what they were called when they did it
	}
	if out.By == "" {
		out.By = "the command line"
	}
	var p tells
	if e.SheetID == 0 { // a sheet's edits are paths, not steps
		if err := json.Unmarshal([]byte(e.Payload), &p); err != nil {
			p = tells{}
		}
	}
	var err error
	out.Says, err = w.says(e, &p, &out)
	return out, err
}

func (w *wording) says(e *store.RecordRow, p *tells, out *RecordLine) (string, error) {
	switch {
	case e.SheetID != 0:
		return w.sheet(e, out), nil
	case e.What == "edit", e.What == "undo", e.What == "redo":
		return w.edits(e, p, out)
	case strings.HasPrefix(e.What, "start "), e.What == "import":
		return joinSaid(map[string]string{"start procedure": "started the procedure", "start revision": "started the revision", "start copy": "started the copy", "import": "imported it"}[e.What], p.Reason), nil
	case strings.HasPrefix(e.What, "close "):
		return "closed the " + p.Latch + " latch", nil
	case e.What == "latch":
		says := "released it"
		if p.Supersedes != 0 {
			says += fmt.Sprintf(" in place of revision %d", p.Supersedes)
		}
		if p.House != 0 {
			says += fmt.Sprintf(" under house rules %d", p.House)
		}
		if p.Changes != "" {
			says += " (" + p.Changes + ")"
		}
		return says + ", SHA-256 " + p.SHA256[:min(12, len(p.SHA256))] + "…", nil
	case e.What == "open latches":
		return "opened the latches of " + strings.Join(p.Reopened, ", "), nil
	case e.What == "return":
		return fmt.Sprintf("returned it with %d %s to mend", p.Points, many(p.Points, "point", "points")), nil
	case e.What == "withdraw":
		return joinSaid("withdrew it", p.Reason), nil
	case e.What == "set due date":
		return "set the " + p.For + " latch to close by " + cmp.Or(p.Due, "no day"), nil
	case strings.Contains(e.What, "review"):
		return strings.NewReplacer("take review over", "took the "+p.For+" latch over", "give review back", "gave the "+p.For+" latch back", "hand review over", "handed the "+p.For+" latch over").Replace(e.What), nil
	case p.Note != 0:
		return map[string]string{"field note": "wrote field note", "photo of a field note": "put a photo to field note", "answer field note": "answered field note"}[e.What] + fmt.Sprintf(" %d", p.Note), w.at(e, p.Step, out)
	case p.Remark != 0:
		return w.remark(e, p, out)
	case p.Name != "" && p.File != "":
		return map[string]string{"keep a file": "kept " + p.File + " for ", "take a file off": "took " + p.File + " off "}[e.What] + p.Name, nil
	case e.What == "note a calibration of":
		return strings.TrimSpace("noted that " + p.Name + cmp.Or(" was calibrated on "+p.Done, "")), nil
	case p.Rules != 0:
		if err := json.Unmarshal([]byte(p.Changes), &out.Detail); err != nil {
			return "", err
		}
		return joinSaid(fmt.Sprintf("changed the house rules, now version %d", p.Rules), p.Why), nil
	case p.Name != "":
		return e.What + " " + p.Name, nil
	}
	return e.What, nil
}

func joinSaid(what, why string) string {
	if why == "" {
		return what
	}
	return what + ": " + why
}

// edits says what an edit did to which steps.
func (w *wording) edits(e *store.RecordRow, p *tells, out *RecordLine) (string, error) {
	said, err := w.sentences(e.RevisionID)
	if err != nil {
		return "", err
	}
	for i := range p.Edits {
		d := &p.Edits[i]
		name := said[string(d.Target())]
		if name == "" {
			name = "step " + string(d.Target())
		}
		switch d.Op {
		case procedure.SetHeader:
			out.Detail = append(out.Detail, "title and preparation changed")
		case procedure.Insert:
			out.Detail = append(out.Detail, "added: "+name)
		case procedure.Remove:
			out.Detail = append(out.Detail, "removed: "+name)
		case procedure.Move:
			out.Detail = append(out.Detail, "moved: "+name)
		default:
			out.Detail = append(out.Detail, "changed: "+name)
		}
	}
	n := len(p.Edits)
	what := map[string]string{"edit": "edited", "undo": "took back an edit of", "redo": "did again an edit of"}[e.What]
	says := fmt.Sprintf("%s %d %s", what, n, many(n, "place", "places"))
	if p.SuggestedBy != 0 {
		names, err := w.r.Names(p.SuggestedBy)
		if err != nil {
			return "", err
		}
		says += ", as " + names[p.SuggestedBy] + " suggested"
	}
	if p.Everywhere != "" {
		says += ", changing " + p.Everywhere + " everywhere"
	}
	if len(p.Reopened) > 0 {
		says += "; that opened the latches of " + strings.Join(p.Reopened, ", ")
	}
	return says, nil
}

// remark says what was said, and of which step.
func (w *wording) remark(e *store.RecordRow, p *tells, out *RecordLine) (string, error) {
	m, err := w.r.RemarkByID(p.Remark)
	if err != nil {
		return e.What, nil // it stands in the record, whatever became of it
	}
	did, kind, found := strings.Cut(e.What, " ")
	verb := map[string]string{"answer": "answered a ", "settle": "settled a ", "waive": "waived a ", "reopen": "reopened a ", "take": "took a ", "decline": "did not take a "}[did]
	if !found {
		verb, kind = map[string]string{Question: "asked", Note: "remarked", MustChange: "said that this must be changed", Suggestion: "suggested a line"}[e.What], ""
	}
	says := joinSaid(verb+kind, cmp.Or(m.Body, m.Line))
	return says, w.at(e, m.StepID, out)
}

// at notes of which step an entry speaks.
func (w *wording) at(e *store.RecordRow, id string, out *RecordLine) error {
	if id == "" {
		return nil
	}
	said, err := w.sentences(e.RevisionID)
	if err != nil {
		return err
	}
	out.Detail = append(out.Detail, "at: "+cmp.Or(said[id], "step "+id))
	return nil
}

// sentences are the sentences of a revision's steps by id, those that are gone along.
func (w *wording) sentences(id int64) (map[string]string, error) {
	if s, ok := w.steps[id]; ok {
		return s, nil
	}
	o, err := w.d.open(w.r, id)
	if err != nil {
		return nil, err
	}
	rows, err := w.r.StepsOf(id)
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	for i := range rows {
		var s step.Step
		if json.Unmarshal([]byte(rows[i].Body), &s) == nil {
			out[rows[i].StepID] = sentence(o.k, &s)
		}
	}
	w.steps[id] = out
	return out, nil
}

// valueSaid is a value of a sheet's edit in a word; of a whole thing only that it
// changed, for its parts are read on the sheet.
func valueSaid(raw string) string {
	switch {
	case raw == "", raw == "null":
		return "removed"
	case strings.HasPrefix(raw, "{"), strings.HasPrefix(raw, "["):
		return "changed"
	}
	return strings.Trim(raw, `"`)
}

// sheet says what was done to an engine sheet.
func (w *wording) sheet(e *store.RecordRow, out *RecordLine) string {
	var p struct {
		Edits  []engine.Edit `json:"edits"`
		Reason string        `json:"reason"`
		Did    []string      `json:"did"`
		Points int           `json:"points"`
		Remark int64         `json:"remark"`
	}
	if json.Unmarshal([]byte(e.Payload), &p) != nil {
		return e.What
	}
	if p.Remark != 0 {
		says, err := w.remark(e, &tells{Remark: p.Remark}, out)
		if err != nil {
			return e.What
		}
		return says + ", of the sheet"
	}
	if out.Detail = append(out.Detail, p.Did...); len(p.Did) > 0 {
		p.Edits = nil // said already, with what it was before
	}
	for _, d := range p.Edits {
		out.Detail = append(out.Detail, strings.ReplaceAll(d.Path, "/", ", ")+": "+valueSaid(string(d.Value)))
	}
	words := map[string]string{
		"start sheet": "started the sheet", "edit sheet": "edited the sheet", "undo sheet": "took back an edit of the sheet", "redo sheet": "did an edit of the sheet again",
		"put sheet into use": "put the sheet into use", "ask for sheet": "asked for the sheet to be looked at",
		"return sheet": fmt.Sprintf("returned the sheet with %d %s to mend", p.Points, many(p.Points, "point", "points")),
	}
	return joinSaid(cmp.Or(words[e.What], e.What), p.Reason)
}
