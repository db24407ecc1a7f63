package route_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/optimize"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/fixture"
)

func index(file string) *engine.Index {
	return engine.NewIndex(&fixture.Document(file).Engine)
}

var sheets = []string{
	"renew-timing-belt-r3.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belt-both-banks-r1.latch.json",
	"renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-cam-chain-r1.latch.json",
	"renew-belts-at-rest-r1.latch.json", "renew-chain-two-actuators-r1.latch.json",
}

func TestEveryDemoLoopClosesWithRoomToSpare(t *testing.T) {
	for _, f := range sheets {
		x := index(f)
		for i := range x.Sheet.Loops {
			l := &x.Sheet.Loops[i]
			k, err := route.Take(x, l)
			require.NoError(t, err)
			assert.True(t, k.Closes, "%s %s", f, l.Name)
			assert.Greater(t, k.Stretch, 0.1, "%s %s", f, l.Name)
			cs, err := route.Circles(x, l)
			require.NoError(t, err)
			p, err := route.Lay(cs)
			require.NoError(t, err)
			assert.Empty(t, route.Troubles(x, l, cs, p), "%s %s", f, l.Name)
		}
	}
}

// Root against a general-purpose minimiser: gonum's Nelder–Mead on the square
// of the difference comes to the same place of the tensioner.
func TestTheTensionersPlaceAgainstGonum(t *testing.T) {
	for _, f := range sheets {
		x := index(f)
		for i := range x.Sheet.Loops {
			l := &x.Sheet.Loops[i]
			k, err := route.Take(x, l)
			require.NoError(t, err)
			at := x.Wheel(x.Tensioner(l.Tensioner).Wheel)
			p, err := route.Of(x, l)
			require.NoError(t, err)
			var dx, dy float64
			for _, a := range p.Arcs {
				if a.Wheel == at.ID {
					dx, dy = math.Cos(a.Start+a.Sweep/2), math.Sin(a.Start+a.Sweep/2)
				}
			}
			x0, y0 := at.X, at.Y
			res, err := optimize.Minimize(optimize.Problem{Func: func(v []float64) float64 {
				at.X, at.Y = x0+v[0]*dx, y0+v[0]*dy
				q, err := route.Of(x, l)
				if err != nil {
					return 1e9
				}
				return math.Pow(float64(q.Length())-float64(l.Length()), 2)
			}}, []float64{0.5}, nil, &optimize.NelderMead{})
			at.X, at.Y = x0, y0
			require.NoError(t, err)
			assert.InDelta(t, res.X[0], k.Sits, 0.01, "%s %s", f, l.Name)
		}
	}
}

func TestRoot(t *testing.T) {
	assert.InDelta(t, math.Sqrt2, route.Root(func(v float64) float64 { return v*v - 2 }, 0, 2), 1e-12)
	assert.InDelta(t, 1, route.Root(func(v float64) float64 { return v - 1 }, 1, 5), 0)
	assert.InDelta(t, 5, route.Root(func(v float64) float64 { return v - 5 }, 1, 5), 0)
	assert.True(t, math.IsNaN(route.Root(func(v float64) float64 { return v*v + 1 }, -1, 1)))
	rapid.Check(t, func(t *rapid.T) {
		zero := rapid.Float64Range(-50, 50).Draw(t, "zero")
		assert.InDelta(t, zero, route.Root(func(v float64) float64 { return (v - zero) * (1 + v*v) }, -60, 60), 1e-9)
	})
}

func TestRunsPullCarryAndHangSlack(t *testing.T) {
	x := index(sheets[0])
	p, err := route.Of(x, &x.Sheet.Loops[0])
	require.NoError(t, err)
	var roles []route.Role
	for _, r := range p.Runs {
		roles = append(roles, r.Role)
	}
	// crank → tensioner → pump → inlet hang slack, inlet → exhaust carries,
	// exhaust → idler → crank pull.
	assert.Equal(t, []route.Role{route.Slack, route.Slack, route.Slack, route.Carries, route.Pulls, route.Pulls}, roles)
	for _, f := range sheets {
		x := index(f)
		for i := range x.Sheet.Loops {
			l := &x.Sheet.Loops[i]
			p, err := route.Of(x, l)
			require.NoError(t, err)
			for k, r := range p.Runs {
				w := x.Tensioner(l.Tensioner).Wheel
				if r.From == w || r.To == w {
					assert.Equal(t, route.Slack, p.Runs[k].Role, "%s %s: a tensioner works on the slack side", f, l.Name)
				}
			}
		}
	}
}

// All the way round a loop turns once: wraps on the inside less wraps on the
// back are a full circle, and toothed wheels turn as their shafts do.
func TestMeetings(t *testing.T) {
	for _, f := range sheets {
		x := index(f)
		for i := range x.Sheet.Loops {
			l := &x.Sheet.Loops[i]
			p, err := route.Of(x, l)
			require.NoError(t, err)
			sum := 0.0
			for k, m := range route.Meetings(x, p) {
				if l.Route[k].Side == engine.Inside {
					sum += m.Wrap
				} else {
					sum -= m.Wrap
				}
				w := x.Wheel(m.Wheel)
				if s := x.ShaftAt(w.Shaft); s >= 0 && w.Teeth > 0 {
					assert.Equal(t, x.Direction(s), m.Way, "%s %s", f, w.Name)
					assert.InDelta(t, float64(w.Teeth)*m.Wrap/360, m.InMesh, 1e-9)
				}
			}
			assert.InDelta(t, 360, sum, 1e-6, "%s %s", f, l.Name)
		}
	}
}

