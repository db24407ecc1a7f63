package resolution

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
)

// What a tooth on a wheel moves is what turns otherwise when that wheel has a tooth more
// or less in its ratio, found by turning every shaft of the demo with the wheel counted
// once with its teeth and once a tooth on: the same shafts, and no others.
func TestAToothMovesWhatHangsOnIt(t *testing.T) {
	seen := 0
	for _, name := range fixture.Documents() {
		f := fixture.Document(name)
		x := engine.NewIndex(&f.Engine)
		for _, v := range Teeth(x) {
			w := x.WheelAt(v.Wheel)
			off := Moved(x, w, 360)
			for i := range x.Sheet.Shafts {
				d := x.Drive(i)
				if !d.Driven || i == x.ShaftAt(engine.CrankID) {
					assert.NotContains(t, off, x.Sheet.Shafts[i].ID)
					continue
				}
				s := *x.Sheet
				s.Wheels = append([]engine.Wheel{}, s.Wheels...)
				s.Wheels[w].Teeth++
				was, is := d.Ratio.Float(), engine.NewIndex(&s).Drive(i).Ratio.Float()
				// An idle gear in the chain changes no ratio and still moves what is behind it.
				if math.Abs(was-is) > 1e-12 {
					seen++
					assert.Contains(t, off, x.Sheet.Shafts[i].ID, "%s: %s", f.Engine.Code, v.Wheel)
				}
			}
		}
	}
	assert.Greater(t, seen, 20)
}
