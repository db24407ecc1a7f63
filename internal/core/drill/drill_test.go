package drill_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/virtual"
)

const renew = "renew-timing-belt-r3.latch.json"

func page(name string) (*engine.Index, *procedure.Procedure) {
	d := fixture.Document(name)
	return engine.NewIndex(&d.Engine), &d.Procedure
}

// pages calls f for every page of the demo.
func pages(t *testing.T, f func(t *testing.T, x *engine.Index, p *procedure.Procedure)) {
	files, err := filepath.Glob("../../../demo/*.latch.json")
	require.NoError(t, err)
	require.Greater(t, len(files), 15)
	for _, file := range files {
		name := filepath.Base(file)
		t.Run(strings.TrimSuffix(name, ".latch.json"), func(t *testing.T) {
			t.Parallel()
			x, p := page(name)
			f(t, x, p)
		})
	}
}

func find(t *testing.T, r *drill.Report, family, of string) *drill.Mistake {
	t.Helper()
	i := slices.IndexFunc(r.Mistakes, func(m drill.Mistake) bool { return strings.HasPrefix(m.ID, family+"/"+of+"@") })
	require.GreaterOrEqual(t, i, 0, "%s/%s", family, of)
	return &r.Mistakes[i]
}

// What is worked out from the step of a mistake on, and ended early, is what comes of it on an
// engine that is taken through the page from its first step to its last.
func TestEveryOutcomeAgreesWithARunFromStepOne(t *testing.T) {
	pages(t, func(t *testing.T, x *engine.Index, p *procedure.Procedure) {
		r := drill.Run(t.Context(), x, p, drill.Options{})
		whole := drill.FromStepOne(x, p)
		require.Len(t, whole, len(r.Mistakes))
		for i := range r.Mistakes {
			m := &r.Mistakes[i]
			w := whole[m.ID]
			assert.Equal(t, w.Outcome, m.Outcome, m.ID)
			if len(w.Seen) > 0 && len(m.Seen) > 0 {
				assert.Equal(t, w.Seen[0], m.Seen[0], m.ID)
			}
			assert.Equal(t, len(w.Seen) == 0, len(m.Seen) == 0, m.ID)
		}
	})
}

// A step left out, and two that are exchanged, leave the engine as a page leaves it that is
// written so.
func TestWhatIsLeftOutIsAsIfItWereNotWritten(t *testing.T) {
	pages(t, func(t *testing.T, x *engine.Index, p *procedure.Procedure) {
		if !p.Plain() {
			t.Skip("its steps are not all done on every engine")
		}
		written := func(steps []step.Step) *virtual.State {
			q := *p
			q.Steps = steps
			return virtual.Run(x, &q).Last()
		}
		same := func(a, b *virtual.State, what string, k int) {
			assert.InDelta(t, a.Crank, b.Crank, 1e-6, "%s step %d", what, k+1)
			assert.InDeltaSlice(t, a.Shafts, b.Shafts, 1e-6, "%s step %d", what, k+1)
			assert.Equal(t, []any{a.Locks, a.Fasteners, a.Parts, a.Tensioners}, []any{b.Locks, b.Fasteners, b.Parts, b.Tensioners}, "%s step %d", what, k+1)
			assert.InDelta(t, float64(a.Minutes), float64(b.Minutes), 1e-6, "%s step %d", what, k+1)
		}
		for k, st := range drill.Ends(x, p, "left-out") {
			same(written(slices.Delete(slices.Clone(p.Steps), k, k+1)), st, "without", k)
		}
		for k, st := range drill.Ends(x, p, "exchanged") {
			other := slices.Clone(p.Steps)
			other[k], other[k+1] = other[k+1], other[k]
			same(written(other), st, "exchanged", k)
		}
	})
}

