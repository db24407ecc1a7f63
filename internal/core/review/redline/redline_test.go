package redline_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/core/unit"
)

// state is a page of the demo, one of its own with each call.
func state(file string) redline.State {
	d := fixture.Document(file)
	return redline.State{Index: engine.NewIndex(&d.Engine), Procedure: &d.Procedure}
}

const belt = "renew-timing-belt-r3.latch.json"

// other is the state with its steps and header changed by f.
func other(s redline.State, f func(*procedure.Procedure)) redline.State {
	p := &procedure.Procedure{Header: s.Procedure.Header, Steps: slices.Clone(s.Procedure.Steps)}
	f(p)
	return redline.State{Index: s.Index, Procedure: p}
}

func row(r *redline.Redline, id step.ID) redline.Row {
	i := slices.IndexFunc(r.Rows, func(w redline.Row) bool { return w.Step == id })
	if i < 0 {
		return redline.Row{}
	}
	return r.Rows[i]
}

// What one reads of a page is all of it: what the header says, and what stands at
// each step beside its sentence.
func TestAllOfAPageIsThereToBeRead(t *testing.T) {
	for _, f := range fixture.Documents() {
		s := state(f)
		head := redline.Heading(s)
		require.NotEmpty(t, head)
		assert.Equal(t, redline.Said{What: "title", Text: s.Procedure.Title}, head[0])
		if len(s.Procedure.Prelims.Conditions) > 0 {
			assert.True(t, slices.ContainsFunc(head, func(h redline.Said) bool { return strings.Contains(h.Text, s.Procedure.Prelims.Conditions[0]) }), f)
		}
		r := redline.Between(s, s)
		for i, w := range r.Rows {
			p := &s.Procedure.Steps[i]
			require.Len(t, w.Cautions, len(p.Cautions))
			for _, want := range []string{p.Note} {
				assert.True(t, want == "" || slices.ContainsFunc(w.Beside, func(b redline.Said) bool { return b.Text == want }), "%s %s: %s", f, p.ID, want)
			}
			if a, ok := p.Action.(*step.Tighten); ok && len(a.By) > 0 {
				assert.True(t, slices.ContainsFunc(w.Beside, func(b redline.Said) bool { return b.What == "by case" && b.Text != "" }), "%s %s", f, p.ID)
			}
		}
	}
}

// A header's every part that can be weighed can be read.
func TestEveryPartOfAHeaderIsRead(t *testing.T) {
	s := state(belt)
	changed := other(s, func(p *procedure.Procedure) {
		p.Engine, p.Title, p.Purpose, p.After = "X", "x", "y", "z"
		p.Applies.Note = "only some"
		p.Prelims.Conditions, p.Prelims.People, p.Prelims.Time = []string{"cold"}, "two", unit.Of(2, unit.Minute)
		p.Prelims.Supplies, p.Prelims.Tools = []string{"oil"}, []engine.ToolID{"none"}
		p.Task.Checks = true
	})
	heads := redline.Heading(changed)
	for _, c := range latch.Changes(s.Procedure, changed.Procedure) {
		if c.Kind == latch.Headed {
			assert.True(t, slices.ContainsFunc(heads, func(h redline.Said) bool { return h.What == c.What }), c.What)
		}
	}
}

func TestNothingLiesBetweenEqualPages(t *testing.T) {
	for _, f := range fixture.Documents() {
		r := redline.Between(state(f), state(f))
		assert.True(t, r.Empty(), f)
		assert.Empty(t, r.Edits(), f)
		assert.Empty(t, r.Counted, f)
		assert.Len(t, r.Rows, len(state(f).Procedure.Steps), f)
	}
}

func at(p *procedure.Procedure, words string) int {
	x := engine.NewIndex(&fixture.Document(belt).Engine)
	return slices.IndexFunc(p.Steps, func(s step.Step) bool { return strings.HasPrefix(en.Full(x, &s), words) })
}

