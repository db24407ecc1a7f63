package desk_test

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/replace"
	"inklatch/internal/desk"
)

func (h house) plan(u *desk.User, from, to string) *desk.ChangePlan {
	h.Helper()
	p, err := h.d.Engines.PlanChange(h.Context(), u, desk.ChangeAsk{From: from, To: to})
	require.NoError(h, err)
	return p
}

// do makes the change of one page at all of its places.
func (h house) do(u *desk.User, p *desk.ChangePlan, c *desk.ChangePage) (*desk.Changed, error) {
	a := desk.ChangeDo{From: p.From, To: p.To, Reason: "Letter EL-0612.", Revision: c.Revision, Engine: c.Engine, Number: c.Number, Version: c.Version}
	for _, v := range c.Places {
		a.Places = append(a.Places, v.Key)
	}
	return h.d.Engines.ChangeOn(h.Context(), u, a)
}

// lines are the pages and places of a plan.
func lines(p *desk.ChangePlan) (out []string) {
	for _, c := range p.Pages {
		var at []string
		for _, v := range c.Places {
			at = append(at, v.Key)
		}
		out = append(out, fmt.Sprintf("%s %d %s: %s", c.Engine, c.Revision, c.State, strings.Join(at, ", ")))
	}
	return out
}

func TestAValueIsChangedEverywhere(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	p := h.plan(ines, "39 Nm", "45 N·m")
	assert.True(t, p.Value)
	require.Len(t, p.Pages, 3)
	assert.Equal(t, 3, p.Places)
	sheet, closing, belt := &p.Pages[0], &p.Pages[1], &p.Pages[2]
	assert.Equal(t, []any{int64(0), "Engine sheet", true}, []any{sheet.Revision, sheet.Title, sheet.Starts})
	assert.True(t, closing.Starts, "a release is not changed: the next draft is")
	assert.Equal(t, []any{int64(draft), false}, []any{belt.Revision, belt.Starts}, "the open draft, and not the release before it")
	assert.Equal(t, []string{"Step 26 says 45 N·m for the idler bolt; the sheet says 39 N·m"}, belt.Until)
	assert.Empty(t, belt.New)

	before := h.open(ines, draft).Meta.Version
	for i := range p.Pages {
		_, err := h.d.Engines.ChangeOn(t.Context(), ines, desk.ChangeDo{From: p.From, To: p.To, Revision: p.Pages[i].Revision, Engine: "TQ4-18P", Version: p.Pages[i].Version, Places: []string{"x"}})
		assert.Equal(t, "reason", problemOf(t, err).Field)
		c, err := h.do(ines, p, &p.Pages[i])
		require.NoError(t, err)
		assert.Equal(t, []any{1, "draft"}, []any{c.Places, c.State})
		_, err = h.do(ines, p, &p.Pages[i])
		assert.Error(t, err, "it is done once")
	}
	after := h.open(ines, draft)
	assert.Equal(t, before+1, after.Meta.Version)
	assert.Equal(t, "Tighten the idler bolt to 45 N·m (33.2 lbf·ft).", after.View.Rows[25].Sentence)
	assert.Empty(t, h.plan(ines, "39 N·m", "45 N·m").Pages, "nothing is left")
	// The sheet is a draft now, and its code's pages are still proved with the one in use.
	assert.Equal(t, "draft", h.sheet(ines, "TQ4-18P").Meta.State)
	all, err := h.d.Review.RecordOf(t.Context(), ines, desk.RecordAsk{Limit: 20})
	require.NoError(t, err)
	assert.True(t, slices.ContainsFunc(all, func(e desk.RecordLine) bool {
		return e.Says == "edited 1 place, changing 39 N·m to 45 N·m everywhere"
	}))
	assert.True(t, slices.ContainsFunc(all, func(e desk.RecordLine) bool { return e.Says == "started the revision: Letter EL-0612." }))
	// One's own change is taken back like any other.
	_, err = h.d.Drafts.Undo(t.Context(), ines, draft, "back", false)
	require.NoError(t, err)
	assert.Equal(t, []string{"TQ4-18P 4 draft: s26"}, lines(h.plan(ines, "39 N·m", "45 N·m")))
	h.intact()
}

