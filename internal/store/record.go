package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"
)

// recordLock serialises writers of the record, so that the chain never forks.
const recordLock = 0x1a7c4

// chain is the hash of an entry: SHA-256 over the hash before it and every
// field, each on a line of its own.
func (e *Entry) chain() string {
	h := sha256.New()
	fmt.Fprintf(h, "%s\n%d\n%s\n%d\n%d\n%s\n%s\n", e.Prev, e.Seq, e.At.UTC().Format(time.RFC3339Nano), e.PersonID, e.RevisionID,
		strings.ReplaceAll(e.What, "\n", " "), e.Payload)
	return hex.EncodeToString(h.Sum(nil))
}

// append adds an entry to the record inside a transaction.
func appendRecord(tx *gorm.DB, at time.Time, person, revision int64, what, payload string) error {
	if err := tx.Exec("SELECT pg_advisory_xact_lock(?)", recordLock).Error; err != nil {
		return err
	}
	var last Entry
	if err := tx.Order("seq DESC").Limit(1).Find(&last).Error; err != nil {
		return err
	}
	e := Entry{Seq: last.Seq + 1, At: at.UTC().Truncate(time.Microsecond), PersonID: person, RevisionID: revision, What: what, Payload: payload, Prev: last.Hash}
	e.Hash = e.chain()
	return tx.Create(&e).Error
}

// Broken is the first entry of the record whose hash does not fit.
type Broken struct{ Seq int64 }

// Error names the entry.
func (b Broken) Error() string { return fmt.Sprintf("the record does not fit from entry %d on", b.Seq) }

// VerifyRecord walks the whole record and checks every hash. It gives the
// number of entries; a mismatch is a Broken.
func (s *Store) VerifyRecord(ctx context.Context) (int64, error) {
	rows, err := s.db.WithContext(ctx).Model(&Entry{}).Order("seq").Rows()
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	var n int64
	prev := ""
	for rows.Next() {
		var e Entry
		if err := s.db.ScanRows(rows, &e); err != nil {
			return n, err
		}
		n++
		if e.Seq != n || e.Prev != prev || e.Hash != e.chain() {
			return n, Broken{e.Seq}
		}
		prev = e.Hash
	}
	return n, rows.Err()
}

// VerifyLatched checks the hash of every latched revision; sum is the hash
// function.
func (s *Store) VerifyLatched(ctx context.Context, sum func([]byte) string) (int, error) {
	revs, err := many[Revision](s.db.WithContext(ctx), "id", "frozen <> ''")
	if err != nil {
		return 0, err
	}
	for _, r := range revs {
		if sum([]byte(r.Frozen)) != r.SHA256 {
			return len(revs), fmt.Errorf("revision %d does not match its SHA-256", r.ID)
		}
	}
	return len(revs), nil
}

// Record lists the entries of a revision, the newest first.
func (s *Store) Record(ctx context.Context, revision int64) ([]Entry, error) {
	return many[Entry](s.db.WithContext(ctx).Limit(500), "seq DESC", "revision_id = ?", revision)
}