// A page is drilled to the same end every time, its ids are its own, and each mistake has all
// that is said of it.
func TestADrillIsTheSameEveryTime(t *testing.T) {
	pages(t, func(t *testing.T, x *engine.Index, p *procedure.Procedure) {
		a, b := drill.Run(t.Context(), x, p, drill.Options{}), drill.Run(t.Context(), x, p, drill.Options{})
		require.Equal(t, len(a.Mistakes), len(b.Mistakes))
		seen := map[string]bool{}
		caught := 0
		for i := range a.Mistakes {
			m, o := &a.Mistakes[i], &b.Mistakes[i]
			assert.Equal(t, []any{m.ID, m.What.String(), m.Outcome, m.Comes.String(), len(m.Seen)}, []any{o.ID, o.What.String(), o.Outcome, o.Comes.String(), len(o.Seen)})
			assert.False(t, seen[m.ID], m.ID)
			seen[m.ID] = true
			assert.NotEmpty(t, m.Comes.String(), m.ID)
			assert.Equal(t, m.Outcome == drill.Absorbed, m.Severity == 1 && m.Outcome.Good() && m.Why.ID != "" && m.Outcome == drill.Absorbed, m.ID)
			assert.True(t, m.Risk() >= 1 && m.Risk() <= 1000, m.ID)
			assert.NotNil(t, drill.FamilyOf(m.Family.ID))
			if m.Outcome.Good() {
				caught++
			}
		}
		assert.Equal(t, []int{caught, len(a.Mistakes)}, []int{a.Caught, a.Of})
		assert.True(t, a.Whole)
	})
}

// The size of a tooth is 360° over its teeth, by hand: 360/42 = 8.571°, of the crank twice that
// at 1:2; 360/21 = 17.143°. A cam a tooth out stops its bar by as much.
func TestToothByHand(t *testing.T) {
	x, p := page(renew)
	require.Equal(t, []int{21, 42}, []int{x.Wheel("crank-wheel").Teeth, x.Wheel("inlet-wheel").Teeth})
	r := drill.Run(t.Context(), x, p, drill.Options{Only: []string{"tooth"}})
	assert.Equal(t, "8.6°, 17.1° crank", find(t, r, "tooth", "inlet-wheel+1").Size)
	assert.Equal(t, "17.1°", find(t, r, "tooth", "crank-wheel-1").Size)
	assert.Equal(t, drill.Absorbed, find(t, r, "tooth", "inlet-wheel+1").Outcome, "its sprocket is loose when the belt is laid")

	// Twin sprockets that sit fast on their cams: 360/40 = 9°, at the yoke and at the cam.
	x, p = page("renew-belt-in-oil-r1.latch.json")
	require.Equal(t, 40, x.Wheel("inlet-wheel").Teeth)
	m := find(t, drill.Run(t.Context(), x, p, drill.Options{}), "tooth", "inlet-wheel-2")
	assert.Equal(t, "18°, 36° crank", m.Size)
	require.NotEmpty(t, m.Seen)
	assert.Equal(t, "the cam yoke stops 18° short", m.Seen[0].Says.String())
	assert.Equal(t, "the inlet cam is 18° late", m.Comes.String())
}

// A slip of a sprocket is seen by the bar that is tried after the turns: surely from twice its
// play on, perhaps between once and twice, and never below; with that step gone, by nothing.
func TestWhatABarSees(t *testing.T) {
	x, p := page(renew)
	slips := func(p *procedure.Procedure) map[string]*drill.Mistake {
		r := drill.Run(t.Context(), x, p, drill.Options{Only: []string{"slip"}})
		out := map[string]*drill.Mistake{}
		for i := range r.Mistakes {
			id, _, _ := strings.Cut(strings.TrimPrefix(r.Mistakes[i].ID, "slip/"), "@")
			out[id] = &r.Mistakes[i]
		}
		return out
	}
	with := slips(p)
	require.Equal(t, 0.4, x.Lock("cam-bar").Play)
	assert.Equal(t, drill.Caught, with["inlet-wheel+3"].Outcome)
	assert.Equal(t, drill.Caught, with["inlet-wheel-1"].Outcome, "1° is more than twice 0.4°")
	assert.Equal(t, drill.Absorbed, with["inlet-wheel+0.4"].Outcome, "inside what the code passes")

	// A bar of 0.7° play is sure of 1.4°, and may see 1°.
	s := *x.Sheet
	s.Locks = slices.Clone(s.Locks)
	s.Locks[x.LockAt("cam-bar")].Play = 0.7
	s.Limits.CamError = 0.5
	x = engine.NewIndex(&s)
	with = slips(p)
	assert.Equal(t, drill.NotCaught, with["inlet-wheel-1"].Outcome)
	require.NotEmpty(t, with["inlet-wheel-1"].Seen)
	assert.False(t, with["inlet-wheel-1"].Seen[0].Sure)
	assert.Equal(t, drill.Caught, with["inlet-wheel+3"].Outcome)

	without := *p
	without.Steps = slices.DeleteFunc(slices.Clone(p.Steps), func(s step.Step) bool {
		a, ok := s.Action.(*step.Check)
		return ok && slices.Contains(a.Locks, "cam-bar")
	})
	require.Less(t, len(without.Steps), len(p.Steps))
	assert.Equal(t, drill.NotCaught, slips(&without)["inlet-wheel+3"].Outcome)
}

