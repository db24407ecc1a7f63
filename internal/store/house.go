package store

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"gorm.io/gorm/clause"
)

// ErrHouseMoved is the error of saving rules over a version that somebody else replaced.
var ErrHouseMoved = errors.New("somebody else changed the house rules meanwhile")

// HouseRules is one version of what the house decided; ID counts them.
type HouseRules struct {
	ID int64 `gorm:"primaryKey"`
	// Body is the rules as JSON, Changes what they have otherwise than those before, as a
	// JSON list of sentences, Why the reason of whoever saved them.
	Body, Changes, Why string
	PersonID           int64
	At                 time.Time
}

// HouseTrial is all pages under two sets of rules, Before and After as JSON. RulesID is set
// where After was saved.
type HouseTrial struct {
	ID      int64 `gorm:"primaryKey"`
	RulesID *int64
	Before  string
	After   string
	State   string
	Total   int
	Done    int
	// Beat is when its worker was last heard of.
	Beat       time.Time
	PersonID   int64
	StartedAt  time.Time
	FinishedAt *time.Time
}

// HouseTrialRow is a page for which the rules make a difference: how many findings block it
// and how many mistakes it misses, before and after, and in Says, as JSON, what is new and
// what is gone.
type HouseTrialRow struct {
	TrialID    int64 `gorm:"primaryKey"`
	RevisionID int64 `gorm:"primaryKey"`
	Version    int64
	Blocked    int
	Blocks     int
	Missed     int
	Misses     int
	Says       string
}

// HouseNow are the rules that hold; ErrNotFound where nobody saved any.
func (r Reads) HouseNow() (*HouseRules, error) { return one[HouseRules](r.db.Order("id DESC"), "true") }

// HouseOf are the rules of a version.
func (r Reads) HouseOf(id int64) (*HouseRules, error) { return one[HouseRules](r.db, "id = ?", id) }

// HouseAt is the version that held at a moment, 0 for the program's own.
func (r Reads) HouseAt(at time.Time) (int64, error) {
	var id int64
	err := r.db.Raw("SELECT coalesce(max(id), 0) FROM house_rules WHERE at <= ?", at).Scan(&id).Error
	return id, err
}

// HouseVersions are the newest versions, the newest first.
func (r Reads) HouseVersions(most int) ([]HouseRules, error) {
	return many[HouseRules](r.db.Limit(most), "id DESC", "true")
}

// SaveHouse keeps rules as the next version after one, with the trial of all pages that
// follows from it, which enqueue puts to work; ErrHouseMoved where another version came first.
func (s *Store) SaveHouse(ctx context.Context, v *HouseRules, after int64, trial *HouseTrial, enqueue func(tx *sql.Tx, trial int64) error) error {
	v.At = Now().UTC().Truncate(time.Microsecond)
	return s.in(ctx, func(t *tx) error {
		if err := t.db.Exec("SELECT pg_advisory_xact_lock(hashtext('house_rules ' || current_schema()))").Error; err != nil {
			return err
		}
		var now int64
		if err := t.db.Raw("SELECT coalesce(max(id), 0) FROM house_rules").Scan(&now).Error; err != nil {
			return err
		}
		if now != after {
			return ErrHouseMoved
		}
		if err := t.db.Create(v).Error; err != nil {
			return err
		}
		t.touch("house_rules", v.ID)
		if err := t.append(line{person: v.PersonID, what: "change house rules", payload: map[string]any{"rules": v.ID, "changes": v.Changes, "why": v.Why}}); err != nil {
			return err
		}
		trial.RulesID = &v.ID
		if err := t.begin(trial, enqueue); err != nil {
			return err
		}
		return t.notify(Event{House: v.ID})
	})
}

// begin starts a trial of all pages that are open or hold.
func (t *tx) begin(trial *HouseTrial, enqueue func(tx *sql.Tx, trial int64) error) error {
	trial.State, trial.StartedAt = "running", Now().UTC().Truncate(time.Microsecond)
	trial.Beat = trial.StartedAt
	if err := t.db.Raw("SELECT count(*) FROM revisions WHERE state IN ('draft', 'on review', 'latched')").Scan(&trial.Total).Error; err != nil {
		return err
	}
	if err := t.db.Create(trial).Error; err != nil {
		return err
	}
	raw, err := t.raw()
	if err != nil {
		return err
	}
	return enqueue(raw, trial.ID)
}

// TryHouse starts a trial of rules on all pages. Those somebody started before and did not
// save are forgotten.
func (s *Store) TryHouse(ctx context.Context, trial *HouseTrial, enqueue func(tx *sql.Tx, trial int64) error) error {
	return s.in(ctx, func(t *tx) error {
		if err := t.db.Exec("DELETE FROM house_trials WHERE rules_id IS NULL AND person_id = ?", trial.PersonID).Error; err != nil {
			return err
		}
		return t.begin(trial, enqueue)
	})
}

