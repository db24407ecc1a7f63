package latch_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
)

func page() *procedure.Procedure {
	return &fixture.Document("renew-timing-belt-r3.latch.json").Procedure
}

func TestWhoMayClose(t *testing.T) {
	all := []latch.Latch{latch.ByAuthor, latch.ByTechnical, latch.ByEditorial, latch.ByBench}
	author := []latch.Closed{{Latch: latch.ByAuthor, Person: 1}}
	for _, c := range []struct {
		name     string
		state    latch.State
		closed   []latch.Closed
		latch    latch.Latch
		person   int64
		roles    []latch.Role
		blocking int
		workedOn bool
		house    latch.House
		may      bool
	}{
		{"author closes first", latch.Draft, nil, latch.ByAuthor, 1, []latch.Role{latch.Author}, 0, false, latch.House{}, true},
		{"not with a blocking finding", latch.Draft, nil, latch.ByAuthor, 1, []latch.Role{latch.Author}, 1, false, latch.House{}, false},
		{"editor not before the author", latch.Draft, nil, latch.ByTechnical, 2, []latch.Role{latch.TechnicalEditor}, 0, false, latch.House{}, false},
		{"technical after the author", latch.OnReview, author, latch.ByTechnical, 2, []latch.Role{latch.TechnicalEditor}, 0, false, latch.House{}, true},
		{"nobody closes two", latch.OnReview, author, latch.ByTechnical, 1, []latch.Role{latch.TechnicalEditor}, 0, false, latch.House{}, false},
		{"but in a team of two", latch.OnReview, author, latch.ByEditorial, 1, []latch.Role{latch.EditorialEditor}, 0, false, latch.House{AuthorMayEdit: true}, true},
		{"and there not the technical one", latch.OnReview, author, latch.ByTechnical, 1, []latch.Role{latch.TechnicalEditor}, 0, false, latch.House{AuthorMayEdit: true}, false},
		{"a lead stands in for an editor", latch.OnReview, author, latch.ByEditorial, 3, []latch.Role{latch.Lead}, 0, false, latch.House{}, true},
		{"a lead does not stand in for the bench", latch.OnReview, author, latch.ByBench, 3, []latch.Role{latch.Lead}, 0, false, latch.House{}, false},
		{"an editor not over own edits", latch.OnReview, author, latch.ByTechnical, 2, []latch.Role{latch.TechnicalEditor}, 0, true, latch.House{}, false},
		{"nor a lead over own wording", latch.OnReview, author, latch.ByEditorial, 2, []latch.Role{latch.Lead}, 0, true, latch.House{}, false},
		{"nor the bench", latch.OnReview, author, latch.ByBench, 2, []latch.Role{latch.BenchTechnician, latch.Author}, 0, true, latch.House{}, false},
		{"the author over their own, of course", latch.Draft, nil, latch.ByAuthor, 1, []latch.Role{latch.Author}, 0, true, latch.House{}, true},
		{"not when deleted", latch.Deleted, nil, latch.ByAuthor, 1, []latch.Role{latch.Author}, 0, false, latch.House{}, false},
		{"a reader never", latch.OnReview, author, latch.ByTechnical, 4, []latch.Role{latch.Reader}, 0, false, latch.House{}, false},
		{"not twice", latch.OnReview, author, latch.ByAuthor, 5, []latch.Role{latch.Author}, 0, false, latch.House{}, false},
		{"not when latched", latch.Latched, nil, latch.ByAuthor, 1, []latch.Role{latch.Author}, 0, false, latch.House{}, false},
	} {
		err := latch.Case{State: c.state, Required: all, Closed: c.closed, Blocking: c.blocking, WorkedOn: c.workedOn, House: c.house}.MayClose(c.latch, c.person, c.roles)
		assert.Equal(t, c.may, err == nil, "%s: %v", c.name, err)
	}
	assert.Error(t, latch.Case{State: latch.OnReview, Required: all[:3], Closed: author}.MayClose(latch.ByBench, 2, []latch.Role{latch.BenchTechnician}), "a latch that is not needed")
}

