package store

import "time"

// Waiting is an open remark that waits for somebody: because it is theirs and was
// answered, because it names them, or because it is on what they write.
type Waiting struct {
	ID         int64
	RevisionID int64
	Kind       string
	StepID     string
	Body       string
	Line       string
	At         time.Time
	PersonID   int64
	By         string
	Engine     string
	Title      string
	Number     int
	Due        *time.Time
	// Mine is set on their own, Named where it names them, Worked where they worked on
	// the revision; LastBy, called LastName, said the last word, LastBody, 0 where nobody
	// has answered.
	Mine     bool
	Named    bool
	Worked   bool
	LastBy   int64
	LastName string
	LastBody string
}

// Waiting lists the open remarks on open revisions that may wait for a person, the
// oldest first.
func (r Reads) Waiting(person int64, most int) ([]Waiting, error) {
	var out []Waiting
	err := r.db.Raw(`SELECT * FROM (
			SELECT m.id, m.revision_id, m.kind, m.step_id, m.body, m.line, m.at, m.person_id, n.name AS by, p.engine, r.title, r.number, `+firstDue+` AS due,
				m.person_id = @person AS mine, EXISTS (SELECT 1 FROM mentions e WHERE e.remark_id = m.id AND e.person_id = @person) AS named,
				EXISTS (SELECT 1 FROM record e WHERE e.revision_id = r.id AND e.person_id = @person AND `+work+`) AS worked,
				coalesce(last.person_id, 0) AS last_by, coalesce(last.name, '') AS last_name, coalesce(last.body, '') AS last_body
			FROM remarks m LEFT JOIN LATERAL (SELECT v.person_id, v.body, w.name FROM replies v JOIN people w ON w.id = v.person_id WHERE v.remark_id = m.id ORDER BY v.id DESC LIMIT 1) last ON true
				JOIN revisions r ON r.id = m.revision_id JOIN procedures p ON p.id = r.procedure_id JOIN people n ON n.id = m.person_id
			WHERE m.state = 'open' AND r.state IN ('draft', 'on review')) x
		WHERE mine OR named OR worked ORDER BY id LIMIT @most`, map[string]any{"person": person, "most": most}).Scan(&out).Error
	return out, err
}

// Worse is a latched revision in which the sheet now in use finds more than the one
// it was latched with.
type Worse struct {
	RevisionID int64
	Engine     string
	Title      string
	Number     int
	More       int
	At         time.Time
}

// Worse lists latched revisions, without a draft after them, that the newest proof
// of their code found more in, the newest first.
func (r Reads) Worse(most int) ([]Worse, error) {
	var out []Worse
	err := r.db.Raw(`SELECT r.id AS revision_id, x.code AS engine, r.title, r.number, json_array_length(w.says::json) AS more, x.finished_at AS at
		FROM (SELECT DISTINCT ON (code) id, code, finished_at FROM reproofs WHERE state = 'done' ORDER BY code, id DESC) x
		JOIN reproof_rows w ON w.reproof_id = x.id AND w.says <> '[]'
		JOIN revisions r ON r.id = w.revision_id AND r.state = 'latched'
		WHERE NOT EXISTS (SELECT 1 FROM revisions o WHERE o.procedure_id = r.procedure_id AND o.state IN ('draft', 'on review'))
		ORDER BY x.finished_at DESC, r.id LIMIT ?`, most).Scan(&out).Error
	return out, err
}
