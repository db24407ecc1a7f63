package demo_test

import (
	"io/fs"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/desk"
	"inklatch/internal/format/latchjson"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// A lived demo has a past: five revisions of one procedure, each from its own day, what
// held on a day between, and a record that holds.
func TestALivedDemoHasAPast(t *testing.T) {
	s, err := store.Open(t.Context(), pgtest.Config(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	require.NoError(t, demo.LoadLived(t.Context(), s))
	assert.WithinDuration(t, time.Now(), store.Now(), time.Minute, "the clock is right again")
	d := desk.New(s)
	u, err := d.Access.SignIn(t.Context(), "ines@tarn.example", demo.Password)
	require.NoError(t, err)
	rows, _, err := d.Drafts.Procedures(t.Context(), u, desk.ListQuery{Filter: "TQ3-10W renew", Limit: 10})
	require.NoError(t, err)
	require.Len(t, rows, 1)
	v, err := d.Drafts.Versions(t.Context(), u, rows[0].Revision, "")
	require.NoError(t, err)
	require.Len(t, v.Versions, 5)
	released := 0
	for i := range v.Versions {
		from := v.Versions[i].From
		if from == nil {
			continue
		}
		released++
		assert.True(t, from.Before(time.Now().AddDate(0, 0, -3)))
		if until := v.Versions[i].Until; until != nil {
			assert.Greater(t, until.Sub(*from), 5*24*time.Hour, "revision %d held for days", v.Versions[i].Number)
			on, err := d.Drafts.Versions(t.Context(), u, rows[0].Revision, from.AddDate(0, 0, 2).Format(time.DateOnly))
			require.NoError(t, err)
			assert.Equal(t, v.Versions[i].ID, on.Held)
		}
	}
	assert.Equal(t, 4, released)
	r, err := s.Verify(t.Context(), nil)
	require.NoError(t, err)
	assert.Empty(t, r.Troubles)
	all, err := d.Review.RecordOf(t.Context(), u, desk.RecordAsk{Limit: 200})
	require.NoError(t, err)
	days := map[string]bool{}
	for i := range all {
		days[all[i].At.Format(time.DateOnly)] = true
		if i > 0 {
			assert.False(t, all[i].At.After(all[i-1].At), "the record goes forward")
		}
	}
	assert.Greater(t, len(days), 12)
}

// All files of a code carry the same engine sheet: which one is read in first changes
// nothing.
func TestFilesOfACodeCarryOneSheet(t *testing.T) {
	files, err := fs.Glob(demo.Files, "*.json")
	require.NoError(t, err)
	sheets := map[string]string{}
	for _, f := range files {
		raw, err := demo.Files.ReadFile(f)
		require.NoError(t, err)
		s, err := latchjson.DecodeAnySheet(raw)
		require.NoError(t, err, f)
		b, err := latchjson.Canonical(s)
		require.NoError(t, err)
		if other := sheets[s.Code]; other != "" {
			assert.Equal(t, other, string(b), f)
		}
		sheets[s.Code] = string(b)
	}
	assert.Greater(t, len(sheets), 6)
}