func TestStates(t *testing.T) {
	need := []latch.Latch{latch.ByAuthor, latch.ByTechnical}
	assert.Equal(t, latch.Draft, latch.After(need, nil))
	assert.Equal(t, latch.OnReview, latch.After(need, []latch.Closed{{Latch: latch.ByAuthor}}))
	assert.Equal(t, latch.Latched, latch.After(need, []latch.Closed{{Latch: latch.ByAuthor}, {Latch: latch.ByTechnical}}))
}

func TestWhatAChangeOpens(t *testing.T) {
	closed := []latch.Closed{{Latch: latch.ByAuthor}, {Latch: latch.ByTechnical}, {Latch: latch.ByEditorial}, {Latch: latch.ByBench}}
	for _, c := range []struct {
		name    string
		change  func(*procedure.Procedure)
		weights []latch.Weight
		opens   int
	}{
		{"nothing", func(*procedure.Procedure) {}, nil, 0},
		{"a note", func(p *procedure.Procedure) { p.Steps[3].Note = "mind the clip" }, []latch.Weight{latch.Wording}, 2},
		{"a sentence", func(p *procedure.Procedure) { p.Steps[3].Wording = "Remove the upper timing cover." }, []latch.Weight{latch.Wording}, 2},
		{"the title", func(p *procedure.Procedure) { p.Title = "Renew belt" }, []latch.Weight{latch.Wording}, 2},
		{"an order", func(p *procedure.Procedure) { p.Steps[3], p.Steps[4] = p.Steps[4], p.Steps[3] }, []latch.Weight{latch.Order}, 3},
		{"an order and new wording", func(p *procedure.Procedure) {
			p.Steps[3], p.Steps[4] = p.Steps[4], p.Steps[3]
			p.Steps[5].Wording = "Look at it."
		}, []latch.Weight{latch.Order, latch.Wording}, 4},
		{"a value", func(p *procedure.Procedure) {
			p.Steps[3].Action = &step.Remove{Parts: []engine.PartID{"lower-cover"}}
		}, []latch.Weight{latch.Value}, 4},
		{"a step gone", func(p *procedure.Procedure) { p.Steps = p.Steps[1:] }, []latch.Weight{latch.Value}, 4},
		{"a caution gone", func(p *procedure.Procedure) { p.Steps[0].Cautions = nil }, []latch.Weight{latch.Value}, 4},
		{"a caution said otherwise", func(p *procedure.Procedure) {
			p.Steps[0].Cautions = []step.Caution{{Hazard: p.Steps[0].Cautions[0].Hazard, Text: "Mind the battery."}}
		}, []latch.Weight{latch.Value}, 4},
		{"the years", func(p *procedure.Procedure) { p.Applies.Years.To = 2023 }, []latch.Weight{latch.Value}, 4},
	} {
		p := page()
		c.change(p)
		cs := latch.Changes(page(), p)
		var weights []latch.Weight
		for _, ch := range cs {
			weights = append(weights, ch.Weight)
		}
		assert.Equal(t, c.weights, weights, c.name)
		assert.Len(t, latch.Reopened(cs, closed), c.opens, c.name)
	}
}

// However steps are shuffled, taking the moved ones out leaves one order, and
// nothing is called moved that stands where it stood. The count is held against
// the quadratic way of finding a longest run.
func TestMovedStepsAreTheFewest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(0, 9).Draw(t, "n")
		before, after := &procedure.Procedure{}, &procedure.Procedure{}
		for i := range n {
			before.Steps = append(before.Steps, step.Step{ID: step.ID(rune('a' + i)), Action: &step.Do{Text: "x"}})
		}
		for _, i := range rapid.Permutation(indices(n)).Draw(t, "order") {
			after.Steps = append(after.Steps, before.Steps[i])
		}
		best := 0
		run := make([]int, n)
		for i := range n {
			run[i] = 1
			for k := range i {
				if before.At(after.Steps[k].ID) < before.At(after.Steps[i].ID) {
					run[i] = max(run[i], run[k]+1)
				}
			}
			best = max(best, run[i])
		}
		assert.Len(t, latch.Changes(before, after), n-best)
	})
}