// unmended is a page without the looks that were added for the drill, and with nothing accepted.
func unmended(p *procedure.Procedure) *procedure.Procedure {
	q := *p
	q.Steps = slices.DeleteFunc(slices.Clone(p.Steps), func(s step.Step) bool { return strings.HasPrefix(string(s.ID), "look") })
	for i := range q.Steps {
		q.Steps[i].Accept = slices.DeleteFunc(slices.Clone(q.Steps[i].Accept), func(a step.Acceptance) bool { return strings.HasPrefix(a.Rule, drill.AcceptPrefix) })
	}
	return &q
}

// Every page of the demo that is no draft catches all that a page needs to catch, or says why not.
func TestTheDemoCatchesWhatItNeedsTo(t *testing.T) {
	pages(t, func(t *testing.T, x *engine.Index, p *procedure.Procedure) {
		r := drill.Run(t.Context(), x, p, drill.Options{})
		if strings.HasSuffix(t.Name(), "belt-r4") {
			assert.NotZero(t, r.Missed, "the draft has its mistakes on purpose")
			return
		}
		for i := range r.Mistakes {
			assert.False(t, r.Mistakes[i].Missed(), r.Mistakes[i].ID)
		}
	})
}

// A mistake may be kept with a reason at the step it is made at, alone or with all of its
// family there; one that is caught is not kept, and a reason for another step keeps nothing.
func TestAccepted(t *testing.T) {
	x, p := page("renew-belt-in-oil-r1.latch.json")
	with := func(rule string, at step.ID) *drill.Report {
		q := *unmended(p)
		q.Steps[q.At(at)].Accept = []step.Acceptance{{Rule: rule, Reason: "because"}}
		return drill.Run(t.Context(), x, &q, drill.Options{Only: []string{"tooth"}})
	}
	none := with("drill/tooth", "t07")
	require.Equal(t, 12, none.Missed)
	assert.Zero(t, none.Accepted)
	one := with("drill/tooth/inlet-wheel+1", "t24")
	assert.Equal(t, []int{11, 1}, []int{one.Missed, one.Accepted})
	assert.Equal(t, "because", find(t, one, "tooth", "inlet-wheel+1").Accepted)
	all := with("drill/tooth", "t24")
	assert.Equal(t, []int{0, 12}, []int{all.Missed, all.Accepted})
	assert.Equal(t, none.Caught, all.Caught, "kept is not caught")
}

// A crank that stands a turn further on when cams are laid anew is in step: it looks the same
// after each turn.
func TestACrankIsCountedFromEitherTurn(t *testing.T) {
	x, p := page("lay-in-camshaft-r1.latch.json")
	m := find(t, drill.Run(t.Context(), x, p, drill.Options{}), "stroke", "crank")
	assert.Equal(t, drill.Absorbed, m.Outcome, m.Comes.String())
}

// What the concept of the trade calls each outcome, on pages of the demo.
func TestOutcomesByName(t *testing.T) {
	for _, c := range []struct {
		page, family, of string
		want             drill.Outcome
	}{
		{renew, "stroke", "crank", drill.Stopped},
		{renew, "stop", "crank-pin-4", drill.Stopped},
		{renew, "left-in", "flywheel-lock", drill.ByForce},
		{renew, "lock", "crank-pin", drill.Stopped},
		{renew, "left-off", "block-plug", drill.Stopped},
		{renew, "old", "timing-belt", drill.NotCaught},
		{renew, "value", "crank-bolt-angle", drill.NotCaught},
		{"renew-belt-both-banks-r1.latch.json", "left-in", "pump-pin", drill.ByForce},
		{"renew-belt-in-oil-r1.latch.json", "tooth", "inlet-wheel+1", drill.Late},
		{"renew-belt-in-oil-r1.latch.json", "left-in", "tensioner", drill.Late},
	} {
		x, p := page(c.page)
		p = unmended(p)
		assert.Equal(t, c.want, find(t, drill.Run(t.Context(), x, p, drill.Options{}), c.family, c.of).Outcome, "%+v", c)
	}
}

