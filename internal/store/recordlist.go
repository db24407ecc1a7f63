package store

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
)

// RecordKind is a part of the record that can be looked at by itself.
type RecordKind string

// The kinds.
const (
	RecordEdits   RecordKind = "edits"
	RecordLatches RecordKind = "latches"
	RecordTalk    RecordKind = "talk"
	RecordField   RecordKind = "field notes"
	RecordSheets  RecordKind = "sheets"
	RecordShelf   RecordKind = "tools and documents"
	RecordHouse   RecordKind = "house rules"
	RecordPeople  RecordKind = "people"
)

// shelfLines are the entries on files and calibrations.
const shelfLines = "e.what IN ('keep a file', 'take a file off', 'note a calibration of')"

// houseLines are the entries on what the house decided.
const houseLines = "e.what = 'change house rules'"

// recordKinds are the SQL of each; what no kind has belongs to people.
var recordKinds = map[RecordKind]string{
	RecordEdits:   "e.revision_id <> 0 AND e.what IN ('edit', 'undo', 'redo', 'import', 'start procedure', 'start revision', 'delete draft', 'bring draft back')",
	RecordLatches: "e.revision_id <> 0 AND (e.what LIKE 'close % latch' OR e.what IN ('latch', 'open latches', 'return', 'withdraw', 'set due date', 'take review over', 'give review back', 'hand review over'))",
	RecordTalk:    "e.revision_id <> 0 AND e.what ~ '(question|remark|must-change|suggestion)$'",
	RecordField:   "e.revision_id <> 0 AND e.what LIKE '%field note'",
	RecordSheets:  "e.sheet_id <> 0",
	RecordShelf:   shelfLines,
	RecordHouse:   houseLines,
	RecordPeople:  "e.revision_id = 0 AND e.sheet_id = 0 AND NOT " + shelfLines + " AND NOT " + houseLines,
}

// RecordQuery says which entries of the record a list shows.
type RecordQuery struct {
	// Person, Procedure and Engine keep what was done by somebody, to a procedure, and
	// on a code; zero and empty keep all.
	Person    int64
	Procedure int64
	Engine    string
	Kind      RecordKind
	// From and Until bound the moment, zero for neither; Before the entry.
	From, Until time.Time
	Before      int64
	Limit       int
	// People shows what was done to people too.
	People bool
}

// RecordRow is one entry with what it speaks of by name.
type RecordRow struct {
	Entry
	By          string
	ProcedureID int64
	Engine      string
	Title       string
	Number      int
	SheetNumber int
}

// RecordRows lists entries of the record, the newest first.
func (r Reads) RecordRows(q RecordQuery) ([]RecordRow, error) {
	where := []string{"true"}
	args := map[string]any{"limit": q.Limit}
	add := func(on bool, sql, name string, v any) {
		if on {
			where, args[name] = append(where, sql), v
		}
	}
	add(q.Person != 0, "e.person_id = @person", "person", q.Person)
	add(q.Procedure != 0, "r.procedure_id = @procedure", "procedure", q.Procedure)
	add(q.Engine != "", "coalesce(p.engine, s.code) = @engine", "engine", q.Engine)
	add(!q.From.IsZero(), "e.at >= @from", "from", q.From)
	add(!q.Until.IsZero(), "e.at < @until", "until", q.Until)
	add(q.Before != 0, "e.seq < @before", "before", q.Before)
	if k, ok := recordKinds[q.Kind]; ok {
		where = append(where, "("+k+")")
	}
	if !q.People {
		where = append(where, "(e.revision_id <> 0 OR e.sheet_id <> 0 OR "+shelfLines+" OR "+houseLines+")")
	}
	var out []RecordRow
	err := r.db.Raw(`SELECT e.*, coalesce(n.name, '') AS by, coalesce(r.procedure_id, 0) AS procedure_id, coalesce(p.engine, s.code, '') AS engine,
			coalesce(r.title, '') AS title, coalesce(r.number, 0) AS number, coalesce(s.number, 0) AS sheet_number
		FROM record e LEFT JOIN people n ON n.id = e.person_id LEFT JOIN revisions r ON r.id = e.revision_id
			LEFT JOIN procedures p ON p.id = r.procedure_id LEFT JOIN sheets s ON s.id = e.sheet_id
		WHERE `+strings.Join(where, " AND ")+` ORDER BY e.seq DESC LIMIT @limit`, args).Scan(&out).Error
	return out, err
}

