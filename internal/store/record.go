package store

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"strings"
	"time"
)

// recordLock serialises writers of the record, so that the chain never forks.
const recordLock = 0x1a7c4

// The forms of an entry's hash. An entry of the first form is not trusted after
// one of the second.
const (
	firstForm  = 1
	sheetsForm = 2
)

// chain is the hash of an entry: SHA-256 over the hash before it and every
// field, each on a line of its own.
func (e *Entry) chain() string {
	h := sha256.New()
	at := e.At.UTC().Format(time.RFC3339Nano)
	if e.Form == firstForm {
		fmt.Fprintf(h, "%s\n%d\n%s\n%d\n%d\n%s\n%s\n", e.Prev, e.Seq, at, e.PersonID, e.RevisionID, strings.ReplaceAll(e.What, "\n", " "), e.Payload)
	} else {
		fmt.Fprintf(h, "%d\n%s\n%d\n%s\n%d\n%d\n%d\n%q\n%s\n", e.Form, e.Prev, e.Seq, at, e.PersonID, e.RevisionID, e.SheetID, e.What, e.Payload)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// line is what is to be said in the record.
type line struct {
	person, revision, sheet int64
	what                    string
	payload                 map[string]any
	// anchor signs the head with this line in it.
	anchor bool
}

// append adds a line to the record inside the transaction, behind those that wait.
func (t *tx) append(l line) error {
	if err := t.flush(); err != nil {
		return err
	}
	return t.write(l)
}

// flush writes the lines that wait.
func (t *tx) flush() error {
	waiting := t.later
	t.later = nil
	for _, l := range waiting {
		if err := t.write(l); err != nil {
			return err
		}
	}
	return nil
}

func (t *tx) write(l line) error {
	if l.payload == nil {
		l.payload = map[string]any{}
	}
	if l.person != 0 { // what they are called now: later they may be called otherwise
		name, err := t.NameOf(l.person)
		if err != nil {
			return err
		}
		l.payload["by"] = name
	}
	rows, err := t.rows()
	if err != nil {
		return err
	}
	if rows != nil {
		l.payload["rows"] = rows
	}
	raw, err := json.Marshal(l.payload) // keys are sorted
	if err != nil {
		return fmt.Errorf("writing the record: %w", err)
	}
	if err := t.lockRecord(); err != nil {
		return err
	}
	var last Entry
	if err := t.db.Order("seq DESC").Limit(1).Find(&last).Error; err != nil {
		return err
	}
	e := Entry{Seq: last.Seq + 1, At: Now().UTC().Truncate(time.Microsecond), PersonID: l.person, RevisionID: l.revision, SheetID: l.sheet, What: l.what, Payload: string(raw), Prev: last.Hash, Form: sheetsForm}
	e.Hash = e.chain()
	if err := t.db.Create(&e).Error; err != nil {
		return err
	}
	if !l.anchor || t.s.conf.Key == nil {
		return nil
	}
	return t.sign(&e)
}

// lockRecord waits until nobody else writes in the record.
func (t *tx) lockRecord() error {
	return t.db.Exec("SELECT pg_advisory_xact_lock(?, hashtext(current_schema()))", recordLock).Error
}