// A change of what is on review goes into it, and says which latches that opens.
func TestAChangeOfWhatIsOnReviewSaysWhatItOpens(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	p := h.plan(ines, "68 ±1 mm", "69 ±1 mm")
	require.NotEmpty(t, p.Pages)
	i := slices.IndexFunc(p.Pages, func(c desk.ChangePage) bool { return c.Revision == v6 })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, "on review", p.Pages[i].State)
	assert.NotEmpty(t, p.Pages[i].Opens)
	c, err := h.do(ines, p, &p.Pages[i])
	require.NoError(t, err)
	assert.Equal(t, []any{int64(v6), "draft"}, []any{c.Revision, c.State}, "the author latch is open again")
	h.intact()
}

// A page that was changed since the plan was made is left alone.
func TestAnOldPlanChangesNothing(t *testing.T) {
	h := open(t)
	ines, jonas := h.user("ines"), h.user("jonas")
	p := h.plan(ines, "39 N·m", "45 N·m")
	require.NoError(t, h.edits(jonas, draft, procedure.Edit{Op: procedure.Remove, ID: "s30"}))
	_, err := h.do(ines, p, &p.Pages[2])
	assert.ErrorContains(t, err, "has changed since this was looked at")
	p = h.plan(ines, "39 N·m", "45 N·m")
	page := p.Pages[2]
	page.Places = append(slices.Clone(page.Places), replace.Place{Key: "s01"})
	_, err = h.do(ines, p, &page)
	assert.ErrorContains(t, err, "has changed since", "a place at which it does not stand")
	page.Places = nil
	_, err = h.do(ines, p, &page)
	assert.Equal(t, "places", problemOf(t, err).Field)
	// Of two who change the same release at once, one starts the draft.
	var wg sync.WaitGroup
	errs := make([]error, 2)
	for i, u := range []*desk.User{ines, jonas} {
		wg.Go(func() { _, errs[i] = h.do(u, p, &p.Pages[1]) })
	}
	wg.Wait()
	assert.True(t, (errs[0] == nil) != (errs[1] == nil), "%v, %v", errs[0], errs[1])
	h.intact()
}

func TestATermIsChangedEverywhere(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	s := h.open(ines, draft).View.Rows[4].Step
	s.Note = "Mind the idler roller and TL-101."
	require.NoError(t, h.edits(ines, draft, procedure.Edit{Op: procedure.Replace, Step: &s}))
	p := h.plan(ines, "TL-101", "TL-131")
	assert.Equal(t, []string{"TQ4-18P 0 in use: tools/tl-101", fmt.Sprintf("TQ4-18P 4 draft: %s", s.ID)}, lines(p))
	assert.Equal(t, []replace.Text{replace.Became("note", "Mind the idler roller and TL-101.", "Mind the idler roller and TL-131.")}, p.Pages[1].Places[0].Texts)
	for _, c := range []struct{ from, to, field string }{{"", "x", "to"}, {"39 N·m", "x", "to"}, {"x", "x", "to"}, {strings.Repeat("x", 300), "y", "from"}} {
		_, err := h.d.Engines.PlanChange(t.Context(), ines, desk.ChangeAsk{From: c.from, To: c.to})
		assert.Equal(t, c.field, problemOf(t, err).Field, c.from)
	}
	// What only the draft of a sheet says is found as well.
	sheet := h.sheet(ines, "TC4-24C")
	require.Equal(t, "draft", sheet.Meta.State)
	_, err := h.edit(ines, "TC4-24C", "drafting", sheet.Meta.Version, engine.Edit{Path: "locks/crank-pin/note", Value: []byte(`"Mind the quorl."`)})
	require.NoError(t, err)
	assert.Equal(t, []string{"TC4-24C 0 draft: locks/crank-pin"}, lines(h.plan(ines, "quorl", "swarf")))
	only, err := h.d.Engines.PlanChange(t.Context(), ines, desk.ChangeAsk{From: "crank pin", To: "crank stop", Engine: "TV6-27D"})
	require.NoError(t, err)
	for _, c := range only.Pages {
		assert.Equal(t, "TV6-27D", c.Engine)
	}
	for _, who := range []string{"pavel", "mirja", "teodor", "aiko", "sunniva"} {
		_, err := h.d.Engines.PlanChange(t.Context(), h.user(who), desk.ChangeAsk{From: "TL-101", To: "TL-131"})
		assert.Equal(t, 403, problemOf(t, err).Status, who)
		_, err = h.d.Engines.ChangeOn(t.Context(), h.user(who), desk.ChangeDo{From: "TL-101", To: "TL-131", Reason: "r", Revision: draft, Places: []string{"s01"}})
		assert.Equal(t, 403, problemOf(t, err).Status, who)
	}
}

