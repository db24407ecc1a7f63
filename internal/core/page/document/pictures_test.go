package document_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/virtual"
)

// The steps of a page that are drawn are those that lock, lay, leave slack or read
// a mark, each once, and what their author says counts.
func TestTheStepsThatAreDrawn(t *testing.T) {
	doc := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&doc.Engine)
	p := &doc.Procedure
	tr := virtual.Run(x, p)
	drawn := map[int]document.Picture{}
	for _, v := range document.Pictures(x, p, tr) {
		assert.NotContains(t, drawn, v.Step)
		assert.NotEmpty(t, v.Says)
		assert.NotEmpty(t, v.Wheels)
		drawn[v.Step] = v
	}
	for i := range p.Steps {
		after, before := &tr.Steps[i].After, tr.Before(i)
		wants := len(p.Steps[i].Reads()) > 0
		for k := range after.Locks {
			wants = wants || x.Sheet.Locks[k].Kind.ForPosition() && after.Locks[k].In && !before.Locks[k].In
		}
		for k := range after.Loops {
			wants = wants || after.Loops[k].On && (!before.Loops[k].On || after.SlackOn(x, k) && !before.SlackOn(x, k))
		}
		assert.Equal(t, wants, hasPicture(drawn, i), "step %d: %s", i+1, en.Full(x, &p.Steps[i]))
	}
	require.NotEmpty(t, drawn)

	first := -1
	for i := range p.Steps {
		if _, ok := drawn[i]; ok {
			first = i
			break
		}
	}
	p.Steps[first].Picture = step.NeverPicture
	p.Steps[0].Picture = step.AlwaysPicture
	at := map[int]document.Picture{}
	for _, v := range document.Pictures(x, p, tr) {
		at[v.Step] = v
	}
	assert.NotContains(t, at, first)
	require.Contains(t, at, 0)
	assert.Empty(t, at[0].Wheels, "a step that says nothing of wheels shows the whole drive")
}

func hasPicture(m map[int]document.Picture, i int) bool { _, ok := m[i]; return ok }
