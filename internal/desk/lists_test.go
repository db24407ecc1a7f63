package desk_test

import (
	"encoding/xml"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/desk"
)

// list is every procedure somebody sees, by code.
func (h house) list(u *desk.User) ([]desk.ProcedureRow, error) {
	rows, total, err := h.d.Procedures(h.Context(), u, desk.ListQuery{Limit: 200})
	assert.Len(h, rows, total)
	return rows, err
}

func TestProceduresAreListedByCodeAndTitle(t *testing.T) {
	h := open(t)
	rows, err := h.list(h.user("ines"))
	require.NoError(t, err)
	var titles []string
	for _, r := range rows {
		titles = append(titles, r.Engine+" "+r.Title)
	}
	assert.Equal(t, []string{
		"TB2-11H Renew both belts and set them by note",
		"TC2-08E Renew timing chain over both actuators",
		"TC4-24C Renew timing chain, guides and tensioner",
		"TP4-20M Renew timing belt and balance belt",
		"TQ3-10W Renew timing belt in oil",
		"TQ4-18P Check valve timing",
		"TQ4-18P Close the timing drive after work on the head",
		"TQ4-18P Open the timing drive for work on the head",
		"TQ4-18P Renew timing belt and tensioner",
		"TS1-03 Renew cam chain and check the firing mark",
		"TV6-27D Renew timing belt, both banks",
	}, titles)
	for _, r := range rows {
		switch r.Engine {
		case "TV6-27D":
			assert.Equal(t, "on review", r.State)
			assert.Zero(t, r.Blocking)
			assert.True(t, r.Latches[0].Closed)
			assert.Equal(t, "Ines Okafor", r.Latches[0].By)
		case "TS1-03":
			assert.Equal(t, "latched", r.State)
			assert.Zero(t, r.Blocking, "what blocks is kept with a reason")
		}
	}
}

func TestEverybodysDesk(t *testing.T) {
	h := open(t)
	for who, want := range map[string]struct {
		reviews, drafts, sheets int
	}{
		"ines":     {0, 2, 1}, // her own author's latch is closed; the V6 is still hers to change
		"mirja":    {1, 0, 1},
		"teodor":   {1, 0, 0},
		"aiko":     {1, 0, 0},
		"rosalind": {1, 1, 1},
		"pavel":    {0, 0, 0},
		"sunniva":  {0, 0, 0},
	} {
		reviews, drafts, err := h.d.MyDesk(t.Context(), h.user(who))
		require.NoError(t, err)
		sheets, err := h.d.SheetsOnDesk(t.Context(), h.user(who))
		require.NoError(t, err)
		assert.Len(t, reviews, want.reviews, "%s reviews", who)
		assert.Len(t, drafts, want.drafts, "%s drafts", who)
		assert.Len(t, sheets, want.sheets, "%s sheets", who)
		for _, s := range sheets {
			assert.Equal(t, "TC4-24C", s.Code)
			assert.Equal(t, 1, s.Blocking, "one count of links is wrong in the demo's draft")
			assert.Equal(t, 2, s.Draft)
			assert.Equal(t, 1, s.InUse)
		}
	}
}

func TestEngineRows(t *testing.T) {
	h := open(t)
	rows, err := h.d.Engines(t.Context(), h.user("mirja"))
	require.NoError(t, err)
	drives := map[string]string{}
	for _, r := range rows {
		drives[r.Code] = r.Drive
		assert.Equal(t, "Tarn", r.Maker)
		assert.Positive(t, r.Shafts)
		assert.Positive(t, r.Procedures)
	}
	assert.Equal(t, map[string]string{"TB2-11H": "two belts", "TC2-08E": "chain", "TC4-24C": "two chains", "TP4-20M": "two belts", "TQ3-10W": "belt and chain", "TQ4-18P": "belt", "TS1-03": "chain", "TV6-27D": "belt"}, drives)
}

