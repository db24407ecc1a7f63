package latch_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/latch"
	"inklatch/internal/core/procedure"
	"inklatch/internal/core/step"
)

func page() *procedure.Procedure { return &demo.Document("renew-timing-belt-r3.latch.json").Procedure }

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
		house    latch.House
		may      bool
	}{
		{"author closes first", latch.Draft, nil, latch.ByAuthor, 1, []latch.Role{latch.Author}, 0, latch.House{}, true},
		{"not with a blocking finding", latch.Draft, nil, latch.ByAuthor, 1, []latch.Role{latch.Author}, 1, latch.House{}, false},
		{"editor not before the author", latch.Draft, nil, latch.ByTechnical, 2, []latch.Role{latch.TechnicalEditor}, 0, latch.House{}, false},
		{"technical after the author", latch.OnReview, author, latch.ByTechnical, 2, []latch.Role{latch.TechnicalEditor}, 0, latch.House{}, true},
		{"nobody closes two", latch.OnReview, author, latch.ByTechnical, 1, []latch.Role{latch.TechnicalEditor}, 0, latch.House{}, false},
		{"but in a team of two", latch.OnReview, author, latch.ByEditorial, 1, []latch.Role{latch.EditorialEditor}, 0, latch.House{AuthorMayEdit: true}, true},
		{"and there not the technical one", latch.OnReview, author, latch.ByTechnical, 1, []latch.Role{latch.TechnicalEditor}, 0, latch.House{AuthorMayEdit: true}, false},
		{"a lead stands in for an editor", latch.OnReview, author, latch.ByEditorial, 3, []latch.Role{latch.Lead}, 0, latch.House{}, true},
		{"a lead does not stand in for the bench", latch.OnReview, author, latch.ByBench, 3, []latch.Role{latch.Lead}, 0, latch.House{}, false},
		{"a reader never", latch.OnReview, author, latch.ByTechnical, 4, []latch.Role{latch.Reader}, 0, latch.House{}, false},
		{"not twice", latch.OnReview, author, latch.ByAuthor, 5, []latch.Role{latch.Author}, 0, latch.House{}, false},
		{"not when latched", latch.Latched, nil, latch.ByAuthor, 1, []latch.Role{latch.Author}, 0, latch.House{}, false},
	} {
		err := latch.MayClose(c.state, all, c.closed, c.latch, c.person, c.roles, c.blocking, c.house)
		assert.Equal(t, c.may, err == nil, "%s: %v", c.name, err)
	}
	assert.Error(t, latch.MayClose(latch.OnReview, all[:3], author, latch.ByBench, 2, []latch.Role{latch.BenchTechnician}, 0, latch.House{}), "a latch that is not needed")
}

func TestStates(t *testing.T) {
	need := []latch.Latch{latch.ByAuthor, latch.ByTechnical}
	assert.Equal(t, latch.Draft, latch.After(need, nil))
	assert.Equal(t, latch.OnReview, latch.After(need, []latch.Closed{{Latch: latch.ByAuthor}}))
	assert.Equal(t, latch.Latched, latch.After(need, []latch.Closed{{Latch: latch.ByAuthor}, {Latch: latch.ByTechnical}}))
}

func TestWeights(t *testing.T) {
	closed := []latch.Closed{{Latch: latch.ByAuthor}, {Latch: latch.ByTechnical}, {Latch: latch.ByEditorial}, {Latch: latch.ByBench}}
	for _, c := range []struct {
		name   string
		change func(*procedure.Procedure)
		weight latch.Weight
		opens  int
	}{
		{"nothing", func(*procedure.Procedure) {}, latch.Nothing, 0},
		{"a note", func(p *procedure.Procedure) { p.Steps[3].Note = "mind the clip" }, latch.Wording, 2},
		{"a sentence", func(p *procedure.Procedure) { p.Steps[3].Wording = "Remove the upper timing cover." }, latch.Wording, 2},
		{"the title", func(p *procedure.Procedure) { p.Title = "Renew belt" }, latch.Wording, 2},
		{"an order", func(p *procedure.Procedure) { p.Steps[3], p.Steps[4] = p.Steps[4], p.Steps[3] }, latch.Order, 3},
		{"a value", func(p *procedure.Procedure) {
			p.Steps[3].Action = &step.Remove{Parts: []engine.PartID{"lower-cover"}}
		}, latch.Value, 4},
		{"a step gone", func(p *procedure.Procedure) { p.Steps = p.Steps[1:] }, latch.Value, 4},
		{"a caution gone", func(p *procedure.Procedure) { p.Steps[0].Cautions = nil }, latch.Value, 4},
		{"the years", func(p *procedure.Procedure) { p.Applies.Years.To = 2023 }, latch.Value, 4},
	} {
		p := page()
		c.change(p)
		w := latch.Weigh(page(), p)
		assert.Equal(t, c.weight, w, c.name)
		assert.Len(t, latch.Reopened(w, closed), c.opens, c.name)
	}
}

func TestTheBenchIsAskedForLocksTurnsAndTorque(t *testing.T) {
	assert.Contains(t, latch.Required(nil, page()), latch.ByBench)
	same := page()
	same.Steps[3].Note = "mind the clip"
	assert.NotContains(t, latch.Required(page(), same), latch.ByBench)
	turned := page()
	for i := range turned.Steps {
		if a, ok := turned.Steps[i].Action.(*step.Turn); ok && a.Turns == 2 {
			n := *a
			n.Turns = 4
			turned.Steps[i].Action = &n
		}
	}
	require.Contains(t, latch.Required(page(), turned), latch.ByBench)
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
		err := latch.MayPutIntoUse([]latch.Role{latch.Reader, c.role}, c.workedOn, c.blocking)
		if c.says == "" {
			assert.NoError(t, err, c.role)
		} else {
			assert.ErrorContains(t, err, c.says, c.role)
		}
	}
}
