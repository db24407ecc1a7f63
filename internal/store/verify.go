package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"gorm.io/gorm"
)

// Report is what holding the record against everything else came to.
type Report struct {
	Entries, Latched, Drafts, Sheets, People, Anchors int
	// Signers are the public keys, in hexadecimal, that anchors of an export were signed with.
	Signers []string
	// Troubles are sentences, empty when everything is as it was written.
	Troubles []string
}

func (r *Report) say(format string, args ...any) {
	r.Troubles = append(r.Troubles, fmt.Sprintf(format, args...))
}

// told is what the record says there must be.
type told struct {
	revisions map[int64]*toldRevision
	sheets    map[int64]*toldSheet
	people    map[int64]*toldPerson
	remarks   map[int64]string
	replies   map[int64]string
	notes     map[int64]*toldNote
	// rows are the SHA-256 of every row that is vouched for, by table and key.
	rows map[string]map[string]string
	// hashes are those of the chain by entry, signed the entries that were signed when they
	// were written.
	hashes map[int64]string
	signed []int64
	// own are the public keys of this house.
	own []string
	// second is the first entry of the second form, with which all that was there was taken
	// up.
	second int64
}

// signedLines are the entries that are signed as they are written, where the house has a
// key: an anchor of each stands in the database.
var signedLines = []string{"latch", "withdraw", "put sheet into use", "add person", takeUpRows}

// toldNote is what the record says of a field note: what its reader said, its photo,
// and what was answered, each as a SHA-256.
type toldNote struct{ says, photo, answer string }

type toldRevision struct {
	ID        int64            `json:"id"`
	Number    int              `json:"number"`
	Procedure int64            `json:"procedure"`
	Engine    string           `json:"engine"`
	Version   int64            `json:"version"`
	Digest    string           `json:"digest"`
	SHA256    string           `json:"sha256"`
	Deleted   bool             `json:"deleted"`
	Closed    map[string]int64 `json:"closed"`
	// Over is the SHA-256 of what each latch was closed over.
	Over      map[string]string `json:"-"`
	Withdrawn bool              `json:"-"`
}

type toldSheet struct {
	ID     int64  `json:"id"`
	Code   string `json:"code"`
	Number int    `json:"number"`
	Digest string `json:"digest"`
	SHA256 string `json:"sha256"`
}

type toldPerson struct {
	ID       int64  `json:"id"`
	Email    string `json:"email"`
	Name     string `json:"name"`
	Roles    string `json:"roles"`
	Locked   bool   `json:"locked"`
	Password string `json:"password"`
}

// everything is the payload of an entry that takes up what was there before the
// record could tell all of it.
type everything struct {
	Revisions []toldRevision `json:"revisions"`
	Sheets    []toldSheet    `json:"sheets"`
	People    []toldPerson   `json:"people"`
}

// payload is what the entries of a revision, a sheet or a person say.
type payload struct {
	Number    int      `json:"number"`
	Procedure int64    `json:"procedure"`
	Engine    string   `json:"engine"`
	Version   int64    `json:"version"`
	Digest    string   `json:"digest"`
	SHA256    string   `json:"sha256"`
	Code      string   `json:"code"`
	Latch     string   `json:"latch"`
	Reopened  []string `json:"reopened"`
	Content   string   `json:"content"`
	Remark    int64    `json:"remark"`
	Reply     int64    `json:"reply"`
	Says      string   `json:"says"`
	Note      int64    `json:"note"`

	Rows map[string]map[string]string `json:"rows"`
}