// exported is an entry of the record, or an anchor of it, as one line of an export.
type exported struct {
	Seq      int64     `json:"seq,omitzero"`
	At       time.Time `json:"at,omitzero"`
	Person   int64     `json:"person,omitzero"`
	What     string    `json:"what,omitzero"`
	Revision int64     `json:"revision,omitzero"`
	Sheet    int64     `json:"sheet,omitzero"`
	Payload  string    `json:"payload,omitzero"`
	Prev     string    `json:"prev,omitzero"`
	Hash     string    `json:"hash,omitzero"`
	Form     int       `json:"form,omitzero"`
	Anchor   string    `json:"anchor,omitzero"`
}

// ExportRecord writes the whole record as JSON lines, entry by entry from the
// first, and its anchors after them.
func (s *Store) ExportRecord(ctx context.Context, w io.Writer) error {
	rows, err := s.db.WithContext(ctx).Model(&Entry{}).Order("seq").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	for rows.Next() {
		var e Entry
		if err := s.db.ScanRows(rows, &e); err != nil {
			return err
		}
		if err := enc.Encode(exported{e.Seq, e.At.UTC(), e.PersonID, e.What, e.RevisionID, e.SheetID, e.Payload, e.Prev, e.Hash, e.Form, ""}); err != nil {
			return err
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	kept, err := many[Anchor](s.db.WithContext(ctx), "seq", "true")
	if err != nil {
		return err
	}
	for _, a := range kept {
		if err := enc.Encode(exported{Anchor: a.Line()}); err != nil {
			return err
		}
	}
	return nil
}

// mostLine is the longest line of an export, bytes.
const mostLine = 64 << 20

// HoldExport holds an export of the record together by itself: every hash, every
// entry against the one before it, and its anchors and those handed in against the
// chain. head is its last entry, as an anchor without a signature, to be held
// against a database.
func HoldExport(r io.Reader, given []Anchor) (report *Report, head Anchor, err error) {
	out := &Report{}
	hashes := map[int64]string{}
	var kept []Anchor
	c := chain{form: firstForm}
	lines := bufio.NewScanner(r)
	lines.Buffer(make([]byte, 1<<16), mostLine)
	for n := 1; lines.Scan(); n++ {
		if strings.TrimSpace(lines.Text()) == "" {
			continue
		}
		var v exported
		if err := json.Unmarshal(lines.Bytes(), &v); err != nil {
			return nil, head, fmt.Errorf("line %d is no entry of a record: %w", n, err)
		}
		if v.Anchor != "" {
			a, err := ParseAnchor(v.Anchor)
			if err != nil {
				return nil, head, fmt.Errorf("line %d: %w", n, err)
			}
			kept = append(kept, a)
			continue
		}
		e := Entry{v.Seq, v.At, v.Person, v.What, v.Revision, v.Sheet, v.Payload, v.Prev, v.Hash, v.Form}
		c.link(out, &e)
		hashes[e.Seq] = e.Hash
		head = Anchor{Seq: e.Seq, Hash: e.Hash}
	}
	if err := lines.Err(); err != nil {
		return nil, head, fmt.Errorf("reading the export: %w", err)
	}
	if out.Entries == 0 {
		return nil, head, fmt.Errorf("there is no entry of a record in it")
	}
	holdAnchors(out, kept, given, nil, hashes)
	for _, a := range slices.Concat(kept, given) {
		if a.Key != "" && !slices.Contains(out.Signers, a.Key) {
			out.Signers = append(out.Signers, a.Key)
		}
	}
	return out, head, nil
}

// chain is how far a record has been held together.
type chain struct {
	prev string
	form int
}

// link holds the next entry against those before it.
func (c *chain) link(out *Report, e *Entry) {
	out.Entries++
	switch {
	case e.Seq != int64(out.Entries):
		out.say("Entry %d of the record stands where entry %d should: one was taken out.", e.Seq, out.Entries)
		out.Entries = int(e.Seq)
	case e.Prev != c.prev:
		out.say("Entry %d of the record does not follow the one before it.", e.Seq)
	case e.Hash != e.chain():
		out.say("Entry %d of the record was changed after it was written.", e.Seq)
	case e.Form < c.form || e.Form > sheetsForm:
		out.say("Entry %d of the record is of a form that was no longer written then.", e.Seq)
	case e.What == "adopt" && c.form != firstForm:
		out.say("Entry %d of the record takes up what was there before, where nothing was.", e.Seq)
	}
	c.prev, c.form = e.Hash, max(c.form, e.Form)
}
