package readstate_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/readstate"
	"inklatch/internal/core/unit"
)

const belt = "renew-timing-belt-r3.latch.json"

var latches = []latch.Latch{latch.ByAuthor, latch.ByTechnical, latch.ByEditorial, latch.ByBench}

func now() readstate.State {
	d := fixture.Document(belt)
	return readstate.State{Index: engine.NewIndex(&d.Engine), Procedure: &d.Procedure}
}

// with is the state with its page changed by f.
func with(s readstate.State, f func(*procedure.Procedure)) readstate.State {
	p := &procedure.Procedure{Header: s.Procedure.Header, Steps: slices.Clone(s.Procedure.Steps)}
	f(p)
	return readstate.State{Index: s.Index, Procedure: p, Gone: s.Gone}
}

func ids(us []readstate.Unread) []step.ID {
	out := []step.ID{}
	for i := range us {
		out = append(out, us[i].Step)
	}
	return out
}

// whole is a page of which everything has been read.
func whole(s readstate.State) *readstate.Page {
	p := &readstate.Page{}
	p.Mark(s, ids(p.Unread(s))...)
	return p
}

// An edit makes just its step unread again, for those whose latch it weighs on.
func TestAnEditMakesJustItsStepUnread(t *testing.T) {
	all := func(yes ...latch.Latch) map[latch.Latch]bool {
		out := map[latch.Latch]bool{}
		for _, l := range yes {
			out[l] = true
		}
		return out
	}
	for _, c := range []struct {
		name   string
		change func(*procedure.Procedure)
		step   int
		why    readstate.Why
		opens  map[latch.Latch]bool
	}{
		{"a value", func(p *procedure.Procedure) { p.Steps[4].Action = &step.Wait{For: unit.Of(3, unit.Minute)} }, 4, readstate.Again, all(latches...)},
		{"wording", func(p *procedure.Procedure) { p.Steps[4].Wording = "Look." }, 4, readstate.Again, all(latch.ByAuthor, latch.ByEditorial)},
		{"a note", func(p *procedure.Procedure) { p.Steps[4].Note = "Mind the clip." }, 4, readstate.Again, all(latch.ByAuthor, latch.ByEditorial)},
		{"a caution", func(p *procedure.Procedure) { p.Steps[4].Cautions = []step.Caution{{Text: "Hot."}} }, 4, readstate.Again, all(latches...)},
		{"a place", func(p *procedure.Procedure) {
			s := p.Steps[4]
			p.Steps = slices.Insert(slices.Delete(p.Steps, 4, 5), 9, s)
		}, 4, readstate.Again, all(latch.ByAuthor, latch.ByTechnical, latch.ByBench)},
		{"a step gone", func(p *procedure.Procedure) { p.Steps = slices.Delete(p.Steps, 4, 5) }, 4, readstate.Gone, all(latches...)},
	} {
		s := now()
		p, moved := whole(s), with(s, c.change)
		left := p.Unread(moved)
		require.Len(t, left, 1, c.name)
		assert.Equal(t, s.Procedure.Steps[c.step].ID, left[0].Step, c.name)
		assert.Equal(t, c.why, left[0].Why, c.name)
		for _, l := range latches {
			assert.Equal(t, c.opens[l], left[0].For(l), "%s: %s", c.name, l)
		}
		p.Mark(moved, left[0].Step)
		assert.Empty(t, p.Unread(moved), c.name)
	}
}

func TestAHeaderIsReadOnItsOwn(t *testing.T) {
	s := now()
	p := whole(s)
	titled := with(s, func(p *procedure.Procedure) { p.Title = "Renew the belt" })
	left := p.Unread(titled)
	require.Equal(t, []step.ID{readstate.Head}, ids(left))
	assert.False(t, left[0].For(latch.ByTechnical), "a title is wording")
	p.Forget(readstate.Head)
	left = p.Unread(titled)
	require.Equal(t, []step.ID{readstate.Head}, ids(left))
	assert.True(t, left[0].For(latch.ByTechnical), "a header that was never read")
}

