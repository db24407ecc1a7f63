package desk_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/unit"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

// filled is a desk over a database with n more procedures, each with a draft and
// what was kept of its proof.
func filled(t testing.TB, n int) (*desk.Desk, *desk.User) {
	return filledWith(t, pgtest.Config(t), n)
}

func filledWith(t testing.TB, conf store.Config, n int) (*desk.Desk, *desk.User) {
	s, err := store.Open(t.Context(), conf)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, demo.Load(t.Context(), s))
	_, err = pgtest.Owner(t, conf).Exec(fmt.Sprintf(`
		INSERT INTO procedures (engine) SELECT (ARRAY['TQ4-18P', 'TV6-27D', 'TB2-11H', 'TS1-03'])[1 + n %% 4] FROM generate_series(1, %d) n;
		INSERT INTO revisions (procedure_id, number, state, header, created_by, changed_by)
			SELECT p.id, 1, 'draft', json_build_object('title', 'Renew part ' || p.id || ' of the drive', 'engine', p.engine), 1, 1 + p.id %% 2 FROM procedures p WHERE p.id > 17;
		INSERT INTO standings SELECT r.id, 1, u.id, '%s', 40, r.id %% 3, r.id %% 5, 'author,technical,editorial,bench'
			FROM revisions r JOIN procedures p ON p.id = r.procedure_id JOIN sheets u ON u.code = p.engine AND u.state = 'in use' WHERE p.id > 17;
		ANALYZE`, n, pageproof.Edition))
	require.NoError(t, err)
	d := desk.New(s)
	u, err := d.Access.SignIn(t.Context(), "ines@tarn.example", demo.Password)
	require.NoError(t, err)
	return d, u
}

// Pages of a long list fit together: nothing twice, nothing left out, in order,
// and the filter finds on the server what it names.
func TestPagesOfALongList(t *testing.T) {
	t.Parallel()
	d, u := filled(t, 1000)
	for _, sort := range []store.ShelfSort{store.ByCode, store.ByTitle, store.ByState, store.ByFindings, store.ByChange} {
		seen := map[int64]bool{}
		for offset := 0; ; offset += 150 {
			rows, total, err := d.Drafts.Procedures(t.Context(), u, desk.ListQuery{Sort: sort, Down: sort == store.ByFindings, Offset: offset, Limit: 150})
			require.NoError(t, err)
			if len(rows) == 0 {
				break
			}
			assert.Equal(t, 1017, total)
			for i, r := range rows {
				assert.False(t, seen[r.Procedure], "twice: %d by %s", r.Procedure, sort)
				seen[r.Procedure] = true
				switch {
				case i == 0:
				case sort == store.ByCode:
					assert.LessOrEqual(t, rows[i-1].Engine, r.Engine)
				case sort == store.ByFindings:
					assert.GreaterOrEqual(t, rows[i-1].Blocking, r.Blocking)
				}
			}
		}
		assert.Len(t, seen, 1017, sort)
	}
	for filter, want := range map[string]int{"part 512 drive": 1, "TV6 part": 250, "jonas part": 500, "100%": 0, "a_b": 0, "latched": 14, "TQ4 RENEW timing": 2} {
		_, total, err := d.Drafts.Procedures(t.Context(), u, desk.ListQuery{Filter: filter, Limit: 5})
		require.NoError(t, err)
		assert.Equal(t, want, total, filter)
	}
	_, _, err := d.Drafts.Procedures(t.Context(), u, desk.ListQuery{Filter: "it's \\ '; DROP TABLE people --", Sort: "no such column", Limit: 5})
	assert.NoError(t, err)
}

// A page of 20 000 procedures, filtered and sorted in each way, as a person
// sees it.
func BenchmarkList20000(b *testing.B) {
	d, u := filled(b, 20_000)
	for name, q := range map[string]desk.ListQuery{
		"by code": {}, "filtered": {Filter: "TV6 part"}, "by findings": {Sort: store.ByFindings, Down: true}, "by change": {Sort: store.ByChange, Down: true}, "far down": {Offset: 19_000},
	} {
		q.Limit = 100
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				rows, _, err := d.Drafts.Procedures(b.Context(), u, q)
				require.NoError(b, err)
				require.NotEmpty(b, rows)
			}
		})
	}
	b.Run("my desk", func(b *testing.B) {
		for b.Loop() {
			_, err := d.Drafts.MyDesk(b.Context(), u)
			require.NoError(b, err)
		}
	})
}

// One step of a page of 400 saved: proved, laid out, read, indexed and recorded.
func BenchmarkSave400(b *testing.B) {
	s, err := store.Open(b.Context(), pgtest.Config(b))
	require.NoError(b, err)
	b.Cleanup(func() { s.Close() })
	require.NoError(b, demo.Load(b.Context(), s))
	d := desk.New(s)
	u, err := d.Access.SignIn(b.Context(), "ines@tarn.example", demo.Password)
	require.NoError(b, err)
	var edits []procedure.Edit
	for i := range 340 {
		edits = append(edits, procedure.Edit{Op: procedure.Insert, Step: &step.Step{ID: step.ID(fmt.Sprint("more-", i)), Phase: "prepare", Note: "As before.", Action: &step.Wait{For: unit.Of(float64(i+1), unit.Minute)}}})
	}
	r, err := d.Drafts.Revision(b.Context(), u, draft)
	require.NoError(b, err)
	_, err = d.Drafts.Save(b.Context(), u, draft, desk.Batch{Name: "benchmark-grows", Client: "bench", Base: r.Meta.Version, Edits: edits})
	require.NoError(b, err)
	for i := 0; b.Loop(); i++ {
		e := procedure.Edit{Op: procedure.Replace, Step: &step.Step{ID: "more-7", Phase: "prepare", Action: &step.Wait{For: unit.Of(float64(i+1), unit.Minute)}}}
		_, err := d.Drafts.Save(b.Context(), u, draft, desk.Batch{Name: fmt.Sprintf("benchmark-%06d", i), Client: "bench", Base: 1 << 40, Edits: []procedure.Edit{e}})
		require.NoError(b, err)
	}
}

// One step saved on a code that has 20 000 pages: what is saved on one page does not grow
// with the others.
func BenchmarkSaveBeside20000(b *testing.B) {
	conf := pgtest.Config(b)
	d, u := filledWith(b, conf, 100)
	save := func(b *testing.B, from int) {
		for i := 0; b.Loop(); i++ {
			e := procedure.Edit{Op: procedure.Replace, Step: &step.Step{ID: "s01", Phase: "prepare", Action: &step.Wait{For: unit.Of(float64(i%90+1), unit.Minute)}}}
			_, err := d.Drafts.Save(b.Context(), u, draft, desk.Batch{Name: fmt.Sprintf("benchmark-%06d", from+i), Client: "bench", Base: 1 << 40, Edits: []procedure.Edit{e}})
			require.NoError(b, err)
		}
	}
	b.Run("100", func(b *testing.B) { save(b, 0) })
	_, err := pgtest.Owner(b, conf).Exec(`
		INSERT INTO procedures (engine) SELECT 'TQ4-18P' FROM generate_series(1, 20000);
		INSERT INTO revisions (procedure_id, number, state, header, created_by, changed_by)
			SELECT p.id, 1, 'draft', json_build_object('title', 'Renew part ' || p.id || ' of the drive', 'engine', p.engine), 1, 1 FROM procedures p WHERE p.id > 111;
		ANALYZE`)
	require.NoError(b, err)
	b.Run("20000", func(b *testing.B) { save(b, 1_000_000) })
}