// Pairs made by hand: what was done to the page, and what the redline says of it.
func TestWhatWasDone(t *testing.T) {
	was := state(belt)
	p := was.Procedure
	mount := p.Steps[at(p, "Remove the engine mount")].ID
	bolt := at(p, "Tighten the idler bolt")
	require.Positive(t, bolt)

	r := redline.Between(was, other(was, func(p *procedure.Procedure) {
		a := *p.Steps[bolt].Action.(*step.Tighten)
		a.Stages = []engine.Stage{{Torque: unit.Quantity{}}}
		q, err := unit.Parse("45 N·m")
		require.NoError(t, err)
		a.Stages[0].Torque = q
		p.Steps[bolt].Action = &a
		p.Steps[bolt].Note = "Oil the thread."
	}))
	w := row(r, p.Steps[bolt].ID)
	assert.Equal(t, redline.Changed, w.Kind)
	assert.Equal(t, []string{"what it does", "note"}, []string{w.Parts[0].What, w.Parts[1].What}, "changes of one step are told apart")
	assert.Equal(t, "2 values", r.Counted, "a note at a bolt is a value")
	assert.Equal(t, redline.Gravest, w.Risk)
	assert.Contains(t, fmt.Sprint(w.Words), "39")
	assert.Contains(t, fmt.Sprint(w.Words), "45")

	r = redline.Between(was, other(was, func(p *procedure.Procedure) {
		i := p.At(mount)
		s := p.Steps[i]
		s.Phase = p.Steps[i+3].Phase
		p.Steps = slices.Insert(slices.Delete(p.Steps, i, i+1), i+3, s)
	}))
	n := 0
	for _, w := range r.Rows {
		if w.Kind == redline.Moved {
			n++
			assert.Equal(t, mount, w.Step)
			assert.NotEqual(t, w.Was, w.Now)
		}
		assert.NotContains(t, []redline.Kind{redline.New, redline.Gone}, w.Kind, "a moved step is neither new nor gone")
	}
	assert.Equal(t, 1, n, "one step was moved, and the others were passed by")

	// A step of two bolts becomes two of one, and the other way round.
	two := at(p, "Slacken the inlet sprocket bolt and the exhaust sprocket bolt")
	require.Positive(t, two)
	apart := other(was, func(p *procedure.Procedure) {
		a, b := *p.Steps[two].Action.(*step.Slacken), *p.Steps[two].Action.(*step.Slacken)
		a.Fasteners, b.Fasteners = a.Fasteners[:1:1], b.Fasteners[1:]
		one, next := p.Steps[two], p.Steps[two]
		one.ID, one.Action, next.ID, next.Action = "n1", &a, "n2", &b
		p.Steps = slices.Replace(p.Steps, two, two+1, one, next)
	})
	for as, r := range map[redline.Kind]*redline.Redline{redline.Split: redline.Between(was, apart), redline.Joined: redline.Between(apart, was)} {
		for _, id := range []step.ID{p.Steps[two].ID, "n1", "n2"} {
			assert.Equal(t, as, row(r, id).Kind, "%s", id)
			assert.NotEmpty(t, row(r, id).Of)
		}
	}

	r = redline.Between(was, other(was, func(p *procedure.Procedure) {
		p.Steps = slices.Delete(p.Steps, at(p, "Fit the new timing belt"), at(p, "Fit the new timing belt")+1)
		p.Title = "Renew the belt"
	}))
	assert.Equal(t, "title", r.Header[0].What)
	assert.True(t, slices.ContainsFunc(r.Lists, func(p redline.Part) bool { return p.What == "new part timing belt" && p.After == "" }), "%v", r.Lists)

	d := fixture.Document(belt)
	d.Engine.Wheels[0].Teeth = 22
	r = redline.Between(was, redline.State{Index: engine.NewIndex(&d.Engine), Procedure: was.Procedure})
	require.Len(t, r.Sheet, 1)
	assert.Equal(t, []string{"crank wheel: teeth", "21", "22"}, []string{r.Sheet[0].What, r.Sheet[0].Before, r.Sheet[0].After})
	assert.False(t, r.Empty(), "the page stands on other values")
}

