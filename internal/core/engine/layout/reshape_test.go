package layout_test

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/layout"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/sheetproof"
)

func reshaped(t *testing.T, s *engine.Sheet, r layout.Reshape) *engine.Sheet {
	edits, err := r.Edits(s)
	require.NoError(t, err)
	out, err := engine.Apply(s, edits)
	require.NoError(t, err)
	return out
}

// A drive in the mirror is as long, closes in the same place, turns its shafts the same
// ways relative to the crank, and in the mirror again is the drive it was.
func TestMirror(t *testing.T) {
	var sheets []*engine.Sheet
	for _, a := range layout.All() {
		sheets = append(sheets, a.Sheet("AB1-23"))
	}
	for _, name := range fixture.Documents() {
		d := fixture.Document(name)
		sheets = append(sheets, &d.Engine)
	}
	for _, s := range sheets {
		m := reshaped(t, s, layout.Mirror)
		assert.Equal(t, s.Running.Opposite(), m.Running)
		if was, _ := layout.Left(s); len(was) > 0 {
			is, _ := layout.Left(m)
			assert.Equal(t, was, is, "mirrored measures are the layout’s still")
		}
		x, y := engine.NewIndex(s), engine.NewIndex(m)
		for i := range s.Loops {
			p, err := route.Of(x, &s.Loops[i])
			if err != nil {
				continue
			}
			q, err := route.Of(y, &m.Loops[i])
			require.NoError(t, err, s.Code)
			assert.InDelta(t, float64(p.Length()), float64(q.Length()), 1e-6, "%s %s", s.Code, s.Loops[i].Name)
		}
		for i := range s.Shafts {
			assert.Equal(t, x.Drive(i).Ratio, y.Drive(i).Ratio, s.Code)
		}
		was, is := rules(s), rules(m)
		assert.Equal(t, was, is, "%s: what is found of it is the same", s.Code)
		again, err := json.Marshal(reshaped(t, m, layout.Mirror))
		require.NoError(t, err)
		first, err := json.Marshal(s)
		require.NoError(t, err)
		assert.JSONEq(t, string(first), string(again), s.Code)
	}
}

func rules(s *engine.Sheet) map[string]int {
	out := map[string]int{}
	for _, f := range sheetproof.Prove(engine.NewIndex(s), finding.DefaultHouse()) {
		out[f.Rule]++
	}
	return out
}

func TestMirroredCases(t *testing.T) {
	s := layout.All()[0].Sheet("AB1-23")
	set := func(key, raw string) map[string]json.RawMessage {
		return map[string]json.RawMessage{key: json.RawMessage(raw)}
	}
	s.Varies = []engine.Variation{{ID: "v", Of: "wheels/pump-wheel", Cases: []engine.Case{{Set: set("x", "12.5")}, {Set: set("y", "3")}}}, {ID: "w", Of: "tensioners/tensioner", Cases: []engine.Case{{Set: set("turn", `"clockwise"`)}, {Set: set("moves", "20")}}}, {ID: "z", Of: "fasteners/cover-bolt", Cases: []engine.Case{{Set: set("places", `[{"x": 4, "y": 2}]`)}}}}
	s.Tensioners[0].Moves, s.Fasteners[0].Places = 60, []engine.Place{{X: 3, Y: 1}}
	m := reshaped(t, s, layout.Mirror)
	assert.Equal(t, "-12.5", string(m.Varies[0].Cases[0].Set["x"]))
	assert.Equal(t, "3", string(m.Varies[0].Cases[1].Set["y"]))
	assert.Equal(t, `"counterclockwise"`, string(m.Varies[1].Cases[0].Set["turn"]))
	assert.Equal(t, "340", string(m.Varies[1].Cases[1].Set["moves"]))
	assert.JSONEq(t, `[{"x": -4, "y": 2}]`, string(m.Varies[2].Cases[0].Set["places"]))
	assert.InDelta(t, 300, m.Tensioners[0].Moves, 0, "it takes up to the other side")
	assert.Equal(t, []engine.Place{{X: -3, Y: 1}}, m.Fasteners[0].Places)
	assert.Equal(t, "12.5", string(s.Varies[0].Cases[0].Set["x"]), "the sheet it was made from stays")
}

func TestTurnView(t *testing.T) {
	s := layout.All()[0].Sheet("AB1-23")
	_, err := layout.TurnView.Edits(s)
	require.ErrorIs(t, err, layout.ErrNoOtherEnd)
	s.OtherView = "flywheel end"
	m := reshaped(t, s, layout.TurnView)
	assert.Equal(t, "flywheel end", m.View)
	assert.Equal(t, s.View, m.OtherView)
	_, err = layout.Reshape("inside out").Edits(s)
	assert.Error(t, err)
}

// A balancer pair turns against each other, at twice the speed of the crank or at its own,
// its gears mesh where they stand, and a second pair is another.
func TestBalancers(t *testing.T) {
	for _, a := range layout.All() {
		s := a.Sheet("AB1-23")
		m := reshaped(t, s, layout.Balancers)
		x := engine.NewIndex(m)
		one, two := x.Drive(x.ShaftAt("balance-1")), x.Drive(x.ShaftAt("balance-2"))
		want := 2.0
		if s.Cylinders < 3 {
			want = 1
		}
		require.True(t, one.Driven && two.Driven, a.ID)
		assert.InDelta(t, -want, one.Ratio.Float(), 1e-12, a.ID)
		assert.InDelta(t, want, two.Ratio.Float(), 1e-12, a.ID)
		for _, g := range m.Gears[len(s.Gears):] {
			p, q := x.Wheel(g.Driver), x.Wheel(g.Driven)
			assert.InDelta(t, g.Module*float64(p.Teeth+q.Teeth)/2, math.Hypot(p.X-q.X, p.Y-q.Y), 0.1, "%s %s", a.ID, g.Name)
		}
		two1 := reshaped(t, m, layout.Balancers)
		assert.Len(t, two1.Shafts, len(m.Shafts)+2)
	}
}
