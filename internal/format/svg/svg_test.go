package svg_test

import (
	"encoding/xml"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/demo"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/drawing"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/virtual"
	"inklatch/internal/format/svg"
)

// elements counts the elements of a picture, and holds it to well-formed XML.
func elements(t *testing.T, b []byte) map[string]int {
	t.Helper()
	out := map[string]int{}
	d := xml.NewDecoder(strings.NewReader(string(b)))
	for {
		tok, err := d.Token()
		if err == io.EOF {
			return out
		}
		require.NoError(t, err)
		if e, ok := tok.(xml.StartElement); ok {
			out[e.Name.Local]++
			for _, a := range e.Attr {
				assert.NotContains(t, a.Value, "NaN")
				assert.NotContains(t, a.Value, "Inf")
			}
		}
	}
}

func TestEverySheetAtEveryStep(t *testing.T) {
	for _, f := range []string{"renew-timing-belt-r3.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-chain-r1.latch.json", "renew-both-belts-r1.latch.json", "renew-cam-chain-r1.latch.json", "renew-belts-at-rest-r1.latch.json", "renew-chain-two-actuators-r1.latch.json"} {
		d := demo.Document(f)
		x := engine.NewIndex(&d.Engine)
		bare, err := svg.Draw(x, svg.Options{})
		require.NoError(t, err)
		assert.Zero(t, elements(t, bare)["text"])
		named, err := svg.Draw(x, svg.Options{Labels: true})
		require.NoError(t, err)
		assert.Positive(t, elements(t, named)["text"])
		tr := virtual.Run(x, &d.Procedure)
		for i := range len(tr.Steps) + 1 {
			b, err := svg.Draw(x, svg.Options{Labels: i%2 == 0, State: tr.Before(i)})
			require.NoError(t, err)
			elements(t, b)
			again, err := svg.Draw(x, svg.Options{Labels: i%2 == 0, State: tr.Before(i)})
			require.NoError(t, err)
			assert.Equal(t, string(b), string(again), "the same picture twice")
		}
	}
}

func TestWhatIsHeldIsHatched(t *testing.T) {
	d := demo.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	tr := virtual.Run(x, &d.Procedure)
	first, err := svg.Draw(x, svg.Options{State: &tr.First})
	require.NoError(t, err)
	assert.NotContains(t, string(first), `fill="url(#held)"`)
	held := 0
	for i := range tr.Steps {
		b, err := svg.Draw(x, svg.Options{State: &tr.Steps[i].After})
		require.NoError(t, err)
		held = max(held, strings.Count(string(b), `fill="url(#held)" stroke="#131c26"`))
	}
	assert.Equal(t, 3, held, "crank and both cams")
}

// A close-up shows the wheels it is about, with their names and the locks that are
// in, and is a whole picture of its own.
func TestACloseUp(t *testing.T) {
	d := demo.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	tr := virtual.Run(x, &d.Procedure)
	for _, v := range document.Pictures(x, &d.Procedure, tr) {
		b, err := svg.Draw(x, svg.Options{State: v.State, Focus: v.Wheels, ID: "x"})
		require.NoError(t, err)
		require.NoError(t, xml.Unmarshal(b, new(struct{ XMLName xml.Name })))
		assert.Contains(t, string(b), `id="heldx"`)
		for _, id := range v.Wheels {
			if w := x.Wheel(id); w.Mount != engine.Rail && !strings.Contains(string(b), "<text") {
				assert.Fail(t, "no name in it", v.Says)
			}
		}
	}
	whole, err := svg.Draw(x, svg.Options{Focus: []engine.WheelID{"gone"}})
	require.NoError(t, err, "a wheel that is not drawn leaves the whole of it")
	assert.NotContains(t, string(whole), "<text")
}

func TestNamesAreEscapedAndNothingIsAnError(t *testing.T) {
	d := demo.Document("renew-timing-belt-r3.latch.json")
	d.Engine.Wheels[1].Name = `<script>"&'`
	b, err := svg.Draw(engine.NewIndex(&d.Engine), svg.Options{Labels: true, Title: "<b>"})
	require.NoError(t, err)
	assert.NotContains(t, string(b), "<script")
	assert.NotContains(t, string(b), "<b>")
	elements(t, b)
	d.Engine.Wheels[2].Name = ""
	_, err = svg.Draw(engine.NewIndex(&d.Engine), svg.Options{Labels: true})
	require.NoError(t, err)
	_, err = svg.Draw(engine.NewIndex(&engine.Sheet{}), svg.Options{})
	assert.ErrorIs(t, err, svg.ErrEmpty)
	_, err = svg.Draw(engine.NewIndex(&engine.Sheet{Wheels: []engine.Wheel{{Mount: engine.Rail}}}), svg.Options{})
	assert.ErrorIs(t, err, svg.ErrEmpty)
}