// HouseTrialByID is a trial; ErrNotFound for one that was forgotten.
func (r Reads) HouseTrialByID(id int64) (*HouseTrial, error) {
	return one[HouseTrial](r.db, "id = ?", id)
}

// HouseTrialFor is the trial of a version that was saved.
func (r Reads) HouseTrialFor(rules int64) (*HouseTrial, error) {
	return one[HouseTrial](r.db, "rules_id = ?", rules)
}

// HouseTrialRows are the pages for which a trial makes a difference, those that are blocked
// now and were not before first.
func (r Reads) HouseTrialRows(trial int64, most int) ([]HouseTrialRow, error) {
	return many[HouseTrialRow](r.db.Limit(most), "blocks - blocked DESC, misses - missed DESC, revision_id", "trial_id = ?", trial)
}

// HouseToldRow is what saved rules did to a page since somebody changed it: RulesID is the
// newest of them that made a difference.
type HouseToldRow struct {
	HouseTrialRow
	RulesID int64
}

// HouseTold are somebody's own pages, those they changed last or begun, that saved rules doubt
// more than before and that nobody has changed since: from the first of those rules to the
// newest.
func (r Reads) HouseTold(person int64, most int) ([]HouseToldRow, error) {
	var out []HouseToldRow
	err := r.db.Raw(`SELECT * FROM (
		SELECT max(w.trial_id) AS trial_id, max(t.rules_id) AS rules_id, w.revision_id, w.version,
			(array_agg(w.blocked ORDER BY w.trial_id))[1] AS blocked, (array_agg(w.blocks ORDER BY w.trial_id DESC))[1] AS blocks,
			(array_agg(w.missed ORDER BY w.trial_id))[1] AS missed, (array_agg(w.misses ORDER BY w.trial_id DESC))[1] AS misses,
			(array_agg(w.says ORDER BY w.trial_id DESC))[1] AS says
		FROM house_trial_rows w JOIN house_trials t ON t.id = w.trial_id JOIN revisions r ON r.id = w.revision_id
		WHERE t.rules_id IS NOT NULL AND w.version = r.version AND r.state IN ('draft', 'on review', 'latched') AND (r.changed_by = ? OR r.created_by = ?)
			AND NOT EXISTS (SELECT 1 FROM revisions n WHERE n.procedure_id = r.procedure_id AND n.number > r.number AND n.state <> 'deleted')
		GROUP BY w.revision_id, w.version) v
		WHERE blocks > blocked OR misses > missed ORDER BY blocks - blocked DESC, revision_id LIMIT ?`, person, person, most).Scan(&out).Error
	return out, err
}

// TakeUpTrials queues again the trials of saved rules of which nothing was heard for so long.
func (s *Store) TakeUpTrials(ctx context.Context, silent time.Duration, enqueue func(tx *sql.Tx, trial int64) error) (int, error) {
	var ids []int64
	err := s.in(ctx, func(t *tx) error {
		err := t.db.Raw(`UPDATE house_trials SET beat = ? WHERE id IN (
			SELECT id FROM house_trials WHERE state = 'running' AND rules_id IS NOT NULL AND beat < ? FOR UPDATE SKIP LOCKED) RETURNING id`, Now(), Now().Add(-silent)).Scan(&ids).Error
		if err != nil || len(ids) == 0 {
			return err
		}
		raw, err := t.raw()
		if err != nil {
			return err
		}
		for _, id := range ids {
			if err := enqueue(raw, id); err != nil {
				return err
			}
		}
		return nil
	})
	return len(ids), err
}

// HouseTries are the open and holding revisions after one that a trial has not been through.
func (r Reads) HouseTries(after int64, most int) ([]int64, error) {
	var out []int64
	err := r.db.Raw("SELECT id FROM revisions WHERE state IN ('draft', 'on review', 'latched') AND id > ? ORDER BY id LIMIT ?", after, most).Scan(&out).Error
	return out, err
}

// GoOn writes how far a trial is and what it found; false where it was ended or forgotten.
func (s *Store) GoOn(ctx context.Context, trial int64, done int, rows []HouseTrialRow) (bool, error) {
	going := false
	err := s.in(ctx, func(t *tx) error {
		res := t.db.Exec("UPDATE house_trials SET done = ?, beat = ? WHERE id = ? AND state = 'running'", done, Now(), trial)
		if going = res.RowsAffected > 0; res.Error != nil || !going || len(rows) == 0 {
			return res.Error
		}
		return t.db.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(rows, 200).Error
	})
	return going, err
}

// EndTrial ends a trial that has not ended.
func (s *Store) EndTrial(ctx context.Context, trial int64, state string) error {
	return s.db.WithContext(ctx).Exec("UPDATE house_trials SET state = ?, finished_at = ? WHERE id = ? AND state = 'running'", state, Now(), trial).Error
}
