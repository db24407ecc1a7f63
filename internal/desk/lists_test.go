package desk_test

import (
	"encoding/xml"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/desk"
	"inklatch/internal/store"
)

// list is every procedure somebody sees, by code.
func (h house) list(u *desk.User) ([]desk.ProcedureRow, error) {
	rows, total, err := h.d.Drafts.Procedures(h.Context(), u, desk.ListQuery{Limit: 200})
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
		"TC1-06V Lay in the camshaft on the stand",
		"TC1-06V Strip the head on the stand",
		"TC1-06V Tension the chain and close the head",
		"TC2-08E Renew timing chain over both actuators",
		"TC4-24C Renew timing chain, guides and tensioner",
		"TD4-38G Set the injection pump by plunger lift",
		"TF3-13P Renew timing chain, unkeyed crank sprocket",
		"TP4-20M Renew timing belt and balance belt",
		"TQ3-10W Renew timing belt in oil",
		"TQ4-18P Check valve timing",
		"TQ4-18P Close the timing drive after work on the head",
		"TQ4-18P Open the timing drive for work on the head",
		"TQ4-18P Renew timing belt and tensioner",
		"TS1-03 Renew cam chain and check the firing mark",
		"TV6-27D Renew timing belt, both banks",
		"TW2-09P Renew timing belt, spring-set tensioner",
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

// Everybody's desk says what to do, in the order of the days it is due.
func TestEverybodysDesk(t *testing.T) {
	h := open(t)
	day := func(n int) string { return store.Now().AddDate(0, 0, n).Format(time.DateOnly) }
	for who, want := range map[string][]string{
		"ines": {
			day(-1) + " answer 7 v38 Workshop 2 waits", day(-1) + " answer 7 v24 Is 68 mm", day(-1) + " on review 7  waits for others",
			day(0) + " answer 18 t15a So that nobody", day(0) + " answer 18 t15a Say where", day(0) + " on review 18  waits for others",
			" note 3 s25 Hut 3", " sheet 0  1 finding stands in the way", " write 4  being written",
		},
		"jonas": {
			day(0) + " answer 18 t15a So that", day(0) + " answer 18 t15a Say where", day(0) + " on review 18  waits", " sheet 0  1 finding", " write 4  being written",
		},
		"mirja": {
			day(0) + " settle 18 t45 Workshop 4 heard", day(0) + " review 18  technical latch: 4 steps to read, taken over by you", day(6) + " review 7  technical latch: 67 steps to read", " sheet 0  1 finding",
		},
		"teodor":   {day(3) + " review 18  editorial latch: ", day(6) + " review 7  editorial latch: 67 steps to read"},
		"aiko":     {day(-1) + " review 7  bench latch: 67 steps to read", " review 18  bench latch: 3 steps to read"},
		"rosalind": {day(3) + " review 18  editorial latch: 51 steps to read", day(6) + " review 7  technical latch: 67 steps to read", " note 3 s25 Hut 3", " sheet 0  1 finding", " write 4  being written"},
		"pavel":    {" answered 12  We will name", " answered 3 s02 The sticker"},
		"sunniva":  nil,
	} {
		tasks, err := h.d.Drafts.MyDesk(t.Context(), h.user(who))
		require.NoError(t, err)
		var got []string
		for _, k := range tasks {
			got = append(got, fmt.Sprintf("%s %s %d %s %s", k.Due, k.Kind, k.Revision, k.Step, k.Says))
		}
		if assert.Len(t, got, len(want), "%s: %q", who, got) {
			for i := range want {
				assert.True(t, strings.HasPrefix(got[i], want[i]), "%s: %q, not %q", who, got[i], want[i])
			}
		}
	}
}

// What waits for somebody goes away with what they do, and comes to others.
func TestADeskFollowsTheWork(t *testing.T) {
	h := open(t)
	ines, mirja, teodor := h.user("ines"), h.user("mirja"), h.user("teodor")
	kinds := func(u *desk.User) map[string]int {
		tasks, err := h.d.Drafts.MyDesk(t.Context(), u)
		require.NoError(t, err)
		out := map[string]int{}
		for _, k := range tasks {
			if k.Revision == v6 {
				out[k.Kind]++
			}
		}
		return out
	}
	assert.Equal(t, 1, kinds(teodor)[desk.ToReview])
	m := h.say(teodor, v6, desk.Said{Kind: desk.Question, Place: "page", Body: "Both banks at once, @Mirja Salmela?"})
	assert.Equal(t, 1, kinds(mirja)[desk.ToAnswer], "she is named")
	before := kinds(ines)[desk.ToAnswer]
	require.NoError(t, h.answer(mirja, m.ID, "reply", "Yes."))
	assert.Zero(t, kinds(mirja)[desk.ToAnswer])
	assert.Equal(t, 1, kinds(teodor)[desk.ToSettle])
	require.NoError(t, h.answer(teodor, m.ID, "settle", ""))
	assert.Zero(t, kinds(teodor)[desk.ToSettle])
	assert.Equal(t, before-1, kinds(ines)[desk.ToAnswer])
	require.NoError(t, h.d.Review.Return(t.Context(), teodor, v6, []string{"Say which bank first."}))
	assert.Zero(t, kinds(teodor)[desk.ToReview])
	assert.Equal(t, 1, kinds(ines)[desk.ToMend])
	assert.Zero(t, kinds(ines)[desk.InReview])
}

// A release in which a newer sheet finds more waits for those who write, until
// there is a draft.
func TestAWorseReleaseWaits(t *testing.T) {
	h := open(t)
	h.working()
	ines, mirja := h.user("ines"), h.user("mirja")
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TP4-20M", "Another torque."))
	_, err := h.edit(ines, "TP4-20M", "a", 1, set("fasteners/tensioner-bolt/spec", `[{"torque":"77 N·m"}]`))
	require.NoError(t, err)
	_, err = h.release(mirja, "TP4-20M")
	require.NoError(t, err)
	h.proved(ines, "TP4-20M")
	worse := func() (out []desk.Task) {
		tasks, err := h.d.Drafts.MyDesk(t.Context(), ines)
		require.NoError(t, err)
		for _, k := range tasks {
			if k.Kind == desk.ToProve {
				out = append(out, k)
			}
		}
		return out
	}
	w := worse()
	require.NotEmpty(t, w)
	assert.Contains(t, w[0].Says, "more finding")
	r := h.open(ines, w[0].Revision)
	_, err = h.d.Drafts.NewDraft(t.Context(), ines, r.Meta.Procedure, "The new torque.", 0)
	require.NoError(t, err)
	assert.Len(t, worse(), len(w)-1)
}

func TestEngineRows(t *testing.T) {
	h := open(t)
	rows, err := h.d.Engines.List(t.Context(), h.user("mirja"))
	require.NoError(t, err)
	drives := map[string]string{}
	for _, r := range rows {
		drives[r.Code] = r.Drive
		assert.Equal(t, "Tarn", r.Maker)
		assert.Positive(t, r.Shafts)
		assert.Positive(t, r.Procedures)
	}
	assert.Equal(t, map[string]string{"TB2-11H": "two belts", "TC1-06V": "chain", "TD4-38G": "gears", "TF3-13P": "chain", "TW2-09P": "belt", "TC2-08E": "chain", "TC4-24C": "two chains", "TP4-20M": "two belts", "TQ3-10W": "belt and chain", "TQ4-18P": "belt", "TS1-03": "chain", "TV6-27D": "belt"}, drives)
}

// Every demo page prints: cautions before their step, every listed tool used at
// steps that are there, torque in two units, and a drawing.
func TestEverySheetPrints(t *testing.T) {
	h := open(t)
	for id := int64(1); id <= 10; id++ {
		s, err := h.d.Drafts.Sheet(t.Context(), h.user("ines"), id)
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
	s, err := h.d.Drafts.Sheet(t.Context(), h.user("ines"), 10)
	require.NoError(t, err)
	require.Len(t, s.Kept, 1, "what was kept against a finding stands on the sheet")
	assert.Contains(t, s.Kept[0].Reason, "No lock on this code")
	_, err = h.d.Drafts.Sheet(t.Context(), h.user("pavel"), 7)
	assert.Error(t, err, "a reader does not read what is on review")
}

// A latched page keeps the sheet it was frozen with, whatever comes later.
func TestALatchedPageKeepsItsSheet(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	before, _, err := h.d.Drafts.Export(t.Context(), ines, 11)
	require.NoError(t, err)
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TP4-20M", "Other torque."))
	_, err = h.edit(ines, "TP4-20M", "a", 1, set("fasteners/tensioner-bolt/spec", `[{"torque":"70 N·m"}]`))
	require.NoError(t, err)
	_, err = h.release(mirja, "TP4-20M")
	require.NoError(t, err)
	after, _, err := h.d.Drafts.Export(t.Context(), ines, 11)
	require.NoError(t, err)
	assert.Equal(t, string(before), string(after))
	r, err := h.d.Drafts.Revision(t.Context(), ines, 11)
	require.NoError(t, err)
	assert.Zero(t, r.Meta.Blocking)
	// The next draft is written on the new one.
	id, err := h.d.Drafts.NewDraft(t.Context(), ines, r.Meta.Procedure, "Torque of the tensioner bolt.", 0)
	require.NoError(t, err)
	next, err := h.d.Drafts.Revision(t.Context(), ines, id)
	require.NoError(t, err)
	found := false
	for _, f := range next.View.Findings {
		found = found || strings.Contains(f.What, "the sheet says 70 N·m")
	}
	assert.True(t, found)
	v := h.sheet(ines, "TP4-20M")
	assert.Equal(t, "70 N·m", engine.NewIndex(v.Sheet).Fastener("tensioner-bolt").Spec[0].Torque.String())
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
	_, err = h.d.Drafts.Undo(t.Context(), ines, draft, "ines", false)
	require.NoError(t, err)
	assert.Equal(t, first, blocking())
	require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "x"))
	_, err = h.edit(ines, "TQ4-18P", "a", 1, set("fasteners/idler-bolt/spec", `[{"torque":"45 N·m"}]`))
	require.NoError(t, err)
	assert.Equal(t, first, blocking(), "a sheet's draft changes no procedure")
	_, err = h.release(mirja, "TQ4-18P")
	require.NoError(t, err)
	assert.NotEqual(t, first, blocking(), "in use, it does")
}