// Every mend that is offered catches its mistake and raises no finding; what a page needs to
// catch is settled by them, or named.
func TestMendsCatch(t *testing.T) {
	pages(t, func(t *testing.T, x *engine.Index, p *procedure.Procedure) {
		p = unmended(p)
		house := finding.DefaultHouse()
		before := pageproof.Found(x, p, nil, house)
		settled := drill.Settle(t.Context(), x, p, house, nil)
		left, q := settled.Left, p
		for _, m := range settled.Mends {
			n, _, err := procedure.Apply(q, m.Edits)
			require.NoError(t, err)
			q = n
		}
		r := drill.Run(t.Context(), x, q, drill.Options{})
		missed := 0
		for i := range r.Mistakes {
			m := &r.Mistakes[i]
			if m.Missed() {
				missed++
				assert.True(t, slices.ContainsFunc(left, func(o drill.Mistake) bool { return o.ID == m.ID }), "%s is missed and not named", m.ID)
			}
		}
		assert.Equal(t, missed, r.Missed)
		assert.LessOrEqual(t, len(pageproof.Found(x, q, nil, house)), len(before))
	})
}

// A drill that is called off has what it has; one family alone is drilled alone.
func TestADrillCanBeCalledOff(t *testing.T) {
	x, p := page(renew)
	ctx, stop := context.WithCancel(t.Context())
	r := drill.Run(ctx, x, p, drill.Options{Each: func(done, of int) {
		if done == 10 {
			stop()
		}
		assert.Greater(t, of, 100)
	}})
	assert.False(t, r.Whole)
	assert.Len(t, r.Mistakes, 10)
	for _, m := range drill.Run(t.Context(), x, p, drill.Options{Only: []string{"bolt"}}).Mistakes {
		assert.Equal(t, "bolt", m.Family.ID)
	}
}

// TestPrint lists what a page does not catch, for who works on the drill: DRILL=PAGE.
func TestPrint(t *testing.T) {
	name := os.Getenv("DRILL")
	if name == "" {
		t.Skip("DRILL names no page")
	}
	x, p := page(name)
	r := drill.Run(t.Context(), x, p, drill.Options{})
	for i := range r.Mistakes {
		m := &r.Mistakes[i]
		fmt.Printf("%-10s step %-3d %s %s: %s\n", m.Outcome, m.Place+1, m.What, m.Size, m.Comes)
	}
}

// BenchmarkDrill200 is a page of 200 steps with some 300 mistakes and more.
func BenchmarkDrill200(b *testing.B) {
	x, p := page(renew)
	long := *p
	for len(long.Steps) < 200 {
		for i := range p.Steps {
			if len(long.Steps) == 200 {
				break
			}
			if p.Steps[i].Action.Verb() == "inspect" || p.Steps[i].Action.Verb() == "check" {
				s := p.Steps[i]
				s.ID = step.ID(fmt.Sprintf("more-%d", len(long.Steps)))
				long.Steps = append(long.Steps, s)
			}
		}
	}
	n := 0
	for b.Loop() {
		n = drill.Run(b.Context(), x, &long, drill.Options{}).Of
	}
	b.ReportMetric(float64(n), "mistakes")
}

// A page on a sheet that is not its own, with things that are not there and steps left out, is
// drilled to its end.
func TestADrillOfAnythingEnds(t *testing.T) {
	files, err := filepath.Glob("../../../demo/*.latch.json")
	require.NoError(t, err)
	var sheets []*engine.Index
	for _, f := range files {
		x, _ := page(filepath.Base(f))
		sheets = append(sheets, x)
	}
	sheets = append(sheets, engine.NewIndex(&engine.Sheet{}))
	pages(t, func(t *testing.T, _ *engine.Index, p *procedure.Procedure) {
		for i, x := range sheets {
			for _, every := range []int{1, 2, 3} {
				q := *p
				q.Steps = nil
				for k := range p.Steps {
					if every == 1 || (k+i)%every != 0 {
						q.Steps = append(q.Steps, p.Steps[k])
					}
				}
				r := drill.Run(t.Context(), x, &q, drill.Options{})
				assert.True(t, r.Whole)
				for k := range r.Mistakes {
					assert.NotEmpty(t, r.Mistakes[k].Outcome)
				}
			}
		}
	})
}

