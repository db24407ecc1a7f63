package route

import (
	"math"
	"sort"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func circle(x, y, r, sense float64) Circle {
	return Circle{Centre: Point{x, y}, Radius: r, Sense: sense}
}

// Open and crossed flat-belt length, closed forms as printed in handbooks of
// machine elements (Shigley's Mechanical Engineering Design, flexible elements):
// open L = √(4C²−(D−d)²) + ½(D·θD + d·θd) with θ = π ± 2 asin((D−d)/2C),
// crossed L = √(4C²−(D+d)²) + ½(D+d)(π + 2 asin((D+d)/2C)).
func TestTwoWheelsAgainstClosedForms(t *testing.T) {
	for _, c := range [][3]float64{{200, 80, 80}, {300, 120, 60}, {150, 100, 20}} {
		C, D, d := c[0], c[1], c[2]
		open := math.Sqrt(4*C*C-(D-d)*(D-d)) + (D*(math.Pi+2*math.Asin((D-d)/(2*C)))+d*(math.Pi-2*math.Asin((D-d)/(2*C))))/2
		p, err := Lay([]Circle{circle(0, 0, D/2, -1), circle(C, 0, d/2, -1)})
		require.NoError(t, err)
		assert.InDelta(t, open, float64(p.Length()), 1e-9)
		crossed := math.Sqrt(4*C*C-(D+d)*(D+d)) + (D+d)/2*(math.Pi+2*math.Asin((D+d)/(2*C)))
		p, err = Lay([]Circle{circle(0, 0, D/2, 1), circle(C, 0, d/2, -1)})
		require.NoError(t, err)
		assert.InDelta(t, crossed, float64(p.Length()), 1e-9)
	}
}

func TestThreeEqualWheels(t *testing.T) {
	p, err := Lay([]Circle{circle(0, 0, 10, 1), circle(100, 0, 10, 1), circle(50, 50*math.Sqrt(3), 10, 1)})
	require.NoError(t, err)
	assert.InDelta(t, 300+2*math.Pi*10, float64(p.Length()), 1e-9)
	assert.InDelta(t, 2*math.Pi/3, p.Arcs[0].Sweep, 1e-9)
}

// Round a convex polygon with equal wheels the loop is its perimeter plus one
// full circle; the polygon is the convex hull of random points (Andrew's
// monotone chain).
func TestAllInsideAgainstHull(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		pts := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Point {
			return Point{float64(rapid.IntRange(-500, 500).Draw(t, "x")), float64(rapid.IntRange(-500, 500).Draw(t, "y"))}
		}), 3, 9).Draw(t, "points")
		h := hull(pts)
		if len(h) < 3 {
			t.Skip()
		}
		perimeter := 0.0
		cs := make([]Circle, len(h))
		for i, p := range h {
			q := h[(i+1)%len(h)]
			perimeter += math.Hypot(q.X-p.X, q.Y-p.Y)
			cs[i] = circle(p.X, p.Y, 0.25, 1)
		}
		path, err := Lay(cs)
		if err != nil {
			t.Fatal(err)
		}
		if want := perimeter + 2*math.Pi*0.25; math.Abs(float64(path.Length())-want) > 1e-6 {
			t.Fatalf("length %g, hull %g", float64(path.Length()), want)
		}
	})
}

func TestOverlapIsAnError(t *testing.T) {
	_, err := Lay([]Circle{circle(0, 0, 50, 1), circle(20, 0, 10, 1)})
	assert.ErrorContains(t, err, "overlap")
}

func hull(pts []Point) []Point {
	sort.Slice(pts, func(i, j int) bool { return pts[i].X < pts[j].X || pts[i].X == pts[j].X && pts[i].Y < pts[j].Y })
	half := func(pts []Point) []Point {
		var h []Point
		for _, p := range pts {
			for len(h) >= 2 {
				a, b := h[len(h)-2], h[len(h)-1]
				if (b.X-a.X)*(p.Y-a.Y)-(b.Y-a.Y)*(p.X-a.X) > 0 {
					break
				}
				h = h[:len(h)-1]
			}
			h = append(h, p)
		}
		return h
	}
	lower := half(pts)
	rev := make([]Point, len(pts))
	for i, p := range pts {
		rev[len(pts)-1-i] = p
	}
	upper := half(rev)
	if len(lower) < 2 || len(upper) < 2 {
		return nil
	}
	return append(lower[:len(lower)-1], upper[:len(upper)-1]...)
}
