package desk_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/whereused"
	"inklatch/internal/core/unit"
	"inklatch/internal/desk"
	"inklatch/internal/store/pgtest"
)

// where is where a term is used, as "code title number: step term" lines.
func (h house) where(u *desk.User, term, kind string) []string {
	h.Helper()
	w, err := h.d.Engines.Where(h.Context(), u, term, kind, "")
	require.NoError(h, err)
	var out []string
	for _, p := range w.Pages {
		for _, at := range p.Places {
			out = append(out, fmt.Sprintf("%s %d %d: %s %s", p.Engine, p.Revision, p.Number, at.Step, strings.Join(at.Terms, ", ")))
		}
	}
	return out
}

// The index follows every save, undo and release, and finds for readers what holds
// alone.
func TestWhereUsedFollowsTheWork(t *testing.T) {
	h := open(t)
	ines, pavel := h.user("ines"), h.user("pavel")
	assert.Empty(t, h.where(ines, "banana oil", ""))
	require.NoError(t, h.edits(ines, draft, procedure.Edit{Op: procedure.Insert, Step: &step.Step{ID: "mine", Phase: "prepare", Note: "Not the banana oil of old.", Action: &step.Wait{For: unit.Of(7, unit.Minute)}}}))
	assert.Equal(t, []string{"TQ4-18P 4 4: mine note"}, h.where(ines, "banana oil", ""))
	assert.Equal(t, []string{"TQ4-18P 4 4: mine note"}, h.where(ines, "Old  BANA", ""), "words in any order, the last from its beginning")
	assert.Empty(t, h.where(pavel, "banana oil", ""), "readers know of no drafts")
	_, err := h.d.Drafts.Undo(t.Context(), ines, draft, "edits-Ines", false)
	require.NoError(t, err)
	assert.Empty(t, h.where(ines, "banana oil", ""))

	locks := h.where(pavel, "crank pin", "lock")
	assert.Contains(t, locks, "TQ4-18P 3 3: s08 crank pin")
	for _, l := range locks {
		assert.NotContains(t, l, " 1 1:", "what was superseded holds no more")
	}
	assert.NotEmpty(t, h.where(ines, "39 N·m", "value"))
	assert.NotEmpty(t, h.where(ines, "tl-1", "tool"), "a number from its beginning")
	assert.NotEmpty(t, h.where(ines, "16.2 lbf", "words"), "a figure with a point is one word")
	assert.Empty(t, h.where(ines, "16.7 lbf", "words"))
	assert.Empty(t, h.where(ines, "%", ""))
	_, err = h.d.Engines.Where(t.Context(), ines, "x", "colour", "")
	assert.Equal(t, "kind", problemOf(t, err).Field)
}

// Names that a new sheet gives are found on every page of its code.
func TestWhereUsedFollowsASheet(t *testing.T) {
	h := open(t)
	h.working()
	ines, mirja := h.user("ines"), h.user("mirja")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TP4-20M", "Another name."))
	_, err := h.edit(ines, "TP4-20M", "a", 1, set("fasteners/tensioner-bolt/name", `"eccentric screw"`))
	require.NoError(t, err)
	assert.Empty(t, h.where(ines, "eccentric screw", ""))
	_, err = h.release(mirja, "TP4-20M")
	require.NoError(t, err)
	h.proved(ines, "TP4-20M")
	found := h.where(ines, "eccentric screw", "fastener")
	assert.Contains(t, found, "TP4-20M 0 2:  eccentric screw", "on the sheet")
	// What is latched keeps the names of the sheet it was latched with.
	assert.Len(t, found, 1)
	id, err := h.d.Drafts.NewDraft(t.Context(), ines, h.open(ines, 11).Meta.Procedure, "The new name.", 0)
	require.NoError(t, err)
	assert.Greater(t, len(h.where(ines, "eccentric screw", "fastener")), 1)
	assert.Contains(t, fmt.Sprint(h.where(ines, "eccentric screw", "fastener")), fmt.Sprintf("TP4-20M %d 2:", id))
}