// What only the engine sheet says is read with the step.
func TestAnotherSheetIsReadAgain(t *testing.T) {
	d := fixture.Document(belt)
	s := readstate.State{Index: engine.NewIndex(&d.Engine), Procedure: &d.Procedure}
	p := whole(s)
	var of step.ID
	for i := range d.Procedure.Steps {
		if _, ok := d.Procedure.Steps[i].Action.(*step.Tighten); ok {
			of = d.Procedure.Steps[i].ID
		}
	}
	sheet := fixture.Document(belt).Engine
	for i := range sheet.Fasteners {
		sheet.Fasteners[i].Name += " of steel"
	}
	next := readstate.State{Index: engine.NewIndex(&sheet), Procedure: &d.Procedure}
	left := p.Unread(next)
	assert.Contains(t, ids(left), of)
	for i := range left {
		assert.True(t, left[i].For(latch.ByBench))
	}
	p.Mark(next, ids(left)...)
	assert.Empty(t, p.Unread(next))
}

// A step of the release before that the draft has no more is there to be read,
// and unread again when it comes back and goes.
func TestWhatIsGoneIsRead(t *testing.T) {
	s := now()
	gone := s.Procedure.Steps[7]
	without := with(s, func(p *procedure.Procedure) { p.Steps = slices.Delete(p.Steps, 7, 8) })
	without.Gone = []step.ID{gone.ID}
	p := whole(without)
	assert.Empty(t, p.Unread(without))
	assert.Equal(t, []step.ID{gone.ID}, ids(p.Unread(s)), "it is back")
	p.Mark(s, gone.ID)
	assert.Equal(t, []step.ID{gone.ID}, ids(p.Unread(without)))
}

func TestAPageIsWrittenAndReadBack(t *testing.T) {
	for _, f := range []string{belt, "renew-belts-at-rest-r1.latch.json", "renew-both-belts-r1.latch.json"} {
		d := fixture.Document(f)
		s := readstate.State{Index: engine.NewIndex(&d.Engine), Procedure: &d.Procedure}
		p := whole(s)
		back, err := readstate.Decode(p.Encode())
		require.NoError(t, err)
		assert.Empty(t, back.Unread(s), f)
		c := readstate.Content{Procedure: s.Procedure, Sheet: 3}
		over, err := readstate.DecodeContent(c.Encode())
		require.NoError(t, err)
		for _, l := range latches {
			assert.Empty(t, over.Differs(l, s.Procedure, 3), f)
			assert.NotEmpty(t, over.Differs(l, s.Procedure, 4), "another sheet")
		}
		assert.Len(t, c.Sums(nil), len(s.Procedure.Steps)+1)
	}
	empty, err := readstate.Decode("")
	require.NoError(t, err)
	assert.Len(t, empty.Unread(now()), len(now().Procedure.Steps)+1)
	_, err = readstate.Decode("{")
	assert.Error(t, err)
	_, err = readstate.DecodeContent("[]")
	assert.Error(t, err)
}

// However a page is edited: what is unread is what the latches weigh, marking one
// thing leaves one less, and once all is read the page as read is the page.
func TestReadingByProperty(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := now()
		p := whole(s)
		for i := range rapid.IntRange(1, 8).Draw(t, "edits") {
			s = with(s, func(q *procedure.Procedure) { stir(t, q, i) })
			if rapid.Bool().Draw(t, "reads some") {
				left := ids(p.Unread(s))
				if len(left) > 0 {
					p.Mark(s, left[rapid.IntRange(0, len(left)-1).Draw(t, "which")])
				}
			}
		}
		for _, l := range latches {
			weighs := slices.ContainsFunc(latch.Changes(p.Procedure(s.Procedure), s.Procedure), func(c latch.Change) bool { return slices.Contains(latch.Opens(c.Weight), l) })
			require.Equal(t, weighs, len(readstate.Left(p.Unread(s), l)) > 0, "%s", l)
		}
		for left := p.Unread(s); len(left) > 0; {
			at := rapid.IntRange(0, len(left)-1).Draw(t, "next")
			p.Mark(s, left[at].Step)
			after := p.Unread(s)
			require.Less(t, len(after), len(left), "marking %q leaves one less", left[at].Step)
			left = after
		}
		require.Empty(t, latch.Changes(p.Procedure(s.Procedure), s.Procedure))
	})
}