// Files that were written apart share ids by chance: what does the same is the same
// step, whatever it is called.
func TestIdsByChance(t *testing.T) {
	was, now := state(belt), state("renew-timing-belt-r4.latch.json")
	r := redline.Between(was, now)
	same := 0
	for _, w := range r.Rows {
		if w.Kind == redline.Same {
			same++
		}
	}
	assert.Greater(t, same, 50, "most of the page is the same")
	for _, w := range r.Rows {
		assert.Less(t, len(w.Parts), 4, "step %d to %d", w.Was, w.Now)
	}
	shuffled := other(was, func(p *procedure.Procedure) {
		for i := range p.Steps {
			p.Steps[i].ID = step.ID(fmt.Sprintf("x%d", len(p.Steps)-i))
		}
	})
	r = redline.Between(was, shuffled)
	for _, w := range r.Rows {
		assert.Equal(t, redline.Same, w.Kind, w.After)
	}
}

// Applied to the earlier state, the edits of a redline give the later one; drawn
// again from there, nothing is left; the moves are the fewest there can be.
func TestTheEditsLeadThere(t *testing.T) {
	all := fixture.Documents()
	rapid.Check(t, func(t *rapid.T) {
		was := state(rapid.SampledFrom(all).Draw(t, "page"))
		now := other(was, func(p *procedure.Procedure) {
			for n := range rapid.IntRange(0, 12).Draw(t, "changes") {
				i := rapid.IntRange(0, len(p.Steps)-1).Draw(t, "at")
				switch rapid.IntRange(0, 5).Draw(t, "what") {
				case 0:
					p.Steps = slices.Delete(p.Steps, i, i+1)
				case 1:
					s := p.Steps[i]
					s.ID = step.ID(fmt.Sprintf("new-%d", n))
					p.Steps = slices.Insert(p.Steps, rapid.IntRange(0, len(p.Steps)).Draw(t, "to"), s)
				case 2:
					s := p.Steps[i]
					p.Steps = slices.Delete(p.Steps, i, i+1)
					p.Steps = slices.Insert(p.Steps, rapid.IntRange(0, len(p.Steps)).Draw(t, "to"), s)
				case 3:
					p.Steps[i].Note = rapid.StringMatching("[a-z ]{0,12}").Draw(t, "note")
				case 4:
					p.Steps[i].Phase = rapid.SampledFrom(step.Phases).Draw(t, "phase").Phase
				case 5:
					p.Title += "!"
				}
				if len(p.Steps) == 0 {
					return
				}
			}
		})
		r := redline.Between(was, now)
		got, _, err := procedure.Apply(was.Procedure, r.Edits())
		require.NoError(t, err)
		want, err := json.Marshal(now.Procedure)
		require.NoError(t, err)
		have, err := json.Marshal(got)
		require.NoError(t, err)
		require.JSONEq(t, string(want), string(have))
		require.True(t, redline.Between(redline.State{Index: was.Index, Procedure: got}, now).Empty())

		// Every step of both stands in the redline once, those there now in their order.
		last := 0
		seen := map[step.ID]bool{}
		moves := 0
		for _, w := range r.Rows {
			require.False(t, seen[w.Step])
			seen[w.Step] = true
			if w.Now > 0 {
				require.Equal(t, last+1, w.Now)
				last = w.Now
			}
			if w.Was > 0 && w.Now > 0 && slices.ContainsFunc(w.Parts, func(p redline.Part) bool { return p.What == "place" && p.Before == p.After }) {
				moves++
			}
		}
		require.Len(t, now.Procedure.Steps, last)
		require.LessOrEqual(t, moves, fewest(r.Rows))
	})
}