func TestTroubles(t *testing.T) {
	for _, c := range []struct {
		name  string
		spoil func(*engine.Sheet)
		kind  route.TroubleKind
	}{
		{"a cam on the back", func(s *engine.Sheet) { s.Loops[0].Route[3].Side = engine.Back }, route.Unreached},
		{"two wheels in one place", func(s *engine.Sheet) { s.Wheels[5].X, s.Wheels[5].Y = -40, 150 }, route.Overlap},
		{"cams swapped in the route", func(s *engine.Sheet) {
			r := s.Loops[0].Route
			r[3], r[4] = r[4], r[3]
		}, route.Crossing},
		{"travelling the wrong way", func(s *engine.Sheet) { s.Running = engine.Counterclockwise }, route.Unreached},
		{"a roller that rubs on the run across", func(s *engine.Sheet) {
			r := 20 * 8 / (2 * math.Pi)
			s.Wheels = []engine.Wheel{{ID: "a", Shaft: "crank", Teeth: 20}, {ID: "b", Shaft: "inlet", Teeth: 20, Y: 300}, {ID: "c", Diameter: 2*r + 1, X: 1.5, Y: 150}}
			s.Loops[0] = engine.Loop{ID: "l", Pitch: 8, Teeth: 95, Route: []engine.Stop{{Wheel: "a", Side: engine.Inside}, {Wheel: "b", Side: engine.Inside}, {Wheel: "c", Side: engine.Inside}}}
		}, route.Touches},
	} {
		s := &fixture.Document(sheets[0]).Engine
		c.spoil(s)
		x := engine.NewIndex(s)
		l := &s.Loops[0]
		cs, err := route.Circles(x, l)
		require.NoError(t, err, c.name)
		p, err := route.Lay(cs)
		require.NoError(t, err, c.name)
		var kinds []route.TroubleKind
		for _, tr := range route.Troubles(x, l, cs, p) {
			kinds = append(kinds, tr.Kind)
		}
		assert.Contains(t, kinds, c.kind, c.name)
	}
}

func TestColouredLinks(t *testing.T) {
	x := index("renew-timing-chain-r1.latch.json")
	got, err := route.Coloured(x, x.Loop("timing-chain"))
	require.NoError(t, err)
	require.Len(t, got, 3)
	for _, k := range got {
		assert.True(t, k.Reached)
		assert.InDelta(t, 0, k.Off(116), 0.05, string(k.Mark))
	}
	// Between two wheels of one size the links of the straight run and of the two
	// part arcs add up: 136 mm of run, and the arcs from each mark to the run.
	a, b := x.Mark("inlet-link"), x.Mark("exhaust-link")
	r := 42 * 9.525 / (2 * math.Pi)
	mm := 136 + (360-a.Clock)*math.Pi/180*r + b.Clock*math.Pi/180*r
	assert.InDelta(t, mm/9.525, got[2].Want-got[1].Want, 1e-6)

	x.Mark("exhaust-link").Link++
	got, err = route.Coloured(x, x.Loop("timing-chain"))
	require.NoError(t, err)
	assert.InDelta(t, 1, got[2].Off(116), 0.05)
	x.Mark("exhaust-link").Clock = 200
	got, err = route.Coloured(x, x.Loop("timing-chain"))
	require.NoError(t, err)
	assert.False(t, got[2].Reached)
	x.Mark("exhaust-link").Wheel = "balance-a-wheel"
	_, err = route.Coloured(x, x.Loop("timing-chain"))
	assert.ErrorContains(t, err, "does not run over")
}

// Moving the whole drive, or turning it round, changes no length.
func TestLengthsStayWhenTheDriveIsMoved(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := index(rapid.SampledFrom(sheets).Draw(t, "sheet"))
		l := &x.Sheet.Loops[0]
		before, err := route.Of(x, l)
		require.NoError(t, err)
		dx, dy, a := rapid.Float64Range(-200, 200).Draw(t, "dx"), rapid.Float64Range(-200, 200).Draw(t, "dy"), rapid.Float64Range(-3, 3).Draw(t, "a")
		sin, cos := math.Sincos(a)
		for i := range x.Sheet.Wheels {
			w := &x.Sheet.Wheels[i]
			w.X, w.Y = w.X*cos-w.Y*sin+dx, w.X*sin+w.Y*cos+dy
		}
		after, err := route.Of(x, l)
		require.NoError(t, err)
		assert.InDelta(t, float64(before.Length()), float64(after.Length()), 1e-6)
		for i := range before.Runs {
			assert.InDelta(t, float64(before.Runs[i].Length()), float64(after.Runs[i].Length()), 1e-6)
		}
	})
}

func BenchmarkV6Route(b *testing.B) {
	x := index("renew-belt-both-banks-r1.latch.json")
	for b.Loop() {
		if _, err := route.Take(x, &x.Sheet.Loops[0]); err != nil {
			b.Fatal(err)
		}
	}
}