func indices(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

func printed(p *procedure.Procedure) latch.Page {
	return latch.Page{Index: engine.NewIndex(&fixture.Document("renew-timing-belt-r3.latch.json").Engine), Procedure: p}
}

func required(was, now *procedure.Procedure) []latch.Latch {
	before := printed(was)
	return latch.DefaultHouse().Required(&before, latch.Page{Index: before.Index, Procedure: now})
}

// The words of an author's own, and notes, are content where they can send a hand
// wrong: such a change opens every latch, and asks for the bench.
func TestOwnWordsAndNotesAreContent(t *testing.T) {
	heavy, light := -1, -1
	for i := range page().Steps {
		switch v := page().Steps[i].Action.Verb(); {
		case v == "tighten" && heavy < 0:
			heavy = i
		case v == "remove" && light < 0 && page().Steps[i].Wording == "" && page().Steps[i].Note == "":
			light = i
		}
	}
	for _, c := range []struct {
		at            int
		wording, note string
		weight        latch.Weight
		bench         bool
	}{
		{heavy, "Tighten it well, then skip the next four steps.", "", latch.Value, true},
		{heavy, "", "go to 90 N·m", latch.Value, true},
		{heavy, "", "mind the clip", latch.Value, true},
		{light, "", "mind the clip", latch.Wording, false},
		{light, "", "then turn the crank one turn", latch.Value, true},
		{light, "", "do not bend the clip", latch.Value, true},
		{light, "Lift the cover away.", "", latch.Wording, false},
	} {
		now := page()
		now.Steps[c.at].Wording, now.Steps[c.at].Note = c.wording, c.note
		cs := latch.Changes(page(), now)
		require.Len(t, cs, 1, c.note)
		assert.Equal(t, c.weight, cs[0].Weight, c.wording+c.note)
		assert.Equal(t, c.bench, slices.Contains(required(page(), now), latch.ByBench), c.wording+c.note)
	}
	now := page()
	now.Title += ", go to 90 N·m"
	assert.Equal(t, latch.Value, latch.Changes(page(), now)[0].Weight)
}

// Whatever of a thing the printed page says weighs, though the page itself is as it was.
func TestASheetThatChangesCounts(t *testing.T) {
	before := printed(page())
	for name, change := range map[string]func(*engine.Sheet){
		"hand":       func(s *engine.Sheet) { s.Fasteners[0].LeftHand = !s.Fasteners[0].LeftHand },
		"lubricant":  func(s *engine.Sheet) { s.Fasteners[0].Lubricant += "greased" },
		"thread":     func(s *engine.Sheet) { s.Fasteners[0].Thread = "M7" },
		"count":      func(s *engine.Sheet) { s.Fasteners[0].Count += 2 },
		"name":       func(s *engine.Sheet) { s.Fasteners[0].Name = "other bolt" },
		"tool":       func(s *engine.Sheet) { s.Tools[0].Number = "TL-999" },
		"lock's own": func(s *engine.Sheet) { s.Locks[0].Tool = s.Tools[len(s.Tools)-1].ID },
	} {
		sheet := fixture.Document("renew-timing-belt-r3.latch.json").Engine
		change(&sheet)
		now := latch.Page{Index: engine.NewIndex(&sheet), Procedure: before.Procedure}
		cs := latch.Between(before, now)
		assert.NotEmpty(t, cs, name)
		assert.Contains(t, latch.DefaultHouse().Required(&before, now), latch.ByBench, name)
		for _, c := range cs {
			assert.NotEmpty(t, latch.Opens(c.Weight), name)
		}
	}
	sheet := fixture.Document("renew-timing-belt-r3.latch.json").Engine
	sheet.Fasteners[0].Class = "12.9"
	now := latch.Page{Index: engine.NewIndex(&sheet), Procedure: before.Procedure}
	assert.Empty(t, latch.Between(before, now), "what no page prints opens nothing")
	assert.NotContains(t, latch.DefaultHouse().Required(&before, now), latch.ByBench)
}

func TestTheBenchIsAskedForLocksTurnsAndTorque(t *testing.T) {
	assert.Contains(t, latch.DefaultHouse().Required(nil, printed(page())), latch.ByBench)
	same := page()
	same.Steps[3].Note = "mind the clip"
	assert.NotContains(t, required(page(), same), latch.ByBench)
	turned := page()
	for i := range turned.Steps {
		if a, ok := turned.Steps[i].Action.(*step.Turn); ok && a.Turns == 2 {
			n := *a
			n.Turns = 4
			turned.Steps[i].Action = &n
		}
	}
	require.Contains(t, required(page(), turned), latch.ByBench)
}

func TestWhoPutsASheetIntoUse(t *testing.T) {
	for _, c := range []struct {
		role     latch.Role
		workedOn bool
		blocking int
		says     string
	}{
		{latch.TechnicalEditor, false, 0, ""},
		{latch.Lead, false, 0, ""},
		{latch.Author, false, 0, "technical editor"},
		{latch.EditorialEditor, false, 0, "technical editor"},
		{latch.BenchTechnician, false, 0, "technical editor"},
		{latch.Reader, false, 0, "technical editor"},
		{latch.Administrator, false, 0, "technical editor"},
		{latch.Lead, true, 0, "another person"},
		{latch.TechnicalEditor, true, 3, "another person"},
		{latch.TechnicalEditor, false, 1, "1 finding must be mended"},
		{latch.TechnicalEditor, false, 2, "2 findings must be mended"},
	} {
		err := latch.MayPutIntoUse([]latch.Role{latch.Reader, c.role}, latch.SheetCase{WorkedOn: c.workedOn, Blocking: c.blocking})
		if c.says == "" {
			assert.NoError(t, err, c.role)
		} else {
			assert.ErrorContains(t, err, c.says, c.role)
		}
	}
}

func TestEveryRoleIsForSomething(t *testing.T) {
	for _, r := range latch.Roles {
		assert.NotEmpty(t, r.May(), r)
	}
	for _, l := range []latch.Latch{latch.ByAuthor, latch.ByTechnical, latch.ByEditorial, latch.ByBench} {
		assert.True(t, l.Known())
		assert.ErrorContains(t, latch.MayEverClose(l, []latch.Role{latch.Reader, latch.Administrator}), "only a")
		assert.NoError(t, latch.MayEverClose(l, latch.Roles))
	}
	assert.False(t, latch.Latch("window").Known())
}

// A role closes the latches it may ever close, and no other; a release is withdrawn by
// who may release one.
func TestWhatEachRoleCloses(t *testing.T) {
	for role, want := range map[latch.Role][]latch.Latch{
		latch.Reader: {}, latch.Administrator: {}, latch.Author: {latch.ByAuthor}, latch.TechnicalEditor: {latch.ByTechnical},
		latch.EditorialEditor: {latch.ByEditorial}, latch.BenchTechnician: {latch.ByBench},
	} {
		assert.Equal(t, want, latch.Closes([]latch.Role{role}), role)
	}
	assert.Equal(t, []latch.Latch{latch.ByAuthor, latch.ByBench}, latch.Closes([]latch.Role{latch.BenchTechnician, latch.Author}), "in the order they are shown")
	assert.Empty(t, latch.Closes(nil))
	for _, role := range latch.Roles {
		roles := []latch.Role{role}
		for _, l := range []latch.Latch{latch.ByAuthor, latch.ByTechnical, latch.ByEditorial, latch.ByBench} {
			assert.Equal(t, latch.MayEverClose(l, roles) == nil, slices.Contains(latch.Closes(roles), l))
		}
		assert.Equal(t, latch.MayEverClose(latch.ByTechnical, roles) == nil, latch.MayWithdraw(roles) == nil, role)
		assert.Equal(t, role == latch.Author || role == latch.Lead, latch.MayWrite(roles), role)
	}
	assert.ErrorContains(t, latch.MayWithdraw([]latch.Role{latch.Author}), "technical editor")
	for _, s := range []latch.State{latch.Draft, latch.OnReview, latch.Latched, latch.Superseded, latch.Withdrawn, latch.Deleted} {
		assert.False(t, s.Open() && s.Frozen(), "what is worked on changes")
		assert.Equal(t, s == latch.Deleted, !s.Open() && !s.Frozen(), s)
	}
	for _, w := range []latch.Weight{latch.Value, latch.Order, latch.Wording} {
		opens := latch.Opens(w)
		assert.Contains(t, opens, latch.ByAuthor, "every change is the author's to stand for")
		opens[0] = "changed"
		assert.Contains(t, latch.Opens(w), latch.ByAuthor, "the list is the caller's own")
	}
}

// A revision is released by a lead, once every latch is closed and nothing is open; by
// the rule of the house by whoever closed the last latch, and never over anything open.
func TestWhoReleases(t *testing.T) {
	all := []latch.Latch{latch.ByAuthor, latch.ByTechnical, latch.ByEditorial}
	ready := latch.Case{State: latch.OnReview, Required: all}
	for i, l := range all {
		ready.Closed = append(ready.Closed, latch.Closed{Latch: l, Person: int64(i + 1)})
	}
	require.True(t, ready.Ready())
	for name, c := range map[string]struct {
		change func(*latch.Case)
		roles  []latch.Role
		last   bool
		why    string
	}{
		"a lead":                      {roles: []latch.Role{latch.Lead}},
		"a lead who edits":            {roles: []latch.Role{latch.EditorialEditor, latch.Lead}},
		"an author":                   {roles: []latch.Role{latch.Author}, why: "a lead releases it"},
		"an administrator":            {roles: []latch.Role{latch.Administrator}, why: "a lead releases it"},
		"nobody":                      {why: "a lead releases it"},
		"the last latch":              {roles: []latch.Role{latch.EditorialEditor}, last: true, why: "a lead releases it"},
		"the last latch, by the rule": {func(c *latch.Case) { c.House.LastReleases = true }, []latch.Role{latch.EditorialEditor}, true, ""},
		"by the rule, but not last":   {func(c *latch.Case) { c.House.LastReleases = true }, []latch.Role{latch.EditorialEditor}, false, "a lead releases it"},
		"a latch open":                {func(c *latch.Case) { c.Closed = c.Closed[1:] }, []latch.Role{latch.Lead}, false, "not every latch is closed"},
		"no latch needed yet":         {func(c *latch.Case) { c.Required = nil }, []latch.Role{latch.Lead}, false, "not every latch is closed"},
		"one finding":                 {func(c *latch.Case) { c.Blocking = 1 }, []latch.Role{latch.Lead}, false, "1 finding blocks release"},
		"findings":                    {func(c *latch.Case) { c.Blocking = 3 }, []latch.Role{latch.Lead}, false, "3 findings block release"},
		"a question":                  {func(c *latch.Case) { c.Asked = 1 }, []latch.Role{latch.Lead}, false, "1 question is open"},
		"a question, by the rule":     {func(c *latch.Case) { c.Asked, c.House.LastReleases = 2, true }, []latch.Role{latch.EditorialEditor}, true, "2 questions are open"},
		"a point":                     {func(c *latch.Case) { c.Demands = 1 }, []latch.Role{latch.Lead}, false, "1 point that must be changed is open"},
		"released already":            {func(c *latch.Case) { c.State = latch.Latched }, []latch.Role{latch.Lead}, false, "this revision is released"},
		"withdrawn":                   {func(c *latch.Case) { c.State = latch.Withdrawn }, []latch.Role{latch.Lead}, false, "this revision is withdrawn"},
		"deleted":                     {func(c *latch.Case) { c.State = latch.Deleted }, []latch.Role{latch.Lead}, false, "this revision is deleted"},
	} {
		v := ready
		v.Closed = slices.Clone(ready.Closed)
		if c.change != nil {
			c.change(&v)
		}
		err := v.MayRelease(c.roles, c.last)
		if c.why == "" {
			assert.NoError(t, err, name)
		} else {
			assert.ErrorContains(t, err, c.why, name)
		}
	}
}

// What is left to read is said by steps, and what stands above them by its name.
func TestWhatIsLeftToReadIsCountedInSteps(t *testing.T) {
	for _, c := range []struct {
		unread int
		head   bool
		left   int
		why    string
	}{
		{0, false, 0, "0 steps are not read as they stand now"},
		{1, false, 1, "1 step is not read as it stands now"},
		{66, false, 66, "66 steps are not read as they stand now"},
		{0, true, 1, "the title and preparation are not read as they stand now"},
		{1, true, 2, "1 step, and the title and preparation, are not read as they stand now"},
		{66, true, 67, "66 steps, and the title and preparation, are not read as they stand now"},
	} {
		v := latch.Case{State: latch.Draft, Unread: c.unread, HeadUnread: c.head}
		ws := v.Wants(latch.ByEditorial)
		i := slices.IndexFunc(ws, func(w latch.Want) bool { return w.What == latch.AllRead })
		require.GreaterOrEqual(t, i, 0)
		assert.Equal(t, latch.Want{What: latch.AllRead, Left: c.left, Why: c.why}, ws[i])
	}
}