// Each step of a page done alone, and a page of none, are drilled too.
func TestADrillOfLittle(t *testing.T) {
	x, p := page(renew)
	for k := range p.Steps {
		q := *p
		q.Steps = p.Steps[k : k+1]
		assert.True(t, drill.Run(t.Context(), x, &q, drill.Options{}).Whole)
	}
	q := *p
	q.Steps = nil
	r := drill.Run(t.Context(), x, &q, drill.Options{})
	assert.Equal(t, []any{0, true}, []any{r.Of, r.Whole})
	assert.Empty(t, drill.Settle(t.Context(), x, &q, finding.DefaultHouse(), nil))
}

// Two mistakes at once: the same pairs every time, each of them noticed alone; a tooth out at the
// crank and the same the other way at a cam is a tooth out still, and noticed.
func TestPairs(t *testing.T) {
	pages(t, func(t *testing.T, x *engine.Index, p *procedure.Procedure) {
		through, tried := drill.Pairs(t.Context(), x, p, 60, nil)
		again, n := drill.Pairs(t.Context(), x, p, 60, nil)
		require.Equal(t, tried, n)
		require.Len(t, again, len(through))
		assert.LessOrEqual(t, tried, 60)
		for i := range through {
			a, b := &through[i], &again[i]
			assert.Equal(t, []string{a.First.ID, a.Second.ID}, []string{b.First.ID, b.Second.ID})
			assert.True(t, a.First.Outcome.Good() && a.Second.Outcome.Good(), "each is noticed alone")
			assert.False(t, a.Outcome.Good())
		}
		t.Logf("%d of %d", len(through), tried)
		for i := range through {
			t.Log(through[i].First.What, "+", through[i].Second.What, ":", through[i].Outcome, through[i].Comes)
		}
	})
	ctx, stop := context.WithCancel(t.Context())
	stop()
	x, p := page(renew)
	_, tried := drill.Pairs(ctx, x, p, 60, nil)
	assert.Zero(t, tried)
}

// A house leaves families out, makes them larger and says how much of each a page has to catch.
func TestHouseOfFamilies(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	ours := drill.Run(t.Context(), x, &d.Procedure, drill.Options{})
	of := func(r *drill.Report, family string) (out []*drill.Mistake) {
		for i := range r.Mistakes {
			if r.Mistakes[i].Family.ID == family {
				out = append(out, &r.Mistakes[i])
			}
		}
		return out
	}
	house := drill.House{
		"old":   {Off: true, Occurrence: 1},
		"tooth": {Least: 100, Occurrence: 9, Sizes: []float64{1, 2, 3}},
		"value": {Least: 100, Occurrence: 5},
	}
	require.Empty(t, house.Check())
	r := drill.Run(t.Context(), x, &d.Procedure, drill.Options{House: house})
	assert.NotEmpty(t, of(ours, "old"))
	assert.Empty(t, of(r, "old"))
	assert.Equal(t, 3*len(of(ours, "tooth")), 2*len(of(r, "tooth")), "three sizes for two")
	for _, m := range of(r, "tooth") {
		assert.Equal(t, 9, m.Family.Occurrence)
		assert.Equal(t, m.Severity*9*m.Detection(), m.Risk())
	}
	missed := func(ms []*drill.Mistake) (n int) {
		for _, m := range ms {
			if m.Missed() {
				n++
			}
		}
		return n
	}
	assert.Zero(t, missed(of(ours, "value")), "nothing is asked of them")
	assert.NotZero(t, missed(of(r, "value")), "all are asked for")
	assert.Equal(t, r.Missed, missed(of(r, "value")))
	some := "" // a family of which the page catches a part
	for i := range drill.Families {
		id, good := drill.Families[i].ID, 0
		all := of(ours, id)
		for _, m := range all {
			if m.Outcome.Good() {
				good++
			}
		}
		if good > 0 && good < len(all) {
			some = id
		}
	}
	require.NotEmpty(t, some)
	for least, short := range map[int]bool{1: false, 100: true} {
		r := drill.Run(t.Context(), x, &d.Procedure, drill.Options{House: drill.House{some: {Least: least, Occurrence: 1}}})
		assert.Equal(t, short, missed(of(r, some)) > 0, "%d %% of %s", least, some)
	}

	three := of(r, "tooth")[len(of(r, "tooth"))-1]
	assert.NotEmpty(t, drill.Film(x, &d.Procedure, three), "a size of the house has its film too")
	for id, v := range map[string]drill.HouseFamily{"tooth": {Least: -1, Occurrence: 1}, "stop": {Occurrence: 0}, "none": {Occurrence: 1}} {
		assert.Len(t, drill.House{id: v}.Check(), 1, id)
	}
}

