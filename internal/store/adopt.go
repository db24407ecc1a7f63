package store

import "context"

// adopt takes what an older program wrote up into the record, once, so that it
// can be held against it from then on.
func (s *Store) adopt(ctx context.Context) error {
	return s.in(ctx, func(t *tx) error {
		if err := t.lockRecord(); err != nil {
			return err
		}
		var old, done int
		if err := t.db.Raw("SELECT count(*) FROM record WHERE form = 1").Scan(&old).Error; err != nil || old == 0 {
			return err
		}
		if err := t.db.Raw("SELECT count(*) FROM record WHERE what = 'adopt'").Scan(&done).Error; err != nil || done > 0 {
			return err
		}
		all, err := t.gather()
		if err != nil {
			return err
		}
		return t.append(line{what: "adopt", payload: map[string]any{"revisions": all.Revisions, "sheets": all.Sheets, "people": all.People}, anchor: true})
	})
}

func (r Reads) gather() (*everything, error) {
	all := &everything{}
	revs, err := many[Revision](r.db, "id", "true")
	if err != nil {
		return nil, err
	}
	for i := range revs {
		v := &revs[i]
		code, err := r.EngineOf(v.ID)
		if err != nil {
			return nil, err
		}
		steps, err := r.StepsOf(v.ID)
		if err != nil {
			return nil, err
		}
		cs, err := r.ClosingsOf(v.ID)
		if err != nil {
			return nil, err
		}
		closed := map[string]int64{}
		for _, c := range cs {
			closed[c.Latch] = c.PersonID
		}
		all.Revisions = append(all.Revisions, toldRevision{ID: v.ID, Number: v.Number, Procedure: v.ProcedureID, Engine: code, Version: v.Version, Digest: digest(v.Header, steps), SHA256: v.SHA256, Closed: closed})
	}
	sheets, err := many[Sheet](r.db, "id", "true")
	if err != nil {
		return nil, err
	}
	for _, v := range sheets {
		sha := v.SHA256
		if v.State != "draft" {
			sha = sum(v.Sheet)
		}
		all.Sheets = append(all.Sheets, toldSheet{v.ID, v.Code, v.Number, sum(v.Sheet), sha})
	}
	people, err := r.People()
	if err != nil {
		return nil, err
	}
	for _, p := range people {
		all.People = append(all.People, toldPerson{p.ID, p.Email, p.Name, p.Roles, p.Locked, sum(p.PasswordHash)})
	}
	return all, nil
}