// Every demo page prints: cautions before their step, every listed tool used at
// steps that are there, torque in two units, and a drawing.
func TestEverySheetPrints(t *testing.T) {
	h := open(t)
	for id := int64(1); id <= 10; id++ {
		s, err := h.d.Sheet(t.Context(), h.user("ines"), id)
		require.NoError(t, err)
		assert.Contains(t, s.Safety, "does not replace")
		n := 0
		for _, p := range s.Phases {
			assert.NotEmpty(t, p.Name)
			for _, st := range p.Steps {
				n++
				assert.Equal(t, n, st.Number, "steps are numbered through")
				assert.True(t, strings.HasSuffix(st.Text, "."), st.Text)
			}
		}
		for _, v := range s.Tools {
			for _, k := range v.Steps {
				assert.LessOrEqual(t, k, n, v.Number)
			}
		}
		for _, v := range s.Torque {
			assert.NotEmpty(t, v.Value, v.Name)
			assert.NotEmpty(t, v.Other, v.Name)
			assert.Positive(t, v.Count)
		}
		d := xml.NewDecoder(strings.NewReader(s.Drawing))
		for {
			if _, err := d.Token(); err == io.EOF {
				break
			} else if !assert.NoError(t, err) {
				break
			}
		}
		assert.Contains(t, s.Drawing, s.Code)
	}
	s, err := h.d.Sheet(t.Context(), h.user("ines"), 10)
	require.NoError(t, err)
	require.Len(t, s.Kept, 1, "what was kept against a finding stands on the sheet")
	assert.Contains(t, s.Kept[0].Reason, "No lock on this code")
	_, err = h.d.Sheet(t.Context(), h.user("pavel"), 7)
	assert.Error(t, err, "a reader does not read what is on review")
}

// A latched page keeps the sheet it was frozen with, whatever comes later.
func TestALatchedPageKeepsItsSheet(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	before, _, err := h.d.Export(t.Context(), ines, 6)
	require.NoError(t, err)
	require.NoError(t, h.d.NewSheetDraft(t.Context(), ines, "TQ3-10W", "Other torque."))
	_, err = h.edit(ines, "TQ3-10W", "a", 1, set("fasteners/crank-bolt/spec", `[{"torque":"70 N·m"}]`))
	require.NoError(t, err)
	_, err = h.release(mirja, "TQ3-10W")
	require.NoError(t, err)
	after, _, err := h.d.Export(t.Context(), ines, 6)
	require.NoError(t, err)
	assert.Equal(t, string(before), string(after))
	r, err := h.d.Revision(t.Context(), ines, 6)
	require.NoError(t, err)
	assert.Zero(t, r.Meta.Blocking)
	// The next draft is written on the new one.
	id, err := h.d.NewDraft(t.Context(), ines, r.Meta.Procedure, "Torque of the crank bolt.", 0)
	require.NoError(t, err)
	next, err := h.d.Revision(t.Context(), ines, id)
	require.NoError(t, err)
	found := false
	for _, f := range next.View.Findings {
		found = found || strings.Contains(f.What, "the sheet says 70 N·m")
	}
	assert.True(t, found)
	v := h.sheet(ines, "TQ3-10W")
	assert.Equal(t, "70 N·m", engine.NewIndex(v.Sheet).Fastener("crank-bolt").Spec[0].Torque.String())
}

// What a list says is proved once and follows every edit and every new sheet.
func TestListsFollowEditsAndSheets(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	blocking := func() int {
		rows, err := h.list(ines)
		require.NoError(t, err)
		for _, r := range rows {
			if r.Revision == draft {
				return r.Blocking + 100*r.Findings
			}
		}
		t.Fatal("the draft is not listed")
		return 0
	}
	first := blocking()
	assert.Equal(t, first, blocking())
	_, err := h.save(ines, "ines", h.version(ines), wait("s33", 5)) // the proving turns become a wait
	require.NoError(t, err)
	second := blocking()
	assert.NotEqual(t, first, second)
	_, err = h.d.Undo(t.Context(), ines, draft, "ines", false)
	require.NoError(t, err)
	assert.Equal(t, first, blocking())
	require.NoError(t, h.d.NewSheetDraft(t.Context(), ines, "TQ4-18P", "x"))
	_, err = h.edit(ines, "TQ4-18P", "a", 1, set("fasteners/idler-bolt/spec", `[{"torque":"45 N·m"}]`))
	require.NoError(t, err)
	assert.Equal(t, first, blocking(), "a sheet's draft changes no procedure")
	_, err = h.release(mirja, "TQ4-18P")
	require.NoError(t, err)
	assert.NotEqual(t, first, blocking(), "in use, it does")
}
