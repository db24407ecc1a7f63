package store

import (
	"context"

	"gorm.io/gorm/clause"
)

// Drill is what came of the mistakes that were made on a version of a revision: how many come
// to no harm, of how many, how many are missed that the page needs to catch, and how many get
// through and are kept with a reason.
type Drill struct {
	RevisionID                     int64 `gorm:"primaryKey"`
	Version, SheetID               int64
	Edition                        string
	Caught, Made, Missed, Accepted int
}

// KeepDrill writes what came of the mistakes on a revision.
func (s *Store) KeepDrill(ctx context.Context, v Drill) error {
	return s.db.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&v).Error
}

// DrillOf is the newest drill of a revision, of whatever version; ErrNotFound for none.
func (r Reads) DrillOf(revision int64) (*Drill, error) {
	return one[Drill](r.db, "revision_id = ?", revision)
}

// Undrilled are revisions after one that were not drilled as they stand, the oldest first.
func (r Reads) Undrilled(edition string, after int64, most int) ([]int64, error) {
	var out []int64
	err := r.db.Raw(`SELECT r.id FROM revisions r JOIN procedures p ON p.id = r.procedure_id LEFT JOIN sheets u ON u.code = p.engine AND u.state = 'in use'
		WHERE r.state IN ('draft', 'on review', 'latched') AND NOT EXISTS (SELECT 1 FROM drills s WHERE s.revision_id = r.id AND s.version = r.version
			AND s.edition = ? AND s.sheet_id = coalesce(r.sheet_id, u.id)) AND r.id > ? ORDER BY r.id LIMIT ?`, edition, after, most).Scan(&out).Error
	return out, err
}
