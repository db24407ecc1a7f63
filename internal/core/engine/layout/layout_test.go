package layout_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/layout"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/sheetproof"
)

// Every layout is a drive that could be built: its loops close in the middle of
// their travel, nothing is in the way, and cams turn at half the speed of the crank.
func TestEveryLayoutCloses(t *testing.T) {
	for _, a := range layout.All() {
		s := a.Sheet("AB1-23")
		x := engine.NewIndex(s)
		for i := range s.Loops {
			l := &s.Loops[i]
			cs, err := route.Circles(x, l)
			require.NoError(t, err, a.ID)
			p, err := route.Lay(cs)
			require.NoError(t, err, a.ID)
			assert.Empty(t, route.Troubles(x, l, cs, p), a.ID)
			take, err := route.Take(x, l)
			require.NoError(t, err, a.ID)
			assert.True(t, take.Closes, "%s %s %+v", a.ID, l.Name, take)
			assert.InDelta(t, 0, take.Sits, 0.3, "%s %s", a.ID, l.Name)
		}
		for i := range s.Shafts {
			if s.Shafts[i].Kind.IsCam() {
				d := x.Drive(i)
				assert.True(t, d.Driven, "%s %s", a.ID, s.Shafts[i].Name)
				assert.InDelta(t, 0.5, math.Abs(float64(d.Ratio.Num)/float64(d.Ratio.Den)), 1e-12, "%s %s", a.ID, s.Shafts[i].Name)
			}
		}
	}
}

// What the sheet's proof says about a layout is what only its maker can say; the
// measures keep it out of use until somebody says where they come from.
func TestALayoutIsNobodysEngine(t *testing.T) {
	for _, a := range layout.All() {
		s := a.Sheet("AB1-23")
		var rules []string
		for _, f := range sheetproof.Prove(engine.NewIndex(s), finding.DefaultHouse()) {
			if f.Severity != finding.Look {
				rules = append(rules, f.Rule)
			}
		}
		assert.Subset(t, []string{"archetype", "years", "no-maker", "firing-order", "interference", "sides", "tooth-unseen", "tension-numbers", "no-torque", "empty-place", "held-by-nothing"}, rules, "%s %v", a.ID, rules)
		assert.Contains(t, rules, "archetype", a.ID)
		s.Evidence = map[string]engine.Proof{engine.DriveEvidence: {Source: "measured at the bench"}}
		for i := range s.Wheels {
			s.Wheels[i].X++
		}
		for i := range s.Loops {
			s.Loops[i].Teeth += 2
		}
		for _, f := range sheetproof.Prove(engine.NewIndex(s), finding.DefaultHouse()) {
			assert.NotEqual(t, "archetype", f.Rule, a.ID)
		}
	}
}

func TestNamed(t *testing.T) {
	for _, a := range layout.All() {
		b, ok := layout.Named(a.ID)
		assert.True(t, ok)
		assert.Equal(t, a.Name, b.Name)
		one, two := a.Sheet("A"), a.Sheet("A")
		assert.Equal(t, one, two)
		one.Wheels[0].X = 5
		assert.NotEqual(t, one, a.Sheet("A"), "each call gives a sheet of its own")
		w, l := layout.Left(two)
		assert.Len(t, w, len(two.Wheels))
		assert.Len(t, l, len(two.Loops))
	}
	_, ok := layout.Named("eight-cylinder")
	assert.False(t, ok)
	w, l := layout.Left(&engine.Sheet{})
	assert.Empty(t, w)
	assert.Empty(t, l)
}