// With a looser tool that may stand in for one of the sheet, a page misses what only that tool
// is too loose to see; what other looks see, and what nothing sees, stays as it was.
func TestAToolThatStandsInMissesMore(t *testing.T) {
	x, p := page(renew)
	tooth := func(play float64) *drill.Report {
		s := *x.Sheet
		s.Tools = slices.Clone(s.Tools)
		for i := range s.Tools {
			s.Tools[i].Equivalents = nil
			if play > 0 && s.Tools[i].ID == "tl-102" {
				s.Tools[i].Equivalents = []engine.Equivalent{{Number: "TL-909", Play: play}}
			}
		}
		return drill.Run(t.Context(), engine.NewIndex(&s), p, drill.Options{})
	}
	own, tight, loose := tooth(0), tooth(0.4), tooth(12)
	assert.Equal(t, own.Caught, tight.Caught, "no looser than the bar itself")
	require.Len(t, loose.Mistakes, len(own.Mistakes))
	worse := 0
	for i := range own.Mistakes {
		a, b := &own.Mistakes[i], &loose.Mistakes[i]
		require.Equal(t, a.ID, b.ID)
		if a.Outcome == b.Outcome {
			continue
		}
		worse++
		assert.Equal(t, "with TL-909 in place of TL-102", b.On.String(), b.ID)
		assert.Less(t, slices.Index(a.Outcome.Choices(), string(a.Outcome)), slices.Index(a.Outcome.Choices(), string(b.Outcome)), b.ID)
	}
	assert.NotZero(t, worse)
	assert.Less(t, loose.Caught, own.Caught)
}

// The families that were added last, on pages where they can be made.
func TestEarlyPassedOverPhaserAndReversed(t *testing.T) {
	of := func(page_, family, id string, change func(p *procedure.Procedure)) *drill.Mistake {
		x, p := page(page_)
		if change != nil {
			p = unmended(p)
			change(p)
		}
		return find(t, drill.Run(t.Context(), x, p, drill.Options{Only: []string{family}}), family, id)
	}
	// Locks that come out before the belt is tight, sprockets clamped before it lies tight.
	m := of(renew, "early", "s33-6", nil)
	assert.Equal(t, []any{drill.NotCaught, "6 steps", 8}, []any{m.Outcome, m.Size, m.Severity}, m.Comes.String())
	assert.Equal(t, 27, m.Place+1, "it is made where it is done, not where it is written")
	// A pin that is pulled before its chain is on.
	m = of("renew-chain-unkeyed-r1.latch.json", "early", "f21-6", nil)
	assert.Equal(t, drill.ByForce, m.Outcome)
	// A phaser 3° off its stop: its cam comes out by so much, the way the stop lies.
	m = of("renew-belt-in-oil-r1.latch.json", "phaser", "inlet-wheel-3", nil)
	assert.Equal(t, "the inlet cam is 3° late", m.Comes.String(), "its home is late")
	m = of("renew-belt-in-oil-r1.latch.json", "phaser", "exhaust-wheel-3", nil)
	assert.Equal(t, "the exhaust cam is 3° early", m.Comes.String(), "its home is early")
	// What is to be done when a look fails is passed over, on an engine where it does.
	m = of("renew-chain-unkeyed-r1.latch.json", "passed-over", "if-not", nil)
	assert.Equal(t, []any{drill.Stopped, "found a turn further in its cycle"}, []any{m.Outcome, m.On.String()})
	// A used belt the other way round, which only its own marks show.
	used := func(p *procedure.Procedure) {
		for i := range p.Steps {
			if a, ok := p.Steps[i].Action.(*step.Fit); ok {
				v := *a
				v.New = false
				p.Steps[i].Action = &v
			}
		}
	}
	m = of(renew, "reversed", "timing-belt", used)
	assert.Equal(t, []any{drill.NotCaught, 5}, []any{m.Outcome, m.Severity}, m.Comes.String())
}