// What the index says of a page edit by edit is what it says of the page as a whole.
func TestTheIndexIsTheSameEditByEdit(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	rows := h.open(ines, draft).View.Rows
	for i, r := range rows[:12] {
		s := r.Step
		s.Note = fmt.Sprint("Note number ", i)
		require.NoError(t, h.edits(ines, draft, procedure.Edit{Op: procedure.Replace, Step: &s}))
	}
	head := h.open(ines, draft).View.Header
	head.Purpose = "Something else."
	require.NoError(t, h.edits(ines, draft, procedure.Edit{Op: procedure.SetHeader, Header: &head}, procedure.Edit{Op: procedure.Remove, ID: rows[20].Step.ID}))
	count := func() (n int) {
		require.NoError(t, h.s.SQL().QueryRow("SELECT count(*) FROM uses WHERE revision_id = $1", draft).Scan(&n))
		return n
	}
	before := count()
	_, err := h.s.SQL().Exec("DELETE FROM indexed WHERE revision_id = $1", draft)
	require.NoError(t, err)
	h.working() // what is missing is found again
	require.Eventually(t, func() bool {
		yes, err := h.s.Reads(t.Context()).Indexed(draft, desk.UsesEdition)
		return err == nil && yes
	}, 60*time.Second, 100*time.Millisecond)
	assert.Equal(t, before, count())
}

// Where something is used among 20 000 procedures.
func BenchmarkWhere20000(b *testing.B) {
	conf := pgtest.Config(b)
	d, u := filledWith(b, conf, 20_000)
	owner := pgtest.Owner(b, conf)
	_, err := owner.Exec(`INSERT INTO uses (revision_id, step_id, kind, term, key, said)
		SELECT r.id, 's' || n, k.kind, k.term || ' ' || (r.id * 7 + n) % 900, lower(k.term || ' ' || (r.id * 7 + n) % 900), 'Tighten the ' || k.term || ' of page ' || r.id || ' to its torque, step ' || n
		FROM revisions r, generate_series(1, 12) n, (VALUES ('tool', 'TL-5'), ('fastener', 'idler bolt'), ('words', 'step')) k (kind, term) WHERE r.procedure_id > 11;
		ANALYZE uses`)
	require.NoError(b, err)
	for name, ask := range map[string][2]string{"a tool": {"TL-5 431", "tool"}, "a fastener": {"idler bolt 17", ""}, "words": {"page 14012 torque", ""}, "far too many": {"tighten", ""}, "nothing": {"zzz", ""}} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				w, err := d.Engines.Where(b.Context(), u, ask[0], ask[1], "")
				require.NoError(b, err)
				require.Equal(b, name == "nothing", len(w.Pages) == 0)
			}
		})
	}
}

// What a change would do among 20 000 procedures, of a value on a few pages.
func BenchmarkPlanChange20000(b *testing.B) {
	conf := pgtest.Config(b)
	d, _ := filledWith(b, conf, 20_000)
	owner := pgtest.Owner(b, conf)
	_, err := owner.Exec(fmt.Sprintf(`INSERT INTO uses (revision_id, step_id, kind, term, key, said)
		SELECT r.id, 's' || n, 'value', (r.id * 7 + n) %% 900 + 100 || ' N·m', (r.id * 7 + n) %% 900 + 100 || ' n·m', 'Tighten it to ' || (r.id * 7 + n) %% 900 + 100 || ' N·m, step ' || n
		FROM revisions r, generate_series(1, 36) n WHERE r.procedure_id > 11;
		INSERT INTO indexed SELECT r.id, u.id, '%s' FROM revisions r JOIN procedures p ON p.id = r.procedure_id JOIN sheets u ON u.code = p.engine AND u.state = 'in use'
			ON CONFLICT (revision_id) DO UPDATE SET edition = excluded.edition;
		ANALYZE uses`, desk.UsesEdition))
	require.NoError(b, err)
	u, err := d.Access.SignIn(b.Context(), "ines@tarn.example", demo.Password)
	require.NoError(b, err)
	for b.Loop() {
		p, err := d.Engines.PlanChange(b.Context(), u, desk.ChangeAsk{From: "39 N·m", To: "45 N·m"})
		require.NoError(b, err)
		require.Len(b, p.Pages, 3)
	}
}

// Every kind that is offered is found somewhere in the demo.
func TestEveryKindIsFound(t *testing.T) {
	h := open(t)
	for _, k := range whereused.Kinds {
		var n int
		require.NoError(t, h.s.SQL().QueryRow("SELECT count(*) FROM uses WHERE kind = $1", string(k)).Scan(&n))
		assert.Positive(t, n, k)
	}
}