// Names keep within the picture and clear of one another, however many wheels stand
// low on one side.
func TestNamesKeepWithinThePicture(t *testing.T) {
	for _, f := range []string{"renew-timing-chain-r1.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-belt-r3.latch.json", "renew-both-belts-r1.latch.json"} {
		d := demo.Document(f)
		b, err := svg.Draw(engine.NewIndex(&d.Engine), svg.Options{Labels: true})
		require.NoError(t, err)
		var box struct {
			ViewBox string `xml:"viewBox,attr"`
			G       []struct {
				Anchor string `xml:"text-anchor,attr"`
				Text   []struct {
					Y    float64 `xml:"y,attr"`
					Size float64 `xml:"font-size,attr"`
				} `xml:"text"`
			} `xml:"g"`
		}
		require.NoError(t, xml.Unmarshal(b, &box))
		var x, y, w, h float64
		_, err = fmt.Sscan(box.ViewBox, &x, &y, &w, &h)
		require.NoError(t, err)
		last, names := map[string]float64{}, 0
		for _, g := range box.G {
			for i, v := range g.Text {
				names++
				assert.GreaterOrEqual(t, v.Y-v.Size, y-0.01, f)
				assert.LessOrEqual(t, v.Y, y+h+0.01, f)
				if at, ok := last[g.Anchor]; ok && i == 0 {
					assert.GreaterOrEqual(t, v.Y-at, v.Size, "%s: one name on another", f)
				}
				last[g.Anchor] = v.Y
			}
		}
		assert.Greater(t, names, 8)
	}
}

// In a close-up every name stands in the picture, whole, once, in its wheel where that
// has room for it, and no two lie over one another.
func TestNamesInACloseUpDoNotMeet(t *testing.T) {
	type box struct {
		x0, y0, x1, y1 float64
		says           string
	}
	in, broken, all := 0, 0, 0
	for _, f := range []string{"renew-timing-chain-r1.latch.json", "renew-belt-both-banks-r1.latch.json", "renew-timing-belt-r3.latch.json", "renew-both-belts-r1.latch.json", "renew-belt-in-oil-r1.latch.json", "renew-cam-chain-r1.latch.json", "renew-chain-two-actuators-r1.latch.json", "renew-belts-at-rest-r1.latch.json"} {
		d := demo.Document(f)
		x := engine.NewIndex(&d.Engine)
		wheels := drawing.Of(x).Wheels
		tr := virtual.Run(x, &d.Procedure)
		for _, v := range document.Pictures(x, &d.Procedure, tr) {
			b, err := svg.Draw(x, svg.Options{State: v.State, Focus: v.Wheels, ID: "x"})
			require.NoError(t, err)
			var drawn struct {
				ViewBox string `xml:"viewBox,attr"`
				Text    []struct {
					Size float64 `xml:"font-size,attr"`
					Line []struct {
						X    float64 `xml:"x,attr"`
						Y    float64 `xml:"y,attr"`
						Says string  `xml:",chardata"`
					} `xml:"tspan"`
				} `xml:"text"`
			}
			require.NoError(t, xml.Unmarshal(b, &drawn))
			var left, top, w, h float64
			_, err = fmt.Sscan(drawn.ViewBox, &left, &top, &w, &h)
			require.NoError(t, err)
			var placed []box
			for _, name := range drawn.Text {
				if len(name.Line) == 0 {
					continue
				}
				all++
				var words []string
				own := box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1), ""}
				for _, l := range name.Line {
					half := 0.5 * 0.56 * name.Size * float64(len([]rune(l.Says)))
					own = box{min(own.x0, l.X-half), min(own.y0, l.Y-0.7*name.Size), max(own.x1, l.X+half), max(own.y1, l.Y), ""}
					words = append(words, l.Says)
				}
				own.says = strings.Join(words, " ")
				at := slices.IndexFunc(wheels, func(q drawing.Wheel) bool {
					return strings.EqualFold(q.Label, own.says) && slices.Contains(v.Wheels, engine.WheelID(q.ID))
				})
				require.GreaterOrEqual(t, at, 0, "%s: %q is the name of a wheel, whole", f, own.says)
				assert.True(t, own.x0 >= left-0.1 && own.x1 <= left+w+0.1 && own.y0 >= top-0.1 && own.y1 <= top+h+0.1, "%s, %s: %q leaves the picture", f, v.Says, own.says)
				for _, o := range placed {
					assert.False(t, own.x0 < o.x1 && o.x0 < own.x1 && own.y0 < o.y1 && o.y0 < own.y1, "%s, %s: %q lies over %q", f, v.Says, own.says, o.says)
				}
				placed = append(placed, own)
				for i := range wheels {
					if o := &wheels[i]; i != at && !o.Hidden && slices.Contains(v.Wheels, engine.WheelID(o.ID)) {
						assert.False(t, own.x0 < o.X && o.X < own.x1 && own.y0 < o.Y && o.Y < own.y1, "%s, %s: %q lies over the middle of %q", f, v.Says, own.says, o.Label)
					}
				}
				if math.Hypot((own.x0+own.x1)/2-wheels[at].X, own.y1-wheels[at].Y) < wheels[at].R {
					in++
				}
				broken += len(name.Line) - 1
			}
		}
	}
	assert.Positive(t, in)
	assert.Positive(t, broken, "a long name stands in two lines")
	t.Logf("%d names, %d of them in their wheels, %d broken", all, in, broken)
}
