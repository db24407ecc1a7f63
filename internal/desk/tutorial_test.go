package desk_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk"
	"inklatch/internal/store"
	"inklatch/internal/store/pgtest"
)

// The tutorial does what it says, from an empty house to a released sheet: its lines are
// all read, a lock that is left in is found, its mends lead to a page that nothing blocks,
// and its people release it.
func TestTheTutorial(t *testing.T) {
	t.Parallel()
	raw, err := os.ReadFile("../../docs/tutorial.md")
	require.NoError(t, err)
	_, rest, ok := strings.Cut(string(raw), "```lines\n")
	require.True(t, ok)
	lines, _, ok := strings.Cut(rest, "```")
	require.True(t, ok)

	s, err := store.Open(t.Context(), pgtest.Config(t))
	require.NoError(t, err)
	defer s.Close()
	d := desk.New(s)
	hash, err := desk.HashPassword(demo.Password)
	require.NoError(t, err)
	who := map[string]*desk.User{}
	for name, role := range map[string]latch.Role{"Ines": latch.Author, "Mirja": latch.TechnicalEditor, "Teodor": latch.EditorialEditor, "Aiko": latch.BenchTechnician, "Rosalind": latch.Lead} {
		require.Contains(t, string(raw), "| "+name+" | "+string(role)+" |", "the tutorial gives them their roles")
		p := &store.Person{Name: name, Email: name + "@tarn.example", Roles: string(role), PasswordHash: hash}
		require.NoError(t, s.AddPerson(t.Context(), p, 0))
		who[name], err = d.Access.UserByID(t.Context(), p.ID)
		require.NoError(t, err)
	}
	ines, mirja := who["Ines"], who["Mirja"]

	file := "tq4-18p.engine.json"
	require.Contains(t, string(raw), "demo/"+file)
	sheet, err := demo.Files.ReadFile(file)
	require.NoError(t, err)
	code, err := d.Engines.ImportEngine(t.Context(), ines, sheet)
	require.NoError(t, err)
	_, err = d.Drafts.NewProcedure(t.Context(), ines, code, "Check valve timing")
	require.ErrorContains(t, err, "is a draft still")
	require.NoError(t, demo.ReadSheet(t.Context(), d, mirja, code))
	_, err = d.Engines.ReleaseSheet(t.Context(), mirja, code, 1)
	require.NoError(t, err)

	id, err := d.Drafts.NewProcedure(t.Context(), ines, code, "Check valve timing")
	require.NoError(t, err)
	read, err := d.Drafts.Read(t.Context(), ines, id, lines, "")
	require.NoError(t, err)
	require.Len(t, read, strings.Count(lines, "\n"))
	var edits []procedure.Edit
	for i := range read {
		require.Empty(t, read[i].Problem, read[i].Line)
		read[i].Step.ID = step.ID(fmt.Sprintf("t%02d", i+1))
		edits = append(edits, procedure.Edit{Op: procedure.Insert, Step: &read[i].Step})
		if i > 0 {
			edits[i].After = read[i-1].Step.ID
		}
	}
	save := func(edits ...procedure.Edit) *desk.Saved {
		out, err := d.Drafts.Save(t.Context(), ines, id, desk.Batch{Name: name(), Client: "ines", Base: 1 << 40, Edits: edits})
		require.NoError(t, err)
		return out
	}
	page := save(edits...)
	without := save(procedure.Edit{Op: procedure.Remove, ID: read[10].Step.ID})
	assert.Greater(t, without.View.Blocking, page.View.Blocking, "the pin is left in")
	page, err = d.Drafts.Undo(t.Context(), ines, id, "ines", false)
	require.NoError(t, err)
	for range 40 {
		var mend *pageproof.Mend
		for i := range page.View.Findings {
			if f := &page.View.Findings[i]; mend == nil && len(f.Mends) > 0 {
				mend = &f.Mends[0]
			}
		}
		if mend == nil {
			break
		}
		page = save(mend.Edits...)
	}
	for _, f := range page.View.Findings {
		assert.NotEqual(t, finding.Blocks, f.Severity, f.What)
	}

	closing := map[latch.Latch]string{latch.ByAuthor: "Ines", latch.ByTechnical: "Mirja", latch.ByEditorial: "Teodor", latch.ByBench: "Aiko"}
	for _, l := range []latch.Latch{latch.ByAuthor, latch.ByTechnical, latch.ByEditorial, latch.ByBench} {
		u := who[closing[l]]
		_, err := demo.Read(t.Context(), d, u, id)
		require.NoError(t, err)
		r, err := d.Drafts.Revision(t.Context(), u, id)
		require.NoError(t, err)
		_, err = d.Review.CloseLatch(t.Context(), u, id, l, r.Meta.Version)
		require.NoError(t, err, l)
	}
	r, err := d.Drafts.Revision(t.Context(), who["Rosalind"], id)
	require.NoError(t, err)
	m, err := d.Review.Release(t.Context(), who["Rosalind"], id, r.Meta.Version)
	require.NoError(t, err)
	assert.Equal(t, string(latch.Latched), m.State)
	report, err := s.Verify(t.Context(), nil)
	require.NoError(t, err)
	assert.Empty(t, report.Troubles)
}
