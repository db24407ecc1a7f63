package store

import (
	"context"
	"database/sql"
	"time"

	"gorm.io/gorm/clause"
)

// Reproof is one run of proving a code's procedures again. Whoever holds its
// lease is at work on it; a lease that is not renewed runs out.
type Reproof struct {
	ID         int64 `gorm:"primaryKey"`
	Code       string
	SheetID    int64
	State      string
	Total      int
	Done       int
	StartedBy  *int64
	StartedAt  time.Time
	FinishedAt *time.Time
	LeaseBy    string
	LeaseUntil *time.Time
}

// ReproofRow is what it found in one revision.
type ReproofRow struct {
	ReproofID  int64 `gorm:"primaryKey"`
	RevisionID int64 `gorm:"primaryKey"`
	Before     int
	After      int
	Says       string
}

// ReproofLease is how long a worker may be silent before another takes over.
const ReproofLease = 8 * time.Second

// Claim takes the lease of a reproof for a worker, or renews it; false when it
// has ended or another worker holds it.
func (s *Store) Claim(ctx context.Context, id int64, worker string) (bool, error) {
	res := s.db.WithContext(ctx).Exec(`UPDATE reproofs SET lease_by = ?, lease_until = now() + make_interval(secs => ?)
		WHERE id = ? AND state IN ('waiting', 'running') AND (lease_by = ? OR lease_until IS NULL OR lease_until < now())`,
		worker, ReproofLease.Seconds(), id, worker)
	return res.RowsAffected > 0, res.Error
}

// Orphans queues again every reproof whose worker has gone. Each is leased to
// the queue meanwhile, so that it is queued once.
func (s *Store) Orphans(ctx context.Context, enqueue func(tx *sql.Tx, reproof int64) error) (int, error) {
	n := 0
	err := s.in(ctx, func(t *tx) error {
		var ids []int64
		err := t.db.Raw(`UPDATE reproofs SET lease_by = 'queue', lease_until = now() + make_interval(secs => ?) WHERE id IN (
			SELECT id FROM reproofs WHERE state IN ('waiting', 'running') AND (lease_until < now() OR lease_until IS NULL AND started_at < now() - make_interval(secs => ?))
			FOR UPDATE SKIP LOCKED) RETURNING id`, ReproofLease.Seconds(), ReproofLease.Seconds()).Scan(&ids).Error
		if err != nil || len(ids) == 0 {
			return err
		}
		raw, err := t.raw()
		if err != nil {
			return err
		}
		for _, id := range ids {
			if err := t.db.Exec("UPDATE reproofs SET lease_by = '', lease_until = now() WHERE id = ?", id).Error; err != nil {
				return err
			}
			if err := enqueue(raw, id); err != nil {
				return err
			}
			n++
		}
		return nil
	})
	return n, err
}

// Advance writes what was found in some revisions and how far the reproof is.
func (s *Store) Advance(ctx context.Context, id int64, rows []ReproofRow) error {
	return s.in(ctx, func(t *tx) error {
		if len(rows) > 0 {
			if err := t.db.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(rows, 200).Error; err != nil {
				return err
			}
		}
		return t.db.Exec(`UPDATE reproofs SET state = CASE WHEN state = 'waiting' THEN 'running' ELSE state END,
			done = (SELECT count(*) FROM reproof_rows WHERE reproof_id = ?) WHERE id = ?`, id, id).Error
	})
}

// Finish ends a reproof that has not ended.
func (s *Store) Finish(ctx context.Context, id int64, state string) error {
	return s.db.WithContext(ctx).Exec("UPDATE reproofs SET state = ?, finished_at = ? WHERE id = ? AND state IN ('waiting', 'running')", state, Now(), id).Error
}
