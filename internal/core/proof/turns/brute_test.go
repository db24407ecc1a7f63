package turns

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/virtual"
)

// At which counts a row is home is what turning every shaft, count by count, from where
// it stood says: for any teeth, any places of marks and locks, and any standing of the
// shafts when the loop went on.
func TestRowsAgainstCounting(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		s := engine.Sheet{Cycle: engine.FourStroke, Running: engine.Clockwise, Shafts: []engine.Shaft{{ID: engine.CrankID, Name: "crank", Kind: engine.Crankshaft}}}
		s.Wheels = []engine.Wheel{{ID: "w0", Name: "crank", Shaft: engine.CrankID, Mount: engine.Keyed, Teeth: rapid.IntRange(12, 30).Draw(r, "crank teeth")}}
		l := engine.Loop{ID: "l", Name: "chain", Kind: engine.Chain, Teeth: 120, Pitch: 8, Route: []engine.Stop{{Wheel: "w0", Side: engine.Inside}}}
		for i := range rapid.IntRange(1, 3).Draw(r, "shafts") {
			id := fmt.Sprintf("s%d", i+1)
			s.Shafts = append(s.Shafts, engine.Shaft{ID: engine.ShaftID(id), Name: id, Kind: engine.Camshaft})
			s.Wheels = append(s.Wheels, engine.Wheel{ID: engine.WheelID("w" + id), Name: id, Shaft: engine.ShaftID(id), Mount: engine.Keyed, Teeth: rapid.IntRange(12, 60).Draw(r, "teeth")})
			l.Route = append(l.Route, engine.Stop{Wheel: engine.WheelID("w" + id), Side: rapid.SampledFrom([]engine.Side{engine.Inside, engine.Back}).Draw(r, "side")})
			s.Marks = append(s.Marks, engine.Mark{ID: engine.MarkID("m" + id), Name: id, Kind: engine.TimingMark, Wheel: engine.WheelID("w" + id), At: float64(rapid.IntRange(0, 11).Draw(r, "mark at")) * 30})
		}
		both := engine.Lock{ID: "lock", Name: "lock", Kind: engine.PinLock, Holds: []engine.ShaftID{engine.CrankID, "s1"}, Repeats: rapid.IntRange(1, 2).Draw(r, "repeats")}
		s.Locks = []engine.Lock{both}
		s.Loops = []engine.Loop{l}
		x := engine.NewIndex(&s)
		st := virtual.NewMachine(x).State()
		crank := rapid.IntRange(-4, 4).Draw(r, "crank stands at, turns")
		for i := range s.Shafts {
			// Whole parts of the finest tooth: where a loop can be laid.
			st.Shafts[i] = float64(rapid.IntRange(0, 23).Draw(r, "stands at")) * 15
		}
		st.Shafts[0] = float64(crank) * 360
		st.Crank = st.Shafts[0]
		for _, row := range rows(x, st) {
			for n := range int64(130) {
				want := true
				stand := func(i int, at, period float64) {
					want = want && math.Abs(math.Remainder(st.Shafts[i]+360*float64(n)*x.Drive(i).Ratio.Float()-at, period)) < 0.05
				}
				if row.Kind == "lock" {
					stand(0, 0, 360/float64(both.Repeats))
					stand(1, 0, 360/float64(both.Repeats))
				} else {
					m := x.Mark(engine.MarkID(row.Ref[len("mark:"):]))
					stand(x.ShaftAt(x.MarkShaft(m)), m.At, 360)
				}
				require.Equal(r, want, row.homeAt(n), "%s after %d turns", row.Ref, n)
			}
		}
	})
}
