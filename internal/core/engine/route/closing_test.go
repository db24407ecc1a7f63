package route_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/fixture"
)

// two is a chain over two equal wheels: its way round is exactly 2C + N·p.
func two(centre float64, teeth int, kind engine.LoopKind) (*engine.Sheet, *engine.Loop) {
	s := &engine.Sheet{Code: "T", Running: engine.Clockwise,
		Shafts: []engine.Shaft{{ID: "crank"}, {ID: "cam"}},
		Wheels: []engine.Wheel{{ID: "a", Shaft: "crank", Mount: engine.Keyed, Teeth: teeth}, {ID: "b", Shaft: "cam", Mount: engine.Keyed, Teeth: teeth, Y: centre}},
		Loops:  []engine.Loop{{ID: "l", Kind: kind, Pitch: 8, Teeth: 10, Route: []engine.Stop{{Wheel: "a", Side: engine.Inside}, {Wheel: "b", Side: engine.Inside}}}}}
	return s, &s.Loops[0]
}

// With two equal wheels the count that closes is teeth + 2C/p, by counting alone.
func TestTheCountWithTwoEqualWheels(t *testing.T) {
	s, l := two(160, 20, engine.Belt)
	cs, err := route.Closings(engine.NewIndex(s), l)
	require.NoError(t, err)
	require.Len(t, cs, 1)
	assert.Equal(t, 60, cs[0].Teeth)
	assert.True(t, cs[0].Fits)

	s, l = two(163, 20, engine.Belt) // 60.75 teeth: neither fits, and both are said with what they miss
	cs, err = route.Closings(engine.NewIndex(s), l)
	require.NoError(t, err)
	require.Len(t, cs, 2)
	assert.Equal(t, []int{60, 61}, []int{cs[0].Teeth, cs[1].Teeth})
	assert.InDelta(t, 6, cs[0].Off, 1e-9)
	assert.InDelta(t, -2, cs[1].Off, 1e-9)
	assert.False(t, cs[0].Fits || cs[1].Fits || cs[0].Found || cs[1].Found)

	s, l = two(164, 20, engine.Chain) // 61 links: odd, which only a half link makes
	cs, err = route.Closings(engine.NewIndex(s), l)
	require.NoError(t, err)
	assert.Equal(t, []int{60, 62}, []int{cs[0].Teeth, cs[1].Teeth})
	l.Half = true
	cs, err = route.Closings(engine.NewIndex(s), l)
	require.NoError(t, err)
	require.Len(t, cs, 1)
	assert.Equal(t, 61, cs[0].Teeth)

	l.Route = l.Route[:1]
	_, err = route.Closings(engine.NewIndex(s), l)
	assert.Error(t, err)
}