// stir makes one edit of any kind.
func stir(t *rapid.T, p *procedure.Procedure, n int) {
	at := rapid.IntRange(0, len(p.Steps)-1).Draw(t, "at")
	switch rapid.IntRange(0, 5).Draw(t, "kind") {
	case 0:
		p.Steps[at].Note = fmt.Sprint("note ", n)
	case 1:
		p.Steps[at].Action = &step.Wait{For: unit.Of(float64(n+1), unit.Minute)}
	case 2:
		p.Steps = slices.Insert(p.Steps, at, step.Step{ID: step.ID(fmt.Sprint("new", n)), Phase: p.Steps[at].Phase, Action: &step.Do{Text: "look"}})
	case 3:
		if len(p.Steps) > 2 {
			p.Steps = slices.Delete(p.Steps, at, at+1)
		}
	case 4:
		s := p.Steps[at]
		p.Steps = slices.Delete(p.Steps, at, at+1)
		p.Steps = slices.Insert(p.Steps, rapid.IntRange(0, len(p.Steps)).Draw(t, "to"), s)
	case 5:
		p.Purpose = fmt.Sprint("purpose ", n)
	}
}

func BenchmarkUnread400(b *testing.B) {
	s := now()
	s = with(s, func(p *procedure.Procedure) {
		for len(p.Steps) < 400 {
			q := p.Steps[len(p.Steps)%60]
			q.ID = step.ID(fmt.Sprint("more", len(p.Steps)))
			p.Steps = append(p.Steps, q)
		}
	})
	text := whole(s).Encode()
	for b.Loop() {
		p, err := readstate.Decode(text)
		if err != nil {
			b.Fatal(err)
		}
		if len(p.Unread(s)) != 0 {
			b.Fatal("something is unread")
		}
	}
}

// What a latch was closed over differs from a page exactly where somebody who had read
// all of it then has something to read that weighs on that latch now.
func TestALatchDiffersWhereItsReaderHasToReadAgain(t *testing.T) {
	s := now()
	over := &readstate.Content{Procedure: s.Procedure, Sheet: 3}
	read := whole(s)
	rapid.Check(t, func(r *rapid.T) {
		n := with(s, func(p *procedure.Procedure) {
			for i := range rapid.IntRange(0, 5).Draw(r, "edits") {
				at := rapid.IntRange(0, len(p.Steps)-1).Draw(r, "at")
				switch rapid.IntRange(0, 6).Draw(r, "edit") {
				case 0:
					p.Steps[at].Note = rapid.SampledFrom([]string{"Mind the clip.", ""}).Draw(r, "note")
				case 1:
					p.Steps[at].Action = &step.Wait{For: unit.Of(float64(i+1), unit.Minute)}
				case 2:
					p.Steps = slices.Delete(p.Steps, at, at+1)
				case 3:
					p.Steps = slices.Insert(p.Steps, at, step.Step{ID: step.ID(fmt.Sprint("n", i)), Phase: "fit", Action: &step.Do{Text: "look"}})
				case 4:
					to := rapid.IntRange(0, len(p.Steps)-1).Draw(r, "to")
					s := p.Steps[at]
					p.Steps = slices.Insert(slices.Delete(p.Steps, at, at+1), to, s)
				case 5:
					p.Title = rapid.SampledFrom([]string{"Another", s.Procedure.Title}).Draw(r, "title")
				case 6:
					p.Steps[at].Cautions = append(slices.Clone(p.Steps[at].Cautions), step.Caution{Text: "Hot."})
				}
			}
		})
		left := read.Unread(n)
		for _, l := range latches {
			says := over.Differs(l, n.Procedure, 3)
			weighs := slices.ContainsFunc(left, func(u readstate.Unread) bool { return u.For(l) })
			require.Equal(r, weighs, says != "", "the %s latch: %q, unread %v", l, says, ids(left))
		}
		require.Equal(r, "the engine sheet", over.Differs(latch.ByAuthor, n.Procedure, 4))
	})
	n := with(s, func(p *procedure.Procedure) {
		p.Title = "Another"
		p.Steps[2].Note = "Mind."
		p.Steps = slices.Delete(p.Steps, 6, 7)
	})
	assert.Equal(t, "the header, a step that is gone, the earlier 7, step 3", over.Differs(latch.ByEditorial, n.Procedure, 3))
}

