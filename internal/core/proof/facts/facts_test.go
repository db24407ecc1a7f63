package facts_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/proof/facts"
	"inklatch/internal/core/virtual"
)

// of runs a page of the demo.
func of(file string) *facts.Facts {
	d := fixture.Document(file)
	x := engine.NewIndex(&d.Engine)
	return &facts.Facts{Index: x, Page: &d.Procedure, Run: virtual.Run(x, &d.Procedure)}
}

// at is the only step whose sentence begins with some words, or the last or first of them.
func at(t *testing.T, c *facts.Facts, words string, last bool) int {
	found := -1
	for i := range c.Page.Steps {
		if strings.HasPrefix(en.Sentence(c.Index, c.Page.Steps[i].Action), words) && (found < 0 || last) {
			found = i
		}
	}
	require.GreaterOrEqual(t, found, 0, words)
	return found
}

// What the page of a belt engine says in words is what the questions answer from its
// run.
func TestAnswersAboutABeltPage(t *testing.T) {
	c := of("renew-timing-belt-r3.latch.json")
	fit := at(t, c, "Fit the new timing belt", true)
	assert.Equal(t, map[int]int{0: fit}, c.RefittedLoops())
	assert.Equal(t, fit, c.FitStep("timing-belt"))
	assert.True(t, c.RenewsLoop(0))
	assert.True(t, c.AllLocked(&c.Index.Sheet.Loops[0], fit), "pin and bar are in while it is laid")
	assert.Equal(t, at(t, c, "Take off the timing belt", false), c.OffBefore(0, fit))

	start := at(t, c, "Start the engine", false)
	assert.Equal(t, start, c.Start())
	turned := c.LastTurn(start)
	assert.Contains(t, en.Sentence(c.Index, c.Page.Steps[turned].Action), "turn")
	assert.Greater(t, turned, fit)
	assert.Less(t, turned, start)

	assert.Equal(t, at(t, c, "Fit the crank pin", false), c.WentIn(fit, "crank-pin"))
	byLock, by, any := c.Looks(turned)
	assert.True(t, any)
	for k := range c.Undone() {
		assert.True(t, byLock[k] || by[k] || c.Geared(k, by), "the page looks at the %s after its last turns", c.Index.Sheet.Shafts[k].Name)
	}
}

// On every page of the demo an answer that names a step names one of the page.
func TestAnswersNameStepsOfThePage(t *testing.T) {
	looked := 0
	for _, file := range fixture.Documents() {
		c := of(file)
		n := len(c.Page.Steps)
		for k := range c.Index.Sheet.Tensioners {
			assert.Less(t, c.TouchedLast(k), n, file)
			assert.LessOrEqual(t, c.LastSeen(&c.Index.Sheet.Tensioners[k], 0), n, file)
		}
		for k := range c.Index.Sheet.Parts {
			p := &c.Index.Sheet.Parts[k]
			back := c.RefitAfter(0, p.ID)
			assert.Less(t, back, n, file)
			if back >= 0 {
				assert.True(t, c.Run.Before(back).Parts[k].Off && !c.Run.Steps[back].After.Parts[k].Off, "%s: step %d puts the %s back", file, back+1, p.Name)
			}
		}
		for loop, fit := range c.RefittedLoops() {
			assert.True(t, c.Run.Steps[fit].After.Loops[loop].On, file)
			assert.True(t, c.Run.Steps[fit].After.Loops[loop].Refitted, file)
			assert.LessOrEqual(t, c.OffBefore(loop, fit), fit, file)
		}
		assert.LessOrEqual(t, c.FirstWork(), c.Start(), file)
		facts.Each(c, func(i int, e virtual.Looked) {
			looked++
			assert.Contains(t, c.Run.Steps[i].Events, virtual.Event(e))
		})
	}
	assert.Positive(t, looked)
}
