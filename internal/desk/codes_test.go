package desk_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

// manyCodes is the demo's house with so many engine codes more, each with its card.
func manyCodes(t testing.TB, n int) (*desk.Desk, *desk.User) {
	conf := pgtest.Config(t)
	s, err := store.Open(t.Context(), conf)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, demo.Load(t.Context(), s))
	_, err = pgtest.Owner(t, conf).Exec(fmt.Sprintf(`
		INSERT INTO sheets (code, number, state, version, sheet, reason, created_by, changed_by, changed_at)
			SELECT 'M' || to_char(n, 'FM00000'), 1, 'draft', 1, s.sheet, '', 1, 1, now() - n * interval '1 minute'
			FROM generate_series(1, %d) n, (SELECT sheet FROM sheets WHERE code = 'TS1-03' AND state = 'in use') s;
		UPDATE sheets SET state = 'in use', released_by = 2, released_at = now(), sha256 = encode(sha256(convert_to(sheet, 'UTF8')), 'hex')
			WHERE code LIKE 'M%%' AND substr(code, 6) <> '0';
		INSERT INTO sheet_standings (sheet_id, version, edition, card)
			SELECT id, 1, '%s', json_build_object('maker', CASE WHEN id %% 3 = 0 THEN 'Hallin' ELSE 'Tarn' END, 'use', 'workboat ' || id, 'drive', 'chain', 'blocking', id %% 4, 'findings', id %% 7)
			FROM sheets WHERE code LIKE 'M%%';
		ANALYZE`, n, sheetproof.Edition))
	require.NoError(t, err)
	d := desk.New(s)
	u, err := d.Access.SignIn(t.Context(), "ines@tarn.example", demo.Password)
	require.NoError(t, err)
	return d, u
}

// Pages of a long list of codes fit together, in each order, and the filter finds on
// the server what it names.
func TestPagesOfManyCodes(t *testing.T) {
	t.Parallel()
	d, u := manyCodes(t, 300)
	all, err := d.Engines.List(t.Context(), u)
	require.NoError(t, err)
	for _, sort := range []store.ShelfSort{store.ByCode, store.ByFindings, store.ByChange} {
		for _, down := range []bool{false, true} {
			seen := map[string]bool{}
			var last *desk.EngineRow
			for offset := 0; ; offset += 70 {
				p, err := d.Engines.Page(t.Context(), u, desk.EngineQuery{Sort: sort, Down: down, Offset: offset, Limit: 70})
				require.NoError(t, err)
				if len(p.Rows) == 0 {
					break
				}
				assert.Equal(t, len(all), p.Total)
				for i := range p.Rows {
					row := &p.Rows[i]
					assert.False(t, seen[row.Code], row.Code)
					seen[row.Code] = true
					if last != nil {
						inOrder(t, sort, down, last, row)
					}
					last = row
				}
			}
			assert.Len(t, seen, len(all), sort)
		}
	}
	find := func(q desk.EngineQuery) *desk.EnginePage {
		q.Limit = 50
		p, err := d.Engines.Page(t.Context(), u, q)
		require.NoError(t, err)
		return p
	}
	p := find(desk.EngineQuery{Filter: "m00042"})
	require.Len(t, p.Rows, 1)
	assert.Equal(t, "M00042", p.Rows[0].Code)
	for _, row := range find(desk.EngineQuery{Filter: "hallin chain"}).Rows {
		assert.Equal(t, "Hallin", row.Maker)
	}
	assert.Zero(t, find(desk.EngineQuery{Filter: "100% of_it"}).Total)
	drafts := find(desk.EngineQuery{Drafts: true, Filter: "M0"})
	assert.Equal(t, 30, drafts.Total)
	for _, row := range drafts.Rows {
		assert.Equal(t, 1, row.Draft)
		assert.Zero(t, row.InUse)
	}
	assert.Equal(t, 270, find(desk.EngineQuery{InUse: true, Filter: "M0"}).Total)
	// A new code is found by what its sheet says, before anybody has listed it.
	_, err = d.Engines.NewEngine(t.Context(), u, "N-1", "M00042", "")
	require.NoError(t, err)
	p = find(desk.EngineQuery{Filter: "n-1 chain"})
	require.Len(t, p.Rows, 1)
	assert.Equal(t, "N-1", p.Rows[0].Code)
	// Who reads sees what is in use alone.
	pavel, err := d.Access.SignIn(t.Context(), "pavel@tarn.example", demo.Password)
	require.NoError(t, err)
	of, err := d.Engines.Page(t.Context(), pavel, desk.EngineQuery{Filter: "M0", Limit: 50})
	require.NoError(t, err)
	assert.Equal(t, 270, of.Total)
}

func inOrder(t *testing.T, sort store.ShelfSort, down bool, a, b *desk.EngineRow) {
	if down {
		a, b = b, a
	}
	switch sort {
	case store.ByCode:
		assert.LessOrEqual(t, a.Code, b.Code)
	case store.ByFindings:
		assert.True(t, a.Blocking < b.Blocking || a.Blocking == b.Blocking && a.Findings <= b.Findings, "%v before %v", a, b)
	case store.ByChange:
		assert.False(t, a.At.After(b.At), "%v before %v", a.At, b.At)
	}
}

// A page of 20 000 engine codes, filtered and in order.
func BenchmarkCodes20000(b *testing.B) {
	d, u := manyCodes(b, 20000)
	for name, q := range map[string]desk.EngineQuery{"plain": {}, "filter": {Filter: "hallin"}, "findings": {Sort: store.ByFindings, Down: true}, "end": {Offset: 19900}} {
		q.Limit = 100
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				_, err := d.Engines.Page(b.Context(), u, q)
				require.NoError(b, err)
			}
		})
	}
}