// How each thing came to be read is kept with it, goes with it when it is unread again,
// and stands in what a latch is closed over.
func TestHowItWasReadIsKept(t *testing.T) {
	s := now()
	p := &readstate.Page{}
	assert.True(t, p.Last().IsZero(), "nobody has read anything")
	all := ids(p.Unread(s))
	start := time.Date(2026, 11, 30, 8, 0, 0, 0, time.UTC)
	hows := []readstate.How{readstate.Said, readstate.Stood, readstate.Wrote}
	for i, id := range all {
		p.MarkAs(s, readstate.Mark{How: hows[i%3], At: start.Add(time.Duration(i) * time.Second)}, id)
	}
	assert.Empty(t, p.Unread(s))
	assert.Equal(t, start.Add(time.Duration(len(all)-1)*time.Second), p.Last())

	again, err := readstate.Decode(p.Encode())
	require.NoError(t, err)
	assert.Equal(t, p.Marks, again.Marks, "it is kept with the page")
	over := readstate.Content{Procedure: s.Procedure}
	count := map[readstate.How]int{}
	for _, v := range over.Sums(again) {
		count[v.Read]++
	}
	for i, how := range hows {
		assert.Equal(t, (len(all)+2-i)/3, count[how], how)
	}
	for _, v := range over.Sums(nil) {
		assert.Empty(t, v.Read, "an older reading says nothing of it")
	}

	p.Forget(all[0], all[1])
	assert.NotContains(t, p.Marks, all[0])
	assert.Len(t, p.Unread(s), 2)
	p.MarkAs(s, readstate.Mark{How: readstate.Said, At: start}, all[0])
	assert.Equal(t, readstate.Said, p.Marks[all[0]].How)
	assert.Len(t, p.Unread(s), 1)
}

// Page and lines are the page: whatever is marked and forgotten, one thing or many, what
// was written whole and a line for each change is read back as the page that was changed.
func TestLinesAfterAPage(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	rapid.Check(t, func(t *rapid.T) {
		p := &procedure.Procedure{Header: d.Procedure.Header, Steps: slices.Clone(d.Procedure.Steps[:12])}
		now := readstate.State{Index: x, Procedure: p, Memo: &readstate.Memo{}}
		page := &readstate.Page{}
		kept := page.Encode()
		for range rapid.IntRange(1, 25).Draw(t, "changes") {
			var ids []step.ID
			for range rapid.IntRange(1, 4).Draw(t, "things") {
				ids = append(ids, rapid.SampledFrom(append([]step.ID{readstate.Head, "taken out"}, idsOf(p)...)).Draw(t, "thing"))
			}
			switch rapid.IntRange(0, 4).Draw(t, "what") {
			case 0:
				page.Forget(ids...)
			case 1: // somebody moves a step, and whoever reads reads it there
				from, to := rapid.IntRange(0, len(p.Steps)-1).Draw(t, "from"), rapid.IntRange(0, len(p.Steps)-1).Draw(t, "to")
				s := p.Steps[from]
				p.Steps = slices.Insert(slices.Delete(slices.Clone(p.Steps), from, from+1), min(to, len(p.Steps)-1), s)
				ids = []step.ID{s.ID}
				page.MarkAs(now, readstate.Mark{How: readstate.Wrote, At: time.Unix(7, 0).UTC()}, ids...)
			default:
				page.MarkAs(now, readstate.Mark{How: readstate.Said, At: time.Unix(9, 0).UTC()}, ids...)
			}
			was, err := readstate.Decode(kept)
			require.NoError(t, err)
			stays := was.Encode()
			more := page.Patch(ids...)
			kept += "\n" + more
			got, err := readstate.Decode(kept)
			require.NoError(t, err)
			// One more line on what was decoded before is the same, and leaves that alone.
			with, err := was.With(more)
			require.NoError(t, err)
			require.Equal(t, got.Encode(), with.Encode())
			require.Equal(t, stays, was.Encode())
			require.Equal(t, page.Encode(), got.Encode())
			require.Equal(t, page.Unread(now), got.Unread(now))
			page = got
		}
	})
	_, err := readstate.Decode("{}\nno line")
	assert.ErrorContains(t, err, "since")
}

func idsOf(p *procedure.Procedure) []step.ID {
	var out []step.ID
	for i := range p.Steps {
		out = append(out, p.Steps[i].ID)
	}
	return out
}
