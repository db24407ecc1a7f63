package document_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
	"inklatch/internal/core/virtual"
)

func laid(name string) (*engine.Index, *fixture.File, *document.Page) {
	d := fixture.Document(name)
	x := engine.NewIndex(&d.Engine)
	return x, d, document.Of(x, &d.Procedure)
}

// Every step of every page stands on it once, in its order, with its cautions
// before it; no heading is empty or says the same as the one above it.
func TestEveryStepStandsOnThePageOnce(t *testing.T) {
	for _, f := range fixture.Documents() {
		t.Run(f, func(t *testing.T) {
			_, d, p := laid(f)
			n := 0
			for i, ph := range p.Phases {
				require.NotEmpty(t, ph.Steps, ph.Name)
				assert.NotEmpty(t, ph.Name)
				assert.True(t, i == 0 || p.Phases[i-1].Name != ph.Name, "%s twice", ph.Name)
				for _, s := range ph.Steps {
					of := d.Procedure.Steps[n]
					n++
					assert.Equal(t, n, s.Number)
					assert.NotEmpty(t, s.Text)
					assert.Equal(t, of.Note, s.Note)
					require.Len(t, s.Cautions, len(of.Cautions))
					for k, c := range of.Cautions {
						assert.Equal(t, c.Text, s.Cautions[k])
					}
				}
			}
			assert.Equal(t, len(d.Procedure.Steps), n)
		})
	}
}

// The torque table has each tightening of each bolt with its step, and the same
// figures that the step's own sentence says.
func TestTheTorqueTableSaysWhatTheStepsSay(t *testing.T) {
	for _, f := range fixture.Documents() {
		t.Run(f, func(t *testing.T) {
			x, d, p := laid(f)
			want := 0
			for i := range d.Procedure.Steps {
				st := &d.Procedure.Steps[i]
				sentence := en.Sentence(x, st.Action)
				for _, v := range st.Torques() {
					want += len(v.Fasteners)
					for _, id := range v.Fasteners {
						k := slices.IndexFunc(p.Torque, func(l document.Torque) bool {
							return l.Step == i+1 && l.Name == x.Fastener(id).Name && l.For == v.When.Said()
						})
						require.GreaterOrEqual(t, k, 0, "step %d, %s", i+1, id)
						figures(t, &p.Torque[k], x.Fastener(id), v.Stages, sentence)
					}
				}
			}
			assert.Len(t, p.Torque, want)
		})
	}
}

// figures holds a line of the torque table against its stages and the sentence of
// its step.
func figures(t *testing.T, line *document.Torque, f *engine.Fastener, stages []engine.Stage, sentence string) {
	assert.Equal(t, max(f.Count, 1), line.Count)
	assert.Equal(t, f.Thread, line.Thread)
	for _, st := range stages {
		if st.Torque.IsZero() {
			assert.Contains(t, line.Value, st.Angle.String())
			assert.Contains(t, line.Other, st.Angle.String(), "an angle is the same in both systems")
			continue
		}
		assert.Contains(t, line.Value, st.Torque.First().String())
		for part := range strings.SplitSeq(line.Other, " + ") {
			if !strings.Contains(part, "°") {
				figure, _, _ := strings.Cut(part, " ")
				assert.Contains(t, sentence, figure, "one figure once")
			}
		}
	}
}

// Swapped puts the other unit system first, and swapped again it is as before.
func TestSwappedTwiceIsAsBefore(t *testing.T) {
	_, _, p := laid("renew-timing-belt-r4.latch.json")
	require.NotEmpty(t, p.Torque)
	before := slices.Clone(p.Torque)
	p.Swapped()
	for i, l := range p.Torque {
		assert.Equal(t, before[i].Value, l.Other)
		assert.Equal(t, before[i].Other, l.Value)
	}
	p.Swapped()
	assert.Equal(t, before, p.Torque)
}

// The author's own second figure stands in the table as it was written, though
// it is wrong: the proof says so, the table does not mend it in silence.
func TestTheAuthorsOwnSecondFigureStays(t *testing.T) {
	d := fixture.Copy(fixture.Document("renew-timing-belt-r3.latch.json"))
	x := engine.NewIndex(&d.Engine)
	for i := range d.Procedure.Steps {
		a, ok := d.Procedure.Steps[i].Action.(*step.Tighten)
		if !ok || !slices.Contains(a.Fasteners, "tensioner-bolt") || len(a.Stages) == 0 {
			continue
		}
		q, err := unit.Parse("20 N·m (16.2 lbf·ft)")
		require.NoError(t, err)
		a.Stages = []engine.Stage{{Torque: q}}
		p := document.Of(x, &d.Procedure)
		k := slices.IndexFunc(p.Torque, func(l document.Torque) bool { return l.Step == i+1 })
		require.GreaterOrEqual(t, k, 0)
		assert.Equal(t, "20 N·m", p.Torque[k].Value)
		assert.Equal(t, "16.2 lbf·ft", p.Torque[k].Other)
		return
	}
	t.Fatal("the page tightens no tensioner bolt")
}

