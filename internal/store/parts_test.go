package store_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

// The pages beside one, which every save looks for, are found without reading all pages of
// their code: by an index of the few that begin or end in the middle of a job.
func TestPartsAreFoundByTheirIndex(t *testing.T) {
	conf := pgtest.Config(t)
	s, err := store.Open(t.Context(), conf)
	require.NoError(t, err)
	defer s.Close()
	owner := pgtest.Owner(t, conf)
	_, err = owner.Exec(`
		INSERT INTO people (id, email, name, password_hash, roles) VALUES (1, 'a@tarn.example', 'A', '', 'author');
		INSERT INTO engines (code) VALUES ('TQ4-18P');
		INSERT INTO procedures (engine) SELECT 'TQ4-18P' FROM generate_series(1, 20000);
		INSERT INTO revisions (procedure_id, number, state, header, created_by, changed_by)
			SELECT p.id, 1, 'draft', CASE WHEN p.id % 5000 = 0 THEN '{"title": "Half", "begins": {"off": ["upper-cover"]}}' ELSE '{"title": "Whole"}' END, 1, 1 FROM procedures p;
		ANALYZE`)
	require.NoError(t, err)
	found, err := s.Reads(t.Context()).Parts("TQ4-18P", []string{"Half"}, 100)
	require.NoError(t, err)
	assert.Len(t, found, 4)
	rows, err := s.SQL().Query("EXPLAIN " + strings.NewReplacer("@code", "'TQ4-18P'", "@named", "('Half')", "@most", "100").Replace(store.PartsQuery))
	require.NoError(t, err)
	defer rows.Close()
	var plan strings.Builder
	for rows.Next() {
		var line string
		require.NoError(t, rows.Scan(&line))
		plan.WriteString(line + "\n")
	}
	assert.Contains(t, plan.String(), "revisions_parts")
	assert.NotContains(t, plan.String(), "Seq Scan on revisions", plan.String())
}