// Every count that is offered closes when it is taken, with the roller where it was
// said to stand; every count near it that is not offered does not.
func TestWhatIsOfferedCloses(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		file := rapid.SampledFrom([]string{"renew-timing-belt-r3.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-timing-chain-r1.latch.json", "renew-belt-both-banks-r1.latch.json"}).Draw(t, "file")
		s := fixture.Document(file).Engine
		for i := range s.Wheels {
			if s.Wheels[i].Shaft == "" {
				s.Wheels[i].X += rapid.Float64Range(-6, 6).Draw(t, "x")
				s.Wheels[i].Y += rapid.Float64Range(-6, 6).Draw(t, "y")
			}
		}
		l := &s.Loops[0]
		if ten := engine.NewIndex(&s).Tensioner(l.Tensioner); ten != nil {
			ten.Travel = rapid.Float64Range(0.5, 14).Draw(t, "travel")
		}
		x := engine.NewIndex(&s)
		cs, err := route.Closings(x, l)
		if err != nil {
			t.Skip()
		}
		take := func(n int) *route.TakeUp {
			k := *l
			k.Teeth = n
			v, err := route.Take(x, &k)
			require.NoError(t, err)
			return v
		}
		offered := map[int]bool{}
		for _, c := range cs {
			offered[c.Teeth] = c.Fits
			v := take(c.Teeth)
			assert.Equal(t, v.Closes, c.Fits, "%d", c.Teeth)
			if c.Fits {
				assert.InDelta(t, v.Sits, c.Sits, 1e-6)
			}
			if !c.Found {
				continue
			}
			// The wheel set down where it was said to stand, nothing moving, closes.
			moved := s
			moved.Wheels = append([]engine.Wheel(nil), s.Wheels...)
			moved.Loops = append([]engine.Loop(nil), s.Loops...)
			moved.Loops[0].Teeth = c.Teeth
			for i := range moved.Wheels {
				if moved.Wheels[i].ID == x.Tensioner(l.Tensioner).Wheel {
					moved.Wheels[i].X, moved.Wheels[i].Y = c.At.X, c.At.Y
				}
			}
			p, err := route.Of(engine.NewIndex(&moved), &moved.Loops[0])
			require.NoError(t, err)
			if wrapped(p) {
				assert.InDelta(t, float64(c.Teeth)*l.Pitch, float64(p.Length()), 1e-5)
			}
		}
		for n := cs[0].Teeth - 4; n < cs[len(cs)-1].Teeth+4; n++ {
			if n < 1 || l.Kind == engine.Chain && !l.Half && n%2 == 1 {
				continue
			}
			if !offered[n] {
				assert.False(t, take(n).Closes, "%d closes and is not offered", n)
			}
		}
	})
}

// wrapped reports whether a path lies on every wheel it names, none of them passed by.
func wrapped(p *route.Path) bool {
	for _, a := range p.Arcs {
		if math.Abs(a.Sweep) > 300*math.Pi/180 {
			return false
		}
	}
	return true
}

// A loop that closes in the middle of its travel closes whatever is at the ends: drawn back
// so far that it cannot be laid, or a roller that moves the other way.
func TestClosingWhateverTheEnds(t *testing.T) {
	for name, as := range map[string]func(*engine.Tensioner){
		"as it is": func(*engine.Tensioner) {}, "a travel beyond the drive": func(v *engine.Tensioner) { v.Travel = 900 },
		"the other way": func(v *engine.Tensioner) { v.Moves = math.Mod(straight(t, v)+180, 360) },
	} {
		d := fixture.Document("renew-timing-belt-r3.latch.json")
		ten := &d.Engine.Tensioners[0]
		as(ten)
		x := engine.NewIndex(&d.Engine)
		take, err := route.Take(x, &d.Engine.Loops[0])
		require.NoError(t, err, name)
		assert.True(t, take.Closes, name)
		assert.InDelta(t, 0, take.Sits, 1, name)
		assert.LessOrEqual(t, take.Least, take.Length, name)
		assert.GreaterOrEqual(t, take.Most, take.Length, name)
		assert.Equal(t, name == "the other way", take.Back, name)
		assert.Equal(t, name == "a travel beyond the drive", take.Short, name)
		cs, err := route.Closings(x, &d.Engine.Loops[0])
		require.NoError(t, err, name)
		var counts []int
		for _, c := range cs {
			assert.True(t, c.Fits, name)
			counts = append(counts, c.Teeth)
		}
		assert.Contains(t, counts, d.Engine.Loops[0].Teeth, name)
	}
}

// straight is the way into the loop, degrees from twelve o'clock, that a tensioner moves
// where the sheet does not say.
func straight(t *testing.T, v *engine.Tensioner) float64 {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	p, err := route.Of(engine.NewIndex(&d.Engine), &d.Engine.Loops[0])
	require.NoError(t, err)
	for _, a := range p.Arcs {
		if a.Wheel == v.Wheel {
			return 90 - (a.Start+a.Sweep/2)*180/math.Pi + 360
		}
	}
	return 0
}