// Every special tool that a step uses is on the list once, with its steps in
// their order; those named before the first step are there too.
func TestToolsAndParts(t *testing.T) {
	for _, f := range fixture.Documents() {
		t.Run(f, func(t *testing.T) {
			x, d, p := laid(f)
			seen := map[string]bool{}
			for _, l := range p.Tools {
				assert.False(t, seen[l.Number], "%s twice", l.Number)
				seen[l.Number] = true
				assert.True(t, slices.IsSorted(l.Steps))
				for _, n := range l.Steps {
					assert.True(t, n >= 1 && n <= len(d.Procedure.Steps))
				}
			}
			for i := range d.Procedure.Steps {
				for _, id := range d.Procedure.Steps[i].ToolsUsed(x) {
					assert.True(t, seen[x.Tool(id).Number], "step %d uses %s", i+1, id)
				}
			}
			for _, id := range d.Procedure.Prelims.Tools {
				assert.True(t, seen[x.Tool(id).Number], "%s is named before the first step", id)
			}
			names := map[string]bool{}
			for _, q := range p.Parts {
				assert.False(t, names[q.Name], "%s twice", q.Name)
				names[q.Name] = true
				assert.Positive(t, q.Count)
				assert.NotEmpty(t, q.Why)
			}
			for i := range d.Procedure.Steps {
				if a, ok := d.Procedure.Steps[i].Action.(*step.Renew); ok {
					for _, id := range a.Fasteners {
						assert.True(t, names[x.Fastener(id).Name], "step %d renews %s", i+1, id)
					}
				}
			}
		})
	}
}

// A belt that is laid new is among the new parts, whether or not the sheet lists it
// as a part.
func TestANewBeltIsANewPart(t *testing.T) {
	for _, listed := range []bool{true, false} {
		d := fixture.Document("renew-timing-belt-r3.latch.json")
		if !listed {
			d.Engine.Loops[0].Part = ""
		}
		p := document.Of(engine.NewIndex(&d.Engine), &d.Procedure)
		assert.True(t, slices.ContainsFunc(p.Parts, func(q document.Part) bool { return q.Name == "timing belt" }), "listed as a part: %v", listed)
	}
}

// The drive is drawn where most locks are in, which is where the page locks it.
func TestHeldIsWhereThePageLocks(t *testing.T) {
	x, d, _ := laid("renew-timing-belt-r3.latch.json")
	tr := virtual.Run(x, &d.Procedure)
	held := document.Held(x, tr)
	in := 0
	for k, l := range held.Locks {
		if l.In && x.Sheet.Locks[k].Kind.ForPosition() {
			in++
		}
	}
	assert.Equal(t, 2, in, "the crank pin and the cam bar; the flywheel lock gives no position")
	empty := virtual.Run(x, &procedureOf{})
	assert.Equal(t, &empty.First, document.Held(x, empty), "a page without a step is drawn as it is found")
}

type procedureOf struct{}

func (*procedureOf) Len() int                  { return 0 }
func (*procedureOf) Act(int, *virtual.Machine) {}
func (*procedureOf) Holds(int) []engine.LockID { return nil }

// A way for when a step fails, both ends of a page and the numbers of its parts are
// on the page as it is laid out.
func TestWaysEndsAndNumbersAreLaidOut(t *testing.T) {
	_, d, p := laid("renew-belts-at-rest-r1.latch.json")
	var lines []document.Step
	for _, ph := range p.Phases {
		lines = append(lines, ph.Steps...)
	}
	require.Len(t, lines, len(d.Procedure.Steps))
	var ways []document.Step
	for i, l := range lines {
		assert.Equal(t, i+1, l.Number)
		if l.Fails > 0 {
			ways = append(ways, l)
		}
	}
	require.Len(t, ways, 2)
	assert.True(t, strings.HasPrefix(ways[0].Text, "If not: "), ways[0].Text)
	assert.Equal(t, lines[ways[0].Fails-1].Number, ways[1].Fails, "both are for the same step")
	assert.Empty(t, ways[0].Back)
	assert.Equal(t, "then go on from step 30, twice at most", ways[1].Back)
	k := slices.IndexFunc(p.Parts, func(q document.Part) bool { return q.Name == "timing belt" })
	require.GreaterOrEqual(t, k, 0)
	assert.Equal(t, "40-1180, for 20-0398", p.Parts[k].Number)
	assert.Equal(t, "1200 h or 4 years", p.Parts[k].Every)
	assert.Empty(t, p.Begins+p.Ends, "a whole job says nothing of its ends")

	_, _, open := laid("open-timing-drive-r1.latch.json")
	_, _, shut := laid("close-timing-drive-r1.latch.json")
	assert.Empty(t, open.Begins+shut.Ends)
	assert.Equal(t, open.Ends, shut.Begins)
	assert.Contains(t, open.Ends, "in: crank pin, cam bar")
}

// With a tightening stand the state of its threads and where its bolts sit, with a wait
// the time at which it is over.
func TestThreadsFiguresAndWaits(t *testing.T) {
	d := fixture.Document("renew-timing-chain-r1.latch.json")
	p := document.Of(engine.NewIndex(&d.Engine), &d.Procedure)
	conditions, figures := map[string]int{}, 0
	for _, ph := range p.Phases {
		for _, s := range ph.Steps {
			if s.Condition != "" {
				conditions[s.Condition]++
			}
			for _, f := range s.Figures {
				figures++
				assert.Equal(t, "chain cover bolts", f.Name)
				assert.Len(t, f.Places, 16)
			}
		}
	}
	assert.Equal(t, map[string]int{"Thread oiled.": 1}, conditions)
	assert.Equal(t, 1, figures)
	d = fixture.Document("renew-belt-both-banks-r1.latch.json")
	waits := 0
	for _, ph := range document.Of(engine.NewIndex(&d.Engine), &d.Procedure).Phases {
		for _, s := range ph.Steps {
			if strings.HasPrefix(s.Text, "Wait") {
				waits++
				assert.Equal(t, "o’clock", s.Reading)
			}
		}
	}
	assert.Equal(t, 1, waits)
}