// Verify holds the record's chain together, the record against revisions,
// latches, sheets and people and those against the record, and both against
// anchors: those kept in the database and those handed in, which may be the
// short printed form.
func (s *Store) Verify(ctx context.Context, anchors []Anchor) (*Report, error) {
	out := &Report{}
	// All of it is read as it stood at one moment, however much is written meanwhile.
	err := s.db.WithContext(ctx).Transaction(func(db *gorm.DB) error {
		r := Reads{db}
		for _, limit := range []string{"statement_timeout", "idle_in_transaction_session_timeout"} {
			if err := db.Exec("SET LOCAL " + limit + " = 0").Error; err != nil {
				return err
			}
		}
		t, err := r.walk(out)
		if err != nil {
			return err
		}
		kept, err := many[Anchor](r.db, "seq", "true")
		if err != nil {
			return err
		}
		t.own = s.keys()
		holdAnchors(out, kept, anchors, t.own, t.hashes)
		t.holdSigned(out, kept, s.conf.Key != nil)
		for _, hold := range []func(*Report, *told) error{r.holdRevisions, r.holdSheets, r.holdPeople, r.holdTalk, r.holdRows, r.holdGuards} {
			if err := hold(out, t); err != nil {
				return err
			}
		}
		return s.holdSeals(r, out)
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return nil, err
	}
	return out, nil
}

// walk checks every hash of the chain and gathers what the entries tell.
func (r Reads) walk(out *Report) (*told, error) {
	t := &told{map[int64]*toldRevision{}, map[int64]*toldSheet{}, map[int64]*toldPerson{}, map[int64]string{}, map[int64]string{}, map[int64]*toldNote{}, map[string]map[string]string{}, map[int64]string{}, nil, nil, 0}
	rows, err := r.db.Model(&Entry{}).Order("seq").Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	c := chain{form: firstForm}
	for rows.Next() {
		var e Entry
		if err := r.db.ScanRows(rows, &e); err != nil {
			return nil, err
		}
		first := c.form == firstForm
		c.link(out, &e)
		if e.What != "adopt" || first {
			t.hear(out, &e)
		}
		t.hashes[e.Seq] = e.Hash
		if t.second == 0 && e.Form > firstForm {
			t.second = e.Seq
		}
		if slices.Contains(signedLines, e.What) && e.Form > firstForm {
			t.signed = append(t.signed, e.Seq)
		}
	}
	return t, rows.Err()
}

// hear takes in what one entry tells.
func (t *told) hear(out *Report, e *Entry) {
	if e.Form == firstForm {
		return // an entry "adopt" takes all of that up
	}
	var p payload
	if err := json.Unmarshal([]byte(e.Payload), &p); err != nil {
		out.say("Entry %d of the record cannot be read.", e.Seq)
		return
	}
	if e.What == takeUpRows && len(t.rows) > 0 {
		out.say("Entry %d of the record takes up rows that were vouched for before.", e.Seq)
		return
	}
	for table, rows := range p.Rows {
		if t.rows[table] == nil {
			t.rows[table] = map[string]string{}
		}
		maps.Copy(t.rows[table], rows)
	}
	switch {
	case e.What == takeUpRows, e.What == "seal":
	case e.What == "adopt":
		t.takeUp(out, e)
	case e.SheetID != 0:
		t.hearSheet(e, &p)
	case e.RevisionID != 0:
		t.hearRevision(out, e, &p)
	case strings.HasSuffix(e.What, " link"), e.What == "end session":
	default:
		var who toldPerson
		if json.Unmarshal([]byte(e.Payload), &who) == nil && who.ID != 0 {
			t.people[who.ID] = &who
		}
	}
}

func (t *told) takeUp(out *Report, e *Entry) {
	var all everything
	if err := json.Unmarshal([]byte(e.Payload), &all); err != nil {
		out.say("Entry %d of the record cannot be read.", e.Seq)
	}
	for i := range all.Revisions {
		v := all.Revisions[i]
		v.Over = map[string]string{}
		if v.Closed == nil {
			v.Closed = map[string]int64{}
		}
		t.revisions[v.ID] = &v
	}
	for i := range all.Sheets {
		t.sheets[all.Sheets[i].ID] = &all.Sheets[i]
	}
	for i := range all.People {
		t.people[all.People[i].ID] = &all.People[i]
	}
}

func (t *told) hearSheet(e *Entry, p *payload) {
	v := t.sheets[e.SheetID]
	if v == nil {
		v = &toldSheet{ID: e.SheetID, Code: p.Code, Number: p.Number}
		t.sheets[e.SheetID] = v
	}
	if p.Digest != "" {
		v.Digest = p.Digest
	}
	switch {
	case e.What == "put sheet into use":
		v.SHA256 = p.SHA256
	case p.Reply != 0:
		t.replies[p.Reply] = p.Says
	case p.Remark != 0:
		t.remarks[p.Remark] = p.Says
	}
}

func (t *told) hearRevision(out *Report, e *Entry, p *payload) {
	v := t.revisions[e.RevisionID]
	if v == nil {
		v = &toldRevision{ID: e.RevisionID, Number: p.Number, Procedure: p.Procedure, Engine: p.Engine, Closed: map[string]int64{}, Over: map[string]string{}}
		t.revisions[e.RevisionID] = v
	}
	if v.SHA256 != "" && !slices.Contains(afterwards, e.What) {
		out.say("Entry %d of the record writes in revision %d after it was released.", e.Seq, e.RevisionID)
	}
	if p.Digest != "" {
		v.Digest = p.Digest
	}
	if p.Version != 0 {
		v.Version = p.Version
	}
	for _, l := range p.Reopened {
		delete(v.Closed, l)
	}
	switch {
	case p.Note != 0:
		t.hearNote(e, p)
	case p.Reply != 0:
		t.replies[p.Reply] = p.Says
	case p.Remark != 0:
		t.remarks[p.Remark] = p.Says
	case e.What == "withdraw":
		v.Withdrawn = true
	case e.What == "latch":
		v.SHA256 = p.SHA256
	case e.What == "delete draft":
		v.Deleted = true
	case e.What == "bring draft back":
		v.Deleted = false
	case p.Latch != "":
		v.Closed[p.Latch], v.Over[p.Latch] = e.PersonID, p.Content
	}
}

func (t *told) hearNote(e *Entry, p *payload) {
	n := t.notes[p.Note]
	if n == nil {
		n = &toldNote{}
		t.notes[p.Note] = n
	}
	switch e.What {
	case "field note":
		n.says = p.Says
	case "photo of a field note":
		n.photo = p.Says
	default:
		n.answer = p.Says
	}
}
