package turns_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/turns"
)

func plan(file string) *turns.Plan {
	d := fixture.Document(file)
	return turns.Of(engine.NewIndex(&d.Engine), &d.Procedure, finding.DefaultHouse())
}

func TestDemoPlans(t *testing.T) {
	for _, c := range []struct {
		file        string
		every, best int64
		ends        float64
		rows        int
	}{
		{"renew-timing-belt-r3.latch.json", 2, 2, 2, 5},
		{"renew-belt-in-oil-r1.latch.json", 2, 2, 2, 5},
		{"renew-belt-both-banks-r1.latch.json", 6, 6, 6, 8},
		{"renew-timing-chain-r1.latch.json", 2, 2, 2, 8},
		{"renew-both-belts-r1.latch.json", 2, 2, 8, 6},
		{"renew-cam-chain-r1.latch.json", 2, 2, 2, 3},
	} {
		p := plan(c.file)
		assert.Equal(t, c.every, p.Every, c.file)
		assert.Equal(t, c.best, p.Best, c.file)
		assert.InDelta(t, c.ends, p.Ends, 0.01, c.file)
		assert.True(t, p.Home, c.file)
		assert.Len(t, p.Rows, c.rows, c.file)
		assert.Empty(t, p.Mends, c.file)
		assert.True(t, p.Chosen, c.file)
		for _, s := range p.Settling {
			assert.True(t, s.Enough, "%s: %+v", c.file, s)
		}
	}
}

func TestTheV6Plan(t *testing.T) {
	p := plan("renew-belt-both-banks-r1.latch.json")
	assert.Equal(t, "Prove at 6 turns. Past it, go on to 12.", p.Says)
	assert.Equal(t, []int64{12, 18}, p.Next)
	assert.Contains(t, p.Advice, "go on in running direction to 12")
	by := map[string]turns.Row{}
	for _, r := range p.Rows {
		by[r.Name] = r
	}
	assert.Equal(t, "36 : 24 teeth", by["pump pin"].Under)
	assert.Equal(t, "3/2", by["pump pin"].Meets, "the pump meets its pin every turn and a half, the crank elsewhere")
	assert.EqualValues(t, 3, by["pump pin"].Every)
	assert.False(t, by["pump pin"].Stroke)
	assert.True(t, by["left cam plate"].Stroke)
	assert.Equal(t, []int{44}, by["pump pin"].Steps)
	require.Len(t, p.Schools, 4)
	assert.Equal(t, []string{"pump pin"}, p.Schools[0].Away, "after two turns the pump is not home")
	assert.False(t, p.Schools[1].Good)
	assert.True(t, p.Schools[3].Good)
	at := map[string]string{}
	for _, s := range p.Counts[2].Shafts {
		at[s.ID] = s.Turn
	}
	assert.Equal(t, "1/3", at["hp-pump"], "two turns of the crank are one and a third of the pump")
	assert.Equal(t, "0", at["left-inlet"])
	require.Len(t, p.Returns, 1)
	assert.EqualValues(t, 161, p.Returns[0].Every)
}

// change sets the turns of the last whole-turn step.
func change(d *procedure.Procedure, n float64) {
	for i := len(d.Steps) - 1; i >= 0; i-- {
		if a, ok := d.Steps[i].Action.(*step.Turn); ok && a.Turns >= 1 {
			b := *a
			b.Turns = n
			d.Steps[i].Action = &b
			return
		}
	}
}

// Whatever count is written, the plan says whether it is home by the rule of
// the teeth alone, and its mend makes it so.
func TestAnyCountIsJudgedAndMended(t *testing.T) {
	for _, f := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-timing-chain-r1.latch.json"} {
		rapid.Check(t, func(t *rapid.T) {
			d := fixture.Document(f)
			x := engine.NewIndex(&d.Engine)
			n := rapid.IntRange(1, 13).Draw(t, "turns")
			change(&d.Procedure, float64(n))
			p := turns.Of(x, &d.Procedure, finding.DefaultHouse())
			total := int64(p.Ends + 0.5)
			assert.Equal(t, total%p.Every == 0, p.Home, "%s at %d", f, total)
			if p.Home {
				return
			}
			require.Len(t, p.Mends, 1)
			better, _, err := procedure.Apply(&d.Procedure, p.Mends[0].Edits)
			require.NoError(t, err)
			assert.True(t, turns.Of(x, better, finding.DefaultHouse()).Home, p.Mends[0].Label)
		})
	}
}

func TestAProcedureThatLooksAtNothing(t *testing.T) {
	d := fixture.Document("renew-belt-both-banks-r1.latch.json")
	d.Procedure.Steps = d.Procedure.Steps[:12]
	p := turns.Of(engine.NewIndex(&d.Engine), &d.Procedure, finding.DefaultHouse())
	assert.Empty(t, p.Legs)
	assert.EqualValues(t, 6, p.Every)
	d.Procedure.Steps = nil
	p = turns.Of(engine.NewIndex(&d.Engine), &d.Procedure, finding.DefaultHouse())
	assert.False(t, p.Chosen)
	assert.EqualValues(t, 6, p.Every, "made for everything on the sheet")
	d.Engine.Locks, d.Engine.Marks = nil, nil
	p = turns.Of(engine.NewIndex(&d.Engine), &d.Procedure, finding.DefaultHouse())
	assert.Contains(t, p.Says, "no lock or mark")
}

func TestAHouseThatAsksForMore(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	house := finding.DefaultHouse()
	house.MinTurns = 5
	p := turns.Of(engine.NewIndex(&d.Engine), &d.Procedure, house)
	assert.EqualValues(t, 6, p.Best)
	assert.False(t, p.Schools[0].Good)
	assert.Contains(t, p.Schools[0].Says, "fewer turns")
}

func TestTooLittleSettling(t *testing.T) {
	d := fixture.Document("renew-belt-both-banks-r1.latch.json")
	for i := range d.Procedure.Steps {
		if _, ok := d.Procedure.Steps[i].Action.(*step.Wait); ok {
			d.Procedure.Steps[i].Action = &step.Do{Text: "Rest."}
		}
	}
	p := turns.Of(engine.NewIndex(&d.Engine), &d.Procedure, finding.DefaultHouse())
	require.Len(t, p.Settling, 1)
	assert.False(t, p.Settling[0].Enough)
	assert.Zero(t, p.Settling[0].Waited)
	assert.InDelta(t, 6, p.Settling[0].Turned, 0.01)
}

func BenchmarkPlan(b *testing.B) {
	d := fixture.Document("renew-belt-both-banks-r1.latch.json")
	x := engine.NewIndex(&d.Engine)
	for b.Loop() {
		turns.Of(x, &d.Procedure, finding.DefaultHouse())
	}
}