// The index misses nothing: wherever a word or a value stands on a page that can be
// changed, the plan has it.
func TestThePlanMissesNothing(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	rows, err := h.list(ines)
	require.NoError(t, err)
	pages := map[int64]*desk.Revision{}
	for _, r := range rows {
		if r.State == "draft" || r.State == "on review" || r.State == "latched" {
			pages[r.Revision] = h.open(ines, r.Revision)
		}
	}
	require.Greater(t, len(pages), 8)
	terms := map[string]string{"roller": "wheel", "TL-102": "TL-132", "pump": "lift", "by hand": "with care", "the": "this", "39 N·m": "43 N·m", "22 N·m": "23 N·m", "90°": "91°", "2 min": "3 min", "30 s": "31 s", "10 min": "11 min", "10 ±1 N·m": "11 ±1 N·m", "6 turns": "7 turns", "2 turns": "4 turns", "half a turn": "1 turn", "2.5 h": "3 h", "(a)": "b", "0.5 turns": "1 turn", "15 min": "16 min"}
	found := 0
	sheets := map[string]*engine.Index{}
	for _, r := range pages {
		if sheets[r.Meta.Engine] == nil {
			v, err := h.d.Engines.View(t.Context(), ines, r.Meta.Engine, 0)
			require.NoError(t, err)
			sheets[r.Meta.Engine] = engine.NewIndex(v.Sheet)
		}
	}
	for from, to := range terms {
		c, err := replace.Of(from, to)
		require.NoError(t, err)
		p := h.plan(ines, from, to)
		require.False(t, p.More)
		for id, r := range pages {
			var want []string
			for _, w := range r.View.Rows {
				one := &procedure.Procedure{Steps: []step.Step{w.Step}}
				if _, edits := c.OnPage(sheets[r.Meta.Engine], one, nil); len(edits) > 0 {
					want = append(want, string(w.Step.ID))
				}
			}
			var got []string
			for _, g := range p.Pages {
				if g.Revision == id {
					for _, v := range g.Places {
						if v.Key != "" {
							got = append(got, v.Key)
						}
					}
				}
			}
			assert.Equal(t, want, got, "%s on revision %d", from, id)
			found += len(got)
		}
	}
	assert.Greater(t, found, 60)
}

// A tool that comes in place of one it may stand in for, and is looser, is gone through every
// page that uses it before anything is changed.
func TestAToolThatIsReplacedIsTriedOnThePagesThatUseIt(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	loose := func(play string) *desk.ChangePage {
		sheet := h.sheet(ines, "TQ4-18P")
		if sheet.Meta.State != "draft" {
			require.NoError(t, h.d.Engines.NewSheetDraft(t.Context(), ines, "TQ4-18P", "another bar"))
			sheet = h.sheet(ines, "TQ4-18P")
		}
		_, err := h.edit(ines, "TQ4-18P", "with"+play, sheet.Meta.Version, engine.Edit{Path: "tools/tl-102/equivalents", Value: []byte(`[{"number":"TL-112","play":` + play + `}]`)})
		require.NoError(t, err)
		p := h.plan(ines, "TL-102", "TL-112")
		i := slices.IndexFunc(p.Pages, func(c desk.ChangePage) bool { return c.Revision == 0 && c.Engine == "TQ4-18P" })
		require.GreaterOrEqual(t, i, 0)
		return &p.Pages[i]
	}
	assert.Empty(t, loose("0.4").Then, "it is no looser")
	c := loose("12")
	require.NotEmpty(t, c.Then)
	var words []string
	for _, then := range c.Then {
		assert.False(t, then.Unread)
		assert.NotEmpty(t, then.Title)
		words = append(words, then.New...)
	}
	assert.Contains(t, strings.Join(words, " "), "may stand 12° off")
}