// fewest is how many steps of both stay behind a longest run in the same order, by
// the quadratic way of finding it.
func fewest(rows []redline.Row) int {
	var order []int
	for _, w := range rows {
		if w.Was > 0 && w.Now > 0 {
			order = append(order, w.Was)
		}
	}
	best, long := make([]int, len(order)), 0
	for i := range order {
		best[i] = 1
		for k := range i {
			if order[k] < order[i] {
				best[i] = max(best[i], best[k]+1)
			}
		}
		long = max(long, best[i])
	}
	return len(order) - long
}

// The words of a redline are both sentences: with what went out left away the later,
// with what came in left away the earlier.
func TestWordsAreBothSentences(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		one := rapid.SliceOfN(rapid.SampledFrom(strings.Fields("tighten the idler bolt to 39 N·m and 90 degrees")), 0, 12)
		a, b := strings.Join(one.Draw(t, "before"), " "), strings.Join(one.Draw(t, "after"), " ")
		var was, now []string
		for _, w := range redline.Words(a, b) {
			if w.Is != redline.In {
				was = append(was, w.Text)
			}
			if w.Is != redline.Out {
				now = append(now, w.Text)
			}
		}
		assert.Equal(t, a, strings.Join(was, " "))
		assert.Equal(t, b, strings.Join(now, " "))
	})
	assert.Equal(t, []redline.Word{{Text: "turn the crank", Is: redline.Stays}, {Text: "2", Is: redline.Out}, {Text: "6", Is: redline.In}, {Text: "turns", Is: redline.Stays}}, redline.Words("turn the crank 2 turns", "turn the crank 6 turns"))
}

// A redline of two pages of 400 steps, every fifth changed and every ninth moved.
func BenchmarkBetween400(b *testing.B) {
	was := state(belt)
	long := other(was, func(p *procedure.Procedure) {
		for n := 0; len(p.Steps) < 400; n++ {
			s := p.Steps[n]
			s.ID += step.ID(fmt.Sprintf("-%d", n))
			p.Steps = append(p.Steps, s)
		}
	})
	now := other(long, func(p *procedure.Procedure) {
		for i := range p.Steps {
			if i%5 == 0 {
				p.Steps[i].Note += " Mind it."
			}
			if i%9 == 0 && i+20 < len(p.Steps) {
				p.Steps[i], p.Steps[i+20] = p.Steps[i+20], p.Steps[i]
			}
		}
	})
	for b.Loop() {
		redline.Between(long, now)
	}
}

// The list a printed sheet carries has a line for each change and none for what stayed.
func TestTheChangeListOfASheet(t *testing.T) {
	s := state(belt)
	assert.Empty(t, redline.Between(s, s).Lines())
	n := other(s, func(p *procedure.Procedure) {
		p.Title = "Renew the belt"
		p.Steps[3].Note = "Mind the clip."
		p.Steps = slices.Delete(p.Steps, 10, 11)
		moved := p.Steps[20]
		p.Steps = slices.Insert(slices.Delete(p.Steps, 20, 21), 30, moved)
		p.Steps = slices.Insert(p.Steps, 40, step.Step{ID: "new", Phase: "prove", Action: &step.Wait{For: unit.Of(5, unit.Minute)}})
	})
	r := redline.Between(s, n)
	lines := r.Lines()
	changed := 0
	for _, w := range r.Rows {
		if w.Kind != redline.Same {
			changed++
		}
	}
	require.Len(t, lines, len(r.Header)+changed+len(r.Sheet))
	said := strings.Join(lines, "\n")
	assert.Contains(t, said, "Above the steps: title")
	assert.Contains(t, said, "Step 4 changed: note")
	assert.Contains(t, said, "No longer (step 11 then): "+en.Full(s.Index, &s.Procedure.Steps[10]))
	assert.Contains(t, said, "Step 31 moved from 22")
	assert.Contains(t, said, "Step 41 new")
}
