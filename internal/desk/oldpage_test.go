package desk_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/bring"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// A page that was written elsewhere comes into a draft line by line: steps in the phases of its
// headings, cautions before and notes behind, and the rest with its reason. Nothing is written.
func TestAnOldPageIsBrought(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	b, err := os.ReadFile("../format/oldpage/testdata/page.html")
	require.NoError(t, err)
	was := h.open(ines, draft).Meta.Version
	p, err := h.d.Drafts.OldPage(t.Context(), ines, draft, "page.html", b)
	require.NoError(t, err)
	assert.Equal(t, was, h.open(ines, draft).Meta.Version)
	assert.Equal(t, []any{"page.html", "Renewing the timing belt", 16}, []any{p.Name, p.Title, p.Lines})
	assert.Len(t, p.SHA256, 64)
	require.Len(t, p.Readings, 6)
	for i, want := range []struct {
		verb  step.Verb
		aside quickline.Aside
	}{{"remove", ""}, {"turn", ""}, {"lock", ""}, {"turn", ""}, {"do", quickline.CautionAside}, {"lock", ""}} {
		r := p.Readings[i]
		assert.Equal(t, []any{want.verb, want.aside}, []any{r.Step.Action.Verb(), r.Aside}, i)
		if want.aside == "" {
			assert.Equal(t, step.Phase("lock"), r.Step.Phase, "its heading says so")
		}
		assert.Equal(t, want.aside != "", r.Ahead)
	}
	why := map[bring.Outcome]int{}
	for _, l := range p.Left {
		assert.NotEmpty(t, l.Why)
		why[l.Outcome]++
	}
	assert.Equal(t, map[bring.Outcome]int{bring.Left: 5, bring.Agrees: 1, bring.Differs: 1}, why)
	assert.Equal(t, len(p.Left)+len(p.Readings)+3, p.Lines, "no line is lost")

	// A line with several instructions comes apart.
	p, err = h.d.Drafts.OldPage(t.Context(), ines, draft, "a.txt", []byte("1. Fit the crank pin and remove the upper timing cover.\n"))
	require.NoError(t, err)
	assert.Len(t, p.Readings, 2)
	_, err = h.d.Drafts.OldPage(t.Context(), ines, draft, "a.pdf", []byte("%PDF-1.7"))
	assert.Equal(t, 422, problemOf(t, err).Status)
	_, err = h.d.Drafts.OldPage(t.Context(), ines, draft, "a.txt", []byte(strings.Repeat("1. Fit the crank pin\n", 600)))
	assert.Contains(t, problemOf(t, err).Title, "more than 500 steps")
	_, err = h.d.Drafts.OldPage(t.Context(), h.user("pavel"), draft, "a.txt", []byte("1. Fit the crank pin\n"))
	assert.Equal(t, 403, problemOf(t, err).Status)
}
