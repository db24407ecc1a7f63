package store

import "context"

// PersonByEmail finds somebody by e-mail address, whatever its case.
func (s *Store) PersonByEmail(ctx context.Context, email string) (*Person, error) {
	return one[Person](s.db.WithContext(ctx), "lower(email) = lower(?)", email)
}

// PersonByID finds somebody.
func (s *Store) PersonByID(ctx context.Context, id int64) (*Person, error) {
	return one[Person](s.db.WithContext(ctx), "id = ?", id)
}

// People lists everybody.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	return many[Person](s.db.WithContext(ctx), "id", "true")
}

// AddPerson adds somebody and fills in the id.
func (s *Store) AddPerson(ctx context.Context, p *Person) error {
	return s.db.WithContext(ctx).Create(p).Error
}

// Engines lists the engine sheets by code.
func (s *Store) Engines(ctx context.Context) ([]Engine, error) {
	return many[Engine](s.db.WithContext(ctx), "code", "true")
}

// EngineByCode finds a sheet.
func (s *Store) EngineByCode(ctx context.Context, code string) (*Engine, error) {
	return one[Engine](s.db.WithContext(ctx), "code = ?", code)
}

// RevisionByID finds a revision.
func (s *Store) RevisionByID(ctx context.Context, id int64) (*Revision, error) {
	return one[Revision](s.db.WithContext(ctx), "id = ?", id)
}

// Revisions lists every revision, by procedure and falling number.
func (s *Store) Revisions(ctx context.Context) ([]Revision, error) {
	return many[Revision](s.db.WithContext(ctx), "procedure_id, number DESC", "true")
}

// RevisionsOf lists the revisions of a procedure, the newest first.
func (s *Store) RevisionsOf(ctx context.Context, procedure int64) ([]Revision, error) {
	return many[Revision](s.db.WithContext(ctx), "number DESC", "procedure_id = ?", procedure)
}

// Procedures lists every procedure.
func (s *Store) Procedures(ctx context.Context) ([]Procedure, error) {
	return many[Procedure](s.db.WithContext(ctx), "id", "true")
}

// StepsOf lists the steps of a revision in order, those taken out along.
func (s *Store) StepsOf(ctx context.Context, revision int64) ([]Step, error) {
	return many[Step](s.db.WithContext(ctx), "pos, step_id", "revision_id = ?", revision)
}

// ClosingsOf lists the closed latches of a revision.
func (s *Store) ClosingsOf(ctx context.Context, revision int64) ([]Closing, error) {
	return many[Closing](s.db.WithContext(ctx), "at", "revision_id = ?", revision)
}

// BatchesOf lists a person's batches in a revision, the newest first.
func (s *Store) BatchesOf(ctx context.Context, revision, person int64) ([]Batch, error) {
	return many[Batch](s.db.WithContext(ctx).Limit(400), "id DESC", "revision_id = ? AND person_id = ?", revision, person)
}