// What cannot be done at all is no mistake that a page catches: a pin is not taken out before it
// is in.
func TestNothingIsDoneEarlyThatCannotBe(t *testing.T) {
	x, p := page("set-pump-by-lift-r1.latch.json")
	for _, m := range drill.Run(t.Context(), x, p, drill.Options{Only: []string{"early"}}).Mistakes {
		assert.NotContains(t, m.ID, "early/d11-6@d05")
	}
}

// The set that settles all is the least of the looks that were tried: no fewer of them catch what
// these do.
func TestTheLeastSetSettlesAll(t *testing.T) {
	house := finding.DefaultHouse()
	pages(t, func(t *testing.T, x *engine.Index, p *procedure.Procedure) {
		p = unmended(p)
		s := drill.Settle(t.Context(), x, p, house, nil)
		assert.LessOrEqual(t, s.AtLeast, len(s.Mends))
		if len(s.Mends) > 1 {
			assert.Positive(t, s.AtLeast)
		}
		if len(s.Mends) == 0 {
			assert.Zero(t, s.AtLeast)
		}
	})
	// By hand: of five things and the sets that hold them, two hold all, though the largest set
	// is not among them.
	took, atLeast := drill.Cover(6, [][]int{{1, 2, 3, 4}, {0, 1, 2}, {3, 4, 5}, {0}, {5}})
	assert.Equal(t, []int{1, 2}, took)
	assert.Equal(t, 2, atLeast)
	took, atLeast = drill.Cover(3, [][]int{{0}, {0, 1}})
	assert.Equal(t, []int{1}, took, "what no set holds is left")
	assert.Equal(t, 1, atLeast)
	took, atLeast = drill.Cover(0, nil)
	assert.Empty(t, took)
	assert.Zero(t, atLeast)
}

// The least cover is the least: no smaller one is found by trying all.
func TestCoverIsTheLeast(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 9).Draw(t, "n")
		sets := rapid.SliceOfN(rapid.SliceOfN(rapid.IntRange(0, n-1), 1, 4), 1, 8).Draw(t, "sets")
		can := map[int]bool{}
		for _, s := range sets {
			for _, e := range s {
				can[e] = true
			}
		}
		best := len(sets)
		for mask := range 1 << len(sets) {
			got, k := map[int]bool{}, 0
			for i, s := range sets {
				if mask&(1<<i) != 0 {
					k++
					for _, e := range s {
						got[e] = true
					}
				}
			}
			if len(got) == len(can) && k < best {
				best = k
			}
		}
		took, atLeast := drill.Cover(n, sets)
		require.Len(t, took, best)
		require.Equal(t, best, atLeast)
		got := map[int]bool{}
		for _, i := range took {
			for _, e := range sets[i] {
				got[e] = true
			}
		}
		require.Equal(t, can, got)
	})
}

// Beside looks that are added, a look comes sooner, and what came out too early is looked for.
func TestMendsThatAreNotLooks(t *testing.T) {
	house := finding.DefaultHouse()
	says := func(x *engine.Index, p *procedure.Procedure, family, of string) (out []string) {
		m := find(t, drill.Run(t.Context(), x, p, drill.Options{}), family, of)
		require.False(t, m.Outcome.Good(), m.Outcome)
		for _, v := range drill.Mends(t.Context(), x, p, m, house) {
			out = append(out, v.Label)
		}
		return out
	}
	x, p := page("set-pump-by-lift-r1.latch.json")
	q, _, err := procedure.Apply(p, []procedure.Edit{{Op: procedure.Move, ID: "d13", After: "d16", Phase: p.Steps[p.At("d16")].Phase}})
	require.NoError(t, err)
	assert.Equal(t, "Move step 17 before step 16", says(x, q, "stroke", "crank")[0], "the look comes behind a cover")
	x, p = page(renew)
	assert.Equal(t, "Look whether all of them are in, before step 31", says(x, p, "early", "s33-3")[0])
}
